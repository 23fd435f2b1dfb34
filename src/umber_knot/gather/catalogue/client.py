"""The questions: how many records answer a query, the first of them, and as many as are wanted.

SRU 2.0 (OASIS searchRetrieve) and OAI-PMH 2.0; politely paced, with what a server says against it passed on.
"""

from __future__ import annotations

import ipaddress
import re
import socket
import time
import urllib.error
import urllib.parse
import urllib.request
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from datetime import UTC, datetime
from email.utils import parsedate_to_datetime
from typing import Any

from umber_knot import __version__
from umber_knot.errors import UserError
from umber_knot.gather.catalogue.question import PROTOCOLS, Question
from umber_knot.gather.formats._xml import Element, first_text, pieces, text_of
from umber_knot.gather.stream import Report, Stream

PAUSE = 0.5  # seconds between two questions to a server elsewhere
TIMEOUT = 30.0
LONGEST_WAIT = 60.0  # seconds that a server may ask us to wait
TRIES = 3
LARGEST = 50_000_000  # bytes of one answer
PAGE = 50
MOST = 1_000_000  # records taken at once


@dataclass(slots=True)
class Answer:
    """One answer: its records as XML, how many there are in all (−1: not said), and where to go on."""

    records: list[str] = field(default_factory=list)
    total: int = -1
    following: str = ""  # position or resumption token


class _Redirects(urllib.request.HTTPRedirectHandler):
    """Goes where a server sends us, but never from outside into this machine or its own network."""

    def redirect_request(self, req: Any, fp: Any, code: int, msg: str, headers: Any, newurl: str) -> Any:
        asked, sent = str(req.origin_req_host), urllib.parse.urlsplit(newurl).hostname or ""
        if sent != asked and _inside(sent) and not _addresses(sent) & _addresses(asked):
            raise urllib.error.URLError(f"it sends us on to {sent}, an address of this machine or its own network")
        return super().redirect_request(req, fp, code, msg, headers, newurl)


def _addresses(host: str) -> set[str]:
    """The addresses of a host; none where it has none."""
    try:
        return {str(found[4][0]) for found in socket.getaddrinfo(host, None)}
    except (OSError, UnicodeError):
        return set()


def _inside(host: str) -> bool:
    """Whether a host is this machine, or stands in a network that is not the public one."""
    return any(not ipaddress.ip_address(address.partition("%")[0]).is_global for address in _addresses(host))


class _Web:
    """Asks addresses, never faster than is polite."""

    def __init__(self, sleep: Callable[[float], None] = time.sleep) -> None:
        self.sleep = sleep
        self._last = 0.0
        # no files, no other schemes, even when a server sends us elsewhere
        self._opener = urllib.request.OpenerDirector()
        for handler in (
            urllib.request.HTTPHandler,
            urllib.request.HTTPSHandler,
            _Redirects,
            urllib.request.HTTPDefaultErrorHandler,
            urllib.request.HTTPErrorProcessor,
            urllib.request.ProxyHandler,
        ):
            self._opener.add_handler(handler())
        self._opener.addheaders = [("User-Agent", f"UmberKnot/{__version__}"), ("Accept", "application/xml, text/xml")]

    def get(self, address: str) -> bytes:
        """The answer's bytes; waits and asks again where the server says so."""
        host = urllib.parse.urlsplit(address).hostname or ""
        pause = 0.0 if host in ("127.0.0.1", "localhost", "::1") else PAUSE
        for attempt in range(TRIES):
            self.sleep(max(0.0, self._last + pause - time.monotonic()))
            self._last = time.monotonic()
            try:
                with self._opener.open(address, timeout=TIMEOUT) as answer:
                    data: bytes = answer.read(LARGEST + 1)
            except urllib.error.HTTPError as error:
                if error.code in (429, 503) and attempt + 1 < TRIES:
                    self.sleep(_wait(error.headers.get("Retry-After", "")))
                    continue
                raise UserError(
                    f"the catalogue answers {error.code} {error.reason}",
                    place=host,
                    cure="Check the address, or ask later",
                ) from error
            except (urllib.error.URLError, OSError, ValueError) as error:
                reason = getattr(error, "reason", error)
                raise UserError(
                    f"the catalogue cannot be reached ({reason})",
                    place=host or address,
                    cure="Check the address and the connection",
                ) from error
            if len(data) > LARGEST:
                raise UserError(f"an answer of more than {LARGEST:,} bytes", place=host, cure="Ask for fewer records")
            return data
        raise AssertionError


def _wait(said: str) -> float:
    """Seconds that a Retry-After header asks for: a number or a date."""
    if said.strip().isdecimal():
        return min(float(said), LONGEST_WAIT)
    try:
        return min(max((parsedate_to_datetime(said) - datetime.now(UTC)).total_seconds(), 1.0), LONGEST_WAIT)
    except (ValueError, TypeError):
        return 5.0


def checked(question: Question) -> Question:
    """The question, if its address is one that may be asked."""
    parts = urllib.parse.urlsplit(question.address.strip())
    if parts.scheme not in ("http", "https") or not parts.hostname:
        raise UserError(
            "the address of a catalogue begins with http:// or https://", place=question.address or "address"
        )
    if question.protocol not in PROTOCOLS:
        raise UserError(f"unknown protocol {question.protocol!r}", cure=f"Choose {' or '.join(PROTOCOLS)}")
    if question.protocol == "SRU" and not question.query.strip():
        raise UserError("SRU needs a query", cure='Write words, or CQL: title = "tide mill" and date > 1990')
    return question


def ask(question: Question, following: str = "", size: int = PAGE, web: _Web | None = None) -> Answer:
    """One answer to a question, from where the last one ended; raises UserError with what the server says against
    it."""
    checked(question)
    web = web or _Web()
    get = _sru if question.protocol == "SRU" else _oai
    return get(question, following, size, web)


def harvest(
    question: Question,
    most: int = MOST,
    told: Callable[[int, int], None] = lambda done, of: None,
    web: _Web | None = None,
) -> Iterator[str]:
    """The records that answer, one after another, at most so many; ``told`` hears (taken, of how many) and may
    raise."""
    web, taken, following = web or _Web(), 0, ""
    seen: set[str] = set()
    while True:
        answer = ask(question, following, min(PAGE, most - taken), web)
        for record in answer.records[: most - taken]:
            taken += 1
            yield record
        told(taken, min(most, answer.total) if answer.total >= 0 else most)
        if not answer.following or taken >= most or answer.following in seen:
            return
        seen.add(answer.following)
        following = answer.following


def collected(records: list[str]) -> str:
    """Records as one XML file, each on lines of its own."""
    return '<?xml version="1.0" encoding="UTF-8"?>\n<records>\n' + "\n".join(records) + "\n</records>\n"


def _sru(question: Question, following: str, size: int, web: _Web) -> Answer:
    start = int(following or 1)
    query = question.query.strip()
    if re.fullmatch(r"[^\W_]+(?:[ -]+[^\W_]+)+", query) and not re.search(r"\b(?:and|or|not|any|all)\b", query, re.I):
        query = " and ".join(query.split())  # plain words are meant together; CQL has no way to say so
    text = _parsed(
        web.get(
            _address(
                question.address,
                {
                    "version": "2.0",
                    "operation": "searchRetrieve",
                    "query": query,
                    "startRecord": str(start),
                    "maximumRecords": str(size),
                    "recordSchema": question.schema or "marcxml",
                    "recordXMLEscaping": "xml",
                },
            )
        )
    )
    answer = Answer()
    for element, _, _ in pieces(Stream.of(text), Report(), "diagnostic"):
        words = "; ".join(t for t in (first_text(element, "message"), first_text(element, "details")) if t)
        raise UserError(
            f"the catalogue does not take this query: {words}", place=question.query, cure="Check its words and indexes"
        )
    total = re.search(r"<(?:[\w.-]+:)?numberOfRecords>\s*(\d+)", text)
    answer.total = int(total[1]) if total else -1
    for element, _, raw in pieces(Stream.of(text), Report(), "recordData"):
        answer.records.append(_inner(element, raw))
    following_ = re.search(r"<(?:[\w.-]+:)?nextRecordPosition>\s*(\d+)", text)
    if following_ and int(following_[1]) > start:
        answer.following = following_[1]
    elif not following_ and answer.records and answer.total >= start + len(answer.records):
        answer.following = str(start + len(answer.records))
    return answer


def _oai(question: Question, following: str, size: int, web: _Web) -> Answer:
    if following:
        asked = {"verb": "ListRecords", "resumptionToken": following}
    else:
        asked = {"verb": "ListRecords", "metadataPrefix": question.schema or "oai_dc"}
        for key, value in re.findall(r"\b(set|from|until):(\S+)", question.query):
            asked[key] = value
        rest = re.sub(r"\b(set|from|until):\S+", "", question.query).strip()
        if rest:
            raise UserError(
                f"OAI-PMH knows no search for {rest!r}",
                cure="Write set:…, from:2001-01-01 or until:2005-12-31, or leave it empty",
            )
    text = _parsed(web.get(_address(question.address, asked)))
    for element, _, _ in pieces(Stream.of(text), Report(), "error"):
        code = element.get("code", "")
        if code == "noRecordsMatch":
            return Answer(total=0)
        raise UserError(
            f"the catalogue answers {code}: {text_of(element)}",
            place=question.address,
            cure="Check set, dates and format",
        )
    answer = Answer()
    for element, _, raw in pieces(Stream.of(text), Report(), "metadata"):
        answer.records.append(_inner(element, raw))
    for element, _, _ in pieces(Stream.of(text), Report(), "resumptionToken"):
        answer.following = text_of(element)
        size_ = element.get("completeListSize", "")
        answer.total = int(size_) if size_.isdecimal() else -1
    if not answer.following and not following:
        answer.total = len(answer.records)
    return answer


def _address(base: str, parameters: dict[str, str]) -> str:
    return base.strip() + ("&" if "?" in base else "?") + urllib.parse.urlencode(parameters)


def _parsed(data: bytes) -> str:
    """An answer as text; one that is no XML is refused with its first words."""
    stream = Stream.of(data)
    if not stream.encoding or "<" not in stream.head.text:
        raise UserError(
            "the answer is not XML", cure="Check that the address is that of the catalogue's SRU or OAI-PMH service"
        )
    if re.match(r"\s*(?:<!doctype html|<html)", stream.head.text, re.I):
        raise UserError(
            "the answer is a web page, not records",
            cure="Check that the address is that of the catalogue's SRU or OAI-PMH service",
        )
    return "".join(stream.lines())


def _inner(element: Element, raw: str) -> str:
    """The record inside its wrapper: as XML, or unpacked when it came as a text."""
    if len(element):
        name = element[0].tag
        found = re.search(rf"<(?:[\w.-]+:)?{re.escape(name)}[\s>/]", raw)
        end = raw.rfind("</")
        return raw[found.start() if found else 0 : end].strip()
    return text_of(element) if not (element.text or "").strip().startswith("<") else (element.text or "").strip()


def titles(records: list[str], schema: str = "") -> list[tuple[str, str, int]]:
    """(title, people, year) of some records, for a preview."""
    from umber_knot.gather.read import read_text

    found = list(read_text(collected(records), "preview.xml")) if records else []
    return [(r.title or "(no title)", "; ".join(r.persons[:3]), r.year) for r in found]
