"""The thread: a twisted cord through six knots, each a stage with the number that matters."""

from __future__ import annotations

import math
from html import escape

from PyQt6.QtCore import QPointF, QRect, QRectF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen, QPixmap
from PyQt6.QtWidgets import QToolTip, QWidget

from umber_knot.desktop.session import STAGES, Session
from umber_knot.desktop.theme import colour, look, sans
from umber_knot.relate.wording import told

#: Strands listed at most, and the height of a line.
LISTED, ROW = 7, 17.0
TITLES = {name: name.capitalize() for name in STAGES}


class ThreadStrip(QWidget):
    """The six knots in working order. A knot is filled when current, hollow when something before it changed, and
    turns while it works. Up and Down move, Enter or the number keys open a desk."""

    chosen = pyqtSignal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session, self.desk = session, "gather"
        self.setFixedWidth(144)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("thread")
        self._turn = 0.0
        self._drawn: tuple[object, QPixmap] = (None, QPixmap())
        self._timer = QTimer(self)
        self._timer.setInterval(50)
        self._timer.timeout.connect(self._spin)
        session.progressed.connect(self._working)
        session.staled.connect(self.update)
        session.arrived.connect(lambda stages: self.update())
        session.opened.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(144, 560)

    def show_desk(self, desk: str) -> None:
        self.desk = desk
        self.update()

    def _working(self) -> None:
        if self.session.running and not self._timer.isActive():
            self._timer.start()
        elif not self.session.running:
            self._timer.stop()
            self.update()

    def _spin(self) -> None:
        self._turn += 0.16
        self.update()

    def working(self) -> str:
        """The stage that is being worked at, or nothing."""
        if not self.session.running:
            return ""
        if self.session.task in ("gather", "take"):
            return "gather"
        if self.session.task in ("suggest", "report"):
            return "reconcile" if self.session.task == "suggest" else "report"
        return next((n for n in STAGES if n not in self.session.current), "group")

    def numbers(self, stage: str) -> list[str]:
        """The one or two numbers that matter at a stage."""
        s = self.session
        if s.study is None:
            return []
        if stage == "gather" and s.corpus is not None:
            live = [x for x in s.sources if x.active]
            return [f"{len(s.corpus):,} records", f"{len(live)} source{'s' * (len(live) != 1)}"]
        if stage == "reconcile" and s.corpus is not None:
            lines = []
            if s.offers:
                lines.append(f"{sum(len(v.suggestions) for v in s.offers.values()):,} to review")
            for kind in s.shown_strand.relate.kinds:
                resolution = s.resolution(kind)
                if resolution is not None:
                    n = len(resolution.label) - int(resolution.aside.sum())
                    lines.append(f"{n:,} {s.words(n, kind)}")
            return lines
        if stage == "relate" and s.related is not None:
            network = s.related.network
            return [f"{len(network):,} items · {network.ties:,} ties"]
        if stage == "group" and s.grouped is not None:
            steady = s.stable is not None and s.stable.index == s.stable.index and "stability" in s.current
            k = len(s.grouped.topics)
            return [f"{k} topic{'s' * (k != 1)}"] + ([f"stable {s.stable.index:.2f}"] if steady else [])
        if stage == "chart" and s.drawing is not None:
            years = s.shown_strand.relate.years
            return [f"{s.words().capitalize()}, " + (f"{years[0]}–{years[1]}" if years else "all years")]
        if stage == "report" and s.drawing is not None:
            return [f"{s.recipe.report.width_mm:g} mm plate"]
        return []

    # -- where things stand

    def _names(self) -> list[tuple[int, str]]:
        """The strands listed below Reconcile, as (id, name); none where there is one alone."""
        recipe = self.session.recipe
        if self.session.study is None or len(recipe.strands) < 2:
            return []
        listed = list(zip((s.id for s in recipe.strands), recipe.names()))
        if len(listed) <= LISTED:
            return listed
        at = next(k for k, (number, _) in enumerate(listed) if number == self.session.strand_id)
        first = min(max(at - LISTED // 2, 0), len(listed) - LISTED)
        return listed[first : first + LISTED]

    def _spots(self) -> dict[str, float]:
        top, bottom = 30.0, self.height() - 70.0
        names = self._names()
        room = len(names) * ROW + 10.0 if names else 0.0
        step = min(96.0, (bottom - top - room) / (len(STAGES) - 1))
        return {name: top + i * step + (room if i > 1 else 0.0) for i, name in enumerate(STAGES)}

    def _rows(self) -> list[tuple[int, str, float]]:
        """(strand, name, middle of its line) of the strands listed."""
        spots = self._spots()
        first = spots["relate"] - 26 - len(self._names()) * ROW + ROW / 2
        return [(number, name, first + k * ROW) for k, (number, name) in enumerate(self._names())]

    # -- painting

    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        c, spots = look(), self._spots()
        p.drawPixmap(0, 0, self._cord(spots))
        working = self.working()
        for name, y in spots.items():
            self._knot(p, name, y, name == working)
            open_ = name == self.desk
            p.setFont(sans(14, True))
            p.setPen(colour(c.umber if open_ else c.ink))
            p.drawText(QRect(42, round(y) - 17, 102, 20), Qt.AlignmentFlag.AlignVCenter, TITLES[name])
            p.setFont(sans(12))
            p.setPen(colour(c.faint))
            text = "\n".join(self.numbers(name))
            p.drawText(QRect(42, round(y) + 3, 102, 46), Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap, text)
            if open_ and self.hasFocus():
                p.setPen(QPen(colour(c.umber), 1, Qt.PenStyle.DotLine))
                p.drawLine(QPointF(42, y + 3), QPointF(42 + 60, y + 3))
        for number, name, y in self._rows():
            here = number == self.session.strand_id
            p.setFont(sans(12, here))
            p.setPen(colour(c.umber if here else c.ink))
            text = p.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, 100)
            p.drawText(QRect(42, round(y - ROW / 2), 102, round(ROW)), Qt.AlignmentFlag.AlignVCenter, text)

    def _cord(self, spots: dict[str, float]) -> QPixmap:
        """The cord as a picture, drawn anew only where it would look another way."""
        ratio = self.devicePixelRatioF()
        key = look().chart.name, self.height(), ratio, tuple(self._names()), self.session.strand_id
        if self._drawn[0] != key:
            picture = QPixmap(round(40 * ratio), round(max(self.height(), 1) * ratio))
            picture.setDevicePixelRatio(ratio)
            picture.fill(Qt.GlobalColor.transparent)
            p = QPainter(picture)
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._cords(p, spots)
            p.end()
            self._drawn = key, picture
        return self._drawn[1]

    def _cords(self, p: QPainter, spots: dict[str, float]) -> None:
        """The cord: two yarns over one another, parting below Reconcile into as many strands as there are networks."""
        c, rows = look(), self._rows()
        last = spots[STAGES[-1]] + 66
        parting = spots["reconcile"] + 12 if rows else last
        for phase, tint in ((0.0, c.bar), (math.pi, c.umber)):
            path = QPainterPath(QPointF(19 + 3.4 * math.sin(phase), 0))
            y = 0.0
            while y < parting:
                y += 2.0
                path.lineTo(19 + 3.4 * math.sin(y / 11.0 + phase), y)
            p.setPen(QPen(colour(tint, 0.9), 1.5))
            p.drawPath(path)
        chosen = next((k for k, (number, _, _) in enumerate(rows) if number == self.session.strand_id), 0)
        for k, (_, _, y) in sorted(enumerate(rows), key=lambda row: row[0] == chosen):  # the one looked at lies on top
            away = (
                0.0 if k == chosen else (k - chosen) * 4.5 if abs(k - chosen) < 4 else math.copysign(15.0, k - chosen)
            )
            path = QPainterPath(QPointF(19, parting))
            path.cubicTo(QPointF(19, parting + 20), QPointF(19 + away, y - 20), QPointF(19 + away, y + 4))
            path.lineTo(19 + away, last)
            p.setPen(
                QPen(
                    colour(c.umber if k == chosen else c.bar, 0.95 if k == chosen else 0.7), 2.0 if k == chosen else 1.2
                )
            )
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawPath(path)
            p.drawLine(QPointF(19 + away, y), QPointF(38, y))

    def _knot(self, p: QPainter, name: str, y: float, working: bool) -> None:
        c = look()
        open_ = name == self.desk
        r = 10.0 if open_ else 7.5
        full = name in self.session.current
        p.setPen(QPen(colour(c.umber), 2))
        p.setBrush(colour(c.umber) if full else colour(c.chrome))
        p.drawEllipse(QPointF(19, y), r, r)
        if open_:
            p.drawLine(QPointF(31, y), QPointF(37, y))
        p.setPen(QPen(colour(c.panel if full else c.umber), 1.2))
        if working:  # the quiet spin
            p.setPen(QPen(colour(c.panel if full else c.umber), 1.6))
            p.drawArc(QRectF(19 - r * 0.55, y - r * 0.55, 1.1 * r, 1.1 * r), round(-self._turn * 16 * 57.3), 16 * 240)
        elif full:  # the lay of the cord over the knot
            for side in (-1, 1):
                path = QPainterPath(QPointF(19 - r * 0.5, y + side * r * 0.28))
                path.quadTo(QPointF(19, y - side * r * 0.12), QPointF(19 + r * 0.5, y + side * r * 0.28))
                p.setBrush(Qt.BrushStyle.NoBrush)
                p.drawPath(path)

    # -- the mouse and the keys

    def _at(self, y: float) -> str:
        return min(self._spots().items(), key=lambda s: abs(s[1] + 8 - y))[0]

    def _strand_at(self, y: float) -> int | None:
        return next((number for number, _, middle in self._rows() if abs(middle - y) <= ROW / 2), None)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        strand = self._strand_at(event.position().y())
        if strand is not None:
            self.session.look_at(strand)
        else:
            self.chosen.emit(self._at(event.position().y()))

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        strand = self._strand_at(event.position().y())
        if strand is not None:
            sentence = self.session.recipe.strand(strand).relate
            text = f"{self.session.strand_name(strand)}: {told(sentence)} (Left and Right)"
        else:
            name = self._at(event.position().y())
            state = "current" if name in self.session.current else "to be brought up to date"
            text = f"{TITLES[name]} (Ctrl+{STAGES.index(name) + 1}): {state}"
        QToolTip.showText(event.globalPosition().toPoint(), escape(text), self)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        key = Qt.Key(event.key())
        step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(key)
        aside = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(key)
        if step is not None:
            at = STAGES.index(self.desk) if self.desk in STAGES else 0
            self.chosen.emit(STAGES[min(max(at + step, 0), len(STAGES) - 1)])
        elif aside is not None and self.session.study is not None:
            ids = [s.id for s in self.session.recipe.strands]
            self.session.look_at(ids[(ids.index(self.session.strand_id) + aside) % len(ids)])
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        self.update()

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        self.update()
