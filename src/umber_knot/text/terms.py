"""Terms of texts: content words and runs of them, each with the place of every mention, ranked by C-value and evenness.

A run of two to ``LONGEST`` words is a candidate when it comes twice. Its C-value is (1 + log₂ words) · (f − mean f of the
candidates that hold it): how often it comes as itself (Frantzi, Ananiadou & Mima 2000; the 1 lets single words be ranked
beside runs, Barrón-Cedeño et al. 2009). Mentions never overlap: where runs compete the one of most C-value stands, and
single words are what is left.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from itertools import islice

import numpy as np
from numpy.typing import NDArray

from umber_knot.corpus.model import Floats, Ints, Mentions
from umber_knot.corpus.texts import Texts
from umber_knot.corpus.written import Written
from umber_knot.text.languages import UNPARTED, language_of
from umber_knot.text.parameters import FIELDS
from umber_knot.text.result import HEADING, Terms
from umber_knot.text.words import tokens
from umber_knot.text.writing import paragraphs, sentences

LONGEST = 4  # words of a term
BLOCK = 250  # records read at a time
SPREAD = 2000  # records from which both cores read


@dataclass(frozen=True, slots=True)
class _Read:
    """Content words of a block of records: ``word`` indexes ``lemmas``; ``counts`` is false where a heading is met again."""

    lemmas: list[str]
    columns: NDArray[np.int32]  # (8, words): word, joined, record, field, paragraph, sentence, place, counts
    languages: dict[str, int]


def read(block: Sequence[Written]) -> _Read:
    """The content words of some records."""
    number: dict[str, int] = {}
    rows: list[tuple[int, ...]] = []
    languages: dict[str, int] = {}
    for written in block:
        parts = list(paragraphs(written))
        if not parts:
            continue
        language = language_of(written)
        languages[language] = languages.get(language, 0) + 1
        headings: set[str] = set()
        for k, part in enumerate(parts):
            where = written.row, FIELDS.index(part.field), k
            if part.heading:
                counts = part.heading not in headings
                headings.add(part.heading)
                for t in tokens(part.heading, language)[0]:
                    word = number.setdefault(t.lemma, len(number))
                    rows.append((word, t.joined, *where, HEADING, t.place, counts))
            before = 0
            for s, sentence in enumerate(sentences(part.text, language)):
                found, size = tokens(sentence, language)
                rows += [
                    (number.setdefault(t.lemma, len(number)), t.joined, *where, s, before + t.place, 1) for t in found
                ]
                before += size
    return _Read(list(number), np.array(rows, np.int32).reshape(-1, 8).T.copy(), languages)


def find(texts: Iterable[Written], records: int = 0, progress: Callable[[int], None] = lambda done: None) -> Terms:
    """The terms of some records' texts; from ``SPREAD`` records on read by both cores."""
    number: dict[str, int] = {}
    parts: list[NDArray[np.int32]] = []
    languages: dict[str, int] = {}
    done = 0
    for one in _blocks(texts, records >= SPREAD):
        to = np.array([number.setdefault(lemma, len(number)) for lemma in one.lemmas], np.int32)
        columns = one.columns
        columns[0] = to[columns[0]] if len(to) else columns[0]
        parts.append(columns)
        for language, n in one.languages.items():
            languages[language] = languages.get(language, 0) + n
        done += BLOCK
        progress(min(done, records))
    columns = np.concatenate(parts, axis=1) if parts else np.zeros((8, 0), np.int32)
    return _terms(list(number), columns, _said(languages))


def _blocks(texts: Iterable[Written], spread: bool) -> Iterator[_Read]:
    """What was read of each block, in their order."""
    left = iter(texts)
    if not spread:
        while block := list(islice(left, BLOCK)):
            yield read(block)
        return
    import multiprocessing
    from concurrent.futures import Future, ProcessPoolExecutor

    with ProcessPoolExecutor(2, multiprocessing.get_context("spawn")) as pool:
        waiting: list[Future[_Read]] = []
        try:
            while True:
                while len(waiting) < 4 and (block := list(islice(left, BLOCK))):
                    waiting.append(pool.submit(read, block))
                if not waiting:
                    return
                yield waiting.pop(0).result()
        finally:
            for one in waiting:
                one.cancel()


def _terms(lemmas: list[str], columns: NDArray[np.int32], told: str) -> Terms:
    word, joined, record, field, paragraph, sentence, place, counts = columns
    grams = _grams(word, joined.astype(bool), len(lemmas))
    often = [np.bincount(g[g >= 0], counts[g >= 0]).astype(np.float64) for g in grams]
    value = _c_values(grams, often)
    start, length = _chosen(grams, often, value)
    key, first, form = _numbered(grams, start, length)
    forms = Texts.of(" ".join(lemmas[w] for w in word[start[f] : start[f] + length[f]].tolist()) for f in first)
    values = np.array([value[n - 1][g] for n, g in key.tolist()], np.float64)
    evenness = _evenness(record[start], form, len(forms))
    where, inside, part, said, at = (column[start] for column in (record, field, paragraph, sentence, place))
    mentions = _mentions(forms, where, form)
    return Terms(forms, values, evenness, where, inside, part, said, at, length, form, mentions, told)


def _mentions(forms: Texts, record: Ints, form: Ints) -> Mentions:
    wide = max(len(forms), 1)
    key = np.unique(record.astype(np.int64) * wide + form)
    return Mentions(forms, (key // wide).astype(np.int32), (key % wide).astype(np.int32))


Gram = NDArray[np.int64]


def _grams(word: Ints, joined: NDArray[np.bool_], vocabulary: int) -> list[Gram]:
    """For runs of 1, 2 … words the number of the run that starts at each word, −1 where none does; shape (words,)."""
    grams: list[Gram] = [word.astype(np.int64)]
    n = len(word)
    inside = joined.copy()  # whether the word at the end of a run goes on the one before it
    for length in range(2, LONGEST + 1):
        gram = np.full(n, -1, np.int64)
        starts = np.flatnonzero(grams[-1][: max(n - length + 1, 0)] >= 0)
        starts = starts[inside[starts + length - 1]]
        key = grams[-1][starts] * vocabulary + word[starts + length - 1]
        gram[starts] = np.unique(key, return_inverse=True)[1]
        grams.append(gram)
    return grams


def _c_values(grams: Sequence[Gram], often: Sequence[Floats]) -> list[Floats]:
    """The C-value of every run, by its length; below zero where it is no candidate."""
    held = [np.zeros(len(f)) for f in often]  # how often the candidates come that hold a run, and how many they are
    holders = [np.zeros(len(f)) for f in often]
    for longer in range(1, len(grams)):
        candidates = np.flatnonzero(often[longer] >= 2)
        seen = np.zeros(len(often[longer]), np.int64)
        where = np.flatnonzero(grams[longer] >= 0)
        seen[grams[longer][where]] = where
        at = seen[candidates]
        for shorter in range(longer):
            inside = [grams[shorter][at + k] for k in range(longer - shorter + 1)]
            pairs = np.unique(np.stack([np.concatenate(inside), np.tile(candidates, len(inside))]), axis=1)
            np.add.at(held[shorter], pairs[0], often[longer][pairs[1]])
            np.add.at(holders[shorter], pairs[0], 1)
    values = []
    for k, f in enumerate(often):
        value = (1 + np.log2(k + 1)) * (f - held[k] / np.maximum(holders[k], 1))
        values.append(np.where((f >= 2) | (k == 0), value, -1.0))
    return values


def _chosen(grams: Sequence[Gram], often: Sequence[Floats], value: Sequence[Floats]) -> tuple[Gram, NDArray[np.int32]]:
    """Where the terms stand that are mentioned, in order, and how many words each has; none overlaps another."""
    starts, lengths, values = [], [], []
    for k in range(1, len(grams)):
        at = np.flatnonzero(grams[k] >= 0)
        at = at[value[k][grams[k][at]] > 0]
        starts.append(at)
        lengths.append(np.full(len(at), k + 1, np.int32))
        values.append(value[k][grams[k][at]])
    start, length = np.concatenate(starts), np.concatenate(lengths)
    order = np.lexsort((start, -length, -np.concatenate(values)))
    taken = bytearray(len(grams[0]))
    kept = []
    for at, n in zip(start[order].tolist(), length[order].tolist()):
        if not any(taken[at : at + n]):
            taken[at : at + n] = b"\1" * n
            kept.append((at, n))
    alone = np.flatnonzero(np.frombuffer(taken, np.uint8) == 0)
    runs = np.array(kept, np.int64).reshape(-1, 2)
    start = np.concatenate([runs[:, 0], alone])
    length = np.concatenate([runs[:, 1], np.ones(len(alone), np.int64)])
    order = np.argsort(start, kind="stable")
    return start[order], length[order].astype(np.int32)


def _numbered(grams: Sequence[Gram], start: Gram, length: NDArray[np.int32]) -> tuple[Gram, list[int], Ints]:
    """The distinct terms as (words, run), the first mention of each, and which of them every mention is; numbered in
    the order of first mention."""
    which = np.stack([length.astype(np.int64), np.choose(length - 1, [g[start] for g in grams])], axis=1)
    key, first, form = np.unique(which.reshape(-1, 2), axis=0, return_index=True, return_inverse=True)
    order = np.argsort(first, kind="stable")
    rank = np.empty(len(order), np.int32)
    rank[order] = np.arange(len(order), dtype=np.int32)
    return key[order], first[order].tolist(), rank[form.reshape(-1)]


def _evenness(record: Ints, form: Ints, n: int) -> Floats:
    """How evenly each term is spread over the records that have it: entropy over its greatest (Pielou 1966); 0 where
    one record alone has it."""
    if not len(form):
        return np.zeros(n)
    wide = int(record.max()) + 1
    pair, times = np.unique(form.astype(np.int64) * wide + record, return_counts=True)
    of = pair // wide
    share = times / np.bincount(of, times, n)[of]
    records = np.bincount(of, minlength=n)
    entropy = np.bincount(of, -share * np.log(share), n)
    return np.divide(entropy, np.log(np.maximum(records, 2)), out=np.zeros(n), where=records > 1)


def _said(languages: dict[str, int]) -> str:
    """Which languages the texts are in, the commonest first: ``1,190 in English, 12 in German``."""
    from babel import Locale

    names = Locale("en").languages
    ordered = sorted(languages.items(), key=lambda one: (-one[1], one[0]))
    said = ", ".join(f"{n:,} in {names.get(language, language)}" for language, n in ordered)
    runs = [names[language] for language in UNPARTED if language in languages]
    return said + (f"; {' and '.join(runs)} read in runs of letters" if runs else "")
