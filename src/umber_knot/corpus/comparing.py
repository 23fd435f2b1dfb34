"""A source against a newer export of it: what is new, gone and changed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import NamedTuple

from umber_knot.corpus.columns import NUMBERS, TEXTS, Columns
from umber_knot.corpus.likeness import key
from umber_knot.corpus.model import KINDS

_SHOWN = 3


class Difference(NamedTuple):
    """Titles of the records that are new, gone and changed."""

    new: tuple[str, ...]
    gone: tuple[str, ...]
    changed: tuple[str, ...]

    def sentence(self) -> str:
        """One line: ``14 records new, 3 gone, 6 changed``."""
        counts = [(len(self.new), "new"), (len(self.gone), "gone"), (len(self.changed), "changed")]
        said = [f"{n:,} {'records ' if k == 0 else ''}{word}" for k, (n, word) in enumerate(counts)]
        named = [
            f"{mark} {title}"
            for mark, titles in (("+", self.new), ("−", self.gone), ("~", self.changed))
            for title in titles[:_SHOWN]
        ]
        return ", ".join(said) + (f" ({'; '.join(named[:4])})" if named else "")


def compare_sources(old: Columns, new: Columns, forms: Mapping[str, Sequence[str]]) -> Difference:
    """Records are the same by identifier, else by entry, else by title, year and first author, else by title."""
    before, after = _contents(old, forms), _contents(new, forms)
    return Difference(
        tuple(title for k, (title, _) in after.items() if k not in before),
        tuple(title for k, (title, _) in before.items() if k not in after),
        tuple(title for k, (title, content) in after.items() if k in before and before[k][1] != content),
    )


def _contents(columns: Columns, forms: Mapping[str, Sequence[str]]) -> dict[object, tuple[str, object]]:
    """What names each record → (title, all that it says)."""
    names: list[object] = [None] * len(columns)
    for record, identifier in zip(columns.identity[0].tolist(), columns.identity[1].tolist()):
        names[record] = names[record] or identifier
    mentioned: list[list[object]] = [[] for _ in names]
    for kind in KINDS:
        record, form, role = columns.mentions[kind]
        roles = role.tolist() or [0] * len(record)
        for r, f, what in zip(record.tolist(), form.tolist(), roles):
            mentioned[r].append((kind, forms[kind][f], what))
    texts = zip(*(columns.texts[name] for name in TEXTS))
    numbers = zip(*(columns.numbers[name].tolist() for name in NUMBERS if name not in ("line", "likeness")))
    found: dict[object, tuple[str, object]] = {}
    alike = columns.numbers["likeness"].tolist()
    for n, (said, counted) in enumerate(zip(texts, numbers)):
        title, entry = said[0], said[1]
        name = names[n] or entry or alike[n] or key(title)
        found[name] = (title or entry or "(no title)", (said, counted, tuple(mentioned[n])))
    return found
