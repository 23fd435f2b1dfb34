"""From evidence to probability: logistic weights, and the calibration of whole sets, both fitted on planted corpora.

The numbers stand in ``resources/chances.json``, written by ``bench/calibrate.py``; docs/reconciling.md says on what
they
were fitted and how they held on corpora that were kept back.
"""

from __future__ import annotations

import json
from dataclasses import dataclass
from functools import cache
from importlib import resources

import numpy as np

from umber_knot.corpus.model import Floats


@dataclass(frozen=True, slots=True)
class Chance:
    """Weights of named features, and the calibration of a set's weakest link: probability at some log-odds."""

    weights: dict[str, float]
    levels: Floats
    probability: Floats

    def odds(self, features: dict[str, Floats]) -> Floats:
        """Log-odds of every pair; a feature without a weight counts nothing."""
        total = np.full(len(next(iter(features.values()))), self.weights.get("base", 0.0))
        for name, values in features.items():
            weight = self.weights.get(name, 0.0)
            if weight:
                total += weight * values
        return total

    def sure(self, odds: float) -> float:
        """The probability that a set is right whose weakest link has these log-odds."""
        if not len(self.levels):
            return float(1 / (1 + np.exp(-odds)))
        return float(np.interp(odds, self.levels, self.probability))


@cache
def chance(kind: str) -> Chance:
    """The fitted numbers of one kind; empty where none were fitted."""
    text = (resources.files("umber_knot") / "resources" / "chances.json").read_text(encoding="utf-8")
    fitted = json.loads(text).get(kind, {})
    calibration = np.array(fitted.get("calibration", [])).reshape(-1, 2)
    return Chance(fitted.get("weights", {}), calibration[:, 0], calibration[:, 1])
