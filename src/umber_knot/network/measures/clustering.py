"""How far what an item is tied to is tied among itself."""

from __future__ import annotations

from typing import Any

import numpy as np

from umber_knot.corpus.model import Floats
from umber_knot.network.measures._matrix import laid_out, undirected
from umber_knot.network.model import Network


def clustering(network: Network, weighted: bool = False) -> Floats:
    """Share of an item's neighbour pairs that are tied, shape (n,); 0 with fewer than two neighbours; directions, loops and
    parallel ties do not count (Watts & Strogatz 1998). Weighted after Barrat et al. (2004): a pair counts by the mean
    weight of the two ties to it, over s(k − 1)."""
    start, neighbour, weight = laid_out(undirected(network, weighted))
    k = np.diff(start).astype(np.float64)
    size = k if not weighted else np.bincount(np.repeat(np.arange(len(k)), np.diff(start)), weight, len(k))
    closed = _closed(start, neighbour, weight)
    return np.divide(closed, size * (k - 1), out=np.zeros(len(k)), where=(k > 1) & (size != 0))


def _closed(start: Any, neighbour: Any, weight: Floats) -> Floats:
    from umber_knot.network.measures._near import triangles

    closed = np.zeros(len(start) - 1)
    kernel: Any = triangles
    kernel(start, neighbour, weight, closed)
    return closed


def transitivity(network: Network) -> float:
    """Share of paths of two ties whose ends are tied, of the whole network; 0 without such paths."""
    start, neighbour, weight = laid_out(undirected(network, False))
    k = np.diff(start).astype(np.float64)
    paths = float((k * (k - 1)).sum())
    return float(_closed(start, neighbour, weight).sum()) / paths if paths else 0.0
