"""The legend of the chart, which is also its control panel: what is explained here is changed here."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, QTimer
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from umber_knot.chart.drawing import radius_of
from umber_knot.chart.palette import ramp, topic_colours
from umber_knot.chart.parameters import LAYERS
from umber_knot.desktop.canvas import Canvas
from umber_knot.desktop.parts import Link, Panel, PlainTip, Popup, Text, clear
from umber_knot.desktop.selection import Selection
from umber_knot.desktop.session import Session
from umber_knot.desktop.theme import colour, look, sans
from umber_knot.network.measures.registry import MEASURES
from umber_knot.relate.wording import shapes
from umber_knot.report.svg import size_samples, size_text, size_words


class SizeScale(QWidget):
    """Circles of three round values, at the size they have on the chart now."""

    def __init__(self, canvas: Canvas) -> None:
        super().__init__()
        self.canvas = canvas
        self.setFixedHeight(44)
        self.setMinimumWidth(158)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        d = self.canvas.drawing
        if d is None:
            return
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setFont(sans(12))
        at, most = 1.0, float(d.value.max(initial=0.0))
        for value in size_samples(d):
            r = min(float(radius_of(np.array([value]), most)[0]) * self.canvas.view.mark_scale, 20.0)
            p.setPen(QPen(colour(look().faint), 1))
            p.drawEllipse(QPointF(at + r, 22), r, r)
            text = size_text(value)
            wide = p.fontMetrics().horizontalAdvance(text)
            p.setPen(colour(look().ink))
            p.drawText(QPointF(at + 2 * r + 4, 26), text)
            at += 2 * r + wide + 12


class TieSamples(QWidget):
    """Three ties of rising weight with their values."""

    def __init__(self, canvas: Canvas) -> None:
        super().__init__()
        self.canvas = canvas
        self.setFixedHeight(30)
        self.setFixedWidth(132)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        d = self.canvas.drawing
        if d is None or not len(d.weight):
            return
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setFont(sans(11))
        drawn = d.weight[d.weight >= self.canvas.layers.least_tie]
        if not len(drawn):
            return
        values = sorted({float(f"{np.quantile(drawn, q):.3g}") for q in (0.05, 0.6, 1.0)})
        for k, value in enumerate(values):
            x = k * 46.0
            p.setPen(QPen(colour(look().chart.tie, 0.35 + 0.25 * k), 0.9 + 0.7 * k))
            p.drawLine(QPointF(x, 6), QPointF(x + 34, 6))
            p.setPen(colour(look().faint))
            p.drawText(QRectF(x - 4, 11, 42, 16), Qt.AlignmentFlag.AlignCenter, f"{value:.3g}")


class Ramp(QWidget):
    """The ramp of quantities with its ends."""

    def __init__(self, low: float, high: float) -> None:
        super().__init__()
        self.low, self.high = low, high
        self.setFixedSize(200, 34)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        for k in range(100):
            p.fillRect(QRectF(2 * k, 2, 2, 12), colour(ramp(k / 99, look().chart)))
        p.setFont(sans(11))
        p.setPen(colour(look().faint))
        p.drawText(QRectF(0, 16, 200, 16), Qt.AlignmentFlag.AlignLeft, f"{self.low:.0f}")
        p.drawText(QRectF(0, 16, 200, 16), Qt.AlignmentFlag.AlignRight, f"{self.high:.0f}")


class Swatch(PlainTip, QWidget):
    """A topic's colour and name; a click selects the topic."""

    def __init__(self, session: Session, topic: int, name: str, slot: int) -> None:
        super().__init__()
        self.session, self.topic, self.name, self.slot = session, topic, name, slot
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName(f"topic {name}")
        self.setToolTip(f"{name}: click to select")
        self.setMinimumWidth(60)

    def sizeHint(self) -> QSize:
        return QSize(150, 18)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        colours = topic_colours(self.slot, look().chart)
        chosen = self.session.selection.topic == self.topic
        p.setPen(QPen(colour(look().verdigris if chosen else colours.mark), 2 if chosen or self.hasFocus() else 1))
        p.setBrush(colour(colours.land))
        p.drawRoundedRect(QRectF(1.5, 3.5, 11, 11), 2, 2)
        p.setFont(sans(12, chosen))
        p.setPen(colour(look().ink))
        text = p.fontMetrics().elidedText(self.name, Qt.TextElideMode.ElideRight, self.width() - 22)
        p.drawText(QRectF(18, 0, self.width() - 18, 18), Qt.AlignmentFlag.AlignVCenter, text)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        again = self.session.selection.topic == self.topic
        self.session.select(Selection() if again else Selection(topic=self.topic))

    def keyPressEvent(self, event: object) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Space):  # type: ignore[attr-defined]
            self.mousePressEvent(None)
        else:
            super().keyPressEvent(event)  # type: ignore[arg-type]


class Legend(Panel):
    """Size, ties, tint and layers of the chart."""

    def __init__(self, session: Session, canvas: Canvas) -> None:
        super().__init__(margins=(14, 10, 14, 10))
        self.session, self.canvas = session, canvas
        self._followed: list[Canvas] = []
        self.setFixedHeight(124)
        row = QHBoxLayout()
        row.setSpacing(16)
        self.body.addLayout(row)
        size = QVBoxLayout()
        size.setSpacing(3)
        size.addLayout(_titled("Size", ""))
        self.size_link = Link("records", self._choose_size, 12)
        size.addWidget(self.size_link)
        self.scale = SizeScale(canvas)
        size.addWidget(self.scale)
        self.shapes = Text("", 11, faint=True)
        size.addWidget(self.shapes)
        size.addStretch(1)
        ties = QVBoxLayout()
        ties.setSpacing(3)
        ties.addLayout(_titled("Ties", ""))
        self.least = Link("all drawn", self._choose_least, 12)
        ties.addWidget(self.least)
        self.samples = TieSamples(canvas)
        ties.addWidget(self.samples)
        self.note = Text("", 11, faint=True)
        ties.addWidget(self.note)
        ties.addStretch(1)
        tint = QVBoxLayout()
        tint.setSpacing(3)
        head = _titled("Tint", "")
        self.tint_link = Link("topic", self._choose_tint, 12)
        head.insertWidget(1, self.tint_link)
        tint.addLayout(head)
        self.swatches = QGridLayout()
        self.swatches.setHorizontalSpacing(10)
        self.swatches.setVerticalSpacing(0)
        tint.addLayout(self.swatches)
        tint.addStretch(1)
        layers = QVBoxLayout()
        layers.setSpacing(2)
        head = _titled("Layers", "")
        layers.addLayout(head)
        self.layer_links = {}
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(1)
        for k, name in enumerate(LAYERS):
            link = Link(name, lambda n=name: self._toggle(n), 12)
            link.setToolTip(f"show or hide {name}")
            self.layer_links[name] = link
            grid.addWidget(link, k // 2, k % 2, Qt.AlignmentFlag.AlignLeft)
        grid.setColumnStretch(2, 1)
        layers.addLayout(grid)
        layers.addWidget(Link("fit", lambda: self.canvas.fit(), 12, key="0"))
        layers.addWidget(Link("lay out again", session.lay_out_again, 12))
        self.arrangement = Link("Spread", self._choose_arrangement, 12)
        self.arrangement.setToolTip("the arrangement shown, and those kept beside it")
        head.addWidget(self.arrangement)
        layers.addStretch(1)
        for k, column in enumerate((size, ties, tint, layers)):
            row.addLayout(column, (0, 0, 1, 0)[k])
        self._anew = QTimer(self)  # after what is told has been painted, and once however often it is told
        self._anew.setSingleShot(True)
        self._anew.timeout.connect(self.bring_up_to_date)
        session.arrived.connect(lambda stages: stages.isdisjoint({"chart", "strand"}) or self._anew.start())
        session.selected.connect(self.update_swatches)
        self.follow(canvas)

    def follow(self, canvas: Canvas) -> None:
        """Explain and control another canvas."""
        if canvas in self._followed and canvas is self.canvas:
            return
        if canvas not in self._followed:
            self._followed.append(canvas)
            canvas.shown.connect(lambda: canvas is self.canvas and self._anew.start())
            canvas.viewed.connect(self.scale.update)
        self.canvas = self.scale.canvas = self.samples.canvas = canvas
        self.bring_up_to_date()

    def update_swatches(self) -> None:
        for k in range(self.swatches.count()):
            self.swatches.itemAt(k).widget().update()

    def bring_up_to_date(self) -> None:
        d, s = self.canvas.drawing, self.session
        if d is None or s.grouped is None:
            return
        self.size_link.setText(size_words(d.size_by))
        self.tint_link.setText("topic" if d.tint_by == "topic" else "mean year")
        clear(self.swatches)
        if d.tint_by == "topic":
            topics = [t for t in s.grouped.topics if t.number - 1 in d.slots]
            shown = topics[:8] if len(topics) <= 8 else topics[:7]
            for k, t in enumerate(shown):
                swatch = Swatch(s, t.number - 1, t.name, d.slots[t.number - 1])
                self.swatches.addWidget(swatch, k % 4, k // 4)
            if len(topics) > len(shown):
                self.swatches.addWidget(Link(f"{len(topics) - len(shown)} more", self._all_topics, 12), 3, 1)
        else:
            self.swatches.addWidget(Ramp(*d.shade_range), 0, 0, Qt.AlignmentFlag.AlignLeft)
            if np.isnan(d.shade).any():
                self.swatches.addWidget(Text("grey: no year given", 11, faint=True), 1, 0)
        self._say_ties()
        self._say_layers()
        self.scale.update()
        self.samples.update()

    def _say_ties(self) -> None:
        d = self.canvas.drawing
        if d is None:
            return
        least = self.canvas.layers.least_tie
        hidden = int((d.weight < least).sum())
        self.least.setText(f"weight at least {least:.3g}" if hidden else "every tie drawn")
        self.note.setText(f"{hidden:,} lighter not drawn" if hidden else "darker: between topics")
        self.shapes.setText(shapes(d.network.kinds))

    def _say_layers(self) -> None:
        self.arrangement.setText(self.session.strand.chart.name)
        for name, link in self.layer_links.items():
            on = name in self.session.strand.chart.layers
            font = link.font()
            font.setStrikeOut(not on)
            link.setFont(font)
            link.setAccessibleName(f"{name}: {'shown' if on else 'hidden'}")

    def _toggle(self, name: str) -> None:
        now = self.session.strand.chart.layers
        shown = tuple(n for n in LAYERS if (n in now) != (n == name))
        self.session.set_recipe("chart", layers=shown)
        self._say_layers()

    def _offer(self, below: QWidget, options: list[tuple[str, str, str]], now: str, section: str, key: str) -> None:
        popup = Popup(self)
        for value, word, meaning in options:
            link = Link(
                word, lambda v=value: (popup.close(), v != now and self.session.set_recipe(section, **{key: v})), 14
            )
            popup.body.addWidget(link)
            popup.body.addWidget(Text(meaning, 11, faint=True))
            if value == now:
                link.setFocus()
        popup.unfold(below)

    def _choose_arrangement(self) -> None:
        """Take a kept arrangement, or keep this one and begin another."""
        s, popup = self.session, Popup(self)
        own = s.strand
        popup.body.addWidget(Text("Arrangement", 12, bold=True))
        for one in (own.chart, *own.arrangements):
            here = one is own.chart
            link = Link(one.name, lambda n=one.name, h=here: (popup.close(), h or s.use_arrangement(n)), 14)
            popup.body.addWidget(link)
            if here:
                link.setFocus()
                popup.body.addWidget(Text("shown", 11, faint=True))
        taken = {one.name for one in (own.chart, *own.arrangements)}
        name = next(n for k in range(2, 1000) if (n := f"Spread {k}") not in taken)
        popup.body.addWidget(Link(f"another, {name}", lambda: (popup.close(), s.keep_arrangement(name)), 14))
        popup.body.addWidget(Text("keeps this one as it is, and lays a copy out afresh", 11, faint=True))
        popup.unfold(self.arrangement)

    def _choose_size(self) -> None:
        options = [
            ("records", "records", "in how many records an item is"),
            ("degree", "ties", "how many items it is tied to"),
            ("strength", "strength", "the summed weight of its ties"),
            *(
                (m.name, m.title, m.reading)
                for m in MEASURES
                if m.name not in ("degree", "strength") and not self.session.lacking(m)
            ),
        ]
        self._offer(self.size_link, options, self.session.strand.chart.size_by, "chart", "size_by")

    def _choose_tint(self) -> None:
        options = [("topic", "topic", "the group an item belongs to"), ("year", "mean year", "of the records it is in")]
        self._offer(self.tint_link, options, self.session.strand.chart.tint_by, "chart", "tint_by")

    def _choose_least(self) -> None:
        """Which ties are drawn; the network itself is not changed."""
        d = self.canvas.drawing
        if d is None or not len(d.weight):
            return
        popup = Popup(self)
        popup.body.addWidget(Text("Draw the strongest", 12, bold=True))
        for share, word in ((1.0, "all"), (0.5, "half"), (0.25, "quarter"), (0.1, "tenth")):
            least = 0.0 if share == 1.0 else float(np.quantile(d.weight, 1 - share))
            n = int((d.weight >= least).sum())
            popup.body.addWidget(
                Link(
                    f"{word}: {n:,} ties",
                    lambda v=least: (popup.close(), self.session.set_recipe("chart", least_tie=v)),
                    14,
                )
            )
        popup.body.addWidget(Text("the network is not changed; Relate drops ties", 11, faint=True))
        popup.unfold(self.least)

    def _all_topics(self) -> None:
        popup = Popup(self)
        d = self.canvas.drawing
        grid = QGridLayout()
        topics = [t for t in self.session.grouped.topics if t.number - 1 in d.slots]
        for k, t in enumerate(topics[:120]):
            swatch = Swatch(self.session, t.number - 1, t.name, d.slots[t.number - 1])
            swatch.setMinimumWidth(170)
            grid.addWidget(swatch, k % 24, k // 24)
        popup.body.addLayout(grid)
        popup.unfold(self.tint_link)


def _titled(title: str, word: str) -> QHBoxLayout:
    row = QHBoxLayout()
    row.addWidget(Text(title, bold=True))
    if word:
        row.addWidget(Text(word, 12, faint=True))
    row.addStretch(1)
    return row
