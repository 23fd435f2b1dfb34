"""Tables whose columns carry their own distribution on top; virtual, sortable, copyable."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QAbstractTableModel, QItemSelectionModel, QModelIndex, QRect, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QGuiApplication, QKeyEvent, QKeySequence, QPainter
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QHeaderView,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
)

from umber_knot.desktop.parts import tip
from umber_knot.desktop.theme import colour, look, sans, serif

SAMPLE = 400  # rows that a distribution of texts is drawn from


@dataclass(frozen=True)
class Column:
    """One column: a heading, a text for each row, and numbers to sort and draw by (texts sort by themselves)."""

    heading: str
    text: Callable[[int], str]
    values: np.ndarray | None = None
    width: int = 80
    serif: bool = False
    faint: bool = False
    hint: str = ""
    tint: Callable[[int], str] | None = None  # a swatch before the text
    bulk: Callable[[], Sequence[str]] | None = None  # every row's text at once, for sorting very many
    few: bool = False  # texts take few values: drawn as how often each occurs


class TableModel(QAbstractTableModel):
    """Rows of columns in an order; ``order`` maps what is shown to the row numbers the columns know."""

    def __init__(self) -> None:
        super().__init__()
        self.columns: list[Column] = []
        self.order = np.zeros(0, np.int64)
        self.all = np.zeros(0, np.int64)
        self.sorted: tuple[int, bool] | None = None
        self.below = -1  # rows from here on are quiet: below the line

    def show(self, columns: Sequence[Column], rows: np.ndarray, below: int = -1) -> None:
        self.beginResetModel()
        self.columns, self.all, self.below = list(columns), rows, below
        self.order = rows
        if self.sorted and self.sorted[0] < len(self.columns):
            self.order = self._sorted(*self.sorted)
        self.endResetModel()

    def _sorted(self, column: int, down: bool) -> np.ndarray:
        c = self.columns[column]
        if c.values is not None:
            keys = c.values[self.all].astype(float)
            order = np.argsort(np.where(np.isnan(keys), -np.inf, keys) * (-1 if down else 1), kind="stable")
        else:
            if c.bulk is not None:
                every = c.bulk()
                texts = [every[r].casefold() for r in self.all.tolist()]
            else:
                texts = [c.text(int(r)).casefold() for r in self.all]
            order = np.array(sorted(range(len(texts)), key=texts.__getitem__, reverse=down), np.int64)
        return self.all[order]

    def sort(self, column: int, order: Qt.SortOrder = Qt.SortOrder.AscendingOrder) -> None:
        if not 0 <= column < len(self.columns):
            return
        self.layoutAboutToBeChanged.emit()
        self.sorted = (column, order == Qt.SortOrder.DescendingOrder)
        self.order = self._sorted(*self.sorted)
        self.layoutChanged.emit()

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:
        return 0 if parent.isValid() else len(self.order)

    def columnCount(self, parent: QModelIndex = QModelIndex()) -> int:
        return len(self.columns)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        column = self.columns[index.column()]
        if role == Qt.ItemDataRole.DisplayRole:
            return column.text(int(self.order[index.row()]))
        if role == Qt.ItemDataRole.ToolTipRole:
            return tip(column.text(int(self.order[index.row()])))
        return None

    def quiet(self, place: int, column: Column) -> bool:
        """Whether a cell is shown faintly."""
        return column.faint or (self.below >= 0 and self.sorted is None and place >= self.below)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if orientation == Qt.Orientation.Horizontal and section < len(self.columns):
            if role == Qt.ItemDataRole.DisplayRole:
                return self.columns[section].heading
            if role == Qt.ItemDataRole.ToolTipRole:
                return self.columns[section].hint or f"{self.columns[section].heading}: click to sort"
        return None


class Cells(QStyledItemDelegate):
    """Paints a cell plainly: a style sheet's way takes five times as long, and a table is painted often."""

    def __init__(self, model: TableModel, parent: QTableView) -> None:
        super().__init__(parent)
        self.rows = model

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        assert painter is not None
        c, rect, column = look(), option.rect, self.rows.columns[index.column()]
        row = int(self.rows.order[index.row()])
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(rect, colour(c.wash))
        painter.fillRect(QRect(rect.left(), rect.bottom(), rect.width(), 1), colour(c.chrome))
        area = rect.adjusted(7, 0, -7, 0)
        if column.tint is not None:
            painter.fillRect(QRect(area.left(), rect.center().y() - 5, 10, 10), colour(column.tint(row)))
            area.setLeft(area.left() + 15)
        painter.setFont(serif(15) if column.serif else sans(13))
        painter.setPen(colour(c.faint if self.rows.quiet(index.row(), column) else c.ink))
        text = painter.fontMetrics().elidedText(column.text(row), Qt.TextElideMode.ElideRight, area.width())
        side = Qt.AlignmentFlag.AlignRight if column.values is not None else Qt.AlignmentFlag.AlignLeft
        painter.drawText(area, side | Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextSingleLine, text)


class Distribution(QHeaderView):
    """Headings with a small distribution above each: a histogram of numbers, or how many rows have a value."""

    def __init__(self, model: TableModel) -> None:
        super().__init__(Qt.Orientation.Horizontal)
        self.rows = model
        self.setSectionsClickable(True)
        self.setHighlightSections(False)
        self.setStretchLastSection(True)
        self._drawn: dict[int, tuple[int, np.ndarray]] = {}
        model.modelReset.connect(self._drawn.clear)

    def sizeHint(self) -> QSize:
        return QSize(100, 44)

    def _shape(self, section: int) -> np.ndarray:
        """Bar heights from 0 to 1."""
        if section not in self._drawn:
            column, rows = self.rows.columns[section], self.rows.all
            if column.few:
                sample = rows if len(rows) <= SAMPLE else rows[:: len(rows) // SAMPLE + 1]
                common = sorted(
                    Counter(text for r in sample if (text := column.text(int(r))) != "–").values(), reverse=True
                )[:24]
                shape = np.array(common or [0]) / max(common, default=1)
            elif column.values is None:
                sample = rows if len(rows) <= SAMPLE else rows[:: len(rows) // SAMPLE + 1]
                share = np.mean([bool(column.text(int(r)).strip("–")) for r in sample]) if len(sample) else 0.0
                shape = np.array([share])
            else:
                values = column.values[rows].astype(float)
                values = values[~np.isnan(values) & (values != 0)]
                counts = np.histogram(values, 24)[0] if len(values) else np.zeros(1)
                shape = counts / max(counts.max(), 1)
            self._drawn[section] = (0, shape)
        return self._drawn[section][1]

    def paintSection(self, painter: QPainter | None, rect: QRect, section: int) -> None:
        assert painter is not None
        if section >= len(self.rows.columns):
            return
        c, column = look(), self.rows.columns[section]
        painter.save()
        painter.fillRect(rect, colour(c.panel))
        area = QRectF(rect.left() + 4, rect.top() + 4, max(rect.width() - 12, 4), 18)
        shape = self._shape(section)
        if column.values is None and not column.few:
            painter.fillRect(QRectF(area.left(), area.bottom() - 4, area.width(), 4), colour(c.line, 0.5))
            painter.fillRect(QRectF(area.left(), area.bottom() - 4, area.width() * float(shape[0]), 4), colour(c.bar))
        else:
            wide = area.width() / len(shape)
            for k, h in enumerate(shape.tolist()):
                high = max(area.height() * h, 1.0 if h else 0.0)
                painter.fillRect(
                    QRectF(area.left() + k * wide, area.bottom() - high, max(wide - 1, 1), high), colour(c.bar)
                )
        painter.setFont(sans(12))
        painter.setPen(colour(c.faint))
        mark = ""
        if self.rows.sorted and self.rows.sorted[0] == section:
            mark = " ↓" if self.rows.sorted[1] else " ↑"
        right = column.values is not None
        flags = (Qt.AlignmentFlag.AlignRight if right else Qt.AlignmentFlag.AlignLeft) | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(QRect(rect.left() + 4, rect.top() + 23, rect.width() - 10, 20), flags, column.heading + mark)
        painter.fillRect(QRect(rect.left(), rect.bottom(), rect.width(), 1), colour(c.line))
        painter.restore()


class Table(QTableView):
    """A table view in the house style. ``activated_row`` tells the row chosen; Ctrl+C copies what is selected."""

    picked = pyqtSignal(int)

    def __init__(self, many: bool = False, row_height: int = 28) -> None:
        super().__init__()
        self._entering = False
        self.rows = TableModel()
        self.setModel(self.rows)
        self.setItemDelegate(Cells(self.rows, self))
        self.head = Distribution(self.rows)
        self.setHorizontalHeader(self.head)
        self.verticalHeader().hide()
        self.verticalHeader().setDefaultSectionSize(row_height)
        self.verticalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        self.setShowGrid(False)
        self.setWordWrap(False)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(
            QAbstractItemView.SelectionMode.ExtendedSelection
            if many
            else QAbstractItemView.SelectionMode.SingleSelection
        )
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.head.sectionClicked.connect(self._sort)
        self.selectionModel().currentRowChanged.connect(self._moved)

    def show_rows(self, columns: Sequence[Column], rows: np.ndarray, below: int = -1) -> None:
        """Show columns for row numbers; the widths are kept from the first time."""
        fresh = len(self.rows.columns) != len(columns)
        top = self.verticalScrollBar().value()
        self.rows.show(columns, rows, below)
        if fresh:
            for k, column in enumerate(columns):
                self.setColumnWidth(k, column.width)
        self.verticalScrollBar().setValue(top)

    def _sort(self, section: int) -> None:
        column = self.rows.columns[section]
        first = column.values is not None  # numbers start from the greatest
        again = self.rows.sorted is not None and self.rows.sorted[0] == section
        down = not self.rows.sorted[1] if again and self.rows.sorted else first
        self.rows.sort(section, Qt.SortOrder.DescendingOrder if down else Qt.SortOrder.AscendingOrder)
        self.head.viewport().update()

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        self._entering = True  # the first row becomes current by being entered; nobody chose it
        super().focusInEvent(event)
        self._entering = False

    def _moved(self, current: QModelIndex, before: QModelIndex) -> None:
        if current.isValid() and not self._entering:
            self.picked.emit(int(self.rows.order[current.row()]))

    def select_row(self, row: int) -> None:
        """Mark a row without telling anybody."""
        at = np.flatnonzero(self.rows.order == row)
        model = self.selectionModel()
        model.blockSignals(True)
        if len(at):
            index = self.rows.index(int(at[0]), 0)
            flags = QItemSelectionModel.SelectionFlag.ClearAndSelect | QItemSelectionModel.SelectionFlag.Rows
            model.setCurrentIndex(index, flags)
            self.scrollTo(index)
        else:
            model.clearSelection()
        model.blockSignals(False)
        self.viewport().update()

    def chosen(self) -> list[int]:
        """The selected row numbers, as shown from the top."""
        return [
            int(self.rows.order[i.row()]) for i in sorted(self.selectionModel().selectedRows(), key=lambda i: i.row())
        ]

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.matches(QKeySequence.StandardKey.Copy):
            lines = ["\t".join(c.text(r) for c in self.rows.columns) for r in self.chosen()]
            QGuiApplication.clipboard().setText("\n".join(lines))
        else:
            super().keyPressEvent(event)
