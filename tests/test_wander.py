"""A random walk of clicks, keys and drags through the real window, seeded: ten minutes with ``--long``."""

import os
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]


@pytest.mark.parametrize("seed", [1])
def test_a_random_walk_raises_nothing_and_harms_nothing(study_path, request, seed):
    seconds = 600 if request.config.getoption("--long") else 15
    env = {**os.environ, "PYTHONPATH": str(ROOT / "src"), "QT_LOGGING_RULES": "*=false"}
    run = subprocess.run(
        [sys.executable, ROOT / "bench" / "wander.py", study_path, str(seconds), str(seed)],
        capture_output=True,
        text=True,
        env=env,
        timeout=seconds + 300,
    )
    assert run.returncode == 0, run.stderr
    *said, last = run.stdout.splitlines()
    wrong = [line for line in said if not line.startswith("stood still")]  # how long it stood still is for the bench
    assert not wrong, "\n".join(wrong)
    assert last.startswith("wandered ") and int(last.split()[1]) > seconds
