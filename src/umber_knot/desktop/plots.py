"""Small drawings: histogram, two curves against a threshold, ticks on a line of years, the year brush."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

import numpy as np
from PyQt6.QtCore import QPointF, QRect, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from umber_knot.desktop.theme import colour, look, sans
from umber_knot.desktop.wording import figure


class Curves(QWidget):
    """How many items and ties remain at each threshold, on log scales; the line is dragged or stepped with the arrows."""

    def __init__(self, chosen: Callable[[float], object]) -> None:
        super().__init__()
        self.at: np.ndarray = np.zeros(0)  # thresholds, rising
        self.items: np.ndarray = np.zeros(0)
        self.ties: np.ndarray = np.zeros(0)
        self.now, self.words, self.unit, self.chosen = 1.0, "items", "records", chosen
        self._drag: float | None = None
        self.setMinimumHeight(110)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("how many remain")

    def show_counts(
        self, at: np.ndarray, items: np.ndarray, ties: np.ndarray, now: float, words: str, unit: str
    ) -> None:
        """Counts at each threshold; thresholds of records are whole, those of weight any."""
        far = max(2, int((items >= 2).sum()))  # as far as a few items still remain
        self.at, self.items, self.ties = at[:far], items[:far], ties[:far]
        self.now, self.words, self.unit = now, words, unit
        self.update()

    def _frame(self) -> QRectF:
        return QRectF(44, 18, self.width() - 58, self.height() - 52)

    def _share(self, threshold: float) -> float:
        low, high = math.log(float(self.at[0])), math.log(float(self.at[-1]))
        return (math.log(max(threshold, 1e-300)) - low) / (high - low) if high > low else 0.0

    def _x(self, threshold: float) -> float:
        f = self._frame()
        return f.left() + f.width() * min(max(self._share(threshold), 0.0), 1.0)

    def _nearest(self, x: float) -> float:
        """The threshold nearest to a place."""
        f = self._frame()
        share = min(max((x - f.left()) / f.width(), 0.0), 1.0)
        wanted = float(self.at[0]) * (float(self.at[-1]) / float(self.at[0])) ** share
        k = int(np.abs(np.log(self.at / wanted)).argmin())
        return float(self.at[k])

    def _place(self, threshold: float) -> int:
        """The first threshold told that is not below one."""
        return int(np.searchsorted(self.at, threshold * (1 - 1e-12)))

    def _written(self, threshold: float) -> str:
        if self.unit == "records":
            return f"{threshold:.0f} record{'s' * (threshold != 1)}"
        return f"weight {threshold:.3g}"

    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        c, f = look(), self._frame()
        p.setFont(sans(12))
        if not self.items.any():
            p.setPen(colour(c.faint))
            p.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "nothing to count yet")
            return
        top = max(float(self.items.max(initial=1)), float(self.ties.max(initial=1)), 10.0)

        def y(value: float) -> float:
            return f.bottom() - f.height() * math.log(max(value, 1.0)) / math.log(top)

        tick = 1.0
        while tick <= top:
            p.setPen(QPen(colour(c.line, 0.6), 1))
            p.drawLine(QPointF(f.left(), y(tick)), QPointF(f.right(), y(tick)))
            p.setPen(colour(c.faint))
            p.drawText(
                QRectF(0, y(tick) - 9, f.left() - 8, 18),
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                f"{tick:,.0f}",
            )
            tick *= 10
        across = [self._x(k) for k in self.at.tolist()]
        apart = np.unique(np.round(np.array(across) * 2), return_index=True)[1]  # no two on one pixel
        for values, tint, style in (
            (self.ties, c.verdigris, Qt.PenStyle.DashLine),
            (self.items, c.umber, Qt.PenStyle.SolidLine),
        ):
            path = QPainterPath()
            path.addPolygon(QPolygonF(QPointF(across[k], y(float(values[k]))) for k in apart.tolist()))
            p.setPen(QPen(colour(tint), 1.8, style))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawPath(path)
        now = self.now if self._drag is None else self._drag
        k, x = self._place(now), self._x(now)
        p.setPen(QPen(colour(c.ink), 2 if self.hasFocus() else 1))
        p.drawLine(QPointF(x, f.top() - 4), QPointF(x, f.bottom()))
        items, ties = (int(v[k]) if k < len(v) else 0 for v in (self.items, self.ties))
        p.setBrush(colour(c.umber))
        p.drawEllipse(QPointF(x, y(items)), 4, 4)
        text = f"{self._written(now) if now else 'any weight'}: {items:,} {self.words}, {ties:,} ties"
        wide = p.fontMetrics().horizontalAdvance(text)
        left = min(x + 8, self.width() - wide - 6) if x + 8 + wide < self.width() else max(4, x - wide - 8)
        p.setPen(colour(c.ink))
        p.drawText(QPointF(left, 13), text)
        p.setPen(colour(c.faint))
        for value in self._ticks():
            p.drawText(QRectF(self._x(value) - 24, f.bottom() + 3, 48, 16), Qt.AlignmentFlag.AlignCenter, f"{value:g}")
        said = "at least so many records" if self.unit == "records" else "ties at least so heavy"
        p.drawText(QRectF(f.left(), f.bottom() + 17, f.width(), 16), Qt.AlignmentFlag.AlignRight, said)

    def _ticks(self) -> list[float]:
        """Round thresholds in the span shown, far enough from each other to be read."""
        low, high = float(self.at[0]), float(self.at[-1])
        first = math.floor(math.log10(low))
        found = [m * 10.0**e for e in range(first, math.ceil(math.log10(high)) + 1) for m in (1, 2, 5)]
        kept: list[float] = []
        for value in found:
            if low <= value <= high and (not kept or self._x(value) - self._x(kept[-1]) > 30):
                kept.append(value)
        return kept

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if len(self.at):
            self._drag = self._nearest(event.position().x())
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self.setCursor(Qt.CursorShape.SizeHorCursor)
        if self._drag is not None:
            self._drag = self._nearest(event.position().x())
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._drag is not None:
            value, self._drag = self._drag, None
            self.chosen(value)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if step is None or not len(self.at):
            super().keyPressEvent(event)
            return
        k = min(max(self._place(self.now) + step, 0), len(self.at) - 1)
        self.chosen(float(self.at[k]))


class Histogram(QWidget):
    """How often values occur, as bars; or on log scales, or cumulative: the share of items at least so great, on log
    scales. Mean and median are marked; dragging along chooses the items between two values."""

    WAYS = ("counts", "log", "cumulative")
    between = pyqtSignal(float, float)

    def __init__(self, caption: str) -> None:
        super().__init__()
        self.values: np.ndarray = np.zeros(0)
        self.caption, self.way = caption, "counts"
        self._drag: tuple[float, float] | None = None
        self.setMinimumHeight(110)
        self.setMouseTracking(True)
        self.setToolTip("Drag along to select the items between two values")

    def show_values(self, values: np.ndarray, caption: str = "") -> None:
        """Values of the items; those that are NaN or infinite are left out."""
        values = values.astype(np.float64)
        self.values, self.caption = values[np.isfinite(values)], caption or self.caption
        self.update()

    def _frame(self) -> QRectF:
        return QRectF(36, 18, self.width() - 50, self.height() - 52)

    def _span(self) -> tuple[float, float]:
        low, high = min(float(self.values.min()), 0.0), float(self.values.max())
        return low, high if high > low else low + 1

    def _share(self, value: float) -> float:
        """How far along a value is: of logarithmic ways from the least above 0."""
        low, high = self._span()
        if self.way == "counts":
            whole = self._whole()
            return (value - low + 0.5 * whole) / (high - low + whole)
        least = self._least()
        return math.log(max(value, least) / least) / max(math.log(max(high, least) / least), 1e-9)

    def _value(self, share: float) -> float:
        low, high = self._span()
        if self.way == "counts":
            whole = self._whole()
            return low - 0.5 * whole + share * (high - low + whole)
        least = self._least()
        return float(least * (max(high, least) / least) ** share)

    def _least(self) -> float:
        above = self.values[self.values > 0]
        return float(above.min()) if len(above) else 1.0

    def _whole(self) -> int:
        return int(bool((self.values == np.round(self.values)).all()))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        c, f = look(), self._frame()
        p.setFont(sans(12))
        p.setPen(colour(c.faint))
        if not len(self.values):
            p.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "no items")
            return
        if self._drag is not None:
            a, b = sorted(f.left() + self._share(v) * f.width() for v in self._drag)
            p.fillRect(QRectF(a, f.top(), b - a, f.height()), colour(c.verdigris, 0.15))
        most = self._bars(p, f) if self.way == "counts" else self._dots(p, f)
        mean, median = float(self.values.mean()), float(np.median(self.values))
        for k, (word, value) in enumerate((("mean", mean), ("median", median))):
            x = f.left() + f.width() * self._share(value)
            p.setPen(QPen(colour(c.verdigris), 1.2, Qt.PenStyle.DashLine if not k else Qt.PenStyle.DotLine))
            p.drawLine(QPointF(x, f.top() - 6 * (not k)), QPointF(x, f.bottom()))
            p.setPen(colour(c.verdigris))
            text = f"{word} {figure(value)}"
            wide = p.fontMetrics().horizontalAdvance(text)
            left = x + 5 if value == max(mean, median) else x - wide - 5
            left = left if left > f.left() else x + 5
            p.drawText(QPointF(min(left, f.right() - wide), f.top() + 4 + 15 * k), text)
        p.setPen(colour(c.faint))
        p.drawText(QRectF(0, f.top() - 8, f.left() - 6, 16), Qt.AlignmentFlag.AlignRight, most)
        first = self._span()[0] if self.way == "counts" else self._least()
        p.drawText(QRectF(f.left(), f.bottom() + 3, 60, 16), Qt.AlignmentFlag.AlignLeft, figure(first))
        p.drawText(QRectF(f.right() - 60, f.bottom() + 3, 60, 16), Qt.AlignmentFlag.AlignRight, figure(self._span()[1]))
        p.drawText(QRectF(f.left(), f.bottom() + 17, f.width(), 16), Qt.AlignmentFlag.AlignRight, self.caption)

    def _bars(self, p: QPainter, f: QRectF) -> str:
        low, high = self._span()
        whole = self._whole()
        room = max(1, int(f.width() // 6))
        if whole:
            every = int(high - low) + 1
            each = -(-every // min(every, room))
            edges = np.arange(low, high + 1 + each, each) - 0.5
        else:
            edges = np.linspace(low, high, min(room, 40) + 1)
        counts = np.histogram(self.values, edges)[0]
        most = int(counts.max())
        scale = f.width() / (high - low + whole)
        for a, b, n in zip(edges.tolist(), edges[1:].tolist(), counts.tolist()):
            x = f.left() + (a - low + 0.5 * whole) * scale
            h = f.height() * n / most
            p.fillRect(QRectF(x, f.bottom() - h, max((b - a) * scale - 1.5, 1), h), colour(look().bar))
        return f"{most:,}"

    def _dots(self, p: QPainter, f: QRectF) -> str:
        """Values above 0 on log scales: how many have each, or the share that is at least so great."""
        values, counts = np.unique(self.values[self.values > 0], return_counts=True)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(colour(look().bar))
        if self.way == "cumulative":
            heights = np.cumsum(counts[::-1])[::-1] / len(self.values)
            least = 1.0 / len(self.values)
            up = np.log(heights / least) / max(math.log(1.0 / least), 1e-9)
        else:
            up = np.log(counts + 1) / math.log(int(counts.max(initial=1)) + 1)
        for value, share in zip(values.tolist(), up.tolist()):
            p.drawEllipse(QPointF(f.left() + f.width() * self._share(value), f.bottom() - f.height() * share), 2.6, 2.6)
        return "100%" if self.way == "cumulative" else f"{int(counts.max(initial=0)):,}"

    def _at(self, x: float) -> float:
        f = self._frame()
        return self._value(min(max((x - f.left()) / f.width(), 0.0), 1.0))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if len(self.values):
            self._drag = (self._at(event.position().x()),) * 2  # type: ignore[assignment]

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if self._drag is not None:
            self._drag = self._drag[0], self._at(event.position().x())
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._drag is not None:
            low, high = sorted(self._drag)
            self._drag = None
            self.update()
            self.between.emit(low, high)


class YearBrush(QWidget):
    """Records a year, as bars; the span that counts is set by dragging its ends or the middle, or with the arrows."""

    def __init__(self, chosen: Callable[[tuple[int, ...]], object]) -> None:
        super().__init__()
        self.chosen = chosen
        self.first, self.counts = 0, np.zeros(0, np.int64)
        self.span: tuple[int, ...] = ()
        self._drag: tuple[str, int, tuple[int, int]] | None = None
        self.setFixedHeight(46)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("years")
        self.setToolTip(
            "Drag across years to keep only them; double-click for all. Arrows move the first year, with Shift the last"
        )

    def show_years(self, years: np.ndarray, span: tuple[int, ...]) -> None:
        dated = years[years > 0]
        if len(dated):
            self.first = int(dated.min())
            self.counts = np.bincount(dated - self.first)
        else:
            self.counts = np.zeros(0, np.int64)
        self.span = span
        self.update()

    @property
    def last(self) -> int:
        return self.first + len(self.counts) - 1

    def _step(self) -> float:
        return (self.width() - 44) / max(len(self.counts), 1)

    def _year(self, x: float) -> int:
        return min(max(self.first + int((x - 22) / self._step()), self.first), self.last)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        c = look()
        p.setFont(sans(11))
        if not len(self.counts):
            p.setPen(colour(c.faint))
            p.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "no record is dated")
            return
        low, high = self.span or (self.first, self.last)
        step, most = self._step(), int(self.counts.max())
        base = self.height() - 16
        inside = QRectF(22 + (low - self.first) * step, 2, (high - low + 1) * step, base - 2)
        if self.span:
            p.fillRect(inside, colour(c.verdigris, 0.08))
        for k, n in enumerate(self.counts.tolist()):
            year = self.first + k
            h = (base - 6) * n / most
            tint = colour(c.bar) if low <= year <= high else colour(c.line)
            p.fillRect(QRectF(22 + k * step + 0.5, base - h, max(step - 2, 1), h), tint)
        if self.span or self.hasFocus():
            p.setPen(QPen(colour(c.verdigris), 2))
            for x in (inside.left(), inside.right()):
                p.drawLine(QPointF(x, 2), QPointF(x, base))
        p.setPen(colour(c.faint))
        marks = {self.first, self.last, *(y for y in range(self.first, self.last) if y % 10 == 0)}
        if self.span:
            marks |= {low, high}
        drawn: list[float] = []
        for year in sorted(marks, key=lambda y: (y not in (low, high), y not in (self.first, self.last), y)):
            x = 22 + (year - self.first + 0.5) * step
            if all(abs(x - other) > 34 for other in drawn):
                drawn.append(x)
                p.drawText(QRectF(x - 22, base + 1, 44, 14), Qt.AlignmentFlag.AlignCenter, str(year))

    def _grip(self, x: float) -> str:
        low, high = self.span or (self.first, self.last)
        a, b = 22 + (low - self.first) * self._step(), 22 + (high - self.first + 1) * self._step()
        if abs(x - a) < 7:
            return "first"
        if abs(x - b) < 7:
            return "last"
        return "move" if self.span and a < x < b else "new"

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if len(self.counts):
            x = event.position().x()
            self._drag = (self._grip(x), self._year(x), tuple(self.span or (self.first, self.last)))  # type: ignore[assignment]

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        x = event.position().x()
        if self._drag is None:
            grip = self._grip(x)
            self.setCursor(
                Qt.CursorShape.SizeHorCursor if grip in ("first", "last") else Qt.CursorShape.PointingHandCursor
            )
            return
        grip, began, (low, high) = self._drag
        year = self._year(x)
        if grip == "first":
            low = min(year, high)
        elif grip == "last":
            high = max(year, low)
        elif grip == "new":
            low, high = min(began, year), max(began, year)
        else:
            by = min(max(year - began, self.first - low), self.last - high)
            low, high = low + by, high + by
        self.span = (low, high)
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._drag is None:
            return
        before, self._drag = self._drag[2], None
        if self.span and self.span != before:
            self.chosen(() if self.span == (self.first, self.last) else self.span)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        self._drag = None
        self.chosen(())

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if step is None or not len(self.counts):
            super().keyPressEvent(event)
            return
        low, high = self.span or (self.first, self.last)
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            high = min(max(high + step, low), self.last)
        else:
            low = max(min(low + step, high), self.first)
        self.chosen(() if (low, high) == (self.first, self.last) else (low, high))


class Ticks(QWidget):
    """One tick a record on a line of years."""

    def __init__(self, years: Sequence[int], low: int, high: int, tint: str) -> None:
        super().__init__()
        self.years, self.low, self.high, self.tint = years, low, high, tint
        self.setFixedHeight(30)
        self.setMinimumWidth(120)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.fillRect(QRect(0, self.height() - 6, self.width(), 1), colour(look().line))
        span = max(self.high - self.low, 1)
        for year in self.years:
            if year:
                x = 2 + (self.width() - 6) * (year - self.low) / span
                p.fillRect(QRectF(x, self.height() - 22, 2, 16), colour(self.tint))
