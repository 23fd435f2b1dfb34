"""Field-tagged text: a tag at the start of a line, its value after it, indented lines carry it on."""

from __future__ import annotations

import re
from collections.abc import Iterator

from umber_knot.gather.stream import Report


def records(
    lines: Iterator[str], report: Report, tag: re.Pattern[str], begins: str, ends: str
) -> Iterator[tuple[dict[str, list[str]], int, str]]:
    """(tag → its values, line, raw text) of every record.

    ``tag`` matches tag and value (groups 1 and 2); a record begins at the tag ``begins`` and ends at the tag ``ends``,
    or, when that is empty, at a blank line before the next beginning.
    """
    fields: dict[str, list[list[str]]] = {}  # tag → its values, each the lines it stands on
    last: list[list[str]] = []
    raw: list[str] = []
    start = number = 0
    stray = False
    for line in lines:
        number += 1
        found = tag.match(line)
        name = found[1] if found else ""
        if name and name == ends:
            raw.append(line)
            if fields:
                yield _values(fields), start, "".join(raw)
            fields, raw, last = {}, [], []
            continue
        if name == begins and begins:
            if fields and ends:
                report.problem(start, f"the record has no {ends} line; it was read up to the next record", raw[0])
            if fields:
                yield _values(fields), start, "".join(raw)
            fields, raw, start = {}, [], number
        if name and (fields or name == begins):
            last = fields.setdefault(name, [])
            last.append([(found[2] or "").strip() if found else ""])
            raw.append(line)
        elif fields:
            raw.append(line)
            if line[:1] in (" ", "\t") and line.strip() and last:
                last[-1].append(line.strip())
        elif line.strip() and not stray and not name:
            stray = True
            report.problem(number, f"text outside any record (a record begins with {begins}); it was left out", line)
    if fields:
        if ends:
            report.problem(start, f"the last record has no {ends} line; the file may be cut short", raw[0])
        yield _values(fields), start, "".join(raw)


def _values(fields: dict[str, list[list[str]]]) -> dict[str, list[str]]:
    return {tag: ["\n".join(lines) for lines in several] for tag, several in fields.items()}
