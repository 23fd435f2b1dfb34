"""Random networks and removal trials, against what their definitions say and against networkx step by step."""

import math

import networkx as nx
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.building import network_of
from umber_knot.errors import UserError
from umber_knot.network.measures.degree import degree
from umber_knot.network.measures.registry import Material, measure
from umber_knot.network.removal import WATCHED, at_random, band, best_first, in_order
from umber_knot.network.yardsticks import MODELS, random_network, watched, yardsticks

EDGES = st.lists(st.tuples(st.integers(0, 8), st.integers(0, 8)), max_size=24)


def simple(n, edges, directed):
    graph = nx.DiGraph() if directed else nx.Graph()
    graph.add_nodes_from(range(n))
    graph.add_edges_from((a, b) for a, b in edges if a != b)
    return graph


def holds(graph, n):
    """What a trial watches, by networkx."""
    if not len(graph):
        return [0.0, 0, math.nan, math.nan, math.nan]
    weak = list(nx.weakly_connected_components(graph) if graph.is_directed() else nx.connected_components(graph))
    largest = max(weak, key=lambda c: (len(c), -min(c)))
    d = [v for s, own in nx.all_pairs_shortest_path_length(graph.subgraph(largest)) for t, v in own.items() if s != t]
    ends = 1 if graph.is_directed() else 2
    return [
        len(largest) / n,
        len(weak),
        ends * graph.number_of_edges() / len(graph),
        max(d) if d else math.nan,
        np.mean(d) if d else math.nan,
    ]


def made(edges, directed, n=9):
    if directed:
        return network_of(n, edges, directed=True, weight=[1.0] * len(edges))
    return network_of(n, edges, weight=[1.0] * len(edges))


@given(EDGES, st.permutations(range(9)), st.booleans())
@settings(max_examples=60)
def test_what_holds_after_each_step(edges, order, directed):
    trial = in_order(made(edges, directed), order)
    graph = simple(9, edges, directed)
    for row in range(10):
        if row:
            graph.remove_node(order[row - 1])
        found = [getattr(trial, name)[row] for name in WATCHED]
        assert found == pytest.approx(holds(graph, 9), nan_ok=True), row
    assert trial.removed()[[0, -1]].tolist() == [0, 1]


@given(EDGES, st.booleans(), st.booleans())
@settings(max_examples=40)
def test_best_first_goes_by_what_is_left_where_it_is_recomputed(edges, directed, recompute):
    network = made(edges, directed)
    trial = best_first(network, degree, recompute)
    graph = nx.MultiDiGraph() if directed else nx.MultiGraph()
    graph.add_nodes_from(range(9))
    graph.add_edges_from(edges)
    first = dict(graph.degree())
    expected = []
    for _ in range(9):
        worth = dict(graph.degree()) if recompute else first
        best = max(sorted(graph), key=lambda v: worth[v])
        expected.append(best)
        graph.remove_node(best)
    assert trial.order.tolist() == expected


def test_random_trials_are_the_same_for_the_same_seeds_and_have_a_band():
    rng = np.random.default_rng(2)
    edges = [tuple(e) for e in rng.integers(0, 40, (90, 2)).tolist()]
    network = made(edges, False, 40)
    trials, again = at_random(network, range(6)), at_random(network, range(6))
    assert all(np.array_equal(a.largest_share, b.largest_share) for a, b in zip(trials, again))
    assert not np.array_equal(trials[0].order, trials[1].order)
    for name in WATCHED:
        every = np.array([getattr(t, name) for t in trials])
        with np.errstate(all="ignore"):
            b = band(trials, name)
        for row in range(41):
            own = every[:, row][~np.isnan(every[:, row])]
            assert b.mean[row] == pytest.approx(own.mean() if len(own) else math.nan, nan_ok=True)
            assert b.deviation[row] == pytest.approx(own.std() if len(own) else math.nan, nan_ok=True, abs=1e-9)


def test_a_trial_by_betweenness_alters_nothing():
    network = made([(0, 1), (1, 2), (2, 3), (3, 4)], False, 5)

    def betweenness(now):
        return measure(Material(now), ["betweenness"])["betweenness"]

    trial = best_first(network, betweenness, True)
    assert trial.order[0] == 2 and network.ties == 4
    assert trial.largest_share[:2].tolist() == [1.0, 0.4] and trial.components[1] == 2


@given(EDGES, st.sampled_from(MODELS), st.booleans(), st.integers(0, 99))
@settings(max_examples=120)
def test_random_networks_keep_what_their_model_keeps(edges, model, directed, seed):
    network = made(edges, directed)
    plain = network.simple("kept")
    if directed and model in ("small-world", "attachment"):
        with pytest.raises(UserError, match="no directions"):
            random_network(network, model, seed)
        return
    one, again = random_network(network, model, seed), random_network(network, model, seed)
    assert np.array_equal(one.source, again.source) and np.array_equal(one.target, again.target)
    pairs = set(zip(one.source.tolist(), one.target.tolist()))
    assert len(pairs) == one.ties and all(a != b for a, b in pairs) and len(one) == 9
    assert directed or all(a < b for a, b in pairs)
    if model in ("gnm", "rewired"):
        assert one.ties == plain.ties
    if model == "rewired":
        for way in ("in", "out") if directed else ("both",):
            assert np.array_equal(one.degree(way), plain.degree(way))


def test_means_of_a_model_are_those_of_its_formula():
    rng = np.random.default_rng(0)
    edges = {tuple(sorted(e)) for e in rng.integers(0, 60, (400, 2)).tolist() if e[0] != e[1]}
    network = made(sorted(edges), False, 60)
    density = len(edges) / (60 * 59 / 2)
    found, every = yardsticks(network, "gnp", range(200))
    by_name = {y.figure: y for y in found}
    error = by_name["transitivity"].deviation / math.sqrt(200)
    assert abs(by_name["transitivity"].mean - density) < 4 * error
    ties = [random_network(network, "gnp", s).ties for s in range(200)]
    assert abs(np.mean(ties) - len(edges)) < 4 * np.std(ties) / math.sqrt(200)
    # every pair is as likely
    hits = np.zeros((60, 60))
    for s in range(200):
        one = random_network(network, "gnm", s)
        hits[one.source, one.target] += 1
    upper = hits[np.triu_indices(60, 1)] / 200
    assert abs(upper.mean() - density) < 1e-12 and abs(upper.std() - math.sqrt(density * (1 - density) / 200)) < 0.004
    assert len(every["transitivity"]) == 200 and "random" in by_name["transitivity"].said()
    ring = random_network(network, "small-world", 3)
    k = 2 * round(len(edges) / 60)
    assert ring.ties == 60 * k // 2 and watched(ring)["mean_clustering"] > 2 * density
    grown = random_network(network, "attachment", 3)
    m = round(len(edges) / 60)
    assert grown.ties == m + m * (60 - m - 1) and grown.degree().max() > 2.5 * grown.degree().mean()


def test_rewiring_mixes_and_is_fair_to_degrees():
    network = made([(k, (k + 1) % 30) for k in range(30)] + [(k, (k + 2) % 30) for k in range(30)], False, 30)
    one = random_network(network, "rewired", 5)
    kept = set(zip(network.source.tolist(), network.target.tolist())) & set(
        zip(one.source.tolist(), one.target.tolist())
    )
    assert len(kept) < 25 and watched(one)["transitivity"] < watched(network)["transitivity"] / 2


@given(EDGES, st.booleans())
@settings(max_examples=60)
def test_figures_that_are_watched(edges, directed):
    found, graph = watched(made(edges, directed)), simple(9, edges, directed)
    share, _, _, diameter, path = holds(graph, 9)
    assert found["largest_share"] == pytest.approx(share)
    assert (found["diameter"], found["mean_path"]) == pytest.approx((diameter, path), nan_ok=True)
    assert found["transitivity"] == pytest.approx(nx.transitivity(graph.to_undirected()))
    assert ("reciprocity" in found) == directed


def test_more_than_a_word_of_sources_is_gone_through():
    network = network_of(200, [(k, k + 1) for k in range(199)])
    found = watched(network)
    assert found["diameter"] == 199 and found["mean_path"] == pytest.approx(201 / 3)


def test_progress_stops_trials_and_yardsticks():
    class Stop(Exception):
        pass

    def stop(done, of):
        raise Stop

    network = network_of(12, [(k, k + 1) for k in range(11)])
    for call in (
        lambda: in_order(network, range(12), stop),
        lambda: at_random(network, range(3), stop),
        lambda: best_first(network, degree, True, stop),
        lambda: yardsticks(network, "gnm", range(4), stop),
    ):
        with pytest.raises(Stop):
            call()
    with pytest.raises(UserError, match="no model"):
        random_network(network, "guess", 1)
