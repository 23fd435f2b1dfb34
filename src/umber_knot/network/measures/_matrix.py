"""A network as a sparse matrix of ones or of weights."""

from __future__ import annotations

from typing import Any

import numpy as np

from umber_knot.network.model import Network

Sparse = Any  # scipy's csr_array, which has no types


def matrix(network: Network, weighted: bool) -> Sparse:
    """Rows are where ties come from; parallel ties are one (weights add up), without directions it is symmetric."""
    found = network.csr("out" if network.directed else "both")
    if not weighted:
        found.data = np.ones(len(found.data))
    return found


def laid_out(a: Sparse) -> tuple[Any, Any, Any]:
    """(where each item's ties begin, where they lead in order, their weights) of a matrix, for the kernels."""
    a.sort_indices()
    return a.indptr.astype(np.int64), a.indices.astype(np.int32), a.data.astype(np.float64)


def undirected(network: Network, weighted: bool) -> Sparse:
    """The same whatever the direction, without loops; ties both ways are one, their weights added."""
    found = network.simple("dropped").csr("both")
    if not weighted:
        found.data = np.ones(len(found.data))
    return found
