"""Concept ties of made-up abstracts, and the plain reading of their words that they are measured against."""

from __future__ import annotations

import random
import time
from collections import Counter

from umber_knot.corpus.assemble import corpus_of
from umber_knot.corpus.model import RawRecord, Source
from umber_knot.corpus.written import Written
from umber_knot.reconcile.decisions import resolve
from umber_knot.relate.counting import count
from umber_knot.relate.parameters import Relate
from umber_knot.relate.selecting import select
from umber_knot.text.terms import find
from umber_knot.text.words import tokens
from umber_knot.text.writing import sentences


def abstracts(n: int, seed: int = 1) -> list[str]:
    """Abstracts of nine sentences, of words that are as common as words are."""
    rng = random.Random(seed)
    syllables = [a + b for a in "bcdfglmnprst" for b in "aeiou"]
    words = ["".join(rng.choices(syllables, k=rng.randint(2, 4))) for _ in range(8000)]
    weights = [1 / (k + 3) for k in range(len(words))]

    def sentence() -> str:
        own = rng.choices(words, weights, k=14)
        return " ".join([*own[:5], "of the", *own[5:9], "and in a", *own[9:]]).capitalize() + "."

    return [" ".join(sentence() for _ in range(9)) for _ in range(n)]


def compare(n: int) -> tuple[float, float, int, int]:
    """(seconds of splitting, lemmatising and counting the words; seconds of the network; terms; ties)."""
    texts = abstracts(n)
    began = time.perf_counter()
    words: Counter[str] = Counter()
    for text in texts:
        for one in sentences(text, "en"):
            words.update(token.lemma for token in tokens(one, "en")[0])
    plain = time.perf_counter() - began
    corpus = corpus_of([(Source("s", "", "", "", "", n), [RawRecord(k + 1, year=1990) for k in range(n)])])
    began = time.perf_counter()
    found = find((Written(k, "", "en", text, ()) for k, text in enumerate(texts)), n)
    corpus = corpus.knowing({"term": found.mentions})
    sentence = Relate(tie="concept", of="term", min_records=3)
    counted = count(corpus, {"term": resolve(corpus, "term", ())}, sentence, None, found)
    network = select(corpus, counted, sentence).network
    return plain, time.perf_counter() - began, len(found.forms), network.ties
