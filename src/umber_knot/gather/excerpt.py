"""A few lines of a source around a place, for showing a problem where it stands."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from umber_knot.errors import UserError

_BLOCK = 1 << 20
LONGEST = 400  # characters shown of a line


def around(path: Path, line: int, encoding: str, margin: int = 60) -> list[tuple[int, str]]:
    """(number, text) of the lines around a line of a file; UserError when the file cannot be read any more."""
    first = max(1, line - margin)
    try:
        with path.open("rb") as file:
            at, number = _start_of(file.read, first)
            file.seek(at)
            found = []
            while number <= line + margin and (data := file.readline(_BLOCK)):
                text = data.decode(encoding or "utf-8", "replace").rstrip("\r\n")
                found.append((number, text[:LONGEST] + ("…" if len(text) > LONGEST else "")))
                number += data.endswith(b"\n")
            return found
    except OSError as error:
        raise UserError(f"the file cannot be read any more ({error.strerror})", place=str(path)) from error


def _start_of(read: Callable[[int], bytes], line: int) -> tuple[int, int]:
    """(byte where a line begins, its number): counted block by block."""
    at, number = 0, 1
    while number < line:
        block = read(_BLOCK)
        if not block:
            break
        ends = block.count(b"\n")
        if number + ends < line:
            number += ends
            at += len(block)
            continue
        place = -1
        for _ in range(line - number):
            place = block.find(b"\n", place + 1)
        return at + place + 1, line
    return at, number
