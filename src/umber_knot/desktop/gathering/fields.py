"""How full each field of a source is, and what looks odd in it, with what may cure it."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QVBoxLayout

from umber_knot.corpus.checking import Oddity, SourceCheck
from umber_knot.corpus.model import Source
from umber_knot.desktop.gathering.sources import TABLES
from umber_knot.desktop.parts import Link, Panel, Share, Text, clear, scrolling
from umber_knot.desktop.session import Session
from umber_knot.desktop.theme import look
from umber_knot.desktop.wording import several

COLUMNS = 3


class Fields(Panel):
    """``open_columns`` unfolds the columns of a table; ``pick`` filters the records."""

    def __init__(
        self,
        session: Session,
        open_columns: Callable[[Source], object],
        pick: Callable[[str], object],
        close_page: Callable[[], object],
    ) -> None:
        super().__init__("Fields", (14, 8, 14, 8))
        self.session, self.open_columns, self.pick = session, open_columns, pick
        self.source = 0
        self.head.addWidget(Link("close", close_page, 12, key="Esc"))
        row = QHBoxLayout()
        row.setSpacing(24)
        self.shares = QGridLayout()
        self.shares.setHorizontalSpacing(18)
        self.shares.setVerticalSpacing(2)
        shares = QVBoxLayout()
        shares.addLayout(self.shares)
        shares.addStretch(1)
        self.odd = QVBoxLayout()
        self.odd.setSpacing(2)
        self.odd.setContentsMargins(0, 0, 4, 0)
        row.addLayout(shares, 3)
        row.addWidget(scrolling(self.odd), 2)
        self.body.addLayout(row, 1)

    def show_source(self, source: Source) -> None:
        self.source = source.id
        self.bring_up_to_date()

    def bring_up_to_date(self) -> None:
        clear(self.shares)
        clear(self.odd)
        source = next((s for s in self.session.sources if s.id == self.source), None)
        checked = self.session.checked(self.source)
        if source is None or checked is None:
            self.heading.setText("Fields")
            self.odd.addWidget(Text("This source is switched off, or not read yet.", 12, faint=True))
            return
        self.heading.setText(f"How full the fields are in {several(checked.records, 'record')} from {source.name}")
        self._show_shares(checked)
        for one in checked.odd:
            self._show_oddity(one, source)
        if not checked.odd:
            self.odd.addWidget(Text("Nothing looks odd.", 12, faint=True))
        self.odd.addStretch(1)

    def _show_shares(self, checked: SourceCheck) -> None:
        rows = -(-len(checked.fullness) // COLUMNS)
        for k, (name, share) in enumerate(checked.fullness):
            told = f"{share:.0%}" if share in (0, 1) or 0.005 <= share < 0.995 else f"{share:.1%}"
            bar = Share(name, told, share, look().verdigris if share else look().line, strong=False)
            self.shares.addWidget(bar, k % rows, k // rows)

    def _show_oddity(self, one: Oddity, source: Source) -> None:
        said = Text(one.message, 12, wrap=True)
        said.tint(look().madder)
        self.odd.addWidget(said)
        for example in one.examples:
            self.odd.addWidget(Text(" ".join(example.split())[:80], 12, faint=True, wrap=True))
        cures = QHBoxLayout()
        cures.setSpacing(10)
        if source.format in TABLES and source.path:
            cures.addWidget(Link(f"change the column of {one.field}", lambda: self.open_columns(source), 12))
        cures.addWidget(Link("show the records", lambda: self.pick(one.pick), 12))
        cures.addStretch(1)
        self.odd.addLayout(cures)
        self.odd.addSpacing(8)
