"""One mail message as a record: sender and recipients as people, its own words as passages."""

from __future__ import annotations

import contextlib
import email
import email.header
import email.utils
import html
import re
from email.errors import MessageError
from email.message import Message

from umber_knot.corpus.model import Passage, RawRecord
from umber_knot.gather.fields import dated
from umber_knot.gather.stream import Report

Headers = dict[str, list[str]]  # name in lower case → values

#: Bytes of a message whose body is read; attachments make messages large, not words.
LONGEST_BODY = 2_000_000
_REPLY = re.compile(r"^\s*(?:(?:re|fwd?|aw|wg|sv|vs|antw|tr|rv)\s*(?:\[\d+\])?\s*:\s*)+", re.I)
_ATTRIBUTION = re.compile(
    r"^(?:on|am|le|el|il|op|den|em)\b.{0,200}\b(?:wrote|writes|schrieb|a écrit|escribió|ha scritto|schreef|skrev|escreveu)\b.{0,80}:\s*$",
    re.I | re.S,
)
_ORIGINAL = re.compile(
    r"^-{2,}\s*(?:original message|forwarded message|ursprüngliche nachricht|message d'origine)", re.I
)
_FORWARDED = re.compile(r"^(?:from|von|de|da): .*\S", re.I)
_TAGS = re.compile(r"<(?:script|style)\b.*?</(?:script|style)>|<!--.*?-->", re.S | re.I)
_BREAKS = re.compile(r"<(?:br|/p|/div|/tr|/li|/h\d)\b[^>]*>", re.I)


def record_of(data: bytes, line: int, report: Report) -> RawRecord | None:
    """The record of a message's bytes; None, with a problem, when it has neither sender nor recipient nor text."""
    try:
        message = email.message_from_bytes(data)
    except (ValueError, LookupError, RecursionError) as error:
        report.problem(
            line, f"the message cannot be read ({str(error)[:80]}) and was left out", data[:100].decode("latin-1")
        )
        return None
    headers: Headers = {}
    for name, value in message.items():
        headers.setdefault(name.lower(), []).append(str(value))
    senders = people(headers, "from") or people(headers, "sender")
    to, copies = people(headers, "to"), people(headers, "cc")
    subject = header(headers, "subject")
    if not senders and not to and not subject:
        report.problem(
            line, "a message without sender, recipient or subject; it was left out", data[:100].decode("latin-1")
        )
        return None
    body = body_of(message)
    references = re.findall(r"<[^<>\s]{1,300}>", f"{header(headers, 'references')} {header(headers, 'in-reply-to')}")
    number = header(headers, "message-id").strip()
    others = [
        ("person", role, name)
        for role, found in (("sender", senders), ("recipient", to), ("copy", copies))
        for name, _ in found
    ]
    record = RawRecord(
        line=line,
        raw=_head(data),
        entry=number.strip("<>"),
        type="email",
        title=_REPLY.sub("", subject).strip() or "(no subject)",
        others=list(dict.fromkeys(others)),
        known_as={name: f"mailto:{address}" for name, address in senders + to + copies if address},
        passages=[Passage(p, line) for p in paragraphs(body)],
        identifiers=[f"mid:{number.strip('<>')}"] if number else (),
        extra={"thread": references[0].strip("<>"), "in reply to": references[-1].strip("<>")} if references else {},
    )
    dated(record, [_day(header(headers, "date"))], report)
    return record


def _head(data: bytes) -> str:
    """The message as it stands, attachments cut off."""
    return data[: LONGEST_BODY if len(data) < 200_000 else 20_000].decode("utf-8", "replace").replace("\r\n", "\n")


def header(headers: Headers, name: str) -> str:
    """A header decoded, folded to one line."""
    found = headers.get(name)
    if not found:
        return ""
    text = found[0]
    if "=?" in text:
        try:
            text = str(email.header.make_header(email.header.decode_header(text)))
        except (ValueError, LookupError, MessageError):
            text = found[0]
    return " ".join(text.encode("utf-8", "replace").decode("utf-8").split())


#: Names with addresses as nearly all mail writes them; anything else goes to the library's slower parser.
_PLAIN = re.compile(r'\s*(?:"([^"\\<>]*)"|([^",<>@()\[\]:;\\]*?))\s*<([^<>@\s]+@[^<>@\s]+)>\s*(?:,|$)')


def people(headers: Headers, name: str) -> list[tuple[str, str]]:
    """(form, address) of everyone in a header: the display name where there is one, else the address."""
    found = []
    for shown, address in _addresses(headers.get(name, [])):
        if "=?" in shown:
            with contextlib.suppress(ValueError, LookupError, MessageError):
                shown = str(email.header.make_header(email.header.decode_header(shown)))
        shown = " ".join(shown.encode("utf-8", "replace").decode("utf-8").split()).strip("'\" ")
        address = address.strip().lower() if "@" in address else ""
        form = shown if shown and shown.lower() != address else address
        if any(ch.isalnum() for ch in form):
            found.append((form, address))
    return list(dict.fromkeys(found))


def _addresses(values: list[str]) -> list[tuple[str, str]]:
    found: list[tuple[str, str]] = []
    for value in values:
        at = 0
        several = []
        while at < len(value) and (one := _PLAIN.match(value, at)):
            several.append((one[1] or one[2] or "", one[3]))
            at = one.end()
        found += several if at >= len(value) else email.utils.getaddresses([value])
    return found


def _day(text: str) -> str:
    """A mail date as year, month and day; as written when it is not one."""
    found = email.utils.parsedate(text)
    return f"{found[0]:04}-{found[1]:02}-{found[2]:02}" if found and 1000 <= found[0] <= 2099 else text


def body_of(message: Message) -> str:
    """The words of a message itself: its plain text, else its HTML as text."""
    best = ""
    for part in message.walk():
        main, _, kind = part.get_content_type().partition("/")
        if main != "text" or kind not in ("plain", "html") or (kind == "html" and best) or part.get_filename():
            continue
        data = part.get_payload(decode=True)
        if not isinstance(data, bytes):
            continue
        try:
            text = data[:LONGEST_BODY].decode(part.get_content_charset() or "utf-8", "replace")
        except (LookupError, ValueError):
            text = data[:LONGEST_BODY].decode("utf-8", "replace")
        if kind == "plain":
            return own_words(text)
        best = own_words(html.unescape(re.sub(r"<[^<>]*>", "", _BREAKS.sub("\n", _TAGS.sub("", text)))))
    return best


def own_words(text: str) -> str:
    """The text without what it quotes and without its signature."""
    kept: list[str] = []
    lines = text.replace("\r\n", "\n").split("\n")
    for k, line in enumerate(lines):
        first = line[:1]
        if first == "-":
            if k > 0 and line.rstrip("\r") in ("-- ", "--"):
                break
            if _ORIGINAL.match(line):
                break
        elif first == "_" and line.startswith("____") and k + 1 < len(lines) and _FORWARDED.match(lines[k + 1]):
            break
        elif first not in (">", " ", "\t"):
            kept.append(line)
            continue
        if line.lstrip().startswith(">"):
            while kept and not kept[-1].strip():
                kept.pop()
            joined = " ".join(kept[-2:]).strip()
            if kept and _ATTRIBUTION.match(kept[-1].strip()):
                kept.pop()
            elif len(kept) > 1 and _ATTRIBUTION.match(joined):
                del kept[-2:]
            continue
        kept.append(line)
    return "\n".join(kept).strip()


def paragraphs(text: str) -> list[str]:
    """Blocks of text between blank lines, each on one line."""
    return [" ".join(block.split()) for block in re.split(r"\n\s*\n", text) if block.strip()]
