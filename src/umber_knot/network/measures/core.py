"""The core number: how deep in the network an item stands."""

from __future__ import annotations

import numpy as np

from umber_knot.corpus.model import Floats
from umber_knot.network.measures._matrix import undirected
from umber_knot.network.model import Network


def core_number(network: Network) -> Floats:
    """The greatest k such that an item is in a part whose items all have k ties inside it, shape (n,); directions, loops
    and parallel ties do not count (Seidman 1983)."""
    a = undirected(network, False)
    alive, degree = np.ones(len(network), np.bool_), np.diff(a.indptr).astype(np.int64)
    core, k = np.zeros(len(network)), 0
    while alive.any():
        k = max(k, int(degree[alive].min()))
        peeled = np.flatnonzero(alive & (degree <= k))
        while len(peeled):
            core[peeled] = k
            alive[peeled] = False
            lost = np.bincount(a[peeled].indices, minlength=len(core))
            degree -= lost
            near = np.flatnonzero(lost)
            peeled = near[alive[near] & (degree[near] <= k)]
    return core
