"""Bringing a study up to date: every node, the strand looked at first; each result is sent once."""

from __future__ import annotations

from typing import Any

from umber_knot.corpus.checking import check
from umber_knot.corpus.model import Corpus, named
from umber_knot.gather.references import Matches
from umber_knot.lineage.changes import compare
from umber_knot.lineage.nodes import STAGES, Inputs, Node, node_key
from umber_knot.lineage.update import wanted
from umber_knot.relate.offered import Offered, offered
from umber_knot.relate.possible import Possible, possible
from umber_knot.work.state import Changed, CorpusPart, NodePart, Passed, Renamed, State
from umber_knot.work.tasks.keeper import Keeper
from umber_knot.work.worker import Job

#: Nodes whose keys follow from what the study remembers, which their own results change.
REMEMBERING = ("topics", "places", "standing", "land")


def update(keeper: Keeper, job: Job, state: State, have: frozenset[str]) -> None:
    """Compute what is not known; ``have`` are the keys of results that the window holds, which are named, not sent."""
    inputs = keeper.inputs(job, state)
    passed = Passed(None) if state.corpus_key() in have else keeper.corpus_passed.there()
    checked = check(inputs.corpus)
    job.part(CorpusPart(state.serial, state.corpus_key(), passed, *_ties(inputs.corpus, None), checked))
    done: dict[Node, Any] = {}
    for outcome in keeper.lineage.update(
        inputs, job.progress, (*wanted(inputs, state.strand, state.kind, state.asked), Node("columns"))
    ):
        node = outcome.node
        if STAGES[node.stage].inner:
            continue
        done[node] = outcome.result
        passed = Passed(None) if outcome.key in have else Passed(outcome.file, outcome.result).there()
        job.part(NodePart(state.serial, node, outcome.key, passed))
        if node.stage == "topics":
            _say_changes(keeper, job, state, node.strand, done)
        if node.stage == "land":
            inputs = _remembered(keeper, job, state, inputs, node.strand, done)
        if node.stage == "match":
            known = _ties(inputs.corpus, outcome.result)
            job.part(CorpusPart(state.serial, state.corpus_key(), Passed(None), *known, checked))


def _ties(corpus: Corpus, matches: Matches | None) -> tuple[list[Possible], tuple[Offered, ...]]:
    """Which ties the corpus allows, and how they are said."""
    offers = offered(corpus, matches)
    return possible(corpus, matches, offers), offers


def _say_changes(keeper: Keeper, job: Job, state: State, strand: int, done: dict[Node, Any]) -> None:
    now = done[Node("relate", strand)].network, done[Node("topics", strand)].topic
    before = keeper.last.get(strand)
    keeper.last[strand] = now
    if before is None:
        return
    changes = compare(*before, *now)
    if changes is None:
        network = now[0]
        n = len(network)
        job.part(Changed(state.serial, strand, f"{n:,} {named(network.kinds, n)}, {network.ties:,} ties", True))
        return
    job.part(Changed(state.serial, strand, changes.sentence(), bool(changes)))


def _remembered(keeper: Keeper, job: Job, state: State, inputs: Inputs, strand: int, done: dict[Node, Any]) -> Inputs:
    """Remember the finished chart; its results go by the keys that this gives them."""
    old = {Node(stage, strand): node_key(inputs, Node(stage, strand)) for stage in REMEMBERING}
    inputs = keeper.remember(state, inputs, strand, done)
    for node, key in old.items():
        new = node_key(inputs, node)
        if new != key:
            keeper.lineage.known_as(node, key, new)
            job.part(Renamed(node, key, new))
    return inputs
