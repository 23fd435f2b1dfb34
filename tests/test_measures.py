"""Measures against igraph and networkx on random networks: directed, weighted, in parts, with loops and parallel ties."""

import csv
import json
import math
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import igraph
import networkx as nx
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.building import network_of
from umber_knot.cli import main
from umber_knot.errors import UserError
from umber_knot.lineage.recipe import parse_recipe
from umber_knot.network.measures import paths as p
from umber_knot.network.measures.registry import (
    BY_NAME,
    MEASURES,
    Material,
    columns_of,
    measure,
    missing,
    of_column,
    possible,
)
from umber_knot.network.measures.whole import FIGURES, figures

TIES = st.lists(st.tuples(st.integers(0, 7), st.integers(0, 7), st.sampled_from([1.0, 2.0, 3.0, 5.0])), max_size=18)
NETWORKS = st.tuples(st.integers(1, 8), TIES, st.booleans())


def made(network, loops=True, parallel=True):
    """(our network, the same as a networkx multigraph)."""
    n, rows, directed = network
    rows = [(a % n, b % n, w) for a, b, w in rows]
    if not loops:
        rows = [r for r in rows if r[0] != r[1]]
    if not parallel:
        rows = list({(a, b) if directed else (min(a, b), max(a, b)): (a, b, w) for a, b, w in rows}.values())
    if not directed:
        rows = [(min(a, b), max(a, b), w) for a, b, w in rows]
    ours = network_of(n, [(a, b) for a, b, _ in rows], weight=[w for *_, w in rows], directed=directed)
    theirs = nx.MultiDiGraph() if directed else nx.MultiGraph()
    theirs.add_nodes_from(range(n))
    for a, b, w in rows:
        theirs.add_edge(a, b, weight=w)
    return ours, theirs


def simple(graph):
    """Without loops, parallel ties one whose weights are added; lengths are 1/w."""
    found = nx.DiGraph() if graph.is_directed() else nx.Graph()
    found.add_nodes_from(graph)
    for a, b, w in graph.edges(data="weight"):
        if a != b:
            old = found[a][b]["weight"] if found.has_edge(a, b) else 0.0
            found.add_edge(a, b, weight=old + w)
    for _, _, facts in found.edges(data=True):
        facts["length"] = Fraction(1, int(facts["weight"]))  # so that sums are equal where they are
    return found


def values(ours, *columns, **more):
    return measure(Material(ours, **more), columns)


def same(found, expected, n, **kind):
    kind = {"rel": 1e-9, "abs": 1e-12} | kind
    for i in range(n):
        want = expected[i]
        assert (math.isnan(found[i]) and math.isnan(want)) or found[i] == pytest.approx(want, **kind), (
            i,
            found,
            expected,
        )


@given(NETWORKS)
@settings(max_examples=80)
def test_degree_and_strength(network):
    ours, theirs = made(network)
    found = values(ours, "degree", "strength")
    same(found["degree"], dict(theirs.degree()), len(ours))
    same(found["strength"], dict(theirs.degree(weight="weight")), len(ours))
    if ours.directed:
        ways = values(ours, *(f"{k}_{way}" for k in ("degree", "strength") for way in ("in", "out", "total", "mean")))
        same(ways["degree_in"], dict(theirs.in_degree()), len(ours))
        same(ways["strength_out"], dict(theirs.out_degree(weight="weight")), len(ours))
        assert np.array_equal(ways["degree_total"], ways["degree_in"] + ways["degree_out"])
        assert np.array_equal(ways["strength_mean"] * 2, ways["strength_in"] + ways["strength_out"])


@given(NETWORKS, st.booleans())
@settings(max_examples=120)
def test_shortest_paths(network, weighted):
    ours, theirs = made(network)
    graph, n = simple(theirs), len(ours)
    length = "length" if weighted else None
    end = "_weighted" if weighted else ""
    names = ("betweenness", "betweenness_share", "closeness", "harmonic", "reach", "stress", "stress_share")
    found = values(ours, *(name + end for name in names))
    same(found["betweenness" + end], nx.betweenness_centrality(graph, normalized=False, weight=length), n)
    if n > 2:
        same(found["betweenness_share" + end], nx.betweenness_centrality(graph, normalized=True, weight=length), n)
    away = graph.reverse() if ours.directed else graph  # networkx measures what comes in
    same(found["closeness" + end], nx.closeness_centrality(away, distance=length), n)
    harmonic = nx.harmonic_centrality(away, distance=length)
    same(found["harmonic" + end], {k: v / max(n - 1, 1) for k, v in harmonic.items()}, n)
    distance = dict(nx.all_pairs_dijkstra_path_length(graph, weight=length or (lambda *_: 1)))
    same(found["reach" + end], {k: max(d.values()) for k, d in distance.items()}, n)
    through = dict.fromkeys(range(n), 0)
    for s in range(n):
        for t in distance[s]:
            if s != t and (ours.directed or s < t):
                for path in nx.all_shortest_paths(graph, s, t, weight=length):
                    for v in path[1:-1]:
                        through[v] += 1
    same(found["stress" + end], through, n)
    most = max(through.values())
    same(found["stress_share" + end], {k: v / most if most else 0.0 for k, v in through.items()}, n)


def test_paths_of_equal_length_count_although_floats_differ():
    ours = network_of(3, [(0, 1), (1, 2), (0, 2)], weight=[1 / 0.1, 1 / 0.2, 1 / 0.3])
    found = values(ours, "betweenness_weighted")["betweenness_weighted"]
    assert found.tolist() == [0, 0.5, 0]  # 0.1 + 0.2 is 0.3, whatever floats say


@given(NETWORKS, st.booleans())
@settings(max_examples=60)
def test_eigenvector_pagerank_katz_hubs(network, weighted):
    ours, theirs = made(network)
    n, end = len(ours), "_weighted" if weighted else ""
    a = np.zeros((n, n))
    for s, t, w in theirs.edges(data="weight"):
        a[s, t] += w
        if not ours.directed and s != t:
            a[t, s] += w
    if not weighted:
        a = (a > 0).astype(float)
    graph = nx.from_numpy_array(a, create_using=nx.DiGraph)
    found = values(ours, *(name + end for name in ("pagerank", "katz", "hub", "authority", "eigenvector")))
    same(found["pagerank" + end], nx.pagerank(graph, alpha=0.85, tol=1e-15, max_iter=2000), n, rel=1e-9, abs=1e-10)
    top = max((abs(v) for v in np.linalg.eigvals(a)), default=0.0)
    alpha = 0.9 / top if top > 1e-6 else 0.9
    same(found["katz" + end], np.linalg.solve(np.eye(n) - alpha * a.T, np.ones(n)), n, rel=1e-7)
    for name, product in (("hub", a @ a.T), ("authority", a.T @ a)):
        x = found[name + end]
        if a.any():
            assert x.max() == pytest.approx(1) and x.min() >= 0
            assert product @ x == pytest.approx(np.linalg.eigvalsh(product).max() * x, rel=1e-7, abs=1e-7)
    x = found["eigenvector" + end]
    for part in nx.weakly_connected_components(graph):
        inside = sorted(part)
        own, y = a[np.ix_(inside, inside)].T, x[inside]
        radius = max(np.linalg.eigvals(own).real)
        if len(inside) > 1 and radius > 1e-6:
            assert y.max() == pytest.approx(1) and y.min() >= 0
            assert own @ y == pytest.approx(radius * y, rel=1e-6, abs=1e-6)
        elif len(inside) == 1:
            assert y == 0


@given(NETWORKS, st.booleans())
@settings(max_examples=80)
def test_clustering_core_and_structural_holes(network, weighted):
    ours, theirs = made(network)
    n, end = len(ours), "_weighted" if weighted else ""
    both = nx.Graph(simple(theirs).to_undirected(as_view=False)) if not ours.directed else nx.Graph()
    if ours.directed:
        both.add_nodes_from(range(n))
        for s, t, w in simple(theirs).edges(data="weight"):
            both.add_edge(s, t, weight=(both[s][t]["weight"] if both.has_edge(s, t) else 0) + w)
    found = values(ours, *(name + end for name in ("clustering", "constraint", "effective_size")), "core_number")
    same(found["core_number"], nx.core_number(both), n)
    g = igraph.Graph.from_networkx(both)
    if weighted and both.number_of_edges():
        barrat = g.transitivity_local_undirected(mode="zero", weights="weight")
        same(found["clustering" + end], barrat, n)
    elif not weighted:
        same(found["clustering"], nx.clustering(both), n)
    graph = simple(theirs)
    tie = "weight" if weighted else None
    same(found["constraint" + end], nx.constraint(graph, weight=tie), n)
    if not weighted and not ours.directed:  # asked node by node: for all at once networkx 3.6 takes the wrong maximum
        same(found["effective_size"], nx.effective_size(graph, nodes=range(n)), n)
    w = np.zeros((n, n))  # Burt's formula as it stands
    for s, t, weight in graph.edges(data="weight"):
        w[s, t] += weight if weighted else 1
        w[t, s] += weight if weighted else 1
    for i in range(n):
        near = np.flatnonzero(w[i])
        want = sum(
            1 - sum(w[i, q] / w[i].sum() * w[j, q] / w[j].max() for q in range(n) if q not in (i, j)) for j in near
        )
        assert found["effective_size" + end][i] == pytest.approx(want if len(near) else math.nan, nan_ok=True)


@given(NETWORKS, st.lists(st.integers(-1, 2), min_size=8, max_size=8), st.booleans())
@settings(max_examples=60)
def test_standing_among_topics(network, topic, weighted):
    ours, theirs = made(network)
    n, end = len(ours), "_weighted" if weighted else ""
    topic = np.array(topic[:n], np.int32)
    found = values(ours, "participation" + end, "within_topic_z" + end, topic=topic)
    w = np.zeros((n, n))
    for s, t, weight in simple(theirs).edges(data="weight"):
        if weighted:
            w[s, t] += weight
            w[t, s] += weight
        else:
            w[s, t] = w[t, s] = 1
    k = w.sum(axis=1)
    for i in range(n):
        shares = [(w[i, topic == t].sum() / k[i]) ** 2 for t in range(3)] if k[i] else []
        want = 1 - sum(shares) if k[i] else math.nan
        assert found["participation" + end][i] == pytest.approx(want, nan_ok=True, abs=1e-12)
        if topic[i] < 0:
            assert math.isnan(found["within_topic_z" + end][i])
            continue
        own = np.array([w[j, topic == topic[i]].sum() for j in np.flatnonzero(topic == topic[i])])
        mine = w[i, topic == topic[i]].sum()
        want = (mine - own.mean()) / own.std() if own.std() > 1e-12 else 0.0
        assert found["within_topic_z" + end][i] == pytest.approx(want, abs=1e-9)


@given(st.lists(st.tuples(st.integers(0, 3), st.integers(0, 12)), min_size=1, max_size=25))
@settings(max_examples=80)
def test_h_g_and_m(rows):
    item, cited = (np.array(column, np.int32) for column in zip(*rows))
    ours = network_of(4, [])
    first = np.array([1990, 2000, 0, 2010], np.int32)
    on = {"item": item, "cited": np.r_[cited], "first_year": first, "last_year": 2019}
    if not cited.any():
        assert missing(BY_NAME["h"], Material(ours, **on)) == "no record says how often it is cited"
        return
    found = values(ours, "h", "g", "m", **on)
    for i in range(4):
        own = sorted((int(c) for k, c in rows if k == i), reverse=True)
        h = max((k for k in range(len(own) + 1) if sum(c >= k for c in own) >= k), default=0)
        g = max((k for k in range(len(own) + 1) if sum(own[:k]) >= k * k), default=0)
        assert (found["h"][i], found["g"][i]) == (h, g)
        want = h / (2019 - first[i] + 1) if first[i] else math.nan
        assert found["m"][i] == pytest.approx(want, nan_ok=True)


@given(NETWORKS)
@settings(max_examples=80)
def test_figures_of_the_whole(network):
    ours, theirs = made(network)
    graph, n = simple(theirs), len(ours)
    found = figures(ours)
    assert tuple(found) == FIGURES
    pairs = sum(1 for a, b in theirs.edges() if a == b)
    assert (found["items"], found["ties"], found["loops"]) == (n, theirs.number_of_edges(), pairs)
    assert found["isolates"] == nx.number_of_isolates(theirs)
    unique = {(a, b) if ours.directed else (min(a, b), max(a, b)) for a, b in theirs.edges()}
    assert found["parallel"] == theirs.number_of_edges() - len(unique)
    same([found["density"]], [nx.density(graph) if n > 1 else math.nan], 1)
    weak = list(nx.weakly_connected_components(graph) if ours.directed else nx.connected_components(graph))
    strong = list(nx.strongly_connected_components(graph) if ours.directed else nx.connected_components(graph))
    assert (found["components"], found["strong_components"]) == (len(weak), len(strong))
    assert found["largest_share"] == pytest.approx(max(map(len, weak)) / n)
    largest = max(weak, key=lambda c: (len(c), -min(c)))
    distance = [
        d for s, own in nx.all_pairs_shortest_path_length(graph) if s in largest for t, d in own.items() if s != t
    ]
    same([found["diameter"]], [max(distance) if distance else math.nan], 1)
    same([found["mean_path"]], [np.mean(distance) if distance else math.nan], 1)
    both = graph.to_undirected()
    same([found["transitivity"]], [nx.transitivity(both)], 1)
    same([found["mean_clustering"]], [nx.average_clustering(both)], 1)
    if ours.directed and graph.number_of_edges():
        same([found["reciprocity"]], [nx.overall_reciprocity(graph)], 1)
    g = igraph.Graph(n, list(graph.edges()), directed=ours.directed)
    expected = g.assortativity_degree(directed=ours.directed) if graph.number_of_edges() else math.nan
    assert found["assortativity"] == pytest.approx(expected, nan_ok=True, abs=1e-9)


def test_a_star_is_as_central_as_can_be_and_a_ring_not_at_all():
    star, ring = network_of(6, [(0, k) for k in range(1, 6)]), network_of(6, [(k, (k + 1) % 6) for k in range(6)])
    for name in ("degree", "closeness", "betweenness"):
        assert figures(star)[f"centralisation_{name}"] == pytest.approx(1)
        assert figures(ring)[f"centralisation_{name}"] == pytest.approx(0)
    out = network_of(6, [(0, k) for k in range(1, 6)], directed=True, weight=[1.0] * 5)
    assert figures(out)["centralisation_degree"] == figures(out)["centralisation_closeness"] == 1


def test_a_sample_estimates_with_its_error_and_both_cores_give_the_same_every_time():
    rng = np.random.default_rng(4)
    edges = {tuple(sorted(pair)) for pair in rng.integers(0, 300, (1200, 2)).tolist() if pair[0] != pair[1]}
    ours = network_of(300, sorted(edges))
    whole = p.shortest_paths(ours)
    some = p.shortest_paths(ours, sample=150, seed=7)
    assert np.array_equal(some.through, p.shortest_paths(ours, sample=150, seed=7).through)
    assert not np.array_equal(some.through, p.shortest_paths(ours, sample=150, seed=8).through)
    assert np.array_equal(whole.through, p.shortest_paths(ours).through)
    off = np.abs(some.through - whole.through)
    assert (off < 4 * some.error + 1e-9).mean() > 0.95 and some.through.sum() == pytest.approx(
        whole.through.sum(), rel=0.1
    )
    assert np.isnan(some.total).sum() == 150 and len(whole.error) == 0


def test_weights_that_are_no_lengths_are_refused_or_lead_nowhere():
    ours = network_of(3, [(0, 1), (1, 2)], weight=[1.0, -2.0])
    with pytest.raises(UserError, match="below 0"):
        values(ours, "betweenness_weighted")
    assert values(ours, "betweenness")["betweenness"].tolist() == [0, 1, 0]
    nothing = network_of(3, [(0, 1), (1, 2)], weight=[1.0, 0.0])
    assert values(nothing, "betweenness_weighted")["betweenness_weighted"].tolist() == [0, 0, 0]


def test_progress_can_stop_the_work():
    ours = network_of(200, [(k, k + 1) for k in range(199)])

    class Stop(Exception):
        pass

    def stop(done, of):
        raise Stop

    with pytest.raises(Stop):
        p.shortest_paths(ours, progress=stop)


@pytest.mark.parametrize("n", [0, 1, 2])
def test_next_to_nothing_has_measures_too(n):
    ours = network_of(n, [(0, 1)] if n == 2 else [])
    found = measure(Material(ours), columns_of(possible(Material(ours)), True))
    assert all(len(v) == n for v in found.values()) and len(figures(ours)) == len(FIGURES)


def test_every_measure_says_what_it_is():
    assert len(BY_NAME) == len(MEASURES)
    assert all(m.title and m.formula and m.source and m.reading for m in MEASURES)
    with pytest.raises(UserError, match="betweenness"):
        of_column("betweeness")
    with pytest.raises(UserError):
        of_column("degree_weighted")
    with pytest.raises(UserError, match="no direction"):
        values(network_of(2, [(0, 1)]), "degree_in")


def run(tmp_path, text, *more, name="net.csv"):
    (tmp_path / name).write_text(text, encoding="utf-8")
    code = main(["measure", str(tmp_path / name), "--out", str(tmp_path / "i.csv"), *more])
    if code:
        return code, None
    with (tmp_path / "i.csv").open(newline="", encoding="utf-8") as file:
        return code, list(csv.DictReader(file))


def test_the_command_writes_items_and_figures(tmp_path, capsys):
    text = "source,target,weight\na,b,2\nb,c,1\nb,c,1\nc,c,4\n"
    summary = tmp_path / "deep" / "s.json"
    code, rows = run(tmp_path, text, "--summary", str(summary), "--weighted")
    assert code == 0 and [r["label"] for r in rows] == ["a", "b", "c"]
    assert [r["degree"] for r in rows] == ["1", "3", "4"] and rows[1]["betweenness"] == "1"
    assert "betweenness_weighted" in rows[0] and "degree_in" not in rows[0] and "h" not in rows[0]
    told = json.loads(summary.read_text())
    assert tuple(told) == FIGURES and (told["loops"], told["parallel"], told["ties"]) == (1, 1, 4)
    assert "3 items, 4 ties" in capsys.readouterr().err
    code, rows = run(tmp_path, text, "--measures", "degree_out,reach", "--directed")
    assert list(rows[0]) == ["id", "label", "kind", "degree_out", "reach"] and rows[0]["degree_out"] == "1"
    assert run(tmp_path, text, "--measures", "betweeness")[0] == 2
    assert "Did you mean 'betweenness'" in capsys.readouterr().err
    assert run(tmp_path, text, "--measures", "h")[0] == 2
    assert "records with their citations" in capsys.readouterr().err
    assert run(tmp_path, "no network at all\n", name="x.txt")[0] == 2


def test_a_network_taken_with_and_without_directions(tmp_path):
    text = '<graphml xmlns="http://graphml.graphdrawing.org/xmlns"><graph edgedefault="directed"><node id="a"/><node id="b"/>'
    text += '<edge source="a" target="b"/><edge source="b" target="a"/></graph></graphml>'
    _, rows = run(tmp_path, text, "--measures", "degree,degree_in", name="n.graphml")
    assert [(r["degree"], r["degree_in"]) for r in rows] == [("2", "1")] * 2
    summary = tmp_path / "s.json"
    run(tmp_path, text, "--measures", "degree", "--undirected", "--summary", str(summary), name="n.graphml")
    told = json.loads(summary.read_text())
    assert (told["ties"], told["parallel"], told["reciprocity"]) == (2, 1, 1.0)


def test_attributes_and_kinds_do_not_stand_in_the_way():
    ours = replace(network_of(3, [(0, 1)]), kinds=("person", "venue"), kind_code=np.array([0, 1, 0], np.int8))
    assert values(ours, "degree")["degree"].tolist() == [1, 1, 0]


RECIPE = """
[gather]
sources = ["a.ris"]
[group]
runs = 0
[measures]
of_items = ["betweenness", "closeness_weighted", "participation", "h", "m"]
of_network = ["items", "density", "diameter"]
yardstick = "rewired"
runs = 3
removal = ["random", "betweenness_recomputed"]
"""


def test_a_run_measures_what_its_recipe_asks_for(tmp_path):
    rows = [("A", "B", 4), ("B", "C", 2), ("C", "D", 0), ("A", "C", 1)]
    text = "".join(
        f"TY  - JOUR\nTI  - On mud {k}\nAU  - {a}, X.\nAU  - {b}, X.\nPY  - {2000 + k}\nC1  - cited {c}\nER  -\n"
        for k, (a, b, c) in enumerate(rows)
    )
    (tmp_path / "a.ris").write_text(text, encoding="utf-8")
    (tmp_path / "r.toml").write_text(RECIPE.replace('"h", "m"', '"core_number"'), encoding="utf-8")
    out = tmp_path / "out"
    assert main(["run", str(tmp_path / "r.toml"), "--out", str(out), "--quiet"]) == 0
    with (out / "items.csv").open(newline="", encoding="utf-8") as file:
        items = list(csv.DictReader(file))
    assert list(items[0])[-4:] == ["betweenness", "closeness_weighted", "participation", "core_number"]
    assert {r["label"]: r["betweenness"] for r in items}["C, X."] == "2"
    assert json.loads((out / "summary.json").read_text()) == {"items": 4, "density": 4 / 6, "diameter": 2}
    with (out / "yardsticks.csv").open(newline="") as file:
        assert {r["figure"]: r["here"] for r in csv.DictReader(file)}["largest_share"] == "1"
    with (out / "removal.csv").open(newline="") as file:
        trials = list(csv.DictReader(file))
    assert [r["order"] for r in trials].count("random") == 5
    assert [float(r["largest_share"]) for r in trials if r["order"] == "betweenness_recomputed"] == [
        1,
        0.5,
        0.25,
        0.25,
        0,
    ]
    method = (out / "methods.md").read_text(encoding="utf-8")
    assert "a tie's length is 1/w" in method and "3 random networks (rewired), seeds 1 to 3" in method
    before = (out / "items.csv").read_bytes()
    main(["run", str(tmp_path / "r.toml"), "--out", str(out), "--quiet"])
    assert (out / "items.csv").read_bytes() == before


@pytest.mark.parametrize(
    ("section", "cure"),
    [
        ('of_items = ["betweeness"]', "Did you mean 'betweenness'"),
        ('of_network = ["densitty"]', "Did you mean 'density'"),
        ('yardstick = "random"', "cannot be"),
        ("runs = 0", ""),
        ('removal = ["luck"]', ""),
    ],
)
def test_a_wrong_measure_in_a_recipe_is_named(section, cure):
    with pytest.raises(UserError) as error:
        parse_recipe(f"[measures]\n{section}\n")
    assert cure in str(error.value)


def test_measures_of_a_recipe_round_trip_and_are_left_out_where_none_are():
    recipe = parse_recipe(RECIPE + "[[strand]]\nname = 'B'\n[strand.measures]\nof_items = ['katz']\n")
    assert parse_recipe(recipe.toml()) == recipe and recipe.strands[1].measures.of_items == ("katz",)
    assert "measures" not in parse_recipe("").toml()


def test_the_page_of_measures_names_every_one():
    page = (Path(__file__).parents[1] / "docs" / "measures.md").read_text(encoding="utf-8")
    assert all(f"| `{m.name}` | {m.formula} |" in page for m in MEASURES)
    assert all(f"| `{name}` |" in page for name in FIGURES)


@given(st.integers(1, 5), st.integers(1, 5), st.lists(st.tuples(st.integers(0, 4), st.integers(0, 4)), max_size=14))
@settings(max_examples=60)
def test_two_sides_each_against_its_own_most(one, other, pairs):
    edges = sorted({(a % one, one + b % other) for a, b in pairs})
    kinds = np.array([0] * one + [1] * other, np.int8)
    ours = replace(network_of(one + other, edges), kinds=("person", "venue"), kind_code=kinds)
    graph = nx.Graph(edges)
    graph.add_nodes_from(range(one + other))
    top, n = set(range(one)), one + other
    found = values(ours, "degree_two_mode", "closeness_two_mode", "betweenness_two_mode")
    same(found["degree_two_mode"], nx.bipartite.degree_centrality(graph, top), n)
    same(found["closeness_two_mode"], nx.bipartite.closeness_centrality(graph, top), n)
    if one > 1 and other > 1:
        same(found["betweenness_two_mode"], nx.bipartite.betweenness_centrality(graph, top), n)


def test_an_estimate_is_exact_where_all_are_sources_and_is_only_made_when_asked_for():
    ours = network_of(6, [(0, 1), (1, 2), (2, 3), (3, 4), (4, 5)])
    found = values(ours, "betweenness", "betweenness_estimate", "betweenness_error")
    assert np.array_equal(found["betweenness"], found["betweenness_estimate"]) and not found["betweenness_error"].any()
    assert "betweenness_estimate" not in possible(Material(ours)) and p.seconds(ours) < 1


def test_a_weight_can_be_a_distance(tmp_path):
    text = "source,target,weight\na,b,1\nb,c,1\na,c,3\n"
    for more, want in (((), "0"), (("--distance",), "1")):
        _, rows = run(tmp_path, text, "--measures", "betweenness_weighted", *more)
        assert rows[1]["betweenness_weighted"] == want
    recipe = parse_recipe('[measures]\nof_items = ["closeness_weighted"]\nweights = "distance"\n')
    assert parse_recipe(recipe.toml()) == recipe


def test_marks_sized_by_what_cannot_be_measured_are_all_least(tmp_path):
    (tmp_path / "a.ris").write_text("TY  - JOUR\nTI  - Mud\nAU  - Dray, T\nAU  - Marl, J\nPY  - 1990\nER  -\n")
    (tmp_path / "r.toml").write_text('[gather]\nsources = ["a.ris"]\n[group]\nruns = 0\n[chart]\nsize_by = "h"\n')
    assert main(["run", str(tmp_path / "r.toml"), "--out", str(tmp_path / "out"), "--quiet"]) == 0
