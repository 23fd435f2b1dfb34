"""The force layout's kernels: springs along ties, repulsion by a quadtree (Barnes & Hut 1986), compiled by numba."""

from __future__ import annotations

import math

import numpy as np
from numba import njit

#: A cell is taken as one body when its side over its distance is below this.
THETA = 1.1


@njit(cache=True)
def spread(x, y, mass, source, target, pull, rounds, heat, gravity, aspect):  # type: ignore[no-untyped-def]
    """Move items in place towards the least energy of Σ pull·d²/2 − Σ mass·mass·ln d over the given rounds.

    The attraction lies between Fruchterman & Reingold's (1991) square and Noack's (2009) constant one: groups come
    apart, yet keep room inside. Steps are cut to ``heat``, which falls quadratically to nothing, so the layout
    always comes to rest. ``gravity`` pulls towards the centre, against drift,
    and ``aspect`` times harder up and down than across, so that the drawing lies as wide as a page.
    """
    n = len(x)
    fx = np.zeros(n)
    fy = np.zeros(n)
    cells = 8 * n + 64
    child = np.empty((cells, 4), np.int32)
    cx = np.empty(cells)
    cy = np.empty(cells)
    weight = np.empty(cells)
    side = np.empty(cells)
    stack = np.empty(4096, np.int32)
    for step in range(rounds):
        limit = heat * (1.0 - step / rounds) ** 2
        _tree(x, y, mass, child, cx, cy, weight, side)
        for i in range(n):
            ax, ay = _repulsion(i, x, y, mass, child, cx, cy, weight, side, stack)
            fx[i] = mass[i] * ax - gravity / aspect * mass[i] * x[i]
            fy[i] = mass[i] * ay - gravity * aspect * mass[i] * y[i]
        for t in range(len(source)):
            a = source[t]
            b = target[t]
            dx = x[b] - x[a]
            dy = y[b] - y[a]
            d = math.sqrt(dx * dx + dy * dy) + 1e-9
            f = pull[t] * d
            fx[a] += f * dx / d
            fy[a] += f * dy / d
            fx[b] -= f * dx / d
            fy[b] -= f * dy / d
        for i in range(n):
            size = math.sqrt(fx[i] * fx[i] + fy[i] * fy[i]) / mass[i] + 1e-12
            move = min(size, limit) / size / mass[i]
            x[i] += fx[i] * move
            y[i] += fy[i] * move


@njit(cache=True)
def _tree(x, y, mass, child, cx, cy, weight, side):  # type: ignore[no-untyped-def]
    """Build the quadtree. ``child`` holds a cell number + n, a body number, or −1."""
    n = len(x)
    low_x, low_y = x.min(), y.min()
    span = max(x.max() - low_x, y.max() - low_y) * 1.0001 + 1e-9
    most = child.shape[0]
    ox = np.empty(most)
    oy = np.empty(most)
    child[0, :] = -1
    ox[0], oy[0], side[0] = low_x, low_y, span
    cx[0] = cy[0] = weight[0] = 0.0
    used = 1
    for i in range(n):
        cell = 0
        depth = 0
        while True:
            cx[cell] += mass[i] * x[i]
            cy[cell] += mass[i] * y[i]
            weight[cell] += mass[i]
            half = side[cell] / 2
            right = 1 if x[i] >= ox[cell] + half else 0
            up = 1 if y[i] >= oy[cell] + half else 0
            q = right + 2 * up
            c = child[cell, q]
            if c == -1:
                child[cell, q] = i
                break
            if c >= n:
                cell = c - n
                depth += 1
                continue
            if depth > 40 or used >= most - 1:  # bodies in one spot: the first stands for the cell's place
                break
            new = used
            used += 1
            child[new, :] = -1
            ox[new] = ox[cell] + right * half
            oy[new] = oy[cell] + up * half
            side[new] = half
            cx[new] = mass[c] * x[c]
            cy[new] = mass[c] * y[c]
            weight[new] = mass[c]
            r2 = 1 if x[c] >= ox[new] + half / 2 else 0
            u2 = 1 if y[c] >= oy[new] + half / 2 else 0
            child[new, r2 + 2 * u2] = c
            child[cell, q] = new + n
            cell = new
            depth += 1


@njit(cache=True)
def _repulsion(i, x, y, mass, child, cx, cy, weight, side, stack):  # type: ignore[no-untyped-def]
    n = len(x)
    ax = 0.0
    ay = 0.0
    top = 1
    stack[0] = 0
    while top > 0:
        top -= 1
        cell = stack[top]
        for q in range(4):
            c = child[cell, q]
            if c == -1 or c == i:
                continue
            if c < n:
                dx = x[i] - x[c]
                dy = y[i] - y[c]
                d2 = dx * dx + dy * dy
                if d2 < 1e-12:  # the same spot: push apart by number, so that it stays deterministic
                    dx = 1e-3 * (1 + (i * 7 + 3) % 11 - 6)
                    dy = 1e-3 * (1 + (i * 5 + 1) % 13 - 7)
                    d2 = dx * dx + dy * dy + 1e-9
                ax += mass[c] * dx / d2
                ay += mass[c] * dy / d2
            else:
                k = c - n
                mx = cx[k] / weight[k]
                my = cy[k] / weight[k]
                dx = x[i] - mx
                dy = y[i] - my
                d2 = dx * dx + dy * dy
                if side[k] * side[k] < THETA * THETA * d2:
                    ax += weight[k] * dx / d2
                    ay += weight[k] * dy / d2
                elif top < len(stack) - 4:
                    stack[top] = k
                    top += 1
    return ax, ay


@njit(cache=True)
def push_apart(x, y, radius, rounds):  # type: ignore[no-untyped-def]
    """Move items in place, as little as may be, until no two marks overlap (or the rounds are over)."""
    n = len(x)
    widest = radius.max() * 2 + 1e-9
    for _ in range(rounds):
        order = np.argsort(x)
        moved = False
        for a in range(n):
            i = order[a]
            for b in range(a + 1, n):
                j = order[b]
                dx = x[j] - x[i]
                if dx > widest:
                    break
                dy = y[j] - y[i]
                need = radius[i] + radius[j]
                d2 = dx * dx + dy * dy
                if d2 < need * need * 0.998:
                    d = math.sqrt(d2)
                    if d < 1e-9:
                        dx, dy, d = 1e-3, 1e-3 * (1 if i < j else -1), 1.4142e-3
                    shift = (need - d) / d / 2
                    x[i] -= dx * shift
                    y[i] -= dy * shift
                    x[j] += dx * shift
                    y[j] += dy * shift
                    moved = True
        if not moved:
            return


@njit(cache=True)
def pack(widths, heights, aspect, gap):  # type: ignore[no-untyped-def]
    """Lower-left corners for boxes, given by falling area: each goes where the whole stays most compact.

    A place touches a box already set, on one of its four sides and flush with one of two edges; the best one keeps the
    farthest corner, measured in the wanted aspect, nearest to the middle of the first box.
    """
    n = len(widths)
    px = np.zeros(n)
    py = np.zeros(n)
    mid_x, mid_y = widths[0] / 2, heights[0] / 2
    for k in range(1, n):
        w, h = widths[k], heights[k]
        best = 1e300
        for j in range(k):
            right, left = px[j] + widths[j] + gap, px[j] - w - gap
            above, below = py[j] + heights[j] + gap, py[j] - h - gap
            flush_x, flush_y = px[j] + widths[j] - w, py[j] + heights[j] - h
            for ax, ay in (
                (right, py[j]),
                (right, flush_y),
                (left, py[j]),
                (left, flush_y),
                (px[j], above),
                (flush_x, above),
                (px[j], below),
                (flush_x, below),
            ):
                far_x = max(abs(ax - mid_x), abs(ax + w - mid_x)) / aspect
                far_y = max(abs(ay - mid_y), abs(ay + h - mid_y))
                cost = max(far_x, far_y) + 0.05 * (far_x + far_y)
                if cost >= best:
                    continue
                free = True
                for o in range(k):
                    if (
                        ax < px[o] + widths[o] + gap * 0.999
                        and px[o] < ax + w + gap * 0.999
                        and ay < py[o] + heights[o] + gap * 0.999
                        and py[o] < ay + h + gap * 0.999
                    ):
                        free = False
                        break
                if free:
                    best = cost
                    px[k] = ax
                    py[k] = ay
    return px, py
