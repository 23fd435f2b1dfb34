"""Small readings that several formats share: dates, lists of values, affiliations, people in a role."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from functools import lru_cache

from umber_knot.corpus.model import RawRecord
from umber_knot.gather.addresses import parse_address
from umber_knot.gather.dates import find_year, understand
from umber_knot.gather.plain import plain_text
from umber_knot.gather.stream import Report

__all__ = [
    "addresses",
    "affiliate",
    "counted",
    "dated",
    "find_year",
    "language_code",
    "orcid",
    "person",
    "reference_list",
    "split_addresses",
    "split_references",
    "split_values",
    "unstarred",
    "whole",
]

_ORCID = re.compile(r"\b\d{4}-\d{4}-\d{4}-\d{3}[\dX]\b")
_COUNTED = re.compile(r"(?:times cited|cited by|citations?)\b[^:\n\d]{0,60}:\s*(\d+)|^\s*cited by (\d+)\b", re.I)
_LISTED = re.compile(r"\s*(?:cited )?(?:references|bibliography|works cited)\s*:\s*(?=\S.{15})", re.I | re.S)
_STAR = re.compile(r"(^|/)\*(?=\w)")
_BEYOND = 2**31 - 1


def split_values(text: str, separator: str = ";") -> list[str]:
    """The values of a cell that holds several, blanks dropped; a named character (``&amp;``) parts nothing."""
    if "&" in text and ";" in text:
        text = plain_text(text)
    if separator not in text:
        text = text.strip()
        return [text] if text else []
    return [part.strip() for part in text.split(separator) if part.strip()]


def split_addresses(text: str) -> list[str]:
    """Several addresses in one text: by semicolon, but not within the brackets that name their authors."""
    return [part.strip() for part in re.split(r";(?![^\[]*\])", text) if part.strip()]


def split_references(text: str) -> list[str]:
    """Several references in one text: by semicolon, but not by one within (``1990;4(1):5-9``).

    >>> split_references("Mud. 1990;4(1):5-9; Kell E, 1999;r7")
    ['Mud. 1990;4(1):5-9', 'Kell E, 1999', 'r7']
    """
    return [part.strip() for part in re.split(r";\s+|;(?!\s|\d+\s*[(:])", text) if part.strip()]


def dated(record: RawRecord, dates: Iterable[str], report: Report) -> None:
    """Set date and year from dates as written, those that count more first: the first that is understood gives the year,
    one of the same year that says more refines it, and the others are kept beside. None understood is a problem."""
    written = [text for text in dict.fromkeys(map(str.strip, dates)) if text]
    if len(written) == 1 and len(written[0]) == 4 and (found := understand(written[0]))[1]:
        record.date, record.year = found  # a year alone, as most records have it
        return
    read = [(*understand(text), text) for text in written]
    known = [(edtf, year, text) for edtf, year, text in read if year]
    if known:
        record.date, record.year = known[0][:2]
        for edtf, year, _ in known[1:]:
            if year == record.year and len(edtf.rstrip("?~%")) > len(record.date) and edtf.startswith(record.date):
                record.date = edtf
        others = [text for edtf, year, text in read if not record.date.startswith(edtf) or not edtf]
        if others:
            record.extra["other dates"] = others
        for edtf, _, text in known:
            if re.match(r"\d{4}-\d\d-\d\d$", text) and edtf != text:
                report.problem(
                    _line_of(record, text, report), f"there is no day {text!r}; the date was read as {edtf}", text
                )
    elif written:
        record.date = written[0]
        report.problem(
            _line_of(record, written[0], report),
            f"the year {written[0][:40]!r} was not understood; the record is kept without one",
            record.raw,
        )


def _line_of(record: RawRecord, text: str, report: Report) -> int:
    """The line of the source where a text of the record stands."""
    at = record.raw.find(text) if report.by_line else -1
    return record.line + record.raw.count("\n", 0, at) if at >= 0 else record.line


def affiliate(record: RawRecord, addresses: Iterable[str], of: Mapping[str, Sequence[str]] | None = None) -> None:
    """Set institutions, places and countries from affiliations as written; departments are kept beside, and whose each
    address is where the source says so (``of``: person → addresses)."""
    found = [parse_address(address) for address in addresses]
    if of and any(of.values()):
        record.extra["addresses"] = {name: list(several) for name, several in of.items() if several}
    if not found:
        return
    record.institutions = list(dict.fromkeys(a.institution for a in found if a.institution))
    record.places = list(dict.fromkeys(a.place for a in found if a.place))
    record.countries = list(dict.fromkeys(a.country for a in found if a.country))
    departments = list(dict.fromkeys(a.department for a in found if a.department))
    if departments:
        record.extra["departments"] = departments


def addresses(record: RawRecord) -> list[str]:
    """Institutions with place and country where there is one of each for every one, for writing."""
    extra = [
        c if len(c) == len(record.institutions) else [""] * len(record.institutions)
        for c in (record.places, record.countries)
    ]
    return [", ".join(part for part in parts if part) for parts in zip(record.institutions, *extra)]


def person(family: str, given: str = "", suffix: str = "") -> str:
    """A name in parts as one form: ``Dray, Tamsin``."""
    return ", ".join(part for part in (family.strip(), given.strip(), suffix.strip()) if part)


def orcid(text: str) -> str:
    """The ORCID in a text, empty when there is none."""
    found = _ORCID.search(text)
    return found[0] if found else ""


def counted(note: str) -> int:
    """How often a work was cited, where a note says just that (``Times Cited: 12``), 0 where it does not."""
    found = _COUNTED.search(note)
    return whole(found[1] or found[2]) if found else 0


def reference_list(note: str) -> list[str]:
    """The references of a note that is headed as a list of them, empty where it is none."""
    head = _LISTED.match(note)
    if not head:
        return []
    rest = note[head.end() :].strip()
    parts = rest.split("\n") if rest.count("\n") else re.split(r";\s+(?=[^;]*\b1[5-9]\d\d\b|[^;]*\b20\d\d\b)", rest)
    return [part.strip(" ;") for part in parts if part.strip(" ;")]


def unstarred(heading: str) -> str:
    """A subject heading without the star that marks it as a main one.

    >>> unstarred("*Tidal Mills/*history")
    'Tidal Mills/history'
    """
    return _STAR.sub(r"\1", heading) if "*" in heading else heading


def whole(text: object) -> int:
    """A count as written, 0 when it is none; never larger than 32 bits hold."""
    digits = str(text).replace(",", "").strip()
    return min(int(digits), _BEYOND) if digits.isascii() and digits.isdecimal() and len(digits) < 20 else 0


@lru_cache(4096)
def language_code(text: str) -> str:
    """A language as written (a code or an English name) as its two-letter code where there is one.

    >>> language_code("English"), language_code("deu"), language_code("en-GB"), language_code("")
    ('en', 'de', 'en', '')
    """
    text = text.strip().lower()
    short = re.split(r"[-_]", text)[0]
    if len(short) == 2 and short.isalpha():
        return short
    return _languages().get(text, _languages().get(short, text))


@lru_cache(1)
def _languages() -> dict[str, str]:
    from babel import Locale
    from babel.core import get_global

    names = {name.lower(): code for code, name in Locale("en").languages.items() if len(code) == 2}
    aliases = {
        alias: code for alias, code in get_global("language_aliases").items() if len(alias) == 3 and len(code) == 2
    }
    older = {
        "ger": "de",
        "fre": "fr",
        "dut": "nl",
        "gre": "el",
        "cze": "cs",
        "wel": "cy",
        "ice": "is",
        "chi": "zh",
        "per": "fa",
    }
    return names | aliases | older
