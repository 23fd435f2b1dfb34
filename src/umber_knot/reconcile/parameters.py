"""What the recipe says of reconciling."""

from __future__ import annotations

from dataclasses import dataclass

from umber_knot.corpus.model import DECIDED
from umber_knot.parameters import one_of


@dataclass(frozen=True, slots=True)
class Reconcile:
    """``decisions`` are files of decisions; ``accept`` gives for a kind the confidence from which suggestions are
    taken."""

    decisions: tuple[str, ...] = ()
    accept: dict[str, float] = one_of({}, *DECIDED)
