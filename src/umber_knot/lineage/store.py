"""Results as files that are mapped into memory: kept from one session to the next, and passed from one process to
another without copying. Bounded, safe to delete, and free of anything executable.

A result (dataclasses, tuples, dictionaries, arrays, texts, scalars) becomes a header in JSON that says what stands
where, and its arrays as they are in memory, each on a boundary of 64 bytes.
"""

from __future__ import annotations

import dataclasses
import math
import mmap
import os
from pathlib import Path
from typing import Any

import numpy as np
import orjson
from numpy.typing import NDArray

from umber_knot.chart.drawing import Land, Lettering, Sizes, Standing
from umber_knot.chart.territory import Territory
from umber_knot.corpus.model import Corpus, Decision, Doubtful, Findings, Flow, Known, Mentions, Problem, Source
from umber_knot.corpus.named import NamedColumns
from umber_knot.corpus.remembered import Identities, Places
from umber_knot.corpus.texts import Texts
from umber_knot.gather.references import Matches
from umber_knot.group.result import Grouped, Partition, Stable, Topic
from umber_knot.network.model import Attribute, Network
from umber_knot.reconcile.decisions import Resolution
from umber_knot.reconcile.reconciled import Reconciled
from umber_knot.reconcile.suggestion import Suggestion
from umber_knot.relate.effect import Effect
from umber_knot.relate.offers import Offers
from umber_knot.relate.possible import Possible
from umber_knot.relate.result import Counted, Filtered, Related
from umber_knot.relate.things import Things
from umber_knot.text.result import Terms

#: Bytes the kept results may take; those used longest ago go first.
LARGEST = 400_000_000
MAGIC = b"umber knot result 1\n"
_KINDS: dict[str, type[Any]] = {
    kind.__name__: kind
    for kind in (
        Attribute,
        Corpus,
        Counted,
        Decision,
        Doubtful,
        Effect,
        Filtered,
        Findings,
        Flow,
        Grouped,
        Identities,
        Known,
        Land,
        Lettering,
        Matches,
        Mentions,
        NamedColumns,
        Network,
        Offers,
        Partition,
        Places,
        Possible,
        Problem,
        Reconciled,
        Related,
        Resolution,
        Sizes,
        Source,
        Stable,
        Standing,
        Suggestion,
        Terms,
        Territory,
        Things,
        Topic,
    )
}
_STEP = 64


def encode(value: Any, arrays: list[NDArray[Any]]) -> Any:
    """A JSON tree of a value; its arrays are appended to ``arrays`` and referred to by place.

    Raises TypeError for a kind that could not be read back.
    """
    if isinstance(value, np.ndarray):
        arrays.append(value)
        return {"array": len(arrays) - 1}
    if isinstance(value, Texts):
        return {"texts": [encode(part, arrays)["array"] for part in value.arrays()]}
    names: tuple[str, ...] = getattr(value, "_fields", ())
    if dataclasses.is_dataclass(value):
        names = tuple(f.name for f in dataclasses.fields(value))
    if names:
        if _KINDS.get(type(value).__name__) is not type(value):
            raise TypeError(f"a result holds a {type(value).__name__}, which is not among the kinds that are kept")
        return {"kind": type(value).__name__, "fields": {k: encode(getattr(value, k), arrays) for k in names}}
    if isinstance(value, (tuple, list)):
        return {"tuple": [encode(v, arrays) for v in value]}
    if isinstance(value, dict):
        return {"dict": [[encode(k, arrays), encode(v, arrays)] for k, v in value.items()]}
    if isinstance(value, float) and not math.isfinite(value):
        return {"number": repr(value)}
    if isinstance(value, np.generic):
        return value.item()
    return value


def decode(tree: Any, arrays: list[NDArray[Any]]) -> Any:
    """The value of a tree; raises KeyError, IndexError, TypeError or ValueError when it is not one of ours."""
    if not isinstance(tree, dict):
        return tree
    if "array" in tree:
        return arrays[tree["array"]]
    if "texts" in tree:
        return Texts.of_arrays(*(arrays[k] for k in tree["texts"]))
    if "kind" in tree:
        return _KINDS[tree["kind"]](**{k: decode(v, arrays) for k, v in tree["fields"].items()})
    if "tuple" in tree:
        return tuple(decode(v, arrays) for v in tree["tuple"])
    if "number" in tree:
        return float(tree["number"])
    return {decode(k, arrays): decode(v, arrays) for k, v in tree["dict"]}


def write(path: Path, value: Any) -> None:
    """Write a result, whole or not at all; OSError when it cannot be."""
    arrays: list[NDArray[Any]] = []
    tree = encode(value, arrays)
    flat = [np.ascontiguousarray(a) for a in arrays]
    shapes = [[a.dtype.str, list(a.shape)] for a in flat]
    header = orjson.dumps({"tree": tree, "arrays": shapes}, option=orjson.OPT_NON_STR_KEYS)
    part = path.with_name(f"{path.name}.{os.getpid()}.part")
    try:
        with part.open("wb") as file:
            at = file.write(MAGIC + len(header).to_bytes(8, "little") + header)
            for array in flat:
                at += file.write(b"\0" * (-at % _STEP))
                at += file.write(array.reshape(-1).view(np.uint8).data if array.size else b"")
        part.replace(path)
    except OSError:
        part.unlink(missing_ok=True)
        raise


def read(path: Path) -> Any:
    """The result in a file, its arrays views of the file; OSError or ValueError when it is none."""
    with path.open("rb") as file:
        size = os.fstat(file.fileno()).st_size
        if size < len(MAGIC) + 8:
            raise ValueError("no result")
        block = mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_READ)
    if block[: len(MAGIC)] != MAGIC:
        raise ValueError("no result")
    at = len(MAGIC) + 8
    end = at + int.from_bytes(block[len(MAGIC) : at], "little")
    try:
        header = orjson.loads(block[at:end])
        arrays = []
        for kind, shape in header["arrays"]:
            end += -end % _STEP
            count = math.prod(shape)
            dtype = np.dtype(kind)
            arrays.append(np.frombuffer(block, dtype, count, end).reshape(shape) if count else np.zeros(shape, dtype))
            end += count * dtype.itemsize
        return decode(header["tree"], arrays)
    except (KeyError, IndexError, TypeError, AttributeError) as error:
        raise ValueError(f"no result ({error})") from error


class Store:
    """Results by key in a folder; a damaged or foreign file counts as absent."""

    def __init__(self, folder: Path, largest: int = LARGEST) -> None:
        self.folder, self.largest = folder, largest

    def path(self, key: str) -> Path:
        return self.folder / f"{key}.result"

    def get(self, key: str) -> Any:
        """The result of a key, or None."""
        try:
            value = read(self.path(key))
            os.utime(self.path(key))
            return value
        except (OSError, ValueError):
            return None

    def put(self, key: str, value: Any) -> Path | None:
        """Keep a result; None, and no error, where it cannot be written."""
        path = self.path(key)
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
            write(path, value)
            self._trim(path)
        except OSError:
            return None
        return path

    def _trim(self, fresh: Path) -> None:
        """Drop the results used longest ago; whoever has one open keeps it."""
        entries = sorted((e.stat().st_mtime, e.stat().st_size, Path(e.path)) for e in os.scandir(self.folder))
        total = sum(size for _, size, _ in entries)
        for _, size, path in entries:
            if total <= self.largest:
                return
            if path != fresh:
                path.unlink(missing_ok=True)
                total -= size
