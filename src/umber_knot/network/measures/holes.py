"""Structural holes: how far an item's ties lead to others that are tied anyway (Burt 1992)."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from typing import Any

import numpy as np

from umber_knot.corpus.model import Floats, Ints
from umber_knot.network.measures._matrix import Sparse, laid_out, undirected
from umber_knot.network.model import Network


def _shares(network: Network, weighted: bool) -> tuple[Sparse, Sparse]:
    """(ties both ways added, the share each has of its item's)."""
    if network.directed:
        a = network.simple("kept").csr("out")
        if not weighted:
            a.data = np.ones(len(a.data))
        w = (a + a.T).tocsr()
    else:
        w = undirected(network, weighted)
    total = np.asarray(w.sum(axis=1)).ravel()
    return w, w.multiply(np.divide(1.0, total, out=np.zeros(len(total)), where=total > 0)[:, None]).tocsr()


def _both(network: Network, weighted: bool) -> tuple[Floats, Floats, Ints]:
    """(constraint, redundancy, ties) of every item; two threads take every other one."""
    from umber_knot.network.measures._near import holes

    w, p = _shares(network, weighted)
    start, neighbour, weight = laid_out(w)
    share = laid_out(p)[2]
    row = np.repeat(np.arange(len(network)), np.diff(start))
    heaviest = np.zeros(len(network))
    np.maximum.at(heaviest, row, weight)
    scaled = np.divide(weight, heaviest[row], out=np.zeros(len(weight)), where=heaviest[row] > 0)
    constrained, redundant = np.zeros(len(network)), np.zeros(len(network))
    kernel: Any = holes
    items = np.arange(len(network))
    with ThreadPoolExecutor(2) as pool:
        halves = items[::2], items[1::2]
        list(pool.map(lambda part: kernel(part, start, neighbour, share, scaled, constrained, redundant), halves))
    return constrained, redundant, np.diff(start)


def constraint(network: Network, weighted: bool = False) -> Floats:
    """Σ_j (p_ij + Σ_q p_iq p_qj)² over those an item is tied to; NaN where it has no ties."""
    found, _, ties = _both(network, weighted)
    return np.where(ties > 0, found, np.nan)


def effective_size(network: Network, weighted: bool = False) -> Floats:
    """Σ_j (1 − Σ_q p_iq m_jq) over those an item is tied to, m_jq a tie of j over its heaviest; NaN where it has no ties."""
    _, redundant, ties = _both(network, weighted)
    return np.where(ties > 0, ties - redundant, np.nan)
