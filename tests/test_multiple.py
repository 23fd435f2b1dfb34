"""Network files as they are: parallel ties, ties of an item to itself, relations told apart, attributes of items."""

import csv
from collections import defaultdict

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from umber_knot.cli import main
from umber_knot.corpus.assemble import corpus_of
from umber_knot.corpus.named import named_columns
from umber_knot.errors import UserError
from umber_knot.gather.read import read_text
from umber_knot.lineage.recipe import parse_recipe
from umber_knot.reconcile.decisions import resolve
from umber_knot.relate.counting import count
from umber_knot.relate.explaining import Material, explain
from umber_knot.relate.parameters import Relate
from umber_knot.relate.selecting import related

TIE = st.tuples(
    st.sampled_from("abc"), st.sampled_from("abc"), st.sampled_from([1, 2, 5]), st.sampled_from(["kin", "letter"])
)
FACTOR = {"kin": 0.5, "letter": 2.0}


def network(rows, directed=False, **words):
    text = "source,target,weight,relation\n" + "\n".join(",".join(map(str, row)) for row in rows) + "\n"
    harvest = read_text(text, "ties.csv", {"direction": "directed"} if directed else None)
    records = list(harvest)
    corpus = corpus_of([(harvest.source, records)])
    corpus = corpus.knowing(named_columns(corpus, [(k, r.extra) for k, r in enumerate(records)]).by_name())
    sentence = Relate(tie="correspondence" if directed else "co-authorship", **words)
    known = {"person": resolve(corpus, "person", [])}
    counted = count(corpus, known, sentence)
    for s, t in {(int(s), int(t)) for s, t in zip(counted.source, counted.target)}:
        own = (counted.source == s) & (counted.target == t)
        terms = explain(Material(corpus, known, None, sentence), counted, s, t)
        assert len(terms) == counted.count[own].sum()
        if sentence.parallel != "first":
            assert sum(term.share for term in terms) == pytest.approx(counted.weight[own].sum(), rel=1e-9)
    return related(corpus, counted, sentence).network


def listed(n):
    """Every tie as (ends, relation, weight), those without a direction in one order."""
    relation = [n.relations[k] for k in n.relation_code.tolist()] or [n.relations[0]] * n.ties
    found = []
    for s, t, w, r in zip(n.source, n.target, n.weight.tolist(), relation):
        ends = (n.label[s], n.label[t])
        found.append((ends if n.directed else tuple(sorted(ends)), r, w))
    return sorted(found)


@given(
    st.lists(TIE, min_size=1, max_size=8),
    st.booleans(),
    st.sampled_from(["summed", "first", "kept"]),
    st.booleans(),
    st.booleans(),
)
@settings(max_examples=120)
def test_parallel_ties_loops_and_relations_as_chosen(rows, directed, parallel, loops, apart):
    words = {"parallel": parallel, "loops": "kept" if loops else "out"}
    if apart:
        words |= {"relation": "relation", "relations": tuple(f"{k}={v}" for k, v in FACTOR.items())}
    groups = defaultdict(list)
    for k, (a, b, w, r) in enumerate(rows):
        if a == b and not loops:
            continue
        ends = (a, b) if directed else tuple(sorted((a, b)))
        key = (ends, r if apart else "", k if parallel == "kept" else -1)
        groups[key].append(w * (FACTOR[r] if apart else 1))
    expected = sorted(
        (ends, r, float(own[0] if parallel == "first" else sum(own))) for (ends, r, _), own in groups.items()
    )
    assert listed(network(rows, directed, **words)) == expected


def test_a_relation_of_no_weight_is_left_out_and_said(tmp_path):
    rows = "source,target,relation\na,b,kin\nb,c,letter\na,b,letter\n"
    (tmp_path / "ties.csv").write_text(rows, encoding="utf-8")
    (tmp_path / "r.toml").write_text(
        '[gather]\nsources = ["ties.csv"]\n[relate]\nrelation = "relation"\nrelations = ["letter=0"]\n',
        encoding="utf-8",
    )
    assert main(["run", str(tmp_path / "r.toml"), "--out", str(tmp_path / "out"), "--quiet"]) == 0
    with (tmp_path / "out" / "ties.csv").open(newline="") as file:
        assert [(row["source"], row["target"]) for row in csv.DictReader(file)] == [("a", "b")]
    assert "of the relation letter: 3 → 1 records" in (tmp_path / "out" / "methods.md").read_text(encoding="utf-8")


def test_ties_can_be_filtered_by_their_relation():
    rows = [("a", "b", 1, "kin"), ("b", "c", 1, "letter"), ("a", "b", 1, "letter")]
    assert [r for _, r, _ in listed(network(rows, relation="relation", ties="relation:letter"))] == ["letter", "letter"]


GRAPHML = """<?xml version="1.0" encoding="UTF-8"?>
<graphml xmlns="http://graphml.graphdrawing.org/xmlns">
<key id="p" for="node" attr.name="party" attr.type="string"/>
<graph edgedefault="undirected">
<node id="a"><data key="p">north</data></node><node id="b"><data key="p">south</data></node><node id="c"/>
<edge source="a" target="b"/><edge source="b" target="c"/>
</graph></graphml>"""


def test_a_network_files_attributes_come_with_its_items_and_count_no_record(tmp_path):
    (tmp_path / "net.graphml").write_text(GRAPHML, encoding="utf-8")
    (tmp_path / "r.toml").write_text(
        '[gather]\nsources = ["net.graphml"]\n[relate]\nattributes = ["party"]\n', encoding="utf-8"
    )
    assert main(["run", str(tmp_path / "r.toml"), "--out", str(tmp_path / "out"), "--quiet"]) == 0
    with (tmp_path / "out" / "items.csv").open(newline="") as file:
        rows = {row["label"]: (row["party"], row["records"]) for row in csv.DictReader(file)}
    assert rows == {"a": ("north", "1"), "b": ("south", "2"), "c": ("", "1")}


@pytest.mark.parametrize(
    "wrong",
    [
        'relations = ["kin=0.5"]',
        'relation = "relation"\nrelations = ["kin"]',
        'relation = "relation"\nrelations = ["kin=-1"]',
        'tie = "coupling"\nof = "person"\nparallel = "kept"',
        'tie = "two-mode"\nof = ["person", "venue"]\nproject = "venue"\nparallel = "first"',
    ],
)
def test_what_cannot_be_told_apart_is_refused_with_a_cure(wrong):
    with pytest.raises(UserError) as error:
        parse_recipe(f"[relate]\n{wrong}\n")
    assert error.value.cure


def test_words_of_the_recipe_round_trip():
    recipe = parse_recipe(
        '[relate]\nparallel = "kept"\nloops = "out"\nrelation = "relation"\nrelations = ["kin=0.5"]\nroles = ["editor"]\n'
    )
    assert parse_recipe(recipe.toml()) == recipe and recipe.relate.relation_weights() == {"kin": 0.5}


def test_relations_stay_apart_when_ties_lose_their_direction():
    rows = [("a", "b", 1, "kin"), ("b", "a", 2, "letter"), ("a", "b", 4, "letter")]
    n = network(rows, True, relation="relation", direction="ignored")
    assert not n.directed and len(n.relation_code) == n.ties == 3
    assert sorted((r, w) for _, r, w in listed(n)) == [("kin", 1.0), ("letter", 2.0), ("letter", 4.0)]
