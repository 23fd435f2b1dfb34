"""Every file of a strand's report as bytes."""

from __future__ import annotations

from umber_knot.chart.palette import THEMES
from umber_knot.corpus.model import DECIDED
from umber_knot.lineage.headless import subject
from umber_knot.lineage.nodes import Node
from umber_knot.report.write import contents
from umber_knot.work.state import State
from umber_knot.work.tasks.keeper import Keeper
from umber_knot.work.worker import Job


def report(keeper: Keeper, job: Job, state: State, theme: str) -> dict[str, bytes]:
    """The files of the strand looked at."""
    inputs, strand = keeper.inputs(job, state), state.strand
    kinds = {*inputs.recipe.reconcile.accept, *(d.kind for d in inputs.decisions if d.kind in DECIDED)}
    nodes = [Node("reconcile", 0, kind) for kind in sorted(kinds)]
    nodes += [Node(stage, strand) for stage in ("land", "lettering", "stability")]
    results = {o.node: o.result for o in keeper.lineage.update(inputs, job.progress, nodes)}
    job.progress("drawing the plate")
    return contents(subject(inputs, strand, results), THEMES[theme])
