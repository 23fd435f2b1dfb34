"""What the recipe says of relating: the sentence that makes a network."""

from __future__ import annotations

from dataclasses import dataclass

from umber_knot.corpus.model import DECIDED
from umber_knot.parameters import one_of, one_or_number, within
from umber_knot.text.parameters import FIELDS

#: Ties by a record that both share, in one role or any.
SHARED = ("co-authorship", "co-occurrence")
#: Ties read from the lists of references.
CITING = ("citation", "co-citation", "coupling")
#: Ties that run from one item to another.
DIRECTED = ("citation", "correspondence")
#: The words of a sentence that ties are counted by.
COUNTED_BY = ("tie", "of", "second", "project", "counting", "years", "where", "max_per_record", "within", "terms")
#: What items of a network can be.
ITEMS = ("record", *DECIDED)
#: Of what terms can be together: a record, a paragraph, a sentence; a number is of words one after another.
TOGETHER = ("sentence", "paragraph", "record")


@dataclass(frozen=True, slots=True)
class Relate:
    """``tie`` what ties items of the kind ``of``; how it is counted and weighed; what is kept (METHODS, "Ties").

    ``second`` is the other kind of a two-mode network, and ``project`` the kind it is projected to, empty where it is
    kept; in a recipe both kinds stand as ``of = ["person", "venue"]``.
    ``years`` are the first and last, empty for all, undated records too; ``where`` is a filter of records as on Gather;
    ``max_per_record`` 0 is no limit; ``top_k`` keeps an item's strongest ties, ``backbone`` those less likely by chance
    than so much; 0 keeps all. ``within`` says how near terms are tied, read from the ``terms`` of a record (FIELDS) and kept
    where they are among the ``best``; 0 keeps all. ``around`` are items, by form or label, of whose surroundings to so many ``steps`` nothing but that is kept.
    """

    tie: str = one_of("co-authorship", *SHARED, *CITING, "correspondence", "concept", "two-mode")
    of: str = one_of("person", *ITEMS)
    second: str = one_of("", "", *ITEMS)
    project: str = one_of("", "", *ITEMS)
    counting: str = one_of("full", "full", "fractional")
    normalise: str = one_of("none", "none", "association", "cosine", "jaccard", "inclusion", "equivalence")
    years: tuple[int, ...] = ()
    where: str = ""
    min_records: int = within(1, 1, 1e9)
    max_per_record: int = within(0, 0, 1e9)
    min_weight: float = within(0.0, 0, 1e18)
    top_k: int = within(0, 0, 1e9)
    backbone: float = within(0.0, 0, 1)
    keep: str = one_of("all", "all", "connected")
    around: tuple[str, ...] = ()
    steps: int = within(1, 1, 100)
    terms: tuple[str, ...] = one_of(FIELDS, *FIELDS)
    best: int = within(500, 0, 1e9)
    within: str = one_or_number("sentence", *TOGETHER)

    @property
    def directed(self) -> bool:
        """Whether a tie runs from one item to the other."""
        return self.tie in DIRECTED

    @property
    def window(self) -> int:
        """How many words apart terms are tied, 0 where not by distance."""
        return int(self.within) if self.tie == "concept" and self.within.isdecimal() else 0

    @property
    def kinds(self) -> tuple[str, ...]:
        """The kinds of the network's items."""
        if self.tie != "two-mode":
            return (self.of,)
        return (self.project,) if self.project else (self.of, self.second)

    @property
    def reconciled(self) -> tuple[str, ...]:
        """The kinds whose forms must be known to make the network."""
        kinds = (*self.kinds, *((self.of, self.second) if self.tie == "two-mode" else ()))
        kinds += ("reference",) if self.tie in CITING else ()
        return tuple(dict.fromkeys(kind for kind in kinds if kind in DECIDED))

    def contradiction(self) -> tuple[str, str]:
        """What in the sentence does not go together, and the cure; empty where all does."""
        if self.tie in SHARED and self.of == "record":
            return "records share no record", 'Tie them by "citation", "co-citation" or "coupling"'
        if self.tie in ("citation", "coupling") and self.of == "reference":
            return f"references are cited, not citing: no {self.tie} of them", 'Use "co-citation", or of = "record"'
        if self.tie == "concept" and self.of != "term":
            return f"concept ties are of terms, not {self.of}s", 'Use of = "term", or tie = "co-occurrence"'
        if self.tie == "concept" and self.window and self.counting == "fractional":
            return "a window weighs by distance, not by shares", 'Use counting = "full", or within = "sentence"'
        if self.tie == "correspondence" and self.of not in ("person", "place"):
            return f"letters go between people or places, not {self.of}s", 'Use of = "person" or of = "place"'
        if self.tie == "two-mode" and (not self.second or self.second == self.of):
            return "a two-mode network needs two kinds", 'Write of = ["person", "venue"]'
        if self.tie != "two-mode" and (self.second or self.project):
            return f"{self.tie} ties items of one kind", 'Use tie = "two-mode", or one kind'
        if self.project and self.project not in (self.of, self.second):
            return f"it cannot be projected to {self.project!r}", f"Use {self.of!r} or {self.second!r}"
        if self.normalise != "none" and self.window:
            return "ties by distance are not normalised", 'Use within = "sentence", or normalise = "none"'
        if self.normalise != "none" and (self.directed or len(self.kinds) > 1):
            what = "ties with a direction" if self.directed else "ties of two kinds"
            return f"{what} are not normalised", 'Use normalise = "none"'
        return "", ""
