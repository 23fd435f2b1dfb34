"""How the columns of a table were matched, remembered for the next table with the same columns."""

from __future__ import annotations

import contextlib
import json
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from umber_knot.paths import data_dir

MOST = 500  # tables remembered; the oldest are forgotten first


def _file() -> Path:
    return data_dir() / "column-matches.json"


def recalled() -> dict[str, dict[str, Any]]:
    """Header (see ``header_key``) → the match that was chosen for it."""
    try:
        found = json.loads(_file().read_text(encoding="utf-8"))
    except (OSError, ValueError, RecursionError):
        return {}
    return {k: v for k, v in found.items() if isinstance(v, dict)} if isinstance(found, dict) else {}


def header_key(header: Sequence[str]) -> str:
    """What names a header: its columns in their order."""
    return "\x1f".join(header)


def remember(header: Sequence[str], match: Mapping[str, Any]) -> None:
    """Keep a match; a folder that cannot be written is no error."""
    known = recalled()
    known.pop(header_key(header), None)
    known[header_key(header)] = dict(match)
    for old in list(known)[:-MOST]:
        del known[old]
    with contextlib.suppress(OSError):
        _file().parent.mkdir(parents=True, exist_ok=True)
        part = _file().with_suffix(".part")
        part.write_text(json.dumps(known, ensure_ascii=False, indent=1), encoding="utf-8")
        part.replace(_file())
