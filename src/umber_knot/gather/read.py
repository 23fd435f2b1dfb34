"""From a file on disk to raw records: the format is recognised by content, never by the file's ending alone."""

from __future__ import annotations

import dataclasses
import importlib
import json
import pkgutil
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from functools import lru_cache
from pathlib import Path
from typing import Any, Protocol, cast

from umber_knot.corpus.assemble import corpus_of
from umber_knot.corpus.bulk import no_cycles
from umber_knot.corpus.checking import check
from umber_knot.corpus.model import Corpus, Decision, RawRecord, Source
from umber_knot.corpus.written import Own, Written, rows_by_number, written
from umber_knot.errors import UserError
from umber_knot.gather import formats
from umber_knot.gather.plain import tidy
from umber_knot.gather.stream import MAGIC, Head, Report, Stream

Progress = Callable[[str, int, int], None]  # (what, done, of how many)
MOST_FILES = 20_000  # in one folder that is dropped
STUDIES = (".umber", ".umber-wal", ".umber-shm")  # which a folder of sources may hold as well


class Reader(Protocol):
    """What every format module offers. ``UNIT`` (default "line") says what a record's place counts."""

    NAME: str

    def sniff(self, head: Head) -> float: ...
    def read(self, stream: Stream, report: Report) -> Iterator[RawRecord]: ...


@lru_cache(1)
def readers() -> tuple[Reader, ...]:
    """Every format there is: the modules of ``gather.formats``, found by looking."""
    names = sorted(module.name for module in pkgutil.iter_modules(formats.__path__))
    found = [importlib.import_module(f"{formats.__name__}.{name}") for name in names if not name.startswith("_")]
    return tuple(cast(Reader, module) for module in found)


def silent(what: str, done: int, of: int) -> None:
    """Progress that nobody watches."""


class Harvest:
    """One source being read: iterate once for its records, then ask for its ``source``.

    The iteration raises UserError if nothing at all can be made of the source.
    """

    def __init__(self, open_stream: Callable[[], Stream], name: str, place: str = "") -> None:
        self.name, self.place, self.count = name, place or name, 0
        self.note = ""  # where it came from, when that is no file
        self._open = open_stream

    def _unknown(self) -> UserError:
        for magic, what in MAGIC.items():
            if self.stream.head.data.startswith(magic):
                return UserError(f"this is {what}, which holds no records", place=self.place, cure=READABLE)
        if not self.stream.encoding:
            return UserError("this is not a text file", place=self.place, cure=READABLE)
        lines = sum(1 for _ in self.stream.lines())  # finds lines too long to be read, which explain best
        long_line = next((p for p in self.report.problems if "characters" in p.message), None)
        if long_line and lines <= 2:
            return UserError(long_line.message, place=f"{self.place}, line 1")
        return UserError("the format was not recognised", place=self.place, cure=READABLE)

    def __iter__(self) -> Iterator[RawRecord]:
        self.stream = self._open()
        self.report = self.stream.report
        sure = [(reader.sniff(self.stream.head), reader) for reader in readers()]
        confidence, self.reader = max(sure, key=lambda one: one[0])
        if confidence == 0.0:
            raise self._unknown()
        self.report.by_line = getattr(self.reader, "UNIT", "line") == "line"
        try:
            for record in self.reader.read(self.stream, self.report):
                self.count += 1
                tidy(record)
                yield record
        except UserError as error:
            place = f"{self.place}, {error.place}" if error.place else self.place
            raise UserError(error.message, place=place, cure=error.cure) from error
        except RecursionError:
            raise UserError(
                "the file is nested too deeply to be read", place=self.place, cure="Export it again"
            ) from None
        if not self.count and not self.report.problems:
            self.report.problem(0, "no record was found")

    @property
    def source(self) -> Source:
        """What was read and how it went; complete once every record has been taken."""
        options = dict(self.report.used) or {
            k: v for k, v in self.stream.options.items() if k not in ("remembered", "header")
        }
        return Source(
            name=self.name,
            path=str(self.stream.path or ""),
            format=self.reader.NAME,
            encoding=self.stream.encoding,
            sha256=self.stream.sha256,
            records=self.count,
            problems=self.report.listed(),
            unit=getattr(self.reader, "UNIT", "line"),
            reading=json.dumps(options, ensure_ascii=False, sort_keys=True) if options else "",
            told="; ".join(t for t in (self.report.told, self.note) if t),
        )


READABLE = (
    "Bibliographies (RIS, BibTeX, CSL-JSON, MARC, MODS, JATS, field-tagged text …), tables (CSV, XLSX, ODS), "
    "mail, TEI, texts (DOCX, ODT, PDF, HTML, Markdown), outlines and networks can be read"
)


def read_file(path: Path, progress: Progress = silent, options: Mapping[str, Any] | None = None) -> Harvest:
    """A file to be read; a folder of mail counts as one file."""

    def opened() -> Stream:
        if path.is_dir() and not is_maildir(path):
            raise UserError("this is a folder", place=str(path), cure="Give the files in it")
        stream = Stream(
            path, Report(), lambda done: progress(f"reading {path.name}", done, stream.size), options=options
        )
        return stream

    return Harvest(opened, path.name, str(path))


def read_text(text: str | bytes, name: str, options: Mapping[str, Any] | None = None) -> Harvest:
    """Text that is in memory already, as a source of this name."""
    return Harvest(lambda: Stream.of(text, name=name, options=options), name)


def is_maildir(path: Path) -> bool:
    """Whether a folder is a Maildir."""
    return all((path / part).is_dir() for part in ("cur", "new"))


def expanded(paths: Iterable[Path]) -> list[Path]:
    """Files and the files in folders, in order; a Maildir stands for itself, hidden files and studies are left
    alone."""
    found: list[Path] = []
    for path in paths:
        if path.is_dir() and not is_maildir(path):
            inside = sorted(
                p for p in path.rglob("*") if not any(part.startswith(".") for part in p.relative_to(path).parts)
            )
            mail = [p for p in inside if p.is_dir() and is_maildir(p)]
            found += mail + [
                p
                for p in inside
                if p.is_file() and not p.name.endswith(STUDIES) and not any(m in p.parents for m in mail)
            ]
            if len(found) > MOST_FILES:
                raise UserError(f"more than {MOST_FILES:,} files", place=str(path), cure="Add the folder in parts")
        else:
            found.append(path)
    return found


def read_whole(path: Path) -> tuple[Source, list[RawRecord]]:
    """One file's records at once, and how it went."""
    with no_cycles():
        harvest = read_file(path)
        records = list(harvest)
    return harvest.source, records


def read_corpus(paths: Sequence[Path], decisions: Sequence[Decision] = ()) -> Corpus:
    """A corpus of several files, without a study."""
    return corpus_of(map(read_whole, expanded(paths)), decisions)


def texts(paths: Sequence[Path], corpus: Corpus) -> Iterator[Written]:
    """What the records of a corpus of some files say, in their order; the files are read once more for it."""
    records = (record for path in expanded(paths) for record in read_file(path))
    ahead = enumerate(records, 1)
    needed = {*corpus.id.tolist(), *corpus.also.id.tolist()}
    kept: dict[int, Own] = {}
    reached = 0

    def fetch(numbers: Sequence[int]) -> dict[int, Own]:
        nonlocal reached
        while reached < max(numbers):
            reached, record = next(ahead)
            if reached in needed and (record.abstract or record.passages):
                kept[reached] = record.abstract, record.passages
        return {number: kept.pop(number) for number in numbers if number in kept}

    yield from written(corpus, fetch)


def extras(paths: Sequence[Path], corpus: Corpus) -> Iterator[tuple[int, Mapping[str, object]]]:
    """The further fields of the records of a corpus of some files, by row; the files are read once more for it."""
    row = rows_by_number(corpus)
    records = (record for path in expanded(paths) for record in read_file(path))
    for number, record in enumerate(records, 1):
        if record.extra and number in row:
            yield row[number], record.extra


def inspect(path: Path) -> dict[str, object]:
    """What a file holds, as ``./umber inspect`` prints it; a file that cannot be read gives its problem."""
    counts: dict[str, object] = dict.fromkeys(
        ("records", "persons", "keywords", "references", "letters", "passages"), 0
    )
    try:
        source, records = read_whole(path)
    except UserError as error:
        message = f"{error.message}. {error.cure}" if error.cure else error.message
        line = int(error.place.rpartition("line ")[2]) if "line " in error.place else 0
        problem = {"line": line, "message": message, "excerpt": ""}
        return {"file": str(path), "format": "", "told": "", **counts, "fields": {}, "odd": [], "problems": [problem]}
    corpus = corpus_of([(source, records)])
    checked = check(corpus)[0]
    counts["records"] = len(records)
    for key, kind in (("persons", "person"), ("keywords", "keyword"), ("references", "reference")):
        counts[key] = len(corpus.of(kind).forms)
    counts["letters"] = sum(any(role in ("sender", "recipient") for _, role, _ in r.others) for r in records)
    counts["passages"] = sum(len(r.passages) for r in records)
    return {
        "file": str(path),
        "format": source.format,
        "told": source.told,
        **counts,
        "fields": {name: round(share, 3) for name, share in checked.fullness},
        "odd": [one.said() for one in checked.odd],
        "problems": [dataclasses.asdict(p) for p in source.problems],
    }


def rows_of(path: Path) -> Iterator[tuple[int, list[str], str]]:
    """The rows of a table file as they stand: (place, cells, raw text)."""
    stream = Stream(path, Report())
    reader = max(readers(), key=lambda r: r.sniff(stream.head) if hasattr(r, "rows") else 0.0)
    if not hasattr(reader, "rows") or not reader.sniff(stream.head):
        raise UserError("this is not a table", place=str(path), cure="Give a CSV, TSV, XLSX or ODS file")
    found: Iterator[tuple[int, list[str], str]] = reader.rows(stream, stream.report)
    return found
