"""All stages of a recipe without a window: files in, files out."""

from __future__ import annotations

import importlib.metadata
import json
import platform
import time
from collections.abc import Callable, Mapping
from functools import partial
from pathlib import Path
from typing import Any

from umber_knot import __version__
from umber_knot.corpus.by_hand import strays
from umber_knot.corpus.checking import check
from umber_knot.corpus.model import Corpus, Decision
from umber_knot.corpus.written import Reading
from umber_knot.errors import UserError
from umber_knot.gather.read import extras, read_corpus, texts
from umber_knot.lineage.nodes import Inputs, Node, digest, drawing_of, material, measured_nodes
from umber_knot.lineage.recipe import Recipe
from umber_knot.lineage.update import Lineage, Outcome, wanted
from umber_knot.reconcile.decisions import read_decisions
from umber_knot.relate.listing import emptied, way_back
from umber_knot.report.subject import Subject
from umber_knot.report.write import contents, write_files

Say = Callable[[str], None]
#: The nodes that each stage of ``run.json`` is made of.
_PARTS = {
    "reconcile": ("reconcile",),
    "relate": ("relate",),
    "group": ("group", "name", "topics"),
    "chart": ("lettering", "sizes", "places", "standing", "land"),
    "match": ("match",),
    "terms": ("terms",),
    "measures": ("measure", "figures", "yardstick", "removal"),
    "stability": ("stability",),
}


def run_recipe(recipe: Recipe, out: Path, say: Say = lambda text: None) -> dict[str, Any]:
    """Run every stage and write the contract's files into ``out``, of each further strand into a folder of its name;
    returns what goes into ``run.json``."""
    if not recipe.gather.sources:
        raise UserError("gather.sources names no file", place="recipe", cure='Write sources = ["records.ris"]')
    began = time.perf_counter()
    decisions: list[Decision] = []
    for name in recipe.reconcile.decisions:
        found, problems = read_decisions(recipe.folder / name)
        decisions += [d for _, d in found]
        for line in problems:
            say(line)
    sources = [recipe.folder / name for name in recipe.gather.sources]
    corpus = read_corpus(sources, decisions)
    _say_sources(corpus, say)
    seconds = time.perf_counter() - began
    key = digest([(s.name, s.sha256) for s in corpus.sources], [d for d in decisions if d.kind == "record"])
    inputs = Inputs(
        corpus, key, tuple(decisions), recipe, reading=Reading(partial(texts, sources), partial(extras, sources))
    )
    outcomes = {o.node: o for o in Lineage().update(inputs, lambda what, done, of: None, wanted(inputs))}
    for decision, why in strays(decisions, {s.id for s in recipe.strands}):
        say(f"change by hand not applied ({decision.decision} {decision.form!r}): {why}")
    for _, why in corpus.flow.unapplied:
        say(f"decision not applied: {why}")
    for node, o in outcomes.items():
        for decision, why in o.result.resolution.unapplied if node.stage == "reconcile" else ():
            say(f"decision not applied ({decision.decision} {decision.form!r}): {why}")
        for decision, why in o.result.filtered.unapplied if node.stage == "relate" else ():
            say(f"change by hand not applied ({decision.decision} {decision.form!r}): {why}")
    gathered = {
        "records": len(corpus),
        "read": corpus.flow.read,
        "joined": corpus.flow.by_identifier + corpus.flow.by_title,
        "doubtful": len(corpus.doubtful),
        "excluded": dict(corpus.flow.excluded),
        "problems": sum(len(s.problems) for s in corpus.sources),
        "seconds": round(seconds, 3),
    }
    summaries = []
    for strand, folder, name in zip(recipe.strands, recipe.folders(), recipe.names()):
        run = {node.stage for node in outcomes}
        told = {part: _told(part, strand.id, inputs, outcomes) for part in _PARTS if run & {*_PARTS[part]}}
        stages = {"gather": gathered} | told
        began = time.perf_counter()
        files = contents(subject(inputs, strand.id, {n: o.result for n, o in outcomes.items()}))
        write_files(out / folder, files)
        stages["report"] = {"files": sorted(files), "seconds": round(time.perf_counter() - began, 3)}
        seeds = {"group": strand.group.seed, "chart": strand.chart.seed}
        summaries.append({"name": name, "folder": folder or ".", "seeds": seeds, "stages": stages})
        network, topics = (
            outcomes[Node("relate", strand.id)].result.network,
            outcomes[Node("topics", strand.id)].result.topics,
        )
        if why := emptied(outcomes[Node("relate", strand.id)].result):
            back = way_back(outcomes[Node("relate", strand.id)].result)
            say(f"{name} has no ties: {why}" + (f"; {back}" if back else ""))
        titled = f"{name}: " if len(recipe.strands) > 1 else ""
        say(f"{titled}{len(network):,} items, {network.ties:,} ties, {len(topics)} topics → {out / folder}")
    summary = _summary(summaries)
    write_files(out, {"run.json": (json.dumps(summary, indent=1, ensure_ascii=False) + "\n").encode()})
    return summary


def subject(inputs: Inputs, strand: int, results: Mapping[Node, Any]) -> Subject:
    """What the report of a strand is written from."""
    recipe, own = inputs.recipe, inputs.recipe.strand(strand)
    reconciled = {node.variant: r for node, r in results.items() if node.stage == "reconcile"}
    drawing = drawing_of(recipe, strand, results)
    assert drawing is not None
    name = recipe.names()[recipe.strands.index(own)]
    return Subject(
        name,
        material(inputs.corpus, results),
        (*inputs.decisions, *(d for r in reconciled.values() for d in r.taken)),
        recipe.reconcile.accept,
        {kind: r.resolution for kind, r in reconciled.items()},
        own.relate,
        own.group,
        own.chart,
        recipe.report,
        results[Node("relate", strand)],
        results[Node("topics", strand)],
        results[Node("stability", strand)],
        drawing,
        results.get(Node("terms")),
        own.measures,
        {node: result for node, result in results.items() if node in set(measured_nodes(own))},
    )


def _say_sources(corpus: Corpus, say: Say) -> None:
    for source, checked in zip(corpus.sources, check(corpus)):
        say(f"{source.name}: {source.records:,} records")
        for problem in source.problems[:5]:
            say(f"  line {problem.line:,}: {problem.message}" if problem.line else f"  {problem.message}")
        if len(source.problems) > 5:
            say(f"  {len(source.problems) - 5:,} more problems; ./umber inspect lists them all")
        for odd in checked.odd:
            say(f"  looks odd: {odd.said()}")


def _told(part: str, strand: int, inputs: Inputs, outcomes: Mapping[Node, Outcome]) -> dict[str, Any]:
    """Counts, seconds and peak memory of a stage of one strand."""
    own = [o for node, o in outcomes.items() if node.stage in _PARTS[part] and node.strand in (0, strand)]
    if not own:
        return {}
    results = {o.node: o.result for o in own}
    took = {"seconds": round(sum(o.seconds for o in own), 3), "peak_mb": round(max(o.peak_mb for o in own), 1)}
    return {**_counts(part, strand, inputs, results), **took}


def _counts(part: str, strand: int, inputs: Inputs, results: Mapping[Node, Any]) -> dict[str, Any]:
    if part == "reconcile":
        taken = sum(len(r.taken) for r in results.values())
        entities = {node.variant: len(r.resolution.label) for node, r in results.items()}
        return {"entities": entities, "decisions": len(inputs.decisions) + taken}
    if part == "relate":
        filtered = results[Node("relate", strand)].filtered
        steps = [{"what": w, "before": b, "after": a, "unit": u} for w, b, a, u in filtered.steps]
        return {"items": len(filtered.network), "ties": filtered.network.ties, "filters": steps}
    if part == "group":
        grouped = results[Node("topics", strand)]
        return {"topics": len(grouped.topics), "modularity": grouped.modularity, "quality": grouped.quality}
    if part == "measures":
        return {"columns": sorted(name for node, r in results.items() if node.stage == "measure" for name in r)}
    if part == "terms":
        terms = results[Node("terms")]
        return {"terms": len(terms.forms), "texts": terms.told}
    if part == "match":
        matched = results[Node("match")]
        return {"references": len(matched.record), "found_here": len(matched)}
    if part == "stability":
        index = results[Node("stability", strand)].index
        return {"adjusted_rand": None if index != index else index}
    return {"items": len(results[Node("places", strand)].x)}


def _summary(strands: list[dict[str, Any]]) -> dict[str, Any]:
    """``run.json``: the first strand's stages as ever, and every strand by name."""
    packages = ("numpy", "scipy", "igraph", "numba", "rispy", "bibtexparser", "contourpy", "uharfbuzz", "resvg_py")
    return {
        "umber_knot": __version__,
        "python": platform.python_version(),
        "packages": {name: importlib.metadata.version(name) for name in packages},
        "seeds": strands[0]["seeds"],
        "stages": strands[0]["stages"],
        "strands": [{"name": s["name"], "folder": s["folder"]} if k == 0 else s for k, s in enumerate(strands)],
    }
