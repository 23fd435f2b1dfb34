"""Where things live: the XDG folders and the files that ship with the application."""

from __future__ import annotations

import os
from pathlib import Path

RESOURCES = Path(__file__).parent / "resources"
FONTS = RESOURCES / "fonts"


def _xdg(variable: str, default: str) -> Path:
    base = os.environ.get(variable, "")
    root = Path(base) if base and Path(base).is_absolute() else Path.home() / default
    return root / "umber-knot"


def cache_dir() -> Path:
    """Derived results, safe to delete at any time."""
    return _xdg("XDG_CACHE_HOME", ".cache")


def data_dir() -> Path:
    """The demo study and other files the application makes for the user."""
    return _xdg("XDG_DATA_HOME", ".local/share")


def config_dir() -> Path:
    """Window state, theme and the list of recent studies."""
    return _xdg("XDG_CONFIG_HOME", ".config")
