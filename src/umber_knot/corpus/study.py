"""The study file as one object: sources and records, decisions and recipe as undoable steps, remembered charts."""

from __future__ import annotations

from umber_knot.corpus.remembered import Remembering
from umber_knot.corpus.sources import Gathered


class Study(Gathered, Remembering):
    """An open study. Use ``Study.create`` or ``Study.open``; close it when done."""
