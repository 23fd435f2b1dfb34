"""All that the report of one strand is written from."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from umber_knot.chart.drawing import Drawing
from umber_knot.chart.parameters import Chart
from umber_knot.corpus.model import Corpus, Decision
from umber_knot.group.parameters import Group
from umber_knot.group.result import Grouped, Stable
from umber_knot.network.measures.parameters import Measures
from umber_knot.network.model import Network
from umber_knot.reconcile.decisions import Resolution
from umber_knot.relate.parameters import Relate
from umber_knot.relate.result import Related
from umber_knot.report.parameters import Report
from umber_knot.text.result import Terms


@dataclass(frozen=True, slots=True)
class Subject:
    """One strand with its parameters and results. ``ledger`` are the decisions in force with those that the recipe took
    at its end, ``accept`` the confidence at which it took them; ``resolutions`` are by kind."""

    name: str
    corpus: Corpus
    ledger: tuple[Decision, ...]
    accept: Mapping[str, float]
    resolutions: Mapping[str, Resolution]
    relate: Relate
    group: Group
    chart: Chart
    report: Report
    related: Related
    grouped: Grouped
    stable: Stable
    drawing: Drawing
    terms: Terms | None = None
    measures: Measures = Measures()
    measured: Mapping[Any, Any] = field(default_factory=dict)  # (stage, strand, variant) → what was measured

    @property
    def network(self) -> Network:
        return self.related.network
