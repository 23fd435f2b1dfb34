"""Candidate pairs from cheap keys: only what shares a key is ever compared."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence

import numpy as np
from numpy.typing import NDArray
from rapidfuzz.distance import OSA

from umber_knot.corpus.model import Ints


def pairs_within(key: NDArray[np.int64], most: int = 1 << 62) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """All pairs of places with the same key, leaving out keys that more than ``most`` places share."""
    order = np.argsort(key, kind="stable")
    key = key[order]
    starts = np.flatnonzero(np.r_[True, key[1:] != key[:-1]]) if len(key) else np.zeros(0, np.int64)
    sizes = np.diff(np.r_[starts, len(key)])
    small = np.repeat((sizes > 1) & (sizes <= most), sizes)
    end = np.repeat(np.r_[starts[1:], len(key)] if len(key) else starts, sizes)
    following = np.where(small, end - np.arange(len(key)) - 1, 0)
    first = np.repeat(np.arange(len(key)), following)
    offset = np.arange(len(first)) - np.repeat(np.cumsum(following) - following, following)
    return order[first], order[first + 1 + offset]


def slips(words: Sequence[str], rare: Iterable[int], least: int) -> list[tuple[int, int]]:
    """Pairs of different words that one slip of the fingers tells apart (Damerau's distance 1), one of them rare.

    Found by the letters left when one is taken out (as symmetric deletion does), for words of ``least`` letters on.
    """
    by_rest: dict[str, list[int]] = defaultdict(list)
    for number, word in enumerate(words):
        if len(word) >= least:
            by_rest[word].append(number)
            for rest in {word[:k] + word[k + 1 :] for k in range(len(word))}:
                by_rest[rest].append(number)
    found = set()
    for number in rare:
        word = words[number]
        if len(word) < least:
            continue
        for rest in {word, *(word[:k] + word[k + 1 :] for k in range(len(word)))}:
            for other in by_rest[rest]:
                pair = (min(number, other), max(number, other))
                if other != number and pair not in found and OSA.distance(word, words[other], score_cutoff=1) <= 1:
                    found.add(pair)
    return sorted(found)


def is_among(pair: NDArray[np.int64], ordered: NDArray[np.int64]) -> NDArray[np.bool_]:
    """Which pairs stand in a sorted list of pairs."""
    if not len(ordered):
        return np.zeros(len(pair), bool)
    at = np.minimum(np.searchsorted(ordered, pair), len(ordered) - 1)
    return ordered[at] == pair


def packed(a: Ints, b: Ints) -> NDArray[np.int64]:
    """Pairs as single numbers, the lower first."""
    low, high = np.minimum(a, b).astype(np.int64), np.maximum(a, b).astype(np.int64)
    return low << 32 | high
