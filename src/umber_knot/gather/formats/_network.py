"""A network from a file as records: every tie is a record of the two items it joins, with its weight and its line; an item
with attributes is a row that says them of it, which any network of such items is joined with.

So the ties that other stages count are the file's own, names can be reconciled, and the evidence of a tie is its line.
An item without ties is a record of itself. Options: ``kind`` of item (default person), ``direction`` ("as given",
"directed", "undirected").
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from typing import Any, NamedTuple

from umber_knot.corpus.model import KINDS, RawRecord
from umber_knot.gather.stream import Report, Stream

#: What files call a tie's weight, in the order of preference.
WEIGHTS = (
    "weight",
    "value",
    "strength",
    "count",
    "records",
    "tie_weight",
    "freq",
    "frequency",
    "gewicht",
    "poids",
    "peso",
)
_LABELS = ("label", "name", "id")
#: What we write of an item beside its attributes.
_OWN = ("kind", "form", "records", "citations", "first_date", "last_date", "mean_year")


class Tie(NamedTuple):
    """One tie of a file, its ends by the identifiers of the items."""

    source: str
    target: str
    directed: bool
    line: int
    raw: str
    facts: Mapping[str, Any] = {}


class Graph(NamedTuple):
    """A network as a file has it. ``items``: identifier → (label, attributes, line), complete before the first tie is
    read or growing with them; ``kind`` of the items where the file says so for all."""

    items: Mapping[str, tuple[str, Mapping[str, Any], int]]
    ties: Iterator[Tie]
    kind: str = ""


def kind_of(items: Mapping[str, tuple[str, Mapping[str, Any], int]]) -> str:
    """The kind that every item states; empty where they state none, or several."""
    kinds = {facts.get("kind") for _, facts, _ in items.values()}
    found = kinds.pop() if len(kinds) == 1 else ""
    return found if isinstance(found, str) else ""


def label_of(identifier: str, facts: Mapping[str, Any]) -> str:
    """What an item is called."""
    return next((str(facts[key]).strip() for key in _LABELS if str(facts.get(key, "")).strip()), identifier)


def records_of(stream: Stream, report: Report, graph: Graph) -> Iterator[RawRecord]:
    """Records of the ties, then of the items without any.

    What the network is, loops, parallel ties and ends that no item explains are reported, never dropped.
    """
    items, ties, kind = graph
    chosen = stream.options.get("kind")
    kind = chosen if chosen in KINDS else kind if kind in KINDS else "person"
    direction = stream.options.get("direction", "as given")
    tied: set[str] = set()
    seen: set[tuple[str, str]] = set()
    counts = {"directed": 0, "undirected": 0}
    loops: list[int] = []
    parallel: list[int] = []
    unknown: list[int] = []
    count = 0
    for tie in ties:
        count += 1
        directed = direction == "directed" or (tie.directed and direction != "undirected")
        counts["directed" if directed else "undirected"] += 1
        if items and (tie.source not in items or tie.target not in items):
            unknown.append(tie.line)
        a, b = (items[end][0] if end in items else end for end in (tie.source, tie.target))
        tied |= {tie.source, tie.target}
        pair = (a, b) if directed or a <= b else (b, a)
        if a == b:
            loops.append(tie.line)
        elif pair in seen:
            parallel.append(tie.line)
        seen.add(pair)
        others = ((kind, "from", a), (kind, "to", b)) if directed else ((kind, "", a), (kind, "", b))
        yield RawRecord(
            line=tie.line,
            raw=tie.raw,
            type="tie",
            title=f"{a} {'→' if directed else '–'} {b}",
            others=others,
            weight=_weight(tie, report),
            extra={k: v for k, v in tie.facts.items() if k not in WEIGHTS and v not in ("", None)},
        )
    for name, (label, facts, line) in items.items():
        alone = name not in tied
        told = {k: v for k, v in facts.items() if k not in (*_LABELS, *_OWN) and v not in ("", None, name)}
        if alone or told:
            yield RawRecord(
                line=line,
                entry=label,
                raw=label + "\n",
                type="item",
                title=label,
                others=((kind, "", label),) if alone else (),
                extra=told,
            )
    what = "mixed" if all(counts.values()) else next((k for k, n in counts.items() if n), "without ties")
    report.told = f"{what}, {len(items.keys() | tied):,} items, {count:,} ties"
    for lines, what, message in (
        (loops, "self-loop", "an item is tied to itself; it stays so where loops are kept"),
        (parallel, "parallel tie", "the same two items are tied again; all are kept and their weights add up"),
        (unknown, "unlisted end", "the file does not list an item it ties; it was made from its identifier"),
    ):
        if lines:
            report.problem(lines[0], f"{len(lines):,} {what}{'s' * (len(lines) != 1)}, the first here: {message}")


def _weight(tie: Tie, report: Report) -> float:
    written = next((tie.facts[k] for k in WEIGHTS if tie.facts.get(k) not in (None, "")), 1.0)
    try:
        weight = float(str(written).replace(",", "."))
    except ValueError:
        weight = math.nan
    if not math.isfinite(weight) or weight < 0:
        report.problem(
            tie.line, f"the weight {str(written)[:40]!r} is no number from 0 up; the tie is kept with weight 1", tie.raw
        )
        return 1.0
    return weight
