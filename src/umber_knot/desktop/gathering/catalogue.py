"""Asking a catalogue: address, protocol, query; how many records answer, the first of them, and taking them."""

from __future__ import annotations

import re
import sys
from collections.abc import Callable

from PyQt6.QtCore import QProcess, Qt
from PyQt6.QtWidgets import QHBoxLayout, QLineEdit, QListWidget

from umber_knot.desktop.parts import Link, Panel, Popup, Text
from umber_knot.desktop.session import Session
from umber_knot.gather.catalogue.question import PROTOCOLS, SCHEMAS, Question


class Catalogue(Panel):
    """``close_page`` folds it away. Nothing is asked before the scholar asks."""

    def __init__(self, session: Session, close_page: Callable[[], object]) -> None:
        super().__init__("Ask a catalogue", (14, 8, 14, 8))
        self.session, self.close_page = session, close_page
        self.standing: QProcess | None = None
        self.protocol, self.schema = "SRU", SCHEMAS["SRU"][0]
        self.asked: Question | None = None
        self.stand_in = Link("try it on a made-up catalogue", self.start_stand_in, 12)
        for link in (self.stand_in, Link("close", close_page, 12, key="Esc")):
            self.head.addWidget(link)
        row = QHBoxLayout()
        row.setSpacing(6)
        self.address = QLineEdit()
        self.address.setPlaceholderText("address, https://…")
        self.query = QLineEdit()
        self.address.setAccessibleName("address of the catalogue")
        self.query.setAccessibleName("query")
        self.by = Link("", lambda: self._choose(self.by, PROTOCOLS, self._speak))
        self.as_ = Link("", lambda: self._choose(self.as_, SCHEMAS[self.protocol], self._format))
        self.go = Link("ask", self.ask, key="Enter")
        for widget, stretch in (
            (Text("At"), 0),
            (self.address, 3),
            (Text("by"), 0),
            (self.by, 0),
            (Text("for"), 0),
            (self.query, 3),
            (Text("as"), 0),
            (self.as_, 0),
            (self.go, 0),
        ):
            row.addWidget(widget, stretch)
        self.body.addLayout(row)
        self.said = Text(
            "Nothing is contacted before you ask. The query and its date are kept with the records.",
            12,
            faint=True,
            wrap=True,
        )
        self.body.addWidget(self.said)
        self.hits = QListWidget()
        self.hits.setSpacing(2)
        self.hits.setSelectionMode(QListWidget.SelectionMode.NoSelection)
        self.hits.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.body.addWidget(self.hits, 1)
        take = QHBoxLayout()
        take.setSpacing(10)
        self.all = Link("", lambda: self._take(self.session.preview[0]))
        self.some = Link("", lambda: self._take(50))
        take.addWidget(self.all)
        take.addWidget(self.some)
        take.addStretch(1)
        self.body.addLayout(take)
        for field in (self.address, self.query):
            field.returnPressed.connect(self.ask)
        self._speak("SRU")
        self._offer(0)

    def _choose(self, below: Link, words: tuple[str, ...], take: Callable[[str], None]) -> None:
        popup = Popup(self)
        for word in words:
            popup.body.addWidget(Link(word, lambda word=word: (popup.close(), take(word))))
        popup.unfold(below)

    def _speak(self, protocol: str) -> None:
        old, self.protocol = self.protocol, protocol
        self.by.setText(protocol)
        self._format(SCHEMAS[protocol][0])
        self.query.setPlaceholderText(
            'tide mill, or title = "tide mill" and date > 1990'
            if protocol == "SRU"
            else "everything, or set:… from:2001-01-01"
        )
        path = {"SRU": "/sru", "OAI-PMH": "/oai"}
        if self.standing is not None and self.address.text().endswith(path[old]):
            self.address.setText(self.address.text().removesuffix(path[old]) + path[protocol])

    def _format(self, schema: str) -> None:
        self.schema = schema
        self.as_.setText(schema)

    def ask(self) -> None:
        """Ask for the number of hits and the first of them."""
        self.asked = Question(self.address.text().strip(), self.protocol, self.query.text().strip(), self.schema)
        self.said.setText("asking …")
        self.hits.clear()
        self._offer(0)
        self.session.ask_catalogue(self.asked)

    def arrived(self) -> None:
        """The preview is there."""
        total, titles = self.session.preview
        self.said.setText(
            f"{total:,} record{'s' * (total != 1)} answer{'s' * (total == 1)}"
            + (f"; the first {len(titles)}:" if titles else "")
        )
        self.hits.clear()
        for title, people, year in titles:
            self.hits.addItem(" · ".join(text for text in (title, people, str(year or "")) if text))
        self._offer(total)

    def failed(self, text: str) -> None:
        """The catalogue did not answer, or said no."""
        self.said.setText(text)

    def _offer(self, total: int) -> None:
        self.all.setVisible(total > 0)
        self.all.setText(f"take all {total:,}")
        self.some.setVisible(total > 50)
        self.some.setText("take the first 50")

    def _take(self, most: int) -> None:
        if self.asked is not None:
            self.session.take_from_catalogue(self.asked, most)
            self.close_page()

    # -- the stand-in

    def start_stand_in(self) -> None:
        """Start the made-up catalogue on this machine; it ends with the window."""
        if self.standing is not None:
            return
        self.standing = QProcess(self)
        self.standing.readyReadStandardOutput.connect(self._stands)
        self.standing.start(sys.executable, ["-m", "umber_knot", "catalogue", "--port", "0"])
        self.said.setText("starting a made-up catalogue on this machine …")

    def _stands(self) -> None:
        assert self.standing is not None
        found = re.search(r"SRU (http://127\.0\.0\.1:\d+)/sru", bytes(self.standing.readAllStandardOutput()).decode())
        if found:
            self.address.setText(found[1] + {"SRU": "/sru", "OAI-PMH": "/oai"}[self.protocol])
            self.said.setText("A made-up Brackwater catalogue stands on this machine. Write a query and press Enter.")
            self.query.setFocus()

    def shut_down(self) -> None:
        """End the stand-in."""
        if self.standing is not None:
            self.standing.readyReadStandardOutput.disconnect(self._stands)
            self.standing.kill()
            self.standing.waitForFinished(2000)
            self.standing = None
