"""Every measure of an item: its definition, formula and source, what it needs, how to read it, and how it is computed."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np

from umber_knot.corpus.model import Floats, Ints
from umber_knot.errors import UserError
from umber_knot.network.measures import paths as p
from umber_knot.network.measures.cited import g_index, h_index, m_index
from umber_knot.network.measures.clustering import clustering
from umber_knot.network.measures.core import core_number
from umber_knot.network.measures.degree import degree, strength
from umber_knot.network.measures.holes import constraint, effective_size
from umber_knot.network.measures.spectral import eigenvector, hub_and_authority, katz, pagerank
from umber_knot.network.measures.topics import participation, within_topic_z
from umber_knot.network.measures.two_mode import betweenness_two_mode, closeness_two_mode, degree_two_mode
from umber_knot.network.model import Network


@dataclass(frozen=True)
class Material:
    """What measures are computed from. ``topic``, shape (n,), of a grouping in use; ``item``, ``cited`` the records of each
    item and their citations, ``first_year`` of each item, ``last_year`` of all records: empty where there are none."""

    network: Network
    topic: Ints = field(default_factory=lambda: np.zeros(0, np.int32))
    item: Ints = field(default_factory=lambda: np.zeros(0, np.int32))
    cited: Ints = field(default_factory=lambda: np.zeros(0, np.int32))
    first_year: Ints = field(default_factory=lambda: np.zeros(0, np.int32))
    last_year: int = 0
    lengths: bool = False  # whether weights are read as lengths, not as closeness
    sample: int = 0  # sources of shortest paths, 0 all
    seed: int = 1
    progress: p.Progress = p.quiet


#: Sources of an estimate of betweenness.
ESTIMATED = 1000


class Work:
    """Measures being computed: shortest paths are found once for all that need them."""

    def __init__(self, on: Material, columns: Sequence[str] = ()) -> None:
        self.on, self.through = on, any(name.startswith(("betweenness", "stress")) for name in columns)
        self._paths: dict[bool, p.Paths] = {}
        self._estimate: p.Paths | None = None
        self._hubs: dict[bool, tuple[Floats, Floats]] = {}

    def paths(self, weighted: bool) -> p.Paths:
        if weighted not in self._paths:
            on = self.on
            self._paths[weighted] = p.shortest_paths(
                on.network, weighted, on.lengths, on.sample, on.seed, on.progress, not self.through
            )
        return self._paths[weighted]

    def estimate(self) -> p.Paths:
        on = self.on
        if self._estimate is None:
            self._estimate = p.shortest_paths(on.network, sample=ESTIMATED, seed=on.seed, progress=on.progress)
        return self._estimate

    def hubs(self, weighted: bool) -> tuple[Floats, Floats]:
        if weighted not in self._hubs:
            self._hubs[weighted] = hub_and_authority(self.on.network, weighted)
        return self._hubs[weighted]


class Measure(NamedTuple):
    """One measure. ``weighs`` whether there is a weighted variant; ``needs`` of: directions, topics, citations, two kinds; ``heavy`` where
    all shortest paths are needed; ``reading`` completes *It says …* in one sentence."""

    name: str
    title: str
    formula: str
    source: str
    reading: str
    compute: Callable[[Work, bool], Floats]
    weighs: bool = False
    needs: str = ""
    heavy: bool = False
    asked: bool = False  # only measured where it is asked for by name


def _of_citations(how: Callable[[Ints, Ints, int], Floats]) -> Callable[[Work, bool], Floats]:
    return lambda work, _: how(work.on.item, work.on.cited, len(work.on.network))


MEASURES: tuple[Measure, ...] = (
    Measure(
        "degree",
        "degree",
        "ties, a loop counting twice; with directions in + out",
        "Freeman 1979",
        "how many ties it has",
        lambda w, _: degree(w.on.network),
    ),
    Measure(
        "degree_in",
        "degree in",
        "ties coming in",
        "Freeman 1979",
        "how many ties lead to it",
        lambda w, _: degree(w.on.network, "in"),
        needs="directions",
    ),
    Measure(
        "degree_out",
        "degree out",
        "ties going out",
        "Freeman 1979",
        "how many ties lead from it",
        lambda w, _: degree(w.on.network, "out"),
        needs="directions",
    ),
    Measure(
        "degree_total",
        "degree total",
        "ties in + ties out",
        "Freeman 1979",
        "how many ties it has, whichever way",
        lambda w, _: degree(w.on.network),
        needs="directions",
    ),
    Measure(
        "degree_mean",
        "degree mean",
        "(ties in + ties out) / 2",
        "Freeman 1979",
        "how many ties it has each way on average",
        lambda w, _: degree(w.on.network) / 2,
        needs="directions",
    ),
    Measure(
        "strength",
        "strength",
        "Σ_j w_ij, a loop counting twice; with directions in + out",
        "Barrat 2004",
        "how heavy its ties are together",
        lambda w, _: strength(w.on.network),
    ),
    Measure(
        "strength_in",
        "strength in",
        "Σ_j w_ji",
        "Barrat 2004",
        "how heavy the ties that lead to it are",
        lambda w, _: strength(w.on.network, "in"),
        needs="directions",
    ),
    Measure(
        "strength_out",
        "strength out",
        "Σ_j w_ij",
        "Barrat 2004",
        "how heavy the ties that lead from it are",
        lambda w, _: strength(w.on.network, "out"),
        needs="directions",
    ),
    Measure(
        "strength_total",
        "strength total",
        "in + out",
        "Barrat 2004",
        "how heavy its ties are, whichever way",
        lambda w, _: strength(w.on.network),
        needs="directions",
    ),
    Measure(
        "strength_mean",
        "strength mean",
        "(in + out) / 2",
        "Barrat 2004",
        "how heavy its ties are each way on average",
        lambda w, _: strength(w.on.network) / 2,
        needs="directions",
    ),
    Measure(
        "betweenness",
        "betweenness",
        "Σ_{s,t} σ_st(v)/σ_st",
        "Brandes 2001",
        "how many shortest paths between others run through it",
        lambda w, weighted: p.betweenness(w.paths(weighted)),
        weighs=True,
        heavy=True,
    ),
    Measure(
        "betweenness_share",
        "betweenness, share",
        "betweenness / ((n − 1)(n − 2)/2); with directions / ((n − 1)(n − 2))",
        "Freeman 1977",
        "what share of the shortest paths between others could run through it, and does",
        lambda w, weighted: p.betweenness_share(w.paths(weighted)),
        weighs=True,
        heavy=True,
    ),
    Measure(
        "stress",
        "stress",
        "Σ_{s,t} σ_st(v)",
        "Brandes 2008",
        "how many shortest paths run through it, each of several between a pair counted",
        lambda w, weighted: p.stress(w.paths(weighted)),
        weighs=True,
        heavy=True,
    ),
    Measure(
        "stress_share",
        "stress, share",
        "stress / greatest stress",
        "Brandes 2008",
        "its stress over the most that one has",
        lambda w, weighted: p.stress_share(w.paths(weighted)),
        weighs=True,
        heavy=True,
    ),
    Measure(
        "closeness",
        "closeness",
        "(r − 1)/Σd · (r − 1)/(n − 1), r items reached",
        "Wasserman 1994",
        "how near all others are, those it cannot reach counting against it",
        lambda w, weighted: p.closeness(w.paths(weighted)),
        weighs=True,
        heavy=True,
    ),
    Measure(
        "harmonic",
        "harmonic closeness",
        "Σ 1/d / (n − 1)",
        "Rochat 2009",
        "how near all others are, each by 1 over its distance",
        lambda w, weighted: p.harmonic(w.paths(weighted)),
        weighs=True,
        heavy=True,
    ),
    Measure(
        "reach",
        "reach",
        "max d over what it reaches",
        "Harary 1969",
        "how many steps the farthest item it reaches is away",
        lambda w, weighted: p.reach(w.paths(weighted)),
        weighs=True,
        heavy=True,
    ),
    Measure(
        "eigenvector",
        "eigenvector",
        "Aᵀx = λ₁x, greatest 1, in each component",
        "Bonacich 1972",
        "how much it is tied to what is itself well tied",
        lambda w, weighted: eigenvector(w.on.network, weighted),
        weighs=True,
    ),
    Measure(
        "pagerank",
        "PageRank",
        "damping 0.85, sums to 1",
        "Page 1999",
        "how often a walk along ties comes by",
        lambda w, weighted: pagerank(w.on.network, weighted),
        weighs=True,
    ),
    Measure(
        "hub",
        "hub",
        "AAᵀx = λx, greatest 1",
        "Kleinberg 1999",
        "how well it points to what many good pointers point to",
        lambda w, weighted: w.hubs(weighted)[0],
        weighs=True,
    ),
    Measure(
        "authority",
        "authority",
        "AᵀAx = λx, greatest 1",
        "Kleinberg 1999",
        "how well it is pointed to by what points well",
        lambda w, weighted: w.hubs(weighted)[1],
        weighs=True,
    ),
    Measure(
        "katz",
        "Katz",
        "x = 1 + α Aᵀx, α = 0.9/λ₁",
        "Katz 1953",
        "how many walks end at it, long ones counting less",
        lambda w, weighted: katz(w.on.network, weighted),
        weighs=True,
    ),
    Measure(
        "clustering",
        "clustering",
        "tied neighbour pairs / neighbour pairs",
        "Watts 1998",
        "what share of its neighbours' pairs are tied",
        lambda w, weighted: clustering(w.on.network, weighted),
        weighs=True,
    ),
    Measure(
        "core_number",
        "core number",
        "greatest k whose k-core holds it",
        "Seidman 1983",
        "how deep in the densest part it stands",
        lambda w, _: core_number(w.on.network),
    ),
    Measure(
        "constraint",
        "constraint",
        "Σ_j (p_ij + Σ_q p_iq p_qj)²",
        "Burt 1992",
        "how far its ties lead to those that are tied anyway; low means it bridges holes",
        lambda w, weighted: constraint(w.on.network, weighted),
        weighs=True,
    ),
    Measure(
        "effective_size",
        "effective size",
        "Σ_j (1 − Σ_q p_iq m_jq)",
        "Burt 1992",
        "how many of its ties lead where the others do not",
        lambda w, weighted: effective_size(w.on.network, weighted),
        weighs=True,
    ),
    Measure(
        "participation",
        "participation",
        "1 − Σ_t (k_it/k_i)²",
        "Guimerà 2005",
        "how evenly its ties are spread over topics",
        lambda w, weighted: participation(w.on.network, w.on.topic, weighted),
        weighs=True,
        needs="topics",
    ),
    Measure(
        "within_topic_z",
        "within-topic z",
        "(k_i − mean)/sd of ties inside the own topic",
        "Guimerà 2005",
        "how much better tied it is inside its topic than the other members",
        lambda w, weighted: within_topic_z(w.on.network, w.on.topic, weighted),
        weighs=True,
        needs="topics",
    ),
    Measure(
        "degree_two_mode",
        "degree, two-mode",
        "ties / items of the other side",
        "Borgatti 1997",
        "what share of the other side it is tied to",
        lambda w, _: degree_two_mode(w.on.network),
        needs="two kinds",
    ),
    Measure(
        "closeness_two_mode",
        "closeness, two-mode",
        "(n₂ + 2(n₁ − 1))/Σd · r/(n − 1)",
        "Borgatti 1997",
        "how near all others are, over the nearest that one of its side could be",
        lambda w, _: closeness_two_mode(w.on.network, w.paths(False)),
        needs="two kinds",
        heavy=True,
    ),
    Measure(
        "betweenness_two_mode",
        "betweenness, two-mode",
        "betweenness / greatest of its side",
        "Borgatti 1997",
        "how many shortest paths run through it, over the most that could through one of its side",
        lambda w, _: betweenness_two_mode(w.on.network, w.paths(False)),
        needs="two kinds",
        heavy=True,
    ),
    Measure(
        "betweenness_estimate",
        "betweenness, estimated",
        f"from the paths of {ESTIMATED:,} items chosen by seed, times n/{ESTIMATED:,}",
        "Brandes 2007",
        "about how many shortest paths run through it",
        lambda w, _: w.estimate().through,
        asked=True,
    ),
    Measure(
        "betweenness_error",
        "its standard error",
        "from the spread of ten parts of the sample",
        "Brandes 2007",
        "how far the estimate is likely to be off",
        lambda w, _: w.estimate().error if len(w.estimate().error) else np.zeros(len(w.on.network)),
        asked=True,
    ),
    Measure(
        "h",
        "h",
        "greatest h with h records of h citations",
        "Hirsch 2005",
        "how many of its records are cited at least so often",
        _of_citations(h_index),
        needs="citations",
    ),
    Measure(
        "g",
        "g",
        "greatest g whose g most cited records have g² citations, g ≤ records",
        "Egghe 2006",
        "as h, the most cited records counting in full",
        _of_citations(g_index),
        needs="citations",
    ),
    Measure(
        "m",
        "m",
        "h / (last year − first year + 1)",
        "Hirsch 2005",
        "its h for each year since its first record",
        lambda w, _: m_index(h_index(w.on.item, w.on.cited, len(w.on.network)), w.on.first_year, w.on.last_year),
        needs="citations",
    ),
)
BY_NAME = {m.name: m for m in MEASURES}
WEIGHTED = "_weighted"


def columns_of(names: Iterable[str], weighted: bool) -> list[str]:
    """The columns that measures give: each, and where asked for and there is one its weighted variant after it."""
    found: dict[str, None] = {}
    for name in names:
        found[name] = None
        if weighted and name in BY_NAME and BY_NAME[name].weighs:
            found[name + WEIGHTED] = None
    return list(found)


def of_column(column: str) -> tuple[Measure, bool]:
    """The measure of a column, and whether it is the weighted variant; UserError naming the nearest where there is none."""
    plain = column.removesuffix(WEIGHTED)
    m = BY_NAME.get(plain)
    if m is None or (plain != column and not m.weighs):
        import difflib

        every = [*BY_NAME, *(name + WEIGHTED for name, one in BY_NAME.items() if one.weighs)]
        close = difflib.get_close_matches(column, every, 1, 0.4)
        cure = f"Did you mean {close[0]!r}?" if close else f"Known: {', '.join(BY_NAME)}"
        raise UserError(f"there is no measure {column!r}", place="measures", cure=cure)
    return m, plain != column


def family(column: str) -> str:
    """What is computed together with a column: all that one pass over shortest paths gives, or the column itself."""
    m, weighted = of_column(column)
    end = WEIGHTED if weighted else ""
    if m.name in ("betweenness_estimate", "betweenness_error"):
        return "estimate"
    return f"paths{end}" if m.heavy else f"hubs{end}" if m.name in ("hub", "authority") else column


def columns_in(family_: str) -> list[str]:
    """The columns of a family."""
    end = WEIGHTED if family_.endswith(WEIGHTED) else ""
    every = [m.name + end for m in MEASURES if not end or m.weighs]
    return [column for column in every if family(column) == family_] or [family_]


def missing(m: Measure, on: Material) -> str:
    """What a measure needs that is not here; empty where nothing is."""
    if m.needs == "directions" and not on.network.directed:
        return "its ties have no direction"
    if m.needs == "two kinds" and len(on.network.kinds) != 2:
        return "its items are of one kind"
    if m.needs == "topics" and not 0 < len(on.topic) == len(on.network):
        return "no grouping is in use"
    if m.needs == "citations" and not len(on.item):
        return "a network alone has no records: h, g and m need the records with their citations"
    if m.needs == "citations" and not on.cited.any():
        return "no record says how often it is cited"
    return ""


def possible(on: Material) -> list[str]:
    """The names of the measures that can be computed, in their order."""
    return [m.name for m in MEASURES if not m.asked and not missing(m, on)]


def measure(on: Material, columns: Sequence[str]) -> dict[str, Floats]:
    """The values of some columns, each of shape (n,); UserError where one needs what is not there."""
    work, found = Work(on, columns), {}
    for column in columns:
        m, weighted = of_column(column)
        if why := missing(m, on):
            raise UserError(f"{m.title}: {why}", place="measures", cure=f"Leave out {m.name!r}")
        found[column] = np.asarray(m.compute(work, weighted), np.float64)
    return found
