"""The sentence that makes a network, as words and controls: on the desk Relate, and shorter on top of the chart."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from umber_knot.desktop.changing import hand_words
from umber_knot.desktop.sentence import Choice, Free, Number, Word, Years
from umber_knot.desktop.session import Session
from umber_knot.desktop.strands import further_words, strand_words
from umber_knot.desktop.tying import tie_words
from umber_knot.relate.parameters import Relate
from umber_knot.relate.wording import counted_in, many

NORMALISE = (
    ("none", "as counted", "the weight is the count"),
    ("association", "by association", "observed over expected; Zitt, Bassecoulard & Okubo 2000"),
    ("cosine", "by cosine", "over the geometric mean of both items' records; Salton & McGill 1983"),
    ("jaccard", "by Jaccard", "over the records with either"),
    ("inclusion", "by inclusion", "over the fewer of both items' records"),
    ("equivalence", "by equivalence", "squared, over the product of both; Callon et al. 1991"),
)
_BY_COLUMN = "such as records:2-9, party:north, -mill; empty for all"
KEEP = (
    ("all", "everyone", "tied or not"),
    ("connected", "the largest part", "items linked to each other by some path"),
)


def relate_words(session: Session, brief: bool = False) -> list[Word]:
    """The sentence of Relate as words and controls; ``brief`` for the top of the chart."""
    r = session.strand.relate
    items = many(r)

    def set_(**values: object) -> None:
        session.set_recipe("relate", **values)

    dated = session.corpus.year[session.corpus.year > 0] if session.corpus is not None else np.zeros(0)
    low, high = (int(dated.min()), int(dated.max())) if len(dated) else (1900, 2100)
    years = Years(r.years, low, high, lambda v: set_(years=v))
    least = Number(
        r.min_records,
        1,
        1_000_000,
        lambda v: set_(min_records=int(v)),
        name="least records",
        hint=f"keep {items} in so many records",
    )
    cited = r.tie == "co-citation"
    enough: list[Word] = [", cited by at least" if cited else ", in at least", least, "records"]
    if r.kinds == ("record",) and not cited:  # a record is one
        enough = []
    if brief:
        return [*strand_words(session), *tie_words(session), ",", years, *enough, *_around(r, set_)]
    most = Number(
        r.max_per_record,
        0,
        1_000_000,
        lambda v: set_(max_per_record=int(v)),
        name="most per record",
        hint="leave out records with more; 0 keeps all",
        zero="any number of",
        before="at most",
    )
    weight = Number(
        r.min_weight, 0, 1e9, lambda v: set_(min_weight=v), 0.5, "least weight", "drop lighter ties", 1, "any"
    )
    everyone = tuple((v, items if v == "all" else w, m) for v, w, m in KEEP)
    counting: list[Word] = []
    if (r.tie, r.of) != ("citation", "record") and not r.window and r.tie != "similarity":
        counting = [", counted", Choice(r.counting, counting_options(r), lambda v: set_(counting=v), "counting")]
    if not r.directed and not r.window and len(r.kinds) == 1 and r.tie != "similarity":
        counting += ["and weighed", Choice(r.normalise, NORMALISE, lambda v: set_(normalise=v), "weights")]
    return [
        *strand_words(session),
        *tie_words(session),
        *counting,
        ", from",
        years,
        ", of",
        Free(r.where, lambda text: set_(where=text), "records", "all records", "as in the filter of Gather"),
        "with",
        most,
        "works cited" if cited else items,
        *enough,
        ", ties of",
        weight,
        "weight",
        *_thinned(r, set_),
        ", and",
        "all" if r.keep == "all" else "only",
        Choice(r.keep, everyone, lambda v: set_(keep=v), "keep"),
        ", tied or not" if r.keep == "all" else "",
        *_around(r, set_),
        *hand_words(session),
        ".",
        *further_words(session),
    ]


def _around(r: Relate, set_: Callable[..., None]) -> list[Word]:
    """Whose surroundings are kept, where a sentence says so."""
    if not r.around:
        return []
    these = r.around[0] if len(r.around) == 1 else f"{r.around[0]} and {len(r.around) - 1:,} more"
    options = [(True, these, "the items asked for"), (False, "any item", "the whole network again")]
    steps = Number(r.steps, 1, 100, lambda v: set_(steps=int(v)), name="steps", hint="along ties, either way")
    whose = Choice(True, options, lambda kept: kept or set_(around=()), "surroundings of", scrolls=False)
    return [", within", steps, "steps of" if r.steps != 1 else "step of", whose]


def _thinned(r: Relate, set_: Callable[..., None]) -> list[Word]:
    """The ties that are kept beside weight, where a sentence says so, and the offer to thin them otherwise."""
    words: list[Word] = []
    if r.top_k:
        words += [
            ",",
            Number(
                r.top_k,
                0,
                1_000_000,
                lambda v: set_(top_k=int(v)),
                name="strongest ties",
                hint="so many of an item at either end, and those as strong; 0 keeps all",
                zero="every tie of an item",
                before="the strongest",
            ),
            "of an item",
        ]
    if r.items:
        words += [", items", Free(r.items, lambda text: set_(items=text), "filter of items", "all", _BY_COLUMN)]
    if r.ties:
        words += [", ties", Free(r.ties, lambda text: set_(ties=text), "filter of ties", "all", _BY_COLUMN)]
    if r.backbone:
        words += [
            ",",
            Number(
                r.backbone,
                0,
                1,
                lambda v: set_(backbone=v),
                0.01,
                "backbone",
                "against an item's strength shared out at random (disparity filter, Serrano et al. 2009); 0 keeps all",
                3,
                "however likely",
                "less likely by chance than",
            ),
        ]
    ways = (
        ("top_k", "an item's strongest", "ties among the 5 strongest at either end"),
        ("backbone", "the backbone", "ties heavier than chance makes likely, at 0.05"),
        ("items", "some items", "those that a filter picks by name or column"),
        ("ties", "some ties", "those that a filter picks by name or column"),
    )
    left = [way for way in ways if not getattr(r, way[0])]
    if left:
        now = "every one" if len(left) == len(ways) else "by no other rule"
        options = [("", now, ""), *left]
        first = {"top_k": 5, "backbone": 0.05, "items": "records:2-", "ties": "count:2-"}
        thin = Choice("", options, lambda way: way and set_(**{str(way): first[str(way)]}), "fewer ties", scrolls=False)
        words += [",", thin]
    return words


def counting_options(r: Relate) -> list[tuple[str, str, str]]:
    """The two ways to count, each with its arithmetic for the tie."""
    if r.directed or len(r.kinds) > 1:
        each = "citation" if r.tie == "citation" else "letter" if r.tie == "correspondence" else "record"
        return [
            ("full", "in full", f"every {each} counts 1 for each pair"),
            ("fractional", "fractionally", f"a {each} between n and m of them gives a pair 1/(n·m)"),
        ]
    one = counted_in(r, 1)
    return [
        ("full", "in full", f"every {one} counts 1 for each pair"),
        ("fractional", "fractionally", f"a {one} among n of them gives a pair 1/(n − 1); Newman 2001"),
    ]
