"""The refer format: a percent sign and a letter before each field, records parted by blank lines."""

from __future__ import annotations

import re
from collections.abc import Iterator

from umber_knot.corpus.model import RawRecord
from umber_knot.gather.fields import affiliate, dated, language_code, orcid, split_addresses, split_values, unstarred
from umber_knot.gather.stream import Head, Report, Stream

NAME = "refer"
_FIELD = re.compile(r"^%([A-Z0-9!@?()*#$&^<=>\[+~])(?:[ \t]+(.*)|[ \t]*)$", re.S)
_USED = set("0TJBSDAEQYK*XRVPG+FM")
_EXTRA = {
    "I": "publisher",
    "C": "place published",
    "N": "number",
    "U": "url",
    "O": "notes",
    "@": "isbn or issn",
    "7": "edition",
    "6": "number of volumes",
    "8": "day",
    "9": "kind of work",
    "Z": "notes",
    "L": "call number",
    "W": "database provider",
    "~": "database",
    "1": "custom 1",
    "2": "custom 2",
    "3": "custom 3",
    "4": "custom 4",
    "?": "subsidiary author",
    "!": "short title",
    "(": "original publication",
    ">": "file",
}


def sniff(head: Head) -> float:
    """How surely this is the refer format, 0 to 1."""
    found = re.findall(r"^%([A-Z0-9@])[ \t]+\S", head.text, re.M)
    return 0.9 if len(found) > 2 and {"T", "B", "A", "0"} & set(found) and re.match(r"\s*%\S", head.text) else 0.0


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """Records one by one; a line without a percent sign carries the field above it on."""
    fields: dict[str, list[str]] = {}
    raw: list[str] = []
    start, last = 0, ""
    for number, line in enumerate(stream.lines(), 1):
        found = _FIELD.match(line.rstrip("\n"))
        if fields and (not line.strip() or (found and found[1] == "0" and "0" in fields)):
            yield _record(fields, start, "".join(raw), report)
            fields, raw, last = {}, [], ""
        if not line.strip():
            continue
        if found:
            if not fields:
                start = number
            last = found[1]
            fields.setdefault(last, []).append((found[2] or "").strip())
        elif last:
            fields[last][-1] = f"{fields[last][-1]} {line.strip()}".strip()
        else:
            report.problem(number, "text outside any record (its fields begin with %); it was left out", line)
            continue
        raw.append(line)
    if fields:
        yield _record(fields, start, "".join(raw), report)


def _record(fields: dict[str, list[str]], line: int, raw: str, report: Report) -> RawRecord:
    def one(*tags: str) -> str:
        return next((v for tag in tags for v in fields.get(tag, ()) if v), "")

    doi = next((v for v in fields.get("R", ()) if "10." in v), "")
    words = [unstarred(w) for text in fields.get("K", ()) for w in split_values(text, ";" if ";" in text else ",")]
    others = {"E": "editor", "Y": "contributor", "Q": "translator"}
    record = RawRecord(
        line=line,
        raw=raw,
        entry=one("F", "M"),
        type=one("0"),
        title=one("T") or one("B"),
        doi=doi,
        abstract=one("X"),
        persons=[name for name in fields.get("A", ()) if name],
        keywords=words,
        venue=one("J") or (one("B") if one("T") else "") or one("S"),
        volume=one("V"),
        pages=one("P").replace("--", "-"),
        language=language_code(one("G")),
        others=[("person", role, name) for tag, role in others.items() for name in fields.get(tag, ()) if name],
        extra=_extra(fields, doi),
    )
    dated(record, [v for tag in ("D", "8") for v in fields.get(tag, ())], report)
    affiliate(record, [a for text in fields.get("+", ()) for a in split_addresses(text)])
    numbers = [orcid(v) for v in fields.get("*", ())]
    if len(numbers) == len(record.persons):
        record.known_as = {name: f"orcid:{number}" for name, number in zip(record.persons, numbers) if number}
    elif fields.get("*"):
        record.extra["reviewed item"] = "; ".join(fields["*"])
    return record


def _extra(fields: dict[str, list[str]], doi: str) -> dict[str, object]:
    """What has no place of its own."""
    told: dict[str, object] = {
        _EXTRA.get(tag, tag): "; ".join(values)
        for tag, values in fields.items()
        if any(values) and (tag not in _USED or (tag == "S" and (fields.get("J") or fields.get("B"))))
    }
    reports = [v for v in fields.get("R", ()) if v and v != doi]
    return told | ({"report number": "; ".join(reports)} if reports else {})
