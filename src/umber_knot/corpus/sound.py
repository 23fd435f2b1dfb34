"""Whether a study is sound, and saving what can be read of one that is not."""

from __future__ import annotations

import contextlib
import shutil
import sqlite3
import tempfile
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import numpy as np
import orjson

from umber_knot.corpus.columns import NUMBERS, TEXTS, Columns
from umber_knot.corpus.model import KINDS
from umber_knot.corpus.study import Study
from umber_knot.errors import UserError

#: Tables a study has, each with the column that numbers its rows.
_TABLES = {
    "source": "id",
    "problem": "rowid",
    "record": "id",
    "passage": "record",
    "forms": "rowid",
    "block": "rowid",
    "decision": "id",
    "step": "id",
    "pin": "strand",
    "arrangement": "strand",
}
_CHUNK = 500
_UNKNOWN, _MOST = 5_000, 50_000_000  # rows looked for where a table does not tell, and at most
_LARGEST = 1 << 40


def check(study: Study) -> str:
    """What is damaged in a study, in words; empty where it is sound.

    Looks at the file's pages, at what the recipe, the ledger and the steps say, and whether the columns of every source
    are whole and refer to forms that are there.
    """
    db = study._db
    try:
        found = str(db.execute("PRAGMA quick_check(1)").fetchone()[0])
        if found != "ok":
            return found.splitlines()[-1]
        study.recipe(), study.decisions(), study.steps(), study.pins(), study.afresh()
        forms = {kind: _count(study, kind) for kind in KINDS}
        for source in study.sources():
            why = fault(study._columns(source.id), source.records, forms)
            if why:
                return f"source {source.name}: {why}"
    except UserError as error:
        return error.message.removeprefix("the study is damaged: ")
    except (sqlite3.Error, ValueError, IndexError, KeyError, TypeError) as error:
        return f"a part of it cannot be read ({error})"
    return ""


def _count(study: Study, kind: str) -> int:
    forms = study._forms(kind)
    str(forms.packed(), "utf-8", "surrogatepass")
    return len(forms)


def fault(columns: Columns, records: int, forms: dict[str, int]) -> str:
    """What is wrong with the columns of a source of so many records; empty where nothing is."""
    for name in TEXTS:
        if len(columns.texts[name]) != records:
            return f"{len(columns.texts[name]):,} of {records:,} values in {name}"
        str(columns.texts[name].packed(), "utf-8", "surrogatepass")
    for name in NUMBERS:
        if len(columns.numbers[name]) != records:
            return f"{len(columns.numbers[name]):,} of {records:,} values in {name}"
    for kind in KINDS:
        record, form, role = columns.mentions[kind]
        if len(form) != len(record) or len(role) not in (0, len(record)):
            return f"mentions of {kind} are incomplete"
        if _beyond(record, records) or _beyond(form, forms[kind]) or _beyond(role, 64):
            return f"mentions of {kind} refer to what is not there"
    if len(columns.identity[0]) != len(columns.identity[1]) or _beyond(columns.identity[0], records):
        return "identifiers refer to what is not there"
    if _beyond(columns.known.record, records) or _beyond(columns.known.form, forms["person"]):
        return "identifiers of people refer to what is not there"
    return ""


def _beyond(numbers: Any, below: int) -> bool:
    return bool(len(numbers)) and (int(np.min(numbers)) < 0 or int(np.max(numbers)) >= below)


def salvage(path: Path, to: Path, say: Callable[[str], None] = lambda what: None) -> str:
    """Save what can be read of a damaged study as a new one; what was lost, in words.

    Sources whose columns are whole are kept with their records; decisions and recipe as far as they can be read. The
    steps of undo begin anew. Raises UserError where nothing at all can be read; nothing is left at ``to`` then.
    """
    lost: list[str] = []
    try:
        with (
            _readable(path) as name,
            contextlib.closing(sqlite3.connect(name, uri=True)) as old,
            Study.create(to) as new,
        ):
            old.text_factory = lambda data: data.decode("utf-8", "replace")
            for table, key in _TABLES.items():
                say(f"saving {table}")
                missing = _copied(old, new._db, table, key) if table != "step" else 0
                if missing:
                    lost.append(f"{missing:,} rows of {table}")
            for name in ("recipe", "uuid"):
                with contextlib.suppress(sqlite3.Error):
                    for row in old.execute("SELECT value FROM meta WHERE key = ?", (name,)):
                        new._db.execute("INSERT OR REPLACE INTO meta VALUES (?, ?)", (name, row[0]))
            lost += _without_damaged(new)
            kept = sum(s.records for s in new.sources())
            if not kept and not new.decisions():
                raise UserError("nothing in this study can be read", place=str(path), cure="Open a backup")
            if check(new):
                raise UserError(
                    "what can be read of this study does not hold together", place=str(path), cure="Open a backup"
                )
    except BaseException as error:
        for left in (to, *(to.with_name(to.name + end) for end in ("-wal", "-shm"))):
            left.unlink(missing_ok=True)
        if isinstance(error, sqlite3.Error):
            raise UserError("nothing in this study can be read", place=str(path), cure="Open a backup") from error
        raise
    return f"lost: {', '.join(lost)}" if lost else "nothing was lost"


def _copied(old: sqlite3.Connection, new: sqlite3.Connection, table: str, key: str) -> int:
    """Copy the rows of a table, a chunk at a time and where that fails one by one; how many were lost."""
    names = [row[1] for row in new.execute(f"PRAGMA table_info({table})")]
    columns = ", ".join(names)
    put = f"INSERT OR IGNORE INTO {table} ({columns}) VALUES ({', '.join('?' * len(names))})"

    def copied(low: int, high: int) -> int:
        """Rows from one number up to another; where they cannot be read together, in halves."""
        try:
            rows = old.execute(f"SELECT {columns} FROM {table} WHERE {key} >= ? AND {key} < ?", (low, high)).fetchall()
        except sqlite3.Error:
            if high - low < 2:
                return 1
            middle = (low + high) // 2
            return copied(low, middle) + copied(middle, high)
        new.executemany(put, rows)
        return 0

    return sum(copied(low, high) for low, high in _ranges(old, table, key))


def _ranges(old: sqlite3.Connection, table: str, key: str) -> Iterator[tuple[int, int]]:
    """Numbers that rows may have, in chunks; as far as a damaged table can tell."""
    try:
        last = int(old.execute(f"SELECT max({key}) FROM {table}").fetchone()[0] or 0)
    except (sqlite3.Error, ValueError, TypeError):
        last = _UNKNOWN
    for low in range(0, min(last, _MOST) + 1, _CHUNK):
        yield low, min(low + _CHUNK, last + 1)


@contextlib.contextmanager
def _readable(path: Path) -> Iterator[str]:
    """The address of a study as SQLite can read it: of one whose end was cut off, a copy filled up with empty pages."""
    with path.open("rb") as file:
        head = file.read(100)
        size = file.seek(0, 2)
    page = int.from_bytes(head[16:18]) or 16384
    wanted = (65536 if page == 1 else page) * int.from_bytes(head[28:32])
    if not size < wanted < _LARGEST:
        yield f"{path.absolute().as_uri()}?mode=ro"
        return
    with tempfile.TemporaryDirectory() as folder:
        copy = Path(folder) / "copy"
        shutil.copyfile(path, copy)
        with copy.open("r+b") as file:
            file.truncate(wanted)
        yield f"{copy.as_uri()}?mode=ro"


def _without_damaged(new: Study) -> list[str]:
    """Drop sources whose columns are not whole, and decisions or recipe that say nothing; what was dropped."""
    lost = []
    db = new._db
    forms = {}
    for kind in KINDS:
        try:
            forms[kind] = _count(new, kind)
        except (sqlite3.Error, ValueError):
            db.execute("DELETE FROM forms WHERE kind = ?", (kind,))
            forms[kind] = 0
            lost.append(f"the spellings of every {kind}")
    for source in new.sources():
        try:
            why = fault(new._columns(source.id), source.records, forms)
        except (sqlite3.Error, ValueError, KeyError, IndexError, TypeError, UserError) as error:
            why = str(error)
        if why:
            lost.append(f"source {source.name} with {source.records:,} records")
            for table, column in (("record", "source"), ("block", "source"), ("problem", "source"), ("source", "id")):
                db.execute(f"DELETE FROM {table} WHERE {column} = ?", (source.id,))
    db.execute("DELETE FROM passage WHERE record NOT IN (SELECT id FROM record)")
    db.execute("UPDATE decision SET live = 0 WHERE typeof(form) <> 'text' OR typeof(live) <> 'integer'")
    try:
        orjson.dumps(new.recipe())
    except UserError:
        db.execute("DELETE FROM meta WHERE key = 'recipe'")
        lost.append("the recipe")
    return lost
