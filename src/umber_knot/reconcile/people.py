"""Evidence that two names are one person's: how the names agree, and what surrounds them."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from umber_knot.corpus.model import Corpus, Floats, Ints, Mentions
from umber_knot.reconcile.chances import Chance
from umber_knot.reconcile.names import (
    AGAINST,
    ALIKE,
    MAIL,
    NOTHING,
    PLAIN,
    SHORTENED,
    TURNED,
    WHOLE,
    Reading,
    given_relation,
    not_a_person,
    readings,
)
from umber_knot.reconcile.pairing import is_among, packed, pairs_within, slips
from umber_knot.reconcile.sets import INFINITE, Joined, Never, consistent_sets, heads
from umber_knot.reconcile.surroundings import Surroundings, surroundings, together

BLOCK = 250  # forms of one family and initial; of more, only those with something in common are compared
RARE = 2  # records, up to which a family name may be a slip of the fingers
SAME, SOUNDING, PARTLY, SWAPPED, SLIPPED, BY_MAIL, BY_NUMBER = range(7)
NUMBERS = ("orcid", "mailto", "openalex")
#: Log-odds that a shared identifier gives at least.
DECISIVE = {"orcid": 5.5, "mailto": 4.0, "openalex": 3.5}
FAMILY = ("same", "sounding", "partly", "swapped", "slipped", "mail", "number")
GIVEN = ("against", "nothing", "one initial", "more initials", "same initials", "alike", "initial of", "whole")


@dataclass(frozen=True, slots=True)
class Pairs:
    """Pairs of forms with their evidence: ``family`` and ``given`` say how the names agree, ``features`` weigh."""

    a: Ints
    b: Ints
    family: Ints
    given: Ints
    features: dict[str, Floats]


@dataclass(frozen=True, slots=True)
class _Readings:
    """All readings in columns: whose they are, family core (numbered), first initial, given names (numbered), way."""

    form: Ints
    core: Ints
    initial: Ints
    given: Ints
    way: Ints
    cores: list[str]
    givens: list[tuple[str, ...]]


@dataclass(frozen=True, slots=True)
class People:
    """The names of all forms, what surrounds them, and what is known of them for sure."""

    read: tuple[tuple[Reading, ...], ...]
    around: Surroundings
    together: NDArray[np.int64]  # pairs of forms in one record
    orcid: dict[int, frozenset[str]]
    shared: dict[str, tuple[int, ...]]  # identifier → forms it was given with
    numbers: dict[int, frozenset[str]]  # form → identifiers it shares with others
    nobody: dict[int, str]  # forms that name no person, and why
    rivals: Floats  # for each form, how many different written-out names its given names would fit
    kin: Floats  # for each form, how many forms share its family name
    columns: _Readings

    def surely_two(self, a: int, b: int) -> str:
        """Why two forms are two people whatever their names, in words; empty where nothing says so."""
        pair = min(a, b) << 32 | max(a, b)
        at = int(self.together.searchsorted(pair))
        if at < len(self.together) and self.together[at] == pair:
            return "both stand in one record"
        if a in self.orcid and b in self.orcid and self.orcid[a].isdisjoint(self.orcid[b]):
            return "they have different ORCIDs"
        return ""

    def contradict(self, a: int, b: int) -> str:
        """Why two forms cannot be one person, in words; empty where they may."""
        if why := self.surely_two(a, b):
            return why
        if not self.numbers.get(a, _NO_NUMBER).isdisjoint(self.numbers.get(b, _NO_NUMBER)):
            return ""
        if self.read[a][0].given == self.read[b][0].given and self.read[a][0].core == self.read[b][0].core:
            best = _relation(self.read[a][0], self.read[b][0])
        else:
            best = max((_relation(x, y) for x in self.read[a] for y in self.read[b] if _comparable(x, y)), default=-1)
            if best < 0:
                best = _relation(self.read[a][0], self.read[b][0])
        return "their given names differ" if best == AGAINST else ""


def _comparable(x: Reading, y: Reading) -> bool:
    return x.core == y.core and (x.way == PLAIN or y.way == PLAIN)


def _relation(x: Reading, y: Reading) -> int:
    if x.suffix and y.suffix and x.suffix != y.suffix:
        return AGAINST
    return given_relation(min(x.given, y.given), max(x.given, y.given))


_NO_NUMBER: frozenset[str] = frozenset()
MOST_SHARING = 50  # forms with one address; more is a list, not a person


def people(
    corpus: Corpus, mentions: Mentions, check: Callable[[], None], moved: Mapping[tuple[int, int], int] | None = None
) -> People:
    """Read the names of a corpus and what surrounds them; ``moved`` as in Resolution."""
    live = mentions.counts() > 0
    read = []
    for k, text in enumerate(mentions.forms):
        if not k & 4095:
            check()
        read.append(readings(text) if live[k] else ())
    company = [f"{r[0].core} {r[0].given[0][0] if r[0].given else ''}" if r else "" for r in read]
    around = surroundings(corpus, mentions, company, check)
    orcid: dict[int, set[str]] = defaultdict(set)
    groups: dict[str, set[int]] = defaultdict(set)
    for record, old, identifier in corpus.known:
        form = moved.get((record, old), old) if moved else old
        if live[form]:
            groups[identifier].add(form)
            if identifier.startswith("orcid:"):
                orcid[form].add(identifier)
    shared = {i: tuple(sorted(forms)) for i, forms in sorted(groups.items()) if 1 < len(forms) <= MOST_SHARING}
    numbers: dict[int, set[str]] = defaultdict(set)
    for identifier, forms in shared.items():
        for form in forms:
            numbers[form].add(identifier)
    nobody = {f: why for f, text in enumerate(mentions.forms) if live[f] and (why := not_a_person(text))}
    check()
    columns = _columns(read, nobody)
    return People(
        tuple(read),
        around,
        together(len(corpus), mentions.record, mentions.form),
        {f: frozenset(found) for f, found in orcid.items()},
        shared,
        {f: frozenset(n) for f, n in numbers.items()},
        nobody,
        *_rivals(columns, len(read)),
        columns,
    )


# -- candidates


def _columns(names: Sequence[tuple[Reading, ...]], nobody: dict[int, str]) -> _Readings:
    cores: dict[str, int] = {}
    givens: dict[tuple[str, ...], int] = {}
    rows = []
    for form, read in enumerate(names):
        if form in nobody:
            continue
        for r in read:
            first = ord(r.given[0][0]) if r.given else 0
            rows.append(
                (form, cores.setdefault(r.core, len(cores)), first, givens.setdefault(r.given, len(givens)), r.way)
            )
    table = np.array(rows, np.int64).reshape(-1, 5)
    return _Readings(*table.T, list(cores), list(givens))  # type: ignore[call-arg]


class _Met(NamedTuple):
    """Forms that met: which two, packed with the lower first; how their families and given names agree. One row each."""

    pair: NDArray[np.int64]
    family: Ints
    given: Ints

    def only(self, rows: NDArray[Any]) -> _Met:
        """Some of the rows, by number or by truth."""
        return _Met(*(column[rows] for column in self))


def compared(found: People, check: Callable[[], None] = lambda: None) -> Pairs:
    """Every pair of forms worth comparing, with its evidence; pairs that must not merge are not among them."""
    named, numbered = _by_names(found, check), _by_numbers(found)
    met = _Met(*(np.concatenate(columns) for columns in zip(named, numbered)))
    met = met.only(np.lexsort((-met.given, met.family, met.pair)))  # the best reading of each pair first
    met = met.only(_first_of_each(met.pair))
    met = met.only(~is_among(met.pair, found.together))
    a, b = (met.pair >> 32).astype(np.int32), (met.pair & 0xFFFFFFFF).astype(np.int32)
    if found.orcid:
        free = np.array([not _kept_apart(found, i, j) for i, j in zip(a.tolist(), b.tolist())], bool)
        met, a, b = met.only(free), a[free], b[free]
    plain = np.array([read[0].family if read else "" for read in found.read], object)
    family = np.where((met.family == SAME) & (plain[a] != plain[b]), SOUNDING, met.family)
    check()
    rivals, kin = found.rivals, found.kin
    names = {
        "rivals": np.where(met.given < WHOLE, np.log2(1 + np.maximum(rivals[a], rivals[b])), 0.0),
        "crowded family": np.log2(1 + np.maximum(kin[a], kin[b])),
    } | _same_number(found, packed(a, b))
    return Pairs(a, b, family, met.given, names | _features(found, found.around, a, b, family, met.given))


def _by_names(found: People, check: Callable[[], None]) -> _Met:
    """Pairs that meet by a reading of their names: in a block, or one slip apart; at least one as it is written."""
    r = found.columns
    (x, y), (sx, sy) = _block_pairs(found, r), _slip_pairs(found, r)
    slipped = np.repeat((False, True), (len(x), len(sx)))
    x, y = np.r_[x, sx], np.r_[y, sy]
    check()
    keep = np.flatnonzero((r.form[x] != r.form[y]) & ((r.way[x] == PLAIN) | (r.way[y] == PLAIN)))
    given = _relations(r, x[keep], y[keep], check)
    keep, given = keep[given != AGAINST], given[given != AGAINST]
    x, y, slipped = x[keep], y[keep], slipped[keep]
    way = np.maximum(r.way[x], r.way[y])
    family = np.select(
        [slipped, way == SHORTENED, way == TURNED, way == MAIL], [SLIPPED, PARTLY, SWAPPED, BY_MAIL], SAME
    )
    return _Met(packed(r.form[x], r.form[y]), family, given)


def _by_numbers(found: People) -> _Met:
    """Pairs that meet by a number they share, whatever their names."""
    sharing = [two for forms in found.shared.values() for two in combinations(forms, 2)]
    a, b = np.array(sharing, np.int64).reshape(-1, 2).T
    return _Met(packed(a, b), np.full(len(a), BY_NUMBER), np.full(len(a), NOTHING))


def _first_of_each(ordered: NDArray[np.int64]) -> NDArray[np.bool_]:
    """Which of ordered numbers differ from the one before."""
    return np.r_[True, ordered[1:] != ordered[:-1]] if len(ordered) else np.zeros(0, bool)


def pooled(found: People, pairs: Pairs, group: Ints, groups: int) -> tuple[Pairs, Ints]:
    """The pairs between groups of forms, each with its best pair of names and with all that surrounds the two groups;
    and the place in ``pairs`` that each was named by."""
    a, b = group[pairs.a], group[pairs.b]
    pair = packed(a, b)
    order = np.lexsort((pairs.family, -pairs.given, pair))
    order = order[(a != b)[order]]
    best = order[_first_of_each(pair[order])]
    a, b, family, given = (
        (pair[best] >> 32).astype(np.int32),
        (pair[best] & 0xFFFFFFFF).astype(np.int32),
        pairs.family[best],
        pairs.given[best],
    )
    around = found.around.pooled(group, groups)
    features = {name: pairs.features[name][best] for name in ("rivals", "crowded family")}
    for name in NUMBERS:
        features[f"same {name}"] = np.zeros(len(best))
        np.maximum.at(
            features[f"same {name}"], np.searchsorted(pair[best], pair[order]), pairs.features[f"same {name}"][order]
        )
    features |= _features(found, around, a, b, family, given)
    return Pairs(a, b, family, given, features), best


def _kept_apart(found: People, a: int, b: int) -> bool:
    one, two = found.orcid.get(a), found.orcid.get(b)
    return one is not None and two is not None and one.isdisjoint(two)


def _block_pairs(found: People, r: _Readings) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Pairs of readings with the same core and first initial. Of a large block only those that have whole given names
    or company in common; names without given names meet all of their family where these are few."""
    block = r.core * 65536 + r.initial
    _, at, size = np.unique(block, return_inverse=True, return_counts=True)
    large = size[at] > BLOCK
    x, y = pairs_within(np.where(large, -1 - np.arange(len(block)), block))
    found_pairs = [(x, y)]
    if large.any():
        place = np.flatnonzero(large)
        whole = np.array([given[0] if given and len(given[0]) > 1 else "" for given in r.givens], object)[
            r.given[place]
        ]
        _, name = np.unique(whole.astype(str), return_inverse=True)
        written = whole != ""
        x, y = pairs_within(at[place[written]] * 1_000_000 + name[written], 4 * BLOCK)
        found_pairs.append((place[written][x], place[written][y]))
        rows = found.around.rows["company"]
        counts = rows.sizes()[r.form[place]]
        owner = np.repeat(place, counts)
        things = np.concatenate([rows.row(f) for f in r.form[place].tolist()]) if len(place) else np.zeros(0, np.int32)
        x, y = pairs_within(at[owner].astype(np.int64) << 32 | things.astype(np.int64), BLOCK)
        found_pairs.append((owner[x], owner[y]))
    bare = np.flatnonzero(r.initial == 0)
    if len(bare):
        _, at, size = np.unique(r.core, return_inverse=True, return_counts=True)
        few = np.isin(r.core, r.core[bare]) & (size[at] <= 30)
        place = np.flatnonzero(few)
        x, y = pairs_within(r.core[place])
        one = (r.initial[place[x]] == 0) != (r.initial[place[y]] == 0)
        found_pairs.append((place[x[one]], place[y[one]]))
    return np.concatenate([p[0] for p in found_pairs]), np.concatenate([p[1] for p in found_pairs])


def _slip_pairs(found: People, r: _Readings) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Pairs of plain readings whose families are one slip apart, and whose first initials agree."""
    plain = np.flatnonzero((r.way == PLAIN) & (r.initial > 0))
    records = np.bincount(r.core[plain], found.around.records[r.form[plain]], len(r.cores))
    near = slips(r.cores, np.flatnonzero((records > 0) & (records <= RARE)).tolist(), 5)
    holders: dict[int, list[int]] = defaultdict(list)
    touched = {c for pair in near for c in pair}
    for place in plain[np.isin(r.core[plain], list(touched))].tolist():
        holders[int(r.core[place])].append(place)
    pairs = [(i, j) for one, two in near for i in holders[one] for j in holders[two] if r.initial[i] == r.initial[j]]
    table = np.array(pairs, np.int64).reshape(-1, 2)
    return table[:, 0], table[:, 1]


def _relations(r: _Readings, x: NDArray[np.int64], y: NDArray[np.int64], check: Callable[[], None]) -> Ints:
    """How the given names of pairs of readings agree; each pair of names is looked at once."""
    low, high = np.minimum(r.given[x], r.given[y]), np.maximum(r.given[x], r.given[y])
    pair, back = np.unique(low << 32 | high, return_inverse=True)
    found = np.zeros(len(pair), np.int8)
    for k, (i, j) in enumerate(zip((pair >> 32).tolist(), (pair & 0xFFFFFFFF).tolist())):
        if not k & 16383:
            check()
        one, two = r.givens[i], r.givens[j]
        found[k] = given_relation(min(one, two), max(one, two))
    return found[back]


# -- evidence


def _features(found: People, around: Surroundings, a: Ints, b: Ints, family: Ints, given: Ints) -> dict[str, Floats]:
    """The numbers that the model weighs, by name; each of shape (pairs,)."""
    out: dict[str, Floats] = {f"family {name}": (family == k).astype(float) for k, name in enumerate(FAMILY)}
    out |= {f"given {name}": (given == k).astype(float) for k, name in enumerate(GIVEN) if k != AGAINST}
    weak = given < ALIKE
    for name, rows in around.rows.items():
        count, weight = rows.shared(a, b)
        sizes = rows.sizes()
        least = np.minimum(sizes[a], sizes[b])
        out[f"{name} shared"] = np.log1p(weight)
        out[f"{name} any"] = (count > 0).astype(float)
        out[f"{name} none"] = np.where((count == 0) & (least > 0), np.log1p(least), 0.0)
        out[f"{name} share"] = count / np.maximum(least, 1)
        for part in ("shared", "any", "none", "share"):
            out[f"{name} {part}, initials"] = np.where(weak, out[f"{name} {part}"], 0.0)
    gap = around.gap(a, b)
    out["gap"] = np.log1p(gap)
    span = np.maximum(around.last[a], around.last[b]) - np.minimum(around.first[a], around.first[b])
    out["long span"] = np.where((around.first[a] > 0) & (around.first[b] > 0), np.maximum(span - 35, 0) / 10, 0.0)
    alone = np.minimum(around.records[a], around.records[b])
    out["records"] = np.log1p(alone)
    out["single slip"] = ((family == SLIPPED) & (alone == 1)).astype(float)
    out["slip, whole"] = ((family == SLIPPED) & (given == WHOLE)).astype(float)
    out["partly, any company"] = ((family == PARTLY) & (out["company any"] > 0)).astype(float)
    return out


def weighed(fitted: Chance, pairs: Pairs) -> Floats:
    """The log-odds of pairs; a shared identifier is decisive whatever else there is."""
    odds = fitted.odds(pairs.features)
    for name, least in DECISIVE.items():
        odds = np.where(pairs.features[f"same {name}"] > 0, np.maximum(odds, least), odds)
    return odds


def _same_number(found: People, pair: NDArray[np.int64]) -> dict[str, Floats]:
    """Which pairs share an identifier, by its kind."""
    out = {}
    for name in NUMBERS:
        sharing = [
            f << 32 | g
            for i, forms in found.shared.items()
            if i.startswith(name)
            for k, f in enumerate(forms)
            for g in forms[k + 1 :]
        ]
        out[f"same {name}"] = is_among(pair, np.unique(np.array(sharing, np.int64))).astype(float)
    return out


def _rivals(r: _Readings, n: int) -> tuple[Floats, Floats]:
    """For every form: how many different written-out names its own given names would fit; and how many forms share its
    family name."""
    plain = np.flatnonzero(r.way == PLAIN)
    _, first = np.unique(r.form[plain], return_index=True)
    plain = plain[first]
    kin_of = np.bincount(r.core[plain], minlength=len(r.cores))
    kin = np.zeros(n)
    kin[r.form[plain]] = kin_of[r.core[plain]]
    blocks: dict[tuple[int, int], dict[tuple[str, ...], int]] = defaultdict(dict)
    key = list(zip(r.core[plain].tolist(), r.initial[plain].tolist()))
    for k, g in zip(key, r.given[plain].tolist()):
        if r.givens[g] and len(r.givens[g][0]) > 1:
            blocks[k][r.givens[g]] = 1
    rivals = np.zeros(n)
    cache: dict[tuple[tuple[int, int], int], int] = {}
    for k, g, form in zip(key, r.given[plain].tolist(), r.form[plain].tolist()):
        fits = cache.get((k, g))
        if fits is None:
            own = r.givens[g]
            if own and len(own[0]) > 1:
                fits = 1
            else:
                fits = len({"".join(w[:1]) for w in blocks[k] if given_relation(min(own, w), max(own, w)) != AGAINST})
            cache[k, g] = fits
        rivals[form] = fits
    return rivals, kin


# -- sets of one person

FIRST = 1.8  # log-odds down to which single forms join, before what surrounds them is pooled
SECOND = 1.0  # log-odds down to which the sets so made join
WEAK = -0.9  # log-odds down to which a further joining is offered by itself


@dataclass(frozen=True, slots=True)
class Grouping:
    """Forms in groups: the group of each form, the forms of each group, and the log-odds of its weakest joining."""

    group: Ints
    forms: tuple[tuple[int, ...], ...]
    odds: tuple[float, ...]


def first_round(
    found: People,
    pairs: Pairs,
    odds: Floats,
    settled: Sequence[Sequence[int]],
    never: Never,
    check: Callable[[], None] = lambda: None,
) -> Grouping:
    """Join the surest pairs of forms; what was settled before stays one group."""
    joined = consistent_sets(list(zip(odds.tolist(), pairs.a.tolist(), pairs.b.tolist())), settled, never, FIRST, check)
    groups = {one.forms[0]: (tuple(one.forms), one.odds) for one in joined}
    inside = {f for forms, _ in groups.values() for f in forms}
    for forms in settled:
        if forms[0] not in inside:
            groups[min(forms)] = tuple(sorted(forms)), INFINITE
            inside |= set(forms)
    groups |= {f: ((f,), INFINITE) for f in range(len(found.read)) if f not in inside}
    ordered = [groups[f] for f in sorted(groups)]
    group = np.zeros(len(found.read), np.int32)
    for k, (forms, _) in enumerate(ordered):
        group[list(forms)] = k
    return Grouping(group, tuple(forms for forms, _ in ordered), tuple(level for _, level in ordered))


def second_round(
    grouping: Grouping,
    between: Pairs,
    odds: Floats,
    records: Ints,
    never: Never,
    check: Callable[[], None] = lambda: None,
) -> list[Joined]:
    """Join the groups, on all that surrounds each; only sets that are not one group since before. For a weaker link
    between sets, the most used form of each."""

    def clash(x: Sequence[int], y: Sequence[int]) -> bool:
        return never([f for g in x for f in grouping.forms[g]], [f for g in y for f in grouping.forms[g]])

    links = list(zip(odds.tolist(), between.a.tolist(), between.b.tolist()))
    joined = consistent_sets(links, (), clash, SECOND, check)
    used = {g for one in joined for g in one.forms}
    sets = [(one.forms, one.odds) for one in joined] + [
        ((g,), INFINITE) for g in range(len(grouping.forms)) if g not in used
    ]

    def whole(groups: Sequence[int], level: float) -> Joined:
        return Joined(
            sorted(f for g in groups for f in grouping.forms[g]),
            min(level, *(grouping.odds[g] for g in groups), INFINITE),
        )

    found = [one for one in (whole(*s) for s in sets) if one.odds < INFINITE]
    weaker = consistent_sets(
        [link for link in links if link[0] < 3], [g for g, _ in sets if len(g) > 1], clash, WEAK, check
    )
    held = [whole(*s).forms for s in sets]
    place = {g: k for k, (groups, _) in enumerate(sets) for g in groups}
    for one in weaker:
        parts = [held[k] for k in sorted({place[g] for g in one.forms})]
        found.append(Joined(heads([f for part in parts for f in part], parts, records), one.odds))
    return sorted(found, key=lambda one: one.forms[0])
