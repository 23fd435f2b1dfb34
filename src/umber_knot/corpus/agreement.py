"""How far records agree: titles and names as sets of words, venue, volume, page and year; and which records to compare.

Words are weighed by how rare they are here (Jaccard's measure with inverse document frequencies), so that a misspelt
word, a subtitle or people in another order cost little.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from typing import TYPE_CHECKING, Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from umber_knot.corpus.letters import plain_words
from umber_knot.corpus.likeness import family_of, same_venue
from umber_knot.corpus.model import Corpus, Ints, Mentions

if TYPE_CHECKING:
    from scipy.sparse import csr_array

RAREST = 6  # words by which a record looks for others
MOST_COMMON = 40  # records that have a word by which others are looked for
BLOCK = 20_000  # records looked at together
_NOBODY = frozenset(("anonymous", "anon", "unknown", "n n", "no author", "", "no author listed"))


class Agreement(NamedTuple):
    """How far pairs of records agree; arrays of shape (pairs,), shares between 0 and 1."""

    title: NDArray[np.float64]  # weighed share of the words of both titles
    inside: NDArray[np.float64]  # of the words of the shorter one
    people: NDArray[np.float64]  # families shared, of the shorter list
    all_people: NDArray[np.bool_]  # whether both lists hold the same families, and any
    nobody: NDArray[np.bool_]  # whether a side has no people
    swapped: NDArray[np.float64]  # titles against people, where a table's columns changed places
    together: NDArray[np.float64]  # titles and people as one
    venue: NDArray[np.bool_]
    other_venue: NDArray[np.bool_]  # both have one, and not the same
    place: NDArray[np.bool_]  # volume or first page stated by both, and the same
    years: NDArray[np.int64]  # apart; −1 where one has none


class Words:
    """The words of titles and people of a corpus, or of some of its records, and how rare each is."""

    def __init__(self, corpus: Corpus, titles: Sequence[str], rows: NDArray[np.int64] | None = None) -> None:
        n = len(corpus)
        some = None if rows is None else set(rows.tolist())
        number: dict[str, int] = {}
        person = corpus.of("person")
        plain = person.in_role("")
        named = np.array([plain_words(form) not in _NOBODY for form in person.forms], np.bool_)
        plain = Mentions(plain.forms, plain.record[named[plain.form]], plain.form[named[plain.form]])
        used = np.unique(plain.form)
        spelt = {int(f): plain_words(person.forms[int(f)]).split() for f in used.tolist()}
        family: dict[str, int] = {}
        families = {int(f): family.setdefault(family_of(person.forms[int(f)]), len(family)) for f in used.tolist()}
        of_people: list[list[int]] = [[] for _ in range(n)]
        for record, form in zip(plain.record.tolist(), plain.form.tolist()):
            of_people[record].append(form)
        title_words: list[list[int]] = []
        people_words: list[list[int]] = []
        for r in range(n):
            told = some is None or r in some
            title_words.append([number.setdefault(w, len(number)) for w in set(titles[r].split())] if told else [])
            people = {w for form in of_people[r] for w in spelt[form]} if told else ()
            people_words.append([number.setdefault(w, len(number)) for w in people])
        self.title, self.people = _matrix(title_words, len(number)), _matrix(people_words, len(number))
        self.families = _matrix([list({families[f] for f in forms}) for forms in of_people], max(len(family), 1))
        self.both = _matrix([list({*t, *p}) for t, p in zip(title_words, people_words)], len(number))
        held = np.bincount(self.both.indices, minlength=len(number))
        self.rarity = 2 + np.log((n + 1) / np.maximum(held, 1))  # in a small corpus every word is rare
        self.held = held

    def candidates(self, source: Ints) -> NDArray[np.int64]:
        """Pairs of records of different sources that share two of their rarest words."""
        rare = self._rarest()
        across = rare.T.tocsr()
        found = []
        for start in range(0, rare.shape[0], BLOCK):
            shared = (rare[start : start + BLOCK] @ across).tocoo()
            one, other = shared.coords[0] + start, shared.coords[1]
            kept = (shared.data >= 2) & (one < other) & (source[one] != source[other])
            found.append(np.stack([one[kept], other[kept]], 1).astype(np.int64))
        return np.concatenate(found) if found else np.zeros((0, 2), np.int64)

    def _rarest(self) -> csr_array:
        """Which of its rarest words each record is looked for by."""
        both, rows = self.both, np.repeat(np.arange(self.both.shape[0]), np.diff(self.both.indptr))
        order = np.lexsort((both.indices, self.held[both.indices], rows))
        rank = np.arange(len(order)) - np.repeat(both.indptr[:-1], np.diff(both.indptr))
        kept = order[(rank < RAREST) & (self.held[both.indices[order]] <= MOST_COMMON)]
        from scipy.sparse import csr_array

        return csr_array((np.ones(len(kept), np.int32), (rows[kept], both.indices[kept])), shape=both.shape)

    def agreement(self, corpus: Corpus, pairs: NDArray[np.int64]) -> Agreement:
        """How far some pairs agree."""
        one, other = pairs.T
        weight = self.rarity
        size = {name: np.asarray(getattr(self, name) @ weight) for name in ("title", "people", "both")}

        def shared(a: csr_array, b: csr_array, by: NDArray[Any]) -> NDArray[np.float64]:
            return np.asarray(a[one].multiply(b[other]) @ by, np.float64)

        def jaccard(a: str, b: str) -> NDArray[np.float64]:
            both = shared(getattr(self, a), getattr(self, b), weight)
            return both / np.maximum(size[a][one] + size[b][other] - both, 1e-9)

        inside = shared(self.title, self.title, weight) / np.maximum(
            np.minimum(size["title"][one], size["title"][other]), 1e-9
        )
        people = np.diff(self.families.indptr)
        met = shared(self.families, self.families, np.ones(self.families.shape[1]))
        fewest, most = np.minimum(people[one], people[other]), np.maximum(people[one], people[other])
        year = corpus.year.astype(np.int64)
        venue = _venues(corpus)
        agree = np.array([_venues_agree(venue[a], venue[b]) for a, b in pairs.tolist()], np.bool_)
        place = [
            bool(corpus.volume[a] and bare(corpus.volume[a]) == bare(corpus.volume[b]))
            or bool(corpus.pages[a] and first_page(corpus.pages[a]) == first_page(corpus.pages[b]))
            for a, b in pairs.tolist()
        ]
        return Agreement(
            jaccard("title", "title"),
            inside,
            met / np.maximum(fewest, 1),
            (met == most) & (most > 0),
            fewest == 0,
            np.minimum(jaccard("title", "people"), jaccard("people", "title")),
            jaccard("both", "both"),
            agree,
            ~agree & np.array([bool(venue[a] and venue[b]) for a, b in pairs.tolist()], np.bool_),
            np.array(place, np.bool_),
            np.where((year[one] > 0) & (year[other] > 0), np.abs(year[one] - year[other]), -1),
        )


def _matrix(rows: Iterable[Sequence[int]], width: int) -> csr_array:
    from scipy.sparse import csr_array

    lists = [sorted(row) for row in rows]
    start = np.cumsum([0, *map(len, lists)])
    column = np.fromiter((w for row in lists for w in row), np.int64, int(start[-1]))
    return csr_array((np.ones(len(column)), column, start), shape=(len(lists), max(width, 1)))


def _venues(corpus: Corpus) -> list[str]:
    """Each record's venue in plain words."""
    m = corpus.of("venue")
    plain = {int(f): plain_words(m.forms[int(f)]) for f in np.unique(m.form).tolist()}
    found = [""] * len(corpus)
    for record, form in zip(m.record.tolist(), m.form.tolist()):
        found[record] = found[record] or plain[form]
    return found


def _venues_agree(one: str, other: str) -> bool:
    """Whether two venues are the same, or one leaves words of the other out (``Mud Record``, ``ACM Mud Record``)."""
    short, long = sorted((one.split(), other.split()), key=len)
    rest = iter(long)
    return bool(short) and (same_venue(one, other) or all(any(w.startswith(part) for w in rest) for part in short))


def bare(text: str) -> str:
    """A volume or a number without what surrounds it."""
    return re.sub(r"[^\w]", "", text).lower().lstrip("0")


def first_page(pages: str) -> str:
    """The first page of a range, empty where none is stated."""
    found = re.match(r"[^\w]*(\w+)", pages)
    return found[1].lower().lstrip("0") if found else ""
