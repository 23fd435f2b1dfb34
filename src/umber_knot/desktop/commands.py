"""Everything that a scholar can do to the study; each is one undoable step, saved at once."""

from __future__ import annotations

import dataclasses
from collections.abc import Callable, Mapping, Sequence
from datetime import datetime
from pathlib import Path
from typing import Any

from umber_knot.corpus.model import DECIDED, Decision
from umber_knot.corpus.steps import Item, Spot
from umber_knot.corpus.study import Study
from umber_knot.desktop.published import Published
from umber_knot.desktop.wording import of_decisions, of_values
from umber_knot.errors import UserError
from umber_knot.lineage.recipe import Recipe, parse_recipe
from umber_knot.reconcile.decisions import refused
from umber_knot.relate.wording import told

#: Tasks that write records into the study; nothing else may write meanwhile, and a new state does not stop them.
WRITING = ("gather", "take", "bring_in", "copy", "salvage", "migrate")
_OTHER_STATE = "the records have changed since this was shown; it is looked for again"


class Commands(Published):
    """The commands of a session. None is carried out while records are being written."""

    def refresh(self, label: str = "") -> None:
        """Bring what is shown up to date after a step."""
        raise NotImplementedError

    def ask(self, task: str, *arguments: object) -> None:
        """Ask the worker for something, in its turn."""
        raise NotImplementedError

    # -- the recipe and its strands

    def set_recipe(self, section: str, **values: Any) -> None:
        """Change values of one section, of the strand looked at where it is a strand's own."""
        label = of_values(values)
        if {"tie", "of", "second", "project"} & set(values):
            label = told(dataclasses.replace(self.strand.relate, **values)).rstrip(".")
        self._change(label, lambda r: r.changed(section, self.strand.id, **values))

    def add_strand(self, **relate: Any) -> None:
        """Make one more network: a copy of the one looked at, with some words of its sentence changed."""
        made: list[int] = []

        def another(recipe: Recipe) -> Recipe:
            new, number = recipe.with_another(self.strand.id, **relate)
            made.append(number)
            return new

        if self._change("a further network", another):
            self.look_at(made[0])

    def remove_strand(self, number: int) -> None:
        """Take a network away; undo brings it back as it was."""
        name = self.strand_name(number)
        self._change(f"take away {name}", lambda r: r.without(number))

    def rename_strand(self, number: int, name: str) -> None:
        """Give a network a name; empty for the one proposed from its sentence."""
        self._change(
            f"call {self.strand_name(number)} {name}" if name else "the proposed name",
            lambda r: r.renamed(number, name),
        )

    def move_strand(self, number: int, to: int) -> None:
        """Put a network at another place, from 0."""
        self._change(f"move {self.strand_name(number)}", lambda r: r.moved(number, to))

    def keep_grouping(self, name: str) -> None:
        """Keep the grouping in use under its name, and go on with a copy under another."""
        s = self.strand
        new = dataclasses.replace(s, group=dataclasses.replace(s.group, name=name), groupings=(*s.groupings, s.group))
        self._change(f"a further grouping, {name}", lambda r: parse_recipe(r.with_strand(new).toml()))

    def use_grouping(self, name: str) -> None:
        """Take a kept grouping into use; the one in use is kept."""
        s = self.strand
        chosen = next(g for g in s.groupings if g.name == name)
        kept = tuple(s.group if g is chosen else g for g in s.groupings)
        self._change(f"grouping {name}", lambda r: r.with_strand(dataclasses.replace(s, group=chosen, groupings=kept)))

    def keep_arrangement(self, name: str) -> None:
        """Keep the arrangement in use under its name, and go on with a copy under another."""
        s = self.strand
        new = dataclasses.replace(
            s, chart=dataclasses.replace(s.chart, name=name), arrangements=(*s.arrangements, s.chart)
        )
        self._change(f"a further arrangement, {name}", lambda r: parse_recipe(r.with_strand(new).toml()))

    def use_arrangement(self, name: str) -> None:
        """Take a kept arrangement into use; the one in use is kept."""
        s = self.strand
        chosen = next(c for c in s.arrangements if c.name == name)
        kept = tuple(s.chart if c is chosen else c for c in s.arrangements)
        self._change(
            f"arrangement {name}", lambda r: r.with_strand(dataclasses.replace(s, chart=chosen, arrangements=kept))
        )

    def _change(self, label: str, change: Callable[[Recipe], Recipe]) -> bool:
        if self.study is None:
            return False
        try:
            recipe = change(self.recipe)
        except UserError as error:
            self.said.emit("Not changed", str(error), "fault")
            return False
        if recipe == self.recipe or not self._do(lambda study: study.set_recipe(label, recipe.toml())):
            return False
        only_report = dataclasses.replace(recipe, report=self.recipe.report) == self.recipe
        self.recipe = recipe
        self.look_at_what_is_there()
        if only_report:
            self.staled.emit()
        else:
            self.refresh(label)
        return True

    # -- decisions

    def decide(self, decisions: Sequence[Decision], label: str = "", basis: str = "") -> None:
        """Add decisions to the ledger. ``basis`` is the key of the corpus that they were chosen on: where the study has
        another by now they are refused."""
        if not decisions or self.study is None:
            return
        if basis and basis != self.state().corpus_key():
            self.said.emit("Not decided", _OTHER_STATE, "fault")
            return
        if not label:  # what comes with a label of its own was sorted out before
            decisions, against = self.sort_out(decisions)
            if against:
                more = f" (and {len(against) - 1} more)" if len(against) > 1 else ""
                self.said.emit("Not decided", f"{against[0][1]}{more}. Undo the decision it contradicts first", "fault")
            if not decisions:
                return
        label = label or of_decisions(decisions)
        last = max((d.id for d in self.decisions), default=0)
        if self._do(lambda study: study.decide(label, decisions)):
            self.noted = tuple(d.id for d in self.decisions if d.id > last)
            self.settle(decisions)
            self.refresh(label)

    def sort_out(self, decisions: Sequence[Decision]) -> tuple[list[Decision], list[tuple[Decision, str]]]:
        """Decisions that do not contradict those made or each other, and the others with the reason."""
        why: dict[int, str] = {}
        for kind in dict.fromkeys(d.kind for d in decisions if d.kind in DECIDED):
            new = [d for d in decisions if d.kind == kind]
            why |= {id(d): text for d, text in refused(self.mentions(kind).forms, self.decisions, new)}
        return [d for d in decisions if id(d) not in why], [(d, why[id(d)]) for d in decisions if id(d) in why]

    def set_aside_selected(self) -> None:
        """Set the selected items aside: they stay in the records, and leave the network."""
        if self.related is None:
            return
        network = self.related.network
        places = [i for i in map(self.item, self.selection.items) if i >= 0]
        self.decide(
            [Decision(*_kind_first(network.identity(i)), note="on the chart") for i in places],
            basis=self.shown.corpus_key,
        )

    def withdraw(self, decision: Decision) -> None:
        """Undo one decision, whenever it was made."""
        self.withdraw_all([decision], f"withdraw {decision.decision} {decision.form}")

    def withdraw_all(self, decisions: Sequence[Decision], label: str) -> None:
        """Undo several decisions in one step."""
        if decisions and self._do(lambda study: study.withdraw(label, [d.id for d in decisions])):
            self.refresh(label)

    def exclude(self, anchors: Sequence[str], reason: str) -> None:
        """Leave records out of the study, with a reason."""
        self.decide(
            [Decision("record", "aside", one, note=reason) for one in anchors],
            f"leave out {len(anchors):,} records: {reason}",
        )

    def exclude_by_rule(self, rule: str, reason: str) -> None:
        """Leave out every record that a filter picks, now and when others are added."""
        self.decide(
            [Decision("record", "aside", rule, scope="rule", note=reason)], f"leave out all that “{rule}” picks"
        )

    # -- sources

    def remove_sources(self, numbers: Sequence[int]) -> None:
        """Take sources out of the study."""
        label = f"remove {self._named(numbers)}"
        if self._do(lambda study: study.remove_sources(label, numbers)):
            self.refresh(label)

    def switch_sources(self, numbers: Sequence[int], on: bool) -> None:
        """Switch sources on or off for a while."""
        label = f"{'switch on' if on else 'switch off'} {self._named(numbers)}"
        if self._do(lambda study: study.switch_sources(label, numbers, on)):
            self.refresh(label)

    def _named(self, numbers: Sequence[int]) -> str:
        names = [s.name for s in self.sources if s.id in numbers]
        return ", ".join(names[:3]) + (f" and {len(names) - 3} more" if len(names) > 3 else "")

    def add_files(self, files: Sequence[Path]) -> None:
        """Read files into the study; a stop leaves it as it was."""
        if files:
            names = ", ".join(f.name for f in files[:3]) + (" …" if len(files) > 3 else "")
            self._write(f"add {names}", "gather", list(files))

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

    def take_from_catalogue(self, question: Any, most: int) -> None:
        """Take the records that answer into the study."""
        label = f"take “{question.query or 'everything'}” from a catalogue"
        self._write(label, "take", question, most, datetime.now().date().isoformat())

    def bring_in(self, file: Path) -> None:
        """Take the decisions of a CSV file, as one step; ``left_out`` lists what could not be applied, and why."""
        self._write(f"bring in the decisions of {file.name}", "bring_in", file)

    def save_copy(self, to: Path) -> None:
        """Save a copy of the study as it stands; the study stays open."""
        if self.study is not None:
            self.label = f"a copy, {to.name}"
            self.ask("copy", self.study.path, to)

    def _write(self, label: str, task: str, *arguments: object) -> None:
        if self.study is None:
            return
        if self.study.read_only:
            self.said.emit("Not changed", "this study can only be read. Save a copy where you may write", "fault")
            return
        self.label = label
        self.ask(task, self.state() if task == "bring_in" else self.study.path, *arguments)

    # -- the chart

    def move_items(self, places: Mapping[Item, Spot]) -> None:
        """Put items where they were dragged to; they stay there."""
        s = self.strand
        label = f"move {', '.join(form for _, form in list(places)[:2])}"
        to = {one: (round(x, 4), round(y, 4)) for one, (x, y) in places.items()}
        if self.study is not None and self._do(lambda study: study.move_items(label, s.id, s.chart.name, to)):
            self.refresh(label)

    def lay_out_again(self) -> None:
        """Forget where items stood, and draw afresh from the seed."""
        s = self.strand
        if self.study is not None and self._do(lambda study: study.lay_out_again("lay out again", s.id, s.chart.name)):
            self.refresh("lay out again")

    # -- undo

    def undo(self) -> None:
        self._travel("undo")

    def redo(self) -> None:
        self._travel("redo")

    def _travel(self, way: str) -> None:
        moved: list[Any] = []

        def step(study: Study) -> None:
            moved.append(study.undo() if way == "undo" else study.redo())

        if self.study is None or not self._do(step):
            return
        if moved[0] is None:
            self.said.emit(f"Nothing to {way}", "", "note")
            return
        self.recipe = parse_recipe(self.study.recipe())
        self.look_at_what_is_there()
        self.refresh(f"{way}: {moved[0].label}")

    def _do(self, step: Callable[[Study], object]) -> bool:
        """Carry a step out; a failure is said and nothing changes."""
        if self.study is None:
            return False
        if self.task in WRITING:
            self.said.emit("Wait a moment", "files are being read; stop that first, or try again after", "note")
            return False
        try:
            step(self.study)
            self.read_state()
        except UserError as error:
            self.said.emit("Not changed", str(error), "fault")
            return False
        return True


def _kind_first(item: Item) -> tuple[str, str, str]:
    return item[0], "aside", item[1]
