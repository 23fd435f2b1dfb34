"""Rules stated once: words set aside, spellings preferred, endings taken as equal; shown with what they touch."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from umber_knot.corpus.model import KIND_WORDS, Decision
from umber_knot.desktop.parts import Link, Panel, Text, clear, scrolling
from umber_knot.desktop.session import Session
from umber_knot.desktop.tables import Column, Table
from umber_knot.reconcile.rules import RULE, fault, touched

SHAPES = (
    (
        "aside",
        "Set aside",
        "study | case stud* | review",
        "",
        "whole spellings, parted by | ; * stands for any letters",
    ),
    ("merge", "Write", "behaviour", "behavior", "a word, wherever it stands in a spelling"),
    (
        "endings",
        "Treat the ending",
        "-isation",
        "-ization",
        "endings, each after a hyphen; a hyphen alone is no ending",
    ),
)


class Rules(QWidget):
    """The page of rules of a kind."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.fields: dict[str, tuple[QLineEdit, QLineEdit | None]] = {}
        self.looking = ""  # the shape whose touch is shown
        self._wait = QTimer(self)
        self._wait.setSingleShot(True)
        self._wait.timeout.connect(self._show_touch)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        left = QVBoxLayout()
        left.setSpacing(8)
        make = Panel("A new rule")
        for shape, verb, example, other, hint in SHAPES:
            row = QHBoxLayout()
            row.setSpacing(8)
            row.addWidget(Text(verb, 15, serif_=True))
            first = QLineEdit()
            first.setPlaceholderText(example)
            first.setAccessibleName(f"{verb}: {hint}")
            second = None
            row.addWidget(first, 1)
            if other:
                row.addWidget(Text("as", 15, serif_=True))
                second = QLineEdit()
                second.setPlaceholderText(other)
                second.setAccessibleName(f"{verb} … as")
                row.addWidget(second, 1)
            row.addWidget(Link("add", lambda s=shape: self.add(s), 13))
            for field in (first, second):
                if field is not None:
                    field.textChanged.connect(lambda _, s=shape: self._look(s))
                    field.returnPressed.connect(lambda s=shape: self.add(s))
            self.fields[shape] = first, second
            make.body.addLayout(row)
            make.body.addWidget(Text(hint, 11, faint=True))
        left.addWidget(make)
        stated = Panel("Rules stated")
        self.stated = QVBoxLayout()
        stated.body.addWidget(scrolling(self.stated), 1)
        left.addWidget(stated, 1)
        layout.addLayout(left, 1)
        touch = Panel("What it touches")
        self.touch_title = touch.heading
        self.table = Table()
        self.table.setAccessibleName("what the rule touches")
        touch.body.addWidget(self.table, 1)
        layout.addWidget(touch, 1)

    @property
    def kind(self) -> str:
        return self.session.reconcile_kind

    def rule(self, shape: str) -> Decision:
        """The rule as it stands in the fields."""
        first, second = self.fields[shape]
        what = "aside" if shape == "aside" else "merge"
        return Decision(
            self.kind,
            what,
            " ".join(first.text().split()),
            " ".join(second.text().split()) if second else "",
            RULE,
            "a rule",
        )

    def add(self, shape: str) -> None:
        rule = self.rule(shape)
        why = fault(rule)
        if why:
            self.session.said.emit("No rule yet", why, "note")
            return
        for field in self.fields[shape]:
            if field is not None:
                field.clear()
        self.session.decide([rule])

    def bring_up_to_date(self) -> None:
        clear(self.stated)
        mine = [d for d in self.session.decisions if d.scope == RULE and d.kind == self.kind]
        for d in mine:
            n = len(self._touched(d))
            row = QHBoxLayout()
            text = f"set aside {d.form}" if d.decision == "aside" else f"write {d.form} as {d.preferred}"
            row.addWidget(Text(text, 14, serif_=True, wrap=True), 1)
            row.addWidget(Link(f"touches {n:,}", lambda one=d: self._show(one), 12))
            row.addWidget(Link("undo", lambda one=d: self.session.withdraw(one), 12))
            self.stated.addLayout(row)
        if not mine:
            self.stated.addWidget(Text(f"No rule on {KIND_WORDS[self.kind][1]} yet.", 12, faint=True))
        self.stated.addStretch(1)
        self._show_touch()

    def _look(self, shape: str) -> None:
        self.looking = shape
        self._wait.start(150)

    def _touched(self, d: Decision) -> list[tuple[int, str]]:
        mentions = self.session.mentions(self.kind)
        return touched(d, mentions.forms, np.flatnonzero(mentions.counts()).tolist())

    def _show_touch(self) -> None:
        if self.looking:
            self._show(self.rule(self.looking))
        else:
            self.touch_title.setText("What it touches")
            self.table.show_rows(self._columns([]), np.zeros(0, np.int64))

    def _show(self, d: Decision) -> None:
        found = self._touched(d)
        self.touch_title.setText(f"What it touches: {len(found):,} spelling{'s' * (len(found) != 1)}")
        self.table.show_rows(self._columns(found), np.arange(len(found)))

    def _columns(self, found: list[tuple[int, str]]) -> list[Column]:
        mentions = self.session.mentions(self.kind)
        counts = mentions.counts()
        return [
            Column("spelling", lambda k: mentions.forms[found[k][0]], None, 230, serif=True),
            Column(
                "records",
                lambda k: f"{counts[found[k][0]]:,}",
                counts[[f for f, _ in found]] if found else counts[:0],
                80,
            ),
            Column("becomes", lambda k: found[k][1] or "set aside", None, 150),
        ]
