"""What the recipe's section on measures writes: columns of items, figures, yardsticks and removal trials; and how."""

from __future__ import annotations

import json
import math
from collections.abc import Mapping
from typing import Any

import numpy as np

from umber_knot.corpus.model import Floats
from umber_knot.network.measures.registry import of_column
from umber_knot.network.removal import WATCHED
from umber_knot.network.yardsticks import Yardstick, compared
from umber_knot.report.subject import Subject
from umber_knot.report.tables import table


def measure_columns(subject: Subject) -> dict[str, list[Any]]:
    """The columns of ``items.csv`` that were asked for, in the order of the recipe."""
    found: dict[str, Floats] = {}
    for (stage, *_), result in subject.measured.items():
        if stage == "measure":
            found |= result
    return {name: listed(found[name]) for name in subject.measures.of_items if name in found}


def listed(values: Floats) -> list[Any]:
    """Values for a table: whole numbers without a point, nothing where there is none."""
    known = np.nan_to_num(values)
    whole = bool((known == np.round(known)).all() and (np.abs(known) < 2**53).all())
    return [None if math.isnan(v) else int(v) if whole else v for v in values.tolist()]


def measure_files(subject: Subject) -> dict[str, str]:
    """File name → text: ``summary.json``, ``yardsticks.csv``, ``removal.csv``, those that were asked for."""
    files: dict[str, str] = {}
    for (stage, *_), result in subject.measured.items():
        if stage == "figures":
            wanted = subject.measures.of_network
            files["summary.json"] = json.dumps({name: plain(result[name]) for name in wanted}, indent=1) + "\n"
    if sticks := yardsticks_of(subject):
        columns = ("figure", "here", "mean", "deviation", "least", "greatest", "at_least")
        files["yardsticks.csv"] = table({c: [_none(getattr(y, c)) for y in sticks] for c in columns})
    rows: dict[str, list[Any]] = {
        name: [] for name in ("order", "removed", *WATCHED, *(f"{w}_deviation" for w in WATCHED))
    }
    for (stage, _, variant), result in subject.measured.items():
        if stage == "removal":
            n = len(result[WATCHED[0]])
            rows["order"] += [variant.split(":")[0]] * n
            rows["removed"] += [k / max(n - 1, 1) for k in range(n)]
            for name in WATCHED:
                rows[name] += listed_exact(result[name])
                rows[f"{name}_deviation"] += listed_exact(result.get(f"{name} deviation", np.full(n, np.nan)))
    if rows["order"]:
        files["removal.csv"] = table(rows)
    return files


def listed_exact(values: Floats) -> list[Any]:
    return [None if math.isnan(v) else v for v in values.tolist()]


def plain(value: float) -> float | int | None:
    """A figure for JSON, nothing where it has no meaning."""
    return None if math.isnan(value) else value


def _none(value: Any) -> Any:
    return None if isinstance(value, float) and math.isnan(value) else value


def yardsticks_of(subject: Subject) -> list[Yardstick]:
    """The network's figures beside those of random networks."""
    for (stage, *_), result in subject.measured.items():
        if stage == "yardstick":
            return beside(subject.network, result)
    return []


def beside(network: Any, values: Mapping[str, Floats]) -> list[Yardstick]:
    """Each figure of a network beside its values in random ones."""
    from umber_knot.network.yardsticks import watched

    here = watched(network)
    return [compared(name, here[name], values[name]) for name in here if name in values]


def measure_lines(subject: Subject) -> list[str]:
    """How items and network were measured, for the description of the method."""
    m = subject.measures
    lines = [""]
    for column in m.of_items:
        one, weighted = of_column(column)
        way = "distances" if m.weights == "distance" else "closeness (a tie's length is 1/w)"
        read = f", weights read as {way}" if weighted and one.heavy else ""
        lines.append(f"- {column}: {one.formula}{', weighted' if weighted else ''}{read} ({one.source})")
    if sticks := yardsticks_of(subject):
        lines.append(
            f"- {m.runs} random networks ({m.yardstick}), seeds {m.seed} to {m.seed + m.runs - 1}: "
            + "; ".join(stick.said() for stick in sticks)
        )
    if m.removal:
        orders = ", ".join(order.replace("_", " ") for order in m.removal)
        lines.append(
            f"- removal trials: {orders}"
            + (f" (random: {m.runs} seeds from {m.seed})" if "random" in m.removal else "")
        )
    return ["", "## Measures", *lines] if len(lines) > 1 else []
