"""Ties rewired by swapping their ends, compiled (Maslov & Sneppen 2002)."""

from __future__ import annotations

import numpy as np
from numba import njit

_SPREAD = np.int64(-7046029254386353131)  # the golden ratio in 64 bits: keys in a row do not fall in a row


@njit(cache=True, nogil=True)
def _slot(table, key):  # type: ignore[no-untyped-def]
    """Where a key stands in an open table, or would."""
    mask = len(table) - 1
    at = ((key * _SPREAD) >> 20) & mask
    while table[at] != -1 and table[at] != key:
        at = (at + 1) & mask
    return at


@njit(cache=True, nogil=True)
def _drop(table, key):  # type: ignore[no-untyped-def]
    """Take a key out, and move up what was put behind it."""
    mask = len(table) - 1
    at = _slot(table, key)
    table[at] = -1
    nxt = (at + 1) & mask
    while table[nxt] != -1:
        moved = table[nxt]
        table[nxt] = -1
        table[_slot(table, moved)] = moved
        nxt = (nxt + 1) & mask


@njit(cache=True, nogil=True)
def swap(source, target, n, directed, tries, seed, table):  # type: ignore[no-untyped-def]
    """Swaps the targets of two ties chosen at random, ``tries`` times, where that makes neither a loop nor a tie that is
    there; in place. ``table``, of a power of two and all −1, is room for the ties. How many swaps were made."""
    np.random.seed(seed)
    m, made = len(source), 0
    for k in range(m):
        a, b = source[k], target[k]
        if not directed and a > b:
            a, b = b, a
        key = np.int64(a) * n + b
        table[_slot(table, key)] = key
    for _ in range(tries):
        i, j = np.random.randint(m), np.random.randint(m)
        a, b, c, d = source[i], target[i], source[j], target[j]
        if not directed and np.random.random() < 0.5:
            c, d = d, c
        if a in (c, d) or b in (c, d):
            continue
        w, x, y, z = (a, d, c, b)
        if not directed:
            if w > x:
                w, x = x, w
            if y > z:
                y, z = z, y
        one, other = np.int64(w) * n + x, np.int64(y) * n + z
        if table[_slot(table, one)] == one or table[_slot(table, other)] == other:
            continue
        p, q, r, s = (a, b, c, d)
        if not directed:
            if p > q:
                p, q = q, p
            if r > s:
                r, s = s, r
        _drop(table, np.int64(p) * n + q)
        _drop(table, np.int64(r) * n + s)
        table[_slot(table, one)] = one
        table[_slot(table, other)] = other
        source[i], target[i], source[j], target[j] = w, x, y, z
        made += 1
    return made
