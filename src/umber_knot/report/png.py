"""A plate as PNG: the SVG rendered by resvg with the shipped fonts, its resolution written into the file."""

from __future__ import annotations

import struct
import zlib

from umber_knot.paths import FONTS

SERIF_ALIASES = "Gentium Plus"


def png(svg: str, dpi: float) -> bytes:
    """PNG bytes at so many dots per inch; letters that the shipped fonts lack come from the system's."""
    import resvg_py

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


def _with_resolution(data: bytes, dpi: float) -> bytes:
    """Put a pHYs chunk (pixels per metre) after the header, so that programs place the figure at its true size."""
    body = b"pHYs" + struct.pack(">IIB", *(round(dpi / 0.0254),) * 2, 1)
    return data[:33] + struct.pack(">I", 9) + body + struct.pack(">I", zlib.crc32(body)) + data[33:]
