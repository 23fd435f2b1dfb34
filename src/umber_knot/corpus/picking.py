"""Picking records by a filter text: words to find in any field, ``field:value`` for one, a minus to leave out.

``tide -sluice``, ``"mill pond"``, ``year:1975-1990``, ``year:none``, ``type:editorial``, ``source:box2.csv``,
``person:dray``, ``references:none``, ``found:twice`` (records that stand in more than one source). Every part must
hold.
"""

from __future__ import annotations

import re

import numpy as np
from numpy.typing import NDArray

from umber_knot.corpus.model import Corpus, Mentions
from umber_knot.corpus.texts import Texts

_PART = re.compile(r'(-?)(?:(\w+):)?(?:"([^"]*)"|(\S+))')
#: What a field may be called in a filter → the column or the kind of mention.
_TEXT = {"title": "title", "type": "type", "language": "language", "doi": "doi", "date": "date", "id": "entry"}
_KIND = {
    "person": "person",
    "people": "person",
    "author": "person",
    "word": "keyword",
    "words": "keyword",
    "keyword": "keyword",
    "venue": "venue",
    "in": "venue",
    "institution": "institution",
    "place": "place",
    "country": "country",
    "reference": "reference",
    "references": "reference",
}
_SPAN = re.compile(r"(\d{1,4})?(?:\s*(?:-|–|\.\.)\s*(\d{1,4})?)?$")

Rows = NDArray[np.int64]


def pick(corpus: Corpus, text: str) -> Rows:
    """The rows that a filter text picks, in order; an empty text picks all."""
    keep = np.ones(len(corpus), bool)
    for minus, field, quoted, word in _PART.findall(text):
        value = quoted or word
        if field and field.lower() not in (*_TEXT, *_KIND, "year", "source", "cited", "found"):
            field, value = "", f"{field}:{value}"
        hit = np.zeros(len(corpus), bool)
        hit[_field(corpus, field.lower(), value) if field else _anywhere(corpus, value)] = True
        keep &= ~hit if minus else hit
    return np.flatnonzero(keep)


def _anywhere(corpus: Corpus, value: str) -> Rows:
    found = [corpus.title.containing(value), corpus.date.containing(value), corpus.doi.containing(value)]
    found += [_mentioning(corpus.of(kind), value) for kind in ("person", "keyword", "venue", "institution", "country")]
    if value.isdecimal():
        found.append(np.flatnonzero(corpus.year == min(int(value), 9999)))
    return np.concatenate(found)


def _field(corpus: Corpus, field: str, value: str) -> Rows:
    if field in _KIND:
        mentions = corpus.of(_KIND[field])
        if value == "none":
            return np.flatnonzero(np.bincount(mentions.record, minlength=len(corpus)) == 0)
        return _mentioning(mentions, value)
    if field in _TEXT:
        column: Texts = getattr(corpus, _TEXT[field])
        return np.flatnonzero(column.lengths() == 0) if value == "none" else column.containing(value)
    if field == "found":
        return np.unique(corpus.also.record).astype(np.int64) if value == "twice" else np.zeros(0, np.int64)
    if field == "source":
        named = [i for i, s in enumerate(corpus.sources) if value.casefold() in s.name.casefold()]
        return np.flatnonzero(np.isin(corpus.source, named))
    numbers = corpus.year if field == "year" else corpus.citations
    if value == "none":
        return np.flatnonzero(numbers == 0)
    span = _SPAN.match(value)
    if span is None or not value:
        return np.zeros(0, np.int64)
    low = int(span[1] or 0)
    high = int(span[2] or 9999) if len(value) > len(span[1] or "") else low
    return np.flatnonzero((numbers >= max(low, 1)) & (numbers <= high))


def _mentioning(mentions: Mentions, value: str) -> Rows:
    hit = np.zeros(len(mentions.forms), bool)
    hit[mentions.forms.containing(value)] = True
    return np.unique(mentions.record[hit[mentions.form]]).astype(np.int64) if hit.any() else np.zeros(0, np.int64)
