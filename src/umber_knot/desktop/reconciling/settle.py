"""One suggestion at a time: a list to choose from, the question, what it would change, single keys."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QListView, QWidget

from umber_knot.corpus.model import Decision
from umber_knot.desktop.parts import Link, Panel, Rule, Text
from umber_knot.desktop.reconciling.offers import Offer, OfferRow, Offers
from umber_knot.desktop.reconciling.question import Question
from umber_knot.desktop.reconciling.recent import Recent
from umber_knot.desktop.reconciling.words import ASKED
from umber_knot.desktop.sentence import Choice, Number, Sentence
from umber_knot.desktop.session import Session
from umber_knot.desktop.theme import look

ORDERS = (
    ("effect", "effect on the network", "what adds, thickens or takes out most ties first"),
    ("confidence", "confidence", "the surest first"),
    ("name", "name", "in the order of the alphabet"),
)
#: What can be done with a suggestion, by what it proposes.
KEYS = {
    "merge": {"merge", "apart", "aside", "prefer", "later"},
    "split": {"split", "apart", "aside", "later"},
    "aside": {"aside", "apart", "later"},
}


class Settle(QWidget):
    """The page of suggestions. ``preview`` is called with (offers, level) to show what taking many would change,
    ``ledger`` to open the ledger."""

    def __init__(self, session: Session, preview: Callable[[Any, float], object], ledger: Callable[[], object]) -> None:
        super().__init__()
        self.session, self.preview = session, preview
        self.order, self.level = "effect", 0.95
        self.later: set[tuple[object, ...]] = set()
        self.basis: Any = None  # the offers that are shown
        self._listed: Any = None  # what the list was made for, and below what the rest was: it is kept while they stay
        self._told: Any = None
        self.question, self.recent = Question(session), Recent(session, ledger)
        self._add_keys()
        effect = Panel("If settled so")
        self.effect_title = effect.heading
        self.effect = Text("", 13, wrap=True)
        effect.body.addWidget(self.effect)
        effect.body.addStretch(1)
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(8)
        grid.addWidget(self._left(), 0, 0, 2, 1)
        grid.addWidget(self.question, 0, 1, 1, 2)
        for k, panel in enumerate((effect, self.recent)):
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

    def _add_keys(self) -> None:
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
        self.question.body.addWidget(Rule())
        self.question.body.addLayout(keys)

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
            self.recent.bring_up_to_date()

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
        offer, row = self.offer(), self.list.currentIndex().row()
        action = offer.suggestion.action if offer else ""
        for name, link in self.keys.items():
            link.setVisible(name in KEYS.get(action, ()))
        self.keys["apart"].setText({"split": "Keep whole", "aside": "Keep it"}.get(action, "Keep apart"))
        place = f"{row + 1:,} of {len(self.offers.offers):,}" if offer else ""
        self.question.ask(self.basis, offer, place, max(150, self.height() - 430))
        self.effect_title.setText({"merge": "If merged", "split": "If split", "aside": "If set aside"}.get(action, ""))
        if offer is None:
            self.effect.setText("")
        elif offer.effect is not None:
            self.effect.setText("\n".join(offer.effect.lines()))
        else:
            self.effect.setText(f"The network is of {self.session.words()}, so it stays as it is.")

    # -- deciding

    def merge(self) -> None:
        self._decide(self.question.merged())

    def keep_apart(self) -> None:
        self._decide(self.question.kept_apart())

    def split(self) -> None:
        self._decide(self.question.parted())

    def set_aside(self) -> None:
        self._decide(self.question.put_aside())

    def _decide(self, decisions: list[Decision]) -> None:
        """Names cross into a decision, and the corpus they are of."""
        if decisions:
            self.session.decide(decisions, basis=self.basis.corpus_key)

    def prefer(self, n: int) -> None:
        self.question.prefer(n)

    def prefer_next(self) -> None:
        self.question.prefer_next()

    def skip(self) -> None:
        """Put the suggestion at the end of the list."""
        offer = self.offer()
        if offer is not None:
            self.later.add(self._same(offer))
            self.bring_up_to_date()
