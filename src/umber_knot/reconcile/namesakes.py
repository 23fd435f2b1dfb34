"""Forms that probably stand for several people: records of one name that have nothing to do with each other."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.cluster.hierarchy import fcluster, linkage
from scipy.sparse import csr_array, hstack

from umber_knot.corpus.letters import plain_words
from umber_knot.corpus.model import Corpus, Floats, Ints, Mentions
from umber_knot.reconcile.people import People
from umber_knot.reconcile.words import word_key

FEWEST = 4  # records of a form that may be told apart
MOST = 400  # records of a form that are compared with each other
CUT = 0.7  # mean likeness of records below which they stand in two groups
#: How much a thing in common says, beside how rare it is.
WEIGHT = {"person": 1.0, "institution": 0.5, "venue": 0.6, "keyword": 0.8}


@dataclass(frozen=True, slots=True)
class Parting:
    """A form and the groups its records fall into (numbers in the corpus, largest group first; records that are like
    none are in none), with the numbers that weigh for and against their being different people."""

    form: int
    groups: tuple[tuple[int, ...], ...]
    features: dict[str, float]


def partings(
    corpus: Corpus, mentions: Mentions, found: People, check: Callable[[], None] = lambda: None
) -> Iterator[Parting]:
    """Every form whose records fall into groups of two and more that have little in common."""
    company = [f"{r[0].core} {r[0].given[0][:1] if r[0].given else ''}" if r else "" for r in found.read]
    number: dict[str, int] = {}
    key = np.array([number.setdefault(text, len(number)) for text in company], np.int32)
    things, telling = _things(corpus, mentions, key, len(number))
    order = np.argsort(mentions.form, kind="stable")
    bounds = np.searchsorted(mentions.form[order], np.arange(len(mentions.forms) + 1))
    named = defaultdict(set)
    for record, form, identifier in corpus.known:
        if identifier.startswith("orcid:"):
            named[form].add((record, identifier))
    counts = np.diff(bounds)
    for k, form in enumerate(np.flatnonzero((counts >= FEWEST) & (counts <= MOST)).tolist()):
        if not k & 127:
            check()
        if form in found.nobody:
            continue
        records = np.unique(mentions.record[order[bounds[form] : bounds[form + 1]]])
        if len(records) < FEWEST:
            continue
        alike = _likeness(things, records) - telling[key[form]]
        np.fill_diagonal(alike, 0.0)
        n = len(records)
        if (alike <= CUT).sum() - n < 2 * (n - 2):  # fewer pairs have little in common than two groups would leave
            continue
        label = _groups(alike)
        sizes = np.bincount(label)
        if len(sizes) < 2 or np.sort(sizes)[-2] < 2:
            continue
        order_ = np.argsort(-sizes, kind="stable")
        large = [np.flatnonzero(label == g) for g in order_ if sizes[g] > 1]
        parts = _with_strays(alike, large)
        yield Parting(
            form,
            tuple(tuple(records[p].tolist()) for p in parts),
            _features(corpus, found, form, records, alike, large, named.get(form, set())),
        )


def _things(corpus: Corpus, mentions: Mentions, key: Ints, keys: int) -> tuple[csr_array, Floats]:
    """A sparse (records, things) matrix whose products are likenesses: what two records share, by how rare it is; and
    how telling each person is."""
    blocks = []
    for kind, weight in WEIGHT.items():
        around = corpus.of(kind)
        if kind == "person":
            item, count = key[mentions.form], keys
            record = mentions.record
        elif len(around.form):
            number: dict[str, int] = {}
            of = word_key if kind == "keyword" else plain_words
            numbered = np.array([number.setdefault(of(text), len(number)) for text in around.forms], np.int32)
            record, item, count = around.record, numbered[around.form], len(number)
        else:
            continue
        one = csr_array((np.ones(len(record)), (record, item)), (len(corpus), count))
        one.sum_duplicates()
        one.data[:] = 1
        having = np.bincount(one.indices, minlength=count)
        rare = weight * np.log(max(2, len(corpus)) / np.maximum(having, 1))
        if kind == "person":
            telling = rare
        one.data *= np.sqrt(rare[one.indices])
        blocks.append(one)
    return csr_array(hstack(blocks, format="csr")), telling


def _likeness(things: csr_array, records: NDArray[np.signedinteger]) -> NDArray[np.float64]:
    """How much every two of some records share; shape (records, records)."""
    begin, end = things.indptr[records], things.indptr[records + 1]
    spots = np.concatenate([np.arange(b, e) for b, e in zip(begin.tolist(), end.tolist())])
    inside, at = np.unique(things.indices[spots], return_inverse=True)
    dense = np.zeros((len(records), len(inside)))
    dense[np.repeat(np.arange(len(records)), end - begin), at] = things.data[spots]
    return dense @ dense.T


def _groups(alike: NDArray[np.float64]) -> Ints:
    """Groups by average linkage, down to the cut."""
    top = float(alike.max()) + 1
    i, j = np.triu_indices(len(alike), 1)
    tree = linkage(top - alike[i, j], "average")
    return fcluster(tree, top - CUT, "distance").astype(np.int32) - 1


def _with_strays(alike: NDArray[np.float64], large: list[NDArray[np.intp]]) -> list[NDArray[np.intp]]:
    """The groups with each single record in the one it is most like; one that is like none is left out."""
    mean = np.stack([alike[:, g].mean(1) for g in large])
    home = np.where(mean.max(0) > 0, mean.argmax(0), -1)
    for k, g in enumerate(large):
        home[g] = k
    return [np.flatnonzero(home == k) for k in range(len(large))]


def _features(
    corpus: Corpus,
    found: People,
    form: int,
    records: NDArray[np.signedinteger],
    alike: NDArray[np.float64],
    large: list[NDArray[np.intp]],
    named: set[tuple[int, str]],
) -> dict[str, float]:
    """What weighs: the two largest groups against each other, and how common the name is."""
    one, two = large[0], large[1]
    between = alike[np.ix_(one, two)]
    within = [alike[np.ix_(g, g)].sum() / (len(g) * (len(g) - 1)) for g in (one, two)]
    year = [corpus.year[records[g]] for g in (one, two)]
    year = [y[y > 0] for y in year]
    gap = max(0, int(max(year[0].min() - year[1].max(), year[1].min() - year[0].max()))) if all(map(len, year)) else 0
    ids = [{i for r, i in named if r in set(records[g].tolist())} for g in (one, two)]
    whole = found.read[form][0].whole()
    return {
        "mean between": float(between.mean()),
        "most between": float(np.log1p(between.max())),
        "nothing between": float((between == 0).mean()),
        "linked records": float((between.max(1) > 2).mean() + (between.max(0) > 2).mean()),
        "least within": float(np.log1p(min(within))),
        "second": float(np.log(len(two))),
        "share": len(two) / len(records),
        "groups": float(np.log(len(large))),
        "strays": 1 - sum(map(len, large)) / len(records),
        "gap": float(np.log1p(gap)),
        "whole": float(whole > 0),
        "two whole": float(whole > 1),
        "rivals": float(np.log2(1 + found.rivals[form])),
        "crowded family": float(np.log2(1 + found.kin[form])),
        "different ORCIDs": float(bool(ids[0] and ids[1] and not ids[0] & ids[1])),
        "same ORCID": float(bool(ids[0] & ids[1])),
    }


def told_of_parting(parting: Parting) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """The evidence for and against a split, in words."""
    f = parting.features
    for_, against = list[str](), list[str]()
    sizes = ", ".join(f"{len(g):,}" for g in parting.groups)
    for_.append(f"the records fall into {len(parting.groups)} groups ({sizes} records) that share little")
    if f["different ORCIDs"]:
        for_.append("the groups have different ORCIDs")
    if f["most between"] == 0:
        for_.append("no co-author, venue, institution or word in common")
    if f["gap"]:
        for_.append(f"{round(np.expm1(f['gap']))} years between the groups")
    if not f["whole"] and f["rivals"] > 1:
        for_.append(f"initials fit {round(2 ** f['rivals'] - 1)} written-out names")
    if f["two whole"]:
        against.append("the name is written out with a second name")
    elif f["whole"]:
        against.append("the given name is written out")
    if f["most between"]:
        against.append("some records of both have a venue, word or institution in common")
    return tuple(for_), tuple(against)
