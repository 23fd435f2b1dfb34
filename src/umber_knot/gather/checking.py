"""What looks odd in a source as a whole, each with three examples and its cure: a misread column shows here first."""

from __future__ import annotations

import datetime
import re
from collections.abc import Iterator

from umber_knot.corpus.model import Problem, RawRecord

_SEVERAL = re.compile(r";|\||\s(?:and|&)\s|,[^,]*,")
_DIGIT = re.compile(r"\d")
FEWEST = 8  # records from which something can be said of all


class FieldCheck:
    """Takes the records of a source as they pass; ``problems`` at the end."""

    def __init__(self) -> None:
        self.records = self.with_people = self.one_person = self.with_institution = self.with_country = 0
        self.several: list[str] = []
        self.digits: list[str] = []
        self.years: list[str] = []
        self.placeless: list[str] = []
        self.counts = dict.fromkeys(("several", "digits", "years"), 0)
        self._last = datetime.date.today().year + 1

    def take(self, record: RawRecord) -> None:
        """One more record."""
        self.records += 1
        people = record.persons
        if people:
            self.with_people += 1
            if len(people) == 1:
                self.one_person += 1
                if _SEVERAL.search(people[0]):
                    self._note("several", self.several, people[0])
            for name in people:
                if _DIGIT.search(name):
                    self._note("digits", self.digits, name)
        if record.year > self._last:
            self._note("years", self.years, f"{record.year} in {record.title[:40]!r}")
        if record.institutions:
            self.with_institution += 1
            if record.countries:
                self.with_country += 1
            elif len(self.placeless) < 3:
                self.placeless.append(record.institutions[0])

    def _note(self, what: str, examples: list[str], text: str) -> None:
        self.counts[what] += 1
        if len(examples) < 3:
            examples.append(text)

    def problems(self) -> Iterator[Problem]:
        """What looks odd."""
        if (
            self.with_people >= FEWEST
            and self.one_person == self.with_people
            and self.counts["several"] >= 0.2 * self.with_people
        ):
            yield _problem(
                "every record has one person, and many of these look like several; change what parts the column of people",
                self.several,
            )
        if self.counts["digits"] >= max(2, 0.02 * self.with_people):
            yield _problem(
                f"{self.counts['digits']:,} names of people hold digits; check what is read as people, or set them aside in Reconcile",
                self.digits,
            )
        if self.counts["years"]:
            yield _problem(
                f"{self.counts['years']:,} records are of years after {self._last}; check which field is read as the date",
                self.years,
            )
        if self.with_institution >= FEWEST and self.with_country < 0.5 * self.with_institution:
            share = f"{self.with_country:,} of {self.with_institution:,}"
            yield _problem(
                f"a country was read for {share} records with an institution; check what is read as addresses",
                self.placeless,
            )


def _problem(message: str, examples: list[str]) -> Problem:
    return Problem(0, message, "; ".join(" ".join(text.split())[:60] for text in examples))
