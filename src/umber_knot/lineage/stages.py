"""The stages from a corpus to a report, and, in one place, what each depends on.

Every stage is a pure function of earlier results and its section of the recipe. A stage's key is a hash of its
inputs' keys and its own parameters; a result whose key is known is not computed again.
"""

from __future__ import annotations

import dataclasses
import hashlib
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from umber_knot.chart.drawing import Drawing, draw
from umber_knot.corpus.model import Corpus, Decision, Floats, Ints
from umber_knot.corpus.study import Remembered
from umber_knot.gather.references import Matches, match_references
from umber_knot.group.naming import Topic, name_topics
from umber_knot.lineage.recipe import Recipe
from umber_knot.network.model import Network
from umber_knot.reconcile.decisions import Resolution, resolve
from umber_knot.reconcile.suggestion import accepted
from umber_knot.relate.shared import Counted, Filtered, count, select

Progress = Callable[[str, int, int], None]  # (what, done, of how many); may raise to cancel


@dataclass(frozen=True, slots=True)
class Memory:
    """The chart a study remembers: the key it was drawn under, each item's place and topic, each topic's hue."""

    key: str = ""
    items: Mapping[str, Remembered] = field(default_factory=dict)
    slots: Mapping[int, int] = field(default_factory=dict)  # topic from 0 → hue slot


@dataclass(frozen=True, slots=True)
class Inputs:
    """All that a study's results follow from. ``corpus_key`` identifies the corpus without reading it."""

    corpus: Corpus
    corpus_key: str
    decisions: tuple[Decision, ...]
    recipe: Recipe
    memory: Memory = Memory()


@dataclass(frozen=True, slots=True)
class Reconciled:
    """Resolutions of the kinds in use, and the ledger with what the recipe accepted added at its end."""

    by_kind: dict[str, Resolution]
    ledger: tuple[Decision, ...]


@dataclass(frozen=True, slots=True)
class Related:
    """The network with how it came about."""

    counted: Counted
    filtered: Filtered


@dataclass(frozen=True, slots=True)
class Grouped:
    """The topic of each item (from 0, −1 none) and the topics by number."""

    topic: Ints
    topics: tuple[Topic, ...]
    modularity: float


@dataclass(frozen=True, slots=True)
class Stable:
    """How steady a grouping is over seeds: mean adjusted Rand index, and a confidence for each item."""

    index: float
    confidence: Floats


def _reconcile(inputs: Inputs, done: Mapping[str, Any], progress: Progress) -> Reconciled:
    recipe = inputs.recipe
    decided = [d.kind for d in inputs.decisions if d.kind != "record"]  # so that what cannot be applied is said
    kinds = dict.fromkeys([recipe.relate.of, "keyword", *recipe.reconcile.accept, *decided])
    by_kind, ledger = {}, list(inputs.decisions)
    for kind in kinds:
        own = [d for d in inputs.decisions if d.kind == kind]
        found = resolve(inputs.corpus, kind, own)
        if kind in recipe.reconcile.accept:
            from umber_knot.reconcile.suggest import suggest  # here, because the window reads this module too

            progress("looking for variants", 0, 0)
            offered = suggest(inputs.corpus, kind, found, own, lambda: progress("looking for variants", 0, 0))
            taken = accepted(found.mentions(inputs.corpus).forms, offered, recipe.reconcile.accept[kind])
            ledger += taken
            found = resolve(inputs.corpus, kind, own + taken)
        by_kind[kind] = found
    return Reconciled(by_kind, tuple(ledger))


def _relate(inputs: Inputs, done: Mapping[str, Any], progress: Progress) -> Related:
    resolution = done["reconcile"].by_kind[inputs.recipe.relate.of]
    progress("counting ties", 0, 0)
    counted = count(inputs.corpus, resolution, inputs.recipe.relate)
    return Related(counted, select(inputs.corpus, resolution, counted, inputs.recipe.relate))


def _group(inputs: Inputs, done: Mapping[str, Any], progress: Progress) -> Grouped:
    from umber_knot.group.leiden import keep_identity, modularity, partition, without_small

    related: Related = done["relate"]
    network, recipe = related.filtered.network, inputs.recipe.group
    progress("grouping", 0, 0)
    topic = partition(network, recipe, recipe.seed)
    quality = modularity(network, topic, recipe.grain, recipe.weighted) if len(topic) else 0.0
    topic = without_small(topic, recipe.min_size)
    items = inputs.memory.items
    if items and len(topic):
        none = Remembered(0, 0, 0)
        before = np.array([items.get(text, none).topic - 1 for text in network.label], np.int32)
        kept = topic >= 0
        if kept.any():
            topic[kept] = keep_identity(topic[kept], before[kept])
    words = done["reconcile"].by_kind["keyword"]
    counted = related.counted
    return Grouped(topic, name_topics(inputs.corpus, network, topic, counted.record, counted.item, words), quality)


def _chart(inputs: Inputs, done: Mapping[str, Any], progress: Progress) -> Drawing:
    progress("laying out the chart", 0, 0)
    memory = inputs.memory
    same = bool(memory.key) and memory.key == layout_key(inputs)
    network, grouped = done["relate"].filtered.network, done["group"]
    return draw(
        network, grouped.topic, grouped.topics, inputs.recipe.chart, dict(memory.items), same, dict(memory.slots),
        lambda: progress("laying out the chart", 0, 0),
    )  # fmt: skip


def _match(inputs: Inputs, done: Mapping[str, Any], progress: Progress) -> Matches:
    progress("matching references", 0, 0)
    return match_references(inputs.corpus, lambda: progress("matching references", 0, 0))


def _stability(inputs: Inputs, done: Mapping[str, Any], progress: Progress) -> Stable:
    from umber_knot.group.leiden import stability

    grouped: Grouped = done["group"]
    network, recipe = done["relate"].filtered.network, inputs.recipe.group
    placed = grouped.topic >= 0
    if not placed.all():  # items without a topic have no confidence
        index, part = stability(network.kept(placed), recipe, grouped.topic[placed], _runs(progress))
        confidence = np.full(len(placed), np.nan)
        confidence[placed] = part
        return Stable(index, confidence)
    return Stable(*stability(network, recipe, grouped.topic, _runs(progress)))


def _runs(progress: Progress) -> Callable[[int, int], None]:
    return lambda done, of: progress("grouping again, to see how steady it is", done, of)


@dataclass(frozen=True, slots=True)
class Stage:
    """A stage: its function, the stages it needs, and the sections (or section.key) of the recipe it reads."""

    run: Callable[[Inputs, Mapping[str, Any], Progress], Any]
    needs: tuple[str, ...]
    reads: tuple[str, ...]
    decides: bool = True  # whether decisions on forms change its result


#: What depends on what, in working order. Gather is the corpus itself; Report writes what the others gave.
STAGES: dict[str, Stage] = {
    "reconcile": Stage(_reconcile, (), ("reconcile", "relate.of")),
    "relate": Stage(_relate, ("reconcile",), ("relate",)),
    "group": Stage(_group, ("reconcile", "relate"), ("group",)),
    "chart": Stage(_chart, ("relate", "group"), ("chart",)),
    "match": Stage(_match, (), (), decides=False),
    "stability": Stage(_stability, ("relate", "group"), ("group",)),
}
#: Stages that depend on what the study remembers of its chart: topic numbers and places carry over.
REMEMBERING = ("group", "chart")


def digest(*parts: object) -> str:
    """A short hash of values with a stable text."""
    return hashlib.sha256("\x1f".join(map(repr, parts)).encode("utf-8", "surrogatepass")).hexdigest()[:24]


def parameters(recipe: Recipe, reads: tuple[str, ...]) -> list[tuple[str, object]]:
    """The parts of the recipe that a stage reads, as sorted pairs."""
    found: list[tuple[str, object]] = []
    for name in reads:
        section, _, key = name.partition(".")
        values = dataclasses.asdict(getattr(recipe, section))
        found += [(f"{section}.{k}", v) for k, v in sorted(values.items()) if not key or k == key]
    return found


def keys(inputs: Inputs) -> dict[str, str]:
    """The key of every stage's result under these inputs."""
    decided = [(d.kind, d.decision, d.form, d.preferred, d.scope) for d in inputs.decisions]
    found = {"gather": digest(inputs.corpus_key)}
    memory = inputs.memory
    remembered = digest(memory.key, sorted(memory.items.items()), sorted(memory.slots.items())) if memory.items else ""
    for name, stage in STAGES.items():
        above: list[object] = [found[n] for n in stage.needs] or [found["gather"], decided if stage.decides else ()]
        extra = remembered if name in REMEMBERING else ""
        found[name] = digest(name, above, parameters(inputs.recipe, stage.reads), extra)
    return found


def layout_key(inputs: Inputs) -> str:
    """What a remembered chart's places belong to: everything but the memory itself and what size and tint mean."""
    bare = dataclasses.replace(inputs, memory=Memory())
    chart = inputs.recipe.chart
    return digest(keys(bare)["group"], chart.layout, chart.seed)


def memory_of(inputs: Inputs, network: Network, drawing: Drawing, pinned: frozenset[str] = frozenset()) -> Memory:
    """What to remember of a finished chart."""
    items = {
        text: Remembered(float(x), float(y), int(t) + 1, text in pinned)
        for text, x, y, t in zip(network.label, drawing.x, drawing.y, drawing.topic)
    }
    return Memory(layout_key(inputs), items, drawing.slots)
