"""Figures of a network as a whole."""

from __future__ import annotations

import numpy as np

from umber_knot.corpus.model import Floats
from umber_knot.network.measures import paths as p
from umber_knot.network.measures.clustering import clustering, transitivity
from umber_knot.network.model import Network, components

#: The figures of ``summary.json``, in its order.
FIGURES = (
    "items",
    "isolates",
    "ties",
    "loops",
    "parallel",
    "density",
    "mean_degree",
    "mean_strength",
    "components",
    "strong_components",
    "largest_share",
    "diameter",
    "mean_path",
    "transitivity",
    "mean_clustering",
    "reciprocity",
    "assortativity",
    "centralisation_degree",
    "centralisation_closeness",
    "centralisation_betweenness",
)
#: What each figure says, and by whom it was defined.
SAYS = {
    "items": "items of the network",
    "isolates": "items without any tie",
    "ties": "ties, parallel ones and loops each",
    "loops": "ties of an item to itself",
    "parallel": "ties beyond the first between the same two",
    "density": "ties over the pairs there are",
    "mean_degree": "ties of an item on average; with directions those coming in",
    "mean_strength": "weight of an item's ties on average",
    "components": "parts that no tie joins",
    "strong_components": "parts in which ties lead from each to each",
    "largest_share": "share of the items in the largest component",
    "diameter": "steps between the two farthest apart, in the largest component",
    "mean_path": "steps between two on average, in the largest component",
    "transitivity": "share of paths of two ties that are closed",
    "mean_clustering": "share of tied neighbour pairs, averaged over items (Watts & Strogatz 1998)",
    "reciprocity": "share of ties that are answered",
    "assortativity": "correlation of the degrees at both ends of a tie (Newman 2002)",
    "centralisation_degree": "how far one is above all in ties, a star being 1 (Freeman 1979)",
    "centralisation_closeness": "how far one is nearer than all, a star being 1 (Freeman 1979)",
    "centralisation_betweenness": "how far one is between all, a star being 1 (Freeman 1979)",
}
NAN = float("nan")


def figures(network: Network, found: p.Paths | None = None, progress: p.Progress = p.quiet) -> dict[str, float]:
    """Every figure by name; NaN where it has no meaning. ``found`` are shortest paths that are known already, unweighted.

    Density, clustering, reciprocity, assortativity and centralisation are of the network without loops and parallel
    ties; diameter and mean path of the largest (weak) component, over pairs that reach one another. The mean degree of a
    directed network is that of ties in, which is that of ties out.
    """
    n, m = len(network), network.ties
    simple = network.simple("kept")
    part = components(n, network.source, network.target)
    sizes = np.bincount(part) if n else np.zeros(0, int)
    largest = np.flatnonzero(part == 0)
    paths = p.shortest_paths(network, progress=progress) if found is None else found
    whole = paths.sources == n
    diameter, mean_path = p.of_largest(paths, largest) if n and whole else (NAN, NAN)
    loops = int((network.source == network.target).sum())
    pairs = n * (n - 1) / (1 if network.directed else 2)
    ends = 1 if network.directed else 2
    return {
        "items": n,
        "isolates": int((network.degree() == 0).sum()),
        "ties": m,
        "loops": loops,
        "parallel": _parallel(network),
        "density": simple.ties / pairs if pairs else NAN,
        "mean_degree": ends * m / n if n else NAN,
        "mean_strength": ends * float(network.weight.sum()) / n if n else NAN,
        "components": len(sizes),
        "strong_components": _strong(network),
        "largest_share": float(sizes[0] / n) if n else NAN,
        "diameter": diameter if np.isnan(diameter) else int(diameter),
        "mean_path": mean_path,
        "transitivity": transitivity(network),
        "mean_clustering": float(clustering(network).mean()) if n else NAN,
        "reciprocity": reciprocity(simple),
        "assortativity": assortativity(simple),
        "centralisation_degree": centralised_by_degree(simple),
        "centralisation_closeness": centralised_by_closeness(p.closeness(paths), network.directed) if whole else NAN,
        "centralisation_betweenness": centralised_by_betweenness(p.betweenness_share(paths)),
    }


def _parallel(network: Network) -> int:
    """Ties beyond the first between the same two, in the same direction."""
    s, t = network.source.astype(np.int64), network.target
    if not network.directed:
        s, t = np.minimum(s, t), np.maximum(s, t)
    return network.ties - len(np.unique(s * max(len(network), 1) + t))


def _strong(network: Network) -> int:
    from scipy.sparse.csgraph import connected_components

    if not len(network):
        return 0
    ways = "out" if network.directed else "both"
    return int(connected_components(network.csr(ways), directed=True, connection="strong")[0])  # type: ignore[arg-type]


def reciprocity(simple: Network) -> float:
    """Share of ties that are answered by one the other way; 1 where ties have no direction."""
    if not simple.ties:
        return NAN
    if not simple.directed:
        return 1.0
    n = len(simple)
    there = simple.source.astype(np.int64) * n + simple.target
    return float(np.isin(simple.target.astype(np.int64) * n + simple.source, there).mean())


def assortativity(simple: Network) -> float:
    """Correlation of the degrees at both ends of a tie (Newman 2002): of ties out at the source, in at the target where
    they have directions; NaN where all are the same."""
    if not simple.ties:
        return NAN
    if simple.directed:
        x, y = simple.degree("out")[simple.source], simple.degree("in")[simple.target]
    else:
        k = simple.degree()
        x, y = np.r_[k[simple.source], k[simple.target]], np.r_[k[simple.target], k[simple.source]]
    x, y = x - x.mean(), y - y.mean()
    spread = float(np.sqrt((x * x).sum() * (y * y).sum()))
    return float((x * y).sum()) / spread if spread > 1e-12 else NAN


def centralised_by_degree(simple: Network) -> float:
    """Σ (greatest − degree) over what a star has (Freeman 1979): (n − 1)(n − 2); with directions of ties out, (n − 1)²."""
    n = len(simple)
    k = simple.degree("out" if simple.directed else "both").astype(np.float64)
    most = (n - 1) ** 2 if simple.directed else (n - 1) * (n - 2)
    return float((k.max() - k).sum() / most) if n and most else NAN


def centralised_by_closeness(closeness: Floats, directed: bool) -> float:
    """Σ (greatest − closeness) over what a star has: (n − 1)(n − 2)/(2n − 3); with directions, of ties out, n − 1."""
    n = len(closeness)
    if n < 3:
        return NAN
    most = (n - 1) if directed else (n - 1) * (n - 2) / (2 * n - 3)
    return float((closeness.max() - closeness).sum() / most)


def centralised_by_betweenness(share: Floats) -> float:
    """Σ (greatest − share of betweenness) over what a star has: n − 1."""
    n = len(share)
    return float((share.max() - share).sum() / (n - 1)) if n > 2 else NAN
