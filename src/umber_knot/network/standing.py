"""One item's standing over many measures: its ranks, the share of others below it, and how far measures agree."""

from __future__ import annotations

import numpy as np

from umber_knot.corpus.model import Floats, Ints


def ranks(values: Floats) -> Floats:
    """The place of each item, 1 for the greatest, equals sharing the best; NaN where there is no value. Shape (n,)."""
    found = np.full(len(values), np.nan)
    known = np.flatnonzero(~np.isnan(values))
    ordered = np.sort(values[known])
    found[known] = len(known) - np.searchsorted(ordered, values[known], "right") + 1
    return found


def share_below(values: Floats) -> Floats:
    """The share of the other items with a value that have a lower one, shape (n,); NaN where there is no value."""
    found = np.full(len(values), np.nan)
    known = np.flatnonzero(~np.isnan(values))
    ordered = np.sort(values[known])
    found[known] = np.searchsorted(ordered, values[known], "left") / max(len(known) - 1, 1)
    return found


def agreement(one: Floats, other: Floats) -> float:
    """Rank agreement of two measures over the items that have both: Kendall's τ-b (Kendall 1945); NaN where one does not
    tell any two apart."""
    from scipy.stats import kendalltau

    both = ~(np.isnan(one) | np.isnan(other))
    if both.sum() < 2:
        return float("nan")
    return float(kendalltau(one[both], other[both]).statistic)


def contrasts(one: Floats, other: Floats, most: int = 5) -> tuple[Ints, Ints]:
    """The items that stand high in one measure and low in the other, and the other way round, the most unlike first."""
    gap = share_below(one) - share_below(other)
    order = np.argsort(-np.nan_to_num(gap), kind="stable")
    high = order[np.nan_to_num(gap[order]) > 0][:most]
    low = order[::-1][np.nan_to_num(gap[order[::-1]]) < 0][:most]
    return high.astype(np.int32), low.astype(np.int32)
