"""The start screen: open, begin anew, the demo, or one of the last studies."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from umber_knot.desktop.parts import Link, Panel, Text, clear
from umber_knot.desktop.theme import look

WAYS = (
    ("Gather", "bring in records: RIS, BibTeX, tables"),
    ("Reconcile", "settle which spellings are one person or one word"),
    ("Relate", "say in a sentence who is tied to whom"),
    ("Group", "find topics, and see how steady they are"),
    ("Chart", "read the map; every mark opens to its evidence"),
    ("Report", "figure, tables, network and method"),
)


class Start(QWidget):
    def __init__(
        self,
        new: Callable[[], object],
        open_: Callable[[], object],
        demo: Callable[[], object],
        recent: Callable[[Path], object],
    ) -> None:
        super().__init__()
        self.open_recent = recent
        self._cure: Callable[[], object] | None = None
        outer = QVBoxLayout(self)
        outer.addStretch(2)
        row = QHBoxLayout()
        row.addStretch(1)
        sheet = Panel(margins=(44, 34, 44, 30))
        sheet.setFixedWidth(760)
        sheet.body.addWidget(Text("Umber Knot", 34, serif_=True))
        sheet.body.addWidget(Text("From records to a map of a literature you can defend.", 17, faint=True, serif_=True))
        sheet.body.addSpacing(20)
        columns = QGridLayout()
        columns.setHorizontalSpacing(44)
        left = QVBoxLayout()
        left.setSpacing(9)
        for text, action, key, note in (
            ("Begin a new study", new, "Ctrl+N", "then drop files on it"),
            ("Open a study", open_, "Ctrl+O", "a file ending in .umber"),
            ("Look at the demo", demo, "Ctrl+D", "Brackwater, an invented estuary"),
        ):
            left.addWidget(Link(text, action, 17, serif_=True))
            left.addWidget(Text(f"{key}  ·  {note}", 12, faint=True))
        left.addStretch(1)
        self.recent = QVBoxLayout()
        self.recent.setSpacing(3)
        columns.addLayout(left, 0, 0)
        columns.addLayout(self.recent, 0, 1)
        columns.setColumnStretch(0, 1)
        columns.setColumnStretch(1, 1)
        sheet.body.addLayout(columns)
        sheet.body.addSpacing(22)
        steps = QGridLayout()
        steps.setHorizontalSpacing(18)
        steps.setVerticalSpacing(5)
        for k, (name, text) in enumerate(WAYS):
            steps.addWidget(Text(name, 13, bold=True), k, 0)
            steps.addWidget(Text(text, 13, faint=True), k, 1)
        steps.setColumnStretch(1, 1)
        sheet.body.addLayout(steps)
        row.addWidget(sheet)
        row.addStretch(1)
        outer.addLayout(row)
        self.note = Text("", 13, wrap=True)
        self.note.setAlignment(Qt.AlignmentFlag.AlignHCenter)
        outer.addWidget(self.note)
        self.cure = Link("save what can be read as a new study", self._do_cure, 14)
        self.cure.hide()
        outer.addWidget(self.cure, 0, Qt.AlignmentFlag.AlignHCenter)
        outer.addStretch(3)

    def show_recent(self, paths: Sequence[Path]) -> None:
        clear(self.recent)
        self.recent.addWidget(Text("Last opened", 13, bold=True))
        for path in paths[:6]:
            link = Link(path.stem, lambda p=path: self.open_recent(p), 15, serif_=True)
            link.setToolTip(str(path))
            self.recent.addWidget(link)
            folder = str(path.parent).replace(str(Path.home()), "~")
            self.recent.addWidget(Text(folder if len(folder) < 44 else "…" + folder[-43:], 11, faint=True))
        if not paths:
            self.recent.addWidget(Text("nothing yet", 12, faint=True))
        self.recent.addStretch(1)

    def say(self, text: str, cure: Callable[[], object] | None = None) -> None:
        """A fault, in place; with a way to put it right where there is one."""
        self.note.setText(text)
        self.note.tint(look().madder)
        self._cure = cure
        self.cure.setVisible(cure is not None)

    def _do_cure(self) -> None:
        if self._cure is not None:
            self._cure()
