"""Gather: the sources, what was found in them, what they allow, and every record."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFileDialog, QGridLayout, QHBoxLayout, QLineEdit, QScrollArea, QVBoxLayout, QWidget

from umber_knot.desktop.desks.base import Desk
from umber_knot.desktop.parts import Link, Panel, Popup, Rule, Share, Text, clear
from umber_knot.desktop.session import Selection, Session
from umber_knot.desktop.tables import Column, Table
from umber_knot.desktop.theme import look

READABLE = "Bibliographies and tables (*.ris *.bib *.csv *.tsv *.txt);;All files (*)"


class GatherDesk(Desk):
    shows = ("gather",)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        grid = QGridLayout()
        grid.setSpacing(8)
        self.sources = Panel("Sources")
        self.found = Panel("What was found and kept")
        self.allows = Panel("What can be tied")
        self.source_rows = QVBoxLayout()
        self.source_rows.setSpacing(0)
        inner = QWidget()
        inner.setLayout(self.source_rows)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setWidget(inner)
        self.sources.body.addWidget(scroll, 1)
        links = QHBoxLayout()
        links.addWidget(Link("Add files", self.ask_files, key="Ctrl+O"))
        links.addWidget(Text("or drop them anywhere", 12, faint=True))
        links.addStretch(1)
        self.sources.body.addLayout(links)
        self.found_rows, self.allow_rows = QVBoxLayout(), QVBoxLayout()
        for panel, rows in ((self.found, self.found_rows), (self.allows, self.allow_rows)):
            rows.setSpacing(2)
            panel.body.addLayout(rows)
            panel.body.addStretch(1)
        for k, panel in enumerate((self.sources, self.found, self.allows)):
            grid.addWidget(panel, 0, k)
            grid.setColumnStretch(k, (29, 38, 42)[k])
            panel.setFixedHeight(268)
        self.body.addLayout(grid)
        records = Panel("Records")
        self.filter = QLineEdit()
        self.filter.setPlaceholderText("filter: any field")
        self.filter.setFixedWidth(220)
        self.filter.setAccessibleName("filter records")
        self.filter.textChanged.connect(self._filter)
        self.counted = Text("", 12, faint=True)
        records.head.addWidget(Text("/", 12, faint=True))
        records.head.addWidget(self.filter)
        records.head.addWidget(self.counted)
        self.table = Table()
        self.table.picked.connect(lambda r: self.session.select(Selection(record=r)))
        self.hint = Text("Drop RIS, BibTeX or CSV files anywhere in this window.", 17, serif_=True).tint(look().faint)
        self.hint.setAlignment(Qt.AlignmentFlag.AlignCenter)
        records.body.addWidget(self.hint, 1)
        records.body.addWidget(self.table, 1)
        self.body.addWidget(records, 1)
        self._haystack: list[str] = []

    def ask_files(self) -> None:
        names, _ = QFileDialog.getOpenFileNames(self, "Add files to the study", str(Path.home()), READABLE)
        self.session.add_files([Path(n) for n in names])

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
            self.sentence.say("Gather: add a bibliography to begin. RIS, BibTeX and CSV can be read.")
        self.hint.setVisible(not len(s.corpus))
        self.table.setVisible(bool(len(s.corpus)))
        self._show_sources()
        self._show_found(live)
        self._show_allows()
        self._show_records()

    def _show_sources(self) -> None:
        clear(self.source_rows)
        for source in self.session.sources:
            row = QHBoxLayout()
            left, right = QVBoxLayout(), QVBoxLayout()
            left.setSpacing(0)
            name = Text(source.name)
            name.setToolTip(source.path)
            kind = Text(f"{source.format}, {source.encoding.upper()}", 11, faint=True)
            left.addWidget(name)
            left.addWidget(kind)
            count = Text(f"{source.records:,}")
            right.addWidget(count)
            if not source.active:
                for text in (name, count, kind):
                    text.tint(look().faint)
                right.addWidget(Link("switch on", lambda n=source.id: self.session.switch_source(n, True), 11))
            else:
                line = QHBoxLayout()
                if source.problems:
                    n = len(source.problems)
                    line.addWidget(Link(f"{n} problem{'s' * (n != 1)}", lambda p=source: self._show_problems(p), 11))
                line.addWidget(Link("switch off", lambda n=source.id: self.session.switch_source(n, False), 11))
                right.addLayout(line)
            right.setAlignment(count, Qt.AlignmentFlag.AlignRight)
            row.addLayout(left)
            row.addStretch(1)
            row.addLayout(right)
            holder = QWidget()
            holder.setLayout(row)
            row.setContentsMargins(0, 5, 8, 5)
            self.source_rows.addWidget(holder)
            self.source_rows.addWidget(Rule())
        self.source_rows.addStretch(1)

    def _show_problems(self, source: object) -> None:
        """The list of what could not be read as it stands, with lines."""
        popup = Popup(self.sources)
        popup.body.addWidget(Text(f"Problems in {source.name}", bold=True))  # type: ignore[attr-defined]
        inner = QWidget()
        rows = QVBoxLayout(inner)
        rows.setSpacing(6)
        for p in source.problems[:200]:  # type: ignore[attr-defined]
            place = f"line {p.line:,}: " if p.line else ""
            text = Text(place + p.message + (f"\n{p.excerpt}" if p.excerpt else ""), 12, wrap=True)
            text.setFixedWidth(520)
            rows.addWidget(text)
        scroll = QScrollArea()
        scroll.setWidget(inner)
        scroll.setFixedSize(560, min(360, inner.sizeHint().height() + 10))
        popup.body.addWidget(scroll)
        popup.unfold(self.sources.heading)

    def _show_found(self, live: list[object]) -> None:
        clear(self.found_rows)
        s, c = self.session, look()
        read = sum(x.records for x in s.sources)
        off = [x for x in s.sources if not x.active]
        total = max(read, 1)
        n = len(s.sources)
        self.found_rows.addWidget(Share(f"{read:,}", f"read from {n} source{'s' * (n != 1)}", read / total, c.bar))
        if off:
            out = sum(x.records for x in off)
            self.found_rows.addWidget(
                Share(f"− {out:,}", f"switched off: {', '.join(x.name for x in off)}", out / total, c.ochre)
            )
        undated = int((s.corpus.year == 0).sum())
        self.found_rows.addWidget(Share(f"{len(s.corpus):,}", "records in the study", len(s.corpus) / total, c.umber))
        if undated:
            self.found_rows.addWidget(Share(f"{undated:,}", "of them without a year", undated / total, c.ochre))
        problems = [(x, p) for x in live for p in x.problems]  # type: ignore[attr-defined]
        if problems:
            source, first = problems[0]
            place = f"{source.name}, line {first.line:,}" if first.line else source.name  # type: ignore[attr-defined]
            n = len(problems)
            self.found_rows.addWidget(Text(f"{n:,} problem{'s' * (n != 1)}; the rest was read", 12, faint=True))
            self.found_rows.addWidget(Link(place, lambda: self._show_problems(source), 12))
            self.found_rows.addWidget(Text(first.message, 12, faint=True, wrap=True))
        elif live:
            self.found_rows.addWidget(Text("No problems: every entry was read.", 12, faint=True))

    def _show_allows(self) -> None:
        clear(self.allow_rows)
        s = self.session
        n = max(len(s.corpus), 1)
        for kind, what, none in (
            ("person", "People who share a record", "no record names people"),
            ("keyword", "Words in a record", "no record has keywords"),
            ("institution", "Institutions in a record", "no affiliation is given"),
            ("venue", "Records in a venue", "no venue is given"),
            ("reference", "References in a record", "no reference lists"),
        ):
            have = len(np.unique(s.corpus.of(kind).record))
            verb = {"person": "name people", "keyword": "have keywords", "institution": "give an affiliation",
                    "venue": "name a venue", "reference": "list references"}[kind]  # fmt: skip
            text = f"{have:,} of {len(s.corpus):,} {verb}" if have else none
            tint = look().verdigris if have else look().line
            self.allow_rows.addWidget(Share(what, text, have / n, tint, strong=False))

    def _show_records(self) -> None:
        s = self.session
        c = s.corpus
        people, venue = c.of("person"), c.of("venue")
        first = np.searchsorted(people.record, np.arange(len(c) + 1))
        venue_of = dict(zip(venue.record.tolist(), venue.form.tolist()))

        def names(r: int) -> str:
            forms = [people.forms[f] for f in people.form[first[r] : first[r + 1]][:3]]
            more = first[r + 1] - first[r] - len(forms)
            return ("; ".join(forms) + (f" and {more} more" if more else "")) or "–"

        def where(r: int) -> str:
            return venue.forms[venue_of[r]] if r in venue_of else "–"

        words = np.bincount(c.of("keyword").record, minlength=len(c))
        references = np.bincount(c.of("reference").record, minlength=len(c))
        columns = [
            Column("title", lambda r: c.title[r] or "(no title)", None, 360, serif=True),
            Column("people", names, None, 200),
            Column("year", lambda r: str(c.year[r]) if c.year[r] else "–", c.year, 84),
            Column("in", where, None, 150),
            Column("words", lambda r: str(words[r]) if words[r] else "–", words, 62, faint=True),
            Column("refs", lambda r: str(references[r]) if references[r] else "–", references, 62, faint=True,
                   hint="references listed"),
            Column("source", lambda r: c.sources[c.source[r]].name, None, 80, faint=True),
        ]  # fmt: skip
        self._columns = columns
        self._haystack = [f"{c.title[r]}\x1f{names(r)}\x1f{c.year[r]}\x1f{where(r)}".casefold() for r in range(len(c))]
        self._filter()

    def _filter(self) -> None:
        text = self.filter.text().casefold().split()
        rows = np.array([r for r, hay in enumerate(self._haystack) if all(t in hay for t in text)], np.int64)
        self.table.show_rows(self._columns, rows)
        self.counted.setText(f"{len(rows):,} of {len(self._haystack):,}")
