"""The Network type: items and ties as parallel arrays."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from umber_knot.corpus.model import Floats, Ints


@dataclass(frozen=True, slots=True)
class Network:
    """An undirected weighted network without loops or parallel ties.

    Arrays over items, shape (n,): ``entity`` (number in the resolution), ``records``, ``citations``, ``first_year``,
    ``last_year`` (0 where nothing is dated), ``mean_year`` (NaN there). Over ties, shape (m,), sorted by
    (source, target) with source < target: ``source``, ``target``, ``weight``, ``count`` (records shared),
    ``tie_first``, ``tie_last`` (0 where nothing is dated).
    """

    kind: str
    label: tuple[str, ...]
    entity: Ints
    records: Ints
    citations: Ints
    first_year: Ints
    last_year: Ints
    mean_year: Floats
    source: Ints
    target: Ints
    weight: Floats
    count: Ints
    tie_first: Ints
    tie_last: Ints

    def __len__(self) -> int:
        return len(self.label)

    @property
    def ties(self) -> int:
        return len(self.source)

    def degree(self) -> Ints:
        """Ties of each item, shape (n,)."""
        ends = np.concatenate([self.source, self.target])
        return np.bincount(ends, minlength=len(self)).astype(np.int32)

    def strength(self) -> Floats:
        """Summed weights of each item's ties, shape (n,) (Barrat et al. 2004)."""
        total: Floats = np.bincount(self.source, self.weight, len(self)).astype(np.float64)
        return total + np.bincount(self.target, self.weight, len(self))

    def kept(self, items: np.ndarray[tuple[int], np.dtype[np.bool_]]) -> Network:
        """The network among the items marked True, in the same order."""
        new = np.cumsum(items, dtype=np.int32) - 1
        ties = items[self.source] & items[self.target]
        return Network(
            kind=self.kind,
            label=tuple(text for text, keep in zip(self.label, items.tolist()) if keep),
            entity=self.entity[items],
            records=self.records[items],
            citations=self.citations[items],
            first_year=self.first_year[items],
            last_year=self.last_year[items],
            mean_year=self.mean_year[items],
            source=new[self.source[ties]],
            target=new[self.target[ties]],
            weight=self.weight[ties],
            count=self.count[ties],
            tie_first=self.tie_first[ties],
            tie_last=self.tie_last[ties],
        )


def components(n: int, source: Ints, target: Ints) -> Ints:
    """The connected component of each item, shape (n,), numbered from 0 by size, ties by lowest item.

    Lowest labels spread along the ties and jump to their own label's label until nothing changes
    (Shiloach & Vishkin 1982), so the number of rounds grows with the logarithm of a path's length.
    """
    label = np.arange(n)
    while True:
        low = np.minimum(label[source], label[target])
        new = label.copy()
        np.minimum.at(new, label[source], low)
        np.minimum.at(new, label[target], low)
        while not np.array_equal(jumped := new[new], new):
            new = jumped
        if np.array_equal(new, label):
            break
        label = new
    roots, of, sizes = np.unique(label, return_inverse=True, return_counts=True)
    rank = np.empty(len(roots), np.int32)
    rank[np.lexsort((roots, -sizes))] = np.arange(len(roots))
    return rank[of].astype(np.int32)
