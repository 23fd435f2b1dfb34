"""JSON of no known layout: objects of an array, or one a line, are the rows of a table whose columns are their keys."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from typing import Any

from umber_knot.corpus.model import RawRecord
from umber_knot.errors import UserError
from umber_knot.gather.fields import person
from umber_knot.gather.formats._json import text, values
from umber_knot.gather.formats._rows import Row, read_rows
from umber_knot.gather.matching import folded
from umber_knot.gather.stream import Head, Report, Stream

NAME = "JSON table"
MOST_COLUMNS = 2000
_OBJECTS = re.compile(r'\s*(?:\[\s*)?\{\s*(?:"|\})')
_WRAPPED = re.compile(r'"([^"\\]{1,80})"\s*:\s*\[\s*\{')
_FAMILY = ("family", "familyname", "lastname", "surname", "last", "nachname", "nom")
_GIVEN = ("given", "givenname", "firstname", "forename", "first", "vorname", "prenom")
_WHOLE = ("name", "fullname", "displayname", "literal", "title", "label", "value", "text")


def sniff(head: Head) -> float:
    """How surely this is JSON with objects in it, 0 to 1; any layout that is known is surer."""
    return 0.18 if _OBJECTS.match(head.text) else 0.0


def rows(stream: Stream, report: Report) -> Iterator[Row]:
    """The names of all keys, then the values of each object; lists are lines of a cell."""
    found = _WRAPPED.search(stream.head.text) if stream.head.text.lstrip()[:1] == "{" else None
    wrappers = (found[1],) if found else ("items", "records")
    columns: dict[str, None] = {}
    first = Report()  # what is wrong is told when the objects are read
    for item, _, _ in values(stream, first, tuple(map(re.escape, wrappers))):
        columns.update(dict.fromkeys(_flat(item)))
        if len(columns) > MOST_COLUMNS:
            raise UserError(f"the objects have more than {MOST_COLUMNS:,} different keys", cure="Export it as a table")
    if not columns and first.problems:
        raise UserError(first.problems[0].message, place=f"line {first.problems[0].line}")
    if not columns:
        raise UserError("no object with keys was found in this JSON", cure="Give an array of objects, one a record")
    yield 1, list(columns), ""
    for item, line, raw in values(stream, report, tuple(map(re.escape, wrappers))):
        flat = _flat(item)
        yield line, [flat.get(name, "") for name in columns], raw


def _flat(item: dict[str, Any]) -> dict[str, str]:
    """Keys and values as text; what an object within holds goes by both names."""
    found: dict[str, str] = {}
    for name, value in item.items():
        if isinstance(value, dict) and not any(folded(key) in _FAMILY for key in value):
            whole = next((key for key in value if folded(key) in _WHOLE and isinstance(value[key], str)), "")
            found |= {name if inner == whole else f"{name} {inner}": _cell(v) for inner, v in value.items()}
        else:
            found[name] = _cell(value)
    return {" ".join(name.split()): value for name, value in found.items() if value}


def _cell(value: Any) -> str:
    if isinstance(value, list):
        return "\n".join(filter(None, (" ".join(_cell(one).split()) for one in value)))
    if isinstance(value, dict):
        return _name_of(value) or json.dumps(value, ensure_ascii=False)
    if isinstance(value, bool):
        return "yes" if value else "no"
    return text(value)


def _name_of(value: dict[str, Any]) -> str:
    """The name that an object is of: of a person in its parts, or whole."""
    keys = {folded(key): v for key, v in value.items() if isinstance(v, str)}
    family = next((keys[k] for k in _FAMILY if keys.get(k)), "")
    if family:
        return person(family, next((keys[k] for k in _GIVEN if keys.get(k)), ""))
    return next((keys[k] for k in _WHOLE if keys.get(k)), "")


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """Objects one by one as records."""
    yield from read_rows(rows(stream, report), stream.options, report)
