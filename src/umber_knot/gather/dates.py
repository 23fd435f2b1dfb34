"""Dates as people write them, understood as EDTF (ISO 8601-2: ``1843~``, ``1843-05/1843-06``, ``18XX``).

A small part of EDTF is enough here: years, months, days and seasons, unspecified digits, ``?`` ``~`` ``%`` at the end,
and intervals, open ones too.
"""

from __future__ import annotations

import re
from functools import lru_cache

from umber_knot.corpus.letters import bare

_ONE = r"(?:[0-9X]{4})(?:-(?:[0-9X]{2})(?:-[0-9X]{2})?)?[?~%]?"
_EDTF = re.compile(rf"^(?:{_ONE}|(?:{_ONE}|\.\.|)/(?:{_ONE}|\.\.|))$")
_YEAR = re.compile(r"(?<!\d)(1[0-9]{3}|20[0-9]{2})(?!\d)")
_SPAN = re.compile(
    r"(?<!\d)(1[0-9]{3}|20[0-9]{2})\s*(?:-|–|/|to|bis|a|et|and|und)\s*(1[0-9]{3}|20[0-9]{2}|[0-9]{2})(?!\d)"
)
_ISO = re.compile(r"(?<!\d)(1[0-9]{3}|20[0-9]{2})[-/.](0?[1-9]|1[0-2])(?:[-/.](0?[1-9]|[12]\d|3[01]))?(?!\d)")
_DAY_FIRST = re.compile(r"(?<!\d)(0?[1-9]|[12]\d|3[01])[./](0?[1-9]|1[0-2])[./](1[0-9]{3}|20[0-9]{2})(?!\d)")
_DECADE = re.compile(r"(?<!\d)(1[0-9]{2}|20[0-9])0'?(?:s|er|es)\b")
_CENTURY = re.compile(
    r"(?<!\d)(1[0-9]|20|21)\s*(?:th|st|\.|e|eme)?\s*(?:century|cent\b|c\.|jahrhundert|jh|siecle|secolo|siglo|eeuw)"
)
_DAY = re.compile(r"(?<!\d)(0?[1-9]|[12]\d|3[01])(?:st|nd|rd|th|\.)?(?!\d)")
_MONTHS = {
    1: "jan gen ene",
    2: "feb fev fbr",
    3: "mar mae mrt mrz",
    4: "apr abr avr",
    5: "may mai maj mei mag",
    6: "jun juin giu",
    7: "jul juil lug",
    8: "aug aou ago",
    9: "sep set",
    10: "oct okt ott out",
    11: "nov",
    12: "dec dez dic",
}
_MONTH = {start: month for month, starts in _MONTHS.items() for start in starts.split()}
_SEASONS = {
    "spring": 21,
    "fruhling": 21,
    "fruhjahr": 21,
    "printemps": 21,
    "primavera": 21,
    "summer": 22,
    "sommer": 22,
    "ete": 22,
    "verano": 22,
    "autumn": 23,
    "fall": 23,
    "herbst": 23,
    "automne": 23,
    "otono": 23,
    "winter": 24,
    "hiver": 24,
}
_ABOUT = re.compile(
    r"(?:^|[^a-z])(?:c|ca|circa|about|approx|approximately|around|um|vers|etwa|hacia|env|environ)(?:\.|\s)|^c(?=\d)"
)
_BEFORE = re.compile(r"\b(?:before|by|vor|avant|antes|prima|ante|until|bis|no later than)\b")
_AFTER = re.compile(r"\b(?:after|since|nach|apres|despues|dopo|post|not before|ab)\b")


def find_year(text: str) -> int:
    """The first year from 1000 to 2099 in a date as written; 0 when there is none.

    >>> find_year("2011/05/03/"), find_year("c. 1843"), find_year("n.d.")
    (2011, 1843, 0)
    """
    found = _YEAR.search(text)
    return int(found[1]) if found else 0


def understand(text: str) -> tuple[str, int]:
    """(the date in EDTF, its first year); ("", 0) when it is no date.

    >>> understand("c. 1843"), understand("May - June 1843"), understand("[1840s?]"), understand("n.d.")
    (('1843~', 1843), ('1843-05/1843-06', 1843), ('184X?', 1840), ('', 0))
    """
    if len(text) == 4 and text.isdecimal() and text.isascii():
        year = int(text)
        return (text, year) if 1000 <= year <= 2099 else ("", 0)
    return _understood(text[:120])


@lru_cache(65536)
def _understood(text: str) -> tuple[str, int]:
    text = text.strip()
    if _EDTF.match(text) and (year := _first_year(text)) and _real(text):
        return text, year
    low = bare(text)
    mark = "?" if "?" in low else ""
    if _ABOUT.search(low) or low.endswith("~"):
        mark = "%" if mark else "~"
    edtf = _interval(low, mark) or _one(low, mark)
    return (edtf, _first_year(edtf)) if edtf else ("", 0)


def _first_year(edtf: str) -> int:
    digits = re.search(r"[0-9X]{4}", edtf)
    year = int(digits[0].replace("X", "0")) if digits else 0
    return year if year >= 1000 and year <= 2099 else 0


def _real(edtf: str) -> bool:
    """Whether months and days exist."""
    for part in edtf.split("/"):
        pieces = part.rstrip("?~%").split("-")
        if len(pieces) > 1 and "X" not in pieces[1] and not (1 <= int(pieces[1]) <= 12 or 21 <= int(pieces[1]) <= 24):
            return False
        if len(pieces) > 2 and "X" not in pieces[2] and not _day_exists(pieces):
            return False
    return True


def _day_exists(pieces: list[str]) -> bool:
    day = int(pieces[2])
    if "X" in pieces[0] + pieces[1]:
        return 1 <= day <= 31
    year, month = int(pieces[0]), int(pieces[1])
    leap = year % 4 == 0 and (year % 100 != 0 or year % 400 == 0)
    return (
        1 <= day <= (31, 29 if leap else 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31)[month - 1]
        if month <= 12
        else False
    )


def _interval(low: str, mark: str) -> str:
    years = _YEAR.findall(low)
    span = _SPAN.search(low)
    if span and len(years) <= 2 and not (_ISO.search(low) and len(span[2]) == 2 and 1 <= int(span[2]) <= 12):
        last = span[2] if len(span[2]) == 4 else span[1][:2] + span[2]
        return f"{span[1]}{mark}/{last}{mark}" if last > span[1] else ""
    if len(years) == 1:
        months = _months(low)
        if len(months) == 2 and months[0] < months[1]:
            return f"{years[0]}-{months[0]:02}{mark}/{years[0]}-{months[1]:02}{mark}"
        if _BEFORE.search(low):
            return f"../{_one(low, mark)}"
        if _AFTER.search(low):
            return f"{_one(low, mark)}/.."
    return ""


def _months(low: str) -> list[int]:
    found = [_MONTH.get(word[:4]) or _MONTH.get(word[:3]) for word in re.findall(r"[a-z]{3,}", low)]
    return list(dict.fromkeys(m for m in found if m))


def _one(low: str, mark: str) -> str:
    iso, day_first = _ISO.search(low), _DAY_FIRST.search(low)
    if day_first:
        return _checked(day_first[3], int(day_first[2]), int(day_first[1]), mark)
    if iso:
        return _checked(iso[1], int(iso[2]), int(iso[3] or 0), mark)
    if decade := _DECADE.search(low):
        return f"{decade[1]}X{mark}"
    if century := _CENTURY.search(low):
        return f"{int(century[1]) - 1}XX{mark}"
    if broken := re.search(r"(?<!\d)(1[0-9]|20)(\d)?(?:[-?_x]{1,2})(?!\w)", low):
        return f"{broken[1]}{broken[2] or 'X'}X{mark.replace('?', '')}" if not _YEAR.search(low) else ""
    year = _YEAR.search(low)
    if not year:
        return ""
    rest = low[: year.start()] + " " + low[year.end() :]
    months = _months(rest)
    if months:
        day = _DAY.search(rest)
        return _checked(year[1], months[0], int(day[1]) if day else 0, mark)
    for word, season in _SEASONS.items():
        if word in rest.split():
            return f"{year[1]}-{season}{mark}"
    return f"{year[1]}{mark}"


def _checked(year: str, month: int, day: int, mark: str) -> str:
    if day and not _day_exists([year, f"{month:02}", f"{day:02}"]):
        day = 0
    return f"{year}-{month:02}" + (f"-{day:02}" if day else "") + mark
