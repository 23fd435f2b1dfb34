"""Reading files and texts into the study, in one step."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Any

from umber_knot.gather.read import expanded, read_file, read_text
from umber_knot.gather.remembered import recalled, remember
from umber_knot.work.tasks.keeper import Keeper
from umber_knot.work.tasks.saving import Saved, save
from umber_knot.work.worker import Job


def gather(
    keeper: Keeper,
    job: Job,
    path: Path,
    things: Sequence[Path | tuple[str, str]],
    instead_of: Sequence[int] = (),
    options: Any = None,
) -> Saved:
    """Read files, and texts as (name, text), into a study, perhaps in place of older sources."""
    chosen = dict(options or {}) | ({} if options and "fields" in options else {"remembered": recalled()})
    if options and "fields" in options:
        remember(options.get("header", ()), {k: v for k, v in options.items() if k != "header"})
    reading = ("", 0, 0)

    def told(what: str, done: int, of: int) -> None:
        nonlocal reading
        reading = what, done, of
        job.progress(what, done, of)

    harvests: list[Any] = [
        read_text(text, name, chosen) for name, text in (t for t in things if not isinstance(t, Path))
    ]
    harvests += [read_file(file, told, chosen) for file in expanded(t for t in things if isinstance(t, Path))]
    return save(path, harvests, lambda n: job.progress(*reading), instead_of)
