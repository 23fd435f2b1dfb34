"""Colours: topics spread in hue at equal lightness (OKLCH, Ottosson 2020), and one ramp for quantities."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from umber_knot.corpus.model import Floats, Ints

#: Hues in degrees; a topic keeps its place in this list. Steps far apart in hue come first.
HUES = (25, 205, 130, 290, 75, 245, 340, 165, 50, 225, 105, 315, 0, 185, 270, 147)


@dataclass(frozen=True, slots=True)
class Theme:
    """The chart's paper and inks, as hex."""

    name: str
    paper: str
    ink: str
    faint: str  # secondary ink
    line: str  # hairlines
    tie: str
    mark_light: float  # OKLCH lightness and chroma of marks, land and shore
    mark_chroma: float
    land_light: float
    land_chroma: float
    shore_light: float


LIGHT = Theme("light", "#FBFBF8", "#22241F", "#5C6058", "#CDD1C8", "#3A3C36", 0.42, 0.085, 0.925, 0.035, 0.68)
DARK = Theme("dark", "#242019", "#ECE7DC", "#B0A898", "#4A443A", "#CFC7B8", 0.80, 0.085, 0.315, 0.035, 0.50)
THEMES = {"light": LIGHT, "dark": DARK}


@lru_cache(4096)
def oklch(light: float, chroma: float, hue: float) -> str:
    """An OKLCH colour as sRGB hex; chroma is reduced until it can be shown."""
    while True:
        a, b = chroma * math.cos(math.radians(hue)), chroma * math.sin(math.radians(hue))
        l_, m_, s_ = (
            (light + 0.3963377774 * a + 0.2158037573 * b) ** 3,
            (light - 0.1055613458 * a - 0.0638541728 * b) ** 3,
            (light - 0.0894841775 * a - 1.2914855480 * b) ** 3,
        )
        rgb = (
            4.0767416621 * l_ - 3.3077115913 * m_ + 0.2309699292 * s_,
            -1.2684380046 * l_ + 2.6097574011 * m_ - 0.3413193965 * s_,
            -0.0041960863 * l_ - 0.7034186147 * m_ + 1.7076147010 * s_,
        )
        if chroma < 0.002 or all(-1e-4 <= v <= 1.0001 for v in rgb):
            return "#" + "".join(f"{round(255 * _gamma(min(max(v, 0.0), 1.0))):02X}" for v in rgb)
        chroma *= 0.95


def _gamma(v: float) -> float:
    return 12.92 * v if v <= 0.0031308 else 1.055 * v ** (1 / 2.4) - 0.055


@dataclass(frozen=True, slots=True)
class TopicColours:
    """One topic's colours: of its marks and name, its land, its shore."""

    mark: str
    land: str
    shore: str


@lru_cache(512)
def topic_colours(slot: int, theme: Theme) -> TopicColours:
    """Colours of the hue in a slot; slots beyond the list come again a band darker (or lighter on dark ground)."""
    hue, band = HUES[slot % len(HUES)], slot // len(HUES)
    shift = (0.10 if theme.name == "light" else -0.10) * (band % 2)
    return TopicColours(
        oklch(theme.mark_light + shift, theme.mark_chroma, hue),
        oklch(theme.land_light, theme.land_chroma, hue),
        oklch(theme.shore_light, theme.mark_chroma, hue),
    )


#: The ramp's stops in OKLCH: pale straw, umber, deep verdigris-black. Lightness falls evenly, so it prints in grey.
_RAMP = ((0.90, 0.07, 95.0), (0.55, 0.09, 55.0), (0.26, 0.04, 185.0))


#: Colours of the ramp: more are not told apart.
SHADES = 64


def ramp(value: float, theme: Theme = LIGHT) -> str:
    """The ramp's colour for a value from 0 to 1; on dark ground it runs the other way, so that more is brighter."""
    return shades(theme)[round(min(max(value, 0.0), 1.0) * (SHADES - 1))]


@lru_cache
def shades(theme: Theme) -> tuple[str, ...]:
    """All colours of the ramp, from the least to the most."""
    steps = [k / (SHADES - 1) for k in range(SHADES)]
    if theme.name == "dark":
        points = [ramp_point(1 - t) for t in steps]
        return tuple(oklch(0.30 + 0.70 * light, chroma, hue) for light, chroma, hue in points)
    return tuple(oklch(*ramp_point(t)) for t in steps)


def ramp_point(t: float) -> tuple[float, float, float]:
    low, high = (_RAMP[0], _RAMP[1]) if t < 0.5 else (_RAMP[1], _RAMP[2])
    s = 2 * t if t < 0.5 else 2 * t - 1
    a, b, c = (p + (q - p) * s for p, q in zip(low, high))
    return a, b, c


def assign_slots(centres: Floats, sizes: Ints, kept: Mapping[int, int], topics: list[int]) -> dict[int, int]:
    """A hue slot for each topic number: those in ``kept`` stay, the others get the hue farthest from near topics'.

    ``centres`` has shape (topics, 2), ``sizes`` (topics,), both in the order of ``topics``; large topics choose first.
    """
    slots = {t: s for t, s in kept.items() if t in set(topics)}
    where = dict(zip(topics, centres))
    n = max(len(HUES), len(topics))
    for index in np.lexsort((np.array(topics), -sizes)).tolist():
        topic = topics[index]
        if topic in slots:
            continue
        taken = set(slots.values())
        free = [s for s in range(n) if s not in taken]
        if sizes[index] < 3:  # no land and no name: any colour will do
            slots[topic] = free[0]
            continue
        early = [s for s in free if s < max(8, len(topics))] or free  # the first hues are farthest apart
        others = [(HUES[s % len(HUES)], float(np.hypot(*(where[o] - where[topic])))) for o, s in slots.items()]

        def clash(slot: int, others: list[tuple[int, float]] = others) -> float:
            hue = HUES[slot % len(HUES)]
            return sum((1 + math.cos(math.radians(hue - h))) ** 3 / (d + 1e-6) for h, d in others)

        slots[topic] = min(early, key=lambda s: (round(clash(s), 9), s))
    return slots


def tie_ink(weight: Floats, bridges: NDArray[np.bool_]) -> tuple[Floats, Floats]:
    """(opacity, width in pixels) of each tie: by rank of weight, ties between topics darker than those within."""
    n = len(weight)
    rank = np.empty(n)
    rank[np.argsort(weight, kind="stable")] = (np.arange(n) + 1) / max(n, 1)
    crowd = min(1.0, (900 / max(n, 1)) ** 0.5)  # many ties: each fainter, so that the sum keeps its structure
    alpha = (0.08 + 0.34 * rank**2) * (0.35 + 0.65 * crowd) * np.where(bridges, 1.45, 0.8)
    width = 0.7 + 1.0 * rank**4
    return np.clip(alpha, 0.02, 0.75), width
