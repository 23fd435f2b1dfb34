"""One source's records as columns: taken batch by batch while a file is read, saved and loaded as blocks of bytes."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from operator import attrgetter
from typing import Any

import numpy as np
import orjson
from numpy.typing import NDArray

from umber_knot.corpus.anchors import fingerprint, numbered
from umber_knot.corpus.days import span
from umber_knot.corpus.likeness import bare_doi, identities, likeness
from umber_knot.corpus.model import KINDS, FormTable, Ints, Known, RawRecord, mention_triples
from umber_knot.corpus.texts import Texts

#: Columns of texts and of numbers, by the name of the record's field.
TEXTS = ("title", "entry", "date", "type", "language", "doi", "volume", "pages")
NUMBERS = {
    "line": "<i4",
    "year": "<i4",
    "citations": "<i4",
    "likeness": "<i8",
    "weight": "<f8",
    "passages": "<i4",
    "print": "<i8",
    "begin": "<i4",
    "end": "<i4",
}

Triples = tuple[Ints, Ints, Ints]


@dataclass(frozen=True, slots=True)
class Columns:
    """The records of one source. ``identity`` is (record, key) pairs."""

    texts: Mapping[str, Texts]
    numbers: Mapping[str, NDArray[Any]]
    mentions: Mapping[str, Triples]
    identity: tuple[Ints, NDArray[np.int64]]
    known: Known

    def __len__(self) -> int:
        return len(self.numbers["line"])

    def packed(self) -> dict[str, bytes]:
        """Blocks of bytes by name."""
        blocks = {name: texts.packed() for name, texts in self.texts.items()}
        blocks |= {name: self.numbers[name].astype(kind).tobytes() for name, kind in NUMBERS.items()}
        for kind, (record, form, role) in self.mentions.items():
            if len(record):
                blocks[f"{kind} record"] = record.astype("<i4").tobytes()
                blocks[f"{kind} form"] = form.astype("<i4").tobytes()
                if len(role):
                    blocks[f"{kind} role"] = role.astype("i1").tobytes()
        blocks["identity record"] = self.identity[0].astype("<i4").tobytes()
        blocks["identity key"] = self.identity[1].astype("<i8").tobytes()
        if len(self.known):
            blocks["known"] = orjson.dumps(list(self.known))
        return blocks

    @staticmethod
    def unpacked(blocks: Mapping[str, bytes]) -> Columns:
        """From what ``packed`` gave."""

        def array(name: str, kind: str) -> NDArray[Any]:
            return np.frombuffer(blocks.get(name, b""), kind)

        return Columns(
            {name: Texts.unpacked(blocks[name]) for name in TEXTS},
            {name: array(name, kind) for name, kind in NUMBERS.items()},
            {k: (array(f"{k} record", "<i4"), array(f"{k} form", "<i4"), array(f"{k} role", "i1")) for k in KINDS},
            (array("identity record", "<i4"), array("identity key", "<i8")),
            Known.of([(int(r), int(f), str(t)) for r, f, t in orjson.loads(blocks.get("known", b"[]"))]),
        )


class Columning:
    """Takes a source's records in batches; ``forms`` are the study's form tables, which grow on the way."""

    def __init__(self, forms: Mapping[str, FormTable]) -> None:
        self.forms = forms
        self.count = 0
        self._texts: dict[str, list[bytes]] = {name: [] for name in TEXTS}
        self._numbers: dict[str, list[NDArray[Any]]] = {name: [] for name in NUMBERS}
        self._mentions: dict[str, list[Triples]] = {kind: [] for kind in KINDS}
        self._identity: list[tuple[int, int]] = []
        self._known: list[tuple[int, int, str]] = []

    def take(self, records: Sequence[RawRecord]) -> None:
        """The next records of the source."""
        first = self.count
        dois = [bare_doi(r.doi) for r in records]
        for name in TEXTS:
            of = [d or r.doi for d, r in zip(dois, records)] if name == "doi" else [getattr(r, name) for r in records]
            self._texts[name].append(Texts.of(of).packed())
        identity = [identities(r, doi) if doi or r.identifiers else [] for r, doi in zip(records, dois)]
        days = [span(r.date, r.year) for r in records]
        computed: dict[str, Iterable[int]] = {
            "likeness": map(likeness, records),
            "passages": (len(r.passages) for r in records),
            "print": (
                fingerprint(
                    i[0] if i else 0,
                    r.title,
                    r.year,
                    r.persons[0] if r.persons else "",
                    volume=r.volume,
                    pages=r.pages,
                    entry=r.entry,
                    date=r.date,
                )
                for r, i in zip(records, identity)
            ),
            "begin": (first for first, _ in days),
            "end": (last for _, last in days),
        }
        for name, kind in NUMBERS.items():
            values = computed.get(name) or map(attrgetter(name), records)
            self._numbers[name].append(np.fromiter(values, kind, len(records)))
        for kind in KINDS:
            record, form, role = mention_triples(records, kind, self.forms[kind])
            if len(record):
                self._mentions[kind].append((record + np.int32(first), form, role))
        person = self.forms["person"]
        for n, (one, keys) in enumerate(zip(records, identity), first):
            self._identity += [(n, key) for key in keys]
            if one.known_as:
                self._known += [(n, person[name], text) for name, text in one.known_as.items() if text]
        self.count += len(records)

    def done(self) -> Columns:
        """All that was taken."""

        def joined(kind: str) -> Triples:
            parts = self._mentions[kind]
            if not parts:
                return np.zeros(0, np.int32), np.zeros(0, np.int32), np.zeros(0, np.int8)
            roles = any(len(role) for _, _, role in parts)
            role = (
                [r if len(r) else np.zeros(len(f), np.int8) for _, f, r in parts] if roles else [np.zeros(0, np.int8)]
            )
            return np.concatenate([p[0] for p in parts]), np.concatenate([p[1] for p in parts]), np.concatenate(role)

        identity = np.array(self._identity, np.int64).reshape(-1, 2)
        numbers = {n: np.concatenate([np.zeros(0, NUMBERS[n]), *parts]) for n, parts in self._numbers.items()}
        numbers["print"] = numbered(numbers["print"])
        return Columns(
            {name: Texts.unpacked(b"".join(parts)) for name, parts in self._texts.items()},
            numbers,
            {kind: joined(kind) for kind in KINDS},
            (identity[:, 0].astype(np.int32), identity[:, 1]),
            Known.of(self._known),
        )
