"""What is selected, anywhere in the window: named by identity, so that it means the same in every state and strand."""

from __future__ import annotations

from dataclasses import dataclass
from urllib.parse import quote, unquote

from umber_knot.corpus.steps import Item


@dataclass(frozen=True, slots=True)
class Selection:
    """``items`` by kind and form, a ``tie`` by two items, a ``topic`` by number from 0, or a ``record`` by its number
    in
    the study."""

    items: tuple[Item, ...] = ()
    tie: tuple[Item, Item] | None = None
    topic: int | None = None
    record: int | None = None

    def __bool__(self) -> bool:
        return bool(self.items or self.tie or self.topic is not None or self.record is not None)


def written(*items: Item) -> str:
    """Items as one text that a link can hold."""
    return ",".join(f"{quote(kind, safe='')}:{quote(form, safe='')}" for kind, form in items)


def understood(text: str) -> tuple[Item, ...]:
    """What ``written`` gave, as items.

    >>> understood(written(("person", "Dray, T."), ("keyword", "a:b")))
    (('person', 'Dray, T.'), ('keyword', 'a:b'))
    """
    pairs = [part.partition(":") for part in text.split(",") if part]
    return tuple((unquote(kind), unquote(form)) for kind, _, form in pairs)
