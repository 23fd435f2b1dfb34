"""XML from strangers: cut into the elements that are records, each parsed on its own.

A record that is not well-formed is reported with its line and the others are read. No document type is ever given to
the parser, so no entity can be declared: entities are neither expanded nor fetched, and declaring one is reported.
"""

from __future__ import annotations

import html.entities
import re
from collections.abc import Iterator
from typing import NamedTuple
from xml.etree import ElementTree

from umber_knot.gather.stream import Report, Stream

#: A single record larger than this is no record.
LARGEST = 64_000_000
#: Elements nested deeper than this are not read.
DEEPEST = 300
_ENTITY = re.compile(r"&([A-Za-z][\w.-]*);")
_OWN = {"amp", "lt", "gt", "quot", "apos"}
_SPACE = re.compile(r"""\s(xmlns(?::[\w.-]+)?\s*=\s*(?:"[^"]*"|'[^']*'))""")
_BAD = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff\ud800-\udfff]")
_TAG = re.compile(r"<(/?)[A-Za-z_:][^<>]*?(/?)>")


class Piece(NamedTuple):
    """An element of the file with its line and its text as it stands there."""

    element: ElementTree.Element
    line: int
    raw: str


def pieces(stream: Stream, report: Report, *names: str) -> Iterator[Piece]:
    """Every outermost element with one of the names (without prefix), one after another."""
    alternatives = "|".join(map(re.escape, names))
    token = re.compile(  # begins with what is rare, so that text between tags is passed over at once
        rf"<(?:!--.*?-->|!\[CDATA\[.*?\]\]>|(/?)((?:[\w.-]+:)?(?:{alternatives}))(?=[\s/>])(?:[^<>\"']|\"[^\"]*\"|'[^']*')*?(/?)>)",
        re.S,
    )
    opening = re.compile(rf"<(?:[\w.-]+:)?(?:{alternatives})(?=[\s/>])")
    spaces, buffer, line, scanned = "", "", 1, False
    lines = stream.lines()
    ended = False
    while not ended:
        block = []
        size = 0
        for text in lines:
            block.append(text)
            size += len(text)
            if size > 1 << 20:
                break
        else:
            ended = True
        buffer += "".join(block)
        if not scanned:
            spaces = _prolog(buffer, opening, report)
            scanned = bool(spaces) or bool(opening.search(buffer))
        at = depth = start = counted = 0
        for found in token.finditer(buffer):
            if found[2] is None:
                continue
            if found[1]:
                depth = max(depth - 1, 0)
            elif not found[3]:
                depth += 1
                if depth == 1:
                    start = found.start()
            elif depth == 0:
                start = found.start()
            if depth == 0 and (found[1] or found[3]) and start >= at:
                raw = buffer[start : found.end()]
                line += buffer.count("\n", counted, start)
                counted = start
                at = found.end()
                element = parse(raw, spaces, report, line)
                if element is not None:
                    yield Piece(element, line, raw)
        # what is left begins with an open record, a comment, or nothing of use; a record that never ends is dropped
        keep = start if depth else max(at, _tail(buffer, at))
        line += buffer.count("\n", counted, keep)
        buffer = buffer[keep:]
        if len(buffer) > LARGEST or (ended and depth):
            report.problem(line, f"the element <{names[0]}> that begins here never ends; it was left out", buffer[:200])
            buffer = buffer[len(buffer) if len(buffer) > LARGEST else 1 :]
            if ended and (again := opening.search(buffer)):  # what stands inside it may still be read
                inner = Stream.of(buffer[again.start() :], report)
                line += buffer.count("\n", 0, again.start())
                for piece in pieces(inner, Report(), *names):
                    yield Piece(piece.element, piece.line + line - 1, piece.raw)
            buffer = ""


def _tail(buffer: str, at: int) -> int:
    """Where text that may be the beginning of a tag or comment starts."""
    comment = buffer.rfind("<!--", at)
    if comment >= 0 and buffer.find("-->", comment) < 0:
        return comment
    last = buffer.rfind("<", at)
    return last if last >= 0 and buffer.find(">", last) < 0 else len(buffer)


def _prolog(buffer: str, opening: re.Pattern[str], report: Report) -> str:
    """Namespaces declared above the records; entities declared there are reported."""
    first = opening.search(buffer)
    above = buffer[: first.start() if first else 20_000]
    declared = above.find("<!ENTITY")
    if declared >= 0:
        report.problem(
            above.count("\n", 0, declared) + 1,
            "the file declares entities of its own; they are refused and stay as written", above[declared : declared + 80],
        )  # fmt: skip
    return " ".join(dict.fromkeys(_SPACE.findall(above[:20_000])))


def parse(raw: str, spaces: str, report: Report, line: int) -> ElementTree.Element | None:
    """An element of the file parsed by itself; None, with a problem, when it is not well-formed."""
    text = _BAD.sub(" ", raw)
    if "&" in text:
        text = _ENTITY.sub(_entity, text)
    head = text[: text.find(">") + 1]
    wrapper = f"<_ {spaces}>"
    depth = deepest = 0
    for closing, empty in _TAG.findall(text) if text.count("<") > DEEPEST * 2 else ():
        depth += -1 if closing else 0 if empty else 1
        deepest = max(deepest, depth)
    if deepest > DEEPEST:
        report.problem(line, f"elements nested more than {DEEPEST} deep; this record was left out", head)
        return None
    try:
        return _without_spaces(ElementTree.fromstring(f"{wrapper}{text}</_>")[0])
    except ElementTree.ParseError as error:
        prefixes = set(re.findall(r"[</\s]([A-Za-z_][\w.-]*):[\w.-]+", text)) - {"xml", "xmlns"}
        known = set(re.findall(r"xmlns:([\w.-]+)", wrapper + text))
        if "prefix" in str(error) and prefixes - known:
            extra = " ".join(f'xmlns:{p}="urn:unknown:{p}"' for p in sorted(prefixes - known))
            return parse(raw, f"{spaces} {extra}", report, line)
        at = line + max(error.position[0] - 1, 0)
        report.problem(at, "this record is not well-formed XML and was left out; check its tags", head)
        return None


def _entity(found: re.Match[str]) -> str:
    """A named character of HTML as itself; any other entity stays as written."""
    name = found[1]
    if name in _OWN:
        return found[0]
    return html.entities.html5.get(f"{name};") or f"&amp;{name};"


def _without_spaces(root: ElementTree.Element) -> ElementTree.Element:
    """The element with its names, and those within it, free of namespaces: readers know where they are."""
    for element in root.iter():
        tag = element.tag
        if tag[:1] == "{":
            element.tag = tag[tag.index("}") + 1 :]
    return root


def all_named(element: ElementTree.Element, *path: str) -> list[ElementTree.Element]:
    """Descendants along a path of names; each step is any depth below the one before."""
    found = [element]
    for name in path:
        found = [e for parent in found for e in parent.iter(name) if e is not parent]
    return found


def children(element: ElementTree.Element, name: str) -> list[ElementTree.Element]:
    """Children of one name."""
    return element.findall(name)


def text_of(element: ElementTree.Element | None) -> str:
    """All text of an element, white space folded."""
    if element is None:
        return ""
    text = "".join(element.itertext()) if len(element) else element.text or ""
    return " ".join(text.split())


def first_text(element: ElementTree.Element, *path: str) -> str:
    """The text of the first element along a path, empty when there is none."""
    if len(path) == 1:
        for found in element.iter(path[0]):
            if found is not element:
                return text_of(found)
        return ""
    several = all_named(element, *path)
    return text_of(several[0]) if several else ""
