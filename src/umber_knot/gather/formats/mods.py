"""MODS, the Metadata Object Description Schema."""

from __future__ import annotations

from collections.abc import Iterator

from umber_knot.corpus.model import RawRecord
from umber_knot.gather.fields import affiliate, dated, language_code, orcid, person
from umber_knot.gather.formats._xml import Element, children, first_text, pieces, text_of
from umber_knot.gather.stream import Head, Report, Stream

NAME = "MODS"
_ROLES = {
    "edt": "editor",
    "editor": "editor",
    "trl": "translator",
    "translator": "translator",
    "ctb": "contributor",
    "contributor": "contributor",
    "rcp": "recipient",
    "addressee": "recipient",
    "crp": "sender",
    "correspondent": "sender",
}


def sniff(head: Head) -> float:
    """How surely this is MODS, 0 to 1."""
    return 0.96 if "loc.gov/mods" in head.text else 0.0


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """Records one by one."""
    for element, line, raw in pieces(stream, report, "mods"):
        persons, others, known, addresses = [], [], {}, []
        for name in children(element, "name"):
            text = _name(name)
            if not text:
                continue
            roles = [text_of(t).lower().rstrip(".") for r in children(name, "role") for t in children(r, "roleTerm")]
            role = next((_ROLES[r] for r in roles if r in _ROLES), "")
            if role:
                others.append(("person", role, text))
            else:
                persons.append(text)
            addresses += [text_of(a) for a in children(name, "affiliation")]
            number = orcid(" ".join(text_of(n) for n in children(name, "nameIdentifier")))
            if number:
                known[text] = f"orcid:{number}"
        host = next((r for r in children(element, "relatedItem") if r.get("type") in ("host", "series")), None)
        parts = [host, *children(element, "part")] if host is not None else children(element, "part")
        cited = [r for r in children(element, "relatedItem") if r.get("type") == "references"]
        ids = {(i.get("type") or "").lower(): text_of(i) for i in children(element, "identifier")}
        record = RawRecord(
            line=line,
            raw=raw,
            entry=element.get("ID", "") or next((text_of(r) for r in _named(element, "recordIdentifier")), ""),
            type=_first(element, "genre") or _first(element, "typeOfResource"),
            title=_title(element),
            doi=ids.get("doi", ""),
            abstract=_first(element, "abstract"),
            persons=persons,
            keywords=[w for s in children(element, "subject") for w in _subject(s)],
            venue=_title(host) if host is not None else "",
            volume=next((v for part in parts if (v := _detail(part, "volume"))), ""),
            pages=next((p for part in parts if (p := _pages(part))), ""),
            language=language_code(first_text(element, "language", "languageTerm")),
            others=others,
            known_as=known,
            references=[t for t in (text_of(r) for r in cited) if t],
            identifiers=[f"{kind}:{value}" for kind, value in ids.items() if kind in ("pmid", "isbn") and value],
            extra={kind: value for kind, value in ids.items() if kind not in ("doi", "pmid", "isbn") and kind},
        )
        dates = [
            text_of(d)
            for origin in [*children(element, "originInfo"), *(_named(host, "originInfo") if host is not None else [])]
            for name in ("dateIssued", "dateCreated", "copyrightDate")
            for d in children(origin, name)
        ]
        own = [*(children(host, "part") if host is not None else ()), *children(element, "part")]
        dates = [text_of(d) for part in own for d in children(part, "date")] + dates  # the issue's own
        issue = next((v for part in parts if (v := _detail(part, "issue"))), "")
        if issue:
            record.extra["issue"] = issue
        dated(record, dates, report)
        affiliate(record, addresses)
        yield record


def _named(element: Element, name: str) -> list[Element]:
    return list(element.iter(name))


def _first(element: Element, name: str) -> str:
    found = children(element, name)
    return text_of(found[0]) if found else ""


def _title(element: Element) -> str:
    for info in children(element, "titleInfo"):
        if not info.get("type"):
            parts = [_first(info, name) for name in ("nonSort", "title")]
            sub = _first(info, "subTitle")
            return " ".join(p for p in parts if p) + (f": {sub}" if sub else "")
    return ""


def _name(name: Element) -> str:
    parts: dict[str, list[str]] = {}
    for part in children(name, "namePart"):
        parts.setdefault(part.get("type", ""), []).append(text_of(part))
    family, given, terms, whole = (" ".join(parts.get(kind, ())) for kind in ("family", "given", "termsOfAddress", ""))
    return person(family, given, terms) if family else whole or _first(name, "displayForm")


def _subject(subject: Element) -> list[str]:
    words = [text_of(e) for name in ("topic", "geographic", "temporal") for e in children(subject, name)]
    return [w for w in words if w]


def _pages(part: Element) -> str:
    start, end = first_text(part, "extent", "start"), first_text(part, "extent", "end")
    return "-".join(filter(None, (start, end))) or first_text(part, "extent", "list")


def _detail(host: Element, kind: str) -> str:
    return next((first_text(d, "number") for d in _named(host, "detail") if d.get("type") == kind), "")
