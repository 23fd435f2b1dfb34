"""A Maildir: a folder in which every message is a file."""

from __future__ import annotations

from collections.abc import Iterator

from umber_knot.corpus.model import RawRecord
from umber_knot.gather.stream import Head, Report, Stream

NAME = "Maildir"
UNIT = "message"
LARGEST = 30_000_000


def sniff(head: Head) -> float:
    """How surely this is a Maildir, 0 to 1."""
    return 1.0 if head.folder else 0.0


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """Messages one by one, numbered in the order of their file names; links out of the folder are not followed."""
    from umber_knot.gather.formats._mail import record_of

    assert stream.path is not None
    files = sorted((f for part in ("cur", "new") for f in (stream.path / part).iterdir()), key=lambda f: f.name)
    for number, file in enumerate(files, 1):
        stream.progress(number)
        if file.is_symlink() or not file.is_file():
            report.problem(number, f"{file.name} is no file of its own; it was left out")
            continue
        try:
            with file.open("rb") as opened:
                data = opened.read(LARGEST)
        except OSError as error:
            report.problem(number, f"{file.name} cannot be read ({error.strerror}); it was left out")
            continue
        record = record_of(data, number, report)
        if record is not None:
            record.extra = {**record.extra, "file": file.name}
            yield record
