"""Cited references: what each says, and which record of the study it means.

Matched by identifier, else by author, year, venue, volume and page, else by title; the confidence and the way it was
found are kept as evidence.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from umber_knot.corpus.letters import bare, plain_words
from umber_knot.corpus.likeness import bare_doi, family_of, same_venue
from umber_knot.corpus.model import Corpus, Floats, Ints

_IDENTIFIER = re.compile(r"^(openalex|pmid|isbn|ut|mag|eid):\s*(\S+)$", re.I)
_YEARS = (
    re.compile(r"\((1[5-9]\d\d|20\d\d)[a-z]?\)"),
    re.compile(r"(?:^|[,;.\s])(1[5-9]\d\d|20\d\d)[a-z]?(?=\s*(?:[,;.:)]|$))"),
    re.compile(r"(?<![\d-])(1[5-9]\d\d|20\d\d)(?!\d)"),
)
_VOLUME = (
    re.compile(r",\s*V(\d+[A-Z]?)\b"),
    re.compile(r"\b[Vv]ol(?:ume|\.)?\s*(\d+)"),
    re.compile(r"(?<![\d(])(\d{1,4})\s*(?:\([^)]{1,20}\))?\s*[:,]\s*(?:pp?\.?\s*)?[A-Za-z]?\d+"),
)
_PAGE = (
    re.compile(r",\s*P([A-Z]?\d+)\b"),
    re.compile(r"\bpp?\.?\s*([A-Za-z]?\d+)"),
    re.compile(r"\d\s*(?:\([^)]{1,20}\))?\s*[:,]\s*([A-Za-z]?\d+)"),
)
_PLACE = re.compile(
    r"^(?P<venue>(?:[^.;:]|\.(?=[^\s]))+?(?:\s?\([^)]*\))?)\.\s(?P<year>1[5-9]\d\d|20\d\d)(?:\s[A-Z][\w-]{2,12})?(?:\s\d{1,2})?"
    r"(?:\s\d\w{0,3}\sPt|\sSpec No)?;\s?(?P<volume>\d+\w?)?(?:\s?Suppl\s?\w*)?(?:\s?\([^)]*\))?:(?P<page>[A-Za-z]{0,4}\d+)?"
)
_MONTH = re.compile(r"^[A-Z][a-z]{2}[a-z]*(?:[-/][A-Z][a-z]+)?(?:\s\d{1,2})?\s*;\s*")
#: How a reference was matched, with the confidence that carries; only added to.
WAYS = (
    ("identifier", 1.0),
    ("author, year, venue, volume and page", 0.99),
    ("author, year, volume and page", 0.97),
    ("title, author and year", 0.95),
    ("author, year and venue", 0.85),
    ("venue, year, volume and page", 0.97),
    ("its own key", 0.99),
)
SHORTEST_TITLE = 20  # characters of a title that is told by itself within a reference


class Reference(NamedTuple):
    """What a cited reference says; parts that were not found are empty (year 0)."""

    identifier: str
    author: str  # family name of the first author, bare
    initial: str
    year: int
    venue: str
    volume: str
    page: str
    title: str


@dataclass(frozen=True, slots=True)
class Matches:
    """For every form of a reference: the record it means (−1: none of the study), how surely, and how (see WAYS).

    Arrays of shape (forms,); ``way`` indexes WAYS where ``record`` is not −1.
    """

    record: Ints
    confidence: Floats
    way: Ints

    def __len__(self) -> int:
        return int((self.record >= 0).sum())


def reference_text(
    author: str = "", year: str = "", title: str = "", venue: str = "", volume: str = "", page: str = "", doi: str = ""
) -> str:
    """A reference in parts as one form, in the order databases write it."""
    parts = [
        author,
        year,
        title,
        venue,
        f"V{volume}" if volume else "",
        f"P{page}" if page else "",
        f"DOI {doi}" if doi else "",
    ]
    return ", ".join(part.strip() for part in parts if part.strip())


def says_too_little(text: str) -> bool:
    """Whether a reference is no more than an author and a year, as several works have: it names none of them.

    >>> says_too_little("Dray, T, 1998"), says_too_little("1998"), says_too_little("Dray, T, 1998, J MUD, V1, P2")
    (True, True, False)
    """
    bare_text = re.sub(r"\b(1[5-9]|20)\d\d[a-z]?\b", " ", text)
    words = [w for w in re.split(r"[\s,.;:()]+", bare_text) if w]
    return (
        not re.search(r"\d", bare_text) and sum(len(w) > 1 and not w.isupper() for w in words) <= 1 and len(words) <= 4
    )


def parse_reference(text: str) -> Reference:
    """A cited reference as databases and authors write it.

    >>> parse_reference("Dray T, 1998, J ESTUARY WORKS, V12, P34")[1:7]
    ('dray', 't', 1998, 'J ESTUARY WORKS', '12', '34')
    >>> parse_reference("Dray, T. (1998). Silt behind the gates. Mud and Silt, 12(3), 34–56.")[3:]
    (1998, 'Mud and Silt', '12', '34', 'Silt behind the gates')
    """
    known = _IDENTIFIER.match(text.strip())
    if known:
        return Reference(f"{known[1].lower()}:{known[2].lower()}", "", "", 0, "", "", "", "")
    doi = bare_doi(text)
    told = re.sub(r"[,;.\s]*(?:doi:?\s*)?(?:https?://\S+|10\.\d{4,9}/\S+)", "", text, flags=re.I) if doi else text
    if place := _PLACE.match(told):  # nobody is named
        where = place["volume"] or "", (place["page"] or "").lstrip("0"), ""
        return Reference(f"doi:{doi}" if doi else "", "", "", int(place["year"]), place["venue"].strip(), *where)
    year, at, end = _year(told)
    before, after = told[:at].strip(" ,.(["), told[end:].lstrip(" ),.;:]")
    after = _MONTH.sub("", after)
    author, initial = _author(before or told)
    volume = next((found[1] for p in _VOLUME if (found := p.search(told))), "")
    page = next((found[1] for p in _PAGE if (found := p.search(told))), "")
    title, venue = _title_and_venue(before, after, year)
    return Reference(f"doi:{doi}" if doi else "", author, initial, year, venue, volume, page.lstrip("0"), title)


def _year(text: str) -> tuple[int, int, int]:
    for pattern in _YEARS:
        if found := pattern.search(text):
            return int(found[1]), found.start(), found.end()
    return 0, len(text), len(text)


def _author(before: str) -> tuple[str, str]:
    """(family, first initial) of the first name in what stands before the year."""
    first = re.split(r";|\band\b|&|\bet al", before, maxsplit=1)[0].strip(" .,")
    if "," in first:
        family, _, rest = first.partition(",")
        rest = rest.strip()
        if " " in family and (run := re.match(r"(.*\S)\s+([A-Z](?:[.\s-]?[A-Z]){0,3}\.?)$", family)):
            family, rest = run[1], run[2]
    else:
        run = re.match(r"([^.]*?\S)\s+([A-Z](?:[.\s-]?[A-Z]){0,3})\b\.?", first)
        family, rest = (run[1], run[2]) if run else (first.split(".")[0], "")
    initial = next((bare(ch)[:1] for ch in rest if ch.isalpha()), "")
    return " ".join(bare(family).replace(".", " ").split()), initial


def _title_and_venue(before: str, after: str, year: int) -> tuple[str, str]:
    if not year:
        return "", ""
    if re.match(r"\d+\s*[(:;]", after):  # authors. title. venue year;volume:page
        parts = [p.strip() for p in re.split(r"[.?!]\s+", before) if p.strip()]
        return (parts[-2] if len(parts) > 2 else ""), (parts[-1].rstrip(" ,.") if len(parts) > 1 else "")
    listed = re.match(r"([^,.\d][^,]*?),\s*(?:\d+[A-Za-z]?\b|[Vv]ol|pp?\.)", after)
    if listed and (own := re.search(r"(?:[A-Z]\.,|,)\s*([^,]{8,}[^,]*(?:,\s[^,]{2,})*?)$", before)):
        return own[1].strip(" .,"), listed[1].strip()  # authors, title, (year) venue, volume, pages
    sentences = [s.strip() for s in re.split(r"(?<=[^A-Z])[.?!]\s+", before) if s.strip()]
    if len(sentences) >= 3 and len(before) > 60:  # authors. title. venue year;volume:page
        return sentences[-2], sentences[-1].rstrip(" ,.")
    dotted = [s.strip() for s in re.split(r"(?<=[^A-Z])[.?!]\s+", after) if s.strip()]
    if len(dotted) >= 2:  # authors (year). title. venue, volume, pages
        return dotted[0].rstrip("."), re.split(r",\s*(?:[Vv]ol|\d)|\s\d", dotted[1])[0].strip(" ,.")
    parts = [p.strip() for p in after.split(",") if p.strip()]
    parts = [p for p in parts if not re.fullmatch(r"[VP][A-Z]?\d+[A-Z]?|DOI.*", p)]
    if len(parts) >= 2 and len(parts[0]) > SHORTEST_TITLE:
        return parts[0], parts[-1]
    return "", parts[0].rstrip(".") if parts else ""


def match_references(corpus: Corpus, check: Callable[[], None] = lambda: None) -> Matches:
    """Match every form of a reference to a record of the corpus; ``check`` may raise to stop."""
    forms = corpus.of("reference").forms
    record, confidence = np.full(len(forms), -1, np.int32), np.zeros(len(forms))
    way = np.zeros(len(forms), np.int8)
    if not len(forms) or not len(corpus):
        return Matches(record, confidence, way)
    by_identifier = _identifiers(corpus)
    by_entry = _entries(corpus, forms)
    by_place = _by_place(corpus)
    people = corpus.of("person")
    names = list(people.forms)
    first: dict[int, str] = {}
    for r, f in zip(people.record[::-1].tolist(), people.form[::-1].tolist()):
        first[r] = names[f]  # walked backwards: the first mention stays
    bucket: dict[tuple[str, int], list[int]] = {}
    for r, name in first.items():
        bucket.setdefault((family_of(name), int(corpus.year[r])), []).append(r)
    venue = _venues(corpus)
    for k, form in enumerate(forms):
        if k % 2000 == 0:
            check()
        reference = parse_reference(form)
        found = by_identifier.get(reference.identifier, -1) if reference.identifier else -1
        how = 0
        if found < 0 and form in by_entry:
            found, how = by_entry[form], 6
        if found < 0 and reference.year and reference.page and not reference.author:
            found, how = _in_place(corpus, by_place, reference, venue)
        if found < 0 and reference.author and reference.year:
            found, how = _among(
                corpus, bucket.get((reference.author.split()[-1], reference.year), ()), reference, form, first, venue
            )
        if found >= 0:
            record[k], way[k], confidence[k] = found, how, WAYS[how][1]
    return Matches(record, confidence, way)


def _identifiers(corpus: Corpus) -> dict[str, int]:
    found: dict[str, int] = {}
    for r, doi in enumerate(corpus.doi):
        if doi:
            found.setdefault(f"doi:{doi}", r)
    for r, entry in enumerate(corpus.entry):
        if entry[:1] == "W" and entry[1:].isdecimal():
            found.setdefault(f"openalex:{entry.lower()}", r)
        elif entry.isdecimal():
            found.setdefault(f"pmid:{entry}", r)
    return found


def _entries(corpus: Corpus, forms: Sequence[str]) -> dict[str, int]:
    """References that are an entry's own key → the record, where one record alone has it and cites among its own."""
    wanted = set(forms)
    found: dict[str, int] = {}
    twice = set()
    for r, entry in enumerate(corpus.entry):
        if entry and entry in wanted:
            twice |= {entry} if entry in found else set()
            found.setdefault(entry, r)
    mentions = corpus.of("reference")
    sources: dict[int, set[int]] = {}
    told = {k for k, form in enumerate(forms) if form in found}
    for r, f in zip(mentions.record.tolist(), mentions.form.tolist()):
        if f in told:
            sources.setdefault(f, set()).add(int(corpus.source[r]))
    number = {form: k for k, form in enumerate(forms) if form in found}
    return {
        entry: r
        for entry, r in found.items()
        if entry not in twice and sources.get(number[entry], set()) <= {int(corpus.source[r])}
    }


def _by_place(corpus: Corpus) -> dict[tuple[int, str, str], list[int]]:
    """(year, volume, first page) → records."""
    found: dict[tuple[int, str, str], list[int]] = {}
    for r in range(len(corpus)):
        page = _first_page(corpus.pages[r])
        if page and corpus.year[r]:
            found.setdefault((int(corpus.year[r]), corpus.volume[r], page), []).append(r)
    return found


def _first_page(pages: str) -> str:
    return re.split(r"[-–,]", pages)[0].strip().lower().lstrip("0")


def _in_place(
    corpus: Corpus, places: dict[tuple[int, str, str], list[int]], reference: Reference, venue: dict[int, str]
) -> tuple[int, int]:
    """The one record at a volume and page of a venue in a year, where nobody is named; (−1, 0) for none."""
    rows = [
        r
        for r in places.get((reference.year, reference.volume, reference.page.lower()), ())
        if r in venue
        and same_venue(reference.venue, venue[r])
        and not (reference.identifier.startswith("doi:") and corpus.doi[r])
    ]
    return (rows[0], 5) if len(rows) == 1 else (-1, 0)


def _venues(corpus: Corpus) -> dict[int, str]:
    mentions = corpus.of("venue")
    forms = list(mentions.forms)
    return {r: forms[f] for r, f in zip(mentions.record.tolist(), mentions.form.tolist())}


def _among(
    corpus: Corpus, rows: Sequence[int], reference: Reference, form: str, first: dict[int, str], venue: dict[int, str]
) -> tuple[int, int]:
    """The record among those of this author and year that the reference means, and how it is told; (−1, 0) for none."""
    plain = ""
    best: list[tuple[int, int]] = []
    for r in rows:
        given = first[r].partition(",")[2].strip()
        if reference.initial and given and not bare(given).startswith(reference.initial):
            continue
        page = re.split(r"[-–]", corpus.pages[r])[0].strip().lstrip("0")
        volume = corpus.volume[r]
        if reference.identifier.startswith("doi:") and corpus.doi[r]:
            continue  # both name a document, and not the same one
        differs = (reference.volume and volume and reference.volume != volume) or (
            reference.page and page and reference.page != page
        )
        same_place = bool(reference.volume and reference.page) and reference.volume == volume and reference.page == page
        there = bool(reference.venue) and r in venue and same_venue(reference.venue, venue[r])
        if same_place:
            best.append((1 if there else 2, r))
            continue
        title = plain_words(corpus.title[r])
        if len(title) >= SHORTEST_TITLE:
            plain = plain or plain_words(form)
            if title in plain:
                best.append((3, r))
                continue
        if reference.title and len(title) >= 8 and plain_words(reference.title) == title:
            best.append((3, r))
            continue
        if there and not differs and not (reference.title and corpus.title[r]):
            best.append((4, r))
    if not best:
        return -1, 0
    best.sort()
    way = best[0][0]
    if sum(w == way for w, _ in best) > 1:  # two that fit alike: neither is told
        return -1, 0
    return best[0][1], way


def cited_by(corpus: Corpus, matches: Matches, record: int) -> Ints:
    """The records whose references mean a record, in order."""
    mentions = corpus.of("reference")
    return np.unique(mentions.record[matches.record[mentions.form] == record]).astype(np.int32)
