"""MEDLINE tagged text (.nbib)."""

from __future__ import annotations

import re
from collections.abc import Iterator

from umber_knot.corpus.model import RawRecord
from umber_knot.gather.fields import affiliate, dated, language_code, orcid, split_addresses
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
            keywords=[v.strip("*") for v in values.get("OT", [])],
            venue=one("JT", "TA"),
            volume=one("VI"),
            pages=one("PG"),
            language=language_code(one("LA")),
            identifiers=[f"pmid:{one('PMID')}"] if one("PMID") else (),
            others=[("keyword", "index", v.lstrip("*").replace("/*", "/")) for v in values.get("MH", [])]
            + [("person", "editor", v) for v in values.get("FED") or values.get("ED", [])],
            extra={tag: "; ".join(v) for tag, v in values.items() if tag not in _USED},
        )
        record.known_as = _orcids(raw)
        dated(record, values.get("DP", []) or values.get("DEP", []), report)
        affiliate(record, [a for text in values.get("AD", []) for a in split_addresses(text)])
        yield record


def _orcids(raw: str) -> dict[str, str]:
    """Person → ORCID: an AUID line belongs to the FAU line above it."""
    found, name = {}, ""
    for line in raw.split("\n"):
        if line.startswith("FAU"):
            name = line[6:].strip()
        elif line.startswith("AUID") and name and orcid(line):
            found[name] = f"orcid:{orcid(line)}"
    return found
