"""A single mail message in a file (EML)."""

from __future__ import annotations

import re
from collections.abc import Iterator

from umber_knot.corpus.model import RawRecord
from umber_knot.gather.stream import Head, Report, Stream

NAME = "email message"
_HEADERS = re.compile(
    rb"^(From|To|Subject|Date|Message-ID|MIME-Version|Received|Return-Path|Delivered-To|X-[\w-]+):", re.M | re.I
)
LARGEST = 100_000_000


def sniff(head: Head) -> float:
    """How surely this is a message, 0 to 1: its first lines are headers."""
    top = re.split(rb"\r?\n\r?\n", head.data, maxsplit=1)[0]
    if not re.match(rb"[A-Za-z][\w-]*:", head.data):
        return 0.0
    names = {name.lower() for name in _HEADERS.findall(top)}
    return (
        0.93 if b"from" in names and len(names) >= 3 else 0.3 if len(names) >= 2 and head.name.endswith(".eml") else 0.0
    )


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """The message."""
    from umber_knot.gather.formats._mail import record_of

    record = record_of(stream.contents(LARGEST, "one message"), 1, report)
    if record is not None:
        yield record
