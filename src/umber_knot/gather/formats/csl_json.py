"""CSL-JSON, the citation style language's records."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from typing import Any

from umber_knot.corpus.model import RawRecord
from umber_knot.gather.fields import affiliate, dated, language_code, orcid, person, split_values, whole
from umber_knot.gather.formats._json import obj, objects, text, texts, values
from umber_knot.gather.stream import Head, Report, Stream

NAME = "CSL-JSON"
_PEOPLE = re.compile(r'"(?:author|editor)"\s*:\s*\[\s*\{[^}]*"(?:family|literal)"')
_ROLES = {
    "editor": "editor",
    "translator": "translator",
    "contributor": "contributor",
    "recipient": "recipient",
    "collection-editor": "editor",
    "container-author": "contributor",
}
_USED = {
    "id",
    "type",
    "title",
    "author",
    "issued",
    "container-title",
    "DOI",
    "abstract",
    "keyword",
    "volume",
    "page",
    "PMID",
    "language",
    "references",
    "citations",
    "affiliations",
    *_ROLES,
}


def sniff(head: Head) -> float:
    """How surely this is CSL-JSON, 0 to 1."""
    if head.text.lstrip()[:1] not in ("[", "{"):
        return 0.0
    signs = sum(f'"{key}"' in head.text for key in ("container-title", "date-parts", "citation-key", "edtf"))
    signs += bool(_PEOPLE.search(head.text))
    return 0.5 + 0.08 * signs if signs and '"type"' in head.text else 0.0


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """Records one by one."""
    for item, line, raw in values(stream, report, ("items", "references", "records")):
        yield record_of(item, line, raw, report)


def record_of(item: dict[str, Any], line: int, raw: str, report: Report) -> RawRecord:
    """A record from a CSL item."""
    people = objects(item.get("author"))
    record = RawRecord(
        line=line,
        raw=raw,
        entry=text(item.get("id")),
        type=text(item.get("type")),
        title=text(item.get("title")),
        doi=text(item.get("DOI")),
        abstract=text(item.get("abstract")),
        citations=whole(text(item.get("citations"))),
        persons=[name for name in map(name_of, people) if name],
        venue=text(item.get("container-title")),
        keywords=_keywords(item.get("keyword")),
        volume=text(item.get("volume")),
        pages=text(item.get("page")),
        language=language_code(text(item.get("language"))),
        references=texts(item.get("references", [])),
        identifiers=[f"pmid:{text(item['PMID'])}"] if text(item.get("PMID")) else (),
        others=[
            ("person", role, name_of(one))
            for key, role in _ROLES.items()
            if key in item
            for one in objects(item[key])
            if name_of(one)
        ],
        extra={k: v for k, v in item.items() if k not in _USED},
        known_as=orcids(people),
    )
    affiliate(record, texts(item.get("affiliations", [])))
    dated(record, date_texts(item.get("issued")), report)
    return record


def _keywords(value: Any) -> list[str]:
    if isinstance(value, list):
        return texts(value)
    words = text(value)
    return split_values(words, ";" if ";" in words else ",")


def orcids(people: list[dict[str, Any]]) -> dict[str, str]:
    """Person → ORCID, of those that have one."""
    return {name_of(p): f"orcid:{orcid(text(p.get('ORCID')))}" for p in people if orcid(text(p.get("ORCID")))}


_USUAL = {"family", "given", "sequence", "affiliation", "ORCID", "authenticated-orcid"}


def name_of(one: dict[str, Any]) -> str:
    """A name in parts as one form; particles stay with the family name."""
    if one.keys() <= _USUAL and isinstance(one.get("family"), str) and isinstance(one.get("given"), str):
        return person(one["family"], one["given"])
    if text(one.get("literal")) or text(one.get("name")):
        return text(one.get("literal")) or text(one.get("name"))
    family = " ".join(
        t
        for t in (text(one.get("dropping-particle")), text(one.get("non-dropping-particle")), text(one.get("family")))
        if t
    )
    return person(family, text(one.get("given")), text(one.get("suffix")))


def date_texts(value: Any) -> list[str]:
    """A CSL date as texts: its parts, an interval of two, or what is written."""
    date = obj(value)
    parts = date.get("date-parts")
    found = []
    if isinstance(parts, list):
        days = [
            "-".join(f"{n:0{4 if k == 0 else 2}}" for k, n in enumerate(_numbers(part)))
            for part in parts
            if isinstance(part, list)
        ]
        days = [day for day in days if day]
        mark = "~" if date.get("circa") else ""
        found = ["/".join(day + mark for day in days[:2])] if days else []
    return (
        found
        + texts([date.get("raw"), date.get("literal"), date.get("edtf")])
        + ([text(value)] if isinstance(value, str) else [])
    )


def _numbers(part: list[Any]) -> list[int]:
    found = []
    for one in part[:3]:
        if not text(one).isdecimal() or not text(one).isascii() or len(text(one)) > 4:
            break
        found.append(int(text(one)))
    return found


def write(records: Iterator[RawRecord]) -> Iterator[str]:
    """The records as CSL-JSON text, a piece a record."""
    first = True
    for r in records:
        item: dict[str, Any] = {
            "id": r.entry,
            "type": r.type or "document",
            "title": r.title,
            "author": [_parts(p) for p in r.persons],
            "container-title": r.venue,
            "DOI": r.doi,
            "abstract": r.abstract,
            "keyword": r.keywords,
            "volume": r.volume,
            "page": r.pages,
            "language": r.language,
            "references": list(r.references),
            "citations": r.citations,
        }
        for role in ("editor", "translator", "contributor", "recipient"):
            item[role] = [_parts(t) for k, what, t in r.others if (k, what) == ("person", role)]
        if r.date or r.year:
            item["issued"] = {"edtf": r.date or str(r.year)}
        item = {key: value for key, value in item.items() if value}
        yield ("[\n" if first else ",\n") + json.dumps(item, ensure_ascii=False)
        first = False
    yield "[]\n" if first else "\n]\n"


def _parts(name: str) -> dict[str, str]:
    family, comma, given = name.partition(", ")
    return {"family": family, "given": given} if comma and family and given else {"literal": name}
