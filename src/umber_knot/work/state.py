"""What the window and its workers say to each other: the state of a study, what is to be drawn, and finished views."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, NamedTuple

from umber_knot.chart.scene import Label, TopicName, View
from umber_knot.corpus.checking import SourceCheck
from umber_knot.corpus.model import Decision
from umber_knot.corpus.steps import Item, Spot
from umber_knot.lineage.nodes import Node, digest
from umber_knot.lineage.recipe import Recipe
from umber_knot.relate.offered import Offered


class Passed(NamedTuple):
    """A result on its way: the file that holds it, or where none could be written the result itself."""

    file: Path | None
    value: Any = None

    @staticmethod
    def of(file: Path | None, value: Any) -> Passed:
        return Passed(file, None if file else value)

    def there(self) -> Passed:
        """What still can be read: the file where it is there, else the result itself."""
        return Passed.of(self.file if self.file is not None and self.file.exists() else None, self.value)


@dataclass(frozen=True, slots=True)
class State:
    """What a study's results follow from, as the window sends it; the corpus stays in the worker. ``sources`` are those
    switched on: number, hash, how each is read, and its name in anchors. ``strand`` is the one looked at."""

    path: Path
    uuid: str
    sources: tuple[tuple[int, str, str, str], ...]
    decisions: tuple[Decision, ...]
    recipe: Recipe
    pins: Mapping[tuple[int, str], Mapping[Item, Spot]] = field(default_factory=dict)
    afresh: Mapping[tuple[int, str], int] = field(default_factory=dict)
    strand: int = 1
    serial: int = 0
    kind: str = ""  # the kind looked at in Reconcile
    asked: tuple[tuple[str, str], ...] = ()  # further stages and variants of the strand that a desk shows

    def corpus_key(self) -> str:
        """What the corpus follows from."""
        on_records = [(d.decision, d.form, d.preferred, d.scope, d.note) for d in self.decisions if d.kind == "record"]
        return digest(self.uuid, self.sources, on_records)


class NodePart(NamedTuple):
    """A node's result for the state of a serial."""

    serial: int
    node: Node
    key: str
    passed: Passed


class CorpusPart(NamedTuple):
    """The corpus for the state of a serial, which ties it allows, and how its sources were read."""

    serial: int
    key: str
    passed: Passed
    possible: list[Any]
    offered: tuple[Offered, ...]
    checked: tuple[SourceCheck, ...]


class Renamed(NamedTuple):
    """A result that was sent goes by another key from now on."""

    node: Node
    key: str
    new: str


class Changed(NamedTuple):
    """What a new state of a strand changed, in words; whether it changed anything."""

    serial: int
    strand: int
    sentence: str
    anything: bool


@dataclass(frozen=True, slots=True)
class Painted:
    """A finished view: where its labels and names stand, and its ties as 32-bit premultiplied ARGB (height, width) at
    the screen's scale, on their way or read; None where none are drawn."""

    serial: int  # which drawing this is a view of
    complete: bool  # whether all ties are in it
    view: View
    labels: tuple[Label, ...]
    names: tuple[TopicName, ...]
    ties: Passed | None
