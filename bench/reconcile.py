"""How good suggestions are, on corpora that were kept back from fitting: ``./umber bench reconcile``."""

from __future__ import annotations

import time
from collections.abc import Iterator

from calibrate import corpus
from judging import Truth, Verdict, judge
from variants import Planted, planted

from umber_knot.corpus.model import Corpus
from umber_knot.reconcile.decisions import resolve
from umber_knot.reconcile.suggest import Suggestion, suggest

#: (people, records, seed): kept back; what is fitted uses seeds below 100.
KEPT_BACK = ((1000, 2000, 101), (3000, 9000, 102), (12000, 26000, 103))


def plans() -> Iterator[tuple[Planted, Corpus]]:
    for people, records, seed in KEPT_BACK:
        plan = planted(people, records, seed)
        yield plan, corpus(plan)


def judged(whole: Corpus, kind: str, truth: dict[str, dict[int, int]]) -> tuple[Verdict, list[Suggestion], float]:
    """The verdict on the suggestions of one kind, the suggestions, and the seconds they took."""
    forms = whole.of(kind).forms
    began = time.perf_counter()
    found = suggest(whole, kind, resolve(forms, []))
    seconds = time.perf_counter() - began
    sets = [(s.confidence, s.forms) for s in found if s.action == "merge"]
    return judge(Truth.of(forms, truth), sets), found, seconds


if __name__ == "__main__":
    for plan, whole in plans():
        for kind in ("person", "keyword", "reference", "venue", "institution"):
            verdict, found, seconds = judged(whole, kind, plan.truth[kind])
            print(f"{kind:12} {len(whole.of(kind).forms):7,} forms  {verdict}  {seconds:.1f} s", flush=True)
