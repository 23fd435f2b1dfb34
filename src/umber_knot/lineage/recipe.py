"""The recipe: every parameter of every stage, typed, readable and writable as TOML; unknown keys are errors.

The sections ``[relate] [group] [chart]`` are the study's first strand; further ones follow as ``[[strand]]``.
"""

from __future__ import annotations

import dataclasses
import difflib
import re
import tomllib
from collections import Counter
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field, replace
from functools import partial
from pathlib import Path
from typing import Any

import tomli_w

from umber_knot.chart.parameters import Chart
from umber_knot.errors import UserError, read_utf8
from umber_knot.gather.parameters import Gather
from umber_knot.group.parameters import Group
from umber_knot.network.measures.parameters import Measures
from umber_knot.network.measures.registry import of_column
from umber_knot.network.measures.whole import FIGURES
from umber_knot.reconcile.parameters import Reconcile
from umber_knot.relate.parameters import Relate
from umber_knot.relate.wording import called
from umber_knot.report.parameters import Report

#: Strands a study may hold.
MOST_STRANDS = 60
#: Sections that a strand has of its own.
OWN = ("relate", "measures", "group", "chart")
_NO_FOLDER = re.compile(r"[/\\\x00-\x1f]+")


@dataclass(frozen=True, slots=True)
class Strand:
    """One network of the study. ``id`` ties remembered places to it through renaming and reordering; an empty ``name``
    is proposed from the sentence. ``groupings`` and ``arrangements`` are kept by name beside those in use."""

    id: int = 1
    name: str = ""
    relate: Relate = Relate()
    measures: Measures = Measures()
    group: Group = Group()
    chart: Chart = Chart()
    groupings: tuple[Group, ...] = ()
    arrangements: tuple[Chart, ...] = ()

    def proposed(self) -> str:
        """A name from the sentence."""
        years = f" {self.relate.years[0]}–{self.relate.years[1]}" if self.relate.years else ""
        return called(self.relate) + years


@dataclass(frozen=True, slots=True)
class Recipe:
    """All sections; ``folder`` is where relative paths start from and is not part of the recipe's identity."""

    gather: Gather = Gather()
    reconcile: Reconcile = Reconcile()
    strands: tuple[Strand, ...] = (Strand(),)
    report: Report = Report()
    folder: Path = field(default=Path(), compare=False)

    @property
    def relate(self) -> Relate:
        return self.strands[0].relate

    @property
    def group(self) -> Group:
        return self.strands[0].group

    @property
    def chart(self) -> Chart:
        return self.strands[0].chart

    def strand(self, number: int) -> Strand:
        """The strand of an id; KeyError when there is none."""
        found = next((s for s in self.strands if s.id == number), None)
        if found is None:
            raise KeyError(number)
        return found

    def names(self) -> tuple[str, ...]:
        """What each strand is called, every name once."""
        given = {s.name.casefold() for s in self.strands if s.name}
        found: list[str] = []
        for s in self.strands:
            name, k = s.name or s.proposed(), 2
            while not s.name and name.casefold() in given:
                name, k = f"{s.proposed()} {k}", k + 1
            given.add(name.casefold())
            found.append(name)
        return tuple(found)

    def toml(self) -> str:
        """The recipe as TOML; reading it back gives an equal recipe."""
        first, *others = self.strands
        table: dict[str, Any] = _named(first, 1)
        for section in ("gather", "reconcile"):
            table[section] = _values(getattr(self, section))
        table |= _sections(first)
        table["report"] = _values(self.report)
        if others:
            table["strand"] = [_named(s, k) | _sections(s) for k, s in enumerate(others, 2)]
        return tomli_w.dumps(table)

    def changed(self, section: str, strand: int | None = None, **values: Any) -> Recipe:
        """A copy with some values of one section replaced (and checked); of the first strand where none is named."""
        owner: Any = self
        if section in OWN:
            owner = self.strands[0] if strand is None else self.strand(strand)
        part = _replaced(getattr(owner, section), values, section, "")
        if section not in OWN:
            return replace(self, **{section: part})  # type: ignore[arg-type]
        return self.with_strand(replace(owner, **{section: part}))

    def with_strand(self, new: Strand) -> Recipe:
        """A copy in which a strand is replaced by its new state."""
        return replace(self, strands=tuple(new if s.id == new.id else s for s in self.strands))

    def with_another(self, like: int, **relate: Any) -> tuple[Recipe, int]:
        """A copy with one strand more, a copy of one with some words of its sentence changed; and the new one's id."""
        number = max(s.id for s in self.strands) + 1
        model = self.strand(like)
        new = replace(model, id=number, name="", relate=_replaced(model.relate, relate, "relate", ""))
        recipe = replace(self, strands=(*self.strands, new))
        _check_strands(recipe.strands, "recipe")
        return recipe, number

    def without(self, number: int) -> Recipe:
        """A copy without a strand; the last one stays."""
        if len(self.strands) == 1:
            raise UserError("a study has at least one strand", cure="Change its sentence instead")
        return replace(self, strands=tuple(s for s in self.strands if s.id != number))

    def renamed(self, number: int, name: str) -> Recipe:
        """A copy in which a strand has another name; empty for the proposed one."""
        recipe = self.with_strand(replace(self.strand(number), name=" ".join(name.split())))
        _check_strands(recipe.strands, "recipe")
        return recipe

    def moved(self, number: int, to: int) -> Recipe:
        """A copy in which a strand stands at another place, from 0."""
        others = [s for s in self.strands if s.id != number]
        others.insert(min(max(to, 0), len(others)), self.strand(number))
        return replace(self, strands=tuple(others))

    def folders(self) -> tuple[str, ...]:
        """The folder that a run writes each strand into; the first strand's is empty. None is called like another, or
        like a file of the run."""
        found = [""]
        for name in self.names()[1:]:
            plain = " ".join(_NO_FOLDER.sub(" ", name).split()).strip(". ") or "strand"
            wanted, k = plain, 2
            while "." in wanted or wanted.casefold() in {f.casefold() for f in found}:
                wanted, k = f"{plain.replace('.', ' ')} {k}", k + 1
            found.append(wanted)
        return tuple(found)


def _values(section: Any) -> dict[str, Any]:
    values = {f.name: getattr(section, f.name) for f in dataclasses.fields(section)}
    if isinstance(section, Relate):  # both kinds of a two-mode network stand together
        second = values.pop("second")
        values |= {"of": (section.of, second)} if second else {}
        if "term" not in section.reconciled:
            values = {k: v for k, v in values.items() if k not in ("terms", "best", "within")}
        elif section.window:
            values["within"] = section.window
        if section.tie != "similarity":
            values = {k: v for k, v in values.items() if k not in ("column", "compare", "tolerance")}
        for name, value in (("direction", "kept"), ("parallel", "summed"), ("loops", "kept")):
            if values[name] == value:
                del values[name]
        empty = ("relation", "relations", "roles", "project", "where", "around", "attributes", "items", "ties")
        values = {k: v for k, v in values.items() if v or k not in empty}
    return {k: list(v) if isinstance(v, tuple) else v for k, v in values.items() if k != "years" or v}


def _named(strand: Strand, expected: int) -> dict[str, Any]:
    found: dict[str, Any] = {"name": strand.name} if strand.name else {}
    return found | ({"id": strand.id} if strand.id != expected else {})


def _sections(strand: Strand) -> dict[str, Any]:
    found: dict[str, Any] = {name: _values(getattr(strand, name)) for name in OWN}
    if strand.measures == Measures():
        del found["measures"]
    for key, kept in (("grouping", strand.groupings), ("arrangement", strand.arrangements)):
        if kept:
            found[key] = [_values(one) for one in kept]
    return found


def read_recipe(path: Path) -> Recipe:
    """The recipe of a file; UserError with place and cure when it is not one."""
    recipe = parse_recipe(read_utf8(path, "the recipe"), str(path))
    return replace(recipe, folder=path.parent)


def parse_recipe(text: str, place: str = "recipe") -> Recipe:
    """The recipe of a TOML text."""
    try:
        table = tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        raise UserError(f"not valid TOML: {error}", place=place, cure="Correct this line") from error
    sections = {"gather": Gather(), "reconcile": Reconcile(), "report": Report()}
    parts = {name: _section(name, table.pop(name, {}), model, place) for name, model in sections.items()}
    further = table.pop("strand", [])
    if not isinstance(further, list):
        raise UserError("strands are written as [[strand]]", place=place, cure="Double the brackets")
    known = (*sections, *_STRAND_KEYS, "strand")
    strands = [_strand(table, 1, known, "", place)]
    for k, one in enumerate(further, 2):
        if not isinstance(one, dict):
            raise UserError("strands are written as [[strand]]", place=place, cure="Double the brackets")
        strands.append(_strand(one, k, _STRAND_KEYS, "strand", place))
    _check_strands(strands, place)
    return Recipe(strands=tuple(strands), **parts)


_STRAND_KEYS = (*OWN, "name", "id", "grouping", "arrangement")


def _strand(table: Mapping[str, Any], number: int, known: Iterable[str], prefix: str, place: str) -> Strand:
    """The strand of a table; ``prefix`` is the table's own name, empty for the top of the recipe."""
    dot = f"{prefix}." if prefix else ""
    where = f"[[{prefix}]]" if prefix else "the recipe"
    for key in table:
        if key not in known:
            what = "section" if isinstance(table[key], dict) and not prefix else "key"
            named = f"[{key}]" if what == "section" else f"{key!r} in {where}"
            raise UserError(f"unknown {what} {named}", place=place, cure=_nearest(key, known))
    name, own = table.get("name", ""), table.get("id", number)
    if not isinstance(name, str):
        raise UserError(f"{dot}name must be text, not {name!r}", place=place, cure="Correct the recipe")
    if isinstance(own, bool) or not isinstance(own, int) or not 1 <= own < 2**31:
        raise UserError(f"{dot}id must be a whole number from 1, not {own!r}", place=place, cure="Leave it out")
    models = {"relate": Relate(), "measures": Measures(), "group": Group(), "chart": Chart()}
    parts = {key: _section(dot + key, table.get(key, {}), model, place) for key, model in models.items()}

    def kept(key: str, model: Any) -> tuple[Any, ...]:
        found = table.get(key, [])
        if not isinstance(found, list):
            raise UserError(f"{dot}{key} is a list of tables", place=place, cure=f"Write [[{dot}{key}]]")
        return tuple(_section(dot + key, one, model, place) for one in found)

    return Strand(
        own,
        " ".join(name.split()),
        groupings=kept("grouping", Group()),
        arrangements=kept("arrangement", Chart()),
        **parts,
    )


def _check_strands(strands: Iterable[Strand], place: str) -> None:
    strands = tuple(strands)
    if len(strands) > MOST_STRANDS:
        raise UserError(
            f"{len(strands)} strands; a study holds at most {MOST_STRANDS}", place=place, cure="Make a second study"
        )
    named = Recipe(strands=strands).names()
    for name, n in Counter(text.casefold() for text in named).items():
        if n > 1:
            shown = next(text for text in named if text.casefold() == name)
            raise UserError(f"two strands are called {shown!r}", place=place, cure="Give each a name of its own")
    for number, n in Counter(s.id for s in strands).items():
        if n > 1:
            raise UserError(f"two strands have the id {number}", place=place, cure="Leave the ids out")
    for strand, name in zip(strands, named):
        for what, kept in (
            ("groupings", (strand.group, *strand.groupings)),
            ("arrangements", (strand.chart, *strand.arrangements)),
        ):
            if len({one.name.casefold() for one in kept}) < len(kept):
                raise UserError(
                    f"two {what} of {name!r} have one name", place=place, cure="Give each a name of its own"
                )


def _section(name: str, values: Any, model: Any, place: str) -> Any:
    if not isinstance(values, dict):
        raise UserError(f"{name} must be a section [{name}]", place=place, cure="Write its values below it")
    known = {f.name for f in dataclasses.fields(model)} - {"second"}
    for key in values:
        if key not in known:
            raise UserError(f"unknown key {key!r} in [{name}]", place=place, cure=_nearest(key, known))
    if isinstance(model, Relate) and isinstance(of := values.get("of"), (list, tuple)):
        if len(of) not in (1, 2):
            raise _wrong(f"{name}.of", of, place, "one kind or two")
        values = {**values, "of": of[0], "second": of[1] if len(of) == 2 else ""}
    return _replaced(model, values, name, place)


def _replaced(model: Any, values: Mapping[str, Any], section: str, place: str) -> Any:
    """A section with values replaced, each in the type of its default; a UserError names what is allowed."""
    fields = {f.name: f for f in dataclasses.fields(model)}
    checked = {k: _check(f"{section}.{k}", v, getattr(model, k), fields[k].metadata, place) for k, v in values.items()}
    new = replace(model, **checked)
    if isinstance(new, Chart) and new.size_by != "records":
        of_column(new.size_by)
    if isinstance(new, Measures):
        _known_measures(new, section, place)
    if isinstance(new, Relate) and (against := new.contradiction())[0]:
        raise UserError(f"{section}: {against[0]}", place=place, cure=against[1])
    return new


def _known_measures(measures: Measures, section: str, place: str) -> None:
    """Every measure and figure is one that is known."""
    for name in measures.of_items:
        of_column(name)
    for name in measures.of_network:
        if name not in FIGURES:
            raise UserError(f"{section}.of_network cannot hold {name!r}", place=place, cure=_nearest(name, FIGURES))


def _nearest(word: str, known: Iterable[Any]) -> str:
    close = difflib.get_close_matches(str(word), [str(k) for k in known], 1, 0.4)
    return f"Did you mean {close[0]!r}?" if close else f"Known here: {', '.join(sorted(map(str, known)))}"


def _wrong(name: str, value: Any, place: str, want: str) -> UserError:
    return UserError(f"{name} must be {want}, not {value!r}", place=place, cure="Correct the recipe")


def _check(name: str, value: Any, default: Any, limits: Mapping[str, Any], place: str) -> Any:
    wrong = partial(_wrong, name, value, place)
    if isinstance(default, bool):
        if not isinstance(value, bool):
            raise wrong("true or false")
        return value
    if isinstance(default, (int, float)):
        return _number(value, default, limits.get("range", (-1e300, 1e300)), wrong)
    choices = limits.get("choices", ())
    if isinstance(default, str):
        if limits.get("number") and isinstance(value, int) and not isinstance(value, bool):
            value = str(value)
        if limits.get("number") and isinstance(value, str) and value.isascii() and value.isdecimal():
            return str(int(_number(int(value), 1, (1, 1000), wrong)))
        if not isinstance(value, str):
            raise wrong("text")
        if choices and value not in choices:
            raise UserError(f"{name} cannot be {value!r}", place=place, cure=_nearest(value, choices))
        return value
    if isinstance(default, dict):
        return _levels(name, value, choices, place, wrong)
    if not isinstance(value, (list, tuple)):
        raise wrong("a list")
    if name.endswith(".years"):
        return _years(name, value, place, wrong)
    for one in value:
        if not isinstance(one, str):
            raise wrong("a list of texts")
        if choices and one not in choices:
            raise UserError(f"{name} cannot hold {one!r}", place=place, cure=_nearest(one, choices))
    return tuple(value)


def _number(value: Any, default: float, limits: tuple[float, float], wrong: Callable[[str], UserError]) -> float:
    if isinstance(value, bool) or not isinstance(value, (int, float)):
        raise wrong("a number")
    if isinstance(default, int) and int(value) != value:
        raise wrong("a whole number")
    low, high = limits
    if not low <= value <= high:
        raise wrong(f"from {low:g} to {high:g}")
    return type(default)(value)


def _levels(name: str, value: Any, kinds: Iterable[str], place: str, wrong: Callable[[str], UserError]) -> Any:
    if not isinstance(value, dict):
        raise wrong("a table such as { person = 0.95 }")
    for kind, level in value.items():
        if kind not in kinds:
            raise UserError(f"{name} has no kind {kind!r}", place=place, cure=_nearest(kind, kinds))
        if isinstance(level, bool) or not isinstance(level, (int, float)) or not 0 <= level <= 1:
            raise UserError(f"{name}.{kind} must be from 0 to 1, not {level!r}", place=place)
    return {k: float(v) for k, v in value.items()}


def _years(name: str, value: Any, place: str, wrong: Callable[[str], UserError]) -> tuple[int, ...]:
    if len(value) not in (0, 2) or any(isinstance(v, bool) or not isinstance(v, int) for v in value):
        raise wrong("two years such as [1990, 2024]")
    if value and value[0] > value[1]:
        raise UserError(f"{name} runs backwards: {list(value)}", place=place, cure="Put the earlier year first")
    return tuple(value)
