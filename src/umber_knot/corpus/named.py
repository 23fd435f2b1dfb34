"""Named columns of the material: what sources say beside what every record has, as mentions of their values.

Values are kept as they are written; a list, or a text parted by semicolons, holds several.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

import numpy as np

from umber_knot.corpus.model import DECIDED, Corpus, Mentions, fold
from umber_knot.corpus.texts import Texts

LONGEST = 200  # letters of a value; longer ones are text, not values
#: Columns that every record has.
OWN = ("year", "type", "language", "citations", "source")


@dataclass(frozen=True, slots=True)
class NamedColumns:
    """Columns by name, the fullest first, those that every record has last; and the values each record has in them."""

    names: tuple[str, ...]
    mentions: tuple[Mentions, ...]

    def by_name(self) -> dict[str, Mentions]:
        return dict(zip(self.names, self.mentions))


class _Column:
    def __init__(self) -> None:
        self.number: dict[str, int] = {}
        self.values: dict[tuple[int, int], None] = {}  # (row, value), in their order
        self.rows: set[int] = set()

    def take(self, row: int, values: Iterable[str]) -> None:
        """The values of a record; what an earlier finding of it said stays."""
        if row in self.rows:
            return
        for text in values:
            if 0 < len(text) <= LONGEST:
                self.rows.add(row)
                self.values[row, self.number.setdefault(text, len(self.number))] = None

    def mentions(self) -> Mentions:
        pairs = np.array(list(self.values), np.int32).reshape(-1, 2)
        order = np.argsort(pairs[:, 0], kind="stable")
        return Mentions(Texts.of(self.number), pairs[order, 0], pairs[order, 1])


def named_columns(corpus: Corpus, extras: Iterable[tuple[int, Mapping[str, object]]]) -> NamedColumns:
    """The columns of some records, from their further fields."""
    found: dict[str, _Column] = {}
    for row, fields in extras:
        for name, value in fields.items():
            if (plain := fold(name)) and plain not in DECIDED and plain != "record":
                found.setdefault(plain, _Column()).take(row, _values(value))
    full = {name: column for name, column in found.items() if column.rows}
    for name in OWN:
        if name not in full:
            full[name] = _own(corpus, name)
    names = [name for name in full if full[name].rows]
    names.sort(key=lambda name: (name not in found, -len(full[name].rows)))
    return NamedColumns(tuple(names), tuple(full[name].mentions() for name in names))


def _values(value: object) -> list[str]:
    if isinstance(value, (list, tuple)):
        return [text for one in value if isinstance(one, (str, int, float)) for text in _values(one)]
    if isinstance(value, bool) or not isinstance(value, (str, int, float)):
        return [str(value).lower()] if isinstance(value, bool) else []
    return [text for part in str(value).split(";") if (text := fold(part))]


def _own(corpus: Corpus, name: str) -> _Column:
    column = _Column()
    if name == "source":
        texts: Iterable[str] = (corpus.sources[k].name for k in corpus.source.tolist())
    elif name in ("year", "citations"):
        numbers = getattr(corpus, name).tolist()
        texts = (str(n) if n else "" for n in numbers)
    else:
        texts = getattr(corpus, name)
    for row, text in enumerate(texts):
        column.take(row, [text] if text else [])
    return column


def numbers(values: Iterable[str]) -> np.ndarray[tuple[int], np.dtype[np.float64]]:
    """Values as numbers, NaN where one is none; a decimal comma is read.

    >>> numbers(["12", "0.5", "1,5", "north"]).tolist()
    [12.0, 0.5, 1.5, nan]
    """
    return np.array([_number(text) for text in values], np.float64)


def _number(text: str) -> float:
    for plain in (text, text.replace(",", ".") if text.count(",") == 1 else text):
        try:
            found = float(plain.replace("−", "-"))
        except ValueError:
            continue
        return found if np.isfinite(found) else np.nan
    return np.nan
