"""OpenAlex works: the answer of its interface, a list, or JSON lines."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from umber_knot.corpus.model import RawRecord
from umber_knot.gather.countries import country_of
from umber_knot.gather.fields import dated, language_code, orcid, whole
from umber_knot.gather.formats._json import obj, objects, text, texts, values
from umber_knot.gather.stream import Head, Report, Stream

NAME = "OpenAlex JSON"
_USED = {
    "id",
    "doi",
    "title",
    "display_name",
    "publication_year",
    "publication_date",
    "type",
    "authorships",
    "keywords",
    "concepts",
    "topics",
    "primary_location",
    "biblio",
    "language",
    "referenced_works",
    "cited_by_count",
    "abstract_inverted_index",
    "ids",
}


def sniff(head: Head) -> float:
    """How surely these are OpenAlex works, 0 to 1."""
    if head.text.lstrip()[:1] not in ("[", "{"):
        return 0.0
    return 0.96 if "openalex.org/W" in head.text or '"authorships"' in head.text else 0.0


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """Works one by one; a reference is the identifier of the work it names."""
    for item, line, raw in values(stream, report, ("results",)):
        work = _short(item.get("id"))
        authorships = objects(item.get("authorships"))
        names = [
            (text(a.get("raw_author_name")) or text(obj(a.get("author")).get("display_name")), a) for a in authorships
        ]
        institutions = [i for _, a in names for i in objects(a.get("institutions"))]
        biblio = obj(item.get("biblio"))
        pmid = _short(obj(item.get("ids")).get("pmid"))
        record = RawRecord(
            line=line,
            raw=raw,
            entry=work,
            type=text(item.get("type")),
            title=text(item.get("title") or item.get("display_name")),
            doi=text(item.get("doi")),
            abstract=_abstract(item.get("abstract_inverted_index")),
            citations=whole(item.get("cited_by_count", 0)),
            persons=[name for name, _ in names if name],
            keywords=[text(k.get("display_name") or k.get("keyword")) for k in objects(item.get("keywords"))],
            venue=text(obj(obj(item.get("primary_location")).get("source")).get("display_name")),
            volume=text(biblio.get("volume")),
            pages="-".join(t for t in (text(biblio.get("first_page")), text(biblio.get("last_page"))) if t),
            language=language_code(text(item.get("language"))),
            references=[f"openalex:{_short(w)}" for w in texts(item.get("referenced_works", []))],
            identifiers=[f"{scheme}:{number}" for scheme, number in (("openalex", work), ("pmid", pmid)) if number],
            known_as={name: _known(a) for name, a in names if name and _known(a)},
            others=[
                ("keyword", "index", text(c.get("display_name")))
                for key in ("topics", "concepts")
                for c in objects(item.get(key))
            ],
            extra={k: v for k, v in item.items() if k not in _USED},
        )
        record.institutions = list(
            dict.fromkeys(text(i.get("display_name")) for i in institutions if i.get("display_name"))
        )
        codes = [text(i.get("country_code")) for i in institutions] + [
            c for _, a in names for c in texts(a.get("countries", []))
        ]
        record.countries = list(dict.fromkeys(name for name in map(country_of, codes) if name))
        dated(record, (text(item.get("publication_year")), text(item.get("publication_date"))), report)
        yield record


def _short(value: Any) -> str:
    return text(value).rstrip("/").rpartition("/")[2]


def _known(authorship: dict[str, Any]) -> str:
    author = obj(authorship.get("author"))
    number = orcid(text(author.get("orcid")))
    return f"orcid:{number}" if number else f"openalex:{_short(author['id'])}" if text(author.get("id")) else ""


def _abstract(index: Any) -> str:
    """An abstract from the places of its words."""
    places = [
        (at, word)
        for word, found in obj(index).items()
        if isinstance(found, list)
        for at in found
        if isinstance(at, int)
    ]
    return " ".join(word for _, word in sorted(places)[:5000])
