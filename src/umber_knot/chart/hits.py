"""What lies under a point of a view: the mark, the tie, the land."""

from __future__ import annotations

import numpy as np

from umber_knot.chart.drawing import Drawing
from umber_knot.chart.scene import View
from umber_knot.chart.territory import Territory
from umber_knot.corpus.model import Floats, Ints

#: Pixels beyond a mark, and to either side of a tie, that still count as on it.
NEAR_MARK, NEAR_TIE = 2.0, 3.0


def item_at(drawing: Drawing, view: View, x: float, y: float) -> int:
    """The mark under a point in pixels, −1 none."""
    if not len(drawing):
        return -1
    distance = np.hypot(view.px(drawing.x) - x, view.py(drawing.y) - y)
    over = distance - np.maximum(drawing.radius * view.mark_scale, 4.0)
    i = int(over.argmin())
    return i if over[i] <= NEAR_MARK else -1


def tie_at(drawing: Drawing, view: View, x: float, y: float, least: float = 0.0) -> int:
    """The strongest tie of at least a weight within a few pixels of a point, −1 none."""
    if not len(drawing.source):
        return -1
    px, py = view.px(drawing.x), view.py(drawing.y)
    ax, ay, bx, by = px[drawing.source], py[drawing.source], px[drawing.target], py[drawing.target]
    length = np.maximum((bx - ax) ** 2 + (by - ay) ** 2, 1e-9)
    along = np.clip(((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / length, 0, 1)
    away = np.hypot(ax + along * (bx - ax) - x, ay + along * (by - ay) - y)
    near = np.flatnonzero((away < NEAR_TIE) & (drawing.weight >= least))
    return int(near[np.argmax(drawing.weight[near])]) if len(near) else -1


def topic_at(drawing: Drawing, view: View, x: float, y: float) -> int:
    """The topic whose land lies under a point, −1 none; where lands overlap, the smallest."""
    lx, ly = view.x + (x - view.width / 2) / view.scale, view.y - (y - view.height / 2) / view.scale
    hits = [(_area(land), land.topic) for land in drawing.territories if _contains(land, lx, ly)]
    return min(hits)[1] if hits else -1


def items_within(drawing: Drawing, view: View, left: float, top: float, right: float, bottom: float) -> Ints:
    """The marks whose middle lies in a box of pixels."""
    x, y = view.px(drawing.x), view.py(drawing.y)
    return np.flatnonzero((x >= left) & (x <= right) & (y >= top) & (y <= bottom)).astype(np.int32)


def ties_of(drawing: Drawing, chosen: Ints, both: bool, most: int) -> Ints:
    """The heaviest ties that end in chosen items, or whose both ends do."""
    s, t = np.isin(drawing.source, chosen), np.isin(drawing.target, chosen)
    ties = np.flatnonzero(s & t if both else s | t)
    return ties[np.argsort(-drawing.weight[ties], kind="stable")][:most].astype(np.int32)


def _contains(land: Territory, x: float, y: float) -> bool:
    """Whether a point lies inside the outlines, by crossings (even–odd)."""
    crossings = 0
    for ring in land.rings:
        ax, ay, bx, by = ring[:-1, 0], ring[:-1, 1], ring[1:, 0], ring[1:, 1]
        spans = (ay > y) != (by > y)
        with np.errstate(divide="ignore", invalid="ignore"):
            at = ax + (y - ay) / (by - ay) * (bx - ax)
        crossings += int((spans & (x < at)).sum())
    return bool(crossings % 2)


def _area(land: Territory) -> float:
    points: Floats = np.vstack(land.rings)
    return float(np.ptp(points[:, 0]) * np.ptp(points[:, 1]))


def mostly_in_place(old: Drawing, new: Drawing) -> bool:
    """Whether most items stand where they stood, so that a view may stay."""
    if not len(new) or not len(old):
        return False
    at = {one: k for k, one in enumerate(old.network.identities())}
    was = np.array([at.get(one, -1) for one in new.network.identities()], np.int64)
    kept = was >= 0
    near = float(np.median(new.radius)) * 30
    away = np.abs(old.x[was[kept]] - new.x[kept]) + np.abs(old.y[was[kept]] - new.y[kept])
    return bool(int((away < near).sum()) * 2 >= len(new))
