"""Results of stages on disk: bounded, safe to delete, and free of anything executable.

A result (dataclasses, tuples, dictionaries, NumPy arrays, scalars) becomes one NumPy archive: its arrays, and a JSON
tree that says where they go.
"""

from __future__ import annotations

import dataclasses
import os
import zipfile
from pathlib import Path
from typing import Any

import numpy as np
import orjson
from numpy.typing import NDArray

from umber_knot import __version__
from umber_knot.chart.drawing import Drawing
from umber_knot.chart.territory import Territory
from umber_knot.corpus.model import Decision
from umber_knot.gather.references import Matches
from umber_knot.group.naming import Topic
from umber_knot.lineage.stages import Grouped, Reconciled, Related, Stable
from umber_knot.network.model import Network
from umber_knot.paths import cache_dir
from umber_knot.reconcile.decisions import Resolution
from umber_knot.relate.shared import Counted, Filtered

#: Bytes the cache may take; the results used longest ago go first.
LARGEST = 400_000_000
_KINDS: dict[str, type[Any]] = {
    kind.__name__: kind
    for kind in (Drawing, Territory, Decision, Topic, Grouped, Reconciled, Related, Stable, Network, Resolution, Matches,
                 Counted, Filtered)
}  # fmt: skip


def encode(value: Any, arrays: list[NDArray[Any]]) -> Any:
    """A JSON tree of a value; its arrays are appended to ``arrays`` and referred to by place."""
    if isinstance(value, np.ndarray):
        arrays.append(value)
        return {"array": len(arrays) - 1}
    if dataclasses.is_dataclass(value):
        fields = {f.name: encode(getattr(value, f.name), arrays) for f in dataclasses.fields(value)}
        return {"kind": type(value).__name__, "fields": fields}
    if isinstance(value, (tuple, list)):
        return {"tuple": [encode(v, arrays) for v in value]}
    if isinstance(value, dict):
        return {"dict": [[encode(k, arrays), encode(v, arrays)] for k, v in value.items()]}
    if isinstance(value, float) and value != value:
        return {"nan": True}
    return value


def decode(tree: Any, arrays: list[NDArray[Any]]) -> Any:
    """The value of a tree; raises KeyError, IndexError or TypeError when it is not one of ours."""
    if not isinstance(tree, dict):
        return tree
    if "array" in tree:
        return arrays[tree["array"]]
    if "kind" in tree:
        return _KINDS[tree["kind"]](**{k: decode(v, arrays) for k, v in tree["fields"].items()})
    if "tuple" in tree:
        return tuple(decode(v, arrays) for v in tree["tuple"])
    if "nan" in tree:
        return float("nan")
    return {decode(k, arrays): decode(v, arrays) for k, v in tree["dict"]}


class Cache:
    """Results by key in a folder; a damaged or foreign file counts as absent."""

    def __init__(self, folder: Path | None = None) -> None:
        self.folder = folder or cache_dir() / f"results-{__version__}"

    def _path(self, key: str) -> Path:
        return self.folder / f"{key}.npz"

    def get(self, key: str) -> Any:
        """The result of a key, or None."""
        path = self._path(key)
        try:
            with np.load(path, allow_pickle=False) as archive:
                arrays = [archive[f"a{i}"] for i in range(len(archive.files) - 1)]
                value = decode(orjson.loads(archive["tree"].tobytes()), arrays)
            os.utime(path)
            return value
        except (OSError, ValueError, KeyError, IndexError, TypeError, zipfile.BadZipFile):
            return None

    def put(self, key: str, value: Any) -> None:
        """Keep a result; a cache that cannot be written is no error."""
        arrays: list[NDArray[Any]] = []
        tree = np.frombuffer(orjson.dumps(encode(value, arrays), option=orjson.OPT_SERIALIZE_NUMPY), np.uint8)
        part = self.folder / f"{key}.{os.getpid()}.part"
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
            with part.open("wb") as file:
                np.savez(file, allow_pickle=False, tree=tree, **{f"a{i}": a for i, a in enumerate(arrays)})
            part.replace(self._path(key))
            self._trim()
        except OSError:
            part.unlink(missing_ok=True)

    def _trim(self) -> None:
        entries = sorted((e.stat().st_mtime, e.stat().st_size, Path(e.path)) for e in os.scandir(self.folder))
        total = sum(size for _, size, _ in entries)
        for _, size, path in entries:
            if total <= LARGEST:
                return
            path.unlink(missing_ok=True)
            total -= size
