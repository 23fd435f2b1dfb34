"""Which labels may stay while the view moves: cheap enough for every frame, and free of compiled code."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from umber_knot.corpus.model import Floats


def without_overlap(boxes: Floats, frame: tuple[float, float]) -> NDArray[np.bool_]:
    """Which boxes (left, top, right, bottom; in order of priority, shape (k, 4)) may stay while the view moves.

    Keeps a box when it lies in the frame and touches none kept before it: cheap enough for every frame.
    """
    if not len(boxes):
        return np.zeros(0, bool)
    left, top, right, bottom = boxes.T
    keep = (left >= 0) & (top >= 0) & (right <= frame[0]) & (bottom <= frame[1])
    meets = (left[:, None] < right) & (left < right[:, None]) & (top[:, None] < bottom) & (top < bottom[:, None])
    np.fill_diagonal(meets, False)
    for i in np.flatnonzero((meets & keep).any(1) & keep).tolist():
        if keep[i] and (meets[i, :i] & keep[:i]).any():
            keep[i] = False
    return keep
