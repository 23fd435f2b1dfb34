"""What tells several values of a table's cell apart, found from the whole column; for people the hard part is the comma,
which stands within names as well as between them.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from functools import lru_cache

from umber_knot.gather.countries import country_of
from umber_knot.gather.plain import plain_text

#: Separator → how it is said; a comma twice is for ``Family, Given, Family, Given``; a comma with a space parts what holds
#: commas without one.
SEPARATORS = {
    ";": "semicolons",
    "|": "bars",
    "\n": "lines",
    "/": "slashes",
    ",": "commas",
    ", ": "commas with a space",
    " and ": "“and”",
    ",,": "every second comma",
    "": "nothing",
}
#: A word between the last two of a list.
_AND = re.compile(r",?\s+(?:and|&|und|et(?! al)|y|e|en|og|och)\s+(?=\S)", re.I)
_ET_AL = re.compile(r"et al\.?$|others$|u\. ?a\.$", re.I)
_LEADING_AND = re.compile(r"^(?:and|&|und|et)\s+", re.I)
_SUFFIX = re.compile(r"(?:jr|sr|ii|iii|iv|ph\.?d|m\.?d|esq)\.?$", re.I)
_INITIALS = re.compile(r"[^\W\d_]{1,3}\.?(?:[ .-]{0,2}[^\W\d_]\.?){0,3}$")
_PARTICLES = {
    "de",
    "van",
    "von",
    "der",
    "den",
    "del",
    "della",
    "di",
    "da",
    "dos",
    "la",
    "le",
    "al",
    "el",
    "bin",
    "ter",
    "te",
}
_AT_MOST = 5  # words of a person's name that is one part of a list


def parted(cell: str, separator: str) -> list[str]:
    """The values of a cell, blanks dropped; an empty separator keeps the cell whole.

    >>> parted("Dray, T., Vash, O.", ",,"), parted("T. Dray, O. Vash and E. Kell", ","), parted("Dray T; Vash O", ";")
    (['Dray, T.', 'Vash, O.'], ['T. Dray', 'O. Vash', 'E. Kell'], ['Dray T', 'Vash O'])
    """
    if "&" in cell and ";" in cell:
        cell = plain_text(cell)
    if separator == " and ":
        parts = re.split(r"\s+(?:and|&)\s+", cell)
    elif separator in (",", ",,"):
        parts = _suffixed(_AND.sub(", ", cell).split(","))
        if separator == ",,":
            parts = [", ".join(p.strip() for p in parts[k : k + 2]) for k in range(0, len(parts), 2)]
    elif separator == "/":
        parts = re.split(r"\s*/\s*", cell)
    elif separator:
        parts = cell.split(separator)
    else:
        parts = [cell]
    if separator and separator not in (",", ",,"):
        parts = [_LEADING_AND.sub("", part.strip()) for part in parts]
    return [part.strip() for part in parts if part.strip() and not _ET_AL.match(part.strip())]


def told_apart(cells: Sequence[str], separator: str) -> tuple[int, float]:
    """How many different values a separator makes of some cells, and how many values a filled cell holds on average."""
    several = [parted(cell, separator) for cell in cells if cell.strip()]
    return len({value for values in several for value in values}), sum(map(len, several)) / max(len(several), 1)


def _suffixed(parts: Sequence[str]) -> list[str]:
    """Parts of a list with what belongs to the name before it (``Jr``) put back to it."""
    found: list[str] = []
    for part in parts:
        if found and _SUFFIX.match(part.strip()):
            found[-1] = f"{found[-1].rstrip()} {part.strip()}"
        elif part.strip():
            found.append(part)
    return found


def people_separator(cells: Sequence[str]) -> str:
    """What parts the people of a column, from all its cells; empty where every cell is one person.

    Names may stand in either order. ``Family, Given, Family, Given`` is only read where it parses so in every cell.
    """
    cells = [cell.strip() for cell in cells if cell.strip()]
    several = [cell for cell in cells if re.search(r"[;|\n]|,[^,]*,|\s(?:and|&)\s", cell)]
    for separator in (";", "|", "\n"):  # a stray one in a few cells does not speak for a column
        if (held := sum(separator in cell for cell in several)) and held >= 0.2 * len(several):
            return separator
    slashed = [cell for cell in cells if "/" in cell and all(map(_is_name, cell.split("/")))]
    if slashed and len(slashed) >= 0.2 * len([*several, *slashed]):
        return "/"
    with_and = [cell for cell in cells if re.search(r"\s(?:and|&)\s", cell)]
    with_comma = [cell for cell in cells if "," in cell]
    if with_and and sum(map(_one_each, cells)) >= 0.98 * len(cells):
        return " and "
    return _comma(with_comma) if with_comma else ";"


def _one_each(cell: str) -> bool:
    """Whether each part between "and" is one person: without a comma, or as ``Family, Given``."""
    commas = [part.count(",") for part in parted(cell, " and ")] or [0]
    return max(commas) == 0 or (max(commas) == 1 and commas[-1] == 1)


def _comma(cells: Sequence[str]) -> str:
    """Between or within people, by the parts that commas make of the cells that hold them."""
    lists = [_suffixed(_AND.sub(", ", cell).split(",")) for cell in cells]
    lists = [[part.strip() for part in parts] for parts in lists]
    lists = [[part for part in parts if not _ET_AL.match(part)] for parts in lists]
    lists = [parts for parts in lists if len(parts) > 1]
    if not lists:
        return ""
    pairs = all(len(parts) % 2 == 0 and all(map(_is_given, parts[1::2])) for parts in lists)
    whole = [_is_whole(part) for parts in lists for part in parts]
    if sum(whole) >= 0.8 * len(whole):  # most parts are a name by themselves: few families have two words
        return ","
    if all(len(parts) == 2 for parts in lists):
        turned = pairs or any(_is_given(second) or " " not in f"{first}{second}" for first, second in lists)
        return "" if turned else ","
    return ",," if pairs else ","


@lru_cache(1 << 14)
def _is_whole(part: str) -> bool:
    """Whether a part is a whole name: two words or more, one of them more than initials."""
    words = [w for w in re.split(r"[\s.]+", part) if w]
    return (2 <= len(words) <= 2 * _AT_MOST and any(len(w) > 2 or not w.isupper() for w in words)) or _short_names(
        words
    )


def _short_names(words: Sequence[str]) -> bool:
    return len(words) == 2 and all(len(w) == 1 and w.isupper() for w in words)


@lru_cache(1 << 14)
def _is_given(part: str) -> bool:
    """Whether a part can be given names: initials, or one to three names that no particle begins."""
    words = part.split()
    if _INITIALS.match(part):
        return True
    return (
        1 <= len(words) <= 3
        and words[0].lower() not in _PARTICLES
        and all(w[:1].isupper() or not w.isascii() for w in words[:1])
    )


def _is_name(part: str) -> bool:
    return bool(part.strip()) and not re.search(r"\d|:|www", part) and len(part.split()) <= _AT_MOST


def addresses_separator(cells: Sequence[str], people: Sequence[int]) -> str:
    """What parts the affiliations of a column; a comma only where it makes one for each of the ``people`` (numbers by
    cell) throughout."""
    for separator in (";", "|", "\n"):
        if any(separator in cell for cell in cells):
            return separator
    told = [(cell, n) for cell, n in zip(cells, people) if cell.strip() and n]
    if any(n > 1 for _, n in told) and all(len(addresses_of(cell, n)) == n for cell, n in told):
        return ", "
    return ";"


def addresses_of(cell: str, people: int) -> list[str]:
    """The affiliations of a cell that parts them by commas as it parts each: one a person, or each up to its country."""
    parts = parted(cell, ", ")
    if len(parts) == people:
        return parts
    whole: list[str] = []
    open_ = False
    for part in parts:
        if open_:
            whole[-1] += f", {part}"
        else:
            whole.append(part)
        open_ = not country_of(part.rpartition(",")[2])
    return whole if len(whole) == people else [cell]
