"""How full each field of a source is, and what looks odd in it: a column that was misread shows here first."""

from __future__ import annotations

import datetime
import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from umber_knot.corpus.model import Corpus, Mentions

FEWEST = 8  # records from which something can be said of all
EARLIEST = 1000  # the year before which few dates are meant
_SHOWN = 3
_SEVERAL = re.compile(r"[;|\n]|,.*,.*,")
_INITIALS = r"(?:[^\W\d_a-z]\.?[ -]?){1,3}"
_FAMILY = r"[^\W\d_][\w'’-]+"
_BY_ITSELF = re.compile(f"{_FAMILY} {_INITIALS}$|{_INITIALS} {_FAMILY}$")  # Dray T, or T. Dray
_DIGIT = re.compile(r"\d")
#: What a field is called → the kind of its mentions or the column of the corpus.
_KINDS = {
    "people": "person",
    "venue": "venue",
    "institution": "institution",
    "country": "country",
    "words": "keyword",
    "references": "reference",
}
_TEXTS = {name: name.lower() for name in ("DOI", "volume", "pages", "language", "type")}


@dataclass(frozen=True, slots=True)
class Oddity:
    """Something odd: what it is, three examples, a filter that picks its records, and the field to look at."""

    message: str
    examples: tuple[str, ...]
    pick: str
    field: str

    def said(self) -> str:
        """It and its examples in one line."""
        examples = "; ".join(" ".join(text.split())[:60] for text in self.examples)
        return f"{self.message}: {examples}"


@dataclass(frozen=True, slots=True)
class SourceCheck:
    """Of one source: its records in the study, the share of them that fill each field, and what looks odd."""

    source: int
    records: int
    fullness: tuple[tuple[str, float], ...]
    odd: tuple[Oddity, ...]


def check(corpus: Corpus) -> tuple[SourceCheck, ...]:
    """Every source that is switched on, in order; of a record found twice the source it stands under counts."""
    n = len(corpus)
    filled: dict[str, NDArray[np.bool_]] = {"title": corpus.title.lengths() > 0, "date": corpus.year > 0}
    filled |= {name: np.bincount(corpus.of(kind).record, minlength=n) > 0 for name, kind in _KINDS.items()}
    filled |= {name: getattr(corpus, column).lengths() > 0 for name, column in _TEXTS.items()}
    filled["citations"] = corpus.citations > 0
    return tuple(
        SourceCheck(
            k,
            int(of.sum()),
            tuple((name, float(has[of].mean()) if of.any() else 0.0) for name, has in filled.items()),
            tuple(_odd(corpus, k, of, filled)),
        )
        for k in range(len(corpus.sources))
        for of in [corpus.source == k]
    )


def _odd(corpus: Corpus, k: int, of: NDArray[np.bool_], filled: dict[str, NDArray[np.bool_]]) -> Iterable[Oddity]:
    here = 'source:"{}"'.format(corpus.sources[k].name.replace('"', ""))
    person = corpus.of("person").in_role("")
    own = of[person.record]
    people = np.bincount(person.record[own], minlength=len(of))
    with_people = int((people > 0).sum())
    n, examples = _fitting(person, own, _like_several)
    if n >= max(2, 0.02 * with_people):
        whole = "every record has one person, and " if people.max() == 1 else ""
        yield Oddity(f"{whole}{n:,} of the people look like several", examples, here, "people")
    n, examples = _fitting(person, own, _DIGIT.search)
    if n >= max(2, 0.02 * with_people):
        yield Oddity(f"{n:,} names of people hold digits", examples, here, "people")
    last = datetime.date.today().year + 1
    for odd, span, words in (
        (of & (corpus.year > last), f"{last + 1}-9999", f"after {last}"),
        (of & (corpus.year > 0) & (corpus.year < EARLIEST), f"1-{EARLIEST - 1}", f"before {EARLIEST}"),
    ):
        rows = np.flatnonzero(odd)
        if len(rows):
            told = tuple(f"{corpus.year[r]} in “{corpus.title[r][:40]}”" for r in rows[:_SHOWN].tolist())
            yield Oddity(f"{len(rows):,} of the years are {words}", told, f"{here} year:{span}", "date")
    placed = of & filled["institution"]
    without = np.flatnonzero(placed & ~filled["country"])
    if placed.sum() >= FEWEST and len(without) > 0.5 * placed.sum():
        institution = corpus.of("institution")
        forms = institution.form[np.searchsorted(institution.record, without)]
        told = tuple(institution.forms[f] for f in np.unique(forms)[:_SHOWN].tolist())
        share = f"{int(placed.sum()) - len(without):,} of {int(placed.sum()):,}"
        yield Oddity(
            f"a country was read for {share} records with an institution", told, f"{here} country:none", "affiliations"
        )


def _like_several(name: str) -> bool:
    """Whether what was read as one person is several: ``Dray T | Vash O``, ``T. Dray and O. Vash``."""
    parts = [part.strip() for part in re.split(r",| and | & ", name)]
    return bool(_SEVERAL.search(name)) or (len(parts) > 1 and all(map(_BY_ITSELF.match, parts)))


def _fitting(mentions: Mentions, own: NDArray[np.bool_], fits: Callable[[str], object]) -> tuple[int, tuple[str, ...]]:
    """How many of some mentions have a form that fits, and the first few such forms."""
    used, counts = np.unique(mentions.form[own], return_counts=True)
    found = [(mentions.forms[f], n) for f, n in zip(used.tolist(), counts.tolist()) if fits(mentions.forms[f])]
    return sum(n for _, n in found), tuple(text for text, _ in found[:_SHOWN])
