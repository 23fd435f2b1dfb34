"""Colours, fonts and the style sheet of the window."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtGui import QColor, QFont, QFontDatabase

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


def choose(name: str) -> Look:
    """Make a look the present one; what is painted from now on is in it (``house.dress`` has all painted anew)."""
    global _current
    _current = LOOKS[name]
    return _current
