"""Atom feeds (RFC 4287), as servers of preprints answer with: an entry is a record."""

from __future__ import annotations

from collections.abc import Iterator

from umber_knot.corpus.likeness import bare_doi
from umber_knot.corpus.model import RawRecord
from umber_knot.gather.fields import affiliate, dated, find_year, split_addresses
from umber_knot.gather.formats._xml import Element, pieces, text_of
from umber_knot.gather.stream import Head, Report, Stream

NAME = "Atom"
_USED = {"title", "id", "published", "updated", "summary", "content", "author", "contributor", "category", "link"}


def sniff(head: Head) -> float:
    """How surely this is an Atom feed, 0 to 1."""
    return (
        0.94 if "http://www.w3.org/2005/Atom" in head.text and ("<feed" in head.text or ":feed" in head.text) else 0.0
    )


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """Entries one by one; what the journal says of itself goes before when the feed was updated."""
    for element, line, raw in pieces(stream, report, "entry"):

        def one(*names: str, entry: Element = element) -> str:
            return next((t for name in names for e in entry.iterfind(name) if (t := text_of(e))), "")

        people = {text_of(a.find("name")) or text_of(a): a for a in element.iterfind("author")}
        of = {
            name: [t for e in author.iterfind("affiliation") for t in split_addresses(text_of(e))]
            for name, author in people.items()
        }
        links = [e.get("href", "") for e in element.iterfind("link")]
        reference = one("journal_ref", "publicationName")
        words = [c.get("label") or c.get("term", "") for c in element.iterfind("category")]
        record = RawRecord(
            line=line,
            raw=raw,
            entry=one("id"),
            type="preprint" if not reference else "article",
            title=one("title"),
            doi=bare_doi(one("doi")) or next((d for d in map(bare_doi, links) if d), ""),
            abstract=one("summary", "content"),
            persons=[name for name in people if name],
            venue=one("publicationName") or (reference.partition(",")[0].rstrip(" 0123456789()") if reference else ""),
            others=[("person", "contributor", text_of(c.find("name"))) for c in element.iterfind("contributor")]
            + [("keyword", "index", word) for word in dict.fromkeys(words) if word],
            volume=one("volume"),
            pages=one("pageRange", "startingPage"),
            extra={
                e.tag.replace("_", " "): text
                for e in element
                if isinstance(e.tag, str) and e.tag not in _USED and (text := text_of(e) or e.get("term", ""))
            }
            | ({"updated": when} if (when := one("updated")) else {}),
        )
        year = find_year(reference)
        dated(record, [str(year)] if year else [one("publicationDate", "published", "updated")[:10]], report)
        affiliate(record, [address for several in of.values() for address in several], of)
        yield record
