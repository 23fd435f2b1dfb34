"""Painting views of a drawing: labels placed, ties drawn, strongest first."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from umber_knot.chart.drawing import Drawing
from umber_knot.chart.palette import tie_ink
from umber_knot.chart.raster import draw_lines, tinted
from umber_knot.chart.scene import Layers, View, compose
from umber_knot.corpus.model import Ints
from umber_knot.lineage.store import read
from umber_knot.work.state import Painted, Passed
from umber_knot.work.worker import Job


class Brush:
    """Keeps the parts of what is on every easel, and paints views of it."""

    CHUNK = 6000  # ties between two looks for a newer request

    def __init__(self) -> None:
        self.drawings: dict[int, tuple[Drawing, int]] = {}  # easel → drawing and its serial
        self.parts: dict[int, dict[str, Any]] = {}  # easel → stage → result

    def show(
        self, job: Job, easel: int, parts: Mapping[str, tuple[str, Passed | None]], tint_by: str, serial: int
    ) -> None:
        """Put a drawing on an easel by its parts; None for a part that is there already."""
        here = self.parts.setdefault(easel, {})
        for stage, (_, passed) in parts.items():
            if passed is not None:
                here[stage] = read(passed.file) if passed.file else passed.value
        network, lettering, sizes, standing, grouped, land = (
            here[stage] for stage in ("relate", "lettering", "sizes", "standing", "topics", "land")
        )
        drawing = Drawing(network.network, lettering, sizes, standing, grouped.topic, land, tint_by)
        self.drawings[easel] = drawing, serial

    def paint(
        self, job: Job, easel: int, view: View, layers: Layers, chosen: Ints, ratio: float, ink: str
    ) -> Painted | None:
        """Paint a view at ``ratio`` device pixels a pixel."""
        if easel not in self.drawings:
            return None
        drawing, serial = self.drawings[easel]
        scene = compose(drawing, view, layers, chosen)
        if not layers.ties or not len(drawing.source):
            return Painted(scene, None, True, serial)
        order = drawing.order[drawing.weight[drawing.order] >= layers.least_tie]
        s, t = drawing.source[order], drawing.target[order]
        alpha, width = tie_ink(drawing.weight[order], drawing.topic[s] != drawing.topic[t])
        image = np.zeros((max(1, round(view.height * ratio)), max(1, round(view.width * ratio))), np.float32)
        x0, y0, x1, y1 = (np.ascontiguousarray(a * ratio) for a in (scene.x[s], scene.y[s], scene.x[t], scene.y[t]))
        for begin in range(0, len(order), self.CHUNK):
            end = min(begin + self.CHUNK, len(order))
            draw_lines(image, x0, y0, x1, y1, alpha, width * ratio, begin, end)
            if begin == 0 and end < len(order):
                job.part(Painted(scene, tinted(image, ink), False, serial))
            job.progress("drawing ties", end, len(order))
        return Painted(scene, tinted(image, ink), True, serial)
