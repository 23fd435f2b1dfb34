"""Picking items or ties of a network by a filter text, as records are picked on Gather.

``mill -tide``, ``party:north``, ``records:5-``, ``weight:2-9``, ``party:none``: words to find in a name, ``column:value``
for a column, numbers from and to, a minus to leave out; every part must hold.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from typing import Any

import numpy as np
from numpy.typing import NDArray

from umber_knot.corpus.texts import Texts, holding
from umber_knot.errors import UserError
from umber_knot.network.model import Attribute, Network, years

Bools = NDArray[np.bool_]
_PART = re.compile(r'(-?)(?:("[^"]+"|[^\s":]+):)?(?:"([^"]*)"|(\S+))')
_NUMBER = r"[-−]?\d+(?:\.\d+)?"
_SPAN = re.compile(rf"({_NUMBER})?\s*(?:(-|–|\.\.)\s*({_NUMBER})?)?$")


def items_fitting(network: Network, text: str) -> Bools:
    """Which items a filter picks, shape (n,); words are looked for in labels."""
    numbers = {
        "records": network.records,
        "citations": network.citations,
        "first_year": years(network.first),
        "last_year": years(network.last),
        "mean_year": network.mean_year,
        "degree": network.degree(),
        "strength": network.strength(),
    }
    return _fitting(text, len(network), numbers, network.item_columns, lambda word: _marked(network.label, word))


def ties_fitting(network: Network, text: str) -> Bools:
    """Which ties a filter picks, shape (m,); words are looked for in the labels of both ends."""
    numbers = {
        "weight": network.weight,
        "count": network.count,
        "first_year": years(network.tie_first),
        "last_year": years(network.tie_last),
    }

    def named(word: str) -> Bools:
        hit = _marked(network.label, word)
        return hit[network.source] | hit[network.target]

    columns = dict(network.tie_columns)
    if len(network.relation_code):
        columns["relation"] = Attribute.of(network.relations[k] for k in network.relation_code.tolist())
    return _fitting(text, network.ties, numbers, columns, named)


def _marked(texts: Texts, word: str) -> Bools:
    found = np.zeros(len(texts), np.bool_)
    found[holding(texts, [word])] = True
    return found


def _fitting(
    text: str,
    n: int,
    numbers: Mapping[str, NDArray[Any]],
    columns: Mapping[str, Attribute],
    named: Callable[[str], Bools],
) -> Bools:
    keep = np.ones(n, np.bool_)
    for minus, field, quoted, word in _PART.findall(text):
        name, value = field.strip('"'), quoted or word
        if not name:
            hit = named(value)
        elif name in columns:
            hit = _of_column(columns[name], value, name)
        elif name in numbers:
            hit = _between(np.asarray(numbers[name], np.float64), value, name)
        else:
            raise UserError(
                f"there is no column {name!r} to filter by",
                place="relate",
                cure=f"Known here: {', '.join((*numbers, *columns))}; columns of the records are joined by attributes",
            )
        keep &= ~hit if minus else hit
    return keep


def _of_column(column: Attribute, value: str, name: str) -> Bools:
    if value == "none":
        return column.missing.copy()
    if isinstance(column.values, Texts):
        hit = _marked(column.values, value)
    elif column.values.dtype.kind == "b":
        hit = column.values == (value.casefold() in ("true", "yes", "1"))
    else:
        hit = _between(column.values.astype(np.float64), value, name)
    found: Bools = hit & ~column.missing
    return found


def _between(values: NDArray[np.float64], value: str, name: str) -> Bools:
    span = _SPAN.match(value)
    if span is None or not (span[1] or span[3]):
        raise UserError(f"{name}:{value} is no number", place="relate", cure=f"Write {name}:5, {name}:5- or {name}:2-9")
    low, high = (float(part.replace("−", "-")) if part else None for part in (span[1], span[3]))
    if not span[2]:
        high = low
    fits: Bools = (values >= (-np.inf if low is None else low)) & (values <= (np.inf if high is None else high))
    return fits
