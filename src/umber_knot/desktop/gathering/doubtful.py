"""Records that may be one, two by two: the scholar says whether they are."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from html import escape

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QHBoxLayout, QTextBrowser, QVBoxLayout

from umber_knot.corpus.beside import beside
from umber_knot.corpus.joining import DOUBTS
from umber_knot.corpus.model import Corpus, Decision
from umber_knot.desktop.parts import Link, Panel, Text, clear
from umber_knot.desktop.session import Session
from umber_knot.desktop.theme import SERIF, look
from umber_knot.desktop.wording import several


class DoubtfulPairs(Panel):
    """At the left what makes pairs doubtful, at the right the two records of one pair, what differs marked.

    A pair that was answered goes at once, before the study is read anew.
    """

    def __init__(self, session: Session, close_page: Callable[[], object]) -> None:
        super().__init__("One record or two?", (14, 8, 14, 8))
        self.session, self.close_page = session, close_page
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.corpus: Corpus | None = None
        self.named: list[tuple[str, str]] = []  # its pairs as decisions name them, once they are compared with these
        self.doubt = -1  # which are looked at, −1 all
        self.at = 0  # the place of the one shown among them
        for text, deed, key in (
            ("one record", lambda: self._answer("merge", self._shown()), "M"),
            ("two records", lambda: self._answer("apart", self._shown()), "K"),
            ("later", self.later, "Space"),
            ("close", close_page, "Esc"),
        ):
            self.head.addWidget(Link(text, deed, 12, key=key))
        row = QHBoxLayout()
        row.setSpacing(16)
        self.kinds = QVBoxLayout()
        self.kinds.setSpacing(5)
        self.page = QTextBrowser()
        self.page.setOpenLinks(False)
        self.page.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.page.document().setDocumentMargin(0)
        row.addLayout(self.kinds)
        row.addWidget(self.page, 1)
        self.body.addLayout(row, 1)

    # -- which pairs

    def open_pairs(self) -> None:
        """Start with the most alike."""
        self.doubt, self.at = -1, 0
        self.bring_up_to_date()
        self.setFocus()

    def bring_up_to_date(self) -> None:
        if self.corpus is not self.session.corpus:
            self.corpus, self.named = self.session.corpus, []
        self._show()

    def _open(self) -> np.ndarray:
        """The pairs that were not answered yet."""
        corpus = self.corpus
        if corpus is None:
            return np.zeros(0, np.int64)
        answered = {(d.preferred, d.form) for d in self.session.decisions if d.kind == "record"}
        if not answered:
            return np.arange(len(corpus.doubtful))
        self.named = self.named or [self._names(corpus, k) for k in range(len(corpus.doubtful))]
        return np.array([k for k, names in enumerate(self.named) if names not in answered], np.int64)

    def _looked_at(self) -> list[int]:
        """Those among them of the doubt looked at."""
        left = self._open()
        if self.corpus is not None and self.doubt >= 0:
            left = left[self.corpus.doubtful.doubt[left] == self.doubt]
        return left.tolist()

    @staticmethod
    def _names(corpus: Corpus, pair: int) -> tuple[str, str]:
        return corpus.anchor(int(corpus.doubtful.one[pair])), corpus.anchor(int(corpus.doubtful.other[pair]))

    def _shown(self) -> list[int]:
        left = self._looked_at()
        return [left[self.at]] if self.at < len(left) else []

    # -- answering

    def _answer(self, decision: str, pairs: Sequence[int]) -> None:
        if self.corpus is None or not pairs:
            return
        named = [self._names(self.corpus, k) for k in pairs]
        note = "" if decision == "merge" else "not the same document"
        self.session.decide([Decision("record", decision, other, one, note=note) for one, other in named])
        self._show()

    def later(self) -> None:
        """To the next pair, and from the last to the first."""
        self.at += 1
        self._show()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() in (Qt.Key.Key_M, Qt.Key.Key_K):
            self._answer("merge" if event.key() == Qt.Key.Key_M else "apart", self._shown())
        elif event.key() == Qt.Key.Key_Space:
            self.later()
        else:
            super().keyPressEvent(event)

    # -- showing

    def _show(self) -> None:
        left = self._looked_at()
        if not left and self.doubt >= 0:
            self.doubt = -1
            left = self._looked_at()
        self.at = self.at if self.at < len(left) else 0
        self._show_kinds()
        if self.corpus is None or not left:
            self.heading.setText("One record or two? All pairs are answered")
            self.page.setHtml("")
            return
        self.heading.setText(f"One record or two?  {self.at + 1:,} of {len(left):,}")
        pairs = self.corpus.doubtful
        k = left[self.at]
        rows = "".join(
            f'<tr><td width="12%" style="color:{look().faint}">{row.field}</td>'
            + "".join(f'<td width="44%">{_cell(text, row.field, row.differs)}</td>' for text in (row.one, row.other))
            + "</tr>"
            for row in beside(self.corpus, int(pairs.one[k]), int(pairs.other[k]))
        )
        self.page.setHtml(
            f'<body style="color:{look().ink}"><p style="margin:0 0 4px 0; color:{look().faint}">'
            f"{DOUBTS[pairs.doubt[k]]}</p>"
            f'<table width="100%" cellspacing="0" cellpadding="2">{rows}</table></body>'
        )

    def _show_kinds(self) -> None:
        clear(self.kinds)
        left = self._open()
        doubts = self.corpus.doubtful.doubt[left] if self.corpus is not None else np.zeros(0, np.int8)
        counts = np.bincount(doubts, minlength=len(DOUBTS))
        offered = [(-1, f"all {len(left):,}")]
        offered += [(k, f"{DOUBTS[k]} ({n:,})") for k, n in enumerate(counts) if n]
        for doubt, said in offered:
            link = Link(said, lambda doubt=doubt: self._choose(doubt), 12)
            link.setEnabled(doubt != self.doubt)
            self.kinds.addWidget(link)
        self.kinds.addStretch(1)
        here = len(left) if self.doubt < 0 else int(counts[self.doubt])
        if here > 1:
            self.kinds.addWidget(Text("when you have looked at some:", 11, faint=True))
            for decision, said in (("merge", "each pair is one record"), ("apart", "all are two records")):
                deed = lambda decision=decision: self._answer(decision, self._looked_at())  # noqa: E731
                self.kinds.addWidget(Link(f"{several(here, 'pair')}: {said}", deed, 12))

    def _choose(self, doubt: int) -> None:
        self.doubt, self.at = doubt, 0
        self._show()
        self.setFocus()


def _cell(text: str, field: str, differs: bool) -> str:
    said = escape(text) or f'<span style="color:{look().faint}">–</span>'
    if field == "title":
        said = f"<span style=\"font-family:'{SERIF}'; font-size:15px\">{said}</span>"
    return f'<span style="background-color:{look().wash}; color:{look().umber}">{said}</span>' if differs else said
