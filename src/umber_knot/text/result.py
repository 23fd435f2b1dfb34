"""What looking for terms gives."""

from __future__ import annotations

from dataclasses import dataclass

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
