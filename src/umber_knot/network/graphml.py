"""GraphML, the open XML format for networks that most programs read."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from umber_knot.markup import xml
from umber_knot.network.columns import item_columns, tie_columns
from umber_knot.network.model import Network

_TYPES = {bool: "boolean", int: "long", float: "double", str: "string"}


def graphml(network: Network, more: Mapping[str, Sequence[Any]] | None = None) -> Iterator[str]:
    """The network as GraphML text, a piece an element; ``more`` are further columns of the items.

    Missing values (None) are left out.
    """
    yield '<?xml version="1.0" encoding="UTF-8"?>\n<graphml xmlns="http://graphml.graphdrawing.org/xmlns">\n'
    items, ties = item_columns(network, more), tie_columns(network)
    for prefix, of, columns in (("item", "node", items), ("tie", "edge", ties)):
        for k, (name, values) in enumerate(columns.items()):
            kind = _TYPES[next((type(v) for v in values if v is not None), str)]
            yield f'<key id="{prefix}{k}" for="{of}" attr.name="{xml(name)}" attr.type="{kind}"/>\n'
    yield f'<graph id="network" edgedefault="{"directed" if network.directed else "undirected"}">\n'
    for i, row in enumerate(zip(*items.values())):
        yield f'<node id="n{i + 1}">{_data("item", row)}</node>\n'
    for s, t, row in zip(network.source.tolist(), network.target.tolist(), zip(*ties.values())):
        yield f'<edge source="n{s + 1}" target="n{t + 1}">{_data("tie", row)}</edge>\n'
    yield "</graph>\n</graphml>\n"


def _data(prefix: str, row: tuple[Any, ...]) -> str:
    return "".join(f'<data key="{prefix}{k}">{xml(_text(v))}</data>' for k, v in enumerate(row) if v is not None)


def _text(value: Any) -> str:
    return str(value).lower() if isinstance(value, bool) else str(value)
