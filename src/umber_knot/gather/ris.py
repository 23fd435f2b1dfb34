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
_VENUES = ("secondary_title", "journal_name", "alternate_title3", "alternate_title2", "alternate_title1")


def sniff(head: str) -> float:
    """How surely this is RIS, 0 to 1."""
    if re.search(r"^TY  -", head, re.M):
        return 0.95
    return 0.5 if len(_TAG.findall(head)) > 3 else 0.0


def read(lines: Iterator[str], report: Report) -> Iterator[RawRecord]:
    """Records one by one; a record that cannot be parsed is reported with its line and left out."""
    parser = RecordParser()
    for start, chunk, ended in _chunks(lines, report):
        if not ended:
            report.problem(start, "the record has no ER line; it was read up to the next record", chunk[0])
        yield _record(parser.fields(chunk), start, "".join(chunk), report)


class RecordParser(RisParser):  # type: ignore[misc]
    """rispy's tags and rules for one record at a time, whose end is known already, without a call a line."""

    def __init__(self) -> None:
        super().__init__()
        self._lists = {tag: self.mapping[tag] for tag in self.list_tags if tag not in self.delimiter_map}
        self._singles = {
            tag: name
            for tag, name in self.mapping.items()
            if tag not in self.list_tags and tag not in self.delimiter_map
        }

    def fields(self, lines: list[str]) -> dict[str, Any]:
        """The fields of a record's lines, as ``RisParser.parse`` gives them."""
        record: dict[str, Any] = {}
        lists, singles = self._lists, self._singles
        last = ""
        for line in lines:
            if line[2:5] == "  -":
                tag = line[:2]
                if tag in singles:
                    record.setdefault(singles[tag], line[6:].strip())
                    last = tag
                    continue
                if tag in lists:
                    name = lists[tag]
                    if name in record:
                        record[name].append(line[6:].strip())
                    else:
                        record[name] = [line[6:].strip()]
                    last = tag
                    continue
            found, content = self.parse_line(line)
            if found is not None:
                last = found
            if found is not None or content:  # a blank line carries nothing on
                self._add_tag(record, last, content, extend_multiline=found is None)
        record.pop("end_of_reference", None)
        return record


def _chunks(lines: Iterator[str], report: Report) -> Iterator[tuple[int, list[str], bool]]:
    """(first line number, lines, whether it ended with ER) of each record."""
    chunk: list[str] = []
    start, number, stray = 0, 0, False
    for line in lines:
        number += 1
        if line[2:5] == "  -":
            if line.startswith("ER"):
                if chunk:
                    chunk.append(line)
                    yield start, chunk, True
                    chunk = []
                continue
            if line.startswith("TY"):
                if chunk:
                    yield start, chunk, False
                chunk, start = [line], number
                continue
        if chunk:
            chunk.append(line)
        elif not stray and line.strip():
            stray = True
            report.problem(number, "text outside any record (a record begins with TY); it was left out", line)
    if chunk:
        yield start, chunk, False


def _record(fields: dict[str, Any], start: int, raw: str, report: Report) -> RawRecord:
    take = fields.pop
    unknown = take("unknown_tag", None) or {}
    persons = take("authors", []) + take("first_authors", [])
    dates = [d for d in (take("year", ""), take("publication_year", ""), take("date", "")) if d]
    year = find_year(dates[0]) if dates else 0
    if dates and not year:
        report.problem(start, f"the year {dates[0][:40]!r} was not understood; the record is kept without one", raw)
    titles = [t for t in (take("title", ""), take("primary_title", "")) if t]
    venues = [v for v in [take(name, "") for name in _VENUES] if v]
    abstracts = [a for a in (take("abstract", ""), take("notes_abstract", "")) if a]
    address = take("author_address", "")
    record = RawRecord(
        line=start,
        raw=raw,
        entry=take("id", ""),
        type=take("type_of_reference", ""),
        title=titles[0] if titles else "",
        year=year,
        date=dates[-1] if dates else "",
        doi=take("doi", ""),
        abstract=abstracts[0] if abstracts else "",
        persons=persons,
        keywords=[k for text in take("keywords", ()) for k in split_values(text)],
        venue=venues[0] if venues else "",
        institutions=[institution_of(a) for a in split_values(address)] if address else [],
        references=list(unknown.pop("CR", ())),
        extra=fields | dict(unknown),
    )
    if not titles and not persons:
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
