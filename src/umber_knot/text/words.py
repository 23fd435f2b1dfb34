"""The words of a sentence that say what it is about, each with its lemma and its place; and where runs of them end."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import NamedTuple

from umber_knot.text.languages import UNPARTED, stop_words
from umber_knot.text.lemmas import lemma

_WORD = re.compile(r"[^\W_]+(?:['’][^\W_]+)?")
_JOINS = re.compile(r"(?:\s+|[-‐‑])$")
#: In Japanese, what is written in characters or in the letters for foreign words; the rest is grammar.
_JAPANESE = re.compile(r"[\u4e00-\u9fff々]+|[\u30a1-\u30ff]{2,}|[A-Za-z][A-Za-z0-9]+")
_THAI = re.compile(r"[\u0e00-\u0e7f]{2,}|[A-Za-z][A-Za-z0-9]+")
_CHINESE = re.compile(r"[\u4e00-\u9fff]+|[A-Za-z][A-Za-z0-9]+")


class Token(NamedTuple):
    """A content word: its lemma, its place among all words of the sentence, and whether a word stands right before it
    in the same run."""

    lemma: str
    place: int
    joined: bool


def tokens(sentence: str, language: str) -> tuple[list[Token], int]:
    """The content words of a sentence, and how many words it has in all.

    Stop words, numbers and single letters are counted, but are none; they end a run, as punctuation does. A hyphen joins.

    >>> [t.lemma for t in tokens("The old tide-mills of the estuary, 12 of them.", "en")[0]]
    ['tide', 'mill', 'estuary']
    """
    if language in UNPARTED:
        return _unparted(sentence, language)
    stop = stop_words(language)
    found: list[Token] = []
    place, end, open_ = 0, 0, False
    for match in _WORD.finditer(sentence):
        word = match[0]
        if len(word) > 2 and word[-2] in "'’" and word[-1] in "sS":
            word = word[:-2]
        small = word.lower()
        if len(word) < 2 or small in stop or small.replace("’", "'") in stop or not any(map(str.isalpha, word)):
            open_ = False
        else:
            joined = open_ and bool(_JOINS.match(sentence[end : match.start()]))
            found.append(Token(lemma(word, language), place, joined))
            open_ = True
        place, end = place + 1, match.end()
    return found, place


def _unparted(sentence: str, language: str) -> tuple[list[Token], int]:
    """Runs of letters as words, where words are not parted; in Chinese every two characters that stand together."""
    found: list[Token] = []
    pattern = {"ja": _JAPANESE, "th": _THAI, "zh": _CHINESE}[language]
    place = 0
    for match in pattern.finditer(sentence):
        for piece in _pairs(match[0]) if language == "zh" else (match[0],):
            if piece not in stop_words(language):
                found.append(Token(piece, place, False))
            place += 1
    return found, place


def _pairs(run: str) -> Iterator[str]:
    if run.isascii() or len(run) < 3:
        yield run
    else:
        yield from (run[k : k + 2] for k in range(len(run) - 1))
