"""Bringing results up to date: only what follows a change is computed again."""

from __future__ import annotations

import resource
import time
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from umber_knot.lineage.cache import Cache
from umber_knot.lineage.stages import STAGES, Inputs, Progress, keys


@dataclass(frozen=True, slots=True)
class Outcome:
    """One stage's result and what it took; ``fresh`` is False when it was known already."""

    stage: str
    key: str
    result: Any
    fresh: bool
    seconds: float
    peak_mb: float


class Lineage:
    """Remembers the last results of every stage, in memory and (when given a cache) on disk."""

    KEPT = 4  # results a stage keeps in memory: enough for undo and for looking back and forth

    def __init__(self, cache: Cache | None = None) -> None:
        self.cache = cache
        self._known: dict[str, dict[str, Any]] = {name: {} for name in STAGES}

    def update(self, inputs: Inputs, progress: Progress, stages: tuple[str, ...] = tuple(STAGES)) -> Iterator[Outcome]:
        """Each asked-for stage's result in working order; whatever ``progress`` raises ends it."""
        wanted = keys(inputs)
        done: dict[str, Any] = {}
        unsaved = []
        for name in (n for n in STAGES if n in stages):
            began = time.perf_counter()
            key, known = wanted[name], self._known[name]
            result = known.get(key)
            if result is None and self.cache is not None:
                result = self.cache.get(key)
            fresh = result is None
            if result is None:
                result = STAGES[name].run(inputs, done, progress)
                unsaved.append((key, result))
            known.pop(key, None)
            known[key] = result
            while len(known) > self.KEPT:
                del known[next(iter(known))]
            done[name] = result
            peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
            yield Outcome(name, key, result, fresh, time.perf_counter() - began, peak)
        if self.cache is not None:
            for key, result in unsaved:
                self.cache.put(key, result)
