"""Saving what was read into the study, as one step."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

from umber_knot.corpus.study import Study

#: (name, why) of sources that could not be read at all, and what replacing changed.
Saved = tuple[list[tuple[str, str]], str]


def save(path: Path, harvests: Sequence[Any], progress: Callable[[int], None], instead_of: Sequence[int] = ()) -> Saved:
    """Take what is read into a study."""
    with Study.open(path) as study:
        step, failed = study.add_sources(harvests, progress, instead_of)
        said = ""
        if step is not None and instead_of:
            said = study.difference(instead_of[0], step.switch[0][1][0]).sentence()
    return [(name, str(error)) for name, error in failed], said
