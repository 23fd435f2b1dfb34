"""The chart as data: positions, sizes, tints and land, ready for any view; no pixel is decided here.

A drawing is put together from parts that change apart from each other: what is lettered, how large marks are, where
they stand, and the land they make. Each is computed, kept and passed on by itself.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from umber_knot.chart.lettering import ITALIC, SERIF, TRACKING, shortened, widths
from umber_knot.chart.palette import assign_slots
from umber_knot.chart.territory import Territory, territories
from umber_knot.corpus.model import Floats, Ints
from umber_knot.corpus.texts import Texts
from umber_knot.group.result import Topic
from umber_knot.network.model import Network

#: Radii of the least and the greatest mark, in pixels of a plate at 96 dots per inch.
LEAST, GREATEST = 2.2, 11.0
#: Topics of fewer items have no name on the chart.
NAMED = 3

#: Half the side of a square mark over the radius of a round one of its area; the second of two kinds is square.
SQUARE = math.sqrt(math.pi) / 2


@dataclass(frozen=True, slots=True)
class Lettering:
    """What follows from the network alone: labels as shown and their widths in ems, shape (n,); the shade of each item
    from 0 to 1 by its mean year (NaN unknown) and the years at both ends; the ties strongest first, shape (m,)."""

    label: Texts
    width: Floats
    width_italic: Floats
    shade: Floats
    shade_range: tuple[float, float]
    order: Ints


@dataclass(frozen=True, slots=True)
class Sizes:
    """What the size of marks means: value and radius (layout units) of each item, shape (n,), and items by falling
    importance."""

    by: str
    value: Floats
    radius: Floats
    priority: Ints


@dataclass(frozen=True, slots=True)
class Standing:
    """Where items stand, shape (n,), in layout units, y up."""

    x: Floats
    y: Floats


@dataclass(frozen=True, slots=True)
class Land:
    """What topics make of the ground: outlines, names ((topic from 0, capitals, width in ems)), hue slot of each
    topic."""

    territories: tuple[Territory, ...]
    names: tuple[tuple[int, str, float], ...]
    slots: Mapping[int, int]


@dataclass(frozen=True, slots=True)
class Drawing:
    """Everything a scene is composed from; ``topic`` of each item from 0, −1 none."""

    network: Network
    lettering: Lettering
    sizes: Sizes
    standing: Standing
    topic: Ints
    land: Land
    tint_by: str = "topic"

    def __len__(self) -> int:
        return len(self.network)

    @property
    def label(self) -> Texts:
        return self.lettering.label

    @property
    def width(self) -> Floats:
        return self.lettering.width

    @property
    def width_italic(self) -> Floats:
        return self.lettering.width_italic

    @property
    def x(self) -> Floats:
        return self.standing.x

    @property
    def y(self) -> Floats:
        return self.standing.y

    @property
    def radius(self) -> Floats:
        return self.sizes.radius

    @property
    def value(self) -> Floats:
        return self.sizes.value

    @property
    def priority(self) -> Ints:
        return self.sizes.priority

    @property
    def size_by(self) -> str:
        return self.sizes.by

    @property
    def shade(self) -> Floats:
        return self.lettering.shade

    @property
    def shade_range(self) -> tuple[float, float]:
        return self.lettering.shade_range

    @property
    def source(self) -> Ints:
        return self.network.source

    @property
    def target(self) -> Ints:
        return self.network.target

    @property
    def weight(self) -> Floats:
        return self.network.weight

    @property
    def order(self) -> Ints:
        return self.lettering.order

    @property
    def territories(self) -> tuple[Territory, ...]:
        return self.land.territories

    @property
    def names(self) -> tuple[tuple[int, str, float], ...]:
        return self.land.names

    @property
    def slots(self) -> Mapping[int, int]:
        return self.land.slots

    @property
    def bounds(self) -> tuple[float, float, float, float]:
        """Left, bottom, right, top of items and land, in layout units."""
        if not len(self.x):
            return (-1.0, -1.0, 1.0, 1.0)
        xs = [self.x - self.radius, self.x + self.radius, *(r[:, 0] for t in self.territories for r in t.rings)]
        ys = [self.y - self.radius, self.y + self.radius, *(r[:, 1] for t in self.territories for r in t.rings)]
        return (
            min(float(v.min()) for v in xs),
            min(float(v.min()) for v in ys),
            max(float(v.max()) for v in xs),
            max(float(v.max()) for v in ys),
        )


def lettering(network: Network) -> Lettering:
    """Measure labels, shade by mean year, and order the ties."""
    known = ~np.isnan(network.mean_year)
    low, high = (
        (float(network.mean_year[known].min()), float(network.mean_year[known].max())) if known.any() else (0.0, 0.0)
    )
    shade = (network.mean_year - low) / (high - low) if high > low else np.where(known, 0.5, np.nan)
    shown = [shortened(text) for text in network.label]
    return Lettering(
        Texts.of(shown),
        widths(shown, SERIF),
        widths(shown, ITALIC),
        shade,
        (low, high),
        np.lexsort((network.target, network.source, -network.weight)).astype(np.int32),
    )


def sizes(network: Network, by: str = "records", measured: Floats | None = None) -> Sizes:
    """Size marks by ``records``, ``degree``, ``strength`` or what was measured: the area of a mark is its share of the
    greatest value, least where there is none."""
    if measured is None:
        values = {"records": network.records, "degree": network.degree(), "strength": network.strength()}
        measured = values[by].astype(np.float64)
    value = np.nan_to_num(measured)
    priority = np.lexsort((np.arange(len(network)), -network.strength(), -value)).astype(np.int32)
    return Sizes(by, value, radius_of(value, float(value.max(initial=0.0))), priority)


def radius_of(value: Floats, greatest: float) -> Floats:
    """Radius by area: the square root of a value's share of the greatest, between the two limits."""
    share = np.sqrt(np.clip(value / greatest, 0, 1)) if greatest > 0 else np.zeros(len(value))
    return LEAST + (GREATEST - LEAST) * share


def land(
    standing: Standing, radius: Floats, topic: Ints, topics: Sequence[Topic], slots: Mapping[int, int] | None = None
) -> Land:
    """The land of every topic, its name, and a hue far from its neighbours'; topics in ``slots`` keep theirs."""
    numbers, counts = np.unique(topic[topic >= 0], return_counts=True)
    middle = _middles(standing, topic, numbers)
    chosen = assign_slots(middle, counts.astype(np.int32), dict(slots or {}), numbers.tolist()) if len(numbers) else {}
    names = [(t.number - 1, t.name.upper()) for t in topics if t.items >= NAMED]
    wide = widths([name for _, name in names], SERIF, TRACKING)
    return Land(
        territories(standing.x, standing.y, radius, topic),
        tuple((t, text, w) for (t, text), w in zip(names, wide.tolist())),
        chosen,
    )


def _middles(standing: Standing, topic: Ints, numbers: Ints) -> Floats:
    """The median place of each topic's items, shape (topics, 2)."""
    order = np.argsort(topic, kind="stable")
    begin, end = np.searchsorted(topic[order], numbers), np.searchsorted(topic[order], numbers, side="right")
    parts = [order[b:e] for b, e in zip(begin.tolist(), end.tolist())]
    return np.array([(float(np.median(standing.x[p])), float(np.median(standing.y[p]))) for p in parts]).reshape(-1, 2)
