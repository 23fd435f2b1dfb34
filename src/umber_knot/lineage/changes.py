"""What changed from one state of a study to the next, in numbers and names."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from umber_knot.corpus.model import KIND_WORDS
from umber_knot.network.model import Network


@dataclass(frozen=True, slots=True)
class Changes:
    """Names of items gained, lost and moved to another topic; numbers of ties new, gone, stronger and weaker."""

    kind: str
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

    def sentence(self) -> str:
        """One line: ``413 → 412 words (− tidemills) · 2 ties stronger · no item moved topic``."""
        one, many = KIND_WORDS[self.kind]
        parts = []
        if self.before != self.after or self.gained or self.lost:
            names = _names("+", self.gained) + _names("−", self.lost)
            arrow = f"{self.before:,} → {self.after:,}" if self.before != self.after else f"{self.after:,}"
            parts.append(f"{arrow} {one if self.after == 1 else many}" + (f" ({', '.join(names)})" if names else ""))
        for number, word in ((self.new_ties, "new"), (self.gone_ties, "gone"), (self.stronger, "stronger"),
                             (self.weaker, "weaker")):  # fmt: skip
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


def compare(
    old: Network,
    old_topic: np.ndarray[tuple[int], np.dtype[np.int32]],
    new: Network,
    new_topic: np.ndarray[tuple[int], np.dtype[np.int32]],
) -> Changes | None:
    """The changes from one network and grouping to another, by item name; None when the kind of item differs."""
    if old.kind != new.kind:
        return None
    at = {text: i for i, text in enumerate(old.label)}
    now = np.array([at.get(text, -1) for text in new.label], np.int64)  # new item → old item
    gained = tuple(text for text, k in zip(new.label, now.tolist()) if k < 0)
    names = set(new.label)
    lost = tuple(text for text in old.label if text not in names)
    both = now >= 0
    moved = np.flatnonzero(both)[old_topic[now[both]] != new_topic[both]]
    n = max(len(old), 1)
    a, b = now[new.source], now[new.target]
    same = (a >= 0) & (b >= 0)
    key_new = np.minimum(a, b)[same] * n + np.maximum(a, b)[same]
    key_old = old.source.astype(np.int64) * n + old.target
    shared, i, j = np.intersect1d(key_old, key_new, assume_unique=True, return_indices=True)
    difference = new.weight[same][j] - old.weight[i]
    slack = 1e-9 * np.maximum(old.weight[i], 1.0)
    return Changes(
        new.kind, len(old), len(new), gained, lost, tuple(new.label[k] for k in moved.tolist()),
        int(len(key_new) - len(shared) + (~same).sum()), int(len(key_old) - len(shared)),
        int((difference > slack).sum()), int((difference < -slack).sum()),
        len(np.unique(old_topic[old_topic >= 0])), len(np.unique(new_topic[new_topic >= 0])),
    )  # fmt: skip
