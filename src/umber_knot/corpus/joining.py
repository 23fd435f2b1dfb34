"""Which records are one by what they say: title, people, year, venue, volume and page, where no two of them disagree.

Titles and names are compared as sets of words, each weighed by how rare it is here (Jaccard's measure with inverse document
frequencies), so that a misspelt word, a subtitle or people in another order cost little. Two findings that both state a
DOI, volume, first page or part number which differ are two records, however alike they look; a title that recurs in its own
source says little.
"""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterable, Sequence
from typing import TYPE_CHECKING, Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from umber_knot.corpus.letters import plain_words
from umber_knot.corpus.likeness import SHORTEST_TITLE, family_of, same_venue
from umber_knot.corpus.model import Corpus, Ints, Mentions

if TYPE_CHECKING:
    from scipy.sparse import csr_array

RAREST = 6  # words by which a record looks for others
MOST_COMMON = 40  # records that have a word by which others are looked for
LARGEST = 400_000  # records up to which titles need not be the same in every letter
BLOCK = 20_000  # records looked at together
#: A work about another has its title: these words tell them apart.
_ABOUT = frozenset(
    "erratum errata corrigendum correction reply comment comments response rejoinder retraction review".split()
)
_NOBODY = frozenset(("anonymous", "anon", "unknown", "n n", "no author", "", "no author listed"))
_PART = re.compile(r"(?:\d+|i{2,3}|i?v|vi{1,3}|ix|xi{0,3}|second|third|fourth)$")


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


def same(corpus: Corpus) -> NDArray[np.int64]:
    """Pairs of records that are one, shape (pairs, 2)."""
    if len(corpus) < 2:
        return np.zeros((0, 2), np.int64)
    titles = [plain_words(title) for title in corpus.title]
    exact = _equal_titles(titles)
    fuzzy = len(corpus.sources) > 1 and len(corpus) <= LARGEST
    if not fuzzy and not len(exact):
        return exact
    if fuzzy:
        words = _Words(corpus, titles)
        pairs = np.unique(np.concatenate([exact, words.candidates(corpus.source)]), axis=0)
    else:  # only those with a twin are looked at
        pairs = exact
        rows = np.unique(pairs)
        words = _Words(corpus, titles, rows)
    pairs = pairs[_no_contradiction(corpus, titles, pairs)]
    if not len(pairs):
        return pairs
    a = words.agreement(corpus, pairs)
    inside = corpus.source[pairs[:, 0]] == corpus.source[pairs[:, 1]]
    joined = np.where(inside, _in_one_source(a), _between_sources(a))
    own = pairs[joined & inside]
    return np.concatenate([own, _one_to_one(corpus, pairs[joined & ~inside], a, np.flatnonzero(joined & ~inside), own)])


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
            or _differ(_bare(corpus.volume[a]), _bare(corpus.volume[b]))
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


def _bare(text: str) -> str:
    return re.sub(r"[^\w]", "", text).lower().lstrip("0")


def _first_page(pages: str) -> str:
    found = re.match(r"[^\w]*(\w+)", pages)
    return found[1].lower().lstrip("0") if found else ""


def _pages_differ(one: str, other: str) -> bool:
    """Whether both are first pages, and not the same: an article's number says nothing of pages."""
    ranges = [bool(re.search(r"\d\s*[-–]", pages)) for pages in (one, other)]
    return ranges[0] == ranges[1] and _differ(_first_page(one), _first_page(other))


def _parts(title: str) -> frozenset[str]:
    """What tells a work from its other parts, and from what was written about it."""
    return frozenset(word for word in title.split() if word in _ABOUT or _PART.match(word))


class _Words:
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
            bool(corpus.volume[a] and _bare(corpus.volume[a]) == _bare(corpus.volume[b]))
            or bool(corpus.pages[a] and _first_page(corpus.pages[a]) == _first_page(corpus.pages[b]))
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
