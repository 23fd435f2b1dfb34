"""A network straight from a file, as it is: directions, loops, parallel ties, dates and attributes kept."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import Any

import numpy as np

from umber_knot.corpus.model import Problem
from umber_knot.corpus.texts import Texts
from umber_knot.errors import UserError
from umber_knot.gather.formats._network import WEIGHTS, Graph, Tie
from umber_knot.gather.read import readers
from umber_knot.gather.stream import Report, Stream
from umber_knot.network.columns import OF_ITEMS, OF_TIES, day_numbers, typed
from umber_knot.network.gml import gml_name
from umber_knot.network.model import Attribute, Network

#: A table of items beside a table of ties: what the names of both end in.
_TIES, _ITEMS = "ties.csv", "items.csv"


def read_network(path: Path, options: Mapping[str, Any] | None = None) -> tuple[Network, tuple[Problem, ...]]:
    """The network in a file (GraphML, GML, node-link JSON, DOT, a matrix, a table of ties) and what was odd in it.

    A table ``NAME-ties.csv`` is read with the table ``NAME-items.csv`` beside it. UserError when the file is no
    network.
    """
    chosen = dict(options or {})
    beside = path.with_name(path.name[: -len(_TIES)] + _ITEMS) if path.name.endswith(_TIES) else path
    if beside != path and beside.is_file():
        chosen.setdefault("items", {"file": str(beside), "key": "id"})
    report = Report()
    stream = Stream(path, report, options=chosen)
    offered = [reader for reader in readers() if hasattr(reader, "graph")]
    reader = max(offered, key=lambda one: one.sniff(stream.head))
    if not reader.sniff(stream.head):
        raise UserError(
            "this is not a network",
            place=str(path),
            cure="GraphML, GML, node-link JSON, DOT and tables of ties are read",
        )
    make: Callable[[Stream, Report], Graph] = reader.graph
    network = network_of(make(stream, report), report)
    return network, report.listed()


def network_of(graph: Graph, report: Report) -> Network:
    """A network of what a file holds; ends that no item explains become items.

    Where some ties have a direction and some have none, those without are taken both ways, and it is said.
    """
    items: dict[str, tuple[str, dict[str, Any]]] = {}
    listed = list(graph.ties)
    for name, (label, told_of, _) in graph.items.items():
        items[name] = label, {_plain(k): v for k, v in told_of.items()}
    for tie in listed:
        for end in (tie.source, tie.target):
            items.setdefault(end, (end, {}))
    number = {name: i for i, name in enumerate(items)}
    ways = {tie.directed for tie in listed}
    if len(ways) == 2:
        loose = [t for t in listed if not t.directed]
        report.problem(
            loose[0].line, f"{len(loose):,} of {len(listed):,} ties have no direction; each is taken both ways"
        )
        listed += [t._replace(source=t.target, target=t.source) for t in loose]
    directed = True in ways
    source, target = (np.array([number[getattr(t, end)] for t in listed], np.int32) for end in ("source", "target"))
    if not directed:
        source, target = np.minimum(source, target), np.maximum(source, target)
    facts = [facts for _, facts in items.values()]
    kinds, kind_code = _coded([f.get("kind") for f in facts], graph.kind or "item")
    told = [{_plain(k): v for k, v in t.facts.items()} for t in listed]
    relations, relation_code = _coded([f.get("relation") for f in told], "")
    labels = Texts.of(label for label, _ in items.values())
    weights = np.array([_weight(t, f, report) for t, f in zip(listed, told)], np.float64)
    used = _weight_name(told)
    return Network(
        kinds=kinds,
        kind_code=kind_code,
        label=labels,
        form=_forms(labels, facts, list(items)),
        entity=np.arange(len(items), dtype=np.int32),
        records=_whole(facts, "records", 0),
        citations=_whole(facts, "citations", 0),
        first=day_numbers(f.get("first_date") for f in facts),
        last=day_numbers(f.get("last_date") for f in facts),
        mean_year=np.array([_float(f.get("mean_year")) for f in facts], np.float64),
        source=source,
        target=target,
        weight=weights,
        count=_whole(told, "count", 1),
        tie_first=day_numbers(f.get("first_date") for f in told),
        tie_last=day_numbers(f.get("last_date") for f in told),
        directed=directed,
        relations=relations,
        relation_code=relation_code,
        item_columns=_attributes(facts, (*OF_ITEMS, "id")),
        tie_columns=_attributes(told, (*OF_TIES, used)),
    )


_OWN = {gml_name(name): name for name in (*OF_ITEMS, *OF_TIES)} | {
    name.replace("_", ""): name for name in (*OF_ITEMS, *OF_TIES)
}


def _plain(name: str) -> str:
    """Our own name of a column, which GML writes without its marks and tables without its capitals."""
    return _OWN.get(name, name)


def _forms(labels: Texts, facts: Sequence[Mapping[str, Any]], identifiers: Sequence[str]) -> Texts:
    """What names each item: the form the file gives, its label where that is its own, else its identifier."""
    counts: dict[str, int] = {}
    for label in labels:
        counts[label] = counts.get(label, 0) + 1
    return Texts.of(
        str(f["form"]) if f.get("form") not in (None, "") else label if counts[label] == 1 else name
        for label, f, name in zip(labels, facts, identifiers)
    )


def _coded(values: Sequence[Any], otherwise: str) -> tuple[tuple[str, ...], Any]:
    """Distinct values in the order of first use, and the code of each (empty where there is one value)."""
    table: dict[str, int] = {}
    codes = [table.setdefault(str(v) if v not in (None, "") else otherwise, len(table)) for v in values]
    names = tuple(table) or (otherwise,)
    return names, np.array(codes if len(names) > 1 else [], np.int16)


def _attributes(facts: Sequence[Mapping[str, Any]], ours: Sequence[str]) -> dict[str, Attribute]:
    names = dict.fromkeys(k for f in facts for k in f if k not in ours)
    return {name: typed([f.get(name) for f in facts]) for name in names}


def _whole(facts: Sequence[Mapping[str, Any]], name: str, otherwise: int) -> Any:
    return np.array([int(v) if (v := _float(f.get(name))) == v else otherwise for f in facts], np.int32)


def _float(value: Any) -> float:
    try:
        return float(value) if value not in (None, "") and not isinstance(value, bool) else float("nan")
    except (TypeError, ValueError):
        return float("nan")


def _weight_name(told: Sequence[Mapping[str, Any]]) -> str:
    return next((name for name in WEIGHTS if any(f.get(name) not in (None, "") for f in told)), "weight")


def _weight(tie: Tie, told: Mapping[str, Any], report: Report) -> float:
    """A tie's weight, 1 where the file gives none; negative ones are kept as they are."""
    written = next((told[k] for k in WEIGHTS if told.get(k) not in (None, "")), 1.0)
    weight = _float(str(written).replace(",", "."))
    if not np.isfinite(weight):
        report.problem(
            tie.line, f"the weight {str(written)[:40]!r} is no number; the tie is kept with weight 1", tie.raw
        )
        return 1.0
    return weight
