"""Addresses of affiliations: institution with its department, city and country, as authors and databases write them.

An address is read from its end: what follows the country (an e-mail, a postcode, initials) is put away, the country is
found, then the city before it; the institution is the most telling of the parts that are left.
"""

from __future__ import annotations

import re
from functools import lru_cache
from typing import NamedTuple

from umber_knot.corpus.letters import bare
from umber_knot.gather.countries import by_state, code_of, ending, english

#: What begins the name of a part of an institution: it is never one itself.
_PART = re.compile(
    r"^(?:\d{0,2}|the |from the )(?:dep(?:t|artment|artament|artement|artamento|artimento)?s?\b|dipartimento|departement|"
    r"div(?:ision)?\b|sect(?:ion|ion of)?\b|fac\b|facult|fakult|chair (?:of|for)|lehrstuhl|abteilung|klinik fur|"
    r"servi[cz](?:e|io|o) (?:of|de|d')|catedra|katedra|zaklad|seccion|area de|sub-?department|office of|committee on|"
    r"building|bldg|room|block|floor)"
)
#: What begins or ends the name of a part, or where there is nothing it could be part of, of a whole.
_PERHAPS = re.compile(
    r"^(?:\d{0,2}|the |from the )(?:sch\b|(?:grad(?:uate)? )?school (?:of|for)\b|coll(?:ege)? of\b|unit(?:e|a|at|y)? |"
    r"lab(?:s|oratory|oratoire|oratorio|oratorium)? (?:of|for|de|fur)\b|program(?:me|a)? (?:in|of|for|de)\b|group of|"
    r"research group|clinic (?:of|for)|clinica de|ecole doctorale|umr\b|key lab|state key lab)|"
    r"\b(?:dep(?:t|artment)|division|section|unit|program(?:me)?|group|team)\b\.?$"
)
_WHOLE = (
    re.compile(r"\buniv|\bfudan|\beth\b|\bepfl\b|\bmit\b|\bucla?\b|\bcuny\b|\bsuny\b|\bcaltech\b"),
    re.compile(
        r"college|hochschule|polytech|politec|academ|akadem|\bschool\b|\becole\b|\bhogeschool|tech\b|yliopisto|egyetem|sveuciliste"
    ),
    re.compile(
        r"hosp|clinic|klinik|institut|istitut|\binst\b|medical cent|med ctr|museum|observator|nation|council|conseil|consiglio|"
        r"ministr|agency|survey|foundation|fundac|fondation|stiftung|trust|society|academia|cnrs|inserm|csic|nasa|company|"
        r"corp|gmbh|\bltd|\binc\b|\bllc\b|\bs\.?a\.?$|pharma|bank|royal|centre hospitalier|archiv|librar|bibliot|authority"
    ),
    re.compile(
        r"cent(?:re|er|ro|rum)|\bctr\b|laborat|\blab\b|station|research|consult|service|facult|unit\b|office|school"
    ),
)
_POSTCODE = re.compile(
    r"\b[A-Z]{1,2}\d[A-Z\d]?\s\d[A-Z]{2}\b|\b\d{4} ?[A-Z]{2}\b|\b[A-Z]\d[A-Z] ?\d[A-Z]\d\b|"
    r"(?<!\w)(?:[A-Z] )?\d{3}[\d-]*\b|(?<!\w)(?:[A-Z]{1,3}-)?\d[\w-]*\b|\bcedex\b(?: \d+)?",
    re.I,
)
_AMERICAN = re.compile(r"\b\d{5}(?:-\d{4})?$|\b[A-Z]\d[A-Z] ?\d[A-Z]\d$")
_FIRM = re.compile(r",\s*((?:inc|ltd|llc|gmbh|co|corp)\b\.?)(?=,|$)", re.I)
_PROVINCE = re.compile(r"^[A-Z]{2}$|\b(?:province|prefecture|oblast|county|state|provincia|region)$", re.I)
#: What follows an address and is none: how to reach its author.
_REACH = re.compile(
    r"[\s,;.(]*(?:\be(?:lectronic)?[- ]?(?:mail|address(?:es)?)\b|\bcorresponding author|\btel(?:ephone)?\b[.:]|\bphone\b[.:]|"
    r"\bfax\b[.:]|https?://|\borcid\b).*$",
    re.I | re.S,
)
_MAIL = re.compile(r"[\s,;:(<]*\S+@\S+")
_BRACKETS = re.compile(r"\s*[(\[](?![^)\]]*\b(?:univ|instit|cent))[^()\[\]]{0,60}[)\]]?$", re.I)
#: Initials of the authors an address belongs to, in brackets: ``(T.D., O.V.)``.
_INITIALS = re.compile(r"\s*\((?:[A-Z]\.[A-Z.-]*[,;\s]*)+\)")
_NUMBERED = re.compile(r"^(?:\(?[a-z\d*†‡§¶]{1,2}\)|\d{1,2}\s?|[*†‡§¶]+\s?)(?=[A-ZÀ-Þ])")


class Address(NamedTuple):
    """What an address says; parts that were not found are empty. The country is an English name."""

    institution: str
    place: str
    country: str
    department: str = ""


@lru_cache(1 << 16)
def parse_address(text: str) -> Address:
    """An address read from its end.

    >>> parse_address("Dept of Mud, University of Eastmere, Eastmere EM4 2QX, England. t.dray@eastmere.example")
    Address(institution='University of Eastmere', place='Eastmere', country='United Kingdom', department='Dept of Mud')
    >>> parse_address("Shore Policy Centre, Fairpoint, CA 94000")
    Address(institution='Shore Policy Centre', place='Fairpoint', country='United States', department='')
    """
    text = _FIRM.sub(r" \1", cleaned(text))
    parts = [part.strip(" .;") for part in text.split(",")]
    parts = [part for part in parts if part]
    while len(parts) > 1 and not _POSTCODE.sub("", parts[-1]).strip(" -"):  # a postcode after the country
        parts.pop()
    if not parts:
        return Address("", "", "")
    code, rest = _country(parts)
    if not rest:
        return Address("", "", english().get(code, ""))
    at = _institution_at(rest)
    place = _city(rest, at)
    department = "; ".join(part for k, part in enumerate(rest) if k != at and _is_part(part))
    institution = rest[at]
    if _PART.search(bare(institution)):  # nothing it is a part of was written
        institution, department = "", "; ".join(filter(None, (institution, department)))
    return Address(institution, place, english().get(code, ""), department)


def cleaned(text: str) -> str:
    """An address without what stands around it: its authors in brackets, a note's number, ways to reach someone."""
    text = text.strip(" .;,")
    if text.startswith("[") and "]" in text:  # the authors it belongs to stand before it
        text = text[text.index("]") + 1 :].strip()
    text = _REACH.sub("", _MAIL.sub("", _INITIALS.sub("", text))).strip(" .;,")
    text = _NUMBERED.sub("", re.sub(r"^(?:From|and) (?:the )?(?=[A-Z])", "", text))
    while (shorter := _BRACKETS.sub("", text).strip(" .;,")) != text and shorter:
        text = shorter
    return text


def _country(parts: list[str]) -> tuple[str, list[str]]:
    """The code of the country, and the parts before it; a code that stands after more than a city is not looked for."""
    last = parts[-1]
    bare_last = " ".join(_POSTCODE.sub(" ", last).split()) or last
    city = _bare_city(parts[-2]) if len(parts) > 1 else ""
    if len(parts) > 2 and (code := _state_of(last, city)):
        return code, parts[:-1]
    if len(parts) > 1 and (code := code_of(f"{parts[-2]} {last}")):  # "Taiwan, Republic of China"
        return code, parts[:-2]
    if (code := code_of(last) or code_of(bare_last)) and (len(parts) > 1 or len(last) > 3):
        rest = parts[:-1]
        while len(rest) > 1 and not _bare_city(rest[-1]):
            rest.pop()
        if len(rest) > 1 and _state_of(rest[-1], _bare_city(rest[-2])):
            rest = rest[:-1]
        return code, rest
    if len(parts) > 1 and (code := _state_of(last, city)):
        return code, parts[:-1]
    code, before = ending(bare_last if len(parts) > 1 else last)
    if code and before and _is_institution(bare(before)) and len(parts) > 1 and code_of(last.split()[-1]) != code:
        return "", parts
    if code:
        rest = [*parts[:-1], before] if before else parts[:-1]
        if before and _state_of(before, city if len(parts) > 1 else "") and len(before) < 20:
            rest = rest[:-1]
        return code, rest
    postcode = bool(_AMERICAN.search(last))
    bare_words = bare_last.split()
    if len(bare_words) > 1 and (code := by_state(bare_words[-1], " ".join(bare_words[:-1]), postcode)):
        return code, [*parts[:-1], " ".join(bare_words[:-1])]  # "Chapel Hill NC"
    for k in range(len(parts) - 2, max(len(parts) - 4, 0), -1):  # something follows the country
        if len(parts[k]) > 3 and (code := code_of(parts[k])):
            return code, parts[:k]
    return "", parts


def _state_of(part: str, city: str) -> str:
    """The code of the country of a part that is a state, perhaps with its postcode."""
    word = " ".join(_POSTCODE.sub(" ", part).split())
    return by_state(word, city, bool(_AMERICAN.search(part))) if word else ""


def _bare_city(part: str) -> str:
    return " ".join(_POSTCODE.sub(" ", part).split()).rstrip(" -–")


def _is_part(part: str) -> bool:
    """Whether a part names what is itself part of an institution."""
    return bool(_PART.search(bare(part)) or _PERHAPS.search(bare(part)))


def _is_institution(plain: str) -> bool:
    return any(pattern.search(plain) for pattern in _WHOLE)


def _institution_at(parts: list[str]) -> int:
    """Where the institution stands; a department's place where there is nothing else."""
    plain = [bare(part) for part in parts]
    own = [k for k, part in enumerate(parts) if not _is_part(part)]
    for pattern in _WHOLE:
        found = next((k for k in own if pattern.search(plain[k])), None)
        if found is not None:
            return found
    named = [k for k in own if k < len(parts) - 1 or len(parts) == 1]  # the last part is the city
    if named and named[0] == 0:
        return 0
    departments = [k for k in range(len(parts)) if k not in own]
    return named[0] if named and len(parts) > 2 else departments[0] if departments else 0


def _city(parts: list[str], at: int) -> str:
    """The last part after the institution that is more than a postcode, an institution or part of one, or a province."""
    found = [_bare_city(part) for part in parts[max(at, 0) + 1 :] if not _is_part(part)]
    found = [one for one in found if one]
    found = [one for one in found if not _is_institution(bare(one))]
    cities = [one for one in found if not _PROVINCE.search(one)]
    return (cities or found or [""])[-1]
