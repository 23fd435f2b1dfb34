"""What a study remembers of its charts, so that a topic keeps its number and hue and an item its place.

All of it is derived and may be forgotten; what was decided by hand (pins) is a step and not here. Of every arrangement
and grouping the last few states are kept, each under the key of what it was computed from: back at that state, it is
found as it was.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
import orjson

from umber_knot.corpus.file import StudyFile, decoding
from umber_knot.corpus.model import Floats, Ints
from umber_knot.corpus.texts import Texts

#: States kept of each arrangement and grouping.
KEPT = 8


@dataclass(frozen=True, slots=True)
class Places:
    """Where items stood: their kind and form, x and y in layout units, shape (items,)."""

    kind: Texts
    form: Texts
    x: Floats
    y: Floats

    def at(self) -> dict[tuple[str, str], tuple[float, float]]:
        """Item → its place."""
        return dict(zip(zip(self.kind, self.form), zip(self.x.tolist(), self.y.tolist())))


@dataclass(frozen=True, slots=True)
class Identities:
    """Which topic (from 0, −1 none) each item had, shape (items,), and the hue slot of each topic."""

    kind: Texts
    form: Texts
    topic: Ints
    slots: Mapping[int, int]

    def at(self) -> dict[tuple[str, str], int]:
        """Item → its topic."""
        return dict(zip(zip(self.kind, self.form), self.topic.tolist()))


class Remembering(StudyFile):
    """The part of a study file that remembers charts."""

    def remember(self, strand: int, name: str, base: str, what: Places | Identities) -> None:
        """Keep the places of an arrangement, or the identities of a grouping, under the key of their state."""
        if self.read_only:
            return
        kind = "places" if isinstance(what, Places) else "identities"
        with self._transaction() as db:
            used = db.execute("SELECT coalesce(max(used), 0) + 1 FROM remembered").fetchone()[0]
            db.execute(
                "INSERT OR REPLACE INTO remembered VALUES (?, ?, ?, ?, ?, ?)",
                (strand, kind, name, base, used, _packed(what)),
            )
            db.execute(
                "DELETE FROM remembered WHERE strand = ? AND what = ? AND name = ? AND used NOT IN (SELECT used FROM "
                "remembered WHERE strand = ? AND what = ? AND name = ? ORDER BY used DESC LIMIT ?)",
                (strand, kind, name, strand, kind, name, KEPT),
            )

    def remembered(self, strand: int, what: str, name: str) -> dict[str, Places | Identities]:
        """Key of the state → what is remembered of it (``places`` or ``identities``), the latest last."""
        with decoding(self.path, "the remembered chart"):
            return {
                base: _unpacked(what, data)
                for base, data in self._db.execute(
                    "SELECT base, data FROM remembered WHERE strand = ? AND what = ? AND name = ? ORDER BY used",
                    (strand, what, name),
                )
            }


def _packed(what: Places | Identities) -> bytes:
    found: dict[str, object] = {"kind": list(what.kind), "form": list(what.form)}
    if isinstance(what, Places):
        found |= {"x": what.x.tolist(), "y": what.y.tolist()}
    else:
        found |= {"topic": what.topic.tolist(), "slots": sorted(what.slots.items())}
    return orjson.dumps(found)


def _unpacked(what: str, data: bytes) -> Places | Identities:
    d = orjson.loads(data)
    kind, form = Texts.of(d["kind"]), Texts.of(d["form"])
    if what == "places":
        return Places(kind, form, np.array(d["x"], np.float64), np.array(d["y"], np.float64))
    return Identities(kind, form, np.array(d["topic"], np.int32), {int(t): int(s) for t, s in d["slots"]})
