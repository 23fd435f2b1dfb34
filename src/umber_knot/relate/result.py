"""What relating gives: the counted network, and what the sentence leaves of it."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from umber_knot.corpus.model import Decision, Floats, Ints
from umber_knot.network.model import Network
from umber_knot.relate.things import Things

#: (what is left out, how many there were before and after, of what).
Step = tuple[str, int, int, str]


@dataclass(frozen=True, slots=True)
class Counted:
    """The counted network before items are left out: every thing, every tie.

    ``record`` and ``item`` are the incidences that pass the record filters, each pair once, sorted by record: an item's
    records are those that name it, or for co-citation those that cite it. ``diagonal`` is c_ii, what an item could share
    with itself: its records, its references for coupling. ``weight`` is a tie's weight under the chosen counting,
    ``strength`` its sum per item.
    """

    things: Things
    directed: bool
    record: Ints
    item: Ints
    size: Ints  # items in each incidence's record, shape like record
    records: Ints
    diagonal: Ints
    source: Ints
    target: Ints
    count: Ints
    weight: Floats
    tie_first: Ints  # days from 1970-01-01
    tie_last: Ints
    strength: Floats
    steps: tuple[Step, ...]
    relations: tuple[str, ...] = ("",)
    relation: Ints = field(default_factory=lambda: np.zeros(0, np.int16))  # of each tie; empty where there is one


@dataclass(frozen=True, slots=True)
class Filtered:
    """The network, its parts, and what the sentence left out on the way to it.

    ``curve``: for at least 1, 2, 3 … records, how many items and ties would remain; two arrays of equal length.
    """

    network: Network
    part: Ints  # the component of each item, from 0 by size
    steps: tuple[Step, ...]
    curve_items: Ints
    curve_ties: Ints
    weights: Floats  # at least so heavy, from the lightest up: how many items would be tied, and how many ties remain
    weight_items: Ints
    weight_ties: Ints
    undated: int
    unapplied: tuple[tuple[Decision, str], ...] = ()  # changes by hand that could not be carried out, and why
    more: tuple[str, int] = (
        "",
        0,
    )  # where there are no ties: the word of the sentence that leaves most out, and how many
    unmatched: tuple[str, ...] = ()  # rows of joined tables that match no item


@dataclass(frozen=True, slots=True)
class Related:
    """The network with how it came about."""

    counted: Counted
    filtered: Filtered

    @property
    def network(self) -> Network:
        return self.filtered.network

    def shown(self) -> Ints:
        """The number of every item among all things, shape (items,)."""
        network, start = self.network, np.array(self.counted.things.start, np.int32)
        return network.entity + (start[network.kind_code] if len(network.kind_code) else start[0])
