"""First suggestions: sets of forms that probably stand for one person or one word, with confidence and reasons.

Persons: same family name, compatible given names, weighed by shared co-authors, venues and years. Words: the same
letters but for case, hyphen, space and plural. Two forms in one record, or with contradictory given names, never
stand in one suggestion.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np

from umber_knot.corpus.letters import bare
from umber_knot.corpus.model import Corpus, Decision, Ints, Mentions, fold
from umber_knot.reconcile.decisions import Resolution
from umber_knot.reconcile.names import Name, compatible, parse_name, singular, word_key

#: Below this a suggestion is not worth a scholar's look.
LEAST = 0.3


@dataclass(frozen=True, slots=True)
class Suggestion:
    """Forms (numbers, the preferred one first) that may be one entity; ``confidence`` 0 to 1."""

    kind: str
    forms: tuple[int, ...]
    confidence: float
    reasons: tuple[str, ...]
    against: tuple[str, ...] = ()


def suggest(
    corpus: Corpus,
    kind: str,
    resolution: Resolution,
    decisions: Iterable[Decision] = (),
    check: Callable[[], None] = lambda: None,
) -> list[Suggestion]:
    """Suggestions on what the decisions have not settled, best first; ``check`` may raise to cancel."""
    mentions = corpus.of(kind)
    counts = mentions.counts()
    number = {text: i for i, text in enumerate(mentions.forms)}
    apart = {
        frozenset((number.get(fold(d.form), -1), number.get(fold(d.preferred), -1)))
        for d in decisions
        if d.decision == "apart" and d.kind == kind
    }
    live = [int(f) for f in np.flatnonzero(counts)]
    if kind == "person":
        found = _people(corpus, mentions, counts, live, resolution, apart, check)
    else:
        found = _words(mentions, counts, live, resolution, apart, kind)
    # an entity set aside may still have spellings to join, but nothing is gained where all of them are aside
    found = [s for s in found if not resolution.aside[resolution.entity[list(s.forms)]].all()]
    return sorted(found, key=lambda s: (-s.confidence, mentions.forms[s.forms[0]]))


def accepted(forms: Sequence[str], suggestions: Iterable[Suggestion], level: float) -> list[Decision]:
    """The merges that taking every suggestion at or above a confidence makes."""
    return [
        Decision(s.kind, "merge", forms[f], forms[s.forms[0]], note=f"accepted at {s.confidence:.2f}")
        for s in suggestions
        if s.confidence >= level
        for f in s.forms[1:]
    ]


# -- words


def _words(
    mentions: Mentions, counts: Ints, live: list[int], resolution: Resolution, apart: set[frozenset[int]], kind: str
) -> list[Suggestion]:
    by_key: dict[str, list[int]] = defaultdict(list)
    for f in live:
        if key := word_key(mentions.forms[f]):
            by_key[key].append(int(f))
    found = []
    for group in by_key.values():
        if len({int(resolution.entity[f]) for f in group}) < 2 or any(
            frozenset((a, b)) in apart for a in group for b in group
        ):
            continue
        group.sort(key=lambda f: (-counts[f], mentions.forms[f]))
        confidence, reasons = _word_evidence([mentions.forms[f] for f in group])
        found.append(Suggestion(kind, tuple(group), confidence, reasons))
    return found


def _word_evidence(texts: list[str]) -> tuple[float, tuple[str, ...]]:
    """How sure, and why, given spellings with one key. The levels are this version's own estimates."""
    confidence, reasons = 0.99, []
    if len({t.lower() for t in texts}) < len(texts):
        reasons.append("differ in capitals")
    lowered = {bare(t) for t in texts}
    if len({t.casefold() for t in texts}) > len(lowered):
        reasons.append("differ in accents")
        confidence = min(confidence, 0.96)
    joined = {t.replace("-", " ") for t in lowered}
    if len(joined) < len(lowered) or len({t.replace(" ", "") for t in joined}) < len(joined):
        reasons.append("differ in hyphen or space")
        confidence = min(confidence, 0.97)
    last = {t.split()[-1] for t in joined if t}
    if len({singular(w) for w in last}) < len(last):
        reasons.append("singular and plural")
        confidence = min(confidence, 0.94)
    return confidence, tuple(reasons or ["same letters"])


# -- persons


def _people(
    corpus: Corpus,
    mentions: Mentions,
    counts: Ints,
    live: list[int],
    resolution: Resolution,
    apart: set[frozenset[int]],
    check: Callable[[], None],
) -> list[Suggestion]:
    names = {int(f): parse_name(mentions.forms[f]) for f in live}
    blocks: dict[tuple[str, str], list[int]] = defaultdict(list)
    for f, name in names.items():
        if name.family and name.given and name.given[0]:
            blocks[name.family, name.given[0][0]].append(f)
    blocks = {key: forms for key, forms in blocks.items() if len(forms) > 1}
    known = _Known(corpus, set(names))
    context = _Context(
        corpus, mentions, [f for forms in (*blocks.values(), *known.shared.values()) for f in forms], names
    )
    pairs = [
        (chance, a, b, [reason])
        for identifier, forms in known.shared.items()
        for chance, reason in [_BY_IDENTIFIER[identifier.partition(":")[0]]]
        for a, b in combinations(forms, 2)
        if frozenset((a, b)) not in apart and resolution.entity[a] != resolution.entity[b]
    ]
    for n, forms in enumerate(blocks.values()):
        if not n & 255:
            check()
        full = {names[f].given for f in forms if len(names[f].given[0]) > 1}
        for i, a in enumerate(forms):
            for b in forms[i + 1 :]:
                if not compatible(names[a].given, names[b].given) or frozenset((a, b)) in apart or known.differ(a, b):
                    continue
                if resolution.entity[a] != resolution.entity[b] and not context.records[a].isdisjoint(
                    context.records[b]
                ):
                    continue
                chance, reasons = context.weigh(a, b, names, full)
                same = resolution.entity[a] == resolution.entity[b]
                pairs.append((1.0 if same else chance, a, b, reasons))
    return _consistent_sets(pairs, names, counts, mentions.forms, resolution, apart, context, known)


#: How sure an identifier makes it, and what it is called.
_BY_IDENTIFIER = {
    "orcid": (0.99, "same ORCID"),
    "mailto": (0.97, "same mail address"),
    "openalex": (0.95, "same author number"),
}


class _Known:
    """Identifiers of people: forms that share one, and forms whose ORCIDs say they are different people."""

    MOST = 50  # forms that share an address; more is a list, not a person

    def __init__(self, corpus: Corpus, live: set[int]) -> None:
        self.orcid: dict[int, set[str]] = defaultdict(set)
        groups: dict[str, set[int]] = defaultdict(set)
        for _, form, identifier in corpus.known:
            if form in live and identifier.partition(":")[0] in _BY_IDENTIFIER:
                groups[identifier].add(form)
                if identifier.startswith("orcid:"):
                    self.orcid[form].add(identifier)
        self.shared = {i: sorted(forms) for i, forms in sorted(groups.items()) if 1 < len(forms) <= self.MOST}

    def differ(self, a: int, b: int) -> bool:
        """Whether both have ORCIDs, and none in common."""
        return a in self.orcid and b in self.orcid and self.orcid[a].isdisjoint(self.orcid[b])


class _Context:
    """What surrounds the forms under comparison: their records, co-authors, venues and years."""

    def __init__(self, corpus: Corpus, mentions: Mentions, forms: list[int], names: dict[int, Name]) -> None:
        wanted = np.zeros(len(mentions.forms), bool)
        wanted[forms] = True
        self.records: dict[int, set[int]] = defaultdict(set)
        chosen = wanted[mentions.form]
        for record, form in zip(mentions.record[chosen].tolist(), mentions.form[chosen].tolist()):
            self.records[form].add(record)
        self.others: dict[int, list[int]] = defaultdict(list)
        touched = np.zeros(len(corpus), bool)
        touched[mentions.record[chosen]] = True
        inside = touched[mentions.record]
        for record, form in zip(mentions.record[inside].tolist(), mentions.form[inside].tolist()):
            self.others[record].append(form)
        venue = corpus.of("venue")
        self.venue = dict(zip(venue.record.tolist(), venue.form.tolist()))
        self.year, self.text = corpus.year, mentions.forms

    def company(self, form: int) -> set[str]:
        """Co-authors, as family name and first initial."""
        own = parse_name(self.text[form]).family
        found = set()
        for record in self.records[form]:
            for other in self.others[record]:
                name = parse_name(self.text[other])
                if name.family != own:
                    found.add(f"{name.family}, {name.given[0][0] if name.given and name.given[0] else ''}")
        return found

    def weigh(self, a: int, b: int, names: dict[int, Name], full: set[tuple[str, ...]]) -> tuple[float, list[str]]:
        """The chance that two forms are one person, and the reasons; hand-set log-odds, checked on Brackwater."""
        x, y = parse_name(self.text[a]), parse_name(self.text[b])
        reasons = []
        if x.given == y.given:
            odds = 3.2 if x.full() else 0.9
            reasons.append("same name but for capitals or accents" if x.full() else "same initials")
        elif x.full() and y.full():
            odds = 2.6
            reasons.append("given names agree")
        else:
            fits = sum(compatible(x.given if not x.full() else y.given, g) for g in full)
            odds = 0.9 if fits <= 1 else 0.9 - 1.3 * math.log2(fits)
            reasons.append("initials agree" if fits <= 1 else f"initials fit {fits} written-out names")
        shared = self.company(a) & self.company(b)
        if shared:
            odds += 1.3 * min(len(shared), 3)
            some = ", ".join(sorted(shared)[:2])
            reasons.append(f"{len(shared)} co-author{'s' * (len(shared) > 1)} in common ({some.title()})")
        venues = {self.venue.get(r) for r in self.records[a]} & {self.venue.get(r) for r in self.records[b]} - {None}
        if venues:
            odds += 0.7
            reasons.append(f"{len(venues)} venue{'s' * (len(venues) > 1)} in common")
        elif not shared:
            odds -= 0.8
            reasons.append("no co-author or venue in common")
        dated = [[year for r in self.records[f] if (year := int(self.year[r]))] for f in (a, b)]
        if all(dated):
            gap = max(min(dated[0]) - max(dated[1]), min(dated[1]) - max(dated[0]))
            if gap > 15:
                odds -= 1.0
                reasons.append(f"{gap} years apart")
        return 1 / (1 + math.exp(-odds)), reasons


def _consistent_sets(
    pairs: list[tuple[float, int, int, list[str]]],
    names: dict[int, Name],
    counts: Ints,
    forms: Sequence[str],
    resolution: Resolution,
    apart: set[frozenset[int]],
    context: _Context,
    known: _Known,
) -> list[Suggestion]:
    """Join the surest pairs first; a set grows only while every pair in it may be one person."""
    home: dict[int, set[int]] = {}
    lowest: dict[int, float] = {}
    why: dict[int, list[str]] = {}

    def may_join(one: set[int], two: set[int]) -> bool:
        return all(
            resolution.entity[a] == resolution.entity[b]
            or (
                compatible(parse_name(forms[a]).given, parse_name(forms[b]).given)
                and frozenset((a, b)) not in apart
                and not known.differ(a, b)
                and context.records[a].isdisjoint(context.records[b])
            )
            for a in one
            for b in two
        )

    for chance, a, b, reasons in sorted(pairs, key=lambda p: (-p[0], forms[p[1]], forms[p[2]])):
        if chance < LEAST:
            break
        one, two = home.setdefault(a, {a}), home.setdefault(b, {b})
        if one is two or not may_join(one, two):
            continue
        ids = id(one), id(two)
        level = min(chance, lowest.pop(ids[0], 1.0), lowest.pop(ids[1], 1.0))
        merged_why = list(dict.fromkeys(why.pop(ids[0], []) + why.pop(ids[1], []) + (reasons if chance < 1 else [])))
        one |= two
        for f in two:
            home[f] = one
        lowest[id(one)], why[id(one)] = level, merged_why
    found = []
    for group in {id(s): s for s in home.values()}.values():
        if len({int(resolution.entity[f]) for f in group}) < 2:
            continue
        ordered = sorted(group, key=lambda f: _preference(forms[f], int(counts[f])))
        reasons = why[id(group)]
        doubts = [r for r in reasons if r.startswith(("no ", "initials fit")) or r.endswith("years apart")]
        found.append(Suggestion(
            "person", tuple(ordered), lowest[id(group)], tuple(r for r in reasons if r not in doubts), tuple(doubts)
        ))  # fmt: skip
    return found


def _preference(text: str, count: int) -> tuple[bool, int, bool, int, str]:
    """Sort key of the preferred spelling: not all capitals, most given names written out, accents kept, most used."""
    name = parse_name(text)
    return text.isupper(), -name.full(), text.isascii(), -count, text
