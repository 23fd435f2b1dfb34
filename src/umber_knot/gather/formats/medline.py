"""MEDLINE tagged text (.nbib)."""

from __future__ import annotations

import re
from collections.abc import Iterator

from umber_knot.corpus.model import RawRecord
from umber_knot.gather.fields import affiliate, dated, language_code, orcid, split_addresses, unstarred
from umber_knot.gather.formats._tagged import records
from umber_knot.gather.stream import Head, Report, Stream

NAME = "MEDLINE"
_TAG = re.compile(r"^([A-Z]{2,4}) *- ?(.*)$")
_USED = {
    "PMID",
    "TI",
    "AU",
    "FAU",
    "AD",
    "DP",
    "JT",
    "TA",
    "MH",
    "OT",
    "LID",
    "AID",
    "LA",
    "VI",
    "PG",
    "AB",
    "AUID",
    "PT",
    "FED",
    "ED",
    "DEP",
    "CN",
    "BTI",
}


def sniff(head: Head) -> float:
    """How surely this is MEDLINE text, 0 to 1."""
    return 0.97 if re.search(r"^PMID- ?\d", head.text, re.M) else 0.0


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """Records one by one; major subject headings lose their star and keep their qualifier."""
    for fields, line, raw in records(stream.lines(), report, _TAG, "PMID", ""):
        values = {tag: [v.replace("\n", " ") for v in found] for tag, found in fields.items()}

        def one(*tags: str, values: dict[str, list[str]] = values) -> str:
            return next((values[tag][0] for tag in tags if values.get(tag)), "")

        dois = [v.split(" ")[0] for v in values.get("LID", []) + values.get("AID", []) if v.endswith("[doi]")]
        people = values.get("FAU") or values.get("AU", [])
        record = RawRecord(
            line=line,
            raw=raw,
            entry=one("PMID"),
            type=one("PT"),
            title=one("TI", "BTI").rstrip("."),
            doi=dois[0] if dois else "",
            abstract=one("AB"),
            persons=people + values.get("CN", []),
            keywords=[unstarred(v).strip("* ") for v in values.get("OT", [])],
            venue=one("JT", "TA"),
            volume=one("VI"),
            pages=one("PG"),
            language=language_code(one("LA")),
            identifiers=[f"pmid:{one('PMID')}"] if one("PMID") else (),
            others=[("keyword", "index", unstarred(v)) for v in values.get("MH", [])]
            + [("person", "editor", v) for v in values.get("FED") or values.get("ED", [])],
            extra={tag: "; ".join(v) for tag, v in values.items() if tag not in _USED},
        )
        if len(values.get("PT", ())) > 1:
            record.extra["types"] = values["PT"]
        record.known_as, of = _of_people(fields, raw)
        dated(record, values.get("DP", []) + values.get("DEP", []), report)
        affiliate(record, [a for text in values.get("AD", []) for a in split_addresses(text)], of)
        yield record


def _of_people(fields: dict[str, list[str]], raw: str) -> tuple[dict[str, str], dict[str, list[str]]]:
    """Person → ORCID, and person → addresses: both stand below the line that names the person."""
    known: dict[str, str] = {}
    of: dict[str, list[str]] = {}
    which = "FAU" if fields.get("FAU") else "AU"
    addresses, name = iter(fields.get("AD", ())), ""
    for line in raw.split("\n"):
        tag = line[:4].strip()
        if tag == which:
            name = line[6:].strip()
        elif tag == "AUID" and name and orcid(line):
            known[name] = f"orcid:{orcid(line)}"
        elif tag == "AD":
            several = split_addresses(next(addresses, "").replace("\n", " "))
            if name:
                of.setdefault(name, []).extend(several)
    return known, of
