"""Letters in TEI: correspDesc in editions, and CMIF, the interchange format of letter catalogues."""

from __future__ import annotations

from collections.abc import Iterator

from umber_knot.corpus.model import Passage, RawRecord
from umber_knot.gather.fields import dated, language_code
from umber_knot.gather.formats._xml import Element, all_named, children, first_text, pieces, text_of
from umber_knot.gather.stream import Head, Report, Stream

NAME = "TEI letters"
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
            report.problem(line, "no correspDesc says who wrote to whom; the text was read without", raw[:120])
            yield RawRecord(
                line=line,
                raw=raw,
                type="text",
                title=first_text(element, "titleStmt", "title"),
                passages=tuple(_passages(texts, line)),
            )
            continue
        at = 0
        for n, description in enumerate(descriptions):
            at = max(raw.find("correspDesc", at), 0)
            here = line + raw.count("\n", 0, at)
            end = raw.find("correspDesc>", at + 11)
            part = raw[max(raw.rfind("<", 0, at), 0) : end + 12 if end > 0 else at + 2000]
            at = end + 12 if end > 0 else at + 11
            yield _letter(element, description, here, part, report, texts if len(descriptions) == 1 else [], n)


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
