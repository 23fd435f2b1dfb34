"""Identities that outlive a re-import: anchors of records, of entities, and of studies; studies of version 4."""

import csv
import io
import sqlite3
from datetime import date
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.building import ris, source, subject_of
from umber_knot.corpus.anchors import anchor, numbered, own_name, parsed
from umber_knot.corpus.assemble import corpus_of
from umber_knot.corpus.days import UNDATED, span
from umber_knot.corpus.file import kept_copy, older
from umber_knot.corpus.migrations import VERSION
from umber_knot.corpus.model import Decision, RawRecord
from umber_knot.corpus.study import Study
from umber_knot.errors import UserError
from umber_knot.gather.read import read_corpus, read_file
from umber_knot.lineage.recipe import parse_recipe
from umber_knot.reconcile.decisions import resolve, sort_out
from umber_knot.report.write import contents

ONE = ("Silt behind the tide mill gates", ["Dray, Tamsin"], ["silt"], 1981)
TWO = ("Saltmarsh accretion at Fenmere", ["Quill, Ada"], ["saltmarsh"], 1984)
THREE = ("Sluices of the lower estuary", ["Holt, P."], ["sluice"], 1990, "10.99999/bw.3")
FOUR = ("Wading birds on the outer flats", ["Marlow, Ines"], ["birds"], 1992)


@given(st.text(st.characters(exclude_categories=("Cs",)), max_size=12), st.integers(-(2**63), 2**63 - 1))
def test_anchors_read_back(name, print_):
    assert parsed(anchor(name, print_)) == (name, print_)


@given(st.lists(st.integers(0, 3), max_size=30))
def test_equal_fingerprints_are_told_apart_by_their_order(prints):
    array = np.array(prints, np.int64)
    found = numbered(array)
    assert len(set(found.tolist())) == len(prints)
    firsts = {p: prints.index(p) for p in prints}
    assert all(found[k] == p for p, k in firsts.items())
    assert np.array_equal(numbered(np.array([*prints, 9])), [*found, 9])


def test_what_is_no_anchor_is_none():
    assert (
        parsed("mills.ris:12") is None
        and parsed("x#") is None
        and parsed("x#zzzzzzzzzzzzz") is None
        and parsed("#ilo") is None
    )


def test_two_sources_of_one_name_never_share_a_record(tmp_path):
    """Setting aside a record of the second must not take one of the first."""
    files = [ris(tmp_path / "a" / "export.ris", ONE, TWO), ris(tmp_path / "b" / "export.ris", FOUR, THREE)]
    corpus = read_corpus(files)
    assert [s.anchor for s in corpus.sources] == ["export.ris", "export.ris (2)"]
    wanted = corpus.anchor(2)
    left = read_corpus(files, [Decision("record", "aside", wanted, note="not about silt")])
    assert list(left.title) == [ONE[0], TWO[0], THREE[0]] and not left.flow.unapplied
    unsure = read_corpus(files, [Decision("record", "aside", "export.ris:1", note="which?")])
    assert len(unsure) == 4
    ((name, why),) = unsure.flow.unapplied
    assert name == "export.ris:1" and corpus.anchor(0) in why and corpus.anchor(2) in why
    assert corpus.rows_of(["export.ris:7"]).row == {"export.ris:7": 1} or corpus.line[1] != 7


def test_decisions_hold_when_a_newer_export_shifts_every_line(tmp_path):
    path = tmp_path / "s.umber"
    with Study.create(path) as study:
        study.add_sources([read_file(ris(tmp_path / "old" / "export.ris", ONE, TWO, THREE))])
        corpus = study.corpus()
        study.decide("out", [Decision("record", "aside", corpus.anchor(1), note="off the point")])
        study.decide("part", [Decision("person", "split", "Holt, P.", "Holt, P. (sluices)", corpus.anchor(2))])
        number = study.sources()[0].id
        newer = ris(tmp_path / "new" / "export 2.ris", FOUR, THREE, ONE, TWO)
        study.add_sources([read_file(newer)], instead_of=[number])
        after = study.corpus()
        assert list(after.title) == [FOUR[0], THREE[0], ONE[0]] and not after.flow.unapplied
        split = resolve(after, "person", study.decisions())
        assert "Holt, P. (sluices)" in split.mentions(after).forms and not split.unapplied
        study.undo()
        assert list(study.corpus().title) == [ONE[0], THREE[0]]


def test_a_source_taken_out_and_added_again_is_the_same_source(tmp_path):
    file = ris(tmp_path / "export.ris", ONE, TWO)
    with Study.create(tmp_path / "s.umber") as study:
        study.add_sources([read_file(file)])
        study.decide("out", [Decision("record", "aside", study.corpus().anchor(0))])
        study.remove_sources("remove", [study.sources()[0].id])
        study.add_sources([read_file(file)])
        assert list(study.corpus().title) == [TWO[0]]
    assert own_name("a|b.ris", []) == "a/b.ris"


def test_the_table_of_records_names_them_by_anchor_and_tells_the_other_findings(tmp_path):
    files = [ris(tmp_path / "a.ris", ONE, THREE), ris(tmp_path / "b.ris", FOUR, THREE)]
    corpus = read_corpus(files)
    rows = list(csv.DictReader(io.StringIO(contents(subject_of(corpus))["records.csv"].decode(), newline="")))
    assert list(rows[0]) == ["id", "source", "line", "entry", "title", "year", "citations", "items", "also"]
    assert [r["id"] for r in rows] == [corpus.anchor(k) for k in range(3)]
    assert [bool(r["also"]) for r in rows] == [False, True, False] and rows[1]["also"].startswith("b.ris:")
    assert corpus.rows_of([rows[1]["also"]]).row[rows[1]["also"]] == 1
    kept, why = sort_out(corpus, [], [Decision("record", "aside", r) for r in (rows[0]["id"], "a.ris:999")])
    assert [d.form for d in kept] == [rows[0]["id"]] and "no record is called" in why[1]


def test_two_names_that_become_one_stay_two_items():
    records = [
        RawRecord(k + 1, title=f"t{k}", persons=p)
        for k, p in enumerate([["Dray, T.", "Holt, P."], ["Dray, U.", "Holt, P."]])
    ]
    corpus = corpus_of([(source("a.ris", records), records)])
    named = [Decision("person", "prefer", form, "Dray (the elder?)") for form in ("Dray, T.", "Dray, U.")]
    one = subject_of(corpus, decisions=named)
    assert len(one.network) == 3 and sorted(one.network.form) == ["Dray, T.", "Dray, U.", "Holt, P."]
    files = contents(one)
    labels = [r["label"] for r in csv.DictReader(io.StringIO(files["items.csv"].decode(), newline=""))]
    assert len(set(labels)) == 3 and "Dray (the elder?) [Dray, T.]" in labels
    ties = list(csv.DictReader(io.StringIO(files["ties.csv"].decode(), newline="")))
    assert {t["source"] for t in ties} | {t["target"] for t in ties} <= set(labels) and len(ties) == 2


@given(st.dates(min_value=date(1000, 1, 1), max_value=date(2099, 12, 31)))
def test_days_are_exact_and_lie_within_their_month_and_year(day):
    first, last = span(day.isoformat())
    assert np.datetime64(first, "D") == np.datetime64(day) and first == last
    for text in (day.isoformat()[:7], day.isoformat()[:4], f"{day.year // 10}X"):
        low, high = span(text)
        assert low <= first <= high
    assert span("no date") == (UNDATED, UNDATED) and span("", day.year)[0] <= first


# -- studies of version 4


@pytest.fixture
def version_4(tmp_path):
    path = tmp_path / "old.umber"
    db = sqlite3.connect(path)
    db.executescript((Path(__file__).parent / "data" / "version-4.sql").read_text(encoding="utf-8"))
    db.close()
    return path


def test_a_study_of_version_4_keeps_ledger_places_and_hues(version_4):
    assert older(version_4)
    before = version_4.read_bytes()
    copy = kept_copy(version_4, 4)
    with Study.open(version_4) as study:
        assert study.uuid
        decisions, corpus = study.decisions(), study.corpus()
        assert [d.decision for d in decisions] == ["merge", "merge", "aside", "aside", "aside", "split"]
        named = [d.form for d in decisions if d.kind == "record"]
        assert named[0] == "export.ris:1" and parsed(named[1]) is not None  # two records fit the first, one the second
        assert "no study" in dict(corpus.flow.excluded) and corpus.flow.unapplied[0][0] == "export.ris:1"
        assert parsed(decisions[-1].scope) is not None and not resolve(corpus, "person", decisions).unapplied
        places = study.remembered(1, "places", "Spread")[""].at()
        hues = study.remembered(1, "identities", "Topics")[""]
        assert places["keyword", "tide mill"] == (-228.7347, 20.4535) and dict(hues.slots) == {0: 0, 1: 1}
        assert study.pins() == {(1, "Spread"): {("keyword", "silt"): (-253.3697, -20.4535)}}
        assert parse_recipe(study.recipe()).relate.of == "keyword" and len(study.steps()) == 8
        while study.undo() is not None:
            pass
        assert study.decisions() == () and study.sources() == ()
    assert not older(version_4) and copy.exists() and not copy.with_name(copy.name + "-wal").exists()
    with sqlite3.connect(copy) as db:
        assert db.execute("PRAGMA user_version").fetchone()[0] == 4
        assert db.execute("SELECT count(*) FROM decision").fetchone()[0] == 6
    assert len(before) > 0 and sqlite3.connect(version_4).execute("PRAGMA user_version").fetchone()[0] == VERSION


def test_a_study_of_version_4_opens_where_it_was_left(version_4):
    from tests.building import results_of
    from umber_knot.lineage.nodes import Memory, Node

    with Study.open(version_4) as study:
        memory = Memory(
            study.remembered(1, "places", "Spread"),
            study.remembered(1, "identities", "Topics"),
            study.pins()[1, "Spread"],
        )
        _, done = results_of(study.corpus(), study.decisions(), parse_recipe(study.recipe()), {1: memory})
    network, standing = done[Node("relate", 1)].network, done[Node("standing", 1)]
    at = dict(zip(network.label, zip(standing.x.tolist(), standing.y.tolist())))
    assert at["tide mill"] == (-228.7347, 20.4535) and at["birds"] == (253.3697, -20.4535)
    assert done[Node("land", 1)].slots == {0: 0, 1: 1}


def test_no_copy_no_migration(version_4, monkeypatch):
    monkeypatch.setattr("umber_knot.corpus.file.kept_copy", lambda path, version: path)  # a place that is taken
    with pytest.raises(UserError, match="exists"):
        Study.open(version_4)
    assert sqlite3.connect(version_4).execute("PRAGMA user_version").fetchone()[0] == 4


def test_a_copy_holds_the_last_step_and_never_writes_over(study_path, tmp_path):
    with Study.open(study_path) as study:
        study.decide("aside", [Decision("keyword", "aside", "tide")])
        study.copy_to(tmp_path / "copy.umber")
        with pytest.raises(UserError, match="exists"):
            study.copy_to(tmp_path / "copy.umber")
        with pytest.raises(UserError, match="cannot be"):
            study.copy_to(tmp_path / "none" / "copy.umber")
    with Study.open(tmp_path / "copy.umber") as copy:
        assert [d.form for d in copy.decisions()] == ["tide"] and len(copy.corpus()) == 1200
