"""The core number: how deep in the network an item stands."""

from __future__ import annotations

from typing import Any

import numpy as np

from umber_knot.corpus.model import Floats
from umber_knot.network.measures._matrix import laid_out, undirected
from umber_knot.network.model import Network


def core_number(network: Network) -> Floats:
    """The greatest k such that an item is in a part whose items all have k ties inside it, shape (n,); directions, loops
    and parallel ties do not count (Seidman 1983)."""
    from umber_knot.network.measures._near import cores

    start, neighbour, _ = laid_out(undirected(network, False))
    core = np.zeros(len(network))
    kernel: Any = cores
    kernel(start, neighbour, core)
    return core
