"""The list of sources: name, what was recognised, counts, problems, and what can be done with each."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFileDialog, QHBoxLayout, QVBoxLayout, QWidget

from umber_knot.corpus.model import KIND_WORDS, Source
from umber_knot.desktop.parts import Elided, Link, Panel, Popup, Rule, Text, clear, scrolling
from umber_knot.desktop.session import Session
from umber_knot.desktop.theme import look
from umber_knot.errors import UserError
from umber_knot.gather.encoding import OFFERED, previews
from umber_knot.gather.stream import Report, Stream

TABLES = ("CSV", "spreadsheet", "JSON table")
PAIRS = "table of pairs"
NETWORKS = ("GraphML", "GML", "node-link JSON", "DOT", "table of ties", "matrix", PAIRS)
GROUPED = 4  # sources of one record each from one folder are listed as the folder


class SourceList(Panel):
    """``ask`` maps links below the list to deeds; ``open_problems``, ``open_columns`` and
    ``open_fields`` unfold a source beside it."""

    def __init__(
        self,
        session: Session,
        ask: dict[str, Callable[[], object]],
        open_problems: Callable[[Source], object],
        open_columns: Callable[[Source], object],
        open_fields: Callable[[Source], object],
    ) -> None:
        super().__init__("Sources")
        self.session, self.open_problems, self.open_columns = session, open_problems, open_columns
        self.open_fields = open_fields
        self._letters: tuple[Source, Popup] | None = None  # awaits its lines
        session.loader.loaded.connect(self._loaded)
        self.rows = QVBoxLayout()
        self.rows.setSpacing(0)
        self.rows.setContentsMargins(0, 0, 0, 0)
        scroll = scrolling(self.rows)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.body.addWidget(scroll, 1)
        links = QHBoxLayout()
        links.setSpacing(10)
        for text, deed in ask.items():
            links.addWidget(Link(text, deed))
        links.addStretch(1)
        self.body.addLayout(links)
        self.body.addWidget(Text("or drop files and folders anywhere", 12, faint=True))

    def bring_up_to_date(self) -> None:
        clear(self.rows)
        folders: dict[str, list[Source]] = {}
        for source in self.session.sources:
            if source.records == 1 and source.path:
                folders.setdefault(str(Path(source.path).parent), []).append(source)
        grouped = {s.id: folder for folder, members in folders.items() if len(members) >= GROUPED for s in members}
        shown: set[str] = set()
        for source in self.session.sources:
            folder = grouped.get(source.id)
            if folder is None:
                self._row([source], source.name, source.path, _recognised(source))
            elif folder not in shown:
                shown.add(folder)
                members = folders[folder]
                kinds = ", ".join(dict.fromkeys(s.format for s in members))
                self._row(members, f"{Path(folder).name}/", folder, f"{len(members):,} files: {kinds}")
        self.rows.addStretch(1)

    def _row(self, members: list[Source], name: str, place: str, recognised: str) -> None:
        active = any(s.active for s in members)
        left, right = QVBoxLayout(), QVBoxLayout()
        for column in (left, right):
            column.setSpacing(0)
        title, kind = Elided(name), Elided(recognised, 11, faint=True)
        title.setToolTip(place or name)
        count = Text(f"{sum(s.records for s in members):,}")
        if not active:
            for text in (title, count, kind):
                text.tint(look().faint)
        left.addWidget(title)
        left.addWidget(kind)
        right.addWidget(count)
        right.setAlignment(count, Qt.AlignmentFlag.AlignRight)
        links = QHBoxLayout()
        links.setSpacing(8)
        links.addStretch(1)
        troubled = [s for s in members if s.problems]
        if not active:
            links.addWidget(Link("switch on", lambda: self.session.switch_sources([s.id for s in members], True), 11))
        elif troubled:
            n = sum(len(s.problems) for s in troubled)
            links.addWidget(Link(f"{n:,} problem{'s' * (n != 1)}", lambda: self.open_problems(troubled[0]), 11))
        if active and len(members) == 1:
            fields = Link("fields", lambda: self.open_fields(members[0]), 11)
            fields.setAccessibleName(f"fields of {name}")
            links.addWidget(fields)
        change = Link("change", None, 11)
        change.setAccessibleName(f"change {name}")
        change.clicked.connect(lambda: self._unfold(members, change))
        links.addWidget(change)
        right.addLayout(links)
        row = QHBoxLayout()
        row.setContentsMargins(0, 3, 8, 4)
        row.addLayout(left, 1)
        row.addLayout(right)
        holder = QWidget()
        holder.setLayout(row)
        self.rows.addWidget(holder)
        self.rows.addWidget(Rule())

    def _unfold(self, members: list[Source], below: Link) -> None:
        """What can be done with a source, in place."""
        s, numbers = self.session, [m.id for m in members]
        popup = Popup(self)
        popup.body.setSpacing(6)

        def offer(text: str, deed: Callable[[], object], why: str = "") -> None:
            link = Link(text, lambda: (popup.close(), deed()))
            popup.body.addWidget(link)
            if why:
                popup.body.addWidget(Text(why, 11, faint=True))

        active = any(m.active for m in members)
        offer(
            "switch off" if active else "switch on",
            lambda: s.switch_sources(numbers, not active),
            "its records leave and come back; nothing is lost",
        )
        if len(members) == 1:
            one = members[0]
            offer("use a newer export instead", lambda: self._replace(one), "says what is new, gone and changed")
            if one.format in TABLES and one.path:
                offer("columns", lambda: self.open_columns(one), "what each column is read as")
            if one.format in NETWORKS and one.path:
                for text, options in _network_choices(one):
                    offer(text, lambda options=options: s.replace_source(one.id, Path(one.path), options))
            if one.encoding in OFFERED and one.encoding != "utf-8" and one.path:
                popup.body.addWidget(Link("read its letters otherwise", lambda: self._choose_letters(one, popup)))
                popup.body.addWidget(Text("where accents look wrong", 11, faint=True))
        offer("remove", lambda: s.remove_sources(numbers), "undo brings it back")
        popup.unfold(below)

    def _choose_letters(self, source: Source, popup: Popup) -> None:
        """Every way to read the letters of a source, each with a line of it read so; the lines are read beside."""
        clear(popup.body)
        popup.body.addWidget(Text(f"reading the first lines of {source.name} …", 12, faint=True))
        popup.fit()
        popup.closed.connect(self._letters_closed)
        self._letters = source, popup
        path = Path(source.path)
        self.session.loader.load(("letters", path), lambda: _lines_of(path))

    def _letters_closed(self) -> None:
        self._letters = None

    def _loaded(self, what: object, found: list[tuple[str, str, str]]) -> None:
        if self._letters is None or what != ("letters", Path(self._letters[0].path)):
            return
        source, popup = self._letters
        clear(popup.body)
        if not found:
            popup.body.addWidget(Text(f"{source.name} cannot be read now", 12))
        now = json.loads(source.reading or "{}")
        for encoding, called, line in found:
            popup.body.addWidget(Link(called, lambda o={**now, "encoding": encoding}: self._reread(popup, source, o)))
            told = Elided(line[:120], 12, faint=True)
            told.setMinimumWidth(420)
            popup.body.addWidget(told)
        popup.fit()

    def _reread(self, popup: Popup, source: Source, options: dict[str, Any]) -> None:
        popup.close()
        self.session.replace_source(source.id, Path(source.path), options)

    def _replace(self, source: Source) -> None:
        folder = str(Path(source.path).parent) if source.path else str(Path.home())
        name, _ = QFileDialog.getOpenFileName(self, f"A newer export of {source.name}", folder)
        if name:
            self.session.replace_source(source.id, Path(name))


def _lines_of(path: Path) -> list[tuple[str, str, str]]:
    """A line of a source in each encoding that it may be in; nothing where it cannot be read."""
    try:
        return previews(Stream(path, Report()).sample())
    except (UserError, OSError):
        return []


def _recognised(source: Source) -> str:
    """Format, encoding where it is not the usual one, and what else was recognised."""
    coded = OFFERED.get(source.encoding, source.encoding.upper()) if source.encoding not in ("", "utf-8") else ""
    return ", ".join(text for text in (source.format, coded, source.told) if text)


def _network_choices(source: Source) -> list[tuple[str, dict[str, Any]]]:
    """Other ways to read a network: as directed or not, and what its items are."""
    now = json.loads(source.reading or "{}")
    if source.format == PAIRS:
        return [
            (text, {**now, "pairs": way})
            for way, text in (
                ("second", "the second column names the records, the first the people in them"),
                ("first", "the first column names the records, the second the people in them"),
                ("ties", "each row ties two items of one kind"),
            )
            if way != now.get("pairs")
        ]
    found = [
        (f"read its ties as {way}", {**now, "direction": way})
        for way in ("as given", "directed", "undirected")
        if way != now.get("direction", "as given")
    ]
    return found + [
        (f"its items are {KIND_WORDS[kind][1]}", {**now, "kind": kind})
        for kind in ("person", "keyword", "institution")
        if kind != now.get("kind", "person")
    ]
