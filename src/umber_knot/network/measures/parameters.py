"""What the recipe says of measuring."""

from __future__ import annotations

from dataclasses import dataclass

from umber_knot.network.yardsticks import MODELS
from umber_knot.parameters import number, one_of

#: Orders in which items are taken out: at random, or the best first by a measure, found anew after each step or not.
ORDERS = ("random", "degree", "degree_recomputed", "betweenness", "betweenness_recomputed")


@dataclass(frozen=True, slots=True)
class Measures:
    """``of_items`` are columns of ``items.csv`` (see the registry), ``of_network`` figures of ``summary.json``, empty for none;
    ``yardstick`` is the model of ``runs`` random networks beside the network, ``removal`` the orders of removal trials, at
    random from so many seeds too; all from ``seed`` on. ``weights`` say what a weight is on a path: closeness, whose
    length is 1/w, or the distance itself."""

    of_items: tuple[str, ...] = ()
    of_network: tuple[str, ...] = ()
    weights: str = one_of("closeness", "closeness", "distance")
    yardstick: str = one_of("", "", *MODELS)
    runs: int = number(20, 1, 1000)
    removal: tuple[str, ...] = one_of((), *ORDERS)
    seed: int = number(1, 0, 2**31 - 1001)
