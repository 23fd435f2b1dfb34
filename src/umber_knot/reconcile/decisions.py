"""Decisions as a plain CSV, and the mapping from forms to entities that they give."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from umber_knot.corpus.by_hand import fault_of
from umber_knot.corpus.model import DECIDED, KIND_WORDS, ON_NETWORK, Corpus, Decision, Ints, Mentions, fold
from umber_knot.corpus.texts import Texts
from umber_knot.errors import UserError, read_utf8
from umber_knot.reconcile.rules import RULE, fault, touched

COLUMNS = ("kind", "decision", "form", "preferred", "scope", "note")
_NONE: Ints = np.zeros(0, np.int32)
WHAT = ("merge", "apart", "aside", "split", "prefer")


@dataclass(frozen=True, slots=True)
class Resolution:
    """What each form of one kind stands for.

    ``entity`` has shape (forms,): the entity of each form. ``label``, ``head`` (the form that anchors it) and ``aside``
    have one value an entity.
    ``unapplied`` says, for each decision that could not be carried out, why. Where records were split, ``divided`` are
    the mentions with the forms that the splits gave them, and ``moved`` is (record, form) → new form.
    """

    kind: str
    entity: Ints
    label: Texts
    head: Ints
    aside: NDArray[np.bool_]
    unapplied: tuple[tuple[Decision, str], ...] = ()
    divided: Mentions | None = None
    moved: Mapping[tuple[int, int], int] = field(default_factory=dict)

    def mentions(self, corpus: Corpus) -> Mentions:
        """The mentions that ``entity`` goes with."""
        return self.divided or corpus.of(self.kind)

    def anchors(self, corpus: Corpus) -> Texts:
        """The anchoring form of each entity: with the kind its identity, whatever it is called."""
        return self.mentions(corpus).forms.take(self.head)

    def members(self, entity: int) -> Ints:
        """The forms of one entity."""
        return np.flatnonzero(self.entity == entity).astype(np.int32)


class Links:
    """Sets of forms under merging, and what is kept apart. Only forms that decisions touch are held, and of two sets
    the smaller joins the larger, so the cost is that of the decisions."""

    def __init__(self) -> None:
        self.home: dict[int, int] = {}
        self.members: dict[int, list[int]] = {}
        self.foes: dict[int, set[int]] = {}  # set → sets it is kept apart from
        self.tied: dict[int, list[int]] = {}  # form → forms that a merge named beside it
        self.head: dict[int, int] = {}  # set → the form it is named by

    def root(self, form: int) -> int:
        return self.home.get(form, form)

    def join(self, form: int, to: int) -> None:
        """Put two forms in one set, named by what ``to`` was named by."""
        a, b = self.root(form), self.root(to)
        self.tied.setdefault(form, []).append(to)
        self.tied.setdefault(to, []).append(form)
        if a == b:
            return
        head = self.head.get(b, b)
        members = [self.members.setdefault(x, [x]) for x in (a, b)]
        small, large = (a, b) if len(members[0]) <= len(members[1]) else (b, a)
        for f in self.members[small]:
            self.home[f] = large
        self.members[large] += self.members.pop(small)
        for foe in self.foes.pop(small, ()):
            self.foes[foe].discard(small)
            self.foes[foe].add(large)
            self.foes.setdefault(large, set()).add(foe)
        self.head[large] = head

    def part(self, form: int, other: int) -> None:
        a, b = self.root(form), self.root(other)
        self.foes.setdefault(a, set()).add(b)
        self.foes.setdefault(b, set()).add(a)

    def foe(self, form: int, other: int) -> bool:
        return self.root(other) in self.foes.get(self.root(form), ())

    def path(self, form: int, to: int) -> list[int]:
        """The merges that lead from one form to another."""
        back = {form: form}
        queue = [form]
        while queue and to not in back:
            here = queue.pop(0)
            for there in self.tied.get(here, ()):
                if there not in back:
                    back[there] = here
                    queue.append(there)
        found = [to]
        while found[-1] in back and back[found[-1]] != found[-1]:
            found.append(back[found[-1]])
        return found[::-1]


def resolve(corpus: Corpus, kind: str, decisions: Iterable[Decision]) -> Resolution:
    """Carry out the decisions on one kind, in order: splits by record first, then decisions on forms, then rules.

    A merge joins two sets of forms under the preferred one; a split without records takes a form out of its set,
    undoing the merges that name it; keep-apart is refused where the two are one already, and a merge where the two are
    kept apart. A decision by hand goes before a rule.
    """
    ordered = [d for d in decisions if d.kind == kind]
    mentions = corpus.of(kind)
    by_record = [d for d in ordered if d.decision == "split" and d.scope and d.scope != RULE]
    divided, moved, unapplied = _divided(corpus, mentions, by_record) if by_record else (mentions, {}, [])
    resolving = _Resolving(kind, divided, unapplied)
    resolving.carry_out(
        [d for d in ordered if d.decision != "split" or d.scope in ("", RULE)] if by_record else ordered
    )
    found = resolving.result()
    return replace(found, divided=divided, moved=moved) if moved else found


def refused(forms: Texts, made: Iterable[Decision], new: Sequence[Decision]) -> list[tuple[Decision, str]]:
    """Which of some new decisions on forms of one kind cannot be carried out after those made, and why. Splits by
    record and rules are not looked at."""
    resolving = _Resolving(new[0].kind, Mentions(forms, _NONE, _NONE), [])
    whole = [*(d for d in made if d.kind == new[0].kind), *new]
    resolving.carry_out([d for d in whole if d.scope != RULE and not (d.decision == "split" and d.scope)])
    fresh = set(map(id, new))
    return [(d, why) for d, why in resolving.unapplied if id(d) in fresh]


def records_of(scope: str) -> list[str]:
    """The anchors of records that the scope of a split lists."""
    return [name for part in scope.split("|") if (name := part.strip())]


def scope_of(corpus: Corpus, records: Iterable[int]) -> str:
    """Records as the scope of a split."""
    return " | ".join(corpus.anchor(r) for r in records)


def _divided(
    corpus: Corpus, mentions: Mentions, splits: Sequence[Decision]
) -> tuple[Mentions, dict[tuple[int, int], int], list[tuple[Decision, str]]]:
    """Mentions in which those that splits name have the form that the split prefers."""
    number = mentions.forms.places({fold(text) for d in splits for text in (d.form, d.preferred)})
    forms, moved, unapplied = list(mentions.forms), dict[tuple[int, int], int](), list[tuple[Decision, str]]()
    places, why = corpus.rows_of({name for d in splits for name in records_of(d.scope)})
    at = np.argsort(mentions.record, kind="stable")
    record = mentions.record[at]
    form = mentions.form.copy()
    for d in splits:
        old, wanted = number.get(fold(d.form), -1), records_of(d.scope)
        rows = [places[name] for name in wanted if name in places]
        to = fold(d.preferred)
        if old < 0:
            unapplied.append((d, _unknown(d.kind, d.form, mentions.forms)))
            continue
        if not to or to == fold(d.form):
            unapplied.append((d, "a split by record needs another name in the column preferred"))
            continue
        new = number.setdefault(to, len(forms))
        if new == len(forms):
            forms.append(to)
        begin, end = np.searchsorted(record, rows), np.searchsorted(record, rows, side="right")
        spots = [p for b, e in zip(begin.tolist(), end.tolist()) for p in at[b:e].tolist() if mentions.form[p] == old]
        form[spots] = new
        moved |= {(int(mentions.record[p]), old): new for p in spots}
        if len(spots) < len(wanted):
            missing = len(wanted) - len(spots)
            first = next((f": {why[name]}" for name in wanted if name in why), "")
            unapplied.append(
                (d, f"{missing} of its {len(wanted)} records are not there or do not have {d.form!r}{first}")
            )
    return Mentions(Texts.of(forms), mentions.record, form, mentions.role), moved, unapplied


def _unknown(kind: str, text: str, forms: Sequence[str]) -> str:
    """That a form is not there, with what may have been meant."""
    from rapidfuzz.fuzz import ratio  # here, because the window opens studies too and must start at once
    from rapidfuzz.process import extractOne

    near = extractOne(text, forms, scorer=ratio, score_cutoff=75) if len(forms) <= 200_000 else None
    return f"no {KIND_WORDS[kind][0]} is spelled {text!r} in this study" + (
        f"; did you mean {near[0]!r}?" if near else ""
    )


class _Resolving:
    """The state while decisions are carried out one after another."""

    MOST_HINTS = 50  # unknown forms for which the nearest known one is looked up

    def __init__(self, kind: str, mentions: Mentions, unapplied: list[tuple[Decision, str]]) -> None:
        self.kind, self.mentions, self.unapplied = kind, mentions, unapplied
        self.number: dict[str, int] = {}
        self.links = Links()
        self.preferred: dict[int, str] = {}
        self.into: dict[int, int] = {}  # form → the form it was merged into
        self.renamed: dict[str, int] = {}  # a label that is no form → the form that was renamed so
        self.aside: list[int] = []
        self.hints = 0

    def carry_out(self, ordered: Sequence[Decision]) -> None:
        """Carry decisions out one after another; rules come last."""
        forms = self.mentions.forms
        rules = [d for d in ordered if d.scope == RULE]
        if rules:
            self.number = {text: i for i, text in enumerate(forms)}
        elif ordered:
            wanted = {fold(text) for d in ordered for text in (d.form, d.preferred)}
            self.number = forms.places(wanted)
        out_after = {fold(d.form): n for n, d in enumerate(ordered) if d.decision == "split" and d.scope != RULE}
        for n, d in enumerate(ordered):
            if d.scope == RULE:
                continue
            if (
                d.decision == "merge"
                and out_after
                and n < max(out_after.get(fold(t), -1) for t in (d.form, d.preferred))
            ):
                continue
            if why := self._carry_out(d):
                self.unapplied.append((d, why))
        if rules:
            self._carry_out_rules(rules)

    def result(self) -> Resolution:
        forms, links = self.mentions.forms, self.links
        root = np.arange(len(forms), dtype=np.int32)
        if links.home:
            root[list(links.home)] = list(links.home.values())
        roots, entity = np.unique(root, return_inverse=True)
        heads = roots.astype(np.int32)
        for r, head in links.head.items():
            if links.root(r) == r:
                heads[entity[r]] = head
        names = forms.take(heads)
        if self.preferred:
            called = list(names)
            for form, text in self.preferred.items():
                called[entity[form]] = text
            names = Texts.of(called)
        gone = np.zeros(len(roots), bool)
        gone[entity[self.aside]] = True
        return Resolution(self.kind, entity.astype(np.int32), names, heads, gone, tuple(self.unapplied))

    def _form(self, text: str) -> int:
        """The form a decision names: by its text, or by the name it was given; −1 where there is none."""
        text = fold(text)
        return self.number.get(text, self.renamed.get(text, -1))

    def _missing(self, kind: str, text: str) -> str:
        self.hints += 1
        return _unknown(kind, text, self.mentions.forms if self.hints <= self.MOST_HINTS else ())

    def _carry_out(self, d: Decision) -> str:
        """Carry a decision out, or say why it cannot be."""
        links, forms = self.links, self.mentions.forms
        form, other = self._form(d.form), self._form(d.preferred)
        if form < 0:
            return self._missing(d.kind, d.form)
        if d.decision == "merge":
            if other < 0:
                self._rename(form, d.preferred)
            elif form == other:
                return (
                    "a form cannot be merged with itself"
                    if fold(d.form) == fold(d.preferred)
                    else f"{d.form!r} is called {d.preferred!r} already"
                )
            elif links.foe(form, other):
                return f"{d.form!r} and {d.preferred!r} are kept apart by an earlier decision" + self._through(
                    form, other
                )
            elif links.root(form) == links.root(other):
                chain = [form, other]
                while chain[-1] in self.into and chain[-1] != form:
                    chain.append(self.into[chain[-1]])
                if chain[-1] == form:
                    return f"this would close a circle: {' → '.join(forms[f] for f in chain)}"
            else:
                links.join(form, other)
                self.into[form] = other
        elif d.decision == "apart":
            if other < 0:
                return self._missing(d.kind, d.preferred)
            if form == other:  # one form kept whole, so that a split is not suggested again; or a form and its own name
                return "" if fold(d.form) == fold(d.preferred) else f"{d.form!r} is called {d.preferred!r}"
            if links.root(form) == links.root(other):
                return f"{d.form!r} and {d.preferred!r} are merged by an earlier decision: {' → '.join(forms[f] for f in links.path(form, other))}"
            links.part(form, other)
        elif d.decision == "aside":
            self.aside.append(form)
        elif d.decision == "prefer":
            name = fold(d.preferred) or forms[form]
            owner = self.number.get(name, -1)
            if owner >= 0 and links.root(owner) != links.root(form):
                return f"{name!r} is a form of another {KIND_WORDS[d.kind][0]}; merge the two instead"
            self._rename(form, name)
        return ""

    def _rename(self, form: int, text: str) -> None:
        name = fold(text)
        self.preferred.pop(form, None)  # the last name given counts
        self.preferred[form] = name
        if name not in self.number:
            self.renamed[name] = form

    def _through(self, form: int, other: int) -> str:
        """Which members of two sets were kept apart, where these are not the two themselves."""
        members = self.links.members
        sizes = [len(members.get(self.links.root(f), (f,))) for f in (form, other)]
        return " on forms they are merged with" if max(sizes) > 1 else ""

    def _carry_out_rules(self, rules: Sequence[Decision]) -> None:
        forms = self.mentions.forms
        live = np.flatnonzero(self.mentions.counts()).tolist()
        by_text = {text.casefold(): f for text, f in self.number.items()}
        for d in rules:
            if why := fault(d):
                self.unapplied.append((d, why))
                continue
            found = touched(d, forms, live)
            if not found:
                self.unapplied.append((d, "the rule touches no form"))
            for f, text in found:
                if not text:
                    self.aside.append(f)
                    continue
                other = by_text.setdefault(text.casefold(), f)
                if other == f:
                    self.preferred.setdefault(f, text)
                elif not self.links.foe(f, other) and self.links.root(f) != self.links.root(other):
                    self.links.join(f, other)


def read_decisions(path: Path) -> tuple[list[tuple[int, Decision]], list[str]]:
    """The decisions of a CSV file with their lines, and a message for each row that is none; UserError when it is no
    such file."""
    text = read_utf8(path, "the list of decisions")
    first = text.split("\n", 1)[0]
    rows = csv.reader(io.StringIO(text), delimiter=";" if first.count(";") > first.count(",") else ",")
    header = [name.strip().lower() for name in next(rows, [])]
    missing = [name for name in ("kind", "decision", "form") if name not in header]
    if missing:
        raise UserError(
            f"no column {', '.join(missing)}", place=f"{path}, line 1", cure=f"The columns are {', '.join(COLUMNS)}"
        )
    found: list[tuple[int, Decision]] = []
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
        if d.kind not in (*DECIDED, *ON_NETWORK, "record"):
            reason = f"unknown kind {d.kind!r}; known: {', '.join((*DECIDED, *ON_NETWORK))}"
        elif d.kind in ON_NETWORK and (why := fault_of(d)):
            reason = why
        elif d.kind in ON_NETWORK:
            found.append((rows.line_num, d))
            continue
        elif d.decision not in WHAT:
            reason = f"unknown decision {d.decision!r}; known: {', '.join(WHAT)}"
        elif not d.form:
            reason = "no form is named"
        elif d.decision in ("merge", "apart", "prefer") and not d.preferred:
            reason = f"a {d.decision} needs a second form in the column preferred"
        elif d.scope == RULE and d.kind != "record" and (why := fault(d)):
            reason = why
        else:
            found.append((rows.line_num, d))
            continue
        problems.append(f"{path.name}, line {rows.line_num}: {reason}; the row was left out")


def sort_out(
    corpus: Corpus, made: Sequence[Decision], new: Sequence[Decision]
) -> tuple[list[Decision], dict[int, str]]:
    """New decisions that can be carried out after those made; and why others cannot, by their place in ``new``.

    A split of which only some records are found is carried out, and said.
    """
    why: dict[int, str] = {}
    place = {id(d): k for k, d in enumerate(new)}
    for kind in dict.fromkeys(d.kind for d in new if d.kind not in ON_NETWORK):
        own = [d for d in new if d.kind == kind]
        if kind == "record":
            lacking = corpus.rows_of(t for d in own if d.scope != RULE for t in (d.form, d.preferred) if t).why
            why |= {
                place[id(d)]: lacking[t] for d in own for t in (d.preferred, d.form) if t in lacking and d.scope != RULE
            }
            continue
        for d, text in resolve(corpus, kind, [*(d for d in made if d.kind == kind), *own]).unapplied:
            if id(d) in place:
                why[place[id(d)]] = text
    kept = [d for k, d in enumerate(new) if k not in why or (d.decision == "split" and d.scope and "of its" in why[k])]
    return kept, why


def decisions_csv(decisions: Iterable[Decision]) -> str:
    """The decisions as CSV (RFC 4180)."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(COLUMNS)
    for d in decisions:
        writer.writerow([getattr(d, name) for name in COLUMNS])
    return out.getvalue()
