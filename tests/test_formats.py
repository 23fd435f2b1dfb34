"""Every format: what is read from a good file, and that no bad one does more than report."""

import contextlib
import json
import re
import time
import zipfile

import numpy as np
import pydot
import pytest
from hypothesis import HealthCheck, example, given, settings
from hypothesis import strategies as st

from tests import samples as made
from tests.building import network_of
from tests.samples import samples, zipped
from umber_knot.corpus.model import KINDS, Passage, RawRecord, Source, fold
from umber_knot.errors import UserError
from umber_knot.gather.formats import _mail, _zip, csl_json
from umber_knot.gather.read import read_text, readers, rows_of
from umber_knot.gather.stream import Report, Stream
from umber_knot.network.gml import gml
from umber_knot.network.graphml import graphml
from umber_knot.network.node_link import node_link


def read(data, name, options=None):
    harvest = read_text(data, name, options)
    records = list(harvest)
    return harvest.source, records


def of(name, n=0):
    return read(samples()[name], name)[1][n]


def roles(record, kind="person"):
    return [(role, text) for k, role, text in record.others if k == kind]


FORMATS = {
    "a.ris": "RIS",
    "a.bib": "BibTeX",
    "a.nbib": "MEDLINE",
    "tagged.txt": "field-tagged text",
    "tab.txt": "field-tagged table",
    "marc.xml": "MARCXML",
    "mods.xml": "MODS",
    "dc.xml": "Dublin Core",
    "jats.xml": "JATS",
    "csl.json": "CSL-JSON",
    "crossref.json": "Crossref JSON",
    "openalex.jsonl": "OpenAlex JSON",
    "tei.xml": "TEI",
    "a.eml": "email message",
    "a.mbox": "mbox",
    "a.md": "Markdown",
    "a.html": "HTML",
    "a.txt": "plain text",
    "a.opml": "OPML",
    "a.graphml": "GraphML",
    "a.gml": "GML",
    "links.json": "node-link JSON",
    "a.dot": "DOT",
    "ties.csv": "table of ties",
    "pairs.csv": "table of pairs",
    "matrix.csv": "matrix",
    "letters.csv": "CSV",
    "wide.csv": "CSV",
    "a.csv": "CSV",
    "a.refer": "refer",
    "feed.xml": "Atom",
    "bib.xml": "BibTeXML",
    "marc.json": "MARC in JSON",
    "any.json": "JSON table",
    "medline.xml": "MEDLINE XML",
    "a.docx": "DOCX",
    "a.pdf": "PDF",
    "a.odt": "ODT",
    "a.ods": "spreadsheet",
    "a.xlsx": "spreadsheet",
    "a.mrc": "MARC 21",
}


def test_every_format_has_a_sample():
    assert {*FORMATS.values(), "Maildir"} == {r.NAME for r in readers()} and set(FORMATS) == set(samples())


@pytest.mark.parametrize(("name", "format"), FORMATS.items())
def test_formats_are_told_by_content_whatever_the_ending(name, format):
    source, records = read(samples()[name], name)
    assert source.format == format and records
    assert all(r.line >= 1 for r in records)
    if name not in (
        "a.txt",
        "a.md",
        "a.docx",
        "a.odt",
        "a.ods",
        "a.xlsx",
    ):  # these need their name, or are packed alike
        assert read(samples()[name], "export.dat")[0].format == format


SLUICE = {"title": "Sluice timing in the upper estuary", "year": 1998, "persons": ["Vashley, Orrin", "Dray, Tamsin"]}


@pytest.mark.parametrize(
    ("name", "expected"),
    [
        (
            "a.ris",
            {"date": "1998-05-03", "persons": ["Vashley, Orrin"], "others": [("person", "editor", "Dray, Tamsin")]},
        ),
        ("a.bib", {"date": "1998-05", "persons": ["Vashley, Orrin", "Sørlie, Anke"]}),
        (
            "a.nbib",
            {
                **SLUICE,
                "date": "1998-05-03",
                "doi": "10.99999/brackwater.1",
                "volume": "12",
                "pages": "34-56",
                "language": "en",
                "institutions": ["University of Eastmere", "Holm Institute"],
                "countries": ["United Kingdom", "Norway"],
                "keywords": ["sluice gate", "spring tide"],
                "identifiers": ["pmid:990001"],
                "known_as": {"Vashley, Orrin": "orcid:0000-0001-2345-6789"},
                "others": [("keyword", "index", "Mills/history")],
                "abstract": "Gates open late. The mill pond fills on every spring tide.",
            },
        ),
        (
            "tagged.txt",
            {
                **SLUICE,
                "date": "1998-05",
                "citations": 7,
                "pages": "34-56",
                "countries": ["United Kingdom", "Norway"],
                "others": [("keyword", "index", "MILLS"), ("keyword", "index", "TIDE")],
                "references": [
                    "Elder A, 1901, T OLD MARSH, V3, P12",
                    "Maddern I, 2001, MARSH CARBON, V41, P7, DOI 10.99999/brackwater.2",
                ],
            },
        ),
        ("tab.txt", {"persons": ["Vashley, O", "Dray, T"], "keywords": ["sluice gate", "tide"], "citations": 7}),
        (
            "marc.xml",
            {
                "title": "Sluice timing in the upper estuary",
                "year": 1998,
                "persons": ["Vashley, Orrin"],
                "places": ["Low Quay"],
                "others": [("person", "editor", "Dray, Tamsin A."), ("keyword", "index", "Tide mills--History")],
            },
        ),
        ("a.mrc", {"persons": ["Sørlie, Anke"], "title": "Sluice timing in the upper estuary"}),
        (
            "mods.xml",
            {
                "title": "The sluice timing: a study",
                "date": "1998-05",
                "venue": "Journal of Estuary Works",
                "volume": "12",
                "pages": "34-56",
                "countries": ["Norway"],
                "others": [("person", "editor", "Dray, Tamsin")],
                "language": "en",
            },
        ),
        ("dc.xml", {"doi": "10.99999/brackwater.1", "keywords": ["sluice gate", "tide"], "language": "en"}),
        (
            "jats.xml",
            {
                "title": "Sluice timing in the upper estuary\xa0works".replace("\xa0", " "),
                "date": "1998-05-03",
                "institutions": ["Holm Institute"],
                "references": [
                    "Maddern, I, 2001, Old carbon under new cordgrass, Marsh and Carbon, V41, P7",
                    "Elder A. The old marsh. 1901.",
                ],
                "passages": (Passage("We walked the bank.", 3, "Method"),),
            },
        ),
        ("csl.json", {"date": "1998-05-03", "others": [("person", "editor", "van der Merle, Jory")]}),
        (
            "crossref.json",
            {
                "date": "1998-05",
                "citations": 7,
                "references": ["Maddern, 2001, Marsh and Carbon, V41, P7"],
                "countries": ["Norway"],
            },
        ),
        (
            "openalex.jsonl",
            {
                "persons": ["Orrin Vashley"],
                "references": ["openalex:W2"],
                "countries": ["Norway"],
                "abstract": "Gates open late",
            },
        ),
        (
            "tei.xml",
            {
                "date": "1811-05-01/1811-06-30",
                "places": ["Low Quay"],
                "others": [
                    ("person", "sender", "Peregrine Holt"),
                    ("person", "recipient", "Josiah Lund"),
                    ("person", "recipient", "Hester Pask"),
                ],
            },
        ),
        (
            "a.eml",
            {
                "title": "The pond at Low Quay",
                "date": "2019-03-04",
                "passages": [Passage("The pond is full again, and the gate leaks.", 1), Passage("Come and see.", 1)],
                "others": [
                    ("person", "sender", "Anke Sørlie"),
                    ("person", "recipient", "Dray, Tamsin"),
                    ("person", "recipient", "orrin@brackwater.example"),
                    ("person", "copy", "Ilse Maddern"),
                ],
            },
        ),
        (
            "a.md",
            {
                "title": "The pond at Low Quay",
                "date": "2017-04",
                "persons": ["Tamsin Dray", "Orrin Vashley"],
                "passages": (
                    Passage("Before all headings.", 7),
                    Passage("The gate leaks at Low Quay.", 11, "Gates"),
                    Passage("The lintel is oak.", 15, "Gates / Oak"),
                    Passage("The sill is elm.", 16, "Gates / Oak"),
                ),
            },
        ),
        (
            "a.html",
            {
                "title": "The pond",
                "language": "en",
                "passages": (
                    Passage("The gate & the sill", 2, "Gates"),
                    Passage("leak.", 2, "Gates"),
                    Passage("Oak", 2, "Gates"),
                ),
            },
        ),
        (
            "a.txt",
            {
                "title": "The pond",
                "passages": (Passage("It was low water and the gate leaked.", 3), Passage("More.", 6)),
            },
        ),
        (
            "a.opml",
            {
                "title": "Plan",
                "passages": (
                    Passage("The gate leaks.: Seen twice.", 2, "Mills / Gates"),
                    Passage("The pond is full.", 2, "Mills"),
                ),
            },
        ),
        (
            "a.docx",
            {
                "title": "The pond",
                "persons": ["Tamsin Dray"],
                "passages": (Passage("The gate leaks.", 2, "Gates"), Passage("The lintel is oak.", 4, "Gates / Oak")),
            },
        ),
        (
            "a.odt",
            {"title": "The pond", "persons": ["Tamsin Dray"], "passages": (Passage("The gate leaks.", 2, "Gates"),)},
        ),
        ("a.ods", {"title": "Sluice timing", "persons": ["Vashley, Orrin", "Dray, Tamsin"], "year": 1998, "line": 2}),
        ("a.xlsx", {"title": "Sluice timing", "persons": ["Vashley, Orrin", "Dray, Tamsin"], "year": 1998, "line": 3}),
        (
            "letters.csv",
            {"date": "1811~", "places": ["Low Quay"], "type": "letter", "title": "Peregrine Holt to Josiah Lund"},
        ),
        ("wide.csv", {"title": "flood meeting", "persons": ["Orrin Vashley", "Tamsin Dray"], "type": "event"}),
        ("a.gml", {"title": "Orrin & Co → Tamsin Dray", "weight": 2.5}),
        ("links.json", {"title": "Orrin Vashley – b", "weight": 2.5}),
        ("matrix.csv", {"title": "a – b", "weight": 2.0}),
    ],
)
def test_what_is_read(name, expected):
    record = of(name)
    for field, value in expected.items():
        found = getattr(record, field)
        assert (
            dict(found) if field == "known_as" else type(value)(found) if isinstance(value, (list, tuple)) else found
        ) == value, field


def test_a_pdf_is_read_column_by_column_without_heads_and_hyphens():
    passages = of("a.pdf").passages
    text = " ".join(p.text for p in passages)
    assert passages[-1].line == 2 and "Brackwater Papers" not in text and not any(ch in text for ch in "-\ufffe")
    assert "gatekeeper remembered extraordinarily high springtides long ago. The gatekeeper" in text


def test_a_maildir_is_one_source(tmp_path):
    for part in ("cur", "new", "tmp"):
        (tmp_path / "Mail" / part).mkdir(parents=True)
    (tmp_path / "Mail" / "cur" / "1:2,S").write_text(made.MAIL)
    (tmp_path / "Mail" / "new" / "2").symlink_to("/etc/hostname")
    from umber_knot.gather.read import expanded, read_whole

    assert expanded([tmp_path]) == [tmp_path / "Mail"]
    source, records = read_whole(tmp_path / "Mail")
    assert source.format == "Maildir" and len(records) == 1 and "no file of its own" in source.problems[0].message


def test_networks_say_what_they_are_and_lose_nothing():
    source, records = read(samples()["a.graphml"], "a.graphml")
    assert source.told == "mixed, 3 items, 3 ties" and [r.weight for r in records] == [2.5, 1.0, 1.0, 1.0]
    assert records[0].others == (("person", "", "Orrin Vashley"), ("person", "", "Tamsin Dray"))
    assert records[1].others == (("person", "from", "Tamsin Dray"), ("person", "to", "Orrin Vashley"))
    assert "self-loop" in source.problems[0].message and records[3].type == "item"
    directed = read(samples()["a.graphml"], "a.graphml", {"direction": "directed", "kind": "keyword"})
    assert directed[0].told.startswith("directed") and directed[1][0].others[0] == ("keyword", "from", "Orrin Vashley")


@given(
    st.lists(
        st.tuples(st.sampled_from("abcd"), st.sampled_from(["--", "->"]), st.sampled_from("abcd")),
        min_size=1,
        max_size=8,
    )
)
@settings(max_examples=40)
def test_dot_agrees_with_another_parser(ties):
    kind = "digraph" if ties[0][1] == "->" else "graph"
    mark = ties[0][1]
    text = f"{kind} g {{\n" + "".join(f"  {a} {mark} {b};\n" for a, _, b in ties) + "}\n"
    (graph,) = pydot.graph_from_dot_data(text)
    _, records = read(text, "g.dot")
    theirs = sorted((e.get_source(), e.get_destination()) for e in graph.get_edges())
    ours = sorted(tuple(t for _, _, t in r.others) for r in records if r.type == "tie")
    assert ours == theirs


def test_groups_in_dot_tie_every_member():
    _, records = read(samples()["a.dot"], "a.dot")
    ties = [tuple(t for _, _, t in r.others) for r in records if r.type == "tie"]
    assert sorted(ties) == [("Orrin Vashley", "b"), ("b", "c"), ("d", "Orrin Vashley"), ("e", "Orrin Vashley")]


def test_tables_are_joined_by_a_key(tmp_path):
    people = tmp_path / "people.csv"
    people.write_text("who,born\norrin vashley,1960\n")
    source, records = read(
        "authors,title\nOrrin Vashley,A\nTamsin Dray,B\n",
        "t.csv",
        {"join": {"file": str(people), "on": "authors", "with": "who"}},
    )
    assert records[0].extra == {"born": "1960"} and "1 rows have no partner" in source.problems[0].message
    with pytest.raises(UserError, match="no column 'whom'"):
        read("authors,title\nA,B\n", "t.csv", {"join": {"file": str(people), "on": "authors", "with": "whom"}})
    assert [cells for _, cells, _ in rows_of(people)] == [["who", "born"], ["orrin vashley", "1960"]]


def test_items_of_a_table_of_ties_come_from_another(tmp_path):
    items = tmp_path / "items.csv"
    items.write_text("key,name\n1,Orrin Vashley\n2,Tamsin Dray\n3,Ilse Maddern\n")
    source, records = read("source,target\n1,2\n", "ties.csv", {"items": {"file": str(items), "key": "key"}})
    assert [r.title for r in records] == [
        "Orrin Vashley – Tamsin Dray",
        "Ilse Maddern",
    ] and source.told == "undirected, 3 items, 1 ties"


def test_a_match_of_columns_can_be_chosen_and_is_kept():
    text = "A,B,C\nSluice,Orrin / Tamsin,x\n"
    with pytest.raises(UserError, match="no column"):
        read(text, "t.csv")
    chosen = {"fields": ["title", "people", ""], "splits": ["", "/", ""]}
    source, (record,) = read(text, "t.csv", chosen)
    assert record.persons == ["Orrin", "Tamsin"] and record.extra == {"C": "x"} and json.loads(source.reading) == chosen


@pytest.mark.parametrize(
    ("text", "own"),
    [
        ("Yes.\n> old\nNo.", "Yes.\nNo."),
        ("Yes.\n\nOn Monday, Ilse wrote:\n> old", "Yes."),
        ("Am 3. Mai schrieb Ilse\nMaddern:\n> alt\nJa.", "Ja."),
        ("Yes.\n-----Original Message-----\nold", "Yes."),
        ("Yes.\n-- \nIlse", "Yes."),
        ("-- \nOnly", "-- \nOnly"),
    ],
)
def test_mail_keeps_only_its_own_words(text, own):
    assert _mail.own_words(text) == own


def test_cyclic_threads_are_harmless():
    mails = "".join(
        f"From x Mon Mar  4 10:11:12 2019\nMessage-ID: <{a}@b>\nIn-Reply-To: <{b}@b>\nFrom: a@b.example\nTo: c@d.example\nSubject: s\n\nBody\n\n"
        for a, b in (("1", "2"), ("2", "1"))
    )
    _, records = read(mails, "x.mbox")
    assert [r.extra["in reply to"] for r in records] == ["2@b", "1@b"]


# -- hostile and broken files


BOMB = """<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "ha"><!ENTITY b "&a;&a;&a;"><!ENTITY f SYSTEM "file:///etc/passwd">]>
<modsCollection xmlns="http://www.loc.gov/mods/v3"><mods><titleInfo><title>&b; &f; tide</title></titleInfo></mods></modsCollection>"""


def test_entities_are_refused_and_stay_as_written():
    source, (record,) = read(BOMB, "x.xml")
    assert record.title == "&b; &f; tide" and "refused" in source.problems[0].message and source.problems[0].line == 1


@pytest.mark.parametrize("name", ["marc.xml", "mods.xml", "jats.xml", "tei.xml", "a.graphml", "a.opml"])
def test_deep_nesting_is_reported(name):
    data = (
        samples()[name]
        .replace(b"<body>", b"<body>" + b"<sec>" * 5)
        .replace(b"<title>", b"<title>" + b"<i>" * 200_000 + b"</i>" * 200_000)
    )
    data = data.replace(b"</subfield>", b"<i>" * 200_000 + b"</i>" * 200_000 + b"</subfield>", 1).replace(
        b"</data>", b"<i>" * 9000 + b"</i>" * 9000 + b"</data>", 1
    )
    data = data.replace(b"<persName>", b"<persName>" + b"<i>" * 9000 + b"</i>" * 9000, 1)
    source, _ = read(data, name)
    assert name == "a.opml" or any("deep" in p.message for p in source.problems)


@pytest.mark.parametrize("depth", [600, 100_000])
@pytest.mark.parametrize("name", ["x.json", "x.gml", "x.dot"])
def test_deep_lists_are_refused(name, depth):
    text = {
        "x.json": '[{"type": "a", "title": ' + "[" * depth + "]" * depth + "}]",
        "x.gml": "graph [ " + "a [ " * depth,
        "x.dot": "graph {" + "{" * depth,
    }[name]
    try:
        source, _ = read(text, name)
        assert source.problems or depth == 600
    except UserError as error:
        assert "deep" in str(error)


def bomb(parts, monkeypatch):
    monkeypatch.setattr(_zip, "LARGEST", 100_000)
    return zipped(
        {
            **parts,
            "word/document.xml": "<a>" + " " * 200_000 + "</a>",
            "content.xml": " " * 200_000,
            "xl/workbook.xml": " " * 200_000,
        }
    )


@pytest.mark.parametrize("name", ["x.docx", "x.odt", "x.xlsx", "x.ods"])
def test_zip_bombs_are_refused(name, monkeypatch):
    with pytest.raises(UserError, match="unpacks to more"):
        read(bomb({}, monkeypatch), name)


def test_encrypted_documents_and_damaged_ones_are_named(tmp_path):
    locked = bytearray(samples()["a.docx"])
    at = locked.find(b"PK\x01\x02")
    while at >= 0:
        locked[at + 8] |= 1
        at = locked.find(b"PK\x01\x02", at + 4)
    with pytest.raises(UserError, match="encrypted"):
        read(bytes(locked), "x.docx")
    for name in ("a.docx", "a.odt", "a.xlsx", "a.ods", "a.pdf"):
        with pytest.raises(UserError, match="damaged"):
            read(samples()[name][: len(samples()[name]) // 3], name)
    assert zipfile.is_zipfile  # the same library that reads them


def test_a_broken_record_does_not_take_the_others_with_it():
    items = json.loads(made.CSL) * 3
    text = "[\n" + ",\n".join(json.dumps(i) for i in items).replace('"type"', '"type" oops', 1) + "\n]"
    source, records = read(text, "x.json")
    assert len(records) == 2 and source.problems[0].line == 2
    text = made.MARCXML.replace(
        "</collection>", "<record><leader>x</record>\n" + made.MARCXML.split("?>")[1].split(">", 1)[1]
    )
    source, records = read(text, "x.xml")
    assert len(records) == 2 and "not well-formed" in source.problems[0].message and source.problems[0].line == 13
    data = samples()["a.mrc"]
    source, records = read(data[:40] + b"\x00\xff" + data[42:], "x.mrc")
    assert records and records[-1].entry == "bw2"


def test_a_million_fields_in_a_record_are_read():
    text = "TY  - JOUR\nTI  - Sluice\n" + "KW  - tide\n" * 1_000_000 + "ER  - \n"
    assert len(read(text, "x.ris")[1][0].keywords) == 1_000_000


def test_names_of_punctuation_and_dates_that_are_none(tmp_path):
    source, (record,) = read('authors,title,date\n"...; ,",Sluice,1811-02-30\n', "x.csv")
    assert record.date == "1811-02" and "no day" in source.problems[0].message and record.persons == ["...", ","]
    source, (record,) = read("authors,title,date\n-,Sluice,the day after\n", "x.csv")
    assert record.year == 0 and record.date == "the day after" and "not understood" in source.problems[0].message


SEEDS = sorted(samples().items())


def survives(data, name):
    """Read whatever this is: records and problems, or one clear refusal."""
    try:
        source, records = read(data, name)
    except UserError as error:
        assert error.message
        return
    assert isinstance(source, Source)
    for record in records:
        assert isinstance(record, RawRecord) and record.line >= 0
        for kind in KINDS:
            assert all(isinstance(text, str) for text in record.mentioned(kind)), kind
        for value in (
            record.title,
            record.date,
            record.doi,
            record.abstract,
            record.raw,
            record.entry,
            record.language,
            *record.identifiers,
        ):
            value.encode("utf-8")


@pytest.mark.parametrize(("name", "data"), SEEDS, ids=[name for name, _ in SEEDS])
def test_every_truncation_is_survived(name, data):
    for cut in range(1, len(data), max(1, len(data) // 60)):
        survives(data[:cut], name)


@st.composite
def mutated(draw):
    """A sample with pieces cut, doubled, swapped for others or overwritten."""
    name, data = draw(st.sampled_from(SEEDS))
    for _ in range(draw(st.integers(1, 6))):
        at = draw(st.integers(0, max(len(data) - 1, 0)))
        end = at + draw(st.integers(0, 40))
        piece = draw(
            st.one_of(
                st.binary(max_size=8),
                st.sampled_from(
                    [
                        b"",
                        b"\n",
                        b"\r",
                        b"\0",
                        b"\xff",
                        b"<",
                        b">",
                        b"&",
                        b"&x;",
                        b"]]>",
                        b'"',
                        b"{",
                        b"}",
                        b"[",
                        b"]",
                        b"\\ud800",
                        b"null",
                        b"-1",
                        b"9" * 25,
                        b"1e999",
                        b"\x1d",
                        b"\x1e",
                        b"\x1f",
                        b"<!--",
                        b"<![CDATA[",
                        "\u2028".encode(),
                    ]
                ),
                st.just(data[at : at + 30] * 2),
            )
        )
        data = data[:at] + piece + data[end:]
    return name, data


@given(mutated())
@example(("a.bib", b"\r" + samples()["a.bib"]))
@example(("a.md", b"\0\xff" + samples()["a.md"]))
@example(("a.mbox", samples()["a.mbox"].replace(b"?utf-8?", b"?u\x84f-8?")))
@example(("tagged.txt", samples()["tagged.txt"][:40] + b"\nAU\n"))
@settings(max_examples=1500, suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large])
def test_no_mutation_breaks_a_reader(case):
    survives(case[1], case[0])


@given(
    st.recursive(
        st.none() | st.booleans() | st.integers() | st.floats() | st.text(max_size=5),
        lambda inner: (
            st.lists(inner, max_size=3)
            | st.dictionaries(
                st.sampled_from(
                    [
                        "type",
                        "title",
                        "author",
                        "family",
                        "issued",
                        "date-parts",
                        "DOI",
                        "items",
                        "authorships",
                        "id",
                        "keyword",
                        "nodes",
                        "links",
                        "source",
                        "target",
                        "reference",
                        "message",
                        "institutions",
                        "abstract_inverted_index",
                        "container-title",
                    ]
                ),
                inner,
                max_size=5,
            )
        ),
        max_leaves=20,
    )
)
@settings(max_examples=400)
def test_json_of_any_shape_is_survived(value):
    for sign in ('"issued"', '"authorships"', '"nodes"', '"is-referenced-by-count" "reference-count"'):
        survives(json.dumps([value, {"title": sign, "type": "x"}]), "x.json")
        survives(json.dumps(value), "x.json")


CSL_RECORD = st.builds(
    RawRecord,
    line=st.just(2),
    entry=st.text(st.characters(categories=("L", "N")), min_size=1, max_size=8),
    type=st.just("book"),
    title=st.text(st.characters(categories=("L", "N")), min_size=1, max_size=20),
    year=st.integers(1000, 2099),
    persons=st.lists(st.sampled_from(["Vashley, Orrin", "Mill Trust", "van der Merle, J."]), max_size=3, unique=True),
    keywords=st.lists(st.sampled_from(["tide", "sluice gate", "æ"]), max_size=3, unique=True),
    volume=st.sampled_from(["", "12"]),
    references=st.lists(st.sampled_from(["Elder A, 1901", "x"]), max_size=2),
    citations=st.integers(0, 99),
)


@given(st.lists(CSL_RECORD, min_size=1, max_size=4))
@settings(max_examples=40)
def test_csl_json_reads_back_equal(records):
    report = Report()
    back = list(csl_json.read(Stream.of("".join(csl_json.write(iter(records))), report), report))
    assert not report.problems
    for was, now in zip(records, back, strict=True):
        for name in ("entry", "type", "title", "year", "persons", "keywords", "volume", "references", "citations"):
            assert getattr(was, name) == getattr(now, name), name


TIES = st.lists(st.tuples(st.integers(0, 5), st.integers(0, 5)).filter(lambda t: t[0] < t[1]), max_size=8, unique=True)
LABELS = st.lists(
    st.text(
        st.characters(categories=("L", "N", "P", "S"), exclude_characters="\ufffe\uffff"), min_size=1, max_size=8
    ).map(fold),
    min_size=6,
    max_size=6,
    unique=True,
)


@pytest.mark.parametrize(("writer", "name"), [(graphml, "n.graphml"), (gml, "n.gml"), (node_link, "n.json")])
@given(labels=LABELS, ties=TIES, weights=st.lists(st.floats(0, 1e6, allow_subnormal=False), min_size=8, max_size=8))
@settings(max_examples=60)
def test_networks_read_back_equal(writer, name, labels, ties, weights):
    ties = sorted(ties)
    weight = np.array(weights[: len(ties)])
    network = network_of(6, ties, labels, weight=weight)
    source, records = read("".join(writer(network, {"x": [None] * 6})), name)
    assert (
        not source.problems
        and source.told == f"{'undirected' if ties else 'without ties'}, 6 items, {len(ties):,} ties"
    )
    back = [(tuple(t for _, _, t in r.others), r.weight) for r in records if r.type == "tie"]
    assert sorted(back) == sorted(((labels[a], labels[b]), w) for (a, b), w in zip(ties, weight.tolist()))
    alone = {t for r in records if r.type == "item" for _, _, t in r.others}
    assert alone == {labels[k] for k in range(6)} - {labels[k] for t in ties for k in t}
    assert {k for r in records for k, _, _ in r.others} == {"keyword"}


def test_json_on_one_line_of_any_length_is_read(monkeypatch):
    from umber_knot.gather import stream

    monkeypatch.setattr(stream, "LONGEST_LINE", 1000)
    items = [{"id": str(k), "type": "book", "title": f"Title {k}", "issued": {"raw": "1998"}} for k in range(200)]
    source, records = read(json.dumps(items), "x.json")
    assert len(records) == 200 and not source.problems and records[150].raw == json.dumps(items[150])


def test_letters_lost_to_an_encoding_are_reported():
    data = json.dumps([{"id": "1", "type": "book", "title": "Mühle"}], ensure_ascii=False).encode("utf-8")
    source, records = read(data + b"\n" * 5 + b" " * 300_000 + b"\xff\xfe\xff", "x.json")
    assert records[0].title == "Mühle" and any("not UTF-8" in p.message for p in source.problems)


def test_xml_in_an_encoding_of_its_own_is_read():
    text = made.MODS.replace("Vashley", "Vüshley").replace('encoding="UTF-8"', 'encoding="ISO-8859-1"')
    assert read(text.encode("latin-1"), "x.xml")[1][0].persons == ["Vüshley, Orrin"]


def test_records_of_one_file_across_blocks_keep_their_lines():
    body = "\n".join(
        f"<mods ID='r{k}'><titleInfo><title>{'x' * 3000} {k}</title></titleInfo></mods>" for k in range(1500)
    )
    source, records = read(f'<modsCollection xmlns="http://www.loc.gov/mods/v3">\n{body}\n</modsCollection>', "x.xml")
    assert len(records) == 1500 and not source.problems
    assert [r.line for r in records] == list(range(2, 1502)) and records[1234].entry == "r1234"


def test_mails_across_blocks_keep_their_lines(monkeypatch):
    from umber_knot.gather.formats import mbox

    mails = [
        f"From x Mon Mar  4 10:11:12 2019\nFrom: a@b.example\nTo: c@d.example\nSubject: m{k}\n\nBody {k}\nFrom here on\n>From there\n\n"
        for k in range(60)
    ]
    whole = [(r.title, r.line, r.passages) for r in read("".join(mails), "x.mbox")[1]]
    assert [line for _, line, _ in whole] == [2 + 9 * k for k in range(60)] and whole[7][2][
        0
    ].text == "Body 7 From here on From there"
    for block in (7, 64, 333):
        monkeypatch.setattr(mbox, "BLOCK", block)
        assert [(r.title, r.line, r.passages) for r in read("".join(mails), "x.mbox")[1]] == whole


def test_a_folder_is_read_without_hidden_files_and_studies(tmp_path, capsys):
    from umber_knot.cli import main

    (tmp_path / "in" / ".git").mkdir(parents=True)
    for name, text in (
        (".git/a.ris", "TY  - JOUR\n"),
        ("b.umber", "x"),
        ("c.csv", 'title,authors\nOne,"A, B"\n'),
        ("d/e.txt", "A plain text of words.\n"),
    ):
        path = tmp_path / "in" / name
        path.parent.mkdir(exist_ok=True)
        path.write_text(text)
    assert main(["inspect", str(tmp_path / "in"), "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert [f["format"] for f in found] == ["CSV", "plain text"] and found[1]["passages"] == 1


def test_letters_and_passages_are_counted(demo, capsys):
    from umber_knot.cli import main

    assert (
        main(["inspect", str(demo / "letters.csv"), str(demo / "letters.xml"), str(demo / "letters.mbox"), "--json"])
        == 0
    )
    found = json.loads(capsys.readouterr().out)
    assert (
        [f["letters"] for f in found] == [600, 600, 600]
        and found[0]["passages"] > 1500
        and found[2]["passages"] == found[0]["passages"]
    )
    assert not any(f["problems"] for f in found)


@pytest.mark.parametrize("name", ["letters.csv", "letters.xml", "letters.mbox"])
def test_the_letters_of_the_demo_agree_with_the_truth(demo, truth, name):
    from umber_knot.gather.read import read_whole

    people, who = truth["letters"]["people"], truth["letters"]["letters"]
    for record in read_whole(demo / name)[1]:
        number = "".join(ch for ch in (record.title if name.endswith("mbox") else record.entry) if ch.isdigit())
        for end, (_, text) in zip(who[number], roles(record)):
            assert people[str(end)].split(",")[0] in text
        assert record.year and 1780 <= record.year <= 1848


# -- XML


MODS_OF = '<modsCollection xmlns="http://www.loc.gov/mods/v3">\n{}\n</modsCollection>'
ONE = "<mods><titleInfo><title>{}</title></titleInfo></mods>"


@pytest.mark.parametrize(
    ("written", "title"),
    [
        ("Silt &AMP; tide", "Silt & tide"),
        ("&LT;q&GT; &eacute;&nbsp;x", "<q> é x"),
        ("<![CDATA[a &eacute; &x; <q>]]> &unknown; &amp;lt;", "a é &x; <q> &unknown; <"),
        ("&#233;&#xE9;\x07z", "éé z"),
    ],
)
def test_names_of_characters_never_cost_a_record(written, title):
    source, records = read(MODS_OF.format(f"{ONE.format(written)}\n{ONE.format('Second')}"), "x.xml")
    assert [r.title for r in records] == [title, "Second"] and not source.problems


def test_entities_split_between_blocks_and_sections_are_the_same(monkeypatch):
    from umber_knot.gather.formats import _xml

    text = MODS_OF.format("\n".join(ONE.format(f"<![CDATA[{k} &amp;]]> &eacute;&mdash;&none; {k}") for k in range(40)))
    whole = [r.title for r in read(text, "x.xml")[1]]
    for block in (7, 13, 64):
        monkeypatch.setattr(_xml, "_BLOCK", block)
        assert [r.title for r in read(text, "x.xml")[1]] == whole
    assert whole[3] == "3 & é—&none; 3"


def test_what_is_not_well_formed_is_said_with_its_line_and_read_as_far_as_it_goes():
    lines = [ONE.format(f"Record {k}") for k in range(6)]
    lines[2] = "<mods><titleInfo><title>Record 2</titleInfo></mods>"
    lines[4] = "<mods><titleInfo><title>Record 4</title></titleInfo>"
    source, records = read(MODS_OF.format("\n".join(lines)), "x.xml")
    assert [r.title for r in records] == [f"Record {k}" for k in range(6)]
    assert {p.line for p in source.problems} >= {4} and all("not well-formed" in p.message for p in source.problems)
    cut = MODS_OF.format("\n".join(lines[:2])).split("</title></titleInfo></mods>\n</mods")[0]
    source, records = read(cut, "x.xml")
    assert [r.title for r in records] == ["Record 0", "Record 1"] and "not well-formed" in source.problems[0].message


def test_a_run_of_comments_that_never_end_takes_no_time_to_speak_of():
    began = time.perf_counter()
    with contextlib.suppress(UserError):
        read(MODS_OF.format(ONE.format("x") + "<!--" * 200_000), "x.xml")
    assert time.perf_counter() - began < 2.0  # 3 s for 40 kB before


@pytest.mark.parametrize("encoding", ["utf-8", "utf-16"])
def test_entities_of_office_documents_are_refused_in_any_encoding(encoding):
    text = (
        f'<?xml version="1.0" encoding="{encoding}"?><!DOCTYPE w [<!ENTITY a "ha"><!ENTITY b "&a;&a;">]>'
        '<w:document xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"><w:p><w:r><w:t>&b;</w:t></w:r></w:p></w:document>'
    )
    with pytest.raises(UserError, match="declares entities"):
        read(zipped({"word/document.xml": text.encode(encoding)}), "x.docx")


@given(
    st.lists(
        st.text(st.characters(exclude_categories=("Cs",), exclude_characters="\r"), max_size=30), min_size=1, max_size=5
    )
)
@settings(max_examples=60)
def test_any_title_comes_back_from_xml(titles):
    from umber_knot.markup import xml

    source, records = read(MODS_OF.format("\n".join(ONE.format("t " + xml(t)) for t in titles)), "x.xml")
    kept = [" ".join(("t " + re.sub(r"[\x00-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff]", "", t)).split()) for t in titles]
    assert [r.title for r in records] == kept and not source.problems
