"""Measures of a network file: ``./umber measure``."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np

from umber_knot.errors import UserError
from umber_knot.network.columns import item_columns
from umber_knot.network.measures.registry import Material, columns_of, measure, of_column, possible
from umber_knot.network.measures.whole import figures
from umber_knot.network.model import Network
from umber_knot.network.reading import read_network
from umber_knot.report.measures import listed, plain
from umber_knot.report.tables import table


def measure_file(
    path: Path,
    out: Path,
    summary: Path | None = None,
    names: Sequence[str] = (),
    weighted: bool = False,
    directed: bool | None = None,
    distance: bool = False,
) -> list[str]:
    """Write the measures of a network file's items, and the figures of the whole; lines to say."""
    options = {} if directed is None else {"direction": "directed" if directed else "undirected"}
    network, problems = read_network(path, options)
    if directed is not None:
        network = turned_to(network, directed)
    on = Material(network, lengths=distance)
    wanted = columns_of(names or possible(on), weighted)
    for name in wanted:
        of_column(name)
    found = measure(on, wanted)
    _write(out, table({**_fixed(network), **{name: listed(values) for name, values in found.items()}}))
    if summary is not None:
        told = {name: plain(value) for name, value in figures(network).items()}
        _write(summary, json.dumps(told, indent=1) + "\n")
    lines = [f"line {p.line}: {p.message}" if p.line else p.message for p in problems]
    if not network.ties:
        lines.append("the network has no ties: paths and shares are empty or 0")
    return [*lines, f"{len(network):,} items, {network.ties:,} ties, {len(wanted)} measures → {out}"]


def turned_to(network: Network, directed: bool) -> Network:
    """The network with directions, or without: then ties keep to one order of their ends, parallel ones stay."""
    if directed == network.directed:
        return network
    if directed:
        return replace(network, directed=True)
    source, target = np.minimum(network.source, network.target), np.maximum(network.source, network.target)
    return replace(network, directed=False, source=source, target=target)


def _fixed(network: Network) -> dict[str, list[Any]]:
    """What names each item."""
    own = item_columns(network)
    return {"id": list(network.form), "label": own["label"], "kind": own["kind"]}


def _write(path: Path, text: str | bytes) -> None:
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(text if isinstance(text, bytes) else text.encode("utf-8"))
    except OSError as error:
        raise UserError(
            f"cannot be written ({error.strerror})", place=str(path), cure="Choose another place"
        ) from error
