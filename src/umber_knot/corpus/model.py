"""Core types of the corpus: what a reader yields, and the arrays that everything else is computed from."""

from __future__ import annotations

import unicodedata
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from operator import attrgetter
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from umber_knot.corpus.anchors import anchor, parsed
from umber_knot.corpus.texts import Texts

Ints = NDArray[np.signedinteger[Any]]  # int32 wherever it is stored
Floats = NDArray[np.float64]
_NOBODY: Mapping[str, str] = {}

#: Kinds of entity that a record can mention, in the order the interface lists them.
KINDS = ("person", "keyword", "venue", "institution", "place", "country", "reference")
#: Those, and what is found in texts: the kinds that decisions are made on.
DECIDED = (*KINDS, "term")
#: What of a network decisions change by hand.
ON_NETWORK = ("item", "tie")


class _Words(dict[str, tuple[str, str]]):
    def __missing__(self, kind: str) -> tuple[str, str]:
        """Of a column of the material: its values."""
        return f"value of {kind}", f"values of {kind}"


#: The interface's words for a kind, one and many.
KIND_WORDS = _Words(
    record=("record", "records"),
    person=("person", "people"),
    keyword=("word", "words"),
    venue=("venue", "venues"),
    institution=("institution", "institutions"),
    place=("place", "places"),
    country=("country", "countries"),
    reference=("reference", "references"),
    term=("term", "terms"),
)


def named(kinds: Sequence[str], n: int = 2) -> str:
    """What so many items of some kinds are called.

    >>> named(("person", "venue")), named(("person", "venue"), 1)
    ('people and venues', 'person or venue')
    """
    return " or ".join(KIND_WORDS[k][0] for k in kinds) if n == 1 else " and ".join(KIND_WORDS[k][1] for k in kinds)


#: What a mention is to its record; the first is the plain one (an author, an author's keyword). Only added to.
ROLES = (
    "",
    "editor",
    "translator",
    "contributor",
    "sender",
    "recipient",
    "copy",
    "mentioned",
    "index",
    "heading",
    "from",
    "to",
)
_ROLE = {role: number for number, role in enumerate(ROLES)}
_LISTS = {
    "person": "persons",
    "keyword": "keywords",
    "institution": "institutions",
    "place": "places",
    "country": "countries",
    "reference": "references",
}


def fold(text: str) -> str:
    """The identity of a form: Unicode NFC with white space folded; case and marks are kept.

    >>> fold("  Dray,\\n Tamsin ")
    'Dray, Tamsin'
    """
    folded = " ".join(text.split())
    return folded if folded.isascii() else unicodedata.normalize("NFC", folded)


class Passage(NamedTuple):
    """A paragraph of a text with its place: ``line`` (or page) in the source, and the headings above it."""

    text: str
    line: int
    heading: str = ""


@dataclass(slots=True)
class RawRecord:
    """One source document as a reader understood it, with its place in the file and its raw text."""

    line: int
    raw: str = ""
    entry: str = ""
    type: str = ""
    title: str = ""
    year: int = 0  # 0: no year given
    date: str = ""  # EDTF where it was understood, else as written
    doi: str = ""
    abstract: str = ""
    citations: int = 0
    persons: list[str] = field(default_factory=list)  # authors, in order
    keywords: list[str] = field(default_factory=list)
    venue: str = ""
    institutions: Sequence[str] = ()
    references: Sequence[str] = ()
    extra: dict[str, object] = field(default_factory=dict)
    volume: str = ""
    pages: str = ""
    language: str = ""
    places: Sequence[str] = ()
    countries: Sequence[str] = ()
    others: Sequence[tuple[str, str, str]] = ()  # (kind, role, text) of mentions in a role
    identifiers: Sequence[str] = ()  # beside the DOI, as "pmid:123"
    known_as: Mapping[str, str] = field(default_factory=lambda: _NOBODY)  # person as written → ORCID or address
    passages: Sequence[Passage] = ()
    weight: float = 1.0  # of the ties this record makes; other than 1 only for ties read from a network file

    def mentioned(self, kind: str) -> list[str]:
        """The texts of this record's mentions of one kind, in order, those in a role last."""
        plain = [self.venue] if kind == "venue" and self.venue else list(getattr(self, _LISTS.get(kind, ""), ()))
        return plain + [text for k, _, text in self.others if k == kind]


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
    unit: str = "line"  # what a record's place counts: line, row, page, message
    reading: str = ""  # how it was read where the scholar chose: options as JSON
    told: str = ""  # what was recognised, beyond the format
    anchor: str = ""  # what anchors of its records begin with; no other source of the study has it


@dataclass(frozen=True, slots=True)
class Mentions:
    """All mentions of one kind: parallel arrays, sorted by record, in the order of the source.

    ``record`` and ``form`` have shape (mentions,); ``form`` indexes ``forms``; ``role`` indexes ROLES, or is empty
    where every mention is plain. A form that a record repeats in one role is mentioned once.
    """

    forms: Texts
    record: Ints
    form: Ints
    role: Ints = field(default_factory=lambda: np.zeros(0, np.int8))

    def counts(self) -> Ints:
        """Records in which each form occurs, shape (forms,)."""
        form = self.form
        if len(self.role):  # one form in two roles of a record is one record
            form = np.unique(self.record.astype(np.int64) * len(self.forms) + form) % len(self.forms)
        return np.bincount(form, minlength=len(self.forms)).astype(np.int32)

    def in_role(self, *roles: str) -> Mentions:
        """Only the mentions in some roles ("" is the plain one)."""
        if not len(self.role):
            return self if "" in roles else Mentions(self.forms, self.record[:0], self.form[:0])
        kept = np.isin(self.role, [_ROLE[role] for role in roles])
        return Mentions(self.forms, self.record[kept], self.form[kept], self.role[kept])

    @staticmethod
    def none() -> Mentions:
        return Mentions(Texts.of(()), np.zeros(0, np.int32), np.zeros(0, np.int32))


@dataclass(frozen=True, slots=True)
class Flow:
    """From what was read to what the study keeps, in records."""

    read: int
    by_identifier: int = 0  # joined with an earlier record of the same identifier
    by_title: int = 0  # joined by what they say
    excluded: tuple[tuple[str, int], ...] = ()  # (reason, records)
    unapplied: tuple[tuple[str, str], ...] = ()  # (what a decision calls a record, why none or not one is meant)


@dataclass(frozen=True, slots=True)
class Findings:
    """The other findings of records found more than once: arrays of shape (findings,), sorted by record."""

    record: Ints  # the record that the finding is part of
    source: Ints
    line: Ints
    id: Ints
    print: NDArray[np.int64]

    @staticmethod
    def none() -> Findings:
        none = np.zeros(0, np.int32)
        return Findings(none, none, none, none, np.zeros(0, np.int64))


@dataclass(frozen=True, slots=True)
class Doubtful:
    """Pairs of records that may be one, kept apart: arrays of shape (pairs,), the most alike first."""

    one: Ints
    other: Ints
    doubt: NDArray[np.int8]  # what makes it doubtful, an index into joining.DOUBTS
    likeness: Floats  # share of the words of titles and names, 0 to 1

    def __len__(self) -> int:
        return len(self.one)

    @staticmethod
    def none() -> Doubtful:
        none = np.zeros(0, np.int32)
        return Doubtful(none, none, np.zeros(0, np.int8), np.zeros(0))


@dataclass(frozen=True, slots=True)
class Known:
    """Identifiers of people: in a record, of a form, as text (an ORCID or an address); shape (identifiers,)."""

    record: Ints
    form: Ints
    text: Texts

    def __iter__(self) -> Iterator[tuple[int, int, str]]:
        return zip(self.record.tolist(), self.form.tolist(), self.text)

    def __len__(self) -> int:
        return len(self.record)

    @staticmethod
    def of(triples: Sequence[tuple[int, int, str]]) -> Known:
        record, form = (np.array([t[k] for t in triples], np.int32) for k in (0, 1))
        return Known(record, form, Texts.of(t[2] for t in triples))


class Places(NamedTuple):
    """Records by what decisions call them, and for names that mean none, or not one alone, the reason."""

    row: dict[str, int]
    why: dict[str, str]


@dataclass(frozen=True, slots=True)
class Corpus:
    """Every record that the study keeps as columns of equal length, and its mentions by kind."""

    id: Ints  # the record's number in the study file
    title: Texts
    year: Ints  # 0: none given
    citations: Ints
    source: Ints  # index into sources
    line: Ints  # 1-based place in the source where the record begins
    print: NDArray[np.int64]  # the fingerprint of its entry (see anchors)
    begin: Ints  # first and last day of its date, in days from 1970-01-01 (see days)
    end: Ints
    entry: Texts
    date: Texts
    type: Texts
    language: Texts
    doi: Texts
    volume: Texts
    pages: Texts
    weight: Floats
    passages: Ints  # how many
    mentions: dict[str, Mentions]
    sources: tuple[Source, ...]
    also: Findings
    known: Known
    flow: Flow
    doubtful: Doubtful

    def __len__(self) -> int:
        return len(self.id)

    def of(self, kind: str) -> Mentions:
        return self.mentions.get(kind) or Mentions.none()

    def knowing(self, found: Mapping[str, Mentions]) -> Corpus:
        """The same corpus with the mentions of further kinds: what was found in texts, or in columns."""
        return replace(self, mentions={**self.mentions, **found}) if found else self

    def place(self, record: int) -> str:
        """Where a record comes from: ``mills.ris, line 2,114``."""
        return self.spot(int(self.source[record]), int(self.line[record]))

    def spot(self, source: int, line: int) -> str:
        """A place in a source, in words."""
        return f"{self.sources[source].name}, {self.sources[source].unit} {line:,}"

    def anchor(self, record: int) -> str:
        """What decisions call a record."""
        return anchor(self.sources[self.source[record]].anchor, int(self.print[record]))

    def findings(self, record: int) -> list[tuple[int, int, int, str]]:
        """The other findings of a record as (source, line, number in the study, anchor)."""
        f = self.also
        low, high = np.searchsorted(f.record, [record, record + 1])
        return [
            (int(f.source[k]), int(f.line[k]), int(f.id[k]), anchor(self.sources[f.source[k]].anchor, int(f.print[k])))
            for k in range(low, high)
        ]

    def row(self, number: int) -> int:
        """The row of a record by its number in the study, −1 where it is not there."""
        at = int(np.searchsorted(self.id, number))
        return at if at < len(self.id) and self.id[at] == number else -1

    def rows_of(self, names: Iterable[str]) -> Places:
        """The records that decisions name, by anchor, or by ``source:line`` where that is one record alone.

        A record found more than once answers to each finding.
        """
        found: dict[str, list[tuple[int, str]]] = {name: [] for name in names}
        by_print: dict[tuple[str, int], list[str]] = {}
        by_line: dict[tuple[str, int], list[str]] = {}
        for name in found:
            if (read := parsed(name)) is not None:
                by_print.setdefault(read, []).append(name)
            source, _, line = name.rpartition(":")
            if line.isascii() and line.isdecimal() and len(line) < 10:
                by_line.setdefault((source, int(line)), []).append(name)
        f = self.also
        rows = np.r_[np.arange(len(self)), f.record]
        for wanted, names_of, values in (
            (by_print, [s.anchor for s in self.sources], np.r_[self.print, f.print]),
            (by_line, [s.name for s in self.sources], np.r_[self.line, f.line]),
        ):
            if not wanted:
                continue
            source = np.r_[self.source, f.source]
            for k in np.flatnonzero(np.isin(values, np.array([v for _, v in wanted], values.dtype))).tolist():
                s = int(source[k])
                for name in wanted.get((names_of[s], int(values[k])), ()):
                    found[name].append((int(rows[k]), self.sources[s].anchor))
        row = {name: hits[0][0] for name, hits in found.items() if len({r for r, _ in hits}) == 1}
        why = {}
        for name, hits in found.items():
            if not hits:
                why[name] = f"no record is called {name!r}"
            elif name not in row:
                both = " and ".join(dict.fromkeys(self.anchor(r) for r, _ in hits))
                why[name] = f"{name!r} fits {len({r for r, _ in hits})} records: {both}"
        return Places(row, why)


def line_name(source: str, line: int) -> str:
    """A record's place as it is shown and may be typed: ``mills.ris:2114``."""
    return f"{source}:{line}"


class FormTable(dict[str, int]):
    """Text as written → number of its form; forms are numbered in the order of first use.

    ``forms`` lists them. A text met before costs one look-up, whatever folding it needed.
    """

    def __init__(self, forms: Sequence[str] = ()) -> None:
        super().__init__(zip(forms, range(len(forms))))
        self.forms = list(forms)

    def forget(self, count: int) -> None:
        """Drop the forms after the first ``count``."""
        if count < len(self.forms):
            del self.forms[count:]
            for text in [text for text, number in self.items() if number >= count]:
                del self[text]

    def __missing__(self, text: str) -> int:
        form = fold(text)
        number = self.get(form)
        if number is None:
            number = self[form] = len(self.forms)
            self.forms.append(form)
        self[text] = number
        return number


def mention_triples(records: Sequence[RawRecord], kind: str, table: FormTable) -> tuple[Ints, Ints, Ints]:
    """(record, form, role) arrays of one kind; records are numbered by their place in the sequence."""
    cols: list[int] = []
    odd: list[tuple[int, int]] = []  # (place, role) where the role is not the plain one
    sizes = np.zeros(len(records), np.int32)
    plain: list[Sequence[str]] = (
        [(r.venue,) for r in records] if kind == "venue" else list(map(attrgetter(_LISTS[kind]), records))
    )
    others = list(map(attrgetter("others"), records))
    for r in [r for r, (texts, more) in enumerate(zip(plain, others)) if texts or more]:
        numbers = [table[text] for text in plain[r] if text]
        if len(numbers) > 1 and len(set(numbers)) < len(numbers):
            numbers = list(dict.fromkeys(numbers))
        if others[r]:
            pairs = dict.fromkeys((table[text], _ROLE[role]) for k, role, text in others[r] if k == kind and text)
            odd += [(len(cols) + len(numbers) + i, role) for i, (_, role) in enumerate(pairs)]
            numbers += [form for form, _ in pairs]
        cols += numbers
        sizes[r] = len(numbers)
    roles = np.zeros(len(cols) if odd else 0, np.int8)
    for at, role in odd:
        roles[at] = role
    return np.repeat(np.arange(len(records), dtype=np.int32), sizes), np.array(cols, np.int32), roles


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
    effect: str = ""  # what changed when it was made, in words
