"""CQL, the query language of SRU: words, indexes with relations, and, or, not, parentheses (OASIS searchRetrieve 5)."""

from __future__ import annotations

import re
from collections.abc import Callable

from umber_knot.corpus.letters import plain_words
from umber_knot.corpus.model import RawRecord

Test = Callable[[RawRecord], bool]
_TOKEN = re.compile(r'\s*(?:"((?:[^"\\]|\\.)*)"|(<=|>=|<>|==|[()=<>])|([^\s()=<>"]+))')
_RELATIONS = ("=", "==", "<>", "<", ">", "<=", ">=", "any", "all", "exact", "adj", "within")
DEEPEST = 50


class QueryError(ValueError):
    """A query that is no CQL; the message says where."""


def parse(query: str) -> Test:
    """A test of records for a query."""
    tokens: list[tuple[str, bool]] = []
    at = 0
    query = query.strip()
    while at < len(query):
        found = _TOKEN.match(query, at)
        if not found:
            raise QueryError(f"a quotation mark is never closed: {query[at:]}")
        quoted, mark, word = found.groups()
        tokens.append((re.sub(r"\\(.)", r"\1", quoted), True) if quoted is not None else (mark or word, False))
        at = found.end()
    parser = _Parser(tokens)
    test = parser.clause(0)
    if parser.tokens:
        raise QueryError(f"nothing can follow here: {parser.tokens[0][0]}")
    return test


class _Parser:
    def __init__(self, tokens: list[tuple[str, bool]]) -> None:
        self.tokens = tokens

    def clause(self, depth: int) -> Test:
        """Clauses joined by and, or, not, from left to right."""
        if depth > DEEPEST:
            raise QueryError("parentheses nested too deeply")
        test = self.one(depth)
        while self.tokens and not self.tokens[0][1] and self.tokens[0][0].lower() in ("and", "or", "not"):
            word = self.tokens.pop(0)[0].lower()
            test = _joined(word, test, self.one(depth))
        return test

    def one(self, depth: int) -> Test:
        """A term, an index with its relation and term, or a clause in parentheses."""
        if not self.tokens:
            raise QueryError("a term is missing at the end")
        word, quoted = self.tokens.pop(0)
        if word == "(" and not quoted:
            test = self.clause(depth + 1)
            if not self.tokens or self.tokens.pop(0) != (")", False):
                raise QueryError("a parenthesis is never closed")
            return test
        if not quoted and word in ("(", ")", *_RELATIONS[:7]):
            raise QueryError(f"a term was expected, not {word}")
        if self.tokens and not self.tokens[0][1] and self.tokens[0][0].lower() in _RELATIONS:
            relation = self.tokens.pop(0)[0].lower()
            if not self.tokens:
                raise QueryError(f"a term is missing after {word} {relation}")
            return _search(word, relation, self.tokens.pop(0)[0])
        return _search("cql.anywhere", "=", word)


def _joined(word: str, a: Test, b: Test) -> Test:
    if word == "and":
        return lambda r: a(r) and b(r)
    return (lambda r: a(r) or b(r)) if word == "or" else (lambda r: a(r) and not b(r))


def _search(index: str, relation: str, term: str) -> Test:
    name = index.lower().rpartition(".")[2]
    if name in ("date", "year"):
        return _dated(relation, term)
    fields: dict[str, Callable[[RawRecord], list[str]]] = {
        "title": lambda r: [r.title],
        "creator": lambda r: list(r.persons),
        "author": lambda r: list(r.persons),
        "subject": lambda r: list(r.keywords),
        "identifier": lambda r: [r.entry, r.doi],
        "publisher": lambda r: [r.venue],
        "anywhere": lambda r: [r.title, *r.persons, *r.keywords, r.venue, r.abstract, str(r.year), r.doi],
        "serverchoice": lambda r: [r.title, *r.persons, *r.keywords, r.venue, str(r.year)],
        "allrecords": lambda r: [""],
    }
    if name not in fields:
        raise QueryError(f"no index is called {index}; there are title, creator, subject, date, identifier")
    get = fields[name]
    if name == "allrecords":
        return lambda r: True
    words = plain_words(term).split()
    if relation in ("==", "exact"):
        return lambda r: any(plain_words(t) == plain_words(term) for t in get(r))
    if relation == "any":
        return lambda r: bool({*words} & {w for t in get(r) for w in plain_words(t).split()})
    if relation == "all":
        return lambda r: {*words} <= {w for t in get(r) for w in plain_words(t).split()}
    if relation in ("=", "adj"):
        phrase = f" {' '.join(words)} "
        return lambda r: any(phrase in f" {plain_words(t)} " for t in get(r))
    raise QueryError(f"the relation {relation} makes no sense for {index}")


def _dated(relation: str, term: str) -> Test:
    years = [int(y) for y in re.findall(r"\d{4}", term)]
    if not years:
        raise QueryError(f"{term!r} is no year")
    low, high = years[0], years[-1]
    tests: dict[str, Test] = {
        "<": lambda r: 0 < r.year < low,
        ">": lambda r: r.year > low,
        "<=": lambda r: 0 < r.year <= low,
        ">=": lambda r: r.year >= low,
        "<>": lambda r: r.year != low,
        "within": lambda r: low <= r.year <= high,
    }
    return tests.get(relation, lambda r: r.year == low)
