"""Texts free of the mark-up that databases leave in them: ``<i>``, ``<sub>`` and the like, and named characters."""

from __future__ import annotations

import html
import re

from umber_knot.corpus.model import RawRecord

_INLINE = re.compile(
    r"</?(?:i|b|u|em|strong|sub|sup|inf|sc|scp|small|tt|span|font|italic|bold|roman|underline|monospace|a|"
    r"(?:jats|mml|m|ns\d):[\w-]{1,30})\b[^<>]{0,300}>",
    re.I,
)
_BLOCK = re.compile(
    r"</?(?:p|br|div|li|ul|ol|sec|title|h\d|tr|td|jats:(?:p|sec|title|list|list-item))\b[^<>]{0,300}>", re.I
)
_ENTITY = re.compile(r"&(?:#\d{1,7}|#[xX][0-9a-fA-F]{1,6}|[A-Za-z][A-Za-z0-9]{1,31});")


def plain_text(text: str) -> str:
    """A text as a reader sees it; what only looks like mark-up stays.

    >>> plain_text("H<sub>2</sub>O &amp; <i>silt</i>, a<b and AT&T")
    'H2O & silt, a<b and AT&T'
    """
    for _ in range(2):  # some are escaped twice
        if "&" in text and _ENTITY.search(text):
            text = _ENTITY.sub(lambda found: html.unescape(found[0]), text)
        if "<" in text and ">" in text:
            text = _INLINE.sub("", _BLOCK.sub(" ", text))
    return " ".join(text.split())


def _marked(text: str) -> bool:
    return "<" in text or "&" in text


def tidy(record: RawRecord) -> None:
    """Make the texts of a record plain; its raw text stays as it is in the source."""
    if not _marked(record.raw):
        return
    for name in ("title", "abstract", "venue", "volume", "pages"):
        if _marked(text := getattr(record, name)):
            setattr(record, name, plain_text(text))
    for name in ("persons", "keywords", "institutions", "places", "references"):
        texts = getattr(record, name)
        if any(map(_marked, texts)):
            setattr(record, name, [plain_text(text) if _marked(text) else text for text in texts])
    if any(_marked(text) for _, _, text in record.others):
        record.others = [
            (kind, role, plain_text(text) if _marked(text) else text) for kind, role, text in record.others
        ]
    if record.known_as and any(map(_marked, record.known_as)):
        record.known_as = {plain_text(name): known for name, known in record.known_as.items()}
