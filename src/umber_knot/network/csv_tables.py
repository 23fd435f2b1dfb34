"""A network as two CSV tables, of its items and of its ties, with identifiers that no label has to be."""

from __future__ import annotations

import csv
import io
from collections.abc import Mapping, Sequence
from typing import Any

from umber_knot.network.columns import item_columns, tie_columns
from umber_knot.network.model import Network


def items_table(network: Network, more: Mapping[str, Sequence[Any]] | None = None) -> str:
    """The items as CSV (RFC 4180): ``id``, then every column."""
    columns = item_columns(network, more)
    return _csv(["id", *columns], ([f"n{i + 1}", *row] for i, row in enumerate(zip(*columns.values()))))


def ties_table(network: Network) -> str:
    """The ties as CSV (RFC 4180): the identifiers of their ends, ``directed``, then every column."""
    columns, way = tie_columns(network), "yes" if network.directed else "no"
    ends = zip(network.source.tolist(), network.target.tolist(), zip(*columns.values()))
    return _csv(
        ["source", "target", "directed", *columns], ([f"n{s + 1}", f"n{t + 1}", way, *row] for s, t, row in ends)
    )


def _csv(header: list[str], rows: Any) -> str:
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(header)
    writer.writerows([_cell(v) for v in row] for row in rows)
    return out.getvalue()


def _cell(value: Any) -> Any:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "true" if value else "false"
    return repr(value) if isinstance(value, float) else value
