"""Keywords and names of things reduced to what their spellings have in common."""

from __future__ import annotations

import re
from functools import lru_cache

from umber_knot.reconcile.names import latin

#: Endings after which a final s is no plural.
_NOT_PLURAL = ("ss", "us", "is", "ics", "ous")
#: Plurals that no ending tells.
_IRREGULAR = {
    "larvae": "larva",
    "algae": "alga",
    "indices": "index",
    "matrices": "matrix",
    "vertices": "vertex",
    "appendices": "appendix",
    "bacteria": "bacterium",
    "strata": "stratum",
    "spectra": "spectrum",
    "media": "medium",
    "data": "datum",
    "criteria": "criterion",
    "phenomena": "phenomenon",
    "analyses": "analysis",
    "hypotheses": "hypothesis",
    "theses": "thesis",
    "bases": "basis",
    "crises": "crisis",
    "oases": "oasis",
    "syntheses": "synthesis",
    "parentheses": "parenthesis",
    "fungi": "fungus",
    "nuclei": "nucleus",
    "foci": "focus",
    "radii": "radius",
    "stimuli": "stimulus",
    "geese": "goose",
    "mice": "mouse",
    "feet": "foot",
    "teeth": "tooth",
    "leaves": "leaf",
    "wolves": "wolf",
    "shelves": "shelf",
    "halves": "half",
    "lives": "life",
    "calves": "calf",
    "women": "woman",
    "men": "man",
    "children": "child",
    "people": "person",
    "genera": "genus",
    "taxa": "taxon",
    "ova": "ovum",
    "curricula": "curriculum",
    "species": "species",
    "series": "series",
    "lens": "lens",
    "news": "news",
    "vertebrae": "vertebra",
    "antennae": "antenna",
}


@lru_cache(1 << 17)
def singular(word: str) -> str:
    """The singular of an English plural, by its ending or as a known exception; other words as they are.

    >>> [singular(w) for w in ("mills", "estuaries", "marshes", "analysis", "gas", "larvae")]
    ['mill', 'estuary', 'marsh', 'analysis', 'gas', 'larva']
    """
    if word in _IRREGULAR:
        return _IRREGULAR[word]
    if len(word) < 3 or not word.endswith("s") or word.endswith(_NOT_PLURAL):
        return word
    if len(word) == 3 and word[1] in "aeiou":
        return word
    if word.endswith("ies") and len(word) > 4:
        return word[:-3] + "y"
    if word.endswith(("ches", "shes", "xes", "sses", "zzes")):
        return word[:-2]
    return word[:-1]


#: British spellings, taken to the American ones; longest patterns first, each on a whole word.
_AMERICAN = tuple(
    (re.compile(pattern), to)
    for pattern, to in (
        (r"isation(s?)$", r"ization\1"),
        (r"(...)is(e|ed|er|ers|es|ing)$", r"\1iz\2"),
        (r"ys(e|ed|er|es|ing)$", r"yz\1"),
        (r"(col|lab|harb|vap|behavi|neighb|fav|hum|hon|od|ard|arm|rum|sav|tum|flav|vig|rig|glam)our", r"\1or"),
        (r"([aeiou])ll(ed|ing|er|ers)$", r"\1l\2"),
        (r"sulph", "sulf"),
        (r"^aluminium", "aluminum"),
        (r"(cent|fib|met|lit|theat|spect|sab|calib|cal)re(s?)$", r"\1er\2"),
        (r"programme(s?)$", r"program\1"),
        (r"(alog|olog)ue(s?)$", r"\1\2"),
        (r"^mould", "mold"),
        (r"^plough", "plow"),
        (r"^grey", "gray"),
        (r"(?<=[a-z])(?<![aeiou])(ae|oe)(?=[olmnstd])|^(ae|oe)(?=s[t]|dem|sop)", "e"),
        (r"archaeo", "archeo"),
        (r"(defen|offen|licen|preten)c(e)", r"\1s\2"),
        (r"^tyre", "tire"),
        (r"^draught", "draft"),
        (r"(jud|acknowled)gement", r"\1gment"),
        (r"^artefact", "artifact"),
        (r"(enrol|fulfil|instal)lment", r"\1ment"),
    )
)


@lru_cache(1 << 17)
def american(word: str) -> str:
    """A word of bare letters in American spelling.

    >>> [american(w) for w in ("behaviour", "colonised", "modelling", "centre", "palaeolithic", "precise")]
    ['behavior', 'colonized', 'modeling', 'center', 'paleolithic', 'precize']
    """
    if len(word) > 3:
        for pattern, to in _AMERICAN:
            word = pattern.sub(to, word)
    return word


_BREAK = re.compile(r"[^a-z0-9]+")
SMALL = frozenset("a an and at by de der des di du et for from in la le of on or the to und von with y".split())
_BRACKETED = re.compile(r"^(.*\S)\s*[\(\[]\s*([^()\[\]]{1,24}?)\s*[\)\]]\s*$")


@lru_cache(1 << 17)
def words_of(text: str) -> tuple[str, ...]:
    """The words of a text in bare Latin letters and digits, each in the singular and American spelling.

    A dot between digits stays, so that PM2.5 and PM25 differ.
    """
    plain = re.sub(r"(?<=\d)[.,](?=\d)", "p", latin(text)).replace("'s", "s").replace("&", " and ")
    return tuple(american(singular(word)) for word in _BREAK.split(plain) if word)


@lru_cache(1 << 17)
def word_key(text: str) -> str:
    """What a keyword's spellings have in common: no case, accents, hyphens, spaces, plurals or national spelling.

    >>> word_key("Tide-Mills") == word_key("tidemill"), word_key("Colour of larvae") == word_key("color of larva")
    (True, True)
    """
    return "".join(words_of(text)) or text


def order_key(text: str) -> tuple[str, ...]:
    """The words that carry meaning, in the order of the alphabet: *flux, methane* is *methane flux*."""
    return tuple(sorted(w for w in words_of(text) if w not in SMALL))


def bracketed(text: str) -> tuple[str, str]:
    """A form and what stands in brackets at its end: ``("tidal energy converter", "TEC")``; the second may be empty."""
    found = _BRACKETED.match(text)
    return (found[1], found[2]) if found else (text, "")


def letters_of(words: tuple[str, ...]) -> str:
    """The first letters of the words that carry meaning."""
    return "".join(w[0] for w in words if w not in SMALL)
