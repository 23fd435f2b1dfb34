"""The columns of a network as plain values: what every file of a network holds, and how it is read back."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

import numpy as np

from umber_knot.network.model import Attribute, Days, Network

#: Names that columns of our own have in files; an attribute of such a name is not written beside them.
OF_ITEMS = ("label", "kind", "form", "records", "citations", "first_date", "last_date", "mean_year")
OF_TIES = ("weight", "count", "first_date", "last_date", "relation", "directed")
Columns = dict[str, list[Any]]


def item_columns(network: Network, more: Mapping[str, Sequence[Any]] | None = None) -> Columns:
    """Every column of the items, None where a value is missing; ``more`` are columns known beside the network's own.

    The form is given where it is not the label: it names an item when labels are equal or were changed.
    """
    kinds = [kind for kind, _ in network.identities()]
    forms = [form if form != label else None for form, label in zip(network.form, network.label)]
    found: Columns = {
        "label": list(network.label),
        "kind": list(kinds),
        "form": forms,
        "records": network.records.tolist(),
        "citations": network.citations.tolist(),
        "first_date": dates(network.first),
        "last_date": dates(network.last),
        "mean_year": [None if v != v else v for v in network.mean_year.tolist()],
    }
    found |= {name: list(values) for name, values in (more or {}).items()}
    return found | {name: column.listed() for name, column in network.item_columns.items() if name not in found}


def tie_columns(network: Network) -> Columns:
    """Every column of the ties but their ends, None where a value is missing."""
    found: Columns = {
        "weight": network.weight.tolist(),
        "count": network.count.tolist(),
        "first_date": dates(network.tie_first),
        "last_date": dates(network.tie_last),
    }
    if len(network.relation_code):
        found["relation"] = [network.relations[k] or None for k in network.relation_code.tolist()]
    elif network.relations[0]:
        found["relation"] = [network.relations[0]] * network.ties
    return found | {name: column.listed() for name, column in network.tie_columns.items() if name not in OF_TIES}


def dates(days: Days) -> list[str | None]:
    """Days as ISO 8601 dates, None where there is none."""
    return [None if text == "NaT" else text for text in np.datetime_as_string(days.astype("datetime64[D]")).tolist()]


def day_numbers(texts: Iterable[Any]) -> Days:
    """Days from ISO 8601 dates; what is none is no date."""
    found = []
    for text in texts:
        try:
            found.append(np.datetime64(str(text), "D") if text else np.datetime64("NaT", "D"))
        except ValueError:
            found.append(np.datetime64("NaT", "D"))
    return np.array(found, "datetime64[D]")


def typed(texts: Sequence[Any]) -> Attribute:
    """An attribute of values as a file has them: texts that are all numbers, or all true or false, become such.

    A text is a whole number only where it is written as one (``007`` is a text).
    """
    given = [v for v in texts if v not in (None, "")]
    if given and all(isinstance(v, str) for v in given):
        for read in (_whole, _number, _truth):
            values = [None if v in (None, "") else read(v) for v in texts]
            if all((v is None) == (t in (None, "")) for v, t in zip(values, texts)):
                return Attribute.of(values)
    return Attribute.of(texts)


def _whole(text: str) -> int | None:
    plain = text.removeprefix("-")
    ok = plain.isascii() and plain.isdecimal() and len(plain) < 19 and (plain == "0" or not plain.startswith("0"))
    return int(text) if ok and text != "-0" else None


def _number(text: str) -> float | None:
    if not text or text[-1].isspace() or text[0].isspace() or not any(ch.isdecimal() for ch in text) or "_" in text:
        return None
    if text.removeprefix("-").startswith("0") and text.removeprefix("-")[1:2].isdecimal():
        return None
    try:
        return float(text)
    except ValueError:
        return None


def _truth(text: str) -> bool | None:
    return {"true": True, "false": False}.get(text)
