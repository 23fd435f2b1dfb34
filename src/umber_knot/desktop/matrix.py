"""The network as a matrix: a cell is a tie, as dark as it is heavy; only what is in view is painted."""

from __future__ import annotations

import csv
import io

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QGuiApplication, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QAbstractScrollArea, QToolTip

from umber_knot.chart.palette import ramp
from umber_knot.corpus.model import Floats, Ints
from umber_knot.desktop.parts import tip
from umber_knot.desktop.theme import colour, look, sans
from umber_knot.errors import UserError
from umber_knot.network.matrix import dense, order
from umber_knot.network.model import Network

CELL = 22  # pixels
LEFT, TOP = 168, 104  # room for the labels
SHOWN = 2000  # items of a matrix that is shown
COPIED = 400  # items that are copied at once


class Matrix(QAbstractScrollArea):
    """Rows and columns are the items, in one order; ``picked`` tells the items of a cell, by their numbers."""

    picked = pyqtSignal(int, int)

    def __init__(self) -> None:
        super().__init__()
        self.setMouseTracking(True)
        self.viewport().setMouseTracking(True)
        self.network: Network | None = None
        self.values: Floats = np.zeros((0, 0))
        self.order: Ints = np.zeros(0, np.int32)
        self.by = "topic"
        self.why = ""  # nothing is shown
        self.at = (-1, -1)  # the row and column of the tie selected
        self._scale = 1.0

    def show_network(self, network: Network, topic: Ints | None, by: str) -> None:
        """Show a network in an order (see ORDERS)."""
        if network is not self.network:
            self.network, self.why = network, ""
            try:
                self.values = dense(network, SHOWN)
            except UserError as error:
                self.values, self.why = np.zeros((0, 0)), str(error)
            off = self.values[~np.eye(len(self.values), dtype=bool)] if not network.directed else self.values
            self._scale = float(off.max(initial=0.0)) or 1.0
        self.by = by
        self.order = order(network, by, topic) if len(self.values) else np.zeros(0, np.int32)
        self._measure()

    def select(self, pair: tuple[int, int] | None) -> None:
        """Mark the cell of two items."""
        place = {item: k for k, item in enumerate(self.order.tolist())}
        self.at = (place.get(pair[0], -1), place.get(pair[1], -1)) if pair is not None else (-1, -1)
        self.viewport().update()

    def copy(self) -> int:
        """Put the table of the first items, with labels, on the clipboard; how many."""
        if self.network is None:
            return 0
        some = self.order[:COPIED]
        out = io.StringIO()
        write = csv.writer(out, delimiter="\t", lineterminator="\n")
        labels = self.network.told_apart()
        write.writerow(["", *(labels[i] for i in some.tolist())])
        for i in some.tolist():
            write.writerow([labels[i], *(f"{v:.6g}" for v in self.values[i, some].tolist())])
        QGuiApplication.clipboard().setText(out.getvalue())
        return len(some)

    # -- geometry

    def _measure(self) -> None:
        size = len(self.order) * CELL
        area = self.viewport().size()
        for bar, room in (
            (self.horizontalScrollBar(), area.width() - LEFT),
            (self.verticalScrollBar(), area.height() - TOP),
        ):
            bar.setRange(0, max(size - room, 0))
            bar.setPageStep(max(room, 1))
            bar.setSingleStep(CELL)
        self.viewport().update()

    def resizeEvent(self, event: object) -> None:
        self._measure()

    def cell_at(self, x: float, y: float) -> tuple[int, int]:
        """The (row, column) at a place of the viewport, −1 outside."""
        column = int((x - LEFT + self.horizontalScrollBar().value()) // CELL) if x >= LEFT else -1
        row = int((y - TOP + self.verticalScrollBar().value()) // CELL) if y >= TOP else -1
        n = len(self.order)
        return (row if row < n else -1, column if column < n else -1)

    # -- painting

    def paintEvent(self, event: QPaintEvent | None) -> None:
        p, c = QPainter(self.viewport()), look()
        p.fillRect(self.viewport().rect(), colour(c.panel))
        if self.network is None or not len(self.order):
            p.setFont(sans(13))
            p.setPen(colour(c.faint))
            p.drawText(self.viewport().rect(), Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, self.why)
            return
        dx, dy = self.horizontalScrollBar().value(), self.verticalScrollBar().value()
        wide, high = self.viewport().width(), self.viewport().height()
        columns = range(dx // CELL, min(len(self.order), (dx + wide - LEFT) // CELL + 1))
        rows = range(dy // CELL, min(len(self.order), (dy + high - TOP) // CELL + 1))
        labels, order_, theme = self.network.label, self.order.tolist(), c.chart
        p.setClipRect(LEFT, TOP, wide - LEFT, high - TOP)
        p.setFont(sans(9))
        for r in rows:
            values = self.values[order_[r]]
            y = TOP + r * CELL - dy
            for k in columns:
                value = float(values[order_[k]])
                x = LEFT + k * CELL - dx
                if r == k and not self.network.directed:
                    p.fillRect(QRectF(x, y, CELL - 1, CELL - 1), colour(c.line, 0.6))
                elif value:
                    share = min(value / self._scale, 1.0) ** 0.5
                    p.fillRect(QRectF(x, y, CELL - 1, CELL - 1), colour(ramp(share, theme)))
                else:
                    p.fillRect(QRectF(x, y, CELL - 1, CELL - 1), colour(c.line, 0.18))
        if self.at[0] in rows and self.at[1] in columns:
            p.setPen(QPen(colour(c.verdigris), 2))
            p.drawRect(QRectF(LEFT + self.at[1] * CELL - dx - 1, TOP + self.at[0] * CELL - dy - 1, CELL, CELL))
        p.setFont(sans(12))
        p.setClipRect(0, TOP, LEFT, high - TOP)
        for r in rows:
            p.setPen(colour(c.verdigris if r == self.at[0] else c.ink))
            text = p.fontMetrics().elidedText(labels[order_[r]], Qt.TextElideMode.ElideRight, LEFT - 12)
            box = QRectF(2, TOP + r * CELL - dy, LEFT - 10, CELL)
            p.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, text)
        p.setClipRect(LEFT, 0, wide - LEFT, TOP)
        for k in columns:
            p.setPen(colour(c.verdigris if k == self.at[1] else c.ink))
            text = p.fontMetrics().elidedText(labels[order_[k]], Qt.TextElideMode.ElideRight, TOP - 10)
            p.save()
            p.translate(QPointF(LEFT + k * CELL - dx + CELL / 2, TOP - 6))
            p.rotate(-90)
            p.drawText(QPointF(0, p.fontMetrics().ascent() / 2 - 1), text)
            p.restore()

    # -- input

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        row, column = self.cell_at(event.position().x(), event.position().y())
        if self.network is None or min(row, column) < 0:
            QToolTip.hideText()
            return
        i, j = int(self.order[row]), int(self.order[column])
        a, b = self.network.label[i], self.network.label[j]
        value = self.values[i, j]
        said = f"{a} → {b}: {value:.4g}" if self.network.directed else f"{a}, {b}: {value:.4g}"
        if i == j and not self.network.directed:
            said = f"{a}: {value:,.0f} records"
        QToolTip.showText(event.globalPosition().toPoint(), tip(said), self)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        row, column = self.cell_at(event.position().x(), event.position().y())
        if min(row, column) >= 0:
            self.picked.emit(int(self.order[row]), int(self.order[column]))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() == Qt.Key.Key_C and event.modifiers() == Qt.KeyboardModifier.ControlModifier:
            self.copy()
        else:
            super().keyPressEvent(event)
