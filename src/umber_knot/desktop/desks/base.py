"""What the desks share: a sentence on top, panels below, and drawing only when looked at."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeySequence, QShortcut, QShowEvent
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from umber_knot.desktop.parts import show_new
from umber_knot.desktop.sentence import Sentence
from umber_knot.desktop.session import Session


class Desk(QWidget):
    """A desk brings itself up to date when something it ``shows`` arrives, or when it is next looked at."""

    shows: tuple[str, ...] = ()
    needs: frozenset[str] = frozenset({"gather"})  # the results without which a new state is not shown here
    sets_aside = False  # whether X sets aside what is selected

    def __init__(self, session: Session, size: float = 18) -> None:
        super().__init__()
        self.session = session
        self.body = QVBoxLayout(self)
        self.body.setContentsMargins(0, 8, 0, 4)
        self.body.setSpacing(8)
        self.sentence = Sentence(size)
        self.top = QHBoxLayout()
        self.top.setContentsMargins(2, 2, 2, 0)
        self.top.addWidget(self.sentence, 1)
        self.body.addLayout(self.top)
        self._late = True
        if self.sets_aside:
            key = QShortcut(QKeySequence("X"), self)
            key.setContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
            key.activated.connect(session.set_aside_selected)
        session.arrived.connect(lambda stages: stages.isdisjoint(self.shows) or self.refresh())
        session.opened.connect(self.refresh)

    def refresh(self) -> None:
        """Bring up to date now when visible, else when next shown."""
        self._late = True
        if self.isVisible() and self.session.study is not None:
            self._late = False
            self.bring_up_to_date()
            show_new(self)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        if self._late:
            self.refresh()

    def bring_up_to_date(self) -> None:
        raise NotImplementedError
