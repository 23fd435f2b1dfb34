"""The thread: a twisted cord through six knots, each a stage with the number that matters."""

from __future__ import annotations

import math

from PyQt6.QtCore import QPointF, QRect, QRectF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PyQt6.QtWidgets import QToolTip, QWidget

from umber_knot.desktop.session import STAGES, Session
from umber_knot.desktop.theme import colour, look, sans

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
            resolution = s.resolution(s.shown_strand.relate.of)
            if resolution is not None:
                n = len(resolution.label) - int(resolution.aside.sum())
                lines.append(f"{n:,} {s.words(n)}")
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

    def _spots(self) -> dict[str, float]:
        top, bottom = 30.0, self.height() - 70.0
        step = min(96.0, (bottom - top) / (len(STAGES) - 1))
        return {name: top + i * step for i, name in enumerate(STAGES)}

    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        c, spots = look(), self._spots()
        last = spots[STAGES[-1]] + 66
        for phase, tint in ((0.0, c.bar), (math.pi, c.umber)):  # two strands, one over the other
            path = QPainterPath(QPointF(19 + 3.4 * math.sin(phase), 0))
            y = 0.0
            while y < last:
                y += 2.0
                path.lineTo(19 + 3.4 * math.sin(y / 11.0 + phase), y)
            p.setPen(QPen(colour(tint, 0.9), 1.5))
            p.drawPath(path)
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

    def _at(self, y: float) -> str:
        return min(self._spots().items(), key=lambda s: abs(s[1] + 8 - y))[0]

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self.chosen.emit(self._at(event.position().y()))

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        name = self._at(event.position().y())
        state = "current" if name in self.session.current else "to be brought up to date"
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        key = f"Ctrl+{STAGES.index(name) + 1}"
        QToolTip.showText(event.globalPosition().toPoint(), f"{TITLES[name]} ({key}): {state}", self)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
            return
        at = STAGES.index(self.desk) if self.desk in STAGES else 0
        self.chosen.emit(STAGES[min(max(at + step, 0), len(STAGES) - 1)])

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        self.update()

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        self.update()
