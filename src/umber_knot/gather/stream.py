"""Files from strangers as bytes or as text: encoding found, lines bounded, problems collected."""

from __future__ import annotations

import codecs
import contextlib
import gzip
import hashlib
import io
import re
import stat
import zlib
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from threading import Thread
from typing import Any, BinaryIO, cast

from umber_knot.corpus.model import Problem
from umber_knot.errors import UserError
from umber_knot.gather.encoding import OFFERED, find_encoding

#: No honest bibliography has a longer line; one that does is reported and left out.
LONGEST_LINE = 4_000_000
SAMPLE = 256 * 1024
BLOCK = 1 << 18
GZIP = b"\x1f\x8b"
MOST_UNPACKED = 4_000_000_000
#: What splitlines takes for line ends beside ours; a text that holds them is split the slower way.
_OTHER_ENDS = ("\x0b", "\x0c", "\x1c", "\x1d", "\x1e", "\x85", "\u2028", "\u2029")
_MIXED = "not {}: this line was read as Windows Latin; check its accents"
#: Beginnings of files that are no text, and what they are.
MAGIC = {
    b"\x89PNG": "a PNG picture",
    b"\xff\xd8\xff": "a JPEG picture",
    b"GIF8": "a GIF picture",
    b"%PDF": "a PDF document",
    b"PK\x03\x04": "a ZIP archive",
    b"BZh": "a compressed file (bzip2)",
    b"\xfd7zXZ": "a compressed file (xz)",
    b"SQLite format 3": "a database or a study",
    b"\xd0\xcf\x11\xe0": "an office document of the old kind",
}
BINARY = tuple(MAGIC)
_XML_ENCODING = re.compile(r"""<\?xml[^>]*encoding\s*=\s*["']([\w.:-]+)""")


class Report:
    """Collects the problems of one file; a problem has a line, what is wrong with its cure, and an excerpt."""

    MOST = 1000  # beyond this only counted: a broken file must not fill the memory

    def __init__(self) -> None:
        self.problems: list[Problem] = []
        self.unlisted = 0
        self.used: Mapping[str, Any] = {}  # options that were recalled, not given
        self.by_line = True  # whether a record's place is its line
        self.told = ""  # what was recognised, beyond the format: "undirected, 80 items, 1,044 ties"

    def problem(self, line: int, message: str, excerpt: str = "") -> None:
        if len(self.problems) < self.MOST or (line == 0 and len(self.problems) < 2 * self.MOST):  # of the whole file
            self.problems.append(Problem(line, message, " ".join(excerpt.split())[:120]))
        else:
            self.unlisted += 1

    def listed(self) -> tuple[Problem, ...]:
        rest = [Problem(0, f"{self.unlisted:,} more problems of this kind are not listed")] if self.unlisted else []
        return tuple(self.problems + rest)


@dataclass(frozen=True, slots=True)
class Head:
    """The beginning of a source, for telling its format: the file's name, its bytes, and its text when it is text."""

    name: str
    data: bytes
    text: str
    folder: bool = False


class Unpacked(io.RawIOBase):
    """What is in a compressed file, read once from its start: no more than ``MOST_UNPACKED`` bytes, and as far as it is
    whole, with what is wrong reported."""

    def __init__(self, file: BinaryIO, report: Report) -> None:
        self._file, self._report, self._done = file, report, 0
        self._inner = gzip.GzipFile(fileobj=file)

    def readable(self) -> bool:
        return True

    def read(self, size: int = -1, /) -> bytes:
        """Up to ``size`` bytes, all where it is negative."""
        size = MOST_UNPACKED - self._done + 1 if size < 0 else size
        parts, left = [], size
        try:
            while left > 0 and (part := self._inner.read1(min(left, BLOCK))):
                parts.append(part)
                left -= len(part)
        except (EOFError, zlib.error, gzip.BadGzipFile) as error:
            said = f"the compressed file is damaged ({error}); it was read up to there"
            if all(problem.message != said for problem in self._report.problems):  # it is opened more than once
                self._report.problem(0, said)
        self._done += size - left
        if self._done > MOST_UNPACKED:
            raise UserError(f"more than {MOST_UNPACKED:,} bytes are compressed in it", cure="Unpack and split the file")
        return b"".join(parts)

    def readinto(self, buffer: Any, /) -> int:
        data = self.read(len(buffer))
        buffer[: len(data)] = data
        return len(data)

    def close(self) -> None:
        self._inner.close()
        self._file.close()
        super().close()


class Stream:
    """A source opened for reading: as text line by line, or as bytes.

    Attributes: ``name``; ``size`` in bytes; ``head``; ``encoding`` found ("" when it is not text); ``sha256`` of its
    bytes; ``options``, what the scholar chose about how to read it.
    """

    def __init__(
        self,
        path: Path | None,
        report: Report,
        progress: Callable[[int], None] = lambda done: None,
        *,
        data: bytes = b"",
        name: str = "",
        options: Mapping[str, Any] | None = None,
    ) -> None:
        self.path, self.report, self._data = path, report, data
        self._progress = progress
        self.name = name or (path.name if path else "pasted text")
        self.options: Mapping[str, Any] = options or {}
        place = str(path or self.name)
        self.packed = False  # whether it is compressed: what is in it is read
        self.folder = path is not None and path.is_dir()
        if self.folder:  # a Maildir: a folder that is one source
            self.size, self.encoding, self._data = 0, "", b""
            self.head = Head(self.name, b"", "", folder=True)
            self._hashing = Thread(target=self._hash, daemon=True)
            self._hashing.start()
            return
        try:
            told = path.stat() if path else None
            if told is not None and not stat.S_ISREG(told.st_mode):
                raise UserError("this is not a regular file", place=place, cure="Save what it holds as a file")
            self.size = told.st_size if told else len(data)
            with self.open() as file:
                sample = file.read(SAMPLE)
            if sample.startswith(GZIP):
                self.packed = True
                self.name = self.name.removesuffix(".gz")
                with self.open() as file:
                    sample = file.read(SAMPLE)
                if sample.startswith(GZIP) or sample[257:262] == b"ustar":
                    what = "an archive of several files" if sample[257:262] == b"ustar" else "a compressed file again"
                    raise UserError(f"what is compressed is {what}", place=place, cure="Unpack it, and give the files")
        except OSError as error:
            raise UserError(
                f"cannot be read ({error.strerror})", place=place, cure="Check the name and the permissions"
            ) from error
        if not sample.strip():
            raise UserError("the file is empty", place=place, cure="Export it again")
        chosen = str(self.options.get("encoding", ""))
        self.encoding = "" if sample.startswith(BINARY) else chosen if chosen in OFFERED else find_encoding(sample)
        if b"\0" in sample and (self.encoding not in ("utf-16-le", "utf-16-be") or sample.count(0) > 0.7 * len(sample)):
            self.encoding = ""
        text = sample.decode(self.encoding, "replace").lstrip("\ufeff")[:20_000] if self.encoding else ""
        if text.startswith("<?xml") and (declared := _XML_ENCODING.match(text)) and self.encoding != "utf-8":
            with contextlib.suppress(LookupError):
                self.encoding = self.encoding if self.encoding.startswith("utf-16") else codecs.lookup(declared[1]).name
                text = sample.decode(self.encoding, "replace").lstrip("\ufeff")[:20_000]
        self.head = Head(self.name, sample[:20_000], text.replace("\r\n", "\n").replace("\r", "\n"))
        self._hashing = Thread(target=self._hash, daemon=True)  # beside the reading: hashing needs no lock
        self._hashing.start()

    def progress(self, done: int) -> None:
        """So many bytes are read; a compressed file holds more than its size."""
        self._progress(min(done, self.size))

    @classmethod
    def of(
        cls, text: str | bytes, report: Report | None = None, name: str = "", options: Mapping[str, Any] | None = None
    ) -> Stream:
        """A stream over what is in memory already: pasted text, an answer from a catalogue."""
        data = text if isinstance(text, bytes) else text.encode("utf-8", "replace")
        return cls(None, report or Report(), data=data, name=name, options=options)

    def open(self) -> BinaryIO:
        """The bytes from the start; of a compressed file those that are in it."""
        file = self._bytes()
        return cast(BinaryIO, Unpacked(file, self.report)) if self.packed else file

    def sample(self) -> bytes:
        """The beginning of it."""
        with self.open() as file:
            return file.read(SAMPLE)

    def _bytes(self) -> BinaryIO:
        return self.path.open("rb") if self.path is not None and not self.folder else io.BytesIO(self._data)

    def contents(self, most: int, what: str) -> bytes:
        """All bytes at once, for parsers that need them so; more than ``most`` is refused."""
        with self.open() as file:
            data = file.read(most + 1) if self.size <= most else b""
        if self.size > most or len(data) > most:
            raise UserError(f"more than {most:,} bytes of {what}", cure="Split the file into several")
        self.progress(len(data))
        return data

    def text(self, most: int, what: str) -> str:
        """The whole text at once, for parsers that need it so; more than ``most`` characters are refused."""
        pieces, size = [], 0
        for line in self.lines():
            size += len(line)
            if size > most:
                raise UserError(f"more than {most:,} characters of {what}", cure="Split the file into several")
            pieces.append(line)
        return "".join(pieces)

    def whole(self, most: int, what: str) -> str:
        """The whole text at once, however long its lines; more than ``most`` bytes are refused."""
        data = self.contents(most, what)
        if not self.encoding:
            raise UserError("this is not a text file", cure="Give it as text, in UTF-8")
        text = data.decode(self.encoding, "replace").lstrip("\ufeff")
        broken = text.count("\ufffd")
        if broken and "\ufffd".encode() not in data:
            line = text.count("\n", 0, text.index("\ufffd")) + 1
            self.report.problem(
                line,
                f"{broken:,} characters are not {self.encoding.upper()} and were lost; export the file again as UTF-8",
            )
        return text.replace("\r\n", "\n").replace("\r", "\n")

    @property
    def sha256(self) -> str:
        """Of the whole file."""
        self._hashing.join()
        return self._sum

    def _hash(self) -> None:
        self._sum = ""
        with contextlib.suppress(OSError), self._bytes() as file:
            self._sum = hashlib.file_digest(file, "sha256").hexdigest()  # type: ignore[arg-type]

    def lines(self) -> Iterator[str]:
        """Every line with its line ending made ``\\n``; numbers start at 1 for the first."""
        if not self.encoding:
            raise UserError("this is not a text file", cure="Give it as text, in UTF-8")
        return self._wide_lines() if self.encoding.startswith("utf-16") else self._byte_lines()

    def _wide_lines(self) -> Iterator[str]:
        with self.open() as file:
            text = io.TextIOWrapper(file, self.encoding, errors="replace", newline=None)
            number, too_long = 0, False
            for line in iter(partial(text.readline, LONGEST_LINE), ""):
                if too_long or (len(line) >= LONGEST_LINE and not line.endswith("\n")):
                    if not too_long:
                        number += 1
                        self._long_line(number, line)
                        yield "\n"
                    too_long = not line.endswith("\n")
                    continue
                number += 1
                yield line.lstrip("\ufeff") if number == 1 else line

    def _byte_lines(self) -> Iterator[str]:
        """Blocks are decoded whole where they can be, line by line where a line breaks the encoding."""
        number, done, rest, skipping, mixed = 0, 0, b"", False, 0
        with self.open() as file:
            while True:
                data = file.read(BLOCK)
                done += len(data)
                self.progress(done)
                end = data.rfind(b"\n") + 1 if data else 0
                if skipping:  # inside a line that was given up: drop up to its end
                    if not end and data:
                        continue
                    first = data.find(b"\n") + 1
                    data, end, skipping = data[first:], max(end - first, 0), False
                whole, rest = (rest + data[:end], data[end:]) if end else (b"", rest + data)
                if not data and not whole:
                    whole, rest = rest, b""  # the last line has no end
                lines, broken = self._decoded(whole)
                if broken or len(whole) >= LONGEST_LINE:
                    for k, line in enumerate(lines):
                        if len(line) >= LONGEST_LINE:
                            self._long_line(number + k + 1, line)
                            lines[k] = "\n"
                        elif k in broken:
                            mixed += 1
                            if mixed <= 20:
                                self.report.problem(number + k + 1, _MIXED.format(self.encoding.upper()), line)
                number += len(lines)
                yield from lines
                if len(rest) >= LONGEST_LINE:
                    number += 1
                    self._long_line(number, rest[:200].decode(self.encoding, "replace"))
                    yield "\n"
                    rest, skipping = b"", True
                if not data and not rest:
                    break
        if mixed > 20:
            self.report.problem(0, f"{mixed - 20:,} more lines were read as Windows Latin: the file mixes encodings")

    def _decoded(self, block: bytes) -> tuple[list[str], set[int]]:
        """The lines of a block, and which of them are not in the file's encoding and were read as Windows Latin."""
        if block.startswith(codecs.BOM_UTF8):
            block = block[3:]
        if b"\r" in block:  # Windows and old Mac line ends
            block = block.replace(b"\r\n", b"\n").replace(b"\r", b"\n")
        broken: set[int] = set()
        try:
            text = block.decode(self.encoding)
        except UnicodeDecodeError:
            parts = []
            for k, line in enumerate(block.split(b"\n")):
                try:
                    parts.append(line.decode(self.encoding))
                except UnicodeDecodeError:
                    parts.append(line.decode("cp1252", "replace"))
                    broken.add(k)
        else:
            if not any(end in text for end in _OTHER_ENDS):
                return text.splitlines(True), broken
            parts = text.split("\n")
        last = parts.pop()
        lines = [part + "\n" for part in parts]
        return ([*lines, last] if last else lines), broken

    def _long_line(self, number: int, text: str) -> None:
        self.report.problem(
            number, f"a line of more than {LONGEST_LINE:,} characters was left out; export the file again", text[:200]
        )
