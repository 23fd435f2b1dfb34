"""The study file: round trip, steps, migrations, faults, and being killed in the middle."""

import os
import signal
import sqlite3
import subprocess
import sys
import time

import numpy as np
import pytest
from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, invariant, rule

from tests.conftest import Gathered
from tests.damaging import write_damaged
from umber_knot.corpus.file import DamagedStudy
from umber_knot.corpus.migrations import APPLICATION_ID, MIGRATIONS, VERSION
from umber_knot.corpus.model import Decision
from umber_knot.corpus.sound import check, salvage
from umber_knot.corpus.study import Study
from umber_knot.errors import UserError


def test_a_study_gives_back_the_corpus_it_was_given(study_path, corpus):
    with Study.open(study_path) as study:
        back = study.corpus()
    assert back.title == corpus.title and back.entry == corpus.entry
    for name in ("year", "citations", "line", "source"):
        assert np.array_equal(getattr(back, name), getattr(corpus, name))
    for kind, mentions in corpus.mentions.items():
        assert back.of(kind).forms == mentions.forms
        assert np.array_equal(back.of(kind).record, mentions.record)
        assert np.array_equal(back.of(kind).form, mentions.form)


def test_a_source_switched_off_leaves_and_comes_back(study_path, corpus):
    with Study.open(study_path) as study:
        first = study.sources()[0]
        study.switch_sources("off", [first.id], False)
        without = study.corpus()
        assert len(corpus) - first.records <= len(without) < len(corpus)
        assert without.of("person").record.max() < len(without)
        study.undo()
        assert study.corpus().title == corpus.title


def test_failure_while_adding_leaves_the_study_as_it_was(study_path, corpus):
    from umber_knot.corpus.model import RawRecord

    class Enough(Exception):
        pass

    def stop(done):
        if done:
            raise Enough

    with Study.open(study_path) as study:
        source = study.sources()[0]
        with pytest.raises(Enough):
            study.add_sources([Gathered(source, [RawRecord(1, title=f"t{k}") for k in range(5000)])], stop)
        assert len(study.corpus()) == len(corpus) and len(study.sources()) == 4


class Steps(RuleBasedStateMachine):
    """Undo and redo against a plain list of states."""

    def __init__(self):
        super().__init__()
        self.study = Study("memory", sqlite3.connect(":memory:", isolation_level=None), False)
        self.study._prepare(0)
        self.states, self.at = [((), "")], 0

    def state(self):
        return tuple((d.decision, d.form) for d in self.study.decisions()), self.study.recipe()

    def push(self):
        self.states = [*self.states[: self.at + 1], self.state()]
        self.at += 1

    @rule(form=st.sampled_from("abc"), n=st.integers(1, 3))
    def decide(self, form, n):
        self.study.decide("d", [Decision("keyword", "aside", form)] * n)
        self.push()

    @rule(text=st.sampled_from(["x = 1", "y = 2"]))
    def recipe(self, text):
        self.study.set_recipe("r", text)
        self.push()

    @rule()
    def withdraw(self):
        live = self.study.decisions()
        if live:
            self.study.withdraw("w", [live[0].id])
            self.push()

    @rule()
    def undo(self):
        if (self.study.undo() is None) == (self.at == 0):
            self.at -= self.at > 0

    @rule()
    def redo(self):
        if self.study.redo() is not None:
            self.at += 1

    @invariant()
    def same(self):
        assert self.state() == self.states[self.at]


TestSteps = Steps.TestCase
TestSteps.settings = settings(max_examples=40, stateful_step_count=25)


def test_an_older_study_is_brought_up_to_date(tmp_path):
    path = tmp_path / "old.umber"
    db = sqlite3.connect(path, isolation_level=None)
    db.execute(f"PRAGMA application_id = {APPLICATION_ID}")
    db.executescript(MIGRATIONS[0] + "PRAGMA user_version = 1;")
    db.close()
    with Study.open(path) as study:
        assert study.sources() == () and study.uuid
    assert sqlite3.connect(path).execute("PRAGMA user_version").fetchone()[0] == VERSION


def make_newer(path):
    Study.create(path).close()
    db = sqlite3.connect(path)
    db.execute(f"PRAGMA user_version = {VERSION + 5}")
    db.commit()
    db.close()


@pytest.mark.parametrize(
    ("make", "says"),
    [
        (lambda p: p.write_text("@article{a}"), "not a study"),
        (lambda p: sqlite3.connect(p).execute("CREATE TABLE a (b)"), "another program"),
        (make_newer, "newer version"),
        (lambda p: None, "no such study"),
        (lambda p: p.write_bytes(b"SQLite format 3\0" + b"\xff" * 4096), "study"),
    ],
)
def test_files_that_are_no_study_say_so(tmp_path, make, says):
    path = tmp_path / "x.umber"
    make(path)
    before = path.read_bytes() if path.exists() else None
    with pytest.raises(UserError, match=says) as error:
        Study.open(path)
    assert str(path) in str(error.value)
    assert before is None or path.read_bytes() == before


def test_an_existing_file_is_never_made_into_a_new_study(tmp_path):
    path = tmp_path / "x.umber"
    path.write_text("mine")
    with pytest.raises(UserError, match="exists"):
        Study.create(path)
    assert path.read_text() == "mine"


def test_a_read_only_study_opens_and_refuses_changes(study_path, monkeypatch):
    if os.geteuid() == 0:  # root may write anywhere: SQLite is made to say what it says to others
        connect = sqlite3.connect

        class Refusing(sqlite3.Connection):
            def execute(self, sql, *parameters):
                if sql.startswith("BEGIN"):
                    raise sqlite3.OperationalError("unable to open database file")
                return super().execute(sql, *parameters)

        def guarded(path, **options):
            return connect(path, factory=sqlite3.Connection if options.get("uri") else Refusing, **options)

        monkeypatch.setattr(sqlite3, "connect", guarded)
    study_path.chmod(0o444)
    study_path.parent.chmod(0o555)
    try:
        with Study.open(study_path) as study, pytest.raises(UserError, match="only be read"):
            assert study.read_only and len(study.corpus()) == 1200
            study.decide("x", [Decision("keyword", "aside", "tide")])
    finally:
        study_path.parent.chmod(0o755)


def test_a_full_disk_costs_only_the_step_in_hand(study_path):
    with Study.open(study_path) as study:
        study.decide("first", [Decision("keyword", "aside", "tide")])
        pages = study._db.execute("PRAGMA page_count").fetchone()[0]
        study._db.execute(f"PRAGMA max_page_count = {pages}")  # SQLite then says what it says on a full disk
        with pytest.raises(UserError, match="disk is full"):
            study.decide("second", [Decision("keyword", "merge", "x" * 5000, "y" * 5000)] * 50)
    with Study.open(study_path) as study:
        assert [d.form for d in study.decisions()] == ["tide"]


def test_killed_at_any_moment_it_opens_with_whole_steps(study_path):
    """A writer is killed ten times at random moments; each time the study holds whole steps only."""
    code = (
        "import sys; from pathlib import Path; from umber_knot.corpus.study import Study; from umber_knot.corpus.model import Decision\n"
        "study = Study.open(Path(sys.argv[1]))\n"
        "n = len(study.decisions())\n"
        "while True:\n"
        "    study.decide('pair', [Decision('keyword', 'aside', f'a{n}'), Decision('keyword', 'aside', f'b{n}')]); n += 2\n"
        "    print(n, flush=True)\n"
    )
    saved = 0
    for round_ in range(10):
        writer = subprocess.Popen([sys.executable, "-c", code, str(study_path)], stdout=subprocess.PIPE, text=True)
        writer.stdout.readline()
        time.sleep(0.004 * round_)
        os.kill(writer.pid, signal.SIGKILL)
        said = writer.stdout.read().split()
        writer.wait()
        with Study.open(study_path) as study:
            n = len(study.decisions())
            assert n % 2 == 0 and n >= saved
            if said and said[-1].isdigit():
                assert n >= int(said[-1])
            saved = n
    assert saved > 20


@pytest.mark.parametrize("seed", range(12))
def test_a_damaged_study_opens_whole_or_is_said_and_what_can_be_read_is_saved(study_path, tmp_path, seed):
    with Study.open(study_path) as study:
        study.decide("aside", [Decision("keyword", "aside", f"word {k}") for k in range(40)])
        study._db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    path = write_damaged(tmp_path / "damaged.umber", study_path.read_bytes(), seed)
    before = path.read_bytes()
    try:
        with Study.open(path) as study:
            why = check(study)
            if not why:
                corpus = study.corpus()
                assert len(corpus) == 1200 and len(study.decisions()) == 40
                return
    except DamagedStudy as error:
        why = str(error)
        assert "damaged" in why and "new study" in why
    said = salvage(path, tmp_path / "saved.umber")
    with Study.open(tmp_path / "saved.umber") as saved:
        assert check(saved) == "" and (len(saved.corpus()) or len(saved.decisions()))
        assert "lost" in said
    if seed % 4 != 2:
        assert path.read_bytes()[100:] == before[100:] or why  # the damaged file is left as it is


def test_what_is_no_study_at_all_cannot_be_saved(tmp_path):
    path = tmp_path / "x.umber"
    path.write_bytes(b"SQLite format 3\0" + os.urandom(60_000))
    with pytest.raises(UserError, match="can be read"):
        salvage(path, tmp_path / "y.umber")
    assert not (tmp_path / "y.umber").exists() and not list(tmp_path.glob("y.umber-*"))
