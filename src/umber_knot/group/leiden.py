"""Leiden clustering (Traag, Waltman & van Eck 2019) through igraph, seeded, and its stability over seeds."""

from __future__ import annotations

import random
from collections.abc import Callable
from typing import Any

import numpy as np

from umber_knot.corpus.model import Floats, Ints
from umber_knot.lineage.recipe import Group
from umber_knot.network.model import Network


def partition(network: Network, recipe: Group, seed: int) -> Ints:
    """The topic of each item, shape (n,), numbered from 0 by falling size; Leiden run until it no longer improves.

    Modularity with resolution follows Reichardt & Bornholdt 2006, cpm Traag, Van Dooren & Nesterov 2011.
    """
    if not len(network):
        return np.zeros(0, np.int32)
    return _by_size(_leiden(_graph(network), network, recipe, seed))


def _graph(network: Network) -> Any:
    import igraph

    return igraph.Graph(len(network), np.column_stack([network.source, network.target]))


def _leiden(graph: Any, network: Network, recipe: Group, seed: int) -> Ints:
    import igraph

    igraph.set_random_number_generator(random.Random(seed))
    found = graph.community_leiden(
        objective_function="CPM" if recipe.quality == "cpm" else "modularity",
        weights=network.weight.tolist() if recipe.weighted and network.ties else None,
        resolution=recipe.grain,
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


def modularity(network: Network, topic: Ints, grain: float, weighted: bool) -> float:
    """Modularity with resolution: Σ_c (w_c/W − γ (k_c/2W)²) (Newman & Girvan 2004)."""
    w = network.weight if weighted else np.ones(network.ties)
    total = float(w.sum())
    if not total:
        return 0.0
    inside = topic[network.source] == topic[network.target]
    n = int(topic.max()) + 1
    within = np.bincount(topic[network.source][inside], w[inside], n)
    k = np.bincount(topic[network.source], w, n) + np.bincount(topic[network.target], w, n)
    return float((within / total - grain * (k / (2 * total)) ** 2).sum())


def stability(
    network: Network, recipe: Group, topic: Ints, progress: Callable[[int, int], None] = lambda done, of: None
) -> tuple[float, Floats]:
    """(mean adjusted Rand index of the grouping with ``runs`` others, the share of runs that keep each item's topic).

    The other runs use the seeds after the recipe's; each is matched to the grouping by greatest overlap. With no
    runs or no items, stability is NaN and every confidence NaN.
    """
    runs = recipe.runs
    if not runs or not len(network):
        return float("nan"), np.full(len(network), np.nan)
    graph = _graph(network)
    agreement, kept = [], np.zeros(len(network))
    for run in range(runs):
        progress(run, runs)
        other = _leiden(graph, network, recipe, recipe.seed + 1 + run)
        agreement.append(adjusted_rand(topic, other))
        kept += match(other, topic)[other] == topic
    return float(np.mean(agreement)), kept / runs


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
    from scipy.optimize import linear_sum_assignment

    table = contingency(new, old)
    rows, cols = linear_sum_assignment(-table)
    partner = np.full(table.shape[0], -1, np.int32)
    shared = table[rows, cols] > 0
    partner[rows[shared]] = cols[shared]
    return partner


def keep_identity(topic: Ints, before: Ints) -> Ints:
    """Renumber topics so that each keeps the number of the earlier topic it overlaps most.

    ``before`` holds the earlier topic of each item, −1 where there is none; topics without a partner get the lowest
    free numbers, larger ones first.
    """
    known = before >= 0
    if not known.any() or not len(topic):
        return topic
    n = int(topic.max()) + 1
    partner = np.full(n, -1, np.int32)
    matched = match(topic[known], before[known])
    partner[: len(matched)] = matched
    free = iter(sorted(set(range(n + int(before.max()) + 1)) - set(partner.tolist())))
    number = np.array([p if p >= 0 else next(free) for p in partner.tolist()], np.int32)
    return number[topic]
