"""JSON from strangers, value by value: arrays of records, the answers that wrap them, and JSON lines.

Each record is decoded on its own by the standard library's scanner, so that it keeps its line and raw text, and one
that is broken does not take the others with it.
"""

from __future__ import annotations

import json
import re
from collections.abc import Iterator, Sequence
from typing import Any

from umber_knot.gather.stream import Report, Stream

#: Characters of one file of JSON; larger ones come as JSON lines, which are read line by line.
LARGEST = 600_000_000
_SPACE = re.compile(r"[\s,]*")
_SURROGATE = re.compile(r"[\ud800-\udfff]")


def values(stream: Stream, report: Report, wrappers: Sequence[str]) -> Iterator[tuple[dict[str, Any], int, str]]:
    """(object, line, raw text) of every record; ``wrappers`` are the keys under which an answer holds its records."""
    head = stream.head.text.lstrip()
    first_line = head.split("\n", 1)[0].strip()
    if (
        first_line.startswith("{")
        and first_line.endswith("}")
        and _is_json(first_line)
        and not any(re.match(rf'\{{.*"{w}"\s*:\s*[\[{{]', first_line) for w in wrappers)
    ):
        for number, line in enumerate(stream.lines(), 1):
            if line.strip():
                yield from _each(line, 0, number, report, single=True)
        return
    text = stream.whole(LARGEST, "JSON")
    start = len(text) - len(text.lstrip())
    if text[start : start + 1] == "{":
        place = re.compile(rf'"(?:{"|".join(wrappers)})"\s*:\s*\[').search(text)
        if place:
            yield from _each(text, place.end(), 1 + text.count("\n", 0, place.end()), report)
        else:
            yield from _each(text, start, 1 + text.count("\n", 0, start), report)
    else:
        yield from _each(text, start + 1, 1 + text.count("\n", 0, start), report)


def _is_json(line: str) -> bool:
    try:
        json.loads(line)
        return True
    except (ValueError, RecursionError):
        return False


def _each(
    text: str, at: int, line: int, report: Report, single: bool = False
) -> Iterator[tuple[dict[str, Any], int, str]]:
    decode = json.JSONDecoder().raw_decode
    counted = at
    while True:
        space = _SPACE.match(text, at)
        at = space.end() if space else at
        if at >= len(text) or text[at] == "]":
            return
        line += text.count("\n", counted, at)
        counted = at
        try:
            value, end = decode(text, at)
        except (ValueError, RecursionError) as error:
            why = getattr(error, "msg", "nested too deeply")
            report.problem(
                (text.count("\n", 0, error.pos) + 1 if not single else line)
                if isinstance(error, json.JSONDecodeError)
                else line,
                f"this record is not well-formed JSON ({why}) and was left out",
                text[at : at + 120],
            )
            at = _after(text, at)
            continue
        raw = text[at:end]
        if isinstance(value, dict):
            yield (_clean(value) if "\\ud" in raw or "\\uD" in raw else value), line, raw
        elif value not in ("", None):
            report.problem(line, "a record must be an object in braces; this was left out", raw)
        at = end
        if single:
            return


def _after(text: str, at: int) -> int:
    """Where reading goes on after a broken record: at the next object that begins a line, or the end."""
    found = re.compile(r"\n\s*\{").search(text, at + 1)
    return found.start() + 1 if found else len(text)


def _clean(value: Any) -> Any:
    """Halves of characters, which no file can hold, made question marks."""
    if isinstance(value, str):
        return _SURROGATE.sub("\ufffd", value)
    if isinstance(value, dict):
        return {_clean(k): _clean(v) for k, v in value.items()}
    return [_clean(v) for v in value] if isinstance(value, list) else value


def text(value: Any) -> str:
    """A value that should be text, as text."""
    if isinstance(value, str):
        return " ".join(value.split()) if "\n" in value or "  " in value else value.strip()
    if isinstance(value, (list, tuple)):
        return text(value[0]) if value else ""
    return "" if value is None or isinstance(value, (dict, bool)) else str(value)


def objects(value: Any) -> list[dict[str, Any]]:
    """A value that should be a list of objects, without what is none."""
    return [one for one in value if isinstance(one, dict)] if isinstance(value, list) else []


def texts(value: Any) -> list[str]:
    """A value that should be a list of texts (or one text), without what is empty."""
    many = value if isinstance(value, list) else [value]
    return [found for found in map(text, many) if found]


def obj(value: Any) -> dict[str, Any]:
    """A value that should be an object."""
    return value if isinstance(value, dict) else {}
