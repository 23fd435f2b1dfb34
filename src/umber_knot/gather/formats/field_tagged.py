"""Field-tagged plain text of citation databases: two-letter tags from PT to ER, between FN and EF."""

from __future__ import annotations

import re
from collections.abc import Iterator

from umber_knot.corpus.model import RawRecord
from umber_knot.gather.formats._fields_of_databases import record_of
from umber_knot.gather.formats._tagged import records
from umber_knot.gather.stream import Head, Report, Stream

NAME = "field-tagged text"
_TAG = re.compile(r"^([A-Z][A-Z0-9])(?:[ \t](.*))?$")


def sniff(head: Head) -> float:
    """How surely this is field-tagged text, 0 to 1."""
    tags = set(re.findall(r"^([A-Z][A-Z0-9])(?: |$)", head.text, re.M))
    return 0.9 if {"PT", "AU"} <= tags and tags & {"SO", "TI", "ER", "FN"} else 0.0


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """Records one by one; a line that is carried on is one more value of its field."""
    lines = (line for line in stream.lines())
    for fields, line, raw in records(_without_frame(lines), report, _TAG, "PT", "ER"):
        yield record_of(
            {tag: [v for one in found for v in one.split("\n")] for tag, found in fields.items()}, line, raw, report
        )


def _without_frame(lines: Iterator[str]) -> Iterator[str]:
    """The lines, with those of the file's own header and end blank."""
    for line in lines:
        yield "\n" if line[:3].rstrip() in ("FN", "VR", "EF") else line
