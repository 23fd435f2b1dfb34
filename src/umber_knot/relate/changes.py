"""Carrying out changes by hand on a network (see corpus.by_hand for how they are written)."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace

import numpy as np

from umber_knot.corpus.by_hand import scope_words
from umber_knot.corpus.model import Decision
from umber_knot.corpus.texts import Texts
from umber_knot.network.model import Attribute, Network
from umber_knot.relate.result import Counted, Step
from umber_knot.relate.things import Bools, Things

Unapplied = tuple[Decision, str]


class Names:
    """Finds items by what decisions call them: by form, else by label, of one kind where it is said."""

    def __init__(self, kinds: Sequence[str], code: Iterable[int], form: Iterable[str], label: Iterable[str]) -> None:
        self.by: tuple[dict[str, list[tuple[int, str]]], dict[str, list[tuple[int, str]]]] = ({}, {})
        codes = list(code)
        for names, where in zip((form, label), self.by):
            for i, text in enumerate(names):
                where.setdefault(text, []).append((i, kinds[codes[i]] if codes else kinds[0]))

    def find(self, name: str, kind: str = "") -> tuple[int, str]:
        """The number of an item, and where it is −1 the reason."""
        for where in self.by:
            found = [i for i, own in where.get(name, ()) if kind in ("", own)]
            if len(found) == 1:
                return found[0], ""
            if found:
                return -1, f"{name!r} is {len(found)} items; say which kind, or use the form"
        return -1, f"no item is called {name!r} here"


def with_made(counted: Counted, changes: Sequence[Decision]) -> Counted:
    """The counted network with the items that were made by hand and are not in the material; they have no records."""
    things = counted.things
    added = [d for d in changes if (d.kind, d.decision) == ("item", "add")]
    if not added:
        return counted
    names = Names(things.kinds, things.code().tolist(), things.form, things.label)
    new = [d.form for d in added if names.find(d.form, scope_words(d).kind)[1].startswith("no item")]
    new = list(dict.fromkeys(new))
    if not new:
        return counted
    made, k = Texts.of(new), len(new)
    none = np.zeros(k, np.int32)
    more = Things(
        things.kinds,
        things.start,
        Texts.joined([things.label, made]),
        Texts.joined([things.form, made]),
        np.r_[things.aside, np.zeros(k, np.bool_)],
        np.r_[things.merit, np.full(k, np.nan)] if len(things.merit) else things.merit,
    )
    return replace(
        counted,
        things=more,
        records=np.r_[counted.records, none],
        diagonal=np.r_[counted.diagonal, none],
        strength=np.r_[counted.strength, np.zeros(k)],
    )


def items_changed(counted: Counted, present: Bools, changes: Sequence[Decision]) -> tuple[list[Step], list[Unapplied]]:
    """Mark the items that are added and unmark those taken out, in ``present``; what that did, and what could not be
    done."""
    own = [d for d in changes if d.kind == "item" and d.decision in ("add", "remove")]
    if not own:
        return [], []
    things, before, unapplied = counted.things, int(present.sum()), []
    names = Names(things.kinds, things.code().tolist(), things.form, things.label)
    for d in own:
        i, why = names.find(d.form, scope_words(d).kind)
        if i < 0:
            unapplied.append((d, why))
        elif present[i] == (d.decision == "add"):
            unapplied.append((d, "it is in the network anyway" if present[i] else "it is not in the network anyway"))
        else:
            present[i] = d.decision == "add"
    after = int(present.sum())
    return ([("by hand", before, after, "items")] if len(own) > len(unapplied) else []), unapplied


def ties_changed(network: Network, changes: Sequence[Decision]) -> tuple[Network, list[Step], list[Unapplied]]:
    """The network with its ties, and what describes items and ties, changed by hand."""
    own = [d for d in changes if d.kind == "tie" or d.decision == "set"]
    if not own:
        return network, [], []
    on = _Ties(network)
    unapplied = [(d, why) for d in own if (why := on.carry_out(d))]
    steps: list[Step] = []
    if any(d.kind == "tie" and d.decision != "set" for d in own) and len(own) > len(unapplied):
        steps.append(("by hand", network.ties, len(on.weight), "ties"))
    return on.network(), steps, unapplied


class _Ties:
    """The ties of a network, being changed."""

    def __init__(self, network: Network) -> None:
        self.was = network
        self.names = Names(network.kinds, network.kind_code.tolist(), network.form, network.label)
        self.at: dict[tuple[int, int], list[int]] = {}
        for t, pair in enumerate(zip(network.source.tolist(), network.target.tolist())):
            self.at.setdefault(pair, []).append(t)
        self.pair = dict(enumerate(zip(network.source.tolist(), network.target.tolist())))
        self.weight = dict(enumerate(network.weight.tolist()))
        self.told: dict[str, dict[str, dict[int, str]]] = {"item": {}, "tie": {}}

    def carry_out(self, d: Decision) -> str:
        """Carry out one decision; why it could not be."""
        words = scope_words(d)
        i, why = self.names.find(d.form, words.kind if d.kind == "item" else "")
        if why:
            return why
        if d.kind == "item":
            self.told["item"].setdefault(words.column, {})[i] = words.value
            return ""
        j, why = self.names.find(d.preferred)
        if why:
            return why
        pair = (i, j) if self.was.directed or i <= j else (j, i)
        there = self.at.get(pair, [])
        if d.decision == "add":
            if there:
                return "they are tied already; weigh the tie instead"
            if i == j:
                return "an item is not tied to itself by hand"
            self._put(max(self.pair, default=-1) + 1, pair, words.weight)
            return ""
        if not there:
            return "they are not tied here"
        if d.decision == "remove":
            for t in self.at.pop(pair):
                del self.pair[t], self.weight[t]
        elif d.decision == "reverse":
            return self._reverse(pair)
        elif d.decision == "weigh":
            for t in there:
                self.weight[t] = words.weight
        else:
            for t in there:
                self.told["tie"].setdefault(words.column, {})[t] = words.value
        return ""

    def _put(self, t: int, pair: tuple[int, int], weight: float) -> None:
        self.pair[t], self.weight[t] = pair, weight
        self.at.setdefault(pair, []).append(t)

    def _reverse(self, pair: tuple[int, int]) -> str:
        if not self.was.directed:
            return "ties have no direction here"
        back = pair[1], pair[0]
        for t in self.at.pop(pair):
            self._put(t, back, self.weight[t])
        return ""

    def network(self) -> Network:
        """The network as it is now: ties that stay in their order, new ones after them."""
        was, m = self.was, self.was.ties
        order = sorted(self.pair)
        old = np.array([t for t in order if t < m], np.int64)
        less, new = was.thinned(np.isin(np.arange(m), old)), len(order) - len(old)
        pairs = np.array([self.pair[t] for t in order], np.int32).reshape(-1, 2)
        undated = np.full(new, np.datetime64("NaT"), "datetime64[D]")
        columns = {name: Attribute.of([*column.listed(), *[None] * new]) for name, column in less.tie_columns.items()}
        network = replace(
            less,
            source=pairs[:, 0].copy(),
            target=pairs[:, 1].copy(),
            weight=np.array([self.weight[t] for t in order], np.float64),
            count=np.r_[less.count, np.zeros(new, np.int32)],
            tie_first=np.r_[less.tie_first, undated],
            tie_last=np.r_[less.tie_last, undated],
            relation_code=np.r_[less.relation_code, np.zeros(new, np.int8)]
            if len(less.relation_code)
            else less.relation_code,
            tie_columns=columns,
        )
        place = {t: k for k, t in enumerate(order)}
        return replace(
            network,
            item_columns=_told(was.item_columns, self.told["item"], len(was)),
            tie_columns=_told(
                columns,
                {c: {place[t]: v for t, v in said.items() if t in place} for c, said in self.told["tie"].items()},
                len(order),
            ),
        )


def _told(columns: Mapping[str, Attribute], said: Mapping[str, Mapping[int, str]], n: int) -> dict[str, Attribute]:
    """Columns with some values set by hand, as texts where they were not set before."""
    found = dict(columns)
    for name, values in said.items():
        listed = found[name].listed() if name in found else [None] * n
        for i, value in values.items():
            listed[i] = _typed(value, found.get(name))
        found[name] = Attribute.of(listed)
    return found


def _typed(text: str, column: Attribute | None) -> object:
    """A value in the type of the column it goes into, where it reads as one."""
    if column is None or isinstance(column.values, Texts):
        return text
    try:
        return int(text) if column.values.dtype.kind == "i" else float(text)
    except ValueError:
        return text
