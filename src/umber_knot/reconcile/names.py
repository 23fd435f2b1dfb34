"""Person names and words reduced to what identifies them."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from umber_knot.corpus.letters import bare

_PARTICLES = {"van", "von", "der", "den", "de", "del", "della", "di", "da", "dos", "la", "le", "ter", "ten", "al", "el"}


@dataclass(frozen=True, slots=True)
class Name:
    """A person's name in parts, all in bare letters: ``given`` holds whole names and single-letter initials."""

    family: str
    given: tuple[str, ...]

    def full(self) -> int:
        """How many given names are written out."""
        return sum(len(g) > 1 for g in self.given)


@lru_cache(1 << 18)
def parse_name(text: str) -> Name:
    """A name as exports write it: ``Dray, Tamsin A.``, ``Tamsin A. Dray``, ``DRAY TA``.

    >>> parse_name("van der Merle, J.-P.")
    Name(family='van der merle', given=('j', 'p'))
    >>> parse_name("DRAY TA")
    Name(family='dray', given=('t', 'a'))
    """
    if "," in text:
        family, _, given = text.partition(",")
        return Name(_family(bare(family)), _given(given))
    words = text.split()
    if len(words) > 1 and _run_of_initials(words[-1]) and not _run_of_initials(words[0]):
        return Name(_family(bare(" ".join(words[:-1]))), _given(words[-1]))
    at = len(words) - 1
    while at > 1 and bare(words[at - 1]) in _PARTICLES:
        at -= 1
    return Name(_family(bare(" ".join(words[at:]))), _given(" ".join(words[:at])))


def _family(text: str) -> str:
    return " ".join(text.replace(".", " ").split())


def _run_of_initials(word: str) -> bool:
    letters = word.replace(".", "").replace("-", "")
    return 0 < len(letters) <= 3 and letters.isupper() and letters.isalpha()


def _given(text: str) -> tuple[str, ...]:
    words = text.replace(".", " ").replace("-", " ").split()
    parts: list[str] = []
    for word in words:
        parts += list(bare(word)) if _run_of_initials(word) else [bare(word)]
    return tuple(parts)


def compatible(a: tuple[str, ...], b: tuple[str, ...]) -> bool:
    """Whether two lists of given names can be one person's: no position contradicts.

    >>> compatible(("tamsin",), ("t", "a")), compatible(("tamsin",), ("tobias",))
    (True, False)
    """
    return all(x == y or (min(len(x), len(y)) == 1 and x[0] == y[0]) for x, y in zip(a, b))


#: Endings after which a final s is no plural.
_NOT_PLURAL = ("ss", "us", "is", "ics", "ous")


def singular(word: str) -> str:
    """The singular of an English plural, by its ending; other words as they are.

    >>> [singular(w) for w in ("mills", "estuaries", "marshes", "analysis", "gas")]
    ['mill', 'estuary', 'marsh', 'analysis', 'gas']
    """
    if len(word) < 3 or not word.endswith("s") or word.endswith(_NOT_PLURAL):
        return word
    if len(word) == 3 and word[1] in "aeiou":
        return word
    if word.endswith("ies") and len(word) > 4:
        return word[:-3] + "y"
    if word.endswith(("ches", "shes", "xes", "sses", "zzes")):
        return word[:-2]
    return word[:-1]


@lru_cache(1 << 18)
def word_key(text: str) -> str:
    """What a keyword's spellings have in common: no case, accents, hyphens, spaces or plural of the last word."""
    words = bare(text).replace("-", " ").replace("_", " ").split()
    if words:
        words[-1] = singular(words[-1])
    return "".join(words)
