"""The recipe: every parameter of every stage, typed, readable and writable as TOML; unknown keys are errors."""

from __future__ import annotations

import dataclasses
import difflib
import tomllib
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import tomli_w

from umber_knot.corpus.model import KINDS
from umber_knot.errors import UserError, read_utf8

#: Allowed values, by section and key; for ``formats`` of each member, for ``accept`` of each key.
CHOICES: dict[str, tuple[str, ...]] = {
    "relate.tie": ("co-authorship", "co-occurrence"),
    "relate.of": KINDS,
    "relate.counting": ("full", "fractional"),
    "relate.normalise": ("none", "association", "cosine", "jaccard", "inclusion", "equivalence"),
    "relate.keep": ("all", "connected"),
    "group.quality": ("modularity", "cpm"),
    "chart.layout": ("spread",),
    "chart.size_by": ("records", "degree", "strength"),
    "chart.tint_by": ("topic", "year"),
    "report.formats": ("svg", "png", "graphml", "gml", "json", "csv"),
    "reconcile.accept": ("person", "keyword", "venue", "institution", "place", "country", "reference"),
}
#: Smallest and largest allowed number, by section and key.
RANGES: dict[str, tuple[float, float]] = {
    "relate.min_records": (1, 1e9),
    "relate.max_per_record": (0, 1e9),
    "relate.min_weight": (0, 1e18),
    "group.grain": (0.01, 100),
    "group.min_size": (1, 1e9),
    "group.seed": (0, 2**31 - 1),
    "group.runs": (0, 1000),
    "chart.seed": (0, 2**31 - 1),
    "report.width_mm": (40, 2000),
    "report.dpi": (50, 1200),
}


@dataclass(frozen=True, slots=True)
class Gather:
    sources: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Reconcile:
    decisions: tuple[str, ...] = ()
    accept: dict[str, float] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Relate:
    tie: str = "co-authorship"
    of: str = "person"
    counting: str = "full"
    normalise: str = "none"
    years: tuple[int, ...] = ()  # first and last; empty: all, undated records too
    min_records: int = 1
    max_per_record: int = 0
    min_weight: float = 0.0
    keep: str = "all"


@dataclass(frozen=True, slots=True)
class Group:
    quality: str = "modularity"
    grain: float = 1.0
    weighted: bool = True
    min_size: int = 1
    seed: int = 1
    runs: int = 20


@dataclass(frozen=True, slots=True)
class Chart:
    layout: str = "spread"
    size_by: str = "records"
    tint_by: str = "topic"
    seed: int = 1


@dataclass(frozen=True, slots=True)
class Report:
    formats: tuple[str, ...] = ("svg", "png")
    width_mm: float = 180.0
    dpi: float = 300.0
    title: str = ""


@dataclass(frozen=True, slots=True)
class Recipe:
    """All sections; ``folder`` is where relative paths start from and is not part of the recipe's identity."""

    gather: Gather = Gather()
    reconcile: Reconcile = Reconcile()
    relate: Relate = Relate()
    group: Group = Group()
    chart: Chart = Chart()
    report: Report = Report()
    folder: Path = field(default=Path(), compare=False)

    def toml(self) -> str:
        """The recipe as TOML; reading it back gives an equal recipe."""
        table: dict[str, dict[str, Any]] = {}
        for section in dataclasses.fields(self):
            if section.name == "folder":
                continue
            values = dataclasses.asdict(getattr(self, section.name))
            table[section.name] = {k: list(v) if isinstance(v, tuple) else v for k, v in values.items()}
            if not values.get("years", True):
                del table[section.name]["years"]
        return tomli_w.dumps(table)

    def changed(self, section: str, **values: Any) -> Recipe:
        """A copy with some values of one section replaced (and checked)."""
        part = getattr(self, section)
        for key, value in values.items():
            _check(section, key, value, getattr(part, key), "")
        return dataclasses.replace(self, **{section: dataclasses.replace(part, **values)})


def read_recipe(path: Path) -> Recipe:
    """The recipe of a file; UserError with place and cure when it is not one."""
    recipe = parse_recipe(read_utf8(path, "the recipe"), str(path))
    return dataclasses.replace(recipe, folder=path.parent)


def parse_recipe(text: str, place: str = "recipe") -> Recipe:
    """The recipe of a TOML text."""
    try:
        table = tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        raise UserError(f"not valid TOML: {error}", place=place, cure="Correct this line") from error
    sections = {f.name: f.default for f in dataclasses.fields(Recipe) if f.name != "folder"}
    parts = {}
    for name, values in table.items():
        if name not in sections:
            raise UserError(f"unknown section [{name}]", place=place, cure=_nearest(name, sections))
        if not isinstance(values, dict):
            raise UserError(f"{name} must be a section", place=place, cure=f"Write [{name}]")
        default = sections[name]
        known = {f.name for f in dataclasses.fields(default)}  # type: ignore[arg-type]
        for key in values:
            if key not in known:
                raise UserError(f"unknown key {key!r} in [{name}]", place=place, cure=_nearest(key, known))
        checked = {k: _check(name, k, v, getattr(default, k), place) for k, v in values.items()}
        parts[name] = dataclasses.replace(default, **checked)  # type: ignore[type-var]
    return Recipe(**parts)  # type: ignore[arg-type]


def _nearest(word: str, known: Any) -> str:
    close = difflib.get_close_matches(str(word), [str(k) for k in known], 1, 0.4)
    return f"Did you mean {close[0]!r}?" if close else f"Known here: {', '.join(sorted(map(str, known)))}"


def _check(section: str, key: str, value: Any, default: Any, place: str) -> Any:
    """The value in the type of its default, or a UserError that names what is allowed."""
    name = f"{section}.{key}"

    def wrong(want: str) -> UserError:
        return UserError(f"{name} must be {want}, not {value!r}", place=place, cure="Correct the recipe")

    if isinstance(default, bool):
        if not isinstance(value, bool):
            raise wrong("true or false")
        return value
    if isinstance(default, (int, float)):
        if isinstance(value, bool) or not isinstance(value, (int, float)):
            raise wrong("a number")
        if isinstance(default, int) and int(value) != value:
            raise wrong("a whole number")
        low, high = RANGES[name]
        if not low <= value <= high:
            raise wrong(f"from {low:g} to {high:g}")
        return type(default)(value)
    if isinstance(default, str):
        if not isinstance(value, str):
            raise wrong("text")
        if name in CHOICES and value not in CHOICES[name]:
            raise UserError(f"{name} cannot be {value!r}", place=place, cure=_nearest(value, CHOICES[name]))
        return value
    if isinstance(default, dict):
        if not isinstance(value, dict):
            raise wrong("a table such as { person = 0.95 }")
        for kind, level in value.items():
            if kind not in CHOICES[name]:
                raise UserError(f"{name} has no kind {kind!r}", place=place, cure=_nearest(kind, CHOICES[name]))
            if isinstance(level, bool) or not isinstance(level, (int, float)) or not 0 <= level <= 1:
                raise UserError(f"{name}.{kind} must be from 0 to 1, not {level!r}", place=place)
        return {k: float(v) for k, v in value.items()}
    if not isinstance(value, (list, tuple)):
        raise wrong("a list")
    if key == "years":
        if len(value) not in (0, 2) or any(isinstance(v, bool) or not isinstance(v, int) for v in value):
            raise wrong("two years such as [1990, 2024]")
        if value and value[0] > value[1]:
            raise UserError(f"{name} runs backwards: {list(value)}", place=place, cure="Put the earlier year first")
        return tuple(value)
    for one in value:
        if not isinstance(one, str):
            raise wrong("a list of texts")
        if name in CHOICES and one not in CHOICES[name]:
            raise UserError(f"{name} cannot hold {one!r}", place=place, cure=_nearest(one, CHOICES[name]))
    return tuple(value)
