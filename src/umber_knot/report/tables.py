"""The tables of the headless contract: items, ties, topics, records and decisions as CSV (RFC 4180, UTF-8)."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Mapping, Sequence
from typing import Any

import numpy as np

from umber_knot.chart.drawing import Drawing
from umber_knot.corpus.model import Corpus, line_name
from umber_knot.group.result import Grouped, Stable
from umber_knot.network.matrix import dense
from umber_knot.network.model import Days, Network, years
from umber_knot.relate.result import Related

_RUNS = ("=", "+", "-", "@", "\t", "\r")


def number(value: float) -> str:
    """A number as short as it can be said and still reads back equal; nothing for NaN.

    >>> number(0.1 + 0.2), number(3.0), number(float("nan"))
    ('0.30000000000000004', '3', '')
    """
    if value != value:
        return ""
    return str(int(value)) if value % 1 == 0 and abs(value) < 1e15 else repr(value)


def csv_text(header: Sequence[str], rows: Iterable[Sequence[object]]) -> str:
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(header)
    writer.writerows(rows)
    return out.getvalue()


def for_spreadsheet(table: str) -> str:
    """A table as a spreadsheet may be given it: a text that it would run as a formula begins with an apostrophe.

    >>> for_spreadsheet("label,weight\\r\\n=1+1,-2.5\\r\\n").splitlines()[1]
    "'=1+1,-2.5"
    """
    rows = csv.reader(io.StringIO(table, newline=""))
    return csv_text((), ([_harmless(cell) for cell in row] for row in rows)).partition("\r\n")[2]


def _harmless(cell: str) -> str:
    if not cell.startswith(_RUNS):
        return cell
    try:
        float(cell)
        return cell
    except ValueError:
        return "'" + cell


def item_columns(network: Network, grouped: Grouped, stable: Stable, drawing: Drawing) -> dict[str, list[Any]]:
    """The columns of ``items.csv``; missing values are None. Attributes stand after the fixed columns."""
    names = {t.number - 1: t.number for t in grouped.topics}

    def known(values: Iterable[float]) -> list[Any]:
        return [None if v != v else v for v in values]

    fixed: dict[str, list[Any]] = {
        "id": [f"n{i + 1}" for i in range(len(network))],
        "label": list(network.told_apart()),
        "kind": [kind for kind, _ in network.identities()],
        "records": network.records.tolist(),
        "first_year": _years(network.first),
        "last_year": _years(network.last),
        "mean_year": known(network.mean_year.tolist()),
        "citations": network.citations.tolist(),
        "degree": network.degree().tolist(),
        "strength": known(network.strength().tolist()),
        "topic": [names.get(t) for t in grouped.topic.tolist()],
        "confidence": known(stable.confidence.tolist()),
        "x": drawing.x.tolist(),
        "y": drawing.y.tolist(),
    }
    return fixed | {name: a.listed() for name, a in network.item_columns.items() if name not in fixed}


def _years(days: Days) -> list[Any]:
    return [year or None for year in years(days).tolist()]


def table(columns: Mapping[str, Sequence[Any]]) -> str:
    """Columns of equal length as CSV, numbers as short as they can be said."""
    return csv_text(list(columns), ([_cell(v) for v in row] for row in zip(*columns.values())))


def _cell(value: Any) -> Any:
    return "" if value is None else number(value) if isinstance(value, float) else value


def ties_csv(network: Network) -> str:
    """The ties between labels; attributes stand after the fixed columns."""
    labels = list(network.told_apart())
    columns: dict[str, Sequence[Any]] = {
        "source": [labels[s] for s in network.source.tolist()],
        "target": [labels[t] for t in network.target.tolist()],
        "weight": network.weight.tolist(),
        "count": network.count.tolist(),
        "directed": ["yes" if network.directed else "no"] * network.ties,
        "first_year": _years(network.tie_first),
        "last_year": _years(network.tie_last),
    }
    if len(network.relation_code):
        columns["relation"] = [network.relations[k] for k in network.relation_code.tolist()]
    columns |= {name: a.listed() for name, a in network.tie_columns.items() if name not in columns}
    return table(columns)


def matrix_csv(network: Network) -> str:
    """The matrix of weights, labels in the first row and column."""
    labels = network.told_apart()
    rows = ([label, *map(number, row)] for label, row in zip(labels, dense(network).tolist()))
    return csv_text(["", *labels], rows)


def topics_csv(grouped: Grouped) -> str:
    rows = ((t.number, t.name, t.items, t.records, "; ".join(t.terms)) for t in grouped.topics)
    return csv_text(("topic", "name", "items", "records", "terms"), rows)


def records_csv(corpus: Corpus, related: Related) -> str:
    """Every record with its anchor, source, line, and whether and with how many items it is in the network; ``also``
    lists where it was found besides."""
    counted = related.counted
    shown = np.zeros(len(counted.things), bool)
    shown[related.shown()] = True
    items = np.bincount(counted.record[shown[counted.item]], minlength=len(corpus))
    also: dict[int, list[str]] = {}
    f = corpus.also
    for record, source, line in zip(f.record.tolist(), f.source.tolist(), f.line.tolist()):
        also.setdefault(record, []).append(line_name(corpus.sources[source].name, line))
    rows = (
        (
            corpus.anchor(r),
            corpus.sources[s].name,
            line,
            entry,
            title,
            year or "",
            cited,
            k,
            " | ".join(also.get(r, ())),
        )
        for r, (s, line, entry, title, year, cited, k) in enumerate(
            zip(
                corpus.source.tolist(),
                corpus.line.tolist(),
                corpus.entry,
                corpus.title,
                corpus.year.tolist(),
                corpus.citations.tolist(),
                items.tolist(),
            )
        )
    )
    return csv_text(("id", "source", "line", "entry", "title", "year", "citations", "items", "also"), rows)
