"""Reconcile: suggestions settled one by one with single keys, all spellings by hand, and the ledger."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
from PyQt6.QtCore import QAbstractListModel, QModelIndex, QRect, QRectF, QSize, Qt
from PyQt6.QtGui import QKeyEvent, QKeySequence, QPainter, QShortcut
from PyQt6.QtWidgets import (
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QListView,
    QRadioButton,
    QScrollArea,
    QStackedWidget,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from umber_knot.corpus.model import Decision
from umber_knot.desktop.desks.base import Desk
from umber_knot.desktop.parts import Link, Panel, Rule, Text, clear
from umber_knot.desktop.plots import Ticks
from umber_knot.desktop.sentence import Choice
from umber_knot.desktop.session import Session
from umber_knot.desktop.tables import Column, Table
from umber_knot.desktop.theme import colour, look, sans
from umber_knot.errors import UserError
from umber_knot.reconcile.decisions import decisions_csv, read_decisions

KINDS = (("person", "people", "names of authors"), ("keyword", "words", "keywords of the records"))
ORDERS = ("confidence", "records touched", "name")


class Offers(QAbstractListModel):
    """The suggestions waiting, in the chosen order."""

    def __init__(self) -> None:
        super().__init__()
        self.offers: list[Any] = []
        self.text: list[tuple[str, str]] = []

    def show(self, offers: list[Any], text: list[tuple[str, str]]) -> None:
        self.beginResetModel()
        self.offers, self.text = offers, text
        self.endResetModel()

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:
        return len(self.offers)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return f"{self.text[index.row()][0]}, {self.offers[index.row()].confidence:.2f}"
        return None


class OfferRow(QStyledItemDelegate):
    """A name, what it joins, its confidence as a number and a bar."""

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(100, 54)

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        assert painter is not None
        model = index.model()
        assert isinstance(model, Offers)
        name, below = model.text[index.row()]
        confidence = model.offers[index.row()].confidence
        c, r = look(), option.rect
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        painter.save()
        if chosen:
            painter.fillRect(r, colour(c.wash))
            painter.fillRect(QRect(r.left(), r.top(), 3, r.height()), colour(c.umber))
        painter.setPen(colour(c.ink))
        painter.setFont(sans(13, chosen))
        m = painter.fontMetrics()
        painter.drawText(QRect(r.left() + 14, r.top() + 5, r.width() - 74, 18), Qt.AlignmentFlag.AlignVCenter,
                         m.elidedText(name, Qt.TextElideMode.ElideRight, r.width() - 74))  # fmt: skip
        painter.setFont(sans(12))
        painter.setPen(colour(c.faint))
        painter.drawText(
            QRect(r.right() - 56, r.top() + 5, 44, 18), Qt.AlignmentFlag.AlignRight, f"{min(confidence, 0.99):.2f}"
        )
        m = painter.fontMetrics()
        painter.drawText(QRect(r.left() + 14, r.top() + 23, r.width() - 28, 18), Qt.AlignmentFlag.AlignVCenter,
                         m.elidedText(below, Qt.TextElideMode.ElideRight, r.width() - 28))  # fmt: skip
        wide = r.width() - 28
        painter.fillRect(QRectF(r.left() + 14, r.top() + 44, wide, 3), colour(c.line, 0.5))
        tint = c.verdigris if confidence >= 0.6 else c.bar
        painter.fillRect(
            QRectF(r.left() + 14, r.top() + 44, wide * confidence, 3), colour(tint, 0.35 + 0.65 * confidence)
        )
        painter.fillRect(QRect(r.left(), r.bottom(), r.width(), 1), colour(c.chrome))
        painter.restore()


class ReconcileDesk(Desk):
    shows = ("gather", "reconcile", "relate", "suggest:person", "suggest:keyword")

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.also = Link("", lambda: self._choose_kind(self._other()))
        self.top.addWidget(self.also)
        self.by_hand = Link("all spellings, by hand", self._switch)
        self.top.addWidget(self.by_hand)
        self.order = ORDERS[0]
        self.later: set[tuple[int, ...]] = set()
        self.preferred = 0
        self.pages = QStackedWidget()
        self.pages.addWidget(self._settle_page())
        self.pages.addWidget(self._hand_page())
        self.body.addWidget(self.pages, 1)
        for key, action in (
            ("M", self.merge), ("K", self.keep_apart), ("X", self.set_aside), ("P", self.prefer), ("Space", self.skip), ("U", session.undo),
        ):  # fmt: skip
            shortcut = QShortcut(QKeySequence(key), self)
            shortcut.setContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
            shortcut.activated.connect(action)
        for n in range(1, 10):
            shortcut = QShortcut(QKeySequence(str(n)), self)
            shortcut.setContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
            shortcut.activated.connect(lambda n=n: self._prefer(n - 1))

    # -- the page of suggestions

    def _settle_page(self) -> QWidget:
        page = QWidget()
        grid = QGridLayout(page)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(8)
        left = Panel(margins=(0, 8, 0, 8))
        head = QHBoxLayout()
        head.setContentsMargins(14, 0, 14, 4)
        head.addWidget(Text("by", faint=True))
        self.order_link = Link(self.order, self._next_order)
        head.addWidget(self.order_link)
        head.addStretch(1)
        left.body.addLayout(head)
        self.offers = Offers()
        self.list = QListView()
        self.list.setModel(self.offers)
        self.list.setItemDelegate(OfferRow(self.list))
        self.list.setUniformItemSizes(True)
        self.list.setAccessibleName("suggestions")
        self.list.selectionModel().currentChanged.connect(lambda *_: self._show_offer())
        left.body.addWidget(self.list, 1)
        self.accept_row = QHBoxLayout()
        self.accept_row.setContentsMargins(14, 4, 14, 0)
        left.body.addLayout(self.accept_row)
        left.setFixedWidth(264)
        grid.addWidget(left, 0, 0, 2, 1)
        centre = Panel(margins=(20, 14, 20, 10))
        title = QHBoxLayout()
        title.setSpacing(12)
        self.question = Text("", 22, serif_=True)
        self.sure = Text("", 12, faint=True)
        self.place = Text("", 12, faint=True)
        for widget in (self.question, self.sure):
            title.addWidget(widget)
        title.addStretch(1)
        title.addWidget(self.place)
        centre.body.addLayout(title)
        self.forms = QGridLayout()
        self.forms.setHorizontalSpacing(12)
        self.forms.setVerticalSpacing(2)
        holder = QWidget()
        holder.setLayout(self.forms)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setWidget(holder)
        self.forms_scroll = scroll
        centre.body.addWidget(scroll)
        reasons = QHBoxLayout()
        self.reasons_for, self.reasons_against = QVBoxLayout(), QVBoxLayout()
        reasons.addLayout(self.reasons_for, 1)
        reasons.addLayout(self.reasons_against, 1)
        centre.body.addSpacing(10)
        centre.body.addLayout(reasons)
        centre.body.addStretch(1)
        centre.body.addWidget(Rule())
        keys = QHBoxLayout()
        keys.setSpacing(16)
        self.keys = [
            Link("Merge", self.merge, key="M"), Link("Keep apart", self.keep_apart, key="K"),
            Link("Set aside", self.set_aside, key="X"), Link("Prefer", self.prefer, key="1–9"), Link("Later", self.skip, key="Space"),
        ]  # fmt: skip
        for link in self.keys:
            keys.addWidget(link)
        keys.addStretch(1)
        keys.addWidget(Link("Undo", self.session.undo, key="U"))
        centre.body.addLayout(keys)
        grid.addWidget(centre, 0, 1, 1, 2)
        effect = Panel("If merged")
        self.effect = Text("", 13, wrap=True)
        self.effect.setTextFormat(Qt.TextFormat.PlainText)
        effect.body.addWidget(self.effect)
        effect.body.addStretch(1)
        ledger = Panel("Ledger")
        ledger.head.addWidget(Link("bring in", self._import))
        ledger.head.addWidget(Link("save as CSV", self._export))
        self.ledger = QVBoxLayout()
        self.ledger.setSpacing(2)
        inner = QWidget()
        inner.setLayout(self.ledger)
        ledger_scroll = QScrollArea()
        ledger_scroll.setWidgetResizable(True)
        ledger_scroll.setWidget(inner)
        ledger.body.addWidget(ledger_scroll, 1)
        for k, panel in enumerate((effect, ledger)):
            panel.setFixedHeight(214)
            grid.addWidget(panel, 1, 1 + k)
        grid.setRowStretch(0, 1)
        grid.setColumnStretch(1, 1)
        grid.setColumnStretch(2, 1)
        return page

    # -- the page of all spellings

    def _hand_page(self) -> QWidget:
        page = QWidget()
        layout = QVBoxLayout(page)
        layout.setContentsMargins(0, 0, 0, 0)
        panel = Panel("All spellings")
        self.search = QLineEdit()
        self.search.setPlaceholderText("find a spelling")
        self.search.setFixedWidth(240)
        self.search.textChanged.connect(self._show_forms)
        self.form_count = Text("", 12, faint=True)
        panel.head.addWidget(Text("/", 12, faint=True))
        panel.head.addWidget(self.search)
        panel.head.addWidget(self.form_count)
        self.table = Table(many=True)
        self.table.selectionModel().selectionChanged.connect(lambda *_: self._say_chosen())
        panel.body.addWidget(self.table, 1)
        keys = QHBoxLayout()
        keys.setSpacing(16)
        for text, action, key in (
            ("Merge the selected into the first", self.merge, "M"), ("Keep the two apart", self.keep_apart, "K"),
            ("Set aside", self.set_aside, "X"), ("Prefer this spelling", self.prefer, "P"),
        ):  # fmt: skip
            keys.addWidget(Link(text, action, key=key))
        keys.addStretch(1)
        self.hand_note = Text("", 12, faint=True)
        keys.addWidget(self.hand_note)
        panel.body.addLayout(keys)
        layout.addWidget(panel)
        return page

    def _switch(self) -> None:
        self.pages.setCurrentIndex(1 - self.pages.currentIndex())
        self.by_hand.setText("one suggestion at a time" if self.pages.currentIndex() else "all spellings, by hand")
        self.bring_up_to_date()

    def focus_filter(self) -> None:
        if self.pages.currentIndex() == 0:
            self._switch()
        self.search.setFocus()

    # -- showing

    @property
    def kind(self) -> str:
        return self.session.reconcile_kind

    def _other(self) -> str:
        return next(k for k, _, _ in KINDS if k != self.kind)

    def _choose_kind(self, kind: object) -> None:
        self.session.reconcile_kind, self.session.reviewing = str(kind), True
        self.bring_up_to_date()

    def bring_up_to_date(self) -> None:
        s = self.session
        if s.corpus is None:
            return
        mentions = s.corpus.of(self.kind)
        counts = mentions.counts()
        spelled = int((counts > 0).sum())
        resolution = s.open_resolution.get(self.kind)
        words = Choice(self.kind, KINDS, self._choose_kind, "kind")
        if resolution is None:
            self.sentence.say("Reconcile", words, f": {spelled:,} spellings; looking for variants …")
        else:
            entities = len(np.unique(resolution.entity[counts > 0]))
            n = len(s.suggestions[self.kind])
            waits = f"{n:,} suggestion{'s' * (n != 1)} wait{'s' * (n == 1)}" if n else "no suggestion waits"
            self.sentence.say("Reconcile", words, f": {spelled:,} spellings stand for {entities:,}; {waits}")
        other = self._other()
        waiting = len(s.suggestions.get(other, ()))
        self.also.setText(f"also {waiting:,} of {s.words(2, other)}")
        self.also.setVisible(waiting > 0)
        self._show_offers()
        self._show_ledger()
        if self.pages.currentIndex() == 1:
            self._show_forms()

    def _show_offers(self) -> None:
        s = self.session
        mentions = s.corpus.of(self.kind)
        counts = mentions.counts()
        offers = list(s.suggestions.get(self.kind, []))
        if self.order == "records touched":
            offers.sort(key=lambda o: -int(counts[list(o.forms)].sum()))
        elif self.order == "name":
            offers.sort(key=lambda o: mentions.forms[o.forms[0]].casefold())
        offers.sort(key=lambda o: o.forms in self.later)
        text = [
            (mentions.forms[o.forms[0]], f"{len(o.forms)} spellings, {counts[list(o.forms)].sum():,} records")
            for o in offers
        ]
        row = self.list.currentIndex().row()
        self.offers.show(offers, text)
        clear(self.accept_row)
        if offers:
            self.list.setCurrentIndex(self.offers.index(min(max(row, 0), len(offers) - 1)))
            sure = sum(o.confidence >= 0.95 for o in offers)
            if sure:
                self.accept_row.addWidget(Link(f"take the {sure:,} at or above 0.95", self.accept_sure, 12))
        self.accept_row.addStretch(1)
        self._show_offer()

    def _next_order(self) -> None:
        self.order = ORDERS[(ORDERS.index(self.order) + 1) % len(ORDERS)]
        self.order_link.setText(self.order)
        self._show_offers()

    def offer(self) -> Any:
        row = self.list.currentIndex().row()
        return self.offers.offers[row] if 0 <= row < len(self.offers.offers) else None

    def _show_offer(self) -> None:
        self.preferred = 0
        self._show_question()

    def _show_question(self) -> None:
        s, c, offer = self.session, look(), self.offer()
        for layout in (self.forms, self.reasons_for, self.reasons_against):
            clear(layout)
        for link in self.keys:
            link.setVisible(offer is not None)
        if offer is None:
            waiting = self.kind not in s.suggestions
            self.question.setText("Looking for variants …" if waiting else "Nothing waits")
            self.sure.setText(
                "" if waiting else "every suggestion is settled; by hand you can still change any spelling"
            )
            self.place.setText("")
            self.forms_scroll.setFixedHeight(10)
            self.effect.setText("")
            return
        one = "person" if self.kind == "person" else "word"
        self.question.setText(f"One {one}?")
        self.sure.setText(f"confidence {min(offer.confidence, 0.99):.2f}")
        self.place.setText(f"{self.list.currentIndex().row() + 1:,} of {len(self.offers.offers):,}")
        mentions = s.corpus.of(self.kind)
        counts = mentions.counts()
        dated = s.corpus.year[s.corpus.year > 0]
        low, high = (int(dated.min()), int(dated.max())) if len(dated) else (0, 1)
        for k, text in enumerate(("", "spelling", "records")):
            self.forms.addWidget(Text(text, 12, faint=True), 0, k)
        scale = QHBoxLayout()
        scale.addWidget(Text(str(low) if low else "", 12, faint=True))
        scale.addStretch(1)
        scale.addWidget(Text(str(high) if low else "", 12, faint=True))
        self.forms.addLayout(scale, 0, 3)
        for k, form in enumerate(offer.forms[:40]):
            button = QRadioButton()
            button.setChecked(k == self.preferred)
            button.setToolTip(f"prefer this spelling ({k + 1})")
            button.setAccessibleName(f"prefer {mentions.forms[form]}")
            button.clicked.connect(lambda _=False, n=k: self._prefer(n))
            self.forms.addWidget(button, k + 1, 0)
            self.forms.addWidget(Text(mentions.forms[form], 17, serif_=True), k + 1, 1)
            number = Text(f"{counts[form]:,}", 14)
            number.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            self.forms.addWidget(number, k + 1, 2)
            years = s.corpus.year[mentions.record[mentions.form == form]].tolist()
            self.forms.addWidget(Ticks(years, low, high, c.umber if k == self.preferred else c.bar), k + 1, 3)
        self.forms.setColumnStretch(3, 1)
        self.forms_scroll.setFixedHeight(min(34 + 36 * min(len(offer.forms), 40), max(150, self.height() - 470)))
        self.forms.setRowStretch(len(offer.forms) + 2, 1)
        for layout, title, tint, reasons in (
            (self.reasons_for, "For", c.verdigris, offer.reasons), (self.reasons_against, "Against", c.ochre, offer.against),
        ):  # fmt: skip
            layout.addWidget(Text(title, 13, bold=True).tint(tint))
            for reason in reasons or ("nothing found",):
                layout.addWidget(Text(reason, 13, wrap=True))
            layout.addStretch(1)
        self._show_effect(offer)

    def _show_effect(self, offer: Any) -> None:
        s = self.session
        mentions = s.corpus.of(self.kind)
        counts = mentions.counts()
        together = len(np.unique(mentions.record[np.isin(mentions.form, offer.forms)]))
        lines = [f"{together:,} records together, under “{mentions.forms[offer.forms[self.preferred]]}”"]
        recipe = s.recipe.relate
        if recipe.of == self.kind and s.related is not None:
            below = [f for f in offer.forms if counts[f] < recipe.min_records]
            if recipe.min_records > 1:
                passes = together >= recipe.min_records
                lines[0] += f"; {'passes' if passes else 'stays below'} your minimum of {recipe.min_records}"
                if passes and below:
                    lines.append(f"{len(below)} spelling{'s' * (len(below) != 1)} would be below it alone")
            counted, resolution = s.related.counted, s.reconciled.by_kind[self.kind]
            touched = np.unique(resolution.entity[list(offer.forms)])
            if len(touched) > 1:
                near = [
                    np.unique(np.r_[counted.target[counted.source == e], counted.source[counted.target == e]])
                    for e in touched
                ]
                everyone, times = np.unique(np.concatenate(near), return_counts=True)
                thicker = int((times > 1).sum())
                lines.append(
                    f"{thicker:,} tie{'s' * (thicker != 1)} become one and thicker; tied to {len(everyone):,} in all"
                )
                lines.append(f"{len(touched) - 1} fewer {s.words(2, self.kind)} before filters")
        else:
            lines.append(f"the network is of {s.words()}, so it stays as it is" if recipe.of != self.kind else "")
        self.effect.setText("\n".join(filter(None, lines)))

    def _show_ledger(self) -> None:
        clear(self.ledger)
        resolutions = self.session.reconciled.by_kind.values() if self.session.reconciled else ()
        unapplied = {d.id: why for r in resolutions for d, why in r.unapplied}
        mine = list(reversed(self.session.decisions))
        for d in mine[:60]:
            row = QHBoxLayout()
            arrow = {"merge": f"merge {d.form} → {d.preferred}", "apart": f"keep apart {d.form} and {d.preferred}",
                     "aside": f"set aside “{d.form}”", "prefer": f"prefer “{d.preferred}” for {d.form}",
                     "split": f"split off {d.form}"}[d.decision]  # fmt: skip
            text = Text(arrow, 13)
            text.setToolTip(
                "\n".join(filter(None, [arrow, d.note, d.made.replace("T", " ")[:16], unapplied.get(d.id, "")]))
            )
            if d.id in unapplied:
                text.tint(look().madder)
            text.setMinimumWidth(60)
            text.setSizePolicy(text.sizePolicy().Policy.Ignored, text.sizePolicy().verticalPolicy())
            row.addWidget(text, 1)
            row.addWidget(Link("undo", lambda one=d: self.session.withdraw(one), 12))
            self.ledger.addLayout(row)
        automatic = len(self.session.reconciled.ledger) - len(self.session.decisions) if self.session.reconciled else 0
        if len(mine) > 60:
            self.ledger.addWidget(
                Text(f"{len(mine) - 60:,} earlier decisions; save as CSV to read them all", 12, faint=True)
            )
        if not mine:
            self.ledger.addWidget(Text("No decision by hand yet.", 12, faint=True))
        if automatic > 0:
            levels = ", ".join(
                f"{self.session.words(2, k)} {v:g}" for k, v in self.session.recipe.reconcile.accept.items()
            )
            note = f"{automatic:,} merges are taken by the recipe (suggestions at or above: {levels})"
            self.ledger.addWidget(Text(note, 12, faint=True, wrap=True))
            self.ledger.addWidget(
                Link("take none by recipe", lambda: self.session.set_recipe("reconcile", accept={}), 12)
            )
        self.ledger.addStretch(1)

    def _show_forms(self) -> None:
        s = self.session
        mentions = s.corpus.of(self.kind)
        counts = mentions.counts()
        resolution = (s.reconciled.by_kind.get(self.kind) if s.reconciled else None) or s.open_resolution.get(self.kind)
        if resolution is None or len(resolution.entity) != len(mentions.forms):
            return
        sizes = np.bincount(resolution.entity, minlength=len(resolution.label))

        def stands(f: int) -> str:
            e = resolution.entity[f]
            if resolution.aside[e]:
                return "set aside"
            return resolution.label[e] if resolution.label[e] != mentions.forms[f] else "–"

        text = self.search.text().casefold().split()
        rows = [f for f in np.flatnonzero(counts).tolist() if all(t in mentions.forms[f].casefold() for t in text)]
        order = np.array(sorted(rows, key=lambda f: (-counts[f], mentions.forms[f].casefold())), np.int64)
        self.table.show_rows([
            Column("spelling", lambda f: mentions.forms[f], None, 380, serif=True),
            Column("records", lambda f: f"{counts[f]:,}", counts, 90),
            Column("stands for", stands, None, 300),
            Column("spellings of it", lambda f: f"{sizes[resolution.entity[f]]}", sizes[resolution.entity], 110, faint=True),
        ], order)  # fmt: skip
        self.form_count.setText(f"{len(order):,} of {int((counts > 0).sum()):,}")

    def _say_chosen(self) -> None:
        chosen = self.table.chosen()
        forms = self.session.corpus.of(self.kind).forms
        self.hand_note.setText(f"{len(chosen)} selected, first: {forms[chosen[0]]}" if chosen else "")

    # -- deciding

    def _chosen_forms(self) -> list[str]:
        """The forms a key acts on, the preferred one first."""
        forms = self.session.corpus.of(self.kind).forms
        if self.pages.currentIndex() == 1:
            return [forms[f] for f in self.table.chosen()]
        offer = self.offer()
        if offer is None:
            return []
        order = [offer.forms[self.preferred], *(f for k, f in enumerate(offer.forms) if k != self.preferred)]
        return [forms[f] for f in order]

    def _prefer(self, n: int) -> None:
        offer = self.offer()
        if self.pages.currentIndex() == 0 and offer is not None and n < len(offer.forms):
            self.preferred = n
            self._show_question()

    def merge(self) -> None:
        forms = self._chosen_forms()
        offer = self.offer() if self.pages.currentIndex() == 0 else None
        note = "; ".join(offer.reasons) if offer is not None else "by hand"
        if len(forms) > 1:
            self.session.decide([Decision(self.kind, "merge", form, forms[0], note=note) for form in forms[1:]])

    def keep_apart(self) -> None:
        forms = self._chosen_forms()
        if len(forms) > 1:
            self.session.decide([
                Decision(self.kind, "apart", a, b) for k, a in enumerate(forms) for b in forms[k + 1 :]
            ])  # fmt: skip

    def set_aside(self) -> None:
        self.session.decide([Decision(self.kind, "aside", form) for form in self._chosen_forms()])

    def prefer(self) -> None:
        forms = self._chosen_forms()
        if forms:
            self.session.decide([Decision(self.kind, "prefer", forms[0], forms[0])])

    def skip(self) -> None:
        """Put the suggestion at the end of the list."""
        offer = self.offer()
        if offer is not None:
            self.later.add(offer.forms)
            self._show_offers()

    def accept_sure(self) -> None:
        forms = self.session.corpus.of(self.kind).forms
        merges = [
            Decision(self.kind, "merge", forms[f], forms[o.forms[0]], note=f"taken at {o.confidence:.2f}: " + "; ".join(o.reasons))
            for o in self.offers.offers if o.confidence >= 0.95 for f in o.forms[1:]
        ]  # fmt: skip
        self.session.decide(merges, f"take all at or above 0.95: {len(merges)} merges")

    def _export(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Save the ledger", "decisions.csv", "CSV (*.csv)")
        if name:
            try:
                Path(name).write_text(decisions_csv(self.session.decisions), encoding="utf-8", newline="")
            except OSError as error:
                self.session.said.emit("Not saved", f"{name}: {error.strerror}", "fault")

    def _import(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Bring in decisions", "", "CSV (*.csv)")
        if not name:
            return
        try:
            found, problems = read_decisions(Path(name))
        except UserError as error:
            self.session.said.emit("Not read", str(error), "fault")
            return
        self.session.decide(found, f"bring in {len(found):,} decisions from {Path(name).name}")
        if problems:
            self.session.said.emit(f"{len(problems)} rows left out", problems[0], "fault")

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down) and self.pages.currentIndex() == 0:
            self.list.setFocus()
            self.list.keyPressEvent(event)
        else:
            super().keyPressEvent(event)
