"""Widths of text in the shipped fonts, measured by HarfBuzz, so that the core can place labels without a window."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from typing import Any

import numpy as np
import uharfbuzz

from umber_knot.corpus.model import Floats
from umber_knot.paths import FONTS

SERIF, ITALIC, BOLD = "GentiumPlus-Regular.ttf", "GentiumPlus-Italic.ttf", "GentiumPlus-Bold.ttf"
SANS, SANS_BOLD = "Lato-Regular.ttf", "Lato-Bold.ttf"
#: Height of a line of Gentium Plus and how much of it stands above the baseline, in ems.
LINE, ASCENT = 1.22, 0.90
#: Letterspacing of topic names, in ems.
TRACKING = 0.11


@lru_cache(8)
def _font(name: str) -> Any:
    return uharfbuzz.Font(uharfbuzz.Face(uharfbuzz.Blob.from_file_path(str(FONTS / name))))


def widths(texts: Sequence[str], font: str = SERIF, tracking: float = 0.0) -> Floats:
    """Width of each text in ems, shape (texts,). Letters the font lacks count a full em, which no script exceeds."""
    return np.array([_width(text, font) + tracking * len(text) for text in texts], np.float64)


@lru_cache(1 << 17)
def _width(text: str, font: str) -> float:
    if not text:
        return 0.0
    face = _font(font)
    upem = face.face.upem
    buffer = uharfbuzz.Buffer()
    buffer.add_str(text)
    buffer.guess_segment_properties()
    uharfbuzz.shape(face, buffer)
    glyphs = zip(buffer.glyph_infos, buffer.glyph_positions)
    return float(sum(upem if info.codepoint == 0 else position.x_advance for info, position in glyphs) / upem)


def shortened(text: str, most: int = 42) -> str:
    """A label no longer than so many characters; the whole text stays in the evidence panel."""
    return text if len(text) <= most else text[: most - 1].rstrip(" ,;-") + "…"
