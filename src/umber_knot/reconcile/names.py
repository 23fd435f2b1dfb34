"""Person names as the world's exports write them, reduced to what can be compared."""

from __future__ import annotations

import re
from functools import lru_cache
from typing import NamedTuple

from anyascii import anyascii
from rapidfuzz.distance import OSA

from umber_knot.corpus.letters import bare

_PARTICLES = frozenset(
    "van von der den de del della di da das do dos du la le les lo ter ten tot zu zum zur am af av al el as ash ben bin ibn abu bint "
    "san santa st saint 't y e i d mac mc o".split()
)
#: Particles that may stand before a family name without being part of its core; the rest only chain.
_LEADING = _PARTICLES - {"y", "e", "i", "mac", "mc", "o", "san", "santa", "st", "saint"}
_SHOUTED = frozenset(("VAN", "VON", "DER", "DEN", "DE", "DOS"))
_SUFFIXES = {
    "jr": "jr",
    "junior": "jr",
    "jnr": "jr",
    "sr": "sr",
    "senior": "sr",
    "snr": "sr",
    "ii": "2",
    "iii": "3",
    "iv": "4",
    "neto": "neto",
    "netto": "neto",
    "filho": "filho",
    "sobrinho": "sobrinho",
    "fils": "fils",
    "pere": "pere",
}
_NOBODY = re.compile(
    r"[\W_]*(?:(?:and|und|et|y|e|&)\s+)?(?:et\.?\s*al|others?|other authors|u\.?\s*a|etc|anon|anonymous|an[oó]nimo|unknown(?: author)?|no author(?: listed)?|"
    r"n\.?\s*n|\[?s\.?\s*n\.?\]?|not (?:available|given|stated)|n/?a|none|various(?: authors)?)[\W_]*",
    re.I,
)
#: How a reading takes a name.
PLAIN, SHORTENED, TURNED, MAIL = range(4)


class Reading(NamedTuple):
    """One way to take a name: ``family`` in bare letters, ``core`` as it sounds without particles, ``given`` as whole
    names and single-letter initials, ``suffix`` of the generation, ``way`` (PLAIN, SHORTENED, TURNED or MAIL)."""

    family: str
    core: str
    given: tuple[str, ...]
    suffix: str = ""
    way: int = PLAIN

    def whole(self) -> int:
        """How many given names are written out."""
        return sum(len(g) > 1 for g in self.given)


def latin(text: str) -> str:
    """Bare Latin letters of a text in any script.

    >>> latin("Щеголев"), latin("Strauß"), latin("Άννα")
    ('shchegolev', 'strauss', 'anna')
    """
    plain = bare(text)
    return plain if plain.isascii() else anyascii(plain).lower()


_SOUNDS = (
    (re.compile(r"shch|sch|tsch"), "sh"),
    (re.compile(r"x"), "ks"),
    (re.compile(r"kh|gh"), "h"),
    (re.compile(r"ph"), "f"),
    (re.compile(r"th"), "t"),
    (re.compile(r"(?<=[ae])[uy](?=[bcdfghklmnprstvxz])"), "v"),
    (re.compile(r"ou|oy"), "u"),
    (re.compile(r"oe"), "o"),
    (re.compile(r"ae|aa"), "a"),
    (re.compile(r"ue"), "u"),
    (re.compile(r"ts|tz|cz"), "c"),
    (re.compile(r"[yj]"), "i"),
    (re.compile(r"w"), "v"),
    (re.compile(r"q|ck"), "k"),
    (re.compile(r"i(?=[ua])"), ""),
    (re.compile(r"(.)\1+"), r"\1"),
)


@lru_cache(1 << 17)
def sound(word: str) -> str:
    """A word of bare letters with the usual differences of transliteration taken out.

    >>> sound("mueller") == sound("muller"), sound("beliaev") == sound("belyaev"), sound("alexey") == sound("aleksei")
    (True, True, True)
    """
    for pattern, to in _SOUNDS:
        word = pattern.sub(to, word)
    return word


def not_a_person(text: str) -> str:
    """Why a form names nobody, in words; empty where it may.

    >>> not_a_person("et al."), not_a_person("Jr."), not_a_person("Neto, A.")
    ('stands for authors who are not named', 'is the ending of a name', '')
    """
    if _NOBODY.fullmatch(text):
        return "stands for authors who are not named"
    if latin(text).strip(" .,;") in _SUFFIXES:
        return "is the ending of a name"
    return "" if any(ch.isalpha() for ch in text) else "has no letter in it"


@lru_cache(1 << 17)
def readings(text: str) -> tuple[Reading, ...]:
    """The ways a name may be taken, the likeliest first: by its comma, by initials at its end, given names first,
    family name first, the parts of a double family name, the parts of a mail address.

    >>> readings("van der Merle, J.-P.")[0]
    Reading(family='van der merle', core='merle', given=('j', 'p'), suffix='', way=0)
    >>> [(r.family, r.given) for r in readings("Zhou Bohui")]
    [('bohui', ('zhou',)), ('zhou', ('bohui',))]
    """
    if "@" in text and " " not in text.strip():
        return _mailed(text)
    text = text.replace("’", "'").replace("ʼ", "'")
    if "," in text:
        head, *rest = (part.strip() for part in text.split(","))
        words, suffix = _without_suffix(head.split(), least=1)
        rest = [part for part in rest if part]
        if len(rest) > 1 and not suffix and _suffix(rest[-1]):
            suffix = _suffix(rest.pop())
        given, other = _without_suffix(" ".join(rest).split(), least=0)
        cut = len(given)  # particles may stand behind the given names: "Merle, J. van der"
        while cut > 1 and (
            latin(given[cut - 1]) in _LEADING if given[cut - 1].islower() else given[cut - 1] in _SHOUTED
        ):
            cut -= 1
        return _both_ends(given[cut:] + words, _given(given[:cut]), suffix or other)
    words, suffix = _without_suffix(text.split(), least=2)
    if not words:
        return _both_ends(text.split(), (), "")
    if len(words) == 1:
        return _both_ends(words, (), suffix)
    initials = next((k for k in range(len(words), 0, -1) if not _initials(words[k - 1])), 0)
    if not initials and len(words[0]) > 1 and "." not in words[0]:  # PAN MJ
        initials = 1
    if 0 < initials < len(words):
        return _both_ends(words[:initials], _given(words[initials:]), suffix)
    at = len(words) - 1
    while at > 1 and latin(words[at - 1]) in _PARTICLES:
        at -= 1
    found = list(_both_ends(words[at:], _given(words[:at]), suffix))
    if not _initials(words[0]) and len(words) <= 4:
        found.append(_reading(words[:1], _given(words[1:]), suffix, TURNED))
        if at > 1 and not _initials(words[at - 1]):
            found.append(_reading(words[at - 1 :], _given(words[: at - 1]), suffix, SHORTENED))
            found.append(_reading(words[at - 1 : at], _given(words[: at - 1]), suffix, SHORTENED))
    return tuple(dict.fromkeys(found))


def parse_name(text: str) -> Reading:
    """The likeliest reading of a name.

    >>> parse_name("DRAY TA").family, parse_name("DRAY TA").given
    ('dray', ('t', 'a'))
    """
    return readings(text)[0]


def _both_ends(words: list[str], given: tuple[str, ...], suffix: str) -> tuple[Reading, ...]:
    """A family name whole, and where it is double also by either part alone."""
    found = [_reading(words, given, suffix, PLAIN)]
    parts = [w for word in words for w in word.split("-") if w and latin(w) not in _LEADING]
    if len(parts) > 1:
        found += [_reading([part], given, suffix, SHORTENED) for part in (parts[0], parts[-1])]
    return tuple(found)


def _reading(words: list[str], given: tuple[str, ...], suffix: str, way: int) -> Reading:
    family = " ".join(latin(" ".join(words)).replace(".", " ").replace("-", " ").split())
    parts = family.split()
    if len(words) == 1 and re.match(r"(?:Al|El)[A-Z]", words[0]):
        parts = [family[2:]]
    kept = [p.lstrip("'") for p in parts if p not in _LEADING] or parts
    return Reading(family, sound("".join(kept).replace("'", "")), given, suffix, way)


def _suffix(word: str) -> str:
    return _SUFFIXES.get(latin(word).strip(". "), "")


def _without_suffix(words: list[str], least: int) -> tuple[list[str], str]:
    """Words without the ending of a generation, which must leave so many; and that ending."""
    if len(words) > least and _suffix(words[-1]):
        return words[:-1], _suffix(words[-1])
    return words, ""


def _initials(word: str) -> bool:
    """Whether a word is initials run together: ``JRR``, ``J.-P.``, ``T.``"""
    letters = word.replace(".", "").replace("-", "").replace("'", "")
    if not letters.isalpha() or len(letters) > 4:
        return False
    return len(letters) == 1 or (letters.isupper() and (len(letters) <= 3 or "." in word))


def _given(words: list[str]) -> tuple[str, ...]:
    parts: list[str] = []
    pieces = [piece for word in words for piece in word.replace(".", " ").split()]
    capitals = all(piece.isupper() for piece in pieces) and any(len(piece) > 2 for piece in pieces)
    for word in words:
        for piece in word.replace(".", " ").split():
            whole = latin(piece)
            if "-" in piece:
                parts += [p for p in whole.split("-") if p]
            elif _initials(piece) and not (capitals and len(piece) > 1 and (len(pieces) > 1 or _spoken(whole))):
                parts += list(whole)
            elif whole := "".join(ch for ch in whole if ch.isalnum()):
                parts.append(whole)
    return tuple(parts)


def _spoken(letters: str) -> bool:
    """Whether three capitals read as a name (ANA, LEO) rather than initials."""
    vowels = [ch in "aeiouy" for ch in letters]
    return vowels in ([True, False, True], [False, True, False], [False, True, True]) and letters not in ("jay",)


def _mailed(text: str) -> tuple[Reading, ...]:
    """The readings of a mail address by its local part: ``t.dray``, ``tamsin.dray``, ``tdray``, ``drayt``."""
    local = latin(text.partition("@")[0])
    parts = [p for p in re.split(r"[._\-+\d]+", local) if p]
    found = []
    if len(parts) > 1:
        found += [(parts[-1], tuple(parts[:-1])), (parts[0], tuple(parts[1:]))]
    elif parts and len(parts[0]) > 3:
        found += [(parts[0][1:], (parts[0][0],)), (parts[0][:-1], (parts[0][-1],))]
    return tuple(Reading(family, sound(family), given, "", MAIL) for family, given in found) or (
        Reading(local, sound(local), (), "", MAIL),
    )


# -- given names against each other

#: What two lists of given names say of each other, from contradiction to sameness.
AGAINST, NOTHING, ONE_INITIAL, MORE_INITIALS, SAME_INITIALS, ALIKE, INITIAL_OF, WHOLE = range(8)


@lru_cache(1 << 20)
def given_relation(a: tuple[str, ...], b: tuple[str, ...]) -> int:
    """How two lists of given names agree: AGAINST where any position contradicts, NOTHING where one is empty, …

    >>> given_relation(("tamsin",), ("t", "a")) == INITIAL_OF, given_relation(("tamsin",), ("tobias",)) == AGAINST
    (True, True)
    >>> given_relation(("bo", "hui"), ("bohui",)) == WHOLE
    True
    """
    if not a or not b:
        return NOTHING
    if a == b and len(a[0]) > 1:
        return WHOLE
    level = WHOLE if len(a[0]) > 1 and len(b[0]) > 1 else 0
    if level and ("".join(a) == "".join(b) or _runs_together(a, b) or _runs_together(b, a)):
        return WHOLE
    for k, (x, y) in enumerate(zip(a, b)):
        if len(x) == 1 or len(y) == 1:
            if x[0] != y[0] and sound(x)[:1] != sound(y)[:1]:
                return AGAINST
        elif x != y:
            if not alike(x, y):
                return AGAINST
            if k == 0:
                level = ALIKE
    if level:
        return level
    if len(a[0]) > 1 or len(b[0]) > 1:
        return INITIAL_OF
    if len(a) != len(b):
        return MORE_INITIALS
    return SAME_INITIALS if len(a) > 1 else ONE_INITIAL


def _runs_together(a: tuple[str, ...], b: tuple[str, ...]) -> bool:
    """Whether ``b`` begins with the first two names of ``a`` written as one."""
    return len(a) > 1 and len(a[1]) > 1 and a[0] + a[1] == b[0] and given_relation(a[2:] or ("",)[:0], b[1:]) != AGAINST


def alike(x: str, y: str) -> bool:
    """Whether two whole given names may be one, differently romanised, shortened or mistyped."""
    if sound(x) == sound(y):
        return True
    shorter, longer = sorted((x, y), key=len)
    if len(shorter) >= 4 and len(longer) - len(shorter) >= 3 and longer.startswith(shorter):
        return True
    if x[-1] == y[-1] and x[0] == y[0]:
        bones = [re.sub(r"[aeiouy]", "", sound(w)) for w in (x, y)]
        if bones[0] == bones[1] and len(bones[0]) >= 3:
            return True
    return len(shorter) >= 6 and x[0] == y[0] and x[-1] == y[-1] and OSA.distance(x, y) == 1


def compatible(a: tuple[str, ...], b: tuple[str, ...]) -> bool:
    """Whether two lists of given names can be one person's: no position contradicts.

    >>> compatible(("tamsin",), ("t", "a")), compatible(("tamsin",), ("tobias",))
    (True, False)
    """
    return given_relation(min(a, b), max(a, b)) != AGAINST
