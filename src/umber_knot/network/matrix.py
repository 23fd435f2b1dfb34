"""A network as a matrix of weights: its order and its numbers."""

from __future__ import annotations

from typing import Any

import numpy as np

from umber_knot.corpus.model import Floats, Ints
from umber_knot.errors import UserError
from umber_knot.network.model import Network

LARGEST = 5000  # items of a matrix that is written
#: What rows and columns can be ordered by.
ORDERS = ("name", "topic", "strength", "records")


def order(network: Network, by: str, topic: Ints | None = None) -> Ints:
    """The items in the order of ``by`` (see ORDERS, or the name of a column), shape (n,): most first, within topics and
    values of a column the strongest first, what has no value last."""
    n = len(network)
    strength = network.strength()
    names = np.argsort(np.argsort(np.array([label.casefold() for label in network.label], dtype=object), kind="stable"))
    keys: dict[str, tuple[Any, ...]] = {
        "name": (names,),
        "topic": (names, -strength, topic if topic is not None else np.zeros(n)),
        "strength": (names, -strength),
        "records": (names, -network.records),
    }
    if by not in keys:
        column = network.item_columns[by]
        values = column.values if isinstance(column.values, np.ndarray) else np.array(list(column.values), dtype=object)
        value = np.unique(values, return_inverse=True)[1]
        keys[by] = (names, -strength, value, column.missing)
    return np.lexsort(keys[by]).astype(np.int32)


def dense(network: Network, most: int = LARGEST) -> Floats:
    """Weights as a full matrix, shape (n, n): a row is where a tie comes from; without directions it is symmetric.

    The diagonal holds an item's loops where there are directions, else its records: c_ii of the counted network. A
    UserError where it would have more items than ``most``, with its size in memory.
    """
    n = len(network)
    if n > most:
        size = n * n * 8 / 1e9
        raise UserError(
            f"a matrix of {n:,} × {n:,} takes {size:,.1f} GB; at most {most:,} items are put so",
            cure="Keep fewer items, or use the table of ties",
        )
    found = network.csr("out" if network.directed else "both").toarray().astype(np.float64)
    if not network.directed:
        np.fill_diagonal(found, network.records)
    return found
