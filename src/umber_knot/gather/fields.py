"""Small readings that several formats share: years, lists of values, institutions."""

from __future__ import annotations

import re

_YEAR = re.compile(r"(?<!\d)(1[0-9]{3}|20[0-9]{2})(?!\d)")


def find_year(text: str) -> int:
    """The first year from 1000 to 2099 in a date as written; 0 when there is none.

    >>> find_year("2011/05/03/"), find_year("c. 1843"), find_year("n.d.")
    (2011, 1843, 0)
    """
    found = _YEAR.search(text)
    return int(found[1]) if found else 0


def split_values(text: str, separator: str = ";") -> list[str]:
    """The values of a cell that holds several, blanks dropped."""
    if separator not in text:
        text = text.strip()
        return [text] if text else []
    return [part.strip() for part in text.split(separator) if part.strip()]


def institution_of(address: str) -> str:
    """The institution of an address: what stands before the first comma."""
    return address.split(",", 1)[0].strip()
