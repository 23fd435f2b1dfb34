"""BibTeX; blocks found by bibtexparser's splitter, so that one broken entry does not take the others with it."""

from __future__ import annotations

import logging
import re
from collections.abc import Iterator, Mapping
from typing import Any

from umber_knot.corpus.model import RawRecord
from umber_knot.gather.fields import (
    addresses,
    affiliate,
    counted,
    dated,
    language_code,
    split_addresses,
    split_references,
    split_values,
    unstarred,
    whole,
)
from umber_knot.gather.formats._tex import plain
from umber_knot.gather.stream import Head, Report, Stream

NAME = "BibTeX"
#: The splitter needs the whole text; more than this is not one person's bibliography.
LARGEST = 400_000_000
_MONTHS = dict(zip("jan feb mar apr may jun jul aug sep oct nov dec".split(), range(1, 13)))
#: What is inherited from the entry that ``crossref`` names, and as what.
_INHERITED = {
    "title": "booktitle",
    "booktitle": "booktitle",
    **{name: name for name in "year date editor publisher series volume address month organization isbn".split()},
}
#: Fields by what databases call them, bare letters → ours.
_CALLED = {
    "keywords": "author words",
    "keyword": "author words",
    "authorkeywords": "author words",
    "authorskeywords": "author words",
    "keywordsplus": "index words",
    "keywordplus": "index words",
    "indexkeywords": "index words",
    "indexterms": "index words",
    "keywordsindexed": "index words",
    "meshterms": "index words",
    "affiliation": "addresses",
    "affiliations": "addresses",
    "authoraffiliations": "addresses",
    "citedreferences": "references",
    "references": "references",
    "timescited": "citations",
    "citedby": "citations",
    "citations": "citations",
}
_USED = {
    *("author title year date journal booktitle journaltitle doi abstract volume pages language langid").split(),
    *("editor translator month").split(),
}
_OWNER = re.compile(
    r"^((?:[^,;()]+, [^,;()]+; )*[^,;()]+, [^,;()]+?) ?(?:\((?:corresponding|reprint) author\))?, ", re.I
)


def sniff(head: Head) -> float:
    """How surely this is BibTeX, 0 to 1."""
    return 0.9 if re.search(r"^\s*@\s*\w+\s*[{(]", head.text, re.M) else 0.0


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """Entries one by one; blocks that do not parse are reported with their line and left out."""
    logging.getLogger("bibtexparser").setLevel(logging.CRITICAL)  # we report what it logs, with line and cure
    from bibtexparser.library import Library
    from bibtexparser.model import DuplicateBlockKeyBlock, DuplicateFieldKeyBlock, ParsingFailedBlock, String
    from bibtexparser.splitter import Splitter

    text = stream.text(LARGEST, "BibTeX")
    library: Library = Splitter(text).split()
    if not library.entries and not library.failed_blocks:
        report.problem(0, "no BibTeX entry was found (an entry begins with @article{ or the like)")
    strings = {block.key.lower(): block.value for block in library.blocks if isinstance(block, String)}
    entries = [(block, _entry(block)) for block in library.blocks]
    by_key = {entry.key.lower(): _fields(entry, strings) for _, entry in entries if entry is not None}
    at, line = 0, 1
    for block, entry in entries:
        found = text.find(block.raw, at) if block.raw else -1  # the splitter's own count of lines drifts
        if found >= 0:
            line += text.count("\n", at, found)
            at = found
        if isinstance(block, DuplicateBlockKeyBlock):
            report.problem(line, f"the key {block.key!r} is used twice; both entries were kept", block.raw or "")
        elif isinstance(block, DuplicateFieldKeyBlock):
            twice = ", ".join(sorted(block.duplicate_keys))
            report.problem(line, f"there twice in one entry: {twice}; the longest was kept", block.raw or "")
        elif isinstance(block, ParsingFailedBlock):
            report.problem(line, _reason(block), block.raw or "")
        if entry is not None:
            fields = _fields(entry, strings)
            parent = by_key.get(plain(fields.get("crossref", "")).lower(), {})
            for name, ours in _INHERITED.items():
                if parent.get(name) and not fields.get(ours) and not (name == "booktitle" and parent.get("title")):
                    fields[ours] = parent[name]
            yield record_of(fields, entry.entry_type, entry.key, block.raw or "", line, report)


def _entry(block: Any) -> Any:
    """The entry of a block, also of one that uses a key or a field twice; None where there is none."""
    inner = getattr(block, "ignore_error_block", None)
    while inner is not None and hasattr(inner, "ignore_error_block"):
        inner = inner.ignore_error_block
    entry = inner if inner is not None else block
    return entry if hasattr(entry, "entry_type") else None


def _fields(entry: Any, strings: Mapping[str, str]) -> dict[str, str]:
    """The fields of an entry as text; of one that is there twice the longest."""
    found: dict[str, str] = {}
    for field in entry.fields:
        value, name = value_of(str(field.value), strings), field.key.lower()
        found[name] = max(found.get(name, ""), value, key=len)
    return found


def value_of(written: str, strings: Mapping[str, str], depth: int = 0) -> str:
    """A value with its pieces put together: texts in braces or quotation marks, numbers, and names of strings.

    >>> value_of('"Silt behind " # who', {"who": "{the Gates}"})
    'Silt behind the Gates'
    """
    whole_text = []
    for piece in _pieces(written):
        if len(piece) > 1 and piece[0] + piece[-1] in ("{}", '""'):
            whole_text.append(piece[1:-1])
        elif piece.lower() in strings and depth < 20:
            whole_text.append(value_of(strings[piece.lower()], strings, depth + 1))
        else:
            whole_text.append(piece)
    return "".join(whole_text)


def _pieces(written: str) -> list[str]:
    """What stands between the marks that put texts together."""
    if "#" not in written:
        return [written.strip()]
    pieces, depth, quoted, start = [], 0, False, 0
    for k, ch in enumerate(written):
        if ch == "{":
            depth += 1
        elif ch == "}":
            depth -= 1
        elif ch == '"' and depth == 0:
            quoted = not quoted
        elif ch == "#" and depth == 0 and not quoted:
            pieces.append(written[start:k].strip())
            start = k + 1
    return [*pieces, written[start:].strip()]


def _reason(block: object) -> str:
    error = getattr(block, "error", None)
    text = " ".join(map(str, (error, *vars(error).values()))) if error is not None else ""
    if "closing" in text or "end of file" in text.lower():
        return "a brace or quotation mark is never closed; this entry was left out, the others were read"
    return "this entry does not parse and was left out; check its braces, commas and quotation marks"


def record_of(fields: Mapping[str, str], kind: str, key: str, raw: str, line: int, report: Report) -> RawRecord:
    """A record from the fields of an entry, TeX still in them."""
    text = {name: plain(value) for name, value in fields.items() if name != "author"}
    ours: dict[str, str] = {}
    used = set(_USED)
    for name in fields:
        if (called := _CALLED.get(re.sub(r"[^a-z]", "", name))) is not None:
            if name == "keywords" and any(re.sub(r"[^a-z]", "", n) == "authorkeywords" for n in fields):
                called = "index words"  # where the author's stand beside them
            ours[called] = f"{ours[called]}; {fields[name]}" if called in ours else fields[name]
            used.add(name)
    notes = [name for name in ("note", "annote") if counted(text.get(name, ""))]
    persons = [plain(name) for name in split_names(fields.get("author", "")) if name.lower() != "others"]
    record = RawRecord(
        line=line,
        raw=raw,
        entry=key,
        type=kind,
        title=text.get("title", ""),
        doi=text.get("doi", ""),
        abstract=text.get("abstract", ""),
        persons=persons,
        keywords=_words(ours.get("author words", "")),
        venue=text.get("journal") or text.get("journaltitle") or text.get("booktitle", ""),
        references=[plain(one).rstrip(".") for one in _listed(ours.get("references", ""))],
        citations=whole(plain(ours.get("citations", ""))) or (counted(text[notes[0]]) if notes else 0),
        volume=text.get("volume", ""),
        pages=text.get("pages", "").replace("–", "-"),
        language=language_code(text.get("language") or text.get("langid", "")),
        others=[
            ("person", role, plain(name))
            for role in ("editor", "translator")
            if role in fields
            for name in split_names(fields[role])
            if name.lower() != "others"
        ]
        + [("keyword", "index", word) for word in _words(ours.get("index words", ""))],
        extra={name: value for name, value in text.items() if name not in used and name not in notes},
    )
    written = text.get("year", "")
    month = text.get("month", "")
    month = str(_MONTHS.get(month.lower(), month))
    month_said = f"{written}-{int(month):02}" if month.isdecimal() and written.isdecimal() else f"{written} {month}"
    dated(record, (month_said if month and written else written, text.get("date", "")), report)
    _add_addresses(record, [plain(one) for one in _listed(ours.get("addresses", ""), addresses=True)])
    return record


def _words(written: str) -> list[str]:
    text = plain(written)
    return [unstarred(word) for word in split_values(text, ";" if ";" in text else ",")]


def _listed(written: str, addresses: bool = False) -> list[str]:
    """The values of a field that holds them all: one a line where several lines end so, else by semicolon."""
    lines = [line.strip() for line in written.strip("{} \n").split("\n") if line.strip()]
    ended = sum(line.endswith(".") for line in lines)
    if len(lines) > 1 and ended >= 0.6 * len(lines):
        whole_lines: list[str] = []
        open_ = False
        for line in lines:
            if open_:
                whole_lines[-1] += f" {line}"
            else:
                whole_lines.append(line)
            open_ = not line.endswith(".")
        return whole_lines
    together = " ".join(lines)
    return split_addresses(together) if addresses else split_references(together)


def _add_addresses(record: RawRecord, lines: list[str]) -> None:
    """Addresses, those that name their authors (``Dray, Tamsin, Univ Eastmere``) with whose they are."""
    surnames = {name.partition(",")[0].strip().lower(): name for name in record.persons}
    of: dict[str, list[str]] = {}
    written = []
    for line in lines:
        owner = _OWNER.match(line)
        names = [n for n in (owner[1].split("; ") if owner else []) if n.partition(",")[0].strip().lower() in surnames]
        address = line[owner.end() :] if owner and names else line
        written.append(address)
        for name in names:
            of.setdefault(surnames[name.partition(",")[0].strip().lower()], []).append(address)
    affiliate(record, written, of)


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
