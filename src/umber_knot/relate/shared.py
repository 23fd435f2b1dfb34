"""Ties by shared record (co-authorship, co-occurrence): counting, filters and normalised weights.

Full counting c_ij = Σ_r a_ri a_rj; fractional counting gives each record
1/(n_r − 1) a pair (Newman 2001). The pairs of every record are laid out in arrays and summed by sorting, which costs
as much as the sparse product AᵀA and gives the first and last year of a tie on the way.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from umber_knot.corpus.model import KIND_WORDS, Corpus, Floats, Ints
from umber_knot.network.model import Network, components, days
from umber_knot.reconcile.decisions import Resolution
from umber_knot.relate.parameters import Relate

Bools = NDArray[np.bool_]


@dataclass(frozen=True, slots=True)
class Counted:
    """The counted network before items are left out: every entity, every pair that shares a record.

    ``record`` and ``item`` are the incidences that pass the record filters, each pair once, sorted by record.
    ``weight`` is the tie's weight under the chosen counting, ``strength`` its sum per item.
    """

    kind: str
    record: Ints
    item: Ints
    size: Ints  # items in each incidence's record, shape like record
    records: Ints
    source: Ints
    target: Ints
    count: Ints
    weight: Floats
    tie_first: Ints  # days from 1970-01-01
    tie_last: Ints
    strength: Floats
    steps: tuple[tuple[str, int, int], ...]  # (what, records before, records after)


@dataclass(frozen=True, slots=True)
class Filtered:
    """The network, its parts, and what the sentence left out on the way to it.

    ``steps``: (what, kept before, kept after, unit). ``curve``: for at least 1, 2, 3 … records, how many items and ties
    would remain; two arrays of equal length.
    """

    network: Network
    part: Ints  # the component of each item, from 0 by size
    steps: tuple[tuple[str, int, int, str], ...]
    curve_items: Ints
    curve_ties: Ints
    undated: int


@dataclass(frozen=True, slots=True)
class Related:
    """The network with how it came about."""

    counted: Counted
    filtered: Filtered

    @property
    def network(self) -> Network:
        return self.filtered.network


def relate(corpus: Corpus, resolution: Resolution, sentence: Relate) -> Related:
    """The network that a sentence makes."""
    counted = count(corpus, resolution, sentence)
    return Related(counted, select(corpus, resolution, counted, sentence))


def count(corpus: Corpus, resolution: Resolution, recipe: Relate) -> Counted:
    """Count shared records over the records that pass the year and size filters."""
    mentions = resolution.mentions(corpus)
    if recipe.tie == "co-authorship":  # who made a record together; not who edited it, or wrote to whom
        mentions = mentions.in_role("", "from", "to")
    steps = []
    keep = np.ones(len(corpus), bool)
    if recipe.years:
        first, last = recipe.years
        keep = (corpus.year >= first) & (corpus.year <= last)
        steps.append((f"not from {first} to {last}, or undated", len(corpus), int(keep.sum())))
    record, item = mentions.record, resolution.entity[mentions.form]
    inside = keep[record]
    record, item = record[inside], item[inside]
    record, item = _distinct(record, item)
    size = np.bincount(record, minlength=len(corpus))
    if recipe.max_per_record:
        before = int(keep.sum())
        small = size <= recipe.max_per_record
        keep &= small
        steps.append((f"more than {recipe.max_per_record}", before, int(keep.sum())))
        inside = small[record]
        record, item = record[inside], item[inside]
    n = len(resolution.label)
    size = size[record].astype(np.int32)
    source, target, where = _pairs(record, item, size)
    own = corpus.weight[record[where]]  # other than 1 only for ties read from a network file
    fraction = own if recipe.counting == "full" else own / (size[where] - 1)
    joined = _sum_pairs(source, target, fraction, corpus.begin[record[where]], corpus.end[record[where]], n)
    shared = size >= 2
    weight = corpus.weight[record[shared]]
    strength = np.bincount(item[shared], (size[shared] - 1.0) * weight if recipe.counting == "full" else weight, n)
    return Counted(
        recipe.of,
        record,
        item,
        size,
        np.bincount(item, minlength=n).astype(np.int32),
        *joined,
        strength.astype(np.float64),
        tuple(steps),
    )


def _distinct(record: Ints, item: Ints) -> tuple[Ints, Ints]:
    """Each (record, item) once, sorted by record then item: merged forms in one record count once."""
    order = np.lexsort((item, record))
    record, item = record[order], item[order]
    fresh = np.ones(len(record), bool)
    fresh[1:] = (record[1:] != record[:-1]) | (item[1:] != item[:-1])
    return record[fresh], item[fresh]


def _pairs(record: Ints, item: Ints, size: Ints) -> tuple[Ints, Ints, NDArray[np.int64]]:
    """All pairs of items within a record: (lower item, higher item, place of the first in the incidences)."""
    if not len(record):
        return item, item, np.zeros(0, np.int64)
    starts = np.flatnonzero(np.r_[True, record[1:] != record[:-1]])
    end = np.repeat(np.r_[starts[1:], len(record)], np.diff(np.r_[starts, len(record)]))
    following = end - np.arange(len(record)) - 1  # how many incidences of the same record come after each
    first = np.repeat(np.arange(len(record)), following)
    offset = np.arange(len(first)) - np.repeat(np.cumsum(following) - following, following)
    return item[first], item[first + 1 + offset], first


def _sum_pairs(
    source: Ints, target: Ints, fraction: Floats, begin: Ints, end: Ints, n: int
) -> tuple[Ints, Ints, Ints, Floats, Ints, Ints]:
    """(source, target, count, weight, first day, last day) with each pair once, sorted."""
    if not len(source):
        none = np.zeros(0, np.int32)
        return none, none, none, np.zeros(0), none, none
    key = source.astype(np.int64) * n + target
    order = np.argsort(key, kind="stable")
    key = key[order]
    starts = np.flatnonzero(np.r_[True, key[1:] != key[:-1]])
    return (
        (key[starts] // n).astype(np.int32),
        (key[starts] % n).astype(np.int32),
        np.diff(np.r_[starts, len(key)]).astype(np.int32),
        np.add.reduceat(fraction[order], starts),
        _back(np.minimum.reduceat(_late(begin)[order], starts)),
        np.maximum.reduceat(end[order], starts).astype(np.int32),
    )


_NEVER = np.iinfo(np.int32)


def _late(day: Ints) -> Ints:
    """Days in which no date comes after every date, so that the least of several is a date."""
    return np.where(day == _NEVER.min, _NEVER.max, day)


def _back(day: Ints) -> Ints:
    return np.where(day == _NEVER.max, _NEVER.min, day).astype(np.int32)


def select(corpus: Corpus, resolution: Resolution, counted: Counted, recipe: Relate) -> Filtered:
    """Leave out items and ties in the fixed order: min_records, set aside, normalise, min_weight, keep."""
    words = KIND_WORDS[recipe.of][1]
    steps = [(what, before, after, "records") for what, before, after in counted.steps]
    seen = counted.records > 0
    kept = counted.records >= max(1, recipe.min_records)
    if recipe.min_records > 1:
        steps.append((f"fewer than {recipe.min_records} records", int(seen.sum()), int(kept.sum()), words))
    present = kept & ~resolution.aside
    if present.sum() < kept.sum():
        steps.append(("set aside", int(kept.sum()), int(present.sum()), words))
    network = _network(corpus, resolution, counted, present, _normalised(counted, recipe.normalise))
    if recipe.min_weight > 0:
        heavy = network.weight >= recipe.min_weight
        steps.append((f"ties lighter than {recipe.min_weight:g}", network.ties, int(heavy.sum()), "ties"))
        network = network.thinned(heavy)
    part = components(len(network), network.source, network.target)
    if recipe.keep == "connected" and len(network):
        steps.append(("not in the largest part", len(network), int((part == 0).sum()), words))
        network, part = network.kept(part == 0), part[part == 0]
    allowed = ~resolution.aside
    top = int(counted.records[allowed].max(initial=1))
    thresholds = np.arange(1, top + 1)
    both = np.minimum(counted.records[counted.source], counted.records[counted.target])
    both = both[allowed[counted.source] & allowed[counted.target]]
    return Filtered(
        network,
        part,
        tuple(steps),
        _at_least(counted.records[allowed], thresholds),
        _at_least(both, thresholds),
        int((corpus.year == 0).sum()),
    )


def _at_least(values: Ints, thresholds: NDArray[np.int64]) -> Ints:
    """How many values reach each threshold."""
    ordered = np.sort(values)
    return (len(ordered) - np.searchsorted(ordered, thresholds)).astype(np.int32)


def _normalised(counted: Counted, how: str) -> Floats:
    """Weights of all counted pairs; s is records of an item, k its counted strength, T the sum of all strengths."""
    c = counted.weight
    s = counted.records.astype(np.float64)
    s_i, s_j = s[counted.source], s[counted.target]
    if how == "association":
        k = counted.strength
        return c * k.sum() / (k[counted.source] * k[counted.target])
    if how == "cosine":
        return c / np.sqrt(s_i * s_j)
    if how == "jaccard":
        return c / (s_i + s_j - c)
    if how == "inclusion":
        return c / np.minimum(s_i, s_j)
    if how == "equivalence":
        return c * c / (s_i * s_j)
    return c


def _network(corpus: Corpus, resolution: Resolution, counted: Counted, present: Bools, weight: Floats) -> Network:
    n = len(present)
    item, record = counted.item, counted.record
    first, last = np.full(n, _NEVER.max, np.int32), np.full(n, _NEVER.min, np.int32)
    np.minimum.at(first, item, _late(corpus.begin[record]))
    np.maximum.at(last, item, corpus.end[record])
    year = corpus.year[record]
    dated = year > 0
    with np.errstate(invalid="ignore", divide="ignore"):
        mean = np.bincount(item[dated], year[dated], n) / np.bincount(item[dated], minlength=n)
    whole = Network(
        kinds=(counted.kind,),
        label=resolution.label,
        form=resolution.anchors(corpus),
        entity=np.arange(n, dtype=np.int32),
        records=counted.records,
        citations=np.bincount(item, corpus.citations[record], n).astype(np.int32),
        first=days(_back(first)),
        last=days(last),
        mean_year=mean,
        source=counted.source,
        target=counted.target,
        weight=weight,
        count=counted.count,
        tie_first=days(counted.tie_first),
        tie_last=days(counted.tie_last),
    )
    return whole.kept(present)


def records_of(counted_record: Ints, counted_item: Ints, entity: int) -> Ints:
    """Records (numbers in the corpus) in which an entity is counted, in order."""
    return counted_record[counted_item == entity]


def evidence(counted_record: Ints, counted_item: Ints, a: int, b: int) -> Ints:
    """Records that two entities share: the evidence of their tie."""
    return np.intersect1d(
        records_of(counted_record, counted_item, a), records_of(counted_record, counted_item, b), assume_unique=True
    )
