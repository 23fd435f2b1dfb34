"""A record's own text: its paragraphs in a fixed order, each with where it stands, and their sentences."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from typing import NamedTuple

import sentencex

from umber_knot.corpus.written import Written
from umber_knot.text.parameters import FIELDS


class Paragraph(NamedTuple):
    """A paragraph and the heading above it; ``field`` is one of FIELDS, ``line`` its place in the source (0: the
    record's)."""

    field: str
    text: str
    heading: str = ""
    line: int = 0


def paragraphs(written: Written, fields: Sequence[str] = FIELDS) -> Iterator[Paragraph]:
    """The paragraphs of some fields of a record, in the order of FIELDS whatever the order asked for."""
    if "title" in fields and written.title:
        yield Paragraph("title", written.title)
    if "abstract" in fields and written.abstract:
        for part in written.abstract.split("\n\n"):
            if part.strip():
                yield Paragraph("abstract", part)
    if "text" in fields:
        for passage in written.passages:
            yield Paragraph("text", passage.text, passage.heading, passage.line)


def sentences(text: str, language: str) -> list[str]:
    """The sentences of a paragraph, without the space around them; abbreviations do not end one.

    >>> sentences("Dr. Dray came (cf. Fig. 3). The mill stood still!", "en")
    ['Dr. Dray came (cf. Fig. 3).', 'The mill stood still!']
    """
    found: Iterable[str] = sentencex.segment(language or "en", text)
    return [one.strip() for one in found if one.strip()]
