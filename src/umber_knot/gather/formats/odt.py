"""OpenDocument texts (ODT): paragraphs and headings with their level."""

from __future__ import annotations

from collections.abc import Iterator

from umber_knot.corpus.model import RawRecord
from umber_knot.errors import UserError
from umber_knot.gather.fields import language_code
from umber_knot.gather.formats._texts import Outline, document, listed
from umber_knot.gather.formats._xml import Element
from umber_knot.gather.stream import Head, Report, Stream

NAME = "ODT"
UNIT = "paragraph"
_TEXT = "{urn:oasis:names:tc:opendocument:xmlns:text:1.0}"


def sniff(head: Head) -> float:
    """How surely this is ODT, 0 to 1."""
    if not head.data.startswith(b"PK\x03\x04"):
        return 0.0
    return (
        0.97
        if b"application/vnd.oasis.opendocument.text" in head.data[:200]
        else 0.7
        if head.name.lower().endswith(".odt")
        else 0.0
    )


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """The document as one record."""
    from umber_knot.gather.formats._office import facts, tree
    from umber_knot.gather.formats._zip import parts

    found = parts(stream, ("content.xml", "meta.xml"))
    if "content.xml" not in found:
        raise UserError("the document has no text in it", cure="Save it again as ODT")
    outline, title, number = Outline(), "", 0
    for element in tree(found["content.xml"], "the document").iter():
        if element.tag not in (f"{_TEXT}p", f"{_TEXT}h"):
            continue
        number += 1
        text = " ".join(_text(element).split())
        if element.get(f"{_TEXT}style-name") == "Title" and text and not title:
            title = text
        elif element.tag == f"{_TEXT}h" and text:
            level = element.get(f"{_TEXT}outline-level", "1")
            outline.head(int(level) if level.isdecimal() and len(level) < 3 else 1, text)
        else:
            outline.add(text, number)
    told = facts(found.get("meta.xml", b""))
    yield document(
        stream.name,
        outline,
        report,
        title=title or told.get("title", ""),
        people=listed(told.get("initial-creator", "") or told.get("creator", "")),
        words=listed(told.get("keyword", "")),
        date=(told.get("creation-date", "") or told.get("date", ""))[:10],
        language=language_code(told.get("language", "")),
    )


def _text(element: Element) -> str:
    pieces = [element.text or ""]
    for child in element:
        if child.tag.rpartition("}")[2] in ("s", "tab", "line-break"):
            pieces.append(" ")
        elif child.tag.rpartition("}")[2] not in ("note", "annotation"):
            pieces.append(_text(child))
        pieces.append(child.tail or "")
    return "".join(pieces)
