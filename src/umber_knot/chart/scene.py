"""From a drawing and a view to a scene of plain shapes in pixels: what the window paints and a plate prints."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from umber_knot.chart.drawing import Drawing
from umber_knot.chart.lettering import LINE
from umber_knot.chart.palette import SHADES, Theme, shades, topic_colours
from umber_knot.chart.parameters import LAYERS, Chart
from umber_knot.corpus.model import Floats, Ints


@dataclass(frozen=True, slots=True)
class View:
    """What part of the layout is seen: pixels per layout unit, the layout point in the middle, the size in pixels."""

    scale: float
    x: float
    y: float
    width: float
    height: float

    def px(self, x: Floats) -> Floats:
        return (x - self.x) * self.scale + self.width / 2

    def py(self, y: Floats) -> Floats:
        return (self.y - y) * self.scale + self.height / 2

    @property
    def mark_scale(self) -> float:
        """Pixels per unit of radius: marks shrink with the view, and grow slower than it beyond their plate size."""
        return self.scale if self.scale < 1 else self.scale**0.35


@dataclass(frozen=True, slots=True)
class Label:
    """A label's text, box (left, top, width, height), size, slant; ``leader`` ends at its mark when it was moved."""

    item: int
    text: str
    left: float
    top: float
    width: float
    height: float
    size: float
    italic: bool
    leader: tuple[float, float, float, float] | None = None


@dataclass(frozen=True, slots=True)
class TopicName:
    """A topic's name in letterspaced capitals: text, box and size."""

    topic: int
    text: str
    left: float
    top: float
    width: float
    height: float
    size: float


@dataclass(frozen=True, slots=True)
class Layers:
    """What is drawn, and the weight from which ties are."""

    territories: bool = True
    ties: bool = True
    items: bool = True
    labels: bool = True
    least_tie: float = 0.0

    @staticmethod
    def of(chart: Chart) -> Layers:
        """The layers that a recipe asks for."""
        return Layers(**{name: name in chart.layers for name in LAYERS}, least_tie=chart.least_tie)  # type: ignore[arg-type]


@dataclass(frozen=True, slots=True)
class Scene:
    """Marks (arrays), labels and names for one view; boxes of labels and names never overlap or leave the frame."""

    view: View
    x: Floats
    y: Floats
    radius: Floats
    labels: tuple[Label, ...]
    names: tuple[TopicName, ...]


NAME_SIZE = 11.0
#: Where a topic's name is tried, the nearest first: (cost of being away, down and aside in spreads of its items).
_AROUND = sorted(
    (1.1 * abs(down) + 1.8 * abs(aside), down, aside)
    for down in (-1.9, -1.5, -1.1, -0.8, -0.5, 0.0, 0.5, 0.8, 1.1, 1.5, 1.9)
    for aside in (-1.0, -0.6, -0.3, 0.0, 0.3, 0.6, 1.0)
)


def fit(drawing: Drawing, width: float, height: float, margin: float = 26.0) -> View:
    """The view that shows the whole drawing."""
    left, bottom, right, top = drawing.bounds
    across, up = max(right - left, 1e-6), max(top - bottom, 1e-6)
    scale = min((width - 2 * margin) / across, (height - 2 * margin) / up, 4.0)
    return View(max(scale, 1e-6), (left + right) / 2, (bottom + top) / 2, float(width), float(height))


def compose(drawing: Drawing, view: View, layers: Layers = Layers(), chosen: Ints | None = None) -> Scene:
    """Place everything for a view. ``chosen`` items come first when labels compete for room."""
    x, y = view.px(drawing.x), view.py(drawing.y)
    radius = drawing.radius * view.mark_scale
    if not len(drawing) or not layers.labels:
        return Scene(view, x, y, radius, (), ())
    from umber_knot.chart.labels import place  # compiled code, which the window's own process does without

    order = drawing.priority
    if chosen is not None and len(chosen):
        first = np.isin(order, chosen)
        order = np.concatenate([order[first], order[~first]])
    size, italic = label_sizes(drawing, view)
    wide = np.where(italic, drawing.width_italic, drawing.width) * size + 2.0
    high = size * LINE
    names = _names(drawing, view, x, y, radius) if drawing.tint_by == "topic" or layers.territories else ()
    taken = np.array([[n.left, n.top, n.left + n.width, n.top + n.height] for n in names]).reshape(-1, 4)
    seen = order[(x[order] >= 0) & (x[order] <= view.width) & (y[order] >= 0) & (y[order] <= view.height)]
    left, top, moved = place(x, y, radius, wide, high, seen.astype(np.int64), view.width, view.height, 2.0, taken, 40)
    labels = []
    for i in seen.tolist():
        if np.isnan(left[i]):
            continue
        leader = None
        if moved[i]:
            near_x = min(max(x[i], left[i]), left[i] + wide[i])
            near_y = min(max(y[i], top[i] + 2), top[i] + high[i] - 2)
            leader = (float(x[i]), float(y[i]), float(near_x), float(near_y))
        labels.append(
            Label(
                i,
                drawing.label[i],
                float(left[i]),
                float(top[i]),
                float(wide[i]),
                float(high[i]),
                float(size[i]),
                bool(italic[i]),
                leader,
            )
        )
    return Scene(view, x, y, radius, tuple(labels), names)


def label_sizes(drawing: Drawing, view: View) -> tuple[Floats, NDArray[np.bool_]]:
    """(size in pixels, slanted) of each label: larger marks speak up, small ones are set in italic."""
    rank = np.empty(len(drawing))
    rank[drawing.priority] = np.linspace(1.0, 0.0, len(drawing)) if len(drawing) > 1 else 1.0
    closer = round(min(2.0, max(0.0, np.log2(max(view.scale, 1.0)))))
    size = np.round(11.0 + 3.5 * rank**1.5) + closer  # whole pixels: letters drawn once serve again
    return size, rank < 0.66


def _names(drawing: Drawing, view: View, x: Floats, y: Floats, radius: Floats) -> tuple[TopicName, ...]:
    """Topic names near the middle of their items, where they hide least; later ones give way to earlier ones."""
    found: list[TopicName] = []
    boxes: list[tuple[float, float, float, float]] = []
    high = NAME_SIZE * LINE
    weight = radius**2 / max(float((radius**2).mean()), 1e-9)  # a covered mark of middling size costs one
    for topic, text, ems in drawing.names:
        wide = ems * NAME_SIZE + 4
        members = np.flatnonzero(drawing.topic == topic)
        if not len(members) or wide > view.width - 8:
            continue
        mid_x, mid_y = float(x[members].mean()), float(y[members].mean())
        spread_y = max(float(y[members].std()), 8.0)
        spread_x = max(float(x[members].std()), 8.0)
        best: tuple[float, float, float] | None = None
        near = np.flatnonzero(
            (abs(x - mid_x) <= spread_x + wide / 2 + radius) & (abs(y - mid_y) <= 1.9 * spread_y + high / 2 + radius)
        )
        near_x, near_y, reach, hidden = x[near], y[near], radius[near], weight[near]
        for away, down, aside in _AROUND:
            if best is not None and away >= best[0]:
                break
            left, top = mid_x + aside * spread_x - wide / 2, mid_y + down * spread_y - high / 2
            if left < 3 or top < 3 or left + wide > view.width - 3 or top + high > view.height - 3:
                continue
            if any(left < b[2] and b[0] < left + wide and top < b[3] and b[1] < top + high for b in boxes):
                continue
            beside = (near_x + reach > left) & (near_x - reach < left + wide)
            over = beside & (near_y + reach > top) & (near_y - reach < top + high)
            cost = away + float(hidden[over].sum())
            if best is None or cost < best[0]:
                best = cost, left, top
        if best:
            found.append(TopicName(topic, text, best[1], best[2], wide, high, NAME_SIZE))
            boxes.append((best[1], best[2], best[1] + wide, best[2] + high))
    return tuple(found)


def tints(drawing: Drawing, theme: Theme) -> list[str]:
    """The colour of each mark."""
    if drawing.tint_by == "year":
        colours = *shades(theme), theme.faint
        steps = np.nan_to_num(np.round(np.clip(drawing.shade, 0, 1) * (SHADES - 1)), nan=SHADES)
        return [colours[k] for k in steps.astype(int).tolist()]
    colour = {t: topic_colours(slot, theme).mark for t, slot in drawing.slots.items()}
    return [colour.get(t, theme.faint) for t in drawing.topic.tolist()]
