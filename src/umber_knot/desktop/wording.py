"""Steps and choices in the words of the status line and of undo."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from umber_knot.corpus.by_hand import told
from umber_knot.corpus.model import ON_NETWORK, Decision


def of_decisions(decisions: Sequence[Decision]) -> str:
    """What making some decisions is called."""
    d = decisions[0]
    more = f" and {len(decisions) - 1} more" if len(decisions) > 1 else ""
    if d.scope == "rule":
        return (
            f"write “{d.preferred}” for “{d.form}”" if d.decision == "merge" else f"set aside all that “{d.form}” fits"
        ) + more
    if d.kind == "record" and d.decision in ("merge", "aside"):
        return (
            f"join {d.form} with {d.preferred}"
            if d.decision == "merge"
            else f"leave out {d.form}: {d.note or 'no reason given'}"
        ) + more
    if d.kind in ON_NETWORK:
        return told(d) + more
    words = {
        "merge": f"merge {d.form} → {d.preferred}",
        "apart": f"keep apart {d.form} and {d.preferred}",
        "aside": f"set aside “{d.form}”",
        "prefer": f"prefer “{d.preferred}”",
        "split": f"split off {d.form}",
    }
    return words[d.decision] + more


def of_values(values: dict[str, Any]) -> str:
    """What changing values of the recipe is called."""
    return ", ".join(f"{key.replace('_', ' ')} {shown(value)}" for key, value in values.items())


def shown(value: Any) -> str:
    """A value of the recipe as it is read."""
    if isinstance(value, (tuple, list)):
        return ("–" if all(isinstance(v, int) for v in value) else ", ").join(map(str, value)) if value else "all"
    return f"{value:g}" if isinstance(value, float) else str(value)


def several(n: int, word: str) -> str:
    """A number with its word: ``1 file``, ``12 files``."""
    return f"{n:,} {word}{'s' * (n != 1)}"


def figure(value: float) -> str:
    """A measured number in few signs: ``0.0251``, ``3,972``, nothing where there is none.

    >>> figure(0.02512345), figure(10152.4), figure(float("nan"))
    ('0.0251', '10,152', '–')
    """
    if value != value:
        return "–"
    return f"{value:,.0f}" if abs(value) >= 1000 or value == round(value) else f"{value:.3g}"
