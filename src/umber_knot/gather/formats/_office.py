"""The XML parts of office documents."""

from __future__ import annotations

from lxml import etree

from umber_knot.errors import UserError
from umber_knot.gather.formats._xml import SAFE, Element, text_of

#: Elements nested deeper than this are not read.
DEEPEST = 300


def tree(data: bytes, what: str) -> Element:
    """A part parsed; one that declares a document type, and so perhaps entities, is refused."""
    try:
        root = etree.fromstring(data, etree.XMLParser(**SAFE))
    except (etree.XMLSyntaxError, ValueError, LookupError) as error:
        if "depth" in str(error).lower():
            raise UserError(f"{what} is nested more than {DEEPEST} deep; it was not read") from error
        raise UserError(f"{what} is damaged ({error})", cure="Save it again from the program that made it") from error
    if root.getroottree().docinfo.internalDTD is not None:
        raise UserError(f"{what} declares entities, which no honest document does; it was not read")
    if depth_of(root) > DEEPEST:
        raise UserError(f"{what} is nested more than {DEEPEST} deep; it was not read")
    return root


def facts(data: bytes) -> dict[str, str]:
    """Title, creator, keywords and date of a document's properties; several values are told apart by semicolons."""
    found: dict[str, str] = {}
    if data:
        for element in tree(data, "the document's properties").iter():
            name, value = element.tag.rpartition("}")[2], text_of(element)
            if value and len(element) == 0:
                found[name] = f"{found[name]}; {value}" if name in found and name == "keyword" else value
    return found


def depth_of(element: Element) -> int:
    """How deep the elements inside one are nested, itself counted."""
    deepest, level = 0, 0
    for event, _ in etree.iterwalk(element, events=("start", "end")):
        level += 1 if event == "start" else -1
        deepest = max(deepest, level)
    return deepest
