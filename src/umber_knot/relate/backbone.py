"""The ties that stand out: an item's strongest, and those heavier than its strength shared out at random would make them."""

from __future__ import annotations

import numpy as np

from umber_knot.corpus.model import Floats
from umber_knot.network.model import Direction, Network
from umber_knot.relate.things import Bools


def strongest(network: Network, k: int) -> Bools:
    """Which ties are among the ``k`` heaviest of an item at either end; ties as heavy as the k-th stay, too."""
    kept = np.zeros(network.ties, np.bool_)
    ends = [network.source, network.target] if network.directed else [np.r_[network.source, network.target]]
    for end in ends:
        tie = np.arange(len(end)) % max(network.ties, 1)
        weight = network.weight[tie]
        order = np.lexsort((-weight, end))
        rank = np.arange(len(end)) - np.searchsorted(end[order], end[order])
        least = np.full(len(network), -np.inf)
        last = order[rank == k - 1]
        least[end[last]] = weight[last]
        kept[tie[weight >= least[end]]] = True
    return kept


def disparity(network: Network) -> Floats:
    """How likely each tie is at least as heavy by chance, the less likely of both ends: (1 − w/s)^(k − 1) for an item of
    k ties and strength s (Serrano, Boguñá & Vespignani 2009). Shape (ties,); 1 where an item has no other tie.

    With directions, ties going out are compared at the source and ties coming in at the target.
    """
    chance = np.ones(network.ties)
    ways: tuple[Direction, Direction] = ("out", "in") if network.directed else ("both", "both")
    for end, direction in zip((network.source, network.target), ways):
        degree, strength = network.degree(direction)[end], network.strength(direction)[end]
        share = np.divide(network.weight, strength, out=np.zeros(network.ties), where=strength > 0)
        chance = np.minimum(chance, np.where(degree > 1, (1 - share) ** (degree - 1), 1.0))
    return chance
