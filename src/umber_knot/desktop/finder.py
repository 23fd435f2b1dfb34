"""Find anything: commands, desks, items, topics and records, by typing."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QKeyEvent, QPaintEvent
from PyQt6.QtWidgets import QFrame, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from umber_knot.corpus.texts import holding
from umber_knot.desktop.house import sheet
from umber_knot.desktop.selection import Selection
from umber_knot.desktop.session import Session
from umber_knot.desktop.theme import look, sans, serif


@dataclass(frozen=True)
class Command:
    """Something the window can do: its words, its key, and the deed."""

    words: str
    key: str
    run: Callable[[], object]


class Finder(QFrame):
    """A sheet over the window: type, choose with the arrows, Enter does it, Escape leaves."""

    MOST = 60

    def __init__(
        self, parent: QWidget, session: Session, commands: Callable[[], list[Command]], show: Callable[[str], None]
    ) -> None:
        super().__init__(parent)
        self.session, self.commands, self.show_desk = session, commands, show
        layout = QVBoxLayout(self)
        layout.setContentsMargins(10, 10, 10, 10)
        self.edit = QLineEdit()
        self.edit.setFont(serif(18))
        self.edit.setPlaceholderText("a command, a name, a word, a title")
        self.edit.setAccessibleName("find anything")
        self.edit.textChanged.connect(self._search)
        self.edit.installEventFilter(self)
        self.list = QListWidget()
        self.list.setFont(sans(14))
        self.list.setSpacing(2)
        self.list.itemActivated.connect(self._do)
        self.list.itemClicked.connect(self._do)
        layout.addWidget(self.edit)
        layout.addWidget(self.list)
        self._deeds: list[Callable[[], object]] = []
        self.hide()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        sheet(self, look().umber)

    def unfold(self) -> None:
        parent = self.parentWidget()
        assert parent is not None
        wide = min(620, parent.width() - 80)
        self.setGeometry((parent.width() - wide) // 2, 70, wide, min(430, parent.height() - 140))
        self.edit.clear()
        self._search("")
        self.show()
        self.raise_()
        self.edit.setFocus()

    def _search(self, text: str) -> None:
        words = text.casefold().split()
        self.list.clear()
        self._deeds = []

        def fits(candidate: str) -> bool:
            low = candidate.casefold()
            return all(w in low for w in words)

        def offer(label: str, kind: str, deed: Callable[[], object]) -> bool:
            if len(self._deeds) >= self.MOST:
                return False
            self.list.addItem(QListWidgetItem(f"{label}    {kind}" if kind else label))
            self._deeds.append(deed)
            return True

        for command in self.commands():
            if fits(command.words):
                offer(command.words, command.key, command.run)
        s = self.session
        if words and s.related is not None and s.grouped is not None and s.corpus is not None:
            for topic in s.grouped.topics:
                if fits(topic.name):
                    offer(topic.name, "topic", lambda t=topic: self._select(Selection(topic=t.number - 1), "chart"))
            network = s.related.network
            for i in holding(network.label, words)[: self.MOST].tolist():
                one = network.identity(i)
                offer(network.label[i], s.words(1), lambda t=one: self._select(Selection(items=(t,)), "chart"))
            for r in holding(s.corpus.title, words)[: self.MOST].tolist():
                number = int(s.corpus.id[r])
                offer(s.corpus.title[r], "record", lambda n=number: self._select(Selection(record=n), "chart"))
        self.list.setCurrentRow(0)

    def _select(self, selection: Selection, desk: str) -> None:
        self.session.select(selection)
        self.show_desk(desk)

    def _do(self, *_: object) -> None:
        row = self.list.currentRow()
        self.hide()
        if 0 <= row < len(self._deeds):
            self._deeds[row]()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
                step = 1 if event.key() == Qt.Key.Key_Down else -1
                self.list.setCurrentRow((self.list.currentRow() + step) % max(self.list.count(), 1))
                return True
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self._do()
                return True
            if event.key() == Qt.Key.Key_Escape:
                self.hide()
                return True
        if (
            event is not None
            and event.type() == QEvent.Type.FocusOut
            and not self.isAncestorOf(self.window().focusWidget() or self)
        ):
            self.hide()
        return super().eventFilter(watched, event)
