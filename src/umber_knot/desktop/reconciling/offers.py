"""The list of suggestions: a name, what it is about, its confidence as a number and a bar."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from PyQt6.QtCore import QAbstractListModel, QModelIndex, QRect, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QStyle, QStyledItemDelegate, QStyleOptionViewItem

from umber_knot.desktop.theme import colour, look, sans


@dataclass(frozen=True)
class Offer:
    """A suggestion as the list shows it; ``effect`` is None where the network is of another kind."""

    suggestion: Any
    effect: Any
    name: str
    below: str


class Offers(QAbstractListModel):
    """The suggestions waiting, in the chosen order."""

    def __init__(self) -> None:
        super().__init__()
        self.offers: list[Offer] = []

    def show(self, offers: list[Offer]) -> None:
        self.beginResetModel()
        self.offers = offers
        self.endResetModel()

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:
        return len(self.offers)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            offer = self.offers[index.row()]
            return f"{offer.name}, {offer.suggestion.confidence:.2f}"
        return None


class OfferRow(QStyledItemDelegate):
    """Paints one suggestion of the list."""

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(100, 54)

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        assert painter is not None
        model = index.model()
        assert isinstance(model, Offers)
        offer = model.offers[index.row()]
        confidence = offer.suggestion.confidence
        c, r = look(), option.rect
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        painter.save()
        if chosen:
            painter.fillRect(r, colour(c.wash))
            painter.fillRect(QRect(r.left(), r.top(), 3, r.height()), colour(c.umber))
        painter.setPen(colour(c.ink))
        painter.setFont(sans(13, chosen))
        m = painter.fontMetrics()
        painter.drawText(
            QRect(r.left() + 14, r.top() + 5, r.width() - 74, 18),
            Qt.AlignmentFlag.AlignVCenter,
            m.elidedText(offer.name, Qt.TextElideMode.ElideRight, r.width() - 74),
        )
        painter.setFont(sans(12))
        painter.setPen(colour(c.faint))
        painter.drawText(
            QRect(r.right() - 56, r.top() + 5, 44, 18), Qt.AlignmentFlag.AlignRight, f"{min(confidence, 0.99):.2f}"
        )
        m = painter.fontMetrics()
        painter.drawText(
            QRect(r.left() + 14, r.top() + 23, r.width() - 28, 18),
            Qt.AlignmentFlag.AlignVCenter,
            m.elidedText(offer.below, Qt.TextElideMode.ElideRight, r.width() - 28),
        )
        wide = r.width() - 28
        painter.fillRect(QRectF(r.left() + 14, r.top() + 44, wide, 3), colour(c.line, 0.5))
        tint = c.verdigris if confidence >= 0.6 else c.bar
        painter.fillRect(
            QRectF(r.left() + 14, r.top() + 44, wide * confidence, 3), colour(tint, 0.35 + 0.65 * confidence)
        )
        painter.fillRect(QRect(r.left(), r.bottom(), r.width(), 1), colour(c.chrome))
        painter.restore()
