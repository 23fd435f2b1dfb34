"""Where items stand: a seeded force layout that converges, keeps earlier places, and packs separate parts."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from umber_knot.chart.forces import pack, push_apart, spread
from umber_knot.corpus.model import Floats
from umber_knot.network.model import Network, components

#: Width over height that the parts are packed into.
ASPECT = 1.45
#: Rounds for a fresh layout and for one that starts from earlier places.
ROUNDS, WARM_ROUNDS = 320, 40
GRAVITY = 0.2
#: Spacing of items in a fresh layout, in units of 2.6 mean radii.
DENSITY = 1.7


def layout(
    network: Network,
    radius: Floats,
    seed: int = 1,
    before: Floats | None = None,
    check: Callable[[], None] = lambda: None,
) -> tuple[Floats, Floats]:
    """x and y of each item, shape (n,) each, in layout units: marks have ``radius`` and do not overlap.

    ``before`` gives earlier places, shape (n, 2), NaN where there is none. Items that persist start from them and stay
    near; new ones start among their neighbours. Where fewer than a third persist the layout is fresh.
    """
    n = len(network)
    if not n:
        return np.zeros(0), np.zeros(0)
    network = network.simple()
    old = np.full((n, 2), np.nan) if before is None else before
    known = ~np.isnan(old[:, 0])
    warm = known.sum() * 3 >= n
    part = components(n, network.source, network.target)
    sizes = np.bincount(part)
    by_part = np.split(np.argsort(part, kind="stable"), np.cumsum(sizes)[:-1])
    tie_part = part[network.source]
    tie_order = np.argsort(tie_part, kind="stable")
    ties_of = np.split(tie_order, np.cumsum(np.bincount(tie_part, minlength=len(sizes)))[:-1])
    x, y = np.zeros(n), np.zeros(n)
    local = np.zeros(n, np.int32)
    settled = np.zeros(len(sizes), bool)
    for k, items in enumerate(by_part):
        if not k & 63:
            check()
        local[items] = np.arange(len(items))
        ties = ties_of[k]
        ends = local[network.source[ties]], local[network.target[ties]]
        start = old[items] if warm else np.full((len(items), 2), np.nan)
        settled[k] = bool((~np.isnan(start[:, 0])).any())
        x[items], y[items] = _part(radius[items], *ends, network.weight[ties], seed, start)
    if settled.any():
        _pack_around(x, y, radius, by_part, settled)
    else:
        _pack_all(x, y, radius, by_part)
        x, y = x - (x.min() + x.max()) / 2, y - (y.min() + y.max()) / 2
    return np.round(x, 4), np.round(y, 4)


def _part(
    radius: Floats, source: NDArray[np.int32], target: NDArray[np.int32], weight: Floats, seed: int, start: Floats
) -> tuple[Floats, Floats]:
    """One connected part, from earlier places where there are some."""
    n = len(radius)
    if n == 1:
        return np.nan_to_num(start[:, 0]), np.nan_to_num(start[:, 1])
    unit = 2.6 * float(np.sqrt(np.mean(radius**2)))
    pull = np.sqrt(weight / weight.mean()) if len(weight) else weight
    degree = np.bincount(source, minlength=n) + np.bincount(target, minlength=n)
    pull = pull / np.sqrt(np.mean(degree))
    mass = np.sqrt(1.0 + degree)
    mass /= mass.mean()
    known = ~np.isnan(start[:, 0])
    warm = bool(known.any())
    if warm:
        x, y = _among_neighbours(start, known, source, target, unit)
        x, y = x - x.mean(), y - y.mean()
        unit = 1 / _rest_scale(x, y, mass, source, target, pull)
        x, y = x / unit, y / unit
        rounds, heat = WARM_ROUNDS, 0.25
    else:
        x, y = _level(*_pivots(n, source, target, seed))
        rounds, heat = (ROUNDS if n < 5000 else ROUNDS // 2), 0.10 * np.sqrt(n) + 0.5
    spread(x, y, mass, source, target, pull, rounds, heat, GRAVITY, ASPECT)
    if not warm and n > 2:  # the same density for every network: marks and short labels find room, not more
        wide, high = np.ptp(x), np.ptp(y)
        density = float(np.sqrt(max(wide * high, 0.02 * max(wide, high) ** 2) / n))
        x, y = x * DENSITY / density, y * DENSITY / density
    x, y = x * unit, y * unit
    push_apart(x, y, radius * 1.15, 30 if warm else 80)
    if warm:
        x, y = _aligned(x, y, start, known)
    return x, y


def _rest_scale(
    x: Floats, y: Floats, mass: Floats, source: NDArray[np.int32], target: NDArray[np.int32], pull: Floats
) -> float:
    """The factor at which a drawing of this shape is at rest: where s²A/2 − B ln s, the energy of ``spread``, is
    least."""
    springs = float((pull * ((x[source] - x[target]) ** 2 + (y[source] - y[target]) ** 2)).sum())
    gravity = GRAVITY * float((mass * (x**2 / ASPECT + y**2 * ASPECT)).sum())
    repulsion = (float(mass.sum()) ** 2 - float((mass**2).sum())) / 2
    return float(np.sqrt(repulsion / max(springs + gravity, 1e-12)))


def _pivots(n: int, source: NDArray[np.int32], target: NDArray[np.int32], seed: int) -> tuple[Floats, Floats]:
    """A first drawing from distances to a few far-apart items (PivotMDS, Brandes & Pich 2007), a little shaken."""
    order = np.argsort(np.r_[source, target], kind="stable")
    neighbour = np.r_[target, source][order]
    first = np.searchsorted(np.r_[source, target][order], np.arange(n + 1))
    nearest = np.full(n, np.inf)
    pivot = int(np.argmax(np.diff(first)))
    columns = []
    for _ in range(min(n, 24)):
        distance = _steps_from(pivot, n, first, neighbour)
        columns.append(distance)
        nearest = np.minimum(nearest, distance)
        pivot = int(np.argmax(nearest))
        if nearest[pivot] == 0:
            break
    square = np.column_stack(columns) ** 2
    centred = -0.5 * (square - square.mean(0) - square.mean(1)[:, None] + square.mean())
    _values, vectors = np.linalg.eigh(centred.T @ centred)
    place = centred @ vectors[:, ::-1][:, :2]
    if place.shape[1] < 2:
        place = np.column_stack([place[:, 0], np.zeros(n)])
    place /= np.sqrt((place**2).sum(1).mean()) + 1e-12
    place = place * 0.5 * np.sqrt(n) + np.random.default_rng(seed).normal(0, 0.05 * np.sqrt(n), (n, 2))
    return np.ascontiguousarray(place[:, 0]), np.ascontiguousarray(place[:, 1])


def _steps_from(start: int, n: int, first: NDArray[np.int64], neighbour: NDArray[np.int32]) -> Floats:
    """Steps from one item to every other of its part, breadth first, a whole frontier at a time."""
    distance = np.full(n, -1.0)
    distance[start] = 0
    frontier = np.array([start])
    step = 0.0
    while len(frontier):
        step += 1
        counts = first[frontier + 1] - first[frontier]
        at = np.repeat(first[frontier] - np.cumsum(counts) + counts, counts) + np.arange(counts.sum())
        reached = np.unique(neighbour[at])
        frontier = reached[distance[reached] < 0]
        distance[frontier] = step
    return distance


def _among_neighbours(
    start: Floats, known: NDArray[np.bool_], source: NDArray[np.int32], target: NDArray[np.int32], unit: float
) -> tuple[Floats, Floats]:
    """Earlier places, and for new items the middle of their placed neighbours, a little to the side."""
    place = start.copy()
    have = known.copy()
    n = len(place)
    for _ in range(8):
        if have.all():
            break
        total, count = np.zeros((n, 2)), np.zeros(n)
        for a, b in ((source, target), (target, source)):
            usable = have[b] & ~have[a]
            np.add.at(total, a[usable], place[b[usable]])
            np.add.at(count, a[usable], 1)
        fresh = count > 0
        angle = 2.399963 * np.arange(n)[fresh]  # the golden angle: no two new items in one spot
        place[fresh] = total[fresh] / count[fresh, None] + unit * np.column_stack([np.cos(angle), np.sin(angle)])
        have |= fresh
    place[~have] = place[have].mean(0)
    return place[:, 0].copy(), place[:, 1].copy()


def _level(x: Floats, y: Floats) -> tuple[Floats, Floats]:
    """Turn a drawing so that its long axis lies flat and its heavy side is left and below, whatever the start."""
    x, y = x - x.mean(), y - y.mean()
    _, axes = np.linalg.eigh(np.cov(np.vstack([x, y])))
    a, b = axes[:, 1] @ np.vstack([x, y]), axes[:, 0] @ np.vstack([x, y])
    return (a if (a**3).sum() >= 0 else -a), (b if (b**3).sum() >= 0 else -b)


def _aligned(x: Floats, y: Floats, start: Floats, known: NDArray[np.bool_]) -> tuple[Floats, Floats]:
    """Turn and shift a drawing onto its earlier places (orthogonal Procrustes without scaling, Gower 1975)."""
    now = np.column_stack([x, y])
    was = start[known]
    middle_now, middle_was = now[known].mean(0), was.mean(0)
    if known.sum() > 1:
        u, _, vt = np.linalg.svd((now[known] - middle_now).T @ (was - middle_was))
        turn = u @ np.diag([1.0, np.sign(np.linalg.det(u @ vt)) or 1.0]) @ vt
    else:
        turn = np.eye(2)
    placed = (now - middle_now) @ turn + middle_was
    return placed[:, 0].copy(), placed[:, 1].copy()


def _boxes(x: Floats, y: Floats, radius: Floats, by_part: list[NDArray[np.int64]]) -> Floats:
    """Left, bottom, right, top of each part with its marks, shape (parts, 4)."""
    return np.array(
        [
            [(x[i] - radius[i]).min(), (y[i] - radius[i]).min(), (x[i] + radius[i]).max(), (y[i] + radius[i]).max()]
            for i in by_part
        ]
    )


def _pack_all(x: Floats, y: Floats, radius: Floats, by_part: list[NDArray[np.int64]]) -> None:
    box = _boxes(x, y, radius, by_part)
    gap = 2.0 * float(radius.mean())
    order = np.argsort(-(box[:, 2] - box[:, 0]) * (box[:, 3] - box[:, 1]), kind="stable")
    if len(order) > 3000:  # a crowd of crumbs: rows are compact enough, and quick
        _rows(x, y, box, by_part, order, gap)
        return
    wide, high = box[order, 2] - box[order, 0], box[order, 3] - box[order, 1]
    left, low = pack(wide, high, ASPECT, gap)
    for k, part in enumerate(order.tolist()):
        x[by_part[part]] += left[k] - box[part, 0]
        y[by_part[part]] += low[k] - box[part, 1]


def _rows(
    x: Floats, y: Floats, box: Floats, by_part: list[NDArray[np.int64]], order: NDArray[np.int64], gap: float
) -> None:
    wide, high = box[:, 2] - box[:, 0] + gap, box[:, 3] - box[:, 1] + gap
    width = max(float(wide.max()), float(np.sqrt((wide * high).sum() * ASPECT)))
    at_x = at_y = row = 0.0
    for part in order.tolist():
        if at_x + wide[part] > width and at_x:
            at_x, at_y, row = 0.0, at_y - row, 0.0
        x[by_part[part]] += at_x - box[part, 0]
        y[by_part[part]] += at_y - box[part, 3]
        at_x += wide[part]
        row = max(row, float(high[part]))


def _pack_around(
    x: Floats, y: Floats, radius: Floats, by_part: list[NDArray[np.int64]], settled: NDArray[np.bool_]
) -> None:
    """Settled parts stay; new ones go in rows below everything."""
    box = _boxes(x, y, radius, by_part)
    gap = 2.0 * float(radius.mean())
    fresh = np.flatnonzero(~settled)
    if not len(fresh):
        return
    left, low = box[settled, 0].min(), box[settled, 1].min() - gap
    width = max(float(box[settled, 2].max() - left), float((box[fresh, 2] - box[fresh, 0]).max()))
    at_x, row = left, 0.0
    for part in fresh.tolist():
        wide, high = box[part, 2] - box[part, 0] + gap, box[part, 3] - box[part, 1] + gap
        if at_x + wide > left + width and at_x > left:
            at_x, low, row = left, low - row, 0.0
        x[by_part[part]] += at_x - box[part, 0]
        y[by_part[part]] += low - box[part, 3]
        at_x += wide
        row = max(row, float(high))
