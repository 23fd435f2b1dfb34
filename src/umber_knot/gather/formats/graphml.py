"""GraphML networks; directions, loops and parallel ties as the file has them."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any

from umber_knot.corpus.model import RawRecord
from umber_knot.gather.formats._network import Graph, Tie, kind_of, label_of, records_of
from umber_knot.gather.formats._xml import Element, children, pieces, text_of
from umber_knot.gather.stream import Head, Report, Stream

NAME = "GraphML"


def sniff(head: Head) -> float:
    """How surely this is GraphML, 0 to 1."""
    return 0.97 if re.search(r"<(?:\w+:)?graphml[\s>]", head.text) else 0.0


def graph(stream: Stream, report: Report) -> Graph:
    """The network as the file has it."""
    items: dict[str, tuple[str, dict[str, Any], int]] = {}
    keys: dict[str, tuple[str, str]] = {}
    directed = not re.search(r"edgedefault\s*=\s*[\"']undirected", stream.head.text)
    edges: list[tuple[Element, int, str]] = []
    for element, line, raw in pieces(stream, report, "key", "node", "edge"):
        name = element.tag
        if name == "key":
            own = element.get("id", "")
            keys[own] = element.get("attr.name", "") or own, element.get("attr.type", "string")
        elif name == "edge":
            edges.append((element, line, raw))
        for node in [e for e in element.iter() if e.tag == "node"]:
            facts = _facts(node, keys)
            identifier = node.get("id", "")
            if identifier in items:
                report.problem(line, f"the item {identifier!r} stands twice; the later one counts", raw)
            items[identifier] = (
                label_of(identifier, facts),
                {k: v for k, v in facts.items() if k not in ("label", "name")},
                line,
            )
        if name == "node":
            edges += [(e, line, raw) for e in element.iter() if e.tag == "edge"]

    def ties() -> Iterator[Tie]:
        for edge, line, raw in edges:
            source, target = edge.get("source"), edge.get("target")
            if source is None or target is None:
                report.problem(line, "a tie without source or target; it was left out", raw)
                continue
            way = edge.get("directed")
            yield Tie(source, target, directed if way is None else way == "true", line, raw, _facts(edge, keys))

    return Graph(items, ties(), kind_of(items))


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """The network as records of ties."""
    yield from records_of(stream, report, graph(stream, report))


def _facts(element: Element, keys: dict[str, tuple[str, str]]) -> dict[str, Any]:
    found: dict[str, Any] = {}
    for data in children(element, "data"):
        name, kind = keys.get(data.get("key", ""), (data.get("key", ""), "string"))
        found[name] = _valued(text_of(data), kind)
    return found | {str(k): v for k, v in element.attrib.items() if k not in ("id", "source", "target", "directed")}


def _valued(text: str, kind: str) -> Any:
    """A value in the type that the file declares for it, or as text where it is none such."""
    if kind == "boolean":
        return {"true": True, "1": True, "false": False, "0": False}.get(text.strip().lower(), text)
    read = {"int": int, "long": int, "float": float, "double": float}.get(kind)
    try:
        return read(text) if read is not None else text
    except ValueError:
        return text
