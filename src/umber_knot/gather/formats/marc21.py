"""MARC 21 in its binary exchange form (ISO 2709), in UTF-8 or MARC-8, record by record."""

from __future__ import annotations

import logging
import operator
from collections.abc import Iterator
from typing import Any

from umber_knot.corpus.model import RawRecord
from umber_knot.gather.encoding import find_encoding
from umber_knot.gather.formats._marc import record_of
from umber_knot.gather.stream import Head, Report, Stream

NAME = "MARC 21"
UNIT = "record"
_END = b"\x1d"
_LONGEST = 1_000_000  # a record's own limit is 99,999 bytes; some exports exceed it
_BLOCK = 1 << 18


def sniff(head: Head) -> float:
    """How surely this is MARC 21, 0 to 1: five digits of length, and the marks between fields."""
    data = head.data.lstrip(b"\r\n\xef\xbb\xbf")
    return (
        0.99 if data[:5].isdigit() and data[20:22] == b"45" else 0.6 if data[:5].isdigit() and b"\x1e" in data else 0.0
    )


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """Records one by one, numbered from 1; one that does not parse is reported and left out."""
    logging.getLogger("pymarc").setLevel(logging.CRITICAL)  # we report what it logs
    import warnings

    from pymarc import Record
    from pymarc.exceptions import PymarcException

    for number, data in enumerate(_split(stream, report), 1):
        try:
            with warnings.catch_warnings():
                warnings.simplefilter("ignore")
                marc: Any = Record(
                    data, to_unicode=True, utf8_handling="replace", hide_utf8_warnings=True, **_encoded(data)
                )
        except (
            PymarcException,
            ValueError,
            IndexError,
            KeyError,
            AttributeError,
            UnicodeError,
            AssertionError,
        ) as error:
            why = str(error).split("\n")[0] or "its directory does not fit its fields"
            report.problem(
                number, f"the record cannot be read ({why[:80]}) and was left out", data[:80].decode("latin-1")
            )
            continue
        yield record_of(marc, number, str(marc), report)


def _encoded(data: bytes) -> dict[str, Any]:
    """How a record's letters are to be read where its leader says MARC-8 and they are something else: UTF-8, or letters
    of a code page, which stand side by side, while MARC-8 puts a mark before a plain letter."""
    if data[9:10] == b"a" or data.isascii():
        return {}
    try:
        data.decode("utf-8")
        return {"force_utf8": True}
    except UnicodeDecodeError:
        pass
    high = [ch > 127 for ch in data]
    together = sum(map(operator.and_, high, high[1:]))
    if b"\x1b" in data or together < 0.6 * sum(high):
        return {}
    return {"file_encoding": find_encoding(data)}


def _split(stream: Stream, report: Report) -> Iterator[bytes]:
    """The bytes of each record, up to and with its end mark."""
    rest, number, done = b"", 0, 0
    with stream.open() as file:
        while data := file.read(_BLOCK):
            done += len(data)
            stream.progress(done)
            *whole, rest = (rest + data).split(_END)
            for one in whole:
                one = one.lstrip(b"\r\n\xef\xbb\xbf \x1a\0")
                if one:
                    number += 1
                    yield one + _END
            if len(rest) > _LONGEST:
                report.problem(number + 1, "no end of record within a million bytes; the file was read up to here")
                return
    if rest.strip(b"\r\n \x1a\0"):
        report.problem(
            number + 1,
            "the last record has no end mark; the file may be cut short. It was left out",
            rest[:80].decode("latin-1"),
        )
