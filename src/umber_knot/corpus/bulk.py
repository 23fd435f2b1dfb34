"""Making very many small objects at once."""

from __future__ import annotations

import gc
from collections.abc import Iterator
from contextlib import contextmanager


@contextmanager
def no_cycles() -> Iterator[None]:
    """Pause the search for cyclic garbage: records hold no cycles, and looking among millions takes longer than
    reading."""
    collecting = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if collecting:
            gc.enable()
