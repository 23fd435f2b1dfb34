"""Very many short texts as one block of bytes: small in memory, quick to save, to load and to send."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from typing import Any, overload

import numpy as np
from numpy.typing import NDArray

_CHUNK = 200_000  # rows gathered at a time


class Texts(Sequence[str]):
    """An immutable sequence of texts without line ends (a line end in one becomes a space)."""

    __slots__ = ("_blob", "_ends", "_folded")

    def __init__(self, blob: bytes, ends: NDArray[np.int64]) -> None:
        self._blob, self._ends = blob, ends
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
        return self._blob

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
        return self._blob[start : self._ends[at]].decode("utf-8", "surrogatepass")

    def __iter__(self) -> Iterator[str]:
        return iter(self._blob.decode("utf-8", "surrogatepass").split("\n")[:-1])

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Sequence) and len(other) == len(self) and all(a == b for a, b in zip(self, other))

    def __hash__(self) -> int:
        return hash(self._blob)

    def __reduce__(self) -> tuple[Any, ...]:
        return Texts, (self._blob, self._ends)

    def containing(self, part: str) -> NDArray[np.int64]:
        """The rows whose text holds a part, whatever the case."""
        if self._folded is None:
            self._folded = Texts.unpacked(
                self._blob.decode("utf-8", "surrogatepass").casefold().encode("utf-8", "surrogatepass")
            )
        blob, wanted = self._folded._blob, part.casefold().replace("\n", " ").encode("utf-8", "surrogatepass")
        if not wanted:
            return np.arange(len(self))
        found = []
        at = blob.find(wanted)
        while at >= 0:
            found.append(at)
            end = blob.find(b"\n", at)  # one hit a row is enough
            at = blob.find(wanted, end + 1)
        return np.searchsorted(self._folded._ends, np.array(found, np.int64))

    def lengths(self) -> NDArray[np.int64]:
        """Bytes of each text, shape (texts,)."""
        return np.diff(self._ends, prepend=-1) - 1

    def take(self, rows: NDArray[Any]) -> Texts:
        """The texts of some rows, in their order."""
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
