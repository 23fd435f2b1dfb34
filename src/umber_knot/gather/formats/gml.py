"""GML networks: nested lists of keys and values."""

from __future__ import annotations

import html
import re
from collections.abc import Iterator
from typing import Any

from umber_knot.corpus.model import RawRecord
from umber_knot.errors import UserError
from umber_knot.gather.formats._network import Graph, Tie, kind_of, label_of, records_of
from umber_knot.gather.stream import Head, Report, Stream

NAME = "GML"
LARGEST = 400_000_000
_TOKEN = re.compile(r'\s+|#[^\n]*|"([^"]*)"|(\[)|(\])|([^\s\[\]"]+)')
DEEPEST = 100


def sniff(head: Head) -> float:
    """How surely this is GML, 0 to 1."""
    return 0.95 if re.search(r"^\s*graph\s*\[", head.text, re.M) else 0.0


def graph(stream: Stream, report: Report) -> Graph:
    """The network as the file has it."""
    items: dict[str, tuple[str, dict[str, Any], int]] = {}
    ties: list[Tie] = []
    directed = False
    for name, facts, line, raw in _blocks(stream.whole(LARGEST, "GML"), report):
        if name == "node":
            identifier = str(facts.pop("id", ""))
            if not identifier:
                report.problem(line, "an item without an id; it was left out", raw)
                continue
            label = label_of(identifier, facts)
            items[identifier] = (label, {k: v for k, v in facts.items() if k not in ("label", "name")}, line)
        elif name == "edge":
            if "source" not in facts or "target" not in facts:
                report.problem(line, "a tie without source or target; it was left out", raw)
                continue
            ties.append(Tie(str(facts.pop("source")), str(facts.pop("target")), False, line, raw, facts))
        else:
            directed = str(facts.get("directed", "0")) == "1"
    return Graph(items, (t._replace(directed=directed) for t in ties), kind_of(items))


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """The network as records of ties."""
    yield from records_of(stream, report, graph(stream, report))


def _blocks(text: str, report: Report) -> Iterator[tuple[str, dict[str, Any], int, str]]:
    """(node, edge or graph; its keys and values; line; raw text) of every such list, the graph last."""
    stack: list[tuple[str, dict[str, Any], int, int]] = [("", {}, 1, 0)]
    key = ""
    line, counted = 1, 0
    for found in _TOKEN.finditer(text):
        quoted, opened, closed, word = found.groups()
        if quoted is None and not opened and not closed and not word:
            continue
        line += text.count("\n", counted, found.start())
        counted = found.start()
        if opened:
            if len(stack) > DEEPEST:
                raise UserError(f"lists nested more than {DEEPEST} deep", place=f"line {line}", cure="Export it again")
            stack.append((key, {}, line, found.start()))
            key = ""
        elif closed:
            if len(stack) == 1:
                report.problem(line, "a bracket closes that was never opened; it was passed over")
                continue
            name, facts, start, at = stack.pop()
            if name in ("node", "edge", "graph"):
                yield name, facts, start, f"{name} {text[at : min(found.end(), at + 2000)]}"
            else:
                stack[-1][1].setdefault(name, " ".join(str(v) for v in facts.values())[:200])
            key = ""
        elif key:
            stack[-1][1].setdefault(key, html.unescape(quoted) if quoted is not None else _number(word))
            key = ""
        else:
            key = word or ""
            if quoted is not None:
                report.problem(line, "a value without a key; it was left out", quoted)
    if len(stack) > 1:
        report.problem(stack[-1][2], "a bracket is never closed; the file may be cut short")
        for name, facts, start, at in stack[:0:-1]:
            if name in ("node", "edge", "graph"):
                yield name, facts, start, f"{name} {text[at : at + 2000]}"


def _number(word: str) -> int | float | str:
    """A bare word as the number it is; anything else stays as written."""
    for read in (int, float):
        try:
            return read(word)
        except ValueError:
            continue
    return word
