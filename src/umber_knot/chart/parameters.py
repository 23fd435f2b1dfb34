"""What the recipe says of the chart."""

from __future__ import annotations

from dataclasses import dataclass

from umber_knot.parameters import number, one_of

#: What a chart can show, from the ground up.
LAYERS = ("territories", "ties", "items", "labels")


@dataclass(frozen=True, slots=True)
class Chart:
    """``name`` is what the strand keeps this arrangement by; ``size_by`` records, or a measure; ties lighter than ``least_tie`` are not drawn."""

    name: str = "Spread"
    layout: str = one_of("spread", "spread")
    size_by: str = "records"
    tint_by: str = one_of("topic", "topic", "year")
    layers: tuple[str, ...] = one_of(LAYERS, *LAYERS)
    least_tie: float = number(0.0, 0, 1e18)
    seed: int = number(1, 0, 2**31 - 1)
