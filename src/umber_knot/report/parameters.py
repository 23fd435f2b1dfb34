"""What the recipe says of the report."""

from __future__ import annotations

from dataclasses import dataclass

from umber_knot.parameters import number, one_of


@dataclass(frozen=True, slots=True)
class Report:
    """The files to write beside those of every run; the plate's width in millimetres and its dots per inch."""

    formats: tuple[str, ...] = one_of(("svg", "png"), "svg", "png", "graphml", "gml", "json", "csv", "matrix")
    width_mm: float = number(180.0, 40, 2000)
    dpi: float = number(300.0, 50, 1200)
    title: str = ""
