"""Ink and paper of the chart as pictures that are drawn once: ground, marks, words."""

from __future__ import annotations

import math
import time

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QFont, QFontMetricsF, QImage, QPainter, QPainterPath, QPen, QPixmap, QTransform

from umber_knot.chart.drawing import SQUARE, Drawing
from umber_knot.chart.lettering import ASCENT
from umber_knot.chart.palette import topic_colours
from umber_knot.chart.scene import View
from umber_knot.chart.territory import Territory
from umber_knot.desktop.theme import colour, look, serif
from umber_knot.work.state import Painted

#: Seconds that a frame may spend on words lettered for the first time.
LETTERING = 0.006
_HALO = ((-1.2, 0), (1.2, 0), (0, -1.2), (0, 1.2), (-0.9, -0.9), (0.9, 0.9), (-0.9, 0.9), (0.9, -0.9))


class Inks:
    """Pictures of marks and words in the present theme, at so many device pixels a pixel."""

    def __init__(self) -> None:
        self.short = False  # words were left for the next frame
        self._until = 0.0
        self._sprites: dict[tuple[str, float, int, float, bool], QPixmap] = {}
        self._lettered: dict[tuple[object, ...], QPixmap] = {}

    def begin(self) -> None:
        """Begin a frame."""
        self.short, self._until = False, time.perf_counter() + LETTERING

    def clear(self) -> None:
        self._sprites.clear()
        self._lettered.clear()

    def mark(self, tint: str, quarters: int, ratio: float, square: bool = False) -> QPixmap:
        """A mark of one colour and size (its radius in quarters of a pixel), rimmed in paper; a square has the same
        area."""
        key = (tint, 0.0, quarters, ratio, square)
        if key not in self._sprites:
            self._draw(key, QPen(colour(look().chart.paper), min(1.2, quarters / 12)), colour(tint))
        return self._sprites[key]

    def ring(self, tint: str, wide: float, quarters: int, ratio: float) -> QPixmap:
        """A ring of one colour, line width and radius (in quarters of a pixel)."""
        key = (tint, wide, quarters, ratio, False)
        if key not in self._sprites:
            self._draw(key, QPen(colour(tint), wide), QColor(Qt.GlobalColor.transparent))
        return self._sprites[key]

    def _draw(self, key: tuple[str, float, int, float, bool], pen: QPen, fill: QColor) -> None:
        _, _, quarters, ratio, square = key
        side = math.ceil(quarters / 2 + 4)
        sprite = _blank(side, side, ratio)
        q = QPainter(sprite)
        q.setRenderHint(QPainter.RenderHint.Antialiasing)
        q.setPen(pen)
        q.setBrush(fill)
        if square:
            half = quarters / 4 * SQUARE
            q.drawRect(QRectF(side / 2 - half, side / 2 - half, 2 * half, 2 * half))
        else:
            q.drawEllipse(QPointF(side / 2, side / 2), quarters / 4, quarters / 4)
        q.end()
        self._sprites[key] = sprite

    def word(self, text: str, size: float, italic: bool, tint: str, tracking: float, ratio: float) -> QPixmap | None:
        """A word with a paper halo; None where it is new and this frame has spent its time."""
        key = (text, size, italic, tint, tracking, ratio)
        if key not in self._lettered:
            if time.perf_counter() > self._until:  # the rest comes with the next frame, so that none is late
                self.short = True
                return None
            if len(self._lettered) > 6000:
                self._lettered.clear()
            self._lettered[key] = _word(text, size, italic, tint, tracking, ratio)
        return self._lettered[key]


def _blank(wide: float, high: float, ratio: float) -> QPixmap:
    picture = QPixmap(max(1, round(wide * ratio)), max(1, round(high * ratio)))
    picture.setDevicePixelRatio(ratio)
    picture.fill(Qt.GlobalColor.transparent)
    return picture


def _word(text: str, size: float, italic: bool, tint: str, tracking: float, ratio: float) -> QPixmap:
    font = serif(size, italic)
    font.setHintingPreference(QFont.HintingPreference.PreferNoHinting)  # widths agree with the core's
    if tracking:
        font.setLetterSpacing(QFont.SpacingType.AbsoluteSpacing, tracking * size)
    picture = _blank(QFontMetricsF(font).horizontalAdvance(text) + 5, size * 1.3, ratio)
    q = QPainter(picture)
    q.setFont(font)
    at = QPointF(2.0 if tracking else 1.0, size * ASCENT)
    q.setPen(colour(look().chart.paper, 0.55))
    for dx, dy in _HALO:
        q.drawText(at + QPointF(dx, dy), text)
    q.setPen(colour(tint))
    q.drawText(at, text)
    q.end()
    return picture


def ground(painted: Painted, drawing: Drawing | None, lands: dict[int, QPainterPath], ratio: float) -> QPixmap:
    """Land and ties of a view as one picture, which moves with the view until the next one comes."""
    view = painted.view
    picture = _blank(view.width, view.height, ratio)
    picture.fill(colour(look().chart.paper))
    p = QPainter(picture)
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    if drawing is not None:
        p.setTransform(transform(view))
        for topic, path in lands.items():
            colours = topic_colours(drawing.slots[topic], look().chart)
            shore = QPen(colour(colours.shore), 0.9)
            shore.setCosmetic(True)
            p.setBrush(colour(colours.land, 0.8))
            p.setPen(shore)
            p.drawPath(path)
        p.resetTransform()
    if painted.ties is not None:
        high, wide = painted.ties.value.shape
        image = QImage(painted.ties.value.data, wide, high, wide * 4, QImage.Format.Format_ARGB32_Premultiplied)
        image.setDevicePixelRatio(ratio)
        p.drawImage(QPointF(0, 0), image)
    p.end()
    return picture


def transform(view: View) -> QTransform:
    """Layout units (y up) to pixels."""
    return QTransform(
        view.scale, 0, 0, -view.scale, view.width / 2 - view.x * view.scale, view.height / 2 + view.y * view.scale
    )


def outline(land: Territory) -> QPainterPath:
    """A topic's land in layout units: quadratic curves through the middles of its outlines' sides."""
    path = QPainterPath()
    for ring in land.rings:
        points = ring[:-1]
        after = np.roll(points, -1, 0)
        middle = (points + after) / 2
        path.moveTo(*middle[0].tolist())
        for (a, b), (c, d) in zip(after.tolist(), np.roll(middle, -1, 0).tolist()):
            path.quadTo(a, b, c, d)
        path.closeSubpath()
    return path
