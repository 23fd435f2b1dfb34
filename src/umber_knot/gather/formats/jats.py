"""JATS XML: journal articles with their contributors, affiliations, text and reference lists."""

from __future__ import annotations

import re
from collections.abc import Iterator

from umber_knot.corpus.model import Passage, RawRecord
from umber_knot.gather.fields import affiliate, dated, language_code, orcid, person
from umber_knot.gather.formats._xml import Element, all_named, children, first_text, pieces, text_of
from umber_knot.gather.references import reference_text
from umber_knot.gather.stream import Head, Report, Stream

NAME = "JATS"


def sniff(head: Head) -> float:
    """How surely this is JATS, 0 to 1."""
    text = head.text
    return (
        0.97 if "<article" in text and ("<article-meta" in text or "JATS" in text or "<journal-meta" in text) else 0.0
    )


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """Articles one by one."""
    for element, line, raw in pieces(stream, report, "article"):
        front = next(iter(all_named(element, "front") or all_named(element, "front-stub")), element)
        meta = next(iter(all_named(front, "article-meta")), front)
        persons, others, known = [], [], {}
        of: dict[str, list[str]] = {}
        affiliations = {a.get("id", ""): _address(a) for a in all_named(meta, "aff")}
        for contributor in all_named(meta, "contrib"):
            name = _name(contributor)
            if not name:
                continue
            kind = contributor.get("contrib-type", "author")
            if kind == "author":
                persons.append(name)
                linked = [
                    affiliations.get(rid, "")
                    for x in all_named(contributor, "xref")
                    for rid in x.get("rid", "").split()
                ]
                inside = [_address(a) for a in all_named(contributor, "aff")]
                of[name] = [address for address in [*linked, *inside] if address]
            else:
                others.append(
                    ("person", {"editor": "editor", "translator": "translator"}.get(kind, "contributor"), name)
                )
            number = orcid(" ".join(text_of(i) for i in all_named(contributor, "contrib-id")))
            if number:
                known[name] = f"orcid:{number}"
        ids = {i.get("pub-id-type", ""): text_of(i) for i in all_named(meta, "article-id")}
        words = [text_of(k) for g in all_named(meta, "kwd-group") for k in all_named(g, "kwd")]
        subjects = [text_of(s) for s in all_named(meta, "article-categories", "subject")]
        record = RawRecord(
            line=line,
            raw=raw,
            entry=ids.get("publisher-id") or ids.get("pmc") or ids.get("pmid", ""),
            type=element.get("article-type", ""),
            title=first_text(meta, "title-group", "article-title") or first_text(meta, "article-title"),
            doi=ids.get("doi", ""),
            abstract=next((_prose(a) for a in all_named(meta, "abstract") if not a.get("abstract-type")), ""),
            persons=persons,
            keywords=[w for w in words if w],
            venue=first_text(front, "journal-meta", "journal-title"),
            volume=first_text(meta, "volume"),
            pages="-".join(
                t
                for t in (first_text(meta, "fpage") or first_text(meta, "elocation-id"), first_text(meta, "lpage"))
                if t
            ),
            language=language_code(element.get("{http://www.w3.org/XML/1998/namespace}lang", "")),
            references=[t for t in (_reference(r) for r in all_named(element, "ref-list", "ref")) if t],
            identifiers=[f"pmid:{ids['pmid']}"] if ids.get("pmid") else (),
            known_as=known,
            others=others + [("keyword", "index", s) for s in subjects if s],
            passages=tuple(_passages(element, line)),
        )
        told = [address for several in of.values() for address in several]
        affiliate(record, told or [_address(a) for a in all_named(meta, "aff") if _of_authors(a)], of)
        dated(record, [_date(d) for d in sorted(all_named(meta, "pub-date"), key=_standing)], report)
        yield record


def _name(contributor: Element) -> str:
    parts = next(iter(all_named(contributor, "name")), None)
    if parts is not None:
        return person(first_text(parts, "surname"), first_text(parts, "given-names"), first_text(parts, "suffix"))
    return first_text(contributor, "string-name") or first_text(contributor, "collab")


def _of_authors(affiliation: Element) -> bool:
    """Whether an affiliation that nobody refers to stands where authors do, not only editors."""
    for above in affiliation.iterancestors("contrib", "contrib-group"):
        kinds = {
            c.get("contrib-type", "author")
            for c in ([above] if above.tag == "contrib" else all_named(above, "contrib"))
        }
        if kinds and "author" not in kinds:
            return False
    return True


def _standing(date: Element) -> int:
    """The issue's date before the day an article was first seen."""
    kind = f"{date.get('pub-type', '')} {date.get('date-type', '')} {date.get('publication-format', '')}"
    return 0 if re.search(r"ppub|print|collection", kind) else 1 if "epub" in kind or "pub" in kind else 2


def _prose(element: Element) -> str:
    """Text in paragraphs, each title before what it heads."""
    parts: list[str] = []
    title = ""
    for child in element.iter("title", "p", "label"):
        text = text_of(child)
        if child.tag == "title":
            title = text.rstrip(":. ")
        elif child.tag == "p" and text:
            parts.append(f"{title}: {text}" if title and title.lower() != "abstract" else text)
            title = ""
    return " ".join(parts) or text_of(element)


def _address(element: Element) -> str:
    """An affiliation without its label; parts in elements of their own are set apart by commas."""
    named = [text_of(e) for e in element.iter() if e.tag in ("institution", "addr-line", "city", "state", "country")]
    if named:
        return ", ".join(dict.fromkeys(n.strip(" ,;") for n in named if n.strip(" ,;")))
    text = text_of(element)
    for label in children(element, "label"):
        text = text.removeprefix(text_of(label)).strip()
    return text


def _date(element: Element) -> str:
    year, month, day = (first_text(element, name) for name in ("year", "month", "day"))
    if month.isdecimal() and year:
        return (
            f"{year}-{int(month):02}" + (f"-{int(day):02}" if day.isdecimal() else "")
            if len(month) < 3 and len(day) < 3
            else year
        )
    return f"{month} {year}".strip()


def _reference(element: Element) -> str:
    """A reference in its parts where it has them, else as it is written."""
    cited = next(
        (e for e in element.iter() if e.tag in ("element-citation", "mixed-citation", "nlm-citation", "citation")),
        element,
    )
    doi = next((text_of(i) for i in all_named(cited, "pub-id") if i.get("pub-id-type") == "doi"), "")
    name = next(iter(all_named(cited, "name")), None)
    author = (
        f"{first_text(name, 'surname')}, {first_text(name, 'given-names')}".strip(" ,")
        if name is not None
        else first_text(cited, "string-name")
    )
    year = first_text(cited, "year")
    if not author or not year:
        text = _as_cited(cited)
        return text if not doi or doi in text else f"{text}, DOI {doi}"
    return reference_text(
        author=author,
        year=year,
        title=first_text(cited, "article-title"),
        venue=first_text(cited, "source"),
        volume=first_text(cited, "volume"),
        page=first_text(cited, "fpage"),
        doi=doi,
    )


def _as_cited(cited: Element) -> str:
    """A reference as it is written; where only elements are, without a text between them, set apart by commas."""
    if cited.tag == "element-citation" or (
        not any((child.tail or "").strip() for child in cited) and not (cited.text or "").strip()
    ):
        return ", ".join(t for t in map(text_of, cited) if t) or text_of(cited)
    parts = [cited.text or ""]
    for child in cited:
        parts += [text_of(child), child.tail or ""]
        if not (child.tail or "").strip() and child.getnext() is not None:
            parts.append(" ")
    return " ".join("".join(parts).split())


def _passages(element: Element, line: int) -> Iterator[Passage]:
    """The paragraphs of the body, under the titles of their sections."""

    def walk(parent: Element, above: tuple[str, ...]) -> Iterator[Passage]:
        for child in parent:
            if child.tag == "sec":
                title = next((text_of(t) for t in children(child, "title")), "")
                yield from walk(child, (*above, title) if title else above)
            elif child.tag == "p" and text_of(child):
                yield Passage(text_of(child), line, " / ".join(above))
            elif child.tag in ("body", "boxed-text"):
                yield from walk(child, above)

    for body in children(element, "body"):
        yield from walk(body, ())
