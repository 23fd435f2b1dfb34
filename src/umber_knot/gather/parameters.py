"""What the recipe says of gathering."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Gather:
    """``sources`` are the files to read, relative to the recipe."""

    sources: tuple[str, ...] = ()
