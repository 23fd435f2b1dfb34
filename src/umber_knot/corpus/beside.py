"""Two records side by side, field by field, with what differs: for the question whether they are one."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from umber_knot.corpus.letters import plain_words
from umber_knot.corpus.model import KIND_WORDS, Corpus

_KINDS = ("person", "venue", "institution", "keyword")
_FIELDS = ("date", "volume", "pages", "doi", "type", "language")
SHOWN = 12  # names of one kind


class Beside(NamedTuple):
    """A field of two records; ``differs`` where both state it and not alike."""

    field: str
    one: str
    other: str
    differs: bool


def beside(corpus: Corpus, one: int, other: int) -> list[Beside]:
    """The fields that at least one of two records states, the title first, the places they were found at last."""
    told = [("title", *(corpus.title[r] for r in (one, other)))]
    told += [(KIND_WORDS[kind][1], *("; ".join(_named(corpus, kind, r)) for r in (one, other))) for kind in _KINDS]
    told += [(name, *(str(getattr(corpus, name)[r]) for r in (one, other))) for name in _FIELDS]
    rows = [Beside(name, a, b, bool(a and b) and plain_words(a) != plain_words(b)) for name, a, b in told if a or b]
    return [*rows, Beside("found in", corpus.place(one), corpus.place(other), False)]


def _named(corpus: Corpus, kind: str, record: int) -> list[str]:
    mentions = corpus.of(kind)
    low, high = np.searchsorted(mentions.record, [record, record + 1]).tolist()
    names = list(dict.fromkeys(mentions.forms[f] for f in mentions.form[low:high].tolist()))
    return names[:SHOWN] + ([f"and {len(names) - SHOWN:,} more"] if len(names) > SHOWN else [])
