"""Counting ties at real sizes: seconds and memory against the plain loop of combinations and a Counter."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

from sources import say

HERE = Path(__file__).parent
MADE = f"""
import sys, time, resource; sys.path.insert(0, {str(HERE)!r})
from relate import made, network
"""


def made(records: int, forms: int, each: int, kind: str, seed: int = 5):
    """A corpus of records that mention ``each`` forms of a kind, a few forms often and most seldom."""
    import numpy as np

    from umber_knot.corpus.assemble import corpus_of
    from umber_knot.corpus.model import Mentions, RawRecord, Source
    from umber_knot.corpus.texts import Texts

    rng = np.random.default_rng(seed)
    weight = 1.0 / (np.arange(forms) + 20)
    form = np.searchsorted(np.cumsum(weight) / weight.sum(), rng.random(records * each)).astype(np.int32)
    record = np.repeat(np.arange(records, dtype=np.int32), each)
    small = corpus_of([(Source("s", "", "", "", "", 1), [RawRecord(1, title="x", year=1990)])])
    take = np.zeros(records, np.int64)
    fields = {}
    for name in small.__slots__:
        value = getattr(small, name)
        if isinstance(value, Texts):
            fields[name] = value.take(take)
        elif isinstance(value, np.ndarray):
            fields[name] = value[take]
    fields["id"] = np.arange(1, records + 1, dtype=np.int32)
    from dataclasses import replace

    mentions = Mentions(Texts.of(f"f{k}" for k in range(forms)), record, np.minimum(form, forms - 1))
    return replace(small, **fields, mentions={**small.mentions, kind: mentions})


def network(corpus, **sentence):
    """The network of a sentence in which no form is merged or matched, and the seconds it took."""
    import time

    import numpy as np

    from umber_knot.gather.references import Matches
    from umber_knot.reconcile.decisions import resolve
    from umber_knot.relate.counting import count
    from umber_knot.relate.parameters import Relate
    from umber_knot.relate.selecting import select

    words = Relate(**sentence)
    known = {kind: resolve(corpus, kind, ()) for kind in words.reconciled}
    n = len(corpus.of("reference").forms)
    matches = Matches(np.full(n, -1, np.int32), np.zeros(n), np.zeros(n, np.int8))
    began = time.perf_counter()
    made_of = select(corpus, count(corpus, known, words, matches), words)
    return made_of.network, time.perf_counter() - began


def measure(code: str) -> list[float]:
    """Numbers printed by code in a process of its own, after which come the megabytes that it grew by."""
    grown = "\nprint(*found, (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) / 1024)"
    done = subprocess.run([sys.executable, "-c", MADE + code + grown], check=True, capture_output=True, text=True)
    return [float(word) for word in done.stdout.split()]


def bench_relate(folder: Path) -> None:
    """The three sizes that the counting must bear."""
    code = """
corpus = made(100_000, 30_000, 20, "keyword")
before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
counts = corpus.of("keyword").counts()
least = int(sorted(counts.tolist())[-5000])
net, seconds = network(corpus, tie="co-occurrence", of="keyword", normalise="association", min_records=least)
found = [seconds, len(net), net.ties]
"""
    seconds, items, ties, grown = measure(code)
    loop = """
import itertools; from collections import Counter
corpus = made(10_000, 30_000, 20, "keyword")
before = 0
m = corpus.of("keyword"); lists = m.form.reshape(-1, 20).tolist()
began = time.perf_counter(); counts = Counter()
for row in lists: counts.update(itertools.combinations(sorted(set(row)), 2))
found = [time.perf_counter() - began]
"""
    plain = measure(loop)[0] * 10  # a tenth of the records
    said = f"{items:,.0f} words, {ties:,.0f} ties in {seconds:.2f} s, {grown:,.0f} MB more; {plain / seconds:.0f} times the loop"
    say("words", said, "2 s, 2 GB, 50 times", seconds <= 2 and grown <= 2000 and plain >= 50 * seconds)
    code = """
corpus = made(1_000_000, 400_000, 6, "person")
before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
net, seconds = network(corpus, min_records=2)
found = [seconds, len(net), net.ties]
"""
    seconds, items, ties, grown = measure(code)
    said = f"{items:,.0f} people, {ties:,.0f} ties in {seconds:.1f} s, {grown:,.0f} MB more"
    say("people", said, "15 s", seconds <= 15)
    code = """
corpus = made(50_000, 300_000, 40, "reference")
before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
net, seconds = network(corpus, tie="co-citation", of="reference", min_records=5)
found = [seconds, len(net), net.ties]
"""
    seconds, items, ties, grown = measure(code)
    said = f"{items:,.0f} works, {ties:,.0f} ties in {seconds:.1f} s, {grown:,.0f} MB more"
    say("co-citation", said, "5 s, 3 GB", seconds <= 5 and grown <= 3000)
    code = """
from dataclasses import replace
from umber_knot.relate.counting import count
from umber_knot.relate.parameters import Relate
from umber_knot.relate.selecting import select
from umber_knot.reconcile.decisions import resolve
corpus = made(100_000, 30_000, 20, "keyword")
before = 0
words = Relate(tie="co-occurrence", of="keyword", min_records=40)
counted = count(corpus, {"keyword": resolve(corpus, "keyword", ())}, words)
began = time.perf_counter(); net = select(corpus, counted, replace(words, min_records=41)).network
found = [time.perf_counter() - began, len(net), net.ties]
"""
    seconds, items, ties, _ = measure(code)
    say("threshold", f"{items:,.0f} words, {ties:,.0f} ties chosen anew in {seconds:.2f} s", "1 s", seconds <= 1)


def bench_concept(folder: Path) -> None:
    """Terms of 10,000 abstracts tied in their sentences, against reading their words alone."""
    from concept import compare  # a module that both cores can load

    plain, whole, terms, ties = compare(10_000)
    said = f"{terms:,} terms, {ties:,} ties in {whole:.1f} s; {whole / plain:.1f} times reading the words alone"
    say("concept", said, "4 times", whole <= 4 * plain)


BENCHES = {"relate": bench_relate, "concept": bench_concept}
