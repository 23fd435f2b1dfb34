"""Crossref works: one, a list, or the answer of its interface."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from umber_knot.corpus.model import RawRecord
from umber_knot.gather.fields import affiliate, dated, language_code, whole
from umber_knot.gather.formats._json import objects, text, texts, values
from umber_knot.gather.formats.csl_json import date_texts, name_of, orcids
from umber_knot.gather.references import reference_text, says_too_little
from umber_knot.gather.stream import Head, Report, Stream

NAME = "Crossref JSON"
_USED = {
    "DOI",
    "type",
    "title",
    "author",
    "editor",
    "translator",
    "issued",
    "published",
    "container-title",
    "abstract",
    "subject",
    "volume",
    "page",
    "language",
    "reference",
    "is-referenced-by-count",
    "published-print",
    "published-online",
}


def sniff(head: Head) -> float:
    """How surely these are Crossref works, 0 to 1."""
    if head.text.lstrip()[:1] not in ("[", "{"):
        return 0.0
    signs = (
        '"is-referenced-by-count"',
        '"reference-count"',
        '"references-count"',
        '"message-type"',
        '"content-domain"',
    )
    return 0.95 if sum(sign in head.text for sign in signs) >= 2 else 0.0


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """Works one by one."""
    for item, line, raw in values(stream, report, ("items",)):
        if isinstance(item.get("message"), dict):  # the answer for a single work
            item = item["message"]
        people = objects(item.get("author"))
        record = RawRecord(
            line=line,
            raw=raw,
            entry=text(item.get("DOI")),
            type=text(item.get("type")),
            title=text(item.get("title")),
            doi=text(item.get("DOI")),
            abstract=text(item.get("abstract")),
            citations=whole(item.get("is-referenced-by-count", 0)),
            persons=[n for n in map(name_of, people) if n],
            keywords=[],
            venue=text(item.get("container-title")),
            volume=text(item.get("volume")),
            pages=text(item.get("page")),
            language=language_code(text(item.get("language"))),
            references=[t for t in map(_reference, objects(item.get("reference"))) if t],
            others=[
                ("person", role, name_of(p))
                for role in ("editor", "translator")
                for p in objects(item.get(role))
                if name_of(p)
            ]
            + [("keyword", "index", word) for word in texts(item.get("subject", []))],
            known_as=orcids(people),
            extra={k: v for k, v in item.items() if k not in _USED},
        )
        of = {name_of(p): [t for a in objects(p.get("affiliation")) if (t := text(a.get("name")))] for p in people}
        affiliate(record, [address for several in of.values() for address in several], of)
        ways = ("published-print", "published", "issued", "published-online")
        dated(record, [d for key in ways for d in date_texts(item.get(key))], report)
        yield record


def _reference(one: dict[str, Any]) -> str:
    if not one.get("author") and text(one.get("unstructured")):
        doi = text(one.get("DOI"))
        return text(one["unstructured"]) + (f", DOI {doi}" if doi else "")
    titles = [t for key in ("article-title", "volume-title", "series-title") if (t := text(one.get(key)))]
    told = reference_text(
        author=text(one.get("author")),
        year=text(one.get("year")),
        title=titles[0] if titles else "",
        venue=text(one.get("journal-title")) or ", ".join(titles[1:]),
        volume=text(one.get("volume")),
        page=text(one.get("first-page")),
        doi=text(one.get("DOI")),
    )
    if says_too_little(told):
        return text(one.get("unstructured")) or f"{told} ({text(one.get('key'))})".replace(" ()", "")
    return told
