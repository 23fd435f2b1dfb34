"""The words of a sentence that say what ties what: the kind of item, and what its items do."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

from umber_knot.corpus.model import KIND_WORDS
from umber_knot.desktop.sentence import Choice, Free, Number, Word
from umber_knot.desktop.session import Session
from umber_knot.relate.offered import Offered, of_column, turned
from umber_knot.relate.parameters import SAID, SHARED, Relate
from umber_knot.text.parameters import FIELDS

COLUMNS = 12  # of the material that are offered as kinds of item
#: What a kind of item is, where it is chosen.
MEANS = {
    "record": "the documents themselves",
    "person": "authors of the records, or who wrote letters",
    "keyword": "keywords",
    "term": "found in titles, abstracts and texts",
    "venue": "journals, books, series",
    "institution": "of the affiliations",
    "country": "of the affiliations",
    "place": "named in the records",
    "reference": "works that the records cite",
}


def kind_options(session: Session) -> list[tuple[str, str, str]]:
    """The kinds of item of which some tie can be made."""
    possible = {one.of for one in session.offered if not one.why}
    kinds = [(kind, KIND_WORDS[kind][1], MEANS[kind]) for kind in MEANS if kind in possible]
    return kinds + [(name, KIND_WORDS[name][1], said) for name, said in column_options(session)]


def column_options(session: Session, most: int = COLUMNS) -> list[tuple[str, str]]:
    """The columns that have several values which come again, each with some of them."""
    found = []
    for name, m in session.named_columns.items():
        if 1 < len(m.forms) < max(len(m.record), 3):
            found.append((name, f"a column: {', '.join(m.forms[:3])}{' …' if len(m.forms) > 3 else ''}"))
    return found[:most]


def offers_of(session: Session, of: str) -> list[Offered]:
    """The ties of a kind of item, or of a column's values."""
    own = [one for one in session.offered if one.of == of]
    return own or (list(of_column(session.corpus, of)) if session.corpus is not None else [])


def first_tie(session: Session, of: str) -> Offered:
    """The first tie that can be made of a kind of item."""
    own = offers_of(session, of)
    return next((one for one in own if not one.why), own[0])


def another(session: Session, of: str) -> dict[str, Any]:
    """The words that make the sentence speak of another kind of item: tied as now where that can be, else otherwise."""
    now = session.strand.relate
    alike = (one for one in offers_of(session, of) if (one.of, one.tie, one.why) == (of, now.tie, ""))
    same = next(alike, None) if now.tie not in (*SHARED, "two-mode") else None
    best = same or first_tie(session, of)
    return turned(now, best.tie, of, best.second)


def said(one: Offered) -> tuple[str, str]:
    """What items tied so do, and what that means."""
    who = "who" if one.of == "person" else "that"
    if one.tie == "two-mode":
        other = KIND_WORDS[one.second][1]
        return (
            f"by the {other} they are in" if one.second == "record" else f"to the {other} in their records",
            "two kinds of item in one network" if one.second != "record" else "items and records in one network",
        )
    ways = {
        "co-authorship": (f"{who} share a record", "wrote or made it together"),
        "co-occurrence": (
            (f"{who} are named together", "in a record, in whatever role: editors, the people of a letter")
            if one.of == "person"
            else (f"{who} share a record", "stand in it together")
        ),
        "citation": (f"{who} cite one another", "with a direction: from the citing to the cited"),
        "co-citation": (f"{who} are cited together", "a record cites both; Small 1973"),
        "coupling": (f"{who} cite the same works", "in the study or not; Kessler 1963"),
        "similarity": (f"{who} are alike in a column", "the same value, or numbers near each other"),
        "concept": ("that stand together", "in a sentence, a paragraph, a record, or some words apart"),
        "correspondence": (
            f"{who} write to one another" if one.of == "person" else "that letters go between",
            "from sender to recipient",
        ),
    }
    return ways[one.tie]


def tie_words(session: Session) -> list[Word]:
    """``Tie people who share a record``: the kind, what its items do, and how two kinds are kept."""
    r = session.strand.relate

    def set_(values: dict[str, Any]) -> None:
        if values:
            session.set_recipe("relate", **values)

    def choose(value: object) -> None:
        one = Offered(*value)  # type: ignore[misc]
        if one.why:
            session.said.emit("They cannot be tied so", one.why, "note")
        else:
            values = turned(r, one.tie, one.of, one.second)
            options = column_options(session)
            if one.tie == "similarity" and options and r.column not in session.named_columns:
                values["column"] = options[0][0]
            set_(values)

    offers = sorted(offers_of(session, r.of), key=lambda one: bool(one.why))
    options = [(tuple(one), said(one)[0], f"not here: {one.why}" if one.why else said(one)[1]) for one in offers]
    now = next((value for value, *_ in options if value[0] == r.tie and value[2] == r.second), ())
    words: list[Word] = [
        "Tie",
        Choice(r.of, kind_options(session), lambda kind: set_(another(session, str(kind))), "kind of item"),
        Choice(
            now or (r.tie, r.of, r.second, ""),
            options or [((r.tie, r.of, r.second, ""), *said(Offered(r.tie, r.of, r.second)))],
            choose,
            "what ties them",
            scrolls=False,
        ),
    ]
    if "term" in r.reconciled:
        words += _of_terms(r, set_)
    if r.tie == "similarity":
        words += _alike(session, r, set_)
    words += _sides(r, set_)
    if session.corpus is not None and any(" ties" in source.told for source in session.corpus.sources):
        words += _of_network_files(session, r, set_)
    if r.tie == "two-mode":
        words += [
            ",",
            Choice(
                r.project, projections(r), lambda kind: set_(turned(r, r.tie, r.of, r.second, str(kind))), "kept as"
            ),
        ]
    return words


def _alike(session: Session, r: Relate, set_: Callable[[dict[str, Any]], None]) -> list[Word]:
    """The column that items are alike in, and how."""
    columns = [(name, name, said) for name, said in column_options(session, 40)]
    columns = columns if any(name == r.column for name, *_ in columns) else [(r.column, r.column, ""), *columns]
    ways = [
        ("same", "the same value of", "tied or not, however many values they share"),
        ("within", "nearly the same", "numbers that differ by no more than a tolerance"),
        ("difference", "any", "tied by how far their numbers differ"),
        ("signed", "a lower or higher", "from the lower to the higher, by the difference"),
        ("nearness", "a near", "by 1 − the difference over the range"),
    ]

    def compare(how: object) -> None:
        set_({"compare": str(how), "tolerance": (r.tolerance or 1.0) if how == "within" else 0.0})

    words: list[Word] = [
        ":",
        Choice(r.compared, ways, compare, "how alike"),
        Choice(r.column, columns, lambda name: set_({"column": str(name)}), "column"),
    ]
    if r.compared == "within":
        tolerance = Number(
            r.tolerance, 1e-9, 1e12, lambda v: set_({"tolerance": v}), name="tolerance", digits=2, before="up to"
        )
        words += [",", tolerance, "apart"]
    return words


def _sides(r: Relate, set_: Callable[[dict[str, Any]], None]) -> list[Word]:
    """Which way ties run, and in which roles people and places count."""
    words: list[Word] = []
    if replace(r, direction="kept").directed:
        ways = [
            ("kept", "as they run", "from sender to recipient, from the citing to the cited, from lower to higher"),
            ("reversed", "turned round", "the other way"),
            ("ignored", "either way", "without a direction; ties both ways become one"),
        ]
        words += [",", Choice(r.direction, ways, lambda way: set_({"direction": str(way)}), "direction")]
    of_people = {"person", "place"} & {r.of, r.second}
    if of_people and r.tie in (*SHARED, "correspondence", "two-mode"):
        options: list[tuple[tuple[str, ...], str, str]] = [
            ((), "in the roles of the tie", "who made it, or exchanged it")
        ]
        options += [
            ((role,), f"as {role}", "")
            for role in SAID
            if r.tie != "correspondence" or role not in ("author", "sender")
        ]
        if r.tie == "correspondence":
            options.append((("recipient", "copy"), "as recipient or copied", ""))
        if r.roles and r.roles not in [value for value, *_ in options]:
            options.append((r.roles, " or ".join(r.roles), ""))
        words += [",", Choice(r.roles, options, lambda roles: set_({"roles": roles}), "roles", scrolls=False)]
    return words


def _of_network_files(session: Session, r: Relate, set_: Callable[[dict[str, Any]], None]) -> list[Word]:
    """What becomes of parallel ties and loops, and the column that tells relations apart."""
    if r.tie not in (*SHARED, "correspondence"):
        return []
    parallel = [
        ("summed", "summed", "weights of the same two add up"),
        ("first", "the first alone", "others of the same two are left out"),
        ("kept", "each kept", "several ties stand between the same two"),
    ]
    loops = [("kept", "and those to itself", ""), ("out", "none to itself", "ties of an item to itself are left out")]
    told = [
        ("", "of any relation", "all ties are of one kind"),
        *((n, f"by {n}", s) for n, s in column_options(session, 40)),
    ]
    words: list[Word] = [
        ", ties of two",
        Choice(r.parallel, parallel, lambda how: set_({"parallel": str(how)}), "parallel ties"),
        Choice(r.loops, loops, lambda how: set_({"loops": str(how)}), "loops"),
        Choice(r.relation, told, lambda name: set_({"relation": str(name), "relations": ()}), "relations"),
    ]
    if r.relation:
        said = "such as kinship=0.5, letters=0; empty for 1 each"

        def weigh(text: str) -> None:
            set_({"relations": tuple(part.strip() for part in text.split(",") if part.strip())})

        words += ["weighing", Free(", ".join(r.relations), weigh, "weights of relations", "1 each", said)]
    return words


def _of_terms(r: Relate, set_: Callable[[dict[str, Any]], None]) -> list[Word]:
    """How near terms stand, where they are read from, and how many of them are kept."""
    words: list[Word] = []
    if r.tie == "concept":
        near = [
            ("sentence", "in one sentence", ""),
            ("paragraph", "in one paragraph", "with the heading above it"),
            ("record", "in one record", ""),
            (r.within if r.window else "5", "by distance", "1 over the words between them; nearer ties more"),
        ]
        words.append(Choice(r.within, near, lambda value: set_(_within(r, str(value))), "how near"))
    if r.window:
        words += [
            Number(r.window, 1, 1000, lambda v: set_({"within": str(int(v))}), name="words apart", before="up to"),
            "words apart",
        ]
    fields: list[tuple[tuple[str, ...], str, str]] = [(FIELDS, "titles, abstracts and texts", "all that records say")]
    fields += [((name,), f"{name}s", "") for name in FIELDS] + [(FIELDS[:2], "titles and abstracts", "")]
    words += [", from", Choice(r.terms, fields, lambda value: set_({"terms": value}), "what is read")]
    best = Number(
        r.best,
        0,
        1_000_000,
        lambda v: set_({"best": int(v)}),
        10,
        "best terms",
        hint="how often a term comes as itself (C-value), and in how few records; 0 keeps all",
        zero="all terms",
        before="the best",
    )
    return [*words, ",", best]


def _within(r: Relate, value: str) -> dict[str, Any]:
    """How near, and what would not go with a window back at its first value."""
    window = value.isdecimal()
    return {"within": value} | ({"counting": "full", "normalise": "none"} if window else {})


def projections(r: Relate) -> list[tuple[str, str, str]]:
    """How a network of two kinds is kept."""
    one, other = (KIND_WORDS[kind][1] for kind in (r.of, r.second))
    return [
        ("", "both kept", "a name on both sides stays two items"),
        (
            r.of,
            f"as {one} who share them" if r.of == "person" else f"as {one} that share them",
            f"tied by how many of the {other} they share",
        ),
        (r.second, f"as {other} that share them", f"tied by how many of the {one} they share"),
    ]
