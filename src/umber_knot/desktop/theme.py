"""Colours, fonts and the style sheet of the window."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtGui import QColor, QFont, QFontDatabase, QPalette
from PyQt6.QtWidgets import QApplication, QWidget

from umber_knot.chart.palette import DARK, LIGHT, Theme
from umber_knot.paths import FONTS

SANS, SERIF = "Lato", "Gentium Plus"


@dataclass(frozen=True, slots=True)
class Look:
    """The window's colours as hex; ``chart`` is the chart's theme."""

    chart: Theme
    chrome: str
    panel: str
    ink: str
    faint: str
    line: str
    umber: str  # what can be changed
    verdigris: str  # what is selected, or counts for
    ochre: str  # what was left out, or counts against
    madder: str  # faults
    wash: str  # behind the chosen row
    bar: str  # quiet quantities


LOOKS = {
    "light": Look(
        LIGHT,
        "#E9EBE6",
        "#FBFBF8",
        "#22241F",
        "#5C6058",
        "#CDD1C8",
        "#7B4B2A",
        "#1F7A6D",
        "#8A560C",
        "#A63D40",
        "#F1ECE5",
        "#9C7A5F",
    ),
    "dark": Look(
        DARK,
        "#1D1B18",
        "#272420",
        "#ECE7DC",
        "#B0A898",
        "#4A443A",
        "#D9A27A",
        "#6CC3B3",
        "#DDA64B",
        "#E58A87",
        "#39322A",
        "#8F735C",
    ),
}
_current = LOOKS["light"]


def look() -> Look:
    return _current


def sans(size: float = 13, bold: bool = False) -> QFont:
    font = QFont(SANS)
    font.setPixelSize(round(size))
    font.setBold(bold)
    return font


def serif(size: float = 16, italic: bool = False) -> QFont:
    font = QFont(SERIF)
    font.setPixelSize(round(size))
    font.setItalic(italic)
    return font


def colour(hex_: str, alpha: float = 1.0) -> QColor:
    found = QColor(hex_)
    found.setAlphaF(alpha)
    return found


def load_fonts() -> None:
    for path in sorted(FONTS.glob("*.ttf")):
        QFontDatabase.addApplicationFont(str(path))


def apply(name: str) -> None:
    """Choose the look of the whole application; what is shown is dressed in it by ``dress``."""
    global _current
    _current = LOOKS[name]
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    style = app.style()
    if style is None or style.objectName() != "fusion":
        app.setStyle("Fusion")
        app.setFont(sans(13))
    c = _current
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


def dress(widget: QWidget) -> None:
    """Give a part of the window the present look, where it has another. Parts that are not shown are dressed when they
    are, so that a change of look costs what is seen."""
    if widget.property("look") != _current.chart.name:
        widget.setProperty("look", _current.chart.name)
        widget.setStyleSheet(_sheet(_current))


def _sheet(c: Look) -> str:
    return f"""
        QToolTip {{ background: {c.panel}; color: {c.ink}; border: 1px solid {c.line}; padding: 4px; }}
        #panel {{ background: {c.panel}; border: 1px solid {c.line}; border-radius: 3px; }}
        #popup {{ background: {c.panel}; border: 1px solid {c.umber}; border-radius: 3px; }}
        QLabel[faint="true"] {{ color: {c.faint}; }}
        QLineEdit, QPlainTextEdit {{ background: {c.panel}; color: {c.ink}; border: 1px solid {c.line}; border-radius: 3px;
            padding: 3px 6px; selection-background-color: {c.verdigris}; selection-color: {c.panel}; }}
        QLineEdit:focus {{ border-color: {c.umber}; }}
        QTextBrowser {{ background: transparent; border: none; color: {c.ink}; }}
        QTableView, QListView {{ background: {c.panel}; border: none; color: {c.ink}; outline: none;
            selection-background-color: {c.wash}; selection-color: {c.ink}; gridline-color: transparent; }}
        QListWidget::item {{ padding: 3px 4px; }}
        QHeaderView {{ background: {c.panel}; border: none; }}
        QScrollBar:vertical {{ background: transparent; width: 10px; margin: 0; }}
        QScrollBar:horizontal {{ background: transparent; height: 10px; margin: 0; }}
        QScrollBar::handle {{ background: {c.line}; border-radius: 4px; min-height: 28px; min-width: 28px; margin: 1px; }}
        QScrollBar::handle:hover {{ background: {c.faint}; }}
        QScrollBar::add-line, QScrollBar::sub-line, QScrollBar::add-page, QScrollBar::sub-page {{
            background: none; border: none; height: 0; width: 0; }}
        QScrollArea, QScrollArea > QWidget, QScrollArea > QWidget > QWidget {{ border: none; background: transparent; }}
    """
