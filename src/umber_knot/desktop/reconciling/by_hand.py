"""All spellings: searched, sorted, merged by keys or by dragging one onto another, renamed, set aside."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QMimeData, Qt, pyqtSignal
from PyQt6.QtGui import QDrag, QDragEnterEvent, QDragMoveEvent, QDropEvent
from PyQt6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from umber_knot.corpus.model import Decision, Mentions
from umber_knot.corpus.texts import holding
from umber_knot.desktop.parts import Link, Panel, Text
from umber_knot.desktop.session import Session
from umber_knot.desktop.tables import Column, Table


class Draggable(Table):
    """A table whose rows can be dragged onto another; ``dropped`` tells the row they fell on."""

    dropped = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__(many=True)
        self.setDragEnabled(True)
        self.setAcceptDrops(True)

    def startDrag(self, actions: Qt.DropAction) -> None:
        drag, data = QDrag(self), QMimeData()
        data.setText("\n".join(self.rows.columns[0].text(r) for r in self.chosen()))
        drag.setMimeData(data)
        drag.exec(Qt.DropAction.CopyAction)

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        if event.source() is self:
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent | None) -> None:
        event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        index = self.indexAt(event.position().toPoint())
        if index.isValid():
            event.acceptProposedAction()
            self.dropped.emit(int(self.rows.order[index.row()]))


class ByHand(QWidget):
    """The page of all spellings of a kind."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.like_text = ""  # the spelling that the list is sorted by likeness to
        self.forms: Sequence[str] = ()
        self._shown_kind = ""
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        panel = Panel("All spellings")
        self.search = QLineEdit()
        self.search.setPlaceholderText("find a spelling")
        self.search.setFixedWidth(240)
        self.search.textChanged.connect(self.bring_up_to_date)
        self.count = Text("", 12, faint=True)
        self.by_likeness = Link("sort by likeness to the selected", self._sort_by_likeness, 12)
        for widget in (self.by_likeness, Text("/", 12, faint=True), self.search, self.count):
            panel.head.addWidget(widget)
        self.table = Draggable()
        self.table.setAccessibleName("all spellings")
        self.table.selectionModel().selectionChanged.connect(lambda *_: self._say_chosen())
        self.table.dropped.connect(self.merge_into)
        panel.body.addWidget(self.table, 1)
        self.note = Text("", 12, faint=True)
        panel.body.addWidget(self.note)
        keys = QHBoxLayout()
        keys.setSpacing(14)
        for text, action, key in (
            ("Merge the selected into the first", self.merge, "M"),
            ("Keep apart", self.keep_apart, "K"),
            ("Split off", self.split, "S"),
            ("Set aside", self.set_aside, "X"),
            ("Prefer this spelling", self.prefer_next, "P"),
            ("Rename", self.rename, "R"),
        ):
            keys.addWidget(Link(text, action, key=key))
        self.name = QLineEdit()
        self.name.setPlaceholderText("the name to show")
        self.name.setAccessibleName("the name to show")
        self.name.setMinimumWidth(220)
        self.name.hide()
        self.name.returnPressed.connect(self._renamed)
        keys.addWidget(self.name)
        keys.addStretch(1)
        keys.addWidget(Text("or drag one row onto another", 12, faint=True))
        panel.body.addLayout(keys)
        layout.addWidget(panel)

    @property
    def kind(self) -> str:
        return self.session.reconcile_kind

    def bring_up_to_date(self) -> None:
        s = self.session
        mentions, resolution = s.mentions(self.kind), s.resolution(self.kind)
        self.like_text = self.like_text if self.kind == self._shown_kind else ""
        self._shown_kind = self.kind
        if resolution is None:
            self.table.show_rows([], np.zeros(0, np.int64))
            self.count.setText("opening …")
            return
        self.forms = mentions.forms  # what the rows shown are numbers of
        counts = mentions.counts()
        sizes = np.bincount(resolution.entity, minlength=len(resolution.label))

        def stands(f: int) -> str:
            e = resolution.entity[f]
            if resolution.aside[e]:
                return "set aside"
            return resolution.label[e] if resolution.label[e] != mentions.forms[f] else "–"

        rows = self._in_order(counts)
        inside = np.zeros(len(counts), bool)
        inside[holding(mentions.forms, self.search.text().split())] = True
        rows = rows[inside[rows]]
        years = self._years(mentions)
        ranked = self._ranks() if self.kind == "term" else []
        self.table.show_rows(
            [
                Column(
                    "spelling", lambda f: mentions.forms[f], None, 360, serif=True, bulk=lambda: list(mentions.forms)
                ),
                Column("records", lambda f: f"{counts[f]:,}", counts, 90),
                *ranked,
                Column("first year", lambda f: str(years[f] or ""), years, 90, faint=True),
                Column("stands for", stands, None, 190 if ranked else 280),
                Column(
                    "spellings of it",
                    lambda f: f"{sizes[resolution.entity[f]]}",
                    sizes[resolution.entity],
                    110,
                    faint=True,
                ),
            ],
            rows,
        )
        self.count.setText(f"{len(rows):,} of {int((counts > 0).sum()):,}")
        self._say_chosen()

    def _ranks(self) -> list[Column]:
        """How good terms are: C-value, and how evenly they are spread."""
        terms = self.session.terms
        if terms is None:
            return []
        size = len(self.forms)  # what splits have made has no rank of its own
        value, even = (
            np.r_[values, np.zeros(max(size - len(values), 0))] for values in (terms.c_value, terms.evenness)
        )
        return [
            Column("C-value", lambda f: f"{value[f]:,.1f}", value, 84),
            Column("evenness", lambda f: f"{even[f]:.2f}", even, 84, faint=True),
        ]

    def _in_order(self, counts: np.ndarray) -> np.ndarray:
        """The forms in use, the most used first; or as the worker sorted them by likeness."""
        told = self.session.spellings
        if self.like_text and told is not None and told[:2] == (self.kind, self.like_text):
            known = told[2][told[2] < len(counts)]
            return known[counts[known] > 0]
        used = np.flatnonzero(counts)
        terms = self.session.terms if self.kind == "term" else None
        if terms is not None:
            value = np.r_[terms.merit(), np.zeros(max(len(counts) - len(terms.c_value), 0))]
            return used[np.argsort(-value[used], kind="stable")]
        return used[np.argsort(-counts[used], kind="stable")]

    def _years(self, mentions: Mentions) -> np.ndarray:
        year = self.session.corpus.year[mentions.record]
        first = np.full(len(mentions.forms), 9999, np.int32)
        np.minimum.at(first, mentions.form[year > 0], year[year > 0])
        return np.where(first == 9999, 0, first)

    def _sort_by_likeness(self) -> None:
        chosen = self._forms()
        self.like_text = chosen[0] if chosen and not self.like_text else ""
        self.by_likeness.setText("sort by records again" if self.like_text else "sort by likeness to the selected")
        self.table.rows.sorted = None
        if self.like_text:
            self.session.wants(f"spellings:{self.kind}:{self.like_text}")
        self.bring_up_to_date()
        self.table.scrollToTop()

    def _say_chosen(self) -> None:
        chosen, forms = self.table.chosen(), self.forms
        told = (
            f"{len(chosen):,} selected, the first is {forms[chosen[0]]}"
            if chosen
            else "Ctrl or Shift with a click selects several"
        )
        self.note.setText(told)

    # -- deciding

    def _decide(self, decisions: list[Decision]) -> None:
        """Names cross into a decision, of the kind whose spellings are shown."""
        made = [replace(d, kind=self._shown_kind) for d in decisions]
        self.session.decide(made, basis=self.session.shown.corpus_key)

    def _forms(self) -> list[str]:
        return [self.forms[f] for f in self.table.chosen()]

    def merge(self) -> None:
        forms = self._forms()
        if len(forms) > 1:
            self._decide([Decision(self.kind, "merge", form, forms[0], note="by hand") for form in forms[1:]])

    def merge_into(self, row: int) -> None:
        """Merge the selected forms into the one they were dropped on."""
        into = self.forms[row]
        self._decide(
            [Decision(self.kind, "merge", form, into, note="by hand") for form in self._forms() if form != into]
        )

    def keep_apart(self) -> None:
        forms = self._forms()
        if len(forms) > 1:
            self._decide(
                [
                    Decision(self.kind, "apart", a, b, note="by hand")
                    for k, a in enumerate(forms)
                    for b in forms[k + 1 :]
                ]
            )

    def split(self) -> None:
        self._decide([Decision(self.kind, "split", form, note="by hand") for form in self._forms()])

    def set_aside(self) -> None:
        self._decide([Decision(self.kind, "aside", form, note="by hand") for form in self._forms()])

    def prefer_next(self) -> None:
        forms = self._forms()
        if forms:
            self._decide([Decision(self.kind, "prefer", forms[0], forms[0], note="by hand")])

    def rename(self) -> None:
        """Ask for the name to show, in place."""
        forms = self._forms()
        if forms:
            self.name.setText(forms[0])
            self.name.show()
            self.name.selectAll()
            self.name.setFocus()

    def _renamed(self) -> None:
        forms, text = self._forms(), " ".join(self.name.text().split())
        self.name.hide()
        self.table.setFocus()
        if forms and text and text != forms[0]:
            self._decide([Decision(self.kind, "prefer", forms[0], text, note="by hand")])
