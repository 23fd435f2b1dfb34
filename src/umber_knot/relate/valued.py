"""Items by what a column says of them: the values of each, ties between alike ones, and columns joined to a network.

A column speaks of an item in the records that name it, and in rows whose own name (their entry) is a spelling of it: a
table of people with their parties joins any network of those people.
"""

from __future__ import annotations

import difflib
from collections.abc import Mapping, Sequence

import numpy as np

from umber_knot.corpus.model import Corpus, Floats, Ints
from umber_knot.corpus.named import numbers
from umber_knot.errors import UserError
from umber_knot.network.model import Attribute
from umber_knot.reconcile.decisions import Resolution
from umber_knot.relate import pairs
from umber_knot.relate.pairs import Summed
from umber_knot.relate.things import Bools, distinct, mentioned

BYTES = 48  # that a tie takes in memory while it is made


def no_column(name: str, corpus: Corpus) -> UserError:
    """There is no column of a name: which there are."""
    known = list(corpus.mentions)
    close = difflib.get_close_matches(name, known, 1, 0.5)
    cure = f"Did you mean {close[0]!r}?" if close else f"Known here: {', '.join(known[:30])}"
    return UserError(f"the records have no column {name!r}", place="relate", cure=cure)


def values_of(
    corpus: Corpus, kind: str, resolutions: Mapping[str, Resolution], column: str, keep: Bools
) -> tuple[Ints, Ints, list[str]]:
    """(item, value) of each item of a kind in the records that are kept, each pair once, sorted by item; values index the
    column's forms. Last come the rows that are of a table of such items and name none."""
    if column not in corpus.mentions:
        raise no_column(column, corpus)
    m = corpus.of(column)
    inside = keep[m.record]
    record, value = m.record[inside], m.form[inside]
    if kind == "record":
        return *distinct(record, value), []
    named, item = mentioned(corpus, kind, resolutions)
    at, of = pairs.across(record, named)
    keyed, unmatched = _by_entry(corpus, kind, resolutions[kind], record)
    own = keyed >= 0
    return *distinct(np.r_[item[of], keyed[own]], np.r_[value[at], value[own]]), unmatched


def _by_entry(corpus: Corpus, kind: str, resolution: Resolution, record: Ints) -> tuple[Ints, list[str]]:
    """Of some incidences the item that the record's own name is a spelling of, −1 none; and in sources where that is so
    of any, the names that are not."""
    forms = {text: f for f, text in enumerate(resolution.mentions(corpus).forms)}
    rows = np.unique(record)
    home = np.full(len(corpus) + 1, -1, np.int32)
    for r in rows.tolist():
        form = forms.get(corpus.entry[r]) if corpus.entry[r] else None
        if form is not None:
            home[r] = resolution.entity[form]
    tables = np.unique(corpus.source[rows[home[rows] >= 0]])
    left = rows[(home[rows] < 0) & np.isin(corpus.source[rows], tables)]
    return home[record], [corpus.entry[r] for r in left.tolist()]


def attribute(
    corpus: Corpus, kinds: Sequence[str], starts: Sequence[int], n: int, known: Mapping[str, Resolution], column: str
) -> tuple[Attribute, list[str]]:
    """A column joined to all things of a network, in the type its values have; several values stand beside each other.
    Last come rows of its tables that match no item."""
    told: list[object] = [None] * n
    unmatched: list[str] = []
    everything = np.ones(len(corpus), np.bool_)
    forms = corpus.of(column).forms
    plain = numbers(forms)
    numeric = not np.isnan(plain).any()
    whole = numeric and bool((plain == np.round(plain)).all())
    for kind, start in zip(kinds, starts):
        item, value, left = values_of(corpus, kind, known, column, everything)
        unmatched += left
        for i in np.unique(item).tolist():
            own = value[np.searchsorted(item, i) : np.searchsorted(item, i, "right")]
            if numeric and len(own) == 1:
                told[start + i] = int(plain[own[0]]) if whole else float(plain[own[0]])
            else:
                told[start + i] = "; ".join(sorted(forms[v] for v in own.tolist()))
    return Attribute.of(told), unmatched


def same(item: Ints, value: Ints, n: int) -> Summed:
    """Items below ``n`` tied by every value they share; the weight is 1 however many."""
    order = np.lexsort((item, value))
    undated = np.full(len(item), pairs.UNDATED)
    found = pairs.within(value[order], item[order], np.ones(len(item)), undated, undated, n)
    return found._replace(weight=np.ones(len(found.weight)))


def numeric(item: Ints, value: Ints, forms: Sequence[str]) -> tuple[Ints, Floats, int, int]:
    """(items with a number, their numbers) of items with values, the mean of several; how many values are no numbers, and
    how many items have several."""
    number = numbers(forms)[value] if len(value) else np.zeros(0)
    fine = ~np.isnan(number)
    items, at, many = np.unique(item[fine], return_inverse=True, return_counts=True)
    mean = np.bincount(at, number[fine], len(items)) / np.maximum(many, 1)
    return items.astype(np.int32), mean, len(np.unique(value[~fine])), int((many > 1).sum())


def near(items: Ints, number: Floats, tolerance: float) -> Summed:
    """Items whose numbers differ by at most so much, weight 1."""
    order = np.argsort(number, kind="stable")
    v = number[order]
    end = np.searchsorted(v, v + tolerance * (1 + 1e-12) + 1e-12 * (tolerance > 0), "right")
    one, other = _ahead(end)
    return _tied(items[order][one], items[order][other], np.ones(len(one)))


def apart(items: Ints, number: Floats, how: str) -> tuple[Summed, int]:
    """Every two items tied by how far their numbers are apart: ``difference`` |d|, ``signed`` d from the lower to the
    higher, ``nearness`` 1 − |d|/range; and how many pairs have no weight and no tie."""
    order = np.argsort(number, kind="stable")
    v = number[order]
    one, other = _ahead(np.full(len(v), len(v)))
    gap = v[other] - v[one]
    weight = 1 - gap / max(float(v[-1] - v[0]), 1e-300) if how == "nearness" and len(v) else gap
    if how == "nearness" and len(v) and v[-1] == v[0]:
        weight = np.ones(len(gap))
    tied = weight > 0
    source, target = items[order][one[tied]], items[order][other[tied]]
    return _tied(source, target, weight[tied], directed=how == "signed"), int((~tied).sum())


def _ahead(end: Ints) -> tuple[Ints, Ints]:
    """Places of the pairs of each with those after it, up to an end."""
    start = np.arange(1, len(end) + 1)
    many = np.maximum(end - start, 0)
    if many.sum() > pairs.MOST_TIES:
        raise UserError(
            f"{int(many.sum()):,} ties would take {many.sum() * BYTES / 1e9:,.0f} GB of memory",
            place="relate",
            cure='Tie only what is near (tolerance), or what has the same value (compare = "same")',
        )
    one = np.repeat(np.arange(len(end)), many)
    offset = np.arange(len(one)) - np.repeat(np.cumsum(many) - many, many)
    return one.astype(np.int32), (start[one] + offset).astype(np.int32)


def _tied(source: Ints, target: Ints, weight: Floats, directed: bool = False) -> Summed:
    """Ties, each pair once already, in order."""
    if not directed:
        source, target = np.minimum(source, target), np.maximum(source, target)
    order = np.lexsort((target, source))
    undated = np.full(len(order), pairs.UNDATED)
    return Summed(source[order], target[order], np.ones(len(order), np.int32), weight[order], undated, undated)
