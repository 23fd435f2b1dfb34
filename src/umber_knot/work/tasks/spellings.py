"""Every spelling of a kind for working by hand: sorted by name, by use, or by likeness to one."""

from __future__ import annotations

import numpy as np

from umber_knot.corpus.model import Ints
from umber_knot.lineage.nodes import Node, material
from umber_knot.reconcile.nearest import likeness
from umber_knot.work.state import State
from umber_knot.work.tasks.keeper import Keeper
from umber_knot.work.worker import Job


def spellings(keeper: Keeper, job: Job, state: State, kind: str, like: str) -> tuple[str, str, Ints]:
    """(kind, text, forms in use by likeness to a text, or by name where it is empty)."""
    job.progress("sorting the spellings")
    inputs = keeper.inputs(job, state)
    node = Node("reconcile", 0, kind)
    done = {o.node: o.result for o in keeper.lineage.update(inputs, job.progress, [node])}
    mentions = done[node].resolution.mentions(material(inputs.corpus, done))
    used = np.flatnonzero(mentions.counts())
    forms = list(mentions.forms)
    if like:
        near = likeness(like, [forms[f] for f in used.tolist()])
        return kind, like, used[np.lexsort((used, -near))].astype(np.int32)
    return kind, like, np.array(sorted(used.tolist(), key=lambda f: forms[f].casefold()), np.int32)
