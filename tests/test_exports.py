"""Files of the shapes that databases, libraries and programs write: every field where it belongs, nothing lost in silence."""

import csv
import dataclasses
import gzip
import io
import json
import os
import re
import tarfile
import zipfile
from datetime import date

import pytest
from hypothesis import given
from hypothesis import strategies as st
from lxml import etree

from tests.samples import samples
from umber_knot.corpus.assemble import corpus_of
from umber_knot.corpus.checking import check
from umber_knot.corpus.model import RawRecord, Source
from umber_knot.corpus.picking import pick
from umber_knot.demo.documents import pdf
from umber_knot.errors import UserError
from umber_knot.gather.encoding import previews
from umber_knot.gather.parting import addresses_of, parted, people_separator, told_apart
from umber_knot.gather.read import read_file, read_text
from umber_knot.gather.references import WAYS, match_references, parse_reference
from umber_knot.gather.stream import Report, Stream


def read(data, name, options=None):
    harvest = read_text(data, name, options)
    records = list(harvest)
    return harvest.source, records


def roles(record, kind="person"):
    return [(role, text) for k, role, text in record.others if k == kind]


# -- people in tables


@pytest.mark.parametrize(
    ("cells", "people"),
    [
        (["A B, C D"], [["A B", "C D"]]),
        (["Dray T, Vash O", "Kell EB"], [["Dray T", "Vash O"], ["Kell EB"]]),
        (["Tamsin Dray, Orrin Vash and Ester Kell"], [["Tamsin Dray", "Orrin Vash", "Ester Kell"]]),
        (["Dray, Tamsin", "Vash, O."], [["Dray, Tamsin"], ["Vash, O."]]),
        (["Dray, T., Vash, O.", "Kell, E."], [["Dray, T.", "Vash, O."], ["Kell, E."]]),
        (["Dray, T., Vash, O., & Kell, E."], [["Dray, T.", "Vash, O.", "Kell, E."]]),
        (["Dray, T. and Vash, O.", "Kell, E."], [["Dray, T.", "Vash, O."], ["Kell, E."]]),
        (["van der Kell, Jan, de Dray, Piet"], [["van der Kell, Jan", "de Dray, Piet"]]),
        (["Dray, Vash, Kell", "Moor"], [["Dray", "Vash", "Kell"], ["Moor"]]),
        (["Dray, T.; Vash, O."], [["Dray, T.", "Vash, O."]]),
        (["Tamsin Dray/Orrin Vash"], [["Tamsin Dray", "Orrin Vash"]]),
        (["Tamsin Dray|Orrin Vash"], [["Tamsin Dray", "Orrin Vash"]]),
        (["Tamsin Dray\nOrrin Vash"], [["Tamsin Dray", "Orrin Vash"]]),
        (["Tamsin Dray & Orrin Vash"], [["Tamsin Dray", "Orrin Vash"]]),
        (["Dray T, Vash O, et al."], [["Dray T", "Vash O"]]),
        (["Martin Kell Moor, Jr., Tamsin Dray"], [["Martin Kell Moor Jr.", "Tamsin Dray"]]),
    ],
)
def test_people_of_a_cell_are_told_apart_by_the_whole_column(cells, people):
    separator = people_separator(cells)
    assert [parted(cell, separator) for cell in cells] == people
    assert told_apart(cells, separator)[0] == len({one for several in people for one in several})


GIVEN = st.text("abcdefghij", min_size=3, max_size=6).map(str.capitalize)


@given(
    st.lists(st.lists(st.tuples(GIVEN, GIVEN), min_size=1, max_size=4), min_size=3, max_size=6), st.sampled_from(";|/")
)
def test_every_person_of_a_table_comes_back(rows, separator):
    several = [*rows, [("Tamsin", "Dray"), ("Orrin", "Vash")]]
    cells = [f"{separator} ".join(f"{given} {family}" for given, family in people) for people in several]
    found = people_separator(cells)
    assert [parted(cell, found) for cell in cells] == [[f"{g} {f}" for g, f in people] for people in several]
    lists = [", ".join(f"{given} {family}" for given, family in people) for people in several]
    found = people_separator(lists)
    assert [parted(cell, found) for cell in lists] == [[f"{g} {f}" for g, f in people] for people in several]


def test_a_table_with_commas_between_people_says_so_and_keeps_its_other_columns():
    text = (
        "Title,Authors,Citation,First Author,Journal/Book,Publication Year,Cites,Funding,Affiliations\n"
        'Silt,"Dray T, Vash O","Mud. 1998 May;1(2):10-11.",Dray T,Mud,1998,12,Mill Trust,'
        '"University of Eastmere, Mill Trust"\n'
    )
    record = read(text, "a.csv")[1][0]
    assert record.persons == ["Dray T", "Vash O"] and record.citations == 12 and not record.references
    assert record.venue == "Mud" and record.year == 1998
    assert record.extra["Citation"] == "Mud. 1998 May;1(2):10-11." and record.extra["First Author"] == "Dray T"
    assert record.extra["Funding"] == "Mill Trust"
    assert record.extra["addresses"] == {"Dray T": ["University of Eastmere"], "Vash O": ["Mill Trust"]}


def test_affiliations_parted_by_commas_are_one_a_person_or_stay_whole():
    assert addresses_of("Mud Institute, Mill Trust", 2) == ["Mud Institute", "Mill Trust"]
    once = "School of Mud, University of Eastmere,Eastmere,Norway"
    assert addresses_of(f"{once}, {once}", 2) == [once, once]
    assert addresses_of("Mud Institute, Mill Trust, Board", 2) == ["Mud Institute, Mill Trust, Board"]


# -- RIS


def test_ris_keeps_every_address_and_whose_it_is():
    text = (
        "TY  - JOUR\nTI  - Silt\nAU  - Dray, Tamsin\nAU  - Vash, Orrin\n"
        "AD  - Univ Eastmere, Dept Mud, Eastmere, Norway\nAD  - Mill Trust, Fairpoint, MA 01234 USA\n"
        "AD  - Dray, Tamsin: Marsh College, Sandhaven, Netherlands, t.dray@marsh.example\n"
        "N1  - Times Cited in the whole collection:  45\nN1  - Cited Reference Count:  30\n"
        "SN  - 1111-2222\nSN  - 3333-4444\nKW  - *Tides\nER  - \n"
    )
    record = read(text, "a.ris")[1][0]
    assert record.institutions == ["Univ Eastmere", "Mill Trust", "Marsh College"]
    assert record.countries == ["Norway", "United States", "Netherlands"]
    assert list(record.extra["addresses"]) == ["Dray, Tamsin"] and record.extra["departments"] == ["Dept Mud"]
    assert record.known_as == {"Dray, Tamsin": "mailto:t.dray@marsh.example"}
    assert record.citations == 45 and record.extra["notes"] == ["Cited Reference Count:  30"]
    assert record.extra["issn"] == ["1111-2222", "3333-4444"] and record.keywords == ["Tides"]


def test_ris_notes_that_are_references_are_read_as_such():
    cited = [
        "Dray, T. (1998). Silt behind gates. Mud, 12, 3-9.",
        "Vash, O. (1999). Oak. Mud, 13, 1-2.",
        "Kell, E. (2001). Tide mills. Mud, 14, 7-8.",
    ]
    text = "TY  - JOUR\nTI  - Silt\n" + "".join(f"M1  - {one}\n" for one in cited) + "N1  - A note.\nER  - \n"
    record = read(text, "a.ris")[1][0]
    assert record.references == cited and record.extra["notes"] == ["A note."]
    headed = "TY  - JOUR\nTI  - Silt\nN1  - References: Dray T, 1998, Mud, V1, P2; Vash O, 1999, Mud, V3, P4\nER  - \n"
    assert read(headed, "a.ris")[1][0].references == ["Dray T, 1998, Mud, V1, P2", "Vash O, 1999, Mud, V3, P4"]


def test_ris_with_one_space_before_the_dash_is_read():
    text = "TY - JOUR\nTI - Silt\nAU - Dray, Tamsin\nKW - tide\nPMID - 123\nPY - 1998\nER - \n"
    source, (record,) = read(text, "a.ris")
    assert source.format == "RIS" and record.persons == ["Dray, Tamsin"] and record.keywords == ["tide"]
    assert record.year == 1998 and record.extra == {"PM": ["123"]}


# -- BibTeX


def test_bibtex_puts_texts_together_and_inherits():
    text = (
        '@string{gates = "the Gates"}\n@string{both = "behind " # gates}\n'
        '@inproceedings{a, title = "Silt " # both, author = {Dray, Tamsin}, crossref = {p}}\n\n'
        "@proceedings{p, title = {Papers of the Mill Trust}, year = 1998, editor = {Vash, Orrin}, volume = 4}\n"
    )
    first = read(text, "a.bib")[1][0]
    assert (first.title, first.venue, first.year, first.volume) == (
        "Silt behind the Gates",
        "Papers of the Mill Trust",
        1998,
        "4",
    )
    assert roles(first) == [("editor", "Vash, Orrin")] and first.line == 3


def test_a_field_that_is_there_twice_costs_no_entry():
    text = "@article{a,\n title={Silt},\n year=1998,\n note={x},\n note={longer}\n}\n@article{b, title={Oak}}\n"
    source, records = read(text, "a.bib")
    assert [r.title for r in records] == ["Silt", "Oak"] and records[0].extra["note"] == "longer"
    assert [r.line for r in records] == [1, 7]
    assert "twice" in source.problems[0].message and source.problems[0].line == 1


def test_logos_of_tex_are_spelt_out():
    text = r"@article{a, title={Mud in \TeX{} and \LaTeX, \MF\ and \TUG; {\it slant}, \acro{SILT}}}"
    assert read(text, "a.bib")[1][0].title == "Mud in TeX and LaTeX, METAFONT and TUG; slant, SILT"


def test_bibtex_of_databases_tells_words_addresses_and_references_apart():
    text = (
        "@article{a, title={Silt}, author={Dray, Tamsin and Vash, Orrin}, author_keywords={mud; tide mill},\n"
        "keywords={Hydraulics; Sediment}, note={cited By 12},\n"
        "affiliations={University of Eastmere, Eastmere, Norway; Mill Trust, Fairpoint, MA, United States},\n"
        "references={Kell, E., Oak, (1999) Mud, 1, pp. 2-3; Moor, A., Gates, (2001) Mud, 2, pp. 4-5}}\n\n"
        "@article{b, title={Oak}, author={Dray, Tamsin and Vash, Orrin}, Keywords-Plus={SEDIMENT},\n"
        "Affiliation={Dray, T (Corresponding Author), Univ Eastmere, Eastmere, Norway.\n   Vash, Orrin, Mill Trust, Fairpoint, MA 01234 USA.},\n"
        "Cited-References={Kell E, 1999, MUD, V1, P2.\n   Moor A, 2001, MUD, V2, P4.}, Times-Cited={3}}\n"
    )
    one, two = read(text, "a.bib")[1]
    assert one.keywords == ["mud", "tide mill"] and roles(one, "keyword") == [
        ("index", "Hydraulics"),
        ("index", "Sediment"),
    ]
    assert one.citations == 12 and "note" not in one.extra and one.countries == ["Norway", "United States"]
    assert len(one.references) == 2
    assert roles(two, "keyword") == [("index", "SEDIMENT")] and two.citations == 3
    assert two.references == ["Kell E, 1999, MUD, V1, P2", "Moor A, 2001, MUD, V2, P4"]
    assert {name: len(several) for name, several in two.extra["addresses"].items()} == {
        "Dray, Tamsin": 1,
        "Vash, Orrin": 1,
    }


# -- formats that were refused


def test_medline_in_xml_keeps_everything():
    record = read(samples()["medline.xml"], "a.xml")[1][0]
    assert record.title == "Sluice timing in the upper estuary" and (record.date, record.year) == ("1998-05", 1998)
    assert record.persons == ["Dray, Tamsin", "Marsh, Mill and Mud Group"]
    assert record.known_as == {"Dray, Tamsin": "orcid:0000-0002-1825-0097"}
    assert record.institutions == ["University of Eastmere", "Mill Trust"] and record.countries == [
        "Norway",
        "United States",
    ]
    assert len(record.extra["addresses"]["Dray, Tamsin"]) == 2 and record.extra["types"] == [
        "Journal Article",
        "Review",
    ]
    assert record.abstract == "Background: The gate leaks. Results: It was mended."
    assert record.references == ["Vashley O. Oak. Mud and Silt. 1990;4(1):5-9", "pmid:77"]
    assert roles(record, "keyword") == [("index", "Tides/history")] and record.extra["substances"] == ["Silt"]
    assert record.extra["electronic date"] == "1997 12 30" and record.extra["issue"] == "3"
    one_line = samples()["medline.xml"].replace(b"\n", b"")
    assert read(one_line, "a.xml")[1][0].persons == record.persons
    cut = samples()["medline.xml"][:1500]
    source, records = read(cut, "a.xml")
    assert source.problems and len(records) <= 1


def test_refer_atom_bibtexml_and_marc_in_json():
    first, second = read(samples()["a.refer"], "x.txt")[1]
    assert first.title == "Sluice timing in the upper estuary" and first.persons == ["Tamsin Dray", "Orrin Vashley"]
    assert first.keywords == ["sluice gate", "tide"] and first.pages == "34-56" and first.doi == "10.99999/brackwater.1"
    assert first.extra == {"notes": "kept in box 4"}
    assert (
        second.venue == "Papers of the Mill Trust"
        and second.date == "1999-05"
        and roles(second) == [("editor", "Orrin Vashley")]
    )
    entry = read(samples()["feed.xml"], "a.xml")[1][0]
    assert entry.persons == ["Tamsin Dray", "Orrin Vashley"] and entry.date == "1998-04-03"
    assert entry.institutions == ["University of Eastmere"] and entry.doi == "10.99999/brackwater.1"
    assert entry.extra["comment"] == "12 pages" and entry.title == "Sluice timing in the upper estuary"
    entry = read(samples()["bib.xml"], "a.xml")[1][0]
    assert entry.persons == ["Vashley, Orrin", "Sørlie, Anke"] and entry.keywords == ["sluice gate", "tide"]
    assert entry.entry == "bw1" and entry.venue == "Mud and Silt" and entry.year == 1998
    book = read(samples()["marc.json"], "a.json")[1][0]
    assert book.title == "Sluice timing : a study" and book.persons == ["Vashley, Orrin"] and book.year == 1998
    assert book.extra["edition"] == "2nd ed" and book.extra["series"] == "Mud papers ; 7"
    assert roles(book, "keyword") == [("index", "Sluice gates--Eastmere")]


def test_unimarc_is_read_by_its_own_numbers():
    from pymarc import Field, Indicators, Record, Subfield

    marc = Record(force_utf8=True)

    def add(tag, *subfields):
        marc.add_field(Field(tag, Indicators(" ", " "), [Subfield(c, v) for c, v in subfields]))

    add("100", ("a", "19961119d1996    ||||0itac50      ba"))
    add("101", ("a", "ita"))
    add("200", ("a", "\x88L'\x89altra chiusa"), ("e", "mulini e maree"), ("f", "Tamsin Dray"))
    add("205", ("a", "2. ed."))
    add("210", ("a", "Milano"), ("c", "Mulino"), ("d", "1996"))
    add("225", ("a", "Fango"), ("v", "7"))
    add("606", ("a", "Maree"), ("x", "Storia"))
    add("700", ("a", "Dray"), ("b", ", Tamsin"))
    add("702", ("a", "Vash"), ("b", ", Orrin"), ("4", "730"))
    record = read(marc.as_marc(), "a.mrc")[1][0]
    assert record.title == "L'altra chiusa: mulini e maree" and record.persons == ["Dray, Tamsin"]
    assert roles(record) == [("translator", "Vash, Orrin")] and record.year == 1996 and record.language == "it"
    assert record.venue == "Fango" and record.volume == "7" and record.extra["edition"] == "2. ed"
    assert roles(record, "keyword") == [("index", "Maree--Storia")] and record.places == ["Milano"]


# -- compressed files, and what is none


def test_compressed_files_are_read_as_what_is_in_them(tmp_path):
    for name in ("a.ris", "medline.xml", "a.csv", "csl.json", "a.mrc", "a.pdf"):
        plain, packed = tmp_path / name, tmp_path / f"{name}.gz"
        plain.write_bytes(samples()[name])
        packed.write_bytes(gzip.compress(samples()[name]))
        (one, first), (two, second) = ((h, list(h)) for h in (read_file(plain), read_file(packed)))
        assert [(r.title, r.persons, r.line) for r in first] == [(r.title, r.persons, r.line) for r in second]
        assert one.source.format == two.source.format and two.source.name == f"{name}.gz"


def test_compressed_files_are_bounded_and_their_damage_is_said(tmp_path, monkeypatch):
    def refused(data, match):
        path = tmp_path / "a.gz"
        path.write_bytes(data)
        with pytest.raises(UserError, match=match):
            list(read_file(path))

    ris = samples()["a.ris"]
    refused(gzip.compress(gzip.compress(ris)), "compressed file again")
    tar = io.BytesIO()
    with tarfile.open(fileobj=tar, mode="w") as archive:
        info = tarfile.TarInfo("a.ris")
        info.size = len(ris)
        archive.addfile(info, io.BytesIO(ris))
    refused(gzip.compress(tar.getvalue()), "archive of several files")
    refused(gzip.compress(bytes(50_000_000)), "not a text file")
    cut = tmp_path / "cut.gz"
    cut.write_bytes(
        gzip.compress(b"".join(ris.replace(b"1998", str(n).encode()) for n in range(1500, 2000) for _ in range(9)))[
            :-900
        ]
    )
    harvest = read_file(cut)
    assert list(harvest) and any("damaged" in p.message for p in harvest.source.problems)
    monkeypatch.setattr("umber_knot.gather.stream.MOST_UNPACKED", 1_000_000)
    refused(gzip.compress(ris * 20_000), "are compressed in it")


def test_what_is_no_regular_file_is_refused_at_once(tmp_path):
    pipe = tmp_path / "pipe.ris"
    os.mkfifo(pipe)
    with pytest.raises(UserError, match="not a regular file"):
        list(read_file(pipe))
    with pytest.raises(UserError, match="not a regular file"):
        Stream(pipe, Report())


# -- dates


@pytest.mark.parametrize(
    ("name", "text", "date"),
    [
        ("a.ris", "TY  - JOUR\nTI  - Silt\nPY  - 2003\nDA  - 2004/05/06\nER  - \n", "2003"),
        ("a.ris", "TY  - JOUR\nTI  - Silt\nPY  - 2003\nDA  - 2003/05/06\nER  - \n", "2003-05-06"),
        (
            "a.xml",
            '<oai_dc:dc xmlns:oai_dc="http://www.openarchives.org/OAI/2.0/oai_dc/" xmlns:dc="http://purl.org/dc/elements/1.1/">'
            "<dc:title>Silt</dc:title><dc:date>2009-04-15T10:18:51Z</dc:date><dc:date>2003</dc:date></oai_dc:dc>",
            "2003",
        ),
        ("a.nbib", "PMID- 1\nTI  - Silt\nDP  - 2003 May\nDEP - 20021230\n", "2003-05"),
    ],
)
def test_the_date_of_the_issue_counts_and_the_others_are_kept(name, text, date):
    record = read(text, name)[1][0]
    assert record.date == date and record.year == 2003
    assert date == "2003-05-06" or record.extra["other dates"]


# -- JATS and MODS


def test_an_editors_address_is_not_the_authors():
    text = (
        "<article><front><article-meta><title-group><article-title>Silt</article-title></title-group>"
        '<contrib-group><contrib contrib-type="author"><name><surname>Dray</surname><given-names>Tamsin</given-names></name>'
        '<xref ref-type="aff" rid="a1"/></contrib></contrib-group>'
        '<contrib-group><contrib contrib-type="editor"><name><surname>Vash</surname><given-names>Orrin</given-names></name>'
        '<xref ref-type="aff" rid="e1"/></contrib></contrib-group>'
        '<aff id="a1"><label>1</label>University of Eastmere, Eastmere, Norway</aff><aff id="e1">Mill Trust, Fairpoint, MA, USA</aff>'
        '<pub-date pub-type="epub"><year>2006</year></pub-date><pub-date pub-type="ppub"><month>2</month><year>2007</year></pub-date>'
        "<abstract><sec><title>Background</title><p>Despite mud.</p></sec><sec><title>Results</title><p>Silt.</p></sec></abstract>"
        "</article-meta></front><back><ref-list><ref><element-citation><collab>Marsh Society</collab>"
        "<source>Global mud</source></element-citation></ref></ref-list></back></article>"
    )
    record = read(text, "a.xml")[1][0]
    assert record.countries == ["Norway"] and record.extra["addresses"] == {
        "Dray, Tamsin": ["University of Eastmere, Eastmere, Norway"]
    }
    assert record.abstract == "Background: Despite mud. Results: Silt."
    assert record.references == ["Marsh Society, Global mud"] and record.date == "2007-02"


def test_mods_keeps_both_given_names_and_the_part_of_the_work():
    text = (
        '<mods xmlns="http://www.loc.gov/mods/v3"><titleInfo><title>Silt</title></titleInfo><name type="personal">'
        '<namePart type="given">Tamsin</namePart><namePart type="given">A.</namePart><namePart type="family">Dray</namePart></name>'
        '<part><detail type="volume"><number>50</number></detail><extent unit="page"><start>7</start><end>9</end></extent></part></mods>'
    )
    record = read(text, "a.xml")[1][0]
    assert record.persons == ["Dray, Tamsin A."] and record.volume == "50" and record.pages == "7-9"


# -- JSON


def test_json_of_any_layout_is_a_table_of_its_keys():
    objects = (
        '[{"title": "Silt", "authors": [{"first": "Tamsin", "last": "Dray"}, {"first": "Orrin", "last": "Vash"}],\n'
        ' "year": 1998, "tags": ["tide", "mud & silt"], "journal": {"title": "Mud", "issn": "1111-2222"}, "type": "article"},\n'
        ' {"title": "Oak", "authors": ["Ester Kell"], "year": 1999, "shelf": 7}]'
    )
    source, (one, two) = read(objects, "a.json")
    assert source.format == "JSON table" and one.persons == ["Dray, Tamsin", "Vash, Orrin"] and one.year == 1998
    assert one.keywords == ["tide", "mud & silt"] and one.venue == "Mud" and one.extra == {"journal issn": "1111-2222"}
    assert (two.persons, two.extra, two.line) == (["Ester Kell"], {"shelf": "7"}, 3)
    lines = (
        '{"title": "Silt", "author": "Dray, T.; Vash, O.", "year": "1998"}\n{"title": "Oak", "author": "Kell, E."}\n'
    )
    source, (one, two) = read(lines, "a.csv")
    assert source.format == "JSON table" and one.persons == ["Dray, T.", "Vash, O."] and two.persons == ["Kell, E."]
    wrapped = '{"took": 3, "hits": [{"title": "Silt", "creators": ["Dray, T."]}]}'
    assert read(wrapped, "a.json")[1][0].persons == ["Dray, T."]
    with pytest.raises(UserError, match="no object"):
        read('{"a": {}}', "a.json")


# -- which records are one


def titled(name, *records):
    return Source(name, name, "CSV", "utf-8", "", len(records)), records


def paper(line, title, persons, year=1998, **fields):
    return RawRecord(line, title=title, persons=persons, year=year, **fields)


FILLER = [
    paper(100 + k, f"Work {word} of the {other}", [f"Kell{k}, E."])
    for k, (word, other) in enumerate([("alder", "quay"), ("birch", "weir"), ("cedar", "mole"), ("elm", "dyke")] * 8)
]


@pytest.mark.parametrize(
    ("one", "other", "joined"),
    [
        (
            ("Silt behind the gates", ["Tamsin Dray", "Orrin Vash"]),
            ("Silt Behind the Gates", ["O. Vash", "T. Dray"]),
            True,
        ),
        (
            ("Silt bahind the tidal gates", ["T. Dray", "O. Vash"]),
            ("Silt behind the tidal gates", ["Dray, T.", "Vash, O."]),
            True,
        ),
        (("Silt behind the gates (extended abstract)", ["T. Dray"]), ("Silt behind the gates", ["T. Dray"]), True),
        (
            ("Tamsin Dray, Orrin Vash", ["Silt behind the gates"]),
            ("Silt behind the gates", ["Tamsin Dray", "Orrin Vash"]),
            True,
        ),
        (("Silt behind the gates", ["T. Dray"]), ("Silt behind the gates", ["I. Maddern"]), False),
        (("Silt behind the gates, part 1", ["T. Dray"]), ("Silt behind the gates, part 2", ["T. Dray"]), False),
        (("Silt behind the gates", ["T. Dray"]), ("Erratum: Silt behind the gates", ["T. Dray"]), False),
        (("Oak lintels of the coast", ["T. Dray"]), ("Silt behind the tidal gates", ["T. Dray"]), False),
    ],
)
def test_findings_of_two_libraries_are_joined_by_all_they_say(one, other, joined):
    corpus = corpus_of([titled("a.csv", paper(1, *one), *FILLER[:16]), titled("b.csv", paper(1, *other), *FILLER[16:])])
    assert corpus.flow.by_title == int(joined)
    alone = corpus_of([titled("a.csv", paper(1, *one)), titled("b.csv", paper(1, *other))])
    assert alone.flow.by_title == int(joined)


@pytest.mark.parametrize(
    ("fields", "others", "joined"),
    [
        ({"volume": "12", "pages": "3-9"}, {"volume": "12", "pages": "3-9"}, True),
        ({"volume": "12"}, {"volume": "13"}, False),
        ({"pages": "3-9"}, {"pages": "21-30"}, False),
        ({"pages": "3-9"}, {"pages": "e0123"}, True),
        ({"doi": "10.99999/a"}, {"doi": "10.99999/b"}, False),
        ({"venue": "Mud and Silt"}, {"venue": "Mud Silt", "year": 1999}, True),
        ({"venue": "Mud and Silt"}, {"venue": "Oak", "year": 1999}, False),
        ({}, {"year": 2001}, False),
    ],
)
def test_what_two_findings_contradict_keeps_them_apart(fields, others, joined):
    one, other = (paper(1, "Silt behind the gates", ["Dray, T."], **f) for f in (fields, others))
    assert corpus_of([titled("a.csv", one), titled("b.csv", other)]).flow.by_title == int(joined)


def test_titles_that_recur_in_a_journal_are_not_one():
    notes = [
        paper(k, "Notes from the editor", ["Dray, T."], volume=str(k), pages="1-2", venue="Mud") for k in range(1, 9)
    ]
    notes += [
        paper(20 + k, "Calendar of the year", ["Anonymous"], date=f"1998-{k:02}", venue="Mud") for k in range(1, 9)
    ]
    assert corpus_of([titled("a.csv", *notes)]).flow.by_title == 0
    twice = paper(50, "Silt behind the gates", ["Dray, T."], volume="3", pages="1-2", venue="Mud")
    assert corpus_of([titled("a.csv", *notes, twice, dataclasses.replace(twice, line=51))]).flow.by_title == 1
    # of two that look alike in one library, neither is taken for the other's
    both = [paper(k, "Silt behind the gates", ["Dray, T."], pages=f"{k}-9") for k in (1, 3)]
    assert (
        corpus_of(
            [titled("a.csv", *both), titled("b.csv", paper(1, "Silt behind the gates", ["Dray, T."]))]
        ).flow.by_title
        == 0
    )


# -- tables of pairs, and tables of what was measured


def test_pairs_are_events_of_people_or_ties_of_one_kind_and_it_is_said():
    source, records = read(samples()["pairs.csv"], "a.csv")
    assert [(r.title, r.type, r.persons) for r in records] == [
        ("Tide day", "event", ["Tamsin Dray", "Orrin Vash"]),
        ("Mud day", "event", ["Tamsin Dray", "Ester Kell"]),
    ]
    assert source.told == "each event is a record of the person column's names: 2 records, 3 people, 4 pairs"
    turned = read(samples()["pairs.csv"], "a.csv", {"pairs": "first"})[1]
    assert (turned[0].title, turned[0].persons) == ("Tamsin Dray", ["Tide day", "Mud day"])
    letters = "giver,taker\nDray,Vash\nVash,Dray\nDray,Kell\nKell,Dray\nVash,Kell\n"
    source, records = read(letters, "a.csv")
    assert (
        source.format == "table of pairs"
        and len(records) == 5
        and roles(records[0]) == [("from", "Dray"), ("to", "Vash")]
    )
    citing = "citing,cited\n10.99999/a,10.99999/b\n10.99999/a,10.99999/c\n10.99999/b,10.99999/c\n"
    source, records = read(citing, "a.csv")
    assert roles(records[0], "reference") == [("from", "10.99999/a"), ("to", "10.99999/b")]
    titles = "title,authors\nSilt,Dray T\nOak,Vash O\nTide,Dray T\nGates,Vash O\n"
    assert read(titles, "a.csv")[0].format == "CSV"


def test_what_was_measured_of_items_is_nobody():
    text = "id,degree,closeness,betweenness\n" + "".join(f"member {k},{k},0.{k}1,{k}.25\n" for k in range(1, 9))
    source, records = read(text, "items.csv")
    assert source.format == "CSV" and not any(r.persons or r.others for r in records)
    assert records[0].extra == {"degree": "1", "closeness": "0.11", "betweenness": "1.25"}


# -- references


def test_references_without_authors_and_a_tables_own_keys_are_matched():
    text = (
        "id,title,authors,year,venue,volume,pages,references\n"
        'r1,Silt behind the gates,"Dray, T.",2006,Journal of Mud Research,127,199-211,\n'
        'r2,Oak lintels of the coast,"Vash, O.",2008,Mud and Silt,3,5-9,r1; r9\n'
        'r3,Tide mills,"Kell, E.",2009,Mud and Silt,4,1-4,J Mud Res. 2006 Oct 6;127(1):199-211; r2\n'
    )
    corpus = corpus_of([read(text, "a.csv")])
    matches, forms = match_references(corpus), corpus.of("reference").forms
    told = {
        forms[k]: (int(matches.record[k]), WAYS[matches.way[k]][0]) for k in range(len(forms)) if matches.record[k] >= 0
    }
    assert told == {
        "r1": (0, "its own key"),
        "r2": (1, "its own key"),
        "J Mud Res. 2006 Oct 6;127(1):199-211": (0, "venue, year, volume and page"),
    }
    elsewhere = 'id,title,authors,year,references\nq1,Another work,"Moor, A.",2010,r1\n'
    two = corpus_of([read(text, "a.csv"), read(elsewhere, "b.csv")])
    forms = two.of("reference").forms
    assert match_references(two).record[list(forms).index("r1")] == -1  # another table's keys are its own


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("Cell Mud. 2006 Oct 6;127(1):199-211", ("", 2006, "Cell Mud", "127", "199")),
        ("Mud (Berl). 2005 May;46 Suppl 1:S24-30", ("", 2005, "Mud (Berl)", "46", "S24")),
        ("Proc Mud Acad U S A. 1999;96:133-8", ("", 1999, "Proc Mud Acad U S A", "96", "133")),
        ("Vash O, Kell E. Oak. Mud and Silt. 1990 Oct;4(1):5-9", ("vash", 1990, "Mud and Silt", "4", "5")),
        (
            "Kell, E., Moor, A.B., Oak of the coast, (1999) Mud and Silt, 1 (3), pp. 2-3",
            ("kell", 1999, "Mud and Silt", "1", "2"),
        ),
    ],
)
def test_references_are_parsed_in_the_layouts_of_databases(text, told):
    found = parse_reference(text)
    assert (found.author, found.year, found.venue, found.volume, found.page) == told


def test_two_books_of_one_author_and_year_stay_two_references():
    reference = [
        {"key": "b1", "author": "Dray", "year": "2017", "series-title": "Silt"},
        {"key": "b2", "author": "Dray", "year": "2017", "volume-title": "Oak"},
        {"key": "b3", "author": "Dray", "year": "2017"},
        {"key": "b4", "author": "Dray", "year": "2017"},
    ]
    work = {
        "DOI": "10.99999/a",
        "title": ["Tide"],
        "reference-count": 4,
        "is-referenced-by-count": 0,
        "reference": reference,
    }
    assert len(set(read(json.dumps([work]), "a.json")[1][0].references)) == 4


# -- mark-up


@pytest.mark.parametrize(
    ("name", "text"),
    [
        (
            "a.ris",
            "TY  - JOUR\nTI  - H<sub>2</sub>O &amp; <i>silt</i>\nKW  - mud &amp; silt; tide\nAU  - Dray, T.\nER  - \n",
        ),
        (
            "a.bib",
            "@article{a, title={H<sub>2</sub>O &amp; <i>silt</i>}, keywords={mud &amp; silt; tide}, author={Dray, T.}}",
        ),
        ("a.csv", 'title,keywords,authors\nH<sub>2</sub>O &amp; <i>silt</i>,mud &amp; silt; tide,"Dray, T."\n'),
        (
            "a.json",
            '[{"type": "article", "title": "H<sub>2</sub>O &amp; <i>silt</i>", "keyword": "mud &amp; silt; tide",'
            ' "container-title": "Mud", "author": [{"family": "Dray", "given": "T."}]}]',
        ),
        ("a.refer", "%0 Article\n%T H<sub>2</sub>O &amp; <i>silt</i>\n%K mud &amp; silt; tide\n%A Dray, T.\n"),
    ],
)
def test_mark_up_is_read_in_every_format_and_parts_no_keyword(name, text):
    record = read(text, name)[1][0]
    assert record.title == "H2O & silt" and record.keywords == ["mud & silt", "tide"] and record.persons == ["Dray, T."]
    assert "<sub>" in record.raw


# -- mail, texts


def mail(body, **headers):
    lines = [
        "From: Tamsin Dray <t@eastmere.example>",
        "To: o@fairpoint.example",
        "Subject: Silt",
        "Message-ID: <m9@x.example>",
    ]
    lines += [f"{name.replace('_', '-')}: {value}" for name, value in headers.items()]
    return read("\n".join([*lines, "", body]), "a.eml")[1][0]


@pytest.mark.parametrize(
    ("body", "own"),
    [
        (
            "The gate leaks.\n\n_______________________________________________\nMud mailing list\nMud@lists.example\nhttps://lists.example/listinfo/mud\n",
            "The gate leaks.",
        ),
        (
            "The gate leaks.\n\n---------\nTo unsubscribe write to mud-request\n__________\nMud mailing list\n",
            "The gate leaks.",
        ),
        ("I agree.\n\nFrom: Orrin Vash\nSent: Monday\nTo: Tamsin\nSubject: RE: Silt\n\nThe old text.\n", "I agree."),
        ("I agree.\n\n*From:* Orrin Vash\n*Date:* Monday\n*To:* Tamsin\n\nThe old text.\n", "I agree."),
        ("A table\n---------\none\ntwo\n", "A table --------- one two"),
        ("From: here to there\nwe walked.\n", "From: here to there we walked."),
    ],
)
def test_mail_without_the_footers_of_lists_and_the_letters_it_answers(body, own):
    assert [p.text for p in mail(body).passages] == [own]


@pytest.mark.parametrize(
    ("headers", "parent"),
    [
        ({"References": "<m1@x.example> <m2@x.example>"}, "m2@x.example"),
        ({"References": "<m1@x.example> <m2@x.example>", "In_Reply_To": "<m1@x.example>"}, "m1@x.example"),
        ({"In_Reply_To": "<m1@x.example> from Orrin Vash <o@fairpoint.example>"}, "m1@x.example"),
        ({"In_Reply_To": 'Your message of "Mon, 4 May 1998" <m1@x.example>'}, "m1@x.example"),
        ({"References": "<m1@\n x.example>"}, "m1@x.example"),
        ({"In_Reply_To": "m1@x.example"}, "m1@x.example"),
    ],
)
def test_every_parent_of_a_mail_is_found(headers, parent):
    assert mail("Yes.", **headers).extra["in reply to"] == parent


def test_tei_texts_keep_their_author_date_and_bibliography():
    text = (
        '<TEI xmlns="http://www.tei-c.org/ns/1.0"><teiHeader><fileDesc><titleStmt><title>Silt</title><author><persName>'
        "<surname>Dray</surname><forename>Tamsin</forename></persName></author><editor>Orrin Vash</editor></titleStmt>"
        '<publicationStmt><publisher>Mill Press</publisher><pubPlace>Fairpoint</pubPlace><date when="2004"/></publicationStmt>'
        '<sourceDesc><bibl><date when="1898"/></bibl></sourceDesc></fileDesc></teiHeader><text><body><p>Mud.</p></body><back>'
        "<listBibl><bibl>Kell, Oak, 1890</bibl><biblStruct><analytic><author><persName><surname>Moor</surname></persName></author>"
        '<title>Tide</title></analytic><monogr><title>Mud</title><imprint><biblScope unit="volume">3</biblScope>'
        '<date when="1891"/></imprint></monogr></biblStruct></listBibl></back></text></TEI>'
    )
    source, (record,) = read(text, "a.xml")
    assert source.format == "TEI" and record.persons == ["Dray, Tamsin"] and roles(record) == [("editor", "Orrin Vash")]
    assert record.date == "1898" and record.extra == {"publisher": "Mill Press", "other dates": ["2004"]}
    assert record.references == ["Kell, Oak, 1890", "Moor, 1891, Tide, Mud, V3"] and record.places == ["Fairpoint"]


def test_documents_in_the_strict_form_are_read():
    plain = samples()["a.docx"]
    strict = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(plain)) as old, zipfile.ZipFile(strict, "w") as new:
        for name in old.namelist():
            data = old.read(name).replace(
                b"http://schemas.openxmlformats.org/wordprocessingml/2006/main",
                b"http://purl.oclc.org/ooxml/wordprocessingml/main",
            )
            new.writestr(name, data)
    assert [p.text for p in read(strict.getvalue(), "a.docx")[1][0].passages] == [
        p.text for p in read(plain, "a.docx")[1][0].passages
    ]


# -- letters


LETTERS = {
    "gb18030": "泥沙在潮闸后面沉积的研究，关于磨坊和水闸的问题。",
    "big5": "泥沙在潮閘後面沉積的研究，關於磨坊和水閘的問題。",
    "euc_kr": "조수 수문 뒤의 퇴적물에 관한 연구와 방앗간",
    "shift_jis": "潮止め水門の背後の泥に関する研究と水車について",
    "euc_jp": "潮止め水門の背後の泥に関する研究と水車について",
    "cp1253": "Μελέτη της λάσπης πίσω από τις πύλες της παλίρροιας",
    "cp1254": "Gelgit kapılarının arkasındaki çamur üzerine bir çalışma ve değirmen",
    "cp1256": "دراسة الطين خلف بوابات المد والجزر عند المصب",
    "cp1255": "מחקר על הבוץ מאחורי שערי הגאות בשפך הנהר",
    "cp1251": "Исследование ила за приливными воротами у мельницы",
    "koi8_r": "Исследование ила за приливными воротами у мельницы",
    "cp1250": "Studie bahna za přílivovými vraty, žluťoučký kůň",
    "cp1252": "Étude de la vase derrière les portes à marée, größer",
}


@pytest.mark.parametrize(("encoding", "title"), LETTERS.items())
def test_letters_of_every_alphabet_are_told_and_can_be_read_otherwise(tmp_path, encoding, title):
    path = tmp_path / "a.ris"
    path.write_bytes(f"TY  - JOUR\nTI  - {title}\nAU  - Dray, T.\nPY  - 1998\nER  - \n".encode(encoding))
    harvest = read_file(path)
    assert next(iter(harvest)).title == title and harvest.source.encoding == encoding
    assert (encoding, title) in [(found, line.removeprefix("TI - ")) for found, _, line in previews(path.read_bytes())]
    other = "cp1252" if encoding != "cp1252" else "cp1250"
    assert next(iter(read_file(path, options={"encoding": other}))).title != title


def test_a_pdf_has_the_date_it_prints_and_every_author_of_its_own():
    made = pdf(
        "The pond",
        "Tamsin Dray, Orrin Vash and Ester Kell",
        ["Report of the Mill Trust, 12 May 1998. The gate leaks. " * 3],
        "Papers",
    )
    record = read(made, "a.pdf")[1][0]
    assert record.persons == ["Tamsin Dray", "Orrin Vash", "Ester Kell"] and record.date == "1998-05-12"


# -- what looks odd in a source as a whole


def odd(rows, options=None):
    header = "title,authors,year,affiliations\n"
    harvest = read(header + "".join(",".join(f'"{cell}"' for cell in row) + "\n" for row in rows), "a.csv", options)
    corpus = corpus_of([harvest])
    checked = check(corpus)[0]
    assert all(len(pick(corpus, one.pick)) for one in checked.odd)
    return [(one.message, one.examples) for one in checked.odd]


def test_what_looks_odd_is_said_with_examples():
    fine = [
        (f"Work {k}", f"Dray, T.; Kell{chr(97 + k)}, E.", 1990 + k, "Mill Trust, Fairpoint, MA, USA") for k in range(10)
    ]
    assert odd(fine) == []
    whole = {"fields": ["title", "people", "date", "affiliations"], "splits": ["", "", "", ";"]}
    message, examples = odd(fine, whole)[0]
    assert "every record has one person" in message and examples[0] == "Dray, T.; Kella, E." and len(examples) == 3
    other = [(t, "Dray T, Vash O" if k < 3 else "Dray T; Kell E", y, a) for k, (t, _, y, a) in enumerate(fine)]
    assert odd(other)[0] == ("3 of the people look like several", ("Dray T, Vash O",))
    one = ("Dray, Tamsin", "King, Martin, Jr.", "Ministry of Food and Farming", "de Vash, Odile", "Mill & Sons")
    assert odd([(t, f"{one[k % 5]}; Kell, E.", y, a) for k, (t, _, y, a) in enumerate(fine)]) == []
    digits = [(t, f"{p}; Board {k}", y, a) for k, (t, p, y, a) in enumerate(fine)]
    assert odd(digits)[0][0] == "10 names of people hold digits"
    late = [(t, p, 2090, a) for t, p, _, a in fine]
    assert odd(late)[0] == (
        f"10 of the years are after {date.today().year + 1}",
        ("2090 in “Work 0”", "2090 in “Work 1”", "2090 in “Work 2”"),
    )
    nowhere = [(t, p, y, "Mill Trust") for t, p, y, _ in fine]
    assert odd(nowhere)[0] == ("a country was read for 0 of 10 records with an institution", ("Mill Trust",))


def test_years_that_nobody_means_look_odd():
    corpus = corpus_of(
        [(Source("a.json", "", "", "", "", 2), [RawRecord(1, title="Mud", year=820), RawRecord(2, year=1820)])]
    )
    (one,) = check(corpus)[0].odd
    assert (one.message, one.examples) == ("1 of the years are before 1000", ("820 in “Mud”",))
    assert pick(corpus, one.pick).tolist() == [0]


def test_fullness_is_the_share_of_a_sources_records_that_state_a_field():
    one = read(
        "title,authors,year,doi\nMud,Dray T,1990,10.1/a\nSilt,,1991,\nReed,Vash O,,\nLeat,Kell E,1992,\n", "a.csv"
    )
    checked = check(corpus_of([one, read("title,keywords\nGate,sluice\n", "b.csv")]))
    full = [dict(c.fullness) for c in checked]
    assert [c.records for c in checked] == [4, 1]
    assert (full[0]["title"], full[0]["people"], full[0]["date"], full[0]["DOI"], full[0]["words"]) == (
        1,
        0.75,
        0.75,
        0.25,
        0,
    )
    assert (full[1]["people"], full[1]["words"]) == (0, 1)


# -- nothing lost


def leaves(value):
    if isinstance(value, dict):
        value = list(value.values())
    if isinstance(value, list):
        return [leaf for one in value for leaf in leaves(one)]
    return [value] if isinstance(value, str) else []


def values_of(name, data):
    """Every value of a file, told without our readers."""
    text = data.decode()
    if name.endswith((".xml", ".graphml", ".opml")):
        return list(etree.fromstring(data, etree.XMLParser(resolve_entities=False, load_dtd=False)).itertext())
    if name.endswith((".json", ".jsonl")):
        several = [text] if name.endswith(".json") else text.splitlines()
        return [leaf for one in several if one.strip() for leaf in leaves(json.loads(one))]
    if name.endswith(".csv"):
        return [cell for row in list(csv.reader(io.StringIO(text)))[1:] for cell in row]
    width = {"a.refer": 3, "tagged.txt": 3}.get(name, 6)
    return [line[width:] for line in text.splitlines()]


#: What is read as something else (a country, a language), or is the file's own and no record's.
KNOWN = {
    "england",
    "english",
    "https",
    "http",
    "nbsp",
    "question",
    "2024",
    "list",
    "000",
    "00000",
    "2200000",
    "4500",
    "980101",
}


@pytest.mark.parametrize(
    "name",
    [
        n
        for n in samples()
        if n.endswith((".xml", ".json", ".jsonl", ".csv", ".ris", ".nbib", ".refer")) or n == "tagged.txt"
    ],
)
def test_every_value_of_a_file_is_in_a_record_its_extra_fields_or_a_problem(name):
    source, records = read(samples()[name], name)
    fields = [f.name for f in dataclasses.fields(RawRecord) if f.name != "raw"]
    told = " ".join(str([getattr(r, f) for f in fields]) for r in records).lower()
    told += " ".join(f"{p.message} {p.excerpt}" for p in source.problems).lower() + source.told.lower()
    words = set(re.findall(r"[^\W\d_]{4,}|\d{3,}", " ".join(values_of(name, samples()[name])).lower()))
    assert not {word for word in words - KNOWN if word not in told}
