"""Rules that a scholar states once: words set aside, spellings preferred, endings taken as equal.

A rule is a decision of scope ``rule``. Set aside: ``form`` lists whole forms, parted by ``|``, with ``*`` for any
letters.
Merge: ``form`` and ``preferred`` are two spellings of a word, or two endings that begin with a hyphen (``-isation``,
``-ization``; a bare hyphen is no ending), which join forms that differ by them alone. Capitals never matter.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from functools import lru_cache

from umber_knot.corpus.model import Decision

RULE = "rule"


def fault(d: Decision) -> str:
    """What is wrong with a rule, in words; empty where it can be carried out."""
    if d.decision == "aside":
        return "" if _wanted(d.form) else "the rule names no word"
    if d.decision != "merge":
        return "only words set aside and spellings merged can be rules"
    endings = d.form.startswith("-"), d.preferred.startswith("-")
    if endings[0] != endings[1]:
        return "a rule on endings needs a hyphen before both"
    if endings[0]:
        return (
            ""
            if d.form != d.preferred and len(d.form) > 1
            else "the two endings must differ, and the first not be empty"
        )
    if not d.form or not d.preferred or d.form.casefold() == d.preferred.casefold():
        return "the two spellings must differ"
    return ""


def touched(d: Decision, forms: Sequence[str], live: Sequence[int]) -> list[tuple[int, str]]:
    """The forms that a rule touches, each with what it becomes (empty: set aside)."""
    if fault(d):
        return []
    if d.decision == "aside":
        fits = _pattern(_wanted(d.form)).fullmatch
        return [(f, "") for f in live if fits(forms[f])]
    rewrite, sign = _rewriting(d.form, d.preferred)
    found = [(f, new) for f in live if sign in forms[f].casefold() and (new := rewrite(forms[f])) != forms[f]]
    if d.form.startswith("-"):  # endings are equal where both are there; nothing is renamed for one alone
        there = {forms[f].casefold() for f in live}
        found = [(f, new) for f, new in found if new.casefold() in there]
    return found


def _wanted(text: str) -> tuple[str, ...]:
    return tuple(word for part in text.split("|") if (word := " ".join(part.split())).strip("*"))


@lru_cache(64)
def _pattern(words: tuple[str, ...]) -> re.Pattern[str]:
    return re.compile("|".join(re.escape(word).replace(r"\*", ".*") for word in words), re.I)


@lru_cache(64)
def _rewriting(old: str, new: str) -> tuple[Callable[[str], str], str]:
    """A function that rewrites a form, and letters that any form it touches has."""
    if old.startswith("-"):
        pattern = re.compile(rf"(?<=\w\w){re.escape(old[1:])}\b", re.I)
        to = new[1:]
        sign = old[1:].casefold()
    else:
        pattern = re.compile(rf"\b{re.escape(old)}\b", re.I)
        to, sign = new, old.casefold()
    return lambda text: pattern.sub(lambda found: _cased(to, found[0]), text), sign


def _cased(to: str, like: str) -> str:
    """A replacement in the capitals of what it replaces."""
    if like.isupper() and len(like) > 1:
        return to.upper()
    return to[:1].upper() + to[1:] if like[:1].isupper() else to
