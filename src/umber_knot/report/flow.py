"""The flow of records for the methods section: read, joined, left out, kept, as a small figure (SVG)."""

from __future__ import annotations

from umber_knot.corpus.model import Corpus
from umber_knot.markup import xml

WIDE, BOX, STEP = 170.0, 84.0, 19.0  # millimetres: the figure, a box, from one box to the next
INK, PAPER, LINE, LEFT_OUT = "#22241F", "#FFFFFF", "#8A8C84", "#8A560C"


def flow_svg(corpus: Corpus) -> str:
    """Boxes from top to bottom for what went on, at the right what was joined or left out at each step."""
    flow = corpus.flow
    sources = ", ".join(f"{s.name} {s.records:,}" for s in corpus.sources[:4])
    if len(corpus.sources) > 4:
        sources += f" and {len(corpus.sources) - 4} more sources"
    steps: list[tuple[str, str, int]] = []
    for number, why in ((flow.by_identifier, "same identifier"), (flow.by_title, "same title, people and year")):
        if number:
            steps.append((f"{number:,} found again", f"joined: {why}", number))
    steps += [(f"{number:,} left out", reason, number) for reason, number in flow.excluded]
    shapes = []
    count, y = flow.read, 2.0
    shapes.append(_box(2, y, f"{count:,} records read", sources))
    for number, (what, why, less) in enumerate(steps):
        middle = y + 13 + (STEP - 13) / 2
        shapes.append(
            f'<path d="M {2 + BOX / 2} {y + 13} V {y + STEP}" stroke="{LINE}" stroke-width="0.4" marker-end="url(#end)"/>'
        )
        shapes.append(
            f'<path d="M {2 + BOX / 2} {middle} H {WIDE - 72}" stroke="{LINE}" stroke-width="0.3" marker-end="url(#end)"/>'
        )
        shapes.append(_note(WIDE - 70, middle, what, why))
        count -= less
        y += STEP
        last = number == len(steps) - 1
        shapes.append(_box(2, y, f"{count:,} records {'in the study' if last else 'left'}", ""))
    tall = y + 17
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{WIDE:g}mm" height="{tall:g}mm" viewBox="0 0 {WIDE:g} {tall:g}">\n'
        f"<title>From {flow.read:,} records read to {len(corpus):,} in the study</title>\n"
        f'<defs><marker id="end" viewBox="0 0 6 6" refX="6" refY="3" markerWidth="5" markerHeight="5" orient="auto"><path d="M 0 0 L 6 3 L 0 6 z" fill="{LINE}"/></marker></defs>\n'
        f'<rect width="{WIDE:g}" height="{tall:g}" fill="{PAPER}"/>\n' + "\n".join(shapes) + "\n</svg>\n"
    )


def _text(x: float, y: float, size: float, tint: str, text: str, most: int) -> str:
    text = text if len(text) <= most else text[: most - 1] + "…"
    return f'<text x="{x:g}" y="{y:g}" font-family="Lato, sans-serif" font-size="{size:g}" fill="{tint}">{xml(text)}</text>'


def _box(x: float, y: float, head: str, text: str) -> str:
    lines = _text(x + 3, y + (5.4 if text else 7.6), 3.6, INK, head, 44) + (
        _text(x + 3, y + 10, 2.6, INK, text, 64) if text else ""
    )
    return f'<rect x="{x:g}" y="{y:g}" width="{BOX:g}" height="13" rx="1" fill="none" stroke="{INK}" stroke-width="0.35"/>{lines}'


def _note(x: float, y: float, head: str, text: str) -> str:
    return _text(x, y - 0.4, 3.4, LEFT_OUT, head, 40) + _text(x, y + 3.4, 2.7, INK, text, 52)
