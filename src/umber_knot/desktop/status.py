"""The status line: what changed, in numbers and names; what is running, with progress and stop."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QHBoxLayout, QWidget

from umber_knot.desktop.parts import Link, Text
from umber_knot.desktop.session import Session
from umber_knot.desktop.theme import colour, look


class Progress(QWidget):
    """A thin bar; without a known end it only shows that work goes on."""

    def __init__(self) -> None:
        super().__init__()
        self.share: float | None = None
        self.setFixedSize(120, 8)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.fillRect(self.rect(), colour(look().line))
        if self.share is None:
            p.fillRect(QRectF(0, 0, self.width() * 0.35, self.height()), colour(look().bar))
        else:
            p.fillRect(QRectF(0, 0, self.width() * self.share, self.height()), colour(look().umber))


class StatusLine(QWidget):
    def __init__(self, session: Session, salvage: Callable[[], object]) -> None:
        super().__init__()
        self.session = session
        self.setFixedHeight(28)
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 0, 16, 0)
        row.setSpacing(6)
        self.head = Text("", 12, bold=True)
        self.text = Text("", 12)
        self.text.setMinimumWidth(50)
        self.text.setSizePolicy(self.text.sizePolicy().Policy.Ignored, self.text.sizePolicy().verticalPolicy())
        self.again = Link("try again", session.retry, 12)
        self.again.hide()
        self.salvage = Link("save what can be read", salvage, 12)
        self.salvage.hide()
        self.job = Text("nothing running", 12, faint=True)
        self.bar = Progress()
        self.stop = Link("stop", session.stop_work, 12)
        row.addWidget(self.head)
        row.addWidget(self.text, 1)
        row.addWidget(self.again)
        row.addWidget(self.salvage)
        row.addWidget(self.job)
        row.addWidget(self.bar)
        row.addWidget(self.stop)
        session.said.connect(self.say)
        session.progressed.connect(self._progress)
        self._last = ("", "", "note")
        self._progress()

    def say(self, head: str, text: str, kind: str) -> None:
        """Show what changed, a note, or a fault with its cure."""
        self._last = (head, text, kind)
        self.head.setText(head)
        self.head.tint(look().madder if kind == "fault" else look().ink)
        self.text.setText(" ".join(text.split()))
        self.text.setToolTip(text)
        damaged = kind == "fault" and self.session.damaged is not None
        self.salvage.setVisible(damaged)
        self.again.setVisible(kind == "fault" and self.session.failed is not None and not damaged)

    def retheme(self) -> None:
        self.say(*self._last)

    def _progress(self) -> None:
        running = self.session.running
        self.bar.setVisible(running is not None)
        self.stop.setVisible(running is not None)
        if running is None:
            self.job.setText("nothing running")
            return
        what, done, of, left = running
        self.bar.share = done / of if of else None
        self.bar.update()
        wait = f" · about {left:.0f} s left" if left is not None and left >= 1.5 else ""
        count = f" {done:,} of {of:,}" if of and of < 1_000_000 else f" {done / of:.0%}" if of else ""
        self.job.setText(f"{what}{count}{wait}")

    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.fillRect(0, 0, self.width(), 1, colour(look().line))
        p.end()
