"""The study file: sources, records and forms, decisions and recipe, and the steps that can be undone.

Every public method that writes does so in one transaction, so a crash costs at most the step in hand.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime
from itertools import islice
from pathlib import Path
from typing import Protocol

import orjson

from umber_knot.corpus.assemble import assemble
from umber_knot.corpus.bulk import no_cycles
from umber_knot.corpus.columns import Columning, Columns
from umber_knot.corpus.comparing import Difference, compare_sources
from umber_knot.corpus.model import KINDS, Corpus, Decision, FormTable, Passage, Problem, RawRecord, Source
from umber_knot.corpus.schema import APPLICATION_ID, MIGRATIONS, VERSION
from umber_knot.corpus.texts import Texts
from umber_knot.errors import UserError

BATCH = 2000  # records saved at a time
#: What a step can switch → table and column.
_SWITCHES = {"decision": ("decision", "live"), "source": ("source", "live"), "held": ("source", "held")}


class Harvest(Protocol):
    """A source being read: iterate for its records; ``source`` says afterwards what it was and how it went."""

    name: str

    def __iter__(self) -> Iterator[RawRecord]: ...
    @property
    def source(self) -> Source: ...


@dataclass(frozen=True, slots=True)
class Step:
    """One undoable step. ``switch`` lists what it switches on or off: (table, row numbers, to); rows are
    decisions or sources (``source``: on or off; ``held``: in the study or removed). ``recipe`` is the recipe's text before and after, where the step changed it."""

    label: str
    switch: tuple[tuple[str, tuple[int, ...], bool], ...] = ()
    recipe: tuple[str, str] | None = None
    id: int = 0
    done: bool = True


@dataclass(frozen=True, slots=True)
class Remembered:
    """What the study remembers of one item's place on the chart."""

    x: float
    y: float
    topic: int  # 1-based; 0: none
    pinned: bool = False


@dataclass(frozen=True, slots=True)
class RecordDetail:
    """One record in full, for the evidence panel."""

    id: int
    source: str
    path: str
    line: int
    type: str
    title: str
    date: str
    doi: str
    abstract: str
    raw: str
    extra: dict[str, object]
    passages: tuple[Passage, ...]


class Study:
    """An open study file. Use ``Study.create`` or ``Study.open``; close it when done."""

    def __init__(self, path: Path, db: sqlite3.Connection, read_only: bool) -> None:
        self.path, self.read_only = path, read_only
        self._db = db

    @classmethod
    def create(cls, path: Path) -> Study:
        """A new, empty study; the file must not exist."""
        if path.exists():
            raise UserError("a file of this name exists", place=str(path), cure="Choose another name, or open it")
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise UserError(f"the folder cannot be made ({error.strerror})", place=str(path.parent)) from error
        with _explained(path):
            db = sqlite3.connect(path, isolation_level=None)
            db.execute("PRAGMA page_size = 16384")
            db.execute(f"PRAGMA application_id = {APPLICATION_ID}")
        study = cls(path, db, False)
        study._prepare(0)
        return study

    @classmethod
    def open(cls, path: Path) -> Study:
        """An existing study, brought up to this version's tables; opened for reading only where it must be."""
        if not path.is_file():
            raise UserError("there is no such study", place=str(path), cure="Check the name")
        with _explained(path):
            with path.open("rb") as file:
                head = file.read(16)
            if head != b"SQLite format 3\0":
                raise UserError(
                    "this is not a study",
                    place=str(path),
                    cure="Studies end in .umber; a bibliography is added to a study with Add files",
                )
            db, read_only = _connected(path)
            identity = db.execute("PRAGMA application_id").fetchone()[0]
            version = db.execute("PRAGMA user_version").fetchone()[0]
            if identity != APPLICATION_ID:
                db.close()
                raise UserError(
                    "this is a database of another program, not a study", place=str(path), cure="Open a .umber file"
                )
            if version > VERSION:
                db.close()
                raise UserError(
                    f"this study was saved by a newer version (its format is {version}, this one reads {VERSION})",
                    place=str(path), cure="Install the newer version; nothing in the file was changed",
                )  # fmt: skip
        study = cls(path, db, read_only)
        study._prepare(version)
        return study

    def _prepare(self, version: int) -> None:
        with _explained(self.path):
            if self.read_only:
                if version < VERSION:
                    raise UserError(
                        "this study is of an older format and read-only, so it cannot be brought up to date",
                        place=str(self.path),
                        cure="Make a copy that can be written, and open that",
                    )
                return
            self._db.execute("PRAGMA journal_mode = WAL")
            self._db.execute("PRAGMA synchronous = NORMAL")
            self._db.execute("PRAGMA wal_autocheckpoint = 16000")  # pages: a large import is not written twice at once
            self._db.execute("PRAGMA cache_size = -256000")  # kB: an import is written once, not spilled
            for number in range(version, VERSION):
                with self._transaction() as db:
                    migration = MIGRATIONS[number]
                    if isinstance(migration, str):
                        for statement in migration.split(";"):
                            db.execute(statement)
                    else:
                        migration(db)
                    db.execute(f"PRAGMA user_version = {number + 1}")

    def close(self) -> None:
        self._db.close()

    def __enter__(self) -> Study:
        return self

    def __exit__(self, *error: object) -> None:
        self.close()

    @contextmanager
    def _transaction(self) -> Iterator[sqlite3.Connection]:
        if self.read_only:
            raise UserError(
                "this study can only be read, so nothing was changed",
                place=str(self.path),
                cure="Save a copy where you may write, and open that",
            )
        with _explained(self.path):
            self._db.execute("BEGIN IMMEDIATE")
            try:
                yield self._db
                self._db.execute("COMMIT")
            except BaseException:
                if self._db.in_transaction:
                    self._db.execute("ROLLBACK")
                raise

    # -- sources and records

    def add_sources(
        self,
        harvests: Iterable[Harvest],
        progress: Callable[[int], None] = lambda n: None,
        instead_of: Sequence[int] = (),
    ) -> tuple[Step | None, list[tuple[str, UserError]]]:
        """Add what is read, in one step, and take away the sources that it replaces.

        Returns the step and the sources that could not be read at all; there is no step when none could be read. When
        ``progress`` raises, or on any other failure, nothing is added.
        """
        failed: list[tuple[str, UserError]] = []
        ids, names = [], []
        with no_cycles(), self._transaction() as db:
            tables = {k: FormTable(self._forms(k)) for k in KINDS}
            for harvest in harvests:
                before = {k: len(t.forms) for k, t in tables.items()}
                db.execute("SAVEPOINT source")
                try:
                    ids.append(self._add_source(db, harvest, tables, progress))
                    names.append(harvest.source.name)
                except UserError as error:
                    db.execute("ROLLBACK TO source")
                    failed.append((harvest.name, error))
                    for kind, table in tables.items():
                        table.forget(before[kind])
                db.execute("RELEASE source")
            if not ids:
                return None, failed
            switch: tuple[tuple[str, tuple[int, ...], bool], ...] = (("held", tuple(ids), True),)
            if instead_of:
                switch += (("held", tuple(instead_of), False),)
            self._carry_out(db, Step("", switch[1:]), forward=True)
            more = f" and {len(names) - 4} more" if len(names) > 4 else ""
            label = f"{'replace' if instead_of else 'add'} {', '.join(names[:4])}{more}"
            return self._log(db, Step(label, switch)), failed

    def _add_source(
        self, db: sqlite3.Connection, harvest: Harvest, tables: dict[str, FormTable], progress: Callable[[int], None]
    ) -> int:
        first = db.execute("SELECT coalesce(max(id), 0) + 1 FROM record").fetchone()[0]
        added = (harvest.name, "", "", "", "", 0, _now(), first)
        cursor = db.execute(
            "INSERT INTO source (name, path, format, encoding, sha256, records, added, first) VALUES (?,?,?,?,?,?,?,?)",
            added,
        )
        number = int(cursor.lastrowid or 0)
        before = {k: len(t.forms) for k, t in tables.items()}
        taking = Columning(tables)
        records = iter(harvest)
        while batch := list(islice(records, BATCH)):
            progress(taking.count)
            start = first + taking.count
            db.executemany(
                "INSERT INTO record VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
                (_row(start + i, number, r) for i, r in enumerate(batch)),
            )
            db.executemany(
                "INSERT INTO passage VALUES (?, ?, ?, ?, ?)",
                (
                    (start + i, k, p.line, p.heading, p.text)
                    for i, r in enumerate(batch)
                    for k, p in enumerate(r.passages)
                ),
            )
            taking.take(batch)
        db.executemany(
            "INSERT INTO block VALUES (?, ?, ?)", ((number, *block) for block in taking.done().packed().items())
        )
        for kind, table in tables.items():
            fresh = table.forms[before[kind] :]
            if fresh:
                db.execute("INSERT INTO forms VALUES (?, ?, ?)", (kind, before[kind], Texts.of(fresh).packed()))
        s = harvest.source
        db.execute(
            "UPDATE source SET name=?, path=?, format=?, encoding=?, sha256=?, records=?, unit=?, reading=?, told=? WHERE id=?",
            (s.name, s.path, s.format, s.encoding, s.sha256, s.records, s.unit, s.reading, s.told, number),
        )
        db.executemany(
            "INSERT INTO problem VALUES (?, ?, ?, ?)", ((number, p.line, p.message, p.excerpt) for p in s.problems)
        )
        return number

    def _forms(self, kind: str) -> list[str]:
        blocks = self._db.execute("SELECT texts FROM forms WHERE kind = ? ORDER BY first", (kind,)).fetchall()
        return list(Texts.joined([Texts.unpacked(row[0]) for row in blocks])) if blocks else []

    def sources(self) -> tuple[Source, ...]:
        """Every source of the study, switched-off ones too; removed ones are gone from here until undone."""
        problems: dict[int, list[Problem]] = {}
        for number, line, message, excerpt in self._db.execute("SELECT * FROM problem"):
            problems.setdefault(number, []).append(Problem(line, message, excerpt))
        return tuple(
            Source(name, path, form, encoding, sha, count, tuple(problems.get(number, ())), number, bool(live), *rest)
            for number, name, path, form, encoding, sha, count, live, *rest in self._db.execute(
                "SELECT id, name, path, format, encoding, sha256, records, live, unit, reading, told FROM source "
                "WHERE held ORDER BY id"
            )
        )

    def corpus(self) -> Corpus:
        """The records of the sources that are switched on, joined and without what was excluded."""
        with _explained(self.path):
            sources = tuple(s for s in self.sources() if s.active)
            first = [self._db.execute("SELECT first FROM source WHERE id = ?", (s.id,)).fetchone()[0] for s in sources]
            forms = {kind: tuple(self._forms(kind)) for kind in KINDS}
            return assemble(sources, [self._columns(s.id) for s in sources], first, forms, self.decisions())

    def difference(self, old: int, new: int) -> Difference:
        """What a newer export of a source brought, by the numbers of both."""
        return compare_sources(self._columns(old), self._columns(new), {kind: self._forms(kind) for kind in KINDS})

    def _columns(self, source: int) -> Columns:
        return Columns.unpacked(dict(self._db.execute("SELECT name, data FROM block WHERE source = ?", (source,))))

    def record(self, number: int) -> RecordDetail:
        """One record in full, by its number."""
        row = self._db.execute(
            "SELECT r.id, s.name, s.path, r.line, r.type, r.title, r.date, r.doi, r.abstract, r.raw, r.abstract_at, "
            "r.extra FROM record r JOIN source s ON s.id = r.source WHERE r.id = ?", (number,),
        ).fetchone()  # fmt: skip
        number_, name, path, line, kind, title, date, doi, abstract, raw, at, extra = row
        text = raw[at : at + int(abstract)] if at >= 0 else abstract
        found = self._db.execute("SELECT text, line, heading FROM passage WHERE record = ? ORDER BY number", (number,))
        passages = tuple(Passage(*one) for one in found)
        more = orjson.loads(extra) if extra else {}
        return RecordDetail(number_, name, path, line, kind, title, date, doi, text, raw, more, passages)

    # -- decisions and recipe, and undoing them

    def decisions(self) -> tuple[Decision, ...]:
        """The decisions in force, in the order they were made."""
        return tuple(
            Decision(kind, what, form, preferred, scope, note, number, made, effect)
            for number, kind, what, form, preferred, scope, note, made, effect in self._db.execute(
                "SELECT id, kind, decision, form, preferred, scope, note, made, effect FROM decision WHERE live ORDER BY id"
            )
        )

    def recipe(self) -> str:
        """The recipe in force, as TOML; empty in a new study."""
        row = self._db.execute("SELECT value FROM meta WHERE key = 'recipe'").fetchone()
        return str(row[0]) if row else ""

    def decide(self, label: str, decisions: Sequence[Decision]) -> Step:
        """Add decisions to the ledger, as one step."""
        with self._transaction() as db:
            ids = []
            for d in decisions:
                cursor = db.execute(
                    "INSERT INTO decision (kind, decision, form, preferred, scope, note, made) VALUES (?,?,?,?,?,?,?)",
                    (d.kind, d.decision, d.form, d.preferred, d.scope, d.note, _now()),
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

    def _apply(self, step: Step) -> Step:
        with self._transaction() as db:
            self._carry_out(db, step, forward=True)
            return self._log(db, step)

    def _log(self, db: sqlite3.Connection, step: Step) -> Step:
        db.execute("DELETE FROM step WHERE NOT done")
        change = orjson.dumps({"switch": step.switch, "recipe": step.recipe}).decode()
        db.execute("INSERT INTO step (label, change, made) VALUES (?, ?, ?)", (step.label, change, _now()))
        return step

    @staticmethod
    def _carry_out(db: sqlite3.Connection, step: Step, *, forward: bool) -> None:
        for table, ids, to in step.switch:
            name, column = _SWITCHES[table]
            db.executemany(f"UPDATE {name} SET {column} = ? WHERE id = ?", ((int(to == forward), i) for i in ids))
        if step.recipe is not None:
            db.execute("INSERT OR REPLACE INTO meta VALUES ('recipe', ?)", (step.recipe[1 if forward else 0],))

    def steps(self) -> tuple[Step, ...]:
        """All steps in order; the undone ones stand at the end with ``done`` false."""
        found = []
        for number, label, change, done in self._db.execute("SELECT id, label, change, done FROM step ORDER BY id"):
            data = orjson.loads(change)
            switch = tuple((t, tuple(ids), bool(to)) for t, ids, to in data["switch"])
            recipe = (data["recipe"][0], data["recipe"][1]) if data["recipe"] else None
            found.append(Step(label, switch, recipe, number, bool(done)))
        return tuple(found)

    def undo(self) -> Step | None:
        """Take back the last step; None when there is none."""
        return self._move(next((s for s in reversed(self.steps()) if s.done), None), forward=False)

    def redo(self) -> Step | None:
        """Do again what was undone last; None when there is nothing."""
        return self._move(next((s for s in self.steps() if not s.done), None), forward=True)

    def _move(self, step: Step | None, *, forward: bool) -> Step | None:
        if step is not None:
            with self._transaction() as db:
                self._carry_out(db, step, forward=forward)
                db.execute("UPDATE step SET done = ? WHERE id = ?", (int(forward), step.id))
        return step

    # -- the remembered chart

    def memory(self) -> tuple[str, dict[str, Remembered], dict[int, int]]:
        """(key of the chart that is remembered, item → its place, topic from 0 → its hue slot)."""
        row = self._db.execute("SELECT value FROM meta WHERE key = 'memory'").fetchone()
        slots = self._db.execute("SELECT value FROM meta WHERE key = 'slots'").fetchone()
        items = {
            item: Remembered(x, y, topic, bool(pinned))
            for item, x, y, topic, pinned in self._db.execute("SELECT * FROM memory ORDER BY item")
        }
        hues = {int(topic): int(slot) for topic, slot in orjson.loads(slots[0] if slots else "[]")}
        return (str(row[0]) if row else ""), items, hues

    def remember(self, key: str, items: Mapping[str, Remembered], slots: Mapping[int, int]) -> None:
        """Keep the chart's places, so that it opens as it was left."""
        if self.read_only:
            return
        with self._transaction() as db:
            db.execute("DELETE FROM memory")
            db.executemany(
                "INSERT INTO memory VALUES (?, ?, ?, ?, ?)",
                ((k, m.x, m.y, m.topic, int(m.pinned)) for k, m in items.items()),
            )
            db.execute("INSERT OR REPLACE INTO meta VALUES ('memory', ?)", (key,))
            db.execute(
                "INSERT OR REPLACE INTO meta VALUES ('slots', ?)", (orjson.dumps(sorted(slots.items())).decode(),)
            )


def _connected(path: Path) -> tuple[sqlite3.Connection, bool]:
    """An open study, and whether it can only be read."""
    db = sqlite3.connect(path, isolation_level=None, timeout=10)
    try:
        db.execute("BEGIN IMMEDIATE")
        db.execute("ROLLBACK")
        return db, False
    except sqlite3.OperationalError as error:
        db.close()
        if "readonly" not in str(error) and "unable to open" not in str(error):
            raise
    waiting = path.with_name(path.name + "-wal")
    if waiting.exists() and waiting.stat().st_size:
        raise UserError(
            f"this study can only be read here, and its last steps still stand in {waiting.name}", place=str(path),
            cure="Copy both files where you may write, and open the copy",
        )  # fmt: skip
    return sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro&immutable=1", uri=True, isolation_level=None), True


def _row(number: int, source: int, r: RawRecord) -> tuple[object, ...]:
    """A row of the table record. An abstract that stands in the raw text as it is is not stored twice."""
    at = r.raw.find(r.abstract) if r.abstract else -1
    return (
        number, source, r.line, r.entry, r.type, r.title, r.year, r.date, r.doi, r.citations,
        str(len(r.abstract)) if at >= 0 else r.abstract, at,
        orjson.dumps(r.extra).decode() if r.extra else "", r.raw,
    )  # fmt: skip


def _now() -> str:
    return datetime.now(UTC).isoformat(timespec="seconds")


@contextmanager
def _explained(path: Path) -> Iterator[None]:
    """What SQLite and the system say, in words with a cure."""
    try:
        yield
    except sqlite3.Error as error:
        text = str(error)
        for sign, message, cure in _REASONS:
            if sign in text:
                raise UserError(message, place=str(path), cure=cure) from error
        raise UserError(f"the study cannot be used ({text})", place=str(path), cure="Open a copy of it") from error
    except OSError as error:
        raise UserError(f"the study cannot be read ({error.strerror})", place=str(path)) from error


_REASONS = (
    ("full", "the disk is full; the last step was not saved, all earlier ones were", "Free some space and try again"),
    ("disk I/O error", "the disk refused to write; the last step was not saved", "Check the disk and its free space"),
    ("readonly", "this study can only be read, so nothing was changed", "Save a copy where you may write"),
    ("unable to open", "the study cannot be opened or made here", "Check the folder and its permissions"),
    ("locked", "another program is writing to this study", "Close it there and try again"),
    ("malformed", "the study is damaged", "Open a backup; your sources are unchanged"),
    ("not a database", "this is not a study", "Studies end in .umber"),
)
