"""Documents made by hand: the smallest DOCX and PDF files that hold a text."""

from __future__ import annotations

import io
import textwrap
import zipfile
from collections.abc import Sequence

from umber_knot.markup import xml

_W = 'xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"'
_STAMP = (1980, 1, 1, 0, 0, 0)  # archives carry times; the same study gives the same bytes


def docx(title: str, author: str, blocks: Sequence[tuple[int, str]]) -> bytes:
    """A Word document; blocks are (heading level or 0, text)."""
    body = "".join(
        f'<w:p>{f"""<w:pPr><w:pStyle w:val="Heading{level}"/></w:pPr>""" if level else ""}<w:r><w:t>{xml(text)}</w:t></w:r></w:p>'
        for level, text in blocks
    )
    styles = "".join(
        f'<w:style w:type="paragraph" w:styleId="Heading{n}"><w:name w:val="heading {n}"/></w:style>' for n in (1, 2, 3)
    )
    types = "http://schemas.openxmlformats.org/package/2006/content-types"
    office = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
    parts = {
        "[Content_Types].xml": f'<Types xmlns="{types}"><Default Extension="xml" ContentType="application/xml"/>'
        '<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>'
        '<Override PartName="/word/document.xml" ContentType="application/vnd.openxmlformats-officedocument.wordprocessingml.document.main+xml"/>'
        "</Types>",
        "_rels/.rels": '<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">'
        f'<Relationship Id="r1" Type="{office}/officeDocument" Target="word/document.xml"/></Relationships>',
        "docProps/core.xml": '<cp:coreProperties xmlns:cp="http://schemas.openxmlformats.org/package/2006/metadata/core-properties" '
        f'xmlns:dc="http://purl.org/dc/elements/1.1/"><dc:title>{xml(title)}</dc:title><dc:creator>{xml(author)}</dc:creator></cp:coreProperties>',
        "word/styles.xml": f"<w:styles {_W}>{styles}</w:styles>",
        "word/document.xml": f"<w:document {_W}><w:body>{body}</w:body></w:document>",
    }
    file = io.BytesIO()
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, text in parts.items():
            archive.writestr(zipfile.ZipInfo(name, _STAMP), f'<?xml version="1.0" encoding="UTF-8"?>\n{text}')
    return file.getvalue()


def pdf(title: str, author: str, paragraphs: Sequence[str], head: str = "") -> bytes:
    """A PDF of A4 pages in two columns, with a running head and page numbers; words are parted at line ends."""
    lines = [line for text in paragraphs for line in [*_set(text, 44), ""]]
    columns = [lines[k : k + 52] for k in range(0, len(lines), 52)]
    pages = [columns[k : k + 2] for k in range(0, len(columns), 2)]
    objects = [
        "<</Type/Catalog/Pages 2 0 R>>",
        "",
        "<</Type/Font/Subtype/Type1/BaseFont/Times-Roman/Encoding/WinAnsiEncoding>>",
    ]
    kids = []
    for number, page in enumerate(pages, 1):
        drawn = [_line(60, 810, head)] if head else []
        for x, column in zip((60, 310), page):
            drawn += [_line(x, 780 - 14 * k, line) for k, line in enumerate(column) if line]
        drawn.append(_line(295, 30, str(number)))
        content = "BT /F1 10 Tf\n" + "\n".join(drawn) + "\nET"
        objects.append(f"<</Length {len(content.encode('cp1252', 'replace'))}>>\nstream\n{content}\nendstream")
        objects.append(
            f"<</Type/Page/Parent 2 0 R/MediaBox[0 0 595 842]/Contents {len(objects)} 0 R/Resources<</Font<</F1 3 0 R>>>>>>"
        )
        kids.append(f"{len(objects)} 0 R")
    objects[1] = f"<</Type/Pages/Kids[{' '.join(kids)}]/Count {len(kids)}>>"
    objects.append(f"<</Title({_escaped(title)})/Author({_escaped(author)})>>")
    data, places = b"%PDF-1.4\n", []
    for number, text in enumerate(objects, 1):
        places.append(len(data))
        data += f"{number} 0 obj\n{text}\nendobj\n".encode("cp1252", "replace")
    table = "".join(f"{place:010} 00000 n \n" for place in places)
    return (
        data
        + (
            f"xref\n0 {len(objects) + 1}\n0000000000 65535 f \n{table}trailer\n<</Size {len(objects) + 1}/Root 1 0 R/Info {len(objects)} 0 R>>\n"
            f"startxref\n{len(data)}\n%%EOF\n"
        ).encode()
    )


def _set(text: str, width: int) -> list[str]:
    """A paragraph in lines, a long word at a line's end parted by a hyphen now and then."""
    lines: list[str] = []
    rest = text
    while rest:
        line = textwrap.wrap(rest, width)[0]
        left = rest[len(line) :].lstrip()
        word = left.split(" ", 1)[0]
        room = width - len(line) - 2
        if len(word) > 9 and room >= 4 and word.isalpha():
            cut = min(room, len(word) - 4)
            line, left = f"{line} {word[:cut]}-", left[cut:]
        lines.append(line)
        rest = left
    return lines


def _line(x: int, y: int, text: str) -> str:
    return f"1 0 0 1 {x} {y} Tm ({_escaped(text)}) Tj"


def _escaped(text: str) -> str:
    return text.replace("\\", r"\\").replace("(", r"\(").replace(")", r"\)")
