"""Colours, fonts and the style sheet of the window."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtGui import QColor, QFont, QFontDatabase, QPalette
from PyQt6.QtWidgets import QApplication, QToolTip

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
    """Choose the look of the whole application."""
    from umber_knot.desktop.house import House  # which paints in the look chosen here

    global _current
    _current = LOOKS[name]
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    if not isinstance(app.style(), House):
        app.setStyle(House())
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
    QToolTip.setPalette(palette)
