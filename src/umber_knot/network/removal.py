"""Removal trials: items are taken out one by one, and what holds is watched (Albert, Jeong & Barabási 2000).

Nothing of the study is altered. Shares are of the items there were at first; diameter and mean path are of the largest
component, over pairs that reach one another.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from umber_knot.corpus.model import Floats, Ints
from umber_knot.network.model import Network

Progress = Callable[[int, int], None]
CHUNK = 50  # items taken out between two looks at whether the trial is still wanted


def quiet(done: int, of: int) -> None:
    """Progress that nobody asked for."""


@dataclass(frozen=True, slots=True)
class Trial:
    """What held. ``order``, shape (k,), are the items in the order they went; the others have shape (k + 1,), before any went
    and after each: the share of the largest component, components, mean degree, diameter and mean path (NaN where no
    two items are tied)."""

    order: Ints
    largest_share: Floats
    components: Floats
    mean_degree: Floats
    diameter: Floats
    mean_path: Floats

    def removed(self) -> Floats:
        """The share of items that are gone at each row."""
        every = len(self.order)
        return np.arange(every + 1) / max(every, 1)


#: What a trial watches.
WATCHED = ("largest_share", "components", "mean_degree", "diameter", "mean_path")


class _Laid:
    """A network's ties by item, whichever way and by where they come from; without loops and parallel ties."""

    def __init__(self, network: Network) -> None:
        simple = network.simple("kept")
        both, back = simple.csr("both"), simple.csr("in" if simple.directed else "both")
        if simple.directed:
            out = simple.csr("out")
            both = (out + out.T).tocsr()
        self.both: tuple[Any, Any] = both.indptr.astype(np.int64), both.indices.astype(np.int32)
        self.back: tuple[Any, Any] = back.indptr.astype(np.int64), back.indices.astype(np.int32)
        self.n, self.directed = len(network), network.directed

    def alive(self) -> NDArray[np.bool_]:
        return np.ones(self.n, np.bool_)

    def told(self, order: Ints, found: NDArray[np.float64]) -> Trial:
        largest, count, ties, far, total, pairs = found.T
        left = self.n - np.arange(len(order) + 1)
        with np.errstate(invalid="ignore", divide="ignore"):
            degree = np.where(left > 0, ties / left, np.nan)  # each undirected tie is counted from both ends
            path = np.where(pairs > 0, total / pairs, np.nan)
        diameter = np.where(pairs > 0, far, np.nan)
        return Trial(order.astype(np.int32), largest / max(self.n, 1), count, degree, diameter, path)


def in_order(network: Network, order: Sequence[int] | Ints, progress: Progress = quiet) -> Trial:
    """The trial in which items go in a given order; those it does not name stay."""
    laid, going = _Laid(network), np.asarray(order, np.int32)
    found, alive = np.zeros((len(going) + 1, 6)), laid.alive()
    _carry_out(laid, going, found, alive, progress)
    return laid.told(going, found)


def _carry_out(
    laid: _Laid, going: Ints, found: NDArray[np.float64], alive: NDArray[np.bool_], progress: Progress
) -> None:
    from umber_knot.network._reached import what_holds  # here, because the compiler's runtime takes long to load

    kernel: Any = what_holds
    for first in range(0, max(len(going), 1), CHUNK):
        kernel(going[first : first + CHUNK], first, *laid.both, *laid.back, alive, found)
        progress(min(first + CHUNK, len(going)), len(going))


def at_random(network: Network, seeds: Sequence[int], progress: Progress = quiet) -> list[Trial]:
    """One trial a seed, in which all items go in random order; both cores take trials by turns."""
    laid = _Laid(network)
    orders = [np.random.default_rng(seed).permutation(laid.n).astype(np.int32) for seed in seeds]
    tables = [np.zeros((laid.n + 1, 6)) for _ in seeds]
    done = 0
    with ThreadPoolExecutor(2) as pool:
        for k in range(0, len(seeds), 2):
            pair = range(k, min(k + 2, len(seeds)))
            list(pool.map(lambda j: _carry_out(laid, orders[j], tables[j], laid.alive(), quiet), pair))
            done += len(pair)
            progress(done, len(seeds))
    return [laid.told(order, table) for order, table in zip(orders, tables)]


def best_first(
    network: Network, value: Callable[[Network], Floats], recompute: bool, progress: Progress = quiet
) -> Trial:
    """The trial in which the item of greatest value goes first, of equals the one that stands first; where it is
    recomputed the values are those of what is left after each step."""
    n = len(network)
    if not recompute:
        worth = np.nan_to_num(value(network), nan=-np.inf)
        return in_order(network, np.lexsort((np.arange(n), -worth)).astype(np.int32), progress)
    left, order = np.arange(n), np.zeros(n, np.int32)
    now = network
    for k in range(n):
        worth = np.nan_to_num(value(now), nan=-np.inf)
        best = int(np.argmax(worth))
        order[k] = left[best]
        keep = np.ones(len(now), np.bool_)
        keep[best] = False
        left, now = np.delete(left, best), now.kept(keep)
        progress(k + 1, n)
    return in_order(network, order)


@dataclass(frozen=True, slots=True)
class Band:
    """Trials of many seeds: mean and standard deviation of one thing watched at each row, shape (n + 1,)."""

    mean: Floats
    deviation: Floats


def band(trials: Sequence[Trial], watched: str) -> Band:
    """Mean and deviation over trials of the same network, of those that have a value."""
    every = np.array([getattr(trial, watched) for trial in trials])
    there = ~np.isnan(every)
    many = np.maximum(there.sum(axis=0), 1)
    mean = np.where(there, every, 0).sum(axis=0) / many
    spread = np.sqrt((np.where(there, every - mean, 0) ** 2).sum(axis=0) / many)
    none = ~there.any(axis=0)
    mean[none], spread[none] = np.nan, np.nan
    return Band(mean, spread)
