"""Copies of a study that something went wrong with: bytes flipped, pages lost, the end cut off."""

from __future__ import annotations

import random
from pathlib import Path


def damaged(data: bytes, seed: int) -> bytes:
    """One damaged copy of a study's bytes."""
    rng = random.Random(seed)
    block = bytearray(data)
    how = seed % 4
    if how == 0:  # a few bytes flipped anywhere
        for _ in range(rng.randint(1, 40)):
            block[rng.randrange(100, len(block))] ^= 1 << rng.randrange(8)
    elif how == 1:  # a page overwritten
        page = rng.randrange(1, max(2, len(block) // 16384))
        block[page * 16384 : (page + 1) * 16384] = bytes(16384) if rng.random() < 0.5 else rng.randbytes(16384)
    elif how == 2:  # the end cut off
        del block[rng.randrange(len(block) // 4, len(block)) :]
    else:  # a run of bytes changed
        at = rng.randrange(100, len(block) - 200)
        block[at : at + 200] = rng.randbytes(200)
    return bytes(block)


def write_damaged(path: Path, data: bytes, seed: int) -> Path:
    """The copy as a file."""
    path.write_bytes(damaged(data, seed))
    return path
