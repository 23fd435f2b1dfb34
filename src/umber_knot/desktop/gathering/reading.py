"""One record in full, or the problems of a source with the raw text at their line."""

from __future__ import annotations

from collections.abc import Callable
from html import escape
from pathlib import Path

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QFontDatabase, QTextCursor, QTextFormat
from PyQt6.QtWidgets import QHBoxLayout, QListWidget, QPlainTextEdit, QTextBrowser, QTextEdit

from umber_knot.corpus.model import KIND_WORDS, KINDS, ROLES, Decision, Problem, Source
from umber_knot.desktop.parts import Link, Panel
from umber_knot.desktop.session import Session
from umber_knot.desktop.theme import SERIF, colour, look
from umber_knot.errors import UserError
from umber_knot.gather.excerpt import around
from umber_knot.gather.references import WAYS, cited_by

SHOWN = 60  # passages and references shown of one record
LONGEST = 60_000  # characters of raw text shown


class Raw(QPlainTextEdit):
    """Text as it stands in the source, with line numbers."""

    def __init__(self) -> None:
        super().__init__()
        self.setReadOnly(True)
        font = QFontDatabase.systemFont(QFontDatabase.SystemFont.FixedFont)
        font.setPixelSize(12)
        self.setFont(font)

    def show_lines(self, lines: list[tuple[int, str]], at: int = 0) -> None:
        """Show numbered lines, the one at ``at`` marked and in the middle."""
        wide = len(f"{lines[-1][0]:,}") if lines else 1
        self.setPlainText("\n".join(f"{'▸' if n == at else ' '}{n:>{wide},}  {text}" for n, text in lines))
        place = next((k for k, (n, _) in enumerate(lines) if n == at), 0)
        self.setTextCursor(QTextCursor(self.document().findBlockByNumber(place)))
        marked = QTextEdit.ExtraSelection()
        marked.cursor = self.textCursor()
        marked.format.setBackground(colour(look().wash))
        marked.format.setProperty(QTextFormat.Property.FullWidthSelection, True)
        self.setExtraSelections([marked] if at else [])
        self.centerCursor()


class Problems(Panel):
    """What could not be read of a source as it stands, each at its line."""

    def __init__(self, close_page: Callable[[], object]) -> None:
        super().__init__("Problems", (14, 8, 14, 8))
        self.source: Source | None = None
        self.head.addWidget(Link("close", close_page, 12, key="Esc"))
        row = QHBoxLayout()
        self.list = QListWidget()
        self.list.setWordWrap(True)
        self.list.setSpacing(2)
        self.list.setMinimumWidth(250)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.raw = Raw()
        self.raw.setLineWrapMode(QPlainTextEdit.LineWrapMode.NoWrap)
        row.addWidget(self.list, 2)
        row.addWidget(self.raw, 3)
        self.body.addLayout(row, 1)
        self.list.currentRowChanged.connect(self._show)

    def show_source(self, source: Source) -> None:
        self.source = source
        n = len(source.problems)
        self.heading.setText(f"{n:,} problem{'s' * (n != 1)} in {source.name}; the rest was read")
        self.list.clear()
        for p in source.problems[:1000]:
            self.list.addItem((f"{source.unit} {p.line:,}: " if p.line else "") + p.message)
        self.list.setCurrentRow(0)

    def _show(self, row: int) -> None:
        if self.source is None or row < 0:
            return
        problem = self.source.problems[row]
        try:
            lines = self._lines(self.source, problem)
        except UserError as error:
            lines = [(problem.line, problem.excerpt), (problem.line, str(error))]
        self.raw.show_lines(lines, problem.line)

    @staticmethod
    def _lines(source: Source, problem: Problem) -> list[tuple[int, str]]:
        if source.unit != "line" or not source.path or not problem.line:
            return [(problem.line, problem.excerpt or problem.message)]
        return around(Path(source.path), problem.line, source.encoding)


class Reading(Panel):
    """One record: what it says, where it was found, and its raw text."""

    def __init__(self, session: Session, close_page: Callable[[], object]) -> None:
        super().__init__("Record", (14, 8, 14, 8))
        self.session = session
        self.record = -1
        self.apart = Link("two different records", self._keep_apart, 12)
        self.head.addWidget(self.apart)
        self.head.addWidget(Link("close", close_page, 12, key="Esc"))
        row = QHBoxLayout()
        self.page = QTextBrowser()
        self.page.setOpenLinks(False)
        self.page.document().setDocumentMargin(0)
        self.raw = Raw()
        row.addWidget(self.page, 3)
        row.addWidget(self.raw, 2)
        self.body.addLayout(row, 1)

    def show_record(self, record: int) -> None:
        s = self.session
        corpus = s.corpus
        if corpus is None or not 0 <= record < len(corpus):
            return
        self.record = record
        detail = s.detail(record)
        also = corpus.findings(record)
        self.heading.setText(corpus.place(record) + "".join(f"; also {corpus.spot(a, b)}" for a, b, *_ in also))
        self.apart.setVisible(bool(also))
        self.apart.setToolTip("keep these apart: they are not the same document")
        rows = []
        for kind in KINDS:
            mentions = corpus.of(kind)
            lo, hi = np.searchsorted(mentions.record, [record, record + 1])
            named: dict[str, list[str]] = {}
            for k in range(int(lo), int(hi)):
                role = ROLES[mentions.role[k]] if len(mentions.role) else ""
                named.setdefault(role, []).append(mentions.forms[mentions.form[k]])
            if kind == "reference" and s.matched is not None:
                rows += self._citations(mentions.form[int(lo) : int(hi)])
            for role, texts in named.items():
                head = role or KIND_WORDS[kind][len(texts) != 1]
                more = f" and {len(texts) - SHOWN:,} more" if len(texts) > SHOWN else ""
                rows.append((head, "; ".join(texts[:SHOWN]) + more))
        rows += [
            (name, str(value))
            for name, value in (
                ("date", corpus.date[record]),
                ("DOI", detail.doi),
                ("language", corpus.language[record]),
                ("volume", corpus.volume[record]),
                ("pages", corpus.pages[record]),
                ("cited", corpus.citations[record] or ""),
                ("type", detail.type),
            )
            if value
        ]
        rows += [(name, str(value)[:300]) for name, value in list(detail.extra.items())[:40]]
        table = "".join(
            f'<tr><td style="color:{look().faint}; padding-right:10px">{escape(a)}</td><td>{escape(b)}</td></tr>'
            for a, b in rows
        )
        passages = "".join(
            f'<p style="margin:6px 0"><span style="color:{look().faint}">{escape(self._place(p.line))} {escape(p.heading)}</span><br>{escape(p.text[:2000])}</p>'
            for p in detail.passages[:SHOWN]
        )
        title = corpus.title[record] or "(no title)"
        abstract = f"<p>{escape(detail.abstract[:4000])}</p>" if detail.abstract else ""
        self.page.setHtml(
            f'<body style="color:{look().ink}"><p style="font-family:\'{SERIF}\'; font-size:17px; margin:0 0 4px 0">{escape(title)}</p>'
            f"<table>{table}</table>{abstract}{passages}</body>"
        )
        first = detail.line if corpus.sources[corpus.source[record]].unit == "line" else 1
        self.raw.show_lines([(first + k, text) for k, text in enumerate(detail.raw[:LONGEST].rstrip("\n").split("\n"))])
        self.raw.verticalScrollBar().setValue(0)

    def _citations(self, forms: np.ndarray) -> list[tuple[str, str]]:
        """Which records of the study this one cites, how surely, and how many cite it."""
        corpus, matches = self.session.corpus, self.session.matched
        cites = [(int(matches.record[f]), int(f)) for f in forms if matches.record[f] >= 0]
        found = [
            f"{corpus.title[r]} ({WAYS[matches.way[f]][0]}, {matches.confidence[f]:.2f})" for r, f in cites[:SHOWN]
        ]
        by = cited_by(corpus, matches, self.record)
        rows = [("cites here", "; ".join(found))] if found else []
        return rows + ([("cited here by", "; ".join(corpus.title[int(r)] for r in by[:SHOWN]))] if len(by) else [])

    def _place(self, line: int) -> str:
        corpus = self.session.corpus
        return f"{corpus.sources[corpus.source[self.record]].unit} {line:,}"

    def _keep_apart(self) -> None:
        """The findings that were joined are different documents."""
        corpus = self.session.corpus
        mine = corpus.anchor(self.record)
        self.session.decide(
            [
                Decision("record", "apart", mine, theirs, note="not the same document")
                for *_, theirs in corpus.findings(self.record)
            ]
        )
