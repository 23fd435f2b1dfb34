"""PDF documents: text by pypdfium2, columns in reading order, hyphens joined, running heads dropped, pages kept."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator
from itertools import pairwise
from typing import Any

from umber_knot.corpus.model import RawRecord
from umber_knot.errors import UserError
from umber_knot.gather.formats._texts import Outline, document, listed
from umber_knot.gather.parting import parted, people_separator
from umber_knot.gather.stream import Head, Report, Stream

NAME = "PDF"
UNIT = "page"
LARGEST = 1_000_000_000
MOST_PAGES = 20_000
_END = re.compile(r"[.?!:;”\"’)\]]$")
#: A word parted at a line's end; where the hyphen is unmistakable, the library has dropped the line end itself.
_HYPHEN = re.compile(r"(?<=[^\W\d_])(?:[-\u00ad\ufffe\u0002]\r?\n|\ufffe)(?=[a-zà-ÿ])")


def sniff(head: Head) -> float:
    """How surely this is PDF, 0 to 1."""
    return 1.0 if b"%PDF-" in head.data[:1024] else 0.0


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """The document as one record; a page that cannot be read is reported and skipped."""
    import pypdfium2 as pdfium

    try:
        pdf = pdfium.PdfDocument(
            stream.path if stream.path is not None and not stream.packed else stream.contents(LARGEST, "PDF")
        )
    except pdfium.PdfiumError as error:
        locked = "assword" in str(error)
        raise UserError(
            "the PDF is encrypted and needs a password" if locked else f"the PDF is damaged ({error})",
            cure="Save a copy without a password" if locked else "Save or download it again",
        ) from error
    try:
        pages = []
        count = len(pdf)
        if count > MOST_PAGES:
            report.problem(MOST_PAGES, f"more than {MOST_PAGES:,} pages; the rest was left out")
        for n in range(min(count, MOST_PAGES)):
            try:
                pages.append(_page_text(pdf[n]))
            except pdfium.PdfiumError as error:
                report.problem(n + 1, f"this page cannot be read ({error}) and was left out")
                pages.append("")
            stream.progress(round(stream.size * (n + 1) / count))
        told = {k: v.strip() for k, v in pdf.get_metadata_dict().items() if v.strip()}
    finally:
        pdf.close()
    outline = Outline()
    heads = running_heads(pages)
    for number, text in enumerate(pages, 1):
        for paragraph in paragraphs(text, heads):
            outline.add(paragraph, number)
    day = re.match(r"D:(\d{4})(\d\d)?(\d\d)?", told.get("CreationDate", ""))
    made = "-".join(d for d in day.groups() if d) if day else ""
    printed = _PRINTED.search(pages[0][:4000]) if pages else None
    author = told.get("Author", "")
    yield document(
        stream.name,
        outline,
        report,
        title=told.get("Title", ""),
        people=parted(author, people_separator([author])),
        words=listed(told.get("Keywords", "")),
        date=printed[0] if printed else made,
        extra={"file date": made} if printed and made else {},
    )


#: A date with its month as the first page prints it; a file's own date is when it was made, perhaps from a scan.
_PRINTED = re.compile(
    r"\b(?:\d{1,2}(?:st|nd|rd|th)? )?(?:January|February|March|April|May|June|July|August|September|October|November|December)"
    r",? (?:\d{1,2}(?:st|nd|rd|th)?, )?(?:1[5-9]|20)\d\d\b|\b(?:1[5-9]|20)\d\d-(?:0[1-9]|1[0-2])(?:-[0-3]\d)?\b"
)


def _page_text(page: Any) -> str:
    """A page's text in reading order: as the file has it, unless that jumps between what are two columns for certain."""
    textpage = page.get_textpage()
    try:
        count = textpage.count_rects()
        text: str = textpage.get_text_range()
        if count < 8:
            return text
        boxes = [textpage.get_rect(k) for k in range(count)]
        gutter = _gutter(boxes, page.get_width())
        if gutter and _jumps(boxes, gutter) > 4:
            return "\r\n".join(textpage.get_text_bounded(*boxes[k]) for k in _reading_order(boxes, gutter))
        return text
    finally:
        textpage.close()
        page.close()


def _gutter(boxes: list[tuple[float, float, float, float]], width: float) -> float:
    """Where the white strip between two columns of text stands, 0 where there is none for certain: hardly a line crosses
    it, and on both sides of it stand many lines that fill their column (the cells of a table do not)."""
    for share in (0.5, 0.48, 0.52, 0.46, 0.54, 0.44, 0.56):
        x = width * share
        crossing = sum(left < x < right for left, _, right, _ in boxes)
        sides = [box for box in boxes if box[2] <= x], [box for box in boxes if box[0] >= x]
        if crossing <= 0.05 * len(boxes) + 1 and all(_fills(side, width) for side in sides):
            return x
    return 0.0


def _fills(side: list[tuple[float, float, float, float]], width: float) -> bool:
    """Whether boxes are the lines of a column: a dozen or more, most as wide as it is."""
    lines: dict[int, list[float]] = {}
    for left, bottom, right, top in side:
        extent = lines.setdefault(round((bottom + top) / 10), [left, right])
        extent[0], extent[1] = min(extent[0], left), max(extent[1], right)
    wide = [right - left for left, right in lines.values()]
    return len(wide) >= 12 and sum(w > 0.28 * width for w in wide) >= 0.75 * len(wide)


def _jumps(boxes: list[tuple[float, float, float, float]], gutter: float) -> int:
    sides = [right <= gutter for left, _, right, _ in boxes if not left < gutter < right]
    return sum(a != b for a, b in pairwise(sides))


def _reading_order(boxes: list[tuple[float, float, float, float]], gutter: float) -> list[int]:
    """Bands between lines that span both columns; within a band the left column first."""
    order: list[int] = []
    left: list[int] = []
    right: list[int] = []
    for k in sorted(range(len(boxes)), key=lambda k: (-round(boxes[k][3]), boxes[k][0])):
        if boxes[k][0] < gutter < boxes[k][2]:
            order += left + right + [k]
            left, right = [], []
        else:
            (left if boxes[k][2] <= gutter else right).append(k)
    return order + left + right


def running_heads(pages: list[str]) -> set[str]:
    """First and last lines that stand on many pages, digits apart."""
    seen = Counter(key for text in pages for key in {_bare(line) for line in _edges(text)})
    return {key for key, n in seen.items() if key and n >= max(2, len(pages) // 4)}


def _edges(text: str) -> list[str]:
    lines = [line for line in text.replace("\r\n", "\n").split("\n") if line.strip()]
    return lines[:2] + lines[-2:]


def _bare(line: str) -> str:
    return re.sub(r"\d+|[ivxlc]+\b", "#", " ".join(line.lower().split()))


def paragraphs(text: str, heads: set[str]) -> list[str]:
    """A page's paragraphs: a line well short of the others that ends a sentence ends one."""
    lines = [line.strip() for line in text.replace("\r\n", "\n").replace("\r", "\n").split("\n")]
    filled = [k for k, line in enumerate(lines) if line]
    edge = set(filled[:2] + filled[-2:])
    kept = [
        line
        for k, line in enumerate(lines)
        if not (k in edge and (_bare(line) in heads or re.fullmatch(r"[-–\s]*\d{1,5}[-–\s]*", line)))
    ]
    widths = sorted(len(line) for line in kept if line)
    usual = widths[len(widths) * 3 // 4] if widths else 0
    found: list[str] = []
    block: list[str] = []
    for line in [*kept, ""]:
        if line:
            block.append(line)
        if block and (not line or (len(line) < 0.75 * usual and _END.search(line))):
            found.append(" ".join(_HYPHEN.sub("", "\n".join(block)).replace("\ufffe", "-").split()))
            block = []
    return found
