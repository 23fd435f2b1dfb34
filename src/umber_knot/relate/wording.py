"""How ties were made, in words: the same on the desk, on a plate and in the description of the method."""

from __future__ import annotations

from collections.abc import Sequence

from umber_knot.corpus.model import KIND_WORDS, named
from umber_knot.relate.parameters import SHARED, Relate

#: The work that defines a tie, by the name it is cited by.
DEFINED_BY = {"co-citation": "Small 1973", "coupling": "Kessler 1963", "two-mode": "Borgatti 1997"}


def many(sentence: Relate) -> str:
    """The network's items: ``people``, ``people and venues``."""
    return named(sentence.kinds)


def called(sentence: Relate) -> str:
    """A short name for the network of a sentence: ``People``, ``Records that cite one another``."""
    words = many(sentence)
    ways = {
        "citation": f"{words} that cite one another",
        "co-citation": f"{words} cited together",
        "coupling": f"{words} that cite the same",
        "correspondence": f"{words} in correspondence",
        "concept": f"{words} {nearby(sentence)}",
        "similarity": f"{words} alike in {sentence.column}",
    }
    if sentence.tie == "two-mode" and sentence.project:
        other = sentence.second if sentence.project == sentence.of else sentence.of
        words = f"{words} by shared {KIND_WORDS[other][1]}"
    return ways.get(sentence.tie, words).capitalize()


def told(sentence: Relate) -> str:
    """How ties were made, in one sentence."""
    words = KIND_WORDS[sentence.of][1]
    full = sentence.counting == "full"
    how = "counted in full" if full else "counted fractionally"
    if sentence.tie in SHARED:
        return f"Two {words} are tied when they share a record, {how}."
    if sentence.tie == "citation":
        if sentence.of == "record":
            return "A record is tied to each record of the study that it cites."
        shared = "" if full else "; a citation is shared out over all pairs of the two records"
        return f"{words.capitalize()} are tied to those whose records theirs cite{shared}."
    if sentence.tie == "co-citation":
        return f"Two {words} are tied when a record cites both, {how}."
    if sentence.tie == "coupling":
        return f"Two {words} are tied by every work that both cite, {how}."
    if sentence.tie == "concept" and sentence.window:
        return f"Two terms are tied where they stand at most {sentence.window} words apart, each time by 1 over their distance."
    if sentence.tie == "concept":
        return f"Two terms are tied when they stand {nearby(sentence)}, {how}."
    if sentence.tie == "similarity":
        return _alike(sentence, words)
    if sentence.tie == "correspondence":
        shared = "" if full else "; a letter of several is shared out"
        return (
            f"Whoever sends a letter is tied to whoever receives it{shared}."
            if sentence.of == "person"
            else (f"The place a letter is sent from is tied to the place it is sent to{shared}.")
        )
    other = KIND_WORDS[sentence.second][1]
    if sentence.project:
        own, by = (words, other) if sentence.project == sentence.of else (other, words)
        return f"Two {own} are tied when they share one of the {by}, {how}."
    return f"{words.capitalize()} are tied to the {other} named in the same record, {how}."


def _alike(sentence: Relate, words: str) -> str:
    column = sentence.column
    ways = {
        "same": f"when they have the same value of {column}",
        "within": f"when their {column} differs by at most {sentence.tolerance:g}",
        "difference": f"by the difference of their {column}",
        "signed": f"from the lower to the higher {column}, by the difference",
        "nearness": f"by 1 − the difference of their {column} over its range",
    }
    return f"Two {words} are tied {ways[sentence.compared]}; what has no value is not tied."


def nearby(sentence: Relate) -> str:
    """How near terms stand that are tied: ``in one sentence``."""
    return f"within {sentence.window} words" if sentence.window else f"in one {sentence.within}"


def shapes(kinds: Sequence[str]) -> str:
    """Which kind is round and which square on a chart, where there are two."""
    return f"round: {named(kinds[:1])}, square: {named(kinds[1:])}" if len(kinds) > 1 else ""


def counted_in(sentence: Relate, n: int = 2) -> str:
    """What a tie's count counts: ``records shared``, ``citations``, ``letters``."""
    one = n == 1
    if sentence.tie == "citation":
        return "citation" if one else "citations"
    if sentence.tie == "co-citation":
        return "record citing both" if one else "records citing both"
    if sentence.tie == "coupling":
        return "work cited by both" if one else "works cited by both"
    if sentence.tie == "correspondence":
        return "letter" if one else "letters"
    if sentence.tie == "concept" and sentence.within != "record":
        if sentence.window:
            return "time together" if one else "times together"
        return f"{sentence.within} shared" if one else f"{sentence.within}s shared"
    if sentence.tie == "similarity":
        word = "value shared" if sentence.compared == "same" else "number compared"
        return word if one else word.replace(" ", "s ", 1)
    if sentence.tie == "two-mode" and sentence.project:
        other = sentence.second if sentence.project == sentence.of else sentence.of
        return f"{KIND_WORDS[other][0 if one else 1]} shared"
    return "record shared" if one else "records shared"
