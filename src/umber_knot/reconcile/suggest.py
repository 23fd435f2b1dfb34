"""Suggestions: sets of forms that probably stand for one entity, single forms that stand for none, and forms that stand
for several; each with a calibrated confidence and its evidence in words.

Two forms in one record, with different identifiers or with contradictory given names never stand in one set.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from umber_knot.corpus.model import Corpus, Decision, Ints, Mentions, fold
from umber_knot.reconcile.chances import chance
from umber_knot.reconcile.decisions import Resolution
from umber_knot.reconcile.explaining import told_of_people, told_of_terms
from umber_knot.reconcile.names import parse_name
from umber_knot.reconcile.people import compared, first_round, people, pooled, second_round
from umber_knot.reconcile.terms import compared_terms, term_sets, terms

#: Below this a suggestion is not worth a scholar's look.
LEAST = 0.3
#: Kinds of term whose chances were fitted; places and countries are weighed as institutions.
FITTED = ("keyword", "venue", "institution")


@dataclass(frozen=True, slots=True)
class Suggestion:
    """Forms (numbers, the preferred one first) and what to do with them: ``merge`` them, set one ``aside``, or ``split``
    one into ``parts``, the records of each proposed entity. ``confidence`` is a probability."""

    kind: str
    forms: tuple[int, ...]
    confidence: float
    reasons: tuple[str, ...]
    against: tuple[str, ...] = ()
    action: str = "merge"
    parts: tuple[tuple[int, ...], ...] = ()


def suggest(
    corpus: Corpus,
    kind: str,
    resolution: Resolution,
    decisions: Iterable[Decision] = (),
    check: Callable[[], None] = lambda: None,
) -> list[Suggestion]:
    """Suggestions on what the decisions have not settled, best first; ``check`` may raise to cancel."""
    open_ = _Open(corpus, kind, resolution, list(decisions))
    found = _people(open_, check) if kind == "person" else _terms(open_, check)
    # an entity set aside may still have spellings to join, but nothing is gained where all of them are aside
    found = [s for s in found if not resolution.aside[resolution.entity[list(s.forms)]].all()]
    return sorted(found, key=lambda s: (-s.confidence, open_.mentions.forms[s.forms[0]], s.forms))


def accepted(forms: Sequence[str], suggestions: Iterable[Suggestion], level: float) -> list[Decision]:
    """The merges that taking every suggestion at or above a confidence makes."""
    return [
        Decision(s.kind, "merge", forms[f], forms[s.forms[0]], note=f"accepted at {s.confidence:.2f}")
        for s in suggestions
        if s.confidence >= level and s.action == "merge"
        for f in s.forms[1:]
    ]


class _Open:
    """What is to be suggested on: the mentions, what is one already, and what was decided to be kept apart."""

    def __init__(self, corpus: Corpus, kind: str, resolution: Resolution, decisions: list[Decision]) -> None:
        self.corpus, self.kind, self.resolution = corpus, kind, resolution
        self.mentions: Mentions = corpus.of(kind)
        self.counts: Ints = self.mentions.counts()
        number = {text: i for i, text in enumerate(self.mentions.forms)} if decisions else {}
        self.apart = {
            frozenset((number.get(fold(d.form), -1), number.get(fold(d.preferred), -1)))
            for d in decisions
            if d.decision == "apart" and d.kind == kind
        }
        live = np.flatnonzero(self.counts)
        order = live[np.argsort(resolution.entity[live], kind="stable")]
        cuts = np.flatnonzero(np.diff(resolution.entity[order])) + 1
        self.settled = [part.tolist() for part in np.split(order, cuts) if len(part) > 1]

    def one(self, a: int, b: int) -> bool:
        """Whether two forms are one entity already."""
        return bool(self.resolution.entity[a] == self.resolution.entity[b])

    def fresh(self, forms: Sequence[int]) -> bool:
        """Whether a set says more than what was decided."""
        return len(np.unique(self.resolution.entity[list(forms)])) > 1


def _people(open_: _Open, check: Callable[[], None]) -> list[Suggestion]:
    mentions, counts = open_.mentions, open_.counts
    found = people(open_.corpus, mentions, check)

    def never(a: int, b: int) -> bool:
        if open_.one(a, b):
            return False
        return (bool(open_.apart) and frozenset((a, b)) in open_.apart) or bool(found.contradict(a, b))

    first, second = chance("person"), chance("person pooled")
    pairs = compared(found, check)
    grouping = first_round(found, pairs, first.odds(pairs.features), open_.settled, never, check)
    between, _ = pooled(found, pairs, grouping.group, len(grouping.forms))
    offered = []
    for k, one in enumerate(second_round(grouping, between, second.odds(between.features), never, check)):
        if not k & 255:
            check()
        sure = second.sure(one.odds)
        if sure >= LEAST and open_.fresh(one.forms):
            ordered = sorted(one.forms, key=lambda f: _preference(mentions.forms[f], int(counts[f])))
            offered.append(Suggestion("person", tuple(ordered), sure, *told_of_people(found, mentions.forms, ordered)))
    for form, why in found.nobody.items():
        offered.append(Suggestion("person", (form,), 0.95, (why,), action="aside"))
    return offered


def _terms(open_: _Open, check: Callable[[], None]) -> list[Suggestion]:
    mentions, counts = open_.mentions, open_.counts
    found = terms(open_.corpus, mentions, open_.kind, check)

    def never(a: int, b: int) -> bool:
        if open_.one(a, b):
            return False
        return (bool(open_.apart) and frozenset((a, b)) in open_.apart) or bool(found.contradict(a, b))

    fitted = chance(open_.kind if open_.kind in FITTED else "institution")
    pairs = compared_terms(found, check)
    ways = dict(zip(zip(pairs.a.tolist(), pairs.b.tolist()), pairs.way.tolist()))
    offered = []
    for k, one in enumerate(term_sets(found, pairs, fitted.odds(pairs.features), open_.settled, never, check)):
        if not k & 255:
            check()
        sure = fitted.sure(one.odds)
        if sure >= LEAST and open_.fresh(one.forms):
            ordered = sorted(
                one.forms,
                key=lambda f: (mentions.forms[f].isupper() and " " in mentions.forms[f], -counts[f], mentions.forms[f]),
            )
            used = {
                way
                for i, a in enumerate(one.forms)
                for b in one.forms[i + 1 :]
                if (way := ways.get((a, b))) is not None
            }
            offered.append(Suggestion(open_.kind, tuple(ordered), sure, *told_of_terms(found, ordered, used)))
    return offered


def _preference(text: str, count: int) -> tuple[bool, bool, int, bool, int, str]:
    """Sort key of the preferred spelling: no mail address, not all capitals, most given names written out, accents
    kept, most used."""
    return "@" in text, text.isupper(), -parse_name(text).whole(), text.isascii(), -count, text
