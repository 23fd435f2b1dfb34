"""The items of a network in order, and below the line those that its filters left out."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from umber_knot.corpus.model import Floats, Ints
from umber_knot.network.model import Network
from umber_knot.relate.result import Related

#: Left-out items that are listed.
BELOW = 400


@dataclass(frozen=True, slots=True)
class Listing:
    """One row an item of the network, in the network's order, then one for each item below the line; ``thing`` is its
    number among all.

    ``ties``, ``strength`` and ``part`` (from 1, the largest first) are NaN below it. ``order`` puts the rows in the
    order they are read in, most records first; ``line`` is how many stand above, ``under`` how many were left out.
    """

    label: list[str]
    thing: Ints
    records: Ints
    ties: Floats
    strength: Floats
    part: Floats
    order: Ints
    line: int
    under: int


def listed(related: Related, most: int = BELOW) -> Listing:
    """The items of a network and up to ``most`` of those its filters left out; what is set aside is in neither."""
    network, counted, n = related.network, related.counted, len(related.network)
    kept = np.zeros(len(counted.records), bool)
    shown = related.shown()
    kept[shown] = True
    left = ~kept & (counted.records > 0) & ~counted.things.aside
    below = np.flatnonzero(left)
    below = below[np.lexsort((below, -counted.records[below]))][:most]
    degree, blank = network.degree(), np.full(len(below), np.nan)
    return Listing(
        [*network.label, *(counted.things.label[e] for e in below.tolist())],
        np.r_[shown, below],
        np.r_[network.records, counted.records[below]],
        np.r_[degree, blank],
        np.r_[network.strength(), blank],
        np.r_[related.filtered.part + 1.0, blank],
        np.r_[np.lexsort((np.arange(n), -degree, -network.records)), np.arange(n, n + len(below))],
        n,
        int(left.sum()),
    )


def emptied(related: Related) -> str:
    """What left a network without items or ties: the first step after which nothing was left, or that there was nothing;
    empty where there are ties."""
    if related.network.ties:
        return ""
    for what, before, after, unit in related.filtered.steps:
        if before and not after:
            return f"“{what}” left none of {before:,} {unit}"
    if not len(related.counted.source):
        return "nothing in the records ties two of them" if len(related.network) else "no record names them"
    return f"none of the {len(related.counted.source):,} ties is between two that stay"


def way_back(related: Related) -> str:
    """What would give ties back, in words; empty where nothing is known to."""
    name, ties = related.filtered.more
    return f"without {name.replace('_', ' ')} there would be {ties:,} tie{'s' * (ties != 1)}" if name else ""


def strongest_tie(network: Network, item: int | None = None) -> int:
    """The tie of most shared records, then of most weight: of an item or of the whole; −1 where there is none."""
    ties = np.arange(network.ties)
    if item is not None:
        ties = np.flatnonzero((network.source == item) | (network.target == item))
    return int(ties[np.lexsort((-network.weight[ties], -network.count[ties]))[0]]) if len(ties) else -1
