"""How far all items are from one another, and what holds when items go, compiled: 64 sources at a time in one word."""

from __future__ import annotations

import numpy as np
from numba import njit

_M1 = np.uint64(0x5555555555555555)
_M2 = np.uint64(0x3333333333333333)
_M4 = np.uint64(0x0F0F0F0F0F0F0F0F)
_H = np.uint64(0x0101010101010101)
_ONE, _TWO, _FOUR, _FIFTY_SIX = np.uint64(1), np.uint64(2), np.uint64(4), np.uint64(56)


@njit(cache=True, nogil=True)
def _bits(x):  # type: ignore[no-untyped-def]
    """How many bits of a word are set."""
    x = x - ((x >> _ONE) & _M1)
    x = (x & _M2) + ((x >> _TWO) & _M2)
    x = (x + (x >> _FOUR)) & _M4
    return np.int64((x * _H) >> _FIFTY_SIX)


@njit(cache=True, nogil=True)
def distances(items, back_start, back, n):  # type: ignore[no-untyped-def]
    """(Σ of all distances among some items, how many pairs reach one another, the greatest distance).

    ``back`` are the items that ties come from, those of item i between ``back_start[i]`` and ``back_start[i + 1]``, of ``n``
    in all; only ``items`` are gone through.
    """
    seen = np.zeros(n, np.uint64)
    front = np.zeros(n, np.uint64)
    new = np.zeros(n, np.uint64)
    total, pairs, far = 0, 0, 0
    for first in range(0, len(items), 64):
        for v in items:
            seen[v] = front[v] = 0
        for k in range(first, min(first + 64, len(items))):
            bit = _ONE << np.uint64(k - first)
            seen[items[k]] |= bit
            front[items[k]] |= bit
        step = 0
        while True:
            step += 1
            found = 0
            for v in items:
                come = np.uint64(0)
                for k in range(back_start[v], back_start[v + 1]):
                    come |= front[back[k]]
                come &= ~seen[v]
                new[v] = come
                if come:
                    found += _bits(come)
            if not found:
                break
            total += found * step
            pairs += found
            far = max(far, step)
            for v in items:
                seen[v] |= new[v]
                front[v] = new[v]
    return total, pairs, far


@njit(cache=True, nogil=True)
def parts(start, neighbour, alive, label, queue):  # type: ignore[no-untyped-def]
    """(how many components, the size of the largest, its number) of what is alive; ``label`` becomes each item's."""
    label[:] = -1
    count, largest, best = 0, 0, -1
    for v in range(len(alive)):
        if not alive[v] or label[v] >= 0:
            continue
        label[v] = count
        queue[0] = v
        head, tail = 0, 1
        while head < tail:
            u = queue[head]
            head += 1
            for k in range(start[u], start[u + 1]):
                w = neighbour[k]
                if alive[w] and label[w] < 0:
                    label[w] = count
                    queue[tail] = w
                    tail += 1
        if tail > largest:
            largest, best = tail, count
        count += 1
    return count, largest, best


@njit(cache=True, nogil=True)
def what_holds(order, first, start, neighbour, back_start, back, alive, found):  # type: ignore[no-untyped-def]
    """Takes the items of ``order`` out one by one and tells, from row ``first`` of ``found`` on, what holds after each:
    (size of the largest component, components, ties left, greatest distance, Σ of distances, pairs) of the largest.

    ``start`` and ``neighbour`` are ties whichever way, ``back_start`` and ``back`` where they come from.
    """
    n = len(alive)
    label, queue = np.empty(n, np.int32), np.empty(n, np.int32)
    sources = np.empty(n, np.int32)
    for row in range(len(order) + 1):
        if row:
            alive[order[row - 1]] = False
        elif first:
            continue
        count, largest, best = parts(start, neighbour, alive, label, queue)
        ties, held = 0, 0
        for v in range(n):
            if alive[v]:
                for k in range(back_start[v], back_start[v + 1]):
                    ties += alive[back[k]]
                if label[v] == best:
                    sources[held] = v
                    held += 1
        total, pairs, far = distances(sources[:held], back_start, back, n)
        at = first + row
        found[at, 0], found[at, 1], found[at, 2] = largest, count, ties
        found[at, 3], found[at, 4], found[at, 5] = far, total, pairs
