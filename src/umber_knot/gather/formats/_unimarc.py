"""What the fields of a UNIMARC bibliographic record mean: it numbers them otherwise than MARC 21."""

from __future__ import annotations

import re
from typing import Any

from umber_knot.corpus.model import RawRecord
from umber_knot.gather.fields import dated, language_code, person
from umber_knot.gather.stream import Report

#: Relator codes of people who did not write the work; any other of a secondary person is a contributor's.
_ROLES = {"340": "editor", "651": "editor", "730": "translator", "650": "contributor", "660": "recipient", "070": ""}
_NAMED = {
    "011": "issn",
    "205": "edition",
    "215": "extent",
    "225": "series",
    "300": "notes",
    "327": "contents",
    "410": "series",
    "454": "original title",
    "517": "other title",
    "856": "url",
}
_READ = set(
    "001 003 005 010 100 101 102 105 106 200 210 214 330 600 601 606 607 610 700 701 702 710 711 712 801".split()
)
_TAIL = " /:;,.="


def is_unimarc(marc: Any) -> bool:
    """Whether a record has its title where UNIMARC has it, and none where MARC 21 has it."""
    title = marc.get_fields("200")
    return bool(title and title[0].get_subfields("a") and not marc.get_fields("245"))


def unimarc_record(marc: Any, line: int, raw: str, report: Report) -> RawRecord:
    """A record from the fields of UNIMARC."""

    def one(tag: str, codes: str) -> str:
        for field in marc.get_fields(tag):
            if text := " ".join(v.strip() for v in field.get_subfields(*codes) if v.strip()).strip(_TAIL):
                return text
        return ""

    persons, others = [], []
    for field in marc.get_fields("700", "701", "702", "710", "711", "712"):
        name = _name(field)
        codes = field.get_subfields("4")
        secondary = field.tag[2] == "2"
        role = _ROLES.get(codes[0][:3], "contributor") if codes else "contributor" if secondary else ""
        if name and role and secondary:
            others.append(("person", role, name))
        elif name and name not in persons:
            persons.append(name)
    words = [
        "--".join(v.strip(_TAIL) for v in field.get_subfields("a", "x", "y", "z") if v.strip(_TAIL))
        for field in marc.get_fields("600", "601", "606", "607")
    ]
    isbns = [re.sub(r"[^0-9Xx]", "", v) for f in marc.get_fields("010") for v in f.get_subfields("a")]
    record = RawRecord(
        line=line,
        raw=raw,
        entry=next((f.data or "" for f in marc.get_fields("001")), "").strip(),
        type={"a": "text", "b": "manuscript", "e": "map"}.get(str(marc.leader)[6:7], ""),
        title=": ".join(filter(None, (one("200", "a"), one("200", "e")))),
        abstract=one("330", "a"),
        persons=persons,
        keywords=[v.strip(_TAIL) for f in marc.get_fields("610") for v in f.get_subfields("a") if v.strip(_TAIL)],
        venue=one("461", "t") or one("463", "t") or one("225", "a") or _linked(marc, "410"),
        volume=one("461", "v") or one("225", "v"),
        language=language_code(one("101", "a")[:3]),
        others=others + [("keyword", "index", w) for w in words if w],
        identifiers=[f"isbn:{n}" for n in isbns if len(n) in (10, 13)],
        places=[p for p in (one("214", "a") or one("210", "a"),) if p],
        extra=_extra(marc, one("214", "c") or one("210", "c")),
    )
    coded = one("100", "a")
    dated(record, [re.sub(r"[©cp](?=\d)", "", one("214", "d") or one("210", "d")), coded[9:13].strip()], report)
    return record


def _name(field: Any) -> str:
    """A personal name in its parts, or that of a body."""
    family, rest = (" ".join(field.get_subfields(code)).strip(" ,/;") for code in "ab")
    if field.tag[1] == "0":
        return person(family, rest.strip(" ,"))
    return ". ".join(filter(None, (family, rest)))


def _linked(marc: Any, tag: str) -> str:
    """The title of the first work that a linking field names: its subfields follow the tag of the field they are of."""
    for field in marc.get_fields(tag):
        inside = ""
        for code, value in field.subfields:
            inside = value[:3] if code == "1" else inside
            if code == "t" or (code == "a" and inside == "200"):
                return str(value).strip(_TAIL)
    return ""


def _extra(marc: Any, publisher: str) -> dict[str, object]:
    told: dict[str, list[str]] = {"publisher": [publisher]} if publisher else {}
    for field in marc.get_fields():
        if field.tag in _READ or (field.tag >= "800" and field.tag != "856") or field.tag < "010":
            continue
        values = [v.strip() for code, v in field.subfields if code.isalpha() and v.strip()]
        if text := " ".join(values).strip(_TAIL):
            told.setdefault(_NAMED.get(field.tag, f"UNIMARC {field.tag}"), []).append(text)
    return {name: "; ".join(dict.fromkeys(values)) for name, values in told.items()}
