"""Measures by which an item counts for more when what it is tied to does: eigenvector, PageRank, hubs and authorities,
Katz."""

from __future__ import annotations

import numpy as np

from umber_knot.corpus.model import Floats
from umber_knot.network.measures._matrix import Sparse, matrix
from umber_knot.network.model import Network, components

DAMPING = 0.85
SMALL = 400  # items up to which all eigenvectors are found at once
STILL = 1e-15  # an iteration ends when nothing changes by more


def eigenvector(network: Network, weighted: bool = False) -> Floats:
    """The leading eigenvector within each (weak) component, its greatest value 1; directed: of the ties coming in
    (Bonacich 1972). 0 for an item without ties, and where no circle of ties gives a leading vector."""
    a = matrix(network, weighted).T.tocsr()  # row: what comes in
    part = components(len(network), network.source, network.target)
    found = np.zeros(len(network))
    if len(network) > 1 and not part.any():  # one component: nothing is taken apart
        value, vector = leading(a, symmetric=not network.directed)
        return vector / vector.max() if value > 1e-9 else found
    for k in range(int(part.max(initial=-1)) + 1):
        inside = np.flatnonzero(part == k)
        if len(inside) < 2:
            break  # components come by size
        own = a[inside][:, inside]
        value, vector = leading(own, symmetric=not network.directed)
        if value > 1e-9:
            found[inside] = vector / vector.max()
    return found


def leading(a: Sparse, symmetric: bool) -> tuple[float, Floats]:
    """The greatest eigenvalue of a non-negative matrix and its vector, not negative."""
    n = a.shape[0]
    if n <= SMALL:
        dense = a.toarray()
        values, vectors = np.linalg.eigh(dense) if symmetric else np.linalg.eig(dense)
        best = int(np.argmax(values.real))
        return float(values[best].real), np.abs(vectors[:, best].real)
    from scipy.sparse.linalg import eigs, eigsh

    if symmetric:
        values, vectors = eigsh(a, k=1, which="LA", v0=np.ones(n))
    else:
        values, vectors = eigs(a, k=1, which="LR", v0=np.ones(n))
    return float(values[0].real), np.abs(vectors[:, 0].real)


def pagerank(network: Network, weighted: bool = False) -> Floats:
    """Where a walk is found that follows ties, and starts anew with probability 0.15; sums to 1 (Page et al. 1999). From an
    item without ties out it goes anywhere."""
    n = len(network)
    if not n:
        return np.zeros(0)
    a = matrix(network, weighted)
    out = np.asarray(a.sum(axis=1)).ravel()
    dead = out == 0
    step = (a.multiply(1.0 / np.where(dead, 1.0, out)[:, None])).T.tocsr()
    x = np.full(n, 1.0 / n)
    for _ in range(1000):
        new = DAMPING * (step @ x + x[dead].sum() / n) + (1 - DAMPING) / n
        if np.abs(new - x).sum() < STILL * n:
            return np.asarray(new / new.sum())
        x = new
    return np.asarray(x / x.sum())


def hub_and_authority(network: Network, weighted: bool = False) -> tuple[Floats, Floats]:
    """Hubs point at good authorities, authorities are pointed at by good hubs; the greatest of each is 1 (Kleinberg 1999)."""
    a = matrix(network, weighted)
    if not a.nnz:
        return np.zeros(len(network)), np.zeros(len(network))
    if not network.directed:  # AAᵀ is A², whose leading vector is A's
        _, both = leading(a, symmetric=True)
        return both / both.max(), both / both.max()
    hub, authority = _singular(a), _singular(a.T.tocsr())
    return hub / hub.max(), authority / authority.max()


def _singular(a: Sparse) -> Floats:
    """The leading vector of AAᵀ, which is never made."""
    if a.shape[0] <= SMALL:
        return leading((a @ a.T).tocsr(), symmetric=True)[1]
    from scipy.sparse.linalg import LinearOperator, eigsh

    back = a.T.tocsr()
    product = LinearOperator(a.shape, matvec=lambda x: a @ (back @ x), dtype=np.float64)
    return np.abs(eigsh(product, k=1, which="LA", v0=np.ones(a.shape[0]))[1][:, 0])


def katz(network: Network, weighted: bool = False) -> Floats:
    """All walks that end at an item, each step counting α = 0.9/λ₁ of the one before: x = 1 + α Aᵀx (Katz 1953). Where no
    circle of ties gives a λ₁ above 0, walks end by themselves and α is 0.9."""
    n = len(network)
    a = matrix(network, weighted)
    top = spectral_radius(a, network.directed) if a.nnz else 0.0
    alpha = 0.9 / top if top > 1e-9 else 0.9
    step, x = a.T.tocsr(), np.ones(n)
    for _ in range(5000):
        new = 1.0 + alpha * (step @ x)
        if np.abs(new - x).max(initial=0.0) <= STILL * np.abs(new).max(initial=1.0):
            return np.asarray(new)
        x = new
    return np.asarray(x)


def spectral_radius(a: Sparse, directed: bool) -> float:
    """The greatest eigenvalue of a non-negative matrix; of a directed one the greatest of its strong components, which
    alone have any."""
    if not directed:
        return leading(a, symmetric=True)[0]
    from scipy.sparse.csgraph import connected_components

    count, label = connected_components(a, directed=True, connection="strong")
    sizes = np.bincount(label, minlength=count)
    found = [float(a.diagonal().max(initial=0.0))]
    for k in np.flatnonzero(sizes > 1).tolist():
        inside = np.flatnonzero(label == k)
        found.append(leading(a[inside][:, inside], symmetric=False)[0])
    return max(found)
