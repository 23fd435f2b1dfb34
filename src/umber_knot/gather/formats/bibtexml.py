"""BibTeX in XML: an entry with an element of its type, and in it one for each field."""

from __future__ import annotations

from collections.abc import Iterator

from umber_knot.corpus.model import RawRecord
from umber_knot.gather.formats._xml import Element, pieces, text_of
from umber_knot.gather.formats.bibtex import record_of
from umber_knot.gather.stream import Head, Report, Stream

NAME = "BibTeXML"


def sniff(head: Head) -> float:
    """How surely this is BibTeXML, 0 to 1."""
    return 0.96 if "bibtexml" in head.text.lower() and "<" in head.text[:200] and "entry" in head.text else 0.0


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """Entries one by one."""
    for element, line, raw in pieces(stream, report, "entry"):
        kind = next((child for child in element if isinstance(child.tag, str)), None)
        if kind is None:
            report.problem(line, "an entry without anything in it; it was left out", raw)
            continue
        fields: dict[str, list[str]] = {}
        for child in kind.iter():
            if child is not kind and isinstance(child.tag, str) and not len(child) and (text := text_of(child)):
                fields.setdefault(_name(child), []).append(text)
        together = {name: (" and " if name in ("author", "editor") else "; ").join(v) for name, v in fields.items()}
        yield record_of(together, kind.tag.lower(), element.get("id", ""), raw, line, report)


def _name(element: Element) -> str:
    """What a field is called: people may stand in elements of their own, in a list of them."""
    above = element.getparent()
    tag = element.tag.lower()
    lists = {"authors": "author", "editors": "editor", "keywords": "keywords"}
    if tag in ("person", "name", "keyword") and above is not None:
        return lists.get(above.tag.lower(), above.tag.lower())
    return str(tag)
