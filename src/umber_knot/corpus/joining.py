"""Which records are one by what they say: title, people, year, venue, volume and page, where no two of them disagree.

Two findings that both state a DOI, volume, first page or part number which differ are two records, however alike they look;
a title that recurs in its own source says little. Pairs that agree in title and people but for something that only a
reader can weigh are doubtful: they stay apart and are offered for review.
"""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from umber_knot.corpus.agreement import Agreement, Words, bare, first_page
from umber_knot.corpus.letters import plain_words
from umber_knot.corpus.likeness import SHORTEST_TITLE
from umber_knot.corpus.model import Corpus

FARTHEST = 3  # years between findings that may still be one: in proceedings first, in a journal later
LARGEST = 400_000  # records up to which titles need not be the same in every letter
#: A work about another has its title: these words tell them apart.
_ABOUT = frozenset(
    "erratum errata corrigendum correction reply comment comments response rejoinder retraction review".split()
)
_NOBODY = frozenset(("anonymous", "anon", "unknown", "n n", "no author", "", "no author listed"))
_PART = re.compile(r"(?:\d+|i{2,3}|i?v|vi{1,3}|ix|xi{0,3}|second|third|fourth)$")


#: What makes a pair doubtful.
DOUBTS = (
    "same title and people, another year",
    "same title and people, no year to compare",
    "same title, people and year, another venue",
    "much the same title and people",
    "same title, not the same people",
)


class Judged(NamedTuple):
    """Pairs of records that are one, shape (pairs, 2); and doubtful ones, with what makes them so (index into
    ``DOUBTS``) and how alike they are, between 0 and 1."""

    same: NDArray[np.int64]
    doubtful: NDArray[np.int64]
    doubt: NDArray[np.int8]
    likeness: NDArray[np.float64]

    @staticmethod
    def none() -> Judged:
        no_pairs = np.zeros((0, 2), np.int64)
        return Judged(no_pairs, no_pairs, np.zeros(0, np.int8), np.zeros(0))


def judge(corpus: Corpus) -> Judged:
    """Which records are one, and which may be."""
    if len(corpus) < 2:
        return Judged.none()
    titles = [plain_words(title) for title in corpus.title]
    exact = _equal_titles(titles)
    fuzzy = len(corpus.sources) > 1 and len(corpus) <= LARGEST
    if not fuzzy and not len(exact):
        return Judged.none()
    if fuzzy:
        words = Words(corpus, titles)
        pairs = np.unique(np.concatenate([exact, words.candidates(corpus.source)]), axis=0)
    else:  # only those with a twin are looked at
        pairs = exact
        rows = np.unique(pairs)
        words = Words(corpus, titles, rows)
    pairs = pairs[_no_contradiction(corpus, titles, pairs)]
    if not len(pairs):
        return Judged.none()
    a = words.agreement(corpus, pairs)
    inside = corpus.source[pairs[:, 0]] == corpus.source[pairs[:, 1]]
    joined = np.where(inside, _in_one_source(a), _between_sources(a))
    own = pairs[joined & inside]
    across = _one_to_one(corpus, pairs[joined & ~inside], a, np.flatnonzero(joined & ~inside), own)
    doubt = np.where(inside & ~(a.all_people & (a.years == 0)), -1, _doubt(a))  # who lists both knows of both
    doubt[joined | _taken(corpus, pairs, across)] = -1
    left = np.flatnonzero(doubt >= 0)
    return Judged(np.concatenate([own, across]), pairs[left], doubt[left].astype(np.int8), a.together[left])


def _doubt(a: Agreement) -> NDArray[np.int64]:
    """What makes each pair doubtful, −1 where nothing speaks for one record."""
    title, people = a.title >= 0.95, a.people >= 0.8
    near = (a.title >= 0.6) | ((a.inside >= 0.95) & (a.title >= 0.45))
    cases = (
        title & people & (a.years > 0) & (a.years <= FARTHEST),
        title & people & (a.years < 0),
        title & people & (a.years == 0),
        near & (a.people >= 0.5) & (a.years <= 1),
        title & ((a.people > 0) | a.nobody) & (a.years == 0),
    )
    return np.select(cases, range(len(cases)), -1)


def _taken(corpus: Corpus, pairs: NDArray[np.int64], joined: NDArray[np.int64]) -> NDArray[np.bool_]:
    """Whether a record of a pair is one already with another of the other's source."""
    one, other = (np.concatenate([joined, joined[:, ::-1]]) * (len(corpus.sources), 1)).T
    known = one + corpus.source[other]
    return np.logical_or(
        *(np.isin(pairs[:, k] * len(corpus.sources) + corpus.source[pairs[:, 1 - k]], known) for k in (0, 1))
    )


def _between_sources(a: Agreement) -> NDArray[np.bool_]:
    alike = (a.title >= 0.6) & (a.people >= 0.5)
    alike |= (a.title >= 0.85) & (a.people > 0)
    alike |= (a.inside >= 0.95) & (a.title >= 0.45) & (a.people >= 0.99)
    alike |= (a.together >= 0.7) & (a.title >= 0.4) & (a.people > 0)
    alike |= (a.title >= 0.95) & (a.together >= 0.75) & a.venue  # a name that lost letters on its way
    alike |= a.swapped >= 0.5
    alike |= a.nobody & (a.title >= 0.95) & (a.venue | a.place)
    beside = (a.title >= 0.9) & a.all_people & (a.venue | a.place)  # a year apart, or none stated
    return np.where(a.years == 0, alike, (a.years <= 1) & beside)


def _in_one_source(a: Agreement) -> NDArray[np.bool_]:
    """The same record twice in one file says all the same."""
    return (a.title >= 0.999) & (a.years == 0) & a.all_people & ~a.other_venue


def _equal_titles(titles: Sequence[str]) -> NDArray[np.int64]:
    """Pairs of records with one title; of titles that recur without end only neighbours."""
    by_title: dict[str, list[int]] = defaultdict(list)
    for n, title in enumerate(titles):
        if len(title) >= SHORTEST_TITLE:
            by_title[title].append(n)
    found: list[tuple[int, int]] = []
    for rows in by_title.values():
        if len(rows) > 1:
            found += [(a, b) for k, a in enumerate(rows) for b in rows[k + 1 : k + 30]]
    return np.array(found, np.int64).reshape(-1, 2)


def _no_contradiction(corpus: Corpus, titles: Sequence[str], pairs: NDArray[np.int64]) -> NDArray[np.bool_]:
    """Whether nothing that both records of a pair state differs."""
    fine = np.ones(len(pairs), np.bool_)
    for n, (a, b) in enumerate(pairs.tolist()):
        fine[n] = not (
            _differ(corpus.doi[a], corpus.doi[b])
            or _differ(bare(corpus.volume[a]), bare(corpus.volume[b]))
            or _pages_differ(corpus.pages[a], corpus.pages[b])
            or (titles[a] != titles[b] and _parts(titles[a]) != _parts(titles[b]))
            or (corpus.source[a] == corpus.source[b] and _other_issue(corpus, a, b))
        )
    return fine


def _other_issue(corpus: Corpus, a: int, b: int) -> bool:
    """Whether two records of one source are of different issues of a journal, in which the same titles come again."""
    one, other = sorted((corpus.date[a], corpus.date[b]), key=len)
    return _differ(corpus.pages[a], corpus.pages[b]) or not other.startswith(one)


def _differ(one: str, other: str) -> bool:
    return bool(one and other and one != other)


def _pages_differ(one: str, other: str) -> bool:
    """Whether both are first pages, and not the same: an article's number says nothing of pages."""
    ranges = [bool(re.search(r"\d\s*[-–]", pages)) for pages in (one, other)]
    return ranges[0] == ranges[1] and _differ(first_page(one), first_page(other))


def _parts(title: str) -> frozenset[str]:
    """What tells a work from its other parts, and from what was written about it."""
    return frozenset(word for word in title.split() if word in _ABOUT or _PART.match(word))


def _one_to_one(
    corpus: Corpus, pairs: NDArray[np.int64], a: Agreement, at: NDArray[np.int64], own: NDArray[np.int64]
) -> NDArray[np.int64]:
    """Of pairs between sources those where each is the other's best there; of equals, those that were one anyhow."""
    twin = {int(b): int(x) for x, b in own.tolist()}
    score = a.together[at] + a.title[at] + 0.2 * a.place[at] + 0.1 * a.venue[at] + 0.5 * (a.years[at] == 0)
    best: dict[tuple[int, int], list[tuple[float, int]]] = defaultdict(list)
    for (x, y), s in zip(pairs.tolist(), score.tolist()):
        best[x, int(corpus.source[y])].append((s, y))
        best[y, int(corpus.source[x])].append((s, x))

    def partner(record: int, source: int) -> int:
        several = sorted(best[record, source], key=lambda one: (-one[0], one[1]))
        if len(several) > 1 and several[0][0] - several[1][0] < 0.02:
            heads = {twin.get(y, y) for s, y in several if several[0][0] - s < 0.02}
            if len(heads) > 1:
                return -1
        return several[0][1]

    kept = [
        twin.get(partner(x, int(corpus.source[y])), partner(x, int(corpus.source[y]))) == twin.get(y, y)
        and twin.get(partner(y, int(corpus.source[x])), partner(y, int(corpus.source[x]))) == twin.get(x, x)
        for x, y in pairs.tolist()
    ]
    return pairs[np.array(kept, np.bool_)] if kept else pairs
