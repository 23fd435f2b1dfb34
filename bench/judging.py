"""How good suggestions are against a planted truth: pairs right and missed, sets right, and calibration."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from variants import Planted


@dataclass(frozen=True)
class Truth:
    """What each form stands for: one or two things that make up at least half of its records (−1: none)."""

    main: NDArray[np.int64]  # (forms, 2)

    @staticmethod
    def of(forms: Sequence[str], counted: Mapping[str, Mapping[int, int]]) -> Truth:
        main = np.full((len(forms), 2), -1, np.int64)
        for k, form in enumerate(forms):
            counts = counted.get(form, {})
            half = [who for who, n in sorted(counts.items(), key=lambda one: -one[1]) if 2 * n >= sum(counts.values())]
            main[k, : len(half[:2])] = half[:2]
        return Truth(main)

    def same(self, a: NDArray[np.integer], b: NDArray[np.integer]) -> NDArray[np.bool_]:
        """Which pairs of forms stand for one thing."""
        found = np.zeros(len(a), bool)
        for i in range(2):
            for j in range(2):
                found |= (self.main[a, i] >= 0) & (self.main[a, i] == self.main[b, j])
        return found

    def pairs(self) -> int:
        """All pairs that are one."""
        groups: dict[int, list[int]] = defaultdict(list)
        for form, who in zip(*np.nonzero(self.main >= 0)):
            groups[int(self.main[form, who])].append(int(form))
        return len({(a, b) for forms in groups.values() for k, a in enumerate(forms) for b in forms[k + 1 :]})

    def split(self, forms: Sequence[int]) -> tuple[int, int]:
        """(pairs that are one, all pairs) within a set."""
        ordered = np.array(forms)
        i, j = np.triu_indices(len(ordered), 1)
        return int(self.same(ordered[i], ordered[j]).sum()), len(i)


@dataclass(frozen=True)
class Verdict:
    """Pairwise precision and recall at a confidence, and the expected calibration error over ten bins of all sets."""

    precision: float
    recall: float
    error: float
    sets: int

    def __str__(self) -> str:
        return f"precision {self.precision:.4f}, recall {self.recall:.4f}, calibration error {self.error:.3f}, {self.sets:,} sets"


def judge(truth: Truth, sets: Iterable[tuple[float, Sequence[int]]], level: float = 0.5) -> Verdict:
    """Judge (confidence, forms) sets; pairs in several sets count once."""
    listed = list(sets)
    right, said, seen, good = [], [], set(), 0
    for confidence, forms in listed:
        ok, of = truth.split(forms)
        said.append(confidence)
        right.append(ok == of)
        if confidence >= level:
            ordered = sorted(forms)
            i, j = np.triu_indices(len(ordered), 1)
            a, b = np.array(ordered)[i], np.array(ordered)[j]
            for x, y, one in zip(a.tolist(), b.tolist(), truth.same(a, b).tolist()):
                if (x, y) not in seen:
                    seen.add((x, y))
                    good += one
    return Verdict(
        good / max(1, len(seen)),
        good / max(1, truth.pairs()),
        expected_error(np.array(said), np.array(right)),
        len(listed),
    )


def expected_error(said: NDArray[np.float64], right: NDArray[np.bool_], bins: int = 10) -> float:
    """Expected calibration error: the mean gap between what was said and what was so, over equal bins."""
    at = np.minimum((said * bins).astype(int), bins - 1)
    return (
        float(sum(abs(said[at == k].mean() - right[at == k].mean()) * (at == k).mean() for k in np.unique(at)))
        if len(said)
        else 0.0
    )


def several(plan: Planted, form: str) -> bool:
    """Whether a form stands for two people and more who have at least two of its records each."""
    counts = sorted(plan.truth["person"].get(form, {}).values())
    return len(counts) > 1 and counts[-2] >= 2


def parted_well(plan: Planted, form: str, groups: Sequence[Sequence[int]]) -> bool:
    """Whether proposed groups of a form's records agree with who wrote them: nine in ten pairs of records."""
    if not several(plan, form):
        return False
    who = [(g, plan.occurrence.get((r, form), -1)) for g, records in enumerate(groups) for r in records]
    group, person = np.array(who).T
    i, j = np.triu_indices(len(who), 1)
    return bool(((group[i] == group[j]) == (person[i] == person[j])).mean() >= 0.9)
