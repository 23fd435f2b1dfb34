"""What an item's records are cited: h, g and m."""

from __future__ import annotations

import numpy as np

from umber_knot.corpus.model import Floats, Ints


def h_index(item: Ints, citations: Ints, n: int) -> Floats:
    """The greatest h such that h of an item's records have h citations each (Hirsch 2005). ``item`` and ``citations`` have
    shape (incidences,): each record of each item below ``n``."""
    rank, cited = _ranked(item, citations)
    found = np.zeros(n)
    fits = cited[1] >= rank
    np.maximum.at(found, cited[0][fits], rank[fits])
    return found


def g_index(item: Ints, citations: Ints, n: int) -> Floats:
    """The greatest g such that an item's g most cited records have g² citations together; not more than its records
    (Egghe 2006)."""
    rank, (of, cited) = _ranked(item, citations)
    together = np.cumsum(cited)
    starts = np.flatnonzero(rank == 1)
    before = np.repeat(np.r_[0, together][starts], np.diff(np.r_[starts, len(rank)]))
    found = np.zeros(n)
    fits = together - before >= rank**2
    np.maximum.at(found, of[fits], rank[fits])
    return found


def m_index(h: Floats, first_year: Ints, last_year: int) -> Floats:
    """h over the years since the first record, counted inclusively (Hirsch 2005); NaN where no record has a year."""
    years = last_year - first_year + 1.0
    return np.divide(h, years, out=np.full(len(h), np.nan), where=(first_year > 0) & (years > 0))


def _ranked(item: Ints, citations: Ints) -> tuple[Ints, tuple[Ints, Ints]]:
    """Each item's records by citations, the most first: (rank from 1, (item, citations))."""
    order = np.lexsort((-citations.astype(np.int64), item))
    of, cited = item[order], citations[order].astype(np.int64)
    starts = np.flatnonzero(np.r_[True, of[1:] != of[:-1]]) if len(of) else np.zeros(0, np.int64)
    rank = np.arange(len(of)) - np.repeat(starts, np.diff(np.r_[starts, len(of)])) + 1
    return rank, (of, cited)
