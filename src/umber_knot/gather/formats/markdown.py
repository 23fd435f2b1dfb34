"""Markdown: headings make the outline, what stands under them the passages."""

from __future__ import annotations

import re
from collections.abc import Iterator

from umber_knot.corpus.model import RawRecord
from umber_knot.gather.fields import language_code
from umber_knot.gather.formats._texts import Outline, document, front_matter, listed, unhyphened
from umber_knot.gather.stream import Head, Report, Stream

NAME = "Markdown"
LARGEST = 100_000_000
_HEADING = re.compile(r"^(#{1,6})\s+(.*?)\s*#*$")
_ITEM = re.compile(r"^\s*(?:[-*+]|\d+[.)])\s+(.*)$")
_LINK = re.compile(r"!?\[([^\]]*)\]\([^)\s]*(?:\s+\"[^\"]*\")?\)")
_MARKS = re.compile(r"(\*\*|__|\*|_|`)(?=\S)(.+?)(?<=\S)\1")


def sniff(head: Head) -> float:
    """How surely this is Markdown, 0 to 1."""
    if head.name.lower().endswith((".md", ".markdown", ".mdown")):
        return 0.6
    pasted = head.name.startswith("pasted")
    return 0.2 if pasted and len(re.findall(r"^#{1,6} \S", head.text, re.M)) > 1 else 0.0


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """The document as one record; list items are passages of their own."""
    lines = stream.text(LARGEST, "Markdown").split("\n")
    facts, skip = front_matter(lines)
    outline = Outline()
    block: list[str] = []
    start = 0
    title, fenced = facts.get("title", ""), False

    def finish() -> None:
        if block:
            outline.add(plain(unhyphened(block)), start)
            block.clear()

    for number, line in enumerate(lines[skip:], skip + 1):
        if line.lstrip().startswith(("```", "~~~")):
            fenced = not fenced
            continue
        heading, item = (None, None) if fenced else (_HEADING.match(line), _ITEM.match(line))
        under = block and not fenced and len(block) == 1 and re.fullmatch(r"\s*(=+|-+)\s*", line)
        if heading or under:
            text = plain(heading[2] if heading else block.pop())
            finish()
            level = len(heading[1]) if heading else 1 if "=" in line else 2
            if level == 1 and not title:
                title = text
            else:
                outline.head(level, text)
        elif not line.strip():
            finish()
        else:
            if item:
                finish()
            start = start if block else number
            block.append(item[1] if item else line.strip().lstrip("> "))
    finish()
    yield document(
        stream.name,
        outline,
        report,
        title=title,
        people=listed(facts.get("author", "") or facts.get("authors", "")),
        date=facts.get("date", ""),
        words=listed(facts.get("keywords", "") or facts.get("tags", "")),
        language=language_code(facts.get("lang", "") or facts.get("language", "")),
    )


def plain(text: str) -> str:
    """Text without links and emphasis marks."""
    if "[" in text:
        text = _LINK.sub(r"\1", text)
    return _MARKS.sub(r"\2", text) if any(mark in text for mark in "*_`") else text
