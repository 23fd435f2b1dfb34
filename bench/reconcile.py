"""How good suggestions are, on corpora that were kept back from fitting: ``./umber bench reconcile``."""

from __future__ import annotations

import pickle
import random
import subprocess
import sys
import time
from pathlib import Path

from calibrate import calibrate, corpus
from judging import Truth, Verdict, judge, parted_well, several
from sources import say
from variants import Planted, planted

from umber_knot.corpus.assemble import corpus_of
from umber_knot.corpus.model import Corpus, Decision, RawRecord, Source
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


LARGE = """
import pickle, resource, sys, time
from umber_knot.reconcile.decisions import resolve; from umber_knot.reconcile.suggest import suggest
corpus = pickle.load(open(sys.argv[1], "rb"))
gaps, last = [0.0], [time.perf_counter()]
def check():
    now = time.perf_counter(); gaps.append(now - last[0]); last[0] = now
began = time.perf_counter()
found = suggest(corpus, "person", resolve(corpus, "person", []), (), check)
print(time.perf_counter() - began, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6, max(gaps), len(found))
"""
#: Asked: precision and recall of each kind.
ASKED = {
    "person": (0.98, 0.95),
    "keyword": (0.98, 0.95),
    "reference": (0.99, 0.95),
    "venue": (0.98, 0.95),
    "institution": (0.98, 0.95),
}


def bench_reconcile(folder: Path) -> None:
    """Quality on what was kept back, 100,000 forms in 300,000 records, 10,000 decisions on a million mentions."""
    for people, records, seed in KEPT_BACK:
        plan = planted(people, records, seed)
        whole = corpus(plan)
        for kind, (precision, recall) in ASKED.items():
            verdict, found, seconds = judged(whole, kind, plan.truth[kind])
            ok = verdict.precision >= precision and verdict.recall >= recall and verdict.error <= 0.05
            say(
                kind,
                f"{len(whole.of(kind).forms):,} forms: {verdict}, {seconds:.1f} s",
                f"{precision}, {recall}, 0.05",
                ok,
            )
            if kind == "person":
                right, got, there = splits(plan, whole, found)
                say(
                    "namesakes",
                    f"{there} forms: precision {right:.3f}, recall {got:.3f}",
                    "0.9, 0.7",
                    right >= 0.9 and got >= 0.7,
                )
    bench_decisions()
    plan = planted(7_700, 300_000, 110, references=False)
    whole = corpus(plan)
    path = folder / "large.pickle"
    path.write_bytes(pickle.dumps(whole, 5))
    forms = len(whole.of("person").forms)
    del plan, whole
    done = subprocess.run([sys.executable, "-c", LARGE, str(path)], check=True, capture_output=True, text=True)
    seconds, peak, gap, sets = map(float, done.stdout.split())
    say(
        "large",
        f"{forms:,} forms in 300,000 records: {seconds:.1f} s, {peak:.2f} GB, {sets:,.0f} suggestions; longest without a look for stop {gap:.2f} s",
        "60 s, 2 GB",
        seconds <= 60 and peak <= 2,
    )


def bench_decisions() -> None:
    """10,000 decisions on a million mentions of 300,000 forms."""
    rng = random.Random(7)
    n = 300_000
    records = [RawRecord(k + 1, persons=[f"Name{rng.randrange(n)}, {c}." for c in "ABC"]) for k in range(n + n // 9)]
    whole = corpus_of([(Source("made", "", "", "", "", len(records)), records)])
    mentions = whole.of("person")
    made = [
        Decision(
            "person",
            rng.choice(("merge",) * 7 + ("apart", "aside", "prefer")),
            rng.choice(mentions.forms),
            rng.choice(mentions.forms),
        )
        for _ in range(10_000)
    ]
    began = time.perf_counter()
    resolve(whole, "person", made).entity[mentions.form]
    seconds = time.perf_counter() - began
    say(
        "decisions",
        f"10,000 on {len(mentions.form):,} mentions of {len(mentions.forms):,} forms: {seconds:.2f} s",
        "1 s",
        seconds <= 1,
    )


BENCHES = {"reconcile": bench_reconcile, "calibrate": lambda folder: calibrate()}
