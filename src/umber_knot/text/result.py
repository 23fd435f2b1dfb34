"""What looking for terms gives."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from umber_knot.corpus.model import Floats, Ints, Mentions
from umber_knot.corpus.texts import Texts

HEADING = -1  # the sentence that a heading's mentions are said to be in


@dataclass(frozen=True, slots=True)
class Terms:
    """Every term of some texts.

    ``forms``, ``c_value`` and ``evenness`` have one value a term. ``record`` … ``form``, shape (places,), are sorted by
    record: the field a term is in (index into FIELDS), the paragraph of the record, the sentence in that (HEADING: of the
    heading above it), the place among the paragraph's words, how many words it has, and which term it is. ``mentions``
    says which record has which term, each once; ``told`` what was read."""

    forms: Texts
    c_value: Floats
    evenness: Floats
    record: Ints
    field: Ints
    paragraph: Ints
    sentence: Ints
    place: Ints
    length: Ints
    form: Ints
    mentions: Mentions
    told: str

    def merit(self) -> Floats:
        """How good each term is: its C-value times its distinctiveness, log₂ of all records over those that have it
        (Spärck Jones 1972); shape (terms,)."""
        having = np.maximum(self.mentions.counts(), 1)
        every = len(np.unique(self.mentions.record))
        return self.c_value * np.log2(np.maximum(every / having, 1.0))
