"""Plain text, from a file or pasted: paragraphs between blank lines."""

from __future__ import annotations

from collections.abc import Iterator

from umber_knot.corpus.model import RawRecord
from umber_knot.gather.formats._texts import Outline, blocks, document
from umber_knot.gather.stream import Head, Report, Stream

NAME = "plain text"


def sniff(head: Head) -> float:
    """How surely this is a text, 0 to 1: only what is called one, and nothing else."""
    named = head.name.lower().endswith((".txt", ".text")) or head.name.startswith("pasted")
    return 0.15 if named and len(head.text.split()) >= 3 else 0.0


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """The text as one record; a short first line that stands alone is its title."""
    outline = Outline()
    title = ""
    for text, line in blocks(stream.lines()):
        if not title and not outline.passages and len(text) < 120 and not text.endswith((".", ",", ";", "?", "!")):
            title = text
        else:
            outline.add(text, line)
    if title and not outline.passages:
        outline.add(title, 1)
    yield document(stream.name, outline, report, title=title)
