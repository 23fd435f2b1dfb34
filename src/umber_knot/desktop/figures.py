"""The network as a whole: its figures, beside those of random networks, and what holds when items go."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from umber_knot.corpus.model import Floats
from umber_knot.desktop.sentence import Choice, Number, Sentence
from umber_knot.desktop.session import Session
from umber_knot.desktop.tables import Column, Table
from umber_knot.desktop.theme import colour, look, sans
from umber_knot.desktop.wording import figure
from umber_knot.lineage.nodes import Node
from umber_knot.network.measures.parameters import ORDERS
from umber_knot.network.measures.whole import FIGURES, SAYS
from umber_knot.network.removal import WATCHED
from umber_knot.network.yardsticks import MODELS, Yardstick, compared

MODEL_WORDS = {
    "": ("nothing", "no random networks are made"),
    "rewired": ("random ones of the same degrees", "ties swap their ends; Maslov & Sneppen 2002"),
    "gnm": ("random ones of as many ties", "every pair is as likely; Erdős & Rényi 1959"),
    "gnp": ("random ones of the same density", "every pair has one probability; Gilbert 1959"),
    "small-world": ("small worlds", "a ring, a tenth of whose ties were moved; Watts & Strogatz 1998"),
    "attachment": ("ones grown by attachment", "newcomers are tied to what is well tied; Barabási & Albert 1999"),
}
ORDER_WORDS = {
    "random": ("at random", "from many seeds: mean and deviation"),
    "degree": ("the best tied first", "by degree, as it is at first"),
    "degree_recomputed": ("the best tied first, found anew", "by degree of what is left"),
    "betweenness": ("those between first", "by betweenness, as it is at first"),
    "betweenness_recomputed": ("those between first, found anew", "by betweenness of what is left"),
}
SEED = 1


class Figures(QWidget):
    """The figures of the network as a table, with what each says; beside random networks where a model is chosen."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.model, self.runs = "", 100
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        self.sentence = Sentence(13)
        layout.addWidget(self.sentence)
        self.table = Table()
        self.table.setAccessibleName("figures of the network")
        layout.addWidget(self.table, 1)

    def variant(self) -> str:
        return f"{self.model}:{self.runs}:{SEED}"

    def bring_up_to_date(self) -> None:
        s = self.session
        asked = [("figures", "")] + ([("yardstick", self.variant())] if self.model else [])
        s.show_beside(asked)
        here: Mapping[str, float] | None = s.shown.results.get(Node("figures", s.strand_id))
        random: Mapping[str, Floats] | None = s.shown.results.get(Node("yardstick", s.strand_id, self.variant()))
        self._say(random is None and bool(self.model))
        if here is None:
            self.table.show_rows([], np.zeros(0, np.int64))
            return
        beside = {
            name: compared(name, float(here[name]), values) for name, values in (random or {}).items() if name in here
        }
        self._show(here, beside)

    def _say(self, waiting: bool) -> None:
        directed = self.session.related is not None and self.session.related.network.directed
        models = [m for m in ("", *MODELS) if not (directed and m in ("small-world", "attachment"))]

        def choose(model: object) -> None:
            self.model = str(model)
            self.bring_up_to_date()

        def count(runs: float) -> None:
            self.runs = int(runs)
            self.bring_up_to_date()

        words: list[object] = [
            "Beside",
            Choice(self.model, [(m, *MODEL_WORDS[m]) for m in models], choose, "yardstick"),
        ]
        if self.model:
            words += [",", Number(self.runs, 2, 1000, count, 10, "random networks"), "of them, seeds from 1"]
        self.sentence.say(*words, "; making them …" if waiting else "")

    def _show(self, here: Mapping[str, float], beside: Mapping[str, Yardstick]) -> None:
        names = [name for name in FIGURES if here[name] == here[name]]
        names.sort(key=lambda name: name not in beside)  # what is compared stands first
        columns = [
            Column("figure", lambda k: names[k].replace("_", " "), None, 170),
            Column("here", lambda k: figure(here[names[k]]), np.array([here[n] for n in names]), 80),
        ]
        if beside:

            def random(k: int) -> str:
                y = beside.get(names[k])
                return "" if y is None else f"{figure(y.mean)} ± {y.deviation:.2g}"

            def above(k: int) -> str:
                y = beside.get(names[k])
                return "" if y is None else f"{y.at_least:.0%}"

            columns += [
                Column("random", random, None, 110),
                Column("as great or greater", above, None, 130, hint="share of the random networks"),
            ]
        columns.append(Column("it says", lambda k: SAYS[names[k]], None, 420, faint=True))
        self.table.show_rows(columns, np.arange(len(names)))


class Removal(QWidget):
    """What holds when items are taken out one by one: a curve for each order that was asked for."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.orders, self.watched, self.runs = ["random", "degree"], "largest_share", 20
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        self.sentence = Sentence(13)
        layout.addWidget(self.sentence)
        self.curves = Trials()
        row = QHBoxLayout()
        row.addWidget(self.curves)
        layout.addLayout(row, 1)

    def variant(self, order: str) -> str:
        return f"{order}:{self.runs if order == 'random' else 1}:{SEED}"

    def bring_up_to_date(self) -> None:
        s = self.session
        s.show_beside([("removal", self.variant(order)) for order in self.orders])
        found = {o: s.shown.results.get(Node("removal", s.strand_id, self.variant(o))) for o in self.orders}
        waiting = any(result is None for result in found.values())
        self._say(waiting)
        known = [(order, result) for order, result in found.items() if result is not None]
        self.curves.show_trials(
            self.watched, [(ORDER_WORDS[o][0], r[self.watched], r.get(f"{self.watched} deviation")) for o, r in known]
        )

    def _say(self, waiting: bool) -> None:
        def watch(name: object) -> None:
            self.watched = str(name)
            self.bring_up_to_date()

        def switch(order: object) -> None:
            if order in self.orders and len(self.orders) > 1:
                self.orders.remove(str(order))
            elif order not in self.orders:
                self.orders.append(str(order))
            self.bring_up_to_date()

        said = " and ".join(ORDER_WORDS[o][0] for o in self.orders)
        options = [("", said, "")]
        options += [
            (o, f"{'without' if o in self.orders else 'and'} {ORDER_WORDS[o][0]}", ORDER_WORDS[o][1]) for o in ORDERS
        ]
        self.sentence.say(
            Choice(self.watched, [(w, w.replace("_", " ").capitalize(), SAYS.get(w, "")) for w in WATCHED], watch, "watched"),
            "as items go",
            Choice("", options, lambda o: o and switch(o), "orders", scrolls=False),
            "; trying …" if waiting else "",
        )  # fmt: skip


class Trials(QWidget):
    """Curves against the share of items removed; of trials at random the mean with its deviation."""

    def __init__(self) -> None:
        super().__init__()
        self.watched = ""
        self.curves: Sequence[tuple[str, Floats, Floats | None]] = ()
        self.setMinimumHeight(140)
        self.setAccessibleName("what holds as items are taken out")

    def show_trials(self, watched: str, curves: Sequence[tuple[str, Floats, Floats | None]]) -> None:
        self.watched, self.curves = watched, curves
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        c = look()
        f = QRectF(48, 8, self.width() - 72, self.height() - 44)
        p.setFont(sans(12))
        p.setPen(colour(c.faint))
        whole = self.watched == "largest_share"
        most = (
            1.0
            if whole
            else max((float(np.nanmax(v)) for _, v, _ in self.curves if np.isfinite(v).any()), default=1.0) or 1.0
        )
        for share in (0.0, 0.25, 0.5, 0.75, 1.0):
            x = f.left() + share * f.width()
            p.drawText(QRectF(x - 30, f.bottom() + 4, 60, 16), Qt.AlignmentFlag.AlignCenter, f"{share:.0%}")
            y = f.bottom() - share * f.height()
            p.setPen(QPen(colour(c.line, 0.6), 1))
            p.drawLine(QPointF(f.left(), y), QPointF(f.right(), y))
            p.setPen(colour(c.faint))
            right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            p.drawText(QRectF(0, y - 9, f.left() - 8, 18), right, figure(share * most))
        p.drawText(
            QRectF(f.left(), f.bottom() + 20, f.width(), 16), Qt.AlignmentFlag.AlignRight, "share of items removed"
        )
        tints = [c.verdigris, c.umber, c.madder, c.ochre, c.ink]
        styles = [Qt.PenStyle.SolidLine, Qt.PenStyle.DashLine, Qt.PenStyle.DotLine, Qt.PenStyle.DashDotLine]
        for k, (words, values, deviation) in enumerate(self.curves):
            along = f.left() + np.arange(len(values)) / max(len(values) - 1, 1) * f.width()
            there = np.isfinite(values)
            tint = tints[k % len(tints)]
            if deviation is not None and there.any():
                low, high = (np.clip(values + side * deviation, 0, most) for side in (-1, 1))
                edge = [*zip(along[there], high[there]), *list(zip(along[there], low[there]))[::-1]]
                p.setPen(Qt.PenStyle.NoPen)
                p.setBrush(colour(tint, 0.15))
                p.drawPolygon(QPolygonF(QPointF(a, f.bottom() - b / most * f.height()) for a, b in edge))
            path = QPainterPath()
            path.addPolygon(
                QPolygonF(QPointF(a, f.bottom() - b / most * f.height()) for a, b in zip(along[there], values[there]))
            )
            p.setPen(QPen(colour(tint), 1.8, styles[k % len(styles)]))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawPath(path)
            p.drawLine(QPointF(f.right() - 250, f.top() + 12 + 18 * k), QPointF(f.right() - 222, f.top() + 12 + 18 * k))
            p.setPen(colour(c.ink))
            p.drawText(QRectF(f.right() - 214, f.top() + 3 + 18 * k, 214, 18), Qt.AlignmentFlag.AlignVCenter, words)
