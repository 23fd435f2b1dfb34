"""A plate as SVG: its size is in millimetres and owes nothing to the view in the window."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import partial

import numpy as np

from umber_knot.chart.drawing import SQUARE, Drawing, radius_of
from umber_knot.chart.lettering import ASCENT, SANS, SERIF, widths
from umber_knot.chart.palette import Theme, ramp, tie_ink, topic_colours
from umber_knot.chart.scene import Label, Layers, Scene, View, compose, fit, tints
from umber_knot.corpus.model import Floats
from umber_knot.markup import xml
from umber_knot.network.measures.registry import of_column

#: Pixels (CSS, 96 to the inch) in a millimetre.
PX_PER_MM = 96 / 25.4
SERIF_FAMILY = "Gentium Plus, Gentium, Charis SIL, serif"
SANS_FAMILY = "Lato, Carlito, sans-serif"
SIZE_WORDS = {"records": "records", "degree": "ties of an item", "strength": "strength of its ties"}


def size_words(by: str) -> str:
    """What the size of a mark shows, in words."""
    if by in SIZE_WORDS:
        return SIZE_WORDS[by]
    m, weighted = of_column(by)
    return m.title + (", weighted" if weighted else "")


@dataclass(frozen=True, slots=True)
class PlateText:
    """What a plate says beside the chart."""

    title: str
    caption: str  # one line: what is shown, and how it was counted
    ties: str  # what a tie means, for the legend
    topics: tuple[tuple[int, str], ...]  # (topic from 0, name)


def plate_size(drawing: Drawing, width_mm: float) -> tuple[float, float]:
    """Width and height of the chart's frame in pixels: as wide as asked, as high as the drawing needs."""
    left, bottom, right, top = drawing.bounds
    width = width_mm * PX_PER_MM
    height = width * min(max((top - bottom) / max(right - left, 1e-9), 0.45), 1.1)
    return width, height


def plate_scene(drawing: Drawing, width_mm: float, layers: Layers = Layers()) -> Scene:
    """The scene of a plate, fitted to its own frame."""
    width, height = plate_size(drawing, width_mm)
    return compose(drawing, fit(drawing, width, height, 14.0), layers)


def plate(drawing: Drawing, words: PlateText, width_mm: float, theme: Theme, layers: Layers = Layers()) -> str:
    """The whole plate as SVG text: title, chart, legend, caption."""
    scene = plate_scene(drawing, width_mm, layers)
    width, height = scene.view.width, scene.view.height
    head = 34.0 if words.title else 0.0
    legend, foot = _legend(drawing, words, width, theme)
    total = head + height + foot
    parts = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{_n(width_mm)}mm" height="{_n(total / PX_PER_MM)}mm" '
        f'viewBox="0 0 {_n(width)} {_n(total)}" font-family="{SERIF_FAMILY}">',
        f"<title>{xml(words.title or 'Chart')}</title>",
        f"<desc>{xml(words.caption)}</desc>",
        f'<rect width="{_n(width)}" height="{_n(total)}" fill="{theme.paper}"/>',
    ]
    if words.title:
        size = min(20.0, 20.0 * (width - 24) / max(float(widths([words.title], SERIF)[0]) * 20, 1.0))
        parts.append(f'<text x="12" y="24" font-size="{_n(size)}" fill="{theme.ink}">{xml(words.title)}</text>')
    parts.append(f'<g transform="translate(0 {_n(head)})">')
    parts += _chart(drawing, scene, theme, layers)
    parts.append(f'</g><g transform="translate(0 {_n(head + height)})">')
    parts += legend
    parts.append("</g></svg>\n")
    return "\n".join(parts)


def _n(value: float) -> str:
    """A number with two decimals at most: enough for print, and the same text everywhere."""
    return f"{value:.2f}".rstrip("0").rstrip(".")


def _chart(drawing: Drawing, scene: Scene, theme: Theme, layers: Layers) -> Iterable[str]:
    view = scene.view
    if layers.territories:
        yield '<g class="territories" stroke-width="0.8">'
        for land in drawing.territories:
            colours = topic_colours(drawing.slots[land.topic], theme)
            outline = " ".join(smooth_path(view, ring) for ring in land.rings)
            fill = f'fill="{colours.land}" fill-opacity="0.8" fill-rule="evenodd"'
            yield f'<path d="{outline}" {fill} stroke="{colours.shore}"/>'
        yield "</g>"
    if layers.ties:
        yield f'<g class="ties" stroke="{theme.tie}" fill="none">'
        yield from _ties(drawing, scene, layers.least_tie)
        yield "</g>"
    if layers.items:
        yield f'<g class="items" stroke="{theme.paper}">'
        colour, code = tints(drawing, theme), drawing.network.kind_code
        for i in reversed(drawing.priority.tolist()):
            x, y, r = scene.x[i], scene.y[i], scene.radius[i]
            rim = _n(min(1.2, r / 3))
            shape, place = "circle", f'cx="{_n(x)}" cy="{_n(y)}" r="{_n(r)}"'
            if len(code) and code[i] % 2:
                half = r * SQUARE
                shape, place = (
                    "rect",
                    f'x="{_n(x - half)}" y="{_n(y - half)}" width="{_n(2 * half)}" height="{_n(2 * half)}"',
                )
            yield (
                f'<{shape} {place} fill="{colour[i]}" stroke-width="{rim}">'
                f"<title>{xml(drawing.label[i])}</title></{shape}>"
            )
        yield "</g>"
    yield '<g class="names">'
    for name in scene.names:
        colours = topic_colours(drawing.slots[name.topic], theme)
        yield (
            f'<text x="{_n(name.left + 2)}" y="{_n(name.top + name.size * ASCENT)}" font-size="{_n(name.size)}" '
            f'letter-spacing="{_n(name.size * 0.11)}" fill="{colours.mark}" stroke="{theme.paper}" stroke-width="2.5" '
            f'stroke-linejoin="round" paint-order="stroke">{xml(name.text)}</text>'
        )
    yield '</g><g class="labels">'
    for label in scene.labels:
        yield _label(label, theme)
    yield "</g>"


def _label(label: Label, theme: Theme) -> str:
    leader = ""
    if label.leader:
        x0, y0, x1, y1 = map(_n, label.leader)
        leader = f'<path d="M{x0} {y0}L{x1} {y1}" stroke="{theme.faint}" stroke-width="0.5"/>'
    slant = ' font-style="italic"' if label.italic else ""
    return (
        f'{leader}<text x="{_n(label.left + 1)}" y="{_n(label.top + label.size * ASCENT)}" font-size="{_n(label.size)}"'
        f'{slant} textLength="{_n(label.width - 2)}" lengthAdjust="spacingAndGlyphs" fill="{theme.ink}" '
        f'stroke="{theme.paper}" stroke-width="2.2" stroke-linejoin="round" paint-order="stroke">'
        f"{xml(label.text)}</text>"
    )


def _ties(drawing: Drawing, scene: Scene, least: float) -> Iterable[str]:
    """Ties weakest first; those of like ink share one path, which keeps large plates small and quick."""
    drawn = drawing.weight >= least
    s, t = drawing.source[drawn], drawing.target[drawn]
    alpha, width = tie_ink(drawing.weight[drawn], drawing.topic[s] != drawing.topic[t])
    ink = np.column_stack([np.round(alpha, 2), np.round(width, 1)])
    kinds, kind = np.unique(ink, axis=0, return_inverse=True)
    kind = kind.reshape(-1)
    order = np.argsort(kind, kind="stable")
    ends = np.cumsum(np.bincount(kind, minlength=len(kinds)))
    points = np.column_stack([scene.x[s], scene.y[s], scene.x[t], scene.y[t]])[order]
    at = 0
    for (a, w), end in zip(kinds.tolist(), ends.tolist()):
        # a path paints overlaps once, so each carries few ties and crossings still darken
        for begin in range(at, end, 12):
            lines = "".join(
                f"M{p[0]:.1f} {p[1]:.1f}L{p[2]:.1f} {p[3]:.1f}" for p in points[begin : min(begin + 12, end)].tolist()
            )
            yield f'<path d="{lines}" stroke-opacity="{a:g}" stroke-width="{w:g}"/>'
        at = end


def smooth_path(view: View, ring: Floats) -> str:
    """A closed ring as quadratic curves through the middles of its sides."""
    x, y = view.px(ring[:-1, 0]), view.py(ring[:-1, 1])
    mid_x, mid_y = (x + np.roll(x, -1)) / 2, (y + np.roll(y, -1)) / 2
    curve = "".join(
        f"Q{a:.1f} {b:.1f} {c:.1f} {d:.1f}"
        for a, b, c, d in zip(
            np.roll(x, -1).tolist(), np.roll(y, -1).tolist(), np.roll(mid_x, -1).tolist(), np.roll(mid_y, -1).tolist()
        )
    )
    return f"M{mid_x[0]:.1f} {mid_y[0]:.1f}{curve}Z"


def size_text(value: float) -> str:
    """A round value in the size legend, in few signs.

    >>> size_text(450.0), size_text(4500.0), size_text(12000.0)
    ('450', '4500', '12k')
    """
    return f"{value:g}" if value < 10_000 else f"{value / 1000:g}k"


def size_samples(drawing: Drawing) -> list[float]:
    """Three round values for the size legend: near the greatest, a third and a tenth of it."""
    most = float(drawing.value.max(initial=0.0))
    if most <= 0:
        return []
    found = []
    for share in (1.0, 0.35, 0.08):
        value = most * share
        step = 10.0 ** np.floor(np.log10(value)) / 2
        rounded = np.floor(value / step) * step
        found.append(float(max(round(rounded), 1)) if drawing.size_by in ("records", "degree") else float(rounded))
    return sorted(set(found), reverse=True)


def _legend(drawing: Drawing, words: PlateText, width: float, theme: Theme) -> tuple[list[str], float]:
    """The legend's shapes, and its height: size, tint, ties, caption."""
    parts: list[str] = []
    small = partial(_text, family=SANS_FAMILY, size=9.0)
    x, top = 12.0, 16.0
    parts.append(_text(x, top, "Size", theme.ink, SANS_FAMILY, 9.0, "bold"))
    parts.append(small(x + 24, top, size_words(drawing.size_by), theme.faint))
    scale = fit(drawing, *plate_size(drawing, width / PX_PER_MM), 14.0).mark_scale
    at = x
    most = float(drawing.value.max(initial=0.0))
    for value in size_samples(drawing):
        r = float(radius_of(np.array([value]), most)[0]) * scale
        parts.append(f'<circle cx="{_n(at + r)}" cy="{_n(top + 22)}" r="{_n(r)}" fill="none" stroke="{theme.faint}"/>')
        parts.append(small(at + 2 * r + 4, top + 25, size_text(value), theme.ink))
        at += 2 * r + 34
    parts.append(_text(x, top + 52, "Ties", theme.ink, SANS_FAMILY, 9.0, "bold"))
    parts.append(small(x + 24, top + 52, words.ties, theme.faint))
    x0 = 170.0
    parts.append(_text(x0, top, "Tint", theme.ink, SANS_FAMILY, 9.0, "bold"))
    bottom = top + 52
    if drawing.tint_by == "year":
        parts.append(small(x0 + 24, top, "mean year", theme.faint))
        for k in range(40):
            left, fill = _n(x0 + 3 * k), ramp(k / 39, theme)
            parts.append(f'<rect x="{left}" y="{_n(top + 14)}" width="3.2" height="10" fill="{fill}"/>')
        low, high = drawing.shade_range
        parts.append(small(x0, top + 36, f"{low:.0f}", theme.ink))
        parts.append(small(x0 + 100, top + 36, f"{high:.0f}", theme.ink))
    else:
        parts.append(small(x0 + 24, top, "topic", theme.faint))
        names = [n for _, n in words.topics]
        column = float(widths(names, SANS).max()) * 9 + 26 if names else 100.0
        columns = max(1, int((width - x0 - 12) // column))
        for k, (topic, name) in enumerate(words.topics):
            cx, cy = x0 + (k % columns) * column, top + 10 + 13.0 * (k // columns)
            colours = topic_colours(drawing.slots[topic], theme)
            parts.append(
                f'<rect x="{_n(cx)}" y="{_n(cy)}" width="9" height="9" rx="1.5" fill="{colours.land}" '
                f'stroke="{colours.mark}"/>'
            )
            parts.append(small(cx + 14, cy + 8, name, theme.ink))
            bottom = max(bottom, cy + 14)
    lines = wrapped(words.caption, (width - 24) / 9.0)
    for k, line in enumerate(lines):
        parts.append(small(12, bottom + 18 + 12 * k, line, theme.faint))
    return parts, bottom + 18 + 12 * len(lines)


def wrapped(text: str, ems: float) -> list[str]:
    """Text broken into lines no wider than so many ems of the sans."""
    lines: list[str] = []
    for word in text.split():
        if lines and float(widths([f"{lines[-1]} {word}"], SANS)[0]) <= ems:
            lines[-1] += f" {word}"
        else:
            lines.append(word)
    return lines


def _text(x: float, y: float, text: str, fill: str, family: str, size: float, weight: str = "normal") -> str:
    return (
        f'<text x="{_n(x)}" y="{_n(y)}" font-family="{family}" font-size="{_n(size)}" font-weight="{weight}" '
        f'fill="{fill}">{xml(text)}</text>'
    )
