"""How the columns of a table are read."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from umber_knot.gather.matching import matched_rows
from umber_knot.gather.read import rows_of
from umber_knot.work.tasks.keeper import Keeper
from umber_knot.work.worker import Job


def columns(keeper: Keeper, job: Job, file: Path, reading: str) -> tuple[Any, list[list[str]]]:
    """How the columns of a table file are read under earlier options (as JSON), and its first rows."""
    job.progress("looking at the columns")
    return matched_rows((cells for _, cells, _ in rows_of(file)), json.loads(reading or "{}"))
