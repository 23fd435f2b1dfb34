"""The chart on screen: paints the scene that the core composed, and turns the mouse and keys into selections.

Everything on the canvas, and everything a click names, is of the one drawing it shows; the session's newer state is
shown by swapping the drawing whole, once its first picture has been painted.
"""

from __future__ import annotations

from collections.abc import Callable
from html import escape
from typing import Any

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import (
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QPixmap,
    QResizeEvent,
    QWheelEvent,
)
from PyQt6.QtWidgets import QToolTip, QWidget

from umber_knot.chart.crowding import without_overlap
from umber_knot.chart.drawing import Drawing
from umber_knot.chart.hits import item_at, items_within, mostly_in_place, tie_at, ties_of, topic_at
from umber_knot.chart.lettering import TRACKING
from umber_knot.chart.palette import topic_colours
from umber_knot.chart.scene import Layers, View, fit, tints
from umber_knot.corpus.steps import Item
from umber_knot.corpus.texts import Texts
from umber_knot.desktop.brush import Brush
from umber_knot.desktop.inking import Inks, ground, outline
from umber_knot.desktop.selection import Selection
from umber_knot.desktop.session import Session
from umber_knot.desktop.theme import colour, look, serif
from umber_knot.relate.listing import emptied
from umber_knot.work.state import Painted

#: Pictures kept of strands that were looked at before.
LEFT = 6
_PAN = {Qt.Key.Key_Left: (60, 0), Qt.Key.Key_Right: (-60, 0), Qt.Key.Key_Up: (0, 60), Qt.Key.Key_Down: (0, -60)}


class Canvas(QWidget):
    """Wheel zooms, dragging the ground pans, Shift and drag selects a box, dragging a mark moves it, a click selects.

    Keys: arrows pan, + and − zoom, 0 fits, N and P walk through the items by importance, Escape clears. ``strand`` says
    which strand is drawn, None for the one looked at; where it gives None, nothing is drawn for now.
    """

    viewed = pyqtSignal()
    shown = pyqtSignal()  # another drawing is in place

    def __init__(self, session: Session, brush: Brush, strand: Callable[[], int | None] | None = None) -> None:
        super().__init__()
        self.session, self.brush = session, brush
        self.easel = brush.easel()
        self._strand = strand or (lambda: session.strand_id)
        self.drawing: Drawing | None = None
        self.view = View(1.0, 0.0, 0.0, 100.0, 100.0)
        self.painted: Painted | None = None
        self.layers = Layers()
        self.found: set[int] = set()  # items that a search matches
        self.searched: tuple[Texts | None, list[str]] = (None, [])  # the labels searched, and for what
        self.first_paint = False  # a complete picture has been shown
        self._topics: dict[int, str] = {}
        self._drawn_strand = 0
        self._ground: QPixmap | None = None
        self._ground_view: View | None = None
        self._inks = Inks()
        self._tints: list[str] = []
        self._coming: tuple[Drawing, View, Layers, dict[int, str], int] | None = None
        self._left: dict[int, tuple[Drawing, Layers, Painted]] = {}  # strand → its picture when another was looked at
        self._lands: dict[int, QPainterPath] = {}
        self._places: dict[Item, int] = {}
        self._hover = -1
        self._press: tuple[str, QPointF, View, Any] | None = None
        self._box: QRectF | None = None
        self._dragged: tuple[int, QPointF] | None = None
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("chart")
        self.setMinimumSize(320, 220)
        brush.painted.connect(self._take)
        session.arrived.connect(lambda stages: "chart" in stages and self.follow())
        session.selected.connect(self._changed)
        session.opened.connect(self.forget)

    # -- what is shown

    def forget(self) -> None:
        """Show nothing until there is something new."""
        self.drawing = self.painted = self._ground = self._coming = None
        self._left.clear()
        self.first_paint = False
        self.update()

    def follow(self) -> None:
        """Take what the session shows; the old picture stays until the first one of the new has been painted."""
        s, strand = self.session, self._strand()
        if strand is None:
            return
        new = s.drawing_of(strand)
        known = {x.id: x for x in s.shown.recipe.strands}
        if new is None or strand not in known:
            return
        layers = Layers.of(known[strand].chart)
        if _same(new, self.drawing if self._coming is None else self._coming[0]):
            if layers != self.layers and self._coming is None:
                self.layers = layers
                self._changed()
            return
        self.brush.show(self.easel, s, strand, new)
        size = float(self.width()), float(self.height())
        kept = self._kept(strand, new, layers, size)
        old = self.drawing if strand == self._drawn_strand else None
        stays = old is not None and mostly_in_place(old, new)
        view = kept.view if kept is not None else self.view if stays else fit(new, *size)
        grouped = s.shown.grouped(strand)
        topics = {t.number - 1: t.name for t in grouped.topics} if grouped is not None else {}
        self._coming = (new, view, layers, topics, strand)
        if kept is not None:
            self._swap()
            self._put(kept)
        elif self.drawing is None or self.painted is None:
            self._swap()
        self._ask()

    def _kept(self, strand: int, new: Drawing, layers: Layers, size: tuple[float, float]) -> Painted | None:
        """The picture of a strand that was looked at before, where it is still so."""
        if strand == self._drawn_strand or strand not in self._left:
            return None
        drawing, drawn, painted = self._left.pop(strand)
        view = painted.view
        return painted if _same(new, drawing) and drawn == layers and (view.width, view.height) == size else None

    def _swap(self) -> None:
        """Put the coming drawing in place."""
        assert self._coming is not None
        if self.drawing is not None and self.painted is not None and self._coming[-1] != self._drawn_strand:
            self._left[self._drawn_strand] = self.drawing, self.layers, self.painted
            while len(self._left) > LEFT:
                del self._left[next(iter(self._left))]
        self.drawing, self.view, self.layers, self._topics, self._drawn_strand = self._coming
        self._coming = None
        self._hover = -1
        self._press = self._dragged = None
        self.found, self.searched = set(), (None, [])
        self._tints = tints(self.drawing, look().chart)
        self._lands = {land.topic: outline(land) for land in self.drawing.territories}
        self._places = {one: i for i, one in enumerate(self.drawing.network.identities())}
        self.shown.emit()
        self.viewed.emit()

    @property
    def lettered(self) -> bool:
        """Whether the last frame had all its words; those it had no time for come with the next."""
        return not self._inks.short

    def retheme(self) -> None:
        self._inks.clear()
        self._left.clear()
        if self.drawing is not None:
            self._tints = tints(self.drawing, look().chart)
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
        if self.drawing is None:
            return
        drawing, view, layers = self._coming[:3] if self._coming is not None else (self.drawing, self.view, self.layers)
        chosen = np.array(self.chosen() if drawing is self.drawing else [], np.int32)
        self.brush.paint(self.easel, view, layers, chosen, self.devicePixelRatioF(), look().chart.tie)

    def chosen(self) -> list[int]:
        """The selected items, as places in the drawing shown."""
        s = self.session.selection
        return sorted({self._places[one] for one in s.items or (s.tie or ()) if one in self._places})

    def _take(self, painted: Painted) -> None:
        """A view arrived from the drawing process."""
        if painted.serial != self.easel.serial or self.drawing is None:
            return
        if self._coming is not None:
            self._swap()
        self._put(painted)

    def _put(self, painted: Painted) -> None:
        """Put a picture of the drawing shown in place."""
        assert self.drawing is not None
        self.painted = painted
        self._ground_view = painted.view
        lands = self._lands if self.layers.territories else {}
        self._ground = ground(painted, self.drawing, lands, self.devicePixelRatioF())
        self.first_paint = self.first_paint or painted.complete
        self.update()

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
        self._paint_ground(p)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        x, y = self.view.px(self.drawing.x), self.view.py(self.drawing.y)
        if self._dragged is not None:
            x[self._dragged[0]], y[self._dragged[0]] = self._dragged[1].x(), self._dragged[1].y()
        radius = self.drawing.radius * self.view.mark_scale
        chosen = set(self.chosen())
        self._paint_chosen_ties(p, x, y, chosen)
        if self.layers.items:
            self._paint_marks(p, x, y, radius, chosen)
        if self.painted is not None:
            self._inks.begin()
            self._paint_words(p, x, y, chosen)
            if self._inks.short:
                QTimer.singleShot(0, self.update)
        if self._box is not None:
            p.setPen(QPen(colour(look().verdigris), 1))
            p.setBrush(colour(look().verdigris, 0.1))
            p.drawRect(self._box)

    def _paint_ground(self, p: QPainter) -> None:
        if self._ground is None or self._ground_view is None:
            return
        was, now = self._ground_view, self.view
        s = now.scale / was.scale
        left = now.width / 2 - (now.x - was.x) * now.scale - was.width / 2 * s
        top = now.height / 2 + (now.y - was.y) * now.scale - was.height / 2 * s
        if s == 1.0:
            p.drawPixmap(QPointF(left, top), self._ground)
        else:
            p.drawPixmap(QRectF(left, top, was.width * s, was.height * s), self._ground, QRectF(self._ground.rect()))

    def _why_empty(self) -> str:
        """What to do when there is nothing to draw."""
        s = self.session
        if s.corpus is None or not len(s.corpus):
            return "There are no records yet. Add a bibliography in Gather, or drop one here."
        missing = [k for k in s.shown_strand.relate.kinds if k != "record" and not len(s.corpus.of(k).record)]
        if missing:
            return f"No record gives {s.words(2, missing[0])}. Choose another kind in the sentence above."
        why = emptied(s.related) if s.related is not None else ""
        return f"There is nothing to draw: {why}. Change it in the sentence above." if why else "No item is drawn."

    def _paint_chosen_ties(self, p: QPainter, x: np.ndarray, y: np.ndarray, chosen: set[int]) -> None:
        d = self.drawing
        if d is None or not chosen or len(chosen) > 40 or not self.layers.ties:
            return
        pair = self.session.selection.tie is not None
        p.setPen(QPen(colour(look().verdigris, 0.9 if pair else 0.5), 2.2 if pair else 1.1))
        for k in ties_of(d, np.array(list(chosen), np.int32), pair, 300).tolist():
            a, b = d.source[k], d.target[k]
            p.drawLine(QPointF(x[a], y[a]), QPointF(x[b], y[b]))

    def _paint_marks(self, p: QPainter, x: np.ndarray, y: np.ndarray, radius: np.ndarray, chosen: set[int]) -> None:
        d, ratio = self.drawing, self.devicePixelRatioF()
        assert d is not None
        seen = (x > -20) & (x < self.width() + 20) & (y > -20) & (y < self.height() + 20)
        order = d.priority[::-1]
        order = order[seen[order]]
        quarter = np.where(radius > 4, 2 * np.round(radius * 2), np.maximum(np.round(radius * 4), 5)).astype(int)
        at_x, at_y, sizes = x.tolist(), y.tolist(), quarter.tolist()

        def put(sprite: QPixmap, i: int) -> None:
            half = sprite.width() / ratio / 2
            p.drawPixmap(QPointF(at_x[i] - half, at_y[i] - half), sprite)

        code = d.network.kind_code
        square = (code % 2 == 1).tolist() if len(code) else [False] * len(sizes)
        for i in order.tolist():
            put(self._inks.mark(self._tints[i], sizes[i], ratio, square[i]), i)
        rings = (
            (self.found, look().umber, 1.6),
            (chosen, look().verdigris, 2.4),
            ({self._hover} - {-1}, look().ink, 1.2),
        )
        for items, tint, wide in rings:
            for i in items:
                if i < len(x) and seen[i]:
                    put(self._inks.ring(tint, wide, sizes[i] + 14, ratio), i)

    def _paint_words(self, p: QPainter, x: np.ndarray, y: np.ndarray, chosen: set[int]) -> None:
        assert self.painted is not None and self.drawing is not None
        d, was, ratio = self.drawing, self.painted.view, self.devicePixelRatioF()
        if not self.layers.labels:
            return
        moving = was != self.view or self._dragged is not None
        names, labels = self.painted.names, self.painted.labels
        tops = [(self._at(n.left + n.width / 2, n.top + n.height / 2), n) for n in names]
        boxes = [
            [c.x() - n.width / 2, c.y() - n.height / 2, c.x() + n.width / 2, c.y() + n.height / 2] for c, n in tops
        ]
        of = [e.item for e in labels]
        left = np.array([e.left for e in labels]) - was.px(d.x[of]) + x[of]
        top = np.array([e.top for e in labels]) - was.py(d.y[of]) + y[of]
        boxes += [[a, b, a + e.width, b + e.height] for a, b, e in zip(left, top, labels)]
        keep = np.ones(len(boxes), bool)
        if moving:
            keep = without_overlap(np.array(boxes).reshape(-1, 4), (self.width(), self.height()))
        for k, (centre, n) in enumerate(tops):
            tint = topic_colours(d.slots[n.topic], look().chart).mark
            picture = self._inks.word(n.text, n.size, False, tint, TRACKING, ratio) if keep[k] else None
            if picture is not None:
                p.drawPixmap(QPointF(centre.x() - n.width / 2, centre.y() - n.height / 2), picture)
        p.setPen(QPen(colour(look().faint), 0.7))
        for k, e in enumerate(labels):
            if not keep[len(names) + k]:
                continue
            if e.leader is not None and not moving:
                p.drawLine(QPointF(e.leader[0], e.leader[1]), QPointF(e.leader[2], e.leader[3]))
            tint = look().verdigris if e.item in chosen else look().chart.ink
            picture = self._inks.word(e.text, e.size, e.italic, tint, 0.0, ratio)
            if picture is not None:
                p.drawPixmap(QPointF(left[k], top[k]), picture)
        if self._hover >= 0 and self._hover not in of:
            self._paint_hovered(p, x, y)

    def _paint_hovered(self, p: QPainter, x: np.ndarray, y: np.ndarray) -> None:
        """The name of the mark under the mouse, where it has no label."""
        d, i, ratio = self.drawing, self._hover, self.devicePixelRatioF()
        assert d is not None
        picture = self._inks.word(d.label[i], 14.0, False, look().chart.ink, 0.0, ratio)
        if picture is not None:
            at = min(x[i] + d.radius[i] * self.view.mark_scale + 4, self.width() - picture.width() / ratio - 2)
            p.drawPixmap(QPointF(at, y[i] - 9), picture)

    def _at(self, px: float, py: float) -> QPointF:
        """Where a point of the painted scene is in the present view."""
        assert self.painted is not None
        was, now = self.painted.view, self.view
        x = was.x + (px - was.width / 2) / was.scale
        y = was.y - (py - was.height / 2) / was.scale
        return QPointF((x - now.x) * now.scale + now.width / 2, (now.y - y) * now.scale + now.height / 2)

    # -- the mouse and the keys

    def item_at(self, point: QPointF) -> int:
        """The mark under a point, −1 none."""
        return (
            item_at(self.drawing, self.view, point.x(), point.y())
            if self.drawing is not None and self.layers.items
            else -1
        )

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.button() != Qt.MouseButton.LeftButton or self.drawing is None:
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
        item = self.item_at(at)
        self.setCursor(Qt.CursorShape.PointingHandCursor if item >= 0 else Qt.CursorShape.ArrowCursor)
        if item == self._hover or self.drawing is None:
            return
        self._hover = item
        self.update()
        if item >= 0:
            network = self.drawing.network
            topic = self._topics.get(int(self.drawing.topic[item]), "no topic")
            lines = escape(network.label[item]), f"{network.records[item]:,} records · {escape(topic)}"
            QToolTip.showText(
                event.globalPosition().toPoint(), f"<p style='white-space:pre'>{'<br>'.join(lines)}</p>", self
            )
        else:
            QToolTip.hideText()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        press, self._press = self._press, None
        self.unsetCursor()
        if press is None or self.drawing is None:
            return
        what, began, _, item = press
        at = event.position()
        if what == "box" and self._box is not None:
            b, self._box = self._box, None
            inside = items_within(self.drawing, self.view, b.left(), b.top(), b.right(), b.bottom())
            self.session.select(Selection(items=tuple(self.drawing.network.identity(i) for i in inside.tolist())))
            self.update()
        elif self._dragged is not None:
            self._drop(*self._dragged)
        elif abs(at.x() - began.x()) + abs(at.y() - began.y()) <= 4:
            self._click(at, item, bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier))

    def _drop(self, item: int, at: QPointF) -> None:
        """A dragged mark comes to rest here."""
        self._dragged = None
        v, d = self.view, self.drawing
        assert d is not None
        x, y = v.x + (at.x() - v.width / 2) / v.scale, v.y - (at.y() - v.height / 2) / v.scale
        self.session.look_at(self._drawn_strand)
        self.session.move_items({d.network.identity(item): (x, y)})

    def _click(self, at: QPointF, item: int | None, add: bool) -> None:
        d = self.drawing
        assert d is not None
        self.session.look_at(self._drawn_strand)
        if item is not None:
            one, now = d.network.identity(item), self.session.selection.items
            items = (one,) if not add else tuple(t for t in now if t != one) if one in now else (*now, one)
            self.session.select(Selection(items=items))
            return
        tie = tie_at(d, self.view, at.x(), at.y(), self.layers.least_tie) if self.layers.ties else -1
        topic = topic_at(d, self.view, at.x(), at.y()) if self.layers.territories else -1
        if tie >= 0:
            ends = d.network.identity(int(d.source[tie])), d.network.identity(int(d.target[tie]))
            self.session.select(Selection(tie=ends))
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
        if key in _PAN:
            self.pan(*_PAN[key])
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
        chosen = self.chosen()
        at = order.index(chosen[0]) + step if len(chosen) == 1 else 0
        self.session.select(Selection(items=(self.drawing.network.identity(order[at % len(order)]),)))

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


def _same(new: Drawing, old: Drawing | None) -> bool:
    """Whether two drawings are put together from the same parts."""
    return old is not None and (
        new is old
        or (
            new.tint_by == old.tint_by
            and new.network is old.network
            and new.topic is old.topic
            and all(getattr(new, part) is getattr(old, part) for part in ("lettering", "sizes", "standing", "land"))
        )
    )
