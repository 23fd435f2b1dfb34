"""The Gather desk driven as a scholar drives it: dropping, pasting, matching columns, asking a catalogue, leaving
out."""

import pytest
from PyQt6.QtCore import QCoreApplication, QEvent, QMimeData, QPointF, Qt, QUrl
from PyQt6.QtGui import QDragEnterEvent, QDropEvent, QGuiApplication
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog, QLineEdit

from tests.test_desktop import done, opened, window  # noqa: F401
from umber_knot.demo.catalogue import running
from umber_knot.desktop.gathering.columns import ColumnCard
from umber_knot.desktop.parts import Link, Popup, Share, Text


@pytest.fixture
def desk(opened):  # noqa: F811
    opened.show_desk("gather")
    return opened.desks["gather"]


def links(widget):
    return {link.text(): link for link in widget.findChildren(Link)}


def popup():
    return next(w for w in reversed(QApplication.topLevelWidgets()) if isinstance(w, Popup) and w.isVisible())


def drop(window, *paths):  # noqa: F811
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(p)) for p in paths])
    where, action = QPointF(600, 500), Qt.DropAction.CopyAction
    buttons, keys = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    window.dragEnterEvent(QDragEnterEvent(where.toPoint(), action, data, buttons, keys))
    window.dropEvent(QDropEvent(where, action, data, buttons, keys))


def test_a_folder_is_dropped_and_listed_as_one(opened, desk, demo, qtbot):  # noqa: F811
    s = opened.session
    done(opened, qtbot, lambda: drop(opened, demo / "essays"))
    assert len(s.sources) == 34 and len(s.corpus) == 1230
    shown = [label.text() for label in desk.sources.findChildren(type(desk.counted)) if label.text()]
    assert "essays/" in shown and any(text.startswith("30 files: DOCX, PDF") for text in shown)
    allows = [share.text for share in desk.allows.findChildren(type(desk.allows.rows.itemAt(0).widget()))]
    assert any("passages in 30 texts" in text for text in allows)
    done(opened, qtbot, s.undo)
    assert len(s.sources) == 4 and len(s.corpus) == 1200


def test_text_is_pasted(opened, desk, qtbot):  # noqa: F811
    s = opened.session
    QGuiApplication.clipboard().setText(
        "TY  - JOUR\nTI  - A pasted record of the mill\nAU  - Dray, Tamsin\nPY  - 2024\nER  - \n"
    )
    done(opened, qtbot, lambda: QTest.keyClick(desk, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier))
    assert s.sources[-1].name == "pasted text 1" and "A pasted record of the mill" in list(s.corpus.title)


def test_records_are_left_out_by_hand_and_by_rule_and_come_back(opened, desk, qtbot):  # noqa: F811
    s = opened.session
    before = len(s.corpus)
    desk.table.selectRow(0)
    desk.table.setFocus()
    desk._leave_out()
    box = popup().findChild(QLineEdit)
    box.setText("not about the estuary")
    done(opened, qtbot, lambda: QTest.keyClick(box, Qt.Key.Key_Return))
    assert len(s.corpus) == before - 1 and s.corpus.flow.excluded == (("not about the estuary", 1),)
    late = int((s.corpus.year >= 2020).sum())
    desk.filter.setText("year:2020-")
    qtbot.waitUntil(lambda: len(desk.table.rows.order) == late, timeout=3000)
    desk.table.clearSelection()
    desk._leave_out()
    box = popup().findChild(QLineEdit)
    box.setText("too late")
    done(opened, qtbot, lambda: QTest.keyClick(box, Qt.Key.Key_Return))
    assert len(s.corpus) == before - 1 - late and dict(s.corpus.flow.excluded)["too late"] == late
    desk.found._decisions()
    done(opened, qtbot, lambda: next(link for link in popup().findChildren(Link) if link.text() == "undo").click())
    assert len(s.corpus) in (before, before - late)
    for _ in range(3):
        done(opened, qtbot, s.undo)
    assert len(s.corpus) == before


def test_what_was_found_twice_is_shown_and_can_be_parted(opened, desk, qtbot):  # noqa: F811
    s = opened.session
    links(desk.found)["found twice"].click()
    qtbot.waitUntil(lambda: len(desk.table.rows.order) == len(s.corpus.also.record) == 42, timeout=3000)
    record = int(desk.table.rows.order[0])
    desk.open_record(record)
    assert "; also " in desk.reading.heading.text() and desk.reading.apart.isVisible()
    title = s.corpus.title[record]
    done(opened, qtbot, desk.reading.apart.click)
    assert (
        len(s.corpus) == 1201
        and sum(t.strip(".").casefold() == title.strip(".").casefold() for t in s.corpus.title) == 2
    )
    assert desk.pages.currentIndex() == 0
    done(opened, qtbot, s.undo)


def test_a_record_opens_with_its_raw_text(opened, desk):  # noqa: F811
    desk.table.selectRow(3)
    desk.table.activated.emit(desk.table.rows.index(3, 0))
    record = int(desk.table.rows.order[3])
    assert opened.session.corpus.title[record] in desk.reading.page.toPlainText()
    assert "TY  - JOUR" in desk.reading.raw.toPlainText()
    QTest.keyClick(desk, Qt.Key.Key_Escape)
    assert desk.pages.currentIndex() == 0


def test_problems_open_at_their_line(opened, desk, qtbot, tmp_path):  # noqa: F811
    path = tmp_path / "bad.ris"
    path.write_text("\n" * 90 + "TY  - JOUR\nTI  - One\nAU  - A, B\nPY  - soon\nER  - \n\nstray\n")
    done(opened, qtbot, lambda: opened.session.add_files([path]))
    links(desk.sources)["2 problems"].click()
    assert desk.pages.currentWidget() is desk.problems and "not understood" in desk.problems.list.item(0).text()
    marked = [line for line in desk.problems.raw.toPlainText().split("\n") if line.startswith("▸")]
    assert marked and marked[0].split() == ["▸94", "PY", "-", "soon"]
    path.unlink()
    desk.problems.list.setCurrentRow(-1)
    desk.problems.list.setCurrentRow(0)
    assert "any more" in desk.problems.raw.toPlainText()


def test_files_that_cannot_be_read_stay_named(opened, desk, qtbot, tmp_path):  # noqa: F811
    (tmp_path / "bad.pdf").write_bytes(b"%PDF-1.4 broken")
    (tmp_path / "good.ris").write_text("TY  - JOUR\nTI  - A good record\nAU  - A, B\nER  - \n")
    said = []
    opened.session.said.connect(lambda head, words, kind: said.append((head, words)))
    done(opened, qtbot, lambda: opened.session.add_files([tmp_path]))
    shown = [label.text() for label in desk.found.findChildren(type(desk.counted))]
    assert any(text.startswith("bad.pdf was not read: the PDF is damaged") for text in shown), shown
    assert said[-1][0] == "What changed" and "1 file could not be read" in said[-1][1]


def test_columns_are_matched_by_dropping_and_the_match_is_kept(opened, desk, qtbot, tmp_path):  # noqa: F811
    s = opened.session
    path = tmp_path / "odd.csv"
    path.write_text("title,wer,was\nSilt and gates,Tamsin Dray / Orrin Vashley,tide\n")
    done(opened, qtbot, lambda: s.add_files([path]))
    desk.open_columns(s.sources[-1])
    qtbot.waitUntil(lambda: len(desk.findChildren(ColumnCard)) == 3, timeout=10_000)
    cards = desk.findChildren(ColumnCard)
    data = QMimeData()
    data.setText("people")
    where, action = QPointF(5, 5), Qt.DropAction.CopyAction
    enter = QDragEnterEvent(where.toPoint(), action, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier)
    cards[1].dragEnterEvent(enter)
    assert enter.isAccepted()
    cards[1].dropEvent(QDropEvent(where, action, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier))
    assert cards[1].split.text() == "by slashes: 2 people"
    cards[1]._part("slashes")
    cards[2].field.click()
    links(popup())["words"].click()
    assert desk.columns.fields == ["title", "people", "words"]
    done(opened, qtbot, desk.columns.again.click)
    people = s.corpus.of("person")
    assert {"Tamsin Dray", "Orrin Vashley"} <= {people.forms[f] for f in people.form} and len(s.sources) == 5
    again = tmp_path / "next.csv"
    again.write_text("title,wer,was\nOld carbon of the marsh,Ilse Maddern / Ada Thorne,peat\n")
    done(opened, qtbot, lambda: s.add_files([again]))
    people = s.corpus.of("person")
    assert {"Ilse Maddern", "Ada Thorne"} <= {people.forms[f] for f in people.form}


def test_a_source_is_replaced_switched_off_and_removed(opened, desk, demo, qtbot, tmp_path, monkeypatch):  # noqa: F811
    s = opened.session
    newer = tmp_path / "mills.ris"
    text = (demo / "mills.ris").read_text(encoding="utf-8")
    newer.write_text(
        text.replace("TI  - ", "TI  - New ", 1)
        + "TY  - JOUR\nTI  - A wholly new record\nAU  - Dray, T.\nPY  - 2026\nER  - \n",
        encoding="utf-8",
    )
    said = []
    s.said.connect(lambda head, words, kind: said.append(words))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(newer), ""))
    change = next(link for link in desk.sources.findChildren(Link) if link.accessibleName() == "change mills.ris")
    change.click()
    done(opened, qtbot, links(popup())["use a newer export instead"].click)
    assert any("1 records new, 0 gone, 1 changed" in words for words in said), said
    change = next(link for link in desk.sources.findChildren(Link) if link.accessibleName() == "change box2.csv")
    change.click()
    done(opened, qtbot, links(popup())["remove"].click)
    assert [x.name for x in s.sources] == ["coast.bib", "shore.json", "mills.ris"]
    done(opened, qtbot, s.undo)
    done(opened, qtbot, s.undo)
    assert len(s.corpus) == 1200


def test_networks_are_read_with_either_direction(opened, desk, demo, qtbot):  # noqa: F811
    s = opened.session
    done(opened, qtbot, lambda: s.add_files([demo / "ties.csv"]))
    assert s.sources[-1].told.startswith("undirected")
    change = next(link for link in desk.sources.findChildren(Link) if link.accessibleName() == "change ties.csv")
    change.click()
    done(opened, qtbot, links(popup())["read its ties as directed"].click)
    assert s.sources[-1].told.startswith("directed") and s.sources[-1].reading == '{"direction": "directed"}'


def test_a_catalogue_is_asked_and_its_records_taken(opened, desk, qtbot):  # noqa: F811
    s = opened.session
    with running() as base:
        desk.open_catalogue()
        desk.catalogue.address.setText(f"{base}/sru")
        desk.catalogue.query.setText("planet = mars")
        QTest.keyClick(desk.catalogue.query, Qt.Key.Key_Return)
        qtbot.waitUntil(lambda: "no index is called planet" in desk.catalogue.said.text(), timeout=20_000)
        desk.catalogue.query.setText('subject = "tide mill"')
        QTest.keyClick(desk.catalogue.query, Qt.Key.Key_Return)
        qtbot.waitUntil(lambda: desk.catalogue.hits.count() > 0, timeout=20_000)
        total = s.preview[0]
        assert desk.catalogue.all.text() == f"take all {total:,}"
        done(opened, qtbot, desk.catalogue.all.click)
    source = s.sources[-1]
    assert (
        source.records == total
        and "asked 20" in source.told
        and '"query": "subject = \\"tide mill\\""' in source.reading
    )
    assert s.corpus.flow.by_identifier > 19, "what the study had already is joined"


def test_the_stand_in_starts_from_the_desk(opened, desk, qtbot):  # noqa: F811
    desk.open_catalogue()
    desk.catalogue.stand_in.click()
    qtbot.waitUntil(lambda: desk.catalogue.address.text().endswith("/sru"), timeout=20_000)
    desk.catalogue._speak("OAI-PMH")
    assert desk.catalogue.address.text().endswith("/oai")
    desk.shut_down()
    assert desk.catalogue.standing is None


def test_a_long_import_is_stopped_and_leaves_the_study(opened, desk, qtbot, tmp_path):  # noqa: F811
    s = opened.session
    big = tmp_path / "big.ris"
    big.write_text("TY  - JOUR\nTI  - one of very many records\nAU  - A, B\nER  - \n" * 80_000)
    s.add_files([big])
    qtbot.waitUntil(lambda: s.running is not None and s.running[0].startswith("reading big.ris"), timeout=20_000)
    s.stop_work()
    qtbot.waitUntil(lambda: s.task != "gather", timeout=10_000)
    qtbot.waitUntil(lambda: s.running is None, timeout=60_000)
    assert len(s.sources) == 4


def change(desk, name):
    next(link for link in desk.sources.findChildren(Link) if link.accessibleName() == f"change {name}").click()


def test_letters_are_read_otherwise_and_pairs_the_other_way(opened, desk, qtbot, tmp_path):  # noqa: F811
    s = opened.session
    greek, pairs = tmp_path / "greek.ris", tmp_path / "boards.csv"
    title = "Μελέτη της λάσπης πίσω από τις πύλες"
    greek.write_bytes(f"TY  - JOUR\nTI  - {title}\nAU  - Dray, T.\nPY  - 1998\nER  - \n".encode("cp1253"))
    pairs.write_text("person,board\nT. Dray,Mill Trust\nO. Vash,Mill Trust\nT. Dray,Silt Board\nE. Kell,Silt Board\n")
    done(opened, qtbot, lambda: s.add_files([greek, pairs]))
    assert title in list(s.corpus.title) and {"Mill Trust", "Silt Board"} <= set(s.corpus.title)
    change(desk, "greek.ris")
    links(popup())["read its letters otherwise"].click()
    desk.sources.bring_up_to_date()  # the link it unfolds from goes before the lines are read
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    qtbot.waitUntil(lambda: any("Cyrillic (Windows)" in links(p) for p in desk.findChildren(Popup)), timeout=10_000)
    done(opened, qtbot, links(popup())["Cyrillic (Windows)"].click)
    assert title not in list(s.corpus.title) and title.encode("cp1253").decode("cp1251") in list(s.corpus.title)
    change(desk, "boards.csv")
    done(opened, qtbot, links(popup())["the first column names the records, the second the people in them"].click)
    assert {"T. Dray", "O. Vash", "E. Kell"} <= set(s.corpus.title) and "Mill Trust" not in set(s.corpus.title)


def test_what_looks_odd_in_a_source_leads_to_its_cure(opened, desk, qtbot, tmp_path):  # noqa: F811
    s = opened.session
    table = tmp_path / "box7.csv"
    table.write_text("title,authors\n" + "".join(f'"Silt behind gate {k}","Kell E{k}"\n' for k in range(12)))
    done(opened, qtbot, lambda: s.add_files([table]))
    links(desk.found)["box7.csv looks odd:"].click()
    page = desk.fields
    assert desk.pages.currentWidget() is page and "12 records from box7.csv" in page.heading.text()
    assert {("title", "100%"), ("people", "100%"), ("venue", "0%")} <= {
        (x.number, x.text) for x in page.findChildren(Share)
    }
    links(page)["show the records"].click()
    qtbot.waitUntil(lambda: len(desk.table.rows.order) == 12, timeout=5_000)
    links(page)["change the column of people"].click()
    qtbot.waitUntil(lambda: bool(desk.columns.findChildren(ColumnCard)), timeout=10_000)
    assert desk.pages.currentWidget() is desk.columns
    desk.close_page()
    next(one for one in desk.sources.findChildren(Link) if one.accessibleName() == "fields of mills.ris").click()
    assert "Nothing looks odd." in [one.text() for one in page.findChildren(Text)]
    source = next(x for x in s.sources if x.name == "mills.ris")
    done(opened, qtbot, lambda: s.switch_sources([source.id], False))
    assert not page.findChildren(Share) or all(not x.isVisible() for x in page.findChildren(Share))
