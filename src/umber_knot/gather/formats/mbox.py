"""A mailbox in one file (mbox), message by message."""

from __future__ import annotations

import re
from collections.abc import Iterator

from umber_knot.corpus.model import RawRecord
from umber_knot.gather.formats._mail import record_of
from umber_knot.gather.stream import Head, Report, Stream

NAME = "mbox"
#: A message larger than this is cut: it carries attachments, whose bytes say nothing here.
LARGEST = 30_000_000
_FROM = re.compile(rb"^From \S+.*\d", re.M)


def sniff(head: Head) -> float:
    """How surely this is a mailbox, 0 to 1."""
    return 0.98 if _FROM.match(head.data) else 0.0


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """Messages one by one, with the line each begins on."""
    for data, line in _messages(stream, report):
        record = record_of(data, line, report)
        if record is not None:
            yield record


def _messages(stream: Stream, report: Report) -> Iterator[tuple[bytes, int]]:
    """(bytes, first line) of each message: it begins with a From line after a blank one."""
    pieces: list[bytes] = []
    size = number = start = done = 0
    blank = True
    cut = False
    with stream.open() as file:
        for line in file:
            number += 1
            done += len(line)
            if blank and line.startswith(b"From ") and _FROM.match(line):
                if pieces:
                    yield b"".join(pieces), start
                    stream.progress(done)
                pieces, size, start, cut = [], 0, number + 1, False
            elif size < LARGEST:
                pieces.append(line[1:] if line.startswith(b">From ") else line)
                size += len(line)
            elif not cut:
                cut = True
                report.problem(start, f"the message is larger than {LARGEST:,} bytes; the rest of it was left out")
            blank = line in (b"\n", b"\r\n")
    if pieces:
        yield b"".join(pieces), start
