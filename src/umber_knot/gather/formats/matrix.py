"""A network as a matrix with labels: square ones tie items of one kind, rectangular ones rows to columns."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any

from umber_knot.corpus.model import RawRecord
from umber_knot.gather.formats._network import Graph, Tie, records_of
from umber_knot.gather.formats.table import find_delimiter, rows
from umber_knot.gather.matching import field_named, folded
from umber_knot.gather.stream import Head, Report, Stream

NAME = "matrix"
_MEASURES = set(
    "degree indegree outdegree strength closeness betweenness eigenvector pagerank clustering coreness core hindex hits "
    "authority hub eccentricity constraint modularity component cluster community group size weight count citations year "
    "total mean age rank score".split()
)
_NUMBER = re.compile(r"\s*-?\d*[.,]?\d*(?:[eE][-+]?\d+)?\s*$")


def sniff(head: Head) -> float:
    """How surely this is a matrix, 0 to 1: labels on top and at the left, numbers everywhere else."""
    delimiter = find_delimiter(head.text)
    lines = [line for line in head.text.split("\n")[:12] if line.strip()]
    if not delimiter or len(lines) < 3:
        return 0.0
    cells = [[c.strip().strip('"') for c in line.split(delimiter)] for line in lines]
    if len(head.text) >= 20_000:
        cells = cells[:-1]
    header, body = cells[0], cells[1:]
    width = len(header)
    if width < 3 or any(len(row) != width for row in body) or any(_NUMBER.match(c) for c in header[1:]):
        return 0.0
    numbers = all(_NUMBER.match(c) for row in body for c in row[1:])
    if not numbers or any(_NUMBER.match(row[0]) for row in body):
        return 0.0
    square = [row[0] for row in body] == header[1 : 1 + len(body)]
    if not square and any(folded(name) in _MEASURES for name in header[1:]):
        return 0.0  # a table of items with what was measured of them
    beyond = any(c not in ("", "0", "1") for row in body for c in row[1:])
    return 0.9 if square else 0.6 if not header[0] or (beyond and not any(map(field_named, header[1:]))) else 0.0


def graph(stream: Stream, report: Report) -> Graph:
    """The network as the file has it; a square symmetric matrix is undirected, each tie read once."""
    table = [(line, cells, raw) for line, cells, raw in rows(stream, report) if any(c.strip() for c in cells)]
    header = [c.strip() for c in table[0][1]][1:]
    body = [(line, cells[0].strip(), cells[1:], raw) for line, cells, raw in table[1:]]
    labels = [label for _, label, _, _ in body]
    square = set(labels) == set(header)
    values: dict[tuple[str, str], str] = {}
    place: dict[str, tuple[int, str]] = {}
    for line, label, cells, raw in body:
        if len(cells) != len(header):
            report.problem(line, f"{len(cells)} cells where the header has {len(header)}; read as far as it goes", raw)
        place[label] = (line, raw)
        for name, cell in zip(header, cells):
            if cell.strip() not in ("", "0", "0.0", "0,0"):
                values[label, name] = cell.strip()
    symmetric = square and all(values.get((b, a)) == v for (a, b), v in values.items())
    items: dict[str, tuple[str, dict[str, Any], int]] = {
        n: (n, {}, place.get(n, (1, ""))[0]) for n in dict.fromkeys([*labels, *header])
    }
    done: set[tuple[str, str]] = set()

    def ties() -> Iterator[Tie]:
        for (a, b), value in values.items():
            if symmetric and (b, a) in done:
                continue
            done.add((a, b))
            line = place[a][0]
            yield Tie(a, b, square and not symmetric, line, f"{a}, {b}: {value}\n", {"weight": value})

    return Graph(items, ties())


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """The network as records of ties."""
    yield from records_of(stream, report, graph(stream, report))
