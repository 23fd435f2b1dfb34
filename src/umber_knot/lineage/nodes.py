"""What is computed from what: the one place that declares every node's inputs, parameters and version.

A node is (stage, strand, variant): a stage common to all strands has strand 0; a variant is the kind that is
reconciled,
or empty. A node's key is a hash of its inputs' keys, its parameters and its version; a result whose key is known is not
computed again. What a study remembers of its charts enters only the two nodes that keep identity and place, so that
history never makes anything else be computed again.
"""

from __future__ import annotations

import dataclasses
import hashlib
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, NamedTuple

import numpy as np

from umber_knot.chart.drawing import Drawing, Land, Sizes, Standing, land, lettering, sizes
from umber_knot.corpus.by_hand import changes_of
from umber_knot.corpus.model import KINDS, Corpus, Decision, Floats
from umber_knot.corpus.named import NamedColumns, named_columns
from umber_knot.corpus.remembered import Identities, Places
from umber_knot.corpus.steps import Item, Spot
from umber_knot.corpus.texts import Texts
from umber_knot.corpus.written import Reading
from umber_knot.gather.references import match_references
from umber_knot.group.result import Grouped, Partition, Stable, Topic
from umber_knot.lineage.recipe import Recipe, Strand
from umber_knot.network.measures.registry import Material, columns_in, family, measure, missing, of_column
from umber_knot.network.measures.whole import figures
from umber_knot.network.model import Network, years
from umber_knot.network.removal import WATCHED, at_random, band, best_first
from umber_knot.network.yardsticks import yardsticks
from umber_knot.reconcile.reconciled import Reconciled, reconcile
from umber_knot.relate.counting import count
from umber_knot.relate.giving import most_given_back
from umber_knot.relate.parameters import CITING, COUNTED_BY, Relate
from umber_knot.relate.result import Counted, Related
from umber_knot.relate.selecting import related
from umber_knot.relate.valued import no_column
from umber_knot.text.result import Terms

#: What marks can be sized by without anything being measured.
OF_NETWORK = ("records", "degree", "strength")
Progress = Callable[[str, int, int], None]  # (what, done, of how many); may raise to cancel


class Node(NamedTuple):
    stage: str
    strand: int = 0
    variant: str = ""


@dataclass(frozen=True, slots=True)
class Memory:
    """What a study remembers of one strand's chart in use: places and identities by the key of their state, the latest
    last; what was moved by hand; how many times it was laid out again."""

    places: Mapping[str, Places] = field(default_factory=dict)
    identities: Mapping[str, Identities] = field(default_factory=dict)
    pins: Mapping[Item, Spot] = field(default_factory=dict)
    afresh: int = 0


@dataclass(frozen=True, slots=True)
class Inputs:
    """All that a study's results follow from. ``corpus_key`` identifies the corpus without reading it; ``memory`` is by
    strand; ``reading`` reads what the corpus does not hold, where terms or columns are asked for."""

    corpus: Corpus
    corpus_key: str
    decisions: tuple[Decision, ...]
    recipe: Recipe
    memory: Mapping[int, Memory] = field(default_factory=dict)
    reading: Reading = Reading.nothing()

    def of(self, strand: int) -> Memory:
        return self.memory.get(strand) or Memory()


Results = Mapping[Node, Any]


@dataclass(frozen=True, slots=True)
class Stage:
    """How a stage is computed. ``needs`` and ``reads`` give a node's inputs and parameters; ``keeps`` whether its
    result
    outlives the session on disk; an ``inner`` one stays in the process that computes it, and is computed only where something
    that follows from it is not known; ``version`` is raised with its algorithm."""

    run: Callable[[Inputs, Node, Results, Progress], Any]
    needs: Callable[[Inputs, Node], tuple[Node, ...]]
    reads: Callable[[Inputs, Node], object]
    version: int = 1
    keeps: bool = True
    inner: bool = False


def _strand(inputs: Inputs, node: Node) -> Strand:
    return inputs.recipe.strand(node.strand)


def _same_strand(*stages: str) -> Callable[[Inputs, Node], tuple[Node, ...]]:
    return lambda inputs, node: tuple(Node(stage, node.strand) for stage in stages)


def _related_from(inputs: Inputs, node: Node) -> tuple[Node, ...]:
    """The nodes that a strand's ties are counted from."""
    sentence = _strand(inputs, node).relate
    matched = (Node("match"),) if sentence.tie in CITING else ()
    found = {one: None for kind in sentence.reconciled for one in found_kind(kind)}
    found |= {Node("columns"): None} if sentence.columns else {}
    return (*(Node("reconcile", 0, kind) for kind in sentence.reconciled), *found, *matched)


def found_kind(kind: str) -> tuple[Node, ...]:
    """The node that finds the mentions of a kind, where records do not list them."""
    if kind in (*KINDS, "record"):
        return ()
    return (Node("terms"),) if kind == "term" else (Node("columns"),)


def material(corpus: Corpus, done: Results) -> Corpus:
    """The corpus with the mentions of what was found in it."""
    terms: Terms | None = done.get(Node("terms"))
    columns: NamedColumns | None = done.get(Node("columns"))
    found = columns.by_name() if columns is not None else {}
    return corpus.knowing(found | ({"term": terms.mentions} if terms is not None else {}))


def _decided(inputs: Inputs, node: Node) -> object:
    own = [(d.decision, d.form, d.preferred, d.scope) for d in inputs.decisions if d.kind == node.variant]
    return own, inputs.recipe.reconcile.accept.get(node.variant)


def _reconcile(inputs: Inputs, node: Node, done: Results, progress: Progress) -> Reconciled:
    level = inputs.recipe.reconcile.accept.get(node.variant)
    said = "reconciling" if level is None else "looking for variants"
    progress(said, 0, 0)
    corpus = material(inputs.corpus, {one: done[one] for one in found_kind(node.variant)})
    if node.variant not in corpus.mentions:
        raise no_column(node.variant, corpus)
    return reconcile(corpus, node.variant, inputs.decisions, level, lambda: progress(said, 0, 0))


def _counting(inputs: Inputs, node: Node) -> object:
    """The words of a sentence that counting follows from; the others only leave out."""
    sentence = _strand(inputs, node).relate
    return {name: getattr(sentence, name) for name in COUNTED_BY}


def _count(inputs: Inputs, node: Node, done: Results, progress: Progress) -> Counted:
    progress("counting ties", 0, 0)
    return _counted(inputs, node, done, _strand(inputs, node).relate)


def _counted(inputs: Inputs, node: Node, done: Results, sentence: Relate) -> Counted:
    needed = {one: done[one] for one in _related_from(inputs, node)}
    resolutions = {one.variant: found.resolution for one, found in needed.items() if one.stage == "reconcile"}
    corpus = material(inputs.corpus, needed)
    return count(corpus, resolutions, sentence, needed.get(Node("match")), needed.get(Node("terms")))


def _relate(inputs: Inputs, node: Node, done: Results, progress: Progress) -> Related:
    progress("choosing items and ties", 0, 0)
    counted: Counted = done[Node("count", node.strand)]
    above = {one: done[one] for one in _joined_from(inputs, node)}
    known = {one.variant: found.resolution for one, found in above.items() if one.stage == "reconcile"}
    changes = changes_of(inputs.decisions, node.strand)
    corpus, sentence = material(inputs.corpus, above), _strand(inputs, node).relate
    found = related(corpus, counted, sentence, changes, known)
    if found.network.ties:
        return found
    progress("looking for what would give ties back", 0, 0)

    def ties(other: Relate) -> int:
        same = all(getattr(other, name) == getattr(sentence, name) for name in COUNTED_BY)
        own = counted if same else _counted(inputs, node, done, other)
        return related(corpus, own, other, changes, known).network.ties

    more = most_given_back(sentence, ties)
    return dataclasses.replace(found, filtered=dataclasses.replace(found.filtered, more=more))


def _chosen(inputs: Inputs, node: Node) -> object:
    """The sentence, and what was changed by hand."""
    own = [(d.kind, d.decision, d.form, d.preferred, d.scope) for d in changes_of(inputs.decisions, node.strand)]
    return _strand(inputs, node).relate, own


def _joined_from(inputs: Inputs, node: Node) -> tuple[Node, ...]:
    """The nodes that columns are joined to a strand's items from."""
    sentence = _strand(inputs, node).relate
    if not sentence.attributes:
        return ()
    kinds = [kind for kind in sentence.kinds if kind != "record"]
    found = (Node("columns"), *(Node("reconcile", 0, k) for k in kinds), *(n for k in kinds for n in found_kind(k)))
    return tuple(dict.fromkeys(found))


def _network(done: Results, node: Node) -> Network:
    related: Related = done[Node("relate", node.strand)]
    return related.network


def _clustering(inputs: Inputs, node: Node) -> dict[str, Any]:
    g = _strand(inputs, node).group
    return {"resolution": g.grain, "seed": g.seed, "quality": g.quality, "weighted": g.weighted}


def _group(inputs: Inputs, node: Node, done: Results, progress: Progress) -> Partition:
    from umber_knot.group.leiden import partition

    progress("grouping", 0, 0)
    return partition(_network(done, node), **_clustering(inputs, node), min_size=_strand(inputs, node).group.min_size)


def _name(inputs: Inputs, node: Node, done: Results, progress: Progress) -> tuple[Topic, ...]:
    from umber_knot.group.naming import name_topics

    progress("naming topics", 0, 0)
    related, partition = done[Node("relate", node.strand)], done[Node("group", node.strand)]
    words, counted = done[Node("reconcile", 0, "keyword")].resolution, related.counted
    return name_topics(
        inputs.corpus, related.network, partition.topic, related.shown(), counted.record, counted.item, words
    )


def _stability(inputs: Inputs, node: Node, done: Results, progress: Progress) -> Stable:
    from umber_knot.group.leiden import stability

    return stability(
        _network(done, node),
        done[Node("group", node.strand)].topic,
        **_clustering(inputs, node),
        runs=_strand(inputs, node).group.runs,
        progress=lambda n, of: progress("grouping again, to see how steady it is", n, of),
    )


def _topics(inputs: Inputs, node: Node, done: Results, progress: Progress) -> Grouped:
    """Topics under the numbers they keep: as remembered for this very state, else by overlap with the latest."""
    from umber_knot.group.leiden import keep_identity

    network, made = _network(done, node), done[Node("group", node.strand)]
    base, memory = grouping_base(inputs, node.strand), inputs.of(node.strand).identities
    known = memory.get(base) or next(reversed(list(memory.values())), None)
    number = np.arange(int(made.topic.max(initial=-1)) + 1, dtype=np.int32)
    if known is not None:
        was = known.at()
        number = keep_identity(made.topic, np.array([_found(was, one, -1) for one in _called(network)], np.int32))
    topic = np.where(made.topic >= 0, number[made.topic] if len(number) else made.topic, -1).astype(np.int32)
    topics = [dataclasses.replace(t, number=int(number[t.number - 1]) + 1) for t in done[Node("name", node.strand)]]
    return Grouped(topic, tuple(sorted(topics, key=lambda t: t.number)), made.modularity, made.quality)


def _called(network: Network) -> list[tuple[tuple[str, str], str]]:
    """Every item's identity, and its label: what a study of version 4 knew it by."""
    return list(zip(network.identities(), network.label))


def _found(was: Mapping[Item, Any], one: tuple[Item, str], missing: Any) -> Any:
    identity, label = one
    return was[identity] if identity in was else was.get((identity[0], label), missing)


def _lettering(inputs: Inputs, node: Node, done: Results, progress: Progress) -> Any:
    return lettering(_network(done, node))


def _sizes(inputs: Inputs, node: Node, done: Results, progress: Progress) -> Sizes:
    by = _strand(inputs, node).chart.size_by
    if by in OF_NETWORK:
        return sizes(_network(done, node), by)
    network, found = _network(done, node), done[Node("measure", node.strand, family(by))]
    return sizes(network, by, found.get(by, np.full(len(network), np.nan)))  # what it needs may be lacking


def _sized_from(inputs: Inputs, node: Node) -> tuple[Node, ...]:
    by = _strand(inputs, node).chart.size_by
    measured = () if by in OF_NETWORK else (Node("measure", node.strand, family(by)),)
    return (Node("relate", node.strand), *measured)


def _places(inputs: Inputs, node: Node, done: Results, progress: Progress) -> Standing:
    """Where items stand before anything was moved by hand: as remembered for this very state, else laid out."""
    network, chart = _network(done, node), _strand(inputs, node).chart
    base, memory = arrangement_base(inputs, node.strand), inputs.of(node.strand)
    as_left = memory.places.get("") if not memory.afresh and len(memory.places) == 1 else None  # a study of version 4
    known = memory.places.get(base) or as_left
    if known is not None:
        spots = _spots(network, known)
        if not np.isnan(spots).any():
            return Standing(spots[:, 0].copy(), spots[:, 1].copy())
    earlier = [p for key, p in memory.places.items() if _afresh(key) == memory.afresh]
    from umber_knot.chart.layout import layout  # here, because the kernels take long to load

    progress("laying out the chart", 0, 0)
    radius = sizes(network, chart.size_by if chart.size_by in OF_NETWORK else "records").radius
    return Standing(
        *layout(
            network,
            radius,
            chart.seed,
            _spots(network, earlier[-1]) if earlier else None,
            lambda: progress("laying out the chart", 0, 0),
        )
    )


def _spots(network: Network, places: Places) -> Floats:
    was = places.at()
    return np.array([_found(was, one, (np.nan, np.nan)) for one in _called(network)], np.float64).reshape(-1, 2)


def _standing(inputs: Inputs, node: Node, done: Results, progress: Progress) -> Standing:
    """Where items stand, those moved by hand where they were put."""
    laid: Standing = done[Node("places", node.strand)]
    pins = inputs.of(node.strand).pins
    if not pins:
        return laid
    x, y = laid.x.copy(), laid.y.copy()
    for i, one in enumerate(_called(_network(done, node))):
        if (spot := _found(pins, one, None)) is not None:
            x[i], y[i] = spot
    return Standing(x, y)


def _land(inputs: Inputs, node: Node, done: Results, progress: Progress) -> Land:
    grouped: Grouped = done[Node("topics", node.strand)]
    memory = inputs.of(node.strand).identities
    known = memory.get(grouping_base(inputs, node.strand)) or next(reversed(list(memory.values())), None)
    radius = done[Node("sizes", node.strand)].radius
    return land(
        done[Node("standing", node.strand)], radius, grouped.topic, grouped.topics, known.slots if known else {}
    )


def _match(inputs: Inputs, node: Node, done: Results, progress: Progress) -> Any:
    progress("matching references", 0, 0)
    return match_references(inputs.corpus, lambda: progress("matching references", 0, 0))


def _terms(inputs: Inputs, node: Node, done: Results, progress: Progress) -> Terms:
    from umber_knot.text.terms import find  # here, because dictionaries take long to load

    records = len(inputs.corpus)
    return find(inputs.reading.texts(inputs.corpus), records, lambda n: progress("reading the texts", n, records))


def _columns(inputs: Inputs, node: Node, done: Results, progress: Progress) -> NamedColumns:
    progress("reading the columns", 0, 0)
    return named_columns(inputs.corpus, inputs.reading.extras(inputs.corpus))


def _nothing(inputs: Inputs, node: Node) -> object:
    return ()


def _none_needed(inputs: Inputs, node: Node) -> tuple[Node, ...]:
    return ()


def _measure_needs(inputs: Inputs, node: Node) -> tuple[Node, ...]:
    return _same_strand("relate", "topics")(inputs, node) if _of_topics(node) else _same_strand("relate")(inputs, node)


def _of_topics(node: Node) -> bool:
    return any(of_column(column)[0].needs == "topics" for column in columns_in(node.variant))


def _measure(inputs: Inputs, node: Node, done: Results, progress: Progress) -> dict[str, Floats]:
    """The values of a family of measures."""
    related, said = done[Node("relate", node.strand)], node.variant.replace("_", " ")
    topics: Grouped | None = done.get(Node("topics", node.strand)) if _of_topics(node) else None
    on = measuring(inputs.corpus, related, topics, lambda n, of: progress(f"measuring {said}", n, of))
    on = dataclasses.replace(on, lengths=_strand(inputs, node).measures.weights == "distance")
    return measure(on, [c for c in columns_in(node.variant) if not missing(of_column(c)[0], on)])


def measuring(
    corpus: Corpus, related: Related, topics: Grouped | None, progress: Callable[[int, int], None] = lambda n, of: None
) -> Material:
    """What the measures of a strand are computed from."""
    network, counted = related.network, related.counted
    place = np.full(len(counted.things), -1, np.int32)
    place[related.shown()] = np.arange(len(network), dtype=np.int32)
    item = place[counted.item]
    here = item >= 0
    return Material(
        network,
        topics.topic if topics is not None else np.zeros(0, np.int32),
        item[here],
        corpus.citations[counted.record[here]],
        years(network.first),
        int(corpus.year.max(initial=0)),
        progress=progress,
    )


def _figures(inputs: Inputs, node: Node, done: Results, progress: Progress) -> dict[str, float]:
    return figures(_network(done, node), progress=lambda n, of: progress("measuring the network", n, of))


def _yardstick(inputs: Inputs, node: Node, done: Results, progress: Progress) -> dict[str, Floats]:
    """Of each figure the values of random networks; variant ``MODEL:RUNS:SEED``."""
    model, runs, seed = node.variant.split(":")
    seeds = range(int(seed), int(seed) + int(runs))
    return yardsticks(_network(done, node), model, seeds, lambda n, of: progress("making random networks", n, of))[1]


def _removal(inputs: Inputs, node: Node, done: Results, progress: Progress) -> dict[str, Floats]:
    """What is watched as items go; variant ``ORDER:RUNS:SEED``, at random with deviations of the runs (``… deviation``)."""
    order, runs, seed = node.variant.split(":")
    network = _network(done, node)

    def tell(n: int, of: int) -> None:
        progress("taking items out", n, of)

    if order == "random":
        trials = at_random(network, range(int(seed), int(seed) + int(runs)), tell)
        bands = {name: band(trials, name) for name in WATCHED}
        return {n: b.mean for n, b in bands.items()} | {f"{n} deviation": b.deviation for n, b in bands.items()}
    by, _, again = order.partition("_")
    trial = best_first(network, lambda now: measure(Material(now), [by])[by], bool(again), tell)
    return {name: getattr(trial, name) for name in WATCHED} | {"order": trial.order.astype(np.float64)}


def measured_nodes(strand: Strand) -> list[Node]:
    """What a strand's section ``[measures]`` asks for."""
    m, known = strand.measures, dict.fromkeys(family(column) for column in strand.measures.of_items)
    found = [Node("measure", strand.id, one) for one in known]
    found += [Node("figures", strand.id)] if m.of_network else []
    found += [Node("yardstick", strand.id, f"{m.yardstick}:{m.runs}:{m.seed}")] if m.yardstick else []
    return found + [Node("removal", strand.id, f"{order}:{m.runs}:{m.seed}") for order in m.removal]


#: Every stage, in working order.
STAGES: dict[str, Stage] = {
    "match": Stage(_match, _none_needed, _nothing),
    "columns": Stage(_columns, _none_needed, _nothing),
    "terms": Stage(_terms, _none_needed, _nothing),
    "reconcile": Stage(_reconcile, lambda i, n: found_kind(n.variant), _decided),
    "count": Stage(_count, _related_from, _counting, inner=True),
    "relate": Stage(_relate, lambda i, n: (Node("count", n.strand), *_joined_from(i, n)), _chosen, version=3),
    "group": Stage(_group, _same_strand("relate"), lambda i, n: (_clustering(i, n), _strand(i, n).group.min_size)),
    "name": Stage(
        _name,
        lambda i, n: (Node("relate", n.strand), Node("group", n.strand), Node("reconcile", 0, "keyword")),
        _nothing,
    ),
    "topics": Stage(
        _topics,
        _same_strand("relate", "group", "name"),
        lambda i, n: _memory(i.of(n.strand).identities, grouping_base(i, n.strand)),
        keeps=False,
    ),
    "lettering": Stage(_lettering, _same_strand("relate"), _nothing),
    "sizes": Stage(_sizes, _sized_from, lambda i, n: _strand(i, n).chart.size_by),
    "places": Stage(
        _places,
        _same_strand("relate"),
        lambda i, n: (arrangement_base(i, n.strand), _memory(i.of(n.strand).places, arrangement_base(i, n.strand))),
        keeps=False,
    ),
    "standing": Stage(
        _standing, _same_strand("relate", "places"), lambda i, n: sorted(i.of(n.strand).pins.items()), keeps=False
    ),
    "land": Stage(
        _land,
        _same_strand("standing", "sizes", "topics"),
        lambda i, n: _memory(i.of(n.strand).identities, grouping_base(i, n.strand)),
        keeps=False,
    ),
    "measure": Stage(
        _measure, _measure_needs, lambda i, n: n.variant == "paths_weighted" and _strand(i, n).measures.weights
    ),
    "figures": Stage(_figures, _same_strand("relate"), _nothing),
    "yardstick": Stage(_yardstick, _same_strand("relate"), _nothing),
    "removal": Stage(_removal, _same_strand("relate"), _nothing),
    "stability": Stage(
        _stability, _same_strand("relate", "group"), lambda i, n: (_clustering(i, n), _strand(i, n).group.runs)
    ),
}
#: What a chart is put together from.
CHARTED = ("relate", "topics", "lettering", "sizes", "standing", "land")


def digest(*parts: object) -> str:
    """A short hash of values with a stable text."""
    return hashlib.sha256("\x1f".join(map(repr, parts)).encode("utf-8", "surrogatepass")).hexdigest()[:24]


def needs(inputs: Inputs, node: Node) -> tuple[Node, ...]:
    """The nodes that a node is computed from."""
    return STAGES[node.stage].needs(inputs, node)


def node_key(inputs: Inputs, node: Node, known: dict[Node, str] | None = None) -> str:
    """The key of a node's result under these inputs; ``known`` are keys found already, and grows."""
    known = {} if known is None else known
    if node not in known:
        stage = STAGES[node.stage]
        above = [node_key(inputs, one, known) for one in stage.needs(inputs, node)] or [inputs.corpus_key]
        known[node] = digest(node.stage, node.variant, stage.version, above, stage.reads(inputs, node))
    return known[node]


def grouping_base(inputs: Inputs, strand: int) -> str:
    """The key of the state that a grouping's identities belong to."""
    return node_key(inputs, Node("group", strand))


def arrangement_base(inputs: Inputs, strand: int) -> str:
    """The key of the state that an arrangement's places belong to; it begins with how often it was laid out again."""
    chart = inputs.recipe.strand(strand).chart
    return f"{inputs.of(strand).afresh}:{digest(node_key(inputs, Node('relate', strand)), chart.layout, chart.seed)}"


def _afresh(base: str) -> int:
    return int(base.partition(":")[0] or 0)


def _memory(remembered: Mapping[str, Any], base: str) -> str:
    """What of the memory a result depends on: the state itself, where it is remembered, else the latest."""
    return f"as {base}" if base in remembered else f"after {next(reversed(list(remembered)), 'nothing')}"


def remembered_of(inputs: Inputs, strand: int, done: Results) -> Memory:
    """The memory of a strand's chart with the present state added as the latest."""
    network, memory = done[Node("relate", strand)].network, inputs.of(strand)
    kind, form = (Texts.of(part) for part in ([k for k, _ in network.identities()], network.form))
    grouped, made, laid = (done[Node(stage, strand)] for stage in ("topics", "land", "places"))
    places = _latest(memory.places, arrangement_base(inputs, strand), Places(kind, form, laid.x, laid.y))
    identity = Identities(kind, form, grouped.topic, dict(made.slots))
    return dataclasses.replace(
        memory, places=places, identities=_latest(memory.identities, grouping_base(inputs, strand), identity)
    )


def _latest(known: Mapping[str, Any], base: str, what: Any) -> dict[str, Any]:
    """What is known, with one more state as the latest."""
    return {key: value for key, value in known.items() if key != base} | {base: what}


def drawing_of(recipe: Recipe, strand: int, done: Results) -> Drawing | None:
    """The chart of a strand put together from its parts; None while one is missing."""
    parts: dict[str, Any] = {stage: done.get(Node(stage, strand)) for stage in CHARTED}
    if any(part is None for part in parts.values()):
        return None
    return Drawing(
        parts["relate"].network,
        parts["lettering"],
        parts["sizes"],
        parts["standing"],
        parts["topics"].topic,
        parts["land"],
        recipe.strand(strand).chart.tint_by,
    )
