"""The tables of a study file, as the list of migrations that led to them; docs/study-format.md explains them."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable

#: "UmbK" as a big-endian integer, SQLite's application_id.
APPLICATION_ID = 0x556D624B

_COLUMNS = """
    ALTER TABLE source ADD COLUMN unit TEXT NOT NULL DEFAULT 'line';
    ALTER TABLE source ADD COLUMN reading TEXT NOT NULL DEFAULT '';
    ALTER TABLE source ADD COLUMN told TEXT NOT NULL DEFAULT '';
    ALTER TABLE source ADD COLUMN held INTEGER NOT NULL DEFAULT 1;
    ALTER TABLE source ADD COLUMN first INTEGER NOT NULL DEFAULT 1;
    CREATE TABLE block (source INTEGER NOT NULL REFERENCES source, name TEXT NOT NULL, data BLOB NOT NULL,
        PRIMARY KEY (source, name));
    CREATE TABLE forms (kind TEXT NOT NULL, first INTEGER NOT NULL, texts BLOB NOT NULL, PRIMARY KEY (kind, first));
    CREATE TABLE passage (
        record INTEGER NOT NULL REFERENCES record, number INTEGER NOT NULL, line INTEGER NOT NULL,
        heading TEXT NOT NULL, text TEXT NOT NULL, PRIMARY KEY (record, number)
    ) WITHOUT ROWID;
    """


def _to_columns(db: sqlite3.Connection) -> None:
    """Version 3: forms and the columns of records as blocks of bytes, so that a million records open at once."""
    import numpy as np

    from umber_knot.corpus.columns import Columning
    from umber_knot.corpus.model import KINDS, FormTable, RawRecord
    from umber_knot.corpus.texts import Texts

    for statement in _COLUMNS.split(";"):
        db.execute(statement)
    forms = {}
    for kind in KINDS:
        texts = [row[0] for row in db.execute("SELECT text FROM form WHERE kind = ? ORDER BY number", (kind,))]
        forms[kind] = FormTable(texts)
        if texts:
            db.execute("INSERT INTO forms VALUES (?, 0, ?)", (kind, Texts.of(texts).packed()))
    lists = {"person": "persons", "keyword": "keywords", "institution": "institutions", "reference": "references"}
    for (source,) in db.execute("SELECT id FROM source ORDER BY id").fetchall():
        rows = db.execute(
            "SELECT id, line, entry, type, title, year, date, doi, citations FROM record WHERE source = ? ORDER BY id",
            (source,),
        ).fetchall()
        records = [RawRecord(line, "", entry, kind, title, year, date, doi, "", citations)
                   for _, line, entry, kind, title, year, date, doi, citations in rows]  # fmt: skip
        first = rows[0][0] if rows else 1
        for kind, record_blob, form_blob in db.execute(
            "SELECT kind, records, forms FROM mention WHERE source = ?", (source,)
        ).fetchall():
            for r, f in zip(np.frombuffer(record_blob, "<i4").tolist(), np.frombuffer(form_blob, "<i4").tolist()):
                text, record = forms[kind].forms[f], records[r - first]
                if kind == "venue":
                    record.venue = text
                else:
                    setattr(record, lists[kind], [*getattr(record, lists[kind]), text])
        taking = Columning(forms)
        taking.take(records)
        db.execute("UPDATE source SET first = ? WHERE id = ?", (first, source))
        db.executemany("INSERT INTO block VALUES (?, ?, ?)", ((source, *b) for b in taking.done().packed().items()))
    db.execute("DROP TABLE form")
    db.execute("DROP TABLE mention")


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
    _to_columns,
    "ALTER TABLE decision ADD COLUMN effect TEXT NOT NULL DEFAULT '';",
)
VERSION = len(MIGRATIONS)
