"""Standing: the items of a network by their ranks over many measures, one item's profile, two measures against each other."""

from __future__ import annotations

import numpy as np
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QLineEdit

from umber_knot.corpus.model import Floats
from umber_knot.corpus.texts import holding
from umber_knot.desktop.desks.base import Desk
from umber_knot.desktop.parts import Link, Panel, Popup, Text, scrolling
from umber_knot.desktop.profiles import Place, Profile, Row, Scatter
from umber_knot.desktop.selection import Selection
from umber_knot.desktop.sentence import Choice, Word
from umber_knot.desktop.session import Session
from umber_knot.desktop.strands import strand_words
from umber_knot.desktop.tables import Column, Table
from umber_knot.desktop.wording import figure, several
from umber_knot.network.measures.paths import seconds
from umber_knot.network.measures.registry import MEASURES, WEIGHTED, family, of_column
from umber_knot.network.standing import agreement, contrasts, ranks, share_below

#: The measures shown first; those that the network does not allow are left out.
FIRST = ("degree", "strength", "betweenness", "closeness", "eigenvector", "pagerank", "clustering", "constraint", "h")
OVERLAID = 3  # items shown at once


def title_of(column: str) -> str:
    m, weighted = of_column(column)
    return m.title + (", weighted" if weighted else "")


class StandingDesk(Desk):
    shows = ("relate", "group", "measure", "strand")
    needs = frozenset({"relate"})

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.columns: list[str] = list(FIRST)
        self.insisted: set[str] = set()  # measures that were chosen, however long they take
        self.axes = ["degree", "betweenness"]
        self._ranked: dict[str, tuple[object, Floats, Floats]] = {}  # column → (values, ranks, shares below)
        grid = QGridLayout()
        grid.setSpacing(8)
        left = Panel("Ranks")
        self.search = QLineEdit()
        self.search.setPlaceholderText("type a name")
        self.search.setAccessibleName("find an item")
        self.search.setFixedWidth(190)
        self.search.textChanged.connect(self._show_table)
        self.chosen = Link("measures …", self._choose, 12)
        left.head.addWidget(self.search)
        left.head.addWidget(self.chosen)
        self.table = Table(many=True)
        self.table.setAccessibleName("items by their values and ranks")
        self.table.selectionModel().selectionChanged.connect(lambda *_: self._picked())
        left.body.addWidget(self.table, 1)
        left.body.addWidget(
            Text("value ·rank; Ctrl with a click lays a second and a third over the first", 12, faint=True)
        )
        right = Panel("Profile")
        self.who = Text("", 13, wrap=True)
        right.body.addWidget(self.who)
        self.profile = Profile()
        self.profile.chosen.connect(self._choose_axis)
        rows = QHBoxLayout()
        rows.addWidget(self.profile)
        right.body.addWidget(scrolling(rows), 1)
        both = Panel("Two measures")
        self.agree = Text("", 12, faint=True)
        both.head.addWidget(self.agree)
        self.scatter = Scatter()
        self.scatter.picked.connect(self._pick)
        both.body.addWidget(self.scatter, 1)
        self.unlike = Text("", 12, wrap=True)
        both.body.addWidget(self.unlike)
        grid.addWidget(left, 0, 0, 2, 1)
        grid.addWidget(right, 0, 1)
        grid.addWidget(both, 1, 1)
        grid.setColumnStretch(0, 1)
        grid.setColumnStretch(1, 1)
        grid.setRowStretch(0, 1)
        grid.setRowStretch(1, 1)
        self.body.addLayout(grid, 1)
        session.selected.connect(lambda: self.isVisible() and self._show_items())

    # -- which measures

    def known(self) -> list[str]:
        """The columns chosen that the network allows."""
        return [c for c in self.columns if not self.session.lacking(of_column(c)[0]) and not self._too_long(c)]

    def _too_long(self, column: str) -> bool:
        """Whether a measure shown at first would take over a minute: an estimate is shown instead, until it is asked for."""
        related = self.session.related
        heavy = of_column(column)[0].heavy and column not in self.insisted
        return heavy and related is not None and seconds(related.network) > 60

    def _choose(self) -> None:
        """Which measures are shown; those that need what is not here say so."""
        s, popup, grid = self.session, Popup(self), QGridLayout()
        grid.setHorizontalSpacing(22)
        grid.setVerticalSpacing(1)
        for k, m in enumerate(MEASURES):
            row, side = k % 18, 3 * (k // 18)
            why = s.lacking(m)
            if why:
                grid.addWidget(Text(f"{m.title}: {why}", 12, faint=True), row, side, 1, 2)
                continue
            for j, column in enumerate((m.name, m.name + WEIGHTED)[: 1 + m.weighs]):
                mark = "– " if column in self.known() else "+ "
                long = f" (about {seconds(s.related.network) / 60:.0f} min)" if self._too_long(column) else ""
                link = Link(
                    mark + (m.title if not j else "weighted") + long,
                    lambda c=column: (popup.close(), self._switch(c)),
                    13,
                )
                link.setToolTip(f"It says {m.reading}. {m.formula} ({m.source})")
                grid.addWidget(link, row, side + j)
        popup.body.addLayout(grid)
        popup.unfold(self.chosen)

    def _switch(self, column: str) -> None:
        shown = column in self.known()
        self.insisted.add(column)
        if shown:
            self.columns = [c for c in self.columns if c != column]
        else:
            order = [name for m in MEASURES for name in (m.name, m.name + WEIGHTED)]
            self.columns = sorted({*self.columns, column}, key=order.index)
        self.bring_up_to_date()

    # -- showing

    def bring_up_to_date(self) -> None:
        s = self.session
        if s.related is None:
            return
        if seconds(s.related.network) > 60 and "betweenness_estimate" not in self.columns and not self.insisted:
            self.columns += ["betweenness_estimate", "betweenness_error"]
        columns = self.known()
        s.show_beside([("measure", one) for one in dict.fromkeys(map(family, columns))])
        waiting = [c for c in columns if s.measured(c) is None]
        n = len(s.related.network)
        measuring = f"; still measuring {title_of(waiting[0])} …" if waiting else ""
        stand = f"stand in {several(len(columns), 'measure')}{measuring}"
        self.sentence.say(*strand_words(s), "Where", f"{n:,} {s.words(n)}", stand, *self._weights())
        for k, axis in enumerate(self.axes):
            if axis not in columns and columns:
                self.axes[k] = columns[min(k, len(columns) - 1)]
        self._show_table()
        self._show_items()

    def _weights(self) -> list[Word]:
        """How weights are read on paths, where paths with weights are shown."""
        if not any(name.endswith(WEIGHTED) and of_column(name)[0].heavy for name in self.known()):
            return []
        options = [
            ("closeness", "closeness", "the heavier a tie the shorter: its length is 1/w"),
            ("distance", "distances", "the heavier a tie the longer: its length is w"),
        ]
        now = self.session.strand.measures.weights
        return [
            "; weights read as",
            Choice(now, options, lambda way: self.session.set_recipe("measures", weights=str(way)), "weights"),
        ]

    def values(self, column: str) -> tuple[Floats, Floats, Floats] | None:
        """(values, ranks, shares below) of a column; None until it is measured."""
        found = self.session.measured(column)
        if found is None:
            return None
        kept = self._ranked.get(column)
        if kept is None or kept[0] is not found:
            kept = self._ranked[column] = (found, ranks(found), share_below(found))
        return found, kept[1], kept[2]

    def _show_table(self) -> None:
        s = self.session
        if s.related is None:
            return
        network = s.related.network
        columns = [Column("name", lambda i: network.label[i], None, 170)]
        for name in self.known():
            found = self.values(name)
            if found is None:
                continue
            v, rank, _ = found

            def said(i: int, v: Floats = v, rank: Floats = rank) -> str:
                return f"{figure(v[i])}  ·{rank[i]:,.0f}" if rank[i] == rank[i] else "–"

            columns.append(Column(title_of(name), said, v, 104, hint=f"value and rank; {of_column(name)[0].formula}"))
        words = self.search.text().split()
        rows = holding(network.label, words) if words else np.arange(len(network))
        first = self.values(self.known()[0]) if self.known() else None
        if first is not None:
            rows = rows[np.argsort(-np.nan_to_num(first[0][rows]), kind="stable")]
        self.table.show_rows(columns, rows)

    def _items(self) -> list[int]:
        """The items shown: those selected, else the first of the table."""
        s = self.session
        found = [i for i in map(s.item, s.selection.items) if i >= 0][:OVERLAID]
        return found or self.table.rows.order[:1].tolist()

    def _show_items(self) -> None:
        s = self.session
        if s.related is None or not len(s.related.network):
            return
        network, items = s.related.network, self._items()
        self.who.setText("  ·  ".join(f"{'●■'[k % 2]} {network.label[i]}" for k, i in enumerate(items)))
        rows = []
        for name in self.known():
            found = self.values(name)
            if found is None:
                continue
            v, rank, below = found
            of = int((~np.isnan(v)).sum())
            m = of_column(name)[0]
            places = [Place(float(v[i]), float(rank[i]), of, float(below[i])) for i in items]
            rows.append(Row(name, title_of(name), f"It says {m.reading}.\n{m.formula} ({m.source})", places))
        self.profile.show_rows(rows)
        self._show_two(items)

    def _show_two(self, items: list[int]) -> None:
        """Two measures against each other, and who is high in one and low in the other."""
        network = self.session.related.network
        one, other = (self.values(axis) for axis in self.axes)
        if one is None or other is None:
            self.agree.setText("")
            return
        high, low = contrasts(one[0], other[0])
        named = [*items, *high.tolist(), *low.tolist()]
        titles = title_of(self.axes[0]), title_of(self.axes[1])
        self.scatter.show_points(
            one[2], other[2], titles, items, list(dict.fromkeys(named)), lambda i: network.label[i]
        )
        tau = agreement(one[0], other[0])
        self.agree.setText(f"rank agreement τ {tau:.2f}" if tau == tau else "")
        parts = [
            f"high in {a} and low in {b}: {', '.join(network.label[i] for i in found[:4].tolist())}"
            for a, b, found in ((titles[0], titles[1], high), (titles[1], titles[0], low))
            if len(found)
        ]
        text = "; ".join(parts)
        self.unlike.setText(text[:1].upper() + text[1:])

    # -- choosing

    def _picked(self) -> None:
        network = self.session.related.network
        chosen = tuple(network.identity(i) for i in self.table.chosen()[:OVERLAID])
        if chosen and chosen != self.session.selection.items:
            self.session.select(Selection(items=chosen))

    def _pick(self, i: int) -> None:
        self.session.select(Selection(items=(self.session.related.network.identity(i),)))

    def _choose_axis(self, name: str) -> None:
        """The measure of a row goes to the right of the picture, the one before it up."""
        if name != self.axes[0]:
            self.axes = [name, self.axes[0]]
            self._show_two(self._items())
