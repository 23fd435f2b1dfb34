"""A network as a sparse matrix of ones or of weights."""

from __future__ import annotations

from typing import Any

import numpy as np

from umber_knot.network.model import Network

Sparse = Any  # scipy's csr_array, which has no types


def matrix(network: Network, weighted: bool, loops: bool = True) -> Sparse:
    """Rows are where ties come from; parallel ties are one (weights add up), without directions it is symmetric."""
    found = network.csr("out" if network.directed else "both")
    if not loops:
        found.setdiag(0)
        found.eliminate_zeros()
    if not weighted:
        found.data = np.ones(len(found.data))
    return found


def undirected(network: Network, weighted: bool) -> Sparse:
    """The same whatever the direction, without loops; ties both ways are one, their weights added."""
    found = network.csr("both")
    if network.directed:
        out = network.csr("out")
        found = (out + out.T).tocsr()
    found.setdiag(0)
    found.eliminate_zeros()
    if not weighted:
        found.data = np.ones(len(found.data))
    return found
