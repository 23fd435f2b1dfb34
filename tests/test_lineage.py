"""Recipes, stages, caching and what-changed, and the headless contract."""

import csv
import dataclasses
import io
import json
import xml.etree.ElementTree as ET

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.building import quiet
from umber_knot.cli import main
from umber_knot.corpus.model import KINDS, Decision
from umber_knot.demo import RECIPE
from umber_knot.errors import UserError
from umber_knot.lineage.changes import compare
from umber_knot.lineage.nodes import STAGES, Inputs, Node, needs, node_key, remembered_of
from umber_knot.lineage.recipe import MOST_STRANDS, Recipe, Strand, parse_recipe, read_recipe
from umber_knot.lineage.store import Store, encode
from umber_knot.lineage.update import Lineage, wanted
from umber_knot.reconcile.decisions import read_decisions


@given(
    st.sampled_from(KINDS),
    st.sampled_from(["none", "association", "cosine"]),
    st.floats(0.01, 100),
    st.lists(st.integers(1000, 2099), min_size=2, max_size=2).map(sorted),
    st.booleans(),
    st.text(max_size=20),
)
def test_recipes_read_back_equal(of, normalise, grain, years, weighted, title):
    recipe = Recipe().changed("relate", of=of, normalise=normalise, years=tuple(years))
    recipe = recipe.changed("group", grain=grain, weighted=weighted).changed("report", title=title)
    assert parse_recipe(recipe.toml()) == recipe


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ('[relate]\ntye = "x"', "'tie'"),
        ("[relats]\n", "'relate'"),
        ('[relate]\ntie = "co-autorship"', "'co-authorship'"),
        ("[relate]\nyears = [2000, 1990]", "earlier year first"),
        ("[relate]\nmin_records = 1.5", "whole number"),
        ("[relate]\nmin_records = true", "number"),
        ("[group]\ngrain = 1000", "from 0.01 to 100"),
        ("[reconcile]\naccept = { planet = 0.5 }", "planet"),
        ("[reconcile]\naccept = { person = 2 }", "from 0 to 1"),
        ('[report]\nformats = ["svgz"]', "'svg'"),
        ("relate = 3", "section"),
        ("[relate\n", "line"),
    ],
)
def test_recipe_errors_name_the_place_and_the_cure(text, says):
    with pytest.raises(UserError, match=r"r\.toml") as error:
        parse_recipe(text, "r.toml")
    assert says in str(error.value)


def inputs(corpus, **relate):
    recipe = parse_recipe(RECIPE).changed("group", runs=3)
    return Inputs(corpus, "k", (), recipe.changed("relate", **relate) if relate else recipe)


def fresh(lineage, given_):
    return {o.node.stage for o in lineage.update(given_, quiet, wanted(given_)) if o.fresh}


def results(given_, lineage=None):
    return {o.node: o.result for o in (lineage or Lineage()).update(given_, quiet, wanted(given_))}


GROUPING = {"group", "name", "topics", "stability", "land"}


#: Stages of a study in which no strand ties terms, reads columns or is measured.
SHOWN = set(STAGES) - {"terms", "columns", "measure", "figures", "yardstick", "removal"}


def test_a_change_recomputes_only_what_follows_it(corpus):
    lineage, first = Lineage(), inputs(corpus)
    changed = first.recipe.changed
    assert fresh(lineage, first) == SHOWN
    assert fresh(lineage, first) == set()
    assert fresh(lineage, dataclasses.replace(first, recipe=changed("chart", tint_by="year"))) == set()
    assert (
        fresh(lineage, dataclasses.replace(first, recipe=changed("chart", layers=("items",), least_tie=2.0))) == set()
    )
    assert fresh(lineage, dataclasses.replace(first, recipe=changed("chart", size_by="degree"))) == {"sizes", "land"}
    assert fresh(lineage, dataclasses.replace(first, recipe=changed("group", grain=2.0))) == GROUPING
    assert fresh(lineage, dataclasses.replace(first, recipe=changed("relate", min_records=9))) == SHOWN - {
        "match",
        "reconcile",
        "count",  # a threshold counts nothing again
    }
    assert fresh(lineage, dataclasses.replace(first, recipe=changed("report", width_mm=90))) == set()
    counted_anew = fresh(lineage, dataclasses.replace(first, recipe=changed("relate", counting="fractional")))
    assert counted_anew == SHOWN - {"match", "reconcile"}


def test_a_decision_on_words_does_not_rebuild_a_network_of_people(corpus):
    lineage = Lineage()
    first = Inputs(corpus, "k", (), Recipe().changed("relate", of="person", min_records=4).changed("group", runs=2))
    fresh(lineage, first)
    decided = dataclasses.replace(first, decisions=(Decision("keyword", "aside", "tide"),))
    nodes = {o.node for o in lineage.update(decided, quiet, wanted(decided)) if o.fresh}
    assert Node("reconcile", 0, "keyword") in nodes  # topics of people are named by words
    assert not nodes & {
        Node("reconcile", 0, "person"),
        Node("relate", 1),
        Node("group", 1),
        Node("stability", 1),
        Node("places", 1),
    }


def test_every_key_follows_from_what_a_node_needs_and_reads_and_from_nothing_else(corpus):
    first = inputs(corpus)
    changes = {
        "reconcile": {"accept": {"keyword": 0.5}},
        "relate": {"min_weight": 3.0},
        "group": {"seed": 9},
        "chart": {"seed": 9},
    }
    for section, values in changes.items():
        other = dataclasses.replace(first, recipe=first.recipe.changed(section, **values))
        for node in [*wanted(first), *(Node(stage, 1) for stage in ("places", "sizes", "topics", "name"))]:
            below, todo = set(), [node]
            while todo:
                one = todo.pop()
                below.add(one)
                todo += needs(first, one)
            reads = any(repr(STAGES[n.stage].reads(first, n)) != repr(STAGES[n.stage].reads(other, n)) for n in below)
            assert (node_key(first, node) != node_key(other, node)) == reads, (section, node)


def test_a_raised_version_is_another_key(corpus, monkeypatch):
    first = inputs(corpus)
    before = node_key(first, Node("stability", 1))
    monkeypatch.setitem(STAGES, "group", dataclasses.replace(STAGES["group"], version=99))
    assert node_key(first, Node("stability", 1)) != before and node_key(first, Node("relate", 1))


def test_history_never_makes_a_grouping_or_its_stability_be_computed_again(corpus):
    """Dragging a mark, and opening a study that remembers its chart."""
    lineage, first = Lineage(), inputs(corpus)
    done = results(first, lineage)
    memory = remembered_of(first, 1, done)
    opened = dataclasses.replace(first, memory={1: memory})
    assert fresh(lineage, opened) <= {"topics", "places", "standing", "land"}
    network = done[Node("relate", 1)].network
    dragged = dataclasses.replace(memory, pins={network.identity(0): (500.0, 400.0)})
    moved = dataclasses.replace(first, memory={1: dragged})
    assert fresh(lineage, moved) == {"standing", "land"}
    after = results(moved, lineage)
    assert (after[Node("standing", 1)].x[0], after[Node("standing", 1)].y[0]) == (500.0, 400.0)
    assert np.array_equal(after[Node("standing", 1)].x[1:], done[Node("standing", 1)].x[1:])


def test_results_kept_on_disk_come_back_equal_and_survive_damage(corpus, tmp_path):
    first = inputs(corpus)
    lineage = Lineage(Store(tmp_path / "kept"), Store(tmp_path / "passing"))
    one = {o.node: o for o in lineage.update(first, quiet, wanted(first))}
    again = {
        o.node: o
        for o in Lineage(Store(tmp_path / "kept"), Store(tmp_path / "passing")).update(first, quiet, wanted(first))
    }
    assert not any(o.fresh for o in again.values())
    assert set(one) - set(again) == {Node("count", 1)}  # it is not kept, nor needed where what follows is known
    for node, outcome in ((n, o) for n, o in one.items() if n in again):
        assert equal(outcome.result, again[node].result), node
    for path in [*(tmp_path / "kept").iterdir(), *(tmp_path / "passing").iterdir()]:
        path.write_bytes(path.read_bytes()[:50])
    anew = Lineage(Store(tmp_path / "kept"), Store(tmp_path / "passing"))
    assert all(o.fresh for o in anew.update(first, quiet, wanted(first)))


def test_what_could_not_be_read_back_is_not_written(corpus):
    @dataclasses.dataclass
    class Stranger:
        value: int

    encode(corpus, [])
    with pytest.raises(TypeError, match="Stranger"):
        encode((1, {"a": Stranger(1)}), [])


def equal(a, b):
    """Whether two results are the same, arrays and all."""
    if isinstance(a, np.ndarray):
        return a.dtype == b.dtype and np.array_equal(a, b, equal_nan=a.dtype.kind == "f" or a.dtype.kind == "M")
    if dataclasses.is_dataclass(a):
        return type(a) is type(b) and all(equal(getattr(a, f.name), getattr(b, f.name)) for f in dataclasses.fields(a))
    if isinstance(a, (tuple, list)):
        return len(a) == len(b) and all(map(equal, a, b))
    if isinstance(a, dict):
        return list(a) == list(b) and all(map(equal, a.values(), b.values()))
    return a == b or (a != a and b != b)


def test_a_remembered_chart_opens_as_it_was_and_topics_keep_number_and_hue(corpus):
    first = inputs(corpus)
    one = results(first)
    related, grouped, standing, land = (one[Node(s, 1)] for s in ("relate", "topics", "standing", "land"))
    network = related.network
    memory = remembered_of(first, 1, one)
    back = results(dataclasses.replace(first, memory={1: memory}))
    assert np.array_equal(standing.x, back[Node("standing", 1)].x)
    assert np.array_equal(grouped.topic, back[Node("topics", 1)].topic)
    lost = network.label[0]
    after = results(dataclasses.replace(first, memory={1: memory}, decisions=(Decision("keyword", "aside", lost),)))
    now, kept_ = after[Node("relate", 1)].network, after[Node("topics", 1)]
    changes = compare(network, grouped.topic, now, kept_.topic)
    assert changes.lost == (lost,) and changes.gained == () and len(changes.moved) < 12
    assert changes.gone_ties == int(((network.source == 0) | (network.target == 0)).sum())
    kept = {t.number - 1 for t in kept_.topics} & set(land.slots)
    assert len(kept) >= 6 and all(after[Node("land", 1)].slots[t] == land.slots[t] for t in kept)
    place = dict(zip(network.label, zip(standing.x, standing.y)))
    new = after[Node("standing", 1)]
    moved = [np.hypot(x - place[t][0], y - place[t][1]) for t, x, y in zip(now.label, new.x, new.y)]
    assert np.median(moved) < 0.06 * np.ptp(standing.x)


def test_laid_out_again_starts_afresh_and_going_back_finds_the_old_places(corpus):
    first = inputs(corpus)
    one = results(first)
    memory = remembered_of(first, 1, one)
    pinned = dataclasses.replace(memory, pins={("keyword", "curlew"): (900.0, 900.0)})
    again = dataclasses.replace(first, memory={1: dataclasses.replace(pinned, afresh=1, pins={})})
    two = results(again)
    assert np.array_equal(two[Node("places", 1)].x, one[Node("places", 1)].x)  # the same seed, and nothing remembered
    both = remembered_of(again, 1, two)
    back = results(dataclasses.replace(first, memory={1: dataclasses.replace(both, afresh=0, pins=pinned.pins)}))
    i = one[Node("relate", 1)].network.identities().index(("keyword", "curlew"))
    assert back[Node("standing", 1)].x[i] == 900.0
    assert np.array_equal(np.delete(back[Node("standing", 1)].x, i), np.delete(one[Node("standing", 1)].x, i))


def test_what_changed_in_words(corpus):
    a, b = results(inputs(corpus)), results(inputs(corpus, min_records=20))
    net, topic = a[Node("relate", 1)].network, a[Node("topics", 1)].topic
    other = b[Node("relate", 1)].network
    same = compare(net, topic, net, topic)
    assert same.sentence() == "same items, ties and topics" and not same
    fewer = compare(net, topic, other, b[Node("topics", 1)].topic)
    assert fewer.sentence().startswith(f"{len(net)} → {len(other)} words (− ")
    assert fewer.before - fewer.after == len(fewer.lost) and fewer


# -- strands


TWO = """
name = "Words"
[gather]
sources = ["mills.ris"]
[relate]
tie = "co-occurrence"
of = "keyword"
min_records = 4
[group]
runs = 0
[report]
formats = ["csv"]
[[strand]]
name = "Co-authors / 1990s"
[strand.relate]
of = "person"
years = [1990, 1999]
min_records = 2
[strand.group]
grain = 0.5
runs = 2
"""


def test_strands_read_back_equal_and_keep_their_order():
    recipe = parse_recipe(TWO)
    assert [s.id for s in recipe.strands] == [1, 2] and recipe.names() == ("Words", "Co-authors / 1990s")
    assert recipe.relate.of == "keyword" and recipe.strand(2).relate.years == (1990, 1999)
    assert parse_recipe(recipe.toml()) == recipe
    moved = recipe.moved(2, 0)
    assert [s.id for s in moved.strands] == [2, 1] and parse_recipe(moved.toml()) == moved
    more, number = recipe.with_another(2, of="venue", tie="co-occurrence")
    assert number == 3 and more.strand(3).relate.years == (1990, 1999) and more.names()[2] == "Venues 1990–1999"
    assert parse_recipe(more.toml()) == more and more.without(3) == recipe


@given(st.lists(st.tuples(st.sampled_from(KINDS), st.text(max_size=6)), min_size=1, max_size=5))
def test_any_strands_read_back_equal(made):
    recipe = Recipe()
    for of, name in made:
        recipe, number = recipe.with_another(1, of=of)
        try:
            recipe = recipe.renamed(number, name)
        except UserError:
            continue
    assert parse_recipe(recipe.toml()) == recipe and len(set(map(str.casefold, recipe.names()))) == len(recipe.strands)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ('[[strand]]\nname = "Words"\n[[strand]]\nname = "words"', "two strands are called"),
        ("[[strand]]\n[strand.relate]\nmin_recrods = 2", "'min_records'"),
        ("[[strand]]\nrelates = 1", "'relate'"),
        ("[strand]\nname = 1", "[[strand]]"),
        ("[[strand]]\nname = 3", "must be text"),
        ("[[strand]]\nid = 1", "two strands have the id 1"),
        ("[[strand]]\nid = true", "whole number"),
        ("[[strand]]\n" * MOST_STRANDS, f"at most {MOST_STRANDS}"),
        ('[[grouping]]\nname = "Topics"', "two groupings"),
        ("[grouping]\ngrain = 2", "[[grouping]]"),
        ('[[strand]]\n[[strand.arrangement]]\nname = "Spread"', "two arrangements"),
    ],
)
def test_strands_that_cannot_be_say_why(text, says):
    with pytest.raises(UserError, match=r"r\.toml") as error:
        parse_recipe(text, "r.toml")
    assert says in str(error.value)


def test_a_run_writes_each_strand_into_a_folder_of_its_name(demo, tmp_path):
    (tmp_path / "r.toml").write_text(TWO.replace("mills.ris", str(demo / "mills.ris")), encoding="utf-8")
    out = tmp_path / "out"
    assert main(["run", str(tmp_path / "r.toml"), "--out", str(out), "--quiet"]) == 0
    told = json.loads((out / "run.json").read_text())
    assert [(s["name"], s["folder"]) for s in told["strands"]] == [
        ("Words", "."),
        ("Co-authors / 1990s", "Co-authors 1990s"),
    ]
    kinds = []
    for folder in (out, out / "Co-authors 1990s"):
        items = list(csv.DictReader((folder / "items.csv").open(encoding="utf-8")))
        kinds.append({i["kind"] for i in items})
        assert (folder / "network-ties.csv").exists() and (folder / "methods.md").exists()
    assert kinds == [{"keyword"}, {"person"}]
    alone = tmp_path / "alone.toml"
    alone.write_text(
        Recipe(
            gather=dataclasses.replace(Recipe().gather, sources=(str(demo / "mills.ris"),)),
            strands=(dataclasses.replace(parse_recipe(TWO).strand(2), id=1, name=""),),
        ).toml()
    )
    assert main(["run", str(alone), "--out", str(tmp_path / "b"), "--quiet"]) == 0
    assert (tmp_path / "b" / "items.csv").read_bytes() == (out / "Co-authors 1990s" / "items.csv").read_bytes()


def test_a_strand_of_its_own_settings_is_computed_beside_the_others(corpus):
    recipe = Recipe(strands=(Strand(), Strand(id=2, relate=Recipe().changed("relate", of="venue").relate)))
    given_ = Inputs(corpus, "k", (), recipe.changed("group", runs=0).changed("group", 2, runs=0))
    lineage = Lineage()
    done = results(given_, lineage)
    assert done[Node("relate", 1)].network.kind == "person" and done[Node("relate", 2)].network.kind == "venue"
    finer = dataclasses.replace(given_, recipe=given_.recipe.changed("group", 2, grain=3.0))
    assert {o.node.strand for o in lineage.update(finer, quiet, wanted(finer)) if o.fresh} == {2}


COLUMNS = {
    "items.csv": "id,label,kind,records,first_year,last_year,mean_year,citations,degree,strength,topic,confidence,x,y",
    "ties.csv": "source,target,weight,count,directed,first_year,last_year",
    "topics.csv": "topic,name,items,records,terms",
    "decisions.csv": "kind,decision,form,preferred,scope,note",
}


def test_a_run_writes_the_contract_and_the_same_bytes_again(demo, tmp_path):
    outs = [tmp_path / "one", tmp_path / "two"]
    for out in outs:
        assert main(["run", str(demo / "brackwater.toml"), "--out", str(out), "--quiet"]) == 0
    names = {p.name for p in outs[0].iterdir()}
    assert names == {
        *COLUMNS,
        "records.csv",
        "network.graphml",
        "flow.svg",
        "methods.md",
        "run.json",
        "chart.svg",
        "chart.png",
    }
    for name in names - {"run.json"}:
        assert (outs[0] / name).read_bytes() == (outs[1] / name).read_bytes(), name
    for name, header in COLUMNS.items():
        assert (outs[0] / name).read_text(encoding="utf-8").splitlines()[0] == header
    items = list(csv.DictReader(io.StringIO((outs[0] / "items.csv").read_text(encoding="utf-8"))))
    ties = list(csv.DictReader(io.StringIO((outs[0] / "ties.csv").read_text(encoding="utf-8"))))
    degree = dict.fromkeys((i["label"] for i in items), 0)
    for tie in ties:
        degree[tie["source"]] += 1
        degree[tie["target"]] += 1
    assert all(degree[i["label"]] == int(i["degree"]) for i in items)
    root = ET.parse(outs[0] / "network.graphml").getroot()
    space = "{http://graphml.graphdrawing.org/xmlns}"
    assert len(root.findall(f".//{space}node")) == len(items) and len(root.findall(f".//{space}edge")) == len(ties)
    run = json.loads((outs[0] / "run.json").read_text())
    assert run["stages"]["relate"]["items"] == len(items) and run["seeds"] == {"group": 1, "chart": 1}
    methods = (outs[0] / "methods.md").read_text(encoding="utf-8")
    for said in ("1,200 records", "Leiden", "seed 1", "Zitt", "fewer than 4 records"):
        assert said in methods


def test_graphml_reads_back_in_networkx(demo, tmp_path):
    import networkx as nx

    recipe = tmp_path / "r.toml"
    recipe.write_text(f'[gather]\nsources = ["{demo}/mills.ris"]\n[group]\nruns = 0\n[report]\nformats = ["csv"]\n')
    assert main(["run", str(recipe), "--out", str(tmp_path / "o"), "--quiet"]) == 0
    graph = nx.read_graphml(tmp_path / "o" / "network.graphml")
    with (tmp_path / "o" / "items.csv").open(encoding="utf-8") as file:
        items = list(csv.DictReader(file))
    assert {d["label"] for _, d in graph.nodes(data=True)} == {i["label"] for i in items}
    assert all("weight" in d and d["weight"] > 0 for _, _, d in graph.edges(data=True))


def test_decisions_written_by_a_run_give_the_same_network_when_read(demo, tmp_path):
    assert main(["run", str(demo / "brackwater.toml"), "--out", str(tmp_path / "a"), "--quiet"]) == 0
    recipe = tmp_path / "b.toml"
    text = RECIPE.replace("accept = { keyword = 0.9 }", f'decisions = ["{tmp_path}/a/decisions.csv"]')
    for name in ("mills.ris", "coast.bib", "box2.csv", "shore.json"):
        text = text.replace(f'"{name}"', f'"{demo}/{name}"')
    recipe.write_text(text)
    assert main(["run", str(recipe), "--out", str(tmp_path / "b"), "--quiet"]) == 0
    assert (tmp_path / "a" / "ties.csv").read_bytes() == (tmp_path / "b" / "ties.csv").read_bytes()


@pytest.mark.parametrize(
    ("recipe", "says"),
    [
        ("[gather]\n", "names no file"),
        ('[gather]\nsources = ["missing.ris"]\n', "missing.ris"),
        ('[gather]\nsource = ["a.ris"]\n', "'sources'"),
        ('[gather]\nsources = ["bad.bib"]\n', "PNG"),
    ],
)
def test_faults_are_one_line_and_status_two(tmp_path, capsys, recipe, says):
    (tmp_path / "bad.bib").write_bytes(b"\x89PNG\r\n" + b"\0" * 9)
    (tmp_path / "r.toml").write_text(recipe)
    assert main(["run", str(tmp_path / "r.toml"), "--out", str(tmp_path / "o")]) == 2
    error = capsys.readouterr().err
    assert says in error and error.count("\n") == 1 and "Traceback" not in error
    assert not (tmp_path / "o").exists()


def test_inspect_and_suggest(demo, tmp_path, capsys):
    assert main(["inspect", "--json", str(demo / "mills.ris")]) == 0
    (found,) = json.loads(capsys.readouterr().out)
    assert found["format"] == "RIS" and found["records"] == 568 and found["problems"] == []
    assert {"records", "persons", "keywords", "references", "letters", "passages", "problems"} <= set(found)
    (tmp_path / "x.txt").write_text("")
    assert main(["inspect", str(tmp_path / "x.txt")]) == 2
    out = tmp_path / "s.csv"
    assert main(["suggest", str(demo / "mills.ris"), "--kind", "keyword", "--csv", str(out)]) == 0
    rows = list(csv.DictReader(out.open(encoding="utf-8")))
    assert list(rows[0])[:6] == ["set", "form", "records", "preferred", "confidence", "reasons"] and len(rows) > 100


def test_demo_write_is_the_same_every_time(demo, tmp_path, capsys):
    assert main(["demo", "--write", str(tmp_path)]) == 0
    files = [path for path in demo.rglob("*") if path.is_file()]
    assert len(files) == 41
    for path in files:
        assert (tmp_path / path.relative_to(demo)).read_bytes() == path.read_bytes()


def test_an_empty_selection_runs_to_the_end(demo, tmp_path):
    recipe = tmp_path / "r.toml"
    recipe.write_text(f'[gather]\nsources = ["{demo}/mills.ris"]\n[relate]\nmin_records = 9999\n')
    assert main(["run", str(recipe), "--out", str(tmp_path / "o"), "--quiet"]) == 0
    assert (tmp_path / "o" / "items.csv").read_text().count("\n") == 1


@pytest.mark.parametrize("read", [read_recipe, read_decisions])
def test_recipes_and_decisions_that_are_no_text_say_so(read, tmp_path):
    path = tmp_path / "file"
    with pytest.raises(UserError, match="cannot be read"):
        read(path)
    path.write_bytes(b"\xff\xfe\x00 broken")
    with pytest.raises(UserError, match="not UTF-8 text") as error:
        read(path)
    assert str(path) in str(error.value) and error.value.cure
