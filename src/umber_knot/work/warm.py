"""Loads or compiles every numba kernel, so that no later step waits for the compiler."""

from __future__ import annotations

import numpy as np


def warm(draw_only: bool = False) -> None:
    """Run each kernel once on next to nothing; ``draw_only`` for the process that only paints."""
    from umber_knot.chart.labels import place
    from umber_knot.chart.raster import draw_lines

    one, two = np.zeros(1), np.array([0.0, 5.0])
    draw_lines(np.zeros((4, 4), np.float32), one, one, one + 3, one + 2, one + 0.5, one + 1, 0, 1)
    place(two, two, one.repeat(2), two + 4, two + 4, np.arange(2), 50.0, 50.0, 2.0, np.zeros((0, 4)), 40)
    if draw_only:
        return
    from umber_knot.chart.forces import pack, push_apart, spread

    ends = np.array([0], np.int32), np.array([1], np.int32)
    spread(two.copy(), two.copy(), one.repeat(2) + 1, *ends, one + 1, 2, 0.1, 0.02, 1.45)
    push_apart(two.copy(), two.copy(), one.repeat(2) + 1, 2)
    pack(two + 1, two + 1, 1.45, 1.0)
    from umber_knot.relate.pairs import within

    hub, days = np.zeros(2, np.int32), np.zeros(2, np.int32)
    within(hub, np.arange(2, dtype=np.int32), one.repeat(2), days, days, 2)
