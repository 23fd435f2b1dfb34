"""HTML pages: headings, paragraphs and list items; scripts, styles and navigation are left out."""

from __future__ import annotations

import re
from collections.abc import Iterator
from html.parser import HTMLParser

from umber_knot.corpus.model import RawRecord
from umber_knot.gather.fields import language_code
from umber_knot.gather.formats._texts import Outline, document, listed
from umber_knot.gather.stream import Head, Report, Stream

NAME = "HTML"
LARGEST = 50_000_000
_SILENT = {"script", "style", "nav", "noscript", "template", "svg", "head", "form", "button"}
_BLOCKS = {
    "p",
    "li",
    "div",
    "td",
    "th",
    "blockquote",
    "dd",
    "dt",
    "figcaption",
    "caption",
    "pre",
    "section",
    "article",
    "br",
    "tr",
    "ul",
    "ol",
    "table",
    "body",
    "main",
    "header",
    "footer",
    "aside",
}


def sniff(head: Head) -> float:
    """How surely this is HTML, 0 to 1."""
    start = head.text.lstrip().lower()
    return (
        0.85
        if re.match(r"(?:<\?xml[^>]*>\s*)?(?:<!--.*?-->\s*)?(?:<!doctype html|<html)", start, re.S)
        else 0.3
        if head.name.lower().endswith((".html", ".htm")) and "<" in start
        else 0.0
    )


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """The page as one record."""
    page = _Page()
    try:
        for line in stream.lines():
            page.size += len(line)
            if page.size > LARGEST:
                report.problem(page.getpos()[0], f"more than {LARGEST:,} characters; the page was read up to here")
                break
            page.feed(line)
        page.close()
    except AssertionError:  # what html.parser raises on a declaration that never ends
        report.problem(page.getpos()[0], "a declaration that is not HTML; the page was read up to here")
    page.finish()
    facts = page.facts
    yield document(
        stream.name,
        page.outline,
        report,
        title=page.title.strip() or facts.get("dc.title", ""),
        people=listed(facts.get("author", "") or facts.get("dc.creator", "")),
        date=facts.get("date", "") or facts.get("dc.date", ""),
        words=listed(facts.get("keywords", "")),
        language=language_code(page.language),
    )


class _Page(HTMLParser):
    def __init__(self) -> None:
        super().__init__(convert_charrefs=True)
        self.outline, self.facts, self.title, self.language = Outline(), dict[str, str](), "", ""
        self.size = self._silent = self._start = 0
        self._text: list[str] = []
        self._heading = self._in_title = False

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        values = {k: v or "" for k, v in attrs}
        if tag == "html":
            self.language = values.get("lang", "")
        elif tag == "meta" and values.get("name"):
            self.facts[values["name"].lower()] = values.get("content", "")
        elif tag == "title":
            self._in_title = True
        elif tag == "body":
            self._silent = 0
        elif tag in _SILENT:
            self._silent += 1
        if tag in _BLOCKS or re.fullmatch(r"h[1-6]", tag):
            self.finish()

    def handle_endtag(self, tag: str) -> None:
        if tag == "title":
            self._in_title = False
        elif tag in _SILENT:
            self._silent = max(self._silent - 1, 0)
        elif re.fullmatch(r"h[1-6]", tag):
            text = " ".join("".join(self._text).split())
            self._text.clear()
            self.outline.head(int(tag[1]), text)
        elif tag in _BLOCKS:
            self.finish()

    def handle_data(self, data: str) -> None:
        if self._in_title:
            self.title = (self.title + data)[:1000]
        elif not self._silent:
            if not self._text:
                self._start = self.getpos()[0]
            self._text.append(data)

    def finish(self) -> None:
        """End the paragraph in hand."""
        if self._text:
            self.outline.add("".join(self._text), self._start)
            self._text.clear()
