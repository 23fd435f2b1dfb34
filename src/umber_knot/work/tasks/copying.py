"""Saving a copy of a study or what can be read of a damaged one, and bringing one of an older format up to date."""

from __future__ import annotations

from pathlib import Path

from umber_knot.corpus.sound import salvage as saved
from umber_knot.corpus.study import Study
from umber_knot.work.tasks.keeper import Keeper
from umber_knot.work.worker import Job


def copy(keeper: Keeper, job: Job, path: Path, to: Path) -> Path:
    """A copy of a study as it stands."""
    job.progress("saving a copy")
    with Study.open(path) as study:
        study.copy_to(to)
    return to


def salvage(keeper: Keeper, job: Job, path: Path, to: Path) -> tuple[Path, str]:
    """A new study of what can be read of a damaged one, and what was lost."""
    job.progress("saving what can be read")
    return to, saved(path, to, lambda what: job.progress(what))


def migrate(keeper: Keeper, job: Job, path: Path) -> Path:
    """Bring a study up to this version's tables; a copy of the file as it was is kept beside it."""
    job.progress("bringing the study up to date")
    with Study.open(path):
        return path
