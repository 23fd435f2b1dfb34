"""What an item's neighbourhood is like, compiled: triangles, cores and structural holes."""

from __future__ import annotations

import numpy as np
from numba import njit


@njit(cache=True, nogil=True)
def triangles(start, neighbour, weight, closed):  # type: ignore[no-untyped-def]
    """Adds to ``closed``, shape (n,), for every triangle an item is in the weights of its two ties in that (2 where each
    weighs 1).

    The ties of item i, whichever way and without loops, lead to ``neighbour[start[i]:start[i + 1]]``. Each triangle is met
    once, from its member of fewest ties (Chiba & Nishizeki 1985).
    """
    n = len(start) - 1
    begin = np.zeros(n + 1, np.int64)  # of each item the ties that lead to a member of more ties
    ahead = np.empty(len(neighbour) // 2, np.int32)
    heavy = np.empty(len(neighbour) // 2, np.float64)
    filled = 0
    for i in range(n):
        k = start[i + 1] - start[i]
        for a in range(start[i], start[i + 1]):
            j = neighbour[a]
            kj = start[j + 1] - start[j]
            if kj > k or (kj == k and j > i):
                ahead[filled], heavy[filled] = j, weight[a]
                filled += 1
        begin[i + 1] = filled
    at = np.full(n, -1, np.int64)  # where the tie from the item in hand to each stands
    for i in range(n):
        for a in range(begin[i], begin[i + 1]):
            at[ahead[a]] = a
        for a in range(begin[i], begin[i + 1]):
            j = ahead[a]
            for b in range(begin[j], begin[j + 1]):
                c = at[ahead[b]]
                if c >= 0:
                    closed[i] += heavy[a] + heavy[c]
                    closed[j] += heavy[a] + heavy[b]
                    closed[ahead[b]] += heavy[c] + heavy[b]
        for a in range(begin[i], begin[i + 1]):
            at[ahead[a]] = -1


@njit(cache=True, nogil=True)
def cores(start, neighbour, core):  # type: ignore[no-untyped-def]
    """Sets ``core`` to each item's core number, taking the least tied item out again and again (Batagelj & Zaveršnik
    2003)."""
    n = len(start) - 1
    degree = np.empty(n, np.int64)
    most = 0
    for v in range(n):
        degree[v] = start[v + 1] - start[v]
        most = max(most, degree[v])
    first = np.zeros(most + 2, np.int64)
    for v in range(n):
        first[degree[v] + 1] += 1
    for d in range(1, most + 2):
        first[d] += first[d - 1]
    order, place, filled = np.empty(n, np.int64), np.empty(n, np.int64), first.copy()
    for v in range(n):
        place[v] = filled[degree[v]]
        order[place[v]] = v
        filled[degree[v]] += 1
    for k in range(n):
        v = order[k]
        core[v] = degree[v]
        for a in range(start[v], start[v + 1]):
            u = neighbour[a]
            if degree[u] > degree[v]:
                w = order[first[degree[u]]]
                if u != w:
                    order[place[u]], order[place[w]] = w, u
                    place[u], place[w] = place[w], place[u]
                first[degree[u]] += 1
                degree[u] -= 1


@njit(cache=True, nogil=True)
def holes(items, start, neighbour, share, scaled, constraint, redundant):  # type: ignore[no-untyped-def]
    """Sets ``constraint`` and ``redundant`` of some items: Σ_j (p_ij + Σ_q p_iq p_qj)² and Σ_j Σ_q p_iq m_jq.

    ``share`` is p of each tie, ``scaled`` m: the same tie over the heaviest of the item it starts from.
    """
    n = len(start) - 1
    near = np.full(n, -1, np.int64)
    indirect = np.zeros(n, np.float64)
    for i in items:
        for a in range(start[i], start[i + 1]):
            near[neighbour[a]] = a
        twice = 0.0
        for a in range(start[i], start[i + 1]):
            q = neighbour[a]
            for b in range(start[q], start[q + 1]):
                j = neighbour[b]
                if near[j] >= 0:
                    indirect[j] += share[a] * share[b]
                    twice += share[near[j]] * scaled[b]
        whole = 0.0
        for a in range(start[i], start[i + 1]):
            part = share[a] + indirect[neighbour[a]]
            whole += part * part
        constraint[i], redundant[i] = whole, twice
        for a in range(start[i], start[i + 1]):
            near[neighbour[a]] = -1
            indirect[neighbour[a]] = 0.0
