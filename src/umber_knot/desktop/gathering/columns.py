"""How the columns of a table are read: each column with its first values, its field, and what parts several values."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QMimeData, Qt
from PyQt6.QtGui import QDrag, QDragEnterEvent, QDropEvent, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QFileDialog, QFrame, QHBoxLayout, QVBoxLayout, QWidget

from umber_knot.corpus.model import Source
from umber_knot.desktop.house import sheet
from umber_knot.desktop.parts import Flow, Link, Panel, Popup, Text, clear, scrolling
from umber_knot.desktop.session import Session
from umber_knot.desktop.theme import colour, look
from umber_knot.gather.matching import FIELDS, MANY, separator_of
from umber_knot.gather.parting import SEPARATORS, told_apart

EXTRA, YES_NO = "extra column", "yes/no"


class FieldChip(Text):
    """A field to drag onto a column; what is said of it is a place to drop on, too."""

    def __init__(self, field: str) -> None:
        super().__init__(field, 11)
        self.field = field
        self.setCursor(Qt.CursorShape.OpenHandCursor)
        self.setContentsMargins(5, 1, 5, 1)
        self.setToolTip("drag onto a column")

    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(colour(look().wash))
        p.drawRoundedRect(self.rect(), 3, 3)
        p.end()
        super().paintEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.buttons() & Qt.MouseButton.LeftButton:
            data = QMimeData()
            data.setText(self.field)
            drag = QDrag(self)
            drag.setMimeData(data)
            drag.exec(Qt.DropAction.CopyAction)


class ColumnCard(QFrame):
    """One column of the table."""

    def __init__(self, page: Columns, at: int, samples: list[str]) -> None:
        super().__init__()
        self.page, self.at, self.samples = page, at, samples
        self.setAcceptDrops(True)
        self.setFixedWidth(148)
        box = QVBoxLayout(self)
        box.setContentsMargins(8, 6, 8, 6)
        box.setSpacing(2)
        name = Text(page.header[at] or "(no name)", 13, bold=True)
        name.setText(name.fontMetrics().elidedText(name.text(), Qt.TextElideMode.ElideRight, 128))
        name.setToolTip(page.header[at])
        box.addWidget(name)
        self.field = Link("", lambda: self._choose(self.field, [EXTRA, YES_NO, *FIELDS], self.take), 12)
        self.split = Link("", lambda: self._choose(self.split, list(SEPARATORS.values()), self._part), 11)
        box.addWidget(self.field)
        box.addWidget(self.split)
        for text in samples[:3]:
            line = Text("", 12, faint=True)
            line.setText(line.fontMetrics().elidedText(" ".join(text.split()) or "–", Qt.TextElideMode.ElideRight, 128))
            line.setToolTip(text)
            box.addWidget(line)
        box.addStretch(1)
        self.show_choice()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        sheet(self)

    def show_choice(self) -> None:
        field = self.page.fields[self.at]
        self.field.setText(field or EXTRA)
        many = field in MANY or field == "text"
        self.split.setVisible(many and field != "text")
        if not self.split.isHidden():
            part = self.page.splits[self.at]
            made, each = told_apart(self.samples, part)
            word = SEPARATORS.get(part) or SEPARATORS.get(part.strip(), f"“{part}”")
            self.split.setText(f"by {word}: {made:,} {field}" if made else f"by {word}")
            self.split.setToolTip(f"parted by {word}, {each:.1f} in a cell; click to part it otherwise")

    def take(self, field: str) -> None:
        """Read this column as a field; the column that was read so is an extra one then."""
        field = "" if field == EXTRA else field
        if field and field not in MANY and field != YES_NO and field in self.page.fields:
            self.page.fields[self.page.fields.index(field)] = ""
        self.page.fields[self.at] = field
        if field in MANY and not self.page.splits[self.at]:
            self.page.splits[self.at] = separator_of(field, self.samples)
        self.page.changed()

    def _part(self, word: str) -> None:
        self.page.splits[self.at] = next(s for s, w in SEPARATORS.items() if w == word)
        self.page.changed()

    def _choose(self, below: Link, words: list[str], take: Callable[[str], None]) -> None:
        popup = Popup(self)
        grid = QHBoxLayout()
        column = QVBoxLayout()
        for k, word in enumerate(words):
            if k and k % 12 == 0:
                column.addStretch(1)
                grid.addLayout(column)
                column = QVBoxLayout()
            column.addWidget(Link(word, lambda word=word: (popup.close(), take(word)), 12))
        column.addStretch(1)
        grid.addLayout(column)
        popup.body.addLayout(grid)
        popup.unfold(below)

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        if event is not None and event.mimeData().text() in (EXTRA, YES_NO, *FIELDS):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        if event is not None:
            event.acceptProposedAction()
            self.take(event.mimeData().text())


class Columns(Panel):
    """The match of one table's columns; ``close_page`` folds it away."""

    def __init__(self, session: Session, close_page: Callable[[], object]) -> None:
        super().__init__("Columns", (14, 8, 14, 8))
        self.session, self.close_page = session, close_page
        self.source: Source | None = None
        self.header: list[str] = []
        self.fields: list[str] = []
        self.splits: list[str] = []
        self.wide = ""
        self.more: dict[str, Any] = {}
        self.note = Text("", 12, faint=True)
        self.head.addWidget(self.note)
        self.join = Link("join another table", self._join, 12)
        self.again = Link("read again", self._read, 12)
        for link in (self.join, self.again, Link("close", close_page, 12, key="Esc")):
            self.head.addWidget(link)
        chips = QWidget()
        flow = Flow(4, 4)
        flow.setContentsMargins(0, 0, 0, 0)
        for field in (*FIELDS, YES_NO, EXTRA):
            flow.addWidget(FieldChip(field))
        chips.setLayout(flow)
        chips.setFixedHeight(42)
        self.body.addWidget(chips)
        self.cards = QHBoxLayout()
        self.cards.setSpacing(6)
        self.cards.setContentsMargins(0, 0, 0, 0)
        self.body.addWidget(scrolling(self.cards), 1)

    def show_source(self, source: Source) -> None:
        """Ask the worker for this table's columns."""
        self.source = source
        self.heading.setText(f"Columns of {source.name}")
        self.note.setText("looking …")
        clear(self.cards)
        self.session.read_columns(source.id)

    def arrived(self) -> None:
        """The columns are there."""
        match, rows = self.session.columns
        self.header, self.fields, self.splits = list(match.header), list(match.fields), list(match.splits)
        self.wide, self.more = match.wide, {}
        clear(self.cards)
        for k in range(len(self.header)):
            values = [row[k] for row in rows if k < len(row) and row[k].strip()]
            self.cards.addWidget(ColumnCard(self, k, values))
        self.cards.addStretch(1)
        self.changed()

    def changed(self) -> None:
        """Show the choices as they stand."""
        for k in range(self.cards.count()):
            card = self.cards.itemAt(k).widget()
            if isinstance(card, ColumnCard):
                card.show_choice()
        yes_no = self.fields.count(YES_NO)
        if yes_no:
            self.wide = self.wide or "record"
            what = (
                "each yes/no column is a record of the people in its rows"
                if "people" in self.fields
                else "each yes/no column is a word of its rows"
            )
            self.wide = "record" if "people" in self.fields else "word"
            self.note.setText(f"{yes_no} yes/no columns: {what}")
        elif self.more:
            join = self.more["join"]
            self.note.setText(f"joined with {Path(join['file']).name} where {join['on']} = {join['with']}")
        else:
            self.note.setText("drag a field onto a column, or click what is underlined")

    def _join(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "A table with more about the same rows", str(Path.home()))
        if not name:
            return
        from umber_knot.errors import UserError
        from umber_knot.gather.matching import folded
        from umber_knot.gather.read import rows_of

        try:
            theirs = [c.strip() for c in next(rows_of(Path(name)), (0, [], ""))[1]]
        except UserError as error:
            self.note.setText(str(error))
            return
        same = [(a, b) for a in self.header for b in theirs if folded(a) == folded(b)]
        popup = Popup(self)
        popup.body.addWidget(Text("Which column says which rows belong together?", 12))
        for a, b in (same or [(a, b) for a in self.header for b in theirs])[:24]:
            popup.body.addWidget(Link(f"{a} = {b}", lambda a=a, b=b: (popup.close(), self._joined(name, a, b)), 12))
        popup.unfold(self.join)

    def _joined(self, file: str, on: str, other: str) -> None:
        self.more = {"join": {"file": file, "on": on, "with": other}}
        self.changed()

    def _read(self) -> None:
        """Read the source again under this match."""
        if self.source is None:
            return
        options: dict[str, Any] = {
            "header": self.header,
            "fields": self.fields,
            "splits": self.splits,
            "wide": self.wide if YES_NO in self.fields else "",
        }
        if self.more:  # the other table's columns are not matched yet
            options = dict(self.more)
        self.session.replace_source(self.source.id, Path(self.source.path), options)
        self.close_page()
