"""Structural holes: how far an item's ties lead to others that are tied anyway (Burt 1992)."""

from __future__ import annotations

import numpy as np

from umber_knot.corpus.model import Floats
from umber_knot.network.measures._matrix import Sparse, undirected
from umber_knot.network.model import Network


def _shares(network: Network, weighted: bool) -> tuple[Sparse, Sparse]:
    """(ties both ways added, the share each has of its item's)."""
    if network.directed:
        a = network.csr("out")
        a.setdiag(0)
        a.eliminate_zeros()
        if not weighted:
            a.data = np.ones(len(a.data))
        w = (a + a.T).tocsr()
    else:
        w = undirected(network, weighted)
    total = np.asarray(w.sum(axis=1)).ravel()
    return w, w.multiply(np.divide(1.0, total, out=np.zeros(len(total)), where=total > 0)[:, None]).tocsr()


def constraint(network: Network, weighted: bool = False) -> Floats:
    """Σ_j (p_ij + Σ_q p_iq p_qj)² over those an item is tied to; NaN where it has no ties."""
    w, p = _shares(network, weighted)
    near = w.copy()
    near.data = np.ones(len(near.data))
    whole = p + (p @ p).multiply(near)
    found = np.asarray(whole.multiply(whole).sum(axis=1)).ravel()
    return np.where(np.diff(w.indptr) > 0, found, np.nan)


def effective_size(network: Network, weighted: bool = False) -> Floats:
    """Σ_j (1 − Σ_q p_iq m_jq) over those an item is tied to, m_jq a tie of j over its heaviest; NaN where it has no ties."""
    w, p = _shares(network, weighted)
    heaviest = np.asarray(w.max(axis=1).toarray()).ravel() if w.nnz else np.zeros(len(network))
    m = w.multiply(np.divide(1.0, heaviest, out=np.zeros(len(heaviest)), where=heaviest > 0)[:, None]).tocsr()
    near = w.copy()
    near.data = np.ones(len(near.data))
    redundant = np.asarray((p @ m.T).multiply(near).sum(axis=1)).ravel()
    ties = np.diff(w.indptr)
    return np.where(ties > 0, ties - redundant, np.nan)
