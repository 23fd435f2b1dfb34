"""Changes to a network by hand, as decisions: items and ties added, taken out, turned round, weighed or described.

A decision on a network has the kind ``item`` or ``tie``; ``form`` and ``preferred`` are the items, by form or label.
``scope`` holds the strand and what else is needed, as words ``name=value``: ``strand=2 weight=1.5``, ``strand=1
column=party value=north``, and ``kind=venue`` where items of two kinds have one name.
"""

from __future__ import annotations

import shlex
from collections.abc import Collection, Iterable
from typing import NamedTuple

from umber_knot.corpus.model import ON_NETWORK, Decision

#: What can be done by hand, by kind.
DEEDS = {"item": ("add", "remove", "set"), "tie": ("add", "remove", "reverse", "weigh", "set")}
_HEAVIEST = 1e18


class Words(NamedTuple):
    """The scope of a decision on a network, read."""

    strand: int
    kind: str
    weight: float
    column: str
    value: str


def scope_of(strand: int, **words: object) -> str:
    """The scope of a decision on a strand's network.

    >>> scope_of(2, column="home town", value="Old Quay")
    "strand=2 'column=home town' 'value=Old Quay'"
    """
    return shlex.join(f"{name}={value}" for name, value in {"strand": strand, **words}.items())


def scope_words(d: Decision) -> Words:
    """The scope of a decision; raises ValueError with the reason where it cannot be read."""
    found: dict[str, str] = {}
    for word in shlex.split(d.scope):
        name, equals, value = word.partition("=")
        if not equals or name not in ("strand", "kind", "weight", "column", "value"):
            raise ValueError(f"the scope {d.scope!r} is not written as strand=1 weight=2")
        found[name] = value
    strand, weight = found.get("strand", "1"), found.get("weight", "1")
    if not (strand.isascii() and strand.isdecimal()):
        raise ValueError(f"the strand {strand!r} is no number")
    try:
        heavy = float(weight)
    except ValueError:
        heavy = -1.0
    if not 0 < heavy <= _HEAVIEST:
        raise ValueError(f"the weight {weight!r} is not a number above 0")
    return Words(int(strand), found.get("kind", ""), heavy, found.get("column", ""), found.get("value", ""))


def fault_of(d: Decision) -> str:
    """Why a decision on a network cannot be understood; empty where it can."""
    if d.decision not in DEEDS[d.kind]:
        return f"unknown decision {d.decision!r} on a {d.kind}; known: {', '.join(DEEDS[d.kind])}"
    if d.kind == "tie" and not d.preferred:
        return "a tie needs a second item in the column preferred"
    try:
        words = scope_words(d)
    except ValueError as error:
        return str(error)
    return "" if d.decision != "set" or words.column else "no column is named"


def strays(decisions: Iterable[Decision], strands: Collection[int]) -> list[tuple[Decision, str]]:
    """Changes by hand that are of no strand there is, and why."""
    own = [d for d in decisions if d.kind in ON_NETWORK and not fault_of(d)]
    return [(d, f"there is no strand {n}") for d in own if (n := scope_words(d).strand) not in strands]


def changes_of(decisions: Iterable[Decision], strand: int) -> tuple[Decision, ...]:
    """The decisions on the network of a strand, in their order."""
    return tuple(d for d in decisions if d.kind in ON_NETWORK and not fault_of(d) and scope_words(d).strand == strand)


def told(d: Decision) -> str:
    """A change to a network by hand."""
    words = scope_words(d)
    both = f"{d.form} and {d.preferred}"
    if d.decision == "set":
        return f"{words.column} of {d.form if d.kind == 'item' else both}: {words.value}"
    if d.kind == "item":
        return f"add {d.form}" if d.decision == "add" else f"leave {d.form} out"
    return {
        "add": f"tie {both}, weight {words.weight:g}",
        "remove": f"untie {both}",
        "reverse": f"turn the tie round: {d.preferred} → {d.form}",
        "weigh": f"weigh the tie of {both} as {words.weight:g}",
    }[d.decision]
