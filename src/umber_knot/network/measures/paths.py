"""Shortest paths of a network: betweenness, stress, closeness, harmonic closeness and reach from one pass.

Weights are read as closeness: a tie's length is 1/w, unless it is said that they are lengths themselves; directions are
followed. Loops are on no path, parallel ties are one. Large networks may be sampled: some sources stand for all.
"""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from umber_knot.corpus.model import Floats, Ints
from umber_knot.errors import UserError
from umber_knot.network.model import Network

CHUNK = 64  # sources between two looks at whether the work is still wanted
PARTS = 10  # of a sample, by whose spread its error is told
Progress = Callable[[int, int], None]


def quiet(done: int, of: int) -> None:
    """Progress that nobody asked for."""


@dataclass(frozen=True, slots=True)
class Paths:
    """What shortest paths give each item, shape (n,): ``through`` Σ σ_st(v)/σ_st and ``stress`` Σ σ_st(v) over ordered pairs
    (undirected: unordered), ``total`` Σ d, ``harmonic`` Σ 1/d, ``reach`` the farthest and ``reached`` how many others.

    Of a sample of ``sources`` the first two are estimates, ``error`` the standard error of ``through``, and the others are NaN
    but at the sources; without one ``error`` is empty.
    """

    directed: bool
    sources: int
    through: Floats
    stress: Floats
    total: Floats
    harmonic: Floats
    reach: Floats
    reached: Floats
    error: Floats


def seconds(network: Network) -> float:
    """About how long exact betweenness takes on two cores of a usual machine."""
    return len(network) * (2.0 * network.ties + len(network)) / 2e8


def shortest_paths(
    network: Network,
    weighted: bool = False,
    lengths: bool = False,
    sample: int = 0,
    seed: int = 1,
    progress: Progress = quiet,
    distances: bool = False,
) -> Paths:
    """All shortest paths, on both cores; of ``sample`` sources chosen by ``seed`` where it is above 0 and below n;
    ``distances`` where what passes through is not asked for (it is then NaN, and steps are found in half the time).

    UserError where weights below 0 are asked for as lengths; a tie of weight 0 has no length as closeness, and leads
    nowhere.
    """
    n, directed = len(network), network.directed
    start, neighbour, length = _laid_out(network, weighted, lengths)
    sources = np.arange(n, dtype=np.int32)
    sampled = 0 < sample < n
    if sampled:
        sources = np.sort(np.random.default_rng(seed).choice(sources, sample, replace=False))
    parts = [sources[k::PARTS] for k in range(PARTS)] if sampled else [sources[0::2], sources[1::2]]
    light = distances and not weighted
    found = _spread(parts, start, neighbour, length, n, progress, len(sources), light)
    scale = (n / len(sources) if sampled else 1.0) / (1 if directed else 2)
    through = np.sum([one[0] for one in found], axis=0) * scale if n else np.zeros(0)
    stress = np.sum([one[1] for one in found], axis=0) * scale if n else np.zeros(0)
    rest = (
        [np.sum([one[k] for one in found], axis=0).astype(np.float64) for k in range(2, 6)] if n else [np.zeros(0)] * 4
    )
    error = np.zeros(0)
    if light:
        through, stress = np.full(n, np.nan), np.full(n, np.nan)
    if sampled:
        away = np.ones(n, np.bool_)
        away[sources] = False
        for values in rest:
            values[away] = np.nan
        each = np.array([one[0] / len(part) * n / (1 if directed else 2) for one, part in zip(found, parts)])
        error = each.std(axis=0, ddof=1) / np.sqrt(PARTS)
    return Paths(directed, len(sources), through, stress, rest[0], rest[1], rest[2], rest[3], error)


def _laid_out(network: Network, weighted: bool, lengths: bool) -> tuple[Any, Any, Floats]:
    """Ties by item: where each item's begin, where they lead, and how long they are (empty where each is one step)."""
    if weighted and len(network.weight) and float(network.weight.min()) < 0:
        raise UserError("a weight below 0 is no length of a path", place="measure", cure="Measure without weights")
    matrix = network.simple("kept").csr("out" if network.directed else "both")
    if weighted:
        matrix.eliminate_zeros()
    matrix.sort_indices()
    start, neighbour = matrix.indptr.astype(np.int64), matrix.indices.astype(np.int32)
    if not weighted:
        return start, neighbour, np.zeros(0)
    return start, neighbour, matrix.data.astype(np.float64) if lengths else 1.0 / matrix.data


def _spread(
    parts: list[NDArray[np.int32]],
    start: Any,
    neighbour: Any,
    length: Floats,
    n: int,
    progress: Progress,
    of: int,
    light: bool,
) -> list[list[NDArray[Any]]]:
    """The sums of each part of the sources, worked on by two threads (the kernels hold no interpreter lock)."""
    from umber_knot.network.measures._paths import lengths_from, near_from, steps_from

    found = [[*(np.zeros(n) for _ in range(5)), np.zeros(n, np.int64)] for _ in parts]
    todo = [(k, parts[k][at : at + CHUNK]) for k in range(len(parts)) for at in range(0, len(parts[k]), CHUNK)]
    lanes: list[list[tuple[int, NDArray[np.int32]]]] = [[one for one in todo if one[0] % 2 == lane] for lane in (0, 1)]
    done = 0
    with ThreadPoolExecutor(2) as pool:

        def work(one: tuple[int, NDArray[np.int32]]) -> int:
            k, sources = one
            kernel: Any = lengths_from if len(length) else near_from if light else steps_from
            kernel(sources, start, neighbour, *((length,) if len(length) else ()), *found[k][2 if light else 0 :])
            return len(sources)

        for round_ in range(max(map(len, lanes))):
            for size in pool.map(work, [lane[round_] for lane in lanes if round_ < len(lane)]):
                done += size
            progress(done, of)
    return found


def betweenness(paths: Paths) -> Floats:
    """Shortest paths through an item, a pair's several paths sharing one (Freeman 1977, Brandes 2001)."""
    return paths.through


def betweenness_share(paths: Paths) -> Floats:
    """Betweenness over what a star's centre has: (n − 1)(n − 2)/2 undirected, (n − 1)(n − 2) directed."""
    n = len(paths.through)
    most = (n - 1) * (n - 2) / (1 if paths.directed else 2)
    return paths.through / most if most > 0 else np.zeros(n)


def stress(paths: Paths) -> Floats:
    """Number of shortest paths through an item (Shimbel 1953, Brandes 2008)."""
    return paths.stress


def stress_share(paths: Paths) -> Floats:
    """Stress over the most that an item here has."""
    most = float(paths.stress.max(initial=0.0))
    return paths.stress / most if most else np.zeros(len(paths.stress))


def closeness(paths: Paths) -> Floats:
    """(r − 1)/Σd · (r − 1)/(n − 1), r − 1 others reached (Wasserman & Faust 1994)."""
    n = len(paths.total)
    far = np.where(paths.total > 0, paths.total, np.nan)
    found = paths.reached * paths.reached / far / max(n - 1, 1)
    return np.where(paths.total == 0, 0.0, found)


def harmonic(paths: Paths) -> Floats:
    """Σ 1/d over all others, over n − 1; nothing is added for what is not reached (Rochat 2009)."""
    return paths.harmonic / max(len(paths.harmonic) - 1, 1)


def reach(paths: Paths) -> Floats:
    """Steps, or length, to the farthest item that is reached (Harary 1969)."""
    return paths.reach


def of_largest(paths: Paths, inside: Ints) -> tuple[float, float]:
    """(diameter, mean path) over the pairs of some items that reach one another; NaN where there are none."""
    reached = float(paths.reached[inside].sum())
    if not reached:
        return float("nan"), float("nan")
    return float(paths.reach[inside].max()), float(paths.total[inside].sum() / reached)
