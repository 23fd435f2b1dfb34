"""What settling a suggestion would change in the network, before it is settled."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from umber_knot.corpus.model import KIND_WORDS, Ints
from umber_knot.lineage.recipe import Relate
from umber_knot.reconcile.decisions import Resolution
from umber_knot.reconcile.suggestion import Suggestion
from umber_knot.relate.shared import Counted, Filtered


@dataclass(frozen=True, slots=True)
class Effect:
    """A suggestion's consequence. ``parts`` are the records it would leave together (one number for a merge, none for
    what is set aside); items ``before`` and ``after`` among those it touches; ties it ``makes``, ``thickens`` and
    ``drops``; how many spellings are ``below`` the least records alone; ``rank`` of the best of them by records,
    before and after (0: not in the network)."""

    kind: str
    parts: tuple[int, ...]
    before: int
    after: int
    makes: int
    thickens: int
    drops: int
    below: int
    least: int
    rank: tuple[int, int]

    def weight(self) -> int:
        """How much of the network it touches, for putting the suggestions in order."""
        return self.makes + self.thickens + self.drops + abs(self.before - self.after)

    def lines(self) -> list[str]:
        """What changes, in words: ``6 records together: passes your minimum of 5``."""
        one, many = KIND_WORDS[self.kind]
        parts = []
        if len(self.parts) == 1:
            parts.append(f"{_many(self.parts[0], 'record')} together")
        elif self.parts:
            parts.append(f"records in {len(self.parts)} parts: {', '.join(f'{k:,}' for k in self.parts)}")
        if self.least > 1 and self.parts:
            passing = sum(k >= self.least for k in self.parts)
            if len(self.parts) > 1:
                parts[0] += f"; {passing or 'none'} of them pass{'es' * (passing == 1)} your minimum of {self.least}"
            else:
                parts[0] += f": {'passes' if passing else 'stays below'} your minimum of {self.least}"
            if passing and self.below and len(self.parts) == 1:
                parts[0] += f" ({_many(self.below, 'spelling')} alone {'is' if self.below == 1 else 'are'} below it)"
        ties = [
            f"{verb} {_many(n, 'tie')}"
            for verb, n in (("makes", self.makes), ("thickens", self.thickens), ("drops", self.drops))
            if n
        ]
        if ties:
            parts.append(", ".join(ties))
        if self.before != self.after:
            change = self.after - self.before
            parts.append(f"{abs(change):,} {one if abs(change) == 1 else many} {'more' if change > 0 else 'fewer'}")
        if all(self.rank) and self.rank[0] != self.rank[1]:
            parts.append(f"by records from place {self.rank[0]:,} to {self.rank[1]:,}")
        if len(parts) == bool(self.parts):
            parts.append("the network stays as it is")
        return parts


def _many(n: int, word: str) -> str:
    return f"{n:,} {word}{'s' * (n != 1)}"


def effects(
    resolution: Resolution, counted: Counted, filtered: Filtered, recipe: Relate, offered: Sequence[Suggestion]
) -> list[Effect]:
    """The effect of every suggestion on the network of the same kind; ties before the filter on weight."""
    n = len(resolution.label)
    shown = np.zeros(n, bool)
    shown[filtered.network.entity] = True
    sizes = np.sort(counted.records[shown])
    near, near_at = _by(np.r_[counted.source, counted.target], np.r_[counted.target, counted.source], n)
    where, where_at = _by(counted.item, counted.record, n)
    found = []
    for s in offered:
        entity = np.unique(resolution.entity[list(s.forms)])
        inside = entity[shown[entity]]
        records = np.unique(np.concatenate([where[where_at[e] : where_at[e + 1]] for e in entity.tolist()]))
        others = [near[near_at[e] : near_at[e + 1]] for e in entity.tolist()]
        around, times = np.unique(np.concatenate(others), return_counts=True)
        keep = shown[around] & ~np.isin(around, entity)
        around, times = around[keep], times[keep]
        tied = np.isin(
            around, np.concatenate([near[near_at[e] : near_at[e + 1]] for e in inside.tolist()] or [near[:0]])
        )
        least = max(1, recipe.min_records)
        best = int(counted.records[inside].max(initial=0))
        makes = thickens = drops = 0
        parts: tuple[int, ...] = ()
        if s.action == "merge":
            parts = (len(records),)
            makes, thickens = int((len(records) >= least) * (~tied).sum()), int((tied & (times > 1)).sum())
        elif s.action == "aside":
            drops = int(tied.sum())
        else:
            parts = tuple(map(len, s.parts))
        after, size = sum(k >= least for k in parts), max(parts, default=0)
        alone = int((counted.records[entity] < least).sum())
        rank = (_place(sizes, best) if best else 0, _place(sizes, size) if size >= least else 0)
        found.append(
            Effect(resolution.kind, parts, len(inside), after, makes, thickens, drops, alone, recipe.min_records, rank)
        )
    return found


def _by(key: Ints, value: Ints, n: int) -> tuple[Ints, NDArray[np.int64]]:
    """Values in the order of their keys, and where each key begins."""
    order = np.argsort(key, kind="stable")
    return value[order], np.searchsorted(key[order], np.arange(n + 1))


def _place(sizes: Ints, size: int) -> int:
    """The place of a size among sorted sizes, the greatest first."""
    return 1 + len(sizes) - int(np.searchsorted(sizes, size, side="right"))
