"""Evidence that two cited references are one work: identifier, author, year, venue, volume, page and title."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from rapidfuzz import fuzz
from rapidfuzz.distance import OSA

from umber_knot.corpus.letters import plain_words
from umber_knot.corpus.model import Corpus, Floats, Ints, Mentions
from umber_knot.gather.references import Reference, parse_reference
from umber_knot.reconcile.names import sound
from umber_knot.reconcile.pairing import is_among, packed, pairs_within
from umber_knot.reconcile.surroundings import together
from umber_knot.reconcile.terms import shortening

BLOCK = 400  # references on one loose key; more is no key


@dataclass(frozen=True, slots=True)
class CitedPairs:
    """Pairs of references with the numbers that weigh, each of shape (pairs,)."""

    a: Ints
    b: Ints
    features: dict[str, Floats]


@dataclass(frozen=True, slots=True)
class Cited:
    """References in parts; ``together`` are pairs in one record's list."""

    forms: tuple[str, ...]
    live: Ints
    parts: tuple[Reference | None, ...]
    together: NDArray[np.int64]

    def contradict(self, a: int, b: int) -> str:
        """Why two references cannot be one work, in words; empty where they may."""
        x, y = self.parts[a], self.parts[b]
        assert x is not None and y is not None
        if x.identifier and y.identifier and x.identifier.partition(":")[0] == y.identifier.partition(":")[0]:
            return "" if x.identifier == y.identifier else "they have different identifiers"
        pair = min(a, b) << 32 | max(a, b)
        at = int(self.together.searchsorted(pair))
        if at < len(self.together) and self.together[at] == pair:
            return "one record cites both"
        return ""


def cited(corpus: Corpus, mentions: Mentions, check: Callable[[], None] = lambda: None) -> Cited:
    """Read the references of a corpus."""
    live = np.flatnonzero(mentions.counts()).astype(np.int32)
    parts: list[Reference | None] = [None] * len(mentions.forms)
    for k, f in enumerate(live.tolist()):
        if not k & 1023:
            check()
        parts[f] = parse_reference(mentions.forms[f])
    return Cited(tuple(mentions.forms), live, tuple(parts), together(len(corpus), mentions.record, mentions.form))


def compared_references(found: Cited, check: Callable[[], None] = lambda: None) -> CitedPairs:
    """Every pair of references worth comparing: same identifier, author and year, volume and page, or title."""
    table: dict[object, int] = {}
    keys, owner = list[int](), list[int]()
    for f in found.live.tolist():
        r = found.parts[f]
        assert r is not None
        own: list[object] = [(r.identifier,)] if r.identifier else []
        if r.author and r.year:
            own.append((sound(r.author.replace(" ", "")), r.year))
        if r.volume and r.page:
            own.append((r.volume, r.page))
        if r.author and r.volume:
            own.append((sound(r.author.replace(" ", "")), "volume", r.volume))
        title = plain_words(r.title)
        if len(title) > 20:
            own.append((title[:25],))
        for key in own:
            keys.append(table.setdefault(key, len(table)))
            owner.append(f)
    check()
    x, y = pairs_within(np.array(keys, np.int64), BLOCK)
    forms = np.array(owner, np.int64)
    pair = np.unique(packed(forms[x], forms[y]))
    pair = pair[(pair >> 32) != (pair & 0xFFFFFFFF)]
    pair = pair[~is_among(pair, found.together)]
    rows, kept = [], []
    for k, (a, b) in enumerate(zip((pair >> 32).tolist(), (pair & 0xFFFFFFFF).tolist())):
        if not k & 4095:
            check()
        one, two = found.parts[a], found.parts[b]
        assert one is not None and two is not None
        if not found.contradict(a, b):
            kept.append(k)
            rows.append(_agreement(one, two))
    pair = pair[kept]
    table_ = np.array(rows, float).reshape(-1, len(NAMES))
    return CitedPairs(
        (pair >> 32).astype(np.int32),
        (pair & 0xFFFFFFFF).astype(np.int32),
        dict(zip(NAMES, np.ascontiguousarray(table_.T))),
    )


NAMES = (
    "same identifier",
    "author same",
    "author slip",
    "author other",
    "initial other",
    "year same",
    "year next",
    "year other",
    "volume same",
    "volume other",
    "page same",
    "page near",
    "page other",
    "venue same",
    "venue other",
    "title",
    "title other",
    "title and page other",
)


def _agreement(x: Reference, y: Reference) -> tuple[float, ...]:
    """What two references say of each other, in the order of NAMES."""
    family = sound(x.author), sound(y.author)
    same, slip = family[0] == family[1], OSA.distance(*family, score_cutoff=2) <= 1 + (min(map(len, family)) > 8)
    known = bool(x.author and y.author)
    years = abs(x.year - y.year) if x.year and y.year else -1
    volumes = (x.volume == y.volume) if x.volume and y.volume else None
    pages = (x.page == y.page) if x.page and y.page else None
    near = pages is False and OSA.distance(x.page, y.page) == 1
    venues = shortening(x.venue, y.venue) if x.venue and y.venue else None
    alike = fuzz.ratio(plain_words(x.title), plain_words(y.title)) / 100 if x.title and y.title else None
    return (
        bool(x.identifier and x.identifier == y.identifier),
        known and same,
        known and slip and not same,
        known and not slip,
        bool(x.initial and y.initial and x.initial != y.initial),
        years == 0,
        years == 1,
        years > 1,
        volumes is True,
        volumes is False,
        pages is True,
        near,
        pages is False and not near,
        venues is True,
        venues is False,
        max(0.0, ((alike or 0.0) - 0.8) * 5),
        alike is not None and alike < 0.9,
        alike is not None and alike < 0.97 and pages is False,
    )


def told_of_references(found: Cited, members: list[int]) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """Evidence that references are one work: the parts that agree, and those that do not."""
    parts = [r for f in members if (r := found.parts[f]) is not None]
    for_, against = list[str](), list[str]()
    for name, word in (
        ("identifier", "identifier"),
        ("author", "first author"),
        ("year", "year"),
        ("volume", "volume"),
        ("page", "page"),
    ):
        values = [str(v) for r in parts if (v := getattr(r, name))]
        distinct = sorted({sound(v) if name == "author" else v for v in values})
        if len(distinct) == 1 and len(values) > 1:
            for_.append(
                f"same {word}" if name == "author" else f"same {word}, {values[0].partition(':')[2] or values[0]}"
            )
        elif len(distinct) > 1:
            against.append(f"{word} differs: {', '.join(sorted(set(values))[:3])}")
    titles = [plain_words(r.title) for r in parts if r.title]
    if len(titles) > 1:
        worst = min(fuzz.ratio(titles[0], t) for t in titles[1:])
        (for_ if worst > 90 else against).append("titles agree" if worst > 90 else "titles differ")
    return tuple(for_), tuple(against)
