"""The tables of a study file, as the list of migrations that led to them; docs/study-format.md explains them.

Takes: a study of one version. Gives: the next. Each migration holds its own copy of the schema it leaves behind.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Callable

from umber_knot.corpus.migrations.anchors import to_anchors
from umber_knot.corpus.migrations.columns import to_columns

#: "UmbK" as a big-endian integer, SQLite's application_id.
APPLICATION_ID = 0x556D624B

#: Migration n takes a study from version n to n + 1; a new study runs them all.
MIGRATIONS: tuple[str | Callable[[sqlite3.Connection], None], ...] = (
    """
    CREATE TABLE meta (key TEXT PRIMARY KEY, value TEXT NOT NULL) WITHOUT ROWID;
    CREATE TABLE source (
        id INTEGER PRIMARY KEY, name TEXT NOT NULL, path TEXT NOT NULL, format TEXT NOT NULL,
        encoding TEXT NOT NULL, sha256 TEXT NOT NULL, records INTEGER NOT NULL, added TEXT NOT NULL,
        live INTEGER NOT NULL DEFAULT 1
    );
    CREATE TABLE problem (
        source INTEGER NOT NULL REFERENCES source, line INTEGER NOT NULL, message TEXT NOT NULL, excerpt TEXT NOT NULL
    );
    CREATE TABLE record (
        id INTEGER PRIMARY KEY, source INTEGER NOT NULL REFERENCES source, line INTEGER NOT NULL, entry TEXT NOT NULL,
        type TEXT NOT NULL, title TEXT NOT NULL, year INTEGER NOT NULL, date TEXT NOT NULL, doi TEXT NOT NULL,
        citations INTEGER NOT NULL, abstract TEXT NOT NULL, abstract_at INTEGER NOT NULL, extra TEXT NOT NULL, raw TEXT NOT NULL
    );
    CREATE TABLE form (
        kind TEXT NOT NULL, number INTEGER NOT NULL, text TEXT NOT NULL, PRIMARY KEY (kind, number)
    ) WITHOUT ROWID;
    CREATE TABLE mention (
        source INTEGER NOT NULL REFERENCES source, kind TEXT NOT NULL, records BLOB NOT NULL, forms BLOB NOT NULL,
        PRIMARY KEY (source, kind)
    );
    CREATE TABLE decision (
        id INTEGER PRIMARY KEY, kind TEXT NOT NULL, decision TEXT NOT NULL, form TEXT NOT NULL,
        preferred TEXT NOT NULL, scope TEXT NOT NULL, note TEXT NOT NULL, made TEXT NOT NULL,
        live INTEGER NOT NULL DEFAULT 1
    );
    CREATE TABLE step (
        id INTEGER PRIMARY KEY, label TEXT NOT NULL, change TEXT NOT NULL, made TEXT NOT NULL,
        done INTEGER NOT NULL DEFAULT 1
    );
    """,
    """
    CREATE TABLE memory (
        item TEXT PRIMARY KEY, x REAL NOT NULL, y REAL NOT NULL, topic INTEGER NOT NULL, pinned INTEGER NOT NULL
    ) WITHOUT ROWID;
    """,
    to_columns,
    "ALTER TABLE decision ADD COLUMN effect TEXT NOT NULL DEFAULT '';",
    to_anchors,
)
VERSION = len(MIGRATIONS)
