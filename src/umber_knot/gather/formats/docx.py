"""Word documents (DOCX): paragraphs, headings by their style, notes; each knows its paragraph."""

from __future__ import annotations

import re
from collections.abc import Iterator

from umber_knot.corpus.model import RawRecord
from umber_knot.errors import UserError
from umber_knot.gather.fields import language_code
from umber_knot.gather.formats._texts import Outline, document, listed
from umber_knot.gather.formats._xml import Element
from umber_knot.gather.stream import Head, Report, Stream

NAME = "DOCX"
UNIT = "paragraph"
_W = "{http://schemas.openxmlformats.org/wordprocessingml/2006/main}"
_STRICT = b"http://purl.oclc.org/ooxml/wordprocessingml/main"  # of documents saved in the strict form
_HEADING = re.compile(r"^(?:heading|berschrift|titre|ttulo|titolo|kop|rubrik)\s*(\d)", re.I)


def sniff(head: Head) -> float:
    """How surely this is DOCX, 0 to 1."""
    if not head.data.startswith(b"PK\x03\x04"):
        return 0.0
    return 0.95 if b"word/" in head.data else 0.7 if head.name.lower().endswith(".docx") else 0.0


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """The document as one record."""
    from umber_knot.gather.formats._office import facts, tree
    from umber_knot.gather.formats._zip import parts

    found = parts(stream, ("word/document.xml", "word/styles.xml", "word/footnotes.xml", "docProps/core.xml"))
    if "word/document.xml" not in found:
        raise UserError("the document has no text in it", cure="Save it again as DOCX")
    found = {name: data.replace(_STRICT, _W[1:-1].encode()) for name, data in found.items()}
    names = _style_names(found.get("word/styles.xml", b""))
    outline, title = Outline(), ""
    number = 0
    for paragraph in tree(found["word/document.xml"], "the document").iter(f"{_W}p"):
        number += 1
        text = _text(paragraph)
        style = paragraph.find(f"{_W}pPr/{_W}pStyle")
        name = style.get(f"{_W}val", "") if style is not None else ""
        name = names.get(name, name)
        heading = _HEADING.match(name)
        if name.lower() in ("title", "titel", "titre") and text and not title:
            title = text
        elif heading and text:
            outline.head(int(heading[1]), text)
        else:
            outline.add(text, number)
    if "word/footnotes.xml" in found:
        outline.head(1, "")
        for note in tree(found["word/footnotes.xml"], "the footnotes").iter(f"{_W}footnote"):
            outline.add(" ".join(_text(p) for p in note.iter(f"{_W}p")), number)
    told = facts(found.get("docProps/core.xml", b""))
    yield document(
        stream.name,
        outline,
        report,
        title=title or told.get("title", ""),
        people=listed(told.get("creator", "")),
        date=told.get("created", "")[:10],
        words=listed(told.get("keywords", "")),
        language=language_code(told.get("language", "")),
    )


def _style_names(data: bytes) -> dict[str, str]:
    """Style identifier → name; the names of headings are the same in every language."""
    from umber_knot.gather.formats._office import tree

    if not data:
        return {}
    found = {}
    for style in tree(data, "the document's styles").iter(f"{_W}style"):
        name = style.find(f"{_W}name")
        found[style.get(f"{_W}styleId", "")] = name.get(f"{_W}val", "") if name is not None else ""
    return found


def _text(paragraph: Element) -> str:
    pieces = []
    for element in paragraph.iter():
        if element.tag == f"{_W}t":
            pieces.append(element.text or "")
        elif element.tag in (f"{_W}tab", f"{_W}br", f"{_W}cr"):
            pieces.append(" ")
    return "".join(pieces)
