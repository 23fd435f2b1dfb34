"""Suggestions of one kind on what the ledger leaves open, with what each would change."""

from __future__ import annotations

from umber_knot.lineage.nodes import Node, digest, material
from umber_knot.reconcile.suggest import suggest as suggested
from umber_knot.relate.effect import effects
from umber_knot.relate.offers import Offers
from umber_knot.relate.parameters import SHARED
from umber_knot.work.state import Passed, State
from umber_knot.work.tasks.keeper import Keeper
from umber_knot.work.worker import Job


def suggest(keeper: Keeper, job: Job, state: State, kind: str) -> tuple[str, Passed]:
    """The offers of a kind; their effects are told where the strand looked at ties that kind by shared records."""
    inputs = keeper.inputs(job, state)
    relate = state.recipe.strand(state.strand).relate
    shared = relate.of == kind and relate.tie in (*SHARED, "concept")
    nodes = [Node("reconcile", 0, kind)] + ([Node("relate", state.strand)] if shared else [])
    done = {o.node: o.result for o in keeper.lineage.update(inputs, job.progress, nodes)}
    resolution = done[nodes[0]].resolution
    level = state.recipe.reconcile.accept.get(kind)
    own = [d for d in (*state.decisions, *done[nodes[0]].taken) if d.kind == kind]
    basis = digest(state.corpus_key(), kind, level, [(d.decision, d.form, d.preferred, d.scope) for d in own], 1)
    key = f"offers-{basis}"
    offers = keeper.kept.get(key)
    if offers is None:
        job.progress("looking for variants")
        corpus = material(inputs.corpus, done)
        found = suggested(corpus, kind, resolution, own, lambda: job.progress("looking for variants"))
        offers = Offers(kind, state.corpus_key(), resolution.mentions(corpus).forms, tuple(found), ())
        keeper.kept.put(key, offers)
    if shared:
        related = done[nodes[1]]
        told = effects(resolution, related.counted, related.filtered, relate, offers.suggestions)
        offers = Offers(kind, offers.corpus_key, offers.forms, offers.suggestions, tuple(told))
    return kind, Passed.of(keeper.passing.put(f"{key}-{state.serial}", offers), offers)
