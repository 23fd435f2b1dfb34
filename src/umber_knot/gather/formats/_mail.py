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
_FORWARDED = re.compile(r"^\*?(?:from|von|de|da)\s?:\*? .*\S", re.I)
_HEADER = re.compile(
    r"^\*?(?:sent|date|to|cc|subject|gesendet|datum|an|betreff|envoyé|à|objet|enviado|para|asunto)\s?:\*? ?\S", re.I
)
_RULE = re.compile(r"^\s*(?:_{8,}|-{8,}|={8,}|\*{8,}|~{8,})\s*$")
_LIST = re.compile(
    r"mailing[- ]?list|unsubscribe|listinfo|subscri|sponsored by|list archive|to post to|\w@lists?\.|listserv|digest",
    re.I,
)
FOOTER = 16  # lines that a list adds at most
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
    references, answered = (_ids(headers, name) for name in ("references", "in-reply-to"))
    # a reply names what it answers; some also say whose message that was, with an address
    parent = (
        next((i for i in answered if i in references), "") or (references or answered or [""])[-1 if references else 0]
    )
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
        extra={"thread": (references or [parent])[0], "in reply to": parent} if parent else {},
    )
    dated(record, [_day(header(headers, "date"))], report)
    return record


def _ids(headers: Headers, name: str) -> list[str]:
    """The identifiers of messages in a header, those that it breaks over lines made whole."""
    text = " ".join(headers.get(name, ()))
    found = ["".join(one.split()) for one in re.findall(r"<([^<>]{1,300})>", text)]
    return found or [word.strip(",;") for word in text.split() if re.fullmatch(r"[^\s@\"']+@[^\s@\"']+", word)]


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
    return "\n".join(_without_header(_without_footer(kept))).strip()


def _without_footer(lines: list[str]) -> list[str]:
    """A text without what a mailing list put below it: a rule, and lines that say where to subscribe."""
    while lines and not lines[-1].strip():
        lines = lines[:-1]
    for k in range(len(lines) - 1, max(len(lines) - FOOTER, -1), -1):
        if _RULE.match(lines[k]):
            below = "\n".join(lines[k + 1 :])
            if not below.strip() or _LIST.search(below):
                return _without_footer(lines[:k])
    return lines


def _without_header(lines: list[str]) -> list[str]:
    """A text up to the message it answers, which some programs put below it after a few of its headers."""
    for k, line in enumerate(lines):
        if _FORWARDED.match(line) and any(text.strip() for text in lines[:k]):
            below = [text for text in lines[k + 1 : k + 8] if text.strip()][:4]
            if sum(bool(_HEADER.match(text)) for text in below) >= 2:
                return lines[:k]
    return lines


def paragraphs(text: str) -> list[str]:
    """Blocks of text between blank lines, each on one line."""
    return [" ".join(block.split()) for block in re.split(r"\n\s*\n", text) if block.strip()]
