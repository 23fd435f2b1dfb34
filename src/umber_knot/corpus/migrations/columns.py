"""Version 3: forms and the columns of records as blocks of bytes, so that a million records open at once."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable
from typing import Any

import numpy as np

from umber_knot.corpus.letters import plain_words
from umber_knot.corpus.likeness import SHORTEST_TITLE, bare_doi, family_of, key

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


_KINDS = ("person", "keyword", "venue", "institution", "place", "country", "reference")


def to_columns(db: sqlite3.Connection) -> None:
    """From rows of forms and mentions to blocks."""
    for statement in _COLUMNS.split(";"):
        db.execute(statement)
    for kind in _KINDS:
        texts = [row[0] for row in db.execute("SELECT text FROM form WHERE kind = ? ORDER BY number", (kind,))]
        if texts:
            db.execute("INSERT INTO forms VALUES (?, 0, ?)", (kind, _lines(texts)))
    for (source,) in db.execute("SELECT id FROM source ORDER BY id").fetchall():
        rows = db.execute(
            "SELECT id, line, entry, type, title, year, date, doi, citations FROM record WHERE source = ? ORDER BY id",
            (source,),
        ).fetchall()
        first = rows[0][0] if rows else 1
        blocks = _blocks(rows)
        persons: dict[int, int] = {}
        for kind, records, forms in db.execute(
            "SELECT kind, records, forms FROM mention WHERE source = ?", (source,)
        ).fetchall():
            record = np.frombuffer(records, "<i4") - first
            blocks[f"{kind} record"], blocks[f"{kind} form"] = record.astype("<i4").tobytes(), forms
            if kind == "person":
                for r, f in zip(record.tolist()[::-1], np.frombuffer(forms, "<i4").tolist()[::-1]):
                    persons[r] = f
        blocks["likeness"] = _likeness(db, rows, persons).astype("<i8").tobytes()
        db.execute("UPDATE source SET first = ? WHERE id = ?", (first, source))
        db.executemany("INSERT INTO block VALUES (?, ?, ?)", ((source, *b) for b in blocks.items()))
    db.execute("DROP TABLE form")
    db.execute("DROP TABLE mention")


def _lines(texts: list[str]) -> bytes:
    return "".join(text.replace("\n", " ") + "\n" for text in texts).encode("utf-8", "surrogatepass")


def _blocks(rows: list[Any]) -> dict[str, bytes]:
    """The blocks of a source's own columns; columns that version 2 did not know are empty."""
    dois = [bare_doi(row[7]) or row[7] for row in rows]
    texts: dict[str, Callable[[Any], str]] = {
        "title": lambda r: r[4],
        "entry": lambda r: r[2],
        "date": lambda r: r[6],
        "type": lambda r: r[3],
    }
    blocks = {name: _lines([get(row) for row in rows]) for name, get in texts.items()}
    blocks |= {name: _lines([""] * len(rows)) for name in ("language", "volume", "pages")}
    blocks["doi"] = _lines(dois)
    for name, at in (("line", 1), ("year", 5), ("citations", 8)):
        blocks[name] = np.array([row[at] for row in rows], "<i4").tobytes()
    blocks["weight"] = np.ones(len(rows), "<f8").tobytes()
    blocks["passages"] = np.zeros(len(rows), "<i4").tobytes()
    named = [(n, key(f"doi:{bare_doi(row[7])}")) for n, row in enumerate(rows) if bare_doi(row[7])]
    blocks["identity record"] = np.array([n for n, _ in named], "<i4").tobytes()
    blocks["identity key"] = np.array([k for _, k in named], "<i8").tobytes()
    return blocks


def _likeness(db: sqlite3.Connection, rows: list[Any], persons: dict[int, int]) -> Any:
    """Key of title, year and first author of each record, 0 where one is missing."""
    wanted = dict(db.execute("SELECT number, text FROM form WHERE kind = 'person'"))
    return np.array(
        [
            key(f"{plain_words(row[4])}|{row[5]}|{family_of(wanted[persons[n]])}")
            if len(row[4]) >= SHORTEST_TITLE and row[5] and n in persons
            else 0
            for n, row in enumerate(rows)
        ],
        np.int64,
    )
