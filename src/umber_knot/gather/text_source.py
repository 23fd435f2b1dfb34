"""Text out of files from strangers: encoding found, lines bounded, binary files refused."""

from __future__ import annotations

import codecs
import hashlib
import io
from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path

from charset_normalizer import from_bytes

from umber_knot.corpus.model import Problem
from umber_knot.errors import UserError

#: No honest bibliography has a longer line; one that does is reported and left out.
LONGEST_LINE = 4_000_000
SAMPLE = 256 * 1024
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
    ``sha256`` of everything read so far (complete once the lines are exhausted).
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
        self._digest = hashlib.sha256()

    @property
    def sha256(self) -> str:
        return self._digest.hexdigest()

    def lines(self) -> Iterator[str]:
        """Every line with its line ending made ``\\n``; numbers start at 1 for the first."""
        with self.path.open("rb") as file:
            yield from self._wide_lines(file) if self.encoding.startswith("utf-16") else self._byte_lines(file)

    def _wide_lines(self, raw: io.BufferedReader) -> Iterator[str]:
        text = io.TextIOWrapper(raw, self.encoding, errors="replace", newline=None)
        number, too_long = 0, False
        for line in iter(partial(text.readline, LONGEST_LINE), ""):
            self._digest.update(line.encode("utf-16-le", "replace"))
            if too_long or (len(line) >= LONGEST_LINE and not line.endswith("\n")):
                if not too_long:
                    number += 1
                    self._long_line(number, line)
                too_long = not line.endswith("\n")
                continue
            number += 1
            yield line.lstrip("\ufeff") if number == 1 else line

    def _byte_lines(self, raw: io.BufferedReader) -> Iterator[str]:
        number, done, too_long, mixed = 0, 0, False, 0
        update, encoding = self._digest.update, self.encoding
        for data in iter(partial(raw.readline, LONGEST_LINE), b""):
            update(data)
            done += len(data)
            if too_long or (len(data) >= LONGEST_LINE and not data.endswith(b"\n")):
                if not too_long:
                    number += 1
                    self._long_line(number, data[:200].decode(encoding, "replace"))
                    yield "\n"
                too_long = not data.endswith(b"\n")
                continue
            number += 1
            if not number & 8191:
                self.progress(done)
            try:
                line = data.decode(encoding)
            except UnicodeDecodeError:
                line = data.decode("cp1252", "replace")
                mixed += 1
                if mixed <= 20:
                    self.report.problem(
                        number, f"not {encoding.upper()}: this line was read as Windows Latin; check its accents", line
                    )
            if number == 1:
                line = line.lstrip("\ufeff")
            if line.endswith("\r\n"):
                line = line[:-2] + "\n"
            elif "\r" in line:  # old Mac line ends: the reader sees them as lines of their own
                yield from (part + "\n" for part in line.rstrip("\r\n").split("\r"))
                continue
            yield line
        if mixed > 20:
            self.report.problem(0, f"{mixed - 20:,} more lines were read as Windows Latin: the file mixes encodings")

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
