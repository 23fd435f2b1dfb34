"""GML, the plain-text format for networks."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from umber_knot.network.columns import item_columns, tie_columns
from umber_knot.network.model import Network


def gml(network: Network, more: Mapping[str, Sequence[Any]] | None = None) -> Iterator[str]:
    """The network as GML text, a piece an element; ``more`` are further columns of the items.

    The format knows only ASCII, and names of letters and digits: other characters of texts are written as character
    references, those of names left out. Missing values are left out.
    """
    yield f"graph [\n directed {int(network.directed)}\n"
    items, ties = item_columns(network, more), tie_columns(network)
    for i, row in enumerate(zip(*items.values())):
        yield f" node [ id {i + 1}{_facts(items, row)} ]\n"
    for s, t, row in zip(network.source.tolist(), network.target.tolist(), zip(*ties.values())):
        yield f" edge [ source {s + 1} target {t + 1}{_facts(ties, row)} ]\n"
    yield "]\n"


def _facts(columns: Mapping[str, Any], row: tuple[Any, ...]) -> str:
    return "".join(f" {gml_name(name)} {_value(v)}" for name, v in zip(columns, row) if v is not None)


def gml_name(name: str) -> str:
    """A name of letters and digits.

    >>> gml_name("first_date")
    'firstDate'
    """
    plain = re.sub(r"[^A-Za-z0-9]", "", name.title() if "_" in name else name)
    return (plain[:1].lower() + plain[1:] if "_" in name else plain) or "x"


def _value(value: object) -> str:
    if isinstance(value, bool):
        return f'"{str(value).lower()}"'
    if isinstance(value, (int, float)):
        return repr(value)
    text = str(value).replace("&", "&amp;").replace('"', "&quot;")
    return '"' + "".join(ch if ch.isascii() else f"&#{ord(ch)};" for ch in text) + '"'
