"""Relate: the sentence that makes the network, what it keeps and leaves out, the items, and why two are tied."""

from __future__ import annotations

from html import escape

import numpy as np
from PyQt6.QtWidgets import QGridLayout, QStackedWidget, QVBoxLayout

from umber_knot.corpus.by_hand import told
from umber_knot.corpus.model import Floats
from umber_knot.desktop.changing import add_item, ask, link
from umber_knot.desktop.desks.base import Desk
from umber_knot.desktop.figures import Figures, Removal
from umber_knot.desktop.matrix import Matrix
from umber_knot.desktop.pages import Page, record_page_html
from umber_knot.desktop.parts import Link, Panel, Popup, Share, Text, clear
from umber_knot.desktop.plots import Curves, Histogram
from umber_knot.desktop.relating import relate_words
from umber_knot.desktop.selection import Selection
from umber_knot.desktop.sentence import Sentence
from umber_knot.desktop.session import Session
from umber_knot.desktop.strands import StrandRow
from umber_knot.desktop.tables import Column, Table
from umber_knot.desktop.theme import look
from umber_knot.desktop.tying import column_options
from umber_knot.desktop.why import tie_html
from umber_knot.desktop.wording import figure, several
from umber_knot.network.matrix import ORDERS
from umber_knot.network.measures.registry import BY_NAME, MEASURES, family
from umber_knot.network.model import Network, years
from umber_knot.relate.listing import emptied, listed, strongest_tie, way_back
from umber_knot.relate.wording import counted_in

FURTHER = ("citations", "first year", "last year", "mean year")


def _told_of_ties(network: Network) -> list[Column]:
    """The relation of each tie where there are several, and what else is said of ties."""
    found = []
    if len(network.relation_code):
        code, names = network.relation_code, network.relations
        found.append(Column("relation", lambda t: names[code[t]] or "–", None, 90, few=True))
    for name, column in network.tie_columns.items():
        texts = ["–" if v is None else str(v) for v in column.listed()]
        found.append(Column(name, lambda t, texts=texts: texts[t], None, 100, few=True))
    return found


class RelateDesk(Desk):
    sets_aside = True
    shows = (
        "gather",
        "match",
        "columns",
        "figures",
        "measure",
        "yardstick",
        "removal",
        "relate",
        "group",
        "strand",
        "suggest:person",
        "suggest:keyword",
    )
    needs = frozenset({"gather", "reconcile", "relate"})

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.sentence.hide()
        paper = Panel(margins=(22, 14, 22, 14))
        self.recipe = Sentence(20)
        paper.body.addWidget(self.recipe)
        self.strand = StrandRow(session)
        paper.body.addWidget(self.strand)
        self.body.addWidget(paper)
        grid = QGridLayout()
        grid.setSpacing(8)
        remain = Panel("How many remain")
        self.curves = Curves(self._cut)
        self.cut = "min_records"
        self.cutting = Link("by weight", self._switch_cut, 12)
        remain.head.addWidget(self.cutting)
        remain.body.addWidget(self.curves, 1)
        degrees = Panel("How many have")
        self.distributed = "degree"
        self.measure = Link("degree", self._choose_measure, 12)
        degrees.head.addWidget(self.measure)
        self.scale = Link("counts", self._switch_scale, 12)
        degrees.head.addWidget(self.scale)
        self.degrees = Histogram("ties of an item")
        self.degrees.between.connect(self._select_between)
        degrees.body.addWidget(self.degrees, 1)
        out = Panel("What the sentence leaves out")
        self.steps = QVBoxLayout()
        self.steps.setSpacing(0)
        out.body.addLayout(self.steps)
        out.body.addStretch(1)
        for k, panel in enumerate((remain, degrees, out)):
            panel.setFixedHeight(214)
            grid.addWidget(panel, 0, k)
            grid.setColumnStretch(k, 1)
        self.body.addLayout(grid)
        below = QGridLayout()
        below.setSpacing(8)
        self.items = Panel("Items")
        self.table, self.ties, self.matrix = Table(), Table(), Matrix()
        self.table.picked.connect(self._picked)
        self.ties.picked.connect(self._tie_picked)
        self.matrix.picked.connect(self._cell_picked)
        self.views = QStackedWidget()
        self.figures, self.removal = Figures(session), Removal(session)
        for view in (self.table, self.ties, self.matrix, self.figures, self.removal):
            self.views.addWidget(view)
        self.items.body.addWidget(self.views, 1)
        self.by = "topic"
        self.looks = {
            name: Link(name, lambda name=name: self.look_at(name), 12)
            for name in ("items", "ties", "matrix", "figures", "removal")
        }
        self.line = Text("", 12, faint=True)
        self.ordered = Link("by topic", self._choose_order, 12)
        self.copied = Link("copy", self._copy, 12)
        self.added = Link("add …", lambda: ask(self.added, "add by name", lambda t: add_item(session, t)), 12)
        self.further: list[str] = []
        self.columned = Link("columns", self._choose_columns, 12)
        for widget in (*self.looks.values(), self.line, self.ordered, self.copied, self.columned, self.added):
            self.items.head.addWidget(widget)
        self.look_at("items")
        why = Panel(margins=(16, 12, 8, 8))
        self.why = Page(session)
        why.body.addWidget(self.why)
        below.addWidget(self.items, 0, 0)
        below.addWidget(why, 0, 1)
        below.setColumnStretch(0, 55)
        below.setColumnStretch(1, 45)
        self.body.addLayout(below, 1)
        session.selected.connect(lambda: self.isVisible() and (self._show_why(), self._mark()))

    # -- the items, the ties and the matrix

    def look_at(self, view: str) -> None:
        """Show the items, the ties or the matrix."""
        self.views.setCurrentIndex(list(self.looks).index(view))
        for name, look_at in self.looks.items():
            look_at.setEnabled(name != view)
        self.ordered.setVisible(view == "matrix")
        self.copied.setVisible(view == "matrix")
        self.added.setVisible(view == "items")
        self.columned.setVisible(view == "items")
        self._show_view()

    def _show_view(self) -> None:
        """Bring what is in view up to date."""
        s = self.session
        if s.related is None:
            return
        if self.views.currentWidget() is self.table:
            self._show_items()
            return
        network, view = s.related.network, self.views.currentWidget()
        if view in (self.figures, self.removal):
            self.items.heading.setText("Figures" if view is self.figures else "Removal trials")
            self.line.setText(s.strand_name())
            view.bring_up_to_date()
            return
        self.items.heading.setText("Ties" if view is self.ties else "Matrix")
        if self.views.currentWidget() is self.ties:
            self._show_ties()
            return
        grouped = s.grouped
        topic = grouped.topic if grouped is not None and len(grouped.topic) == len(network) else None
        if self.by not in (*ORDERS, *network.item_columns):
            self.by = "topic"
            self.ordered.setText("by topic")
        self.matrix.show_network(network, topic, self.by)
        self.line.setText(f"{'brighter' if look().chart.name == 'dark' else 'darker'} is heavier")
        self._mark()

    def _mark(self) -> None:
        """Mark the tie selected."""
        tie = self.session.selection.tie
        self.matrix.select((self.session.item(tie[0]), self.session.item(tie[1])) if tie is not None else None)

    def _show_ties(self) -> None:
        network = self.session.related.network
        sentence = self.session.shown_strand.relate
        source, target, weight, count = network.source, network.target, network.weight, network.count
        self.line.setText(several(network.ties, "tie"))
        spans = [years(network.tie_first), years(network.tie_last)]
        columns = [
            Column("from" if network.directed else "one", lambda t: network.label[source[t]], None, 136),
            Column("to" if network.directed else "other", lambda t: network.label[target[t]], None, 136),
            Column("weight", lambda t: f"{weight[t]:.4g}", weight, 70),
            Column(counted_in(sentence), lambda t: f"{count[t]:,}", count, 96, faint=True),
            *_told_of_ties(network),
        ]
        if spans[0].any():
            columns += [
                Column("first", lambda t: str(spans[0][t] or "–"), spans[0], 52, faint=True),
                Column("last", lambda t: str(spans[1][t] or "–"), spans[1], 52, faint=True),
            ]
        self.ties.show_rows(columns, np.lexsort((-count, -weight)))

    def _tie_picked(self, tie: int) -> None:
        network = self.session.related.network
        self._cell_picked(int(network.source[tie]), int(network.target[tie]))

    def _cell_picked(self, i: int, j: int) -> None:
        network = self.session.related.network
        if i == j and not network.directed:
            self.session.select(Selection(items=(network.identity(i),)))
        else:
            self.session.select(Selection(tie=(network.identity(i), network.identity(j))))

    def _choose_order(self) -> None:
        popup = Popup(self)
        columns = self.session.related.network.item_columns if self.session.related is not None else ()
        for by in (*ORDERS, *(name for name in columns if name not in ORDERS)):
            popup.body.addWidget(Link(f"by {by}", lambda by=by: (popup.close(), self._order(by)), 13))
        popup.unfold(self.ordered)

    def _order(self, by: str) -> None:
        self.by = by
        self.ordered.setText(f"by {by}")
        self._show_view()

    def _copy(self) -> None:
        n = self.matrix.copy()
        self.session.said.emit("Copied", f"a table of {n:,} × {n:,} with its labels", "note")

    def _cut(self, value: float) -> None:
        if self.cut == "min_weight":
            self.session.set_recipe("relate", min_weight=float(value))
        else:
            self.session.set_recipe("relate", min_records=int(value))

    def _switch_cut(self) -> None:
        self.cut = "min_weight" if self.cut == "min_records" else "min_records"
        self.cutting.setText("by records" if self.cut == "min_weight" else "by weight")
        self._show_curves()

    def _show_curves(self) -> None:
        """How many items and ties each threshold would keep: of records, or of weight."""
        s = self.session
        if s.related is None:
            return
        f, r = s.related.filtered, s.shown_strand.relate
        if self.cut == "min_weight":
            self.curves.show_counts(f.weights, f.weight_items, f.weight_ties, r.min_weight, s.words(), "weight")
        else:
            at = np.arange(1, len(f.curve_items) + 1)
            self.curves.show_counts(at, f.curve_items, f.curve_ties, r.min_records, s.words(), "records")

    def _switch_scale(self) -> None:
        ways = Histogram.WAYS
        self.degrees.way = ways[(ways.index(self.degrees.way) + 1) % len(ways)]
        self.scale.setText(self.degrees.way)
        self.degrees.update()

    def _choose_measure(self) -> None:
        """Which measure's distribution is shown."""
        popup, grid = Popup(self), QGridLayout()
        grid.setHorizontalSpacing(20)
        grid.setVerticalSpacing(1)
        known = [m for m in MEASURES if not self.session.lacking(m) and not m.asked]
        for k, m in enumerate(known):
            link = Link(m.title, lambda name=m.name: (popup.close(), self._distribute(name)), 13)
            link.setToolTip(f"It says {m.reading}")
            grid.addWidget(link, k % 14, k // 14)
        popup.body.addLayout(grid)
        popup.unfold(self.measure)

    def _distribute(self, name: str) -> None:
        self.distributed = name
        self._show_distribution()

    def _show_distribution(self) -> None:
        """How often the values of a measure occur; the degree is there without being measured."""
        s, m = self.session, BY_NAME[self.distributed]
        if s.related is None:
            return
        if s.lacking(m):  # of a network that was looked at before
            self.distributed, m = "degree", BY_NAME["degree"]
        self.measure.setText(m.title)
        if m.name == "degree":
            self.degrees.show_values(s.related.network.degree(), f"ties of a {s.words(1)}")
            return
        s.show_beside([("measure", family(m.name))])
        found = s.measured(m.name)
        self.degrees.show_values(
            found if found is not None else np.zeros(0), m.title if found is not None else "measuring …"
        )

    def _select_between(self, low: float, high: float) -> None:
        """Select the items whose values lie between two."""
        s = self.session
        network = s.related.network
        values = network.degree().astype(float) if self.distributed == "degree" else s.measured(self.distributed)
        if values is not None:
            inside = np.flatnonzero((values >= low) & (values <= high))
            s.select(Selection(items=tuple(network.identity(i) for i in inside.tolist())))
            s.said.emit("Selected", f"{several(len(inside), 'item')} between {figure(low)} and {figure(high)}", "note")

    def bring_up_to_date(self) -> None:
        s = self.session
        if s.corpus is None:
            return
        self.recipe.say(*relate_words(s))
        self.strand.bring_up_to_date()
        if s.related is None:
            return
        self._show_curves()
        self._show_distribution()
        self._show_steps()
        self._show_view()
        self._show_why()

    def _show_steps(self) -> None:
        clear(self.steps)
        s, c = self.session, look()
        f = s.related.filtered
        network = f.network
        records = len(s.corpus)
        self.steps.addWidget(Share(f"{records:,} records", "gathered", 1.0, c.bar))
        for what, before, after, unit in f.steps:
            share = abs(before - after) / max(before, after, 1)
            if after == before:
                self.steps.addWidget(Share("", what, 0, c.bar))
            elif after > before:  # by hand
                self.steps.addWidget(Share(f"+ {after - before:,} {unit}", what, share, c.verdigris))
            else:
                self.steps.addWidget(Share(f"− {before - after:,} {unit}", what, share, c.ochre))
        for d, why in f.unapplied:
            self.steps.addWidget(Share("", f"not applied by hand: {told(d)}: {why}", 0, c.bar))
        if f.unmatched:
            these = ", ".join(f.unmatched[:3]) + (" …" if len(f.unmatched) > 3 else "")
            self.steps.addWidget(Share("", f"{several(len(f.unmatched), 'row')} joined to no item: {these}", 0, c.bar))
        n = len(network)
        parts = f.part
        sizes = np.bincount(parts) if n else np.zeros(0, int)
        alone = int((network.degree() == 0).sum())
        largest = f", {len(sizes):,} part{'s' * (len(sizes) != 1)}, largest {sizes[0]:,}" if n else ""
        largest += f", {alone:,} untied" if alone else ""
        whole = max(int(f.curve_items[0]), 1) if len(f.curve_items) else 1
        self.steps.addWidget(Share(f"{n:,} {s.words(n)}", f"{network.ties:,} ties{largest}", n / whole, c.umber))

    def _show_items(self) -> None:
        """The items, and below the line those the threshold leaves out, as far as suggestions may lift them."""
        s = self.session
        relate = s.shown_strand.relate
        rows = listed(s.related)

        def shown(name: str, v: Floats, digits: int) -> Column:
            return Column(name, lambda i: "–" if np.isnan(v[i]) else f"{v[i]:,.{digits}f}", v, 84)

        lifted = ""
        offers = s.offers.get(relate.of)
        if offers is not None and offers.effects and relate.min_records > 1:
            lift = sum(e.lifts() for e in offers.effects)
            lifted = f"; merges would lift {lift:,}" if lift else ""
        least = relate.min_records
        self.items.heading.setText(s.words().capitalize())
        self.line.setText(f"{rows.under:,} below {several(least, 'record')}{lifted}")
        titles = []
        if relate.kinds == ("record",):
            title = s.corpus.title
            titles = [
                Column(
                    "title",
                    lambda i: title[int(rows.thing[i])] if rows.thing[i] < len(title) else "made by hand",
                    None,
                    250,
                    serif=True,
                    faint=True,
                )
            ]
        cited = "cited by" if relate.tie == "co-citation" else "records"
        further = self._further_columns(len(rows.label))
        self.table.show_rows(
            [
                Column("name", lambda i: rows.label[i], None, 130 if titles else 150 if further else 230),
                *titles,
                Column(cited, lambda i: f"{rows.records[i]:,}", rows.records, 84),
                shown("ties", rows.ties, 0),
                shown("strength", rows.strength, 1),
                shown("part", rows.part, 0),
                *further,
            ],
            rows.order,
            below=rows.line,
        )
        selected = s.selection.items
        self.table.select_row(s.item(selected[0]) if len(selected) == 1 else -1)

    def _further_columns(self, rows: int) -> list[Column]:
        """The columns that are shown beside the table's own: years and citations where chosen, and what was joined."""
        network = self.session.related.network
        own = {
            "citations": network.citations.astype(float),
            "first year": np.where(years(network.first) > 0, years(network.first), np.nan),
            "last year": np.where(years(network.last) > 0, years(network.last), np.nan),
            "mean year": network.mean_year,
        }
        found = []
        for name in self.further:
            v = np.r_[own[name], np.full(rows - len(network), np.nan)]
            digits = 1 if name == "mean year" else 0
            found.append(Column(name, lambda i, v=v, d=digits: "–" if np.isnan(v[i]) else f"{v[i]:.{d}f}", v, 84))
        for name, column in network.item_columns.items():
            listed_ = [*column.listed(), *[None] * (rows - len(network))]
            values = np.array([v if isinstance(v, (int, float)) else np.nan for v in listed_], float)
            texts = ["–" if v is None else str(v) for v in listed_]
            numeric = values if np.isfinite(values).any() else None
            found.append(Column(name, lambda i, texts=texts: texts[i], numeric, 100, few=numeric is None))
        return found

    def _choose_columns(self) -> None:
        """Which columns are shown: those every item has, and those of the material, which are joined by name."""
        s, popup = self.session, Popup(self)
        joined = s.strand.relate.attributes

        def switch(name: str) -> None:
            popup.close()
            self.further = [n for n in FURTHER if (n in self.further) != (n == name)]
            self._show_view()

        def join(name: str) -> None:
            popup.close()
            s.set_recipe("relate", attributes=tuple(n for n in (*joined, name) if (n != name) or (name not in joined)))

        for name in FURTHER:
            mark = "hide" if name in self.further else "show"
            popup.body.addWidget(Link(f"{mark} {name}", lambda name=name: switch(name), 13))
        material = [(n, said) for n, said in column_options(s, 40) if n not in ("source",)]
        if material:
            popup.body.addWidget(Text("joined from the material by name", 11, faint=True))
        for name, said in material:
            row = Link(f"{'remove' if name in joined else 'join'} {name}", lambda name=name: join(name), 13)
            row.setToolTip(said)
            popup.body.addWidget(row)
        popup.unfold(self.columned)

    def _picked(self, row: int) -> None:
        network = self.session.related.network
        if row < len(network):
            self.session.select(Selection(items=(network.identity(row),)))
        else:
            self._show_below(row)

    def _show_below(self, row: int) -> None:
        """What is left out and could be brought in by hand."""
        counted = self.session.related.counted
        thing = int(listed(self.session.related).thing[row])
        things = counted.things
        kind = things.kinds[int(things.code()[thing])] if len(things.kinds) > 1 else things.kinds[0]
        name = escape(things.label[thing])
        self.why.fill(
            f'<p class="faint">Left out by the sentence</p><p class="title" style="margin:4px 0">{name}</p>'
            f"<p>in {several(int(counted.records[thing]), 'record')}</p>"
            f"<p>{link('bring', ((kind, things.form[thing]),), 'bring it in by hand')}</p>"
        )

    def _show_why(self) -> None:
        """The tie in question: the selected one, the selected item's strongest, or the strongest of all."""
        s = self.session
        if s.related is None or not s.related.network.ties:
            said = f"There is no tie: {emptied(s.related)}." if s.related is not None else "There is no tie yet."
            back = way_back(s.related) if s.related is not None else ""
            name = s.related.filtered.more[0] if back else ""
            cure = f'<p><a class="link" href="give:{name}">{escape(back)}</a></p>' if back else ""
            self.why.fill(f'<p class="faint">Why are they tied?</p><p>{escape(said)}</p>{cure}')
            return
        network = s.related.network
        sel = s.selection
        if s.row(sel) >= 0:
            self.why.fill(record_page_html(s, s.row(sel)))
            return
        pair = sel.tie
        if pair is None and len(sel.items) == 2:
            pair = (sel.items[0], sel.items[1])
        if pair is None or min(s.item(pair[0]), s.item(pair[1])) < 0:
            i = s.item(sel.items[0]) if len(sel.items) == 1 else -1
            t = strongest_tie(network, i if i >= 0 else None)
            if t < 0:
                self.why.fill(
                    f'<p class="faint">Why are they tied?</p><p>{escape(s.called(sel.items[0]))} has no ties.</p>'
                )
                return
            pair = (network.identity(int(network.source[t])), network.identity(int(network.target[t])))
        self.why.fill(tie_html(self.why, s, *pair))
