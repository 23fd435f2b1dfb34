"""Evidence that two keywords, venues, institutions or places are one: how their letters agree, and what surrounds
them."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field
from functools import cache, lru_cache

import numpy as np
from numpy.typing import NDArray
from rapidfuzz.distance import OSA

from umber_knot.corpus.letters import bare
from umber_knot.corpus.model import Corpus, Floats, Ints, Mentions
from umber_knot.reconcile.names import latin
from umber_knot.reconcile.pairing import is_among, packed, slips
from umber_knot.reconcile.surroundings import Surroundings, surroundings, together
from umber_knot.reconcile.words import SMALL, american, bracketed, letters_of, order_key, singular, word_key, words_of

#: How two terms agree, the strongest first.
WAYS = ("key", "order", "base", "stated", "shortened", "tail", "letters", "slip")
KEY, ORDER, BASE, STATED, SHORTENED_WORDS, TAIL, LETTERS, SLIP = range(8)
MOST = 40  # forms on one loose key; more is no key
SLIP_RECORDS = 3  # records, up to which a spelling may be a slip of the fingers


@dataclass(frozen=True, slots=True)
class TermPairs:
    """Pairs of forms, how each agrees (see WAYS), and the numbers that weigh."""

    a: Ints
    b: Ints
    way: Ints
    features: dict[str, Floats]


@dataclass(frozen=True, slots=True)
class Terms:
    """The forms of a kind in what can be compared."""

    kind: str
    forms: tuple[str, ...]
    live: Ints
    words: tuple[tuple[str, ...], ...]
    around: Surroundings
    together: NDArray[np.int64]
    known: frozenset[str]
    hung: dict[int, tuple[str, ...]] = field(default_factory=dict)  # what was found of numbers, by form

    def contradict(self, a: int, b: int) -> str:
        """Why two forms cannot be one, in words; empty where they may."""
        x, y = self.words[a], self.words[b]
        if x != y:
            if self.numbers(a) != self.numbers(b):
                return "they name different numbers or letters"
            left, right = set(x).difference(y), set(y).difference(x)
            if len(left) == len(right) == 1:
                one, two = *left, *right
                if one in self.known and two in self.known and not _cut(one, two):
                    return f"{one} and {two} are two words"
        if self.kind in NAMED and not _nested(self.forms[a], self.forms[b]):
            return "they are in different places"
        return ""

    def numbers(self, form: int) -> tuple[str, ...]:
        """The numbers and single letters a term hangs on: PM2.5 is not PM10, type A not type B, in any order."""
        if form in self.hung:
            return self.hung[form]
        words = words_of(bracketed(self.forms[form])[0])
        found = [n for word in words for n in re.findall(r"\d+(?:p\d+)?", word)]
        may = words if self.kind == "keyword" else words[-1:] if len(words) > 2 else ()
        alone = [word for word in may if len(word) == 1 and (word not in "aeoys" or word == words[-1])]
        self.hung[form] = tuple(sorted(found + alone))
        return self.hung[form]

    def key(self, form: int) -> str:
        """What spellings of a form have in common; for names of things without the small words."""
        if self.kind == "keyword":
            return word_key(self.forms[form])
        return "".join(w for w in self.words[form] if w not in SMALL) or word_key(self.forms[form])


@cache
def known_words(languages: tuple[str, ...]) -> frozenset[str]:
    """Words that a dictionary of these languages knows, in bare letters; English always."""
    from spellchecker import SpellChecker  # here: a dictionary takes 0.4 s to load

    have = set(SpellChecker.languages())
    found: set[str] = set()
    for language in dict.fromkeys(("en", *(code for code in languages if code in have))):
        found |= {bare(word) for word in SpellChecker(language=language, distance=1).word_frequency.dictionary}
    return frozenset(found)


#: Kinds of which a form may name the place behind a comma.
NAMED = ("institution", "place")


@lru_cache(1 << 17)
def _parts(text: str) -> tuple[str, ...]:
    return tuple(word_key(part) for part in text.split(",") if part.strip())


def _nested(x: str, y: str) -> bool:
    """Whether what stands behind the last comma of one is in the other too, or one of them has no comma."""
    one, two = _parts(x), _parts(y)
    if len(one) < 2 or len(two) < 2:
        return True
    if one[-1] in two or two[-1] in one or OSA.distance(one[-1], two[-1]) <= 1:
        return True
    parts = [text.split(",") for text in (x, y)]
    return any(shortening(parts[0][-1], p) for p in parts[1]) or any(shortening(parts[1][-1], p) for p in parts[0])


@lru_cache(1 << 16)
def shortening(x: str, y: str) -> bool:
    """Whether two names are one, or every word of one begins or shortens that of the other: ``J. Estuar. Ecol.``"""
    one, two = ([w for w in words_of(text) if w not in SMALL] for text in (x, y))
    return len(one) == len(two) and all(map(_cut, one, two))


def terms(corpus: Corpus, mentions: Mentions, kind: str, check: Callable[[], None] = lambda: None) -> Terms:
    """Read the forms of a kind and what surrounds them."""
    counts = mentions.counts()
    live = np.flatnonzero(counts).astype(np.int32)
    words: list[tuple[str, ...]] = [()] * len(mentions.forms)
    for k, f in enumerate(live.tolist()):
        if not k & 4095:
            check()
        words[f] = words_of(mentions.forms[f])
    spoken = Counter(text[:2].lower() for text in corpus.language if text)
    around = surroundings(corpus, mentions, [word_key(text) for text in mentions.forms], check)
    known = known_words(tuple(sorted(code for code, _ in spoken.most_common(3))))
    return Terms(
        kind,
        tuple(mentions.forms),
        live,
        tuple(words),
        around,
        together(len(corpus), mentions.record, mentions.form),
        known,
    )


def compared_terms(found: Terms, check: Callable[[], None] = lambda: None) -> TermPairs:
    """Every pair of forms worth comparing; pairs that must not merge are not among them."""
    best: dict[tuple[int, int], int] = {}

    def offer(way: int, groups: Iterable[Sequence[int]], most: int = MOST) -> None:
        check()
        for group in groups:
            if not 1 < len(group) <= most:
                continue
            for i, a in enumerate(group):
                for b in group[i + 1 :]:
                    pair = (a, b) if a < b else (b, a)
                    if a != b and way < best.get(pair, 99) and not found.contradict(a, b):
                        best[pair] = way

    live = found.live.tolist()
    offer(KEY, _grouped((found.key(f), f) for f in live).values(), 400)
    if found.kind == "keyword" or found.kind in NAMED:
        offer(ORDER, _grouped((key, f) for f in live if len(key := order_key(found.forms[f])) > 1).values())
    offer(BASE, _same_base(found))
    pairs, stated = _abbreviations(found)
    offer(STATED, ([a, b] for a, b in pairs if (a, b) in stated))
    if found.kind in ("venue", "institution", "place"):
        offer(SHORTENED_WORDS, _shortened(found))
        offer(TAIL, _tails(found))
    offer(LETTERS, ([a, b] for a, b in pairs if (a, b) not in stated))
    offer(SLIP, _slipped(found))
    ordered = sorted(best)
    table = np.array(ordered, np.int32).reshape(-1, 2)
    way = np.array([best[pair] for pair in ordered], np.int32)
    apart = (way == SLIP) & is_among(
        packed(table[:, 0], table[:, 1]), found.together
    )  # nobody slips beside the right word
    table, way = table[~apart], way[~apart]
    return TermPairs(
        table[:, 0],
        table[:, 1],
        way,
        _features(found, table[:, 0], table[:, 1], way, Counter(f for p in pairs for f in p)),
    )


def _grouped(keyed: Iterable[tuple[object, int]]) -> dict[object, list[int]]:
    groups: dict[object, list[int]] = defaultdict(list)
    for key, form in keyed:
        groups[key].append(form)
    return groups


def _same_base(found: Terms) -> Iterable[list[int]]:
    """Forms that are one but for what stands in brackets at the end."""
    groups = defaultdict(list)
    with_brackets = set()
    for f in found.live.tolist():
        base, inside = bracketed(found.forms[f])
        key = word_key(base)
        groups[key].append(f)
        if inside:
            with_brackets.add(key)
    return (groups[key] for key in sorted(with_brackets))


def _short(text: str) -> str:
    """A form that may be an abbreviation, in small letters; empty for others."""
    letters = text.replace(".", "").replace("-", "").removesuffix("s")
    return letters.lower() if 2 <= len(letters) <= 7 and letters.isupper() and letters.isalpha() else ""


def _abbreviations(found: Terms) -> tuple[list[tuple[int, int]], set[tuple[int, int]]]:
    """Pairs of an abbreviation and what its letters may stand for; and those that a form in brackets states."""
    expansions: dict[str, list[int]] = defaultdict(list)
    stated: dict[str, set[str]] = defaultdict(set)
    short: dict[str, list[int]] = defaultdict(list)
    for f in found.live.tolist():
        text = found.forms[f]
        base, inside = bracketed(text)
        if inside:
            if abbreviation := _short(inside):
                stated[abbreviation].add(word_key(base))
            elif abbreviation := _short(base):  # TEC (tidal energy converter)
                stated[abbreviation].add(word_key(inside))
        if abbreviation := _short(text):
            short[abbreviation].append(f)
        if len(found.words[f]) > 1:
            expansions[letters_of(tuple(_plain_words(base)))].append(f)
    pairs, told = [], set()
    for abbreviation, forms in sorted(short.items()):
        for f in forms:
            for g in expansions.get(abbreviation, ()):
                if f == g:
                    continue
                pair = (min(f, g), max(f, g))
                pairs.append(pair)
                if word_key(bracketed(found.forms[g])[0]) in stated.get(abbreviation, ()):
                    told.add(pair)
    return pairs, told


def _shortened(found: Terms) -> Iterable[list[int]]:
    """Pairs in which every word of one is the other's, or begins it, or drops letters of it: J. Estuar. Ecol."""
    groups = defaultdict(list)
    for f in found.live.tolist():
        kept = tuple(w for w in found.words[f] if w not in SMALL)
        if len(kept) > 1:
            groups[letters_of(kept), len(kept)].append((f, kept))
    for _, members in sorted(groups.items()):
        distinct = _grouped((kept, f) for f, kept in members)
        keys = sorted(distinct)  # type: ignore[type-var]
        for i, x in enumerate(keys):
            for y in keys[i + 1 :]:
                if all(_cut(v, w) for v, w in zip(x, y)):  # type: ignore[call-overload]
                    yield from ([a, b] for a in distinct[x] for b in distinct[y])


def _cut(x: str, y: str) -> bool:
    """Whether the shorter word is a shortening of the longer."""
    if x == y:
        return True
    short, long = sorted((x, y), key=len)
    if len(short) == len(long) or short[0] != long[0]:
        return False
    rest = iter(long)
    if long.startswith(short):
        return True
    return len(short) > 2 and len(long) - len(short) > 1 and short[-1] == long[-1] and all(ch in rest for ch in short)


def _tails(found: Terms) -> Iterable[list[int]]:
    """A form, and the same with more behind a comma: a place, a country."""
    groups = defaultdict(list)
    for f in found.live.tolist():
        head = [word_key(part) for part in found.forms[f].split(",")]
        for k in range(1, len(head) + 1):
            groups["".join(head[:k])].append((f, k == len(head)))
    for _, members in sorted(groups.items()):
        whole = [f for f, end in members if end]
        longer = [f for f, end in members if not end]
        if whole and longer and all(_nested(found.forms[longer[0]], found.forms[g]) for g in longer):
            yield from ([a, b] for a in whole for b in longer)


def _slipped(found: Terms) -> Iterable[list[int]]:
    """Pairs that one slip of the fingers tells apart, one of them rare and not made of known words alone."""
    records = found.around.records
    for key_of in (found.key, lambda f: "".join(map(singular, _plain_words(found.forms[f])))):
        keys = _grouped((key_of(f), f) for f in found.live.tolist())
        names, forms = [str(key) for key in keys], list(keys.values())
        rare = [
            k for k, members in enumerate(forms) if len(names[k]) > 5 and int(records[members].sum()) <= SLIP_RECORDS
        ]
        for i, j in slips(names, rare, 6):
            if not _two_words(found, forms[i][0], forms[j][0]):
                yield from ([a, b] for a in forms[i] for b in forms[j])


def _two_words(found: Terms, a: int, b: int) -> bool:
    """Whether the words that tell two forms apart are both known, so that the one is no slip for the other."""
    x, y = Counter(_plain_words(found.forms[a])), Counter(_plain_words(found.forms[b]))
    left, right = list((x - y).elements()), list((y - x).elements())
    if not left or not right:
        return False
    if any(len(w) == 1 or any(ch.isdigit() for ch in w) for w in left + right):
        return True
    return all(_knows(found.known, w) for w in left) and all(_knows(found.known, w) for w in right)


def _plain_words(text: str) -> list[str]:
    return [w for w in re.split(r"[^a-z0-9]+", latin(text)) if w]


_OPPOSITES = (
    "in",
    "un",
    "im",
    "ir",
    "il",
    "non",
    "an",
    "a",
    "de",
    "dis",
    "re",
    "pre",
    "post",
    "sub",
    "super",
    "hyper",
    "hypo",
    "inter",
    "intra",
    "micro",
    "macro",
    "meso",
    "anti",
    "endo",
    "exo",
    "bio",
    "im",
    "e",
    "em",
)


def _knows(known: frozenset[str], word: str) -> bool:
    """Whether a dictionary knows a word, in either spelling, in the plural, or behind a common prefix."""
    if word in known or american(word) in known or american(singular(word)) in known or word.isdigit():
        return True
    return any(len(word) - len(p) > 4 and word.startswith(p) and word[len(p) :] in known for p in _OPPOSITES)


def _features(found: Terms, a: Ints, b: Ints, way: Ints, crowd: Counter[int]) -> dict[str, Floats]:
    """The numbers that the model weighs, by name; each of shape (pairs,)."""
    out: dict[str, Floats] = {f"way {name}": (way == k).astype(float) for k, name in enumerate(WAYS)}
    x, y = [found.forms[i] for i in a.tolist()], [found.forms[j] for j in b.tolist()]
    length = np.array([min(len(word_key(s)), len(word_key(t))) for s, t in zip(x, y)], float).reshape(-1)
    out["short"] = np.maximum(0.0, 7 - length)
    out["plural"] = np.array([_plural(s, t) for s, t in zip(x, y)], float).reshape(-1)
    slipped = way == SLIP
    edits = np.zeros((len(a), 3))
    for k in np.flatnonzero(slipped).tolist():
        edits[k] = _edit(word_key(x[k]), word_key(y[k])), _last_or_first(x[k], y[k]), _strange(found, x[k], y[k])
    out["slip swapped"], out["slip at an end"], out["slip strange"] = edits.T
    out["slip length"] = np.where(slipped, np.log(np.maximum(length, 1)), 0.0)
    records = found.around.records
    out["slip rarer"] = np.where(slipped, np.log1p(np.minimum(records[a], records[b])), 0.0)
    out["slip commoner"] = np.where(slipped, np.log1p(np.maximum(records[a], records[b])), 0.0)
    rivals = np.array([max(crowd[i], crowd[j]) for i, j in zip(a.tolist(), b.tolist())], float).reshape(-1)
    out["rivals"] = np.where((way == LETTERS) | (way == STATED), np.log1p(rivals), 0.0)
    out["together"] = is_among(packed(a, b), found.together).astype(float)
    sure = way <= ORDER
    for name, rows in found.around.rows.items():
        count, weight = rows.shared(a, b)
        sizes = rows.sizes()
        least = np.minimum(sizes[a], sizes[b])
        for part, value in (
            ("shared", np.log1p(weight)),
            ("none", np.where((count == 0) & (least > 0), np.log1p(least), 0.0)),
        ):
            out[f"{name} {part}"] = np.where(sure, 0.0, value)
            out[f"{name} {part}, key"] = np.where(sure, value, 0.0)
    return out


def _plural(x: str, y: str) -> bool:
    """Whether two spellings differ by singular and plural."""
    one, two = _plain_words(x), _plain_words(y)
    return one != two and sorted(map(singular, one)) == sorted(map(singular, two))


def _edit(x: str, y: str) -> bool:
    """Whether letters are the same, two of them swapped or one doubled."""
    if len(x) == len(y):
        return sorted(x) == sorted(y)
    return re.sub(r"(.)\1", r"\1", x) == re.sub(r"(.)\1", r"\1", y)


def _last_or_first(x: str, y: str) -> bool:
    """Whether the slip is at the beginning or the end of its word, where it more often makes another word."""
    one, two = word_key(x), word_key(y)
    return one[:1] != two[:1] or one[-2:] != two[-2:]


def _strange(found: Terms, x: str, y: str) -> bool:
    """Whether a word of just one of the two is unknown."""
    left, right = (
        all(_knows(found.known, w) for w in (Counter(_plain_words(s)) - Counter(_plain_words(t))).elements())
        for s, t in ((x, y), (y, x))
    )
    return left != right
