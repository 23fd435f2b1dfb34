"""The XML parts of office documents."""

from __future__ import annotations

import re
from xml.etree import ElementTree

from umber_knot.errors import UserError
from umber_knot.gather.formats._xml import DEEPEST, text_of


def tree(data: bytes, what: str) -> ElementTree.Element:
    """A part parsed; one that declares a document type, and so perhaps entities, is refused."""
    if b"<!DOCTYPE" in data[:4096] or b"<!ENTITY" in data:
        raise UserError(f"{what} declares entities, which no honest document does; it was not read")
    depth = deepest = 0
    for found in re.finditer(rb"<(/?)[A-Za-z][^<>]*?(/?)>", data) if data.count(b"<") > 2 * DEEPEST else ():
        depth += -1 if found[1] else 0 if found[2] else 1
        deepest = max(deepest, depth)
    if deepest > DEEPEST:
        raise UserError(f"{what} is nested more than {DEEPEST} deep; it was not read")
    try:
        return ElementTree.fromstring(data)
    except (ElementTree.ParseError, ValueError, LookupError) as error:
        raise UserError(f"{what} is damaged ({error})", cure="Save it again from the program that made it") from error


def facts(data: bytes) -> dict[str, str]:
    """Title, creator, keywords and date of a document's properties; several values are told apart by semicolons."""
    found: dict[str, str] = {}
    if data:
        for element in tree(data, "the document's properties").iter():
            name, value = element.tag.rpartition("}")[2], text_of(element)
            if value and len(element) == 0:
                found[name] = f"{found[name]}; {value}" if name in found and name == "keyword" else value
    return found
