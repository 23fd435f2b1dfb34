"""The real interface driven offscreen: every desk on the demo, decisions, undo, faults."""

import ast
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QColor, QFontMetricsF
from PyQt6.QtTest import QTest

from tests.building import word
from umber_knot.chart.hits import tie_at
from umber_knot.corpus.study import Study
from umber_knot.desktop import theme
from umber_knot.desktop.brush import Brush
from umber_knot.desktop.house import dress
from umber_knot.desktop.selection import Selection
from umber_knot.desktop.sentence import Choice, Number, SentenceWord, Years, _parsed
from umber_knot.desktop.session import Session
from umber_knot.desktop.theme import look
from umber_knot.desktop.window import Window

SRC = Path(__file__).parents[1] / "src" / "umber_knot"


def test_nothing_outside_desktop_imports_qt():
    for path in SRC.rglob("*.py"):
        if "desktop" in path.relative_to(SRC).parts:
            continue
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            names = [a.name for a in node.names] if isinstance(node, ast.Import) else []
            names += [node.module or ""] if isinstance(node, ast.ImportFrom) else []
            assert not any(n.split(".")[0] in ("PyQt6", "PySide6", "sip") for n in names), path


def test_the_window_starts_without_the_libraries_that_only_workers_need():
    heavy = (
        "numba",
        "igraph",
        "scipy",
        "charset_normalizer",
        "babel",
        "urllib.request",
        "pymarc",
        "pypdfium2",
        "python_calamine",
    )
    code = f"import sys, umber_knot.desktop.window; print([m for m in {heavy} if m in sys.modules])"
    found = subprocess.run([sys.executable, "-c", code], check=True, capture_output=True, text=True)
    assert found.stdout.strip() == "[]"


@pytest.fixture
def window(qtbot, qapp):
    theme.load_fonts()
    dress("light")
    one = Window(Session(), Brush())
    qtbot.addWidget(one, before_close_func=lambda w: (w.session.shut_down(), w.brush.shut_down()))
    one.resize(1280, 800)
    one.show()
    return one


def settled(window):
    s = window.session
    return s.running is None and not s.loader.waiting() and {"stability", "chart"} <= s.current


@pytest.fixture
def opened(window, qtbot, study_path):
    window.open_path(study_path)
    window.show_desk("chart")
    canvas = window.desks["chart"].canvas
    qtbot.waitUntil(lambda: settled(window) and canvas.first_paint, timeout=60_000)
    return window


def done(window, qtbot, change):
    """Make a change and wait until everything is up to date."""
    change()
    s = window.session

    def there():
        assert settled(window), (s.running, s.task, s.failed, s.serial, s.shown.serial, s._coming, s.loader.waiting())

    qtbot.waitUntil(there, timeout=60_000)


def counts(window):
    network = window.session.related.filtered.network
    return len(network), network.ties


def test_the_whole_thread_on_the_demo(opened, qtbot):
    s = opened.session
    assert len(s.corpus) == 1200 and len(s.grouped.topics) == 8
    strip = opened.thread_strip
    assert strip.numbers("gather") == ["1,200 records", "4 sources"]
    assert strip.numbers("group")[0] == "8 topics"
    for name, desk in opened.desks.items():
        opened.show_desk(name)
        assert (desk.isVisible() and desk.sentence.text()) or name == "relate"
        qtbot.wait(30)
    report = opened.desks["report"]
    qtbot.waitUntil(lambda: bool(s.files), timeout=60_000)  # though another desk asked for measures meanwhile
    opened.show_desk("report")
    qtbot.waitUntil(lambda: not report.sheet.image.isNull(), timeout=5_000)
    assert {"chart.svg", "chart.png", "items.csv", "methods.md"} <= set(s.files)


def test_a_merge_is_undone_and_redone_and_said(opened, qtbot):
    s = opened.session
    before = counts(opened)
    said = []
    s.said.connect(lambda head, text, kind: said.append(text))
    opened.show_desk("reconcile")
    desk = opened.desks["reconcile"]
    qtbot.waitUntil(lambda: desk.settle.offer() is not None, timeout=30_000)
    desk._choose_kind("keyword")
    desk.show_page("hand")
    table, forms = desk.hand.table, s.corpus.of("keyword").forms
    for text in ("curlew", "redshank"):
        row = int(np.flatnonzero(table.rows.order == forms.index(text))[0])
        index = table.rows.index(row, 0)
        table.selectionModel().select(
            index, table.selectionModel().SelectionFlag.Select | table.selectionModel().SelectionFlag.Rows
        )
    done(opened, qtbot, lambda: QTest.keyClick(desk, Qt.Key.Key_M))
    assert counts(opened)[0] == before[0] - 1
    assert any(f"{before[0]} → {before[0] - 1} words" in text for text in said), said
    done(opened, qtbot, s.undo)
    assert counts(opened) == before
    done(opened, qtbot, s.redo)
    assert counts(opened)[0] == before[0] - 1
    with Study.open(s.study.path) as study:
        assert [d.decision for d in study.decisions()] == ["merge"]


def test_suggestions_are_settled_with_single_keys(opened, qtbot):
    s = opened.session
    opened.show_desk("reconcile")
    desk = opened.desks["reconcile"].settle
    qtbot.waitUntil(lambda: desk.offer() is not None, timeout=30_000)
    assert s.reconcile_kind == "person"  # nothing waits for words, whose variants the recipe takes
    waiting = len(s.offers["person"].suggestions)
    first = desk.offer()
    QTest.keyClick(desk, Qt.Key.Key_2)
    assert desk.question.preferred == 1
    done(opened, qtbot, lambda: QTest.keyClick(desk, Qt.Key.Key_M))
    forms = s.corpus.of("person").forms
    assert s.decisions[0].preferred == forms[first.suggestion.forms[1]]
    qtbot.waitUntil(lambda: "person" in s.offers and len(s.offers["person"].suggestions) == waiting - 1, timeout=30_000)
    again = desk.offer()
    done(opened, qtbot, lambda: QTest.keyClick(desk, Qt.Key.Key_K))
    qtbot.waitUntil(lambda: "person" in s.offers, timeout=30_000)
    assert all(o.forms != again.suggestion.forms for o in s.offers["person"].suggestions)
    third = desk.offer()
    QTest.keyClick(desk, Qt.Key.Key_Space)
    assert desk.offers.offers[-1].name == third.name


def test_the_sentence_changes_the_recipe_and_keeps_the_focus(opened, qtbot):
    opened.show_desk("relate")
    sentence = opened.desks["relate"].recipe
    word = next(w for w in sentence.controls() if w.control.name == "least records")
    word.setFocus()
    before = counts(opened)[0]
    done(opened, qtbot, lambda: (QTest.keyClick(word, Qt.Key.Key_Up), qtbot.wait(SentenceWord.WAIT + 150)))
    assert opened.session.recipe.relate.min_records == 5 and counts(opened)[0] < before
    assert word in sentence.controls() and word.text() == "5"
    many = next(w for w in sentence.controls() if w.control.name == "kind of item")
    done(opened, qtbot, lambda: many.control.chosen("person"))
    assert opened.session.recipe.relate.tie == "co-authorship"
    assert "people who share a record" in sentence.text()


def test_typed_values_are_checked():
    years = Years((), 1975, 2025, lambda v: None)
    assert _parsed(years, "1990-2000") == _parsed(years, "1990 to 2000") == (1990, 2000)
    number = Number(3, 1, 10, lambda v: None)
    for control, text in ((years, "1990"), (years, "2000–1990"), (number, "x"), (number, "11"), (number, "2.5")):
        with pytest.raises(ValueError, match=r"year|number|from|earlier"):
            _parsed(control, text)
    assert Choice("a", [("a", "A", "")], lambda v: None).word() == "A"


def test_selecting_marks_ties_topics_and_boxes_on_the_chart(opened, qtbot):
    s, canvas = opened.session, opened.desks["chart"].canvas
    d = canvas.drawing
    labels = s.related.filtered.network.label
    i = int(d.priority[0])
    at = QPoint(round(canvas.view.px(d.x)[i]), round(canvas.view.py(d.y)[i]))
    QTest.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=at)
    assert s.selection.items == (word(labels[i]),)
    text = opened.desks["chart"].evidence.page.toPlainText()
    assert labels[i] in text and "line" in text and "Strongest ties" in text
    QTest.keyClick(canvas, Qt.Key.Key_Escape)
    assert not s.selection
    QTest.mousePress(canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier, QPoint(2, 2))
    QTest.mouseMove(canvas, QPoint(canvas.width() - 2, canvas.height() - 2))
    QTest.mouseRelease(
        canvas,
        Qt.MouseButton.LeftButton,
        Qt.KeyboardModifier.ShiftModifier,
        QPoint(canvas.width() - 2, canvas.height() - 2),
    )
    assert len(s.selection.items) == len(d)
    t = int(d.order[0])
    x, y = canvas.view.px(d.x), canvas.view.py(d.y)
    middle = QPointF((x[d.source[t]] + x[d.target[t]]) / 2, (y[d.source[t]] + y[d.target[t]]) / 2)
    assert tie_at(d, canvas.view, middle.x(), middle.y()) >= 0
    s.select(Selection(tie=(word(labels[d.source[t]]), word(labels[d.target[t]]))))
    assert "together" in opened.desks["chart"].evidence.page.toPlainText()
    s.select(Selection(record=int(s.corpus.id[5])))
    page = opened.desks["chart"].evidence.page.toPlainText()
    assert s.corpus.title[5] in page and "TY  -" in page


def test_dragging_a_mark_pins_it_and_the_study_remembers(opened, qtbot):
    canvas = opened.desks["chart"].canvas
    label = opened.session.related.filtered.network.label[0]
    done(opened, qtbot, lambda: canvas._drop(0, QPointF(40, 40)))
    qtbot.waitUntil(lambda: abs(canvas.view.px(canvas.drawing.x)[0] - 40) < 1, timeout=10_000)
    with Study.open(opened.session.study.path) as study:
        assert study.pins()[1, "Spread"][word(label)] == pytest.approx(
            (canvas.drawing.x[0], canvas.drawing.y[0]), abs=1e-3
        )


def test_the_painted_labels_do_not_overlap_and_their_boxes_hold_the_letters(opened, qtbot):
    canvas = opened.desks["chart"].canvas
    for change in (lambda: None, lambda: canvas.zoom(1.9), lambda: canvas.pan(120, -60), lambda: canvas.zoom(0.3)):
        change()
        qtbot.waitUntil(lambda: canvas.painted.view == canvas.view and canvas.painted.complete, timeout=10_000)
        boxes = [
            (b.left, b.top, b.left + b.width, b.top + b.height) for b in (*canvas.painted.names, *canvas.painted.labels)
        ]
        for k, a in enumerate(boxes):
            assert a[0] >= 0 and a[1] >= 0 and a[2] <= canvas.width() and a[3] <= canvas.height()
            assert not any(a[0] < b[2] and b[0] < a[2] and a[1] < b[3] and b[1] < a[3] for b in boxes[:k])
    for label in canvas.painted.labels[:30]:
        font = theme.serif(label.size, label.italic)
        font.setHintingPreference(font.HintingPreference.PreferNoHinting)
        assert QFontMetricsF(font).horizontalAdvance(label.text) <= label.width + 1.0


def test_a_source_is_switched_off_and_on(opened, qtbot):
    s = opened.session
    source = s.sources[0]
    done(opened, qtbot, lambda: s.switch_sources([source.id], False))
    assert 1200 - source.records <= len(s.corpus) < 1200 - source.records + 42  # some stand in another file too
    done(opened, qtbot, s.undo)
    assert len(s.corpus) == 1200


def test_files_dropped_on_the_start_screen_make_a_study(window, qtbot, tmp_path):
    path = tmp_path / "letters.csv"
    path.write_text('title,authors,keywords,year\nOne,"A, B; C, D",x; y,1990\nTwo,"A, B",x,soon\n', encoding="utf-8")
    window.open_files([path])
    qtbot.waitUntil(
        lambda: settled(window) and window.session.corpus is not None and len(window.session.corpus) == 2,
        timeout=60_000,
    )
    assert (tmp_path / "letters.umber").exists()
    assert window.stack.currentWidget() is window.desks["gather"]
    assert window.session.sources[0].problems[0].line == 3


@pytest.mark.parametrize("name", ["picture.bib", "empty.ris"])
def test_bad_files_are_said_in_the_window_and_nothing_changes(opened, qtbot, tmp_path, name):
    (tmp_path / name).write_bytes(b"\x89PNG\r\n\0" if "bib" in name else b"")
    said = []
    opened.session.said.connect(lambda head, text, kind: said.append((head, kind)))
    done(opened, qtbot, lambda: opened.open_files([tmp_path / name]))
    qtbot.waitUntil(lambda: bool(said), timeout=10_000)
    assert (f"{name} was not read", "fault") in said
    assert len(opened.session.corpus) == 1200


def test_a_file_that_is_no_study_is_said_on_the_start_screen(window, tmp_path):
    (tmp_path / "x.umber").write_text("not one")
    window.open_files([tmp_path / "x.umber"])
    assert "not a study" in window.start.note.text() and window.session.study is None


def test_a_dead_worker_is_said_and_trying_again_works(opened, qtbot):
    s = opened.session
    s.set_recipe("group", runs=900)
    qtbot.waitUntil(lambda: s.running is not None and "steady" in s.running[0], timeout=30_000)
    s.worker._process.kill()
    qtbot.waitUntil(lambda: s.failed is not None, timeout=10_000)
    assert not opened.status.again.isHidden()
    s.set_recipe("group", runs=2)
    qtbot.waitUntil(lambda: settled(opened), timeout=60_000)


def test_finder_reaches_commands_items_and_records(opened, qtbot):
    opened.find()
    opened.finder.edit.setText("tide mill")
    texts = [opened.finder.list.item(k).text() for k in range(opened.finder.list.count())]
    assert any(t.startswith("tide mill ") for t in texts) and any("record" in t for t in texts)
    opened.finder.edit.setText("go to group")
    QTest.keyClick(opened.finder.edit, Qt.Key.Key_Return)
    assert opened.stack.currentWidget() is opened.desks["group"]


def test_both_themes_and_sizes_paint_on_their_own_ground(opened, qtbot):
    for name in ("dark", "light"):
        opened.apply_theme(name)
        qtbot.waitUntil(lambda: opened.curtain.isHidden())
        paper = QColor(look().chart.paper).lightness()
        for size in ((1024, 700), (1920, 1080)):
            opened.resize(*size)
            for desk in opened.desks:
                opened.show_desk(desk)
                qtbot.wait(10)
                image = opened.grab().toImage()
                assert (image.width(), image.height()) == size
                light = [
                    image.pixelColor(x, y).lightness() for x in range(0, size[0], 16) for y in range(0, size[1], 16)
                ]
                same = sum(abs(one - paper) < 60 for one in light) / len(light)
                assert same > 0.5 and max(light) - min(light) > 60, (name, desk, same)


def test_every_control_can_be_reached_by_tab(opened):
    opened.show_desk("relate")
    for control in opened.desks["relate"].recipe.controls():
        assert control.focusPolicy() & Qt.FocusPolicy.TabFocus and control.accessibleName()
