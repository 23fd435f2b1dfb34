"""MARC 21 records in JSON, as libraries' interfaces answer with."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from umber_knot.corpus.model import RawRecord
from umber_knot.gather.formats._json import obj, objects, text, values
from umber_knot.gather.formats._marc import record_of
from umber_knot.gather.stream import Head, Report, Stream

NAME = "MARC in JSON"


def sniff(head: Head) -> float:
    """How surely this is MARC in JSON, 0 to 1."""
    start = head.text.lstrip()[:1]
    told = '"leader"' in head.text and '"fields"' in head.text and '"subfields"' in head.text
    return 0.95 if start in ("[", "{") and told else 0.0


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """Records one by one."""
    for item, line, raw in values(stream, report, ("records", "items")):
        if not isinstance(item.get("fields"), list):
            report.problem(line, "a record without fields; it was left out", raw)
            continue
        yield record_of(_marc(item), line, raw, report)


def _marc(item: dict[str, Any]) -> Any:
    from pymarc import Field, Indicators, Record, Subfield

    marc: Any = Record()
    marc.leader = text(item.get("leader")).ljust(24)[:24]
    for one in objects(item["fields"]):
        for tag, value in one.items():
            if not (tag.isascii() and tag.isdecimal() and len(tag) == 3):
                continue
            if tag < "010":
                marc.add_field(Field(tag=tag, data=text(value)))
                continue
            field = obj(value)
            inner = [
                Subfield(code, text(t)) for s in objects(field.get("subfields")) for code, t in s.items() if text(t)
            ]
            signs = Indicators(text(field.get("ind1")) or " ", text(field.get("ind2")) or " ")
            marc.add_field(Field(tag=tag, indicators=signs, subfields=inner))
    return marc
