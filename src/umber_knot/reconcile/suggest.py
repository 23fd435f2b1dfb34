"""Suggestions: sets of forms that probably stand for one entity, single forms that stand for none, and forms that stand
for several; each with a calibrated confidence and its evidence in words.

Two forms in one record, with different identifiers or with contradictory given names never stand in one set.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from typing import Any

import numpy as np

from umber_knot.corpus.model import Corpus, Decision, Ints, Mentions, fold
from umber_knot.reconcile.chances import Chance, chance
from umber_knot.reconcile.cited import cited, compared_references, told_of_references
from umber_knot.reconcile.decisions import Resolution
from umber_knot.reconcile.explaining import Told, told_of_people, told_of_terms
from umber_knot.reconcile.names import parse_name
from umber_knot.reconcile.namesakes import partings, told_of_parting
from umber_knot.reconcile.people import compared, first_round, people, pooled, second_round, weighed
from umber_knot.reconcile.sets import Joined, Never, joined_sets
from umber_knot.reconcile.suggestion import Suggestion
from umber_knot.reconcile.terms import compared_terms, terms

#: Below this a suggestion is not worth a scholar's look.
LEAST = 0.3
#: Kinds of term whose chances were fitted; terms of texts are weighed as keywords, places and countries as institutions.
FITTED = {"keyword": "keyword", "venue": "venue", "institution": "institution", "term": "keyword"}


def suggest(
    corpus: Corpus,
    kind: str,
    resolution: Resolution,
    decisions: Iterable[Decision] = (),
    check: Callable[[], None] = lambda: None,
) -> list[Suggestion]:
    """Suggestions on what the decisions have not settled, best first; ``check`` may raise to cancel."""
    open_ = _Open(corpus, kind, resolution, [d for d in decisions if d.kind == kind])
    found = {"person": _people, "reference": _references}.get(kind, _terms)(open_, check)
    # an entity set aside may still have spellings to join, but nothing is gained where all of them are aside
    found = [s for s in found if not resolution.aside[resolution.entity[list(s.forms)]].all()]
    return sorted(found, key=lambda s: (-s.confidence, open_.mentions.forms[s.forms[0]], s.forms))


class _Open:
    """What is to be suggested on: the mentions, what is one already, and what was decided to be kept apart."""

    def __init__(self, corpus: Corpus, kind: str, resolution: Resolution, decisions: list[Decision]) -> None:
        self.corpus, self.kind, self.resolution = corpus, kind, resolution
        self.mentions: Mentions = resolution.mentions(corpus)
        self.counts: Ints = self.mentions.counts()
        number = {text: i for i, text in enumerate(self.mentions.forms)} if decisions else {}
        self.apart = {
            frozenset((number.get(fold(d.form), -1), number.get(fold(d.preferred), -1)))
            for d in decisions
            if d.decision == "apart" and d.kind == kind
        }
        # what was split, or kept whole against a suggestion (kept apart from itself), is not offered again
        self.split = {
            number.get(fold(d.form), -1)
            for d in decisions
            if d.kind == kind
            and (d.decision == "split" or (d.decision == "apart" and fold(d.form) == fold(d.preferred)))
        }
        live = np.flatnonzero(self.counts)
        order = live[np.argsort(resolution.entity[live], kind="stable")]
        cuts = np.flatnonzero(np.diff(resolution.entity[order])) + 1
        self.settled = [part.tolist() for part in np.split(order, cuts) if len(part) > 1]

    def never(self, contradict: Callable[[int, int], str], sure: Callable[[int, int], str] = lambda a, b: "") -> Never:
        """Which sets stay apart: any pair of them was decided to be apart, or contradicts itself.

        The scholar may have made one of what looks different. Of such a set only the forms they merged are looked at,
        and another form needs to agree with one of these only, as long as nothing is ``sure`` to keep it apart.
        """
        entity, apart = self.resolution.entity, self.apart
        whole = {f: k for k, forms in enumerate(self.settled) for f in forms}

        def parts(forms: Sequence[int]) -> list[list[int]]:
            """What was settled among some forms, each as one; where nothing was, every form alone."""
            groups: dict[int, list[int]] = {}
            for f in forms:
                if f in whole:
                    groups.setdefault(whole[f], []).append(f)
            return list(groups.values()) or [[f] for f in forms]

        def never(x: Sequence[int], y: Sequence[int]) -> bool:
            pairs = [(a, b) for a in x for b in y]
            if apart and any(frozenset(pair) in apart and entity[pair[0]] != entity[pair[1]] for pair in pairs):
                return True
            if not whole:
                return any(contradict(a, b) for a, b in pairs)
            if any(sure(a, b) for a, b in pairs if entity[a] != entity[b]):
                return True
            return any(all(contradict(a, b) for a in one for b in two) for one in parts(x) for two in parts(y))

        return never

    def fresh(self, forms: Sequence[int]) -> bool:
        """Whether a set says more than what was decided."""
        return len(np.unique(self.resolution.entity[list(forms)])) > 1


def _people(open_: _Open, check: Callable[[], None]) -> list[Suggestion]:
    mentions, counts = open_.mentions, open_.counts
    found = people(open_.corpus, mentions, check, open_.resolution.moved)
    never = open_.never(found.contradict, found.surely_two)
    first, second = chance("person"), chance("person pooled")
    pairs = compared(found, check)
    grouping = first_round(found, pairs, weighed(first, pairs), open_.settled, never, check)
    between, _ = pooled(found, pairs, grouping.group, len(grouping.forms))
    sets = second_round(grouping, between, weighed(second, between), found.around.records, never, check)
    offered = _offered(
        open_,
        second,
        sets,
        lambda f: _preference(mentions.forms[f], int(counts[f])),
        lambda members: told_of_people(found, mentions.forms, members),
        check,
    )
    namesake, split = chance("namesake"), open_.split
    for parting in partings(open_.corpus, mentions, found, check):
        sure = namesake.sure(float(namesake.odds({k: np.array([v]) for k, v in parting.features.items()})[0]))
        if sure >= LEAST and parting.form not in split:
            told = told_of_parting(parting)
            offered.append(Suggestion("person", (parting.form,), sure, *told, action="split", parts=parting.groups))
    for form, why in found.nobody.items():
        offered.append(Suggestion("person", (form,), 0.95, (why,), action="aside"))
    return offered


def _terms(open_: _Open, check: Callable[[], None]) -> list[Suggestion]:
    mentions, counts = open_.mentions, open_.counts
    found = terms(open_.corpus, mentions, open_.kind, check)
    fitted = chance(FITTED.get(open_.kind, "institution"))
    pairs = compared_terms(found, check)
    ways = dict(zip(zip(pairs.a.tolist(), pairs.b.tolist()), pairs.way.tolist()))

    def told(members: list[int]) -> Told:
        inside = sorted(members)
        used = {way for i, a in enumerate(inside) for b in inside[i + 1 :] if (way := ways.get((a, b))) is not None}
        return told_of_terms(found, members, used)

    def order(f: int) -> tuple[object, ...]:
        text = mentions.forms[f]
        return text.isupper() and " " in text, -counts[f], text

    sets = joined_sets(
        (pairs.a, pairs.b), fitted.odds(pairs.features), counts, open_.settled, open_.never(found.contradict), check
    )
    return _offered(open_, fitted, sets, order, told, check)


def _references(open_: _Open, check: Callable[[], None]) -> list[Suggestion]:
    mentions, counts = open_.mentions, open_.counts
    found = cited(open_.corpus, mentions, check)
    fitted = chance("reference")
    pairs = compared_references(found, check)
    never = open_.never(found.contradict, found.contradict)
    sets = joined_sets((pairs.a, pairs.b), fitted.odds(pairs.features), counts, open_.settled, never, check)
    return _offered(
        open_,
        fitted,
        sets,
        lambda f: (-counts[f], -len(mentions.forms[f]), mentions.forms[f]),
        lambda members: told_of_references(found, members),
        check,
    )


def _offered(
    open_: _Open,
    fitted: Chance,
    sets: list[Joined],
    order: Callable[[int], Any],
    told: Callable[[list[int]], Told],
    check: Callable[[], None],
) -> list[Suggestion]:
    """Suggestions of the sets that say more than what was decided, each with its preferred form first."""
    offered = []
    for k, one in enumerate(sets):
        if not k & 255:
            check()
        sure = fitted.sure(one.odds)
        if sure >= LEAST and open_.fresh(one.forms):
            ordered = sorted(one.forms, key=order)
            offered.append(Suggestion(open_.kind, tuple(ordered), sure, *told(ordered)))
    return offered


def _preference(text: str, count: int) -> tuple[bool, bool, int, bool, int, str]:
    """Sort key of the preferred spelling: no mail address, not all capitals, most given names written out, accents
    kept, most used."""
    return "@" in text, text.isupper(), -parse_name(text).whole(), text.isascii(), -count, text
