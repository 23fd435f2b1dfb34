"""Shortest paths from some sources, compiled: what passes through each item, and how far everything is.

One pass from a source gives what betweenness, stress, closeness, harmonic closeness and reach need (Brandes 2001, 2008).
"""

from __future__ import annotations

import numpy as np
from numba import njit

EPSILON = 1e-10  # paths whose lengths differ by less, relatively, are of one length


@njit(cache=True, nogil=True)
def steps_from(sources, start, neighbour, through, stress, total, harmonic, reach, reached):  # type: ignore[no-untyped-def]
    """Adds to ``through`` and ``stress``, shape (n,), what the shortest paths from each source give; sets ``total`` (Σ d),
    ``harmonic`` (Σ 1/d), ``reach`` (the farthest) and ``reached`` of each source.

    Ties of item i lead to ``neighbour[start[i]:start[i + 1]]``; every tie is one step.
    """
    n = len(start) - 1
    distance = np.full(n, -1, np.int32)
    paths = np.zeros(n, np.float64)
    carried = np.zeros(n, np.float64)
    onward = np.zeros(n, np.float64)
    order = np.empty(n, np.int32)
    for s in sources:
        order[0] = s
        distance[s], paths[s] = 0, 1.0
        head, tail = 0, 1
        while head < tail:
            v = order[head]
            head += 1
            far = distance[v] + 1
            for k in range(start[v], start[v + 1]):
                w = neighbour[k]
                if distance[w] < 0:
                    distance[w] = far
                    order[tail] = w
                    tail += 1
                if distance[w] == far:
                    paths[w] += paths[v]
        far_sum, near_sum = 0.0, 0.0
        for k in range(1, tail):
            far_sum += distance[order[k]]
            near_sum += 1.0 / distance[order[k]]
        total[s], harmonic[s], reach[s], reached[s] = far_sum, near_sum, distance[order[tail - 1]], tail - 1
        for k in range(tail - 1, 0, -1):
            v = order[k]
            far = distance[v] + 1
            share, on = 0.0, 0.0
            for m in range(start[v], start[v + 1]):
                w = neighbour[m]
                if distance[w] == far:
                    share += (1.0 + carried[w]) / paths[w]
                    on += 1.0 + onward[w]
            carried[v] = share * paths[v]
            onward[v] = on
            through[v] += carried[v]
            stress[v] += on * paths[v]
        for k in range(tail):
            v = order[k]
            distance[v], paths[v], carried[v], onward[v] = -1, 0.0, 0.0, 0.0


@njit(cache=True, nogil=True)
def near_from(sources, start, neighbour, total, harmonic, reach, reached):  # type: ignore[no-untyped-def]
    """What ``steps_from`` says of how far everything is, without what passes through."""
    n = len(start) - 1
    distance = np.full(n, -1, np.int32)
    order = np.empty(n, np.int32)
    for s in sources:
        order[0], distance[s] = s, 0
        head, tail = 0, 1
        far_sum, near_sum = 0.0, 0.0
        while head < tail:
            v = order[head]
            head += 1
            far = distance[v] + 1
            for k in range(start[v], start[v + 1]):
                w = neighbour[k]
                if distance[w] < 0:
                    distance[w] = far
                    far_sum += far
                    near_sum += 1.0 / far
                    order[tail] = w
                    tail += 1
        total[s], harmonic[s], reach[s], reached[s] = far_sum, near_sum, distance[order[tail - 1]], tail - 1
        for k in range(tail):
            distance[order[k]] = -1


@njit(cache=True, nogil=True)
def lengths_from(sources, start, neighbour, length, through, stress, total, harmonic, reach, reached):  # type: ignore[no-untyped-def]
    """As ``steps_from`` where a tie has a ``length`` above 0 (Dijkstra 1959, with a binary heap)."""
    n = len(start) - 1
    distance = np.full(n, np.inf, np.float64)
    settled = np.zeros(n, np.bool_)
    paths = np.zeros(n, np.float64)
    carried = np.zeros(n, np.float64)
    onward = np.zeros(n, np.float64)
    order = np.empty(n, np.int32)
    room = len(neighbour) + n + 1
    heap_key = np.empty(room, np.float64)
    heap_item = np.empty(room, np.int32)
    for s in sources:
        distance[s], paths[s] = 0.0, 1.0
        heap_key[0], heap_item[0] = 0.0, s
        size, tail = 1, 0
        while size:
            v = heap_item[0]
            size -= 1
            key, item, i = heap_key[size], heap_item[size], 0
            while True:
                child = 2 * i + 1
                if child >= size:
                    break
                if child + 1 < size and heap_key[child + 1] < heap_key[child]:
                    child += 1
                if heap_key[child] >= key:
                    break
                heap_key[i], heap_item[i] = heap_key[child], heap_item[child]
                i = child
            heap_key[i], heap_item[i] = key, item
            if settled[v]:
                continue
            settled[v] = True
            order[tail] = v
            tail += 1
            for k in range(start[v], start[v + 1]):
                w = neighbour[k]
                if settled[w]:
                    continue
                d = distance[v] + length[k]
                if d < distance[w] * (1.0 - EPSILON):
                    distance[w] = d
                    paths[w] = paths[v]
                    i = size
                    size += 1
                    while i and heap_key[(i - 1) // 2] > d:
                        heap_key[i], heap_item[i] = heap_key[(i - 1) // 2], heap_item[(i - 1) // 2]
                        i = (i - 1) // 2
                    heap_key[i], heap_item[i] = d, w
                elif d <= distance[w] * (1.0 + EPSILON):
                    paths[w] += paths[v]
        far_sum, near_sum = 0.0, 0.0
        for k in range(1, tail):
            far_sum += distance[order[k]]
            near_sum += 1.0 / distance[order[k]]
        total[s], harmonic[s], reach[s], reached[s] = far_sum, near_sum, distance[order[tail - 1]], tail - 1
        for k in range(tail - 1, 0, -1):
            v = order[k]
            share, on = 0.0, 0.0
            for m in range(start[v], start[v + 1]):
                w = neighbour[m]
                d = distance[v] + length[m]
                if distance[w] > distance[v] and d <= distance[w] * (1.0 + EPSILON):
                    share += (1.0 + carried[w]) / paths[w]
                    on += 1.0 + onward[w]
            carried[v] = share * paths[v]
            onward[v] = on
            through[v] += carried[v]
            stress[v] += on * paths[v]
        for k in range(tail):
            v = order[k]
            distance[v], settled[v], paths[v], carried[v], onward[v] = np.inf, False, 0.0, 0.0, 0.0
