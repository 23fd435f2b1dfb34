"""What the recipe says of relating: the sentence that makes a network."""

from __future__ import annotations

from dataclasses import dataclass

from umber_knot.corpus.model import KINDS
from umber_knot.parameters import one_of, within


@dataclass(frozen=True, slots=True)
class Relate:
    """``tie`` what ties items of the kind ``of``; how it is counted and weighed; what is kept (METHODS, "Ties").

    ``years`` are the first and last, empty for all, undated records too; ``max_per_record`` 0 is no limit.
    """

    tie: str = one_of("co-authorship", "co-authorship", "co-occurrence")
    of: str = one_of("person", *KINDS)
    counting: str = one_of("full", "full", "fractional")
    normalise: str = one_of("none", "none", "association", "cosine", "jaccard", "inclusion", "equivalence")
    years: tuple[int, ...] = ()
    min_records: int = within(1, 1, 1e9)
    max_per_record: int = within(0, 0, 1e9)
    min_weight: float = within(0.0, 0, 1e18)
    keep: str = one_of("all", "all", "connected")
