"""Leiden clustering (Traag, Waltman & van Eck 2019) through igraph, seeded, and its stability over seeds."""

from __future__ import annotations

import random
from collections.abc import Callable
from typing import Any

import numpy as np

from umber_knot.corpus.model import Floats, Ints
from umber_knot.group.result import Partition, Stable
from umber_knot.network.model import Network


def partition(
    network: Network,
    resolution: float = 1.0,
    seed: int = 1,
    *,
    quality: str = "modularity",
    weighted: bool = True,
    min_size: int = 1,
) -> Partition:
    """Topics by Leiden clustering, run until it no longer improves (Traag, Waltman & van Eck 2019).

    ``quality`` is ``modularity`` with a resolution (Reichardt & Bornholdt 2006) or ``cpm``, the constant Potts model
    (Traag, Van Dooren & Nesterov 2011); a higher resolution gives finer topics. Directions, loops and parallel ties are
    merged first (``Network.simple``). Topics of fewer than ``min_size`` items are none.
    """
    if not len(network):
        return Partition(np.zeros(0, np.int32), 0.0, 0.0)
    plain = network.simple()
    topic = without_small(_by_size(_leiden(_graph(plain), plain, resolution, seed, quality, weighted)), min_size)
    best = constant_potts if quality == "cpm" else modularity
    return Partition(topic, modularity(plain, topic, 1.0, weighted), best(plain, topic, resolution, weighted))


def _graph(network: Network) -> Any:
    import igraph

    return igraph.Graph(len(network), np.column_stack([network.source, network.target]))


def _leiden(graph: Any, network: Network, resolution: float, seed: int, quality: str, weighted: bool) -> Ints:
    import igraph

    igraph.set_random_number_generator(random.Random(seed))
    found = graph.community_leiden(
        objective_function="CPM" if quality == "cpm" else "modularity",
        weights=network.weight.tolist() if weighted and network.ties else None,
        resolution=resolution,
        n_iterations=-1,
    )
    return np.array(found.membership, np.int32)


def _by_size(membership: Ints) -> Ints:
    """Topics renumbered by falling size, ties by lowest item."""
    _, first, of, sizes = np.unique(membership, return_index=True, return_inverse=True, return_counts=True)
    rank = np.empty(len(sizes), np.int32)
    rank[np.lexsort((first, -sizes))] = np.arange(len(sizes))
    return rank[of].astype(np.int32)


def without_small(topic: Ints, min_size: int) -> Ints:
    """Topics of fewer than ``min_size`` items become −1, no topic."""
    if not len(topic):
        return topic
    sizes = np.bincount(topic)
    return np.where(sizes[topic] >= min_size, topic, -1).astype(np.int32)


def _inside(network: Network, topic: Ints, weighted: bool) -> tuple[Ints, Floats, Floats, float]:
    """(topics with items of none as topics of their own, weight inside each, strength of each, total weight)."""
    alone = topic < 0
    whole = topic.astype(np.int32).copy()
    whole[alone] = int(topic.max(initial=-1)) + 1 + np.arange(int(alone.sum()))
    w = network.weight if weighted else np.ones(network.ties)
    n = int(whole.max(initial=-1)) + 1
    same = whole[network.source] == whole[network.target]
    within = np.bincount(whole[network.source][same], w[same], n)
    strength = np.bincount(whole[network.source], w, n) + np.bincount(whole[network.target], w, n)
    return whole, within.astype(np.float64), strength.astype(np.float64), float(w.sum())


def modularity(network: Network, topic: Ints, resolution: float = 1.0, weighted: bool = True) -> float:
    """Modularity, Σ_c (w_c/W − γ (k_c/2W)²), γ the resolution (Newman & Girvan 2004; Reichardt & Bornholdt 2006).

    w_c is the weight inside topic c, k_c the strength of its items, W the weight of all ties; an item without a topic
    counts as a topic of its own. 0 where there is no tie.
    """
    _, within, strength, total = _inside(network, topic, weighted)
    return float((within / total - resolution * (strength / (2 * total)) ** 2).sum()) if total else 0.0


def constant_potts(network: Network, topic: Ints, resolution: float, weighted: bool = True) -> float:
    """Quality under the constant Potts model, Σ_c (w_c − γ n_c²/2) / W, n_c the items of topic c (Traag, Van Dooren &
    Nesterov 2011, per unit of weight). 0 where there is no tie."""
    whole, within, _, total = _inside(network, topic, weighted)
    sizes = np.bincount(whole).astype(np.float64)
    return float((within - resolution * sizes**2 / 2).sum() / total) if total else 0.0


def stability(
    network: Network,
    topic: Ints,
    resolution: float = 1.0,
    seed: int = 1,
    *,
    runs: int = 20,
    quality: str = "modularity",
    weighted: bool = True,
    progress: Callable[[int, int], None] = lambda done, of: None,
) -> Stable:
    """Mean adjusted Rand index of a grouping with ``runs`` others, and the share of runs that keep each item's topic.

    The other runs use the seeds after ``seed``; each is matched to the grouping by greatest overlap. Items without a
    topic are left out and have no confidence (NaN). With no runs or no items all is NaN.
    """
    confidence = np.full(len(network), np.nan)
    placed = topic >= 0
    if not runs or not placed.any():
        return Stable(float("nan"), confidence)
    plain, inside = network.simple().kept(placed), topic[placed]
    graph = _graph(plain)
    agreement, kept = [], np.zeros(len(plain))
    for run in range(runs):
        progress(run, runs)
        other = _leiden(graph, plain, resolution, seed + 1 + run, quality, weighted)
        agreement.append(adjusted_rand(inside, other))
        kept += match(other, inside)[other] == inside
    confidence[placed] = kept / runs
    return Stable(float(np.mean(agreement)), confidence)


def contingency(a: Ints, b: Ints) -> np.ndarray[tuple[int, int], np.dtype[np.int64]]:
    """Items by topic of a and topic of b; topics are 0, 1, 2 …"""
    rows, cols = int(a.max(initial=-1)) + 1, int(b.max(initial=-1)) + 1
    return np.bincount(a.astype(np.int64) * cols + b, minlength=rows * cols).reshape(rows, cols)


def adjusted_rand(a: Ints, b: Ints) -> float:
    """Adjusted Rand index of two groupings (Hubert & Arabie 1985); 1 when both are the same."""
    table = contingency(a, b).astype(np.float64)

    def pairs(counts: Floats) -> float:
        return float((counts * (counts - 1) / 2).sum())

    both, rows, cols = pairs(table), pairs(table.sum(1)), pairs(table.sum(0))
    n = len(a)
    expected = rows * cols / (n * (n - 1) / 2) if n > 1 else 0.0
    highest = (rows + cols) / 2
    return 1.0 if highest == expected else (both - expected) / (highest - expected)


def match(new: Ints, old: Ints) -> Ints:
    """For each new topic the old topic it shares most items with, one to one (Hungarian); −1 without a partner."""
    table = contingency(new, old)
    shares = table > 0
    if shares.sum(0).max(initial=0) <= 1 and shares.sum(1).max(initial=0) <= 1:  # nothing to choose between
        rows, cols = np.nonzero(shares)
    else:
        from scipy.optimize import linear_sum_assignment  # here, because it takes longer to load than all of the above

        rows, cols = linear_sum_assignment(-table)
    partner = np.full(table.shape[0], -1, np.int32)
    shared = table[rows, cols] > 0
    partner[rows[shared]] = cols[shared]
    return partner


def keep_identity(topic: Ints, before: Ints) -> Ints:
    """The number each topic keeps, shape (topics,): that of the earlier topic it overlaps most.

    ``before`` holds the earlier topic of each item, −1 where there is none; topics without a partner get the lowest
    free numbers, larger ones first.
    """
    n = int(topic.max(initial=-1)) + 1
    known = (before >= 0) & (topic >= 0)
    if not known.any():
        return np.arange(n, dtype=np.int32)
    partner = np.full(n, -1, np.int32)
    matched = match(topic[known], before[known])
    partner[: len(matched)] = matched
    free = iter(sorted(set(range(n + int(before.max()) + 1)) - set(partner.tolist())))
    return np.array([p if p >= 0 else next(free) for p in partner.tolist()], np.int32)
