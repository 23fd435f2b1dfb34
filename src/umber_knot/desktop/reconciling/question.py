"""One suggestion as a question: its forms side by side with their records and years, and the evidence in words."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QCheckBox, QGridLayout, QHBoxLayout, QLineEdit, QRadioButton, QVBoxLayout, QWidget

from umber_knot.corpus.model import Decision
from umber_knot.desktop.parts import Elided, Panel, Text, clear, scrolling
from umber_knot.desktop.plots import Ticks
from umber_knot.desktop.reconciling.offers import Offer
from umber_knot.desktop.reconciling.words import ASKED
from umber_knot.desktop.session import Session
from umber_knot.desktop.theme import look
from umber_knot.reconcile.suggestion import most_common, part_names, settled_by

#: What is said below a form, by its kind: the first that most of its records have in common.
BESIDE = {
    "person": ("institution", "venue"),
    "keyword": ("venue",),
    "venue": ("keyword",),
    "institution": ("person",),
    "place": ("institution",),
}
MOST = 40  # forms shown of one suggestion
COUNTED = {1: "One", 2: "Two", 3: "Three", 4: "Four"}


class Question(Panel):
    """Shows an offer of some basis (the suggestions of one corpus), and what of it a scholar has chosen."""

    def __init__(self, session: Session) -> None:
        super().__init__(margins=(20, 14, 20, 10))
        self.session = session
        self.basis: Any = None
        self.offer: Offer | None = None
        self.preferred = 0
        self.left_out: set[int] = set()  # places of forms that are not acted on
        self.names: list[QLineEdit] = []  # of the parts of a split, but the first
        title = QHBoxLayout()
        title.setSpacing(12)
        self.asked = Text("", 22, serif_=True)
        self.sure = Text("", 12, faint=True)
        self.place = Text("", 12, faint=True)
        for widget in (self.asked, self.sure):
            title.addWidget(widget)
        title.addStretch(1)
        title.addWidget(self.place)
        self.body.addLayout(title)
        self.forms = QGridLayout()
        self.forms.setHorizontalSpacing(10)
        self.forms.setVerticalSpacing(2)
        self.forms.setContentsMargins(0, 0, 8, 0)
        self.forms_area = scrolling(self.forms)
        self.body.addWidget(self.forms_area)
        reasons = QHBoxLayout()
        reasons.setSpacing(20)
        self.reasons_for, self.reasons_against = QVBoxLayout(), QVBoxLayout()
        for column in (self.reasons_for, self.reasons_against):
            column.setSpacing(4)
            reasons.addLayout(column, 1)
        self.body.addSpacing(8)
        self.body.addLayout(reasons)
        self.body.addStretch(1)

    # -- showing

    def ask(self, basis: Any, offer: Offer | None, place: str, room: int) -> None:
        """Show an offer; ``place`` says where it is in the list, ``room`` how high the forms may become (pixels)."""
        self.basis, self.offer = basis, offer
        self.preferred, self.left_out = 0, set()
        self.place.setText(place)
        self._room = room
        self._show()

    def prefer(self, n: int) -> None:
        """Prefer the spelling at a place."""
        if self.offer is not None and n < len(self.offer.suggestion.forms):
            self.preferred = n
            self._show()

    def prefer_next(self) -> None:
        if self.offer is not None:
            self.prefer((self.preferred + 1) % len(self.offer.suggestion.forms))

    def _show(self) -> None:
        for layout in (self.forms, self.reasons_for, self.reasons_against):
            clear(layout)
        self.names = []
        if self.offer is None:
            waiting = self.basis is None
            done = "every suggestion is settled; by hand you can still change any spelling"
            self.asked.setText("Looking for variants …" if waiting else "Nothing waits")
            self.sure.setText("" if waiting else done)
            self.forms_area.setFixedHeight(10)
            return
        suggestion = self.offer.suggestion
        one = ASKED.get(suggestion.kind, suggestion.kind)
        many = "people" if one == "person" else f"{one}s"
        count = len(suggestion.parts)
        self.asked.setText(
            {
                "merge": f"One {one}?",
                "split": f"{COUNTED.get(count, count)} {many} under one name?",
                "aside": f"Not a {one}?",
            }[suggestion.action]
        )
        self.sure.setText(f"right about {min(round(100 * suggestion.confidence), 99)} times in 100")
        rows = self._parts(suggestion) if suggestion.action == "split" else self._spellings(suggestion)
        self.forms_area.setFixedHeight(min(24 + 42 * rows, self._room))
        c = look()
        for layout, title, tint, reasons in (
            (self.reasons_for, "For", c.verdigris, suggestion.reasons),
            (self.reasons_against, "Against", c.ochre, suggestion.against),
        ):
            layout.addWidget(Text(title, 13, bold=True).tint(tint))
            for reason in reasons[:6]:
                layout.addWidget(Elided(reason, 13))
            if not reasons:
                layout.addWidget(Text("nothing found", 13, faint=True))
            layout.addStretch(1)

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

    def _spellings(self, suggestion: Any) -> int:
        c, mentions = look(), self.session.mentions(suggestion.kind)
        low, high = self._heading("spelling")
        forms = self.basis.forms
        members = suggestion.forms[:MOST]
        several = len(members) > 1
        for k, form in enumerate(members):
            records = np.unique(mentions.record[mentions.form == form])
            if several:
                inside = QCheckBox()
                inside.setChecked(k not in self.left_out)
                inside.setToolTip("clear to leave this spelling out of the decision")
                inside.setAccessibleName(f"take {forms[form]}")
                inside.toggled.connect(lambda on, n=k: self.take(n, on))
                self.forms.addWidget(inside, k + 1, 0)
                button = QRadioButton()
                button.setChecked(k == self.preferred)
                button.setToolTip(f"prefer this spelling ({k + 1})")
                button.setAccessibleName(f"prefer {forms[form]}")
                button.clicked.connect(lambda _=False, n=k: self.prefer(n))
                self.forms.addWidget(button, k + 1, 1)
            name = _form(suggestion.kind, forms[form])
            self._row(k + 1, name, records, low, high, c.umber if k == self.preferred else c.bar)
        self.forms.setRowStretch(len(members) + 1, 1)
        return len(members)

    def _parts(self, suggestion: Any) -> int:
        corpus, c = self.session.corpus, look()
        low, high = self._heading("name")
        names = part_names(corpus, self.basis.forms[suggestion.forms[0]], suggestion.parts)
        for k, (name, part) in enumerate(zip(names, suggestion.parts)):
            widget: QWidget = Text(name, 16, serif_=True)
            if k:
                edit = QLineEdit(name)
                edit.setToolTip("the name these records get; change it as you like")
                edit.setAccessibleName(f"name of part {k + 1}")
                edit.setMinimumWidth(240)
                self.names.append(edit)
                widget = edit
            self._row(k + 1, widget, np.array(part), low, high, c.umber if k == 0 else c.verdigris)
        self.forms.setRowStretch(len(suggestion.parts) + 1, 1)
        return len(suggestion.parts)

    def _row(self, row: int, name: QWidget, records: np.ndarray, low: int, high: int, tint: str) -> None:
        box = QVBoxLayout()
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addWidget(name)
        assert self.offer is not None
        told = (
            most_common(self.session.corpus, kind, records, 0.3) for kind in BESIDE.get(self.offer.suggestion.kind, ())
        )
        below = Elided(next(filter(None, told), ""), 11, faint=True)
        below.setMinimumWidth(220)
        box.addWidget(below)
        self.forms.addLayout(box, row, 2)
        number = Text(f"{len(records):,}", 14)
        number.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        self.forms.addWidget(number, row, 3)
        self.forms.addWidget(Ticks(self.session.corpus.year[records].tolist(), low, high, tint), row, 4)

    # -- what was chosen

    def take(self, n: int, on: bool) -> None:
        """Let a decision cover the form at a place, or leave it out."""
        self.left_out.discard(n) if on else self.left_out.add(n)

    def _chosen(self) -> Any:
        """The suggestion without the forms left out, the preferred one first; None where none is left."""
        if self.offer is None:
            return None
        forms = self.offer.suggestion.forms
        kept = [f for k, f in enumerate(forms) if k not in self.left_out and k != self.preferred]
        if self.preferred not in self.left_out:
            kept.insert(0, forms[self.preferred])
        return replace(self.offer.suggestion, forms=tuple(kept)) if kept else None

    def merged(self) -> list[Decision]:
        """The decisions that merging makes."""
        one = self._chosen()
        if one is None or one.action != "merge" or len(one.forms) < 2:
            return []
        return settled_by(one, self.session.corpus, self.basis.forms)

    def kept_apart(self) -> list[Decision]:
        """The decisions that keep the forms apart; a name that was to be split or set aside stays whole."""
        one = self._chosen()
        if one is None:
            return []
        forms = [self.basis.forms[f] for f in one.forms]
        pairs = [(a, b) for k, a in enumerate(forms) for b in forms[k + 1 :]] or [(forms[0], forms[0])]
        return [Decision(one.kind, "apart", a, b) for a, b in pairs]

    def parted(self) -> list[Decision]:
        """The decisions that split the name, under the names that were written."""
        if self.offer is None or self.offer.suggestion.action != "split":
            return []
        made = settled_by(self.offer.suggestion, self.session.corpus, self.basis.forms)
        return [replace(d, preferred=edit.text().strip() or d.preferred) for d, edit in zip(made, self.names)]

    def put_aside(self) -> list[Decision]:
        """The decisions that set the forms aside."""
        one = self._chosen()
        if one is None:
            return []
        note = "; ".join(one.reasons)
        return [Decision(one.kind, "aside", self.basis.forms[f], note=note) for f in one.forms]


def _form(kind: str, text: str) -> QWidget:
    """A form as it is read; references are long, and told apart by their ends."""
    return Text(text, 13, serif_=True, wrap=True) if kind == "reference" else Elided(text, 16, serif_=True)
