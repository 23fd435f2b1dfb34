"""RIS, the tagged format that reference managers and databases exchange; parsed by rispy, record by record."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any

from rispy import RisParser

from umber_knot.corpus.model import RawRecord
from umber_knot.gather.fields import find_year, institution_of, split_values
from umber_knot.gather.text_source import Report

NAME = "RIS"
_TAG = re.compile(r"^[A-Z][A-Z0-9]  -", re.M)
_PEOPLE = ("authors", "first_authors")
_TITLES = ("title", "primary_title")
_VENUES = ("secondary_title", "journal_name", "alternate_title3", "alternate_title2", "alternate_title1")
_USED = {
    *_PEOPLE, *_TITLES, *_VENUES, "type_of_reference", "keywords", "year", "publication_year", "date", "doi",
    "abstract", "notes_abstract", "author_address", "id", "unknown_tag",
}  # fmt: skip


def sniff(head: str) -> float:
    """How surely this is RIS, 0 to 1."""
    if re.search(r"^TY  -", head, re.M):
        return 0.95
    return 0.5 if len(_TAG.findall(head)) > 3 else 0.0


def read(lines: Iterator[str], report: Report) -> Iterator[RawRecord]:
    """Records one by one; a record that cannot be parsed is reported with its line and left out."""
    parser = RisParser()
    for start, chunk, ended in _chunks(lines, report):
        raw = "".join(chunk)
        if not ended:
            report.problem(start, "the record has no ER line; it was read up to the next record", chunk[0])
            chunk.append("ER  - ")
        try:
            parsed = parser.parse_lines(iter(chunk))
        except (KeyError, AttributeError, TypeError) as error:
            report.problem(start, f"the record cannot be parsed ({error}); check its tags", chunk[0])
            continue
        for fields in parsed:
            yield _record(fields, start, raw, report)


def _chunks(lines: Iterator[str], report: Report) -> Iterator[tuple[int, list[str], bool]]:
    """(first line number, lines, whether it ended with ER) of each record."""
    chunk: list[str] = []
    start, stray = 0, False
    for number, line in enumerate(lines, 1):
        tag = line[:5]
        if tag == "TY  -":
            if chunk:
                yield start, chunk, False
            chunk, start = [line], number
        elif chunk:
            chunk.append(line)
            if tag == "ER  -":
                yield start, chunk, True
                chunk = []
        elif not stray and line.strip():
            stray = True
            report.problem(number, "text outside any record (a record begins with TY); it was left out", line)
    if chunk:
        yield start, chunk, False


def _record(fields: dict[str, Any], start: int, raw: str, report: Report) -> RawRecord:
    def first(*names: str) -> str:
        for name in names:
            value = fields.get(name)
            if value:
                return str(value)
        return ""

    def many(*names: str) -> list[str]:
        lists: list[list[str]] = [fields[name] for name in names if name in fields]
        return [value for values in lists for value in values]

    unknown = fields.get("unknown_tag") or {}
    written = first("year", "publication_year", "date")
    year = find_year(written)
    if written and not year:
        report.problem(start, f"the year {written[:40]!r} was not understood; the record is kept without one", raw)
    address = first("author_address")
    record = RawRecord(
        line=start,
        raw=raw,
        entry=first("id"),
        type=first("type_of_reference"),
        title=first(*_TITLES),
        year=year,
        date=first("date", "publication_year", "year"),
        doi=first("doi"),
        abstract=first("abstract", "notes_abstract"),
        persons=many(*_PEOPLE),
        keywords=[k for text in many("keywords") for k in split_values(text)],
        venue=first(*_VENUES),
        institutions=[institution_of(a) for a in split_values(address)],
        references=list(unknown.pop("CR", ())),
        extra={key: value for key, value in fields.items() if key not in _USED} | dict(unknown),
    )
    if not record.title and not record.persons:
        report.problem(start, "the record has neither title nor author; it was kept as it is", raw)
    return record


def write(records: Iterator[RawRecord]) -> Iterator[str]:
    """The records as RIS text, a piece a record."""
    for r in records:
        tags = [("TY", r.type or "GEN"), ("ID", r.entry), ("TI", r.title)]
        tags += [("AU", p) for p in r.persons] + [("PY", str(r.year) if r.year else ""), ("T2", r.venue)]
        tags += [("KW", k) for k in r.keywords] + [("AD", "; ".join(r.institutions)), ("DO", r.doi)]
        tags += [("AB", r.abstract)] + [("CR", c) for c in r.references]
        yield "".join(f"{tag}  - {value}\n" for tag, value in tags if value) + "ER  - \n\n"
