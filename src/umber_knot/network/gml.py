"""GML, the plain-text format for networks."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence

from umber_knot.network.model import Network


def gml(network: Network, columns: Mapping[str, Sequence[object]]) -> Iterator[str]:
    """The network as GML text, a piece an element; ``columns`` are attributes of the items, id first.

    The format knows only ASCII: other characters are written as character references. Missing values are left out.
    """
    yield "graph [\n directed 0\n"
    names = {name: re.sub(r"[^A-Za-z0-9]", "", name.title() if "_" in name else name) for name in columns}
    names = {name: short[:1].lower() + short[1:] for name, short in names.items()}
    for i, row in enumerate(zip(*columns.values())):
        facts = "".join(f" {names[n]} {_value(v)}" for n, v in zip(columns, row) if v is not None and n != "id")
        yield f" node [ id {i + 1}{facts} ]\n"
    ties = zip(network.source.tolist(), network.target.tolist(), network.weight.tolist(), network.count.tolist())
    for s, t, weight, count in ties:
        yield f" edge [ source {s + 1} target {t + 1} weight {weight!r} count {count} ]\n"
    yield "]\n"


def _value(value: object) -> str:
    if isinstance(value, (int, float)):
        return repr(value)
    text = str(value).replace("&", "&amp;").replace('"', "&quot;")
    return '"' + "".join(ch if ch.isascii() else f"&#{ord(ch)};" for ch in text) + '"'
