"""Very many short texts as one block of bytes: small in memory, quick to save, to load and to send."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Sequence
from typing import Any, overload

import numpy as np
from numpy.typing import NDArray

_CHUNK = 200_000  # rows gathered at a time


class Texts(Sequence[str]):
    """An immutable sequence of texts without line ends (a line end in one becomes a space)."""

    __slots__ = ("_blob", "_ends", "_folded")

    def __init__(self, blob: bytes | memoryview, ends: NDArray[np.int64]) -> None:
        self._blob, self._ends = blob, ends  # a view of shared memory stays where it is
        self._folded: Texts | None = None

    @classmethod
    def of(cls, texts: Iterable[str]) -> Texts:
        """The texts as one block."""
        joined = "\n".join([text.replace("\n", " ") if "\n" in text else text for text in texts] + [""])
        return cls.unpacked(joined.encode("utf-8", "surrogatepass"))

    @classmethod
    def unpacked(cls, data: bytes) -> Texts:
        """From what ``packed`` gave."""
        return cls(data, np.flatnonzero(np.frombuffer(data, np.uint8) == 10))

    def packed(self) -> bytes:
        """Every text followed by a line feed, as UTF-8."""
        return bytes(self._blob)

    def arrays(self) -> tuple[NDArray[np.uint8], NDArray[np.int64]]:
        """The bytes and where each text ends, for passing on without copying."""
        return np.frombuffer(self._blob, np.uint8), self._ends

    @classmethod
    def of_arrays(cls, blob: NDArray[np.uint8], ends: NDArray[np.int64]) -> Texts:
        """From what ``arrays`` gave."""
        return cls(np.ascontiguousarray(blob).data, ends)

    def __len__(self) -> int:
        return len(self._ends)

    @overload
    def __getitem__(self, at: int) -> str: ...
    @overload
    def __getitem__(self, at: slice) -> Sequence[str]: ...
    def __getitem__(self, at: Any) -> Any:
        if isinstance(at, slice):
            return [self[i] for i in range(*at.indices(len(self)))]
        at = int(at)
        if at < 0:
            at += len(self._ends)
        if not 0 <= at < len(self._ends):
            raise IndexError(at)
        start = int(self._ends[at - 1]) + 1 if at else 0
        return str(self._blob[start : self._ends[at]], "utf-8", "surrogatepass")

    def __iter__(self) -> Iterator[str]:
        return iter(str(self._blob, "utf-8", "surrogatepass").split("\n")[:-1])

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Sequence) and len(other) == len(self) and all(a == b for a, b in zip(self, other))

    def __hash__(self) -> int:
        return hash(self.packed())

    def __reduce__(self) -> tuple[Any, ...]:
        return Texts, (self.packed(), self._ends)

    def __repr__(self) -> str:
        return f"Texts({list(self[:5])}{' …' if len(self) > 5 else ''})"

    def containing(self, part: str) -> NDArray[np.int64]:
        """The rows whose text holds a part, whatever the case."""
        if self._folded is None:
            whole = str(self._blob, "utf-8", "surrogatepass")
            self._folded = Texts.unpacked(whole.casefold().encode("utf-8", "surrogatepass"))
        blob, wanted = self._folded.packed(), part.casefold().replace("\n", " ").encode("utf-8", "surrogatepass")
        if not wanted:
            return np.arange(len(self))
        found = []
        at = blob.find(wanted)
        while at >= 0:
            found.append(at)
            end = blob.find(b"\n", at)  # one hit a row is enough
            at = blob.find(wanted, end + 1)
        return np.searchsorted(self._folded._ends, np.array(found, np.int64))

    def places(self, wanted: Collection[str]) -> dict[str, int]:
        """Where each of some texts stands first, of those that are there."""
        if len(wanted) > 40:
            sought = set(wanted)
            return {text: i for i, text in reversed(list(enumerate(self))) if text in sought}
        blob, found = self.packed(), {}
        for text in wanted:
            line = text.encode("utf-8", "surrogatepass") + b"\n"
            at = 0 if blob.startswith(line) else blob.find(b"\n" + line) + 1
            if at or blob.startswith(line):
                found[text] = int(np.searchsorted(self._ends, at))
        return found

    def lengths(self) -> NDArray[np.int64]:
        """Bytes of each text, shape (texts,)."""
        return np.diff(self._ends, prepend=-1) - 1

    def take(self, rows: NDArray[Any]) -> Texts:
        """The texts of some rows, in their order."""
        if not len(rows):
            return Texts.of(())
        data, starts = np.frombuffer(self._blob, np.uint8), np.r_[0, self._ends[:-1] + 1]
        parts = []
        for begin in range(0, len(rows), _CHUNK):
            chosen = rows[begin : begin + _CHUNK]
            size = self._ends[chosen] - starts[chosen] + 1
            shift = np.repeat(starts[chosen] - np.r_[0, np.cumsum(size)[:-1]], size)
            parts.append(data[shift + np.arange(len(shift))].tobytes())
        return Texts.unpacked(b"".join(parts))

    @staticmethod
    def joined(parts: Sequence[Texts]) -> Texts:
        """Several, one after another."""
        return parts[0] if len(parts) == 1 else Texts.unpacked(b"".join(p.packed() for p in parts))


def holding(texts: Texts, words: Sequence[str]) -> NDArray[np.int64]:
    """The rows whose text holds every one of some words, whatever the case."""
    kept = np.ones(len(texts), bool)
    for word in words:
        hit = np.zeros(len(texts), bool)
        hit[texts.containing(word)] = True
        kept &= hit
    return np.flatnonzero(kept)
