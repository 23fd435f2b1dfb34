"""The two-letter fields that citation databases export, as tagged text or as a table."""

from __future__ import annotations

import re

from umber_knot.corpus.model import RawRecord
from umber_knot.gather.fields import affiliate, dated, language_code, orcid, split_addresses, split_values, whole
from umber_knot.gather.stream import Report

_USED = {
    "PT",
    "AU",
    "AF",
    "TI",
    "SO",
    "DE",
    "ID",
    "AB",
    "C1",
    "CR",
    "TC",
    "PY",
    "PD",
    "VL",
    "BP",
    "EP",
    "DI",
    "LA",
    "DT",
    "UT",
    "BE",
    "OI",
    "PM",
    "ER",
    "BN",
    "AR",
}


def record_of(fields: dict[str, list[str]], line: int, raw: str, report: Report) -> RawRecord:
    """A record from tag → values; each value is one line of the field."""

    def one(tag: str) -> str:
        return " ".join(" ".join(fields.get(tag, [])).split())

    def listed(tag: str) -> list[str]:
        return split_values(one(tag))

    names = fields.get("AF") or fields.get("AU", [])
    identifiers = [f"ut:{one('UT')}"] if one("UT") else []
    if one("PM"):
        identifiers.append(f"pmid:{one('PM')}")
    known = {}
    for part in listed("OI"):
        name, _, number = part.rpartition("/")
        if name.strip() in names and orcid(number):
            known[name.strip()] = f"orcid:{orcid(number)}"
    record = RawRecord(
        line=line,
        raw=raw,
        entry=one("UT"),
        type=one("DT") or one("PT"),
        title=one("TI"),
        doi=one("DI"),
        abstract=one("AB"),
        citations=whole(one("TC")),
        persons=names,
        keywords=listed("DE"),
        venue=one("SO"),
        references=fields.get("CR", []),
        volume=one("VL"),
        pages="-".join(p for p in (one("BP") or one("AR"), one("EP")) if p),
        language=language_code(one("LA")),
        identifiers=identifiers,
        known_as=known,
        others=[("keyword", "index", word) for word in listed("ID")]
        + [("person", "editor", e) for e in fields.get("BE", [])],
        extra={tag: "; ".join(v) for tag, v in fields.items() if tag not in _USED and any(v)},
    )
    day = one("PD")
    dated(record, (one("PY"), f"{day} {one('PY')}" if day and re.search("[A-Za-z]", day) else ""), report)
    affiliate(record, [a for text in fields.get("C1", []) for a in split_addresses(text)])
    return record
