"""Worker processes: progress, cancel in time, death without harm."""

import dataclasses
import os
import signal
import time

import pytest

from tests.building import state_of
from umber_knot.desktop.ear import Ear
from umber_knot.lineage.nodes import STAGES
from umber_knot.lineage.store import read
from umber_knot.work.client import Worker
from umber_knot.work.state import CorpusPart, NodePart, Renamed


@pytest.fixture
def worker():
    one = Worker("stages")
    one.start()
    yield one
    one.stop()


def wait(worker, until, seconds=60):
    """Messages up to one that satisfies."""
    found, end = [], time.monotonic() + seconds
    while time.monotonic() < end:
        for message in worker.messages():
            found.append(message)
            if until(message):
                return found
        time.sleep(0.005)
    raise TimeoutError(found)


def ended(message):
    return message[1] in ("done", "error", "cancelled")


def test_an_update_sends_every_result_once_and_names_those_the_window_has(worker, study_path):
    number = worker.ask("update", state_of(study_path), frozenset())
    messages = wait(worker, ended)
    assert messages[-1] == (number, "done", None) and worker.busy is None
    parts = [m[2] for m in messages if m[1] == "part"]
    sent = [p.node.stage for p in parts if isinstance(p, NodePart)]
    assert (
        isinstance(parts[0], CorpusPart)
        and sent[:2] == ["reconcile", "relate"]
        and set(sent)
        == {n for n, s in STAGES.items() if not s.inner} - {"terms", "measure", "figures", "yardstick", "removal"}
    )
    assert all(p.passed.file and p.passed.file.exists() for p in parts if isinstance(p, NodePart))
    keys = {p.key for p in parts if isinstance(p, (NodePart, CorpusPart))} | {
        p.new for p in parts if isinstance(p, Renamed)
    }
    worker.ask("update", state_of(study_path), frozenset(keys))
    again = [m[2] for m in wait(worker, ended) if m[1] == "part"]
    assert len([p for p in again if isinstance(p, NodePart)]) == len(sent)
    assert all(p.passed.file is None and p.passed.value is None for p in again if isinstance(p, (NodePart, CorpusPart)))


def test_a_state_is_computed_from_its_own_sources_wherever_the_study_has_come_to(worker, study_path):
    """The window goes on while a request is on its way: what is computed under a state's key is of that state."""
    from umber_knot.corpus.study import Study
    from umber_knot.errors import UserError

    with Study.open(study_path) as study:
        first = study.sources()[0]
        study.switch_sources("off", [first.id], False)
        asked, fewer = state_of(study_path), len(study.corpus())
        study.switch_sources("on", [first.id], True)
        worker.ask("update", asked, frozenset())
        part = next(m[2] for m in wait(worker, ended) if m[1] == "part" and isinstance(m[2], CorpusPart))
        found = read(part.passed.file)
        assert part.key == asked.corpus_key() and len(found) == fewer < len(study.corpus())
        with pytest.raises(UserError, match="no longer"):
            study.corpus({99}, ())


def test_cancel_ends_within_half_a_second_and_the_next_request_works(worker, study_path):
    state = state_of(study_path)
    worker.ask("update", state, frozenset())
    wait(worker, ended)
    slow = dataclasses.replace(state, recipe=state.recipe.changed("group", runs=1000, seed=5), serial=2)
    worker.ask("update", slow, frozenset())
    wait(worker, lambda m: m[1] == "progress" and "steady" in m[2][0])
    began = time.monotonic()
    worker.cancel()
    assert wait(worker, ended)[-1][1] == "cancelled"
    assert time.monotonic() - began < 0.5
    worker.ask("update", state, frozenset())
    assert wait(worker, ended)[-1][1] == "done"


def test_a_task_that_does_not_listen_is_ended_all_the_same(worker, study_path):
    worker.ask("update", state_of(study_path), frozenset())
    os.kill(worker._process.pid, signal.SIGSTOP)
    began = time.monotonic()
    worker.cancel()
    assert wait(worker, ended)[-1][1] == "cancelled"
    assert time.monotonic() - began < 1.5


def test_a_crash_is_an_error_message_and_the_next_request_works(worker, study_path):
    worker.ask("update", state_of(study_path), frozenset())
    os.kill(worker._process.pid, signal.SIGKILL)
    (last,) = wait(worker, ended)[-1:]
    assert last[1] == "error" and "try again" in last[2][0]
    worker.ask("update", state_of(study_path), frozenset())
    assert wait(worker, ended)[-1][1] == "done"


def test_a_cancelled_import_leaves_the_study_as_it_was(worker, study_path, tmp_path):
    from umber_knot.corpus.study import Study

    big = tmp_path / "big.ris"
    big.write_text("TY  - JOUR\nTI  - one\nAU  - A, B\nER  - \n" * 60_000)
    worker.ask("gather", study_path, [big])
    wait(worker, lambda m: m[1] == "progress")
    worker.cancel()
    assert wait(worker, ended)[-1][1] == "cancelled"
    with Study.open(study_path) as study:
        assert len(study.sources()) == 4 and len(study.corpus()) == 1200


def test_files_that_cannot_be_read_are_named_and_the_others_added(worker, study_path, tmp_path):
    from umber_knot.corpus.study import Study

    (tmp_path / "a.bib").write_bytes(b"\x89PNG\r\n\0\0")
    (tmp_path / "b.csv").write_text('title,authors\nOne,"A, B"\n')
    worker.ask("gather", study_path, [tmp_path / "a.bib", tmp_path / "b.csv"])
    _, what, (failed, changed) = wait(worker, ended)[-1]
    assert not changed
    assert what == "done" and [name for name, _ in failed] == ["a.bib"] and "PNG" in failed[0][1]
    with Study.open(study_path) as study:
        assert len(study.corpus()) == 1201


def test_a_study_that_has_gone_is_an_error_not_a_crash(worker, study_path, tmp_path):
    state = state_of(study_path)
    study_path.unlink()
    worker.ask("update", state, frozenset())
    assert "no such study" in wait(worker, ended)[-1][2][0]


def test_a_worker_is_heard_whose_pipe_took_the_number_of_one_that_was_closed(qtbot):
    """The first watcher lets go before its pipe is closed: letting go later would silence the second."""
    heard = []
    first, second = Worker("brush"), Worker("brush")
    one, other = Ear(first, lambda: heard.append(1)), Ear(second, lambda: heard.append(2))
    one.watch()
    number = first.fileno()
    first.stop()
    other.watch()
    assert second.fileno() == number  # the case that is tested
    one.watch()
    second.ask("no such task")
    qtbot.waitUntil(lambda: 2 in heard, timeout=20_000)
    first.stop()
    second.stop()
