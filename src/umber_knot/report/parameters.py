"""What the recipe says of the report."""

from __future__ import annotations

from dataclasses import dataclass

from umber_knot.parameters import one_of, within


@dataclass(frozen=True, slots=True)
class Report:
    """The files to write beside those of every run; the plate's width in millimetres and its dots per inch."""

    formats: tuple[str, ...] = one_of(("svg", "png"), "svg", "png", "graphml", "gml", "json", "csv", "matrix")
    width_mm: float = within(180.0, 40, 2000)
    dpi: float = within(300.0, 50, 1200)
    title: str = ""
