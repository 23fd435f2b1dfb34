"""The language of a text: as its record says it, or found by script and by its commonest words."""

from __future__ import annotations

import re
from functools import lru_cache

from umber_knot.corpus.written import Written

#: Languages that are told apart by their stop words, the commonest first: of equals the first is taken.
_BY_WORDS = ("en", "de", "fr", "es", "it", "pt", "nl", "la", "pl", "cs", "sv", "da", "no", "fi", "hu", "ro", "tr", "ca")
_BY_SCRIPT = (
    ("ja", re.compile(r"[\u3040-\u30ff]")),
    ("zh", re.compile(r"[\u4e00-\u9fff]")),
    ("ko", re.compile(r"[\uac00-\ud7af]")),
    ("th", re.compile(r"[\u0e00-\u0e7f]")),
    ("uk", re.compile(r"[іїєґІЇЄҐ]")),
    ("ru", re.compile(r"[\u0400-\u04ff]")),
    ("el", re.compile(r"[\u0370-\u03ff]")),
    ("he", re.compile(r"[\u0590-\u05ff]")),
    ("fa", re.compile(r"[پچژگ]")),
    ("ar", re.compile(r"[\u0600-\u06ff]")),
)
#: Words that English lists of stop words hold, and that are what some literature is about.
_NOUNS = frozenset(
    "area areas bill computer copy fire group groups home index information invention member members mill mine ring "
    "room rooms site state states system test text word words world".split()
)
#: Languages whose words are not parted by spaces: read in runs of letters.
UNPARTED = ("ja", "zh", "th")
MOST = 4000  # letters of a text by which its language is found


@lru_cache(64)
def stop_words(language: str) -> frozenset[str]:
    """Words of a language that say nothing of what a text is about."""
    import stopwordsiso

    found: set[str] = stopwordsiso.stopwords(language) if stopwordsiso.has_lang(language) else set()
    return frozenset(found - _NOUNS if language == "en" else found)


def language_of(written: Written) -> str:
    """The language that a record's text is read in: what the record says, where its words do not speak for another (what
    is written in one language often has its abstract in another)."""
    parts = (written.title, written.abstract, *(p.text for p in written.passages[:8]))
    said = written.language.partition("-")[0].lower()  # readers write codes of two letters where they know them
    return found_in(" ".join(parts), said if len(said) == 2 and said.isascii() else "")


def found_in(text: str, said: str = "") -> str:
    """The language of a text, by its script, else by how many of its words are stop words of which language; ``said`` is
    taken where that is not less than half as many as the most.

    >>> found_in("Die Mühle steht nicht am Fluss"), found_in("潮の水車"), found_in("the mill is in the marsh", "es")
    ('de', 'ja', 'en')
    """
    head = text[:MOST]
    letters = sum(map(str.isalpha, head))
    for language, script in _BY_SCRIPT:
        if len(script.findall(head)) > letters * 0.1:
            return language
    words = re.findall(r"[^\W\d_]+", head.lower())
    hits = {language: sum(word in stop_words(language) for word in words) for language in _BY_WORDS}
    best = max(_BY_WORDS, key=lambda language: hits[language])
    return said if said and 2 * hits.get(said, hits[best]) >= hits[best] else best
