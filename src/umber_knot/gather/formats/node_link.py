"""Networks as node-link JSON: a list of nodes, a list of links or edges."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any

from umber_knot.corpus.model import RawRecord
from umber_knot.gather.formats._json import obj, text, values
from umber_knot.gather.formats._network import Graph, Tie, kind_of, label_of, records_of
from umber_knot.gather.stream import Head, Report, Stream

NAME = "node-link JSON"


def sniff(head: Head) -> float:
    """How surely this is a network, 0 to 1."""
    if head.text.lstrip()[:1] != "{":
        return 0.0
    return 0.94 if '"nodes"' in head.text or re.search(r'"(?:links|edges)"\s*:\s*\[', head.text) else 0.0


def graph(stream: Stream, report: Report) -> Graph:
    """The network as the file has it."""
    before = re.split(r'"(?:nodes|links|edges)"', stream.head.text, maxsplit=1)[0]  # a tie may say it of itself
    directed = bool(re.search(r'"directed"\s*:\s*true', before))
    items: dict[str, tuple[str, dict[str, Any], int]] = {}
    number: dict[int, str] = {}
    for n, (node, line, _) in enumerate(values(stream, report, ("nodes",))):
        facts = {**obj(node.get("attributes")), **{k: v for k, v in node.items() if k != "attributes"}}
        identifier = (
            text(facts.get("id"))
            or text(facts.get("key"))
            or text(facts.get("name"))
            or text(facts.get("label"))
            or str(n)
        )
        number[n] = identifier
        items[identifier] = (
            label_of(identifier, facts),
            {k: v for k, v in facts.items() if k not in ("id", "label", "name", "key")},
            line,
        )

    def ties() -> Iterator[Tie]:
        for link, line, raw in values(stream, report, ("links", "edges")):
            ends = [_end(link.get(end), items, number) for end in ("source", "target")]
            if "" in ends:
                report.problem(line, "a tie without source or target; it was left out", raw)
                continue
            facts = {k: v for k, v in link.items() if k not in ("source", "target", "key", "attributes")} | obj(
                link.get("attributes")
            )
            way = link.get("directed")
            yield Tie(ends[0], ends[1], directed if way is None else bool(way), line, raw, facts)

    return Graph(items, ties(), kind_of(items))


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """The network as records of ties."""
    yield from records_of(stream, report, graph(stream, report))


def _end(value: Any, items: dict[str, Any], number: dict[int, str]) -> str:
    """The item a tie ends in: by identifier, or by its place in the list."""
    if isinstance(value, dict):
        return text(value.get("id"))
    if text(value) in items:
        return text(value)
    if isinstance(value, int) and not isinstance(value, bool) and value in number:
        return number[value]
    return text(value)
