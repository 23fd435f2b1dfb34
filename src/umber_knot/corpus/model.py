"""Core types of the corpus: what a reader yields, and the arrays that everything else is computed from."""

from __future__ import annotations

import unicodedata
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

Ints = NDArray[np.signedinteger[Any]]  # int32 wherever it is stored
Floats = NDArray[np.float64]

#: Kinds of entity that a record can mention, in the order the interface lists them.
KINDS = ("person", "keyword", "venue", "institution", "reference")

#: The interface's words for a kind, one and many.
KIND_WORDS = {
    "person": ("person", "people"),
    "keyword": ("word", "words"),
    "venue": ("venue", "venues"),
    "institution": ("institution", "institutions"),
    "reference": ("reference", "references"),
}


def fold(text: str) -> str:
    """The identity of a form: Unicode NFC with white space folded; case and marks are kept.

    >>> fold("  Dray,\\n Tamsin ")
    'Dray, Tamsin'
    """
    folded = " ".join(text.split())
    return folded if folded.isascii() else unicodedata.normalize("NFC", folded)


@dataclass(slots=True)
class RawRecord:
    """One source document as a reader understood it, with its place in the file and its raw text."""

    line: int
    raw: str = ""
    entry: str = ""
    type: str = ""
    title: str = ""
    year: int = 0  # 0: no year given
    date: str = ""
    doi: str = ""
    abstract: str = ""
    citations: int = 0
    persons: list[str] = field(default_factory=list)
    keywords: list[str] = field(default_factory=list)
    venue: str = ""
    institutions: list[str] = field(default_factory=list)
    references: list[str] = field(default_factory=list)
    extra: dict[str, object] = field(default_factory=dict)

    def mentioned(self, kind: str) -> list[str]:
        """The texts of this record's mentions of one kind, in order."""
        if kind == "venue":
            return [self.venue] if self.venue else []
        return {
            "person": self.persons,
            "keyword": self.keywords,
            "institution": self.institutions,
            "reference": self.references,
        }[kind]


@dataclass(frozen=True, slots=True)
class Problem:
    """Something in a source that could not be read as it stands; the rest was kept."""

    line: int  # 1-based; 0: the file as a whole
    message: str
    excerpt: str = ""


@dataclass(frozen=True, slots=True)
class Source:
    """One file that was gathered."""

    name: str
    path: str
    format: str
    encoding: str
    sha256: str
    records: int
    problems: tuple[Problem, ...] = ()
    id: int = 0
    active: bool = True


@dataclass(frozen=True, slots=True)
class Mentions:
    """All mentions of one kind: parallel arrays, sorted by record, in the order of the source.

    ``record`` and ``form`` have shape (mentions,); ``form`` indexes ``forms``. A form that a record
    repeats is mentioned once.
    """

    forms: tuple[str, ...]
    record: Ints
    form: Ints

    def counts(self) -> Ints:
        """Records in which each form occurs, shape (forms,)."""
        return np.bincount(self.form, minlength=len(self.forms)).astype(np.int32)

    @staticmethod
    def none() -> Mentions:
        return Mentions((), np.zeros(0, np.int32), np.zeros(0, np.int32))


@dataclass(frozen=True, slots=True)
class Corpus:
    """Every active record of a study as columns of equal length, and its mentions by kind."""

    id: Ints  # the record's number in the study file
    title: tuple[str, ...]
    year: Ints  # 0: none given
    citations: Ints
    source: Ints  # index into sources
    line: Ints  # 1-based line of the source where the record begins
    entry: tuple[str, ...]
    mentions: dict[str, Mentions]
    sources: tuple[Source, ...]

    def __len__(self) -> int:
        return len(self.id)

    def of(self, kind: str) -> Mentions:
        return self.mentions.get(kind) or Mentions.none()

    def place(self, record: int) -> str:
        """Where a record comes from: ``mills.ris, line 2,114``."""
        name = self.sources[self.source[record]].name
        return f"{name}, line {self.line[record]:,}"


class FormTable:
    """Gives each distinct text of one kind a number, in the order of first use."""

    def __init__(self, texts: Sequence[str] = ()) -> None:
        self.index = {text: i for i, text in enumerate(texts)}

    def number(self, text: str) -> int:
        return self.index.setdefault(text, len(self.index))

    def texts(self) -> tuple[str, ...]:
        return tuple(self.index)


def corpus_of(harvests: Iterable[tuple[Source, Sequence[RawRecord]]]) -> Corpus:
    """A corpus straight from what the readers gave, without a study file."""
    sources: list[Source] = []
    records: list[RawRecord] = []
    owner: list[int] = []
    for source, found in harvests:
        owner += [len(sources)] * len(found)
        sources.append(source)
        records += found
    mentions = {}
    for kind in KINDS:
        table = FormTable()
        rows, cols = mention_pairs(records, kind, table)
        mentions[kind] = Mentions(table.texts(), rows, cols)
    return Corpus(
        id=np.arange(1, len(records) + 1, dtype=np.int32),
        title=tuple(r.title for r in records),
        year=np.array([r.year for r in records], np.int32),
        citations=np.array([r.citations for r in records], np.int32),
        source=np.array(owner, np.int32),
        line=np.array([r.line for r in records], np.int32),
        entry=tuple(r.entry for r in records),
        mentions=mentions,
        sources=tuple(sources),
    )


def mention_pairs(records: Sequence[RawRecord], kind: str, table: FormTable) -> tuple[Ints, Ints]:
    """(record, form) arrays of one kind; records are numbered by their place in the sequence."""
    rows: list[int] = []
    cols: list[int] = []
    number = table.number
    for r, record in enumerate(records):
        texts = record.mentioned(kind)
        if not texts:
            continue
        seen = [number(text) for text in dict.fromkeys(map(fold, texts)) if text]
        rows += [r] * len(seen)
        cols += seen
    return np.array(rows, np.int32), np.array(cols, np.int32)


@dataclass(frozen=True, slots=True)
class Decision:
    """One decision on forms; ``preferred`` is the other form of a merge or a keep-apart, or the preferred text."""

    kind: str
    decision: str  # merge, apart, aside, split, prefer
    form: str
    preferred: str = ""
    scope: str = ""
    note: str = ""
    id: int = 0  # its number in the ledger; 0 outside a study
    made: str = ""  # ISO 8601 time, empty outside a study
