"""A topic's land: the region where its items are dense, as smooth outlines."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from contourpy import contour_generator

from umber_knot.corpus.model import Floats, Ints

#: Cells along the longer side of the density grid.
CELLS = 170
#: Density at the shore, in items' own peaks.
LEVEL = 1.05


@dataclass(frozen=True, slots=True)
class Territory:
    """Outlines of one topic's land in layout units: rings of points, shape (k, 2), the first equal to the last."""

    topic: int
    rings: tuple[Floats, ...]


def territories(x: Floats, y: Floats, radius: Floats, topic: Ints) -> tuple[Territory, ...]:
    """The land of every topic with at least three items; ``topic`` from 0, −1 none.

    Gaussian kernels of one width (from the spacing of the items) are summed on a grid per topic and cut at a level
    that a lone item does not reach, so land holds together and a stray item stands in open water.
    """
    if len(x) < 3:
        return ()
    low = np.array([x.min(), y.min()])
    span = np.array([x.max(), y.max()]) - low
    sigma = 0.9 * _spacing(x, y) + 0.6 * float(radius.mean())
    edge = 3.2 * sigma
    low, span = low - edge, span + 2 * edge
    step = float(span.max()) / CELLS
    gx = low[0] + step * np.arange(int(span[0] / step) + 2)
    gy = low[1] + step * np.arange(int(span[1] / step) + 2)
    found = []
    for number in np.unique(topic[topic >= 0]).tolist():
        members = topic == number
        if members.sum() < 3:
            continue
        # a Gaussian separates, so the density of all members is one matrix product
        across = np.exp(-((gx[:, None] - x[members]) ** 2) / (2 * sigma**2))
        down = np.exp(-((gy[:, None] - y[members]) ** 2) / (2 * sigma**2))
        density = down @ across.T
        rings = [_thinned(ring) for ring in _outlines(gx, gy, density) if len(ring) > 8]
        found.append(Territory(number, tuple(rings)))
    return tuple(found)


def _outlines(gx: Floats, gy: Floats, density: Floats) -> list[Floats]:
    return [np.asarray(line) for line in contour_generator(gx, gy, density).lines(LEVEL)]


def _thinned(ring: Floats) -> Floats:
    """Every second point of a ring, closed again: the curves drawn through them stay smooth."""
    thin = ring[:-1:2]
    return np.round(np.vstack([thin, thin[:1]]), 3).astype(np.float64)


def _spacing(x: Floats, y: Floats) -> float:
    """The median distance from an item to its third nearest."""
    from scipy.spatial import cKDTree

    points = np.column_stack([x, y])
    return float(np.median(cKDTree(points).query(points, k=min(4, len(x)))[0][:, -1]))
