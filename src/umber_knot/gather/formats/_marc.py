"""What the fields of a MARC 21 bibliographic record mean."""

from __future__ import annotations

import re
from typing import Any

from umber_knot.corpus.model import RawRecord
from umber_knot.gather.fields import dated, language_code, orcid
from umber_knot.gather.formats._unimarc import is_unimarc, unimarc_record
from umber_knot.gather.stream import Report

_ROLES = {
    "edt": "editor",
    "ed": "editor",
    "editor": "editor",
    "trl": "translator",
    "translator": "translator",
    "rcp": "recipient",
    "addressee": "recipient",
    "ctb": "contributor",
    "aut": "",
    "author": "",
    "": "",
    "cre": "",
    "crp": "sender",
}
_UNSORTED = set("\x88\x89\x98\x9c")
_NO_MARKS = dict.fromkeys(map(ord, _UNSORTED))
_TAIL = " /:;,.="


#: Fields with a name among the extra ones.
_NAMED = {
    "022": "issn",
    "246": "other title",
    "250": "edition",
    "300": "extent",
    "490": "series",
    "500": "notes",
    "504": "notes",
    "505": "contents",
    "830": "series",
    "856": "url",
}
#: Fields that are read, or are no business of a reader.
_READ = {
    *"001 003 005 006 007 008 020 024 040 041 100 110 111 245 260 264 336 337 338 510 520 581 600 610 650 651 653".split(),
    *"700 710 711 773".split(),
}


def record_of(marc: Any, line: int, raw: str, report: Report) -> RawRecord:
    """A record from a pymarc record, MARC 21 or UNIMARC; subdivisions of a subject are told apart by a dash."""
    for field in marc.fields:  # marks around what is not sorted by
        if not field.is_control_field() and any(_UNSORTED & set(v) for _, v in field.subfields):
            field.subfields = [s._replace(value=s.value.translate(_NO_MARKS)) for s in field.subfields]
    if is_unimarc(marc):
        return unimarc_record(marc, line, raw, report)

    def one(tag: str, codes: str) -> str:
        for field in marc.get_fields(tag):
            text = " ".join(v for v in field.get_subfields(*codes) if v)
            if text.strip(_TAIL):
                return text.strip(_TAIL)
        return ""

    def many(*tags: str) -> list[tuple[str, Any]]:
        return [
            (
                " ".join(field.get_subfields("a", "b", "c", "q")[:2]).strip(_TAIL)
                if field.tag[1:] == "00"
                else one_of(field),
                field,
            )
            for field in marc.get_fields(*tags)
        ]

    def one_of(field: Any) -> str:
        return " ".join(field.get_subfields("a", "b")).strip(_TAIL)

    persons, others, known = [], [], {}
    for name, field in many("100", "110", "111", "700", "710", "711"):
        if field.tag[1:] == "00":
            name = " ".join(field.get_subfields("a")).strip(" ,/:;=")
            name = name if re.search(r"\b[A-Z]\.$", name) else name.rstrip(".")
        told = [t.strip(" .,").lower() for t in field.get_subfields("4", "e")]
        role = next((_ROLES.get(t.rpartition("/")[2], "contributor") for t in told), "")
        if not name:
            continue
        if role:
            others.append(("person", role, name))
        else:
            persons.append(name)
        number = next((orcid(v) for v in field.get_subfields("0", "1") if orcid(v)), "")
        if number:
            known[name] = f"orcid:{number}"
    words = [
        "--".join(v.strip(_TAIL) for v in field.get_subfields("a", "x", "y", "z"))
        for field in marc.get_fields("650", "651", "600", "610")
    ]
    free = [v.strip(_TAIL) for field in marc.get_fields("653") for v in field.get_subfields("a")]
    fixed = next((f.data or "" for f in marc.get_fields("008")), "")
    number = next((f.data or "" for f in marc.get_fields("001")), "").strip()
    dois = [
        v
        for f in marc.get_fields("024")
        if "doi" in [s.lower() for s in f.get_subfields("2")]
        for v in f.get_subfields("a")
    ]
    isbns = [re.sub(r"[^0-9Xx]", "", v.split(" ")[0]) for f in marc.get_fields("020") for v in f.get_subfields("a")]
    record = RawRecord(
        line=line,
        raw=raw,
        entry=number,
        type={"a": "text", "t": "manuscript", "e": "map"}.get(str(marc.leader)[6:7], ""),
        title=one("245", "abnp"),
        doi=dois[0] if dois else "",
        abstract=one("520", "a"),
        persons=persons,
        keywords=[w for w in free if w],
        venue=one("773", "t") or one("490", "a") or one("830", "a"),
        volume=one("773", "g"),
        language=language_code(one("041", "a")[:3] or fixed[35:38].strip(" |")),
        references=[text for f in marc.get_fields("510", "581") if (text := f.format_field().strip())],
        others=others + [("keyword", "index", w) for w in words if w.strip("- ")],
        identifiers=[f"isbn:{n}" for n in isbns if len(n) in (10, 13)],
        known_as=known,
        places=[p for p in (one("264", "a") or one("260", "a"),) if p],
        pages=one("773", "q").rpartition("<")[2],
        extra=_extra(marc, one("264", "b") or one("260", "b"), one("245", "c")),
    )
    written = one("264", "c") or one("260", "c") or fixed[7:11].replace("u", "X").strip(" |X")
    dated(record, [re.sub(r"[©cp](?=\d)", "", written)], report)
    return record


def _extra(marc: Any, publisher: str, stated: str) -> dict[str, object]:
    """Fields without a place of their own, as they are displayed; numbers of a library's own are left."""
    told: dict[str, list[str]] = {}
    if publisher:
        told["publisher"] = [publisher]
    if stated:
        told["statement of responsibility"] = [stated]
    for field in marc.get_fields():
        if field.tag in _READ or field.tag >= "900" or field.tag < "010":
            continue
        text = " ".join(v.strip() for code, v in field.subfields if code.isalpha() and v.strip()).strip(_TAIL)
        if text:
            told.setdefault(_NAMED.get(field.tag, f"MARC {field.tag}"), []).append(text)
    return {name: "; ".join(dict.fromkeys(values)) for name, values in told.items()}
