"""What surrounds each form: company, venues, institutions, words and years, as sparse rows that pairs are compared
by."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_array

from umber_knot.corpus.letters import plain_words
from umber_knot.corpus.model import Corpus, Floats, Ints, Mentions
from umber_knot.reconcile.words import word_key

CHUNK = 200_000  # pairs compared at a time
CROWD = 60  # records with more people say little about who works with whom


@dataclass(frozen=True, slots=True)
class Rows:
    """For every form the things around it: a sparse (forms, things) matrix of counts, what each thing is called, and
    how telling it is (log of forms over forms that have it)."""

    matrix: csr_array
    names: Sequence[str]
    telling: Floats

    @staticmethod
    def of(matrix: csr_array, names: Sequence[str]) -> Rows:
        matrix.sum_duplicates()
        having = np.bincount(matrix.indices, minlength=matrix.shape[1])
        return Rows(matrix, names, np.log(max(2, matrix.shape[0]) / np.maximum(having, 1)))

    def shared(self, a: Ints, b: Ints) -> tuple[Ints, Floats]:
        """For pairs of forms: how many things both have, and how telling these are together; arrays of shape
        (pairs,)."""
        count, weight = np.zeros(len(a), np.int32), np.zeros(len(a))
        ones = csr_array(
            (np.ones(len(self.matrix.data), np.float32), self.matrix.indices, self.matrix.indptr), self.matrix.shape
        )
        for at in range(0, len(a), CHUNK):
            both = ones[a[at : at + CHUNK]].multiply(ones[b[at : at + CHUNK]]).tocsr()
            count[at : at + CHUNK] = np.diff(both.indptr)
            weight[at : at + CHUNK] = both @ self.telling
        return count, weight

    def sizes(self) -> Ints:
        """How many things each form has around it."""
        return np.diff(self.matrix.indptr).astype(np.int32)

    def row(self, form: int) -> Ints:
        """The things around one form."""
        return self.matrix.indices[self.matrix.indptr[form] : self.matrix.indptr[form + 1]]


@dataclass(frozen=True, slots=True)
class Surroundings:
    """Rows by what they are of (company, venue, institution, word), and first and last year of each form (0:
    undated)."""

    rows: dict[str, Rows]
    first: Ints
    last: Ints
    records: Ints

    def pooled(self, group: Ints, groups: int) -> Surroundings:
        """The surroundings of groups of forms; ``group`` gives each form's."""
        n = len(group)
        gather = csr_array((np.ones(n, np.float32), (group, np.arange(n))), (groups, n))
        rows = {name: Rows.of(csr_array(gather @ r.matrix), r.names) for name, r in self.rows.items()}
        first, last = np.full(groups, 9999, np.int32), np.zeros(groups, np.int32)
        dated = self.first > 0
        np.minimum.at(first, group[dated], self.first[dated])
        np.maximum.at(last, group[dated], self.last[dated])
        return Surroundings(
            rows, np.where(first == 9999, 0, first), last, np.bincount(group, self.records, groups).astype(np.int32)
        )

    def gap(self, a: Ints, b: Ints) -> Ints:
        """Years between the end of one form's records and the beginning of the other's; 0 where they overlap."""
        apart = np.maximum(self.first[a] - self.last[b], self.first[b] - self.last[a])
        return np.where((self.first[a] > 0) & (self.first[b] > 0), np.maximum(apart, 0), 0)


def surroundings(
    corpus: Corpus, mentions: Mentions, company_key: Sequence[str] | None, check: Callable[[], None] = lambda: None
) -> Surroundings:
    """What surrounds the forms of one kind. ``company_key`` names each form as company; None: words keep company."""
    n = len(mentions.forms)
    incidence = _incidence(len(corpus), mentions.record, mentions.form, n)
    rows = {}
    check()
    counts = mentions.counts()
    names, key = _numbered(mentions.forms if company_key is None else company_key, mentions.forms, counts)
    size = np.diff(incidence.indptr)
    near = _incidence(len(corpus), *_small(mentions, size), n)
    together = (near.T @ near).tocoo()
    other = together.row != together.col
    rows["company"] = Rows.of(
        csr_array(
            (np.ones(int(other.sum()), np.float32), (together.row[other], key[together.col[other]])), (n, len(names))
        ),
        names,
    )
    for kind, name, key_of in (
        ("venue", "venue", plain_words),
        ("institution", "institution", plain_words),
        ("keyword", "word", word_key),
    ):
        check()
        around = corpus.of(kind)
        if around is mentions or not len(around.form):
            rows[name] = Rows.of(csr_array((n, 1), dtype=np.float32), ("",))
            continue
        names, key = _numbered([key_of(text) for text in around.forms], around.forms, around.counts())
        theirs = _incidence(len(corpus), around.record, key[around.form], len(names))
        rows[name] = Rows.of(csr_array(incidence.T @ theirs), names)
    year = corpus.year[mentions.record]
    dated = year > 0
    first, last = np.full(n, 9999, np.int32), np.zeros(n, np.int32)
    np.minimum.at(first, mentions.form[dated], year[dated])
    np.maximum.at(last, mentions.form[dated], year[dated])
    return Surroundings(rows, np.where(first == 9999, 0, first), last, counts)


def _small(mentions: Mentions, size: Ints) -> tuple[Ints, Ints]:
    kept = size[mentions.record] <= CROWD
    return mentions.record[kept], mentions.form[kept]


def _incidence(records: int, record: Ints, item: Ints, items: int) -> csr_array:
    found = csr_array((np.ones(len(record), np.float32), (record, item)), (records, items))
    found.sum_duplicates()
    found.data[:] = 1
    return found


def _numbered(keys: Iterable[str], forms: Sequence[str], counts: Ints) -> tuple[list[str], NDArray[Any]]:
    """The most used form of every distinct key, and the number of each form's key."""
    table: dict[str, int] = {}
    number = np.array([table.setdefault(key, len(table)) for key in keys], np.int32)
    names = [""] * len(table)
    for form in np.argsort(counts, kind="stable").tolist():
        names[number[form]] = forms[form]
    return names, number


def together(records: int, record: Ints, form: Ints) -> NDArray[np.int64]:
    """Pairs of forms in one record, lower first, each once as ``lower << 32 | higher``, sorted."""
    order = np.lexsort((form, record))
    record, form = record[order].astype(np.int64), form[order].astype(np.int64)
    found = [np.zeros(0, np.int64)]
    step = 1
    while step < len(record):
        same = np.flatnonzero(record[step:] == record[:-step])
        if not len(same):
            break
        pair = form[same] << 32 | form[same + step]
        found.append(np.unique(pair[form[same] != form[same + step]]))
        step += 1
    return np.unique(np.concatenate(found))
