"""A plate as PNG: the SVG rendered by resvg with the shipped fonts, its resolution written into the file."""

from __future__ import annotations

import re
import struct
import zlib

from umber_knot.errors import UserError
from umber_knot.paths import FONTS

#: Pixels of a side, and of a whole picture, that can be drawn (400 million take 1.6 GB).
WIDEST, LARGEST = 32_000, 400_000_000
_SIZE = re.compile(r'width="([\d.]+)mm" height="([\d.]+)mm"')
SERIF_ALIASES = "Gentium Plus"


def png(svg: str, dpi: float) -> bytes:
    """PNG bytes at so many dots per inch; letters that the shipped fonts lack come from the system's."""
    import resvg_py

    wide, high = _pixels(svg, dpi)
    if wide > WIDEST or high > WIDEST or wide * high > LARGEST:
        raise UserError(
            f"a picture of {wide:,} × {high:,} pixels is more than can be drawn",
            place="report",
            cure=f"Choose at most {dpi * min(WIDEST / max(wide, high), (LARGEST / (wide * high)) ** 0.5):.0f} dots per inch, or SVG",
        )
    shipped_only = all(ord(ch) < 0x2E80 for ch in svg)
    data = resvg_py.svg_to_bytes(
        svg_string=svg,
        font_dirs=[str(FONTS)],
        skip_system_fonts=shipped_only,
        serif_family=SERIF_ALIASES,
        sans_serif_family="Lato",
        dpi=96,
        zoom=dpi / 96,
    )
    return _with_resolution(bytes(data), dpi)


def _pixels(svg: str, dpi: float) -> tuple[int, int]:
    """The size of a plate in pixels."""
    found = _SIZE.search(svg)
    return (round(float(found[1]) / 25.4 * dpi), round(float(found[2]) / 25.4 * dpi)) if found else (0, 0)


def _with_resolution(data: bytes, dpi: float) -> bytes:
    """Put a pHYs chunk (pixels per metre) after the header, so that programs place the figure at its true size."""
    body = b"pHYs" + struct.pack(">IIB", *(round(dpi / 0.0254),) * 2, 1)
    return data[:33] + struct.pack(">I", 9) + body + struct.pack(">I", zlib.crc32(body)) + data[33:]
