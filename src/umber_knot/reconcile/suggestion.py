"""What a suggestion is, and the decisions that settle it."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from umber_knot.corpus.model import Corpus, Decision, Ints
from umber_knot.reconcile.decisions import scope_of


@dataclass(frozen=True, slots=True)
class Suggestion:
    """Forms (numbers, the preferred one first) and what to do with them: ``merge`` them, set one ``aside``, or
    ``split``
    one into ``parts``, the records of each proposed entity. ``confidence`` is a probability."""

    kind: str
    forms: tuple[int, ...]
    confidence: float
    reasons: tuple[str, ...]
    against: tuple[str, ...] = ()
    action: str = "merge"
    parts: tuple[tuple[int, ...], ...] = ()


def accepted(forms: Sequence[str], suggestions: Iterable[Suggestion], level: float) -> list[Decision]:
    """The merges that taking every suggestion at or above a confidence makes."""
    return [
        Decision(s.kind, "merge", forms[f], forms[s.forms[0]], note=f"accepted at {s.confidence:.2f}")
        for s in suggestions
        if s.confidence >= level and s.action == "merge"
        for f in s.forms[1:]
    ]


def settled_by(s: Suggestion, corpus: Corpus, forms: Sequence[str], preferred: int = 0) -> list[Decision]:
    """The decisions that follow a suggestion, with its evidence as their note; ``preferred`` is a place in its
    forms."""
    note = f"{s.confidence:.2f}: {'; '.join(s.reasons)}" + (f" | against: {'; '.join(s.against)}" if s.against else "")
    first = forms[s.forms[preferred]]
    if s.action == "split":
        return [
            Decision(s.kind, "split", first, name, scope_of(corpus, part), note)
            for name, part in zip(part_names(corpus, first, s.parts)[1:], s.parts[1:])
        ]
    if s.action == "aside":
        return [Decision(s.kind, "aside", first, note=note)]
    return [Decision(s.kind, "merge", forms[f], first, note=note) for k, f in enumerate(s.forms) if k != preferred]


def part_names(corpus: Corpus, form: str, parts: Sequence[Sequence[int]]) -> list[str]:
    """A name for each part of a split: the form itself for the first, then the form with what tells the part best."""
    names = [form]
    for k, part in enumerate(parts[1:], 2):
        telling = next(
            (text for kind in ("institution", "venue", "keyword") if (text := most_common(corpus, kind, part))), ""
        )
        name = f"{form} ({telling or k})"
        names.append(name if name not in names else f"{name} {k}")
    return names


def most_common(corpus: Corpus, kind: str, records: Sequence[int] | Ints, least: float = 0.5) -> str:
    """What at least a share of some records mention, the most common first; empty where nothing is."""
    mentions = corpus.of(kind)
    begin, end = (np.searchsorted(mentions.record, records, side) for side in ("left", "right"))
    inside = np.concatenate([mentions.form[b:e] for b, e in zip(begin.tolist(), end.tolist())] or [mentions.form[:0]])
    if not len(inside):
        return ""
    form, times = np.unique(inside, return_counts=True)
    return mentions.forms[form[times.argmax()]] if times.max() >= least * len(records) else ""


def suggestion_rows(corpus: Corpus, number: int, s: Suggestion, counts: Ints) -> Iterator[tuple[object, ...]]:
    """The rows of one suggestion as ``./umber suggest`` writes them: a row a form, or of a split a row a part."""
    forms = corpus.of(s.kind).forms
    rest = f"{s.confidence:.3f}", "; ".join((*s.reasons, *s.against)), s.action
    if s.action == "split":
        form = forms[s.forms[0]]
        for name, part in zip(part_names(corpus, form, s.parts), s.parts):
            yield number, form, len(part), name, *rest, scope_of(corpus, part)
        return
    for f in s.forms:
        yield number, forms[f], counts[f], forms[s.forms[0]] if s.action == "merge" else "", *rest, ""
