"""How good suggestions are, on corpora that were kept back from fitting: ``./umber bench reconcile``."""

from __future__ import annotations

import time

from calibrate import corpus
from judging import Truth, Verdict, judge, parted_well, several
from variants import Planted, planted

from umber_knot.corpus.model import Corpus
from umber_knot.reconcile.decisions import resolve
from umber_knot.reconcile.suggest import suggest
from umber_knot.reconcile.suggestion import Suggestion

#: (people, records, seed): kept back; what is fitted uses seeds below 100.
KEPT_BACK = ((1000, 2000, 101), (3000, 9000, 102), (12000, 26000, 103))


def judged(whole: Corpus, kind: str, truth: dict[str, dict[int, int]]) -> tuple[Verdict, list[Suggestion], float]:
    """The verdict on the suggestions of one kind, the suggestions, and the seconds they took."""
    forms = whole.of(kind).forms
    began = time.perf_counter()
    found = suggest(whole, kind, resolve(whole, kind, []))
    seconds = time.perf_counter() - began
    sets = [(s.confidence, s.forms) for s in found if s.action == "merge"]
    return judge(Truth.of(forms, truth), sets), found, seconds


def splits(plan: Planted, whole: Corpus, found: list[Suggestion], level: float = 0.5) -> tuple[float, float, int]:
    """Of the splits said: the share whose groups are right; of the forms that two people have two and more records
    of each: the share split right, and how many there are."""
    forms = whole.of("person").forms
    said = [s for s in found if s.action == "split" and s.confidence >= level]
    good = sum(parted_well(plan, forms[s.forms[0]], s.parts) for s in said)
    there = sum(several(plan, form) for form in forms)
    return good / max(1, len(said)), good / max(1, there), there


def main() -> None:
    for people, records, seed in KEPT_BACK:
        plan = planted(people, records, seed)
        whole = corpus(plan)
        for kind in ("person", "keyword", "reference", "venue", "institution"):
            verdict, found, seconds = judged(whole, kind, plan.truth[kind])
            print(f"{kind:12} {len(whole.of(kind).forms):7,} forms  {verdict}  {seconds:.1f} s", flush=True)
            if kind == "person":
                right, recall, there = splits(plan, whole, found)
                print(f"{'namesakes':12} {there:7,} forms  precision {right:.3f}, recall {recall:.3f}", flush=True)


if __name__ == "__main__":
    main()
