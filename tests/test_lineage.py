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

from umber_knot.cli import main
from umber_knot.corpus.model import Decision
from umber_knot.demo import RECIPE
from umber_knot.errors import UserError
from umber_knot.lineage.cache import Cache
from umber_knot.lineage.changes import compare
from umber_knot.lineage.recipe import CHOICES, Recipe, parse_recipe, read_recipe
from umber_knot.lineage.stages import STAGES, Inputs, Memory, keys, memory_of
from umber_knot.lineage.update import Lineage
from umber_knot.reconcile.decisions import read_decisions


def quiet(what, done, of):
    pass


@given(
    st.sampled_from(CHOICES["relate.of"]), st.sampled_from(CHOICES["relate.normalise"]), st.floats(0.01, 100),
    st.lists(st.integers(1000, 2099), min_size=2, max_size=2).map(sorted), st.booleans(), st.text(max_size=20),
)  # fmt: skip
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
    return {o.stage for o in lineage.update(given_, quiet) if o.fresh}


def test_a_change_recomputes_only_what_follows_it(corpus):
    lineage, first = Lineage(), inputs(corpus)
    assert fresh(lineage, first) == set(STAGES)
    assert fresh(lineage, first) == set()
    tint = dataclasses.replace(first, recipe=first.recipe.changed("chart", tint_by="year"))
    assert fresh(lineage, tint) == {"chart"}
    grain = dataclasses.replace(first, recipe=first.recipe.changed("group", grain=2.0))
    assert fresh(lineage, grain) == {"group", "chart", "stability"}
    least = dataclasses.replace(first, recipe=first.recipe.changed("relate", min_records=9))
    assert fresh(lineage, least) == {"relate", "group", "chart", "stability"}
    assert fresh(lineage, dataclasses.replace(first, recipe=first.recipe.changed("report", width_mm=90))) == set()
    decided = dataclasses.replace(first, decisions=(Decision("keyword", "aside", "tide"),))
    assert fresh(lineage, decided) == set(STAGES) - {"match"}


def test_keys_change_with_everything_declared_and_nothing_else(corpus):
    first = inputs(corpus)
    for stage, spec in STAGES.items():
        for name in ("reconcile", "relate", "group", "chart"):
            reads = name in {r.split(".")[0] for r in spec.reads}
            above = any(name in {r.split(".")[0] for r in STAGES[n].reads} for n in spec.needs)
            changed = {"reconcile": {"accept": {"keyword": 0.5}}, "relate": {"min_weight": 3.0}, "group": {"seed": 9},
                       "chart": {"seed": 9}}[name]  # fmt: skip
            other = dataclasses.replace(first, recipe=first.recipe.changed(name, **changed))
            differs = keys(first)[stage] != keys(other)[stage]
            if stage == "reconcile" and name == "relate":
                assert not differs  # reads only relate.of
            elif reads or above:
                assert differs, (stage, name)


def test_the_disk_cache_gives_back_equal_results_and_survives_damage(corpus, tmp_path):
    cache = Cache(tmp_path / "c")
    first = inputs(corpus)
    results = {o.stage: o for o in Lineage(cache).update(first, quiet)}
    again = {o.stage: o for o in Lineage(cache).update(first, quiet)}
    assert not any(o.fresh for o in again.values())
    was, now = results["chart"].result, again["chart"].result
    assert np.array_equal(was.x, now.x) and was.slots == now.slots and was.names == now.names
    assert again["group"].result.topics == results["group"].result.topics
    for path in (tmp_path / "c").iterdir():
        path.write_bytes(path.read_bytes()[:50])
    assert all(o.fresh for o in Lineage(cache).update(first, quiet))


def test_a_remembered_chart_opens_as_it_was_and_topics_keep_number_and_hue(corpus):
    first = inputs(corpus)
    one = {o.stage: o.result for o in Lineage().update(first, quiet)}
    network = one["relate"].filtered.network
    memory = memory_of(first, network, one["chart"])
    back = {o.stage: o.result for o in Lineage().update(dataclasses.replace(first, memory=memory), quiet)}
    assert np.array_equal(one["chart"].x, back["chart"].x) and np.array_equal(one["group"].topic, back["group"].topic)
    merged = dataclasses.replace(first, memory=memory, decisions=(Decision("keyword", "aside", network.label[0]),))
    after = {o.stage: o.result for o in Lineage().update(merged, quiet)}
    changes = compare(network, one["group"].topic, after["relate"].filtered.network, after["group"].topic)
    assert changes.lost == (network.label[0],) and changes.gained == () and len(changes.moved) < 12
    assert changes.gone_ties == int(((network.source == 0) | (network.target == 0)).sum())
    kept = {t.number - 1 for t in after["group"].topics} & set(one["chart"].slots)
    assert len(kept) >= 6 and all(after["chart"].slots[t] == one["chart"].slots[t] for t in kept)
    place = {t: (x, y) for t, x, y in zip(network.label, one["chart"].x, one["chart"].y)}
    now = after["relate"].filtered.network.label
    moved = [np.hypot(x - place[t][0], y - place[t][1]) for t, x, y in zip(now, after["chart"].x, after["chart"].y)]
    assert np.median(moved) < 0.06 * np.ptp(one["chart"].x)


def test_what_changed_in_words(corpus):
    a = {o.stage: o.result for o in Lineage().update(inputs(corpus), quiet)}
    b = {o.stage: o.result for o in Lineage().update(inputs(corpus, min_records=20), quiet)}
    net = a["relate"].filtered.network
    same = compare(net, a["group"].topic, net, a["group"].topic)
    assert same.sentence() == "same items, ties and topics"
    fewer = compare(net, a["group"].topic, b["relate"].filtered.network, b["group"].topic)
    assert fewer.sentence().startswith(f"{len(net)} → {len(b['relate'].filtered.network)} words (− ")
    assert fewer.before - fewer.after == len(fewer.lost)


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


def test_memory_is_part_of_the_key_only_where_it_counts(corpus):
    first = inputs(corpus)
    other = dataclasses.replace(first, memory=Memory("x", {}))
    assert keys(first) == keys(other)


@pytest.mark.parametrize("read", [read_recipe, read_decisions])
def test_recipes_and_decisions_that_are_no_text_say_so(read, tmp_path):
    path = tmp_path / "file"
    with pytest.raises(UserError, match="cannot be read"):
        read(path)
    path.write_bytes(b"\xff\xfe\x00 broken")
    with pytest.raises(UserError, match="not UTF-8 text") as error:
        read(path)
    assert str(path) in str(error.value) and error.value.cure
