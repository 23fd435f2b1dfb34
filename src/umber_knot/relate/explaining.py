"""Why two items are tied: what each part of a tie's count comes from, and the arithmetic of its weight."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import NamedTuple

import numpy as np

from umber_knot.corpus.model import Corpus, Ints
from umber_knot.gather.references import Matches
from umber_knot.reconcile.decisions import Resolution
from umber_knot.relate.citing import work_of
from umber_knot.relate.multiple import loops, relations
from umber_knot.relate.nearness import Named, named, together
from umber_knot.relate.parameters import SHARED, Relate
from umber_knot.relate.result import Counted
from umber_knot.relate.roles import of_kind
from umber_knot.relate.roles import sides as letter_sides
from umber_knot.relate.things import mentioned
from umber_knot.relate.valued import values_of
from umber_knot.text.result import HEADING, Terms


def records_of(counted: Counted, thing: int) -> Ints:
    """Records (numbers in the corpus) in which a thing is counted, in order."""
    return counted.record[counted.item == thing]


def evidence(counted: Counted, a: int, b: int) -> Ints:
    """Records that two things share: the evidence of a tie by shared record."""
    return np.intersect1d(records_of(counted, a), records_of(counted, b), assume_unique=True)


class Term(NamedTuple):
    """One part of a tie: a record, what it gives (``1/2``) and how much that is; ``other`` is a record that it cites
    (−1 none), ``form`` a reference as it is written, or what both share; ``spot`` the paragraph of the record and the
    sentence in it where two terms stand (−1 none)."""

    record: int
    gives: str
    share: float
    other: int = -1
    form: str = ""
    spot: tuple[int, int] = (-1, -1)


class Material(NamedTuple):
    """What ties are counted from."""

    corpus: Corpus
    known: Mapping[str, Resolution]
    matches: Matches | None
    sentence: Relate
    terms: Terms | None = None


def explain(on: Material, counted: Counted, a: int, b: int) -> list[Term]:
    """The parts of the tie from thing ``a`` to thing ``b``, in the order of the records; their shares add up to its
    counted weight."""
    s = on.sentence
    if s.direction != "kept" and replace(s, direction="kept").directed:
        kept = on._replace(sentence=replace(s, direction="kept"))
        there = explain(kept, counted, b, a)
        return there if s.direction == "reversed" or a == b else [*explain(kept, counted, a, b), *there]
    if s.tie == "similarity":
        return _alike(on, counted, a, b)
    if s.tie == "citation":
        return _citing(on, counted, a, b)
    if s.tie == "coupling" or s.project:
        return _both(on, counted, a, b)
    if s.tie == "concept":
        return _nearby(on, counted, a, b)
    both = evidence(counted, a, b)
    if a == b and s.tie in SHARED:
        both = loops(on.corpus, both, np.full(len(both), a), s)[0]
        both = both[counted.size[np.searchsorted(counted.record, both)] == 1]
    if s.tie == "correspondence" or s.tie == "two-mode":
        return _across(on, both, a, b, counted)
    size = counted.size[np.searchsorted(counted.record, both)]
    return [
        _term(on, int(r), 1 if s.counting == "full" else max(int(n) - 1, 1))
        for r, n in zip(both.tolist(), size.tolist())
    ]


def _alike(on: Material, counted: Counted, a: int, b: int) -> list[Term]:
    """What two items have in common in a column, or the numbers they are compared by."""
    s, everything = on.sentence, np.zeros(len(on.corpus), np.bool_)
    everything[np.unique(counted.record)] = True
    everything |= on.corpus.entry.lengths() > 0
    item, value, _ = values_of(on.corpus, s.of, on.known, s.column, everything)
    forms, own = on.corpus.of(s.column).forms, (value[item == a], value[item == b])
    records = records_of(counted, a)
    record = int(records[0]) if len(records) else -1
    if s.compared == "same":
        both = np.intersect1d(*own)
        return [Term(record, "1", 1 / len(both), form=forms[v]) for v in both.tolist()]
    said = " and ".join("; ".join(forms[v] for v in one.tolist()) for one in own)
    tie = np.flatnonzero((counted.source == a) & (counted.target == b))
    return [Term(record, f"{counted.weight[t]:.4g}", float(counted.weight[t]), form=said) for t in tie.tolist()]


def _nearby(on: Material, counted: Counted, a: int, b: int) -> list[Term]:
    """Where two terms stand near one another, each place with what it gives."""
    assert on.terms is not None
    s, keep = on.sentence, np.zeros(len(on.corpus), np.bool_)
    keep[evidence(counted, a, b)] = True
    mentions = named(on.terms, on.known["term"], keep, s.terms)
    if s.window:
        pair = np.isin(mentions.item, (a, b))
        here = Named(*(column[pair] for column in mentions))
        one, other = _neighbours(here, s.window)
        gap = here.place[other] - (here.place[one] + here.length[one] - 1)
        return [
            _term(on, int(here.record[i]), int(d), spot=(int(here.paragraph[i]), int(here.sentence[i])))
            for i, d in zip(one.tolist(), gap.tolist())
        ]
    hub, item, record = together(mentions, s.within)
    spots = mentions if s.within != "sentence" else Named(*(c[mentions.sentence != HEADING] for c in mentions))
    pairs = np.unique(np.stack([hub, item]), axis=1)
    size = np.bincount(pairs[0])
    terms = []
    for h in np.intersect1d(hub[item == a], hub[item == b]).tolist():
        at = int(np.flatnonzero((hub == h) & (item == a))[0])
        spot = (-1, -1) if s.within == "record" else (int(spots.paragraph[at]), int(spots.sentence[at]))
        parts = 1 if s.counting == "full" else int(size[h]) - 1
        terms.append(_term(on, int(record[at]), parts, spot=spot))
    return terms


def _neighbours(here: Named, most: int) -> tuple[Ints, Ints]:
    """Places of the pairs of two different terms at most so many words apart, in the order of the text."""
    found = [
        (i, j)
        for i in range(len(here.item))
        for j in range(i + 1, min(i + 1 + most, len(here.item)))
        if here.item[i] != here.item[j]
        and here.record[i] == here.record[j]
        and here.paragraph[i] == here.paragraph[j]
        and HEADING not in (here.sentence[i], here.sentence[j])
        and here.place[j] - (here.place[i] + here.length[i] - 1) <= most
    ]
    one, other = np.array(found, np.int32).reshape(-1, 2).T
    return one, other


def _term(
    on: Material,
    record: int,
    parts: int,
    other: int = -1,
    form: str = "",
    own: bool = True,
    spot: tuple[int, int] = (-1, -1),
) -> Term:
    shares = relations(on.corpus, on.sentence).shares() if on.sentence.relation else None
    weight = float(on.corpus.weight[record]) * (1.0 if shares is None else float(shares[record])) if own else 1.0
    text = f"{weight:g}" if parts == 1 else f"{weight:g}/{parts}"
    return Term(record, text, weight / parts, other, form, spot)


def _across(on: Material, records: Ints, a: int, b: int, counted: Counted) -> list[Term]:
    """Records with ``a`` on one side and ``b`` on the other."""
    s = on.sentence
    if s.tie == "correspondence":
        sides = [mentioned(on.corpus, s.of, on.known, *roles, among=records) for roles in letter_sides(s)]
    else:
        sides = [mentioned(on.corpus, k, on.known, *of_kind(k, s), among=records) for k in (s.of, s.second)]
        b -= counted.things.start[1]
    terms = []
    for r in records.tolist():
        here = [item[np.searchsorted(record, r) : np.searchsorted(record, r, "right")] for record, item in sides]
        if a in here[0] and b in here[1]:
            terms.append(_term(on, r, 1 if s.counting == "full" else len(here[0]) * len(here[1])))
    return terms


def _citing(on: Material, counted: Counted, a: int, b: int) -> list[Term]:
    """Records of ``a`` that cite records of ``b``, each with the reference as it is written."""
    assert on.matches is not None
    citing, cited = records_of(counted, a), records_of(counted, b)
    mentions = on.corpus.of("reference")
    means = on.matches.record[mentions.form]
    at = np.flatnonzero(np.isin(mentions.record, citing) & np.isin(means, cited) & (mentions.record != means))
    seen: dict[tuple[int, int], int] = {}
    for k in at.tolist():
        seen.setdefault((int(mentions.record[k]), int(means[k])), int(mentions.form[k]))
    terms = []
    for (one, other), form in sorted(seen.items()):
        parts = 1
        if on.sentence.counting != "full":
            parts = int(counted.size[np.searchsorted(counted.record, one)])
            parts *= int(counted.size[np.searchsorted(counted.record, other)])
        terms.append(_term(on, one, parts, other, mentions.forms[form], own=False))
    return terms


def _both(on: Material, counted: Counted, a: int, b: int) -> list[Term]:
    """What both share: works that both cite, or items of the other kind; each with a record of ``a``."""
    s = on.sentence
    if s.tie == "coupling":
        assert on.matches is not None
        references = on.known["reference"]
        mentions = references.mentions(on.corpus)
        hub = work_of(on.corpus, on.matches, references)[mentions.form]
        record, called = mentions.record, references.label
    else:
        kind = s.second if s.project == s.of else s.of
        record, hub = mentioned(on.corpus, kind, on.known, *of_kind(kind, s))
        called = on.known[kind].label if kind != "record" else on.corpus.title
    own, other = (np.isin(record, records_of(counted, thing)) for thing in (a, b))
    common = np.intersect1d(hub[own], hub[other])
    here = np.flatnonzero(np.isin(hub, common) & np.isin(record, counted.record))
    here = here[np.argsort(hub[here], kind="stable")]
    low, high = (np.searchsorted(hub[here], common, side) for side in ("left", "right"))
    terms = []
    for work, start, end in zip(common.tolist(), low.tolist(), high.tolist()):
        holds = here[start:end]
        n = len(np.unique(counted.item[np.isin(counted.record, record[holds])]))
        first = int(record[holds[own[holds]][0]])
        terms.append(_term(on, first, 1 if s.counting == "full" else n - 1, -1, called[work], own=False))
    return terms


def arithmetic(counted: Counted, how: str, a: int, b: int, c: float) -> str:
    """A normalised weight written out from the counted weight ``c`` of two things; empty where it is not normalised."""
    s_a, s_b = counted.diagonal[[a, b]].tolist()
    k_a, k_b = counted.strength[[a, b]].tolist()
    total = float(counted.strength.sum())
    if how == "association":
        written, value = f"{c:.4g}·{total:.6g}/({k_a:.4g}·{k_b:.4g})", c * total / (k_a * k_b)
    elif how == "cosine":
        written, value = f"{c:.4g}/√({s_a}·{s_b})", c / float(np.sqrt(s_a * s_b))
    elif how == "jaccard":
        written, value = f"{c:.4g}/({s_a} + {s_b} − {c:.4g})", c / (s_a + s_b - c)
    elif how == "inclusion":
        written, value = f"{c:.4g}/min({s_a}, {s_b})", c / min(s_a, s_b)
    elif how == "equivalence":
        written, value = f"{c:.4g}²/({s_a}·{s_b})", c * c / (s_a * s_b)
    else:
        return ""
    return f"{how}: {written} = {value:.4g}"
