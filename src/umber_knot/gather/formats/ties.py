"""A network as a table of ties: source, target and perhaps a weight, with an optional table of items.

Options: ``items`` {"file": …, "key": column} names a table of items, whose other columns become their labels and facts.
"""

from __future__ import annotations

from collections.abc import Iterator
from itertools import islice
from pathlib import Path
from typing import Any

from umber_knot.corpus.model import RawRecord
from umber_knot.errors import UserError
from umber_knot.gather.formats._network import WEIGHTS, Graph, Tie, label_of, records_of
from umber_knot.gather.formats.table import find_delimiter, rows
from umber_knot.gather.matching import folded
from umber_knot.gather.stream import Head, Report, Stream

NAME = "table of ties"
_ENDS = (
    ("source", "target"),
    ("from", "to"),
    ("ego", "alter"),
    ("node1", "node2"),
    ("item1", "item2"),
    ("person1", "person2"),
    ("tail", "head"),
    ("quelle", "ziel"),
    ("src", "dst"),
    ("sourceid", "targetid"),
)
#: Columns of letters; a table that has one of them beside from and to lists letters, not ties.
_LETTERS = {"date", "datum", "sent", "place", "ort", "text", "body", "subject", "year", "cc"}


def sniff(head: Head) -> float:
    """How surely this is a table of ties, 0 to 1."""
    delimiter = find_delimiter(head.text)
    first = next((line for line in head.text.split("\n") if line.strip()), "")
    names = [folded(name) for name in first.split(delimiter)] if delimiter else []
    ends = _ends(names)
    return 0.0 if not ends or (ends[0] == "from" and _LETTERS & set(names)) else 0.85


def _ends(names: list[str]) -> tuple[str, str] | None:
    return next(((a, b) for a, b in _ENDS if a in names and b in names), None)


def graph(stream: Stream, report: Report) -> Graph:
    """The network as the file has it."""
    table = rows(stream, report)
    header = [
        cell.strip() for cell in next(islice((cells for _, cells, _ in table if any(c.strip() for c in cells)), 1), [])
    ]
    names = [folded(name) for name in header]
    ends = _ends(names)
    if ends is None:
        raise UserError(
            "no columns are called source and target", cure=f"The first row reads: {', '.join(header)[:80]!r}"
        )
    a, b = names.index(ends[0]), names.index(ends[1])
    way = names.index("directed") if "directed" in names else -1
    kind = names.index("type") if "type" in names else -1
    items = _items(stream.options.get("items"))
    called = [short if short in WEIGHTS else name for short, name in zip(names, header)]

    def ties() -> Iterator[Tie]:
        for line, cells, raw in table:
            if len(cells) <= max(a, b) or not cells[a].strip() or not cells[b].strip():
                if any(c.strip() for c in cells):
                    report.problem(line, "a tie without source or target; it was left out", raw)
                continue
            told = (
                (cells[way] if 0 <= way < len(cells) else cells[kind] if 0 <= kind < len(cells) else "").strip().lower()
            )
            facts = {called[k]: cell.strip() for k, cell in enumerate(cells[: len(header)]) if k not in (a, b)}
            yield Tie(cells[a].strip(), cells[b].strip(), told in ("1", "true", "yes", "directed"), line, raw, facts)

    return Graph(items, ties())


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """The network as records of ties."""
    yield from records_of(stream, report, graph(stream, report))


def _known(name: str) -> str:
    """A column's name; of those that every network has, in small letters."""
    return folded(name) if folded(name) in ("id", "label", "name", "kind") else name


def _items(option: Any) -> dict[str, tuple[str, dict[str, Any], int]]:
    if not isinstance(option, dict) or not option.get("file"):
        return {}
    from umber_knot.gather.read import rows_of

    path = Path(str(option["file"]))
    table = rows_of(path)
    header = [cell.strip() for cell in next(table, (0, [], ""))[1]]
    key = str(option.get("key", "") or (header[0] if header else ""))
    if key not in header:
        raise UserError(f"{path.name} has no column {key!r}", cure=f"It has: {', '.join(header)[:120]}")
    at = header.index(key)
    found = {}
    for line, cells, _ in table:
        if len(cells) > at and cells[at].strip():
            facts = {_known(h): c.strip() for h, c in zip(header, cells) if c.strip()}
            found[cells[at].strip()] = (
                label_of(cells[at].strip(), {k: v for k, v in facts.items() if k != "id"}),
                facts,
                line,
            )
    return found
