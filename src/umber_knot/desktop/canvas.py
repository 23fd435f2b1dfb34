"""The chart on screen: paints the scene that the core composed, and turns the mouse and keys into selections."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import (
    QFont,
    QFontMetricsF,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QPixmap,
    QResizeEvent,
    QTransform,
    QWheelEvent,
)
from PyQt6.QtWidgets import QToolTip, QWidget

from umber_knot.chart.crowding import without_overlap
from umber_knot.chart.drawing import Drawing
from umber_knot.chart.lettering import ASCENT, TRACKING
from umber_knot.chart.palette import topic_colours
from umber_knot.chart.scene import Layers, View, fit, tints
from umber_knot.chart.territory import Territory
from umber_knot.desktop.brush import Brush
from umber_knot.desktop.session import Selection, Session
from umber_knot.desktop.theme import colour, look, serif
from umber_knot.work.tasks import Painted

#: Labels lettered for the first time in one frame.
FRESH_LETTERS = 30


class Canvas(QWidget):
    """Wheel zooms, dragging the ground pans, Shift and drag selects a box, dragging a mark moves it, a click selects.

    Keys: arrows pan, + and − zoom, 0 fits, N and P walk through the items by importance, Escape clears.
    """

    viewed = pyqtSignal()

    def __init__(self, session: Session, brush: Brush) -> None:
        super().__init__()
        self.session, self.brush = session, brush
        self.drawing: Drawing | None = None
        self.view = View(1.0, 0.0, 0.0, 100.0, 100.0)
        self.painted: Painted | None = None
        self.layers = Layers()
        self.least = 0.0
        self.found: set[int] = set()  # items that a search matches
        self.first_paint = False  # a complete picture has been shown
        self._ground: QPixmap | None = None
        self._ground_view: View | None = None
        self._sprites: dict[tuple[str, int, bool], QPixmap] = {}
        self._lettered: dict[tuple[object, ...], QPixmap] = {}
        self._tints: list[str] = []
        self._coming: tuple[Drawing, View] | None = None
        self._land: dict[int, QPainterPath] = {}
        self._fresh = 0
        self._hover = -1
        self._press: tuple[str, QPointF, View, Any] | None = None
        self._box: QRectF | None = None
        self._dragged: tuple[int, QPointF] | None = None
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("chart")
        self.setMinimumSize(320, 220)
        brush.painted.connect(self._take)
        session.arrived.connect(self._arrived)
        session.selected.connect(self._selection_changed)
        session.opened.connect(self._opened)

    # -- what is shown

    def _opened(self) -> None:
        self.drawing = self.painted = self._ground = self._coming = None
        self.first_paint = False
        self.update()

    def _arrived(self, stage: str) -> None:
        """A new drawing: the old picture stays until the first one of the new has been painted."""
        new = self.session.drawing
        if stage != "chart" or new is self.drawing or new is None:
            return
        self.brush.show(new)
        stays = self.drawing is not None and len(self.drawing) and _mostly_in_place(self.drawing, new)
        size = float(self.width()), float(self.height())
        self._coming = (new, self.view if stays else fit(new, *size))
        if self.drawing is None or self.painted is None:
            self._swap()
        self._ask()

    def _swap(self) -> None:
        """Put the coming drawing in place."""
        assert self._coming is not None
        self.drawing, self.view = self._coming
        self._coming = None
        self._tints = tints(self.drawing, look().chart)
        self._land = {land.topic: _outline(land) for land in self.drawing.territories}
        self.viewed.emit()

    def retheme(self) -> None:
        self._sprites.clear()
        self._lettered.clear()
        if self.drawing is not None:
            self._tints = tints(self.drawing, look().chart)
        self._changed()

    def set_layers(self, layers: Layers) -> None:
        self.layers = layers
        self._changed()

    def set_least(self, least: float) -> None:
        """Draw only ties at least this heavy."""
        self.least = least
        self._changed()

    def fit(self) -> None:
        """Show everything."""
        if self.drawing is not None:
            self.view = fit(self.drawing, float(self.width()), float(self.height()))
            self._changed()

    def zoom(self, factor: float, at: QPointF | None = None) -> None:
        """Zoom about a point of the widget."""
        at = at or QPointF(self.width() / 2, self.height() / 2)
        v = self.view
        low = 0.2 * fit(self.drawing, v.width, v.height).scale if self.drawing is not None else 1e-3
        scale = min(max(v.scale * factor, low), 60.0)
        x = v.x + (at.x() - v.width / 2) * (1 / v.scale - 1 / scale)
        y = v.y - (at.y() - v.height / 2) * (1 / v.scale - 1 / scale)
        self.view = View(scale, x, y, v.width, v.height)
        self._changed()

    def pan(self, dx: float, dy: float) -> None:
        v = self.view
        self.view = View(v.scale, v.x - dx / v.scale, v.y + dy / v.scale, v.width, v.height)
        self._changed()

    def centre(self, item: int) -> None:
        if self.drawing is not None:
            v = self.view
            self.view = View(v.scale, float(self.drawing.x[item]), float(self.drawing.y[item]), v.width, v.height)
            self._changed()

    def _changed(self) -> None:
        self.update()
        self.viewed.emit()
        if self._coming is None:
            self._ask()

    def _ask(self) -> None:
        """Have the view painted: the coming drawing's, or the present one's as it is now."""
        if self.drawing is not None:
            view = self._coming[1] if self._coming is not None else self.view
            chosen = np.array(sorted(self._chosen()), np.int32)
            ink = look().chart.tie
            self.brush.paint(view, self.layers, chosen, self.devicePixelRatioF(), ink, self.least)

    def _chosen(self) -> set[int]:
        s = self.session.selection
        names = s.items or (s.tie or ())
        n = len(self.drawing) if self.drawing is not None else 0
        return {i for i in map(self.session.item, names) if 0 <= i < n}

    def _selection_changed(self) -> None:
        self._changed()

    def _take(self, painted: Painted) -> None:
        """A view arrived from the drawing process."""
        if painted.serial != self.brush.serial or self.drawing is None:
            return
        if self._coming is not None:
            self._swap()
        self.painted = painted
        self._ground_view = painted.scene.view
        self._ground = self._paint_ground(painted)
        self.first_paint = self.first_paint or painted.complete
        self.update()

    def _paint_ground(self, painted: Painted) -> QPixmap:
        """Land and ties of a view as one picture, which moves with the view until the next one comes."""
        view, ratio = painted.scene.view, self.devicePixelRatioF()
        ground = QPixmap(max(1, round(view.width * ratio)), max(1, round(view.height * ratio)))
        ground.setDevicePixelRatio(ratio)
        ground.fill(colour(look().chart.paper))
        p = QPainter(ground)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.layers.territories and self.drawing is not None:
            for land in self.drawing.territories:
                colours = topic_colours(self.drawing.slots[land.topic], look().chart)
                shore = QPen(colour(colours.shore), 0.9)
                shore.setCosmetic(True)
                p.setBrush(colour(colours.land, 0.8))
                p.setPen(shore)
                p.setTransform(_transform(view))
                p.drawPath(self._land[land.topic])
            p.resetTransform()
        if painted.ties is not None:
            high, wide = painted.ties.shape
            image = QImage(painted.ties.data, wide, high, wide * 4, QImage.Format.Format_ARGB32_Premultiplied)
            image.setDevicePixelRatio(ratio)
            p.drawImage(QPointF(0, 0), image)
        p.end()
        return ground

    # -- painting

    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.fillRect(self.rect(), colour(look().chart.paper))
        if self.drawing is None:
            return
        if not len(self.drawing):
            p.setPen(colour(look().faint))
            p.setFont(serif(16))
            p.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, self._why_empty())
            return
        if self._ground is not None and self._ground_view is not None:
            was, now = self._ground_view, self.view
            s = now.scale / was.scale
            left = now.width / 2 - (now.x - was.x) * now.scale - was.width / 2 * s
            top = now.height / 2 + (now.y - was.y) * now.scale - was.height / 2 * s
            if s == 1.0:
                p.drawPixmap(QPointF(left, top), self._ground)
            else:
                p.drawPixmap(
                    QRectF(left, top, was.width * s, was.height * s), self._ground, QRectF(self._ground.rect())
                )
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        x, y = self.view.px(self.drawing.x), self.view.py(self.drawing.y)
        if self._dragged is not None:
            x[self._dragged[0]], y[self._dragged[0]] = self._dragged[1].x(), self._dragged[1].y()
        radius = self.drawing.radius * self.view.mark_scale
        chosen = self._chosen()
        self._paint_chosen_ties(p, x, y, chosen)
        if self.layers.items:
            self._paint_marks(p, x, y, radius, chosen)
        if self.painted is not None:
            self._fresh = 0
            self._paint_words(p, x, y, chosen)
            if self._fresh > FRESH_LETTERS:
                QTimer.singleShot(0, self.update)
        if self._box is not None:
            p.setPen(QPen(colour(look().verdigris), 1))
            p.setBrush(colour(look().verdigris, 0.1))
            p.drawRect(self._box)

    def _why_empty(self) -> str:
        """What to do when there is nothing to draw."""
        s = self.session
        if s.corpus is None or not len(s.corpus):
            return "There are no records yet. Add a bibliography in Gather, or drop one here."
        if not len(s.corpus.of(s.recipe.relate.of).record):
            return f"No record gives {s.words()}. Choose another kind in the sentence above."
        return "No item passes the sentence above. Lower its least records, or widen its years."

    def _paint_chosen_ties(self, p: QPainter, x: np.ndarray, y: np.ndarray, chosen: set[int]) -> None:
        d = self.drawing
        if d is None or not chosen or len(chosen) > 40 or not self.layers.ties:
            return
        pair = self.session.selection.tie is not None
        s, t = np.isin(d.source, list(chosen)), np.isin(d.target, list(chosen))
        ties = np.flatnonzero(s & t if pair else s | t)
        ties = ties[np.argsort(-d.weight[ties])][:300]
        p.setPen(QPen(colour(look().verdigris, 0.9 if pair else 0.5), 2.2 if pair else 1.1))
        for k in ties.tolist():
            a, b = d.source[k], d.target[k]
            p.drawLine(QPointF(x[a], y[a]), QPointF(x[b], y[b]))

    def _paint_marks(self, p: QPainter, x: np.ndarray, y: np.ndarray, radius: np.ndarray, chosen: set[int]) -> None:
        d = self.drawing
        assert d is not None
        seen = (x > -20) & (x < self.width() + 20) & (y > -20) & (y < self.height() + 20)
        order = d.priority[::-1]
        order = order[seen[order]]
        quarter = np.maximum(np.round(radius * 4), 5).astype(int)
        for i in order.tolist():
            sprite = self._sprite(self._tints[i], int(quarter[i]))
            half = sprite.width() / sprite.devicePixelRatio() / 2
            p.drawPixmap(QPointF(x[i] - half, y[i] - half), sprite)
        p.setBrush(Qt.BrushStyle.NoBrush)
        for items, tint, wide in ((self.found, look().umber, 1.6), (chosen, look().verdigris, 2.4),
                                  ({self._hover} - {-1}, look().ink, 1.2)):  # fmt: skip
            p.setPen(QPen(colour(tint), wide))
            for i in items:
                if i < len(x) and seen[i]:
                    p.drawEllipse(QPointF(x[i], y[i]), radius[i] + 3.5, radius[i] + 3.5)

    def _sprite(self, tint: str, quarters: int) -> QPixmap:
        """A mark of one colour and size, rimmed in paper."""
        key = (tint, quarters, True)
        if key not in self._sprites:
            r, ratio = quarters / 4, self.devicePixelRatioF()
            side = math.ceil(2 * r + 4)
            sprite = QPixmap(round(side * ratio), round(side * ratio))
            sprite.setDevicePixelRatio(ratio)
            sprite.fill(Qt.GlobalColor.transparent)
            q = QPainter(sprite)
            q.setRenderHint(QPainter.RenderHint.Antialiasing)
            q.setPen(QPen(colour(look().chart.paper), min(1.2, r / 3)))
            q.setBrush(colour(tint))
            q.drawEllipse(QPointF(side / 2, side / 2), r, r)
            q.end()
            self._sprites[key] = sprite
        return self._sprites[key]

    def _paint_words(self, p: QPainter, x: np.ndarray, y: np.ndarray, chosen: set[int]) -> None:
        assert self.painted is not None and self.drawing is not None
        scene, d = self.painted.scene, self.drawing
        moving = scene.view != self.view or self._dragged is not None
        if not self.layers.labels:
            return
        names, labels = scene.names, scene.labels
        tops = [(self._at(n.left + n.width / 2, n.top + n.height / 2), n) for n in names]
        boxes = [
            [c.x() - n.width / 2, c.y() - n.height / 2, c.x() + n.width / 2, c.y() + n.height / 2] for c, n in tops
        ]
        left = np.array([e.left for e in labels]) - scene.x[[e.item for e in labels]] + x[[e.item for e in labels]]
        top = np.array([e.top for e in labels]) - scene.y[[e.item for e in labels]] + y[[e.item for e in labels]]
        boxes += [[a, b, a + e.width, b + e.height] for a, b, e in zip(left, top, labels)]
        keep = (
            without_overlap(np.array(boxes).reshape(-1, 4), (self.width(), self.height()))
            if moving
            else np.ones(len(boxes), bool)
        )
        for k, (centre, n) in enumerate(tops):
            if keep[k]:
                tint = topic_colours(d.slots[n.topic], look().chart).mark
                picture = self._letters(n.text, n.size, False, tint, TRACKING)
                if picture is not None:
                    p.drawPixmap(QPointF(centre.x() - n.width / 2, centre.y() - n.height / 2), picture)
        p.setPen(QPen(colour(look().faint), 0.7))
        for k, e in enumerate(labels):
            if not keep[len(names) + k]:
                continue
            if e.leader is not None and not moving:
                p.drawLine(QPointF(e.leader[0], e.leader[1]), QPointF(e.leader[2], e.leader[3]))
            tint = look().verdigris if e.item in chosen else look().chart.ink
            picture = self._letters(e.text, e.size, e.italic, tint, 0.0)
            if picture is not None:
                p.drawPixmap(QPointF(left[k], top[k]), picture)
        if self._hover >= 0 and all(e.item != self._hover for e in labels):
            i = self._hover
            picture = self._letters(d.label[i], 14.0, False, look().chart.ink, 0.0)
            if picture is not None:
                wide = picture.width() / picture.devicePixelRatio()
                at = min(x[i] + d.radius[i] * self.view.mark_scale + 4, self.width() - wide - 2)
                p.drawPixmap(QPointF(at, y[i] - 9), picture)

    def _at(self, px: float, py: float) -> QPointF:
        """Where a point of the painted scene is in the present view."""
        assert self.painted is not None
        was, now = self.painted.scene.view, self.view
        x = was.x + (px - was.width / 2) / was.scale
        y = was.y - (py - was.height / 2) / was.scale
        return QPointF((x - now.x) * now.scale + now.width / 2, (now.y - y) * now.scale + now.height / 2)

    def _letters(self, text: str, size: float, italic: bool, tint: str, tracking: float) -> QPixmap | None:
        """A word in ink with a paper halo, kept as a picture: drawing it again costs nothing."""
        key = (text, size, italic, tint, tracking)
        if key not in self._lettered:
            self._fresh += 1
            if self._fresh > FRESH_LETTERS:  # the rest comes with the next frame, so that none is late
                return None
            if len(self._lettered) > 6000:
                self._lettered.clear()
            font = serif(size, italic)
            font.setHintingPreference(QFont.HintingPreference.PreferNoHinting)  # widths agree with the core's
            if tracking:
                font.setLetterSpacing(QFont.SpacingType.AbsoluteSpacing, tracking * size)
            ratio = self.devicePixelRatioF()
            wide = QFontMetricsF(font).horizontalAdvance(text)
            picture = QPixmap(round((wide + 5) * ratio), round(size * 1.3 * ratio))
            picture.setDevicePixelRatio(ratio)
            picture.fill(Qt.GlobalColor.transparent)
            q = QPainter(picture)
            q.setFont(font)
            at = QPointF(2.0 if tracking else 1.0, size * ASCENT)
            q.setPen(colour(look().chart.paper, 0.55))
            for dx, dy in (
                (-1.2, 0),
                (1.2, 0),
                (0, -1.2),
                (0, 1.2),
                (-0.9, -0.9),
                (0.9, 0.9),
                (-0.9, 0.9),
                (0.9, -0.9),
            ):
                q.drawText(at + QPointF(dx, dy), text)
            q.setPen(colour(tint))
            q.drawText(at, text)
            q.end()
            self._lettered[key] = picture
        return self._lettered[key]

    # -- the mouse and the keys

    def item_at(self, point: QPointF) -> int:
        """The mark under a point, −1 none."""
        d = self.drawing
        if d is None or not len(d) or not self.layers.items:
            return -1
        distance = np.hypot(self.view.px(d.x) - point.x(), self.view.py(d.y) - point.y())
        over = distance - np.maximum(d.radius * self.view.mark_scale, 4.0)
        i = int(over.argmin())
        return i if over[i] <= 2.0 else -1

    def tie_at(self, point: QPointF) -> int:
        """The strongest drawn tie within a few pixels of a point, −1 none."""
        d = self.drawing
        if d is None or not len(d.source) or not self.layers.ties:
            return -1
        x, y = self.view.px(d.x), self.view.py(d.y)
        ax, ay, bx, by = x[d.source], y[d.source], x[d.target], y[d.target]
        length = np.maximum((bx - ax) ** 2 + (by - ay) ** 2, 1e-9)
        along = np.clip(((point.x() - ax) * (bx - ax) + (point.y() - ay) * (by - ay)) / length, 0, 1)
        away = np.hypot(ax + along * (bx - ax) - point.x(), ay + along * (by - ay) - point.y())
        near = np.flatnonzero((away < 3.0) & (d.weight >= self.least))
        return int(near[np.argmax(d.weight[near])]) if len(near) else -1

    def topic_at(self, point: QPointF) -> int:
        """The topic whose land lies under a point, −1 none; where lands overlap, the smallest."""
        if self.drawing is None or not self.layers.territories:
            return -1
        hits = []
        inside = _transform(self.view).inverted()[0].map(point)
        for land in self.drawing.territories:
            path = self._land[land.topic]
            if path.contains(inside):
                box = path.boundingRect()
                hits.append((box.width() * box.height(), land.topic))
        return min(hits)[1] if hits else -1

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.button() != Qt.MouseButton.LeftButton or self.drawing is None or self._coming is not None:
            return
        at = event.position()
        item = self.item_at(at)
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier and item < 0:
            self._press = ("box", at, self.view, None)
        elif item >= 0:
            self._press = ("item", at, self.view, item)
        else:
            self._press = ("pan", at, self.view, None)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = event.position()
        if self._press is None:
            self._hover_over(at, event)
            return
        what, began, view, item = self._press
        moved = at - began
        far = abs(moved.x()) + abs(moved.y()) > 4
        if what == "pan" and far:
            self.setCursor(Qt.CursorShape.ClosedHandCursor)
            self.view = View(
                view.scale, view.x - moved.x() / view.scale, view.y + moved.y() / view.scale, view.width, view.height
            )
            self._changed()
        elif what == "box":
            self._box = QRectF(began, at).normalized()
            self.update()
        elif what == "item" and (far or self._dragged):
            self._dragged = (item, at)
            self.update()

    def _hover_over(self, at: QPointF, event: QMouseEvent) -> None:
        if self._coming is not None:
            return
        item = self.item_at(at)
        self.setCursor(Qt.CursorShape.PointingHandCursor if item >= 0 else Qt.CursorShape.ArrowCursor)
        if item != self._hover:
            self._hover = item
            self.update()
            if item >= 0 and self.drawing is not None:
                s = self.session
                network = s.related.filtered.network
                if item < len(network):
                    topic = next(
                        (t.name for t in s.grouped.topics if t.number - 1 == self.drawing.topic[item]), "no topic"
                    )
                    text = f"{network.label[item]}\n{network.records[item]:,} records · {topic}"
                    QToolTip.showText(event.globalPosition().toPoint(), text, self)
            else:
                QToolTip.hideText()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        press, self._press = self._press, None
        self.unsetCursor()
        if press is None or self.drawing is None or self._coming is not None:
            return
        what, began, _, item = press
        at = event.position()
        labels = self.session.related.filtered.network.label
        if what == "box" and self._box is not None:
            x, y = self.view.px(self.drawing.x), self.view.py(self.drawing.y)
            b, self._box = self._box, None
            inside = np.flatnonzero((x >= b.left()) & (x <= b.right()) & (y >= b.top()) & (y <= b.bottom()))
            self.session.select(Selection(items=tuple(labels[i] for i in inside)))
            self.update()
        elif self._dragged is not None:
            self._drop(*self._dragged)
        elif abs(at.x() - began.x()) + abs(at.y() - began.y()) <= 4:
            self._click(at, item, bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier))

    def _drop(self, item: int, at: QPointF) -> None:
        """A dragged mark comes to rest here."""
        self._dragged = None
        v = self.view
        x, y = v.x + (at.x() - v.width / 2) / v.scale, v.y - (at.y() - v.height / 2) / v.scale
        self.session.move_items({self.session.related.filtered.network.label[item]: (x, y)})

    def _click(self, at: QPointF, item: int | None, add: bool) -> None:
        labels = self.session.related.filtered.network.label
        if item is not None and item < len(labels):
            now = self.session.selection.items
            new = (
                (tuple(t for t in now if t != labels[item]) if labels[item] in now else (*now, labels[item]))
                if add
                else (labels[item],)
            )
            self.session.select(Selection(items=new))
            return
        tie = self.tie_at(at)
        topic = self.topic_at(at)
        d = self.drawing
        assert d is not None
        if tie >= 0:
            self.session.select(Selection(tie=(labels[d.source[tie]], labels[d.target[tie]])))
        elif topic >= 0:
            self.session.select(Selection(topic=topic))
        else:
            self.session.select(Selection())

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        self.zoom(1.0016 ** event.angleDelta().y(), event.position())
        event.accept()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        key = Qt.Key(event.key())
        arrows = {
            Qt.Key.Key_Left: (60, 0),
            Qt.Key.Key_Right: (-60, 0),
            Qt.Key.Key_Up: (0, 60),
            Qt.Key.Key_Down: (0, -60),
        }
        if key in arrows:
            self.pan(*arrows[key])
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal):
            self.zoom(1.25)
        elif key == Qt.Key.Key_Minus:
            self.zoom(0.8)
        elif key == Qt.Key.Key_0:
            self.fit()
        elif key == Qt.Key.Key_Escape:
            self.session.select(Selection())
        elif key in (Qt.Key.Key_N, Qt.Key.Key_P) and self.drawing is not None and len(self.drawing):
            self._walk(1 if key == Qt.Key.Key_N else -1)
        else:
            super().keyPressEvent(event)

    def _walk(self, step: int) -> None:
        assert self.drawing is not None
        order = self.drawing.priority.tolist()
        chosen = self._chosen()
        at = order.index(next(iter(chosen))) + step if len(chosen) == 1 else 0
        label = self.session.related.filtered.network.label[order[at % len(order)]]
        self.session.select(Selection(items=(label,)))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        v = self.view
        whole = (
            self.drawing is not None and abs(v.scale / max(fit(self.drawing, v.width, v.height).scale, 1e-9) - 1) < 0.02
        )
        self.view = View(v.scale, v.x, v.y, float(self.width()), float(self.height()))
        if whole:
            self.fit()
        else:
            self._changed()


def _transform(view: View) -> QTransform:
    """Layout units (y up) to pixels."""
    return QTransform(
        view.scale, 0, 0, -view.scale, view.width / 2 - view.x * view.scale, view.height / 2 + view.y * view.scale
    )


def _outline(land: Territory) -> QPainterPath:
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


def _mostly_in_place(old: Drawing, new: Drawing) -> bool:
    """Whether most items stand where they stood, so that the view may stay."""
    where = {text: (x, y) for text, x, y in zip(old.label, old.x.tolist(), old.y.tolist())}
    near = float(np.median(new.radius)) * 30 if len(new) else 0.0
    same = sum(
        1 for text, x, y in zip(new.label, new.x.tolist(), new.y.tolist())
        if text in where and abs(where[text][0] - x) + abs(where[text][1] - y) < near
    )  # fmt: skip
    return bool(len(new)) and same * 2 >= len(new)
