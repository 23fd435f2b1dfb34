"""Texts reduced to bare letters, for comparing what is written in many ways."""

from __future__ import annotations

import unicodedata

_LETTERS = str.maketrans(
    {
        "ø": "o",
        "Ø": "O",
        "ł": "l",
        "Ł": "L",
        "đ": "d",
        "Đ": "D",
        "ð": "d",
        "ı": "i",
        "ß": "ss",
        "æ": "ae",
        "Æ": "AE",
        "œ": "oe",
        "Œ": "OE",
        "þ": "th",
        "’": "'",
        "‐": "-",
        "‑": "-",
        "–": "-",
    }
)
_MARKS = str.maketrans({chr(c): " " for c in range(33, 127) if not chr(c).isalnum()})


def bare(text: str) -> str:
    """Lower case without accents or letters that only some alphabets have.

    >>> bare("Sørlie-Müller")
    'sorlie-muller'
    """
    if text.isascii():
        return text.lower()
    plain = unicodedata.normalize("NFKD", text.translate(_LETTERS))
    return "".join(ch for ch in plain if not unicodedata.combining(ch)).casefold()


def plain_words(text: str) -> str:
    """Bare letters and digits, words apart by one space.

    >>> plain_words("Silt, behind  the Gates!")
    'silt behind the gates'
    """
    text = bare(text).translate(_MARKS)
    if not text.isascii():
        text = "".join(ch if ch.isalnum() else " " for ch in text)
    return " ".join(text.split())
