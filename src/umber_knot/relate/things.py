"""What can be the items of a network: the entities of one kind or two, or the records themselves."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from umber_knot.corpus.model import Corpus, Floats, Ints, Mentions
from umber_knot.corpus.texts import Texts
from umber_knot.reconcile.decisions import Resolution
from umber_knot.text.result import Terms

Bools = NDArray[np.bool_]
LONGEST = 60  # letters of a title that stands for a record without people


@dataclass(frozen=True, slots=True)
class Things:
    """Everything that may be an item, shape (things,): what it is called, its anchoring form, whether it is set aside.

    Of two kinds those of the second follow those of the first; ``start`` is where each kind begins.
    """

    kinds: tuple[str, ...]
    start: tuple[int, ...]
    label: Texts
    form: Texts
    aside: Bools
    merit: Floats  # of terms how good each is; empty where no kind is of terms, NaN of another kind

    def __len__(self) -> int:
        return len(self.aside)

    def code(self) -> Ints:
        """The kind of each as an index into ``kinds``; empty where there is one kind."""
        if len(self.kinds) < 2:
            return np.zeros(0, np.int8)
        return np.repeat(np.arange(len(self.kinds), dtype=np.int8), np.diff([*self.start, len(self)]))

    def entity(self) -> Ints:
        """The number of each within its kind."""
        sizes = np.diff([*self.start, len(self)])
        return (np.arange(len(self)) - np.repeat(self.start, sizes)).astype(np.int32)


def things(
    corpus: Corpus, kinds: Sequence[str], resolutions: Mapping[str, Resolution], terms: Terms | None = None
) -> Things:
    """The things of some kinds, in their order."""
    parts = [_records(corpus) if kind == "record" else _entities(corpus, resolutions[kind]) for kind in kinds]
    sizes = [len(aside) for _, _, aside in parts]
    return Things(
        tuple(kinds),
        tuple(np.cumsum([0, *sizes])[:-1].tolist()),
        Texts.joined([label for label, _, _ in parts]),
        Texts.joined([form for _, form, _ in parts]),
        np.concatenate([aside for _, _, aside in parts]),
        _merits(kinds, sizes, resolutions, terms),
    )


def _merits(
    kinds: Sequence[str], sizes: Sequence[int], resolutions: Mapping[str, Resolution], terms: Terms | None
) -> Floats:
    """How good each thing is that is a term, of one with several spellings their sum."""
    if "term" not in kinds or terms is None:
        return np.zeros(0)
    entity = resolutions["term"].entity[: len(terms.forms)]
    own = np.bincount(entity, terms.merit(), len(resolutions["term"].label))
    return np.concatenate([own if kind == "term" else np.full(n, np.nan) for kind, n in zip(kinds, sizes)])


def _entities(corpus: Corpus, resolution: Resolution) -> tuple[Texts, Texts, Bools]:
    return resolution.label, resolution.anchors(corpus), resolution.aside


def _records(corpus: Corpus) -> tuple[Texts, Texts, Bools]:
    """Records, called by their first author and year, as scholars call them; without either by what there is."""
    people = corpus.of("person").in_role("", "from", "sender")
    first = np.full(len(corpus), -1)
    first[people.record[::-1]] = people.form[::-1]
    labels = []
    for r, form in enumerate(first.tolist()):
        name = _family(people.forms[form]) if form >= 0 else corpus.title[r][:LONGEST] or corpus.place(r)
        labels.append(f"{name} {corpus.year[r]}" if corpus.year[r] else name)
    return (Texts.of(labels), Texts.of(corpus.anchor(r) for r in range(len(corpus))), np.zeros(len(corpus), np.bool_))


def _family(name: str) -> str:
    """A family name as it is written: what stands before the comma, or the last word.

    >>> _family("van Dray, Tamsin"), _family("Tamsin Dray"), _family("Dray T")
    ('van Dray', 'Dray', 'Dray')
    """
    before, comma, _ = name.partition(",")
    words = before.split()
    if comma or len(words) < 2:
        return before.strip()
    return " ".join(words[:-1]) if words[-1].isupper() and len(words[-1]) <= 3 else words[-1]


def mentioned(
    corpus: Corpus, kind: str, resolutions: Mapping[str, Resolution], *roles: str, among: Ints | None = None
) -> tuple[Ints, Ints]:
    """Which record mentions which entity, each pair once, sorted by record; of some roles and records only, where
    given."""
    if kind == "record":
        rows = np.arange(len(corpus), dtype=np.int32) if among is None else among
        return rows, rows
    resolution = resolutions[kind]
    mentions = resolution.mentions(corpus)
    if among is not None:
        here = np.flatnonzero(np.isin(mentions.record, among))
        role = mentions.role[here] if len(mentions.role) else mentions.role
        mentions = Mentions(mentions.forms, mentions.record[here], mentions.form[here], role)
    mentions = mentions.in_role(*roles) if roles else mentions
    return distinct(mentions.record, resolution.entity[mentions.form])


def distinct(record: Ints, item: Ints) -> tuple[Ints, Ints]:
    """Each (record, item) once, sorted by record then item: merged forms in one record count once."""
    wide = int(item.max(initial=0)) + 1
    key = np.sort(record.astype(np.int64) * wide + item)  # by order: np.unique hashes, which is slower here
    key = key[np.r_[True, key[1:] != key[:-1]][: len(key)]]
    return (key // wide).astype(np.int32), (key % wide).astype(np.int32)
