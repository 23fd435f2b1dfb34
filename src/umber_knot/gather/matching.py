"""Which field of a record each column of a table is: by the scholar's choice, by its name, else by its content."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from itertools import islice
from typing import Any

from umber_knot.corpus.letters import bare
from umber_knot.gather.dates import understand
from umber_knot.gather.parting import addresses_separator, parted, people_separator

#: Fields a column can be, in the order they are offered → what columns are called in several languages, bare letters.
FIELDS: dict[str, tuple[str, ...]] = {
    "title": (
        "title",
        "titel",
        "titre",
        "titulo",
        "titolo",
        "documenttitle",
        "articletitle",
        "name",
        "ti",
        "subject",
        "betreff",
        "itemtitle",
        "papertitle",
        "worktitle",
        "maintitle",
    ),
    "people": (
        "authors",
        "author",
        "people",
        "persons",
        "person",
        "creators",
        "creator",
        "autor",
        "autoren",
        "auteur",
        "auteurs",
        "autore",
        "autori",
        "autores",
        "authornames",
        "authorfullnames",
        "verfasser",
        "au",
        "af",
        "contributors",
        "namen",
        "allauthors",
        "authorlist",
        "authorss",
        "creatornames",
        "firstauthor",
    ),
    "date": (
        "year",
        "publicationyear",
        "pubyear",
        "jahr",
        "annee",
        "ano",
        "anno",
        "jaar",
        "date",
        "published",
        "datum",
        "fecha",
        "data",
        "py",
        "issued",
        "sent",
        "dateofletter",
        "written",
        "publicationdate",
        "datepublished",
        "coverdate",
        "yearofpublication",
        "erscheinungsjahr",
    ),
    "words": (
        "keywords",
        "keyword",
        "words",
        "authorkeywords",
        "tags",
        "subjects",
        "topics",
        "terms",
        "schlagworte",
        "schlagworter",
        "motscles",
        "palabrasclave",
        "palavraschave",
        "parolechiave",
        "de",
        "trefwoorden",
        "keywordsauthor",
        "authorskeywords",
        "keywordauthor",
    ),
    "index terms": ("indexkeywords", "indexterms", "keywordsplus", "meshterms", "descriptors", "deskriptoren"),
    "venue": (
        "venue",
        "journal",
        "sourcetitle",
        "source",
        "publicationtitle",
        "booktitle",
        "zeitschrift",
        "revue",
        "in",
        "rivista",
        "revista",
        "so",
        "series",
        "reihe",
        "publication",
        "journalbook",
        "journaltitle",
        "publicationname",
        "containertitle",
        "conference",
        "proceedings",
        "journalname",
        "sourcename",
        "journalconference",
    ),
    "affiliations": (
        "institutions",
        "institution",
        "affiliations",
        "affiliation",
        "organisation",
        "organization",
        "authorswithaffiliations",
        "addresses",
        "c1",
        "institute",
        "zugehorigkeit",
        "authoraffiliations",
        "affiliationsofauthors",
        "authoraffiliation",
        "authoraddress",
        "authoraddresses",
    ),
    "countries": ("country", "countries", "land", "lander", "pays", "pais", "paese"),
    "references": ("references", "citedreferences", "cr", "literatur", "bibliography"),
    "sender": (
        "sender",
        "from",
        "writer",
        "absender",
        "expediteur",
        "remitente",
        "mittente",
        "afzender",
        "author of letter",
    ),
    "recipient": (
        "recipient",
        "recipients",
        "to",
        "addressee",
        "empfanger",
        "adressat",
        "destinataire",
        "destinatario",
        "ontvanger",
    ),
    "copy to": ("cc", "copy", "copyto"),
    "place": ("place", "ort", "lieu", "lugar", "luogo", "plaats", "placeofwriting", "absendeort", "location", "city"),
    "text": (
        "text",
        "body",
        "content",
        "fulltext",
        "volltext",
        "transcription",
        "note",
        "notes",
        "texte",
        "texto",
        "testo",
    ),
    "abstract": (
        "abstract",
        "summary",
        "zusammenfassung",
        "resume",
        "resumen",
        "ab",
        "riassunto",
        "abstractnote",
        "abstracttext",
    ),
    "doi": ("doi", "di"),
    "citations": (
        "citations",
        "citedby",
        "timescited",
        "citationcount",
        "tc",
        "zitationen",
        "cites",
        "citedbycount",
        "numberofcitations",
        "citation count",
        "totalcitations",
        "timescitedcount",
    ),
    "language": ("language", "sprache", "langue", "idioma", "lingua", "la", "taal"),
    "type": ("type", "documenttype", "typ", "dt", "genre", "gattung"),
    "volume": ("volume", "band", "vol", "vl", "tome", "journalvolume", "volumenumber"),
    "pages": ("pages", "page", "seiten", "startpage", "pagestart", "bp", "pagerange", "pagination", "startpageendpage"),
    "id": ("id", "key", "identifier", "recordid", "ut", "signatur", "shelfmark", "callnumber", "number", "nr", "no"),
    "editors": ("editors", "editor", "herausgeber", "be", "ed"),
    "orcid": ("orcid", "orcids", "oi"),
}
_FIELD_OF = {name: field for field, names in reversed(FIELDS.items()) for name in names}
#: Fields whose cells hold several values.
MANY = (
    "people",
    "words",
    "index terms",
    "affiliations",
    "countries",
    "references",
    "recipient",
    "copy to",
    "editors",
    "orcid",
    "sender",
)
SAMPLE = 2000  # rows that show what columns hold
_WHO = ("people", "sender", "recipient", "copy to", "editors")
_YES = {"1", "x", "yes", "y", "true", "ja", "oui", "si", "sì", "sí", "✓", "✔", "●", "wahr", "vrai"}
_NO = {"", "0", "no", "n", "false", "nein", "non", "-", "–", "falsch", "faux"}
_NUMBER = re.compile(r"[-+]?\d[\d.,]*(?:e[-+]?\d+)?", re.I)
_DOI = re.compile(r"(?:https?://(?:dx\.)?doi\.org/)?10\.\d{4,9}/\S+$", re.I)


@dataclass(frozen=True, slots=True)
class Match:
    """How the columns of a table are read. ``fields``: column → field ("": kept as an extra column, "yes/no": a column
    of a wide table). ``splits``: column → separator. ``wide``: "" or what a yes/no column is, "record" (an event
    that the people of the rows share) or "word" (a word that the records of the rows have)."""

    header: tuple[str, ...]
    fields: tuple[str, ...]
    splits: tuple[str, ...]
    wide: str = ""

    def column(self, field: str) -> int:
        """The first column of a field, −1 when there is none."""
        return self.fields.index(field) if field in self.fields else -1

    def chosen(self) -> dict[str, Any]:
        """As options that can be kept."""
        return {"fields": list(self.fields), "splits": list(self.splits), "wide": self.wide}


def folded(name: str) -> str:
    """A column's name in bare letters and digits."""
    return re.sub(r"[^a-z0-9]", "", bare(name))


def field_named(name: str) -> str:
    """The field that a column's name means, empty when it means none."""
    return _FIELD_OF.get(folded(name), "")


def is_yes(cell: str) -> bool:
    """Whether a cell of a yes/no column says yes."""
    return cell.strip().casefold() in _YES


def find_header(rows: Sequence[Sequence[str]]) -> int:
    """Which of the first rows names the columns: the first of the widest rows that has a name we know."""
    if not rows:
        return -1
    width = max(sum(bool(c.strip()) for c in row) for row in rows)
    for k, row in enumerate(rows[:20]):
        filled = [c for c in row if c.strip()]
        if len(filled) * 2 >= width and any(field_named(c) for c in filled) and not any(map(_is_data, filled)):
            return k
    for k, row in enumerate(rows[:20]):
        filled = [c for c in row if c.strip()]
        if len(filled) * 2 >= width:
            return -1 if any(map(_is_data, filled)) else k
    return -1


def header_of(rows: Sequence[Sequence[str]]) -> tuple[list[str], int]:
    """(names of the columns, which of the rows they stand in): numbered columns and −1 where no row names them."""
    at = find_header(rows)
    width = max((len(cells) for cells in rows), default=0)
    header = [c.strip() for c in rows[at]] if at >= 0 else [f"column {k + 1}" for k in range(width)]
    while header and not header[-1]:
        header.pop()
    return header, at


def matched_rows(rows: Iterable[Sequence[str]], options: Mapping[str, Any]) -> tuple[Match, list[list[str]]]:
    """The match of a table, and its first rows below the header."""
    first = [list(row) for row in islice(rows, SAMPLE)]
    header, at = header_of(first)
    body = [row for row in first[at + 1 :] if any(c.strip() for c in row)]
    return match_columns(header, body, options), body


def _is_data(cell: str) -> bool:
    return bool(re.fullmatch(r"\s*[-+]?\d[\d.,]*\s*", cell)) or bool(_DOI.match(cell.strip()))


def match_columns(header: Sequence[str], rows: Sequence[Sequence[str]], options: Mapping[str, Any]) -> Match:
    """The match of a table, from its header and some of its rows; options of an earlier match count first."""
    n = len(header)
    cells = [[row[k].strip() for row in rows if k < len(row)] for k in range(n)]
    chosen = options.get("fields")
    if isinstance(chosen, list) and len(chosen) == n and all(f in FIELDS or f in ("", "yes/no") for f in chosen):
        splits = options.get("splits")
        if not (isinstance(splits, list) and len(splits) == n and all(isinstance(s, str) for s in splits)):
            splits = list(_separators(chosen, cells))
        wide = options.get("wide") if options.get("wide") in ("record", "word") else ""
        return Match(tuple(header), tuple(chosen), tuple(splits), str(wide or ("record" if "yes/no" in chosen else "")))
    fields = _checked(_by_name(header), cells)
    wide = [k for k in range(n) if not fields[k] and _is_wide(cells[k])]
    if len(wide) >= 3 and len(wide) >= n - 4:
        for k in wide:
            fields[k] = "yes/no"
        if not any(f in ("people", "title") for f in fields):
            first = next((k for k in range(n) if not fields[k]), None)
            if first is not None:
                fields[first] = "people"
        elif "people" not in fields and "name" in folded(header[fields.index("title")]):
            fields[fields.index("title")] = "people"
        return _made(header, fields, cells, "record" if "people" in fields else "word")
    for k in range(n):
        if not fields[k] and cells[k]:
            fields[k] = _by_content([c for c in cells[k] if c], fields)
    return _made(header, fields, cells, "")


def _made(header: Sequence[str], fields: list[str], cells: list[list[str]], wide: str) -> Match:
    return Match(tuple(header), tuple(fields), _separators(fields, cells), wide)


def _by_name(header: Sequence[str]) -> list[str]:
    """Each field goes to one column: the one whose name stands first among the field's names."""
    fields = [""] * len(header)
    names = [folded(name) for name in header]
    for field, known in FIELDS.items():
        fit = [(known.index(name), k) for k, name in enumerate(names) if name in known and _FIELD_OF.get(name) == field]
        if fit:
            fields[min(fit)[1]] = field
    return fields


def _by_content(cells: list[str], taken: Sequence[str]) -> str:
    """The field that every cell of a column without a known name looks like."""
    if not cells:
        return ""
    if "doi" not in taken and all(_DOI.match(c) for c in cells):
        return "doi"
    if "date" not in taken and len(cells) > 2 and all(len(c) <= 10 and understand(c)[1] for c in cells):
        return "date"
    names = sum(bool(re.fullmatch(r"[^\W\d_][^,;]*, [^,;\d]+(?:; ?[^,;\d]+, [^,;\d]+)*", c)) for c in cells)
    if "people" not in taken and "sender" not in taken and names >= 0.9 * len(cells) and len(cells) > 1:
        return "people"
    return ""


def _is_wide(cells: list[str]) -> bool:
    values = {c.casefold() for c in cells}
    return bool(values & _YES) and values <= _YES | _NO


def _separators(fields: Sequence[str], cells: Sequence[Sequence[str]]) -> tuple[str, ...]:
    """What tells the values of each column apart; a column that holds one value a cell has none."""
    people = next((k for k, field in enumerate(fields) if field == "people"), None)
    apart = people_separator(cells[people]) if people is not None else ""
    counts = [len(parted(cell, apart)) for cell in cells[people]] if people is not None else []
    found = []
    for k, field in enumerate(fields):
        if field == "affiliations":
            found.append(addresses_separator(cells[k], counts))
        else:
            found.append(apart if k == people else separator_of(field, cells[k]))
    return tuple(found)


def separator_of(field: str, cells: Sequence[str]) -> str:
    """What several values of a cell are told apart by in a column read as a field; empty where it holds one value."""
    if field in _WHO:
        return people_separator(cells)
    if field not in MANY:
        return ""
    commas = (",",) if field in ("words", "index terms", "countries") else ()
    return next((mark for mark in (";", "|", "\n", " / ", *commas) if any(mark in c for c in cells)), ";")


def _checked(fields: list[str], cells: Sequence[Sequence[str]]) -> list[str]:
    """Fields by name, without those that what stands in the column cannot be: a count is no reference, nor a person."""
    for k, field in enumerate(fields):
        filled = [c for c in cells[k] if c]
        numbers = sum(bool(_NUMBER.fullmatch(c)) for c in filled)
        counts = bool(filled) and numbers >= 0.9 * len(filled)
        if field == "references" and counts:
            fields[k] = "" if "citations" in fields else "citations"
        elif field == "citations" and filled and numbers < 0.5 * len(filled):
            fields[k] = "references" if "references" not in fields and max(map(len, filled)) > 40 else ""
        elif field in _WHO and counts:
            fields[k] = ""
    return fields
