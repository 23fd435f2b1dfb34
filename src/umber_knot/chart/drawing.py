"""The chart as data: positions, sizes, tints and land, ready for any view; no pixel is decided here."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from umber_knot.chart.lettering import ITALIC, SERIF, TRACKING, shortened, widths
from umber_knot.chart.palette import assign_slots
from umber_knot.chart.territory import Territory, territories
from umber_knot.corpus.model import Floats, Ints
from umber_knot.corpus.study import Remembered
from umber_knot.group.naming import Topic
from umber_knot.lineage.recipe import Chart
from umber_knot.network.model import Network

#: Radii of the least and the greatest mark, in pixels of a plate at 96 dots per inch.
LEAST, GREATEST = 2.2, 11.0


@dataclass(frozen=True, slots=True)
class Drawing:
    """Everything a scene is composed from. Arrays over items, shape (n,): ``x``, ``y`` (layout units, y up),
    ``radius`` (layout units: marks of these radii do not overlap), ``value`` (what size means), ``topic`` (from 0,
    −1 none), ``shade`` (0 to 1 along the ramp, NaN unknown), ``priority`` (items by falling importance),
    ``width`` and ``width_italic`` (label widths in ems). ``order`` lists ties strongest first.
    """

    label: tuple[str, ...]
    x: Floats
    y: Floats
    radius: Floats
    value: Floats
    topic: Ints
    shade: Floats
    shade_range: tuple[float, float]
    priority: Ints
    width: Floats
    width_italic: Floats
    source: Ints
    target: Ints
    weight: Floats
    order: Ints
    territories: tuple[Territory, ...]
    names: tuple[tuple[int, str, float], ...]  # (topic from 0, name in capitals, width in ems)
    slots: dict[int, int]  # topic from 0 → hue slot
    centres: dict[int, tuple[float, float]]
    size_by: str
    tint_by: str

    def __len__(self) -> int:
        return len(self.label)

    @property
    def bounds(self) -> tuple[float, float, float, float]:
        """Left, bottom, right, top of items and land, in layout units."""
        if not len(self.x):
            return (-1.0, -1.0, 1.0, 1.0)
        xs = [self.x - self.radius, self.x + self.radius, *(r[:, 0] for t in self.territories for r in t.rings)]
        ys = [self.y - self.radius, self.y + self.radius, *(r[:, 1] for t in self.territories for r in t.rings)]
        return (
            min(float(v.min()) for v in xs), min(float(v.min()) for v in ys),
            max(float(v.max()) for v in xs), max(float(v.max()) for v in ys),
        )  # fmt: skip


def sizes(network: Network, size_by: str) -> Floats:
    """What the size of a mark means: records, degree or strength."""
    if size_by == "records":
        return network.records.astype(np.float64)
    return network.degree().astype(np.float64) if size_by == "degree" else network.strength()


def radii(value: Floats) -> Floats:
    """Radius by area: the square root of a value's share of the greatest, between the two limits."""
    return radius_of(value, float(value.max(initial=0.0)))


def radius_of(value: Floats, greatest: float) -> Floats:
    share = np.sqrt(np.clip(value / greatest, 0, 1)) if greatest > 0 else np.zeros(len(value))
    return LEAST + (GREATEST - LEAST) * share


def draw(
    network: Network,
    topic: Ints,
    topics: tuple[Topic, ...],
    recipe: Chart,
    before: dict[str, Remembered] | None = None,
    verbatim: bool = False,
    slots: dict[int, int] | None = None,
    check: Callable[[], None] = lambda: None,
) -> Drawing:
    """Lay out and dress a network. ``before`` is the remembered chart; ``verbatim`` takes its places as they are,
    ``slots`` are the hues that topics had."""
    value = sizes(network, recipe.size_by)
    radius = radii(value)
    if verbatim and before is not None and all(text in before for text in network.label):
        x = np.array([before[text].x for text in network.label])
        y = np.array([before[text].y for text in network.label])
    else:
        from umber_knot.chart.layout import layout

        x, y = layout(
            network, radius, recipe.seed, {k: (m.x, m.y) for k, m in (before or {}).items()},
            frozenset(k for k, m in (before or {}).items() if m.pinned), check,
        )  # fmt: skip
        x, y = np.round(x, 4), np.round(y, 4)
    return dress(network, topic, topics, recipe, x, y, slots)


def dress(
    network: Network,
    topic: Ints,
    topics: tuple[Topic, ...],
    recipe: Chart,
    x: Floats,
    y: Floats,
    slots: dict[int, int] | None = None,
) -> Drawing:
    """A drawing from given places."""
    value = sizes(network, recipe.size_by)
    radius = radii(value)
    numbers = np.unique(topic[topic >= 0]).tolist()
    middle = {t: (float(np.median(x[topic == t])), float(np.median(y[topic == t]))) for t in numbers}
    counts = np.array([(topic == t).sum() for t in numbers], np.int32)
    slots = assign_slots(np.array(list(middle.values())), counts, slots or {}, numbers) if numbers else {}
    known = ~np.isnan(network.mean_year)
    low, high = (
        (float(network.mean_year[known].min()), float(network.mean_year[known].max())) if known.any() else (0.0, 0.0)
    )
    shade = (network.mean_year - low) / (high - low) if high > low else np.where(known, 0.5, np.nan)
    shown = [shortened(text) for text in network.label]
    names = [(t.number - 1, t.name.upper()) for t in topics if t.items >= 3]
    return Drawing(
        label=tuple(shown), x=x, y=y, radius=radius, value=value, topic=topic, shade=shade, shade_range=(low, high),
        priority=np.lexsort((np.arange(len(network)), -network.strength(), -value)).astype(np.int32),
        width=widths(shown, SERIF), width_italic=widths(shown, ITALIC),
        source=network.source, target=network.target, weight=network.weight,
        order=np.lexsort((network.target, network.source, -network.weight)).astype(np.int32),
        territories=territories(x, y, radius, topic),
        names=tuple((t, text, w) for (t, text), w in zip(names, widths([n for _, n in names], SERIF, TRACKING))),
        slots=slots, centres=middle, size_by=recipe.size_by, tint_by=recipe.tint_by,
    )  # fmt: skip
