"""The controls of each desk, driven as a scholar would: legend, years, curves, tables, ledger, report, window state."""

import csv
import dataclasses
import re

import numpy as np
import pytest
from PyQt6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent, QGuiApplication
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QFileDialog

from tests.building import person, word
from tests.test_desktop import done, opened, settled, window  # noqa: F401  (fixtures)
from umber_knot.corpus.model import Decision
from umber_knot.desktop.legend import Swatch
from umber_knot.desktop.parts import Link, Popup, anchor
from umber_knot.desktop.selection import Selection, written
from umber_knot.network.model import years as of
from umber_knot.reconcile.suggestion import Suggestion


def popup_links(window_):
    popups = [w for w in window_.findChildren(Popup) if w.isVisible()]
    assert len(popups) == 1
    return {link.text(): link for link in popups[0].findChildren(Link)}


def test_size_and_tint_are_chosen_where_they_are_explained(opened, qtbot):  # noqa: F811
    legend = opened.desks["chart"].legend
    QTest.mouseClick(legend.size_link, Qt.MouseButton.LeftButton)
    done(opened, qtbot, lambda: popup_links(opened)["ties"].click())
    assert opened.session.recipe.chart.size_by == "degree"
    qtbot.waitUntil(lambda: legend.size_link.text() == "ties of an item", timeout=10_000)
    QTest.mouseClick(legend.tint_link, Qt.MouseButton.LeftButton)
    done(opened, qtbot, lambda: popup_links(opened)["mean year"].click())
    assert opened.session.drawing.tint_by == "year"
    qtbot.waitUntil(lambda: legend.tint_link.text() == "mean year", timeout=10_000)
    done(opened, qtbot, lambda: (opened.session.undo(), opened.session.undo()))
    assert opened.session.recipe.chart.size_by == "records"


def test_swatches_select_topics_and_layers_can_be_hidden(opened, qtbot):  # noqa: F811
    chart = opened.desks["chart"]
    swatches = chart.legend.findChildren(Swatch)
    assert len(swatches) == 8
    QTest.mouseClick(swatches[2], Qt.MouseButton.LeftButton)
    assert opened.session.selection.topic == swatches[2].topic
    assert swatches[2].name in chart.evidence.page.toPlainText()
    QTest.keyClick(swatches[2], Qt.Key.Key_Return)
    assert opened.session.selection.topic is None
    for name in ("labels", "ties"):
        chart.legend.layer_links[name].click()
    qtbot.waitUntil(lambda: chart.canvas.painted.ties is None and not chart.canvas.painted.labels, timeout=10_000)


def test_fewer_ties_are_drawn_but_the_network_stays(opened, qtbot):  # noqa: F811
    chart = opened.desks["chart"]
    before = opened.session.related.filtered.network.ties
    QTest.mouseClick(chart.legend.least, Qt.MouseButton.LeftButton)
    done(
        opened,
        qtbot,
        lambda: next(link for text, link in popup_links(opened).items() if text.startswith("tenth")).click(),
    )
    assert "weight at least" in chart.legend.least.text() and "not drawn" in chart.legend.note.text()
    assert opened.session.related.filtered.network.ties == before


def test_years_are_brushed_under_the_chart(opened, qtbot):  # noqa: F811
    brush = opened.desks["chart"].years
    y, step = 20, brush._step()
    QTest.mousePress(brush, Qt.MouseButton.LeftButton, pos=QPoint(round(22 + 10.5 * step), y))
    QTest.mouseMove(brush, QPoint(round(22 + 30.5 * step), y))
    done(
        opened,
        qtbot,
        lambda: QTest.mouseRelease(brush, Qt.MouseButton.LeftButton, pos=QPoint(round(22 + 30.5 * step), y)),
    )
    assert opened.session.recipe.relate.years == (1985, 2005)
    years = opened.session.related.filtered.network
    assert of(years.first).min() >= 1985 and of(years.last).max() <= 2005
    done(opened, qtbot, lambda: QTest.keyClick(brush, Qt.Key.Key_Right))
    assert opened.session.recipe.relate.years == (1986, 2005)
    done(opened, qtbot, lambda: QTest.mouseDClick(brush, Qt.MouseButton.LeftButton))
    assert opened.session.recipe.relate.years == ()


def test_the_threshold_is_dragged_on_the_curve(opened, qtbot):  # noqa: F811
    opened.show_desk("relate")
    curves = opened.desks["relate"].curves
    at = QPoint(round(curves._x(10)), 60)
    QTest.mousePress(curves, Qt.MouseButton.LeftButton, pos=at)
    done(opened, qtbot, lambda: QTest.mouseRelease(curves, Qt.MouseButton.LeftButton, pos=at))
    least = opened.session.recipe.relate.min_records
    assert least in (9, 10, 11)
    assert len(opened.session.related.filtered.network) == curves.items[least - 1]


def test_zooming_keeps_the_point_under_the_cursor(opened):  # noqa: F811
    canvas = opened.desks["chart"].canvas
    at = QPointF(200, 150)
    v = canvas.view
    point = v.x + (at.x() - v.width / 2) / v.scale, v.y - (at.y() - v.height / 2) / v.scale
    for factor in (1.7, 0.4, 3.0):
        canvas.zoom(factor, at)
        w = canvas.view
        assert w.px(np.array([point[0]]))[0] == pytest.approx(at.x(), abs=0.01)
        assert w.py(np.array([point[1]]))[0] == pytest.approx(at.y(), abs=0.01)
    QTest.keyClick(canvas, Qt.Key.Key_0)
    assert canvas.view == v


def test_keys_walk_through_the_items_and_find_rings_them(opened, qtbot):  # noqa: F811
    chart = opened.desks["chart"]
    labels, order = opened.session.related.filtered.network.label, chart.canvas.drawing.priority
    for k in range(3):
        QTest.keyClick(chart.canvas, Qt.Key.Key_N)
        assert opened.session.selection.items == (word(labels[order[k]]),)
    QTest.keyClicks(chart.search, "mill")
    assert {labels[i] for i in chart.canvas.found} == {t for t in labels if "mill" in t}
    QTest.keyClick(chart.search, Qt.Key.Key_Return)
    assert "mill" in opened.session.selection.items[0][1]


def test_records_are_filtered_sorted_and_copied(opened, qtbot):  # noqa: F811
    opened.show_desk("gather")
    desk = opened.desks["gather"]
    c = opened.session.corpus
    year = next(int(y) for title, y in zip(c.title, c.year) if "curlew" in title)
    QTest.keyClicks(desk.filter, f"curlew year:{year}")
    qtbot.wait(300)
    titles = [desk.table.rows.columns[0].text(int(r)) for r in desk.table.rows.order]
    assert titles and all(c.year[r] == year for r in desk.table.rows.order)
    desk.filter.clear()
    desk.table._sort(2)
    years = opened.session.corpus.year[desk.table.rows.order]
    assert (np.diff(years) <= 0).all()
    desk.table._sort(2)
    assert (np.diff(opened.session.corpus.year[desk.table.rows.order]) >= 0).all()
    desk.table.selectRow(0)
    QTest.keyClick(desk.table, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
    assert opened.session.corpus.title[desk.table.rows.order[0]] in QGuiApplication.clipboard().text()
    assert opened.session.row(opened.session.selection) == desk.table.rows.order[0]


def test_evidence_links_lead_to_items_ties_topics_and_records(opened):  # noqa: F811
    s, page = opened.session, opened.desks["chart"].evidence.page
    a, b, odd = word("tide mill"), word("mill pond"), word("50% <b> #1? & \x1f, a:b ünï")
    for link, expected in (
        (f"item:{written(a)}", Selection(items=(a,))),
        (f"tie:{written(a, b)}", Selection(tie=(a, b))),
        ("topic:1", Selection(topic=1)),
        ("record:7", Selection(record=7)),
        (f"item:{written(odd)}", Selection(items=(odd,))),
    ):
        kind, _, key = link.partition(":")
        page._follow(QUrl(re.search('href="([^"]+)"', anchor(kind, key, "x"))[1]))
        assert s.selection == expected
        assert len(page.toPlainText()) > 30


def test_the_evidence_of_a_tie_adds_up(opened):  # noqa: F811
    s = opened.session
    network = s.related.filtered.network
    t = int(np.argmax(network.count))
    a, b = network.label[network.source[t]], network.label[network.target[t]]
    s.select(Selection(tie=(word(a), word(b))))
    text = opened.desks["chart"].evidence.page.toPlainText()
    assert f"{network.count[t]} records shared" in text
    only = int(network.records[network.source[t]]) - int(network.count[t])
    assert f"{only}\nonly {a}" in text


def test_any_decision_of_the_ledger_is_undone_not_only_the_last(opened, qtbot):  # noqa: F811
    s = opened.session
    for text in ("curlew", "redshank", "tide"):
        done(opened, qtbot, lambda w=text: s.decide([Decision("keyword", "aside", w)]))
    first = s.decisions[0]
    done(opened, qtbot, lambda: s.withdraw(first))
    assert [d.form for d in s.decisions] == ["redshank", "tide"] and s.item(word("curlew")) >= 0
    done(opened, qtbot, s.undo)
    assert [d.form for d in s.decisions] == ["curlew", "redshank", "tide"] and s.item(word("curlew")) < 0


def test_the_ledger_goes_out_and_comes_in_as_csv(opened, qtbot, tmp_path, monkeypatch):  # noqa: F811
    s = opened.session
    opened.show_desk("reconcile")
    desk = opened.desks["reconcile"]
    desk.show_page("ledger")
    made = [Decision("keyword", "aside", "tide"), Decision("keyword", "merge", "curlew", "redshank")]
    done(opened, qtbot, lambda: s.decide(made))
    assert all(d.effect for d in s.decisions), "what changed is kept beside a decision"
    path = tmp_path / "out.csv"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a: (str(path), ""))
    desk.ledger.save()
    assert [r["form"] for r in csv.DictReader(path.open(encoding="utf-8"))] == ["tide", "curlew"]
    done(opened, qtbot, s.undo)
    path.write_text(
        path.read_text(encoding="utf-8") + "keyword,melt,x,y,,\r\nkeyword,apart,curlew,redshank,,\r\n", encoding="utf-8"
    )
    said = []
    s.said.connect(lambda head, text, kind: said.append((head, text)))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a: (str(path), ""))
    done(opened, qtbot, desk.ledger.bring_in)
    assert [d.form for d in s.decisions] == ["tide", "curlew"]
    assert [line.split(":")[0] for line in s.left_out] == [
        "out.csv, line 4",
        "out.csv, line 5",
    ] and "merged by an earlier" in s.left_out[1]
    assert any(head == "2 lines left out" for head, text in said) and desk.ledger.report.isVisible()
    done(opened, qtbot, s.undo)
    assert s.decisions == (), "one undo takes the whole file back"


def test_any_decision_of_the_ledger_is_found_and_undone(opened, qtbot):  # noqa: F811
    s = opened.session
    opened.show_desk("reconcile")
    desk = opened.desks["reconcile"]
    for text in ("curlew", "tide", "redshank"):
        done(opened, qtbot, lambda w=text: s.decide([Decision("keyword", "aside", w)]))
    desk.show_page("ledger")
    desk.ledger.filter.setText("tide")
    assert [d.form for d in desk.ledger.shown] == ["tide"]
    desk.ledger.table.selectRow(0)
    done(opened, qtbot, lambda: QTest.keyClick(desk, Qt.Key.Key_Delete))
    assert [d.form for d in s.decisions] == ["curlew", "redshank"]


def test_a_contradiction_is_said_when_it_is_made_and_changes_nothing(opened, qtbot):  # noqa: F811
    s = opened.session
    said = []
    s.said.connect(lambda head, text, kind: said.append((head, text)))
    done(opened, qtbot, lambda: s.decide([Decision("keyword", "merge", "curlew", "redshank")]))
    s.decide([Decision("keyword", "apart", "redshank", "curlew")])
    assert (said[-1][0] == "Not decided" and "curlew → redshank" in said[-1][1]) or "redshank → curlew" in said[-1][1]
    assert [d.decision for d in s.decisions] == ["merge"]


def test_spellings_by_hand_are_dragged_renamed_and_sorted_by_likeness(opened, qtbot):  # noqa: F811
    s = opened.session
    opened.show_desk("reconcile")
    desk = opened.desks["reconcile"]
    desk._choose_kind("keyword")
    desk.show_page("hand")
    hand, forms = desk.hand, s.corpus.of("keyword").forms
    hand.search.setText("curlew")
    assert {forms[f] for f in hand.table.rows.order.tolist()} <= {f for f in forms if "curlew" in f.casefold()}
    hand.search.clear()
    hand.table.select_row(forms.index("tide mill"))
    hand._sort_by_likeness()
    qtbot.waitUntil(lambda: s.spellings is not None, timeout=30_000)
    assert [forms[f].casefold().replace("-", " ").rstrip("s") for f in hand.table.rows.order[:2].tolist()] == [
        "tide mill",
        "tide mill",
    ]
    hand.table.select_row(forms.index("curlew"))
    done(opened, qtbot, lambda: hand.merge_into(forms.index("redshank")))
    assert (s.decisions[-1].form, s.decisions[-1].preferred) == ("curlew", "redshank")
    hand.table.select_row(forms.index("redshank"))
    hand.rename()
    hand.name.setText("shore birds")
    done(opened, qtbot, hand._renamed)
    assert s.item(word("redshank")) >= 0 and s.called(word("redshank")) == "shore birds"


def test_a_drop_of_one_row_on_another_merges(opened, qtbot):  # noqa: F811
    s = opened.session
    opened.show_desk("reconcile")
    desk = opened.desks["reconcile"]
    desk._choose_kind("keyword")
    desk.show_page("hand")
    table, forms = desk.hand.table, s.corpus.of("keyword").forms
    table.selectRow(3)
    source = forms[table.chosen()[0]]
    place = table.visualRect(table.rows.index(1, 0)).center()
    event = QDropEvent(
        place.toPointF(),
        Qt.DropAction.CopyAction,
        QMimeData(),
        Qt.MouseButton.LeftButton,
        Qt.KeyboardModifier.NoModifier,
    )
    into = forms[int(table.rows.order[1])]
    done(opened, qtbot, lambda: table.dropEvent(event))
    assert (s.decisions[-1].form, s.decisions[-1].preferred) == (source, into)


def test_a_rule_shows_what_it_touches_and_is_stated(opened, qtbot):  # noqa: F811
    s = opened.session
    opened.show_desk("reconcile")
    desk = opened.desks["reconcile"]
    desk._choose_kind("keyword")
    desk.show_page("rules")
    first, _ = desk.rules.fields["aside"]
    first.setText("curlew* | tide")
    qtbot.waitUntil(lambda: desk.rules.table.rows.rowCount() > 2, timeout=5_000)
    touches = desk.rules.table.rows.rowCount()
    assert f"{touches:,}" in desk.rules.touch_title.text()
    done(opened, qtbot, lambda: desk.rules.add("aside"))
    assert s.decisions[-1].scope == "rule" and s.item(word("curlew")) < 0 and s.item(word("tide")) < 0
    desk.rules.fields["endings"][0].setText("-s")
    desk.rules.add("endings")
    assert len(s.decisions) == 1, "a rule that cannot be is not made"


def test_what_is_selected_on_the_chart_is_set_aside_with_one_key(opened, qtbot):  # noqa: F811
    s = opened.session
    opened.show_desk("chart")
    s.select(Selection(items=(word("curlew"),)))
    done(opened, qtbot, lambda: QTest.keyClick(opened.desks["chart"].canvas, Qt.Key.Key_X))
    assert s.item(word("curlew")) < 0 and s.decisions[-1].decision == "aside"


def test_a_form_left_out_of_a_suggestion_stays_as_it_is(opened, qtbot):  # noqa: F811
    s = opened.session
    opened.show_desk("reconcile")
    desk = opened.desks["reconcile"]
    desk._choose_kind("person")
    qtbot.waitUntil(lambda: desk.settle.offer() is not None, timeout=30_000)
    rows = desk.settle.offers.offers
    at = next(k for k, o in enumerate(rows) if len(o.suggestion.forms) > 2)
    desk.settle.list.setCurrentIndex(desk.settle.offers.index(at))
    forms, members = s.mentions("person").forms, rows[at].suggestion.forms
    desk.settle.question.take(1, False)
    done(opened, qtbot, desk.settle.merge)
    assert {d.form for d in s.decisions} == {forms[f] for f in members[2:]}


def test_a_namesake_is_split_under_the_name_that_was_typed(opened, qtbot, tmp_path):  # noqa: F811
    s = opened.session
    opened.show_desk("reconcile")
    desk = opened.desks["reconcile"]
    desk._choose_kind("person")
    qtbot.waitUntil(lambda: desk.settle.offer() is not None, timeout=30_000)
    mentions = s.mentions("person")
    form = int(np.argmax(mentions.counts()))
    records = np.unique(mentions.record[mentions.form == form])
    parts = tuple(records[:4].tolist()), tuple(records[4:].tolist())
    offer = Suggestion("person", (form,), 0.9, ("made for this test",), action="split", parts=parts)
    known = s.offers["person"]
    s.offers["person"] = dataclasses.replace(known, suggestions=(offer, *known.suggestions), effects=())
    desk.settle.order = "confidence"
    desk.bring_up_to_date()
    at = next(k for k, o in enumerate(desk.settle.offers.offers) if o.suggestion is offer)
    desk.settle.list.setCurrentIndex(desk.settle.offers.index(at))
    assert "under one name" in desk.settle.question.asked.text()
    desk.settle.question.names[0].setText("The other one")
    done(opened, qtbot, desk.settle.split)
    assert s.decisions[-1].preferred == "The other one" and s.decisions[-1].decision == "split"
    assert "The other one" in s.mentions("person").forms
    named = s.mentions("person")
    assert int((named.form == named.forms.index("The other one")).sum()) == len(parts[1])
    done(opened, qtbot, lambda: s.set_recipe("relate", of="person", tie="co-authorship", min_records=1))
    opened.show_desk("chart")
    s.select(Selection(items=(person("The other one"),)))
    assert "The other one" in opened.desks["chart"].evidence.page.toPlainText()
    s.select(Selection(record=int(s.corpus.id[parts[1][0]])))
    assert "The other one" in opened.desks["chart"].evidence.page.toPlainText()


def test_the_report_is_saved_as_shown(opened, qtbot, tmp_path, monkeypatch):  # noqa: F811
    opened.show_desk("report")
    s = opened.session
    qtbot.waitUntil(lambda: bool(s.files), timeout=60_000)
    before = s.files["chart.svg"]
    s.set_recipe("report", title="A title of mine", width_mm=90.0)
    qtbot.waitUntil(lambda: s.files["chart.svg"] != before, timeout=60_000)
    assert b"A title of mine" in s.files["chart.svg"] and b'width="90mm"' in s.files["chart.svg"]
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *a: str(tmp_path / "out"))
    opened.desks["report"]._save_all()
    assert {p.name: p.read_bytes() for p in (tmp_path / "out").iterdir()} == s.files


def test_what_was_left_comes_back_when_opened_again(opened, qtbot):  # noqa: F811
    s, path = opened.session, opened.session.study.path
    done(opened, qtbot, lambda: s.set_recipe("group", grain=1.6))
    opened.show_desk("group")
    x, topics = s.drawing.x.copy(), s.grouped.topic.copy()
    opened.close_study()
    assert opened.pages.currentWidget() is opened.start and path in opened.recent()
    opened.open_path(path)
    qtbot.waitUntil(lambda: settled(opened), timeout=60_000)
    assert opened.stack.currentWidget() is opened.desks["group"] and s.recipe.group.grain == 1.6
    assert np.array_equal(s.drawing.x, x) and np.array_equal(s.grouped.topic, topics)


def test_setting_aside_an_item_takes_every_spelling_of_it(opened, qtbot):  # noqa: F811
    s = opened.session
    before = set(s.related.filtered.network.label)
    done(opened, qtbot, lambda: s.decide([Decision("keyword", "aside", "tide mill")]))
    after = set(s.related.filtered.network.label)
    assert before - after == {"tide mill"} and not after - before


def test_the_thread_opens_desks_by_mouse_and_keys(opened):  # noqa: F811
    strip = opened.thread_strip
    for name, y in strip._spots().items():
        QTest.mouseClick(strip, Qt.MouseButton.LeftButton, pos=QPoint(60, round(y)))
        assert opened.stack.currentWidget() is opened.desks[name] and strip.desk == name
    QTest.keyClick(strip, Qt.Key.Key_Up)
    assert opened.stack.currentWidget() is opened.desks["chart"]


def test_knots_turn_hollow_from_where_something_changed(opened, qtbot):  # noqa: F811
    s = opened.session
    assert {"gather", "reconcile", "relate", "group", "chart", "report"} <= s.current
    s.set_recipe("group", grain=1.3)
    assert {"gather", "reconcile", "relate"} <= s.current and not {"group", "chart", "report"} & s.current
    assert opened.thread_strip.working() == "group"
    qtbot.waitUntil(lambda: settled(opened), timeout=60_000)
    assert "report" in s.current and opened.thread_strip.working() == ""


def test_a_value_out_of_range_is_refused_and_said(opened):  # noqa: F811
    s, said = opened.session, []
    s.said.connect(lambda head, text, kind: said.append((kind, text)))
    before = s.recipe
    s.set_recipe("group", grain=-1.0)
    assert s.recipe == before and said[-1][0] == "fault" and "0.01" in said[-1][1]


def test_an_empty_chart_says_what_to_do(opened, qtbot, tmp_path):  # noqa: F811
    canvas, s = opened.desks["chart"].canvas, opened.session
    done(opened, qtbot, lambda: s.set_recipe("relate", min_records=5000))
    qtbot.waitUntil(lambda: len(canvas.drawing) == 0, timeout=10_000)
    assert "fewer than 5000 records" in canvas._why_empty() and "sentence above" in canvas._why_empty()
    canvas.repaint()
    s.create(tmp_path / "new.umber")
    qtbot.waitUntil(lambda: settled(opened), timeout=60_000)
    assert "no records yet" in canvas._why_empty()
    for desk in opened.desks:
        opened.show_desk(desk)
        assert not opened.grab().isNull()


def test_scrolling_a_word_takes_only_where_it_rests(opened, qtbot):  # noqa: F811
    opened.show_desk("group")
    word = next(w for w in opened.desks["group"].sentence.controls() if w.control.name == "grain")
    steps = len(opened.session.study.steps())
    for _ in range(4):
        word.step(1)
    assert word.text() == "1.40" and opened.session.recipe.group.grain == 1.0
    qtbot.waitUntil(lambda: opened.session.recipe.group.grain == pytest.approx(1.4), timeout=5_000)
    assert len(opened.session.study.steps()) == steps + 1
    qtbot.waitUntil(lambda: settled(opened), timeout=60_000)


def test_suggestions_at_or_above_a_level_are_taken_together_and_undone_together(opened, qtbot):  # noqa: F811
    opened.show_desk("reconcile")
    desk, s = opened.desks["reconcile"], opened.session
    qtbot.waitUntil(lambda: desk.settle.offer() is not None, timeout=30_000)
    sure = sum(o.confidence >= 0.95 and o.action == "merge" for o in s.offers["person"].suggestions)
    waiting = len(s.offers["person"].suggestions)
    desk.settle._preview()
    assert f"{sure:,} suggestions" in desk.preview.title.text() and desk.preview.table.rows.rowCount() > 2 * sure - 1
    done(opened, qtbot, lambda: QTest.keyClick(desk, Qt.Key.Key_M))
    qtbot.waitUntil(lambda: s.running is None, timeout=30_000)
    assert len(s.decisions) >= sure > 50 and len(s.offers["person"].suggestions) <= waiting - sure + 40
    done(opened, qtbot, s.undo)
    assert s.decisions == ()
