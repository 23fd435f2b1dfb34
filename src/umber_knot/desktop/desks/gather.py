"""Gather: the sources, what was found in them, what they allow, and every record."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QGuiApplication, QKeyEvent
from PyQt6.QtWidgets import QFileDialog, QGridLayout, QHBoxLayout, QLineEdit, QStackedWidget, QWidget

from umber_knot.corpus.model import Source
from umber_knot.corpus.picking import pick
from umber_knot.desktop.desks.base import Desk
from umber_knot.desktop.gathering.catalogue import Catalogue
from umber_knot.desktop.gathering.columns import Columns
from umber_knot.desktop.gathering.doubtful import DoubtfulPairs
from umber_knot.desktop.gathering.fields import Fields
from umber_knot.desktop.gathering.found import Allows, Found
from umber_knot.desktop.gathering.reading import Problems, Reading
from umber_knot.desktop.gathering.sources import SourceList
from umber_knot.desktop.parts import Link, Panel, Popup, Text
from umber_knot.desktop.selection import Selection
from umber_knot.desktop.session import Session
from umber_knot.desktop.tables import Column, Table

READABLE = (
    "All that can be read (*.ris *.bib *.json *.jsonl *.nbib *.txt *.xml *.mrc *.marc *.csv *.tsv *.xlsx *.ods *.mbox *.eml *.md *.html *.htm "
    "*.docx *.odt *.pdf *.opml *.graphml *.gml *.dot *.gv);;All files (*)"
)
HINT = "Drop files or folders anywhere in this window, or paste text."
PAUSE = 120  # ms after the last key before the records are filtered


class GatherDesk(Desk):
    shows = ("gather", "match", "preview", "columns")
    desk_asked = pyqtSignal(str)  # for another desk

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.sources = SourceList(
            session,
            {
                "Add files": self.ask_files,
                "folder": self.ask_folder,
                "paste": self.paste,
                "ask a catalogue": self.open_catalogue,
            },
            self.open_problems,
            self.open_columns,
            self.open_fields,
        )
        self.found = Found(
            session,
            lambda: self.filter.setText("found:twice"),
            self.open_problems,
            self.open_doubtful,
            self.open_fields,
        )
        self.allows = Allows(session, lambda: self.desk_asked.emit("relate"))
        overview = QWidget()
        side = QHBoxLayout(overview)
        side.setContentsMargins(0, 0, 0, 0)
        side.setSpacing(8)
        side.addWidget(self.found, 38)
        side.addWidget(self.allows, 42)
        self.columns = Columns(session, self.close_page)
        self.catalogue = Catalogue(session, self.close_page)
        self.problems = Problems(self.close_page)
        self.reading = Reading(session, self.close_page)
        self.doubtful = DoubtfulPairs(session, self.close_page)
        self.fields = Fields(session, self.open_columns, lambda text: self.filter.setText(text), self.close_page)
        self.pages = QStackedWidget()
        for page in (overview, self.columns, self.catalogue, self.problems, self.reading, self.doubtful, self.fields):
            self.pages.addWidget(page)
        grid = QGridLayout()
        grid.setSpacing(8)
        grid.addWidget(self.sources, 0, 0)
        grid.addWidget(self.pages, 0, 1)
        grid.setColumnStretch(0, 29)
        grid.setColumnStretch(1, 80)
        for panel in (self.sources, self.pages):
            panel.setFixedHeight(268)
        self.body.addLayout(grid)
        self.body.addWidget(self._records(), 1)
        self._columns: list[Column] = []
        self._seen: dict[str, object] = {}
        session.said.connect(self._said)

    def _records(self) -> Panel:
        records = Panel("Records")
        self.filter = QLineEdit()
        self.filter.setPlaceholderText("filter: any field, or year:1990-2000 …")
        self.filter.setToolTip(
            "words in any field; person:dray, word:tide, in:estuary, year:1990-2000, type:…, language:de, source:…, "
            "references:none, found:twice; a minus leaves out"
        )
        self.filter.setFixedWidth(260)
        self.filter.setClearButtonEnabled(True)
        self.filter.setAccessibleName("filter records")
        self._waiting = QTimer(self)
        self._waiting.setSingleShot(True)
        self._waiting.setInterval(PAUSE)
        self._waiting.timeout.connect(self._filter)
        self.filter.textChanged.connect(lambda: self._waiting.start())
        self.counted = Text("", 12, faint=True)
        self.leave = Link("", self._leave_out, 12, key="Del")
        self.leave.hide()
        for widget in (self.leave, Text("/", 12, faint=True), self.filter, self.counted):
            records.head.addWidget(widget)
        self.table = Table(many=True)
        self.table.picked.connect(self._picked)
        self.table.activated.connect(lambda index: self.open_record(int(self.table.rows.order[index.row()])))
        self.table.selectionModel().selectionChanged.connect(lambda *_: self._offer())
        self.hint = Text(HINT, 17, faint=True, serif_=True)
        self.hint.setAlignment(Qt.AlignmentFlag.AlignCenter)
        records.body.addWidget(self.hint, 1)
        records.body.addWidget(self.table, 1)
        return records

    # -- what unfolds in place

    def close_page(self) -> None:
        """Back to what was found and what can be tied."""
        self.pages.setCurrentIndex(0)
        self.table.setFocus()

    def open_problems(self, source: Source) -> None:
        self.problems.show_source(source)
        self.pages.setCurrentWidget(self.problems)

    def open_fields(self, source: Source) -> None:
        self.fields.show_source(source)
        self.pages.setCurrentWidget(self.fields)

    def open_columns(self, source: Source) -> None:
        self.columns.show_source(source)
        self.pages.setCurrentWidget(self.columns)

    def open_doubtful(self) -> None:
        self.pages.setCurrentWidget(self.doubtful)
        self.doubtful.open_pairs()

    def open_catalogue(self) -> None:
        self.pages.setCurrentWidget(self.catalogue)
        (self.catalogue.query if self.catalogue.address.text() else self.catalogue.address).setFocus()

    def open_record(self, record: int) -> None:
        self.reading.show_record(record)
        self.pages.setCurrentWidget(self.reading)

    def _picked(self, record: int) -> None:
        self.session.select(Selection(record=int(self.session.corpus.id[record])))
        if self.pages.currentWidget() is self.reading:
            self.reading.show_record(record)

    def _said(self, head: str, text: str, kind: str) -> None:
        if kind == "fault" and self.pages.currentWidget() is self.catalogue:
            self.catalogue.failed(text)

    # -- getting sources

    def ask_files(self) -> None:
        names, _ = QFileDialog.getOpenFileNames(self, "Add files to the study", str(Path.home()), READABLE)
        self.session.add_files([Path(n) for n in names])

    def ask_folder(self) -> None:
        name = QFileDialog.getExistingDirectory(self, "Add a folder of files, or a Maildir", str(Path.home()))
        if name:
            self.session.add_files([Path(name)])

    def paste(self) -> None:
        """What was copied elsewhere: files, or text."""
        data = QGuiApplication.clipboard().mimeData()
        files = [Path(u.toLocalFile()) for u in data.urls() if u.isLocalFile()] if data.hasUrls() else []
        if files:
            self.session.add_files(files)
        elif data.hasText() and data.text().strip():
            self.session.add_text(data.text())
        else:
            self.session.said.emit("Nothing to paste", "copy records or text first", "note")

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() == Qt.Key.Key_V and event.modifiers() == Qt.KeyboardModifier.ControlModifier:
            self.paste()
        elif event.key() == Qt.Key.Key_Delete:
            self._leave_out()
        elif event.key() == Qt.Key.Key_Escape and self.pages.currentIndex():
            self.close_page()
        else:
            super().keyPressEvent(event)

    # -- leaving records out

    def _offer(self) -> None:
        """What the records chosen, or the filter, can be left out by."""
        chosen, rule = len(self.table.chosen()), self.filter.text().strip()
        self.leave.setVisible(
            bool(self.session.corpus is not None and (chosen > 1 or rule or (chosen and self.table.hasFocus())))
        )
        self.leave.setText(
            f"leave out {chosen:,} chosen"
            if chosen > 1 or not rule
            else f"leave out all {len(self.table.rows.order):,} of these"
        )

    def _leave_out(self) -> None:
        """Ask for the reason, then leave out what is chosen, or all that the filter picks."""
        chosen, rule = self.table.chosen(), self.filter.text().strip()
        if not chosen and not rule:
            return
        popup, corpus = Popup(self), self.session.corpus
        by_rule = bool(rule) and len(chosen) < 2
        what = (
            f"all that “{rule}” picks, now and later"
            if by_rule
            else f"{len(chosen):,} record{'s' * (len(chosen) != 1)}"
        )
        popup.body.addWidget(Text(f"Leave out {what}. Why?", 12))
        why = QLineEdit()
        why.setPlaceholderText("not about the estuary")
        why.setFixedWidth(280)
        popup.body.addWidget(why)
        popup.body.addWidget(
            Text("Enter leaves them out; the reason stands in the method. Undo brings them back.", 11, faint=True)
        )

        def deed() -> None:
            reason = why.text().strip() or "no reason given"
            popup.close()
            if by_rule:
                self.filter.clear()
                self.session.exclude_by_rule(rule, reason)
            else:
                self.session.exclude([corpus.anchor(r) for r in chosen], reason)

        why.returnPressed.connect(deed)
        popup.unfold(self.leave if self.leave.isVisible() else self.counted)
        why.setFocus()

    # -- showing

    def focus_filter(self) -> None:
        self.filter.setFocus()
        self.filter.selectAll()

    def bring_up_to_date(self) -> None:
        s = self.session
        if s.corpus is None:
            self.sentence.say("Gather: reading the study …")
            return
        live = [x for x in s.sources if x.active]
        dated = s.corpus.year[s.corpus.year > 0]
        span = f", {dated.min()} to {dated.max()}" if len(dated) else ""
        if live:
            self.sentence.say(
                f"Gather: {len(s.corpus):,} records from {len(live)} source{'s' * (len(live) != 1)}{span}"
            )
        else:
            self.sentence.say("Gather: add records, letters or texts to begin; nearly every format can be read.")
        self.hint.setVisible(not len(s.corpus))
        self.table.setVisible(bool(len(s.corpus)))
        if s.preview is not None and self.pages.currentWidget() is self.catalogue and self._news("preview", s.preview):
            self.catalogue.arrived()
        if s.columns is not None and self.pages.currentWidget() is self.columns and self._news("columns", s.columns):
            self.columns.arrived()
        self.sources.bring_up_to_date()
        self.found.bring_up_to_date()
        self.allows.bring_up_to_date()
        if self._news("corpus", s.corpus):
            self._show_records()
            if self.pages.currentWidget() is self.reading:
                self.close_page()
            for page in (self.doubtful, self.fields):
                if self.pages.currentWidget() is page:
                    page.bring_up_to_date()

    def _news(self, name: str, value: object) -> bool:
        """Whether this was not shown yet."""
        fresh = self._seen.get(name) is not value
        self._seen[name] = value
        return fresh

    def _show_records(self) -> None:
        c = self.session.corpus
        people, venue = c.of("person"), c.of("venue")
        first = np.searchsorted(people.record, np.arange(len(c) + 1))
        of_venue = np.full(len(c), -1, np.int32)
        of_venue[venue.record[::-1]] = venue.form[::-1]

        def names(r: int) -> str:
            forms = [people.forms[f] for f in people.form[first[r] : first[r + 1]][:3]]
            more = first[r + 1] - first[r] - len(forms)
            if c.type[r] in ("letter", "email") and len(forms) > 1 and not more:
                return f"{forms[0]} → {'; '.join(forms[1:])}"
            return ("; ".join(forms) + (f" and {more} more" if more else "")) or "–"

        def first_names() -> list[str]:
            forms = [*people.forms, ""]
            at = np.where(np.diff(first) > 0, np.append(people.form, -1)[np.minimum(first[:-1], len(people.form))], -1)
            return [forms[f] for f in at.tolist()]

        twice = np.zeros(len(c), np.bool_)
        twice[c.also.record] = True
        words = np.bincount(c.of("keyword").record, minlength=len(c))
        references = np.bincount(c.of("reference").record, minlength=len(c))
        filled = (
            np.mean([c.title.lengths() > 0, np.diff(first) > 0, c.year > 0, of_venue >= 0, words > 0], axis=0)
            if len(c)
            else np.zeros(0)
        )
        self._columns = [
            Column("title", lambda r: c.title[r] or "(no title)", None, 330, serif=True, bulk=lambda: list(c.title)),
            Column("people", names, None, 190, bulk=first_names),
            Column("date", lambda r: c.date[r] or "–", c.year, 88),
            Column("in", lambda r: venue.forms[of_venue[r]] if of_venue[r] >= 0 else "–", None, 140, few=True),
            Column("language", lambda r: c.language[r] or "–", None, 66, faint=True, few=True),
            Column("words", lambda r: str(words[r]) if words[r] else "–", words, 56, faint=True),
            Column(
                "refs",
                lambda r: str(references[r]) if references[r] else "–",
                references,
                56,
                faint=True,
                hint="references listed",
            ),
            Column(
                "filled",
                lambda r: f"{filled[r]:.0%}",
                filled,
                56,
                faint=True,
                hint="how much of title, people, year, venue and words is there",
            ),
            Column(
                "source",
                lambda r: c.sources[c.source[r]].name + (" +" if twice[r] else ""),
                None,
                80,
                faint=True,
                few=True,
                hint="+ where it stands in another source, too",
            ),
        ]
        self._filter()

    def _filter(self) -> None:
        if self.session.corpus is None:
            return
        rows = pick(self.session.corpus, self.filter.text())
        self.table.show_rows(self._columns, rows)
        self.counted.setText(f"{len(rows):,} of {len(self.session.corpus):,}")
        self._offer()

    def shut_down(self) -> None:
        self.catalogue.shut_down()
