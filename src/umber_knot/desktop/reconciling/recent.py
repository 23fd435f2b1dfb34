"""The latest decisions, each to be undone, and what the recipe takes by itself."""

from __future__ import annotations

import re
from collections.abc import Callable

from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout

from umber_knot.desktop.parts import Elided, Link, Panel, Text, clear, scrolling
from umber_knot.desktop.reconciling.words import said
from umber_knot.desktop.session import Session
from umber_knot.desktop.theme import look

_PARENTHESES = re.compile(r" \([^)]*\)")
SHOWN = 12  # decisions


class Recent(Panel):
    """``ledger`` opens the whole of it."""

    def __init__(self, session: Session, ledger: Callable[[], object]) -> None:
        super().__init__("Ledger")
        self.session = session
        self.all_decisions = Link("", ledger, 12)
        self.head.addWidget(self.all_decisions)
        self.rows = QVBoxLayout()
        self.rows.setSpacing(2)
        self.body.addWidget(scrolling(self.rows), 1)

    def bring_up_to_date(self) -> None:
        clear(self.rows)
        s = self.session
        unapplied = {d.id: why for d, why in s.shown.unapplied()}
        mine = [d for d in reversed(s.decisions) if d.kind != "record"]
        self.all_decisions.setText(f"{len(mine):,} decision{'s' * (len(mine) != 1)}" if mine else "open")
        for d in mine[:SHOWN]:
            row = QHBoxLayout()
            text = Elided(said(d), 13)
            if d.id in unapplied:
                text.tint(look().madder)
            told = [said(d), d.note, d.made.replace("T", " ")[:16], unapplied.get(d.id, "")]
            text.setToolTip("\n".join(filter(None, told)))
            row.addWidget(text, 3)
            row.addWidget(Elided(_PARENTHESES.sub("", d.effect), 12, faint=True), 2)
            row.addWidget(Link("undo", lambda one=d: s.withdraw(one), 12))
            self.rows.addLayout(row)
        if not mine:
            self.rows.addWidget(Text("No decision by hand yet.", 12, faint=True))
        automatic = s.shown.taken()
        if automatic > 0:
            levels = ", ".join(f"{s.words(2, k)} {v:g}" for k, v in s.recipe.reconcile.accept.items())
            taken = f"{automatic:,} merges are taken by the recipe (at or above: {levels})"
            self.rows.addWidget(Text(taken, 12, faint=True, wrap=True))
            self.rows.addWidget(Link("take none by recipe", lambda: s.set_recipe("reconcile", accept={}), 12))
        self.rows.addStretch(1)
