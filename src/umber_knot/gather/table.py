"""Tables as CSV: a header row, columns matched to fields by their names, several values in a cell by semicolon."""

from __future__ import annotations

import csv
import re
from collections.abc import Iterator

from umber_knot.corpus.model import RawRecord
from umber_knot.errors import UserError
from umber_knot.gather.fields import find_year, institution_of, split_values
from umber_knot.gather.text_source import LONGEST_LINE, Report

NAME = "CSV"
DELIMITERS = ",;\t|"
#: What a column may be called, folded to lower-case letters only.
COLUMNS = {
    "title": ("title", "titel", "titre", "titulo", "documenttitle", "articletitle", "name"),
    "persons": ("authors", "author", "people", "persons", "person", "creators", "creator", "autor", "autoren",
                "auteurs", "authornames", "authorfullnames"),
    "year": ("year", "publicationyear", "pubyear", "jahr", "annee", "ano", "date", "published", "datum"),
    "keywords": ("keywords", "keyword", "words", "authorkeywords", "tags", "subjects", "topics", "terms",
                 "schlagworte", "motscles", "palabrasclave"),
    "venue": ("venue", "journal", "sourcetitle", "source", "publicationtitle", "booktitle", "zeitschrift", "in"),
    "institutions": ("institutions", "institution", "affiliations", "affiliation", "organisation", "organization"),
    "references": ("references", "citedreferences", "cites"),
    "doi": ("doi",),
    "abstract": ("abstract", "summary", "zusammenfassung", "resume"),
    "citations": ("citations", "citedby", "timescited", "citationcount"),
    "entry": ("id", "key", "identifier", "recordid"),
    "type": ("type", "documenttype"),
}  # fmt: skip
_FIELD_OF = {name: field for field, names in COLUMNS.items() for name in names}


def _fold(name: str) -> str:
    return re.sub(r"[^a-z]", "", name.lower().replace("é", "e").replace("í", "i").replace("ñ", "n"))


def match_columns(header: list[str]) -> dict[str, int]:
    """Field → column; the first column that a field's names match, in the order the names are listed."""
    folded = [_fold(name) for name in header]
    found = {}
    for field, names in COLUMNS.items():
        for name in names:
            if name in folded:
                found[field] = folded.index(name)
                break
    return found


def sniff(head: str) -> float:
    """How surely this is a table, 0 to 1: a header we know is a strong sign, a steady delimiter a weak one."""
    first, *rest = head.split("\n", 5)[:5] or [""]
    delimiter = find_delimiter(first)
    if not delimiter:
        return 0.3 if _fold(first) in _FIELD_OF and rest else 0.0
    if match_columns(next(csv.reader([first], delimiter=delimiter), [])):
        return 0.8
    counts = {line.count(delimiter) for line in rest[:-1] if line.strip()}
    return 0.4 if len(counts) == 1 and counts == {first.count(delimiter)} else 0.0


def find_delimiter(first: str) -> str:
    """The delimiter of a header line: the one that splits it most, outside quotation marks."""
    bare = re.sub(r'"[^"]*"', "", first)
    best = max(DELIMITERS, key=bare.count)
    return best if best in bare else ""


def read(lines: Iterator[str], report: Report) -> Iterator[RawRecord]:
    """Rows one by one, numbered by the line they end on; ragged rows are read as far as they go and reported."""
    first = next(lines, "")
    delimiter = find_delimiter(first.rstrip("\n")) or ","
    header = next(csv.reader([first], delimiter=delimiter), [])
    columns = match_columns(header)
    if "title" not in columns and "persons" not in columns and "keywords" not in columns:
        raise UserError(
            "no column of this table is called title, authors or keywords",
            place="line 1",
            cure=f"Give the first row the names of the columns; it reads: {first.strip()[:80]!r}",
        )
    csv.field_size_limit(LONGEST_LINE)
    kept: list[str] = []

    def keeping() -> Iterator[str]:
        for line in lines:
            kept.append(line)
            yield line

    rows = csv.reader(keeping(), delimiter=delimiter)
    number = 1
    while True:
        start = number + 1
        try:
            row = next(rows)
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
        if not any(cell.strip() for cell in row):
            continue
        if len(row) != len(header):
            report.problem(
                start, f"{len(row)} cell{'s' * (len(row) != 1)} where the header has {len(header)}; read as far as it goes. "
                "A cell that holds a delimiter must stand in quotation marks", raw,
            )  # fmt: skip
        yield _record(row, header, columns, start, raw, report)


def _record(
    row: list[str], header: list[str], columns: dict[str, int], line: int, raw: str, report: Report
) -> RawRecord:
    def cell(field: str) -> str:
        column = columns.get(field, len(row))
        return row[column].strip() if column < len(row) else ""

    year = find_year(cell("year"))
    if cell("year") and not year:
        report.problem(line, f"the year {cell('year')[:40]!r} was not understood; the record is kept without one")
    cited = cell("citations").replace(",", "")
    used = set(columns.values())
    return RawRecord(
        line=line,
        raw=raw,
        entry=cell("entry"),
        type=cell("type"),
        title=cell("title"),
        year=year,
        date=cell("year"),
        doi=cell("doi"),
        abstract=cell("abstract"),
        citations=min(int(cited), 2**31 - 1) if cited.isdecimal() and cited.isascii() else 0,
        persons=split_values(cell("persons")),
        keywords=split_values(cell("keywords")),
        venue=cell("venue"),
        institutions=[institution_of(a) for a in split_values(cell("institutions"))],
        references=split_values(cell("references")),
        extra={
            name: value.strip() for i, (name, value) in enumerate(zip(header, row)) if i not in used and value.strip()
        },
    )


def write(records: Iterator[RawRecord]) -> Iterator[str]:
    """The records as CSV text (RFC 4180), a piece a row."""

    class Piece:
        text = ""

        def write(self, text: str) -> None:
            self.text = text

    piece = Piece()
    writer = csv.writer(piece)
    names = ["id", "type", "title", "authors", "year", "venue", "keywords", "institutions", "doi", "abstract"]
    writer.writerow([*names, "citations", "references"])
    yield piece.text
    for r in records:
        writer.writerow([
            r.entry, r.type, r.title, "; ".join(r.persons), r.year or "", r.venue, "; ".join(r.keywords),
            "; ".join(r.institutions), r.doi, r.abstract, r.citations or "", "; ".join(r.references),
        ])  # fmt: skip
        yield piece.text
