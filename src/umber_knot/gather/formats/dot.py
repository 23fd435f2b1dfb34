"""DOT networks: statements of items and ties, subgraphs, attributes."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any

from umber_knot.corpus.model import RawRecord
from umber_knot.errors import UserError
from umber_knot.gather.formats._network import Graph, Tie, label_of, records_of
from umber_knot.gather.stream import Head, Report, Stream

NAME = "DOT"
LARGEST = 100_000_000
MOST_PAIRS = 1_000_000  # ties that one statement between two groups may make
DEEPEST = 100
_TOKEN = re.compile(
    r'\s+|//[^\n]*|/\*.*?\*/|^#[^\n]*|"((?:[^"\\]|\\.)*)"|(->|--|[{}\[\];,=:])|(<(?:[^<>]|<[^<>]*>)*>)|([\w.\u0080-\U0010ffff-]+?(?=--|->)|[\w.\u0080-\U0010ffff]+|-[\d.]+)|(.)',
    re.S | re.M,
)


def sniff(head: Head) -> float:
    """How surely this is DOT, 0 to 1."""
    return (
        0.93
        if re.match(
            r"(?:\s|//[^\n]*\n|/\*.*?\*/|#[^\n]*\n)*(?:strict\s+)?(?:di)?graph\b[^{\[]*\{", head.text, re.S | re.I
        )
        else 0.0
    )


def graph(stream: Stream, report: Report) -> Graph:
    """The network as the file has it."""
    parser = _Parser(stream.whole(LARGEST, "DOT"), report)
    parser.run()
    items = {
        name: (label_of(name, facts), {k: v for k, v in facts.items() if k != "label"}, line)
        for name, (facts, line) in parser.items.items()
    }
    return Graph(items, iter(parser.ties))


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """The network as records of ties."""
    yield from records_of(stream, report, graph(stream, report))


class _Parser:
    """Reads statements one after another; groups in braces are kept on a stack."""

    def __init__(self, text: str, report: Report) -> None:
        self.text, self.report = text, report
        self.items: dict[str, tuple[dict[str, Any], int]] = {}
        self.ties: list[Tie] = []
        self.tokens = list(self._tokens())
        self.at = 0
        self.tying = False  # whether a tie mark waits for what comes next

    def _tokens(self) -> Iterator[tuple[str, str, int]]:
        line, counted = 1, 0
        for found in _TOKEN.finditer(self.text):
            quoted, mark, markup, word, other = found.groups()
            if quoted is None and mark is None and markup is None and word is None and other is None:
                continue
            line += self.text.count("\n", counted, found.start())
            counted = found.start()
            if mark:
                yield "mark", mark, line
            elif other:
                self.report.problem(line, f"{other!r} means nothing in DOT; it was passed over")
            else:
                text = re.sub(r"\\(.)", lambda m: " " if m[1] in "nlr" else m[1], quoted) if quoted is not None else ""
                yield (
                    "id",
                    " ".join(
                        (
                            text
                            if quoted is not None
                            else re.sub(r"<[^<>]*>", "", (markup or "")[1:-1])
                            if markup
                            else word or ""
                        ).split()
                    ),
                    line,
                )

    def run(self) -> None:
        """The whole text."""
        opening = next((k for k, (kind, value, _) in enumerate(self.tokens) if (kind, value) == ("mark", "{")), None)
        if opening is None:
            raise UserError("no graph begins in this file", cure="Export it again")
        directed = any(value.lower() == "digraph" for _, value, _ in self.tokens[:opening])
        self.at = opening + 1
        depth = self._statements(directed)
        if depth:
            self.report.problem(self.tokens[-1][2], "a brace is never closed; the file may be cut short")

    def _statements(self, directed: bool) -> int:
        """Statements up to the last brace; returns how many braces stay open."""
        groups: list[set[str]] = [set()]
        left: list[list[str] | None] = [None]  # what stands before the tie mark in hand, one a group
        way: list[bool] = [directed]
        while self.at < len(self.tokens) and groups:
            kind, value, line = self.tokens[self.at]
            self.at += 1
            if value == "{" and kind == "mark":
                if len(groups) > DEEPEST:
                    raise UserError(
                        f"groups nested more than {DEEPEST} deep", place=f"line {line}", cure="Export it again"
                    )
                if not self.tying:
                    left[-1] = None
                self.tying = False
                groups.append(set())
                left.append(None)
                way.append(directed)
            elif value == "}" and kind == "mark":
                inner = groups.pop()
                left.pop()
                way.pop()
                if groups:
                    groups[-1] |= inner
                    self._ends(sorted(inner), left, way, line)
            elif value in ("--", "->") and kind == "mark":
                way[-1] = value == "->"
                self.tying = left[-1] is not None
                if not self.tying:
                    self.report.problem(line, "a tie without a beginning; it was left out")
            elif value in (";", ",") and kind == "mark":
                left[-1] = None
            elif value == "[" and kind == "mark":
                self._attributes()
            elif kind == "id":
                self._identifier(value, line, groups, left, way)
        return len(groups)

    def _identifier(
        self, value: str, line: int, groups: list[set[str]], left: list[list[str] | None], way: list[bool]
    ) -> None:
        following = self.tokens[self.at][1] if self.at < len(self.tokens) else ""
        if value.lower() in ("node", "edge", "graph") and following == "[":
            self._skip()
            return
        if value.lower() == "subgraph":
            if self.at < len(self.tokens) and self.tokens[self.at][0] == "id":
                self.at += 1
            return
        if following == "=":
            self.at += 2
            return
        while following == ":":  # a port
            self.at += 2
            following = self.tokens[self.at][1] if self.at < len(self.tokens) else ""
        if not self.tying:
            left[-1] = None
        self.tying = False
        self.items.setdefault(value, ({}, line))
        groups[-1].add(value)
        before = len(self.ties)
        self._ends([value], left, way, line)
        if following == "[":
            facts = self._skip()
            made = len(self.ties) - before
            if made:
                self.ties[-made:] = [t._replace(facts=facts) for t in self.ties[-made:]]
            else:
                self.items[value][0].update(facts)

    def _ends(self, here: list[str], left: list[list[str] | None], way: list[bool], line: int) -> None:
        """Tie what stands before the mark in hand to what stands here, and hold this for the next."""
        start = left[-1]
        if start is not None:
            if len(start) * len(here) > MOST_PAIRS:
                raise UserError(
                    f"one statement makes more than {MOST_PAIRS:,} ties",
                    place=f"line {line}",
                    cure="Write the ties out",
                )
            self.ties += [
                Tie(a, b, way[-1], line, f"{a} {'->' if way[-1] else '--'} {b}\n") for a in start for b in here
            ]
        left[-1] = here

    def _attributes(self) -> dict[str, str]:
        """The list after an opening bracket that was just read."""
        found: dict[str, str] = {}
        while self.at < len(self.tokens) and self.tokens[self.at][1] != "]":
            kind, name, _ = self.tokens[self.at]
            self.at += 1
            if kind == "id" and self.at + 1 < len(self.tokens) and self.tokens[self.at][1] == "=":
                found[name] = self.tokens[self.at + 1][1]
                self.at += 2
        self.at += 1
        return found

    def _skip(self) -> dict[str, str]:
        self.at += 1
        return self._attributes()
