"""The Network type: items and ties as parallel arrays, with whatever attributes they carry."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, fields, replace
from typing import TYPE_CHECKING, Any, Literal

import numpy as np
from numpy.typing import NDArray

from umber_knot.corpus.model import Floats, Ints
from umber_knot.corpus.texts import Texts

if TYPE_CHECKING:  # slow to load, and the window starts without
    from scipy.sparse import csr_array

Bools = NDArray[np.bool_]
Days = NDArray[np.datetime64]  # datetime64[D]; NaT where no date is known
Direction = Literal["out", "in", "both"]


@dataclass(frozen=True, slots=True)
class Attribute:
    """A further column of items or ties: values (int64, float64, bool or texts), shape (n,), and which are missing."""

    values: NDArray[Any] | Texts
    missing: Bools

    def __len__(self) -> int:
        return len(self.missing)

    def take(self, rows: NDArray[Any]) -> Attribute:
        values = self.values.take(rows) if isinstance(self.values, Texts) else self.values[rows]
        return Attribute(values, self.missing[rows])

    def listed(self) -> list[Any]:
        """The values as plain Python values, None where missing."""
        values = list(self.values) if isinstance(self.values, Texts) else self.values.tolist()
        return [None if gone else value for value, gone in zip(values, self.missing.tolist())]

    @staticmethod
    def of(values: Iterable[Any]) -> Attribute:
        """An attribute in the narrowest type that holds all values; None and empty text are missing.

        Whole numbers, numbers, true or false; where types are mixed, texts as they are written.
        """
        listed = [None if v is None or v == "" else v for v in values]
        missing = np.array([v is None for v in listed], bool)
        kinds = {type(v) for v in listed if v is not None}
        if kinds == {bool}:
            return Attribute(np.array([bool(v) for v in listed], bool), missing)
        if kinds == {int} and all(abs(v) < 1 << 63 for v in listed if v is not None):
            return Attribute(np.array([v or 0 for v in listed], np.int64), missing)
        if kinds and kinds <= {int, float}:
            return Attribute(np.array([0.0 if v is None else float(v) for v in listed], np.float64), missing)
        return Attribute(Texts.of("" if v is None else _written(v) for v in listed), missing)


def _written(value: Any) -> str:
    if isinstance(value, bool):
        return "true" if value else "false"
    return repr(value) if isinstance(value, float) else str(value)


def _none() -> Ints:
    return np.zeros(0, np.int8)


@dataclass(frozen=True, slots=True)
class Network:
    """A weighted network: ties run both ways or, where ``directed``, from source to target; loops and parallel ties are
    allowed, items may be of several kinds.

    Arrays over items, shape (n,): ``label`` (what is shown), ``form`` (with its kind the item's identity), ``entity``
    (number in the resolution of its kind), ``records``, ``citations``, ``first``, ``last`` (days, NaT undated),
    ``mean_year`` (NaN undated); ``kind_code`` indexes ``kinds`` (empty where there is one kind).
    Arrays over ties, shape (m,): ``source``, ``target`` (undirected: source ≤ target), ``weight``, ``count``,
    ``tie_first``, ``tie_last``; ``relation_code`` indexes ``relations`` (empty where there is one relation).
    ``item_columns`` and ``tie_columns`` are further attributes by name.
    """

    kinds: tuple[str, ...]
    label: Texts
    form: Texts
    entity: Ints
    records: Ints
    citations: Ints
    first: Days
    last: Days
    mean_year: Floats
    source: Ints
    target: Ints
    weight: Floats
    count: Ints
    tie_first: Days
    tie_last: Days
    directed: bool = False
    kind_code: Ints = field(default_factory=_none)
    relations: tuple[str, ...] = ("",)
    relation_code: Ints = field(default_factory=_none)
    item_columns: Mapping[str, Attribute] = field(default_factory=dict)
    tie_columns: Mapping[str, Attribute] = field(default_factory=dict)

    def __len__(self) -> int:
        return len(self.label)

    @property
    def ties(self) -> int:
        return len(self.source)

    @property
    def kind(self) -> str:
        """The kind of the items, the first of several."""
        return self.kinds[0]

    def kind_of(self, item: int) -> str:
        return self.kinds[int(self.kind_code[item])] if len(self.kind_code) else self.kinds[0]

    def identity(self, item: int) -> tuple[str, str]:
        """What names an item, whatever its label: its kind and its anchoring form."""
        return self.kind_of(item), self.form[item]

    def identities(self) -> list[tuple[str, str]]:
        """The identity of every item, shape (n,)."""
        kinds = [self.kinds[k] for k in self.kind_code.tolist()] if len(self.kind_code) else [self.kinds[0]] * len(self)
        return list(zip(kinds, self.form))

    def told_apart(self) -> Sequence[str]:
        """Labels, those that several items share followed by the item's kind or form."""
        labels = list(self.label)
        seen: dict[str, list[int]] = {}
        for i, text in enumerate(labels):
            seen.setdefault(text, []).append(i)
        if len(seen) == len(labels):
            return self.label
        for text, items in seen.items():
            if len(items) > 1:
                several = len({self.kind_of(i) for i in items}) == len(items)
                for i in items:
                    labels[i] = f"{text} [{self.kind_of(i) if several else self.form[i]}]"
        return labels

    def degree(self, direction: Direction = "both") -> Ints:
        """Ties of each item, shape (n,): going out, coming in, or both; a loop counts at both ends."""
        return np.bincount(self._ends(direction), minlength=len(self)).astype(np.int32)

    def strength(self, direction: Direction = "both") -> Floats:
        """Summed weights of each item's ties, shape (n,) (Barrat et al. 2004); a loop counts at both ends."""
        weight = np.concatenate([self.weight, self.weight]) if direction == "both" else self.weight
        return np.bincount(self._ends(direction), weight, len(self)).astype(np.float64)

    def _ends(self, direction: Direction) -> Ints:
        if direction == "both":
            return np.concatenate([self.source, self.target])
        return self.source if direction == "out" else self.target

    def csr(self, direction: Direction = "both") -> csr_array:
        """Weights as a sparse matrix, shape (n, n): a row an item, its columns the items its ties lead to ("out"), come
        from ("in"), or either ("both", symmetric). Parallel ties are summed; a loop stands once on the diagonal."""
        from scipy.sparse import csr_array

        s, t, w = self.source, self.target, self.weight
        if direction == "in":
            s, t = t, s
        elif direction == "both":
            off = s != t
            s, t, w = np.r_[s, t[off]], np.r_[t, s[off]], np.r_[w, w[off]]
        found = csr_array((w, (s, t)), shape=(len(self), len(self)))
        found.sum_duplicates()
        return found

    def simple(self, direction: Literal["kept", "dropped"] = "dropped") -> Network:
        """The network without loops, parallel ties summed into one (weights and counts add, dates span both).

        ``dropped``: as undirected, a pair tied both ways is tied once; ``kept``: a directed network stays directed.
        What ties alone can say, relations and columns, is left behind. A network that is simple already is given back.
        """
        s, t = self.source, self.target
        directed = self.directed and direction == "kept"
        if not directed:
            s, t = np.minimum(s, t), np.maximum(s, t)
        key = s.astype(np.int64) * max(len(self), 1) + t
        proper = s != t
        ordered = bool((key[1:] > key[:-1]).all()) if len(key) else True
        if proper.all() and ordered and directed == self.directed:
            return self
        ties = np.flatnonzero(proper)
        ties = ties[np.argsort(key[ties], kind="stable")]
        starts = np.flatnonzero(np.r_[True, key[ties][1:] != key[ties][:-1]]) if len(ties) else np.zeros(0, np.int64)

        def added(values: NDArray[Any]) -> NDArray[Any]:
            return np.add.reduceat(values[ties], starts) if len(ties) else values[:0]

        def earliest(days: Days, how: Any) -> Days:
            return how.reduceat(days[ties], starts) if len(ties) else days[:0]

        return replace(
            self,
            directed=directed,
            source=s[ties][starts],
            target=t[ties][starts],
            weight=added(self.weight),
            count=added(self.count),
            tie_first=earliest(self.tie_first, np.fmin),
            tie_last=earliest(self.tie_last, np.fmax),
            relations=("",),
            relation_code=_none(),
            tie_columns={},
        )

    def kept(self, items: Bools) -> Network:
        """The network among the items marked True, in the same order."""
        rows = np.flatnonzero(items)
        new = np.cumsum(items, dtype=np.int32) - 1
        ties = items[self.source] & items[self.target]
        less = self.thinned(ties)
        return replace(
            less,
            **{name: _taken(getattr(less, name), rows) for name in _OF_ITEMS},
            kind_code=less.kind_code[rows] if len(less.kind_code) else less.kind_code,
            source=new[less.source].astype(np.int32),
            target=new[less.target].astype(np.int32),
            item_columns={name: column.take(rows) for name, column in less.item_columns.items()},
        )

    def thinned(self, ties: Bools) -> Network:
        """The network with the ties marked True."""
        rows = np.flatnonzero(ties)
        return replace(
            self,
            **{name: getattr(self, name)[rows] for name in _OF_TIES},
            relation_code=self.relation_code[rows] if len(self.relation_code) else self.relation_code,
            tie_columns={name: column.take(rows) for name, column in self.tie_columns.items()},
        )


_OF_ITEMS = ("label", "form", "entity", "records", "citations", "first", "last", "mean_year")
_OF_TIES = ("source", "target", "weight", "count", "tie_first", "tie_last")
assert {f.name for f in fields(Network)} >= {*_OF_ITEMS, *_OF_TIES}


def _taken(column: Any, rows: NDArray[np.int64]) -> Any:
    return column.take(rows) if isinstance(column, Texts) else column[rows]


def years(days: Days) -> Ints:
    """The year of each day, 0 where there is none; shape as given."""
    year = days.astype("datetime64[Y]").astype(np.int64) + 1970
    return np.where(np.isnat(days), 0, year).astype(np.int32)


def days(numbers: NDArray[Any]) -> Days:
    """Days from numbers counted from 1970-01-01; the least 32-bit number is no date."""
    found = numbers.astype(np.int64).astype("datetime64[D]")
    found[numbers == np.iinfo(np.int32).min] = np.datetime64("NaT")
    return found


def components(n: int, source: Ints, target: Ints) -> Ints:
    """The (weakly) connected component of each item, shape (n,), numbered from 0 by size, ties by lowest item."""
    from scipy.sparse import csr_array
    from scipy.sparse.csgraph import connected_components

    graph = csr_array((np.ones(len(source), np.float32), (source, target)), shape=(n, n))
    label = connected_components(graph, directed=False)[1] if n else np.zeros(0, np.int32)
    _, first, of, sizes = np.unique(label, return_index=True, return_inverse=True, return_counts=True)
    rank = np.empty(len(sizes), np.int32)
    rank[np.lexsort((first, -sizes))] = np.arange(len(sizes))
    return rank[of].astype(np.int32)
