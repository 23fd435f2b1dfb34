"""All stages of a recipe without a window: files in, files out."""

from __future__ import annotations

import importlib.metadata
import json
import platform
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from umber_knot import __version__
from umber_knot.corpus.model import Decision
from umber_knot.errors import UserError
from umber_knot.gather.read import read_corpus
from umber_knot.lineage.recipe import Recipe
from umber_knot.lineage.stages import Inputs, digest
from umber_knot.lineage.update import Lineage
from umber_knot.reconcile.decisions import read_decisions
from umber_knot.report.write import contents, write_files

Say = Callable[[str], None]


def run_recipe(recipe: Recipe, out: Path, say: Say = lambda text: None) -> dict[str, Any]:
    """Run every stage and write the contract's files into ``out``; returns what goes into ``run.json``."""
    if not recipe.gather.sources:
        raise UserError("gather.sources names no file", place="recipe", cure='Write sources = ["records.ris"]')
    began = time.perf_counter()
    decisions: list[Decision] = []
    for name in recipe.reconcile.decisions:
        found, problems = read_decisions(recipe.folder / name)
        decisions += [d for _, d in found]
        for line in problems:
            say(line)
    corpus = read_corpus([recipe.folder / name for name in recipe.gather.sources], decisions)
    for source in corpus.sources:
        say(f"{source.name}: {source.records:,} records")
        for problem in source.problems[:5]:
            say(f"  line {problem.line:,}: {problem.message}")
        if len(source.problems) > 5:
            say(f"  {len(source.problems) - 5:,} more problems; ./umber inspect lists them all")
    stages: dict[str, Any] = {
        "gather": {
            "records": len(corpus),
            "read": corpus.flow.read,
            "joined": corpus.flow.by_identifier + corpus.flow.by_title,
            "excluded": dict(corpus.flow.excluded),
            "problems": sum(len(s.problems) for s in corpus.sources),
            "seconds": round(time.perf_counter() - began, 3),
        }
    }
    key = digest([(s.name, s.sha256) for s in corpus.sources], [d for d in decisions if d.kind == "record"])
    inputs = Inputs(corpus, key, tuple(decisions), recipe)
    results: dict[str, Any] = {}
    for outcome in Lineage().update(inputs, lambda what, done, of: None):
        results[outcome.stage] = outcome.result
        stages[outcome.stage] = {
            **_counts(outcome.stage, outcome.result),
            "seconds": round(outcome.seconds, 3), "peak_mb": round(outcome.peak_mb, 1),
        }  # fmt: skip
    for text in corpus.flow.unapplied:
        say(f"decision not applied: no record is at {text}")
    for decision, why in (u for r in results["reconcile"].by_kind.values() for u in r.unapplied):
        say(f"decision not applied ({decision.decision} {decision.form!r}): {why}")
    began = time.perf_counter()
    files = contents(corpus, results, recipe)
    write_files(out, files)
    stages["report"] = {"files": sorted(files), "seconds": round(time.perf_counter() - began, 3)}
    packages = ("numpy", "scipy", "igraph", "numba", "rispy", "bibtexparser", "contourpy", "uharfbuzz", "resvg_py")
    summary = {
        "umber_knot": __version__,
        "python": platform.python_version(),
        "packages": {name: importlib.metadata.version(name) for name in packages},
        "seeds": {"group": recipe.group.seed, "chart": recipe.chart.seed},
        "stages": stages,
    }
    write_files(out, {"run.json": (json.dumps(summary, indent=1, ensure_ascii=False) + "\n").encode()})
    network = results["relate"].filtered.network
    say(f"{len(network):,} items, {network.ties:,} ties, {len(results['group'].topics)} topics → {out}")
    return summary


def _counts(stage: str, result: Any) -> dict[str, Any]:
    if stage == "reconcile":
        return {"entities": {k: len(r.label) for k, r in result.by_kind.items()}, "decisions": len(result.ledger)}
    if stage == "relate":
        steps = [{"what": w, "before": b, "after": a, "unit": u} for w, b, a, u in result.filtered.steps]
        return {"items": len(result.filtered.network), "ties": result.filtered.network.ties, "filters": steps}
    if stage == "group":
        return {"topics": len(result.topics), "modularity": round(result.modularity, 6)}
    if stage == "match":
        return {"references": len(result.record), "found_here": len(result)}
    if stage == "stability":
        return {"adjusted_rand": None if result.index != result.index else round(result.index, 6)}
    return {"items": len(result)}
