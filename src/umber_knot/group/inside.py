"""How far a grouping holds its items."""

from __future__ import annotations

import numpy as np

from umber_knot.corpus.model import Floats, Ints
from umber_knot.network.model import Network


def share_inside(network: Network, topic: Ints) -> Floats:
    """The share of each item's strength that lies on ties within its topic, s_i(in) / s_i, shape (n,); NaN without ties.

    One minus an item's mixing parameter (Lancichinetti, Fortunato & Radicchi 2008).
    """
    within = topic[network.source] == topic[network.target]
    ends = np.r_[network.source[within], network.target[within]]
    inside = np.bincount(ends, np.r_[network.weight[within], network.weight[within]], len(network))
    strength = network.strength()
    return np.divide(inside, strength, out=np.full(len(network), np.nan), where=strength > 0)


def unsure(confidence: Floats, below: float = 0.8) -> Ints:
    """The items that fewer than this share of runs keep with their topic, the least sure first."""
    found = np.flatnonzero(confidence < below)
    return found[np.argsort(confidence[found], kind="stable")]
