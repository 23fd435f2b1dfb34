"""A mailbox in one file (mbox), message by message."""

from __future__ import annotations

import re
from collections.abc import Iterator

from umber_knot.corpus.model import RawRecord
from umber_knot.gather.stream import Head, Report, Stream

NAME = "mbox"
#: A message larger than this is cut: it carries attachments, whose bytes say nothing here.
LARGEST = 30_000_000
BLOCK = 1 << 22
_FROM = re.compile(rb"^From \S+.*\d", re.M)
_BEGIN = re.compile(rb"\nFrom \S[^\n]*\d[^\n]*\n")


def sniff(head: Head) -> float:
    """How surely this is a mailbox, 0 to 1."""
    return 0.98 if _FROM.match(head.data) else 0.0


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """Messages one by one, with the line each begins on."""
    from umber_knot.gather.formats._mail import record_of

    for data, line in _messages(stream, report):
        record = record_of(data, line, report)
        if record is not None:
            yield record


def _messages(stream: Stream, report: Report) -> Iterator[tuple[bytes, int]]:
    """(bytes, first line) of each message: it begins with a From line after a blank one."""
    buffer, line, done, ended = b"\n\n", -2, 0, False  # line: number of line ends before the buffer
    with stream.open() as file:
        while not ended:
            block = file.read(BLOCK)
            done += len(block)
            ended = not block
            buffer += block
            begins = [(found.start(), found.end()) for found in _BEGIN.finditer(buffer)]
            begins = [(a, b) for a, b in begins if buffer[a - 1 : a] == b"\n" or buffer[a - 2 : a] == b"\n\r"]
            counted = 0
            ends = [start for start, _ in begins[1:]] + ([len(buffer)] if ended else [])
            for (_, at), end in zip(begins, ends):
                line += buffer.count(b"\n", counted, at)
                counted = at
                data = buffer[at:end]
                if len(data) > LARGEST:
                    report.problem(
                        line + 1, f"the message is larger than {LARGEST:,} bytes; the rest of it was left out"
                    )
                    data = data[:LARGEST]
                yield data.replace(b"\n>From ", b"\nFrom "), line + 1
            if begins and not ended:  # the last message may go on
                last = begins[-1][0] - 1
                line += buffer.count(b"\n", counted, last)
                buffer = buffer[last:]
            stream.progress(done)
