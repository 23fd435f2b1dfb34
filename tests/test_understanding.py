"""What texts of sources mean: dates, addresses, references, and which records are one."""

import itertools
import sqlite3
from pathlib import Path

import numpy as np
import pytest
from edtf import parse_edtf
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.conftest import Gathered
from umber_knot.corpus.assemble import corpus_of
from umber_knot.corpus.columns import Columning, Columns
from umber_knot.corpus.likeness import bare_doi, family_of
from umber_knot.corpus.migrations import APPLICATION_ID
from umber_knot.corpus.model import KINDS, Decision, FormTable, RawRecord, Source
from umber_knot.corpus.picking import pick
from umber_knot.corpus.study import Study
from umber_knot.corpus.texts import Texts
from umber_knot.errors import UserError
from umber_knot.gather.addresses import parse_address
from umber_knot.gather.countries import country_of
from umber_knot.gather.dates import understand
from umber_knot.gather.excerpt import around
from umber_knot.gather.matching import find_header, match_columns
from umber_knot.gather.references import WAYS, match_references, parse_reference, reference_text
from umber_knot.gather.remembered import header_key, recalled, remember
from umber_knot.relate.offered import offered
from umber_knot.relate.possible import possible

# -- dates


@pytest.mark.parametrize(
    ("text", "edtf"),
    [
        ("1998", "1998"),
        ("2011/05/03/", "2011-05-03"),
        ("c. 1843", "1843~"),
        ("ca 1843?", "1843%"),
        ("[1843?]", "1843?"),
        ("1840s", "184X"),
        ("19th century", "18XX"),
        ("18XX", "18XX"),
        ("1843-05/1843-06", "1843-05/1843-06"),
        ("May - June 1843", "1843-05/1843-06"),
        ("3 May 1843", "1843-05-03"),
        ("May 3rd, 1843", "1843-05-03"),
        ("3. Mai 1843", "1843-05-03"),
        ("20 avril 1820", "1820-04-20"),
        ("3 maggio 1843", "1843-05-03"),
        ("12.03.1811", "1811-03-12"),
        ("before 1843", "../1843"),
        ("after 1843", "1843/.."),
        ("vor 1843", "../1843"),
        ("between 1843 and 1845", "1843/1845"),
        ("1843-45", "1843/1845"),
        ("1998 Mar-Apr", "1998-03/1998-04"),
        ("Spring 1843", "1843-21"),
        ("1811-02-30", "1811-02"),
        ("2004-05-06T10:00:00Z", "2004-05-06"),
        ("n.d.", ""),
        ("", ""),
        ("the day after", ""),
        ("99999", ""),
    ],
)
def test_dates_are_understood(text, edtf):
    assert understand(text)[0] == edtf


@given(
    st.integers(1000, 2099),
    st.integers(1, 12),
    st.integers(1, 28),
    st.sampled_from(["", "?", "~", "%"]),
    st.sampled_from(["{y}", "{y}-{m:02}", "{y}-{m:02}-{d:02}"]),
)
@settings(max_examples=80)
def test_what_is_edtf_stays_and_another_parser_agrees(y, m, d, mark, shape):
    text = shape.format(y=y, m=m, d=d) + mark
    assert understand(text) == (text, y) and parse_edtf(text).lower_strict().tm_year == y


@given(st.text(alphabet="0123456789-/.,?~ XMayc[]und", max_size=24))
@settings(max_examples=300)
def test_any_date_is_edtf_or_nothing(text):
    edtf, year = understand(text)
    assert (edtf == "") == (year == 0)
    if edtf:
        parse_edtf(
            edtf.replace("..", "open") if edtf.startswith("..") or edtf.endswith("..") else edtf
        ) if ".." not in edtf else None
        assert 1000 <= year <= 2099


# -- addresses


@pytest.mark.parametrize(
    ("text", "parts"),
    [
        (
            "Dept of Mud, University of Eastmere, Eastmere EM4 2QX, England",
            ("University of Eastmere", "Eastmere", "United Kingdom"),
        ),
        ("Shore Policy Centre, Fairpoint, CA 94000", ("Shore Policy Centre", "Fairpoint", "United States")),
        ("Univ Fairpoint, Fairpoint, GA 30602 USA", ("Univ Fairpoint", "Fairpoint", "United States")),
        (
            "[Dray, T; Vash, O] Univ Eastmere, Dept Geog, Eastmere, Scotland.",
            ("Univ Eastmere", "Eastmere", "United Kingdom"),
        ),
        ("Estuary Research Unit, 4000 AB Sandhaven, Pays-Bas", ("Estuary Research Unit", "Sandhaven", "Netherlands")),
        ("Delta Laboratory, Hoshigata, 日本", ("Delta Laboratory", "Hoshigata", "Japan")),
        ("Department of Mud (T.D., O.V.), Hospital Eastmere, Univ Eastmere, Norway.", ("Univ Eastmere", "", "Norway")),
        ("and University of Eastmere, Eastmere, Norway (T.D.).", ("University of Eastmere", "Eastmere", "Norway")),
        ("Reedmarsh University, Sandhaven-2260, Norway", ("Reedmarsh University", "Sandhaven", "Norway")),
        ("Marsh Trust", ("Marsh Trust", "", "")),
        ("Institut für Schlick, Nordfeld, Deutschland", ("Institut für Schlick", "Nordfeld", "Germany")),
        ("Ireland", ("", "", "Ireland")),
        ("IfM, Nordfeld, DEU", ("IfM", "Nordfeld", "Germany")),
        ("a@b.example", ("", "", "")),
        ("", ("", "", "")),
    ],
)
def test_addresses_are_read_from_their_end(text, parts):
    assert tuple(parse_address(text))[:3] == parts


@pytest.mark.parametrize(
    ("text", "country"),
    [
        ("Univ Eastmere, Eastmere, Germany. t.dray@eastmere.example", "Germany"),
        ("Univ Eastmere, Eastmere, Spain. Electronic address: t.dray@eastmere.example.", "Spain"),
        ("Univ Eastmere, Eastmere, MA (T.D., O.V.)", "United States"),
        ("Univ Eastmere, Eastmere, Mass.", "United States"),
        ("Univ Eastmere, Eastmere, ON, Canada, K1H 8L1", "Canada"),
        ("Univ Eastmere, 12345 Eastmere, U.S.A.", "United States"),
        ("Univ Eastmere, Eastmere, U.K.", "United Kingdom"),
        ("Univ Eastmere, Eastmere, N. Ireland", "United Kingdom"),
        ("Univ Eastmere, Eastmere, Bosnia and Herzegovina", "Bosnia and Herzegovina"),
        ("Univ Eastmere, Eastmere, Trinidad & Tobago", "Trinidad and Tobago"),
        ("Univ Eastmere, Eastmere, Slovak Republic", "Slovakia"),
        ("Univ Eastmere, Eastmere, Papua New Guinea", "Papua New Guinea"),
        ("Univ Eastmere, Eastmere, Democratic Republic of the Congo", "Democratic Republic of the Congo"),
        ("Univ Eastmere, Eastmere, Taiwan, Republic of China", "Taiwan"),
        ("Univ Eastmere, Eastmere, Korea, Republic of", "South Korea"),
        ("Univ Eastmere, Albuquerque, New Mexico", "United States"),
        ("Univ Eastmere, Atlanta, Georgia", "United States"),
        ("Univ Eastmere, Tbilisi, Georgia", "Georgia"),
        ("Univ Eastmere, 1081 HV Amsterdam, NL", "Netherlands"),
        ("Univ Eastmere, St John's, NL", "Canada"),
        ("Univ Eastmere, Berlin, DE", "Germany"),
        ("Univ Eastmere, Eastmere, DE 19711", "United States"),
        ("Univ Eastmere, Bogotá, CO", "Colombia"),
        ("Univ Eastmere, Denver, CO", "United States"),
        ("Univ Eastmere, Eastmere 230026 China", "China"),
        ("Mud Institute Eastmere Norway", "Norway"),
        ("Mud Institute, Eastmere NC", "United States"),
        ("Bank of Norway", ""),
        ("National Museum of Japan, Eastmere", ""),
    ],
)
def test_countries_are_read_where_they_stand_and_only_there(text, country):
    assert parse_address(text).country == country


@pytest.mark.parametrize(
    ("text", "institution", "department"),
    [
        ("School of Mud, University of Eastmere, Eastmere, Norway", "University of Eastmere", "School of Mud"),
        ("University of Eastmere, School of Mud, Eastmere, Norway", "University of Eastmere", "School of Mud"),
        ("College of Silt, Eastmere University, Eastmere, Norway", "Eastmere University", "College of Silt"),
        ("Mud Research Unit, Eastmere Hospital, Eastmere, Norway", "Eastmere Hospital", "Mud Research Unit"),
        ("Eastmere School of Economics, Eastmere, Norway", "Eastmere School of Economics", ""),
        ("Lehrstuhl für Schlick, ETH, Zürich, Schweiz", "ETH", "Lehrstuhl für Schlick"),
        ("Silt Pumps, Inc, Fairpoint, MA, USA", "Silt Pumps Inc", ""),
        ("Department of Mud, Eastmere, Norway", "", "Department of Mud"),
        ("1Institute of Mud, Eastmere, Norway", "Institute of Mud", ""),
    ],
)
def test_a_department_is_a_part_of_its_institution(text, institution, department):
    read = parse_address(text)
    assert (read.institution, read.department, read.country and read.place) == (institution, department, read.place)


def test_every_country_is_known_in_every_language():
    from babel import Locale

    english = Locale("en").territories
    for language, code in itertools.product(
        ("en", "de", "fr", "es", "it", "pt", "nl", "ru", "ja"), ("NO", "GB", "JP", "BR", "NL", "US", "FI")
    ):
        assert country_of(Locale(language).territories[code]) == english[code]
        assert country_of(code) == english[code]


@given(st.text(max_size=60))
@settings(max_examples=200)
def test_any_address_is_survived(text):
    assert all(isinstance(part, str) for part in parse_address(text))


# -- references


@pytest.mark.parametrize(
    "text",
    [
        "Dray T, 1998, J ESTUARY WORKS, V12, P34",
        "Dray, T. (1998). Silt behind the gates. Journal of Estuary Works, 12(3), 34–56.",
        "Dray T, Vashley O. Silt behind the gates. J Estuary Works 1998;12(3):34-56.",
        reference_text(
            "Dray, Tamsin", "1998", "Silt behind the gates", "Journal of Estuary Works", "12", "34", "10.99999/x.1"
        ),
    ],
)
def test_references_are_parsed_in_every_style(text):
    found = parse_reference(text)
    assert (found.author, found.initial, found.year, found.volume, found.page) == ("dray", "t", 1998, "12", "34")


def of_records(*records):
    return corpus_of([(Source("s.ris", "s", "RIS", "utf-8", "", len(records)), list(records))])


def test_references_are_matched_by_each_way():
    cited = RawRecord(
        1,
        title="Silt behind the gates of the mill",
        year=1998,
        persons=["Dray, Tamsin"],
        venue="Journal of Estuary Works",
        volume="12",
        pages="34-56",
        doi="10.99999/x.1",
    )
    other = RawRecord(
        5,
        title="Another work of the same year",
        year=1998,
        persons=["Dray, Tobias"],
        venue="Mud and Silt",
        volume="3",
        pages="1-2",
    )
    lines = [
        "Anybody, 1900, X, DOI 10.99999/X.1",
        "DRAY T, 1998, J ESTUARY WORKS, V12, P34",
        "Dray T, 1998, SOMETHING ELSE, V12, P34",
        "Dray T. Silt behind the gates of the mill. 1998",
        "Dray, Tobias, 1998, Mud and Silt",
        "Dray T, 1998, J ESTUARY WORKS, V13, P34",
        "Dray T, 1997, J ESTUARY WORKS, V12, P34",
        "Dray U, 1998, J ESTUARY WORKS, V12, P34",
        "Dray T, 1998",
    ]
    corpus = of_records(cited, other, RawRecord(9, title="Citing", references=lines))
    found = match_references(corpus)
    assert found.record.tolist() == [0, 0, 0, 0, 1, -1, -1, -1, -1]
    assert [WAYS[w][0] for w in found.way[:5]] == [WAYS[k][0] for k in (0, 1, 2, 3, 4)]
    assert found.confidence[:5].tolist() == [WAYS[k][1] for k in range(5)] and len(found) == 5


def test_references_of_the_demo_agree_with_the_truth(corpus, truth):
    found = match_references(corpus)
    forms, entries = corpus.of("reference").forms, list(corpus.entry)
    twice = dict(truth["twice"])
    right = wrong = missed = 0
    for k, form in enumerate(forms):
        meant = truth["references"].get(form)
        given_ = entries[found.record[k]] if found.record[k] >= 0 else None
        same = given_ in (meant, twice.get(meant)) if meant else given_ is None
        right += bool(same and meant)
        wrong += bool(given_ and not same)
        missed += bool(meant and given_ is None)
    assert wrong / (right + wrong) < 0.01 and missed / (right + missed) < 0.05


@given(st.text(max_size=80))
@settings(max_examples=200)
def test_any_reference_is_survived(text):
    assert isinstance(parse_reference(text).year, int)


# -- texts and columns


@given(st.lists(st.text(max_size=12)), st.data())
@settings(max_examples=150)
def test_texts_are_a_sequence(texts, data):
    plain = [t.replace("\n", " ") for t in texts]
    made = Texts.of(texts)
    assert list(made) == plain and len(made) == len(plain) and made == plain and Texts.unpacked(made.packed()) == made
    assert made.lengths().tolist() == [len(t.encode("utf-8", "surrogatepass")) for t in plain]
    rows = data.draw(st.lists(st.integers(0, max(len(plain) - 1, 0)), max_size=8)) if plain else []
    assert list(made.take(np.array(rows, int))) == [plain[r] for r in rows]
    part = data.draw(st.text(min_size=1, max_size=2))
    assert made.containing(part).tolist() == [
        k for k, t in enumerate(plain) if part.casefold().replace("\n", " ") in t.casefold()
    ]


RECORDS = st.lists(
    st.builds(
        RawRecord,
        line=st.integers(1, 99),
        title=st.sampled_from(["", "Silt behind the gates", "SILT, behind the Gates!", "Another long title"]),
        year=st.sampled_from([0, 1998, 2001]),
        persons=st.lists(st.sampled_from(["Dray, T.", "Dray, Tamsin", "Vashley, O."]), max_size=3, unique=True),
        doi=st.sampled_from(["", "10.99999/a.1", "https://doi.org/10.99999/A.1", "10.99999/b.2"]),
        keywords=st.lists(st.sampled_from("abc"), max_size=2),
        others=st.lists(
            st.tuples(
                st.just("person"), st.sampled_from(["sender", "recipient"]), st.sampled_from(["Holt, P.", "Lund, J."])
            ),
            max_size=2,
        ),
    ),
    max_size=8,
)


@given(RECORDS)
@settings(max_examples=120)
def test_columns_pack_and_unpack(records):
    taking = Columning({kind: FormTable() for kind in KINDS})
    for record in records:
        taking.take([record])
    made = taking.done()
    back = Columns.unpacked(made.packed())
    assert dict(back.texts) == dict(made.texts) and list(back.known) == list(made.known)
    for name, values in made.numbers.items():
        assert np.array_equal(values, back.numbers[name])
    for kind in KINDS:
        for a, b in zip(made.mentions[kind], back.mentions[kind]):
            assert np.array_equal(a, b)


def plainly_same(records):
    """Which records are one, written plainly: groups as sets of places."""
    group = list(range(len(records)))

    def join(a, b):
        group[:] = [group[a] if g == group[b] else g for g in group]

    for a, b in itertools.combinations(range(len(records)), 2):
        if bare_doi(records[a].doi) and bare_doi(records[a].doi) == bare_doi(records[b].doi):
            join(a, b)
    return {frozenset(k for k, g in enumerate(group) if g == one) for one in set(group)}


@given(RECORDS)
@settings(max_examples=200)
def test_records_of_one_identifier_are_always_one_and_no_two_identifiers_are(records):
    corpus = of_records(*records)
    dois = [d for d in corpus.doi if d]
    assert len(set(dois)) == len(dois) == len({bare_doi(r.doi) for r in records} - {""})
    assert len(corpus) + corpus.flow.by_identifier + corpus.flow.by_title == len(records) == corpus.flow.read
    assert len(corpus) <= len(plainly_same(records))
    for kind in KINDS:
        record = corpus.of(kind).record
        assert (np.diff(record) >= 0).all() and (not len(record) or record.max() < len(corpus))


TWICE = (
    RawRecord(
        1,
        title="Silt behind the gates",
        year=1998,
        persons=["Dray, T."],
        keywords=["silt"],
        citations=3,
        doi="10.99999/a.1",
    ),
    RawRecord(
        9, title="Silt behind the Gates.", year=1998, persons=["Dray, Tamsin", "Vashley, O."], venue="Mud and Silt"
    ),
    RawRecord(20, title="Silt behind the gates", year=1999, persons=["Dray, Tamsin"]),
    RawRecord(30, title="Silt behind the gates", year=1998, persons=["Maddern, I."]),
)


def test_joined_records_take_the_better_field_of_each_and_can_be_parted():
    sources = [
        (Source("a.ris", "a", "RIS", "utf-8", "", 1), TWICE[:1]),
        (Source("b.bib", "b", "BibTeX", "utf-8", "", 3), TWICE[1:]),
    ]
    corpus = corpus_of(sources)
    people, venue = corpus.of("person"), corpus.of("venue")
    assert (
        len(corpus) == 3
        and corpus.flow.by_title == 1
        and corpus.findings(0)[0][:3] == (1, 9, 2)
        and len(corpus.also.record) == 1
    )
    assert [people.forms[f] for f in people.form[people.record == 0]] == ["Dray, Tamsin", "Vashley, O."]
    assert (corpus.title[0], corpus.citations[0], venue.record.tolist()) == ("Silt behind the Gates.", 3, [0])
    parted = corpus_of(sources, [Decision("record", "apart", "a.ris:1", "b.bib:9")])
    assert len(parted) == 4 and parted.flow.by_title == 0
    by_hand = corpus_of(sources, [Decision("record", "merge", "b.bib:20", "b.bib:30")])
    assert len(by_hand) == 2
    left = corpus_of(
        sources,
        [
            Decision("record", "aside", "b.bib:9", note="twice"),
            Decision("record", "aside", "year:1999", scope="rule", note="late"),
        ],
    )
    assert len(left) == 1 and left.flow.excluded == (("late", 1), ("twice", 1))


def test_a_third_record_never_joins_two_identifiers():
    one, two = (
        RawRecord(k, title="Silt behind the gates", year=1998, persons=["Dray, T."], doi=f"10.99999/{k}.1")
        for k in (1, 2)
    )
    bare = RawRecord(3, title="Silt behind the gates", year=1998, persons=["Dray, T."])
    assert len(of_records(one, bare, two)) == 3 and len(of_records(one, bare)) == 1


@pytest.mark.parametrize(
    ("text", "rows"),
    [
        ("", [0, 1, 2, 3]),
        ("silt", [0, 1, 2, 3]),
        ("year:1999", [2]),
        ("year:1998-1998", [0, 1, 3]),
        ("person:maddern", [3]),
        ("-maddern gates", [0, 1, 2]),
        ("in:mud", [1]),
        ("in:none", [0, 2, 3]),
        ('"the gates"', [0, 1, 2, 3]),
        ("doi:none", [1, 2, 3]),
        ("cited:1-9", [0]),
        ("word:silt", [0]),
        ("source:b", []),
        ("nothing:here", []),
        ("year:x", []),
        ("1999", [2]),
        ("year:-1998", [0, 1, 3]),
        ("year:1999-", [2]),
    ],
)
def test_records_are_picked(text, rows):
    apart = [
        Decision("record", "apart", f"s.ris:{a.line}", f"s.ris:{b.line}") for a, b in itertools.combinations(TWICE, 2)
    ]
    corpus = corpus_of([(Source("s.ris", "s", "RIS", "utf-8", "", 4), TWICE)], apart)
    assert pick(corpus, text).tolist() == rows


def test_family_names_are_told_apart_from_initials_and_particles():
    assert {family_of(n) for n in ("von Fenmere, Rosa D.", "VON FENMERE RD", "Rosa D. von Fenmere", "Fenmere RD")} == {
        "fenmere"
    }
    assert family_of("") == family_of(",") == "" and family_of("Ny") == "ny"


# -- studies


def test_a_study_of_version_two_opens_with_all_it_held(tmp_path):
    path = tmp_path / "old.umber"
    db = sqlite3.connect(path)
    db.executescript((Path(__file__).parent / "data" / "study-version-2.sql").read_text(encoding="utf-8"))
    db.execute(f"PRAGMA application_id = {APPLICATION_ID}")
    db.execute("PRAGMA user_version = 2")
    db.commit()
    db.close()
    for _ in range(2):  # brought up to date once, then opened as it is
        with Study.open(path) as study:
            corpus = study.corpus()
            assert list(corpus.title) == ["Sluice timing", "Old carbon", "Third"] and corpus.year.tolist() == [
                1998,
                2001,
                0,
            ]
            assert corpus.of("person").forms == ("Vashley, Orrin", "Dray, Tamsin", "Maddern, Ilse")
            assert [
                len(corpus.of(kind).record) for kind in ("person", "keyword", "venue", "institution", "reference")
            ] == [4, 1, 1, 1, 1]
            assert len(study.decisions()) == 1 and corpus.place(1) == "a.ris, line 13" and corpus.entry[0] == "1"
            assert study.record(int(corpus.id[2])).title == "Third"


def test_a_source_is_replaced_and_the_difference_said(tmp_path):
    with Study.create(tmp_path / "s.umber") as study:
        old = [
            RawRecord(1, title="First of the titles", entry="1"),
            RawRecord(2, title="Second title", entry="2"),
            RawRecord(3, title="Third", entry="3"),
        ]
        new = [
            RawRecord(1, title="First of the titles", entry="1"),
            RawRecord(2, title="Second title", entry="2", keywords=["tide"]),
            RawRecord(9, title="Fourth", entry="4"),
        ]
        study.add_sources([Gathered(Source("a.ris", "", "RIS", "utf-8", "", 3), old)])
        number = study.sources()[0].id
        _, failed = study.add_sources([Gathered(Source("b.ris", "", "RIS", "utf-8", "", 3), new)], instead_of=[number])
        assert not failed and [s.name for s in study.sources()] == ["b.ris"]
        difference = study.difference(number, study.sources()[0].id)
        assert (difference.new, difference.gone, difference.changed) == (("Fourth",), ("Third",), ("Second title",))
        assert difference.sentence().startswith("1 records new, 1 gone, 1 changed (+ Fourth")
        study.undo()
        assert [s.name for s in study.sources()] == ["a.ris"] and len(study.corpus()) == 3
        study.remove_sources("remove", [number])
        assert study.sources() == () and len(study.corpus()) == 0
        study.undo()
        assert len(study.corpus()) == 3


def test_a_source_that_fails_half_way_leaves_no_trace(tmp_path):
    class Failing(Gathered):
        def __iter__(self):
            yield from (RawRecord(k, title=f"t{k}", persons=[f"P{k}"], passages=[("x", 1, "")]) for k in range(0))
            for k in range(3000):
                yield RawRecord(k, title=f"t{k}", persons=[f"Never, P{k}"])
            raise UserError("broken here", place="line 3001")

    good = Gathered(Source("good.ris", "", "RIS", "utf-8", "", 1), [RawRecord(1, title="Good", persons=["Dray, T."])])
    with Study.create(tmp_path / "s.umber") as study:
        step, failed = study.add_sources([Failing(Source("bad.ris", "", "RIS", "", "", 0), []), good])
        assert step is not None and [(n, e.message) for n, e in failed] == [("bad.ris", "broken here")]
        corpus = study.corpus()
        assert len(corpus) == 1 and corpus.of("person").forms == ("Dray, T.",)
        assert (
            study.add_sources([Failing(Source("bad.ris", "", "RIS", "", "", 0), [])])[0] is None
            and len(study.steps()) == 1
        )


def allowed(corpus, matches):
    return possible(corpus, matches, offered(corpus, matches))


def test_what_can_be_tied_says_why_not():
    none = {p.ties: p.said for p in allowed(of_records(RawRecord(1, title="x", doi="10.99999/a.1")), None)}
    assert "no record names people" in none.values() and "needs reference lists; 1 have identifiers" in none.values()
    letter = RawRecord(
        1,
        date="1811~",
        year=1811,
        others=[("person", "sender", "A"), ("person", "recipient", "B")],
        countries=["Norway"],
        references=["X, 1900"],
    )
    corpus = of_records(letter)
    some = {p.ties: p for p in allowed(corpus, match_references(corpus))}
    assert (
        some["Letters, from and to"].said == "1 letters, 2 names, 1 uncertain dates"
        and some["People who share a record"].records == 0
    )
    assert "0 of 1 found here" in some["Citations among records"].said


# -- tables


def test_headers_and_columns_are_found():
    assert find_header([["Brackwater"], ["", ""], ["Título", "Autores", "Año"], ["x", "y", "1998"]]) == 2
    assert find_header([["1", "2"], ["3", "4"]]) == -1 and find_header([]) == -1
    match = match_columns(
        ["Kopf", "wer", "wann", "D"], [["x", "Dray, T.; Maddern, I.", "1998", "10.99999/a.1"]] * 3, {}
    )
    assert match.fields == ("", "people", "date", "doi") and match.splits[1] == ";"
    wide = match_columns(["name", "a", "b", "c"], [["Dray", "1", "0", "x"], ["Vash", "", "1", "no"]], {})
    assert wide.wide == "record" and wide.fields == ("people", "yes/no", "yes/no", "yes/no")


def test_matches_are_remembered_for_the_next_table():
    remember(["A", "B"], {"fields": ["title", "people"]})
    assert recalled()[header_key(["A", "B"])] == {"fields": ["title", "people"]}


def test_lines_around_a_place_are_shown(tmp_path):
    path = tmp_path / "a.txt"
    path.write_bytes(b"".join(b"line %d\r\n" % k for k in range(1, 5001)))
    assert around(path, 4000, "utf-8", 1) == [(3999, "line 3999"), (4000, "line 4000"), (4001, "line 4001")]
    assert around(path, 1, "utf-8", 1)[0] == (1, "line 1") and around(path, 9999, "utf-8", 2) == []
    with pytest.raises(UserError, match="any more"):
        around(tmp_path / "gone", 1, "utf-8")
