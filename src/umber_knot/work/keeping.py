"""Where results pass from process to process: a folder in memory that belongs to one window and goes with it."""

from __future__ import annotations

import atexit
import os
import shutil
import tempfile
from pathlib import Path

from umber_knot.lineage.store import Store
from umber_knot.paths import cache_dir

#: Set for the workers by the window that starts them.
VARIABLE = "UMBER_PASSING"
_PREFIX = "umber-knot-"
#: Bytes that results on their way may take.
LARGEST = 2_000_000_000


def passing_folder() -> Path:
    """This window's folder, made on first use and removed at its end; those of windows that were killed are removed."""
    told = os.environ.get(VARIABLE)
    if told:
        return Path(told)
    memory = Path("/dev/shm")
    root = memory if os.access(memory, os.W_OK) else Path(tempfile.gettempdir())
    for old in root.glob(f"{_PREFIX}*"):
        owner = old.name.removeprefix(_PREFIX).partition("-")[0]
        if owner.isdecimal() and not Path(f"/proc/{owner}").exists():
            shutil.rmtree(old, ignore_errors=True)
    folder = Path(tempfile.mkdtemp(prefix=f"{_PREFIX}{os.getpid()}-", dir=root))
    os.environ[VARIABLE] = str(folder)
    atexit.register(shutil.rmtree, folder, ignore_errors=True)
    return folder


def stores() -> tuple[Store, Store]:
    """(results kept from session to session, results on their way)."""
    return Store(cache_dir() / "results"), Store(passing_folder(), LARGEST)
