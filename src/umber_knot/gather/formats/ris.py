"""RIS, the tagged format that reference managers and databases exchange; parsed by rispy, record by record."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any

from rispy import RisParser

from umber_knot.corpus.model import RawRecord
from umber_knot.gather.fields import (
    addresses,
    affiliate,
    counted,
    dated,
    language_code,
    reference_list,
    split_addresses,
    split_values,
    unstarred,
    whole,
)
from umber_knot.gather.references import parse_reference
from umber_knot.gather.stream import Head, Report, Stream

NAME = "RIS"
_TAG = re.compile(r"^[A-Z][A-Z0-9] {1,2}-", re.M)
#: A tag that is not written as it should be (one space before the dash, or two letters more), as some programs do.
_ODD_TAG = re.compile(r"^([A-Z][A-Z0-9]|PMC?ID) {0,3}-(?: |$)")
_SHORT = {"PMID": "PM", "PMCID": "PC"}
_OWNER = re.compile(r"^([^,:;]+, [^,:;]+)(?:: |, (?=\S+@\S+$))")
_MAIL = re.compile(r"[\w.+-]+@[\w-]+(?:\.[\w-]+)+")
_ROLES = (
    ("secondary_authors", "editor"),
    ("translated_author", "translator"),
    ("tertiary_authors", "contributor"),
    ("subsidiary_authors", "contributor"),
)
_VENUES = ("secondary_title", "journal_name", "alternate_title3", "alternate_title2", "alternate_title1")


_LISTED = {*(RisParser.DEFAULT_MAPPING[tag] for tag in RisParser.DEFAULT_LIST_TAGS), "author_address", "urls", "note"}


def sniff(head: Head) -> float:
    """How surely this is RIS, 0 to 1."""
    if re.search(r"^TY {1,2}- ", head.text, re.M):
        return 0.95
    return 0.5 if len(_TAG.findall(head.text)) > 3 else 0.0


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """Records one by one; what stands outside a record, and a record without an end, is reported with its line."""
    parser = RecordParser()
    start, stray = 0, False
    chunk: list[str] = []

    def finished(ended: bool) -> RawRecord:
        if not ended:
            report.problem(start, "the record has no ER line; it was read up to the next record", chunk[0])
        fields = parser.fields(chunk)
        return _record(fields, start, "".join([*chunk, end]), report)

    end = ""
    for number, line in enumerate(stream.lines(), 1):
        if line[2:5] != "  -" and (odd := _ODD_TAG.match(line)):
            line = f"{_SHORT.get(odd[1], odd[1])}  - {line[odd.end() :]}"
        head = line[:5]
        if head == "TY  -":
            if chunk:
                end = ""
                yield finished(False)
            chunk, start = [line], number
        elif head == "ER  -":
            if chunk:
                end = line
                yield finished(True)
                chunk = []
        elif chunk:
            chunk.append(line)
        elif not stray and line.strip():
            stray = True
            report.problem(number, "text outside any record (a record begins with TY); it was left out", line)
    if chunk:
        end = ""
        yield finished(False)


class RecordParser(RisParser):  # type: ignore[misc]
    """rispy's tags and rules on the lines of one record, without a call for each line."""

    def __init__(self) -> None:
        super().__init__(enforce_list_tags=False)  # a tag that is there twice loses nothing
        free = {tag: name for tag, name in self.mapping.items() if tag not in self.delimiter_map}
        self._lists = {tag: name for tag, name in free.items() if tag in self.list_tags}
        self._singles = {tag: name for tag, name in free.items() if tag not in self.list_tags}

    def _add_single_value(self, record: dict[str, Any], name: str, value: Any, is_multi: bool = False) -> None:
        known = record.get(name)
        if is_multi and isinstance(known, list) and isinstance(value, str):  # a tag there twice, carried on
            known[-1] = f"{known[-1]} {value}"
        else:
            super()._add_single_value(record, name, value, is_multi)

    def fields(self, lines: list[str]) -> dict[str, Any]:
        """The fields of a record as ``RisParser.parse`` gives them; its lines begin with TY and stop before ER."""
        singles, lists, last = self._singles, self._lists, "TY"
        record: dict[str, Any] = {self.mapping["TY"]: lines[0][6:].strip()}
        for line in lines[1:]:
            if line[2:5] == "  -":
                tag = line[:2]
                name = singles.get(tag)
                if name is not None and name not in record:
                    record[name] = line[6:].strip()
                    last = tag
                    continue
                name = lists.get(tag)
                if name is not None:
                    record.setdefault(name, []).append(line[6:].strip())
                    last = tag
                    continue
            found, content = self.parse_line(line)
            if found is not None:
                last = found
            if found is not None or content:  # a blank line carries nothing on
                self._add_tag(record, last, content, extend_multiline=found is None)
        return record


def _record(fields: dict[str, Any], start: int, raw: str, report: Report) -> RawRecord:
    take = fields.pop
    unknown = take("unknown_tag", None) or {}

    twice = {
        name: value
        for name, value in fields.items()
        if value.__class__ is list and name not in _LISTED  # a tag that should be there once
    }
    fields.update((name, value[0]) for name, value in twice.items())

    persons = take("authors", []) + take("first_authors", [])
    dates = take("year", ""), take("publication_year", ""), take("date", "")
    titles = [t for t in (take("title", ""), take("primary_title", "")) if t]
    venues = [v for v in [take(name, "") for name in _VENUES] if v]
    abstracts = [a for a in (take("abstract", ""), take("notes_abstract", "")) if a]
    notes = take("notes", [])
    cited = [n for n in notes if counted(n)]
    listed = [r for n in notes for r in reference_list(n)]
    if kept := [n for n in notes if n not in cited and not reference_list(n)]:
        fields["notes"] = kept
    for name in ("note", "notes"):  # one note a reference, as some databases have it
        if len(fields.get(name, "")) > 2 and isinstance(fields[name], list) and _all_cited(fields[name]):
            listed += fields.pop(name)
    record = RawRecord(
        line=start,
        raw=raw,
        entry=take("id", ""),
        type=take("type_of_reference", ""),
        title=titles[0] if titles else "",
        doi=take("doi", ""),
        abstract=abstracts[0] if abstracts else "",
        persons=persons,
        keywords=[unstarred(k) for text in take("keywords", []) for k in split_values(text)],
        venue=venues[0] if venues else "",
        citations=whole(unknown.pop("TC")[0]) if "TC" in unknown else counted(cited[0]) if cited else 0,
        references=[*unknown.pop("CR", ()), *listed],
        volume=take("volume", ""),
        pages="-".join(p for p in (take("start_page", ""), take("end_page", "")) if p),
        language=language_code(take("language", "")),
        others=[("person", role, name) for tag, role in _ROLES if tag in fields for name in take(tag, [])]
        + [("person", "editor", name) for name in unknown.pop("ED", ())],
    )
    dated(record, dates, report)
    addresses = take("author_address", [])
    for name, value in twice.items():
        if rest := [text for text in dict.fromkeys(value[1:]) if text and text != value[0]]:
            fields[name] = rest if name not in fields else [value[0], *rest]
    record.extra |= {name: value for name, value in (fields | dict(unknown)).items() if value not in ("", [""])}
    if addresses:
        _add_addresses(record, [addresses] if isinstance(addresses, str) else addresses)
    if not titles and not persons:
        report.problem(start, "the record has neither title nor author; it was kept as it is", raw)
    return record


def _all_cited(notes: list[str]) -> bool:
    """Whether notes are the references of a work: nearly each has an author, a year and more."""
    told = [parse_reference(note) for note in notes]
    return sum(bool(r.author and r.year and (r.title or r.venue)) for r in told) >= 0.8 * len(notes)


def _add_addresses(record: RawRecord, lines: list[str]) -> None:
    """Addresses, those that name their author (``Dray, Tamsin: Univ Eastmere``) with whose they are."""
    of: dict[str, list[str]] = {}
    written, known = [], {}
    for line in lines:
        owner = _OWNER.match(line)
        address = line[owner.end() :] if owner else line
        if owner and (mail := _MAIL.search(address)):
            known[owner[1]] = f"mailto:{mail[0].lower()}"
        several = [] if _MAIL.fullmatch(address.strip(" .")) else split_addresses(address)
        written += several
        if owner and several:
            of.setdefault(owner[1], []).extend(several)
    affiliate(record, written, of)
    record.known_as = {name: address for name, address in known.items() if name in record.persons}


_TAG_OF = {"editor": "ED", "translator": "TA", "contributor": "A3"}


def write(records: Iterator[RawRecord]) -> Iterator[str]:
    """The records as RIS text, a piece a record."""
    for r in records:
        tags = [("TY", r.type or "GEN"), ("ID", r.entry), ("TI", r.title)]
        tags += [("AU", p) for p in r.persons] + [
            (_TAG_OF[role], text) for k, role, text in r.others if k == "person" and role in _TAG_OF
        ]
        tags += [
            ("PY", str(r.year) if r.year else ""),
            ("DA", r.date if r.date != str(r.year) else ""),
            ("T2", r.venue),
        ]
        start, _, end = r.pages.partition("-")
        tags += [("VL", r.volume), ("SP", start), ("EP", end), ("LA", r.language)]
        tags += [("KW", k) for k in r.keywords] + [("AD", a) for a in addresses(r)] + [("DO", r.doi)]
        tags += [("AB", r.abstract)] + [("CR", c) for c in r.references] + [("TC", str(r.citations or ""))]
        yield "".join(f"{tag}  - {value}\n" for tag, value in tags if value) + "ER  - \n\n"
