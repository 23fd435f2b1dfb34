"""What workers can do, by role: ``stages`` brings a study up to date, ``brush`` draws the chart for a view."""

from __future__ import annotations

import json
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from umber_knot.corpus.model import KIND_WORDS, Corpus, Decision, Ints
from umber_knot.work.worker import Job


@dataclass(frozen=True, slots=True)
class State:
    """What a study's results follow from, as the window sends it; the corpus stays in the worker."""

    path: Path
    sources: tuple[tuple[int, str], ...]  # (number, hash) of the sources that are switched on
    decisions: tuple[Decision, ...]
    recipe: Any
    memory: Any


@dataclass(frozen=True, slots=True)
class Painted:
    """A finished view: its scene, and the ties as 32-bit premultiplied ARGB (height, width) at the screen's scale."""

    scene: Any
    ties: NDArray[np.uint32] | None
    complete: bool
    serial: int  # which drawing this is a view of


def by_role(role: str) -> dict[str, Callable[..., Any]]:
    """The tasks of a role; its libraries are loaded here, before the first request."""
    if role == "brush":
        from umber_knot.work.warm import warm

        warm(draw_only=True)
        brush = _Brush()
        return {"show": brush.show, "paint": brush.paint}
    stages = _Stages()
    return {
        "update": stages.update, "gather": stages.gather, "preview": stages.preview, "take": stages.take, "columns": stages.columns, "suggest": stages.suggest, "bring_in": stages.bring_in, "report": stages.report,
    }  # fmt: skip


class _Stages:
    """Keeps the corpus and the last results between requests."""

    def __init__(self) -> None:
        from umber_knot.lineage.cache import Cache
        from umber_knot.lineage.update import Lineage

        self.lineage = Lineage(Cache())
        self.corpus_key = ""
        self.corpus: Corpus | None = None
        self.results: dict[str, Any] = {}
        self.last: tuple[Any, Ints] | None = None
        self.memories: dict[str, Any] = {}
        self.offered: dict[str, tuple[list[Any], Any]] = {}  # suggestions and the resolution they are made on

    def _inputs(self, job: Job, state: State) -> Any:
        from umber_knot.corpus.study import Study
        from umber_knot.lineage.stages import Inputs, digest
        from umber_knot.relate.possible import possible

        on_records = [(d.decision, d.form, d.preferred, d.scope, d.note) for d in state.decisions if d.kind == "record"]
        key = digest(str(state.path), state.sources, on_records)
        if key != self.corpus_key or self.corpus is None:
            job.progress("opening the records")
            with Study.open(state.path) as study:
                self.corpus = study.corpus()
            self.corpus_key, self.last = key, None
            job.part(("gather", key, self.corpus, possible(self.corpus, None)))
        return Inputs(self.corpus, key, state.decisions, state.recipe, state.memory)

    def update(self, job: Job, state: State, send_corpus: bool, moved: bool = False) -> None:
        """Bring every stage up to date; each result is sent as a part (stage, key, result, what came of it).

        With the grouping comes what changed, with the chart what to remember of it. ``moved``: marks were dragged, so
        the state's own memory counts.
        """
        from umber_knot.corpus.study import Study
        from umber_knot.lineage.changes import compare
        from umber_knot.lineage.stages import layout_key, memory_of
        from umber_knot.relate.possible import possible

        known = self.corpus_key
        inputs = self._inputs(job, state)
        if send_corpus and known == self.corpus_key:
            job.part(("gather", self.corpus_key, self.corpus, possible(inputs.corpus, None)))
        place = layout_key(inputs)
        if place in self.memories and not moved:  # back at a state seen before: its chart as it was
            inputs = replace(inputs, memory=self.memories[place])
        for outcome in self.lineage.update(inputs, job.progress):
            self.results[outcome.stage] = outcome.result
            changes: Any = None
            if outcome.stage == "group":
                network, topic = self.results["relate"].filtered.network, outcome.result.topic
                if self.last is not None:
                    changes = compare(*self.last, network, topic)
                self.last = network, topic
            if outcome.stage == "chart":
                pinned = frozenset(k for k, m in inputs.memory.items.items() if m.pinned)
                changes = self.memories[place] = memory_of(
                    inputs, self.results["relate"].filtered.network, outcome.result, pinned
                )
                while len(self.memories) > 24:
                    del self.memories[next(iter(self.memories))]
            if outcome.stage == "match":
                changes = possible(inputs.corpus, outcome.result)
            job.part((outcome.stage, outcome.key, outcome.result, changes))
            if outcome.stage == "chart" and changes != state.memory:
                with Study.open(state.path) as study:
                    study.remember(changes.key, dict(changes.items), changes.slots)

    def gather(
        self,
        job: Job,
        path: Path,
        things: Sequence[Path | tuple[str, str]],
        instead_of: Sequence[int] = (),
        options: Any = None,
    ) -> tuple[list[tuple[str, str]], str]:
        """Read files, and texts as (name, text), into a study in one step, perhaps in place of older sources.

        Returns (name, why) of those that could not be read at all, and what replacing changed.
        """
        from umber_knot.gather.read import expanded, read_file, read_text
        from umber_knot.gather.remembered import recalled, remember

        chosen = dict(options or {}) | ({} if options and "fields" in options else {"remembered": recalled()})
        if options and "fields" in options:
            remember(options.get("header", ()), {k: v for k, v in options.items() if k != "header"})
        reading = ("", 0, 0)

        def told(what: str, done: int, of: int) -> None:
            nonlocal reading
            reading = what, done, of
            job.progress(what, done, of)

        harvests: list[Any] = [
            read_text(text, name, chosen) for name, text in (t for t in things if not isinstance(t, Path))
        ]
        harvests += [read_file(file, told, chosen) for file in expanded(t for t in things if isinstance(t, Path))]
        return self._save(path, harvests, lambda n: job.progress(*reading), instead_of)

    def _save(
        self, path: Path, harvests: Sequence[Any], progress: Callable[[int], None], instead_of: Sequence[int] = ()
    ) -> tuple[list[tuple[str, str]], str]:
        from umber_knot.corpus.study import Study

        with Study.open(path) as study:
            step, failed = study.add_sources(harvests, progress, instead_of)
            said = ""
            if step is not None and instead_of:
                said = study.difference(instead_of[0], step.switch[0][1][0]).sentence()
        return [(name, str(error)) for name, error in failed], said

    def columns(self, job: Job, file: Path, reading: str) -> tuple[Any, list[list[str]]]:
        """How the columns of a table file are read under earlier options (as JSON), and its first rows."""
        from umber_knot.gather.matching import matched_rows
        from umber_knot.gather.read import rows_of

        job.progress("looking at the columns")
        return matched_rows((cells for _, cells, _ in rows_of(file)), json.loads(reading or "{}"))

    def preview(self, job: Job, question: Any) -> tuple[int, list[tuple[str, str, int]]]:
        """How many records of a catalogue answer a question, and the first of them."""
        from umber_knot.gather.catalogue.client import ask, titles

        job.progress("asking the catalogue")
        answer = ask(question)
        return answer.total if answer.total >= 0 else len(answer.records), titles(answer.records[:20])

    def take(self, job: Job, path: Path, question: Any, most: int, today: str) -> tuple[list[tuple[str, str]], str]:
        """Take the records of a catalogue that answer a question into the study, as one source."""
        from umber_knot.gather.catalogue.client import collected, harvest
        from umber_knot.gather.read import read_text

        records = list(harvest(question, most, lambda done, of: job.progress("taking records", done, of)))
        asked = {"address": question.address, "protocol": question.protocol, "query": question.query, "asked": today}
        found = read_text(collected(records), question.name(), {"catalogue": asked})
        found.note = f"{question.protocol} {question.address}, “{question.query}”, asked {today}"
        return self._save(path, [found], lambda n: job.progress("saving the records", n, len(records)))

    def suggest(self, job: Job, state: State, kind: str) -> object:
        """Suggestions of one kind on what the ledger leaves open, with their effect where the network is of that kind."""
        from umber_knot.lineage.stages import digest
        from umber_knot.reconcile.decisions import resolve
        from umber_knot.reconcile.suggest import suggest
        from umber_knot.reconcile.suggestion import accepted
        from umber_knot.relate.effect import effects

        inputs = self._inputs(job, state)
        corpus, level = inputs.corpus, state.recipe.reconcile.accept.get(kind)
        own = [d for d in state.decisions if d.kind == kind]
        key = digest(self.corpus_key, kind, level, [(d.decision, d.form, d.preferred, d.scope) for d in own])
        if key not in self.offered:
            resolution = resolve(corpus, kind, own)
            offered = suggest(
                corpus, kind, resolution, own, lambda: job.progress(f"looking for variants of {KIND_WORDS[kind][1]}")
            )
            if level is not None:
                taken = accepted(resolution.mentions(corpus).forms, offered, level)
                resolution = resolve(corpus, kind, own + taken)
                offered = [s for s in offered if s.confidence < level or s.action != "merge"]
            self.offered[key] = offered, resolution
            while len(self.offered) > 2 * len(KIND_WORDS):
                del self.offered[next(iter(self.offered))]
        offered, resolution = self.offered[key]
        told = None
        if kind == state.recipe.relate.of:
            results = {o.stage: o.result for o in self.lineage.update(inputs, job.progress, ("reconcile", "relate"))}
            related = results["relate"]
            told = effects(
                results["reconcile"].by_kind[kind], related.counted, related.filtered, state.recipe.relate, offered
            )
        return kind, offered, resolution, told

    def bring_in(self, job: Job, state: State, file: Path) -> tuple[int, list[str]]:
        """Take the decisions of a CSV file into the study as one step: how many, and a line for each that was left out."""
        from umber_knot.corpus.study import Study
        from umber_knot.reconcile.decisions import read_decisions, sort_out

        job.progress("reading decisions")
        found, problems = read_decisions(file)
        corpus = self._inputs(job, state).corpus
        job.progress("trying the decisions")
        kept, why = sort_out(corpus, state.decisions, [d for _, d in found])
        problems += [f"{file.name}, line {found[k][0]}: {text}" for k, text in sorted(why.items())]
        if kept:
            with Study.open(state.path) as study:
                study.decide(f"bring in {len(kept):,} decisions from {file.name}", kept)
        return len(kept), problems

    def report(self, job: Job, state: State, theme: str) -> dict[str, bytes]:
        """Every file of the report as bytes, at a low resolution when only looked at."""
        from umber_knot.chart.palette import THEMES
        from umber_knot.report.write import contents

        inputs = self._inputs(job, state)
        results = {o.stage: o.result for o in self.lineage.update(inputs, job.progress)}
        job.progress("drawing the plate")
        return contents(inputs.corpus, results, state.recipe, THEMES[theme])


class _Brush:
    """Keeps the drawing and paints views of it: labels placed, ties drawn, strongest first."""

    CHUNK = 6000  # ties between two looks for a newer request

    def __init__(self) -> None:
        self.drawing: Any = None
        self.serial = 0

    def show(self, job: Job, drawing: Any, serial: int) -> None:
        """Take a new drawing."""
        self.drawing, self.serial = drawing, serial

    def paint(
        self, job: Job, view: Any, layers: Any, chosen: Ints, ratio: float, ink: str, least: float
    ) -> Painted | None:
        """Paint a view at ``ratio`` device pixels a pixel; ties lighter than ``least`` are left out."""
        from umber_knot.chart.palette import tie_ink
        from umber_knot.chart.raster import draw_lines, tinted
        from umber_knot.chart.scene import compose

        drawing = self.drawing
        if drawing is None:
            return None
        scene = compose(drawing, view, layers, chosen)
        if not layers.ties or not len(drawing.source):
            return Painted(scene, None, True, self.serial)
        order = drawing.order[drawing.weight[drawing.order] >= least]
        s, t = drawing.source[order], drawing.target[order]
        alpha, width = tie_ink(drawing.weight[order], drawing.topic[s] != drawing.topic[t])
        image = np.zeros((max(1, round(view.height * ratio)), max(1, round(view.width * ratio))), np.float32)
        x0, y0, x1, y1 = (np.ascontiguousarray(a * ratio) for a in (scene.x[s], scene.y[s], scene.x[t], scene.y[t]))
        for begin in range(0, len(order), self.CHUNK):
            end = min(begin + self.CHUNK, len(order))
            draw_lines(image, x0, y0, x1, y1, alpha, width * ratio, begin, end)
            if begin == 0 and end < len(order):
                job.part(Painted(scene, tinted(image, ink), False, self.serial))
            job.progress("drawing ties", end, len(order))
        return Painted(scene, tinted(image, ink), True, self.serial)
