"""The evidence for and against a set of forms, in words a scholar can check."""

from __future__ import annotations

import itertools
import re
from collections import Counter
from collections.abc import Sequence

import numpy as np

from umber_knot.corpus.letters import bare
from umber_knot.reconcile.names import INITIAL_OF, MAIL, SHORTENED, WHOLE, given_relation
from umber_knot.reconcile.people import People
from umber_knot.reconcile.surroundings import Rows, Surroundings
from umber_knot.reconcile.terms import BASE, KEY, LETTERS, ORDER, SHORTENED_WORDS, SLIP, STATED, TAIL, Terms
from umber_knot.reconcile.words import singular, word_key

_PUNCTUATION = re.compile(r"[^\w\s]|_")
#: What a way of agreeing is called, where the way alone says it.
_SAID = {
    ORDER: "the same words in another order",
    BASE: "the same but for what stands in brackets",
    STATED: "a form in brackets says what the letters stand for",
    LETTERS: "the letters begin the words",
    SHORTENED_WORDS: "words are shortened",
    TAIL: "the longer goes on behind a comma",
    SLIP: "one letter differs, in a rare spelling",
}
Told = tuple[tuple[str, ...], tuple[str, ...]]  # for, against


def told_of_people(found: People, forms: Sequence[str], members: Sequence[int]) -> Told:
    """Evidence that forms are one person: names first, then what surrounds them."""
    texts = [forms[f] for f in members]
    for_, against = list[str](), list[str]()
    plain = [found.read[f][0] for f in members]
    shared = _shared(found, members)
    for number, words in (("orcid", "same ORCID"), ("mailto", "same mail address"), ("openalex", "same author number")):
        if number in shared:
            for_.append(words)
    whole = [r for r in plain if r.whole()]
    if (
        len({" ".join(sorted(bare(t).replace(",", " ").replace(".", " ").replace("-", " ").split())) for t in texts})
        == 1
    ):
        for_.append("the same letters but for capitals, accents, marks or order")
    elif len(whole) == len(plain):
        for_.append("given names agree")
    elif whole:
        for_.append(
            "initials agree everywhere"
            if len({r.given[0][:1] for r in plain if r.given}) <= 1
            else "initials sound alike"
        )
    elif all(r.given for r in plain):
        for_.append("initials agree, no given name is written out")
    families = sorted({r.family for r in plain if r.way != MAIL})
    cores = {r.core for r in plain if r.way != MAIL}
    if any(r.way == MAIL for r in plain):
        for_.append("the mail address spells the name")
    if len(cores) == 1 and len(families) > 1:
        for_.append(f"family name differs by transliteration or particle ({_some(families)})")
    elif len(cores) > 1:
        parts = any(r.way == SHORTENED and r.core in cores for f in members for r in found.read[f])
        longer = " and ".join(families[:2])
        against.append(f"family name lengthened or in part: {longer}" if parts else f"family names differ: {longer}")
    weak = [r for r in plain if not r.whole() and r.given]
    if weak and found.rivals is not None:
        most = max(found.rivals[f] for f in members if not found.read[f][0].whole())
        if most > 1:
            against.append(f"initials fit {int(most)} written-out names")
    if any(
        given_relation(min(a.given, b.given), max(a.given, b.given)) not in (WHOLE, INITIAL_OF)
        for a, b in itertools.pairwise(whole)
    ):
        against.append("given names are spelled differently")
    more = told_around(found.around, members, "co-author")
    return tuple(for_) + more[0], tuple(against) + more[1]


def told_of_terms(found: Terms, members: Sequence[int], ways: set[int]) -> Told:
    """Evidence that forms are one word, venue or institution: how the letters differ, then what surrounds them."""
    texts = [found.forms[f] for f in members]
    for_, against = list[str](), list[str]()
    lowered = {bare(t) for t in texts}
    plural = False
    if len({t.casefold() for t in texts}) < len(texts):
        for_.append("differ in capitals")
    if len({t.casefold() for t in texts}) > len(lowered):
        for_.append("differ in accents")
    if KEY in ways or BASE in ways:
        spaced = {" ".join(_PUNCTUATION.sub(" ", t).split()) for t in lowered}
        joined = {t.replace(" ", "") for t in spaced}
        if len(spaced) < len(lowered) or len(joined) < len(spaced):
            for_.append("differ in hyphen, space or points")
        single = {"".join(map(singular, t.split())) for t in spaced}
        plural = len(single) < len(joined)
        if plural:
            for_.append("singular and plural")
        if len({word_key(t) for t in texts}) < len(single):
            for_.append("British and American spelling")
    for_ += [text for way, text in _SAID.items() if way in ways]
    if LETTERS in ways:
        against.append("no form says what the letters stand for")
    more = told_around(found.around, members, "neighbouring word" if found.kind == "keyword" else "neighbour")
    if plural and any(m.startswith("no neighbouring") for m in more[1]):
        against.append("a plural can mean something else: they keep no company in common")
    return tuple(for_ or ["same letters"]) + more[0], tuple(against) + more[1]


def _shared(found: People, members: Sequence[int]) -> set[str]:
    """Kinds of identifier that at least two of the forms share."""
    times = Counter(i for f in members for i in found.numbers.get(f, ()))
    return {i.partition(":")[0] for i, n in times.items() if n > 1}


def told_around(around: Surroundings, members: Sequence[int], company: str) -> Told:
    """What surrounds a set: things that at least two of its forms share, and their absence; years."""
    for_, against = list[str](), list[str]()
    nothing = []
    for name, word in (("company", company), ("institution", "institution"), ("venue", "venue"), ("word", "word")):
        rows = around.rows.get(name)
        if rows is None:
            continue
        common, given = _common(rows, members)
        if common:
            plural = f"{word}s" if len(common) > 1 else word
            for_.append(f"{len(common)} {plural} in common ({_some(common)})")
        elif given > 1 and name != "word":
            nothing.append(word)
    if nothing:
        against.append(f"no {' or '.join(nothing)} in common")
    dated = [f for f in members if around.first[f]]
    if len(dated) > 1:
        begin, end = np.array([around.first[f] for f in dated]), np.array([around.last[f] for f in dated])
        order = np.argsort(begin, kind="stable")
        reach = np.maximum.accumulate(end[order])
        gap = int(np.max(begin[order][1:] - reach[:-1]))
        if gap > 10:
            against.append(f"{gap} years without a record between them")
        elif gap > 0:
            for_.append("years follow on")
        else:
            for_.append("years overlap")
        if end.max() - begin.min() > 55:
            against.append(f"{int(end.max() - begin.min())} years from the first record to the last")
    return tuple(for_), tuple(against)


def _common(rows: Rows, members: Sequence[int]) -> tuple[list[str], int]:
    """Names of things that at least two forms share, most shared first; and how many forms have any thing at all."""
    parts = [rows.row(f) for f in members]
    given = sum(len(p) > 0 for p in parts)
    if given < 2:
        return [], given
    things, times = np.unique(np.concatenate(parts), return_counts=True)
    common = things[times > 1]
    order = np.lexsort((common, -rows.telling[common], -times[times > 1]))
    return [rows.names[k] for k in common[order].tolist()], given


def _some(names: Sequence[str], most: int = 2) -> str:
    shown = " and ".join(names[:most])
    return shown + (" and others" if len(names) > most else "")
