"""Pairs of items summed into ties: within what they share, or across from one to the other."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from umber_knot.corpus.model import Floats, Ints
from umber_knot.errors import UserError

Places = NDArray[np.int64]
_LEAST, _MOST = np.iinfo(np.int32).min, np.iinfo(np.int32).max
UNDATED = np.int32(_LEAST)


#: Ties that are counted at most, and pairs that are gone through to find them.
MOST_TIES, MOST_PAIRS, MOST_ACROSS = 40_000_000, 3_000_000_000, 80_000_000


class Summed(NamedTuple):
    """Ties, each pair once, sorted; arrays of shape (ties,). Days are from 1970-01-01, the least number undated."""

    source: Ints
    target: Ints
    times: Ints
    weight: Floats
    first: Ints
    last: Ints


def within(hub: Ints, item: Ints, share: Floats, begin: Ints, end: Ints, n: int) -> Summed:
    """Items below ``n`` tied by the hubs that hold both.

    ``hub`` and ``item``, shape (incidences,), are sorted by hub, then item; ``share``, ``begin`` and ``end`` are the hub's,
    given at each of its incidences.
    """
    from umber_knot.relate.rows import rows_of_ties  # here, because the compiler's runtime takes long to load

    starts = np.flatnonzero(np.r_[True, hub[1:] != hub[:-1]]) if len(hub) else np.zeros(0, np.int64)
    until = np.repeat(np.r_[starts[1:], len(hub)][: len(starts)], np.diff(np.r_[starts, len(hub)]))
    order = np.argsort(item, kind="stable")
    row = np.searchsorted(item[order], np.arange(n + 1))
    work = np.cumsum((until - np.arange(len(hub)))[order])
    middle = int(np.searchsorted(work, work[-1] / 2)) if len(work) else 0
    half = int(np.searchsorted(row, middle))
    own = (item.astype(np.int32), until, order, row, share, late(begin).astype(np.int32), end.astype(np.int32))
    given = tuple(map(np.ascontiguousarray, own))
    if len(work) and work[-1] > MOST_PAIRS:
        raise _too_many(f"{work[-1]:,} pairs would have to be counted")
    kernel: Any = rows_of_ties
    with ThreadPoolExecutor(2) as pool:  # the kernel holds no interpreter lock
        found = [*pool.map(lambda rows: kernel(*given, *rows, MOST_TIES), ((0, half), (half, n)))]
    if any(part[-1] for part in found) or sum(len(part[0]) for part in found) > MOST_TIES:
        raise _too_many(f"there are more than {MOST_TIES:,} ties")
    source, target, times, weight, first, last = map(np.concatenate, zip(*(part[:-1] for part in found)))
    return Summed(source, target, times, weight, dated(first), last)


def _too_many(what: str) -> UserError:
    return UserError(
        f"{what}, which memory does not hold",
        place="relate",
        cure="Leave out records with many items, or keep fewer records (years, a filter)",
    )


def across(left: Ints, right: Ints) -> tuple[Places, Places]:
    """Places of all pairs of a left and a right incidence of one record: both shape (pairs,).

    ``left`` and ``right`` are the records of two lists of incidences; the right one is sorted.

    >>> [part.tolist() for part in across(np.array([0, 1]), np.array([1, 1, 2]))]
    [[1, 1], [0, 1]]
    """
    low, high = np.searchsorted(right, left, "left"), np.searchsorted(right, left, "right")
    many = high - low
    if many.sum() > MOST_ACROSS:
        raise _too_many(f"{many.sum():,} pairs would have to be counted")
    one = np.repeat(np.arange(len(left)), many)
    offset = np.arange(len(one)) - np.repeat(np.cumsum(many) - many, many)
    return one, low[one] + offset


def summed(source: Ints, target: Ints, share: Floats, begin: Ints, end: Ints, n: int) -> Summed:
    """Each pair of items below ``n`` once, with how often it came, its shares added and its first and last day."""
    if not len(source):
        none = np.zeros(0, np.int32)
        return Summed(none, none, none, np.zeros(0), none, none)
    key = source.astype(np.int64) * n + target
    order = np.argsort(key, kind="stable")
    key = key[order]
    starts = np.flatnonzero(np.r_[True, key[1:] != key[:-1]])
    return Summed(
        (key[starts] // n).astype(np.int32),
        (key[starts] % n).astype(np.int32),
        np.diff(np.r_[starts, len(key)]).astype(np.int32),
        np.add.reduceat(share[order], starts),
        dated(np.minimum.reduceat(late(begin)[order], starts)),
        np.maximum.reduceat(end[order], starts).astype(np.int32),
    )


def late(day: Ints) -> Ints:
    """Days in which no date comes after every date, so that the least of several is a date."""
    return np.where(day == _LEAST, _MOST, day)


def dated(day: Ints) -> Ints:
    """Days from ``late`` ones."""
    return np.where(day == _MOST, _LEAST, day).astype(np.int32)
