"""One suggestion at a time: its forms side by side, the evidence in words, what it would change, single keys."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QCheckBox,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QListView,
    QRadioButton,
    QVBoxLayout,
    QWidget,
)

from umber_knot.corpus.model import Decision
from umber_knot.desktop.parts import Elided, Link, Panel, Rule, Text, clear, scrolling
from umber_knot.desktop.plots import Ticks
from umber_knot.desktop.reconciling.offers import Offer, OfferRow, Offers
from umber_knot.desktop.reconciling.words import said
from umber_knot.desktop.sentence import Choice, Number, Sentence
from umber_knot.desktop.session import Session
from umber_knot.desktop.theme import look
from umber_knot.reconcile.suggestion import most_common, part_names, settled_by

ORDERS = (
    ("effect", "effect on the network", "what adds, thickens or takes out most ties first"),
    ("confidence", "confidence", "the surest first"),
    ("name", "name", "in the order of the alphabet"),
)
ASKED = {
    "person": "person",
    "keyword": "word",
    "venue": "venue",
    "institution": "institution",
    "place": "place",
    "reference": "work",
}
#: What is said below a form, by its kind: the first that most of its records have in common.
BESIDE = {
    "person": ("institution", "venue"),
    "keyword": ("venue",),
    "venue": ("keyword",),
    "institution": ("person",),
    "place": ("institution",),
}
_PARENTHESES = re.compile(r" \([^)]*\)")
MOST = 40  # forms shown of one suggestion


class Settle(QWidget):
    """The page of suggestions. ``preview`` is called with (offers, level) to show what taking many would change,
    ``ledger`` to open the ledger."""

    def __init__(self, session: Session, preview: Callable[[Any, float], object], ledger: Callable[[], object]) -> None:
        super().__init__()
        self.session, self.preview = session, preview
        self.order, self.level = "effect", 0.95
        self.later: set[tuple[object, ...]] = set()
        self.preferred = 0
        self.left_out: set[int] = set()  # places of forms that are not acted on
        self.basis: Any = None  # the offers that are shown
        self._listed: Any = None  # what the list was made for, and below what the rest was: it is kept while they stay
        self._told: Any = None
        self.names: list[QLineEdit] = []  # of the parts of a split, but the first
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(8)
        grid.addWidget(self._left(), 0, 0, 2, 1)
        grid.addWidget(self._centre(), 0, 1, 1, 2)
        effect = Panel("If settled so")
        self.effect_title = effect.heading
        self.effect = Text("", 13, wrap=True)
        effect.body.addWidget(self.effect)
        effect.body.addStretch(1)
        recent = Panel("Ledger")
        self.all_decisions = Link("", ledger, 12)
        recent.head.addWidget(self.all_decisions)
        self.recent = QVBoxLayout()
        self.recent.setSpacing(2)
        recent.body.addWidget(scrolling(self.recent), 1)
        for k, panel in enumerate((effect, recent)):
            panel.setFixedHeight(200)
            grid.addWidget(panel, 1, 1 + k)
        grid.setRowStretch(0, 1)
        grid.setColumnStretch(1, 1)
        grid.setColumnStretch(2, 1)

    def _left(self) -> QWidget:
        left = Panel(margins=(1, 8, 1, 8))
        self.head = Sentence(13)
        self.head.setContentsMargins(14, 0, 14, 2)
        left.body.addWidget(self.head)
        self.offers = Offers()
        self.list = QListView()
        self.list.setModel(self.offers)
        self.list.setItemDelegate(OfferRow(self.list))
        self.list.setUniformItemSizes(True)
        self.list.setAccessibleName("suggestions")
        self.list.selectionModel().currentChanged.connect(lambda *_: self._show_offer())
        left.body.addWidget(self.list, 1)
        self.accept = Sentence(13)
        self.accept.setContentsMargins(14, 4, 14, 0)
        left.body.addWidget(self.accept)
        row = QHBoxLayout()
        row.setContentsMargins(14, 0, 14, 0)
        self.see = Link("see what changes", self._preview, 12)
        row.addWidget(self.see)
        row.addStretch(1)
        left.body.addLayout(row)
        left.setFixedWidth(264)
        return left

    def _centre(self) -> QWidget:
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
        self.forms.setHorizontalSpacing(10)
        self.forms.setVerticalSpacing(2)
        self.forms.setContentsMargins(0, 0, 8, 0)
        self.forms_area = scrolling(self.forms)
        centre.body.addWidget(self.forms_area)
        reasons = QHBoxLayout()
        reasons.setSpacing(20)
        self.reasons_for, self.reasons_against = QVBoxLayout(), QVBoxLayout()
        for column in (self.reasons_for, self.reasons_against):
            column.setSpacing(4)
        reasons.addLayout(self.reasons_for, 1)
        reasons.addLayout(self.reasons_against, 1)
        centre.body.addSpacing(8)
        centre.body.addLayout(reasons)
        centre.body.addStretch(1)
        centre.body.addWidget(Rule())
        keys = QHBoxLayout()
        keys.setSpacing(14)
        self.keys = {
            "merge": Link("Merge", self.merge, key="M"),
            "apart": Link("Keep apart", self.keep_apart, key="K"),
            "split": Link("Split", self.split, key="S"),
            "aside": Link("Set aside", self.set_aside, key="X"),
            "prefer": Link("Prefer a spelling", self.prefer_next, key="1–9"),
            "later": Link("Later", self.skip, key="Space"),
        }
        for link in self.keys.values():
            keys.addWidget(link)
        keys.addStretch(1)
        keys.addWidget(Link("Undo", self.session.undo, key="U"))
        centre.body.addLayout(keys)
        return centre

    # -- showing

    @property
    def kind(self) -> str:
        return self.session.reconcile_kind

    def bring_up_to_date(self) -> None:
        s, basis = self.session, self._basis()
        listed = (self.kind, self.order, frozenset(self.later), s.shown.corpus_key)
        if basis is not self.basis or listed != self._listed:
            self.basis, self._listed, self._told = basis, listed, None
            self._list_offers()
        unapplied = [d.id for d, _ in s.shown.unapplied()]
        told = self.level, s.words(), s.recipe.reconcile, s.decisions, unapplied, s.shown.taken(), look(), self.height()
        if told != self._told:
            self._told = told
            self._show_sure()
            self._show_offer()
            self._show_recent()

    def _list_offers(self) -> None:
        """The suggestions in the chosen order; the place in the list stays."""
        s = self.session
        suggestions = self.basis.suggestions if self.basis is not None else ()
        effects = self.basis.effects if self.basis is not None and self.basis.effects else [None] * len(suggestions)
        forms, counts = (self.basis.forms if self.basis is not None else []), s.mentions(self.kind).counts()
        offers = [self._offer(o, e, forms, counts) for o, e in zip(suggestions, effects)]
        if self.order == "effect":
            offers.sort(key=lambda o: -(o.effect.weight() if o.effect else int(counts[list(o.suggestion.forms)].sum())))
        elif self.order == "name":
            offers.sort(key=lambda o: o.name.casefold())
        offers.sort(key=lambda o: self._same(o) in self.later)
        orders = ORDERS if any(effects) else (("effect", "records", "the most used first"), *ORDERS[1:])
        self.head.say("by", Choice(self.order, orders, self._set_order, "order"))
        row = self.list.currentIndex().row()
        self.offers.show(offers)
        if offers:
            self.list.setCurrentIndex(self.offers.index(min(max(row, 0), len(offers) - 1)))

    def _show_sure(self) -> None:
        """How many can be taken at once."""
        sure = self._sure()
        self.accept.say(
            "take all at or above",
            Number(
                self.level,
                0.5,
                0.99,
                self._set_level,
                0.01,
                "confidence",
                "suggestions to merge at this confidence and above",
                2,
            ),
            f": {len(sure):,} merges" if len(sure) != 1 else ": 1 merge",
        )
        self.accept.setVisible(bool(self.offers.offers))
        self.see.setVisible(bool(sure))

    def _basis(self) -> Any:
        """The offers of the kind looked at, where they are of the corpus that is shown."""
        found, mentions = self.session.offers.get(self.kind), self.session.mentions(self.kind)
        same = found is not None and found.corpus_key == self.session.shown.corpus_key
        return found if same and len(found.forms) <= len(mentions.forms) else None

    def _offer(self, s: Any, effect: Any, forms: Any, counts: np.ndarray) -> Offer:
        n = int(counts[list(s.forms)].sum())
        records = f"{n:,} record{'s' * (n != 1)}"
        below = {
            "merge": f"{len(s.forms)} spellings, {records}",
            "split": f"{len(s.parts)} {'people' if s.kind == 'person' else 'meanings'}? {records}",
            "aside": f"not a {ASKED.get(s.kind, s.kind)}? {records}",
        }[s.action]
        return Offer(s, effect, forms[s.forms[0]], below)

    @staticmethod
    def _same(offer: Offer) -> tuple[object, ...]:
        return (offer.suggestion.action, *offer.suggestion.forms)

    def _sure(self) -> list[Any]:
        return [
            o.suggestion
            for o in self.offers.offers
            if o.suggestion.confidence >= self.level and o.suggestion.action == "merge"
        ]

    def _set_order(self, order: object) -> None:
        self.order = str(order)
        self.bring_up_to_date()

    def _set_level(self, level: float) -> None:
        self.level = level
        self.bring_up_to_date()

    def _preview(self) -> None:
        if self.basis is not None:
            self.preview(replace(self.basis, suggestions=tuple(self._sure()), effects=()), self.level)

    def offer(self) -> Offer | None:
        row = self.list.currentIndex().row()
        return self.offers.offers[row] if 0 <= row < len(self.offers.offers) else None

    def _show_offer(self) -> None:
        self.preferred, self.left_out = 0, set()
        self._show_question()

    def _show_question(self) -> None:
        s, offer = self.session, self.offer()
        for layout in (self.forms, self.reasons_for, self.reasons_against):
            clear(layout)
        self.names = []
        action = offer.suggestion.action if offer else ""
        shown = {
            "merge": {"merge", "apart", "aside", "prefer", "later"},
            "split": {"split", "apart", "aside", "later"},
            "aside": {"aside", "apart", "later"},
        }.get(action, set())
        for name, link in self.keys.items():
            link.setVisible(name in shown)
        self.keys["apart"].setText(
            "Keep apart" if action == "merge" else "Keep whole" if action == "split" else "Keep it"
        )
        if offer is None:
            waiting = self.basis is None
            self.question.setText("Looking for variants …" if waiting else "Nothing waits")
            self.sure.setText(
                "" if waiting else "every suggestion is settled; by hand you can still change any spelling"
            )
            self.place.setText("")
            self.forms_area.setFixedHeight(10)
            self.effect_title.setText("")
            self.effect.setText("")
            return
        one = ASKED.get(self.kind, self.kind)
        many = "people" if one == "person" else f"{one}s"
        n = {1: "One", 2: "Two", 3: "Three", 4: "Four"}
        count = len(offer.suggestion.parts)
        self.question.setText(
            {
                "merge": f"One {one}?",
                "split": f"{n.get(count, count)} {many} under one name?",
                "aside": f"Not a {one}?",
            }[action]
        )
        self.sure.setText(f"right about {min(round(100 * offer.suggestion.confidence), 99)} times in 100")
        self.place.setText(f"{self.list.currentIndex().row() + 1:,} of {len(self.offers.offers):,}")
        rows = self._parts(offer) if action == "split" else self._spellings(offer)
        self.forms_area.setFixedHeight(min(24 + 42 * rows, max(150, self.height() - 430)))
        c = look()
        for layout, title, tint, reasons in (
            (self.reasons_for, "For", c.verdigris, offer.suggestion.reasons),
            (self.reasons_against, "Against", c.ochre, offer.suggestion.against),
        ):
            layout.addWidget(Text(title, 13, bold=True).tint(tint))
            for reason in reasons[:6]:
                layout.addWidget(Elided(reason, 13))
            if not reasons:
                layout.addWidget(Text("nothing found", 13, faint=True))
            layout.addStretch(1)
        self.effect_title.setText({"merge": "If merged", "split": "If split", "aside": "If set aside"}[action])
        if offer.effect is not None:
            self.effect.setText("\n".join(offer.effect.lines()))
        else:
            self.effect.setText(f"The network is of {s.words()}, so it stays as it is.")

    def _heading(self, name: str) -> tuple[int, int]:
        """The line above the forms; gives the first and last year of the study."""
        dated = self.session.corpus.year[self.session.corpus.year > 0]
        low, high = (int(dated.min()), int(dated.max())) if len(dated) else (0, 1)
        for k, text in enumerate(("", "", name, "records")):
            self.forms.addWidget(Text(text, 12, faint=True), 0, k)
        scale = QHBoxLayout()
        scale.addWidget(Text(str(low) if low else "", 12, faint=True))
        scale.addStretch(1)
        scale.addWidget(Text(str(high) if low else "", 12, faint=True))
        self.forms.addLayout(scale, 0, 4)
        self.forms.setColumnStretch(2, 3)
        self.forms.setColumnStretch(4, 4)
        return low, high

    def _spellings(self, offer: Offer) -> int:
        s, c = self.session, look()
        mentions = s.mentions(self.kind)
        low, high = self._heading("spelling")
        forms = self.basis.forms
        members = offer.suggestion.forms[:MOST]
        several = len(members) > 1
        for k, form in enumerate(members):
            records = np.unique(mentions.record[mentions.form == form])
            if several:
                inside = QCheckBox()
                inside.setChecked(k not in self.left_out)
                inside.setToolTip("clear to leave this spelling out of the decision")
                inside.setAccessibleName(f"take {forms[form]}")
                inside.toggled.connect(lambda on, n=k: self._take(n, on))
                self.forms.addWidget(inside, k + 1, 0)
                button = QRadioButton()
                button.setChecked(k == self.preferred)
                button.setToolTip(f"prefer this spelling ({k + 1})")
                button.setAccessibleName(f"prefer {forms[form]}")
                button.clicked.connect(lambda _=False, n=k: self.prefer(n))
                self.forms.addWidget(button, k + 1, 1)
            self._row(k + 1, self._name(forms[form]), records, low, high, c.umber if k == self.preferred else c.bar)
        self.forms.setRowStretch(len(members) + 1, 1)
        return len(members)

    def _name(self, text: str) -> QWidget:
        """A form as it is read; references are long, and told apart by their ends."""
        return Text(text, 13, serif_=True, wrap=True) if self.kind == "reference" else Elided(text, 16, serif_=True)

    def _parts(self, offer: Offer) -> int:
        s, c = self.session, look()
        form = self.basis.forms[offer.suggestion.forms[0]]
        low, high = self._heading("name")
        for k, (name, part) in enumerate(
            zip(part_names(s.corpus, form, offer.suggestion.parts), offer.suggestion.parts)
        ):
            widget: QWidget = Text(name, 16, serif_=True)
            if k:
                edit = QLineEdit(name)
                edit.setToolTip("the name these records get; change it as you like")
                edit.setAccessibleName(f"name of part {k + 1}")
                edit.setMinimumWidth(240)
                self.names.append(edit)
                widget = edit
            self._row(k + 1, widget, np.array(part), low, high, c.umber if k == 0 else c.verdigris)
        self.forms.setRowStretch(len(offer.suggestion.parts) + 1, 1)
        return len(offer.suggestion.parts)

    def _row(self, row: int, name: QWidget, records: np.ndarray, low: int, high: int, tint: str) -> None:
        box = QVBoxLayout()
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addWidget(name)
        told = (most_common(self.session.corpus, kind, records, 0.3) for kind in BESIDE.get(self.kind, ()))
        below = Elided(next(filter(None, told), ""), 11, faint=True)
        below.setMinimumWidth(220)
        box.addWidget(below)
        self.forms.addLayout(box, row, 2)
        number = Text(f"{len(records):,}", 14)
        number.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        self.forms.addWidget(number, row, 3)
        self.forms.addWidget(Ticks(self.session.corpus.year[records].tolist(), low, high, tint), row, 4)

    def _show_recent(self) -> None:
        clear(self.recent)
        s = self.session
        unapplied = {d.id: why for d, why in s.shown.unapplied()}
        mine = [d for d in reversed(s.decisions) if d.kind != "record"]
        self.all_decisions.setText(f"{len(mine):,} decision{'s' * (len(mine) != 1)}" if mine else "open")
        for d in mine[:12]:
            row = QHBoxLayout()
            text = Elided(said(d), 13)
            if d.id in unapplied:
                text.tint(look().madder)
            text.setToolTip(
                "\n".join(filter(None, [said(d), d.note, d.made.replace("T", " ")[:16], unapplied.get(d.id, "")]))
            )
            row.addWidget(text, 3)
            row.addWidget(Elided(_PARENTHESES.sub("", d.effect), 12, faint=True), 2)
            row.addWidget(Link("undo", lambda one=d: s.withdraw(one), 12))
            self.recent.addLayout(row)
        if not mine:
            self.recent.addWidget(Text("No decision by hand yet.", 12, faint=True))
        automatic = s.shown.taken()
        if automatic > 0:
            levels = ", ".join(f"{s.words(2, k)} {v:g}" for k, v in s.recipe.reconcile.accept.items())
            self.recent.addWidget(
                Text(f"{automatic:,} merges are taken by the recipe (at or above: {levels})", 12, faint=True, wrap=True)
            )
            self.recent.addWidget(Link("take none by recipe", lambda: s.set_recipe("reconcile", accept={}), 12))
        self.recent.addStretch(1)

    # -- deciding

    def _take(self, n: int, on: bool) -> None:
        self.left_out.discard(n) if on else self.left_out.add(n)

    def _chosen(self) -> Any:
        """The suggestion without the forms left out, the preferred one first; None where too few are left."""
        offer = self.offer()
        if offer is None or self.basis is None:
            return None
        forms = offer.suggestion.forms
        kept = [f for k, f in enumerate(forms) if k not in self.left_out and k != self.preferred]
        if self.preferred not in self.left_out:
            kept.insert(0, forms[self.preferred])
        return replace(offer.suggestion, forms=tuple(kept)) if kept else None

    def merge(self) -> None:
        one = self._chosen()
        if one is not None and one.action == "merge" and len(one.forms) > 1:
            self._decide(settled_by(one, self.session.corpus, self.basis.forms))

    def keep_apart(self) -> None:
        """Keep the forms apart; a name that was to be split or set aside stays whole."""
        one = self._chosen()
        if one is None:
            return
        forms = [self.basis.forms[f] for f in one.forms]
        pairs = [(a, b) for k, a in enumerate(forms) for b in forms[k + 1 :]] or [(forms[0], forms[0])]
        self._decide([Decision(self.basis.kind, "apart", a, b) for a, b in pairs])

    def split(self) -> None:
        offer = self.offer()
        if offer is not None and offer.suggestion.action == "split":
            made = settled_by(offer.suggestion, self.session.corpus, self.basis.forms)
            self._decide([replace(d, preferred=e.text().strip() or d.preferred) for d, e in zip(made, self.names)])

    def set_aside(self) -> None:
        one = self._chosen()
        if one is not None:
            forms, note = self.basis.forms, "; ".join(one.reasons)
            self._decide([Decision(self.basis.kind, "aside", forms[f], note=note) for f in one.forms])

    def _decide(self, decisions: list[Decision]) -> None:
        """Names cross into a decision, and the corpus they are of."""
        self.session.decide(decisions, basis=self.basis.corpus_key)

    def prefer(self, n: int) -> None:
        offer = self.offer()
        if offer is not None and n < len(offer.suggestion.forms):
            self.preferred = n
            self._show_question()

    def prefer_next(self) -> None:
        offer = self.offer()
        if offer is not None:
            self.prefer((self.preferred + 1) % len(offer.suggestion.forms))

    def skip(self) -> None:
        """Put the suggestion at the end of the list."""
        offer = self.offer()
        if offer is not None:
            self.later.add(self._same(offer))
            self.bring_up_to_date()
