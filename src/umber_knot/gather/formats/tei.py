"""Letters and other texts in TEI: correspDesc in editions, and CMIF, the interchange format of letter catalogues."""

from __future__ import annotations

from collections.abc import Iterator

from umber_knot.corpus.model import Passage, RawRecord
from umber_knot.gather.fields import dated, language_code, person
from umber_knot.gather.formats._xml import Element, all_named, children, first_text, pieces, text_of
from umber_knot.gather.references import reference_text
from umber_knot.gather.stream import Head, Report, Stream

NAME = "TEI"
_ID = "{http://www.w3.org/XML/1998/namespace}id"


def sniff(head: Head) -> float:
    """How surely this is TEI with letters, 0 to 1."""
    if "tei-c.org/ns" not in head.text and "<TEI" not in head.text:
        return 0.0
    return 0.97 if "correspDesc" in head.text else 0.6


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """Letters one by one; the text of an edition's letter becomes its passages."""
    for element, line, raw in pieces(stream, report, "TEI", "teiCorpus"):
        descriptions = all_named(element, "correspDesc")
        texts = [text for text in element.iter() if text.tag == "text"]
        if not descriptions:
            yield _text(element, texts, line, raw, report)
            continue
        at = 0
        for n, description in enumerate(descriptions):
            at = max(raw.find("correspDesc", at), 0)
            here = line + raw.count("\n", 0, at)
            end = raw.find("correspDesc>", at + 11)
            part = raw[max(raw.rfind("<", 0, at), 0) : end + 12 if end > 0 else at + 2000]
            at = end + 12 if end > 0 else at + 11
            yield _letter(element, description, here, part, report, texts if len(descriptions) == 1 else [], n)


def _text(tei: Element, texts: list[Element], line: int, raw: str, report: Report) -> RawRecord:
    """A text that is no letter, with what its header says of it and the works it lists."""
    header = next(iter(all_named(tei, "teiHeader")), tei)
    statement = next(iter(all_named(header, "titleStmt")), header)
    listed = [b for group in all_named(tei, "listBibl") for b in group if b.tag in ("bibl", "biblStruct", "biblFull")]
    terms = [text_of(t) for words in all_named(header, "keywords") for t in words.iter("term", "item")]
    publisher = first_text(header, "publicationStmt", "publisher")
    record = RawRecord(
        line=line,
        raw=raw,
        entry=tei.get(_ID) or first_text(header, "publicationStmt", "idno"),
        type="text",
        title=first_text(statement, "title"),
        abstract=first_text(header, "abstract"),
        persons=list(dict.fromkeys(n for a in statement.iter("author") for n in _names(a))),
        keywords=[t for t in terms if t],
        others=[("person", "editor", n) for e in statement.iter("editor") for n in _names(e)],
        places=[p for p in (first_text(header, "publicationStmt", "pubPlace"),) if p],
        language=language_code(next((x.get("ident", "") for x in all_named(header, "langUsage", "language")), "")),
        references=[t for t in map(_work, listed) if t],
        passages=tuple(_passages(texts, line)),
        extra={"publisher": publisher} if publisher else {},
    )
    where = ("creation", "sourceDesc", "publicationStmt", "editionStmt")
    dated(
        record,
        [d for name in where for part in all_named(header, name) for w in part.iter("date") for d in _dates(w)],
        report,
    )
    return record


def _names(element: Element) -> list[str]:
    """The people that an element names: in its parts where it has them, else as it is written."""
    several = [e for e in element.iter("persName", "name", "orgName") if e is not element] or [element]
    found = []
    for one in several:
        family, given = (" ".join(text_of(e) for e in one.iter(name)) for name in ("surname", "forename"))
        found.append(person(family, given) if family else text_of(one))
    return [name for name in found if name]


def _work(bibl: Element) -> str:
    """A work of a list, in its parts where they stand in elements, else as it is written."""
    if bibl.tag == "bibl":
        return text_of(bibl)
    people = [n for e in bibl.iter("author", "editor") for n in _names(e)]
    titles = [text_of(t) for t in bibl.iter("title") if text_of(t)]
    when = next((d for w in bibl.iter("date") for d in _dates(w)), "")
    scope = {b.get("unit", b.get("type", "")): text_of(b) or b.get("from", "") for b in bibl.iter("biblScope")}
    return reference_text(
        author="; ".join(people),
        year=when,
        title=titles[0] if titles else "",
        venue=", ".join(titles[1:]) or first_text(bibl, "publisher"),
        volume=scope.get("volume", scope.get("vol", "")),
        page=scope.get("page", scope.get("pp", "")),
    )


def _letter(
    tei: Element, description: Element, line: int, raw: str, report: Report, texts: list[Element], n: int
) -> RawRecord:
    people: dict[str, list[str]] = {"sender": [], "recipient": []}
    known, places, dates = {}, [], []
    for action in children(description, "correspAction"):
        role = {"sent": "sender", "received": "recipient"}.get(action.get("type", ""))
        for who in action.iter():
            if who.tag in ("persName", "orgName", "name", "rs") and role and text_of(who):
                people[role].append(text_of(who))
                if who.get("ref"):
                    known[text_of(who)] = (who.get("ref") or "").split()[0]
        if role == "sender":
            places += [text_of(p) for name in ("placeName", "settlement") for p in children(action, name) if text_of(p)]
            dates += [d for when in children(action, "date") for d in _dates(when)]
    if not people["sender"] and not people["recipient"]:
        report.problem(line, "a letter without sender and recipient; it was kept as it is", raw)
    title = first_text(tei, "titleStmt", "title") if texts else ""
    record = RawRecord(
        line=line,
        raw=raw,
        entry=description.get("key") or description.get(_ID) or "",
        type="letter",
        title=title or f"{' and '.join(people['sender']) or '?'} to {' and '.join(people['recipient']) or '?'}",
        others=[("person", role, name) for role, names in people.items() for name in dict.fromkeys(names)],
        known_as=known,
        places=list(dict.fromkeys(places)),
        passages=tuple(_passages(texts, line)),
        language=language_code(next((x.get("ident", "") for x in all_named(tei, "langUsage", "language")), "")),
        extra={
            k: v for k, v in (("reference", description.get("ref", "")), ("source", description.get("source", ""))) if v
        },
    )
    dated(record, dates, report)
    return record


def _dates(when: Element) -> list[str]:
    """A TEI date as EDTF: exact, or an interval; ``cert`` low or medium makes it uncertain, ``evidence``
    approximate."""
    mark = "?" if when.get("cert") in ("low", "medium", "unknown") else ""
    exact = when.get("when") or when.get("when-iso")
    if exact:
        return [exact[:10] + mark if mark else exact]
    start, end = when.get("from") or when.get("notBefore"), when.get("to") or when.get("notAfter")
    if start or end:
        return [f"{start[:10] + mark if start else '..'}/{end[:10] + mark if end else '..'}"]
    return [text_of(when)] if text_of(when) else []


def _passages(texts: list[Element], line: int) -> Iterator[Passage]:
    for text in texts:
        heading = ""
        for element in text.iter():
            if element.tag == "head":
                heading = text_of(element)
            elif element.tag in ("p", "opener", "closer", "lg", "ab") and text_of(element):
                yield Passage(text_of(element), line, heading)
