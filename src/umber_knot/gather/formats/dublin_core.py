"""Dublin Core in XML, as repositories and OAI-PMH give it."""

from __future__ import annotations

import re
from collections.abc import Iterator

from umber_knot.corpus.likeness import bare_doi
from umber_knot.corpus.model import RawRecord
from umber_knot.gather.fields import dated, language_code
from umber_knot.gather.formats._xml import pieces, text_of
from umber_knot.gather.stream import Head, Report, Stream

NAME = "Dublin Core"
_NAMES = {
    "title",
    "creator",
    "subject",
    "description",
    "publisher",
    "contributor",
    "date",
    "type",
    "format",
    "identifier",
    "source",
    "language",
    "relation",
    "coverage",
    "rights",
    "abstract",
    "issued",
    "created",
    "isPartOf",
    "references",
    "spatial",
    "doi",
}
_ELEMENTS = re.compile(r"<(?:dc|dcterms):(?:title|creator|identifier|date)\b")


def sniff(head: Head) -> float:
    """How surely this is Dublin Core, 0 to 1."""
    return 0.9 if "purl.org/dc/" in head.text and _ELEMENTS.search(head.text) else 0.0


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """Records one by one: the elements that wrap the fifteen."""
    wrapper = _wrapper(stream.head.text)
    for element, line, raw in pieces(stream, report, wrapper):
        values: dict[str, list[str]] = {}
        for child in element.iter():
            if child.tag in _NAMES and (text := text_of(child)):
                values.setdefault(child.tag, []).append(text)
        if not values:
            report.problem(line, "a record without Dublin Core elements; it was left out", raw)
            continue
        identifiers = values.get("identifier", []) + values.get("doi", [])
        record = RawRecord(
            line=line,
            raw=raw,
            entry=next((i for i in identifiers if not bare_doi(i)), ""),
            type=next(iter(values.get("type", [])), ""),
            title=next(iter(values.get("title", [])), ""),
            doi=next((d for d in map(bare_doi, identifiers) if d), ""),
            abstract=" ".join(values.get("description", []) + values.get("abstract", [])),
            persons=values.get("creator", []),
            keywords=[w.strip() for v in values.get("subject", []) for w in v.split(";") if w.strip()],
            venue=next(iter(values.get("isPartOf", []) + values.get("source", [])), ""),
            language=language_code(next(iter(values.get("language", [])), "")),
            references=values.get("references", []),
            others=[("person", "contributor", name) for name in values.get("contributor", [])],
            places=values.get("spatial", []) + values.get("coverage", []),
            extra=_extra(values, identifiers),
        )
        dates = values.get("issued", []) + values.get("date", []) + values.get("created", [])
        dated(record, sorted(dates, key=lambda text: "T" in text and ":" in text), report)  # a stamp is the server's
        yield record


def _extra(values: dict[str, list[str]], identifiers: list[str]) -> dict[str, object]:
    """What has no place of its own."""
    told: dict[str, object] = {
        k: "; ".join(values[k]) for k in ("publisher", "rights", "format", "relation") if k in values
    }
    for name in ("title", "type", "language", "isPartOf", "source"):
        if len(values.get(name, ())) > 1:
            told[f"other {name}"] = values[name][1:]
    if len(identifiers) > 1:
        told["identifiers"] = identifiers
    return told


def _wrapper(head: str) -> str:
    """The element that holds a record's elements: the one opened last before the first of them."""
    first = _ELEMENTS.search(head)
    above = re.findall(r"<([\w.-]+:)?([A-Za-z][\w.-]*)(?=[\s/>])", head[: first.start() if first else 0])
    names = [name for _, name in above]
    return "record" if "record" in names else names[-1] if names else "dc"
