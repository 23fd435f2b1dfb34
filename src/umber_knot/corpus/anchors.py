"""What decisions call a record, so that they outlive a re-import: its source, and a fingerprint of its entry.

An anchor reads ``mills.ris#7k2m9q4w1x8ab``. The fingerprint is of the record's identifier where it has one, else of
title,
year, first person, volume and pages; never of its place in the file. The name of a source is its own in the study, and
a
newer export that replaces it inherits it.
"""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

from umber_knot.corpus.letters import plain_words
from umber_knot.corpus.likeness import family_of, key

_DIGITS = "0123456789abcdefghjkmnpqrstvwxyz"
_VALUE = {digit: n for n, digit in enumerate(_DIGITS)}
_LENGTH = 13


def fingerprint(
    identity: int,
    title: str,
    year: int,
    person: str,
    *,
    volume: str = "",
    pages: str = "",
    entry: str = "",
    date: str = "",
) -> int:
    """A 64-bit number for what an entry says; ``identity`` is the key of its first identifier, 0 none."""
    if identity:
        return identity
    said = plain_words(title) or entry or date
    return key(f"{said}|{year}|{family_of(person) if person else ''}|{volume}|{pages}")


def numbered(prints: NDArray[np.int64]) -> NDArray[np.int64]:
    """Fingerprints with the second, third … of equal ones told apart by their order; shape (records,)."""
    order = np.argsort(prints, kind="stable")
    ordered = prints[order]
    starts = np.flatnonzero(np.r_[True, ordered[1:] != ordered[:-1]]) if len(ordered) else np.zeros(0, np.int64)
    if len(starts) == len(prints):
        return prints
    nth = np.arange(len(ordered)) - np.repeat(starts, np.diff(np.r_[starts, len(ordered)]))
    found = prints.copy()
    with np.errstate(over="ignore"):
        found[order] += nth * np.int64(0x5851F42D4C957F2D)  # an odd stride visits every number once
    return found


def anchor(source: str, print_: int) -> str:
    """The anchor of a record.

    >>> anchor("mills.ris", 1), parsed(anchor("mills.ris", -5))
    ('mills.ris#0000000000001', ('mills.ris', -5))
    """
    number, digits = print_ % (1 << 64), ""
    for _ in range(_LENGTH):
        number, digit = divmod(number, 32)
        digits = _DIGITS[digit] + digits
    return f"{source}#{digits}"


def parsed(text: str) -> tuple[str, int] | None:
    """The source and fingerprint of an anchor; None where the text is none."""
    source, sign, code = text.rpartition("#")
    if not sign or len(code) != _LENGTH or not all(ch in _VALUE for ch in code):
        return None
    number = 0
    for ch in code:
        number = number * 32 + _VALUE[ch]
    if number >= 1 << 64:
        return None
    return source, number - (1 << 64) if number >= 1 << 63 else number


def own_name(name: str, taken: Iterable[str]) -> str:
    """What a source is called in anchors: its file's name, numbered where another source has it.

    >>> own_name("export.ris", ["export.ris", "export.ris (2)"])
    'export.ris (3)'
    """
    plain = " ".join(name.replace("|", "/").split()) or "source"
    taken, wanted, k = set(taken), plain, 2
    while wanted in taken:
        wanted, k = f"{plain} ({k})", k + 1
    return wanted
