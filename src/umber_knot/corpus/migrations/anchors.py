"""Version 5: records are named by anchors, strands remember their own charts, a study has an identity of its own."""

from __future__ import annotations

import sqlite3
import tomllib
import uuid
from typing import Any

import numpy as np
import orjson

from umber_knot.corpus.anchors import anchor, fingerprint, numbered, own_name
from umber_knot.corpus.days import span

_TABLES = """
    ALTER TABLE source ADD COLUMN anchor TEXT NOT NULL DEFAULT '';
    CREATE TABLE pin (
        strand INTEGER NOT NULL, arrangement TEXT NOT NULL, kind TEXT NOT NULL, form TEXT NOT NULL,
        x REAL NOT NULL, y REAL NOT NULL, PRIMARY KEY (strand, arrangement, kind, form)
    ) WITHOUT ROWID;
    CREATE TABLE arrangement (
        strand INTEGER NOT NULL, name TEXT NOT NULL, afresh INTEGER NOT NULL, PRIMARY KEY (strand, name)
    ) WITHOUT ROWID;
    CREATE TABLE remembered (
        strand INTEGER NOT NULL, what TEXT NOT NULL, name TEXT NOT NULL, base TEXT NOT NULL, used INTEGER NOT NULL,
        data BLOB NOT NULL, PRIMARY KEY (strand, what, name, base)
    );
    """


def to_anchors(db: sqlite3.Connection) -> None:
    """Anchors for records and sources, decisions that name records by them, and the remembered chart per strand."""
    for statement in _TABLES.split(";"):
        db.execute(statement)
    db.execute("INSERT INTO meta VALUES ('uuid', ?)", (uuid.uuid4().hex,))
    persons = [
        text
        for (blob,) in db.execute("SELECT texts FROM forms WHERE kind = 'person' ORDER BY first")
        for text in _texts(blob)
    ]
    named: dict[str, set[str]] = {}  # name:line → anchors
    taken: list[str] = []
    for source, name, held in db.execute("SELECT id, name, held FROM source ORDER BY held DESC, id").fetchall():
        own = own_name(name, taken if held else [])
        taken += [own] * held
        db.execute("UPDATE source SET anchor = ? WHERE id = ?", (own, source))
        blocks = dict(db.execute("SELECT name, data FROM block WHERE source = ?", (source,)))
        fresh = _columns(blocks, persons)
        db.executemany("INSERT INTO block VALUES (?, ?, ?)", ((source, k, v.tobytes()) for k, v in fresh.items()))
        if held:
            for line, print_ in zip(np.frombuffer(blocks["line"], "<i4").tolist(), fresh["print"].tolist()):
                named.setdefault(f"{name}:{line}", set()).add(anchor(own, print_))
    _name_by_anchor(db, {text: next(iter(anchors)) for text, anchors in named.items() if len(anchors) == 1})
    _keep_the_chart(db)


def _texts(blob: bytes) -> list[str]:
    return blob.decode("utf-8", "surrogatepass").split("\n")[:-1]


def _columns(blocks: dict[str, bytes], persons: list[str]) -> dict[str, Any]:
    """Fingerprint, first and last day of every record of a source."""
    texts = {name: _texts(blocks[name]) for name in ("title", "entry", "date", "volume", "pages")}
    year = np.frombuffer(blocks["year"], "<i4").tolist()
    n = len(year)
    first_person, identity = [""] * n, [0] * n
    record, form = (np.frombuffer(blocks.get(f"person {what}", b""), "<i4").tolist() for what in ("record", "form"))
    role = np.frombuffer(blocks.get("person role", b""), "i1").tolist() or [0] * len(record)
    for r, f, plain in zip(record[::-1], form[::-1], role[::-1]):
        if not plain:
            first_person[r] = persons[f]
    keys = np.frombuffer(blocks["identity key"], "<i8").tolist()
    for r, k in zip(np.frombuffer(blocks["identity record"], "<i4").tolist()[::-1], keys[::-1]):
        identity[r] = k
    prints = [
        fingerprint(
            identity[k],
            texts["title"][k],
            year[k],
            first_person[k],
            volume=texts["volume"][k],
            pages=texts["pages"][k],
            entry=texts["entry"][k],
            date=texts["date"][k],
        )
        for k in range(n)
    ]
    days = np.array([span(d, y) for d, y in zip(texts["date"], year)], "<i4").reshape(-1, 2)
    return {
        "print": numbered(np.array(prints, "<i8")),
        "begin": np.ascontiguousarray(days[:, 0]),
        "end": np.ascontiguousarray(days[:, 1]),
    }


def _name_by_anchor(db: sqlite3.Connection, anchors: dict[str, str]) -> None:
    """Decisions that named a record by source and line name it by its anchor, where that was one record alone."""
    for number, form, preferred in db.execute(
        "SELECT id, form, preferred FROM decision WHERE kind = 'record' AND scope <> 'rule'"
    ).fetchall():
        renamed = anchors.get(form, form), anchors.get(preferred, preferred)
        db.execute("UPDATE decision SET form = ?, preferred = ? WHERE id = ?", (*renamed, number))
    for number, scope in db.execute(
        "SELECT id, scope FROM decision WHERE decision = 'split' AND scope NOT IN ('', 'rule')"
    ).fetchall():
        parts = [part.strip() for part in scope.split("|")]
        db.execute("UPDATE decision SET scope = ? WHERE id = ?", (" | ".join(anchors.get(p, p) for p in parts), number))


def _keep_the_chart(db: sqlite3.Connection) -> None:
    """The chart as it was left, as the first strand's: its kind is the recipe's, its items were told by label."""
    meta = dict(db.execute("SELECT key, value FROM meta WHERE key IN ('slots', 'recipe')"))
    kind = tomllib.loads(meta.get("recipe", "")).get("relate", {}).get("of", "person")
    rows = db.execute("SELECT item, x, y, topic, pinned FROM memory ORDER BY item").fetchall()
    if rows:
        items = {"kind": [kind] * len(rows), "form": [row[0] for row in rows]}
        places = items | {"x": [row[1] for row in rows], "y": [row[2] for row in rows]}
        slots = [[int(t), int(s)] for t, s in orjson.loads(meta.get("slots", "[]"))]
        identities = items | {"topic": [row[3] - 1 for row in rows], "slots": slots}
        for n, (what, name, data) in enumerate((("places", "Spread", places), ("identities", "Topics", identities)), 1):
            db.execute("INSERT INTO remembered VALUES (1, ?, ?, '', ?, ?)", (what, name, n, orjson.dumps(data)))
        db.executemany(
            "INSERT INTO pin VALUES (1, 'Spread', ?, ?, ?, ?)",
            ((kind, item, x, y) for item, x, y, _, pinned in rows if pinned),
        )
    db.execute("DROP TABLE memory")
    db.execute("DELETE FROM meta WHERE key IN ('memory', 'slots')")
