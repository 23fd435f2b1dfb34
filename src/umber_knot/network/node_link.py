"""Node-link JSON: a list of nodes and a list of links."""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping, Sequence

from umber_knot.network.model import Network


def node_link(network: Network, columns: Mapping[str, Sequence[object]]) -> Iterator[str]:
    """The network as JSON text, a piece an element; ``columns`` are attributes of the items, id first."""
    yield '{"directed": false, "multigraph": false, "graph": {},\n"nodes": [\n'
    for i, row in enumerate(zip(*columns.values())):
        facts = {name: value for name, value in zip(columns, row) if value is not None}
        yield (",\n" if i else "") + json.dumps(facts | {"id": i + 1}, ensure_ascii=False)
    yield '\n],\n"links": [\n'
    ties = zip(network.source.tolist(), network.target.tolist(), network.weight.tolist(), network.count.tolist())
    for k, (s, t, weight, count) in enumerate(ties):
        yield (",\n" if k else "") + json.dumps({"source": s + 1, "target": t + 1, "weight": weight, "count": count})
    yield "\n]}\n"
