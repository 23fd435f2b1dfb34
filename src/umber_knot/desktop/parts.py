"""Small widgets that every desk is made of."""

from __future__ import annotations

from collections.abc import Callable
from html import escape
from urllib.parse import quote

from PyQt6.QtCore import QMargins, QPoint, QRect, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetrics, QGuiApplication, QKeyEvent, QPainter, QPaintEvent, QPalette, QPen
from PyQt6.QtWidgets import (
    QAbstractButton,
    QFrame,
    QHBoxLayout,
    QLabel,
    QLayout,
    QLayoutItem,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from umber_knot.desktop.house import sheet
from umber_knot.desktop.theme import colour, look, sans, serif


def tip(text: str) -> str:
    """A text from the material as a tool tip: as it is written, never read as markup."""
    return f"<p style='white-space:pre-wrap'>{escape(text)}</p>" if text else ""


class PlainTip:
    """A widget whose tool tip is plain text."""

    def setToolTip(self, text: str | None) -> None:
        super().setToolTip(tip(text or ""))


class Panel(QFrame):
    """A sheet of paper with an optional heading; ``body`` takes the contents."""

    def __init__(self, heading: str = "", margins: tuple[int, int, int, int] = (14, 10, 14, 10)) -> None:
        super().__init__()
        self.body = QVBoxLayout(self)
        self.body.setContentsMargins(QMargins(*margins))
        self.body.setSpacing(4)
        self.head = QHBoxLayout()
        self.heading = Text(heading, bold=True)
        if heading:
            self.head.addWidget(self.heading)
            self.head.addStretch(1)
            self.body.addLayout(self.head)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        sheet(self)


class Text(PlainTip, QLabel):
    """A line or paragraph of the interface's sans (or serif)."""

    def __init__(
        self,
        text: str = "",
        size: float = 13,
        bold: bool = False,
        faint: bool = False,
        serif_: bool = False,
        wrap: bool = False,
    ) -> None:
        super().__init__(text)
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setFont(serif(size) if serif_ else sans(size, bold))
        self.setWordWrap(wrap)
        if faint:
            self.setForegroundRole(QPalette.ColorRole.PlaceholderText)

    def tint(self, hex_: str) -> Text:
        palette = self.palette()
        palette.setColor(self.foregroundRole(), colour(hex_))
        self.setPalette(palette)
        return self


class Elided(Text):
    """A line that gives way: what does not fit is cut, and said in the tool tip."""

    def __init__(self, text: str, size: float = 13, faint: bool = False, serif_: bool = False) -> None:
        super().__init__(text, size, faint=faint, serif_=serif_)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self.setToolTip(text)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setPen(self.palette().color(self.foregroundRole()))
        text = self.fontMetrics().elidedText(self.text(), Qt.TextElideMode.ElideRight, self.width())
        p.drawText(self.rect(), Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, text)


class Link(PlainTip, QAbstractButton):
    """Underlined umber words that do something."""

    def __init__(
        self,
        text: str,
        action: Callable[[], object] | None = None,
        size: float = 13,
        serif_: bool = False,
        key: str = "",
    ) -> None:
        super().__init__()
        self.setText(text)
        self.key = key
        self.setFont(serif(size) if serif_ else sans(size))
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
        self.setAccessibleName(text)
        if action is not None:
            self.clicked.connect(lambda: action())

    def sizeHint(self) -> QSize:
        m = self.fontMetrics()
        extra = QFontMetrics(sans(11)).horizontalAdvance(self.key) + 16 if self.key else 0
        return QSize(m.horizontalAdvance(self.text()) + 2 + extra, m.height() + 4)

    def setText(self, text: str | None) -> None:
        super().setText(text)
        self.setAccessibleName(text or "")
        self.updateGeometry()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.click()
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setFont(self.font())
        m = self.fontMetrics()
        ink = colour(look().umber if self.isEnabled() else look().faint)
        x = 0
        if self.key:
            p.setFont(sans(11))
            w = p.fontMetrics().horizontalAdvance(self.key) + 10
            box = QRectF(0.5, 0.5, w, self.height() - 2)
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            p.setPen(QPen(colour(look().faint, 0.6), 1))
            p.setBrush(colour(look().panel))
            p.drawRoundedRect(box, 3, 3)
            p.setPen(colour(look().ink))
            p.drawText(box, Qt.AlignmentFlag.AlignCenter, self.key)
            p.setFont(self.font())
            x = w + 6
        base = m.ascent()
        p.setPen(ink)
        p.drawText(x, base, self.text())
        wide = m.horizontalAdvance(self.text())
        p.setPen(QPen(ink, 2 if self.hasFocus() else 1))
        p.drawLine(x, base + 3, x + wide, base + 3)


class Rule(QFrame):
    """A hairline."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(1)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        QPainter(self).fillRect(self.rect(), colour(look().line))


class Share(PlainTip, QWidget):
    """A number, what it counts, and a thin bar for its share of the whole."""

    def __init__(self, number: str, text: str, share: float, tint: str, strong: bool = True) -> None:
        super().__init__()
        self.number, self.text, self.share, self.tint, self.strong = number, text, share, tint, strong
        self.setFixedHeight(36)
        self.setToolTip(f"{number} {text}".strip())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        c, w = look(), self.width()
        p.setFont(sans(13, self.strong and bool(self.text)))
        p.setPen(colour(self.tint if self.strong else c.ink))
        p.drawText(QRect(0, 3, w, 20), Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, self.number)
        used = p.fontMetrics().horizontalAdvance(self.number)
        p.setFont(sans(12))
        p.setPen(colour(c.faint))
        text = p.fontMetrics().elidedText(self.text, Qt.TextElideMode.ElideRight, w - used - 12)
        p.drawText(QRect(0, 3, w, 20), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, text)
        p.fillRect(QRectF(0, 26, w, 4), colour(c.line, 0.5))
        p.fillRect(QRectF(0, 26, w * min(max(self.share, 0.0), 1.0), 4), colour(self.tint))


class Flow(QLayout):
    """Widgets in lines, as words in a paragraph."""

    def __init__(self, gap: int = 5, line_gap: int = 6) -> None:
        super().__init__()
        self.gap, self.line_gap = gap, line_gap
        self._items: list[QLayoutItem] = []
        self._heights: dict[int, int] = {}  # width → height, while nothing changes
        self._sizes: list[tuple[QSize, bool]] | None = None  # of each item, and whether what follows stands close

    def addItem(self, item: QLayoutItem | None) -> None:
        assert item is not None
        self._items.append(item)
        self.invalidate()

    def count(self) -> int:
        return len(self._items)

    def itemAt(self, index: int) -> QLayoutItem | None:
        return self._items[index] if 0 <= index < len(self._items) else None

    def takeAt(self, index: int) -> QLayoutItem | None:
        self.invalidate()
        return self._items.pop(index) if 0 <= index < len(self._items) else None

    def invalidate(self) -> None:
        self._heights.clear()
        self._sizes = None
        super().invalidate()

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        if width not in self._heights:
            self._heights[width] = self._arrange(QRect(0, 0, width, 0), False)
        return self._heights[width]

    def setGeometry(self, rect: QRect) -> None:
        super().setGeometry(rect)
        self._arrange(rect, True)

    def sizeHint(self) -> QSize:
        return self.minimumSize()

    def minimumSize(self) -> QSize:
        sizes = self._measured()
        return QSize(max((s.width() for s, _ in sizes), default=0), max((s.height() for s, _ in sizes), default=0))

    def _measured(self) -> list[tuple[QSize, bool]]:
        if self._sizes is None:
            widgets = [(item, item.widget()) for item in self._items]
            self._sizes = [(i.sizeHint(), w is not None and bool(w.property("tight"))) for i, w in widgets]
        return self._sizes

    def _arrange(self, rect: QRect, place: bool) -> int:
        x, y, high, right = rect.x(), rect.y(), 0, rect.right() + 1
        for item, (size, tight) in zip(self._items, self._measured()):
            wide = size.width()
            if x + wide > right and x > rect.x():
                x, y, high = rect.x(), y + high + self.line_gap, 0
            if place:
                item.setGeometry(QRect(QPoint(x, y), size))
            x += wide + (0 if tight else self.gap)
            high = max(high, size.height())
        return y + high - rect.y()


class Popup(QFrame):
    """A sheet that unfolds below a control and folds away when left."""

    closed = pyqtSignal()

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.body = QVBoxLayout(self)
        self.body.setContentsMargins(10, 8, 10, 8)
        self.body.setSpacing(2)

    def unfold(self, below: QWidget) -> None:
        self._control = QRect(below.mapToGlobal(QPoint(0, 0)), below.size())
        self.fit()
        self.show()

    def fit(self) -> None:
        """Take the size of what is in it, and stay below its control and on the screen."""
        self.adjustSize()
        corner = self._control.bottomLeft() + QPoint(-8, 3)
        screen = QGuiApplication.screenAt(self._control.center())
        if screen is not None:
            area = screen.availableGeometry()
            corner.setX(max(area.left(), min(corner.x(), area.right() - self.width())))
            if corner.y() + self.height() > area.bottom():
                corner.setY(self._control.top() - self.height() - 2)
        self.move(corner)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        sheet(self, look().umber)

    def closeEvent(self, event: object) -> None:
        self.closed.emit()


class Curtain(QWidget):
    """Lies over a window and paints nothing, so that what was seen stays until it is lifted; then all is painted once.

    Where many widgets change at once, Qt paints each of them and then the window they are in.
    """

    def __init__(self, over: QWidget) -> None:
        super().__init__(over)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setAttribute(Qt.WidgetAttribute.WA_NoSystemBackground)
        self.hide()

    def fall(self) -> None:
        self.setGeometry(self.parentWidget().rect())  # type: ignore[union-attr]
        self.show()
        self.raise_()

    def lift(self) -> None:
        self.hide()


def show_new(widget: QWidget) -> None:
    """Show what has been put into the layouts below a widget in view, and lay it out once. Left to itself, Qt lays out
    everything again at each widget."""
    if not widget.isVisible():
        return
    new = [
        w
        for w in widget.findChildren(QWidget)
        if not w.isVisible()
        and w.testAttribute(Qt.WidgetAttribute.WA_LaidOut)
        and not w.testAttribute(Qt.WidgetAttribute.WA_WState_ExplicitShowHide)
    ]
    layouts = {}
    for one in new:
        above = one.parentWidget()
        while above is not None and id(above) not in layouts:
            layouts[id(above)] = above.layout()
            above = above.parentWidget()
    held = [layout for layout in layouts.values() if layout is not None and layout.isEnabled()]
    for layout in held:
        layout.setEnabled(False)
    for one in new:
        one.show()
    for layout in held:
        layout.setEnabled(True)


def scrolling(layout: QLayout) -> QScrollArea:
    """A place for a layout that may grow longer than there is room."""
    inner = QWidget()
    inner.setLayout(layout)
    area = QScrollArea()
    area.setWidgetResizable(True)
    area.setWidget(inner)
    inner.setAutoFillBackground(False)  # the sheet below is seen
    viewport = area.viewport()
    assert viewport is not None
    viewport.setAutoFillBackground(False)
    return area


def clear(layout: QLayout) -> None:
    """Remove and delete everything in a layout."""
    while (item := layout.takeAt(0)) is not None:
        widget = item.widget()
        if widget is not None:
            widget.hide()
            widget.deleteLater()
        inner = item.layout()
        if inner is not None:
            clear(inner)


def anchor(kind: str, key: object, text: str) -> str:
    """An HTML link to something in the study."""
    return f'<a href="{kind}:{quote(str(key), safe="")}" style="color:{look().ink};">{escape(text)}</a>'
