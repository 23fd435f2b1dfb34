"""What the recipe says of relating: the sentence that makes a network."""

from __future__ import annotations

from dataclasses import dataclass

from umber_knot.corpus.model import DECIDED, ROLES
from umber_knot.parameters import number, one_of, one_or_number
from umber_knot.text.parameters import FIELDS

#: Ties by a record that both share, in one role or any.
SHARED = ("co-authorship", "co-occurrence")
#: Ties read from the lists of references.
CITING = ("citation", "co-citation", "coupling")
#: Ties that run from one item to another.
DIRECTED = ("citation", "correspondence")
#: The words of a sentence that ties are counted by.
COUNTED_BY = (
    *("tie", "of", "second", "project", "counting", "years", "where", "max_per_record", "direction", "roles"),
    *("within", "terms", "column", "compare", "tolerance", "parallel", "loops", "relation", "relations"),
)
#: What items of a network can be.
ITEMS = ("record", *DECIDED)
#: The roles of people and places that can be chosen; "author" is the plain one.
SAID = ("author", *(role for role in ROLES if role not in ("", "index", "heading", "from", "to")))
AS_WRITTEN = {"author": ""}
#: How numbers of a column can be compared; ``within`` a tolerance.
BY_NUMBER = ("within", "difference", "signed", "nearness")
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
    where they are among the ``best``; 0 keeps all. ``column`` is what items are alike in, compared as said; ``attributes`` are
    columns joined to the items; ``items`` and ``ties`` filters of those by a column. ``of`` and ``second`` may be columns,
    too. ``parallel`` and ``loops`` say what becomes of several ties between the same two and of ties of an item to itself;
    ``relation`` is a column that tells ties apart, ``relations`` their weights as ``kinship=0.5``. ``roles`` are those in which people or places count, of letters on the receiving side; none leaves it to the tie.
    ``around`` are items, by form or label, of whose surroundings to so many ``steps`` nothing but that is kept.
    """

    tie: str = one_of("co-authorship", *SHARED, *CITING, "correspondence", "concept", "two-mode", "similarity")
    of: str = "person"
    second: str = ""
    project: str = ""
    counting: str = one_of("full", "full", "fractional")
    normalise: str = one_of("none", "none", "association", "cosine", "jaccard", "inclusion", "equivalence")
    years: tuple[int, ...] = ()
    where: str = ""
    min_records: int = number(1, 1, 1e9)
    max_per_record: int = number(0, 0, 1e9)
    min_weight: float = number(0.0, 0, 1e18)
    top_k: int = number(0, 0, 1e9)
    backbone: float = number(0.0, 0, 1)
    keep: str = one_of("all", "all", "connected")
    around: tuple[str, ...] = ()
    steps: int = number(1, 1, 100)
    terms: tuple[str, ...] = one_of(FIELDS, *FIELDS)
    best: int = number(500, 0, 1e9)
    within: str = one_or_number("sentence", *TOGETHER)
    column: str = ""
    compare: str = one_of("same", "same", *BY_NUMBER)
    tolerance: float = number(0.0, 0, 1e18)
    roles: tuple[str, ...] = one_of((), *SAID)
    direction: str = one_of("kept", "kept", "reversed", "ignored")
    parallel: str = one_of("summed", "summed", "first", "kept")
    loops: str = one_of("kept", "kept", "out")
    relation: str = ""
    relations: tuple[str, ...] = ()
    attributes: tuple[str, ...] = ()
    items: str = ""
    ties: str = ""

    @property
    def directed(self) -> bool:
        """Whether a tie runs from one item to the other."""
        signed = self.tie == "similarity" and self.compared == "signed"
        return (self.tie in DIRECTED or signed) and self.direction != "ignored"

    @property
    def compared(self) -> str:
        """How values of a column are compared: a tolerance alone says it too."""
        return "within" if self.compare == "same" and self.tolerance else self.compare

    @property
    def columns(self) -> tuple[str, ...]:
        """The columns that ties are counted from beside those that are kinds of item."""
        return (*((self.column,) if self.tie == "similarity" else ()), *((self.relation,) if self.relation else ()))

    @property
    def apart(self) -> bool:
        """Whether ties between the same two items may stand beside each other, or but one of them counts."""
        return bool(self.parallel != "summed" or self.relation)

    def relation_weights(self) -> dict[str, float]:
        """How much a tie of each relation weighs that is not 1; ValueError where it is not written ``name=weight``."""
        found = {}
        for text in self.relations:
            name, equals, weight = text.rpartition("=")
            if not equals or not 0 <= float(weight) <= 1e18:
                raise ValueError(text)
            found[name.strip()] = float(weight)
        return found

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
        return tuple(dict.fromkeys(kind for kind in kinds if kind != "record"))

    def contradiction(self) -> tuple[str, str]:
        """What in the sentence does not go together, and the cure; empty where all does."""
        if self.tie in SHARED and self.of == "record":
            return "records share no record", 'Tie them by "citation", "co-citation" or "coupling"'
        if self.tie in ("citation", "coupling") and self.of == "reference":
            return f"references are cited, not citing: no {self.tie} of them", 'Use "co-citation", or of = "record"'
        if self.tie == "similarity" and not self.column:
            return "nothing is said to be alike in", 'Name a column: column = "year"'
        if self.tie == "similarity" and self.counting == "fractional":
            return "alike items share nothing out", 'Use counting = "full"'
        try:
            self.relation_weights()
        except ValueError:
            return "a relation's weight is a number from 0 up", 'Write relations = ["kinship=0.5", "letters=0"]'
        if self.relations and not self.relation:
            return "no column tells relations apart", 'Name it: relation = "relation"'
        if (self.apart and self.tie not in (*SHARED, "correspondence", "two-mode")) or (self.apart and self.project):
            return f"ties of {self.tie} come from many records each, and are summed", 'Use parallel = "summed"'
        if not self.of:
            return "no kind of item is named", 'Write of = "person", or a column of the records'
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
        if self.normalise != "none" and self.tie == "similarity":
            return "alike items are not counted, so their ties are not normalised", 'Use normalise = "none"'
        if self.normalise != "none" and self.window:
            return "ties by distance are not normalised", 'Use within = "sentence", or normalise = "none"'
        if self.normalise != "none" and (self.directed or len(self.kinds) > 1):
            what = "ties with a direction" if self.directed else "ties of two kinds"
            return f"{what} are not normalised", 'Use normalise = "none"'
        return "", ""
