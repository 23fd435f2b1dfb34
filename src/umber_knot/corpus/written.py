"""What records say in their own words, read from disk as it is asked for: nothing holds all texts at once."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from typing import NamedTuple

import numpy as np

from umber_knot.corpus.model import Corpus, Passage

CHUNK = 250  # records fetched at a time


class Written(NamedTuple):
    """What a record says: ``row`` is its number in the corpus; ``abstract`` and ``passages`` are empty where it has
    none."""

    row: int
    title: str
    language: str
    abstract: str
    passages: Sequence[Passage]


class Reading(NamedTuple):
    """Reads what a corpus does not hold: ``texts`` what its records say, in their order; ``extras`` the fields that are no
    kind of their own, as (row, field → value), of a record found more than once several times."""

    texts: Callable[[Corpus], Iterable[Written]]
    extras: Callable[[Corpus], Iterable[tuple[int, Mapping[str, object]]]]

    @staticmethod
    def nothing() -> Reading:
        return Reading(lambda corpus: (), lambda corpus: ())


#: An abstract and passages.
Own = tuple[str, Sequence[Passage]]


def rows_by_number(corpus: Corpus) -> dict[int, int]:
    """The row of each record's number in the study, of its further findings too."""
    f = corpus.also
    return dict(zip(f.id.tolist(), f.record.tolist())) | {number: r for r, number in enumerate(corpus.id.tolist())}


def written(
    corpus: Corpus, fetch: Callable[[Sequence[int]], Mapping[int, Own]], first: int = 0, count: int | None = None
) -> Iterator[Written]:
    """What records of a corpus say, all or so many from a first one on. ``fetch`` gives abstract and passages by the numbers of records in the study;
    of a record found more than once the first finding that has either is taken."""
    f, end = corpus.also, len(corpus) if count is None else first + count
    for start in range(first, end, CHUNK):
        rows = range(start, min(start + CHUNK, end))
        low, high = np.searchsorted(f.record, [start, rows.stop])
        numbers = {row: [int(corpus.id[row])] for row in rows}
        for row, number in zip(f.record[low:high].tolist(), f.id[low:high].tolist()):
            numbers[row].append(number)
        own = fetch([number for several in numbers.values() for number in several])
        for row, several in numbers.items():
            found = [own[number] for number in several if number in own]
            abstract = next((a for a, _ in found if a), "")
            passages = next((p for _, p in found if p), ())
            yield Written(row, corpus.title[row], corpus.language[row], abstract, passages)
