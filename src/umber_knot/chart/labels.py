"""Labels without overlap: greedy placement by priority over a few places around each mark.

Every box placed lies within the frame and touches no other box (Imhof 1975 for the order of places; greedy as in
Christensen, Marks & Shieber 1995). Marks may be covered only as a last resort, and never a larger one.
"""

from __future__ import annotations

import numpy as np
from numba import njit

#: Pixels of the grid in which covered marks are counted.
CELL = 3.0


@njit(cache=True)
def place(x, y, radius, wide, high, order, frame_w, frame_h, margin, taken, reach):  # type: ignore[no-untyped-def]
    """Left and top of each label's box, NaN where it finds no room; and whether it was moved away from its mark.

    ``x, y, radius`` are marks in pixels, shape (n,); ``wide, high`` label boxes; ``order`` the marks by priority;
    ``taken`` boxes already set (left, top, right, bottom), shape (k, 4). ``reach``: how many of the first in order may
    be moved a little away, to be drawn with a leader.
    """
    n = len(x)
    left = np.full(n, np.nan)
    top = np.full(n, np.nan)
    moved = np.zeros(n, np.bool_)
    cols, rows = int(frame_w / CELL) + 2, int(frame_h / CELL) + 2
    cover = np.zeros((rows + 1, cols + 1))
    for i in range(n):
        if -20 < x[i] < frame_w + 20 and -20 < y[i] < frame_h + 20:
            r = radius[i] * 0.8
            for row in range(max(0, int((y[i] - r) / CELL)), min(rows, int((y[i] + r) / CELL) + 1)):
                for col in range(max(0, int((x[i] - r) / CELL)), min(cols, int((x[i] + r) / CELL) + 1)):
                    cover[row + 1, col + 1] += 1.0
    for row in range(rows):
        for col in range(cols):
            cover[row + 1, col + 1] += cover[row, col + 1] + cover[row + 1, col] - cover[row, col]
    boxes = np.empty((n + len(taken), 4))
    used = len(taken)
    boxes[:used] = taken
    for rank in range(len(order)):
        i = order[rank]
        if not (0 <= x[i] <= frame_w and 0 <= y[i] <= frame_h):
            continue
        w, h = wide[i], high[i]
        best, best_l, best_t, best_away = 1e9, 0.0, 0.0, False
        rings = 3 if rank < reach else 1
        patience = 24.0 + (90.0 * (1.0 - rank / reach) if rank < reach else 0.0)  # the first must not go unnamed
        for ring in range(rings):
            gap = 2.0 + 11.0 * ring
            d = radius[i] + gap
            for k in range(8):
                if k == 0:
                    bl, bt = x[i] + d, y[i] - h / 2
                elif k == 1:
                    bl, bt = x[i] - d - w, y[i] - h / 2
                elif k == 2:
                    bl, bt = x[i] + 0.72 * d, y[i] - 0.72 * d - h * 0.8
                elif k == 3:
                    bl, bt = x[i] + 0.72 * d, y[i] + 0.72 * d - h * 0.2
                elif k == 4:
                    bl, bt = x[i] - 0.72 * d - w, y[i] - 0.72 * d - h * 0.8
                elif k == 5:
                    bl, bt = x[i] - 0.72 * d - w, y[i] + 0.72 * d - h * 0.2
                elif k == 6:
                    bl, bt = x[i] - w / 2, y[i] - d - h
                else:
                    bl, bt = x[i] - w / 2, y[i] + d
                if bl < margin or bt < margin or bl + w > frame_w - margin or bt + h > frame_h - margin:
                    continue
                c0, c1 = int(bl / CELL), min(cols, int((bl + w) / CELL) + 1)
                r0, r1 = int(bt / CELL), min(rows, int((bt + h) / CELL) + 1)
                hidden = cover[r1, c1] - cover[r0, c1] - cover[r1, c0] + cover[r0, c0]
                cost = 0.35 * k + 6.0 * ring + 1.6 * hidden
                if cost >= best or cost > patience:
                    continue
                clear = True
                for b in range(used):
                    if bl < boxes[b, 2] and boxes[b, 0] < bl + w and bt < boxes[b, 3] and boxes[b, 1] < bt + h:
                        clear = False
                        break
                if clear:
                    best, best_l, best_t, best_away = cost, bl, bt, ring > 0
            if best < 6.0 * (ring + 1):
                break
        if best < 1e9:
            left[i], top[i], moved[i] = best_l, best_t, best_away
            boxes[used, 0], boxes[used, 1], boxes[used, 2], boxes[used, 3] = best_l, best_t, best_l + w, best_t + h
            used += 1
    return left, top, moved
