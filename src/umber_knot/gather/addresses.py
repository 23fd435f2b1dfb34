"""Addresses of affiliations: institution, city and country, from what authors and databases write.

Country names come from CLDR (through Babel) in many languages, with ISO codes, former and short names, and states and
provinces that stand where a country is left out.
"""

from __future__ import annotations

import re
from functools import lru_cache
from typing import NamedTuple

from umber_knot.corpus.letters import bare

_LANGUAGES = (
    "de",
    "fr",
    "es",
    "it",
    "pt",
    "nl",
    "sv",
    "da",
    "nb",
    "fi",
    "pl",
    "cs",
    "hu",
    "tr",
    "ru",
    "uk",
    "el",
    "ja",
    "zh",
)
#: Names that CLDR does not give, as they stand in addresses → ISO code.
_MORE = {
    "england": "GB",
    "scotland": "GB",
    "wales": "GB",
    "northern ireland": "GB",
    "north ireland": "GB",
    "uk": "GB",
    "u.k.": "GB",
    "great britain": "GB",
    "britain": "GB",
    "usa": "US",
    "u.s.a.": "US",
    "u.s.": "US",
    "united states of america": "US",
    "america": "US",
    "peoples r china": "CN",
    "p.r. china": "CN",
    "pr china": "CN",
    "p. r. china": "CN",
    "people's republic of china": "CN",
    "mainland china": "CN",
    "r.o.c.": "TW",
    "korea": "KR",
    "south korea": "KR",
    "republic of korea": "KR",
    "russia": "RU",
    "russian federation": "RU",
    "ussr": "RU",
    "soviet union": "RU",
    "holland": "NL",
    "the netherlands": "NL",
    "fed rep ger": "DE",
    "west germany": "DE",
    "east germany": "DE",
    "ger dem rep": "DE",
    "federal republic of germany": "DE",
    "brd": "DE",
    "ddr": "DE",
    "czechoslovakia": "CZ",
    "czech republic": "CZ",
    "iran": "IR",
    "islamic republic of iran": "IR",
    "vietnam": "VN",
    "viet nam": "VN",
    "u arab emirates": "AE",
    "uae": "AE",
    "eire": "IE",
    "republic of ireland": "IE",
    "brasil": "BR",
    "turkey": "TR",
    "ivory coast": "CI",
    "burma": "MM",
    "macedonia": "MK",
    "swaziland": "SZ",
    "bosnia": "BA",
}
#: States and provinces that imply a country: codes are taken only where a city stands before them.
_STATES = {
    "US": "alabama al alaska ak arizona az arkansas ar california ca colorado co connecticut ct delaware de florida fl ga "
    "hawaii hi idaho id illinois il indiana in iowa ia kansas ks kentucky ky louisiana la maine me maryland md "
    "massachusetts ma michigan mi minnesota mn mississippi ms missouri mo montana mt nebraska ne nevada nv "
    "new_hampshire nh new_jersey nj new_mexico nm new_york ny north_carolina nc north_dakota nd ohio oh oklahoma ok "
    "oregon or pennsylvania pa rhode_island ri south_carolina sc south_dakota sd tennessee tn texas tx utah ut "
    "vermont vt virginia va washington wa west_virginia wv wisconsin wi wyoming wy dc d.c.",
    "CA": "alberta ab british_columbia bc manitoba mb new_brunswick nb newfoundland nl nova_scotia ns ontario on "
    "prince_edward_island pe quebec qc saskatchewan sk yukon yt",
    "AU": "new_south_wales nsw queensland qld south_australia tasmania tas victoria vic western_australia",
}
_STATE = {name.replace("_", " "): code for code, names in _STATES.items() for name in names.split()}
_INSTITUTION = re.compile(
    r"\b(?:univ|institut|istitut|college|academ|akadem|school|laborat|centre|center|centro|museum|hospital|archiv|librar|"
    r"bibliot|foundation|society|trust|council|agency|ministr|survey|station|observat|polytech|politec|hochschule|ecole|"
    r"facult|research|consult|company|gmbh|ltd|inc\b|corp|service|authority|cnrs|nasa)"
)
_PARTS = ("dep", "fac", "div", "sch ", "school of", "section", "lab ", "laborat", "unit ", "program")
_POSTCODE = re.compile(
    r"\b[A-Z]{1,2}\d[A-Z\d]?\s\d[A-Z]{2}\b|\b\d{4} ?[A-Z]{2}\b|\b[A-Z]\d[A-Z] ?\d[A-Z]\d\b|(?<!\w)(?:[A-Z]{1,3}-)?\d[\w-]*\b"
)


class Address(NamedTuple):
    """What an address says; parts that were not found are empty. The country is an English name."""

    institution: str
    place: str
    country: str


@lru_cache(1)
def _countries() -> tuple[dict[str, str], dict[str, str]]:
    """(name in bare letters → code, code → English name)."""
    from babel import Locale

    english = {
        code: name
        for code, name in Locale("en").territories.items()
        if len(code) == 2 and code.isalpha() and code not in ("EU", "EZ", "UN", "QO", "XA", "XB", "ZZ")
    }
    english |= {"CN": "China", "HK": "Hong Kong", "MO": "Macao", "MM": "Myanmar", "TR": "Turkey", "CI": "Côte d’Ivoire"}
    names: dict[str, str] = {}
    for language in _LANGUAGES:
        for code, name in Locale(language).territories.items():
            if code in english:
                names.setdefault(bare(name), code)
    names |= {bare(name): code for code, name in english.items()} | _MORE
    return names, english


def country_of(text: str) -> str:
    """The English name of a country as written, or of an ISO code; empty when it is none.

    >>> country_of("Deutschland"), country_of("Peoples R China."), country_of("GB"), country_of("Eastmere")
    ('Germany', 'China', 'United Kingdom', '')
    """
    names, english = _countries()
    word = text.strip(" .;,()[]")
    code = names.get(bare(word), "")
    if not code and len(word) == 2 and word.isupper():
        code = word if word in english else ""
    if not code and len(word) == 3 and word.isupper():
        code = _three_letters().get(word, "")
    return english.get(code, "")


@lru_cache(1)
def _three_letters() -> dict[str, str]:
    from babel.core import get_global

    return {alias: codes[0] for alias, codes in get_global("territory_aliases").items() if len(alias) == 3 and codes}


@lru_cache(1 << 16)
def parse_address(text: str) -> Address:
    """An address read from its end: country, city, and the institution among the first parts.

    >>> parse_address("Dept of Mud, University of Eastmere, Eastmere EM4 2QX, England")
    Address(institution='University of Eastmere', place='Eastmere', country='United Kingdom')
    >>> parse_address("Shore Policy Centre, Fairpoint, CA 94000")
    Address(institution='Shore Policy Centre', place='Fairpoint', country='United States')
    """
    text = text.strip(" .;")
    if text.startswith("[") and "]" in text:  # the authors it belongs to stand before it
        text = text[text.index("]") + 1 :].strip()
    parts = [part.strip(" .;") for part in text.split(",")]
    parts = [part for part in parts if part and "@" not in part]
    if not parts:
        return Address("", "", "")
    coded = len(parts) > 2 and len(parts[-1]) == 2 and _state(parts[-1])  # "Fairpoint, CA" is no Canadian town
    country = (
        "" if coded else country_of(parts[-1]) if len(parts) > 1 or not _INSTITUTION.search(bare(parts[0])) else ""
    )
    rest = parts[:-1] if country else parts
    if not country and len(parts) > 1:
        country, rest = _by_state(parts)
    elif country and len(rest) > 2 and _state(rest[-1]):
        rest = rest[:-1]
    if not rest:
        return Address("", "", country)
    at = _institution_at(rest)
    place = ""
    if len(rest) > 1 and at < len(rest) - 1:
        place = " ".join(_POSTCODE.sub(" ", rest[-1]).split())
        if not place and at < len(rest) - 2:  # the last part was a postcode alone
            place = " ".join(_POSTCODE.sub(" ", rest[-2]).split())
    return Address(rest[at], place, country)


def _state(part: str) -> str:
    word = " ".join(_POSTCODE.sub(" ", part).split())
    return _STATE.get(bare(word), "") if len(word) > 3 or word.isupper() else ""


def _by_state(parts: list[str]) -> tuple[str, list[str]]:
    """A country that the last part implies: ``CA 94000``, ``CA USA``, ``Ontario``."""
    last = parts[-1].split()
    if len(last) > 1 and (country := country_of(last[-1])) and not last[-1].isdecimal() and len(last[-1]) > 1:
        if _state(" ".join(last[:-1])):
            return country, parts[:-1]
        if len(last[-1]) > 2:
            return country, [*parts[:-1], " ".join(last[:-1])]
    code = _state(parts[-1])
    if code and len(parts) > 2:
        return _countries()[1][code], parts[:-1]
    return "", parts


def _institution_at(parts: list[str]) -> int:
    """Where the institution stands: the first part that names one and is not a department of one."""
    named = [k for k, part in enumerate(parts) if _INSTITUTION.search(bare(part))]
    whole = [k for k in named if not bare(parts[k]).startswith(_PARTS)]
    universities = [k for k in whole if re.search(r"\buniv|college|hochschule|politec|polytech", bare(parts[k]))]
    return (universities or whole or named or [0])[0]
