"""Pairs of records that may be one: which are offered, what is said of them, and what answering them does."""

import json
from dataclasses import replace

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from tests.test_desktop import done, opened, window  # noqa: F401
from umber_knot.corpus.assemble import corpus_of
from umber_knot.corpus.beside import beside
from umber_knot.corpus.joining import DOUBTS
from umber_knot.corpus.model import Decision, RawRecord, Source
from umber_knot.desktop.gathering.doubtful import DoubtfulPairs
from umber_knot.desktop.parts import Link

TITLE = "Silting of the mill leats above the Brackwater gates"
BASE = RawRecord(1, title=TITLE, year=1998, persons=("Tamsin Dray", "Odile Vash"), venue="Mud Record")


def library(name, *records):
    return Source(name, "", "RIS", "utf-8", name, len(records)), [replace(r, line=n + 1) for n, r in enumerate(records)]


def two(one, other, decisions=()):
    return corpus_of([library("mills.ris", one), library("gates.ris", other)], decisions)


@pytest.mark.parametrize(
    ("changes", "doubt"),
    [
        ({"year": 2000, "venue": "Estuary Letters"}, DOUBTS[0]),
        ({"year": 0, "venue": "Estuary Letters"}, DOUBTS[1]),
        ({"title": "Silting of mill leats: a note", "year": 1999}, None),
        ({"title": f"{TITLE} in wet years", "year": 1999}, DOUBTS[3]),
        ({"persons": ("Tamsin Dray", "Bo Kell", "Ned Ash")}, None),  # joined: the title and one of two families
        ({"year": 2004, "venue": "Estuary Letters"}, None),
        ({"year": 2000, "volume": "9"}, None),  # the other is of volume 2
    ],
)
def test_only_what_a_reader_must_judge_is_offered(changes, doubt):
    corpus = two(replace(BASE, volume="2"), replace(BASE, **changes))
    found = [DOUBTS[k] for k in corpus.doubtful.doubt.tolist()]
    assert found == ([doubt] if doubt else [])
    assert not found or len(corpus) == 2


def test_a_pair_goes_with_its_answer_and_the_records_with_a_join():
    later = replace(BASE, year=2000, venue="Estuary Letters")
    corpus = two(BASE, later)
    mine, theirs = corpus.anchor(0), corpus.anchor(1)
    joined = two(BASE, later, [Decision("record", "merge", theirs, mine)])
    assert (len(joined), len(joined.doubtful)) == (1, 0)
    apart = two(BASE, later, [Decision("record", "apart", theirs, mine)])
    assert (len(apart), len(apart.doubtful)) == (2, 0)
    left_out = two(BASE, later, [Decision("record", "aside", theirs, "", note="later")])
    assert (len(left_out), len(left_out.doubtful)) == (1, 0)


def test_a_record_that_has_its_twin_there_is_not_offered_another():
    twin, reprint = replace(BASE, year=1998), replace(BASE, year=1999, venue="Estuary Letters")
    corpus = corpus_of([library("mills.ris", BASE), library("gates.ris", reprint, twin)])
    assert corpus.flow.by_title == 1
    assert not len(corpus.doubtful)


def test_two_records_beside_each_other_tell_what_differs():
    rows = {r.field: r for r in beside(two(BASE, replace(BASE, title=TITLE.upper(), year=2000, date="2000")), 0, 1)}
    assert not rows["title"].differs  # capitals are no difference
    assert (rows["people"].one, rows["people"].other) == ("Tamsin Dray; Odile Vash",) * 2
    assert rows["found in"].one.startswith("mills.ris, ")
    assert rows["date"].other == "2000" and not rows["date"].differs  # the first states none


def csl(path, year, titles):
    people = [{"family": "Dray", "given": "Tamsin"}, {"family": "Vash", "given": "Odile"}]
    path.write_text(
        json.dumps(
            [
                {
                    "id": f"r{n}",
                    "type": "article-journal",
                    "title": t,
                    "author": people,
                    "issued": {"date-parts": [[year]]},
                }
                for n, t in enumerate(titles)
            ]
        )
    )
    return path


def test_pairs_are_answered_one_by_one_and_all_at_once(opened, qtbot, tmp_path):  # noqa: F811
    s = opened.session
    opened.show_desk("gather")
    desk = opened.desks["gather"]
    titles = [f"{TITLE} and the {word}" for word in ("weirs", "lamps", "ferries")]
    before = len(s.corpus.doubtful)
    files = [csl(tmp_path / "first.json", 1998, titles), csl(tmp_path / "second.json", 2000, titles)]
    done(opened, qtbot, lambda: s.add_files(files))
    assert len(s.corpus.doubtful) == before + 3
    records = len(s.corpus)
    link = next(one for one in desk.found.findChildren(Link) if "may be one record" in one.text())
    link.click()
    page: DoubtfulPairs = desk.doubtful
    assert desk.pages.currentWidget() is page and DOUBTS[0] in page.page.toPlainText()
    first = page.page.toPlainText()
    QTest.keyClick(page, Qt.Key.Key_Space)
    assert page.page.toPlainText() != first
    QTest.keyClick(page, Qt.Key.Key_K)
    done(opened, qtbot, lambda: QTest.keyClick(page, Qt.Key.Key_M))
    assert len(s.corpus) == records - 1 and len(s.corpus.doubtful) == before + 1
    done(opened, qtbot, s.undo)
    assert len(s.corpus.doubtful) == before + 2 and len(s.corpus) == records
    everything = next(one for one in page.findChildren(Link) if "each pair is one record" in one.text())
    done(opened, qtbot, everything.click)
    assert not len(s.corpus.doubtful) and page.heading.text().endswith("All pairs are answered")
