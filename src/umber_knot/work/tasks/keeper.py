"""What the stages worker keeps between requests: the corpus, the last results, and what charts remember."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import replace
from pathlib import Path
from typing import Any

from umber_knot.corpus.file import DamagedStudy
from umber_knot.corpus.model import Corpus, Ints
from umber_knot.corpus.remembered import KEPT
from umber_knot.corpus.sound import check
from umber_knot.corpus.study import Study
from umber_knot.corpus.written import Reading, Written
from umber_knot.lineage.nodes import Inputs, Memory, Node, remembered_of
from umber_knot.lineage.update import Lineage
from umber_knot.network.model import Network
from umber_knot.work.keeping import stores
from umber_knot.work.state import Passed, State
from umber_knot.work.worker import Job


def _reading(path: Path) -> Reading:
    """Reads texts and further fields of the study of a path."""

    def texts(corpus: Corpus) -> Iterator[Written]:
        with Study.open(path) as study:
            yield from study.texts(corpus)

    def extras(corpus: Corpus) -> Iterator[tuple[int, Mapping[str, object]]]:
        with Study.open(path) as study:
            yield from study.extras(corpus)

    return Reading(texts, extras)


class Keeper:
    """The corpus of one study and everything computed from it."""

    def __init__(self) -> None:
        self.kept, self.passing = stores()
        self.lineage = Lineage(self.kept, self.passing)
        self.uuid = self.corpus_key = ""
        self.sound: set[str] = set()  # studies that were found undamaged
        self.corpus: Corpus | None = None
        self.corpus_passed = Passed(None)
        self.last: dict[int, tuple[Network, Ints]] = {}  # strand → what was last compared with
        self.memory: dict[tuple[int, str, str], dict[str, Any]] = {}  # (strand, what, name) → as the study remembers it

    def inputs(self, job: Job, state: State) -> Inputs:
        """What results follow from in a state; the corpus is opened where it is another."""
        if state.uuid != self.uuid:
            self.lineage.forget()
            self.memory.clear()
            self.uuid, self.last = state.uuid, {}
        key = state.corpus_key()
        if key != self.corpus_key or self.corpus is None:
            self._open(job, state, key)
        assert self.corpus is not None
        memory = {s.id: self._remembered(state, s.id) for s in state.recipe.strands}
        return Inputs(self.corpus, key, state.decisions, state.recipe, memory, _reading(state.path))

    def _open(self, job: Job, state: State, key: str) -> None:
        job.progress("opening the records")
        found = self.passing.get(f"corpus-{key}")  # left by a worker that was stopped
        if found is None:
            with Study.open(state.path) as study:
                if state.uuid not in self.sound:
                    damage = check(study)
                    if damage:
                        raise DamagedStudy(f"the study is damaged: {damage}", place=str(state.path))
                    self.sound.add(state.uuid)
                found = study.corpus({number for number, *_ in state.sources}, state.decisions)
        self.corpus, self.corpus_key = found, key
        self.corpus_passed = Passed(self.passing.put(f"corpus-{key}", found), found)

    def _remembered(self, state: State, strand: int) -> Memory:
        own = state.recipe.strand(strand)
        found: dict[str, Any] = {}
        for what, name in (("places", own.chart.name), ("identities", own.group.name)):
            at = strand, what, name
            if at not in self.memory:
                with Study.open(state.path) as study:
                    self.memory[at] = dict(study.remembered(*at))
            found[what] = self.memory[at]
        arrangement = strand, own.chart.name
        return Memory(**found, pins=state.pins.get(arrangement, {}), afresh=state.afresh.get(arrangement, 0))

    def remember(self, state: State, inputs: Inputs, strand: int, done: Mapping[Node, Any]) -> Inputs:
        """Keep a strand's finished chart in the study, and give the inputs that remember it."""
        own, before = state.recipe.strand(strand), inputs.of(strand)
        after = remembered_of(inputs, strand, done)
        for what, name in (("places", own.chart.name), ("identities", own.group.name)):
            was, now = getattr(before, what), getattr(after, what)
            base = next(reversed(now))
            if base in was and next(reversed(was)) == base and what == "places":
                continue
            if (
                base in was
                and what == "identities"
                and was[base].slots == now[base].slots
                and next(reversed(was)) == base
            ):
                continue
            kept = dict(list(now.items())[-KEPT:])
            self.memory[strand, what, name] = kept
            with Study.open(state.path) as study:
                study.remember(strand, name, base, now[base])
        return replace(inputs, memory={**inputs.memory, strand: after})
