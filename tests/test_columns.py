"""Columns of the material: as kinds of item, as what items are alike in, joined to a network, and to filter by."""

import csv
import itertools
import json
from collections import defaultdict
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PyQt6.QtCore import QUrl
from PyQt6.QtWidgets import QApplication

from tests.building import network_of
from tests.test_desktop import done, settled, window  # noqa: F401
from umber_knot.cli import main
from umber_knot.corpus.assemble import corpus_of
from umber_knot.corpus.model import Mentions, RawRecord, Source, fold
from umber_knot.corpus.named import LONGEST, named_columns, numbers
from umber_knot.corpus.study import Study
from umber_knot.corpus.texts import Texts
from umber_knot.desktop.parts import Link, Popup, Share
from umber_knot.errors import UserError
from umber_knot.gather.read import extras, read_corpus, read_file
from umber_knot.lineage.recipe import parse_recipe
from umber_knot.network.model import Attribute
from umber_knot.network.picking import items_fitting, ties_fitting
from umber_knot.reconcile.decisions import resolve
from umber_knot.relate import pairs
from umber_knot.relate.counting import count
from umber_knot.relate.explaining import Material, explain
from umber_knot.relate.giving import most_given_back
from umber_knot.relate.parameters import Relate
from umber_knot.relate.selecting import related
from umber_knot.relate.wording import called, told

ROW = st.fixed_dictionaries(
    {
        "people": st.lists(st.sampled_from("ABCD"), max_size=2, unique=True),
        "values": st.lists(st.sampled_from(["1", "2,5", "4", "north", "7"]), max_size=2, unique=True),
        "entry": st.sampled_from(["", "A", "D", "Z"]),
    }
)


def build(rows, **sentence):
    raw = [
        RawRecord(k + 1, entry=r["entry"], title=f"{k} on mud", persons=r["people"], extra={"grade": r["values"]})
        for k, r in enumerate(rows)
    ]
    corpus = corpus_of([(Source("s", "s", "CSV", "utf-8", "", len(raw)), raw)])
    found = named_columns(corpus, [(k, r.extra) for k, r in enumerate(raw) if r.extra["grade"]])
    corpus = corpus.knowing({"grade": Mentions.none(), **found.by_name()})
    sentence = Relate(tie="similarity", column="grade", **sentence)
    known = {kind: resolve(corpus, kind, []) for kind in sentence.reconciled}
    counted = count(corpus, known, sentence)
    result = related(corpus, counted, sentence, (), known)
    for k in range(len(counted.source)):
        a, b = int(counted.source[k]), int(counted.target[k])
        parts = explain(Material(corpus, known, None, sentence), counted, a, b)
        assert len(parts) == counted.count[k]
        assert sum(p.share for p in parts) == pytest.approx(counted.weight[k], rel=1e-9)
    return corpus, result


def values_of(rows, of):
    """What each item says of the column: by the records that name it, and the rows that are called like it."""
    told = defaultdict(set)
    everyone = {p for r in rows for p in r["people"]}
    for k, r in enumerate(rows):
        if of == "record":
            told[k] |= set(r["values"])
            continue
        for name in {*r["people"], *({r["entry"]} & everyone)}:
            told[name] |= set(r["values"])
    return told


def expected(rows, of, how, tolerance):
    told = values_of(rows, of)
    if how == "same":
        return {
            pair(a, b): (1, len(told[a] & told[b])) for a, b in itertools.combinations(told, 2) if told[a] & told[b]
        }
    number = {}
    for name, texts in told.items():
        own = [float(t.replace(",", ".")) for t in texts if t != "north"]
        if own:
            number[name] = sum(own) / len(own)
    reach = max(number.values()) - min(number.values()) if number else 0
    found = {}
    for a, b in itertools.combinations(number, 2):
        d = number[b] - number[a]
        if how == "within" and abs(d) <= tolerance:
            found[pair(a, b)] = (1, 1)
        elif how == "difference" and d:
            found[pair(a, b)] = (abs(d), 1)
        elif how == "signed" and d:
            found[(a, b) if d > 0 else (b, a)] = (abs(d), 1)
        elif how == "nearness" and (weight := 1 - abs(d) / reach if reach else 1) > 0:
            found[pair(a, b)] = (weight, 1)
    return found


def pair(a, b):
    return tuple(sorted((a, b), key=str))


@given(
    st.lists(ROW, min_size=1, max_size=6),
    st.sampled_from(["record", "person"]),
    st.sampled_from(["same", "within", "difference", "signed", "nearness"]),
    st.sampled_from([0.0, 1.5, 3.0]),
)
@settings(max_examples=120)
def test_alike_as_the_definition_says(rows, of, how, tolerance):
    tolerance = 0.0 if how == "same" else tolerance
    _, result = build(rows, of=of, compare=how, tolerance=tolerance)
    n = result.network
    names = [int(n.entity[i]) if of == "record" else n.label[i] for i in range(len(n))]
    found = {}
    for s, t, w, c in zip(n.source, n.target, n.weight, n.count):
        key = (names[s], names[t])
        found[key if n.directed else pair(*key)] = (pytest.approx(w, rel=1e-9), int(c))
    assert found == expected(rows, of, how, tolerance)


def test_words_among_numbers_and_several_numbers_are_said():
    rows = [
        {"people": ["A"], "values": ["1", "4"], "entry": ""},
        {"people": ["B"], "values": ["north"], "entry": ""},
        {"people": ["C"], "values": ["2,5"], "entry": ""},
    ]
    _, result = build(rows, of="person", tolerance=1.0)
    said = [step[0] for step in result.filtered.steps]
    assert any("are no numbers" in text for text in said) and any("count by their mean" in text for text in said)
    assert result.network.ties == 1  # A's mean is 2.5; B has no number, and is no tie


def test_a_dense_request_is_refused_with_its_size_and_the_alternative(monkeypatch):
    monkeypatch.setattr(pairs, "MOST_TIES", 5)
    rows = [{"people": [], "values": ["1"], "entry": ""}] * 4
    with pytest.raises(UserError, match="GB of memory") as error:
        build(rows, of="record", compare="nearness")
    assert "tolerance" in error.value.cure


@given(st.lists(st.lists(st.text(max_size=12) | st.integers() | st.booleans(), max_size=3), min_size=1, max_size=5))
def test_every_value_is_kept_as_it_is_written(rows):
    raw = [RawRecord(k + 1, title=f"mud {k}") for k in range(len(rows))]
    corpus = corpus_of([(Source("s", "s", "CSV", "utf-8", "", len(raw)), raw)])
    found = named_columns(corpus, [(k, {"x": values}) for k, values in enumerate(rows)]).by_name()
    x = found.get("x", Mentions.none())
    for k, values in enumerate(rows):
        texts = [
            fold(part) for v in values for part in (str(v).lower() if v is True or v is False else str(v)).split(";")
        ]
        assert [x.forms[f] for f in x.form[x.record == k]] == list(dict.fromkeys(filter(None, texts)))


def test_what_is_a_text_and_no_value_is_left_out_and_own_columns_come_last():
    corpus = corpus_of(
        [(Source("s", "s", "CSV", "utf-8", "", 1), [RawRecord(1, title="mud", year=1990, language="en")])]
    )
    found = named_columns(corpus, [(0, {"note": "x" * (LONGEST + 1), "person": "no", "ward": "north; south"})])
    assert found.names[0] == "ward" and {"year", "language", "source"} <= set(found.names)
    assert "note" not in found.names and "person" not in found.names
    assert list(found.by_name()["ward"].forms) == ["north", "south"]
    assert numbers(["−3", "1,5", "1,000,000", "", "inf"]).tolist()[:2] == [-3.0, 1.5]


MEMBERS = "id,party,acres\nDray T,north,12\nMarl J,south,3\nSedge W,north,40\nLost L,east,7\n"
LETTERS = (
    "title,author\nOn mud,Dray T; Marl J\nOn silt,Dray T; Sedge W\nOn peat,Marl J; Sedge W\nOn tides,Dray T; Marl J\n"
)


def run(folder, relate):
    (folder / "members.csv").write_text(MEMBERS, encoding="utf-8")
    (folder / "papers.csv").write_text(LETTERS, encoding="utf-8")
    text = f'[gather]\nsources = ["members.csv", "papers.csv"]\n[group]\nruns = 0\n[relate]\n{relate}\n'
    (folder / "r.toml").write_text(text, encoding="utf-8")
    code = main(["run", str(folder / "r.toml"), "--out", str(folder / "out"), "--quiet"])
    if code:
        return code, [], []
    tables = []
    for name in ("items.csv", "ties.csv"):
        with (folder / "out" / name).open(encoding="utf-8", newline="") as file:
            tables.append(list(csv.DictReader(file)))
    return code, *tables


def test_a_table_joins_a_network_by_its_key_and_the_unmatched_are_listed(tmp_path):
    _, items, _ = run(tmp_path, 'attributes = ["party", "acres"]')
    told = {row["label"]: (row["party"], row["acres"]) for row in items}
    assert told == {"Dray T": ("north", "12"), "Marl J": ("south", "3"), "Sedge W": ("north", "40")}
    assert "Lost L" in (tmp_path / "out" / "methods.md").read_text(encoding="utf-8")


def test_items_and_ties_are_filtered_by_columns(tmp_path):
    _, items, ties = run(tmp_path, 'attributes = ["party", "acres"]\nitems = "party:north acres:20-"')
    assert [row["label"] for row in items] == ["Sedge W"] and not ties
    _, items, ties = run(tmp_path, 'ties = "weight:2- -Sedge"')
    assert len(items) == 3 and [(row["source"], row["target"]) for row in ties] == [("Dray T", "Marl J")]
    steps = json.loads((tmp_path / "out" / "run.json").read_text())["stages"]["relate"]["filters"]
    assert steps[-1] == {"what": "not weight:2- -Sedge", "before": 3, "after": 1, "unit": "ties"}


def test_people_of_the_same_party_and_parties_of_the_same_record(tmp_path):
    _, _, ties = run(tmp_path, 'tie = "similarity"\nof = "person"\ncolumn = "party"')
    assert [{row["source"], row["target"]} for row in ties] == [{"Dray T", "Sedge W"}]
    _, items, _ = run(tmp_path, 'tie = "co-occurrence"\nof = "party"')
    assert {row["label"]: row["kind"] for row in items} == {"north": "party", "south": "party", "east": "party"}


@pytest.mark.parametrize(
    ("relate", "said"),
    [
        ('tie = "co-occurrence"\nof = "partie"', "Did you mean 'party'"),
        ('tie = "similarity"\nof = "person"\ncolumn = "parti"', "Did you mean 'party'"),
        ('attributes = ["ward"]', "the records have no column 'ward'"),
        ('items = "ward:north"', "there is no column 'ward' to filter by"),
        ('items = "records:many"', "records:many is no number"),
        ('tie = "similarity"\nof = "person"', "nothing is said to be alike in"),
        ('tie = "similarity"\nof = "person"\ncolumn = "party"\nnormalise = "cosine"', "not normalised"),
    ],
)
def test_a_wrong_column_is_one_clear_line(tmp_path, capsys, relate, said):
    assert run(tmp_path, relate)[0] == 2
    assert said in capsys.readouterr().err


def test_a_study_and_its_files_have_the_same_columns(tmp_path):
    (tmp_path / "members.csv").write_text(MEMBERS, encoding="utf-8")
    path = tmp_path / "members.csv"
    corpus = read_corpus([path])
    from_file = named_columns(corpus, extras([path], corpus))
    with Study.create(tmp_path / "s.umber") as study:
        study.add_sources([read_file(path)])
        kept = study.corpus()
        from_study = named_columns(kept, study.extras(kept))
    assert from_file.names == from_study.names and from_file.names[:2] == ("party", "acres")
    for one, other in zip(from_file.mentions, from_study.mentions):
        assert one.forms == other.forms and np.array_equal(one.form, other.form)


EDGES = st.lists(st.tuples(st.sampled_from("ABC"), st.sampled_from("ABC")), min_size=1, max_size=7)


@given(EDGES, st.sampled_from(["reversed", "ignored"]))
@settings(max_examples=60)
def test_ties_turned_round_or_without_a_direction(edges, direction):
    raw = [
        RawRecord(k + 1, title=f"{k}", date=f"18{k:02}", others=[("person", "sender", a), ("person", "recipient", b)])
        for k, (a, b) in enumerate(edges)
    ]
    corpus = corpus_of([(Source("s", "s", "CSV", "utf-8", "", len(raw)), raw)])
    sentence = Relate(tie="correspondence", direction=direction)
    known = {"person": resolve(corpus, "person", [])}
    counted = count(corpus, known, sentence)
    n = related(corpus, counted, sentence).network
    weight, first = defaultdict(int), {}
    for k, (a, b) in enumerate(edges):
        key = (b, a) if direction == "reversed" else pair(a, b)
        weight[key] += 1
        first.setdefault(key, 1800 + k)
    found = {}
    for k in range(n.ties):
        key = n.label[n.source[k]], n.label[n.target[k]]
        found[key if n.directed else pair(*key)] = int(n.weight[k])
        assert str(n.tie_first[k])[:4] == str(first[key if n.directed else pair(*key)])
        parts = explain(
            Material(corpus, known, None, sentence), counted, int(counted.source[k]), int(counted.target[k])
        )
        assert len(parts) == counted.count[k]
    assert found == weight and n.directed == (direction == "reversed")


def test_filters_of_a_network():
    network = network_of(
        3, [(0, 1), (1, 2)], ["tide mill", "mill pond", "marsh"], records=np.array([9, 5, 1], np.int32)
    )
    columns = {
        "ward": Attribute(Texts.of(["north", "", "south bank"]), np.array([False, True, False])),
        "deep": Attribute.of([True, False, None]),
        "metres": Attribute.of([1.5, -2.0, None]),
    }
    network = replace(network, item_columns=columns)
    for text, picked in {
        "mill": [0, 1],
        "mill -tide": [1],
        "records:5": [1],
        "records:5-": [0, 1],
        "records:-5": [],  # minus five, and no item has so few
        "records:2-9": [0, 1],
        "ward:none": [1],
        'ward:"south bank"': [2],
        "-ward:north": [1, 2],
        "deep:yes": [0],
        "metres:-2-0": [1],
        "degree:2": [1],
    }.items():
        assert np.flatnonzero(items_fitting(network, text)).tolist() == picked, text
    assert ties_fitting(network, "tide").tolist() == [True, False]
    assert ties_fitting(network, "weight:2-").tolist() == [False, False]


def test_words_of_the_sentence_round_trip_and_are_said():
    recipe = parse_recipe(
        '[relate]\ntie = "similarity"\nof = "record"\ncolumn = "year"\ntolerance = 2.0\nattributes = ["ward"]\nitems = "ward:a"\n'
    )
    assert recipe.relate.compared == "within" and parse_recipe(recipe.toml()) == recipe
    assert "differs by at most 2" in told(recipe.relate) and called(recipe.relate) == "Records alike in year"
    plain = parse_recipe("").toml()
    assert not any(f"\n{key} =" in plain for key in ("column", "compare", "attributes", "items", "direction"))


def test_columns_in_the_window(window, qtbot, tmp_path):  # noqa: F811
    (tmp_path / "members.csv").write_text(MEMBERS, encoding="utf-8")
    (tmp_path / "papers.csv").write_text(LETTERS, encoding="utf-8")
    with Study.create(tmp_path / "s.umber") as study:
        study.add_sources([read_file(tmp_path / name) for name in ("members.csv", "papers.csv")])
    window.open_path(tmp_path / "s.umber")
    window.show_desk("relate")
    s, desk = window.session, window.desks["relate"]
    qtbot.waitUntil(lambda: settled(window) and bool(s.named_columns), timeout=60_000)

    def control(name):
        return next(w for w in desk.recipe.controls() if w.control.name == name).control

    assert ("party", "values of party") in [(value, word) for value, word, _ in control("kind of item").options]
    desk._choose_columns()
    popup = next(w for w in QApplication.topLevelWidgets() if isinstance(w, Popup) and w.isVisible())
    texts = [row.text() for row in popup.findChildren(Link)]
    assert "join party" in texts and "show first year" in texts
    done(window, qtbot, next(row for row in popup.findChildren(Link) if row.text() == "join party").clicked.emit)
    assert "party" in [c.heading for c in desk.table.rows.columns]
    assert any("joined to no item: Lost L" in share.text for share in desk.findChildren(Share))
    network = s.related.network
    assert network.item_columns["party"].listed()[s.item(("person", "Dray T"))] == "north"
    way = next(v for v, word, _ in control("what ties them").options if word == "who are alike in a column")
    done(window, qtbot, lambda: control("what ties them").chosen(way))
    done(window, qtbot, lambda: control("column").chosen("party"))
    assert s.related.network.ties == 1 and "counted" not in desk.recipe.text()
    assert "north" in desk.why.toPlainText() and "Party of both" in desk.why.toPlainText()
    done(window, qtbot, lambda: control("fewer ties").chosen("items"))
    done(window, qtbot, lambda: control("filter of items").chosen("party:south"))
    assert len(s.related.network) == 1 and s.related.network.ties == 0
    assert "without items there would be 1 tie" in desk.why.toPlainText()
    done(window, qtbot, lambda: desk.why.anchorClicked.emit(QUrl("give:items")))
    assert s.related.network.ties == 1 and s.strand.relate.items == ""
    done(window, qtbot, lambda: control("kind of item").chosen("party"))
    assert s.related.network.kinds == ("party",) and window.session.words() == "values of party"


def test_what_would_give_ties_back(tmp_path, capsys):
    text = 'min_records = 2\nmin_weight = 9\nwhere = "On"\n'
    (tmp_path / "members.csv").write_text(MEMBERS, encoding="utf-8")
    (tmp_path / "papers.csv").write_text(LETTERS, encoding="utf-8")
    (tmp_path / "r.toml").write_text(f'[gather]\nsources = ["papers.csv"]\n[relate]\n{text}')
    assert main(["run", str(tmp_path / "r.toml"), "--out", str(tmp_path / "out")]) == 0
    assert "without min weight there would be 3 ties" in capsys.readouterr().err
    gives = {"years": 2, "top_k": 7, "keep": 7}
    before = Relate(years=(1990, 1991), keep="connected", top_k=2)

    def ties(other):
        return next(gives[name] for name in gives if getattr(other, name) != getattr(before, name))

    assert most_given_back(before, ties) == ("top_k", 7)  # of equals the one that comes first

    def refused(other):
        raise UserError("too many")

    assert most_given_back(Relate(min_records=5), refused) == ("", 0)


def test_the_curve_of_weights_tells_what_each_threshold_keeps():
    rows = [{"people": list(p), "values": [], "entry": ""} for p in ("AB", "AB", "AC", "BC", "AB", "D")]
    raw = [RawRecord(k + 1, title=f"mud {k}", persons=r["people"]) for k, r in enumerate(rows)]
    corpus = corpus_of([(Source("s", "s", "CSV", "utf-8", "", len(raw)), raw)])
    known = {"person": resolve(corpus, "person", [])}
    f = related(corpus, count(corpus, known, Relate()), Relate()).filtered
    for at, items, ties in zip(f.weights.tolist(), f.weight_items, f.weight_ties):
        n = related(corpus, count(corpus, known, Relate()), Relate(min_weight=at)).network
        assert (int((n.degree() > 0).sum()), n.ties) == (items, ties)
    assert f.weights.tolist() == [1.0, 3.0]


@pytest.mark.parametrize(
    ("roles", "tie", "ties"),
    [
        ((), "co-authorship", {"AB"}),
        (("author", "editor"), "co-authorship", {"AB", "AE", "BE"}),
        (("editor",), "co-authorship", set()),
        ((), "correspondence", {"SR"}),
        (("copy",), "correspondence", {"SC"}),
        (("recipient", "copy"), "correspondence", {"SR", "SC"}),
        (("mentioned",), "correspondence", {"SM"}),
        (("mentioned", "recipient"), "co-occurrence", {"MR"}),
    ],
)
def test_roles_as_chosen(roles, tie, ties):
    others = [("person", "editor", "E"), ("person", "sender", "S"), ("person", "recipient", "R")]
    others += [("person", "copy", "C"), ("person", "mentioned", "M")]
    raw = [RawRecord(1, title="mud", persons=["A", "B"], others=others)]
    corpus = corpus_of([(Source("s", "s", "RIS", "utf-8", "", 1), raw)])
    sentence, known = Relate(tie=tie, roles=roles), {"person": resolve(corpus, "person", [])}
    counted = count(corpus, known, sentence)
    n = related(corpus, counted, sentence).network
    found = {(n.label[a], n.label[b]) for a, b in zip(n.source, n.target)}
    assert {"".join(p) for p in found} == ties or {"".join(sorted(p)) for p in found} == {
        "".join(sorted(t)) for t in ties
    }
    for k in range(len(counted.source)):
        pair_ = int(counted.source[k]), int(counted.target[k])
        assert len(explain(Material(corpus, known, None, sentence), counted, *pair_)) == counted.count[k]
