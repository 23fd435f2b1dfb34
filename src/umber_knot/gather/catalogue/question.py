"""What a catalogue is asked; apart from the asking, so that the window need not load what asks."""

from __future__ import annotations

import re
from dataclasses import dataclass

PROTOCOLS = ("SRU", "OAI-PMH")
SCHEMAS = {"SRU": ("marcxml", "mods", "dc"), "OAI-PMH": ("oai_dc", "marc21", "mods")}


@dataclass(frozen=True, slots=True)
class Question:
    """What is asked. ``query`` is CQL for SRU; for OAI-PMH a set and dates, as ``set:maps from:2001 until:2005``."""

    address: str
    protocol: str
    query: str = ""
    schema: str = ""

    def name(self) -> str:
        """What the source made of the answers is called."""
        return f"{self.query or 'everything'} ({self.host() or 'catalogue'}).xml"

    def host(self) -> str:
        """The machine that is asked, empty when the address names none."""
        found = re.match(r"https?://([^/:?#\s]+)", self.address)
        return found[1] if found else ""
