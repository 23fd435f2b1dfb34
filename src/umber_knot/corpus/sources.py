"""The sources of a study and their records: taken in while a file is read, given back as a corpus."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import islice
from typing import Protocol

import orjson

from umber_knot.corpus.anchors import own_name
from umber_knot.corpus.assemble import assemble
from umber_knot.corpus.bulk import no_cycles
from umber_knot.corpus.columns import Columning, Columns
from umber_knot.corpus.comparing import Difference, compare_sources
from umber_knot.corpus.file import decoding
from umber_knot.corpus.model import KINDS, Corpus, Decision, FormTable, Passage, Problem, RawRecord, Source
from umber_knot.corpus.steps import Step, Stepping, now
from umber_knot.corpus.texts import Texts
from umber_knot.corpus.written import Written, rows_by_number, written
from umber_knot.errors import UserError

BATCH = 2000  # records saved at a time


class Harvest(Protocol):
    """A source being read: iterate for its records; ``source`` says afterwards what it was and how it went."""

    name: str

    def __iter__(self) -> Iterator[RawRecord]: ...
    @property
    def source(self) -> Source: ...


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


class Gathered(Stepping):
    """A study's sources and records."""

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
            if instead_of:  # what was decided on records of the older export goes on counting for the newer
                switch += (("held", tuple(instead_of), False),)
                old = [db.execute("SELECT anchor FROM source WHERE id = ?", (n,)).fetchone()[0] for n in instead_of]
                db.executemany("UPDATE source SET anchor = ? WHERE id = ?", zip(old, ids))
            self._carry_out(db, Step("", switch[1:]), forward=True)
            more = f" and {len(names) - 4} more" if len(names) > 4 else ""
            label = f"{'replace' if instead_of else 'add'} {', '.join(names[:4])}{more}"
            return self._log(db, Step(label, switch)), failed

    def _add_source(
        self, db: sqlite3.Connection, harvest: Harvest, tables: dict[str, FormTable], progress: Callable[[int], None]
    ) -> int:
        first = db.execute("SELECT coalesce(max(id), 0) + 1 FROM record").fetchone()[0]
        cursor = db.execute(
            "INSERT INTO source (name, path, format, encoding, sha256, records, added, first) VALUES (?,'','','','',0,?,?)",
            (harvest.name, now(), first),
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
        taken = [row[0] for row in db.execute("SELECT anchor FROM source WHERE held AND id <> ?", (number,))]
        db.execute(
            "UPDATE source SET name=?, path=?, format=?, encoding=?, sha256=?, records=?, unit=?, reading=?, told=?, anchor=? WHERE id=?",
            (
                s.name,
                s.path,
                s.format,
                s.encoding,
                s.sha256,
                s.records,
                s.unit,
                s.reading,
                s.told,
                own_name(s.name, taken),
                number,
            ),
        )
        db.executemany(
            "INSERT INTO problem VALUES (?, ?, ?, ?)", ((number, p.line, p.message, p.excerpt) for p in s.problems)
        )
        return number

    def _forms(self, kind: str) -> Texts:
        blocks = self._db.execute("SELECT texts FROM forms WHERE kind = ? ORDER BY first", (kind,)).fetchall()
        return Texts.joined([Texts.unpacked(row[0]) for row in blocks]) if blocks else Texts.of(())

    def sources(self) -> tuple[Source, ...]:
        """Every source of the study, switched-off ones too; removed ones are gone from here until undone."""
        with decoding(self.path, "the sources"):
            return self._sources("held")

    def _sources(self, which: str) -> tuple[Source, ...]:
        problems: dict[int, list[Problem]] = {}
        for number, line, message, excerpt in self._db.execute("SELECT * FROM problem"):
            problems.setdefault(number, []).append(Problem(line, message, excerpt))
        return tuple(
            Source(name, path, form, encoding, sha, count, tuple(problems.get(number, ())), number, bool(live), *rest)
            for number, name, path, form, encoding, sha, count, live, *rest in self._db.execute(
                "SELECT id, name, path, format, encoding, sha256, records, live, unit, reading, told, anchor FROM source "
                f"WHERE {which} ORDER BY id"
            )
        )

    def corpus(self, of: Collection[int] | None = None, decisions: Sequence[Decision] | None = None) -> Corpus:
        """The records of the sources that are switched on, joined and without what was excluded; or of the sources and
        by the decisions of a state, wherever the study has come to since. Raises UserError where a source is gone."""
        with decoding(self.path, "the records"):
            if of is None:
                sources = tuple(s for s in self.sources() if s.active)
            else:
                sources = tuple(replace(s, active=True) for s in self._sources("1") if s.id in of)
                if len(sources) < len(of):
                    raise UserError(
                        "records that were asked for are no longer in the study; another program changed it"
                    )
            first = [self._db.execute("SELECT first FROM source WHERE id = ?", (s.id,)).fetchone()[0] for s in sources]
            forms = {kind: self._forms(kind) for kind in KINDS}
            columns = [self._columns(s.id) for s in sources]
            return assemble(sources, columns, first, forms, self.decisions() if decisions is None else decisions)

    def difference(self, old: int, new: int) -> Difference:
        """What a newer export of a source brought, by the numbers of both."""
        return compare_sources(self._columns(old), self._columns(new), {kind: self._forms(kind) for kind in KINDS})

    def texts(self, corpus: Corpus) -> Iterator[Written]:
        """What the records of a corpus of this study say, in their order."""
        with decoding(self.path, "the texts"):
            yield from written(corpus, self._own_texts)

    def text_of(self, corpus: Corpus, row: int) -> Written:
        """What one record of a corpus of this study says."""
        with decoding(self.path, "a text"):
            return next(written(corpus, self._own_texts, row, 1))

    def extras(self, corpus: Corpus) -> Iterator[tuple[int, Mapping[str, object]]]:
        """The further fields of the records of a corpus of this study, by row."""
        row = rows_by_number(corpus)
        with decoding(self.path, "the further fields"):
            for number, extra in self._db.execute("SELECT id, extra FROM record WHERE extra <> '' ORDER BY id"):
                if number in row:
                    yield row[number], orjson.loads(extra)

    def _own_texts(self, numbers: Sequence[int]) -> dict[int, tuple[str, list[Passage]]]:
        marks = ",".join("?" * len(numbers))
        passages: dict[int, list[Passage]] = {}
        for number, *one in self._db.execute(
            f"SELECT record, text, line, heading FROM passage WHERE record IN ({marks}) ORDER BY record, number",
            numbers,
        ):
            passages.setdefault(number, []).append(Passage(*one))
        return {
            number: (abstract, passages.get(number, []))
            for number, abstract in self._db.execute(
                "SELECT id, CASE WHEN abstract_at >= 0 THEN substr(raw, abstract_at + 1, CAST(abstract AS INTEGER)) "
                f"ELSE abstract END FROM record WHERE id IN ({marks})",
                numbers,
            )
        }

    def _columns(self, source: int) -> Columns:
        return Columns.unpacked(dict(self._db.execute("SELECT name, data FROM block WHERE source = ?", (source,))))

    def record(self, number: int) -> RecordDetail:
        """One record in full, by its number."""
        with decoding(self.path, f"record {number}"):
            return self._record(number)

    def _record(self, number: int) -> RecordDetail:
        row = self._db.execute(
            "SELECT r.id, s.name, s.path, r.line, r.type, r.title, r.date, r.doi, r.abstract, r.raw, r.abstract_at, "
            "r.extra FROM record r JOIN source s ON s.id = r.source WHERE r.id = ?",
            (number,),
        ).fetchone()
        number_, name, path, line, kind, title, date, doi, abstract, raw, at, extra = row
        text = raw[at : at + int(abstract)] if at >= 0 else abstract
        found = self._db.execute("SELECT text, line, heading FROM passage WHERE record = ? ORDER BY number", (number,))
        passages = tuple(Passage(*one) for one in found)
        more = orjson.loads(extra) if extra else {}
        return RecordDetail(number_, name, path, line, kind, title, date, doi, text, raw, more, passages)


def _row(number: int, source: int, r: RawRecord) -> tuple[object, ...]:
    """A row of the table record. An abstract that stands in the raw text as it is is not stored twice."""
    at = r.raw.find(r.abstract) if r.abstract else -1
    return (
        number,
        source,
        r.line,
        r.entry,
        r.type,
        r.title,
        r.year,
        r.date,
        r.doi,
        r.citations,
        str(len(r.abstract)) if at >= 0 else r.abstract,
        at,
        orjson.dumps(r.extra).decode() if r.extra else "",
        r.raw,
    )
