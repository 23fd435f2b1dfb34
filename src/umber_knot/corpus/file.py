"""The study file itself: opening and making it, bringing it up to date, transactions, and faults in words.

Every public method that writes does so in one transaction, so a crash costs at most the step in hand.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from types import TracebackType
from typing import Self

from umber_knot.corpus.migrations import APPLICATION_ID, MIGRATIONS, VERSION
from umber_knot.errors import UserError

#: Seconds a connection waits for another's lock; the window's waits for WINDOW only.
WAIT, WINDOW = 10.0, 0.08
HEAD = b"SQLite format 3\0"


class DamagedStudy(UserError):
    """A study of which parts cannot be read; what can be may be saved into a new one (see ``salvage``)."""


class StudyFile:
    """An open study file. Use ``create`` or ``open``; close it when done."""

    def __init__(self, path: Path, db: sqlite3.Connection, read_only: bool) -> None:
        self.path, self.read_only = path, read_only
        self._db = db

    @classmethod
    def create(cls, path: Path) -> Self:
        """A new, empty study; the file must not exist."""
        if path.exists():
            raise UserError("a file of this name exists", place=str(path), cure="Choose another name, or open it")
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise UserError(f"the folder cannot be made ({error.strerror})", place=str(path.parent)) from error
        with explained(path):
            db = sqlite3.connect(path, isolation_level=None)
            db.execute("PRAGMA page_size = 16384")
            db.execute(f"PRAGMA application_id = {APPLICATION_ID}")
        study = cls(path, db, False)
        study._prepare(0)
        return study

    @classmethod
    def open(cls, path: Path, wait: float = WAIT) -> Self:
        """An existing study, brought up to this version's tables; opened for reading only where it must be.

        ``wait`` is how many seconds a step waits while another process writes.
        """
        if not path.is_file():
            raise UserError("there is no such study", place=str(path), cure="Check the name")
        with explained(path):
            with path.open("rb") as file:
                head = file.read(16)
            if head != HEAD:
                raise UserError(
                    "this is not a study",
                    place=str(path),
                    cure="Studies end in .umber; a bibliography is added to a study with Add files",
                )
            db, read_only = _connected(path, wait)
            try:
                version = _version(path, db)
            except BaseException:
                db.close()
                raise
        study = cls(path, db, read_only)
        study._prepare(version)
        return study

    def _prepare(self, version: int) -> None:
        with explained(self.path):
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
            if 0 < version < VERSION:
                self.copy_to(kept_copy(self.path, version))
            for number in range(version, VERSION):
                with self._transaction() as db:
                    migration = MIGRATIONS[number]
                    if isinstance(migration, str):
                        for statement in migration.split(";"):
                            db.execute(statement)
                    else:
                        migration(db)
                    db.execute(f"PRAGMA user_version = {number + 1}")

    @property
    def uuid(self) -> str:
        """What tells this study from every other, whatever its path."""
        row = self._db.execute("SELECT value FROM meta WHERE key = 'uuid'").fetchone()
        return str(row[0]) if row else ""

    def copy_to(self, path: Path) -> None:
        """A copy of the study as it stands, last steps included; an existing file is not written over.

        Raises UserError where the copy cannot be written; nothing half-written is left behind.
        """
        if path.exists():
            raise UserError("a file of this name exists", place=str(path), cure="Choose another name")
        part = path.with_name(f".{path.name}.part")
        part.unlink(missing_ok=True)
        try:
            with explained(path):
                target = sqlite3.connect(part, isolation_level=None)
                try:
                    self._db.backup(target)
                    target.execute("PRAGMA journal_mode = DELETE")
                finally:
                    target.close()
                part.rename(path)
        finally:
            part.unlink(missing_ok=True)

    def close(self) -> None:
        self._db.close()

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.close()

    @contextmanager
    def _transaction(self) -> Iterator[sqlite3.Connection]:
        if self.read_only:
            raise UserError(
                "this study can only be read, so nothing was changed",
                place=str(self.path),
                cure="Save a copy where you may write, and open that",
            )
        with explained(self.path):
            self._db.execute("BEGIN IMMEDIATE")
            try:
                yield self._db
                self._db.execute("COMMIT")
            except BaseException:
                if self._db.in_transaction:
                    self._db.execute("ROLLBACK")
                raise


def older(path: Path) -> bool:
    """Whether a file is a study of an older format that can be brought up to date. It is only looked at."""
    try:
        with path.open("rb") as file:
            head = file.read(100)
    except OSError:
        return False
    version, identity = (int.from_bytes(head[at : at + 4]) for at in (60, 68))  # as SQLite's file format has them
    return head.startswith(HEAD) and identity == APPLICATION_ID and 0 < version < VERSION


def kept_copy(path: Path, version: int) -> Path:
    """Where the copy of a study is kept before it is brought up to date: a name that is free."""
    name, k = f"{path.stem} (version {version}){path.suffix}", 2
    while path.with_name(name).exists():
        name, k = f"{path.stem} (version {version}, {k}){path.suffix}", k + 1
    return path.with_name(name)


def _version(path: Path, db: sqlite3.Connection) -> int:
    """The version of a study's tables; UserError where it is no study, or a newer one."""
    if db.execute("PRAGMA application_id").fetchone()[0] != APPLICATION_ID:
        raise UserError(
            "this is a database of another program, not a study", place=str(path), cure="Open a .umber file"
        )
    version = int(db.execute("PRAGMA user_version").fetchone()[0])
    if version > VERSION:
        raise UserError(
            f"this study was saved by a newer version (its format is {version}, this one reads {VERSION})",
            place=str(path),
            cure="Install the newer version; nothing in the file was changed",
        )
    return version


def _connected(path: Path, wait: float) -> tuple[sqlite3.Connection, bool]:
    """An open study, and whether it can only be read."""
    db = sqlite3.connect(path, isolation_level=None, timeout=wait)
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
            f"this study can only be read here, and its last steps still stand in {waiting.name}",
            place=str(path),
            cure="Copy both files where you may write, and open the copy",
        )
    return sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro&immutable=1", uri=True, isolation_level=None), True


@contextmanager
def explained(path: Path) -> Iterator[None]:
    """What SQLite and the system say, in words with a cure; what cannot be decoded is damage."""
    try:
        yield
    except sqlite3.Error as error:
        text = str(error)
        for sign, message, cure in _REASONS:
            if sign in text:
                kind = DamagedStudy if message.startswith("the study is damaged") else UserError
                raise kind(message, place=str(path), cure=cure) from error
        raise UserError(f"the study cannot be used ({text})", place=str(path), cure="Open a copy of it") from error
    except OSError as error:
        raise UserError(f"the study cannot be read ({error.strerror})", place=str(path)) from error


@contextmanager
def decoding(path: Path, what: str) -> Iterator[None]:
    """Reading what the study holds: bytes that mean nothing are damage, said with what they belong to."""
    try:
        with explained(path):
            yield
    except (ValueError, IndexError, KeyError, TypeError, OverflowError) as error:
        raise DamagedStudy(
            f"the study is damaged: {what} cannot be read ({error})", place=str(path), cure=SALVAGE
        ) from error


SALVAGE = "Save what can be read into a new study; this file stays as it is"
_REASONS = (
    ("full", "the disk is full; the last step was not saved, all earlier ones were", "Free some space and try again"),
    ("disk I/O error", "the disk refused to write; the last step was not saved", "Check the disk and its free space"),
    ("readonly", "this study can only be read, so nothing was changed", "Save a copy where you may write"),
    ("unable to open", "the study cannot be opened or made here", "Check the folder and its permissions"),
    ("locked", "another program is writing to this study", "Close it there and try again"),
    ("malformed", "the study is damaged", SALVAGE),
    ("no such table", "the study is damaged: a table is missing", SALVAGE),
    ("no such column", "the study is damaged: a column is missing", SALVAGE),
    ("decode", "the study is damaged: a text in it is no text", SALVAGE),
    ("not a database", "this is not a study", "Studies end in .umber"),
)
