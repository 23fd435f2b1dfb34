"""Node-link JSON: a list of nodes and a list of links."""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from umber_knot.network.columns import item_columns, tie_columns
from umber_knot.network.model import Network


def node_link(network: Network, more: Mapping[str, Sequence[Any]] | None = None) -> Iterator[str]:
    """The network as JSON text, a piece an element; ``more`` are further columns of the items."""
    items, ties = item_columns(network, more), tie_columns(network)
    yield f'{{"directed": {json.dumps(network.directed)}, "multigraph": true, "graph": {{}},\n"nodes": [\n'
    for i, row in enumerate(zip(*items.values())):
        yield (",\n" if i else "") + json.dumps(_facts(items, row) | {"id": i + 1}, ensure_ascii=False)
    yield '\n],\n"links": [\n'
    for k, (s, t, row) in enumerate(zip(network.source.tolist(), network.target.tolist(), zip(*ties.values()))):
        link = {"source": s + 1, "target": t + 1} | _facts(ties, row)
        yield (",\n" if k else "") + json.dumps(link, ensure_ascii=False)
    yield "\n]}\n"


def _facts(columns: Mapping[str, Any], row: tuple[Any, ...]) -> dict[str, Any]:
    return {name: value for name, value in zip(columns, row) if value is not None}
