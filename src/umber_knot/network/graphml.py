"""GraphML, the open XML format for networks that most programs read."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

from umber_knot.markup import xml
from umber_knot.network.model import Network

_TYPES = {int: "int", float: "double", str: "string"}


def graphml(network: Network, columns: Mapping[str, Sequence[object]]) -> Iterator[str]:
    """The network as GraphML text, a piece an element; ``columns`` are attributes of the items, id first.

    Missing values (None) are left out.
    """
    yield '<?xml version="1.0" encoding="UTF-8"?>\n<graphml xmlns="http://graphml.graphdrawing.org/xmlns">\n'
    for name, values in columns.items():
        kind = _TYPES[next((type(v) for v in values if v is not None), str)]
        yield f'<key id="{xml(name)}" for="node" attr.name="{xml(name)}" attr.type="{kind}"/>\n'
    for name, kind in (("weight", "double"), ("count", "int")):
        yield f'<key id="tie_{name}" for="edge" attr.name="{name}" attr.type="{kind}"/>\n'
    yield '<graph id="network" edgedefault="undirected">\n'
    names = list(columns)
    for i, row in enumerate(zip(*columns.values())):
        data = "".join(f'<data key="{xml(n)}">{xml(str(v))}</data>' for n, v in zip(names, row) if v is not None)
        yield f'<node id="n{i + 1}">{data}</node>\n'
    ties = zip(network.source.tolist(), network.target.tolist(), network.weight.tolist(), network.count.tolist())
    for s, t, weight, count in ties:
        yield (
            f'<edge source="n{s + 1}" target="n{t + 1}"><data key="tie_weight">{weight!r}</data>'
            f'<data key="tie_count">{count}</data></edge>\n'
        )
    yield "</graph>\n</graphml>\n"
