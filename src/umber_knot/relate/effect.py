"""What settling a suggestion would change in the network, before it is settled."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from umber_knot.corpus.model import KIND_WORDS, Ints
from umber_knot.reconcile.decisions import Resolution
from umber_knot.reconcile.suggestion import Suggestion
from umber_knot.relate.parameters import Relate
from umber_knot.relate.result import Counted, Filtered


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

    def lifts(self) -> bool:
        """Whether it brings together what passes the least records only so."""
        return len(self.parts) == 1 and not self.before and bool(self.after)

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
    resolution: Resolution, counted: Counted, filtered: Filtered, relate: Relate, offered: Sequence[Suggestion]
) -> list[Effect]:
    """The effect of every suggestion on the network of the same kind; ties before the filter on weight."""
    around = _Around(resolution, counted, filtered, max(1, relate.min_records))
    return [around.effect(s) for s in offered]


class _Around:
    """A network laid out so that what surrounds some entities is found at once."""

    def __init__(self, resolution: Resolution, counted: Counted, filtered: Filtered, least: int) -> None:
        n = len(resolution.label)
        self.resolution, self.records, self.least = resolution, counted.records, least
        self.shown = np.zeros(n, bool)
        entity = filtered.network.entity
        self.shown[entity[entity < n]] = True  # not what was made by hand
        self.sizes = np.sort(counted.records[self.shown])
        self.near = _by(np.r_[counted.source, counted.target], np.r_[counted.target, counted.source], n)
        self.where = _by(counted.item, counted.record, n)

    def effect(self, s: Suggestion) -> Effect:
        entity = np.unique(self.resolution.entity[list(s.forms)])
        inside = entity[self.shown[entity]]
        parts: tuple[int, ...] = ()
        if s.action == "merge":
            parts = (len(np.unique(_all(self.where, entity))),)
        elif s.action == "split":
            parts = tuple(map(len, s.parts))
        best, size = int(self.records[inside].max(initial=0)), max(parts, default=0)
        return Effect(
            kind=self.resolution.kind,
            parts=parts,
            before=len(inside),
            after=sum(k >= self.least for k in parts),
            **self._ties(s.action, entity, inside, size >= self.least),
            below=int((self.records[entity] < self.least).sum()),
            least=self.least,
            rank=(self._place(best) if best else 0, self._place(size) if size >= self.least else 0),
        )

    def _ties(self, action: str, entity: Ints, inside: Ints, passes: bool) -> dict[str, int]:
        """Ties that settling makes, thickens and drops: with neighbours outside the set that are in the network."""
        around, times = np.unique(_all(self.near, entity), return_counts=True)
        keep = self.shown[around] & ~np.isin(around, entity)
        around, times = around[keep], times[keep]
        tied = np.isin(around, _all(self.near, inside))
        makes = int((~tied).sum()) if action == "merge" and passes else 0
        thickens = int((tied & (times > 1)).sum()) if action == "merge" else 0
        return {"makes": makes, "thickens": thickens, "drops": int(tied.sum()) if action == "aside" else 0}

    def _place(self, size: int) -> int:
        """The place of a size among those shown, the greatest first."""
        return 1 + len(self.sizes) - int(np.searchsorted(self.sizes, size, side="right"))


def _all(by: tuple[Ints, NDArray[np.int64]], keys: Ints) -> Ints:
    """The values of some keys, one after another."""
    values, at = by
    return np.concatenate([values[:0], *(values[at[k] : at[k + 1]] for k in keys.tolist())])


def _by(key: Ints, value: Ints, n: int) -> tuple[Ints, NDArray[np.int64]]:
    """Values in the order of their keys, and where each key begins."""
    order = np.argsort(key, kind="stable")
    return value[order], np.searchsorted(key[order], np.arange(n + 1))
