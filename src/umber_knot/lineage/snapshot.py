"""One published state of a study: everything that is shown together, of one state and never of two."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

from umber_knot.chart.drawing import Drawing
from umber_knot.corpus.by_hand import strays
from umber_knot.corpus.checking import SourceCheck
from umber_knot.corpus.model import Corpus, Decision
from umber_knot.corpus.steps import Item, Spot
from umber_knot.group.result import Grouped, Stable
from umber_knot.lineage.nodes import CHARTED, Inputs, Node, drawing_of, material, node_key
from umber_knot.lineage.recipe import Recipe
from umber_knot.reconcile.decisions import Resolution
from umber_knot.reconcile.reconciled import Reconciled
from umber_knot.relate.offered import Offered
from umber_knot.relate.result import Related


@dataclass(frozen=True)
class Snapshot:
    """The state with the number ``serial``: recipe, decisions and corpus, and the results there are of it so far. A
    snapshot grows by being replaced; what it holds already stays as it is."""

    serial: int
    recipe: Recipe
    decisions: tuple[Decision, ...]
    pins: Mapping[tuple[int, str], Mapping[Item, Spot]] = field(default_factory=dict)
    afresh: Mapping[tuple[int, str], int] = field(default_factory=dict)
    corpus_key: str = ""
    corpus: Corpus | None = None
    possible: tuple[Any, ...] = ()
    offered: tuple[Offered, ...] = ()
    checked: tuple[SourceCheck, ...] = ()
    results: Mapping[Node, Any] = field(default_factory=dict)
    keys: Mapping[Node, str] = field(default_factory=dict)

    @cached_property
    def whole(self) -> Corpus | None:
        """The corpus with what was found in its texts."""
        return material(self.corpus, self.results) if self.corpus is not None else None

    def resolution(self, kind: str) -> Resolution | None:
        found: Reconciled | None = self.results.get(Node("reconcile", 0, kind))
        return found.resolution if found is not None else None

    def unapplied(self) -> list[tuple[Decision, str]]:
        """Decisions that could not be carried out, and why; of records those whose names mean none."""
        found = [one for node, r in self.results.items() if node.stage == "reconcile" for one in r.resolution.unapplied]
        found += [one for node, r in self.results.items() if node.stage == "relate" for one in r.filtered.unapplied]
        found += strays(self.decisions, {s.id for s in self.recipe.strands})
        why = dict(self.corpus.flow.unapplied) if self.corpus is not None else {}
        for d in self.decisions:
            name = next((t for t in (d.form, d.preferred) if t in why), None) if d.kind == "record" else None
            if name is not None:
                found.append((d, why[name]))
        return found

    def taken(self) -> int:
        """How many decisions the recipe took."""
        return sum(len(r.taken) for node, r in self.results.items() if node.stage == "reconcile")

    def related(self, strand: int) -> Related | None:
        return self.results.get(Node("relate", strand))

    def grouped(self, strand: int) -> Grouped | None:
        return self.results.get(Node("topics", strand))

    def stable(self, strand: int) -> Stable | None:
        return self.results.get(Node("stability", strand))

    def drawing(self, strand: int) -> Drawing | None:
        """The chart of a strand, put together from its parts."""
        return drawing_of(self.recipe, strand, self.results)

    def has(self, stages: frozenset[str], strand: int) -> bool:
        """Whether the results of some stages of a strand are here."""
        nodes = [Node(stage, 0 if stage == "match" else strand) for stage in stages - {"gather", "reconcile"}]
        if self.corpus is None or not all(node in self.results for node in nodes):
            return False
        return "reconcile" not in stages or all(map(self.resolution, self.recipe.strand(strand).relate.reconciled))

    def placed(self, strand: int) -> object:
        """What was placed by hand, and laid out again, in a strand."""
        return [{key: value for key, value in of.items() if key[0] == strand} for of in (self.pins, self.afresh)]

    def current(self, strand: int, present: Snapshot) -> set[str]:
        """The stages, as the thread shows them, of which this snapshot has results that the present state gives, too."""
        recipe, corpus_key = present.recipe, present.corpus_key
        if self.corpus is None or strand not in {s.id for s in recipe.strands} & {s.id for s in self.recipe.strands}:
            return set()
        state, known = Inputs(self.corpus, corpus_key, present.decisions, recipe), dict[Node, str]()
        own = recipe.strand(strand)
        found = {"gather"} if corpus_key == self.corpus_key else set()
        for stage, node in (
            *(("reconcile", Node("reconcile", 0, kind)) for kind in own.relate.reconciled[:1]),
            ("relate", Node("relate", strand)),
            ("group", Node("group", strand)),
            ("stability", Node("stability", strand)),
        ):
            if self.keys.get(node) == node_key(state, node, known):
                found.add(stage)
        charted = self.has(frozenset(CHARTED), strand) and own.chart == self.recipe.strand(strand).chart
        charted = charted and self.placed(strand) == present.placed(strand)
        if not self.has(frozenset({"topics"}), strand):
            found.discard("group")
        return found | ({"chart", "report"} if charted and {"relate", "group"} <= found else set())
