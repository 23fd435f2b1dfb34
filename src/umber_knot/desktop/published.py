"""The open study as the window knows it: its state, the one snapshot of results that is shown, and what is selected."""

from __future__ import annotations

import dataclasses
from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from umber_knot.chart.drawing import Drawing
from umber_knot.corpus.checking import SourceCheck
from umber_knot.corpus.model import Corpus, Decision, Mentions, named
from umber_knot.corpus.named import NamedColumns
from umber_knot.corpus.sources import RecordDetail
from umber_knot.corpus.steps import Item, Spot
from umber_knot.corpus.study import Study
from umber_knot.corpus.written import Written
from umber_knot.desktop.selection import Selection
from umber_knot.gather.references import Matches
from umber_knot.group.result import Grouped, Stable
from umber_knot.lineage.nodes import Node
from umber_knot.lineage.recipe import Recipe, Strand
from umber_knot.lineage.snapshot import Snapshot
from umber_knot.network.measures.registry import Measure, family
from umber_knot.network.model import Network
from umber_knot.reconcile.decisions import Resolution
from umber_knot.relate.offered import Offered
from umber_knot.relate.offers import Offers
from umber_knot.relate.result import Related
from umber_knot.text.result import Terms
from umber_knot.work.state import State

STAGES = ("gather", "reconcile", "relate", "group", "chart", "report")
#: Kinds that suggestions are made for, in the order they are looked for.
REVIEWED = ("person", "keyword", "institution", "venue", "place", "reference", "term")


class Published(QObject):
    """``recipe``, ``decisions``, ``sources`` and ``strand`` are the study's present state; ``shown`` the snapshot that
    the
    window shows, which may be of an earlier one. ``corpus``, ``related``, ``grouped``, ``drawing`` and ``stable`` are
    the
    snapshot's, of the strand looked at (None until computed)."""

    opened = pyqtSignal()
    arrived = pyqtSignal(object)  # the stages, or "suggest:KIND", "files" …, whose results are new, as a frozenset
    staled = pyqtSignal()
    progressed = pyqtSignal()
    said = pyqtSignal(str, str, str)  # what changed, details, kind: "change", "note" or "fault"
    selected = pyqtSignal()
    idle = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.study: Study | None = None
        self.clear()

    def clear(self) -> None:
        self.shown = Snapshot(0, Recipe(), ())
        self.serial = 0
        self.recipe = Recipe()
        self.strand_id = 1
        self.beside = 0  # the strand that stands beside the one looked at, 0 none
        self.decisions: tuple[Decision, ...] = ()
        self.sources: tuple[Any, ...] = ()
        self.pins: Mapping[tuple[int, str], Mapping[Item, Spot]] = {}
        self.afresh: Mapping[tuple[int, str], int] = {}
        self.selection = Selection()
        self.offers: dict[str, Offers] = {}
        self.reconcile_kind, self.reviewing = "person", False
        self.asked: tuple[tuple[str, str], ...] = ()  # stages and variants that desks show beside the others
        self.preview: tuple[int, list[tuple[str, str, int]]] | None = None
        self.unread: list[tuple[str, str]] = []  # files of the last import that could not be read at all, and why
        self.columns: Any = None  # (match, sample rows) of the table asked for last
        self.spellings: tuple[str, str, Any] | None = None  # (kind, like which, forms in order)
        self.files: dict[str, bytes] = {}
        self.left_out: list[str] = []  # lines of the last file of decisions that could not be applied
        self.noted: tuple[int, ...] = ()  # decisions whose effect is still to be kept
        self.label = ""
        self._places: tuple[Network | None, dict[Item, int]] = (None, {})
        self._current: tuple[Any, Any, set[str]] = (None, None, set())
        self._drawn: tuple[Any, list[Any], Drawing | None] = (None, [], None)

    # -- the state

    @property
    def task(self) -> str:
        """What the worker is at, "" nothing."""
        raise NotImplementedError

    def read_state(self) -> None:
        """Read again what steps change, but for the recipe."""
        assert self.study is not None
        self.decisions = self.study.decisions()
        self.sources = self.study.sources()
        self.pins, self.afresh = self.study.pins(), self.study.afresh()

    def present(self) -> Snapshot:
        """The present state, of which there is no result yet."""
        return Snapshot(self.serial, self.recipe, self.decisions, self.pins, self.afresh)

    def state(self) -> State:
        assert self.study is not None
        live = tuple((s.id, s.sha256, s.reading, s.anchor) for s in self.sources if s.active)
        return State(
            self.study.path,
            self.study.uuid,
            live,
            self.decisions,
            self.recipe,
            self.pins,
            self.afresh,
            self.strand.id,
            self.serial,
            self.reconcile_kind,
            self.asked,
        )

    @property
    def strand(self) -> Strand:
        """The strand looked at, as the recipe has it now."""
        return self.recipe.strand(self.strand_id)

    @property
    def shown_strand(self) -> Strand:
        """The strand looked at as it was when what is shown was computed."""
        known = {s.id: s for s in self.shown.recipe.strands}
        return known.get(self.strand_id, self.strand)

    def strand_name(self, number: int | None = None) -> str:
        ids = [s.id for s in self.recipe.strands]
        wanted = self.strand_id if number is None else number
        return self.recipe.names()[ids.index(wanted)] if wanted in ids else ""

    def look_at(self, number: int) -> None:
        """Look at another strand."""
        raise NotImplementedError

    def look_at_what_is_there(self) -> None:
        """Look at the first strand where the one looked at is no longer there."""
        if self.strand_id not in {s.id for s in self.recipe.strands}:
            self.strand_id = self.recipe.strands[0].id

    # -- what is shown

    @property
    def corpus(self) -> Corpus | None:
        return self.shown.whole

    @property
    def possible(self) -> Sequence[Any]:
        return self.shown.possible

    def checked(self, source: int) -> SourceCheck | None:
        """How full the fields of a source are, by its number in the study; None where it is switched off."""
        corpus = self.shown.corpus
        return next(
            (c for c in self.shown.checked if corpus is not None and corpus.sources[c.source].id == source), None
        )

    @property
    def related(self) -> Related | None:
        return self.shown.related(self.strand_id)

    @property
    def grouped(self) -> Grouped | None:
        return self.shown.grouped(self.strand_id)

    @property
    def stable(self) -> Stable | None:
        return self.shown.stable(self.strand_id)

    @property
    def matched(self) -> Matches | None:
        return self.shown.results.get(Node("match"))

    @property
    def drawing(self) -> Drawing | None:
        """The chart of the strand looked at; the same object as long as no part of it changes."""
        return self.drawing_of(self.strand_id)

    def drawing_of(self, strand: int) -> Drawing | None:
        """The chart of a strand."""
        if strand != self.strand_id:
            return self.shown.drawing(strand)
        parts = [
            self.shown.results.get(Node(stage, strand))
            for stage in ("relate", "topics", "lettering", "sizes", "standing", "land")
        ]
        tint = self.shown_strand.chart.tint_by
        of, made_of, found = self._drawn
        if of != (strand, tint) or any(a is not b for a, b in zip(parts, made_of, strict=True)):
            found = self.shown.drawing(strand)
            self._drawn = (strand, tint), parts, found
        return found

    @property
    def current(self) -> set[str]:
        """The stages whose results, as shown, follow from the present state."""
        if self.study is None:
            return set()
        shown, at, found = self._current
        if shown is not self.shown or at != (self.serial, self.strand_id):  # the snapshot itself: numbers come again
            now = dataclasses.replace(self.present(), corpus_key=self.state().corpus_key())
            found = self.shown.current(self.strand_id, now)
            self._current = self.shown, (self.serial, self.strand_id), found
        return found

    def resolution(self, kind: str) -> Resolution | None:
        return self.shown.resolution(kind)

    @property
    def named_columns(self) -> dict[str, Mentions]:
        """The columns of the material by name, the fullest first; empty until they were read."""
        found: NamedColumns | None = self.shown.results.get(Node("columns"))
        return found.by_name() if found is not None else {}

    @property
    def terms(self) -> Terms | None:
        """What was found in the texts; None until they were read."""
        return self.shown.results.get(Node("terms"))

    def measured(self, column: str) -> np.ndarray | None:
        """The values of a measure of the network shown; None until they are known."""
        found = self.shown.results.get(Node("measure", self.strand_id, family(column)))
        return found.get(column) if found is not None else None

    def lacking(self, m: Measure) -> str:
        """What a measure needs that the network shown does not have; empty where nothing is."""
        if self.related is None or self.corpus is None:
            return "there is no network yet"
        if m.needs == "directions" and not self.related.network.directed:
            return "ties have no direction"
        if m.needs == "two kinds" and len(self.related.network.kinds) != 2:
            return "items are of one kind"
        return (
            "no record says how often it is cited" if m.needs == "citations" and not self.corpus.citations.any() else ""
        )

    def mentions(self, kind: str) -> Mentions:
        """The mentions of a kind, with the forms that splits have made."""
        assert self.corpus is not None
        found = self.resolution(kind)
        return found.mentions(self.corpus) if found is not None else self.corpus.of(kind)

    def settle(self, decisions: Sequence[Decision]) -> None:
        """Take what was just decided off the lists of suggestions; the new lists come when they are ready."""
        for kind, offers in self.offers.items():
            named = {d.form for d in decisions if d.kind == kind}
            if not named:
                continue
            kept = [k for k, s in enumerate(offers.suggestions) if not any(offers.forms[f] in named for f in s.forms)]
            told = tuple(offers.effects[k] for k in kept) if offers.effects else ()
            self.offers[kind] = dataclasses.replace(
                offers, suggestions=tuple(offers.suggestions[k] for k in kept), effects=told
            )

    # -- looking things up

    def select(self, selection: Selection) -> None:
        if selection != self.selection:
            self.selection = selection
            self.selected.emit()

    def words(self, n: int = 2, kind: str = "") -> str:
        """The interface's word for the kind of item, in the number of ``n``."""
        return named((kind,) if kind else self.shown_strand.relate.kinds, n)

    @property
    def offered(self) -> tuple[Offered, ...]:
        """The ties that the material allows, and why not the others."""
        return self.shown.offered

    def item(self, identity: Item) -> int:
        """An item's place in the network shown, −1 when it is not there."""
        network = self.related.network if self.related is not None else None
        if network is None:
            return -1
        if self._places[0] is not network:
            self._places = network, {one: i for i, one in enumerate(network.identities())}
        return self._places[1].get(identity, -1)

    def called(self, identity: Item) -> str:
        """What an item is called where it is shown, else its form."""
        i = self.item(identity)
        return self.related.network.label[i] if i >= 0 and self.related is not None else identity[1]

    def detail(self, record: int) -> RecordDetail:
        """A record in full, by its row."""
        assert self.study is not None and self.corpus is not None
        return self.study.record(int(self.corpus.id[record]))

    def text_of(self, record: int) -> Written:
        """What a record says, by its row."""
        assert self.study is not None and self.corpus is not None
        return self.study.text_of(self.corpus, record)

    def spellings_of(self, i: int) -> list[str]:
        """The forms of an item of the network shown."""
        network = self.related.network
        kind, form = network.identity(i)
        resolution = self.resolution(kind)
        if resolution is None:
            return [form]
        forms = self.mentions(kind).forms
        return [forms[f] for f in resolution.members(int(network.entity[i])).tolist()]

    def row(self, selection: Selection) -> int:
        """The row of the selected record, −1 where none is selected or it is not there."""
        return self.corpus.row(selection.record) if self.corpus is not None and selection.record is not None else -1
