"""BibTeX; blocks found by bibtexparser's splitter, so that one broken entry does not take the others with it."""

from __future__ import annotations

import logging
import re
from collections.abc import Iterator
from functools import lru_cache
from typing import Any

from umber_knot.corpus.model import RawRecord
from umber_knot.gather.fields import addresses, affiliate, dated, language_code, split_addresses, split_values, whole
from umber_knot.gather.stream import Head, Report, Stream

NAME = "BibTeX"
#: The splitter needs the whole text; more than this is not one person's bibliography.
LARGEST = 400_000_000
_USED = {
    "author",
    "title",
    "year",
    "date",
    "journal",
    "booktitle",
    "journaltitle",
    "keywords",
    "doi",
    "abstract",
    "affiliation",
    "cited-references",
    "references",
    "volume",
    "pages",
    "language",
    "langid",
    "times-cited",
    "editor",
    "translator",
    "month",
}


def sniff(head: Head) -> float:
    """How surely this is BibTeX, 0 to 1."""
    return 0.9 if re.search(r"^\s*@\s*\w+\s*[{(]", head.text, re.M) else 0.0


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """Entries one by one; blocks that do not parse are reported with their line and left out."""
    logging.getLogger("bibtexparser").setLevel(logging.CRITICAL)  # we report what it logs, with line and cure
    from bibtexparser.library import Library
    from bibtexparser.middlewares import RemoveEnclosingMiddleware, ResolveStringReferencesMiddleware
    from bibtexparser.model import DuplicateBlockKeyBlock, Entry, ParsingFailedBlock
    from bibtexparser.splitter import Splitter

    library: Library = Splitter(stream.text(LARGEST, "BibTeX")).split()
    for middleware in (ResolveStringReferencesMiddleware(True), RemoveEnclosingMiddleware(True)):
        library = middleware.transform(library)
    if not library.entries and not library.failed_blocks:
        report.problem(0, "no BibTeX entry was found (an entry begins with @article{ or the like)")
    for block in library.blocks:
        at = (block.start_line or 0) + 1
        if isinstance(block, Entry):
            yield _record(block, at, report)
        elif isinstance(block, DuplicateBlockKeyBlock):
            report.problem(at, f"the key {block.key!r} is used twice; both entries were kept", block.raw or "")
            yield _record(_enclosed(block.ignore_error_block), at, report)
        elif isinstance(block, ParsingFailedBlock):
            report.problem(at, _reason(block), block.raw or "")


def _enclosed(entry: Any) -> Any:
    from bibtexparser.library import Library
    from bibtexparser.middlewares import RemoveEnclosingMiddleware

    return RemoveEnclosingMiddleware(True).transform_entry(entry, Library())


def _reason(block: object) -> str:
    error = getattr(block, "error", None)
    text = " ".join(map(str, (error, *vars(error).values()))) if error is not None else ""
    if "closing" in text or "end of file" in text.lower():
        return "a brace or quotation mark is never closed; this entry was left out, the others were read"
    return "this entry does not parse and was left out; check its braces, commas and quotation marks"


def _record(entry: Any, line: int, report: Report) -> RawRecord:
    fields = {f.key.lower(): str(f.value) for f in entry.fields}
    text = {key: plain(value) for key, value in fields.items() if key != "author"}
    words = text.get("keywords", "")
    record = RawRecord(
        line=line,
        raw=entry.raw or "",
        entry=entry.key,
        type=entry.entry_type,
        title=text.get("title", ""),
        doi=text.get("doi", ""),
        abstract=text.get("abstract", ""),
        persons=[plain(name) for name in split_names(fields.get("author", "")) if name.lower() != "others"],
        keywords=split_values(words, ";" if ";" in words else ","),
        venue=text.get("journal") or text.get("journaltitle") or text.get("booktitle", ""),
        references=split_values(text.get("cited-references") or text.get("references", "")),
        citations=whole(text.get("times-cited", "")),
        volume=text.get("volume", ""),
        pages=text.get("pages", "").replace("–", "-"),
        language=language_code(text.get("language") or text.get("langid", "")),
        others=[
            ("person", role, plain(name))
            for role in ("editor", "translator")
            if role in fields
            for name in split_names(fields[role])
            if name.lower() != "others"
        ],
        extra={key: value for key, value in text.items() if key not in _USED},
    )
    written = text.get("year", "")
    month = text.get("month", "")
    dated(record, (text.get("date", ""), f"{written} {month}" if month and written else written), report)
    if "affiliation" in text:
        affiliate(record, split_addresses(text["affiliation"]))
    return record


def split_names(author: str) -> list[str]:
    """The names of an author field: split at `and` outside braces.

    >>> split_names("Dray, Tamsin and {Marsh and Mill Trust} and Vashley, O.")
    ['Dray, Tamsin', '{Marsh and Mill Trust}', 'Vashley, O.']
    """
    names: list[str] = []
    current: list[str] = []
    depth = 0
    for word in author.split():
        if word.lower() == "and" and depth == 0:
            names.append(" ".join(current))
            current = []
        else:
            depth += word.count("{") - word.count("}")
            current.append(word)
    names.append(" ".join(current))
    return [name for name in names if name]


@lru_cache(1)
def _latex() -> Any:
    from pylatexenc.latex2text import LatexNodes2Text

    return LatexNodes2Text(math_mode="verbatim", strict_latex_spaces=False)


@lru_cache(65536)
def plain(value: str) -> str:
    r"""LaTeX as a reader sees it.

    >>> plain(r"S{\o}rlie, {A}nke")
    'Sørlie, Anke'
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


def write(records: Iterator[RawRecord]) -> Iterator[str]:
    """The records as BibTeX text in UTF-8, a piece a record."""
    for n, r in enumerate(records, 1):
        kind = r.type if r.type.isalpha() and r.type.islower() else "article"
        fields = {
            "title": r.title,
            "author": " and ".join(r.persons),
            "year": str(r.year) if r.year else "",
            "journal": r.venue,
            "keywords": "; ".join(r.keywords),
            "affiliation": "; ".join(addresses(r)),
            "date": r.date if r.date != str(r.year) else "",
            "volume": r.volume,
            "pages": r.pages,
            "language": r.language,
            "times-cited": str(r.citations or ""),
            "doi": r.doi,
            "abstract": r.abstract,
            "cited-references": "; ".join(r.references),
        }
        for role in ("editor", "translator"):
            fields[role] = " and ".join(t for k, what, t in r.others if (k, what) == ("person", role))
        body = ",\n".join(f"  {key} = {{{value}}}" for key, value in fields.items() if value)
        yield f"@{kind}{{{r.entry or f'record{n}'},\n{body}\n}}\n\n"
