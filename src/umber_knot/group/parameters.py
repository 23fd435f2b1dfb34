"""What the recipe says of grouping."""

from __future__ import annotations

from dataclasses import dataclass

from umber_knot.parameters import number, one_of


@dataclass(frozen=True, slots=True)
class Group:
    """``name`` is what the strand keeps this grouping by; ``grain`` the resolution; topics of fewer than ``min_size``
    items are none; ``runs`` is how many other seeds the grouping is compared with."""

    name: str = "Topics"
    quality: str = one_of("modularity", "modularity", "cpm")
    grain: float = number(1.0, 0.01, 100)
    weighted: bool = True
    min_size: int = number(1, 1, 1e9)
    seed: int = number(1, 0, 2**31 - 1)
    runs: int = number(20, 0, 1000)
