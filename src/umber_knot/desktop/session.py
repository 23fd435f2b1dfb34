"""The open study as the window knows it: state, results as they arrive, selection, and every command.

Widgets read its attributes and listen to its signals; they never touch the study or a worker themselves.
"""

from __future__ import annotations

import dataclasses
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QObject, QSocketNotifier, QTimer, pyqtSignal

from umber_knot.corpus.model import KIND_WORDS, Corpus, Decision, Mentions
from umber_knot.corpus.study import RecordDetail, Study
from umber_knot.errors import UserError
from umber_knot.lineage.recipe import Recipe, parse_recipe
from umber_knot.lineage.stages import Memory
from umber_knot.reconcile.decisions import refused
from umber_knot.work.client import Worker
from umber_knot.work.tasks import State

#: Kinds that suggestions are made for, in the order they are looked for.
REVIEWED = ("person", "keyword", "institution", "venue", "place", "reference")
STAGES = ("gather", "reconcile", "relate", "group", "chart", "report")
#: Tasks that write records into the study; nothing else may write meanwhile, and a refresh does not stop them.
WRITING = ("gather", "take", "bring_in")
#: Tasks that need no state of the study.
ASKING = ("preview", "columns")


@dataclass(frozen=True, slots=True)
class Selection:
    """What is selected anywhere: ``items`` by label, a ``tie`` by two labels, a ``topic`` by number from 0, or a
    ``record`` by its place in the corpus."""

    items: tuple[str, ...] = ()
    tie: tuple[str, str] | None = None
    topic: int | None = None
    record: int | None = None

    def __bool__(self) -> bool:
        return bool(self.items or self.tie or self.topic is not None or self.record is not None)


class Session(QObject):
    """Attributes: ``study``; ``corpus``, ``reconciled``, ``related``, ``grouped``, ``drawing``, ``stable`` (None until
    computed); ``suggestions`` and ``open_resolution`` by kind; ``current`` stages; ``running`` text and share."""

    opened = pyqtSignal()
    arrived = pyqtSignal(str)  # a stage's result, or "suggest:KIND", or "files"
    staled = pyqtSignal()
    progressed = pyqtSignal()
    said = pyqtSignal(str, str, str)  # what changed, details, kind: "change", "note" or "fault"
    selected = pyqtSignal()
    idle = pyqtSignal()

    def __init__(self, stages: Worker | None = None) -> None:
        super().__init__()
        self.worker = stages or Worker("stages")
        self._notifier: QSocketNotifier | None = None
        self._watched = 0
        self._poll = QTimer(self)  # while a cancel is pending, its deadline is watched
        self._poll.setInterval(60)
        self._poll.timeout.connect(self._hear)
        self.study: Study | None = None
        self._clear()

    def _clear(self) -> None:
        self.corpus: Corpus | None = None
        self.reconciled: Any = None
        self.related: Any = None
        self.grouped: Any = None
        self.drawing: Any = None
        self.stable: Any = None
        self.matched: Any = None
        self.possible: list[Any] = []  # which ties the records allow
        self.preview: tuple[int, list[tuple[str, str, int]]] | None = None
        self.unread: list[tuple[str, str]] = []  # files of the last import that could not be read at all, and why
        self.columns: Any = None  # (match, sample rows) of the table asked for last
        self.files: dict[str, bytes] = {}
        self.suggestions: dict[str, list[Any]] = {}
        self.unreviewed = set(REVIEWED)  # kinds whose suggestions are of an earlier state
        self.effects: dict[str, list[Any]] = {}  # what each suggestion would change, where the network is of its kind
        self.left_out: list[str] = []  # lines of the last file of decisions that could not be applied
        self._noted: tuple[int, ...] = ()  # decisions whose effect is still to be kept
        self.open_resolution: dict[str, Any] = {}
        self.recipe = Recipe()
        self.decisions: tuple[Decision, ...] = ()
        self.sources: tuple[Any, ...] = ()
        self.memory = Memory()
        self.current: set[str] = set()
        self.selection = Selection()
        self.running: tuple[str, int, int, float | None] | None = None
        self.task = ""
        self._label = ""
        self._queue: list[tuple[str, tuple[object, ...]]] = []
        self._outdated = self._moved = False
        self.failed: tuple[str, str] | None = None  # the last fault and how to try again is `retry`
        self.reconcile_kind, self.reviewing = "person", False

    # -- opening and closing

    def open(self, path: Path) -> None:
        """Open a study; what it needs is computed while the window is already there."""
        study = Study.open(path)
        try:
            recipe = parse_recipe(study.recipe(), str(path))
        except UserError:
            study.close()
            raise
        self.close()
        self.study = study
        self._clear()
        self.recipe = recipe
        self.memory = Memory(*study.memory())
        self._read_state()
        self.reconcile_kind = recipe.relate.of if recipe.relate.of in REVIEWED else "keyword"
        self.opened.emit()
        self.refresh("gather")
        if study.read_only:
            self.said.emit("Read only", "changes cannot be saved here; save a copy to work on", "note")

    def create(self, path: Path) -> None:
        """Make a new, empty study and open it."""
        with Study.create(path) as study:
            study.set_recipe("new study", Recipe().toml())
        self.open(path)

    def close(self) -> None:
        if self.study is not None:
            self.cancel()
            self._queue.clear()
            self.study.close()
            self.study = None

    def shut_down(self) -> None:
        """Close the study and end the worker."""
        self.close()
        self._poll.stop()
        if self._notifier is not None:
            self._notifier.setEnabled(False)
        self.worker.stop()

    def _read_state(self) -> None:
        assert self.study is not None
        self.decisions = self.study.decisions()
        self.sources = self.study.sources()
        self.steps = self.study.steps()

    # -- commands; each is one undoable step, saved at once

    def set_recipe(self, section: str, **values: Any) -> None:
        """Change values of one section."""
        if self.study is None:
            return
        try:
            recipe = self.recipe.changed(section, **values)
        except UserError as error:
            self.said.emit("Not changed", str(error), "fault")
            return
        if recipe == self.recipe:
            return
        label = ", ".join(f"{key.replace('_', ' ')} {_shown(value)}" for key, value in values.items())
        if self._do(label, lambda study: study.set_recipe(label, recipe.toml())):
            self.recipe = recipe
            if section != "report":
                self.refresh(section, label)
            else:
                self._stale("report")
                self.staled.emit()

    def decide(self, decisions: Sequence[Decision], label: str = "") -> None:
        """Add decisions to the ledger."""
        if not decisions or self.study is None:
            return
        d = decisions[0]
        words = {
            "merge": f"merge {d.form} → {d.preferred}",
            "apart": f"keep apart {d.form} and {d.preferred}",
            "aside": f"set aside “{d.form}”",
            "prefer": f"prefer “{d.preferred}”",
            "split": f"split off {d.form}",
        }
        if d.kind == "record":
            words |= {
                "merge": f"join {d.form} with {d.preferred}",
                "aside": f"leave out {d.form}: {d.note or 'no reason given'}",
            }
        if d.scope == "rule":
            words |= {"merge": f"write “{d.preferred}” for “{d.form}”", "aside": f"set aside all that “{d.form}” fits"}
        if not label:  # what comes with a label of its own was sorted out before
            decisions, against = self.sort_out(decisions)
            if against:
                more = f" (and {len(against) - 1} more)" if len(against) > 1 else ""
                self.said.emit("Not decided", f"{against[0][1]}{more}. Undo the decision it contradicts first", "fault")
            if not decisions:
                return
        label = label or words[d.decision] + (f" and {len(decisions) - 1} more" if len(decisions) > 1 else "")
        last = max((d.id for d in self.decisions), default=0)
        if self._do(label, lambda study: study.decide(label, decisions)):
            self._noted = tuple(d.id for d in self.decisions if d.id > last)
            self._settle(decisions)
            self.refresh("gather" if d.kind == "record" else "reconcile", label)

    def set_aside_selected(self) -> None:
        """Set the selected items aside: they stay in the records, and leave the network."""
        if self.related is None or self.reconciled is None:
            return
        kind = self.recipe.relate.of
        resolution, forms = self.reconciled.by_kind[kind], self.mentions(kind).forms
        network = self.related.filtered.network
        places = [i for i in map(self.item, self.selection.items) if i >= 0]
        heads = [int(resolution.members(int(network.entity[i]))[0]) for i in places]
        self.decide([Decision(kind, "aside", forms[f], note="on the chart") for f in heads])

    def sort_out(self, decisions: Sequence[Decision]) -> tuple[list[Decision], list[tuple[Decision, str]]]:
        """Decisions that do not contradict those made or each other, and the others with the reason."""
        why: dict[int, str] = {}
        for kind in dict.fromkeys(d.kind for d in decisions if d.kind != "record"):
            new = [d for d in decisions if d.kind == kind]
            why |= {id(d): text for d, text in refused(self.mentions(kind).forms, self.decisions, new)}
        return [d for d in decisions if id(d) not in why], [(d, why[id(d)]) for d in decisions if id(d) in why]

    def mentions(self, kind: str) -> Mentions:
        """The mentions of a kind, with the forms that splits have made."""
        assert self.corpus is not None
        found = (self.reconciled.by_kind.get(kind) if self.reconciled else None) or self.open_resolution.get(kind)
        return found.mentions(self.corpus) if found is not None else self.corpus.of(kind)

    def _settle(self, decisions: Sequence[Decision]) -> None:
        """Take what was just decided off the list of suggestions; the new list comes when it is ready."""
        for kind, offers in self.suggestions.items():
            named = {d.form for d in decisions if d.kind == kind}
            if not named or self.corpus is None:
                continue
            forms = self.mentions(kind).forms
            kept = [k for k, o in enumerate(offers) if not any(forms[f] in named for f in o.forms)]
            self.suggestions[kind] = [offers[k] for k in kept]
            if kind in self.effects:
                self.effects[kind] = [self.effects[kind][k] for k in kept]

    def bring_in(self, file: Path) -> None:
        """Take the decisions of a CSV file, as one step; ``left_out`` lists what could not be applied, and why."""
        if self.study is not None:
            self._write(f"bring in the decisions of {file.name}", "bring_in", file)

    def withdraw(self, decision: Decision) -> None:
        """Undo one decision, whenever it was made."""
        label = f"withdraw {decision.decision} {decision.form}"
        if self._do(label, lambda study: study.withdraw(label, [decision.id])):
            self.refresh("gather" if decision.kind == "record" else "reconcile", label)

    def withdraw_all(self, decisions: Sequence[Decision], label: str) -> None:
        """Undo several decisions in one step."""
        if decisions and self._do(label, lambda study: study.withdraw(label, [d.id for d in decisions])):
            self.refresh("gather" if any(d.kind == "record" for d in decisions) else "reconcile", label)

    def exclude(self, handles: Sequence[str], reason: str) -> None:
        """Leave records out of the study, with a reason."""
        self.decide(
            [Decision("record", "aside", h, note=reason) for h in handles],
            f"leave out {len(handles):,} records: {reason}",
        )

    def exclude_by_rule(self, rule: str, reason: str) -> None:
        """Leave out every record that a filter picks, now and when others are added."""
        self.decide(
            [Decision("record", "aside", rule, scope="rule", note=reason)], f"leave out all that “{rule}” picks"
        )

    def remove_sources(self, numbers: Sequence[int]) -> None:
        """Take sources out of the study."""
        label = f"remove {self._named(numbers)}"
        if self._do(label, lambda study: study.remove_sources(label, numbers)):
            self.refresh("gather", label)

    def switch_sources(self, numbers: Sequence[int], on: bool) -> None:
        """Switch sources on or off for a while."""
        label = f"{'switch on' if on else 'switch off'} {self._named(numbers)}"
        if self._do(label, lambda study: study.switch_sources(label, numbers, on)):
            self.refresh("gather", label)

    def _named(self, numbers: Sequence[int]) -> str:
        names = [s.name for s in self.sources if s.id in numbers]
        return ", ".join(names[:3]) + (f" and {len(names) - 3} more" if len(names) > 3 else "")

    def undo(self) -> None:
        self._travel("undo")

    def redo(self) -> None:
        self._travel("redo")

    def _travel(self, way: str) -> None:
        if self.study is None:
            return
        try:
            step = self.study.undo() if way == "undo" else self.study.redo()
        except UserError as error:
            self.said.emit("Not changed", str(error), "fault")
            return
        if step is None:
            self.said.emit(f"Nothing to {way}", "", "note")
            return
        before, decided = self.recipe, [d for d in self.decisions if d.kind == "record"]
        self.recipe = parse_recipe(self.study.recipe())
        self._read_state()
        touched = [n for n in STAGES if n != "report" and getattr(before, n) != getattr(self.recipe, n)]
        on_records = decided != [d for d in self.decisions if d.kind == "record"]
        if on_records or any(table in ("source", "held") for table, _, _ in step.switch):
            touched = ["gather"]
        elif step.switch:
            touched = ["reconcile"]
        self.refresh(touched[0] if touched else "report", f"{way}: {step.label}")

    def _do(self, label: str, step: Any) -> bool:
        """Carry a step out; a failure is said and nothing changes."""
        if self.study is None:
            return False
        if self.task in WRITING:
            self.said.emit("Wait a moment", "files are being read; stop that first, or try again after", "note")
            return False
        try:
            step(self.study)
        except UserError as error:
            self.said.emit("Not changed", str(error), "fault")
            return False
        self._read_state()
        return True

    def add_files(self, files: Sequence[Path]) -> None:
        """Read files into the study; a stop leaves it as it was."""
        if files:
            self._write(
                f"add {', '.join(f.name for f in files[:3])}" + (" …" if len(files) > 3 else ""), "gather", list(files)
            )

    def add_text(self, text: str) -> None:
        """Read pasted text into the study."""
        taken = {source.name for source in self.sources}
        name = next(n for k in range(1, 10_000) if (n := f"pasted text {k}") not in taken)
        self._write(f"add {name}", "gather", [(name, text)])

    def replace_source(self, number: int, file: Path, options: dict[str, Any] | None = None) -> None:
        """Read a file in place of a source: a newer export of it, or the same file in another way (``options``)."""
        source = next(s for s in self.sources if s.id == number)
        label = f"read {source.name} again" if options else f"{file.name} in place of {source.name}"
        self._write(label, "gather", [file], [number], options)

    def read_columns(self, number: int) -> None:
        """Ask how the columns of a table are read: ``columns`` arrives."""
        source = next(s for s in self.sources if s.id == number)
        self._ask("columns", Path(source.path), source.reading)

    def ask_catalogue(self, question: Any) -> None:
        """Ask how many records answer, and for the first of them: ``preview`` arrives."""
        self.preview = None
        self._ask("preview", question)

    def _ask(self, task: str, *arguments: object) -> None:
        if self.study is not None:
            self._queue.append((task, arguments))
            if self.worker.busy is None:
                self._next()

    def take_from_catalogue(self, question: Any, most: int) -> None:
        """Take the records that answer into the study."""
        self._write(
            f"take “{question.query or 'everything'}” from a catalogue",
            "take",
            question,
            most,
            datetime.now().date().isoformat(),
        )

    def _write(self, label: str, task: str, *arguments: object) -> None:
        if self.study is None:
            return
        if self.study.read_only:
            self.said.emit("Not changed", "this study can only be read. Save a copy where you may write", "fault")
            return
        self._label = label
        self._send(task, self.state() if task == "bring_in" else self.study.path, *arguments)

    def move_items(self, places: dict[str, tuple[float, float]]) -> None:
        """Put items where they were dragged to; they stay there."""
        if self.study is None or not self.memory.items:
            return
        items = dict(self.memory.items)
        for text, (x, y) in places.items():
            if text in items:
                items[text] = dataclasses.replace(items[text], x=round(x, 4), y=round(y, 4), pinned=True)
        self.memory = dataclasses.replace(self.memory, items=items)
        self._keep_memory()
        self._moved = True
        self.refresh("chart", f"move {', '.join(list(places)[:2])}")

    def lay_out_again(self) -> None:
        """Forget where items stood, and draw afresh from the seed."""
        self.memory = Memory()
        self._keep_memory()
        self._moved = True
        self.refresh("group", "lay out again")

    def _keep_memory(self) -> None:
        assert self.study is not None
        try:
            self.study.remember(self.memory.key, dict(self.memory.items), self.memory.slots)
        except UserError as error:
            self.said.emit("Not saved", str(error), "fault")

    def select(self, selection: Selection) -> None:
        if selection != self.selection:
            self.selection = selection
            self.selected.emit()

    # -- asking the worker and hearing from it

    def _stale(self, first: str) -> None:
        at = STAGES.index(first)
        self.current -= set(STAGES[at:]) | ({"stability"} if at <= STAGES.index("group") else set())

    def refresh(self, first: str, label: str = "") -> None:
        """Bring everything from a stage on up to date."""
        self._stale(first)
        self._label = label or self._label
        if first in ("gather", "reconcile"):
            self.unreviewed = set(REVIEWED)
        elif first == "relate":  # the suggestions stay, what they would change does not
            self.unreviewed |= {self.recipe.relate.of} & set(REVIEWED)
        self.staled.emit()
        if first == "report":
            return
        self._queue = [q for q in self._queue if q[0] in WRITING]
        self._outdated = True
        if self.worker.busy is None:
            self._next()
        elif self.task not in WRITING:
            self.cancel()

    def wants(self, what: str) -> None:
        """Ask for something a desk shows beside the stages: ``report:THEME``."""
        task, _, detail = what.partition(":")
        if self.study is None or any(q == (task, (detail,)) for q in self._queue):
            return
        self._queue.append((task, (detail,)))
        if self.worker.busy is None:
            self._next()

    def state(self) -> State:
        assert self.study is not None
        live = tuple((s.id, s.sha256) for s in self.sources if s.active)
        return State(self.study.path, live, self.decisions, self.recipe, self.memory)

    def _send(self, task: str, *arguments: object) -> None:
        if self.worker.busy is not None:
            self._queue.insert(0, (task, arguments))
            if self.task not in WRITING:
                self.cancel()
            return
        self.task, self.failed = task, None
        self.worker.ask(task, *arguments)
        if self.worker.generation != self._watched:
            if self._notifier is not None:
                self._notifier.setEnabled(False)
                self._notifier.deleteLater()
            self._watched = self.worker.generation
            self._notifier = QSocketNotifier(self.worker.fileno(), QSocketNotifier.Type.Read, self)
            self._notifier.activated.connect(self._hear)
        self.running = ("starting", 0, 0, None)
        self.progressed.emit()

    def _next(self) -> None:
        if self.study is None or self.worker.busy is not None:
            return
        if self._queue and self._queue[0][0] in (*WRITING, *ASKING):
            task, arguments = self._queue.pop(0)
            self._send(task, *arguments)
        elif self._outdated:
            self._outdated = False
            moved, self._moved = self._moved, False
            self._send("update", self.state(), self.corpus is None, moved)
        elif self._queue:
            task, arguments = self._queue.pop(0)
            self._send(task, self.state(), *arguments)
        elif self.corpus is not None and (kind := self._unreviewed_kind()):
            self._send("suggest", self.state(), kind)
        else:
            self.running, self.task = None, ""
            self.progressed.emit()
            self.idle.emit()

    def _unreviewed_kind(self) -> str:
        """The next kind to make suggestions for: the one looked at first, then those that have forms."""
        assert self.corpus is not None
        order = (self.reconcile_kind, *REVIEWED)
        return next((k for k in order if k in self.unreviewed and len(self.corpus.of(k).forms)), "")

    def cancel(self) -> None:
        """Stop what is running; the study stays as it was."""
        self.worker.cancel()
        if self.worker.busy is not None:
            self._poll.start()

    def stop_work(self) -> None:
        """What the Stop link does: give up the running task and what waits behind it."""
        self._outdated = False
        self._queue.clear()
        self.cancel()

    def retry(self) -> None:
        """Try again after a fault."""
        if self.failed is not None:
            self.failed = None
            self.refresh(next((n for n in STAGES if n not in self.current), "gather"), "try again")

    def _hear(self) -> None:
        # one message a turn: what it sets off is painted before the next is read (the notifier calls again)
        _, what, value = next(self.worker.messages(), (0, "", None))
        if what == "progress":
            self.running = value
            self.progressed.emit()
        elif what == "part":
            if self.study is not None and not self._outdated:
                self._take(*value)
        elif what:
            self._end(what, value)
        if self.worker.busy is None:
            self._poll.stop()

    def _take(self, stage: str, key: str, result: Any, extra: Any) -> None:
        if stage == "gather":
            self.corpus, self.possible = result, extra
        elif stage == "stability":
            self.stable = result
        elif stage == "match":
            self.matched, self.possible = result, extra
        elif stage == "chart":
            self.drawing = result
            if extra is not None and extra != self.memory:
                self.memory = extra  # the worker has saved it
        else:
            setattr(self, {"reconcile": "reconciled", "relate": "related", "group": "grouped"}[stage], result)
        self.current.add(stage)
        if stage == "chart":
            self.current.add("report")
        if stage == "group":
            if extra is not None and self._label:
                self.said.emit("What changed", f"{self._label}: {extra.sentence()}", "change")
                self._note_effect(extra.sentence())
            elif self._label:
                self.said.emit("What changed", self._label, "change")
            self._label = ""
            self._prune_selection()
        self.arrived.emit(stage)

    def _note_effect(self, effect: str) -> None:
        """Keep what changed beside the decisions that changed it."""
        if self._noted and self.study is not None and self.task not in WRITING:
            self.study.note_effect(self._noted, effect)
            noted = set(self._noted)
            self.decisions = tuple(
                dataclasses.replace(d, effect=effect) if d.id in noted else d for d in self.decisions
            )
            self._noted = ()

    def _prune_selection(self) -> None:
        """Drop from the selection what is no longer there."""
        s, labels = self.selection, set(self.related.filtered.network.label)
        kept = tuple(text for text in s.items if text in labels)
        tie = s.tie if s.tie and set(s.tie) <= labels else None
        if (kept, tie) != (s.items, s.tie):
            self.select(dataclasses.replace(s, items=kept, tie=tie))

    def _end(self, what: str, value: Any) -> None:
        task, self.task = self.task, ""
        if what == "error":
            text, detail = value
            self.failed = (text, detail)
            self._outdated = False
            self.said.emit("Stopped", text, "fault")
        elif what == "cancelled" and not self._outdated and not self._queue:
            self.said.emit(
                "Stopped", "nothing was changed" if task in WRITING else "some results are not up to date", "note"
            )
        elif what == "done" and task == "bring_in":
            applied, self.left_out = value
            self._noted = ()
            self._read_state()
            self._label = self._label if applied else ""
            if self.left_out:
                lines = f"{len(self.left_out):,} line{'s' * (len(self.left_out) != 1)} left out"
                self.said.emit(lines, f"{applied:,} decisions were applied; the ledger lists the others", "fault")
            self.arrived.emit("ledger")
            if applied:
                self.refresh(
                    "gather" if any(d.kind == "record" for d in self.decisions[-applied:]) else "reconcile", self._label
                )
        elif what == "done" and task in WRITING:
            failed, changed = value
            self._read_state()
            self.unread = failed
            if failed:
                self._label += f" · {len(failed):,} file{'s' * (len(failed) != 1)} could not be read"
            for name, why in failed:
                self.said.emit(f"{name} was not read", why, "fault")
            if changed:
                self._label += f": {changed}"
            self.refresh("gather", self._label)
        elif what == "done" and task == "preview":
            self.preview = value
            self.arrived.emit("preview")
        elif what == "done" and task == "columns":
            self.columns = value
            self.arrived.emit("columns")
        elif what == "done" and task == "suggest":
            kind, offered, resolution, told = value
            self.effects.pop(kind, None)
            if told is not None:
                self.effects[kind] = told
            if not self.reviewing and offered:  # begin where something waits
                self.reconcile_kind = kind if not self.suggestions.get(self.reconcile_kind) else self.reconcile_kind
                self.reviewing = True
            self.suggestions[kind], self.open_resolution[kind] = offered, resolution
            self.unreviewed.discard(kind)
            self.arrived.emit(f"suggest:{kind}")
        elif what == "done" and task == "report":
            self.files = value
            self.arrived.emit("files")
        self._next()

    # -- looking things up

    def words(self, n: int = 2, kind: str = "") -> str:
        """The interface's word for the kind of item, in the number of ``n``."""
        return KIND_WORDS[kind or self.recipe.relate.of][0 if n == 1 else 1]

    def item(self, label: str) -> int:
        """An item's place in the network, −1 when it is not there."""
        if self.related is None:
            return -1
        labels = self.related.filtered.network.label
        if getattr(self, "_index_of", None) is not labels:
            self._index_of, self._index = labels, {text: i for i, text in enumerate(labels)}
        return self._index.get(label, -1)

    def detail(self, record: int) -> RecordDetail:
        assert self.study is not None and self.corpus is not None
        return self.study.record(int(self.corpus.id[record]))


def _shown(value: Any) -> str:
    if isinstance(value, (tuple, list)):
        return "–".join(map(str, value)) if value else "all"
    return f"{value:g}" if isinstance(value, float) else str(value)
