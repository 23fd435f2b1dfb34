"""TeX as a reader sees it: accents, symbols and groups by pylatexenc, names of programs and societies spelt out."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

#: Commands that pylatexenc does not know and that are not spelt as they are called.
_SPELT = {
    "LaTeXe": "LaTeX2e",
    "MF": "METAFONT",
    "MP": "MetaPost",
    "PS": "PostScript",
    "POSTSCRIPT": "PostScript",
    "Dash": "—",
    "thinspace": " ",
    "slash": "/",
    "dash": "–",
    "TM": "™",
}


@lru_cache(1)
def _latex() -> Any:
    from pylatexenc.latex2text import LatexNodes2Text, MacroTextSpec, get_default_latex_context_db

    known = get_default_latex_context_db()
    known.add_context_category("logos", prepend=True, macros=[MacroTextSpec(n, t) for n, t in _SPELT.items()])
    known.add_context_category(
        "programs", prepend=True, macros=[MacroTextSpec(name, name) for name in ("TeX", "LaTeX", "BibTeX", "AmSTeX")]
    )
    known.set_unknown_macro_spec(MacroTextSpec("", simplify_repl=_unknown))
    return LatexNodes2Text(latex_context=known, math_mode="verbatim", strict_latex_spaces=False)


def _unknown(node: Any) -> str:
    """A command nobody knows: a name with a capital is spelt out, another only changes how what follows looks."""
    name = str(node.macroname)
    return name if name[:1].isupper() or any(ch.isupper() for ch in name[1:]) else ""


@lru_cache(65536)
def plain(value: str) -> str:
    r"""LaTeX as a reader sees it.

    >>> plain(r"S{\o}rlie, {A}nke"), plain(r"Mud in \TeX{} and \MF")
    ('Sørlie, Anke', 'Mud in TeX and METAFONT')
    """
    if "\\" in value:
        try:
            value = _latex().nodelist_to_text(_nodes(value))
        except Exception:  # pylatexenc raises many kinds on broken TeX; the text as written is then the best
            return " ".join(value.split())
    elif "{" in value or "}" in value:
        value = value.replace("{", "").replace("}", "")
    return " ".join(value.replace("~", " ").replace("---", "—").replace("--", "–").split())


def _nodes(value: str) -> object:
    from pylatexenc.latexwalker import LatexWalker

    return LatexWalker(value, tolerant_parsing=True).get_latex_nodes()[0]
