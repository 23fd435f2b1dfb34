"""Ties drawn into an opacity image by a compiled rasteriser: anti-aliased lines, strongest first."""

from __future__ import annotations

import math

import numpy as np
from numba import njit
from numpy.typing import NDArray


@njit(cache=True)
def draw_lines(image, x0, y0, x1, y1, alpha, width, begin, end):  # type: ignore[no-untyped-def]
    """Draw lines ``begin`` to ``end`` over a float32 opacity image (height, width), each over what is there.

    Coordinates in pixels, pixel centres at halves; ``alpha`` 0 to 1 and ``width`` in pixels, both per line. A line
    walks along its longer axis and covers, across it, the pixels within half a width, with a one-pixel soft edge.
    """
    h, w = image.shape
    for k in range(begin, end):
        ax, ay, bx, by = x0[k] - 0.5, y0[k] - 0.5, x1[k] - 0.5, y1[k] - 0.5
        steep = abs(by - ay) > abs(bx - ax)
        if steep:
            ax, ay, bx, by = ay, ax, by, bx
        if ax > bx:
            ax, ay, bx, by = bx, by, ax, ay
        along = h if steep else w
        across = w if steep else h
        if bx < 0 or ax > along - 1:
            continue
        slope = (by - ay) / (bx - ax) if bx > ax else 0.0
        cosine = 1.0 / math.sqrt(1.0 + slope * slope)
        half = max(width[k], 0.6) / 2
        ink = alpha[k] * min(1.0, width[k] / 0.6)
        reach = (half + 0.5) / cosine
        first = max(0, math.ceil(ax))
        last = min(along - 1, math.floor(bx))
        for p in range(first, last + 1):
            middle = ay + slope * (p - ax)
            low = max(0, math.ceil(middle - reach))
            high = min(across - 1, math.floor(middle + reach))
            for q in range(low, high + 1):
                cover = half + 0.5 - abs(q - middle) * cosine
                if cover <= 0:
                    continue
                a = ink * min(cover, 1.0)
                if steep:
                    image[p, q] += (1 - image[p, q]) * a
                else:
                    image[q, p] += (1 - image[q, p]) * a


def tinted(opacity: NDArray[np.float32], colour: str, most: float = 1.0) -> NDArray[np.uint32]:
    """An opacity image in one ink, as 32-bit premultiplied ARGB."""
    r, g, b = (int(colour[i : i + 2], 16) for i in (1, 3, 5))
    level = np.arange(256, dtype=np.uint32)
    level = (level * most).astype(np.uint32)
    red, green, blue = (channel * level // 255 for channel in (r, g, b))
    table = ((level << 24) | (red << 16) | (green << 8) | blue).astype(np.uint32)
    return table[(opacity * 255 + 0.5).astype(np.uint8)]
