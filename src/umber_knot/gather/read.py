"""From a file on disk to raw records: the format is recognised by content, never by the file's ending alone."""

from __future__ import annotations

import dataclasses
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path
from typing import Protocol

from umber_knot.corpus.bulk import no_cycles
from umber_knot.corpus.model import Corpus, RawRecord, Source, corpus_of
from umber_knot.errors import UserError
from umber_knot.gather import bibtex, ris, table
from umber_knot.gather.text_source import Report, TextSource

Progress = Callable[[str, int, int], None]  # (what, done, of how many)


class Reader(Protocol):
    """What every format module offers."""

    NAME: str

    def sniff(self, head: str) -> float: ...
    def read(self, lines: Iterator[str], report: Report) -> Iterator[RawRecord]: ...


READERS: tuple[Reader, ...] = (ris, bibtex, table)


def silent(what: str, done: int, of: int) -> None:
    """Progress that nobody watches."""


def read_file(path: Path, progress: Progress = silent) -> tuple[Source, list[RawRecord]]:
    """One file's records and how it went; raises UserError when nothing at all can be read from it."""
    report = Report()
    text = TextSource(path, report, lambda done: progress(f"reading {path.name}", done, text.size))
    reader = max(READERS, key=lambda r: r.sniff(text.head))
    if reader.sniff(text.head) == 0.0:
        report_lines = sum(1 for _ in text.lines())  # finds lines too long to be read, which explain best
        long_line = next((p for p in report.problems if "characters" in p.message), None)
        raise UserError(
            long_line.message if long_line and report_lines <= 2 else "the format was not recognised",
            place=f"{path}, line 1" if long_line else str(path),
            cure="" if long_line and report_lines <= 2 else "RIS, BibTeX and CSV with a header row can be read",
        )
    try:
        with no_cycles():
            records = list(reader.read(text.lines(), report))
    except UserError as error:
        place = f"{path}, {error.place}" if error.place else str(path)
        raise UserError(error.message, place=place, cure=error.cure) from error
    if not records and not report.problems:
        report.problem(0, "no record was found")
    source = Source(
        name=path.name,
        path=str(path),
        format=reader.NAME,
        encoding=text.encoding,
        sha256=text.sha256,
        records=len(records),
        problems=report.listed(),
    )
    return source, records


def read_corpus(paths: Sequence[Path], progress: Progress = silent) -> Corpus:
    """A corpus of several files, without a study."""
    return corpus_of(read_file(path, progress) for path in paths)


def inspect(path: Path) -> dict[str, object]:
    """What a file holds, as ``./umber inspect`` prints it; a file that cannot be read gives its problem."""
    counts: dict[str, object] = dict.fromkeys(
        ("records", "persons", "keywords", "references", "letters", "passages"), 0
    )
    try:
        source, records = read_file(path)
    except UserError as error:
        message = f"{error.message}. {error.cure}" if error.cure else error.message
        line = int(error.place.rpartition("line ")[2]) if "line " in error.place else 0
        problem = {"line": line, "message": message, "excerpt": ""}
        return {"file": str(path), "format": "", **counts, "problems": [problem]}
    corpus = corpus_of([(source, records)])
    counts["records"] = len(corpus)
    for key, kind in (("persons", "person"), ("keywords", "keyword"), ("references", "reference")):
        counts[key] = len(corpus.of(kind).forms)
    return {
        "file": str(path),
        "format": source.format,
        **counts,
        "problems": [dataclasses.asdict(p) for p in source.problems],
    }
