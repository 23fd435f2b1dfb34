"""Bringing results up to date: only what follows a change is computed again."""

from __future__ import annotations

import resource
import time
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from umber_knot.corpus.model import DECIDED
from umber_knot.lineage.nodes import STAGES, Inputs, Node, Progress, measured_nodes, needs, node_key
from umber_knot.lineage.store import Store


@dataclass(frozen=True, slots=True)
class Outcome:
    """One node's result and what it took; ``fresh`` is False when it was known already. ``file`` holds it for
    others."""

    node: Node
    key: str
    result: Any
    fresh: bool
    seconds: float
    peak_mb: float
    file: Path | None = None


class Lineage:
    """Remembers the last results of every node: in memory, in the ``kept`` store (from session to session) and in the
    ``passing`` one (for the other processes of this session), each written as soon as its node ends."""

    KEPT = 4  # results a node keeps in memory: enough for undo and for looking back and forth

    def __init__(self, kept: Store | None = None, passing: Store | None = None) -> None:
        self.kept, self.passing = kept, passing
        self._known: dict[Node, dict[str, tuple[Any, Path | None]]] = {}

    def update(self, inputs: Inputs, progress: Progress, nodes: Iterable[Node]) -> Iterator[Outcome]:
        """The results of some nodes and of all they need, each once, after what it needs; whatever ``progress`` raises
        ends it, and what was finished is kept."""
        done: dict[Node, Any] = {}
        order = ordered(inputs, nodes)
        for node in order:
            if STAGES[node.stage].inner and self._not_needed(inputs, node, order):
                continue
            began = time.perf_counter()
            key = node_key(inputs, node)
            found = self._find(node, key)
            fresh = found is None
            if found is None:
                result = STAGES[node.stage].run(inputs, node, done, progress)
                found = result, self._keep(node, key, result)
            self._remember(node, key, found)
            done[node] = found[0]
            peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
            yield Outcome(node, key, found[0], fresh, time.perf_counter() - began, peak, found[1])

    def known_as(self, node: Node, key: str, new: str) -> None:
        """A result is the one of another key too."""
        found = self._known.get(node, {}).get(key)
        if found is not None:
            self._remember(node, new, found)

    def forget(self) -> None:
        """Drop all that is in memory (of another study)."""
        self._known.clear()

    def _not_needed(self, inputs: Inputs, node: Node, order: list[Node]) -> bool:
        """Whether all that is computed from an inner node is known."""
        above = [one for one in order if node in needs(inputs, one)]
        return all(self._find(one, node_key(inputs, one)) is not None for one in above)

    def _store(self, node: Node) -> Store | None:
        if STAGES[node.stage].inner:
            return None
        return self.kept if STAGES[node.stage].keeps and self.kept is not None else self.passing

    def _find(self, node: Node, key: str) -> tuple[Any, Path | None] | None:
        known = self._known.get(node, {}).get(key)
        if known is not None:
            return known
        store = self._store(node)
        result = store.get(key) if store is not None else None
        return None if result is None else (result, store.path(key) if store is not None else None)

    def _keep(self, node: Node, key: str, result: Any) -> Path | None:
        store = self._store(node)
        return store.put(key, result) if store is not None else None

    def _remember(self, node: Node, key: str, found: tuple[Any, Path | None]) -> None:
        known = self._known.setdefault(node, {})
        known.pop(key, None)
        known[key] = found
        while len(known) > self.KEPT:
            del known[next(iter(known))]


def ordered(inputs: Inputs, nodes: Iterable[Node]) -> list[Node]:
    """Nodes and all they need, each after what it needs, in the order asked for."""
    found: dict[Node, None] = {}

    def take(node: Node) -> None:
        if node not in found:
            for one in needs(inputs, node):
                take(one)
            found[node] = None

    for node in nodes:
        take(node)
    return list(found)


def wanted(inputs: Inputs, first: int = 0, kind: str = "", asked: Iterable[tuple[str, str]] = ()) -> list[Node]:
    """Every node of a study, what is looked at first: a strand, and a kind that is reconciled; ``asked`` are further stages
    and variants of that strand."""
    strands = sorted(inputs.recipe.strands, key=lambda s: s.id != first) if first else list(inputs.recipe.strands)
    kinds = {*inputs.recipe.reconcile.accept, *(d.kind for d in inputs.decisions if d.kind in DECIDED)} | (
        {kind} - {""}
    )
    nodes = [Node("land", s.id) for s in strands[:1]] + [Node("lettering", s.id) for s in strands[:1]]
    nodes += [Node(stage, strands[0].id, variant) for stage, variant in asked]
    nodes += [Node("reconcile", 0, kind) for kind in sorted(kinds)] + [Node("match")]
    nodes += [Node("stability", s.id) for s in strands[:1]]
    for s in strands[1:]:
        nodes += [Node("land", s.id), Node("lettering", s.id), Node("stability", s.id)]
    return nodes + [node for s in strands for node in measured_nodes(s)]
