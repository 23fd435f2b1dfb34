"""Pictures of standing: one or more items among all others over many measures, and two measures against each other."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import NamedTuple

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QToolTip, QWidget

from umber_knot.corpus.model import Floats
from umber_knot.desktop.theme import colour, look, sans, serif
from umber_knot.desktop.wording import figure

ROW = 34.0
LABEL, FIGURES = 130.0, 126.0


class Place(NamedTuple):
    """Where an item stands in a measure: its value, rank, among how many, and the share of others below."""

    value: float
    rank: float
    of: int
    below: float


class Row(NamedTuple):
    """One measure: name, title, what it says, and where each item shown stands."""

    name: str
    title: str
    says: str
    places: Sequence[Place]


def tints() -> list[str]:
    """The tints of the items overlaid, the first first."""
    c = look()
    return [c.verdigris, c.umber, c.ochre, c.madder]


def mark(p: QPainter, x: float, y: float, k: int, r: float = 5.0) -> None:
    """The mark of the item shown at a place: tint and shape, so that either tells them apart."""
    p.setPen(QPen(colour(look().panel), 1))
    p.setBrush(colour(tints()[k % 4]))
    if k % 2:
        p.drawRect(QRectF(x - r + 0.5, y - r + 0.5, 2 * r - 1, 2 * r - 1))
    else:
        p.drawEllipse(QPointF(x, y), r, r)


class Profile(QWidget):
    """A row of positions for every measure: where an item stands among all others, from lowest to highest; several items
    overlaid. A click chooses the measure."""

    chosen = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.rows: Sequence[Row] = ()
        self.setMouseTracking(True)
        self.setAccessibleName("standing over the measures")

    def show_rows(self, rows: Sequence[Row]) -> None:
        self.rows = rows
        self.setMinimumHeight(round(ROW * len(rows) + 22))
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        c, left, right = look(), LABEL, self.width() - FIGURES
        wide = max(right - left, 40.0)
        p.setFont(sans(11))
        p.setPen(colour(c.faint))
        for share, text in ((0.0, "lowest"), (0.5, "half below"), (1.0, "highest")):
            p.drawText(QRectF(left + share * wide - 50, 0, 100, 16), Qt.AlignmentFlag.AlignCenter, text)
        for k, row in enumerate(self.rows):
            y = 20 + k * ROW + ROW / 2
            p.setFont(sans(13))
            p.setPen(colour(c.ink))
            p.drawText(
                QRectF(0, y - 10, LABEL - 12, 20), Qt.AlignmentFlag.AlignVCenter, p.fontMetrics().elidedText(
                    row.title, Qt.TextElideMode.ElideRight, round(LABEL - 14)
                )
            )  # fmt: skip
            p.setPen(QPen(colour(c.line), 2))
            p.drawLine(QPointF(left, y), QPointF(right, y))
            p.setPen(QPen(colour(c.line), 1))
            for quarter in (0.0, 0.25, 0.5, 0.75, 1.0):
                p.drawLine(QPointF(left + quarter * wide, y - 4), QPointF(left + quarter * wide, y + 4))
            for j, place in reversed(list(enumerate(row.places))):
                if place.below == place.below:
                    mark(p, left + place.below * wide, y, j)
            p.setFont(sans(12))
            for j, place in enumerate(row.places[:2]):
                p.setPen(colour(tints()[j] if len(row.places) > 1 else c.ink))
                at = y - 9 + (j - 0.5) * 15 if len(row.places) > 1 else y - 9
                text = (
                    f"{figure(place.value)} · {place.rank:,.0f} of {place.of:,}"
                    if place.rank == place.rank
                    else "no value"
                )
                p.drawText(QRectF(right + 12, at, FIGURES - 12, 18), Qt.AlignmentFlag.AlignVCenter, text)

    def _row_at(self, y: float) -> Row | None:
        k = int((y - 20) // ROW)
        return self.rows[k] if 0 <= k < len(self.rows) else None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        row = self._row_at(event.position().y())
        if row is not None:
            self.chosen.emit(row.name)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        row = self._row_at(event.position().y())
        if row is not None:
            QToolTip.showText(event.globalPosition().toPoint(), row.says, self)


class Scatter(QWidget):
    """Every item by its places in two measures; those shown are marked, those most unlike in the two are named."""

    picked = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self.across: Floats = np.zeros(0)
        self.upward: Floats = np.zeros(0)
        self.titles = ("", "")
        self.marked: Sequence[int] = ()
        self.named: Sequence[int] = ()
        self.label: Callable[[int], str] = str
        self.setMinimumHeight(150)
        self.setAccessibleName("two measures against each other")

    def show_points(
        self,
        x: Floats,
        y: Floats,
        titles: tuple[str, str],
        marked: Sequence[int],
        named: Sequence[int],
        label: Callable[[int], str],
    ) -> None:
        """Shares of others below, from 0 to 1, in both measures; NaN where there is none."""
        self.across, self.upward, self.titles, self.marked, self.named, self.label = x, y, titles, marked, named, label
        self.update()

    def _frame(self) -> QRectF:
        return QRectF(20, 8, self.width() - 34, self.height() - 34)

    def _at(self, i: int) -> QPointF:
        f = self._frame()
        return QPointF(f.left() + self.across[i] * f.width(), f.bottom() - self.upward[i] * f.height())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        c, f = look(), self._frame()
        p.setPen(QPen(colour(c.line), 1))
        p.drawRect(f)
        p.drawLine(QPointF(f.left(), f.bottom()), QPointF(f.right(), f.top()))
        p.setFont(sans(12))
        p.setPen(colour(c.faint))
        p.drawText(QRectF(f.left(), f.bottom() + 4, f.width(), 18), Qt.AlignmentFlag.AlignRight, f"{self.titles[0]} →")
        p.save()
        p.translate(14, f.bottom())
        p.rotate(-90)
        p.drawText(QRectF(0, -12, f.height(), 16), Qt.AlignmentFlag.AlignRight, f"{self.titles[1]} →")
        p.restore()
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(colour(c.bar, 0.55))
        there = np.flatnonzero(~(np.isnan(self.across) | np.isnan(self.upward)))
        for i in there[:: max(1, len(there) // 4000)].tolist():  # more are not told apart
            p.drawEllipse(self._at(i), 2.0, 2.0)
        taken: list[QRectF] = []
        p.setFont(serif(13))
        for i in self.named:
            self._name(p, i, taken)
        for k, i in enumerate(self.marked):
            if self.across[i] == self.across[i] and self.upward[i] == self.upward[i]:
                at = self._at(i)
                mark(p, at.x(), at.y(), k)

    def _name(self, p: QPainter, i: int, taken: list[QRectF]) -> None:
        """An item's name beside its point, where there is room for it."""
        at, text, f = self._at(i), self.label(i), self._frame()
        wide = p.fontMetrics().horizontalAdvance(text)
        for box in (
            QRectF(at.x() + 5, at.y() - 9, wide, 18),
            QRectF(at.x() - 5 - wide, at.y() - 9, wide, 18),
            QRectF(at.x() + 5, at.y() + 5, wide, 18),
            QRectF(at.x() - 5 - wide, at.y() - 23, wide, 18),
        ):
            if f.contains(box) and not any(box.intersects(other) for other in taken):
                taken.append(box)
                p.setPen(colour(look().ink))
                p.drawText(box, Qt.AlignmentFlag.AlignVCenter, text)
                return

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        there = np.flatnonzero(~(np.isnan(self.across) | np.isnan(self.upward)))
        if not len(there):
            return
        f, at = self._frame(), event.position()
        dx = f.left() + self.across[there] * f.width() - at.x()
        dy = f.bottom() - self.upward[there] * f.height() - at.y()
        k = int(np.argmin(dx * dx + dy * dy))
        if dx[k] ** 2 + dy[k] ** 2 < 144:
            self.picked.emit(int(there[k]))
