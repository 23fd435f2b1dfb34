"""Reconcile: suggestions settled one by one with single keys, all spellings by hand, rules, and the ledger."""

from __future__ import annotations

from typing import Any

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent, QKeySequence, QShortcut
from PyQt6.QtWidgets import QHBoxLayout, QStackedWidget, QVBoxLayout, QWidget

from umber_knot.corpus.model import KIND_WORDS
from umber_knot.desktop.desks.base import Desk
from umber_knot.desktop.parts import Link, Panel, Text, clear
from umber_knot.desktop.reconciling.by_hand import ByHand
from umber_knot.desktop.reconciling.ledger import Ledger
from umber_knot.desktop.reconciling.rules import Rules
from umber_knot.desktop.reconciling.settle import Settle
from umber_knot.desktop.sentence import Choice
from umber_knot.desktop.session import REVIEWED, Session
from umber_knot.desktop.tables import Column, Table
from umber_knot.reconcile.suggestion import settled_by
from umber_knot.relate.offers import Offers

PAGES = ("settle", "hand", "rules", "ledger", "preview")
MEANING = {
    "person": "names of people",
    "keyword": "keywords of the records",
    "venue": "journals and other venues",
    "institution": "where people work",
    "place": "places named",
    "reference": "cited works",
    "term": "found in titles, abstracts and texts",
}


class ReconcileDesk(Desk):
    shows = (
        "gather",
        "reconcile",
        "terms",
        "relate",
        "ledger",
        "strand",
        "spellings",
        *(f"suggest:{kind}" for kind in REVIEWED),
    )
    needs = frozenset({"gather", "reconcile"})

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.also = QHBoxLayout()
        self.also.setSpacing(10)
        self.top.addLayout(self.also)
        self.settle = Settle(session, self._preview, lambda: self.show_page("ledger"))
        self.hand, self.rules, self.ledger = ByHand(session), Rules(session), Ledger(session)
        self.preview = _Preview(session, lambda: self.show_page("settle"))
        self.pages = QStackedWidget()
        for page in (self.settle, self.hand, self.rules, self.ledger, self.preview):
            self.pages.addWidget(page)
        self.body.addWidget(self.pages, 1)
        for key, deed in (
            ("M", "merge"),
            ("K", "keep_apart"),
            ("S", "split"),
            ("X", "set_aside"),
            ("P", "prefer_next"),
            ("Space", "skip"),
            ("R", "rename"),
            ("U", ""),
            ("Del", "undo_selected"),
        ):
            self._on(key, (lambda name=deed: self._do(name)) if deed else session.undo)
        for n in range(1, 10):
            self._on(str(n), lambda n=n: self.page is self.settle and self.settle.prefer(n - 1))

    def _on(self, key: str, action: Any) -> None:
        shortcut = QShortcut(QKeySequence(key), self)
        shortcut.setContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
        shortcut.activated.connect(action)

    def _do(self, name: str) -> None:
        """What a key does on the page that is looked at."""
        deed = getattr(self.page, name, None)
        if deed is not None:
            deed()

    @property
    def page(self) -> Any:
        return self.pages.currentWidget()

    @property
    def kind(self) -> str:
        return self.session.reconcile_kind

    def show_page(self, name: str) -> None:
        self.pages.setCurrentIndex(PAGES.index(name))
        self.bring_up_to_date()

    def focus_filter(self) -> None:
        if self.page is self.ledger:
            self.ledger.filter.setFocus()
            return
        self.show_page("hand")
        self.hand.search.setFocus()

    def _choose_kind(self, kind: object) -> None:
        self.session.review(str(kind))
        if self.page is self.preview:  # what it shows is of another kind
            self.show_page("settle")
        self.bring_up_to_date()

    def _preview(self, offers: Offers, level: float) -> None:
        self.preview.show_for(offers, level)
        self.show_page("preview")

    def bring_up_to_date(self) -> None:
        s = self.session
        if s.corpus is None:
            return
        kinds = [k for k in REVIEWED if len(s.corpus.of(k).forms) or k == "term"]
        mentions = s.mentions(self.kind)
        counts = mentions.counts()
        spelled = int((counts > 0).sum())
        resolution = s.resolution(self.kind)
        words = Choice(self.kind, [(k, KIND_WORDS[k][1], MEANING[k]) for k in kinds], self._choose_kind, "kind")
        offers = s.offers.get(self.kind)
        if resolution is None or offers is None:
            self.sentence.say("Reconcile", words, f": {spelled:,} spellings; looking for variants …")
        else:
            entities = len(np.unique(resolution.entity[counts > 0]))
            n = len(offers.suggestions)
            waits = f"{n:,} suggestion{'s' * (n != 1)} wait{'s' * (n == 1)}" if n else "no suggestion waits"
            self.sentence.say("Reconcile", words, f": {spelled:,} spellings stand for {entities:,}; {waits}")
        self._show_also(kinds)
        self.page.bring_up_to_date()

    def _show_also(self, kinds: list[str]) -> None:
        """The other kinds with what waits there, and the other pages."""
        clear(self.also)
        s = self.session
        others = [(k, len(s.offers[k].suggestions) if k in s.offers else 0) for k in kinds if k != self.kind]
        if any(n for _, n in others):
            self.also.addWidget(Text("also", 12, faint=True))
        for kind, n in others:
            if n:
                self.also.addWidget(Link(f"{KIND_WORDS[kind][1]} {n:,}", lambda k=kind: self._choose_kind(k), 12))
        self.also.addSpacing(10)
        rules = sum(d.scope == "rule" and d.kind == self.kind for d in s.decisions)
        for name, text in (
            ("settle", "one at a time"),
            ("hand", "all spellings"),
            ("rules", f"rules {rules}" if rules else "rules"),
            ("ledger", "ledger"),
        ):
            if PAGES[self.pages.currentIndex()] != name:
                self.also.addWidget(Link(text, lambda page=name: self.show_page(page), 12))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down) and self.page is self.settle:
            self.settle.list.setFocus()
            self.settle.list.keyPressEvent(event)
        else:
            super().keyPressEvent(event)


class _Preview(QWidget):
    """The list before and after, when many suggestions are taken at once. It is of the offers it was opened for, and
    closes when these are."""

    def __init__(self, session: Session, back: Any) -> None:
        super().__init__()
        self.session, self.back = session, back
        self.offers: Offers | None = None
        self.level = 0.0
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        panel = Panel("Before and after")
        self.title = panel.heading
        self.table = Table()
        self.table.setAccessibleName("what taking all would change")
        panel.body.addWidget(self.table, 1)
        keys = QHBoxLayout()
        keys.setSpacing(14)
        keys.addWidget(Link("Take them all", self.merge, key="M"))
        keys.addWidget(Link("Back", back, key="Space"))
        keys.addStretch(1)
        keys.addWidget(Text("one undo takes them all back", 12, faint=True))
        panel.body.addLayout(keys)
        layout.addWidget(panel)

    def show_for(self, offers: Offers, level: float) -> None:
        """Offers of which all are to be taken."""
        self.offers, self.level = offers, level

    def bring_up_to_date(self) -> None:
        offers, s = self.offers, self.session
        if offers is None or offers.kind != s.reconcile_kind or offers.corpus_key != s.shown.corpus_key:
            self.offers = None
            self.back()
            return
        rows = [(one, f) for one in offers.suggestions for f in one.forms]
        counts = s.mentions(offers.kind).counts()
        used = np.array([counts[f] if f < len(counts) else 0 for _, f in rows], np.int64)
        after = sum(len(one.forms) - 1 for one in offers.suggestions)
        self.title.setText(
            f"{len(offers.suggestions):,} suggestions at or above {self.level:.2f}: {len(rows):,} spellings become {len(rows) - after:,}"
        )
        self.table.show_rows(
            [
                Column("before", lambda k: offers.forms[rows[k][1]], None, 330, serif=True),
                Column("records", lambda k: f"{used[k]:,}", used, 90),
                Column("after", lambda k: offers.forms[rows[k][0].forms[0]], None, 330, serif=True),
                Column(
                    "confidence",
                    lambda k: f"{min(rows[k][0].confidence, 0.99):.2f}",
                    np.array([one.confidence for one, _ in rows]),
                    100,
                ),
                Column("why", lambda k: "; ".join(rows[k][0].reasons), None, 300, faint=True),
            ],
            np.arange(len(rows)),
        )

    def merge(self) -> None:
        """Take what is shown; the names are those of the offers shown."""
        s, offers = self.session, self.offers
        if offers is None or s.corpus is None:
            return
        made = [d for one in offers.suggestions for d in settled_by(one, s.corpus, offers.forms)]
        s.decide(made, f"take all at or above {self.level:.2f}: {len(made)} merges", basis=offers.corpus_key)
        self.back()

    def skip(self) -> None:
        self.back()
