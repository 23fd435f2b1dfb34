"""Yardsticks: random networks of a model, and the figures of a network beside theirs.

Models: ``gnp`` every pair with one probability, ``gnm`` so many ties (Gilbert 1959, Erdős & Rényi 1959), ``small-world`` a
ring some of whose ties were moved (Watts & Strogatz 1998), ``attachment`` newcomers tied to what is well tied (Barabási &
Albert 1999), ``rewired`` the same degrees (Maslov & Sneppen 2002). Each has its seed; the same seed gives the same network.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from umber_knot.corpus.model import Floats, Ints
from umber_knot.errors import UserError
from umber_knot.network.measures.clustering import clustering, transitivity
from umber_knot.network.measures.whole import assortativity, reciprocity
from umber_knot.network.model import Network, components

MODELS = ("gnp", "gnm", "small-world", "attachment", "rewired")
#: What a yardstick measures: figures that a random network of the same size can differ in.
FIGURES = ("transitivity", "mean_clustering", "mean_path", "diameter", "assortativity", "largest_share")
MOVED = 0.1  # share of ties that a small world moves
SWAPS = 10  # tries for each tie that is rewired
Progress = Callable[[int, int], None]


def quiet(done: int, of: int) -> None:
    """Progress that nobody asked for."""


def random_network(network: Network, model: str, seed: int) -> Network:
    """A random network with the items of another, in its size by a model: as many items, ties or their probability, mean
    degree or the very degrees. UserError where a model has no directions."""
    n, simple = len(network), network.simple("kept")
    rng = np.random.default_rng(seed)
    pairs = n * (n - 1) // (1 if network.directed else 2)
    if network.directed and model in ("small-world", "attachment"):
        raise UserError(f"{model} has no directions", place="yardstick", cure='Use "gnp", "gnm" or "rewired"')
    if model == "gnp":
        some = int(rng.binomial(pairs, simple.ties / pairs)) if pairs else 0
        ends = _chosen(n, pairs, some, network.directed, rng)
    elif model == "gnm":
        ends = _chosen(n, pairs, simple.ties, network.directed, rng)
    elif model == "small-world":
        ends = _small_world(n, max(2, 2 * round(simple.ties / max(n, 1))), rng)
    elif model == "attachment":
        ends = _attached(n, max(1, round(simple.ties / max(n, 1))), rng)
    elif model == "rewired":
        ends = _rewired(simple, int(rng.integers(2**31 - 1)))
    else:
        raise UserError(f"there is no model {model!r}", place="yardstick", cure=f"Known: {', '.join(MODELS)}")
    return of_ties(network, *ends)


def of_ties(network: Network, source: Ints, target: Ints) -> Network:
    """The items of a network with other ties, each of weight 1."""
    if not network.directed:
        source, target = np.minimum(source, target), np.maximum(source, target)
    order = np.lexsort((target, source))
    m, undated = len(order), np.full(len(order), np.datetime64("NaT"), "datetime64[D]")
    return replace(
        network,
        source=source[order].astype(np.int32),
        target=target[order].astype(np.int32),
        weight=np.ones(m),
        count=np.ones(m, np.int32),
        tie_first=undated,
        tie_last=undated,
        relations=("",),
        relation_code=np.zeros(0, np.int8),
        tie_columns={},
    )


def _chosen(n: int, pairs: int, some: int, directed: bool, rng: np.random.Generator) -> tuple[Ints, Ints]:
    """So many different pairs of all, each as likely."""
    if some * 3 > pairs:
        number = rng.permutation(pairs)[:some]
    else:  # drawn again until there are enough: quicker where few of many are taken
        number = np.zeros(0, np.int64)
        while len(number) < some:
            more = rng.integers(0, pairs, some - len(number) + 16)
            both = np.r_[number, more]
            number = both[np.sort(np.unique(both, return_index=True)[1])][:some]
    if directed:
        source, target = number // max(n - 1, 1), number % max(n - 1, 1)
        return source, target + (target >= source)
    # pair k of the upper triangle, row by row: row i begins at i(2n − i − 1)/2
    i = ((2 * n - 1 - np.sqrt((2.0 * n - 1) ** 2 - 8.0 * number)) / 2).astype(np.int64)
    begin = i * (2 * n - i - 1) // 2
    i = np.where(number < begin, i - 1, i)
    i = np.where(number >= (i + 1) * (2 * n - i - 2) // 2, i + 1, i)
    begin = i * (2 * n - i - 1) // 2
    return i, number - begin + i + 1


def _small_world(n: int, k: int, rng: np.random.Generator) -> tuple[Ints, Ints]:
    """A ring in which everyone is tied to k neighbours, a share of the ties moved to a random end."""
    k = min(k, (n - 1) // 2 * 2)
    ties = {
        (i, (i + step) % n) if i < (i + step) % n else ((i + step) % n, i)
        for step in range(1, k // 2 + 1)
        for i in range(n)
    }
    listed = sorted(ties)
    for at in np.flatnonzero(rng.random(len(listed)) < MOVED).tolist():
        i, j = listed[at]
        for _ in range(20):  # where all is tied already it stays
            to = int(rng.integers(n))
            new = (min(i, to), max(i, to))
            if to != i and new not in ties:
                ties.remove((i, j))
                ties.add(new)
                break
    found = np.array(sorted(ties), np.int64).reshape(-1, 2)
    return found[:, 0], found[:, 1]


def _attached(n: int, m: int, rng: np.random.Generator) -> tuple[Ints, Ints]:
    """Items come one by one and are tied to m of those there, as likely as they are tied; the first m + 1 are a star."""
    m = min(m, max(n - 1, 1))
    source, target = [0] * min(m, n - 1), list(range(1, min(m, n - 1) + 1))
    ends = source + target
    for new in range(m + 1, n):
        chosen: dict[int, None] = {}
        while len(chosen) < m:
            chosen[ends[int(rng.integers(len(ends)))]] = None
        source += chosen
        target += [new] * m
        ends += [*chosen, *[new] * m]
    return np.array(source, np.int64), np.array(target, np.int64)


def _rewired(simple: Network, seed: int) -> tuple[Ints, Ints]:
    from umber_knot.network._rewired import swap

    source, target = simple.source.astype(np.int64), simple.target.astype(np.int64)
    room = 1 << max(4, int(4 * len(source)).bit_length())
    kernel: Any = swap
    if len(source) > 1:
        kernel(source, target, len(simple), simple.directed, SWAPS * len(source), seed, np.full(room, -1, np.int64))
    return source, target


def watched(network: Network) -> dict[str, float]:
    """The figures of a network that yardsticks compare, by name."""
    from umber_knot.network._reached import distances

    n, simple = len(network), network.simple("kept")
    part = components(n, simple.source, simple.target)
    largest = np.flatnonzero(part == 0).astype(np.int32)
    back = simple.csr("in" if simple.directed else "both")
    kernel: Any = distances
    total, pairs, far = kernel(largest, back.indptr.astype(np.int64), back.indices.astype(np.int32), n)
    found = {
        "transitivity": transitivity(simple),
        "mean_clustering": float(clustering(simple).mean()) if n else float("nan"),
        "mean_path": total / pairs if pairs else float("nan"),
        "diameter": float(far) if pairs else float("nan"),
        "assortativity": assortativity(simple),
        "largest_share": len(largest) / n if n else float("nan"),
    }
    return found | ({"reciprocity": reciprocity(simple)} if network.directed else {})


@dataclass(frozen=True, slots=True)
class Yardstick:
    """A figure of a network beside those of random ones: mean, standard deviation, range, and the share of them that is at
    least as great; over those that have it."""

    figure: str
    here: float
    mean: float
    deviation: float
    least: float
    greatest: float
    at_least: float

    def said(self) -> str:
        """In words: ``clustering 0.74, random 0.08 ± 0.01``."""
        return f"{self.figure.replace('_', ' ')} {self.here:.3g}, random {self.mean:.3g} ± {self.deviation:.2g}"


def yardsticks(
    network: Network, model: str, seeds: Sequence[int], progress: Progress = quiet
) -> tuple[list[Yardstick], dict[str, Floats]]:
    """Every figure beside those of one random network a seed, made and measured by two threads; and all their values, shape
    (seeds,)."""
    here, rows = watched(network), []
    with ThreadPoolExecutor(2) as pool:
        for k in range(0, len(seeds), 2):
            rows += list(pool.map(lambda seed: watched(random_network(network, model, seed)), seeds[k : k + 2]))
            progress(len(rows), len(seeds))
    every = {name: np.array([row[name] for row in rows], np.float64) for name in here}
    return [compared(name, here[name], every[name]) for name in here], every


def compared(name: str, here: float, values: Floats) -> Yardstick:
    """A figure beside its values in random networks."""
    there = values[~np.isnan(values)]
    if not len(there):
        nan = float("nan")
        return Yardstick(name, here, nan, nan, nan, nan, nan)
    spread = float(there.std(ddof=1)) if len(there) > 1 else 0.0
    share = float((there >= here).mean()) if here == here else float("nan")
    return Yardstick(name, here, float(there.mean()), spread, float(there.min()), float(there.max()), share)
