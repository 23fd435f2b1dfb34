"""Networks of every shape: what they count, and that every file keeps all of them."""

import json

import networkx as nx
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.building import network_of
from umber_knot.corpus.texts import Texts
from umber_knot.errors import UserError
from umber_knot.network.csv_tables import items_table, ties_table
from umber_knot.network.gml import gml
from umber_knot.network.graphml import graphml
from umber_knot.network.model import Attribute, years
from umber_knot.network.node_link import node_link
from umber_knot.network.reading import read_network

DAY = st.dates().map(lambda d: np.datetime64(d, "D")) | st.just(np.datetime64("NaT", "D"))
WORD = st.text(st.characters(categories=("L", "N"), exclude_characters="\ufffe\uffff"), min_size=1, max_size=6).map(
    lambda t: "w" + t
)
VALUES = st.sampled_from(["whole", "number", "truth", "text"])


def attribute(draw, kind, n):
    made = {
        "whole": st.integers(-(2**53), 2**53),
        "number": st.floats(allow_nan=False, allow_infinity=False),
        "truth": st.booleans(),
        "text": WORD,
    }[kind]
    values = draw(st.lists(st.none() | made, min_size=n, max_size=n))
    if kind == "number":  # numbers that are all whole are told from whole numbers by a part at least
        values = [None if v is None else v + 0.5 for v in values]
    return Attribute.of(values)


@st.composite
def networks(draw):
    n = draw(st.integers(1, 6))
    edges = draw(st.lists(st.tuples(st.integers(0, n - 1), st.integers(0, n - 1)), max_size=9))
    directed = draw(st.booleans()) and bool(edges)
    edges = [e if directed else tuple(sorted(e)) for e in edges]
    m = len(edges)
    labels = draw(st.lists(WORD, min_size=n, max_size=n, unique=True))
    weight = draw(st.lists(st.floats(-1e6, 1e6, allow_subnormal=False), min_size=m, max_size=m))
    days = {
        k: np.array(draw(st.lists(DAY, min_size=c, max_size=c)), "datetime64[D]")
        for k, c in (("first", n), ("last", n), ("tie_first", m), ("tie_last", m))
    }
    kinds = draw(st.lists(st.sampled_from(["person", "venue", "kind"]), min_size=n, max_size=n))
    table = list(dict.fromkeys(kinds))
    return network_of(
        n,
        edges,
        labels,
        weight=weight,
        directed=directed,
        **days,
        kinds=tuple(table),
        kind_code=np.array([table.index(k) for k in kinds] if len(table) > 1 else [], np.int16),
        citations=np.array(draw(st.lists(st.integers(0, 10**6), min_size=n, max_size=n)), np.int32),
        count=np.array(draw(st.lists(st.integers(0, 99), min_size=m, max_size=m)), np.int32),
        item_columns={
            name: attribute(draw, draw(VALUES), n)
            for name in draw(st.lists(st.sampled_from(["age", "town"]), unique=True))
        },
        tie_columns={
            name: attribute(draw, draw(VALUES), m)
            for name in draw(st.lists(st.sampled_from(["tone"]), unique=True))
            if m
        },
    )


def write(network, name, folder):
    if name == "csv":
        (folder / "n-items.csv").write_text(items_table(network), encoding="utf-8", newline="")
        (folder / "n-ties.csv").write_text(ties_table(network), encoding="utf-8", newline="")
        return folder / "n-ties.csv"
    path = folder / f"n.{name}"
    path.write_text("".join({"graphml": graphml, "gml": gml, "json": node_link}[name](network)), encoding="utf-8")
    return path


def listed(columns):
    return {
        name: (str(a.values.dtype) if not isinstance(a.values, Texts) else "text", a.listed())
        for name, a in columns.items()
        if not a.missing.all()
    }


@pytest.mark.parametrize("name", ["graphml", "gml", "json", "csv"])
@given(network=networks())
@settings(max_examples=60)
def test_every_file_keeps_the_whole_network(tmp_path_factory, name, network):
    back, problems = read_network(write(network, name, tmp_path_factory.mktemp("n")))
    assert not [p for p in problems if "no number" in p.message]
    assert back.directed == network.directed and list(back.label) == list(network.label)
    assert back.identities() == network.identities()
    for field in ("source", "target", "weight", "count", "citations", "records"):
        assert np.array_equal(getattr(back, field), getattr(network, field)), field
    for field in ("first", "last", "tie_first", "tie_last"):
        assert np.array_equal(getattr(back, field), getattr(network, field), equal_nan=True), field
    assert listed(back.item_columns) == listed(network.item_columns)
    assert listed(back.tie_columns) == listed(network.tie_columns)


@given(networks())
@settings(max_examples=80)
def test_degrees_strengths_and_matrices_agree_with_networkx(network):
    graph = (nx.MultiDiGraph if network.directed else nx.MultiGraph)()
    graph.add_nodes_from(range(len(network)))
    graph.add_weighted_edges_from(zip(network.source.tolist(), network.target.tolist(), network.weight.tolist()))
    assert network.degree().tolist() == [d for _, d in graph.degree()]
    assert network.strength() == pytest.approx([d for _, d in graph.degree(weight="weight")])
    if network.directed:
        assert network.degree("out").tolist() == [d for _, d in graph.out_degree()]
        assert network.strength("in") == pytest.approx([d for _, d in graph.in_degree(weight="weight")])
        expected = nx.to_numpy_array(graph, multigraph_weight=sum)
        assert network.csr("out").toarray() == pytest.approx(expected)
        assert network.csr("in").toarray() == pytest.approx(expected.T)
    both = network.csr().toarray()
    assert both == pytest.approx(both.T)


@given(networks())
@settings(max_examples=80)
def test_the_simple_view_has_each_pair_once_and_no_loop(network):
    plain, kept = network.simple(), network.simple("kept")
    pairs = {}
    for s, t, w, c in zip(
        network.source.tolist(), network.target.tolist(), network.weight.tolist(), network.count.tolist()
    ):
        if s != t:
            one = pairs.setdefault((min(s, t), max(s, t)), [0.0, 0])
            one[0], one[1] = one[0] + w, one[1] + c
    found = {
        (s, t): (w, c)
        for s, t, w, c in zip(plain.source.tolist(), plain.target.tolist(), plain.weight.tolist(), plain.count.tolist())
    }
    assert set(found) == set(pairs) and not plain.directed
    for pair, (w, c) in pairs.items():
        assert found[pair] == (pytest.approx(w, abs=1e-6), c)
    assert kept.directed == network.directed and len(set(zip(kept.source.tolist(), kept.target.tolist()))) == kept.ties
    assert plain.simple() is plain


def test_parallel_ties_of_different_direction_are_kept_and_said(tmp_path):
    path = tmp_path / "n.json"
    links = [
        {"source": 1, "target": 2, "weight": 2, "directed": True},
        {"source": 2, "target": 1, "weight": 3},
        {"source": 1, "target": 2, "weight": 5, "directed": False},
    ]
    path.write_text(json.dumps({"nodes": [{"id": 1, "label": "a"}, {"id": 2, "label": "b"}], "links": links}))
    network, problems = read_network(path)
    assert network.directed and network.ties == 5 and "taken both ways" in problems[0].message
    assert sorted(zip(network.source.tolist(), network.weight.tolist())) == [
        (0, 2.0),
        (0, 3.0),
        (0, 5.0),
        (1, 3.0),
        (1, 5.0),
    ]


def test_attributes_of_mixed_type_and_a_kind_named_kind(tmp_path):
    path = tmp_path / "n.json"
    nodes = [
        {"id": 1, "kind": "kind", "age": 3},
        {"id": 2, "kind": "kind", "age": "old"},
        {"id": 3, "kind": "kind", "age": True},
        {"id": 4, "kind": "kind"},
    ]
    path.write_text(json.dumps({"nodes": nodes, "links": []}))
    network, _ = read_network(path)
    assert network.kinds == ("kind",) and network.item_columns["age"].listed() == ["3", "old", "true", None]
    for name in ("graphml", "gml", "json", "csv"):
        back, _ = read_network(write(network, name, tmp_path))
        assert back.kinds == ("kind",) and back.item_columns["age"].listed() == ["3", "old", "true", None], name


def test_numbers_written_as_text_stay_text(tmp_path):
    path = tmp_path / "n-ties.csv"
    path.write_text("source,target,weight,code,note\na,b,1,007,1\nb,c,-2.5,012,\n")
    network, _ = read_network(path)
    assert network.tie_columns["code"].listed() == ["007", "012"] and network.tie_columns["note"].listed() == [1, None]
    assert network.weight.tolist() == [1.0, -2.5] and network.kinds == ("item",)


def test_what_is_no_network_says_so(tmp_path):
    (tmp_path / "x.ris").write_text("TY  - JOUR\nTI  - Silt\nER  - \n")
    with pytest.raises(UserError, match="not a network"):
        read_network(tmp_path / "x.ris")


def test_items_of_one_label_are_told_apart_in_tables():
    network = network_of(3, [(0, 1)], ["Dray", "Dray", "Holt"])
    same = network_of(3, [(0, 1)], ["Dray", "Dray", "Holt"], form=Texts.of(["Dray, T.", "Dray, U.", "Holt"]))
    assert (
        list(same.told_apart()) == ["Dray [Dray, T.]", "Dray [Dray, U.]", "Holt"]
        and len(set(network.told_apart())) == 2
    )


def test_years_of_days_and_none():
    assert years(np.array(["1811-05-03", "NaT"], "datetime64[D]")).tolist() == [1811, 0]
