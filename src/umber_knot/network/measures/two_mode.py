"""Measures of two-mode networks, each side against the most that one of its own could have (Borgatti & Everett 1997)."""

from __future__ import annotations

import numpy as np

from umber_knot.corpus.model import Floats, Ints
from umber_knot.network.measures.paths import Paths
from umber_knot.network.model import Network


def sides(network: Network) -> tuple[Ints, Ints]:
    """(own, other): how many items stand on each item's own side and on the other; shape (n,)."""
    size = np.bincount(network.kind_code, minlength=2)
    own = size[network.kind_code]
    return own, len(network) - own


def degree_two_mode(network: Network) -> Floats:
    """Ties over the items of the other side; parallel ties are one."""
    _, other = sides(network)
    return network.simple("dropped").degree() / np.maximum(other, 1)


def closeness_two_mode(network: Network, paths: Paths) -> Floats:
    """(n₂ + 2(n₁ − 1))/Σd, n₁ items on the own side, n₂ on the other; times the share of all others that is reached."""
    own, other = sides(network)
    far = np.where(paths.total > 0, paths.total, np.nan)
    found = (other + 2 * (own - 1)) / far * paths.reached / max(len(network) - 1, 1)
    return np.where(paths.total == 0, 0.0, found)


def betweenness_two_mode(network: Network, paths: Paths) -> Floats:
    """Betweenness over the most that an item of its side could have, among n₁ of its own and n₂ of the other."""
    own, other = (side.astype(np.float64) for side in sides(network))
    whole, left = np.divmod(own - 1, np.maximum(other, 1))
    most = (
        other**2 * (whole + 1) ** 2 + other * (whole + 1) * (2 * left - whole - 1) - left * (2 * whole - left + 3)
    ) / 2
    return np.divide(paths.through, most, out=np.zeros(len(network)), where=most > 0)
