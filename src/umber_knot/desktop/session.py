"""The session: what the worker is asked for and when, and how what it gives becomes the one snapshot that is shown.

A snapshot is published when the results that the desk in view needs are all there, and grows with those that follow.
Until
then the last one stays; nothing on screen ever combines two states.
"""

from __future__ import annotations

import dataclasses
from collections.abc import Iterable
from pathlib import Path
from typing import Any

from umber_knot.corpus.file import WINDOW, older
from umber_knot.corpus.study import Study
from umber_knot.desktop.commands import WRITING, Commands
from umber_knot.desktop.loading import Loader
from umber_knot.desktop.published import REVIEWED, STAGES
from umber_knot.desktop.schedule import Running, Schedule
from umber_knot.desktop.selection import Selection
from umber_knot.desktop.wording import several
from umber_knot.errors import UserError
from umber_knot.lineage.nodes import Node
from umber_knot.lineage.recipe import Recipe, parse_recipe
from umber_knot.lineage.snapshot import Snapshot
from umber_knot.relate.parameters import SHARED
from umber_knot.work.client import Worker
from umber_knot.work.state import Changed, CorpusPart, NodePart, Passed, Renamed

__all__ = ["REVIEWED", "STAGES", "Selection", "Session"]
#: Tasks that need no state of the study.
ASKING = ("preview", "columns")
#: The stage of the thread that a node's result belongs to.
_STAGE_OF = {
    "name": "group",
    "topics": "group",
    "lettering": "chart",
    "sizes": "chart",
    "places": "chart",
    "standing": "chart",
    "land": "chart",
}


class Session(Commands):
    """The open study: see Published for what is known of it, and Commands for what can be done."""

    def __init__(self, stages: Worker | None = None) -> None:
        self._needed = frozenset({"gather"})  # what the desk in view needs before a new state is shown
        super().__init__()
        self.schedule = Schedule(stages or Worker("stages"), self)
        self.worker = self.schedule.worker
        self.schedule.part.connect(self._part)
        self.schedule.ended.connect(self._ended)
        self.schedule.progressed.connect(self.progressed)
        self.loader = Loader(self)
        self.loader.loaded.connect(self._loaded)

    def clear(self) -> None:
        super().clear()
        self._besides: object = None  # what was asked for beside the stages, and in which state
        self._coming: Snapshot | None = None  # of the present state, as far as it has arrived
        self._held: dict[str, Any] = {}  # results by key, of what is shown and coming
        self._files: dict[str, Path | None] = {}  # key → the file it is in, for the drawing process
        self._queue: list[tuple[str, tuple[object, ...]]] = []
        self._outdated = False
        self._basis: dict[str, object] = {}  # kind → what its suggestions were made on
        self._changes: list[Changed] = []
        self.failed: tuple[str, str] | None = None  # the last fault; how to try again is `retry`
        self.damaged: Path | None = None  # a study that could not be opened, of which what can be read may be saved

    @property
    def task(self) -> str:
        return self.schedule.task

    @property
    def running(self) -> Running | None:
        return self.schedule.running

    # -- opening and closing

    def open(self, path: Path) -> None:
        """Open a study; what it needs is computed while the window is already there. One of an older format is brought
        up to date by the worker first."""
        if older(path):
            self.said.emit("Bringing up to date", f"{path.name} is of an older format; a copy of it is kept", "note")
            self.ask("migrate", path)
        else:
            self._open(path)

    def _open(self, path: Path) -> None:
        study = Study.open(path, WINDOW)
        try:
            recipe = parse_recipe(study.recipe(), str(path))
            self.close()
            self.study = study
            self.clear()
            self.recipe = recipe
            self.read_state()
        except UserError:
            study.close()
            self.study = None
            raise
        self.strand_id = recipe.strands[0].id
        self.reconcile_kind = recipe.relate.of if recipe.relate.of in REVIEWED else "keyword"
        self.opened.emit()
        self.refresh()
        if study.read_only:
            self.said.emit("Read only", "changes cannot be saved here; save a copy to work on", "note")

    def create(self, path: Path) -> None:
        """Make a new, empty study and open it."""
        with Study.create(path) as study:
            study.set_recipe("new study", Recipe().toml())
        self.open(path)

    def close(self) -> None:
        if self.study is not None:
            self.schedule.cancel()
            self._queue.clear()
            self.study.close()
            self.study = None

    def shut_down(self) -> None:
        """Close the study and end the worker."""
        self.close()
        self.loader.stop()
        self.schedule.shut_down()

    def salvage(self, to: Path) -> None:
        """Save what can be read of the damaged study."""
        if self.damaged is not None:
            self.label = f"what can be read, in {to.name}"
            self.ask("salvage", self.damaged, to)

    # -- what is looked at

    def need(self, stages: frozenset[str]) -> None:
        """What the desk in view needs before a new state is shown."""
        self._needed = stages
        self._publish()

    def look_at(self, number: int) -> None:
        """Look at another strand; a selection that means something there is kept."""
        if number != self.strand_id and number in {s.id for s in self.recipe.strands}:
            self.strand_id = number
            self._prune_selection()
            self.arrived.emit(frozenset(STAGES) | {"strand", "stability"})
            if not self.shown.has(frozenset({"land"}), number):
                self._update_again()
            else:
                self._next()  # the effects of suggestions are another network's

    def review(self, kind: str) -> None:
        """Look at another kind in Reconcile."""
        self.reconcile_kind, self.reviewing = kind, True
        if self.resolution(kind) is None:
            self._update_again()
        else:
            self._next()

    def show_beside(self, asked: Iterable[tuple[str, str]]) -> None:
        """Have further stages (and variants) of the network looked at computed, and kept up to date while they are shown."""
        self.asked = tuple(dict.fromkeys((*self.asked, *asked)))
        nodes = [Node(stage, self.strand_id, variant) for stage, variant in self.asked]
        now = self.asked, self.strand_id, self.serial
        if now != self._besides and any(node not in self.shown.results for node in nodes):
            # once for a state: what is under way is not given up for itself, and what failed is not tried again
            self._besides = now
            self._outdated = True  # what another desk waits for is finished first
            if not self.schedule.busy:
                self._next()
            elif self.task == "update":
                self.schedule.cancel()

    # -- asking the worker

    def refresh(self, label: str = "") -> None:
        """There is a new state: bring everything up to date."""
        self.serial += 1
        self._coming = self.present()
        self._changes = []
        self.label = label or self.label
        self.staled.emit()
        self._queue = [q for q in self._queue if q[0] in WRITING]
        self._update_again()

    def _update_again(self) -> None:
        self._outdated = True
        if not self.schedule.busy:
            self._next()
        elif self.task not in WRITING:
            self.schedule.cancel()

    def ask(self, task: str, *arguments: object) -> None:
        if (task, arguments) not in self._queue:
            self._queue.append((task, arguments))
        if not self.schedule.busy:
            self._next()
        elif task in WRITING and self.task not in WRITING:
            self._outdated |= self.task == "update"  # what is given up for it is taken up again
            self.schedule.cancel()

    def wants(self, what: str) -> None:
        """Ask for something a desk shows beside the stages: ``report:THEME``, ``spellings:KIND:LIKE``."""
        task, _, detail = what.partition(":")
        if self.study is not None:
            self.ask(task, *detail.split(":", 1 if task == "spellings" else 0))

    def read_columns(self, number: int) -> None:
        """Ask how the columns of a table are read: ``columns`` arrives."""
        source = next(s for s in self.sources if s.id == number)
        self.ask("columns", Path(source.path), source.reading)

    def ask_catalogue(self, question: Any) -> None:
        """Ask how many records answer, and for the first of them: ``preview`` arrives."""
        self.preview = None
        self.ask("preview", question)

    def _next(self) -> None:
        """Send what comes next: what writes or asks, then the present state, then what desks show beside it."""
        if self.schedule.busy:
            return
        if self._queue and self._queue[0][0] in (*WRITING, *ASKING):
            task, arguments = self._queue.pop(0)
            self.failed = None
            self.schedule.send(task, *arguments)
        elif self.study is not None and self._outdated:
            self._outdated, self.failed = False, None
            self.schedule.send("update", self.state(), frozenset(self._held))
        elif self.study is not None and self._queue:
            task, arguments = self._queue.pop(0)
            self.schedule.send(task, self.state(), *arguments)
        elif self.study is not None and self.corpus is not None and (kind := self._unreviewed_kind()):
            self._basis[kind] = self._basis_of(kind)
            self.schedule.send("suggest", self.state(), kind)
        else:
            self.schedule.rest()
            self.idle.emit()

    def _unreviewed_kind(self) -> str:
        """The next kind to make suggestions for: the one looked at first, then those that have forms."""
        assert self.corpus is not None
        for kind in (self.reconcile_kind, *REVIEWED):
            if len(self.corpus.of(kind).forms) and self._basis.get(kind) != self._basis_of(kind):
                return kind
        return ""

    def _basis_of(self, kind: str) -> object:
        """What the suggestions of a kind follow from."""
        own = [d.id for d in self.decisions if d.kind == kind]
        relate = self.strand.relate if self.strand.relate.of == kind and self.strand.relate.tie in SHARED else None
        return self.state().corpus_key(), own, self.recipe.reconcile.accept.get(kind), relate

    def stop_work(self) -> None:
        """What the Stop link does: give up the running task and what waits behind it."""
        self._outdated = False
        self._queue.clear()
        self.schedule.cancel()

    def retry(self) -> None:
        """Try again after a fault."""
        if self.failed is not None:
            self.failed = None
            self.refresh("try again")

    # -- hearing from it

    def _part(self, part: Any) -> None:
        if self.study is None:
            return
        if isinstance(part, Renamed):
            self.loader.load(part, Passed(None))  # after what is on its way
        elif isinstance(part, Changed):
            if part.serial == self.serial:
                self._changes.append(part)
                self._say_changes()
        elif part.serial == self.serial:
            key = part.key
            if isinstance(part, NodePart) and part.passed.file is not None:
                self._files[key] = part.passed.file
            if part.passed == Passed(None) and key in self._held:
                self._take(part, self._held[key])
            else:  # what is only named is on its way
                self.loader.load(part, part.passed)

    def _loaded(self, part: Any, value: Any) -> None:
        if self.study is None:
            return
        if part == "offers":
            self._take_offers(value)
        elif isinstance(part, Renamed):
            self._rename(part)
        elif isinstance(part, (NodePart, CorpusPart)):
            value = self._held.get(part.key) if value is None else value
            if value is not None:
                self._held[part.key] = value
            if part.serial == self.serial:
                self._take(part, value) if value is not None else self._update_again()  # its file is gone

    def _take(self, part: NodePart | CorpusPart, value: Any) -> None:
        """A result of the present state is here."""
        coming = self._coming
        if coming is None or coming.serial != part.serial or value is None:
            return
        if isinstance(part, CorpusPart):
            self._coming = dataclasses.replace(
                coming,
                corpus=value,
                corpus_key=part.key,
                possible=tuple(part.possible),
                offered=part.offered,
                checked=part.checked,
            )
        else:
            results, keys = dict(coming.results), dict(coming.keys)
            results[part.node], keys[part.node] = value, part.key
            self._coming = dataclasses.replace(coming, results=results, keys=keys)
        self._publish()

    def _rename(self, part: Renamed) -> None:
        if part.key in self._held:
            self._held[part.new] = self._held[part.key]
            self._files[part.new] = self._files.get(part.key)
        if self._coming is not None and self._coming.keys.get(part.node) == part.key:
            self._coming = dataclasses.replace(self._coming, keys={**self._coming.keys, part.node: part.new})
            if self.shown.serial == self._coming.serial:
                self.shown = self._coming

    def _publish(self) -> None:
        """Show what is there of the present state, once the desk in view has all it needs of it."""
        coming, shown = self._coming, self.shown
        if coming is None or coming is shown or self.study is None or coming.corpus is None:
            return
        first = shown.corpus is None
        if not first and shown.serial != coming.serial and not coming.has(self._needed, self.strand_id):
            return
        fresh = {
            _STAGE_OF.get(node.stage, node.stage)
            for node in coming.results
            if coming.results[node] is not shown.results.get(node) and node.strand in (0, self.strand_id, self.beside)
        }
        fresh |= {"gather"} if coming.corpus is not shown.corpus or coming.possible is not shown.possible else set()
        if shown.serial != coming.serial:
            fresh |= set(STAGES)
        self.shown = coming
        self._prune_selection()
        if fresh:
            self.arrived.emit(frozenset(fresh))

    def part_of_chart(self, strand: int, stage: str) -> tuple[str, Passed]:
        """Key and whereabouts of a part of what is shown, for the drawing process."""
        node = Node(stage, strand)
        key = self.shown.keys[node]
        file = self._files.get(key)
        return key, Passed(file, self.shown.results[node])

    def _say_changes(self) -> None:
        """What changed, in the strand looked at and, where anything did, in the others."""
        own = next((c for c in self._changes if c.strand == self.strand_id), None)
        others = [c for c in self._changes if c.strand != self.strand_id and c.anything]
        if own is None or not self.label:
            return
        text = own.sentence + "".join(f" | {self.strand_name(c.strand)}: {c.sentence}" for c in others)
        self.said.emit("What changed", f"{self.label}: {text}", "change")
        self._note_effect(text)

    def _note_effect(self, effect: str) -> None:
        """Keep what changed beside the decisions that changed it."""
        if self.noted and self.study is not None and self.task not in WRITING:
            try:
                self.study.note_effect(self.noted, effect)
            except UserError:  # another process writes just now; the decision itself is safe
                return
            noted = set(self.noted)
            self.decisions = tuple(
                dataclasses.replace(d, effect=effect) if d.id in noted else d for d in self.decisions
            )

    def _prune_selection(self) -> None:
        """Drop from the selection what the strand shown does not hold."""
        s = self.selection
        if self.related is None:
            return
        kept = tuple(one for one in s.items if self.item(one) >= 0)
        tie = s.tie if s.tie and min(map(self.item, s.tie)) >= 0 else None
        if (kept, tie) != (s.items, s.tie):
            self.select(dataclasses.replace(s, items=kept, tie=tie))

    def _take_offers(self, offers: Any) -> None:
        if offers is None or self._basis.get(offers.kind) != self._basis_of(offers.kind):
            self._next()  # they are of an earlier state: those of the present one are asked for
            return
        if not self.reviewing and offers.suggestions:  # begin where something waits
            mine = self.offers.get(self.reconcile_kind)
            self.reconcile_kind = self.reconcile_kind if mine is not None and mine.suggestions else offers.kind
            self.reviewing = True
        self.offers[offers.kind] = offers
        self.arrived.emit(frozenset({f"suggest:{offers.kind}"}))

    def _ended(self, task: str, what: str, value: Any) -> None:
        if what == "error":
            self._fault(task, *value)
        elif what == "cancelled":
            if task == "suggest":
                self._basis.clear()
            if not self._outdated and not self._queue:
                unchanged = "nothing was changed" if task in WRITING else "some results are not up to date"
                self.said.emit("Stopped", unchanged, "note")
        else:
            getattr(self, f"_done_{task}", lambda value: None)(value)
        self._next()

    def _fault(self, task: str, text: str, detail: str, damaged: bool = False) -> None:
        self.failed = (text, detail)
        self._outdated = False
        if damaged and self.study is not None:
            self.damaged = self.study.path
        self.said.emit("Stopped", text, "fault")

    def _done_update(self, value: None) -> None:
        """All of a state was sent: let go of the results that nothing shows or awaits."""
        keep = {
            key for one in (self.shown, self._coming) if one is not None for key in (one.corpus_key, *one.keys.values())
        }
        waiting = self.loader.waiting()
        self._held = {key: value for key, value in self._held.items() if key in keep or waiting}
        self._files = {key: file for key, file in self._files.items() if key in keep or waiting}

    def _done_bring_in(self, value: tuple[int, list[str]]) -> None:
        applied, self.left_out = value
        self.noted = ()
        self.read_state()
        self.label = self.label if applied else ""
        if self.left_out:
            lines = f"{several(len(self.left_out), 'line')} left out"
            self.said.emit(lines, f"{applied:,} decisions were applied; the ledger lists the others", "fault")
        self.arrived.emit(frozenset({"ledger"}))
        if applied:
            self.refresh(self.label)

    def _done_gather(self, value: tuple[list[tuple[str, str]], str]) -> None:
        failed, changed = value
        self.read_state()
        self.unread = failed
        if failed:
            self.label += f" · {several(len(failed), 'file')} could not be read"
        for name, why in failed:
            self.said.emit(f"{name} was not read", why, "fault")
        if changed:
            self.label += f": {changed}"
        self.refresh(self.label)

    _done_take = _done_gather

    def _done_preview(self, value: Any) -> None:
        self.preview = value
        self.arrived.emit(frozenset({"preview"}))

    def _done_columns(self, value: Any) -> None:
        self.columns = value
        self.arrived.emit(frozenset({"columns"}))

    def _done_suggest(self, value: tuple[str, Passed]) -> None:
        self.loader.load("offers", value[1])

    def _done_spellings(self, value: Any) -> None:
        self.spellings = value
        self.arrived.emit(frozenset({"spellings"}))

    def _done_report(self, value: dict[str, bytes]) -> None:
        self.files = value
        self.arrived.emit(frozenset({"files"}))

    def _done_copy(self, value: Path) -> None:
        self.said.emit("Saved", f"a copy of the study, {value}", "note")

    def _done_salvage(self, value: tuple[Path, str]) -> None:
        path, lost = value
        self.damaged = None
        self.open(path)
        self.said.emit("Saved what can be read", f"{path.name}; {lost}", "note")

    def _done_migrate(self, path: Path) -> None:
        try:
            self._open(path)
        except UserError as error:
            self.said.emit("Not opened", str(error), "fault")
