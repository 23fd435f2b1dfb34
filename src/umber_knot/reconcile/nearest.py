"""How like a form others are, for sorting a list by likeness to one."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from rapidfuzz.fuzz import token_sort_ratio
from rapidfuzz.process import cdist

from umber_knot.corpus.letters import plain_words
from umber_knot.corpus.model import Floats


def likeness(text: str, forms: Sequence[str]) -> Floats:
    """Likeness of every form to a text, 0 to 100, whatever the order of words; shape (forms,).

    >>> likeness("Dray, Tamsin", ["Tamsin Dray", "Holt, P."]).round().tolist()[0]
    100.0
    """
    if not len(forms):
        return np.zeros(0)
    found: Floats = cdist([plain_words(text)], [plain_words(f) for f in forms], scorer=token_sort_ratio)[0].astype(
        float
    )
    return found
