"""Painting views of a drawing: labels placed, ties drawn, strongest first."""

from __future__ import annotations

import os
from collections.abc import Mapping
from typing import Any

import numpy as np
from numpy.typing import NDArray

from umber_knot.chart.drawing import Drawing
from umber_knot.chart.palette import tie_ink
from umber_knot.chart.raster import draw_lines, tinted
from umber_knot.chart.scene import Layers, Scene, View, compose
from umber_knot.corpus.model import Ints
from umber_knot.lineage.store import read
from umber_knot.work.keeping import stores
from umber_knot.work.state import Painted, Passed
from umber_knot.work.worker import Job


class Brush:
    """Keeps the parts of what is on every easel, and paints views of it."""

    CHUNK = 6000  # ties between two looks for a newer request

    def __init__(self) -> None:
        self.drawings: dict[int, tuple[Drawing, int]] = {}  # easel → drawing and its serial
        self.parts: dict[int, dict[str, Any]] = {}  # easel → stage → result
        self.painted = 0
        self.store = stores()[1]

    def _put(self, easel: int, parts: Mapping[str, Passed | None], tint_by: str, serial: int) -> Drawing:
        """The drawing on an easel, put together from its parts where it is another; None for one that is there."""
        here = self.parts.setdefault(easel, {})
        here.update({k: read(p.file) if p.file else p.value for k, p in parts.items() if p is not None})
        drawing, known = self.drawings.get(easel, (None, 0))
        if drawing is None or known != serial:
            network, lettering, sizes, standing, grouped, land = (
                here[stage] for stage in ("relate", "lettering", "sizes", "standing", "topics", "land")
            )
            drawing = Drawing(network.network, lettering, sizes, standing, grouped.topic, land, tint_by)
            self.drawings[easel] = drawing, serial
        return drawing

    def paint(
        self,
        job: Job,
        easel: int,
        parts: Mapping[str, Passed | None],
        tint_by: str,
        serial: int,
        view: View,
        layers: Layers,
        chosen: Ints,
        ratio: float,
        ink: str,
    ) -> Painted:
        """Paint a view of the drawing of a serial at ``ratio`` device pixels a pixel."""
        drawing = self._put(easel, parts, tint_by, serial)
        scene = compose(drawing, view, layers, chosen)
        if not layers.ties or not len(drawing.source):
            return self._painted(scene, None, True, serial)
        order = drawing.order[drawing.weight[drawing.order] >= layers.least_tie]
        s, t = drawing.source[order], drawing.target[order]
        alpha, width = tie_ink(drawing.weight[order], drawing.topic[s] != drawing.topic[t])
        image = np.zeros((max(1, round(view.height * ratio)), max(1, round(view.width * ratio))), np.float32)
        x0, y0, x1, y1 = (np.ascontiguousarray(a * ratio) for a in (scene.x[s], scene.y[s], scene.x[t], scene.y[t]))
        for begin in range(0, len(order), self.CHUNK):
            end = min(begin + self.CHUNK, len(order))
            draw_lines(image, x0, y0, x1, y1, alpha, width * ratio, begin, end)
            if begin == 0 and end < len(order):
                job.part(self._painted(scene, tinted(image, ink), False, serial))
            job.progress("drawing ties", end, len(order))
        return self._painted(scene, tinted(image, ink), True, serial)

    def _painted(self, scene: Scene, ties: NDArray[np.uint32] | None, complete: bool, serial: int) -> Painted:
        """A view; its ties are put where the window reads them, and it takes them away again."""
        self.painted += 1
        passed = None
        if ties is not None:
            passed = Passed.of(self.store.put(f"ties-{os.getpid()}-{self.painted}", ties), ties)
        return Painted(serial, complete, scene.view, scene.labels, scene.names, passed)
