"""Where a network has no ties: which word of its sentence leaves most of them out."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

from umber_knot.errors import UserError
from umber_knot.relate.parameters import Relate

#: Words that leave items, ties or records out, and the value with which each leaves out none.
NEUTRAL: dict[str, Any] = {
    "years": (),
    "where": "",
    "roles": (),
    "max_per_record": 0,
    "min_records": 1,
    "items": "",
    "best": 0,
    "min_weight": 0.0,
    "ties": "",
    "top_k": 0,
    "backbone": 0.0,
    "keep": "all",
    "around": (),
}


def most_given_back(sentence: Relate, ties: Callable[[Relate], int]) -> tuple[str, int]:
    """The word that gives most ties back when it leaves nothing out, and how many; ("", 0) where none gives any.

    ``ties`` tells how many there are with another sentence; of equals the first in the order of the filters is taken.
    """
    best = ("", 0)
    for name, value in NEUTRAL.items():
        if getattr(sentence, name) != value and (name != "best" or "term" in sentence.kinds):
            try:
                found = ties(replace(sentence, **{name: value}))
            except UserError:  # too many to be counted: that is no way back
                continue
            if found > best[1]:
                best = name, found
    return best
