"""Core types of the corpus: what a reader yields, and the arrays that everything else is computed from."""

from __future__ import annotations

import unicodedata
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from operator import attrgetter
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
        found: list[str] = getattr(self, f"{kind}s")
        return found


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


class FormTable(dict[str, int]):
    """Text as written → number of its form; forms are numbered in the order of first use.

    ``forms`` lists them. A text met before costs one look-up, whatever folding it needed.
    """

    def __init__(self, forms: Sequence[str] = ()) -> None:
        super().__init__(zip(forms, range(len(forms))))
        self.forms = list(forms)

    def __missing__(self, text: str) -> int:
        form = fold(text)
        number = self.get(form)
        if number is None:
            number = self[form] = len(self.forms)
            self.forms.append(form)
        self[text] = number
        return number


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
        mentions[kind] = Mentions(tuple(table.forms), rows, cols)
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
    cols: list[int] = []
    sizes = np.zeros(len(records), np.int32)
    found = (r.mentioned("venue") for r in records) if kind == "venue" else map(attrgetter(f"{kind}s"), records)
    for r, texts in enumerate(found):
        if texts:
            numbers = [table[text] for text in texts if text]
            if len(numbers) > 1 and len(set(numbers)) < len(numbers):
                numbers = list(dict.fromkeys(numbers))
            cols += numbers
            sizes[r] = len(numbers)
    return np.repeat(np.arange(len(records), dtype=np.int32), sizes), np.array(cols, np.int32)


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
