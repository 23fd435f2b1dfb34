"""Which ties a study can make, which not, and why: what of the records names people, words, places, sources,
letters."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from umber_knot.corpus.model import Corpus
from umber_knot.gather.references import Matches
from umber_knot.relate.offered import Offered
from umber_knot.relate.parameters import CITING, SHARED, Relate


class Possible(NamedTuple):
    """One kind of tie: how many of the records serve it, what to know about it, and the networks that it makes, each with
    its name (none where it cannot be made)."""

    ties: str
    records: int
    said: str
    networks: tuple[Relate, ...] = ()


def possible(corpus: Corpus, matches: Matches | None, offers: Sequence[Offered]) -> list[Possible]:
    """Every kind of tie, in the order the desk lists them; ``matches`` is None while references are being matched,
    ``offers`` are the ties that can be said."""
    n = len(corpus)

    def having(kind: str, *roles: str) -> int:
        mentions = corpus.of(kind).in_role(*roles) if roles else corpus.of(kind)
        return len(np.unique(mentions.record))

    can = [one for one in offers if not one.why]

    def networks(kinds: tuple[str, ...], *ties: str) -> tuple[Relate, ...]:
        fit = (one for one in can if one.of in kinds and one.tie in ties and one.second != "record")
        return tuple(
            Relate(tie=one.tie, of=one.of, second=one.second)
            for one in sorted(fit, key=lambda one: kinds.index(one.of))
        )

    people, words, places = having("person", "", "from", "to"), having("keyword"), having("institution")
    countries = having("country")
    found = [
        Possible(
            "People who share a record",
            people,
            f"{people:,} of {n:,} name people" if people else "no record names people",
            networks(("person",), *SHARED, "two-mode"),
        ),
        Possible(
            "Words in a record",
            words,
            f"{words:,} of {n:,} have words" if words else "no record has keywords or headings",
            networks(("keyword",), *SHARED, "two-mode"),
        ),
        Possible(
            "Institutions and countries",
            max(places, countries),
            f"{countries:,} give a country (the institution's)"
            if countries
            else f"{places:,} name an institution, none a country"
            if places
            else "no affiliation is given",
            networks(("institution", "country", "place", "venue"), *SHARED),
        ),
    ]
    citing = networks(("record", "reference", "person", "venue", "institution", "country"), *CITING)
    letters = networks(("person", "place"), "correspondence")
    return [
        *found,
        _citations(corpus, matches)._replace(networks=citing),
        _letters(corpus)._replace(networks=letters),
        _passages(corpus)._replace(networks=networks(("term",), "concept")),
    ]


def _citations(corpus: Corpus, matches: Matches | None) -> Possible:
    citing = len(np.unique(corpus.of("reference").record))
    if not citing:
        identified = int((corpus.doi.lengths() > 0).sum())
        return Possible("Citations among records", 0, f"needs reference lists; {identified:,} have identifiers")
    said = "matching …"
    if matches is not None:
        said = f"{len(matches):,} of {len(matches.record):,} found here"
    return Possible("Citations among records", citing, f"{citing:,} have lists; {said}")


def _letters(corpus: Corpus) -> Possible:
    people = corpus.of("person").in_role("sender", "recipient")
    letters = len(np.unique(people.record))
    if not letters:
        return Possible("Letters, from and to", 0, "no record has a sender and a recipient")
    unsure = int(sum(any(ch in corpus.date[int(r)] for ch in "~?%X/") for r in np.unique(people.record)))
    return Possible(
        "Letters, from and to",
        letters,
        f"{letters:,} letters, {len(np.unique(people.form)):,} names, {unsure:,} uncertain dates",
    )


def _passages(corpus: Corpus) -> Possible:
    texts, passages = int((corpus.passages > 0).sum()), int(corpus.passages.sum())
    titles = int((corpus.title.lengths() > 0).sum())
    said = f"{passages:,} passages in {texts:,} texts" if texts else "titles and abstracts; no longer texts"
    return Possible("Terms in what records say", titles, said if titles else "no record has a title or a text")
