"""The whole application as a user starts it, in a real window under Xvfb."""

import os
import shutil
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

pytestmark = pytest.mark.realwindow
REQUIRED = os.environ.get("UMBER_REQUIRE_WINDOW") == "1"


@pytest.fixture(scope="module")
def display():
    if not shutil.which("Xvfb"):
        if REQUIRED:
            pytest.fail("Xvfb is required here and missing")
        pytest.skip("needs a real window: no Xvfb here")
    read, write = os.pipe()
    server = subprocess.Popen(
        ["Xvfb", "-displayfd", str(write), "-screen", "0", "1280x800x24"], pass_fds=[write], stderr=subprocess.DEVNULL
    )
    os.close(write)
    with os.fdopen(read) as file:
        number = file.readline().strip()
    yield f":{number}"
    server.kill()
    server.wait()


def start(display, *arguments):
    env = {
        **os.environ,
        "DISPLAY": display,
        "UMBER_MILESTONES": "1",
        "PYTHONPATH": str(Path(__file__).parents[1] / "src"),
    }
    env.pop("QT_QPA_PLATFORM", None)
    return subprocess.Popen(
        [sys.executable, "-m", "umber_knot", *map(str, arguments)],
        env=env,
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        text=True,
    )


def until(run, word, seconds=90):
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        line = run.stdout.readline()
        if line.startswith(word):
            return True
        if not line and run.poll() is not None:
            pytest.fail(f"the application ended: {run.stderr.read()}")
    return False


@pytest.mark.parametrize("arguments", [[], ["demo"]])
def test_it_starts_paints_and_ends(display, arguments):
    run = start(display, *arguments)
    assert until(run, "painted" if arguments else "shown")
    run.send_signal(signal.SIGTERM)
    run.wait(20)
    assert "Traceback" not in run.stderr.read()


def test_killed_in_the_middle_the_study_opens_again(display, study_path):
    run = start(display, study_path)
    assert until(run, "shown")
    time.sleep(0.4)
    run.kill()
    run.wait()
    again = start(display, study_path)
    assert until(again, "painted")
    again.kill()
    again.wait()
    from umber_knot.corpus.study import Study

    with Study.open(study_path) as study:
        assert len(study.corpus()) == 1200


def test_without_a_screen_it_says_so():
    env = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")}
    env["PYTHONPATH"] = str(Path(__file__).parents[1] / "src")
    run = subprocess.run([sys.executable, "-m", "umber_knot"], env=env, capture_output=True, text=True, timeout=60)
    assert run.returncode == 2 and "no screen" in run.stderr
