"""Ties, components, topics and names against independent oracles."""

import itertools
import math
from collections import Counter, defaultdict

import networkx as nx
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.building import network_of
from umber_knot.corpus.assemble import corpus_of
from umber_knot.corpus.model import Decision, RawRecord, Source
from umber_knot.group.inside import share_inside, unsure
from umber_knot.group.leiden import adjusted_rand, keep_identity, match, modularity, partition, stability
from umber_knot.group.naming import log_likelihood
from umber_knot.network.model import components, years
from umber_knot.reconcile.decisions import resolve
from umber_knot.relate.counting import count
from umber_knot.relate.explaining import evidence
from umber_knot.relate.listing import listed, strongest_tie
from umber_knot.relate.parameters import Relate
from umber_knot.relate.result import Related
from umber_knot.relate.selecting import select

LETTERS = "abcdefgh"
RECORDS = st.lists(
    st.tuples(st.lists(st.sampled_from(LETTERS), max_size=6, unique=True), st.sampled_from([0, 1990, 1995, 2001])),
    min_size=1,
    max_size=14,
)


def make(records):
    raw = [RawRecord(line=k + 1, keywords=words, year=year, citations=k) for k, (words, year) in enumerate(records)]
    return corpus_of([(Source("s", "s", "RIS", "utf-8", "", len(raw)), raw)])


def build(corpus, decisions=(), **recipe):
    relate = Relate(tie="co-occurrence", of="keyword", **recipe)
    resolution = resolve(corpus, "keyword", decisions)
    counted = count(corpus, {"keyword": resolution}, relate)
    return counted, select(corpus, counted, relate)


def plain(records, decisions, counting, years, min_records, max_per_record, normalise):
    """The definitions, written plainly over sets; returns items → records and pairs → weight."""
    merged = {d.form: d.preferred for d in decisions if d.decision == "merge"}
    aside = {d.form for d in decisions if d.decision == "aside"}
    weight, shared, strength, s = Counter(), Counter(), Counter(), Counter()
    for words, year in records:
        items = sorted({merged.get(w, w) for w in words})
        if (years and not years[0] <= year <= years[1]) or (max_per_record and len(items) > max_per_record):
            continue
        s.update(items)
        for a, b in itertools.combinations(items, 2):
            w = 1.0 if counting == "full" else 1 / (len(items) - 1)
            weight[a, b] += w
            shared[a, b] += 1
            strength[a] += w
            strength[b] += w
    kept = {i for i in s if s[i] >= min_records and i not in aside}
    total = sum(strength.values())
    formula = {
        "none": lambda a, b, c: c,
        "association": lambda a, b, c: c * total / (strength[a] * strength[b]),
        "cosine": lambda a, b, c: c / math.sqrt(s[a] * s[b]),
        "jaccard": lambda a, b, c: c / (s[a] + s[b] - c),
        "inclusion": lambda a, b, c: c / min(s[a], s[b]),
        "equivalence": lambda a, b, c: c * c / (s[a] * s[b]),
    }[normalise]
    ties = {(a, b): formula(a, b, c) for (a, b), c in weight.items() if a in kept and b in kept}
    return {i: s[i] for i in kept}, ties, shared


@given(
    records=RECORDS,
    counting=st.sampled_from(["full", "fractional"]),
    years=st.sampled_from([(), (1990, 1995)]),
    min_records=st.integers(1, 3),
    max_per_record=st.sampled_from([0, 3]),
    normalise=st.sampled_from(["none", "association", "cosine", "jaccard", "inclusion", "equivalence"]),
    merge=st.booleans(),
)
@settings(max_examples=150)
def test_networks_follow_their_definition(records, counting, years, min_records, max_per_record, normalise, merge):
    used = {w for words, _ in records for w in words}
    decisions = []
    if merge and {"a", "b"} <= used:
        decisions.append(Decision("keyword", "merge", "a", "b"))
    if "c" in used:
        decisions.append(Decision("keyword", "aside", "c"))
    corpus = make(records)
    recipe = {"counting": counting, "years": years, "min_records": min_records, "max_per_record": max_per_record}
    recipe["normalise"] = normalise
    _, filtered = build(corpus, decisions, **recipe)
    items, ties, shared = plain(records, decisions, **recipe)
    network = filtered.network
    assert dict(zip(network.label, network.records.tolist())) == items
    found = {}
    for s, t, w, c in zip(network.source, network.target, network.weight, network.count):
        pair = tuple(sorted((network.label[s], network.label[t])))
        found[pair] = w
        assert c == shared[pair]
    assert found.keys() == ties.keys()
    for pair, w in ties.items():
        assert found[pair] == pytest.approx(w)


def test_fractional_counting_gives_each_record_one_per_item(corpus):
    counted, _ = build(corpus, counting="fractional")
    sizes = np.bincount(counted.record)
    alone = counted.record[np.isin(counted.record, np.flatnonzero(sizes == 1))]
    assert counted.strength.sum() == pytest.approx(len(counted.record) - len(alone))
    ends = np.bincount(counted.source, counted.weight, len(counted.strength)) + np.bincount(
        counted.target, counted.weight, len(counted.strength)
    )
    assert np.allclose(ends, counted.strength)


def test_curve_counts_what_each_threshold_would_keep(corpus):
    _, filtered = build(corpus)
    for least in (1, 2, 5, 17):
        _, at = build(corpus, min_records=least)
        assert len(at.network) == filtered.curve_items[least - 1]
        assert at.network.ties == filtered.curve_ties[least - 1]


def test_evidence_is_the_records_of_the_tie(corpus):
    counted, filtered = build(corpus, min_records=3)
    network = filtered.network
    for t in range(0, network.ties, 97):
        a, b = int(network.entity[network.source[t]]), int(network.entity[network.target[t]])
        records = evidence(counted, a, b)
        assert len(records) == network.count[t]
        dated = corpus.year[records]
        assert years(network.tie_first)[t] == dated.min() and years(network.tie_last)[t] == dated.max()


def test_keep_connected_and_min_weight():
    corpus = make([(list("abc"), 0), (list("ab"), 0), (list("de"), 0), (["f"], 0)])
    _, all_ = build(corpus)
    assert len(all_.network) == 6
    _, part = build(corpus, keep="connected")
    assert set(part.network.label) == set("abc")
    _, heavy = build(corpus, min_weight=2.0, keep="connected")
    assert set(heavy.network.label) == set("ab") and heavy.network.ties == 1


@given(st.integers(1, 25), st.lists(st.tuples(st.integers(0, 24), st.integers(0, 24)), max_size=40))
def test_components_agree_with_networkx(n, edges):
    edges = [(a, b) for a, b in edges if a < n and b < n]
    graph = nx.Graph()
    graph.add_nodes_from(range(n))
    graph.add_edges_from(edges)
    s, t = np.array(edges, np.int32).reshape(-1, 2).T
    found = components(n, s, t)
    groups = defaultdict(set)
    for i, c in enumerate(found.tolist()):
        groups[c].add(i)
    assert sorted(map(sorted, groups.values())) == sorted(map(sorted, nx.connected_components(graph)))
    sizes = [len(groups[c]) for c in range(len(groups))]
    assert sizes == sorted(sizes, reverse=True)


def test_topics_find_what_was_planted_and_modularity_agrees(corpus, truth):
    merges = []
    for form, word in truth["keywords"].items():
        if form != word and word in truth["keywords"]:
            merges.append(Decision("keyword", "merge", form, word))
    _, filtered = build(corpus, merges, min_records=4, normalise="association")
    network = filtered.network
    topic = partition(network).topic
    planted = {t: k for k, t in enumerate(dict.fromkeys(truth["home"].values()))}
    known = np.array([label in truth["home"] for label in network.label])
    home = np.array([planted[truth["home"][label]] if label in truth["home"] else -1 for label in network.label])
    assert adjusted_rand(topic[known], home[known].astype(np.int32)) > 0.95
    graph = nx.Graph()
    graph.add_nodes_from(range(len(network)))
    graph.add_weighted_edges_from(zip(network.source.tolist(), network.target.tolist(), network.weight.tolist()))
    sets = [set(np.flatnonzero(topic == k).tolist()) for k in range(topic.max() + 1)]
    for grain in (0.5, 1.0, 2.0):
        ours = modularity(network, topic, grain, True)
        assert ours == pytest.approx(nx.community.modularity(graph, sets, resolution=grain))
    assert np.array_equal(topic, partition(network).topic), "the same seed gives the same topics"
    stable = stability(network, topic, runs=5)
    assert 0.9 < stable.index <= 1 and stable.confidence.min() >= 0 and stable.confidence.max() <= 1


def test_adjusted_rand_and_matching():
    a, b = np.array([0, 0, 0, 1, 1, 1]), np.array([0, 0, 1, 1, 2, 2])
    assert adjusted_rand(a, b) == pytest.approx(0.24242424)  # Hubert & Arabie's formula by hand: 2.4 / 9.9
    assert adjusted_rand(a, 1 - a) == 1.0
    assert match(np.array([1, 1, 0, 0, 2]), np.array([0, 0, 1, 1, 1])).tolist() == [1, 0, -1]


@given(st.lists(st.tuples(st.integers(0, 3), st.integers(0, 3)), min_size=1, max_size=9))
def test_topics_are_matched_so_that_most_items_stay(pairs):
    new, old = np.array(pairs).T
    partner = match(new, old)
    table = Counter(pairs)
    kept = sum(table[a, int(b)] for a, b in enumerate(partner) if b >= 0)
    best = max(sum(table[a, b] for a, b in enumerate(order)) for order in itertools.permutations(range(4)))
    assert kept == best and all(table[a, int(b)] for a, b in enumerate(partner) if b >= 0)


def test_a_topic_keeps_its_number_when_topics_move():
    before = np.array([2, 2, 2, 0, 0, 1, 1, -1])
    now = np.array([0, 0, 0, 1, 1, 2, 3, 3])
    assert keep_identity(now, before)[now].tolist() == [2, 2, 2, 0, 0, 1, 3, 3]


def test_log_likelihood_is_dunnings_over_the_four_cells():
    """Against SciPy's likelihood-ratio test of the 2 × 2 table."""
    from scipy.stats import chi2_contingency

    inside, outside, n_in, n_out = np.array([110.0, 30.0, 0.0, 200.0]), np.array([90.0, 2000.0, 5.0, 0.0]), 200, 37000
    score = log_likelihood(inside, outside, n_in, n_out)
    for k, (a, b) in enumerate(zip(inside.tolist(), outside.tolist())):
        table = [[a, b], [n_in - a, n_out - b]]
        expected = chi2_contingency(table, correction=False, lambda_="log-likelihood").statistic
        assert abs(score[k]) == pytest.approx(expected)
    assert score[0] > 0 and score[1] > 0 and score[2] < 0 and score[3] > 0


def test_ties_of_a_network_file_keep_their_weights_through_counting():
    from umber_knot.gather.read import read_text

    harvest = read_text("source,target,weight\na,b,2.5\nb,a,1\nb,c,4\nd,d,9\n", "ties.csv", {"kind": "keyword"})
    records = list(harvest)
    counted, filtered = build(corpus_of([(harvest.source, records)]))
    network = filtered.network
    found = {
        tuple(sorted((network.label[s], network.label[t]))): w
        for s, t, w in zip(network.source, network.target, network.weight)
    }
    assert found == {("a", "b"): 3.5, ("b", "c"): 4.0, ("d", "d"): 9.0} and set(network.label) == {"a", "b", "c", "d"}
    assert dict(zip(network.label, counted.strength.tolist())) == {
        "a": 3.5,
        "b": 7.5,
        "c": 4.0,
        "d": 18.0,
    }  # a loop has two ends


def test_co_authorship_counts_authors_and_co_occurrence_everybody():
    raw = [RawRecord(1, persons=["A", "B"], others=[("person", "editor", "C"), ("person", "recipient", "D")])]
    corpus = corpus_of([(Source("s", "s", "RIS", "utf-8", "", 1), raw)])
    resolution = resolve(corpus, "person", [])
    ties = {
        tie: len(count(corpus, {"person": resolution}, Relate(tie=tie, of="person")).source)
        for tie in ("co-authorship", "co-occurrence")
    }
    assert ties == {"co-authorship": 1, "co-occurrence": 6}
    assert corpus.of("person").counts().tolist() == [1, 1, 1, 1]


def test_figures_of_a_grouping_are_of_the_grouping_shown():
    """Under the constant Potts model one topic that holds everything has modularity 0, whatever the grain."""
    ring = [(k, (k + 1) % 12) for k in range(12)]
    network = network_of(12, ring)
    whole = partition(network, 0.01, quality="cpm")
    assert set(whole.topic.tolist()) == {0} and whole.modularity == pytest.approx(0)
    assert whole.quality == pytest.approx(1 - 0.01 * 144 / 2 / 12)
    graph = nx.Graph(ring)
    for resolution, quality in ((1.0, "modularity"), (2.5, "modularity"), (0.4, "cpm")):
        made = partition(network, resolution, quality=quality, min_size=3)
        alone = [{int(i)} for i in np.flatnonzero(made.topic < 0)]
        sets = [set(np.flatnonzero(made.topic == k).tolist()) for k in range(made.topic.max() + 1)]
        parts = [s for s in sets if s] + alone
        assert made.modularity == pytest.approx(nx.community.modularity(graph, parts))
        if quality == "modularity":
            assert made.quality == pytest.approx(nx.community.modularity(graph, parts, resolution=resolution))
        else:
            inside = sum(graph.subgraph(part).number_of_edges() - resolution * len(part) ** 2 / 2 for part in parts)
            assert made.quality == pytest.approx(inside / 12)


@given(
    st.lists(st.tuples(st.integers(0, 9), st.integers(0, 9)), min_size=3, max_size=30),
    st.floats(0.05, 1.5),
    st.integers(0, 5),
)
@settings(max_examples=25)
def test_the_quality_is_the_one_that_igraph_optimised(edges, resolution, seed):
    import random

    import igraph

    network = network_of(10, edges)
    if not network.ties:
        return
    for quality, name in (("modularity", "modularity"), ("cpm", "CPM")):
        igraph.set_random_number_generator(random.Random(seed))
        graph = igraph.Graph(10, list(zip(network.source.tolist(), network.target.tolist())))
        found = graph.community_leiden(name, weights=network.weight.tolist(), resolution=resolution, n_iterations=-1)
        assert partition(network, resolution, seed, quality=quality).quality == pytest.approx(found.quality, abs=1e-9)


@settings(max_examples=40, deadline=None)
@given(
    st.lists(st.tuples(st.integers(0, 8), st.integers(0, 8), st.integers(1, 5)), max_size=25),
    st.lists(st.integers(0, 3), min_size=9, max_size=9),
)
def test_the_share_inside_a_topic_is_what_networkx_adds_up(edges, topics):
    graph = nx.Graph()
    graph.add_nodes_from(range(9))
    graph.add_weighted_edges_from((a, b, w) for a, b, w in edges if a != b)
    pairs = sorted((min(a, b), max(a, b)) for a, b in graph.edges)
    network = network_of(9, pairs, weight=[graph[a][b]["weight"] for a, b in pairs])
    share = share_inside(network, np.array(topics, np.int32))
    for i in range(9):
        whole = graph.degree(i, weight="weight")
        within = sum(graph[i][j]["weight"] for j in graph[i] if topics[i] == topics[j])
        assert share[i] == pytest.approx(within / whole) if whole else np.isnan(share[i])
        ties = [t for t, pair in enumerate(pairs) if i in pair]
        assert strongest_tie(network, i) == max(ties, key=lambda t: (network.weight[t], -t), default=-1)
    assert strongest_tie(network) == (max(range(len(pairs)), key=lambda t: (network.weight[t], -t)) if pairs else -1)


def test_the_least_sure_come_first():
    assert unsure(np.array([0.9, 0.3, 0.8, 0.79, 0.1])).tolist() == [4, 1, 3]


def test_the_line_parts_the_items_kept_from_those_left_out(corpus):
    resolution = resolve(corpus, "keyword", [Decision("keyword", "aside", corpus.of("keyword").forms[3])])
    counted = count(corpus, {"keyword": resolution}, Relate(of="keyword", tie="co-occurrence"))
    filtered = select(corpus, counted, Relate(of="keyword", tie="co-occurrence", min_records=5))
    rows = listed(Related(counted, filtered), most=7)
    used = Counter(e for e in counted.item.tolist() if not resolution.aside[e])
    above, below = ([n for n in used.values() if ok(n)] for ok in (lambda n: n >= 5, lambda n: n < 5))
    assert rows.line == len(above) == len(filtered.network) and rows.under == len(below) > 7
    assert len(rows.label) == len(rows.order) == rows.line + 7 and sorted(rows.order) == list(range(len(rows.label)))
    assert rows.records[rows.order][: rows.line].tolist() == sorted(above, reverse=True)
    assert rows.records[rows.line :].tolist() == sorted(below, reverse=True)[:7]
    assert not np.isnan(rows.ties[: rows.line]).any() and np.isnan(rows.strength[rows.line :]).all()
    assert rows.part[: rows.line].min() == 1 and corpus.of("keyword").forms[3] not in rows.label
