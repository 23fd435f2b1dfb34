"""Quoting a text at a place that was found in it, with the words marked that it was found for."""

from __future__ import annotations

import re
from collections.abc import Sequence

from umber_knot.corpus.written import Written
from umber_knot.text.languages import language_of
from umber_knot.text.writing import paragraphs, sentences

#: Letters by which a word may differ from its lemma, at its end.
ENDING = 2


def quoted(written: Written, paragraph: int, sentence: int) -> str:
    """A sentence of a record, or the whole paragraph where the sentence is below 0; empty where it is not there."""
    parts = list(paragraphs(written))
    if not 0 <= paragraph < len(parts):
        return ""
    text = parts[paragraph].text
    if sentence < 0:
        return text
    found = sentences(text, language_of(written))
    return found[sentence] if sentence < len(found) else ""


def marked(text: str, terms: Sequence[str]) -> list[tuple[str, bool]]:
    """The text in pieces, each with whether it is a word of one of the terms, in whatever form.

    >>> marked("Tide mills ran.", ["tide mill"])
    [('Tide', True), (' ', False), ('mills', True), (' ran.', False)]
    """
    stems = [word[: max(3, len(word) - ENDING)].lower() for term in terms for word in term.split()]
    pieces: list[tuple[str, bool]] = []
    end = 0
    for match in re.finditer(r"[^\W_]+", text):
        if any(match[0].lower().startswith(stem) for stem in stems):
            pieces += [(text[end : match.start()], False), (match[0], True)]
            end = match.end()
    return [piece for piece in (*pieces, (text[end:], False)) if piece[0]]
