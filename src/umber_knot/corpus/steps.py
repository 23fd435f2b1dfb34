"""Decisions, recipe and everything else that is a step: made, taken back, done again, without limit."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any, NamedTuple

import orjson

from umber_knot.corpus.file import StudyFile, decoding
from umber_knot.corpus.model import Decision

#: What a step can switch → table and column.
_SWITCHES = {"decision": ("decision", "live"), "source": ("source", "live"), "held": ("source", "held")}
Spot = tuple[float, float]
Item = tuple[str, str]  # kind and form of an entity


class Pin(NamedTuple):
    """A mark moved by hand in an arrangement of a strand: where it was pinned before and after (None: not)."""

    strand: int
    arrangement: str
    kind: str
    form: str
    before: Spot | None
    after: Spot | None


class Afresh(NamedTuple):
    """An arrangement laid out again: how many times it was, before and after."""

    strand: int
    arrangement: str
    before: int
    after: int


@dataclass(frozen=True, slots=True)
class Step:
    """One undoable step. ``switch`` lists what it switches on or off: (table, row numbers, to); rows are decisions or
    sources (``source``: on or off; ``held``: in the study or removed). ``recipe`` is the recipe's text before and
    after,
    where the step changed it; ``pins`` and ``afresh`` are changes by hand to arrangements."""

    label: str
    switch: tuple[tuple[str, tuple[int, ...], bool], ...] = ()
    recipe: tuple[str, str] | None = None
    pins: tuple[Pin, ...] = ()
    afresh: tuple[Afresh, ...] = ()
    id: int = 0
    done: bool = True


class Stepping(StudyFile):
    """A study's decisions, recipe and arrangements by hand, and the steps that made them."""

    def decisions(self) -> tuple[Decision, ...]:
        """The decisions in force, in the order they were made."""
        with decoding(self.path, "the ledger"):
            return tuple(
                Decision(kind, what, form, preferred, scope, note, number, made, effect)
                for number, kind, what, form, preferred, scope, note, made, effect in self._db.execute(
                    "SELECT id, kind, decision, form, preferred, scope, note, made, effect FROM decision WHERE live ORDER BY id"
                )
            )

    def recipe(self) -> str:
        """The recipe in force, as TOML; empty in a new study."""
        with decoding(self.path, "the recipe"):
            row = self._db.execute("SELECT value FROM meta WHERE key = 'recipe'").fetchone()
            return str(row[0]) if row else ""

    def decide(self, label: str, decisions: Sequence[Decision]) -> Step:
        """Add decisions to the ledger, as one step."""
        with self._transaction() as db:
            ids = []
            for d in decisions:
                cursor = db.execute(
                    "INSERT INTO decision (kind, decision, form, preferred, scope, note, made) VALUES (?,?,?,?,?,?,?)",
                    (d.kind, d.decision, d.form, d.preferred, d.scope, d.note, now()),
                )
                ids.append(int(cursor.lastrowid or 0))
            return self._log(db, Step(label, (("decision", tuple(ids), True),)))

    def note_effect(self, ids: Sequence[int], effect: str) -> None:
        """Keep beside decisions what changed when they were made."""
        if ids and not self.read_only:
            with self._transaction() as db:
                db.executemany("UPDATE decision SET effect = ? WHERE id = ?", ((effect, i) for i in ids))

    def withdraw(self, label: str, ids: Sequence[int]) -> Step:
        """Take decisions back, as one step (which can itself be undone)."""
        return self._apply(Step(label, (("decision", tuple(ids), False),)))

    def switch_sources(self, label: str, numbers: Sequence[int], on: bool) -> Step:
        """Switch sources on or off, as one step."""
        return self._apply(Step(label, (("source", tuple(numbers), on),)))

    def remove_sources(self, label: str, numbers: Sequence[int]) -> Step:
        """Take sources out of the study, as one step."""
        return self._apply(Step(label, (("held", tuple(numbers), False),)))

    def set_recipe(self, label: str, text: str) -> Step:
        """Replace the recipe, as one step."""
        return self._apply(Step(label, recipe=(self.recipe(), text)))

    def pins(self) -> dict[tuple[int, str], dict[Item, Spot]]:
        """(strand, arrangement) → items moved by hand, and where to."""
        found: dict[tuple[int, str], dict[Item, Spot]] = {}
        with decoding(self.path, "the arrangements"):
            for strand, arrangement, kind, form, x, y in self._db.execute("SELECT * FROM pin ORDER BY kind, form"):
                found.setdefault((strand, arrangement), {})[kind, form] = (float(x), float(y))
        return found

    def afresh(self) -> dict[tuple[int, str], int]:
        """(strand, arrangement) → how many times it was laid out again."""
        with decoding(self.path, "the arrangements"):
            return {
                (s, name): int(n) for s, name, n in self._db.execute("SELECT strand, name, afresh FROM arrangement")
            }

    def move_items(self, label: str, strand: int, arrangement: str, to: Mapping[Item, Spot]) -> Step:
        """Pin items where they were moved to, as one step."""
        now = self.pins().get((strand, arrangement), {})
        return self._apply(
            Step(label, pins=tuple(Pin(strand, arrangement, *one, now.get(one), spot) for one, spot in to.items()))
        )

    def lay_out_again(self, label: str, strand: int, arrangement: str) -> Step:
        """Forget where the items of an arrangement stood, pins too, as one step."""
        pins = self.pins().get((strand, arrangement), {})
        n = self.afresh().get((strand, arrangement), 0)
        gone = tuple(Pin(strand, arrangement, *one, spot, None) for one, spot in pins.items())
        return self._apply(Step(label, pins=gone, afresh=(Afresh(strand, arrangement, n, n + 1),)))

    def _apply(self, step: Step) -> Step:
        with self._transaction() as db:
            self._carry_out(db, step, forward=True)
            return self._log(db, step)

    def _log(self, db: sqlite3.Connection, step: Step) -> Step:
        db.execute("DELETE FROM step WHERE NOT done")
        pins, afresh = ([list(one) for one in part] for part in (step.pins, step.afresh))
        parts = {"switch": step.switch, "recipe": step.recipe, "pins": pins, "afresh": afresh}
        change = orjson.dumps({k: v for k, v in parts.items() if v}).decode()
        db.execute("INSERT INTO step (label, change, made) VALUES (?, ?, ?)", (step.label, change, now()))
        return step

    @staticmethod
    def _carry_out(db: sqlite3.Connection, step: Step, *, forward: bool) -> None:
        for table, ids, to in step.switch:
            name, column = _SWITCHES[table]
            db.executemany(f"UPDATE {name} SET {column} = ? WHERE id = ?", ((int(to == forward), i) for i in ids))
        if step.recipe is not None:
            db.execute("INSERT OR REPLACE INTO meta VALUES ('recipe', ?)", (step.recipe[1 if forward else 0],))
        for pin in step.pins:
            spot, where = (pin.after if forward else pin.before), pin[:4]
            db.execute("DELETE FROM pin WHERE strand = ? AND arrangement = ? AND kind = ? AND form = ?", where)
            if spot is not None:
                db.execute("INSERT INTO pin VALUES (?, ?, ?, ?, ?, ?)", (*where, *spot))
        for one in step.afresh:
            n = one.after if forward else one.before
            db.execute("INSERT OR REPLACE INTO arrangement VALUES (?, ?, ?)", (one.strand, one.arrangement, n))

    def steps(self) -> tuple[Step, ...]:
        """All steps in order; the undone ones stand at the end with ``done`` false."""
        with decoding(self.path, "the steps"):
            return tuple(
                _step(*row) for row in self._db.execute("SELECT id, label, change, done FROM step ORDER BY id")
            )

    def _last(self, done: bool) -> Step | None:
        """The step that undo (``done``) or redo would move."""
        order = "DESC" if done else "ASC"
        with decoding(self.path, "the steps"):
            row = self._db.execute(
                f"SELECT id, label, change, done FROM step WHERE done = ? ORDER BY id {order} LIMIT 1", (int(done),)
            ).fetchone()
            return _step(*row) if row else None

    def undo(self) -> Step | None:
        """Take back the last step; None when there is none."""
        return self._move(self._last(done=True), forward=False)

    def redo(self) -> Step | None:
        """Do again what was undone last; None when there is nothing."""
        return self._move(self._last(done=False), forward=True)

    def _move(self, step: Step | None, *, forward: bool) -> Step | None:
        if step is not None:
            with self._transaction() as db:
                self._carry_out(db, step, forward=forward)
                db.execute("UPDATE step SET done = ? WHERE id = ?", (int(forward), step.id))
        return step


def _step(number: int, label: str, change: str, done: int) -> Step:
    data: dict[str, Any] = orjson.loads(change)
    before_after = data.get("recipe")
    return Step(
        label,
        tuple((t, tuple(ids), bool(to)) for t, ids, to in data.get("switch") or ()),
        (before_after[0], before_after[1]) if before_after else None,
        tuple(
            Pin(s, a, kind, form, _spot(before), _spot(after))
            for s, a, kind, form, before, after in data.get("pins") or ()
        ),
        tuple(Afresh(*one) for one in data.get("afresh") or ()),
        number,
        bool(done),
    )


def _spot(value: Any) -> Spot | None:
    return (float(value[0]), float(value[1])) if value else None


def now() -> str:
    """The time as the study writes it."""
    return datetime.now(UTC).isoformat(timespec="seconds")
