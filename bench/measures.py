"""Measures at real sizes against igraph called directly on the same network, yardsticks against networkx, removal trials."""

from __future__ import annotations

import time
from pathlib import Path
from typing import Any

from sources import say


def made(n: int, m: int, seed: int = 1) -> Any:
    """A network of n items and m ties, a few items tied to many, weights from 1 to 5."""
    import numpy as np

    from umber_knot.corpus.texts import Texts
    from umber_knot.network.model import Network

    rng = np.random.default_rng(seed)
    key = np.zeros(0, np.int64)
    while len(key) < m:
        a, b = (rng.random(m) ** 2 * n).astype(np.int64), rng.integers(0, n, m)
        low, high = np.minimum(a, b), np.maximum(a, b)
        key = np.unique(np.r_[key, (low * n + high)[low != high]])
    key = np.sort(rng.permutation(key)[:m])
    texts, undated = Texts.of(f"i{k}" for k in range(n)), np.datetime64("NaT")
    days, ties = np.full(n, undated, "datetime64[D]"), np.full(m, undated, "datetime64[D]")
    zero = np.zeros(n, np.int32)
    weight = rng.integers(1, 6, m).astype(float)
    ends = (key // n).astype(np.int32), (key % n).astype(np.int32)
    return Network(
        ("person",), texts, texts, np.arange(n, dtype=np.int32), zero, zero, days, days, np.full(n, np.nan),
        *ends, weight, np.ones(m, np.int32), ties, ties,
    )  # fmt: skip


def timed(work: Any) -> float:
    began = time.perf_counter()
    work()
    return time.perf_counter() - began


def bench_measures(folder: Path) -> None:
    """20,000 items and 200,000 ties: each measure beside igraph; paths from a tenth of the items, all of them for both."""
    import igraph
    import numpy as np

    from umber_knot.network.measures.paths import shortest_paths
    from umber_knot.network.measures.registry import Material, measure

    n, m, some = 20_000, 200_000, 2_000
    network = made(n, m)
    graph = igraph.Graph(n, np.column_stack([network.source, network.target]))
    length = (1 / network.weight).tolist()
    topic = (np.arange(n) % 20).astype(np.int32)
    on = Material(network, topic)
    measure(Material(made(50, 100)), ["betweenness", "betweenness_weighted"])  # the kernels are loaded
    for weights, name in ((None, "betweenness"), (length, "betweenness weighted")):
        ours = timed(lambda w=weights: shortest_paths(network, weighted=w is not None, sample=some))
        theirs = timed(lambda w=weights: graph.betweenness(sources=range(some), weights=w))
        said = f"with closeness, stress, harmonic and reach, from {some:,} items {ours:.1f} s; igraph betweenness alone {theirs:.1f} s"
        say(name, f"{said}: {theirs / ours:.2f} times", "1.7 times", theirs >= 1.7 * ours)
    theirs = timed(lambda: graph.closeness(vertices=range(some)))
    ours = timed(lambda: shortest_paths(network, sample=some, distances=True))
    say(
        "closeness",
        f"with harmonic and reach {ours:.1f} s, igraph closeness alone {theirs:.1f} s",
        "1.7 times",
        theirs >= 1.7 * ours,
    )
    pairs = {
        "pagerank": lambda: graph.pagerank(),
        "eigenvector": lambda: graph.eigenvector_centrality(),
        "clustering": lambda: graph.transitivity_local_undirected(),
        "clustering_weighted": lambda: graph.transitivity_local_undirected(weights=network.weight.tolist()),
        "core_number": lambda: graph.coreness(),
        "constraint": lambda: graph.constraint(),
        "hub": lambda: graph.hub_score(),
        "degree": lambda: graph.degree(),
    }
    for name, call in pairs.items():
        ours, theirs = (min(timed(work) for _ in range(3)) for work in (lambda n=name: measure(on, [n]), call))
        say(name, f"{ours:.3f} s, igraph {theirs:.3f} s", "2 s, not slower", ours <= 2 and ours <= max(theirs, 0.02))
    for name in ("katz", "effective_size", "participation", "within_topic_z"):
        ours = timed(lambda n=name: measure(on, [n]))
        say(name, f"{ours:.2f} s", "2 s", ours <= 2)


def bench_yardsticks(folder: Path) -> None:
    """200 rewired networks of 2,000 items and 10,000 ties with their figures, and a removal trial."""
    import networkx as nx

    from umber_knot.network.measures.registry import Material, measure
    from umber_knot.network.removal import at_random, best_first, in_order
    from umber_knot.network.yardsticks import yardsticks

    network = made(2_000, 10_000)
    yardsticks(made(30, 60), "rewired", range(2))
    ours = timed(lambda: yardsticks(network, "rewired", range(200)))

    def plain() -> None:
        graph = nx.Graph(zip(network.source.tolist(), network.target.tolist()))
        nx.double_edge_swap(graph, 10_000, max_tries=10**7, seed=1)  # a tenth of the tries
        nx.transitivity(graph), nx.average_clustering(graph), nx.degree_assortativity_coefficient(graph)
        largest = graph.subgraph(max(nx.connected_components(graph), key=len))
        nx.average_shortest_path_length(largest), nx.diameter(largest)

    theirs = timed(plain) * 200
    said = f"200 rewired with their figures in {ours:.1f} s; networkx (one of them measured) {theirs:,.0f} s"
    say("yardsticks", f"{said}: {theirs / ours:,.0f} times", "20 s, 20 times", ours <= 20 and theirs >= 20 * ours)
    small = made(500, 2_000)
    in_order(small, range(5))
    ours = timed(lambda: best_first(small, lambda now: measure(Material(now), ["betweenness"])["betweenness"], True))
    say("removal", f"by recomputed betweenness, all 500 steps, {ours:.1f} s", "10 s", ours <= 10)
    ours = timed(
        lambda: (at_random(small, range(50)), best_first(small, lambda now: now.degree().astype(float), False))
    )
    say("removal", f"by degree, and at random from 50 seeds, {ours:.1f} s", "3 s", ours <= 3)


BENCHES = {"measures": bench_measures, "yardsticks": bench_yardsticks}
