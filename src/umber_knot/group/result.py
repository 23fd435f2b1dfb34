"""What grouping gives: the topic of each item, what topics are called, how good and how steady the grouping is."""

from __future__ import annotations

from dataclasses import dataclass

from umber_knot.corpus.model import Floats, Ints


@dataclass(frozen=True, slots=True)
class Partition:
    """The topic of each item (from 0 by falling size, −1 none), shape (n,), and two figures of this very grouping:
    its modularity (γ = 1), and the quality that was optimised."""

    topic: Ints
    modularity: float
    quality: float


@dataclass(frozen=True, slots=True)
class Topic:
    """One topic: its number (from 1), name, and terms with the strongest first."""

    number: int
    name: str
    items: int
    records: int
    terms: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Grouped:
    """A partition under the numbers that its topics keep, with their names."""

    topic: Ints
    topics: tuple[Topic, ...]
    modularity: float
    quality: float


@dataclass(frozen=True, slots=True)
class Stable:
    """How steady a grouping is over seeds: mean adjusted Rand index, and a confidence for each item, shape (n,)."""

    index: float
    confidence: Floats
