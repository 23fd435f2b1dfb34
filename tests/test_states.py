"""What the window shows is always of one state, and what it decides is of the state it shows."""

import dataclasses
import time

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest

from tests.building import person, ris, word
from tests.test_desktop import done, opened, settled, window  # noqa: F401  (fixtures)
from umber_knot.corpus.model import Decision
from umber_knot.corpus.study import Study
from umber_knot.desktop.selection import Selection
from umber_knot.desktop.session import Session
from umber_knot.lineage.nodes import Node
from umber_knot.work.state import CorpusPart, NodePart, Passed


def consistent(s):
    """Everything that is shown is of one state."""
    related, grouped, drawing, corpus = s.related, s.grouped, s.drawing, s.corpus
    if related is not None and corpus is not None:
        assert related.counted.record.max(initial=-1) < len(corpus)
    if grouped is not None and related is not None:
        assert len(grouped.topic) == len(related.network)
    if drawing is not None:
        assert drawing.network is related.network and len(drawing.x) == len(grouped.topic)
        assert {t for t, _, _ in drawing.names} <= {t.number - 1 for t in grouped.topics}
    return True


def test_every_state_on_the_way_is_whole(opened, qtbot):  # noqa: F811
    """Changes that come faster than results: whatever is shown in between belongs together."""
    s, seen = opened.session, []
    s.arrived.connect(lambda stages: seen.append(consistent(s)))
    source = s.sources[0]
    s.set_recipe("relate", of="person", tie="co-authorship")
    qtbot.wait(30)
    s.switch_sources([source.id], False)
    qtbot.wait(60)
    s.set_recipe("relate", of="keyword", tie="co-occurrence", min_records=9)
    qtbot.wait(5)
    s.switch_sources([source.id], True)
    s.set_recipe("group", grain=2.0)
    qtbot.waitUntil(lambda: settled(opened), timeout=60_000)
    assert len(s.corpus) == 1200 and s.related.network.kind == "keyword" and seen
    assert s.shown.serial == s.serial and s.shown.recipe == s.recipe


def test_a_corpus_that_comes_while_its_answer_is_outdated_is_asked_for_again(opened, qtbot):  # noqa: F811
    s = opened.session
    source = s.sources[0]
    less = len(s.corpus) - source.records
    for on in (False, True, False):
        s.switch_sources([source.id], on)
        qtbot.wait(15)  # long enough to be sent, too short to be answered
    qtbot.waitUntil(lambda: settled(opened), timeout=60_000)
    assert less <= len(s.corpus) < less + 42 and source.anchor not in {x.anchor for x in s.corpus.sources}


def test_the_session_shows_nothing_of_a_state_that_is_not_the_present_one(qtbot, corpus, study_path):
    """A worker that answers late and out of turn: only whole present states are published."""
    from tests.building import results_of

    session = Session()
    session.schedule.send = lambda *a: None  # no worker: the answers are given by hand
    session.open(study_path)
    _, done_ = results_of(corpus, recipe=session.recipe)
    session.serial = 7
    session.refresh("x")
    assert session.serial == 8

    def give(serial, stage, key="k"):
        node = Node(stage, 0, "keyword") if stage == "reconcile" else Node(stage, 1)
        session._part(NodePart(serial, node, f"{stage}{key}", Passed.of(None, done_[node])))

    session.need(frozenset({"gather", "relate", "topics"}))
    session._part(CorpusPart(8, "c", Passed.of(None, corpus), [], (), ()))
    for stage in ("reconcile", "relate"):
        give(8, stage)
    qtbot.waitUntil(lambda: session.related is not None, timeout=5000)
    first = session.related
    session.refresh("y")
    give(8, "topics")  # late: of the state before
    session._part(CorpusPart(9, "c", Passed.of(None, corpus), [], (), ()))
    give(9, "relate", "other")
    qtbot.wait(60)
    assert session.shown.serial == 8 and session.related is first and session.grouped is None
    give(9, "topics", "other")
    qtbot.waitUntil(lambda: session.shown.serial == 9, timeout=5000)
    assert session.grouped is done_[Node("topics", 1)]
    session.shut_down()


def test_a_click_names_what_is_drawn_while_a_new_network_has_come_and_its_picture_has_not(opened, qtbot):  # noqa: F811
    s, canvas = opened.session, opened.desks["chart"].canvas
    old = canvas.drawing
    canvas._take = lambda painted: None  # no picture of the new one arrives
    opened.brush.painted.disconnect()
    done(opened, qtbot, lambda: s.set_recipe("relate", of="person", tie="co-authorship"))
    assert s.related.network.kind == "person" and canvas.drawing is old
    i = int(old.priority[0])
    at = QPoint(round(canvas.view.px(old.x)[i]), round(canvas.view.py(old.y)[i]))
    QTest.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=at)
    assert s.selection.items == (word(old.network.form[i]),)
    assert canvas.chosen() == [i] and s.item(s.selection.items[0]) == -1


@pytest.mark.parametrize(
    "deed",
    [
        lambda s: s.undo(),
        lambda s: s.redo(),
        lambda s: s.move_items({word("curlew"): (1.0, 2.0)}),
        lambda s: s.lay_out_again(),
        lambda s: s.decide([Decision("keyword", "aside", "tide")]),
        lambda s: s.set_recipe("group", grain=2.0),
        lambda s: s.remove_strand(1),
    ],
    ids=["undo", "redo", "move", "lay out again", "decide", "recipe", "strand"],
)
def test_no_step_waits_for_an_import(opened, qtbot, tmp_path, deed):  # noqa: F811
    s, said = opened.session, []
    s.said.connect(lambda head, text, kind: said.append(head))
    s.set_recipe("report", title="one step")
    big = tmp_path / "big.ris"
    big.write_text("TY  - JOUR\nTI  - one\nAU  - A, B\nER  - \n" * 60_000)
    s.add_files([big])
    qtbot.waitUntil(lambda: s.task == "gather" and s.running is not None and s.running[1] > 0, timeout=30_000)
    steps = len(s.study.steps())
    began = time.perf_counter()
    deed(s)
    assert time.perf_counter() - began < 0.1
    assert said and said[-1] in ("Wait a moment", "Not changed") and len(s.study.steps()) == steps
    s.stop_work()
    qtbot.waitUntil(lambda: not s.schedule.busy, timeout=30_000)


def test_drags_layers_and_drawn_ties_are_steps_that_outlive_a_kill(opened, qtbot):  # noqa: F811
    s, chart = opened.session, opened.desks["chart"]
    before = s.drawing.x[0], s.drawing.y[0]
    one = s.related.network.identity(0)
    steps = len(s.study.steps())
    done(opened, qtbot, lambda: chart.canvas._drop(0, QPointF(30, 30)))
    moved = s.drawing.x[0], s.drawing.y[0]
    done(opened, qtbot, lambda: chart.legend.layer_links["labels"].click())
    done(opened, qtbot, lambda: s.set_recipe("chart", least_tie=3.0))
    assert moved != before and len(s.study.steps()) == steps + 3
    with Study.open(s.study.path) as study:  # what another process finds there now, and after a kill
        assert study.pins()[1, "Spread"][one] == pytest.approx(moved, abs=1e-3)
        assert '"labels"' not in study.recipe() and "least_tie = 3.0" in study.recipe()
    assert "labels" not in chart.canvas.session.strand.chart.layers and not chart.canvas.layers.labels
    qtbot.waitUntil(lambda: not chart.canvas.layers.labels and chart.canvas.layers.least_tie == 3.0, timeout=5000)
    done(opened, qtbot, lambda: (s.undo(), s.undo(), s.undo()))
    assert (s.drawing.x[0], s.drawing.y[0]) == before and s.study.pins() == {} and s.strand.chart.least_tie == 0
    done(opened, qtbot, s.redo)
    assert (s.drawing.x[0], s.drawing.y[0]) == pytest.approx(moved, abs=1e-3)
    done(opened, qtbot, s.lay_out_again)
    assert s.study.pins() == {} and s.study.afresh() == {(1, "Spread"): 1}
    done(opened, qtbot, s.undo)
    assert (s.drawing.x[0], s.drawing.y[0]) == pytest.approx(moved, abs=1e-3)


def test_the_plate_is_what_the_screen_shows(opened, qtbot):  # noqa: F811
    s = opened.session
    done(opened, qtbot, lambda: s.set_recipe("chart", layers=("items", "ties"), least_tie=4.0))
    opened.show_desk("report")
    qtbot.waitUntil(lambda: bool(s.files) and b"not drawn" in s.files["chart.svg"], timeout=60_000)
    svg = s.files["chart.svg"].decode()
    assert 'class="territories"' not in svg and "<text" in svg and svg.count("<circle") >= len(s.related.network)
    lighter = int((s.related.network.weight < 4.0).sum())
    assert f"{lighter:,} under 4 not drawn" in svg


def test_a_preview_of_one_kind_never_decides_on_another(opened, qtbot):  # noqa: F811
    s = opened.session
    opened.show_desk("reconcile")
    desk = opened.desks["reconcile"]
    qtbot.waitUntil(lambda: "person" in s.offers and "reference" in s.offers and s.running is None, timeout=60_000)
    desk._choose_kind("person")
    desk.settle._preview()
    assert desk.page is desk.preview
    desk._choose_kind("reference")
    assert desk.page is not desk.preview
    desk.show_page("preview")  # however it is reached
    desk.preview.merge()
    assert s.decisions == () and desk.page is desk.settle
    desk._choose_kind("person")
    desk.settle._preview()
    offers = desk.preview.offers
    s.reconcile_kind = "reference"  # the kind changes under the open preview
    done(opened, qtbot, desk.preview.merge)
    assert {d.kind for d in s.decisions} == {"person"}
    assert {d.form for d in s.decisions} <= set(offers.forms)


def test_a_decision_on_records_that_are_gone_is_refused_with_a_word(opened, qtbot):  # noqa: F811
    s, said = opened.session, []
    opened.show_desk("reconcile")
    desk = opened.desks["reconcile"].settle
    qtbot.waitUntil(lambda: desk.offer() is not None and s.running is None, timeout=60_000)
    s.said.connect(lambda head, text, kind: said.append((head, text)))
    s.schedule.cancel = lambda: None
    s.switch_sources([s.sources[0].id], False)  # the desk still shows the state before
    assert desk.offer() is not None
    desk.merge()
    assert s.decisions == () and said[-1][0] == "Not decided" and "changed since" in said[-1][1]
    qtbot.waitUntil(lambda: settled(opened), timeout=60_000)
    qtbot.waitUntil(lambda: desk.offer() is not None, timeout=60_000)
    done(opened, qtbot, desk.merge)
    assert len(s.decisions) > 0 and settled(opened)


def test_a_study_made_again_at_the_same_path_shows_its_own_records(window, qtbot, tmp_path):  # noqa: F811
    s = window.session
    table = tmp_path / "t.csv"
    table.write_text(
        'title,who,when\nSilt behind the gates,"Dray, Tamsin",1981\nSluices of the estuary,"Holt, Peter",1990\n'
    )
    counts = []
    for fields in (["title", "people", "date"], ["title", "words", "date"]):
        path = tmp_path / "same.umber"
        path.unlink(missing_ok=True)
        s.create(path)
        qtbot.waitUntil(lambda: s.running is None, timeout=60_000)
        s.add_files([table])
        qtbot.waitUntil(lambda: settled(window) and len(s.corpus) == 2, timeout=60_000)
        done(
            window,
            qtbot,
            lambda f=fields: s.replace_source(
                s.sources[0].id, table, {"fields": f, "header": ["title", "who", "when"]}
            ),
        )
        counts.append((len(s.corpus.of("person").record), len(s.corpus.of("keyword").record)))
        s.close()
    assert counts[0] == (2, 0) and counts[1][0] == 0 < counts[1][1]


def test_two_items_of_one_label_are_selected_apart(opened, qtbot):  # noqa: F811
    s = opened.session
    done(
        opened,
        qtbot,
        lambda: s.decide([Decision("keyword", "prefer", form, "birds") for form in ("curlew", "redshank")], "rename"),
    )
    a, b = word("curlew"), word("redshank")
    assert s.called(a) == s.called(b) == "birds" and s.item(a) != s.item(b) >= 0
    page = opened.desks["chart"].evidence.page
    records = []
    for one in (a, b):
        s.select(Selection(items=(one,)))
        records.append(page.toPlainText())
    assert records[0] != records[1] and f"in {s.related.network.records[s.item(a)]:,} record" in records[0]
    s.set_aside_selected()
    qtbot.waitUntil(lambda: settled(opened), timeout=60_000)
    assert s.item(b) < 0 <= s.item(a)


# -- strands


@pytest.fixture
def both(opened, qtbot):  # noqa: F811
    """Words, and people beside them."""
    done(opened, qtbot, lambda: opened.session.add_strand(of="person", tie="co-authorship", min_records=3))
    return opened


def test_one_decision_updates_every_strand_and_says_what_changed_in_which(both, qtbot):
    s, said = both.session, []
    assert s.strand_id == 2 and s.related.network.kind == "person" and s.shown.related(1).network.kind == "keyword"
    s.said.connect(lambda head, text, kind: said.append(text))
    mentions = s.mentions("person")
    forms = [mentions.forms[f] for f in np.argsort(-mentions.counts())[:2].tolist()]
    done(both, qtbot, lambda: s.decide([Decision("person", "merge", forms[0], forms[1])]))
    assert any("people" in text and "Words:" not in text for text in said)
    done(both, qtbot, lambda: s.decide([Decision("keyword", "aside", "curlew")]))
    qtbot.waitUntil(lambda: any("| Words: " in text and "− curlew" in text for text in said), timeout=10_000)
    assert s.shown.related(1).network.identities().count(word("curlew")) == 0
    assert s.decisions[-1].effect.startswith("same items") and "| Words: " in s.decisions[-1].effect


def test_a_selection_is_kept_where_it_means_something(both, qtbot):
    s = both.session
    done(both, qtbot, lambda: s.add_strand(of="person", tie="co-authorship", years=(1990, 2010)))
    assert s.strand_id == 3 and len(s.recipe.strands) == 3
    shared = next(one for one in s.related.network.identities() if one in set(s.shown.related(2).network.identities()))
    s.select(Selection(items=(shared,)))
    began = time.perf_counter()
    s.look_at(2)
    assert time.perf_counter() - began < 0.5 and s.selection.items == (shared,) and s.item(shared) >= 0
    s.look_at(1)
    assert s.selection.items == () and s.related.network.kind == "keyword"
    s.select(Selection(record=int(s.corpus.id[3])))
    s.look_at(3)
    assert s.row(s.selection) == 3


def test_a_strand_is_renamed_moved_taken_away_and_brought_back(both, qtbot):
    s, said = both.session, []
    s.said.connect(lambda head, text, kind: said.append((head, text)))
    done(both, qtbot, lambda: s.rename_strand(2, "Who writes with whom"))
    s.rename_strand(1, "who WRITES with whom")
    assert said[-1][0] == "Not changed" and "two strands" in said[-1][1]
    drawn = s.shown.drawing(2).x.copy()
    done(both, qtbot, lambda: s.move_strand(2, 0))
    assert [x.id for x in s.recipe.strands] == [2, 1] and s.recipe.relate.of == "person"
    done(both, qtbot, lambda: s.remove_strand(2))
    assert s.strand_id == 1 and len(s.recipe.strands) == 1
    s.remove_strand(1)
    assert said[-1][0] == "Not changed" and len(s.recipe.strands) == 1
    done(both, qtbot, s.undo)
    assert s.recipe.names() == ("Who writes with whom", "Words") and np.array_equal(s.shown.drawing(2).x, drawn)
    with Study.open(s.study.path) as study:
        assert "[[strand]]" in study.recipe()


def test_the_thread_parts_and_leads_to_each_strand(both, qtbot):
    s, strip = both.session, both.thread_strip
    assert [name for _, name, _ in strip._rows()] == ["Words", "People"]
    number, _, y = strip._rows()[0]
    QTest.mouseClick(strip, Qt.MouseButton.LeftButton, pos=QPoint(60, round(y)))
    assert s.strand_id == number == 1
    strip.setFocus()
    QTest.keyClick(strip, Qt.Key.Key_Right)
    assert s.strand_id == 2 and both.thread_strip.numbers("relate")[0].startswith(f"{len(s.related.network):,} items")
    for desk in ("relate", "group", "chart", "report"):
        both.show_desk(desk)
        sentence = both.desks[desk].recipe if desk == "relate" else both.desks[desk].sentence
        assert sentence.text().startswith("People :")


def test_a_further_network_is_made_at_the_end_of_the_sentence(opened, qtbot):  # noqa: F811
    s = opened.session
    QTest.keyClick(opened, Qt.Key.Key_N, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    opened.further_network()
    control = next(w for w in opened.desks["relate"].recipe.controls() if w.control.name == "further network")
    assert control.unfolded is not None
    control.step(1)  # the wheel makes no network
    qtbot.wait(400)
    assert len(s.recipe.strands) == 1
    control.unfolded.close()
    done(opened, qtbot, lambda: control.control.chosen("venue"))
    assert s.related.network.kind == "venue" and s.strand_name() == "Venues" and s.strand.relate.min_records == 4


def test_two_strands_stand_side_by_side_with_one_selection_and_two_views(both, qtbot):
    s, desk = both.session, both.desks["chart"]
    both.show_desk("chart")
    desk.stand_beside(1)
    qtbot.waitUntil(lambda: desk.other.first_paint and desk.canvas.first_paint, timeout=20_000)
    assert (desk.canvas.drawing.network.kind, desk.other.drawing.network.kind) == ("person", "keyword")
    assert [f.name.text() for f in desk.frames] == ["People", "Words"]
    view = desk.canvas.view
    desk.other.zoom(2.0)
    assert desk.canvas.view == view
    d = desk.other.drawing
    i = int(d.priority[0])
    desk.other._click(QPointF(0, 0), i, False)
    assert s.selection.items == (d.network.identity(i),) and s.strand_id == 1 and desk.legend.canvas is desk.other
    assert d.network.label[i] in desk.evidence.page.toPlainText()
    assert desk.other.chosen() == [i] and desk.canvas.chosen() == []
    desk.stand_alone()
    assert not desk.frames[1].isVisible()
    qtbot.waitUntil(lambda: desk.canvas.drawing.network.kind == "keyword", timeout=10_000)


def test_groupings_and_arrangements_are_kept_by_name(opened, qtbot):  # noqa: F811
    s = opened.session
    first, hues = s.grouped.topic.copy(), dict(s.drawing.slots)
    done(opened, qtbot, lambda: s.keep_grouping("Finer"))
    done(opened, qtbot, lambda: s.set_recipe("group", grain=3.0))
    finer = len(s.grouped.topics)
    assert finer > 8 and [g.name for g in s.strand.groupings] == ["Topics"]
    done(opened, qtbot, lambda: s.use_grouping("Topics"))
    assert np.array_equal(s.grouped.topic, first) and dict(s.drawing.slots) == hues
    done(opened, qtbot, lambda: s.use_grouping("Finer"))
    assert len(s.grouped.topics) == finer
    was = s.drawing.x.copy()
    done(opened, qtbot, lambda: s.keep_arrangement("By hand"))
    done(opened, qtbot, lambda: s.move_items({s.related.network.identity(0): (900.0, 900.0)}))
    assert s.drawing.x[0] == 900.0
    done(opened, qtbot, lambda: s.use_arrangement("Spread"))
    assert np.array_equal(s.drawing.x, was)
    done(opened, qtbot, lambda: s.use_arrangement("By hand"))
    assert s.drawing.x[0] == 900.0


def test_fifty_strands_are_one_study(window, qtbot, tmp_path):  # noqa: F811
    s = window.session
    file = ris(
        tmp_path / "a.ris",
        ("Silt behind the gates", ["Dray, T.", "Holt, P."], ["silt", "tide"], 1981),
        ("Sluices of the estuary", ["Holt, P.", "Quill, A."], ["sluice", "tide"], 1990),
    )
    s.create(tmp_path / "s.umber")
    recipe = s.recipe.changed("group", runs=0)
    for k in range(49):
        recipe, _ = recipe.with_another(1, years=(1950 + k, 2000))
    s.study.set_recipe("fifty", recipe.toml())
    s.open(tmp_path / "s.umber")
    s.add_files([file])
    qtbot.waitUntil(lambda: s.running is None and s.corpus is not None and len(s.corpus) == 2, timeout=120_000)
    assert len(s.recipe.strands) == 50 and sum(node.stage == "land" for node in s.shown.results) == 50
    assert len(window.thread_strip._rows()) == 7
    s.look_at(50)
    assert 50 in {number for number, _, _ in window.thread_strip._rows()}
    assert dataclasses.replace(s.strand, id=1) != s.recipe.strands[0]


def test_an_older_study_is_brought_up_to_date_by_the_worker(window, qtbot, tmp_path):  # noqa: F811
    import sqlite3
    from pathlib import Path

    path = tmp_path / "old.umber"
    db = sqlite3.connect(path)
    db.executescript((Path(__file__).parent / "data" / "version-4.sql").read_text(encoding="utf-8"))
    db.close()
    window.open_path(path)
    assert window.session.study is None  # nothing is done on the interface's thread
    qtbot.waitUntil(lambda: window.session.study is not None and settled(window), timeout=60_000)
    assert (tmp_path / "old (version 4).umber").exists()
    s = window.session
    assert s.shown.unapplied() and any("fits 2 records" in why for _, why in s.shown.unapplied())
    assert s.called(person("x")) == "x"


def test_a_chart_is_painted_whose_files_were_cleared_away(opened, qtbot):  # noqa: F811
    """Kept results make room for others at any time; what the window holds of them can still be drawn."""
    s, canvas = opened.session, opened.desks["chart"].canvas
    for file in filter(None, s._files.values()):
        file.unlink(missing_ok=True)
    canvas.easel.sent.clear()  # as for a new drawing process
    canvas.drawing = None
    canvas.follow()
    serial = canvas.easel.serial
    qtbot.waitUntil(lambda: canvas.painted is not None and canvas.painted.serial == serial, timeout=20_000)


def test_a_moved_mark_makes_the_chart_late_until_it_is_drawn(opened, qtbot):  # noqa: F811
    s = opened.session
    assert "chart" in s.current
    opened.desks["chart"].canvas._drop(0, QPointF(30, 30))
    assert "chart" not in s.current and "group" in s.current
    qtbot.waitUntil(lambda: "chart" in s.current, timeout=20_000)


def test_what_a_copy_interrupts_is_taken_up_again(opened, qtbot, tmp_path):  # noqa: F811
    s = opened.session
    s.set_recipe("relate", min_records=9)
    assert s.task == "update"
    s.save_copy(tmp_path / "copy.umber")
    qtbot.waitUntil(lambda: settled(opened) and (tmp_path / "copy.umber").exists(), timeout=60_000)
    assert s.shown.recipe == s.recipe


def test_a_view_is_painted_though_the_drawing_process_dies_and_pictures_do_not_pile_up(opened, qtbot):  # noqa: F811
    from umber_knot.work.keeping import passing_folder

    opened.show_desk("chart")
    canvas, worker = opened.desks["chart"].canvas, opened.brush.worker
    qtbot.waitUntil(lambda: canvas.painted is not None and canvas.painted.view == canvas.view, timeout=20_000)
    for k in range(3):
        canvas.zoom(1.1 + k / 10)
        if k == 1:
            worker._process.kill()
        qtbot.waitUntil(lambda: canvas.painted.view == canvas.view and worker.busy is None, timeout=20_000)
    assert canvas.painted.ties.value.any()
    assert not list(passing_folder().glob("ties-*"))


def test_a_strand_looked_at_again_is_there_at_once_as_it_was_left(opened, qtbot):  # noqa: F811
    s, canvas = opened.session, opened.desks["chart"].canvas
    opened.show_desk("chart")
    qtbot.waitUntil(lambda: settled(opened) and canvas.painted is not None, timeout=60_000)
    first = s.strand_id
    s.add_strand(of="person", tie="co-authorship")
    qtbot.waitUntil(lambda: settled(opened) and canvas.drawing is s.drawing, timeout=60_000)
    second, people = s.strand_id, canvas.drawing
    canvas.zoom(1.5)
    qtbot.waitUntil(lambda: canvas.painted.view == canvas.view and canvas.painted.complete, timeout=20_000)
    left = canvas.view
    s.look_at(first)
    qtbot.waitUntil(lambda: canvas.drawing.network.kind == "keyword", timeout=20_000)
    s.look_at(second)  # no turn of the event loop in between
    assert canvas.drawing.network is people.network and canvas.view == left == canvas.painted.view
    s.look_at(first)
    s.set_recipe("chart", tint_by="year")  # what was kept is no longer so
    qtbot.waitUntil(lambda: settled(opened) and canvas.drawing.tint_by == "year", timeout=60_000)
    s.look_at(second)
    assert canvas.drawing.network is people.network


def test_a_snapshot_is_told_by_itself_and_not_by_its_number(opened):  # noqa: F811
    """A snapshot that has gone leaves its place in memory to the next: what was remembered of it is not the next one's."""
    s = opened.session
    whole = s.shown
    for _ in range(100):
        s.shown = s.present()
        assert not s.current
        s.shown = None  # its place is free
        s.shown = dataclasses.replace(whole)
        assert {"stability", "chart"} <= s.current
    s.shown = whole
