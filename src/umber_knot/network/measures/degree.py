"""How many ties an item has, and how heavy they are."""

from __future__ import annotations

from umber_knot.corpus.model import Floats
from umber_knot.network.model import Direction, Network


def degree(network: Network, direction: Direction = "both") -> Floats:
    """Ties of each item, shape (n,): out, in, or in total; a loop counts in and out, parallel ties each (Freeman 1979)."""
    return network.degree(direction).astype(float)


def strength(network: Network, direction: Direction = "both") -> Floats:
    """Summed weights of each item's ties, shape (n,) (Barrat et al. 2004)."""
    return network.strength(direction)
