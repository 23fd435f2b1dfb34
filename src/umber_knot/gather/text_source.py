"""Text out of files from strangers: encoding found, lines bounded, binary files refused."""

from __future__ import annotations

import codecs
import contextlib
import hashlib
import io
from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path
from threading import Thread

from charset_normalizer import from_bytes

from umber_knot.corpus.model import Problem
from umber_knot.errors import UserError

#: No honest bibliography has a longer line; one that does is reported and left out.
LONGEST_LINE = 4_000_000
SAMPLE = 256 * 1024
BLOCK = 1 << 18
#: What splitlines takes for line ends beside ours; a text that holds them is split the slower way.
_OTHER_ENDS = ("\x0b", "\x0c", "\x1c", "\x1d", "\x1e", "\x85", "\u2028", "\u2029")
_MIXED = "not {}: this line was read as Windows Latin; check its accents"
MAGIC = {
    b"\x89PNG": "a PNG picture",
    b"\xff\xd8\xff": "a JPEG picture",
    b"GIF8": "a GIF picture",
    b"%PDF": "a PDF document",
    b"PK\x03\x04": "a ZIP archive (or an office document)",
    b"\x1f\x8b": "a compressed file",
    b"SQLite format 3": "a database or a study",
}


class Report:
    """Collects the problems of one file; a problem has a line, what is wrong with its cure, and an excerpt."""

    MOST = 1000  # beyond this only counted: a broken file must not fill the memory

    def __init__(self) -> None:
        self.problems: list[Problem] = []
        self.unlisted = 0

    def problem(self, line: int, message: str, excerpt: str = "") -> None:
        if len(self.problems) < self.MOST:
            self.problems.append(Problem(line, message, " ".join(excerpt.split())[:120]))
        else:
            self.unlisted += 1

    def listed(self) -> tuple[Problem, ...]:
        rest = [Problem(0, f"{self.unlisted:,} more problems of this kind are not listed")] if self.unlisted else []
        return tuple(self.problems + rest)


class TextSource:
    """A text file, opened for reading line by line.

    Attributes: ``encoding`` found; ``head`` the first characters for sniffing; ``size`` in bytes;
    ``sha256`` of its bytes.
    """

    def __init__(self, path: Path, report: Report, progress: Callable[[int], None] = lambda done: None) -> None:
        self.path, self.report, self.progress = path, report, progress
        try:
            self.size = path.stat().st_size
            with path.open("rb") as file:
                sample = file.read(SAMPLE)
        except OSError as error:
            raise UserError(
                f"cannot be read ({error.strerror})", place=str(path), cure="Check the name and the permissions"
            ) from error
        if not sample.strip():
            raise UserError("the file is empty", place=str(path), cure="Export it again")
        for magic, what in MAGIC.items():
            if sample.startswith(magic):
                raise UserError(
                    f"this is {what}, not a bibliography",
                    place=str(path),
                    cure="Give it a text export: RIS, BibTeX or CSV",
                )
        self.encoding = find_encoding(sample)
        if self.encoding not in ("utf-16-le", "utf-16-be") and b"\0" in sample:
            raise UserError(
                "this is not a text file", place=str(path), cure="Give it a text export: RIS, BibTeX or CSV"
            )
        self.head = sample.decode(self.encoding, "replace").lstrip("\ufeff")[:20_000]
        self._hashing = Thread(target=self._hash, daemon=True)  # beside the reading: hashing needs no lock
        self._hashing.start()

    @property
    def sha256(self) -> str:
        """Of the whole file."""
        self._hashing.join()
        return self._sum

    def _hash(self) -> None:
        self._sum = ""
        with contextlib.suppress(OSError), self.path.open("rb") as file:
            self._sum = hashlib.file_digest(file, "sha256").hexdigest()

    def lines(self) -> Iterator[str]:
        """Every line with its line ending made ``\\n``; numbers start at 1 for the first."""
        return self._wide_lines() if self.encoding.startswith("utf-16") else self._byte_lines()

    def _wide_lines(self) -> Iterator[str]:
        with self.path.open("rb") as file:
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
        with self.path.open("rb") as file:
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


def find_encoding(sample: bytes) -> str:
    """The encoding of a text file from its first bytes: byte-order marks, then UTF-8, then by its letters."""
    if sample.startswith(codecs.BOM_UTF8):
        return "utf-8"
    if sample.startswith(codecs.BOM_UTF16_LE):
        return "utf-16-le"
    if sample.startswith(codecs.BOM_UTF16_BE):
        return "utf-16-be"
    head = sample[:4000]
    if len(head) > 3:  # UTF-16 without a mark: Latin text has a zero in every other byte
        for encoding, zeros in (("utf-16-le", head[1::2]), ("utf-16-be", head[0::2])):
            if zeros.count(0) > 0.4 * len(zeros):
                return encoding
    try:
        codecs.getincrementaldecoder("utf-8")().decode(sample)  # a cut last character is no error
        return "utf-8"
    except UnicodeDecodeError:
        pass
    broken = sum(_is_broken(line) for line in sample.split(b"\n"))
    whole = sum(1 for line in sample.split(b"\n") if not line.isascii()) - broken
    if whole > broken:  # mostly UTF-8 with some lines pasted from elsewhere
        return "utf-8"
    found = from_bytes(sample[:65536], cp_isolation=["cp1252", "cp1250", "cp1251"])
    western = next((m for m in found if m.encoding == "cp1252"), None)
    best = found.best()
    if best is not None and str(best) == sample[:65536].decode("cp1252", "replace"):
        return "cp1252"
    # Western letters unless another reading is plainly cleaner: short exports have too few accents to tell
    if best is None or (western is not None and western.chaos <= best.chaos + 0.05):
        return "cp1252"
    return best.encoding


def _is_broken(line: bytes) -> bool:
    try:
        line.decode("utf-8")
        return False
    except UnicodeDecodeError:
        return True
