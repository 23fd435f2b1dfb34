"""What the formats of free text share: a document as a record with passages under their headings."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from pathlib import PurePath

from umber_knot.corpus.model import Passage, RawRecord
from umber_knot.gather.fields import dated, split_values
from umber_knot.gather.stream import Report

#: Passages of one document; a text of more is no document.
MOST = 200_000
_ABBREVIATED = 4000  # characters of a text kept as the record's raw text


class Outline:
    """Collects passages under a running stack of headings."""

    def __init__(self) -> None:
        self.passages: list[Passage] = []
        self.headings: list[str] = []  # every heading once, in order
        self._stack: list[tuple[int, str]] = []

    def head(self, level: int, text: str) -> None:
        """A heading: closes those of its level and below."""
        self._stack = [one for one in self._stack if one[0] < level]
        if text:
            self._stack.append((level, text))
            if text not in self.headings:
                self.headings.append(text)

    def add(self, text: str, place: int) -> None:
        """A paragraph under the headings in force."""
        text = " ".join(text.split())
        if text and len(self.passages) < MOST:
            self.passages.append(Passage(text, place, " / ".join(h for _, h in self._stack)))


def document(
    name: str,
    outline: Outline,
    report: Report,
    *,
    title: str = "",
    people: Iterable[str] = (),
    date: str = "",
    words: Iterable[str] = (),
    kind: str = "text",
    raw: str = "",
    line: int = 1,
    language: str = "",
    extra: Mapping[str, object] = {},
) -> RawRecord:
    """The record of a text: its title (else its first heading, else its file's name) and its passages."""
    if not outline.passages and not outline.headings:
        report.problem(0, "the document holds no text (a scan without recognised letters?)")
    heads = [h for h in outline.headings if h != title]
    record = RawRecord(
        line=line,
        raw=raw or "\n\n".join(p.text for p in outline.passages)[:_ABBREVIATED],
        entry=name,
        type=kind,
        title=title or (heads[0] if heads else PurePath(name).stem.replace("_", " ")),
        persons=[p for p in map(str.strip, people) if p],
        keywords=[w for w in words if w],
        passages=tuple(outline.passages),
        others=[("keyword", "heading", h) for h in heads],
        language=language,
        extra=dict(extra),
    )
    dated(record, [date], report)
    return record


def blocks(lines: Iterable[str]) -> Iterable[tuple[str, int]]:
    """Paragraphs between blank lines, with the line each begins on."""
    block: list[str] = []
    start = 0
    number = 0
    for number, line in enumerate(lines, 1):
        if line.strip():
            start = start if block else number
            block.append(line.strip())
        elif block:
            yield unhyphened(block), start
            block = []
    if block:
        yield unhyphened(block), start


def unhyphened(lines: Iterable[str]) -> str:
    """Lines joined; a word that a hyphen parts at a line's end is made whole.

    >>> unhyphened(["The sluice was re-", "paired in the saltmarsh-", "Estuary."])
    'The sluice was repaired in the saltmarsh- Estuary.'
    """
    text = "\n".join(lines)
    text = re.sub(r"(?<=[^\W\d_])[-\u00ad\ufffe]\n(?=[a-zà-ÿ])", "", text)
    return " ".join(text.split())


def front_matter(lines: list[str]) -> tuple[dict[str, str], int]:
    """(key → value, lines it takes) of a block of ``key: value`` lines between two lines of dashes at the top."""
    if not lines or lines[0].strip() != "---":
        return {}, 0
    found: dict[str, str] = {}
    last = ""
    for k, line in enumerate(lines[1:200], 1):
        if line.strip() in ("---", "..."):
            return found, k + 1
        item = re.match(r"\s*-\s+(.*)", line)
        pair = re.match(r"([A-Za-z][\w -]*):\s*(.*)", line)
        if item and last:
            found[last] = f"{found[last]}; {item[1].strip()}".strip("; ")
        elif pair:
            last = pair[1].strip().lower()
            found[last] = pair[2].strip().strip("\"'[]")
    return {}, 0


def listed(text: str) -> list[str]:
    """Names or words of a front matter value."""
    return [v.strip("\"' ") for v in split_values(text, ";" if ";" in text else ",")]
