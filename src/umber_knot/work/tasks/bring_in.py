"""Taking the decisions of a CSV file into the study."""

from __future__ import annotations

from pathlib import Path

from umber_knot.corpus.study import Study
from umber_knot.reconcile.decisions import read_decisions, sort_out
from umber_knot.work.state import State
from umber_knot.work.tasks.keeper import Keeper
from umber_knot.work.worker import Job


def bring_in(keeper: Keeper, job: Job, state: State, file: Path) -> tuple[int, list[str]]:
    """Take the decisions of a file as one step: how many, and a line for each that was left out."""
    job.progress("reading decisions")
    found, problems = read_decisions(file)
    corpus = keeper.inputs(job, state).corpus
    job.progress("trying the decisions")
    kept, why = sort_out(corpus, state.decisions, [d for _, d in found])
    problems += [f"{file.name}, line {found[k][0]}: {text}" for k, text in sorted(why.items())]
    if kept:
        with Study.open(state.path) as study:
            study.decide(f"bring in {len(kept):,} decisions from {file.name}", kept)
    return len(kept), problems
