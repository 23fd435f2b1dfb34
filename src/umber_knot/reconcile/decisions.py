"""Decisions as a plain CSV, and the mapping from forms to entities that they give."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from umber_knot.corpus.model import KINDS, Decision, Ints, fold
from umber_knot.errors import UserError, read_utf8

COLUMNS = ("kind", "decision", "form", "preferred", "scope", "note")
WHAT = ("merge", "apart", "aside", "split", "prefer")


@dataclass(frozen=True, slots=True)
class Resolution:
    """What each form of one kind stands for.

    ``entity`` has shape (forms,): the entity of each form. ``label`` and ``aside`` have one value an entity.
    ``unapplied`` says, for each decision that could not be carried out, why.
    """

    entity: Ints
    label: tuple[str, ...]
    aside: NDArray[np.bool_]
    unapplied: tuple[tuple[Decision, str], ...] = ()

    def members(self, entity: int) -> Ints:
        """The forms of one entity."""
        return np.flatnonzero(self.entity == entity).astype(np.int32)


class Links:
    """Union-find over the few forms that decisions touch; ``root`` of an untouched form is itself."""

    def __init__(self) -> None:
        self.parent: dict[int, int] = {}

    def root(self, form: int) -> int:
        while (up := self.parent.get(form, form)) != form:
            self.parent[form] = self.parent.get(up, up)
            form = up
        return form

    def join(self, form: int, to: int) -> None:
        a, b = self.root(form), self.root(to)
        if a != b:
            self.parent[a] = b


def resolve(forms: Sequence[str], decisions: Iterable[Decision]) -> Resolution:
    """Carry out the decisions of one kind, in order, on its forms.

    A merge joins two sets of forms under the preferred one; a split takes a form out of its set, undoing the merges
    that name it; keep-apart is refused where the two are one already, and a merge where the two are kept apart.
    """
    ordered = list(decisions)
    number = {text: i for i, text in enumerate(forms)} if ordered else {}
    unapplied: list[tuple[Decision, str]] = []
    split_after = {fold(d.form): n for n, d in enumerate(ordered) if d.decision == "split"}
    links = Links()
    apart: list[tuple[int, int]] = []
    aside: list[int] = []
    preferred: dict[int, str] = {}
    for n, d in enumerate(ordered):
        form, other = number.get(fold(d.form), -1), number.get(fold(d.preferred), -1)
        if form < 0:
            unapplied.append((d, f"no {d.kind} is spelled {d.form!r} in this study"))
        elif d.decision == "merge":
            if n < max(split_after.get(fold(d.form), -1), split_after.get(fold(d.preferred), -1)):
                continue
            if other < 0:
                preferred[form] = fold(d.preferred)
                continue
            if any({links.root(a), links.root(b)} == {links.root(form), links.root(other)} for a, b in apart):
                unapplied.append((d, f"{d.form!r} and {d.preferred!r} are kept apart by an earlier decision"))
                continue
            links.join(form, other)
        elif d.decision == "apart":
            if other < 0:
                unapplied.append((d, f"no {d.kind} is spelled {d.preferred!r} in this study"))
            elif links.root(form) == links.root(other):
                unapplied.append((d, f"{d.form!r} and {d.preferred!r} are merged by an earlier decision"))
            else:
                apart.append((form, other))
        elif d.decision == "aside":
            aside.append(form)
        elif d.decision == "prefer":
            preferred[form] = fold(d.preferred) or forms[form]
    root = np.arange(len(forms), dtype=np.int32)
    for form in links.parent:
        root[form] = links.root(form)
    roots, entity = np.unique(root, return_inverse=True)
    label = [forms[r] for r in roots]
    for form, text in preferred.items():
        label[entity[form]] = text
    gone = np.zeros(len(roots), bool)
    gone[entity[aside]] = True
    return Resolution(entity.astype(np.int32), tuple(label), gone, tuple(unapplied))


def read_decisions(path: Path) -> tuple[list[Decision], list[str]]:
    """The decisions of a CSV file, and a line for each row that is none; UserError when it is no such file."""
    text = read_utf8(path, "the list of decisions")
    first = text.split("\n", 1)[0]
    rows = csv.reader(io.StringIO(text), delimiter=";" if first.count(";") > first.count(",") else ",")
    header = [name.strip().lower() for name in next(rows, [])]
    missing = [name for name in ("kind", "decision", "form") if name not in header]
    if missing:
        raise UserError(
            f"no column {', '.join(missing)}", place=f"{path}, line 1", cure=f"The columns are {', '.join(COLUMNS)}"
        )
    found: list[Decision] = []
    problems: list[str] = []
    while True:
        try:
            row = next(rows)
        except StopIteration:
            return found, problems
        except csv.Error as error:
            problems.append(f"{path.name}, line {rows.line_num}: {error}; the row was left out")
            continue
        if not any(row):
            continue
        cell = dict(zip(header, row))
        kind, what, form, preferred, scope, note = (cell.get(name, "").strip() for name in COLUMNS)
        d = Decision(kind, what, form, preferred, scope, note)
        if d.kind not in (*KINDS, "record"):
            reason = f"unknown kind {d.kind!r}; known: {', '.join(KINDS)}"
        elif d.decision not in WHAT:
            reason = f"unknown decision {d.decision!r}; known: {', '.join(WHAT)}"
        elif not d.form:
            reason = "no form is named"
        elif d.decision in ("merge", "apart", "prefer") and not d.preferred:
            reason = f"a {d.decision} needs a second form in the column preferred"
        else:
            found.append(d)
            continue
        problems.append(f"{path.name}, line {rows.line_num}: {reason}; the row was left out")


def decisions_csv(decisions: Iterable[Decision]) -> str:
    """The decisions as CSV (RFC 4180)."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(COLUMNS)
    for d in decisions:
        writer.writerow([getattr(d, name) for name in COLUMNS])
    return out.getvalue()
