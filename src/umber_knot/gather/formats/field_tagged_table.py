"""The two-letter fields of citation databases as a tab-delimited table."""

from __future__ import annotations

from collections.abc import Iterator

from umber_knot.corpus.model import RawRecord
from umber_knot.gather.formats._fields_of_databases import record_of
from umber_knot.gather.stream import Head, Report, Stream

NAME = "field-tagged table"
_LISTS = ("AU", "AF", "CR", "BE")


def sniff(head: Head) -> float:
    """How surely this is such a table, 0 to 1."""
    names = set(head.text.split("\n", 1)[0].strip().split("\t"))
    return 0.95 if {"PT", "AU", "TI"} <= names else 0.0


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """Rows one by one; rows of another length than the header are read as far as they go and reported."""
    lines = stream.lines()
    header = next(lines, "").rstrip("\n").split("\t")
    for number, line in enumerate(lines, 2):
        if not line.strip():
            continue
        cells = line.rstrip("\n").split("\t")
        if len(cells) < len(header) - 1:
            report.problem(
                number, f"{len(cells)} cells where the header has {len(header)}; read as far as it goes", line
            )
        fields = {}
        for tag, cell in zip(header, cells):
            if cell.strip():
                fields[tag.strip()] = [v.strip() for v in cell.split(";")] if tag in _LISTS else [cell.strip()]
        yield record_of(fields, number, line, report)
