"""Tables as delimited text (CSV, TSV): delimiter and header found, columns matched to fields."""

from __future__ import annotations

import csv
import re
from collections.abc import Iterator

from umber_knot.corpus.model import RawRecord
from umber_knot.gather.fields import addresses
from umber_knot.gather.formats._rows import Row, read_rows
from umber_knot.gather.matching import field_named
from umber_knot.gather.stream import LONGEST_LINE, Head, Report, Stream

NAME = "CSV"
DELIMITERS = ",;\t|"


def sniff(head: Head) -> float:
    """How surely this is a table, 0 to 1: a header we know is a strong sign, a steady delimiter a weak one."""
    if re.match(r'\s*(?:\[\s*)?\{\s*["}]', head.text):  # JSON, whatever its name
        return 0.0
    first, *rest = [line for line in head.text.split("\n", 12)[:12] if line.strip()] or [""]
    delimiter = find_delimiter(head.text)
    if not delimiter:
        named = head.name.lower().endswith((".csv", ".tsv"))
        return 0.5 if field_named(first) and named else 0.0
    names = next(csv.reader([first], delimiter=delimiter), [])
    if len(names) > 1 and sum(bool(field_named(name)) for name in names) >= min(2, len(names) - 1):
        return 0.8
    counts = {_bare(line).count(delimiter) for line in rest[:8] if line.strip()}
    if head.name.lower().endswith((".csv", ".tsv", ".tab")):
        return 0.4
    steady = counts == {_bare(first).count(delimiter)}  # prose has commas too
    return (0.12 if head.name.lower().endswith((".txt", ".md")) or head.text[:1] in "<{[" else 0.4) if steady else 0.0


def _bare(line: str) -> str:
    return re.sub(r'"[^"]*"', "", line)


def find_delimiter(text: str) -> str:
    """The delimiter of a table: the one that splits its first lines most steadily, outside quotation marks."""
    lines = [line for line in _bare(text).split("\n", 12)[:12] if line.strip()]
    best = max(
        DELIMITERS,
        key=lambda d: (
            (sum(line.count(d) == lines[0].count(d) > 0 for line in lines), lines[0].count(d)) if lines else 0
        ),
    )
    return best if lines and any(best in line for line in lines) else ""


def rows(stream: Stream, report: Report) -> Iterator[Row]:
    """Every row with the line it begins on and its raw text."""
    delimiter = find_delimiter(stream.head.text) or ","
    csv.field_size_limit(LONGEST_LINE)
    kept: list[str] = []

    def keeping() -> Iterator[str]:
        for line in stream.lines():
            kept.append(line)
            yield line

    reader = csv.reader(keeping(), delimiter=delimiter)
    number = 0
    while True:
        start = number + 1
        try:
            row = next(reader)
        except StopIteration:
            return
        except csv.Error as error:
            number += len(kept)
            report.problem(start, f"the row cannot be read ({error}) and was left out", kept[0] if kept else "")
            kept.clear()
            continue
        raw = "".join(kept)
        number += len(kept)
        kept.clear()
        yield start, row, raw


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """Rows one by one, numbered by the line they begin on; ragged rows are read as far as they go and reported."""
    yield from read_rows(rows(stream, report), stream.options, report)


def write(records: Iterator[RawRecord]) -> Iterator[str]:
    """The records as CSV text (RFC 4180), a piece a row."""

    class Piece:
        text = ""

        def write(self, text: str) -> None:
            self.text = text

    piece = Piece()
    writer = csv.writer(piece)
    names = ["id", "type", "title", "authors", "editors", "date", "venue", "volume", "pages", "keywords", "index terms"]
    writer.writerow([*names, "affiliations", "language", "doi", "abstract", "citations", "references"])
    yield piece.text
    for r in records:
        editors = [text for k, role, text in r.others if (k, role) == ("person", "editor")]
        index = [text for k, role, text in r.others if (k, role) == ("keyword", "index")]
        writer.writerow(
            [
                r.entry,
                r.type,
                r.title,
                "; ".join(r.persons),
                "; ".join(editors),
                r.date or r.year or "",
                r.venue,
                r.volume,
                r.pages,
                "; ".join(r.keywords),
                "; ".join(index),
                "; ".join(addresses(r)),
                r.language,
                r.doi,
                r.abstract,
                r.citations or "",
                "; ".join(r.references),
            ]
        )
        yield piece.text
