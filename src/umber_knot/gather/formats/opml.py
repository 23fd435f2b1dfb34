"""OPML outlines: each leaf is a passage under the headings above it."""

from __future__ import annotations

from collections.abc import Iterator

from umber_knot.corpus.model import RawRecord
from umber_knot.gather.formats._texts import Outline, document
from umber_knot.gather.formats._xml import Element, all_named, children, first_text, pieces
from umber_knot.gather.stream import Head, Report, Stream

NAME = "OPML"


def sniff(head: Head) -> float:
    """How surely this is OPML, 0 to 1."""
    return 0.96 if "<opml" in head.text[:2000] else 0.0


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """The outline as one record; notes of a heading are its passages too."""
    for element, line, raw in pieces(stream, report, "opml"):
        outline = Outline()
        at = [0]

        def walk(
            parent: Element,
            level: int,
            outline: Outline = outline,
            at: list[int] = at,
            raw: str = raw,
            line: int = line,
        ) -> None:
            for child in children(parent, "outline"):
                text = " ".join((child.get("text") or child.get("title") or "").split())
                at[0] = max(raw.find("<outline", at[0]), 0) + 1
                place = line + raw.count("\n", 0, at[0])
                note = child.get("_note") or child.get("note") or ""
                if children(child, "outline"):
                    outline.head(level, text)
                    outline.add(note, place)
                    walk(child, level + 1)
                else:
                    outline.head(level, "")
                    outline.add(f"{text}: {note}" if text and note else text or note, place)

        for body in all_named(element, "body"):
            walk(body, 1)
        yield document(
            stream.name,
            outline,
            report,
            title=first_text(element, "head", "title"),
            people=[first_text(element, "head", "ownerName")],
            date=first_text(element, "head", "dateCreated"),
            kind="outline",
            raw=raw,
            line=line,
        )
