"""MARCXML: MARC 21 records in XML."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from umber_knot.corpus.model import RawRecord
from umber_knot.gather.formats._marc import record_of
from umber_knot.gather.formats._xml import Piece, children, pieces
from umber_knot.gather.stream import Head, Report, Stream

NAME = "MARCXML"


def sniff(head: Head) -> float:
    """How surely this is MARCXML, 0 to 1."""
    return (
        0.96
        if "MARC21/slim" in head.text or ("<" in head.text and ":datafield" in head.text) or "<datafield " in head.text
        else 0.0
    )


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """Records one by one."""
    for piece in pieces(stream, report, "record"):
        inner = next((e for e in piece.element.iter() if e.tag == "record" and children(e, "datafield")), None)
        if inner is None:
            report.problem(piece.line, "a record without fields; it was left out", piece.raw)
            continue
        yield record_of(_marc(piece._replace(element=inner)), piece.line, piece.raw, report)


def _marc(piece: Piece) -> object:
    from pymarc import Field, Indicators, Record, Subfield

    marc: Any = Record()
    for element in piece.element:
        name, tag = element.tag, element.get("tag", "")
        if name == "leader":
            marc.leader = (element.text or "").ljust(24)[:24]
        elif name == "controlfield" and tag.isdecimal():
            marc.add_field(Field(tag=tag, data=element.text or ""))
        elif name == "datafield" and tag.isdecimal() and int(tag) >= 10:
            inner = [Subfield(s.get("code", ""), s.text or "") for s in children(element, "subfield")]
            marc.add_field(
                Field(
                    tag=tag, indicators=Indicators(element.get("ind1", " "), element.get("ind2", " ")), subfields=inner
                )
            )
    return marc
