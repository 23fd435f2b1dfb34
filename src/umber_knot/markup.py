"""Text made safe for XML."""

from __future__ import annotations

from html import escape

#: Characters that XML 1.0 cannot hold, however they are written.
_ILLEGAL = dict.fromkeys([*range(9), 11, 12, *range(14, 32), *range(0xD800, 0xE000), 0xFFFE, 0xFFFF])


def xml(text: str) -> str:
    """The text escaped for an element or a quoted attribute; characters that XML cannot hold are left out.

    >>> xml('a < "b" & \\x07c')
    'a &lt; &quot;b&quot; &amp; c'
    """
    return escape(text.translate(_ILLEGAL))
