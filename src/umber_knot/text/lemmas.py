"""The dictionary form of words."""

from __future__ import annotations

from functools import lru_cache

import simplemma


@lru_cache(1 << 18)
def lemma(word: str, language: str) -> str:
    """The dictionary form of a word; of a language without a dictionary the word itself, in small letters.

    A word of capitals stays as it is: it is an abbreviation.

    >>> [lemma(word, "en") for word in ("Mills", "estuaries", "DNA")], lemma("Mühlen", "de")
    (['mill', 'estuary', 'DNA'], 'Mühle')
    """
    if len(word) > 1 and sum(map(str.isupper, word)) > 1:
        return word
    known = {"no": "nb"}.get(language, language)
    small = word.lower()
    try:
        found = simplemma.lemmatize(word if known == "de" else small, known)
    except ValueError:  # no dictionary of this language
        return small
    return found if known == "de" else found.lower()
