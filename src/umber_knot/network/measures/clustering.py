"""How far what an item is tied to is tied among itself."""

from __future__ import annotations

import numpy as np

from umber_knot.corpus.model import Floats
from umber_knot.network.measures._matrix import undirected
from umber_knot.network.model import Network


def clustering(network: Network, weighted: bool = False) -> Floats:
    """Share of an item's neighbour pairs that are tied, shape (n,); 0 with fewer than two neighbours; directions, loops and
    parallel ties do not count (Watts & Strogatz 1998). Weighted after Barrat et al. (2004): a pair counts by the mean
    weight of the two ties to it, over s(k − 1)."""
    a = undirected(network, False)
    k = np.asarray(a.sum(axis=1)).ravel()
    closed = (a @ a).multiply(a)
    if not weighted:
        twice = np.asarray(closed.sum(axis=1)).ravel()
        return np.divide(twice, k * (k - 1), out=np.zeros(len(k)), where=k > 1)
    w = undirected(network, True)
    s = np.asarray(w.sum(axis=1)).ravel()
    twice = np.asarray(closed.multiply(w).sum(axis=1)).ravel()
    return np.divide(twice, s * (k - 1), out=np.zeros(len(k)), where=(k > 1) & (s != 0))


def transitivity(network: Network) -> float:
    """Share of paths of two ties whose ends are tied, of the whole network; 0 without such paths."""
    a = undirected(network, False)
    k = np.asarray(a.sum(axis=1)).ravel()
    paths = float((k * (k - 1)).sum())
    return float((a @ a).multiply(a).sum()) / paths if paths else 0.0
