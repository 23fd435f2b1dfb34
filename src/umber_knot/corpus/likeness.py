"""Identifiers of documents, and keys by which a record is found again in a newer export of its source."""

from __future__ import annotations

import re
from functools import lru_cache
from hashlib import blake2b
from typing import TYPE_CHECKING

from umber_knot.corpus.letters import bare, plain_words

if TYPE_CHECKING:
    from umber_knot.corpus.model import RawRecord

_DOI = re.compile(r"10\.\d{4,9}/\S+")
#: Shorter titles ("Editorial", "Book review") are shared by documents that have nothing else in common.
SHORTEST_TITLE = 12
_SMALL = {"of", "the", "and", "in", "on", "for", "de", "des", "der", "die", "und", "la", "le", "et"}


def bare_doi(text: str) -> str:
    """A DOI without its web address, in lower case; empty when the text holds none.

    >>> bare_doi("https://doi.org/10.99999/Brackwater.0001.")
    '10.99999/brackwater.0001'
    """
    if not text:
        return ""
    found = _DOI.search(text)
    return found[0].rstrip(".,;)]}>\"'").lower() if found else ""


def key(text: str) -> int:
    """A 64-bit number for a text, the same on every machine and never 0."""
    return (
        int.from_bytes(blake2b(text.encode("utf-8", "surrogatepass"), digest_size=8).digest(), "little", signed=True)
        or 1
    )


def family_of(name: str) -> str:
    """The last word of a person's family name as written, in bare letters, without particles that come and go.

    >>> family_of("von Fenmere, Rosa D."), family_of("VON FENMERE RD"), family_of("Rosa D. von Fenmere")
    ('fenmere', 'fenmere', 'fenmere')
    """
    words = name[: name.index(",")].split() if "," in name else name.split()
    while len(words) > 1 and len(words[-1].replace(".", "")) <= 2:
        words.pop()
    return bare(words[-1]) if words else ""


def same_venue(a: str, b: str) -> bool:
    """Whether one name of a venue can abbreviate the other, word by word or by its initials.

    >>> same_venue("J Mud Res", "The Journal of Mud Research"), same_venue("JMR", "Journal of Mud Research")
    (True, True)
    """
    x, y = ([w for w in plain_words(t).split() if w not in _SMALL] for t in (a, b))
    short, long = sorted((x, y), key=len)
    if len(short) == 1 and len(long) > 1:
        return short[0] == "".join(word[0] for word in long)
    return bool(x) and len(x) == len(y) and all(_shortens(*sorted((s, t), key=len)) for s, t in zip(x, y))


@lru_cache(1 << 16)
def _shortens(short: str, long: str) -> bool:
    """Whether a word is short for another: its letters stand in it in order, the first first (``natl``, ``national``)."""
    rest = iter(long)
    return short[0] == long[0] and all(letter in rest for letter in short)


def identities(record: RawRecord, doi: str) -> list[int]:
    """Keys of the identifiers that name this document and no other; ``doi`` is the record's, bare."""
    found = [key(f"doi:{doi}")] if doi else []
    found += [key(text.casefold()) for text in record.identifiers]
    return found


def likeness(record: RawRecord) -> int:
    """Key of title, year and first author; 0 when one is missing or the title says too little."""
    if len(record.title) < SHORTEST_TITLE or not record.year or not record.persons:
        return 0
    return key(f"{plain_words(record.title)}|{record.year}|{family_of(record.persons[0])}")
