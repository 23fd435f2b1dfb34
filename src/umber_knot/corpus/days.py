"""The days that a date in EDTF spans, exact where the material is: the arithmetic behind first and last dates."""

from __future__ import annotations

import calendar
import re
from datetime import date
from functools import lru_cache

#: No date, as a number of days: the value that NumPy reads as "not a time" once it is 64 bits wide.
UNDATED = -(2**31)
_POINT = re.compile(r"^([0-9X]{4})(?:-([0-9X]{2}))?(?:-([0-9X]{2}))?[?~%]?$")
_EPOCH = date(1970, 1, 1).toordinal()
_SEASONS = {21: (3, 5), 22: (6, 8), 23: (9, 11), 24: (12, 12)}


@lru_cache(1 << 16)
def span(edtf: str, year: int = 0) -> tuple[int, int]:
    """First and last day of a date, in days from 1970-01-01; ``year`` (0: none) where the text is no EDTF.

    An interval that is open on one side spans the day it names. Both are ``UNDATED`` where nothing is known.

    >>> span("1843-05-02"), span("1970"), span("1843-05/1843-06")[1] - span("1843-05/1843-06")[0]
    ((-46265, -46265), (0, 364), 60)
    """
    parts = [p for text in edtf.split("/") if (p := _point(text))]
    if not parts and year:
        parts = [_point(f"{year:04}") or (UNDATED, UNDATED)]
    if not parts:
        return UNDATED, UNDATED
    return min(p[0] for p in parts), max(p[1] for p in parts)


def _point(text: str) -> tuple[int, int] | None:
    found = _POINT.match(text.strip())
    if not found:
        return None
    low, high = int(found[1].replace("X", "0")), int(found[1].replace("X", "9"))
    months, days = found[2] or "XX", found[3] or "XX"
    first, last = (1, 12) if "X" in months else _SEASONS.get(int(months), (int(months), int(months)))
    if not (low >= 1 and high <= 9999 and 1 <= first <= last <= 12):
        return None
    end = calendar.monthrange(high, last)[1]
    start, stop = (1, end) if "X" in days else (int(days), int(days))
    if not 1 <= start <= stop <= end:
        return None
    return date(low, first, start).toordinal() - _EPOCH, date(high, last, stop).toordinal() - _EPOCH
