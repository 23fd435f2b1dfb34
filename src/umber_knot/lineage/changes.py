"""What changed from one state of a study to the next, in numbers and names."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from umber_knot.corpus.model import Ints, named
from umber_knot.network.model import Network


@dataclass(frozen=True, slots=True)
class Changes:
    """Names of items gained, lost and moved to another topic; numbers of ties new, gone, stronger and weaker."""

    kinds: tuple[str, ...]
    before: int
    after: int
    gained: tuple[str, ...]
    lost: tuple[str, ...]
    moved: tuple[str, ...]
    new_ties: int
    gone_ties: int
    stronger: int
    weaker: int
    topics_before: int
    topics_after: int

    def __bool__(self) -> bool:
        ties = self.new_ties or self.gone_ties or self.stronger or self.weaker
        return bool(self.gained or self.lost or self.moved or ties or self.topics_before != self.topics_after)

    def sentence(self) -> str:
        """One line: ``413 → 412 words (− tidemills) · 2 ties stronger · no item moved topic``."""
        parts = []
        if self.before != self.after or self.gained or self.lost:
            names = _names("+", self.gained) + _names("−", self.lost)
            arrow = f"{self.before:,} → {self.after:,}" if self.before != self.after else f"{self.after:,}"
            parts.append(f"{arrow} {named(self.kinds, self.after)}" + (f" ({', '.join(names)})" if names else ""))
        for number, word in (
            (self.new_ties, "new"),
            (self.gone_ties, "gone"),
            (self.stronger, "stronger"),
            (self.weaker, "weaker"),
        ):
            if number:
                parts.append(f"{number:,} tie{'s' * (number != 1)} {word}")
        if self.topics_before != self.topics_after:
            parts.append(f"{self.topics_before} → {self.topics_after} topics")
        if self.moved:
            listed = ", ".join(self.moved[:2]) + (" …" if len(self.moved) > 2 else "")
            parts.append(f"{len(self.moved):,} item{'s' * (len(self.moved) != 1)} moved topic ({listed})")
        elif parts:
            parts.append("no item moved topic")
        return " · ".join(parts) or "same items, ties and topics"


def _names(sign: str, names: tuple[str, ...]) -> list[str]:
    return [f"{sign} {n}" for n in names[:2]] + ([f"{sign} {len(names) - 2:,} more"] if len(names) > 2 else [])


def compare(old: Network, old_topic: Ints, new: Network, new_topic: Ints) -> Changes | None:
    """The changes from one network and grouping to another, by the identity of items, parallel ties taken together;
    None when the kind of item differs, or only one has directions."""
    if old.kinds != new.kinds or old.directed != new.directed:
        return None
    at = {one: i for i, one in enumerate(old.identities())}
    identities = new.identities()
    now = np.array([at.get(one, -1) for one in identities], np.int64)  # new item → old item
    there = set(identities)
    gained = tuple(new.label[i] for i in np.flatnonzero(now < 0).tolist())
    lost = tuple(old.label[i] for one, i in at.items() if one not in there)
    both = now >= 0
    moved = np.flatnonzero(both)[old_topic[now[both]] != new_topic[both]]
    key_old, weight_old = _ties(old, np.arange(len(old)), len(old))
    key_new, weight_new = _ties(new, now, len(old))
    same = key_new >= 0
    shared, i, j = np.intersect1d(key_old, key_new[same], return_indices=True)
    difference = weight_new[same][j] - weight_old[i]
    slack = 1e-9 * np.maximum(weight_old[i], 1.0)
    return Changes(
        new.kinds,
        len(old),
        len(new),
        gained,
        lost,
        tuple(new.label[k] for k in moved.tolist()),
        len(key_new) - len(shared),
        len(key_old) - len(shared),
        int((difference > slack).sum()),
        int((difference < -slack).sum()),
        len(np.unique(old_topic[old_topic >= 0])),
        len(np.unique(new_topic[new_topic >= 0])),
    )


def _ties(network: Network, place: Ints, n: int) -> tuple[np.ndarray, np.ndarray]:
    """A key and the weight of each pair that is tied; pairs with an end that has no place have negative keys of their
    own."""
    plain = network.simple("kept")
    a, b = place[plain.source], place[plain.target]
    if not plain.directed:
        a, b = np.minimum(a, b), np.maximum(a, b)
    key = np.where((a >= 0) & (b >= 0), a * max(n, 1) + b, -1 - np.arange(len(a)))
    return key, plain.weight
