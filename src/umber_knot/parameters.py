"""Parameters with their limits, declared beside the algorithms that read them: the recipe checks them by this."""

from __future__ import annotations

from dataclasses import field
from typing import Any


def one_of(default: Any, *choices: Any) -> Any:
    """A field that takes one of some values; of a tuple each member, of a dictionary each key is one of them."""
    if isinstance(default, dict):
        return field(default_factory=dict, metadata={"choices": choices})
    return field(default=default, metadata={"choices": choices})


def one_or_number(default: str, *choices: str) -> Any:
    """A field that takes one of some words, or a whole number from 1, which is kept as its digits."""
    return field(default=default, metadata={"choices": choices, "number": True})


def number(default: float, low: float, high: float) -> Any:
    """A field that takes a number from ``low`` to ``high``."""
    return field(default=default, metadata={"range": (low, high)})
