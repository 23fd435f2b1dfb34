"""XML from strangers, read by lxml: the elements that are records, one after another, each with its line.

Nothing is fetched and no entity is expanded: names of characters that HTML knows become these characters, any other
entity
stays as written. What is not well-formed is reported with its line and read as far as it goes.
"""

from __future__ import annotations

import codecs
import contextlib
import copy
import html.entities
import re
from collections.abc import Iterator
from html import escape
from typing import Any, NamedTuple, TypeAlias

from lxml import etree

from umber_knot.gather.stream import Report, Stream

Element: TypeAlias = Any  # of lxml
#: A single record larger than this is no record.
LARGEST = 64_000_000
MOST_ERRORS = 50  # that are told of one file
_BLOCK = 1 << 18
_NAMED = re.compile(r"&([A-Za-z][\w.-]{0,60});")
_ENTITY = re.compile(rf"{_NAMED.pattern}|<!\[CDATA\[")
_UNFINISHED = re.compile(r"(?:&[\w.-]{0,60}|<!?\[?C?D?A?T?A?\[?|\]{1,2})$")
_OWN = {"amp", "lt", "gt", "quot", "apos"}
#: Bytes of UTF-8 with a space for what no XML may hold.
_SPACED = bytes(32 if byte < 32 and byte not in (9, 10, 13) else byte for byte in range(256))
_NO_CHARACTERS = tuple(ch.encode() for ch in "\ufffe\uffff")
#: How a document is parsed: as it stands, with nothing from outside.
SAFE: dict[str, Any] = {
    "resolve_entities": False,
    "no_network": True,
    "load_dtd": False,
    "huge_tree": False,
    "remove_comments": True,
    "remove_pis": True,
}


class Piece(NamedTuple):
    """An element of the file with its line and its text as it stands there."""

    element: Element
    line: int
    raw: str


def pieces(stream: Stream, report: Report, *names: str) -> Iterator[Piece]:
    """Every outermost element with one of the names (without prefix), one after another.

    Where an element is never closed, those of the same names inside it are given as well.
    """
    parser = etree.XMLPullParser(
        events=("start", "end"), tag=[f"{{*}}{name}" for name in names], recover=True, encoding="utf-8", **SAFE
    )
    depth, told, since = 0, 0, 0

    def found() -> Iterator[Piece]:
        nonlocal depth, since
        for event, element in parser.read_events():
            depth += 1 if event == "start" else -1
            if event == "start" and depth == 1:
                since = 0
            elif event == "end" and depth == 0:
                yield from _whole(element, names, report, _errors(parser, element.sourceline or 0))
                _forget(element)

    for block in _blocks(stream, report):
        since += len(block)
        parser.feed(_allowed(block.encode("utf-8", "replace")))
        told = _tell(parser, report, told)
        yield from found()
        if depth and since > LARGEST:
            report.problem(0, f"an element <{names[0]}> is larger than {LARGEST:,} bytes; the file was read up to it")
            return
    try:
        parser.close()
    except etree.XMLSyntaxError as error:
        if not told:
            report.problem(error.lineno or 0, f"not well-formed XML ({_plain(error.msg or '')})")
    _tell(parser, report, told)
    yield from found()


def _errors(parser: etree.XMLPullParser, line: int) -> bool:
    return any(entry.line >= line for entry in parser.feed_error_log)


def _tell(parser: etree.XMLPullParser, report: Report, told: int) -> int:
    """Report what the parser found wrong since it was last asked; how many errors that makes."""
    errors = list(parser.feed_error_log)
    for entry in errors[told:MOST_ERRORS]:
        what = "nested too deeply" if "depth" in entry.message.lower() else "not well-formed XML"
        report.problem(entry.line, f"{what} ({_plain(entry.message)}); read as far as it goes, check the tags here")
    return max(told, len(errors))


def _plain(message: str) -> str:
    return message.split(", use XML_PARSE", 1)[0].split(" use XML_PARSE", 1)[0]


def _whole(element: Element, names: tuple[str, ...], report: Report, broken: bool) -> Iterator[Piece]:
    """An outermost element as a piece; a broken one without those that it swallowed, which follow."""
    line = element.sourceline or 0
    swallowed = [e for e in element.iter(*(f"{{*}}{name}" for name in names)) if e is not element] if broken else []
    if not swallowed:
        yield _piece(element, line)
        return
    inside = [(copy.deepcopy(e), e.sourceline or line) for e in swallowed]
    outer = copy.deepcopy(element)
    for e in [e for e in outer.iter(*(f"{{*}}{name}" for name in names)) if e is not outer]:
        parent = e.getparent()
        if parent is not None:
            parent.remove(e)
    yield _piece(outer, line)
    for e, at in inside:
        yield _piece(e, at)


def _piece(element: Element, line: int) -> Piece:
    raw = etree.tostring(element, encoding="unicode", with_tail=False)
    if element.nsmap:
        element = copy.deepcopy(element)
    return Piece(_without_spaces(element) if "xmlns" in raw or ":" in element.tag else element, line, raw + "\n")


def _forget(element: Element) -> None:
    """Let go of an element and of all that stands before it: a file of any length is read in little memory."""
    element.clear()
    while element is not None:
        parent = element.getparent()
        before = element.getprevious()
        while before is not None and parent is not None:
            parent.remove(before)
            before = element.getprevious()
        element = parent


def _blocks(stream: Stream, report: Report) -> Iterator[str]:
    """The text of a file in blocks, entities made harmless."""
    decode = codecs.getincrementaldecoder(stream.encoding or "utf-8")("replace").decode
    rest, cdata, first, done, lost = "", False, True, 0, 0
    with stream.open() as file:
        while True:
            data = file.read(_BLOCK)
            done += len(data)
            stream.progress(done)
            text = rest + decode(data, not data)
            lost += (
                text.count("\ufffd") - rest.count("\ufffd") if "\ufffd" in text and "\ufffd".encode() not in data else 0
            )
            cut = _UNFINISHED.search(text, max(len(text) - 70, 0)) if data else None
            text, rest = (text[: cut.start()], text[cut.start() :]) if cut else (text, "")
            if first:
                text = text.lstrip("\ufeff").lstrip()  # a declaration stands at the very beginning
                _look_for_entities(text, report)
                first = False
            text, cdata = _harmless(text, cdata)
            if text:
                yield text
            if not data:
                break
    if lost:
        report.problem(
            0, f"{lost:,} characters are not {stream.encoding.upper()} and were lost; export the file again as UTF-8"
        )


def _allowed(data: bytes) -> bytes:
    """UTF-8 without characters that XML forbids."""
    for character in _NO_CHARACTERS:
        if character in data:
            data = data.replace(character, b" ")
    return data.translate(_SPACED)


def _look_for_entities(text: str, report: Report) -> None:
    declared = text.find("<!ENTITY", 0, 20_000)
    if declared >= 0:
        report.problem(
            text.count("\n", 0, declared) + 1,
            "the file declares entities of its own; they are refused and stay as written",
            text[declared : declared + 80],
        )


def _harmless(text: str, cdata: bool) -> tuple[str, bool]:
    """Text in which entities stand for themselves, and whether it ends inside a CDATA section, where they do anyway."""
    if not cdata and "<![CDATA[" not in text:
        return _NAMED.sub(lambda found: _entity(found[1]), text) if "&" in text else text, False
    parts, at = [], 0
    while True:
        if cdata:
            end = text.find("]]>", at)
            parts.append(text[at : end if end >= 0 else None])
            if end < 0:
                return "".join(parts), True
            at, cdata = end, False
        found = _ENTITY.search(text, at)
        if found is None:
            return "".join([*parts, text[at:]]), False
        parts.append(text[at : found.start()])
        parts.append(_entity(found[1]) if found[1] else found[0])
        at, cdata = found.end(), not found[1]


def _entity(name: str) -> str:
    """A named character of HTML as itself; any other entity as it is written."""
    if name in _OWN:
        return f"&{name};"
    known = html.entities.html5.get(f"{name};")
    return escape(known) if known else f"&amp;{name};"


def _without_spaces(root: Element) -> Element:
    """The element with its names, and those within it, free of namespaces: readers know where they are."""
    for element in root.iter(etree.Element):
        tag = element.tag
        if tag[:1] == "{":
            with contextlib.suppress(ValueError):  # broken tags may have names that none can be given
                element.tag = tag[tag.rindex("}") + 1 :]
    return root


def all_named(element: Element, *path: str) -> list[Element]:
    """Descendants along a path of names; each step is any depth below the one before."""
    found = [element]
    for name in path:
        found = [e for parent in found for e in parent.iter(name) if e is not parent]
    return found


def children(element: Element, name: str) -> list[Element]:
    """Children of one name."""
    return element.findall(name)


def text_of(element: Element | None) -> str:
    """All text of an element, white space folded."""
    if element is None:
        return ""
    text = "".join(element.itertext()) if len(element) else element.text or ""
    return " ".join(text.split())


def first_text(element: Element, *path: str) -> str:
    """The text of the first element along a path, empty when there is none."""
    if len(path) == 1:
        for found in element.iter(path[0]):
            if found is not element:
                return text_of(found)
        return ""
    several = all_named(element, *path)
    return text_of(several[0]) if several else ""
