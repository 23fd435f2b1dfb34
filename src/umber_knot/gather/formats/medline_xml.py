"""MEDLINE in XML: sets of citations with their people, each with affiliations and ORCID, headings and references."""

from __future__ import annotations

import re
from collections.abc import Iterator

from umber_knot.corpus.model import RawRecord
from umber_knot.gather.fields import affiliate, dated, language_code, orcid, person, split_addresses
from umber_knot.gather.formats._xml import Element, pieces, text_of
from umber_knot.gather.stream import Head, Report, Stream

NAME = "MEDLINE XML"
#: A citation, and the element it stands in together with what a database adds to it.
_CITATION = re.compile(r"(?:<(\w+)>\s*)?<(MedlineCitation|BookDocument)\b")
_SETS = ("MedlineCitationSet", "DeleteCitation")


def sniff(head: Head) -> float:
    """How surely this is MEDLINE XML, 0 to 1."""
    return 0.97 if _CITATION.search(head.text) else 0.0


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """Citations one by one."""
    found = _CITATION.search(stream.head.text)
    inside = found[1] if found and found[1] and found[1] not in _SETS else ""
    names = tuple(filter(None, (inside, "MedlineCitation", "BookDocument")))
    for element, line, raw in pieces(stream, report, *names):
        own = element.tag in ("MedlineCitation", "BookDocument")
        citation = element if own else element.find("MedlineCitation")
        if citation is None:
            citation = element.find("BookDocument")
        if citation is None:
            report.problem(line, "a record without a citation in it; it was left out", raw)
            continue
        yield _record(element, citation, line, raw, report)


def _record(whole: Element, citation: Element, line: int, raw: str, report: Report) -> RawRecord:
    article = citation.find("Article")
    article = citation if article is None else article

    def one(*paths: str) -> str:
        return next((t for t in (text_of(article.find(path)) for path in paths) if t), "")

    journal = next((e for path in ("Journal/JournalIssue", "Book") if (e := article.find(path)) is not None), article)
    ids = {i.get("IdType", ""): text_of(i) for i in whole.iterfind("*/ArticleIdList/ArticleId")}
    doi = next((text_of(i) for i in article.iterfind("ELocationID") if i.get("EIdType") == "doi"), ids.get("doi", ""))
    people = [_person(a) for a in article.iterfind("AuthorList/Author")]
    editors = [_person(a) for a in article.iterfind("Book/AuthorList[@Type='editors']/Author")]
    types = [text_of(t) for t in article.iterfind("PublicationTypeList/PublicationType")] or [
        text_of(t) for t in citation.iterfind("PublicationType")
    ]
    number = text_of(citation.find("PMID"))
    record = RawRecord(
        line=line,
        raw=raw,
        entry=number,
        type=next(iter(types), ""),
        title=one("ArticleTitle", "Book/BookTitle").rstrip(".").strip("[]"),
        doi=doi,
        abstract=" ".join(filter(None, map(_abstract, article.iterfind("Abstract/AbstractText")))),
        persons=[name for name, *_ in people if name],
        keywords=[w for k in citation.iterfind("KeywordList/Keyword") if (w := text_of(k).strip("* "))],
        venue=one("Journal/Title", "Book/BookTitle") or text_of(citation.find("MedlineJournalInfo/MedlineTA")),
        volume=text_of(journal.find("Volume")),
        pages=one("Pagination/MedlinePgn") or _pages(article),
        language=language_code(one("Language")),
        references=list(filter(None, map(_reference, whole.iter("Reference")))),
        identifiers=[f"pmid:{number}"] if number else (),
        others=[("keyword", "index", h) for m in citation.iterfind("MeshHeadingList/MeshHeading") for h in _headings(m)]
        + [("person", "editor", name) for name, *_ in editors if name]
        + [
            ("person", "contributor", name)
            for i in citation.iterfind("InvestigatorList/Investigator")
            if (name := _person(i)[0])
        ],
        known_as={name: f"orcid:{number}" for name, number, _ in people if name and number},
        extra=_extra(citation, article, journal, types, ids),
    )
    dated(record, [_date(journal.find("PubDate")) or _date(article.find("ArticleDate"))], report)
    of = {name: several for name, _, several in people if name and several}
    affiliate(record, [address for several in of.values() for address in several], of)
    return record


def _person(author: Element) -> tuple[str, str, list[str]]:
    """(name, ORCID, addresses) of an author; a group has its own name."""
    given = text_of(author.find("ForeName")) or text_of(author.find("Initials"))
    name = person(text_of(author.find("LastName")), given, text_of(author.find("Suffix")))
    number = next((orcid(text_of(i)) for i in author.iterfind("Identifier") if i.get("Source") == "ORCID"), "")
    told = [text_of(a) for a in author.iterfind("AffiliationInfo/Affiliation")] or [text_of(author.find("Affiliation"))]
    return name or text_of(author.find("CollectiveName")), number, [a for t in told for a in split_addresses(t)]


def _abstract(element: Element) -> str:
    """A part of an abstract after its heading."""
    text, label = text_of(element), element.get("Label", "")
    return f"{label.capitalize()}: {text}" if label and text and label != "UNLABELLED" else text


def _headings(mesh: Element) -> list[str]:
    """A subject heading with each of its qualifiers."""
    name = text_of(mesh.find("DescriptorName"))
    several = [f"{name}/{text_of(q)}" for q in mesh.iterfind("QualifierName")]
    return several or [name] if name else []


def _pages(article: Element) -> str:
    start, end = text_of(article.find("Pagination/StartPage")), text_of(article.find("Pagination/EndPage"))
    number = next((text_of(i) for i in article.iterfind("ELocationID") if i.get("EIdType") == "pii"), "")
    return "-".join(filter(None, (start, end))) or number


def _date(element: Element | None) -> str:
    """A date in parts, or as written (``1998 Nov-Dec``)."""
    if element is None:
        return ""
    parts = [text_of(element.find(name)) for name in ("Year", "Month", "Day", "Season")]
    return " ".join(filter(None, parts)) or text_of(element.find("MedlineDate"))


def _reference(element: Element) -> str:
    """A reference as it is cited, or its identifier where there is nothing else."""
    text, ids = "", {}
    for part in element:
        if part.tag == "Citation":
            text = text_of(part)
        elif part.tag == "ArticleIdList":
            ids = {i.get("IdType", ""): i.text or "" for i in part}
    doi = ids.get("doi")
    if doi and doi.lower() not in text.lower():
        return f"{text.rstrip('. ')}. DOI {doi}" if text else f"DOI {doi}"
    return text or next((f"pmid:{number}" for number in ids.values() if number.isdecimal()), "")


def _extra(
    citation: Element, article: Element, journal: Element, types: list[str], ids: dict[str, str]
) -> dict[str, object]:
    told: dict[str, object] = {
        "types": types if len(types) > 1 else [],
        "issue": text_of(journal.find("Issue")),
        "issn": text_of(article.find("Journal/ISSN")),
        "vernacular title": text_of(article.find("VernacularTitle")),
        "journal abbreviation": text_of(article.find("Journal/ISOAbbreviation")),
        "electronic date": _date(article.find("ArticleDate")),
        "pmc": ids.get("pmc", ""),
        "publisher": text_of(article.find("Book/Publisher/PublisherName")),
        "substances": [text_of(c.find("NameOfSubstance")) for c in citation.iterfind("ChemicalList/Chemical")],
        "grants": [" ".join(text_of(e) for e in g) for g in article.iterfind("GrantList/Grant")],
        "comments": [text_of(c) for c in citation.iterfind("CommentsCorrectionsList/CommentsCorrections")],
        "interests": text_of(citation.find("CoiStatement")),
    }
    return {name: value for name, value in told.items() if value}
