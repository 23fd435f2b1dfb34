"""The house style: edges, scroll bars and tool tips painted in the present look.

A style of one's own costs nothing when the look changes; a style sheet has every widget made ready again.
"""

from __future__ import annotations

from PyQt6.QtCore import QRect, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPalette, QPen
from PyQt6.QtWidgets import (
    QAbstractScrollArea,
    QApplication,
    QFrame,
    QLineEdit,
    QPlainTextEdit,
    QProxyStyle,
    QStyle,
    QStyleOption,
    QStyleOptionComplex,
    QStyleOptionSlider,
    QStyleOptionViewItem,
    QToolTip,
    QWidget,
)

from umber_knot.desktop.theme import choose, colour, look, sans

BAR, SHORTEST = 10, 28  # width of a scroll bar and length of its handle, in pixels


def dress(name: str) -> None:
    """Show the whole application in a look."""
    c = choose(name)
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    if not isinstance(app.style(), House):
        app.setStyle(House())
        app.setFont(sans(13))
    palette = QPalette()
    for role, value in (
        (QPalette.ColorRole.Window, c.chrome),
        (QPalette.ColorRole.WindowText, c.ink),
        (QPalette.ColorRole.Base, c.panel),
        (QPalette.ColorRole.AlternateBase, c.wash),
        (QPalette.ColorRole.Text, c.ink),
        (QPalette.ColorRole.Button, c.panel),
        (QPalette.ColorRole.ButtonText, c.ink),
        (QPalette.ColorRole.Highlight, c.verdigris),
        (QPalette.ColorRole.HighlightedText, c.panel),
        (QPalette.ColorRole.Link, c.umber),
        (QPalette.ColorRole.ToolTipBase, c.panel),
        (QPalette.ColorRole.ToolTipText, c.ink),
        (QPalette.ColorRole.PlaceholderText, c.faint),
        (QPalette.ColorRole.Mid, c.line),
    ):
        palette.setColor(role, QColor(value))
    app.setPalette(palette)
    QToolTip.setPalette(palette)


def sheet(widget: QWidget, edge: str = "") -> None:
    """Paint a widget as a sheet of paper; ``edge`` is the colour of its line, by default the look's."""
    painter = QPainter(widget)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    _rounded(painter, widget.rect(), edge or look().line)


def _rounded(painter: QPainter, rect: QRect, edge: str) -> None:
    painter.setPen(QPen(colour(edge), 1))
    painter.setBrush(colour(look().panel))
    painter.drawRoundedRect(QRectF(rect).adjusted(0.5, 0.5, -0.5, -0.5), 3, 3)


class House(QProxyStyle):
    """Fusion, but for what is said above."""

    def __init__(self) -> None:
        super().__init__("Fusion")

    def polish(self, what: QWidget | QPalette) -> object:  # type: ignore[override]
        if isinstance(what, QAbstractScrollArea) and not isinstance(what, QPlainTextEdit):
            what.setFrameShape(QFrame.Shape.NoFrame)
        if isinstance(what, QLineEdit):
            what.setTextMargins(4, 2, 4, 2)
        return super().polish(what)  # type: ignore[arg-type]

    def drawPrimitive(
        self,
        element: QStyle.PrimitiveElement,
        option: QStyleOption | None,
        painter: QPainter | None,
        widget: QWidget | None = None,
    ) -> None:
        kinds = QStyle.PrimitiveElement
        if option is None or painter is None:
            return
        if element == kinds.PE_PanelLineEdit or (element == kinds.PE_Frame and isinstance(widget, QPlainTextEdit)):
            painter.save()
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            focus = bool(option.state & QStyle.StateFlag.State_HasFocus)
            _rounded(painter, option.rect, look().umber if focus else look().line)
            painter.restore()
        elif element == kinds.PE_PanelTipLabel:
            painter.fillRect(option.rect, colour(look().line))
            painter.fillRect(option.rect.adjusted(1, 1, -1, -1), colour(look().panel))
        elif element not in (kinds.PE_FrameFocusRect, kinds.PE_PanelScrollAreaCorner):  # focus is shown in other ways
            super().drawPrimitive(element, option, painter, widget)

    def drawControl(
        self,
        element: QStyle.ControlElement,
        option: QStyleOption | None,
        painter: QPainter | None,
        widget: QWidget | None = None,
    ) -> None:
        if element == QStyle.ControlElement.CE_ItemViewItem and isinstance(option, QStyleOptionViewItem):
            option.palette.setColor(QPalette.ColorRole.Highlight, colour(look().wash))
            option.palette.setColor(QPalette.ColorRole.HighlightedText, colour(look().ink))
        super().drawControl(element, option, painter, widget)

    def drawComplexControl(
        self,
        control: QStyle.ComplexControl,
        option: QStyleOptionComplex | None,
        painter: QPainter | None,
        widget: QWidget | None = None,
    ) -> None:
        if control != QStyle.ComplexControl.CC_ScrollBar or painter is None or option is None:
            super().drawComplexControl(control, option, painter, widget)
            return
        handle = self.subControlRect(control, option, QStyle.SubControl.SC_ScrollBarSlider, widget)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        under = bool(option.activeSubControls & QStyle.SubControl.SC_ScrollBarSlider)
        painter.setBrush(colour(look().faint if under else look().line))
        painter.drawRoundedRect(QRectF(handle).adjusted(1, 1, -1, -1), 4, 4)
        painter.restore()

    def subControlRect(
        self,
        control: QStyle.ComplexControl,
        option: QStyleOptionComplex | None,
        part: QStyle.SubControl,
        widget: QWidget | None = None,
    ) -> QRect:
        if control != QStyle.ComplexControl.CC_ScrollBar or not isinstance(option, QStyleOptionSlider):
            return super().subControlRect(control, option, part, widget)
        whole, across = option.rect, option.orientation == Qt.Orientation.Horizontal
        room, span = (whole.width() if across else whole.height()), option.maximum - option.minimum
        long = room if span <= 0 else max(room * option.pageStep // max(span + option.pageStep, 1), min(SHORTEST, room))
        at = self.sliderPositionFromValue(
            option.minimum, option.maximum, option.sliderPosition, room - long, option.upsideDown
        )
        parts = QStyle.SubControl
        begin, end = {
            parts.SC_ScrollBarGroove: (0, room),
            parts.SC_ScrollBarSlider: (at, at + long),
            parts.SC_ScrollBarSubPage: (0, at),
            parts.SC_ScrollBarAddPage: (at + long, room),
        }.get(part, (0, 0))
        if across:
            return QRect(whole.left() + begin, whole.top(), end - begin, whole.height())
        return QRect(whole.left(), whole.top() + begin, whole.width(), end - begin)

    def pixelMetric(
        self, metric: QStyle.PixelMetric, option: QStyleOption | None = None, widget: QWidget | None = None
    ) -> int:
        if metric == QStyle.PixelMetric.PM_ScrollBarExtent:
            return BAR
        if metric == QStyle.PixelMetric.PM_ScrollBarSliderMin:
            return SHORTEST
        if metric == QStyle.PixelMetric.PM_ToolTipLabelFrameWidth:
            return 5
        return super().pixelMetric(metric, option, widget)
