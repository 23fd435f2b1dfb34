"""The tables of the headless contract: items, ties, topics, records and decisions as CSV (RFC 4180, UTF-8)."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence

import numpy as np

from umber_knot.chart.drawing import Drawing
from umber_knot.corpus.model import Corpus
from umber_knot.lineage.stages import Grouped, Related, Stable
from umber_knot.network.model import Network


def number(value: float, digits: int = 6) -> str:
    """A number as short as it can be said; nothing for NaN."""
    if value != value:
        return ""
    return f"{value:.{digits}f}".rstrip("0").rstrip(".") if value % 1 else str(int(value))


def csv_text(header: Sequence[str], rows: Iterable[Sequence[object]]) -> str:
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(header)
    writer.writerows(rows)
    return out.getvalue()


def item_columns(network: Network, grouped: Grouped, stable: Stable, drawing: Drawing) -> dict[str, list[object]]:
    """The columns of ``items.csv``; missing values are None."""
    none_if_zero = [[v or None for v in years.tolist()] for years in (network.first_year, network.last_year)]
    names = {t.number - 1: t.number for t in grouped.topics}

    def known(values: Iterable[float], digits: int) -> list[object]:
        return [None if v != v else round(v, digits) for v in values]

    return {
        "id": [f"n{i + 1}" for i in range(len(network))],
        "label": list(network.label),
        "kind": [network.kind] * len(network),
        "records": network.records.tolist(),
        "first_year": none_if_zero[0],
        "last_year": none_if_zero[1],
        "mean_year": known(network.mean_year.tolist(), 3),
        "citations": network.citations.tolist(),
        "degree": network.degree().tolist(),
        "strength": known(network.strength().tolist(), 6),
        "topic": [names.get(t) for t in grouped.topic.tolist()],
        "confidence": known(stable.confidence.tolist(), 3),
        "x": drawing.x.tolist(),
        "y": drawing.y.tolist(),
    }


def table(columns: dict[str, list[object]]) -> str:
    """Columns of equal length as CSV, numbers as short as they can be said."""

    def cell(value: object) -> object:
        return "" if value is None else number(value) if isinstance(value, float) else value

    return csv_text(list(columns), ([cell(v) for v in row] for row in zip(*columns.values())))


def ties_csv(network: Network) -> str:
    rows = (
        (network.label[s], network.label[t], number(w), c, "no", first or "", last or "")
        for s, t, w, c, first, last in zip(
            network.source.tolist(), network.target.tolist(), network.weight.tolist(), network.count.tolist(),
            network.tie_first.tolist(), network.tie_last.tolist(),
        )
    )  # fmt: skip
    return csv_text(("source", "target", "weight", "count", "directed", "first_year", "last_year"), rows)


def topics_csv(grouped: Grouped) -> str:
    rows = ((t.number, t.name, t.items, t.records, "; ".join(t.terms)) for t in grouped.topics)
    return csv_text(("topic", "name", "items", "records", "terms"), rows)


def records_csv(corpus: Corpus, related: Related) -> str:
    """Every record with its source, line, and whether and with how many items it is in the network."""
    network, counted = related.filtered.network, related.counted
    shown = np.zeros(int(max(counted.item.max(initial=-1), network.entity.max(initial=-1))) + 1, bool)
    shown[network.entity] = True
    items = np.bincount(counted.record[shown[counted.item]], minlength=len(corpus))
    rows = (
        (number_, corpus.sources[s].name, line, entry, title, year or "", cited, k)
        for number_, s, line, entry, title, year, cited, k in zip(
            corpus.id.tolist(), corpus.source.tolist(), corpus.line.tolist(), corpus.entry, corpus.title,
            corpus.year.tolist(), corpus.citations.tolist(), items.tolist(),
        )
    )  # fmt: skip
    return csv_text(("id", "source", "line", "entry", "title", "year", "citations", "items"), rows)
