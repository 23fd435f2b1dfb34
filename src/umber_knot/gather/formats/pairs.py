"""A table of two columns of names: ties of one kind (who writes to whom, what cites what), or who took part in what.

Where the columns share names, a row is a tie of two items of one kind. Where they do not, each name of the second column is a
record of the people of the first, as of an event. Option ``pairs``: "ties", "second" or "first" (which column names the
records); without it the proposal is taken, and said.
"""

from __future__ import annotations

import csv
from collections.abc import Iterator
from typing import Any

from umber_knot.corpus.model import RawRecord
from umber_knot.gather.formats._network import WEIGHTS, Graph, Tie, records_of
from umber_knot.gather.formats.table import find_delimiter, rows
from umber_knot.gather.matching import field_named, folded
from umber_knot.gather.stream import Head, Report, Stream

NAME = "table of pairs"
_PEOPLE = {
    "person",
    "people",
    "name",
    "names",
    "author",
    "authors",
    "member",
    "actor",
    "man",
    "woman",
    "women",
    "men",
    "student",
}
_PEOPLE |= {"participant", "attendee", "director", "player", "artist", "personne", "persona", "mitglied"}
_CITES = {"citing", "citingdoi", "citingpaper", "citingid", "citingwork", "citingdocument"}
_NUMBERS = {*WEIGHTS, "year", "date", "time", "timestamp", "n"}
ROWS = 400  # that show what the columns hold


def sniff(head: Head) -> float:
    """How surely this is a table of pairs, 0 to 1: two columns of names, in both of which names come again."""
    delimiter = find_delimiter(head.text)
    if not delimiter:
        return 0.0
    lines = head.text.split("\n")
    whole = lines[:-1] if len(head.text) >= 20_000 else lines
    table = [row for row in csv.reader(whole[:ROWS], delimiter=delimiter) if any(c.strip() for c in row)]
    if len(table) < 4 or any(len(row) != len(table[0]) for row in table):
        return 0.0
    header = [folded(name) for name in table[0]]
    if not _are_pairs(header) or (header[0] not in _CITES and not _come_again(table[1:])):
        return 0.0
    return 0.84


def _are_pairs(header: list[str]) -> bool:
    """Whether a header names two columns of names, and at most weights or dates beside them."""
    if len(header) < 2 or len(header) > 4 or any(name not in _NUMBERS for name in header[2:]):
        return False
    fields = [field_named(name) for name in header[:2]]
    return all(name and not name.isdigit() for name in header[:2]) and all(f in ("", "people", "title") for f in fields)


def _come_again(body: list[list[str]]) -> bool:
    """Whether names of both columns come again, and are names: short, and no numbers."""
    for column in (0, 1):
        cells = [row[column].strip() for row in body]
        numbers = sum(c.replace(".", "").isdigit() for c in cells)
        if len(set(cells)) >= len(cells) or numbers > 0.2 * len(cells) or max(map(len, cells)) > 80:
            return False
    return len({tuple(row[:2]) for row in body}) > 0.8 * len(body)


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """The pairs as ties, or as records of the people in them."""
    table = [(line, cells, raw) for line, cells, raw in rows(stream, report) if any(c.strip() for c in cells)]
    header = [cell.strip() for cell in table[0][1]]
    names = [folded(name) for name in header]
    body: list[tuple[int, list[str], str]] = []
    for line, cells, raw in table[1:]:
        if len(cells) < 2 or not cells[0].strip() or not cells[1].strip():
            report.problem(line, "a pair with one name; it was left out", raw)
        else:
            body.append((line, [c.strip() for c in cells], raw))
    left, right = {cells[0] for _, cells, _ in body}, {cells[1] for _, cells, _ in body}
    chosen = str(stream.options.get("pairs", "")) or _proposed(names, left, right)
    if chosen == "ties":
        kind = "reference" if names[0] in _CITES else ""

        def ties() -> Iterator[Tie]:
            for line, cells, raw in body:
                facts: dict[str, Any] = dict(zip(names[2:], cells[2:]))
                yield Tie(cells[0], cells[1], True, line, raw, facts)

        yield from records_of(stream, report, Graph({}, ties(), kind))
        report.told = f"{header[0]} to {header[1]}: {report.told}"
        return
    at = 0 if chosen == "first" else 1
    yield from _records(body, at, header)
    records, people = (left, right) if at == 0 else (right, left)
    report.told = (
        f"each {header[at]} is a record of the {header[1 - at]} column's names: "
        f"{len(records):,} records, {len(people):,} people, {len(body):,} pairs"
    )


def _proposed(names: list[str], left: set[str], right: set[str]) -> str:
    """How pairs are read where nothing is chosen."""
    if names[0] in _CITES or len(left & right) > 0.1 * min(len(left), len(right)):
        return "ties"
    return "first" if names[1] in _PEOPLE and names[0] not in _PEOPLE else "second"


def _records(body: list[tuple[int, list[str], str]], at: int, header: list[str]) -> Iterator[RawRecord]:
    """A record for each name of a column, of those that it stands beside."""
    found: dict[str, RawRecord] = {}
    for line, cells, raw in body:
        name, who = cells[at], cells[1 - at]
        record = found.setdefault(name, RawRecord(line, entry=name, type=header[at], title=name))
        record.raw += raw
        if who not in record.persons:
            record.persons.append(who)
    yield from found.values()
