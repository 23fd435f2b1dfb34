"""The ledger: every decision with when, why and what it changed; any of them undone; kept as and taken from a CSV."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PyQt6.QtWidgets import QFileDialog, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from umber_knot.corpus.model import KIND_WORDS, Decision
from umber_knot.desktop.parts import Link, Panel, Text, clear, scrolling
from umber_knot.desktop.reconciling.words import said
from umber_knot.desktop.session import Session
from umber_knot.desktop.tables import Column, Table
from umber_knot.desktop.theme import look
from umber_knot.reconcile.decisions import decisions_csv


class Ledger(QWidget):
    """The page of all decisions, the last on top; below it what was left out of the last file brought in."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.shown: list[Decision] = []
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        panel = Panel("Ledger")
        self.filter = QLineEdit()
        self.filter.setPlaceholderText("find a decision, name or reason")
        self.filter.setFixedWidth(260)
        self.filter.textChanged.connect(self.bring_up_to_date)
        self.count = Text("", 12, faint=True)
        for widget in (
            self.count,
            Text("/", 12, faint=True),
            self.filter,
            Link("bring in a CSV", self.bring_in, 12),
            Link("save as CSV", self.save, 12),
        ):
            panel.head.addWidget(widget)
        self.table = Table(many=True)
        self.table.setAccessibleName("decisions")
        panel.body.addWidget(self.table, 1)
        keys = QHBoxLayout()
        keys.setSpacing(14)
        keys.addWidget(Link("Undo the selected", self.undo_selected, key="Del"))
        keys.addStretch(1)
        keys.addWidget(Text("nothing here alters the records", 12, faint=True))
        panel.body.addLayout(keys)
        layout.addWidget(panel, 1)
        self.report = Panel("Left out of the file")
        self.lines = QVBoxLayout()
        self.report.head.addWidget(Link("close", self._forget, 12))
        self.report.body.addWidget(scrolling(self.lines))
        self.report.setFixedHeight(190)
        self.report.hide()
        layout.addWidget(self.report)

    def bring_up_to_date(self) -> None:
        s = self.session
        unapplied = {d.id: why for d, why in s.shown.unapplied()}
        words = self.filter.text().casefold().split()
        every = list(reversed(s.decisions))
        self.shown = [d for d in every if all(w in f"{said(d)} {d.note} {d.effect} {d.kind}".casefold() for w in words)]
        shown = self.shown
        self.table.show_rows(
            [
                Column("decision", lambda k: said(shown[k]), None, 360),
                Column(
                    "of", lambda k: KIND_WORDS.get(shown[k].kind, (shown[k].kind,))[0], None, 80, faint=True, few=True
                ),
                Column("when", lambda k: shown[k].made.replace("T", " ")[:16], None, 130, faint=True),
                Column(
                    "what changed",
                    lambda k: f"not applied: {unapplied[shown[k].id]}" if shown[k].id in unapplied else shown[k].effect,
                    None,
                    300,
                ),
                Column("why", lambda k: shown[k].note, None, 300, faint=True),
            ],
            np.arange(len(shown)),
        )
        waiting = f"; {len(unapplied):,} not applied" if unapplied else ""
        self.count.setText(f"{len(shown):,} of {len(every):,} decisions{waiting}")
        clear(self.lines)
        self.report.setVisible(bool(self.session.left_out))
        if self.session.left_out:
            self.report.heading.setText(
                f"{len(self.session.left_out):,} lines of the file could not be applied; the rest was"
            )
            for line in self.session.left_out[:300]:
                self.lines.addWidget(Text(line, 12, wrap=True).tint(look().madder))
            if len(self.session.left_out) > 300:
                self.lines.addWidget(Text(f"and {len(self.session.left_out) - 300:,} more", 12, faint=True))
            self.lines.addStretch(1)

    def undo_selected(self) -> None:
        chosen = [self.shown[k] for k in self.table.chosen()]
        if chosen:
            self.session.withdraw_all(
                chosen, f"withdraw {said(chosen[0])}" + (f" and {len(chosen) - 1} more" if len(chosen) > 1 else "")
            )

    def _forget(self) -> None:
        self.session.left_out = []
        self.bring_up_to_date()

    def save(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Save the ledger", "decisions.csv", "CSV (*.csv)")
        if name:
            try:
                Path(name).write_text(decisions_csv(self.session.decisions), encoding="utf-8", newline="")
            except OSError as error:
                self.session.said.emit("Not saved", f"{name}: {error.strerror}", "fault")

    def bring_in(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Bring in decisions", "", "CSV (*.csv)")
        if name:
            self.session.bring_in(Path(name))
