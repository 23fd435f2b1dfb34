"""Which ties a study's material allows, each with the reason where it does not, and the sentence that says it."""

from __future__ import annotations

from dataclasses import replace
from typing import Any, NamedTuple

from umber_knot.corpus.model import KIND_WORDS, KINDS, Corpus
from umber_knot.gather.references import Matches
from umber_knot.relate.parameters import ITEMS, Relate


class Offered(NamedTuple):
    """A tie of a kind of item, to those of a second kind where it is two-mode; ``why`` says why it cannot be made."""

    tie: str
    of: str
    second: str = ""
    why: str = ""


def offered(corpus: Corpus, matches: Matches | None) -> tuple[Offered, ...]:
    """Every tie that can be said, in the order a desk lists them; without ``matches`` what cites is awaited."""
    named = {kind for kind in KINDS if len(corpus.of(kind).record)}
    named |= {"term"} if len(corpus) and (corpus.title.lengths().any() or corpus.passages.any()) else set()
    people, places = corpus.of("person"), corpus.of("place")
    letters = {
        "person": bool(len(people.in_role("sender", "from").record) and len(people.in_role("recipient", "to").record)),
        "place": bool(len(places.in_role("sender", "from").record) and len(places.in_role("recipient", "to").record)),
    }
    listing = "" if "reference" in named else "no record lists its references"
    among = listing or ("references are still being matched" if matches is None else "")
    among = among or ("" if matches is not None and len(matches) else "no reference means a record of the study")
    found = []
    for of in ITEMS:
        missing = "" if of == "record" or of in named else f"no record names {KIND_WORDS[of][1]}"
        if of == "term":
            found.append(Offered("concept", of, "", "" if of in named else "no record has a title or a text"))
        elif of != "record":
            found.append(Offered("co-authorship" if of == "person" else "co-occurrence", of, "", missing))
        if of == "person":
            found.append(Offered("co-occurrence", of, "", missing))
        if of not in ("reference", "term"):
            found.append(Offered("citation", of, "", missing or among))
        if of != "term":
            found.append(Offered("co-citation", of, "", missing or (listing if of == "reference" else among)))
        if of not in ("reference", "term"):
            found.append(Offered("coupling", of, "", missing or listing))
        if of in letters:
            found.append(
                Offered("correspondence", of, "", missing or ("" if letters[of] else "no letter says from and to"))
            )
        found.append(Offered("similarity", of, "", missing))
        found += [
            Offered(
                "two-mode",
                of,
                other,
                missing
                or (
                    "" if other == "record" else f"no record names {KIND_WORDS[other][1]}" if other not in named else ""
                ),
            )
            for other in ITEMS
            if other != of
        ]
    return tuple(found)


def of_column(corpus: Corpus, column: str) -> tuple[Offered, ...]:
    """The ties of the values of a column."""
    kinds = [kind for kind in KINDS if len(corpus.of(kind).record)]
    return (
        Offered("co-occurrence", column),
        Offered("similarity", column),
        *(Offered("two-mode", column, kind) for kind in (*kinds, "record")),
    )


def turned(sentence: Relate, tie: str, of: str, second: str = "", project: str = "") -> dict[str, Any]:
    """The words to change so that a sentence makes another tie; what would not go with it goes back to its first
    value."""
    values: dict[str, Any] = {"tie": tie, "of": of, "second": second, "project": project}
    if tie == "similarity":
        values |= {"column": sentence.column or "year", "counting": "full", "normalise": "none"}
    new = replace(sentence, **values)
    if new.directed or new.window or len(new.kinds) > 1:
        values["normalise"] = "none"
    if (tie, of) == ("citation", "record"):
        values["counting"] = "full"
    if of == "record" and tie in ("citation", "coupling"):
        values["min_records"] = 1
    return {name: value for name, value in values.items() if getattr(sentence, name) != value}
