"""Rows of a table, from whatever file, to records under a match of their columns."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from itertools import chain, islice
from pathlib import Path
from typing import Any

from umber_knot.corpus.model import Passage, RawRecord
from umber_knot.errors import UserError
from umber_knot.gather.fields import affiliate, dated, language_code, orcid, split_addresses, split_references, whole
from umber_knot.gather.matching import MANY, SAMPLE, Match, folded, header_of, is_yes, match_columns
from umber_knot.gather.parting import addresses_of, parted
from umber_knot.gather.remembered import header_key
from umber_knot.gather.stream import Report

_ROLES = {"sender": "sender", "recipient": "recipient", "copy to": "copy", "editors": "editor"}

Row = tuple[int, list[str], str]  # (place, cells, raw text)


def read_rows(rows: Iterator[Row], options: Mapping[str, Any], report: Report) -> Iterator[RawRecord]:
    """Records of the rows; blank rows are nothing, ragged ones are read as far as they go and reported."""
    first = list(islice(rows, SAMPLE))
    header, at = header_of([cells for _, cells, _ in first])
    known = {} if "fields" in options else options.get("remembered", {}).get(header_key(header), {})
    if known:
        report.used = known
    body: Iterator[Row] = chain(first[at + 1 :], rows)
    if "join" in options:
        header, body = _joined(header, body, options["join"], report)
        sample = list(islice(body, SAMPLE))
        body = chain(sample, body)
    else:
        sample = first[at + 1 :]
    match = match_columns(header, [cells for _, cells, _ in sample], known or options)
    if not any(match.fields):
        place = f"line {first[at][0] if at >= 0 else 1}"
        raise UserError(
            "no column of this table is called title, authors or keywords",
            place=place,
            cure=f"Give the first row the names of the columns; it reads: {' | '.join(header)[:80]!r}",
        )
    if match.wide == "record":
        yield from _events(match, body)
        return
    plan = list(zip(match.header, match.fields, match.splits))
    for line, cells, raw in body:
        if not any(cells) or not any(c.strip() for c in cells):
            continue
        if len(cells) != len(header) and any(c.strip() for c in cells[len(header) :]) | (len(cells) < len(header)):
            report.problem(
                line,
                f"{len(cells)} cell{'s' * (len(cells) != 1)} where the header has {len(header)}; read as far as it "
                "goes. A cell that holds a delimiter must stand in quotation marks",
                raw,
            )
        yield record_of(plan, line, cells, raw, report)


Plan = list[tuple[str, str, str]]  # (column, field, separator)


def record_of(plan: Plan, line: int, cells: Sequence[str], raw: str, report: Report) -> RawRecord:
    """The record of one row."""
    one: dict[str, str] = {}
    many: dict[str, list[str]] = {}
    extra: dict[str, object] = {}
    words = []
    for (name, field, split), cell in zip(plan, cells):
        cell = cell.strip()
        if not cell:
            continue
        if split:
            several = split_references(cell) if field == "references" and split == ";" else parted(cell, split)
            if field == "affiliations" and split in (";", ", "):
                several = split_addresses(cell) if split == ";" else [cell]  # read when the people are known
            many[field] = [*many.get(field, ()), *several]
        elif field == "yes/no":
            words += [name] if is_yes(cell) else []
        elif field in MANY:
            many[field] = [*many.get(field, ()), cell]
        elif field:
            one.setdefault(field, cell)
        else:
            extra[name] = cell
    said = one.get
    record = RawRecord(
        line,
        raw,
        said("id", ""),
        said("type", ""),
        said("title", ""),
        0,
        "",
        said("doi", ""),
        said("abstract", ""),
        whole(one["citations"]) if "citations" in one else 0,
        many.get("people", []),
        many.get("words", []) + words,
        said("venue", ""),
        (),
        many.get("references", ()),
        extra,
        said("volume", ""),
        said("pages", ""),
        language_code(one["language"]) if "language" in one else "",
    )
    others = [("person", role, text) for field, role in _ROLES.items() if field in many for text in many[field]]
    others += [("keyword", "index", text) for text in many.get("index terms", ())]
    if "date" in one:
        dated(record, (one["date"],), report)
    addresses = many.get("affiliations", [])
    if ("affiliations", ", ") in ((field, split) for _, field, split in plan):
        addresses = [one for cell in addresses for one in addresses_of(cell, len(record.persons))]
    affiliate(
        record,
        addresses,
        dict(zip(record.persons, ([a] for a in addresses))) if len(addresses) == len(record.persons) > 1 else None,
    )
    if "countries" in many:
        record.countries = list(dict.fromkeys([*record.countries, *many["countries"]]))
    if "place" in one:
        record.places = [one["place"]]
    if "text" in one:
        record.passages = [Passage(part.strip(), line) for part in one["text"].split("\n\n") if part.strip()]
    if "sender" in many or "recipient" in many:
        record.type = record.type or "letter"
        record.title = record.title or " to ".join(
            " and ".join(many.get(who, ["?"])) for who in ("sender", "recipient")
        )
    ids = [orcid(text) for text in many.get("orcid", ())]
    if ids and len(ids) == len(record.persons):
        record.known_as = {name: f"orcid:{number}" for name, number in zip(record.persons, ids) if number}
    record.others = others
    return record


def _events(match: Match, rows: Iterable[Row]) -> Iterator[RawRecord]:
    """Each yes/no column is a record: it mentions the people in whose rows it says yes."""
    who = match.column("people")
    events = [k for k, field in enumerate(match.fields) if field == "yes/no"]
    present: dict[int, list[str]] = {k: [] for k in events}
    for _, cells, _ in rows:
        name = cells[who].strip() if who < len(cells) else ""
        for k in events:
            if name and k < len(cells) and is_yes(cells[k]):
                present[k].append(name)
    for k in events:
        yield RawRecord(
            line=1,
            entry=f"column {k + 1}",
            type="event",
            title=match.header[k],
            persons=present[k],
            raw=f"{match.header[k]}: {'; '.join(present[k])}\n",
        )


def _joined(header: list[str], rows: Iterable[Row], join: Any, report: Report) -> tuple[list[str], Iterator[Row]]:
    """The table with the columns of another added, by a key; options: ``file``, ``on`` (here), ``with`` (there)."""
    from umber_knot.gather.read import rows_of

    path = Path(str(join.get("file", "")))
    there = rows_of(path)
    names = next(there, (0, [], ""))[1]
    on, other = str(join.get("on", "")), str(join.get("with", "") or join.get("on", ""))
    if on not in header or other not in names:
        missing, where = (on, "this table") if on not in header else (other, path.name)
        raise UserError(f"{where} has no column {missing!r} to join by", cure=f"It has: {', '.join(header)[:120]}")
    key = names.index(other)
    more = [k for k in range(len(names)) if k != key]
    found = {folded(cells[key]): cells for _, cells, _ in there if len(cells) > key and cells[key].strip()}
    at, width = header.index(on), len(header)
    unmatched: list[int] = []

    def joined() -> Iterator[Row]:
        for line, cells, raw in rows:
            value = folded(cells[at]) if at < len(cells) else ""
            extra = found.get(value)
            if extra is None and any(c.strip() for c in cells):
                unmatched.append(line)
            padded = cells[:width] + [""] * (width - len(cells))
            yield line, padded + [extra[k] if extra and k < len(extra) else "" for k in more], raw
        if unmatched:
            report.problem(
                unmatched[0],
                f"{len(unmatched):,} rows have no partner in {path.name} (the first is this one); check the key",
            )

    return header + [names[k] for k in more], joined()
