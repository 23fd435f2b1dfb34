"""Ties among items that share hubs, row by row: the upper half of the product AᵀA (Gustavson 1978), compiled by numba."""

from __future__ import annotations

import numpy as np
from numba import njit


@njit(cache=True, nogil=True)
def rows_of_ties(item, end, order, row, share, begin, last, low, high, most):  # type: ignore[no-untyped-def]
    """(source, target, times, weight, first, last) of every pair of items that share a hub, each once, sorted; of the
    pairs whose lower item is from ``low`` to below ``high``. Last comes whether there are
    more than ``most``: then it stops, and gives none.

    ``item``, shape (incidences,), is sorted by hub, then item; ``end`` is where the hub of an incidence ends. ``order``
    are the incidences by item, those of item i between ``row[i]`` and ``row[i + 1]``. A pair takes ``share``, ``begin`` and
    ``last`` of its hub, one value an incidence, the least of ``begin`` and the greatest of ``last``.
    """
    n = len(row) - 1
    mark = np.full(n, -1, np.int32)
    touched = np.empty(n, np.int32)
    many = np.empty(n, np.int32)
    added = np.empty(n, np.float64)
    early = np.empty(n, np.int32)
    late = np.empty(n, np.int32)
    room = max(len(item) * 2, 1024)
    source, target, times = np.empty(room, np.int32), np.empty(room, np.int32), np.empty(room, np.int32)
    weight, first, final = np.empty(room, np.float64), np.empty(room, np.int32), np.empty(room, np.int32)
    ties, many_more = 0, False
    for i in range(low, high):
        found = 0
        for q in range(row[i], row[i + 1]):
            p = order[q]
            for r in range(p + 1, end[p]):
                j = item[r]
                if mark[j] != i:
                    mark[j] = i
                    touched[found] = j
                    found += 1
                    many[j] = 1
                    added[j] = share[p]
                    early[j] = begin[p]
                    late[j] = last[p]
                else:
                    many[j] += 1
                    added[j] += share[p]
                    early[j] = min(early[j], begin[p])
                    late[j] = max(late[j], last[p])
        if ties + found > most:
            many_more = True
            break
        if ties + found > room:
            room = max(room + room // 2, ties + found)
            source, target, times = _longer(source, room), _longer(target, room), _longer(times, room)
            weight, first, final = _longer(weight, room), _longer(first, room), _longer(final, room)
        touched[:found].sort()
        for k in range(found):
            j = touched[k]
            source[ties] = i
            target[ties] = j
            times[ties] = many[j]
            weight[ties] = added[j]
            first[ties] = early[j]
            final[ties] = late[j]
            ties += 1
    if many_more:
        return source[:0], source[:0], source[:0], weight[:0], first[:0], final[:0], True
    return source[:ties], target[:ties], times[:ties], weight[:ties], first[:ties], final[:ties], False


@njit(cache=True, nogil=True)
def _longer(values, room):  # type: ignore[no-untyped-def]
    more = np.empty(room, values.dtype)
    more[: len(values)] = values
    return more
