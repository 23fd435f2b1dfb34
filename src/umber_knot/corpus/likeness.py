"""Identifiers of documents, and keys by which a record is found again in a newer export of its source."""

from __future__ import annotations

import re
from hashlib import blake2b
from typing import TYPE_CHECKING

from umber_knot.corpus.letters import bare, plain_words

if TYPE_CHECKING:
    from umber_knot.corpus.model import RawRecord

_DOI = re.compile(r"10\.\d{4,9}/\S+")
#: Shorter titles ("Editorial", "Book review") are shared by documents that have nothing else in common.
SHORTEST_TITLE = 12


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
