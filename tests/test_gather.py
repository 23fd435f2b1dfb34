"""Reading: round trips, encodings, places, and hostile or broken files."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from umber_knot.corpus.model import RawRecord, fold
from umber_knot.errors import UserError
from umber_knot.gather.encoding import find_encoding
from umber_knot.gather.formats import bibtex, ris, table
from umber_knot.gather.read import inspect, read_whole
from umber_knot.gather.stream import LONGEST_LINE, Report, Stream

LETTERS = st.characters(categories=("Lu", "Ll", "Nd"), max_codepoint=0x24F)
# BibTeX itself reads a lone "and" as the end of a name
WORD = st.text(LETTERS, min_size=1, max_size=12).filter(lambda text: text.lower() not in ("and", "others"))
NAME = st.builds("{}, {}".format, WORD, WORD)
RECORD = st.builds(
    RawRecord,
    line=st.just(0),
    entry=st.from_regex(r"[a-z]{2}[0-9]{1,4}", fullmatch=True),
    title=WORD,
    year=st.integers(1500, 2099),
    persons=st.lists(NAME, max_size=4, unique=True),
    keywords=st.lists(WORD, max_size=4, unique=True),
    venue=WORD,
    doi=WORD,
    abstract=WORD,
)


@pytest.mark.parametrize("reader", [ris, bibtex, table])
@given(records=st.lists(RECORD, min_size=1, max_size=5, unique_by=lambda r: r.entry))
@settings(max_examples=30)
def test_what_is_written_reads_back_equal(reader, records):
    report = Report()
    back = list(reader.read(Stream.of("".join(reader.write(iter(records))), report), report))
    assert not report.problems
    for was, now in zip(records, back, strict=True):
        for name in ("entry", "title", "year", "persons", "keywords", "venue", "doi", "abstract"):
            assert getattr(was, name) == getattr(now, name), name


def read(tmp_path, name, data):
    path = tmp_path / name
    path.write_bytes(data if isinstance(data, bytes) else data.encode())
    return read_whole(path)


def test_every_record_knows_its_line_and_raw_text(demo):
    source, records = read_whole(demo / "mills.ris")
    lines = (demo / "mills.ris").read_text(encoding="utf-8").split("\n")
    assert source.records == len(records) == sum(line.startswith("TY  -") for line in lines)
    for record in records[::50]:
        assert lines[record.line - 1].startswith("TY  -")
        assert record.raw.startswith("TY  -") and f"ID  - {record.entry}\n" in record.raw


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "utf-16-le", "latin-1"])
def test_encodings(tmp_path, encoding):
    text = "TY  - JOUR\nTI  - Größe und Tide in Öland, überall am Fluß\nAU  - Sørlie, Åse\nPY  - 1999\nER  - \n" * 3
    _, records = read(tmp_path, "a.ris", text.encode(encoding))
    assert [r.persons for r in records] == [["Sørlie, Åse"]] * 3
    assert records[0].title.endswith("am Fluß")


def test_mixed_encodings_are_read_line_by_line_and_reported(tmp_path):
    good = "TY  - JOUR\nTI  - Müller in Åland\nER  - \n".encode() * 5
    bad = "TY  - JOUR\nTI  - Garçon\nER  - \n".encode("latin-1")
    source, records = read(tmp_path, "a.ris", good + bad)
    assert records[0].title == "Müller in Åland" and records[-1].title == "Garçon"
    assert [p.line for p in source.problems] == [17]


def test_missing_er_and_stray_text_are_reported_and_nothing_is_lost(tmp_path):
    text = "exported today\nTY  - JOUR\nTI  - One\nTY  - JOUR\nTI  - Two\nER  - \nTY  - JOUR\nTI  - Three\n"
    source, records = read(tmp_path, "a.ris", text)
    assert [r.title for r in records] == ["One", "Two", "Three"]
    assert [(p.line, "ER" in p.message or "outside" in p.message) for p in source.problems] == [
        (1, True),
        (2, True),
        (7, True),
    ]


def test_fields_are_those_of_rispy(demo):
    import rispy

    text = (demo / "mills.ris").read_text(encoding="utf-8")
    text += "TY  - BOOK\nTI  - first\nTI  - second\nXY  - odd\nN1  - one\n  two\nAB  - begins\nand goes on\nUR  - a; b\nER  - \n"
    ours = []
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(ris, "_record", lambda fields, *rest: ours.append(dict(fields)))
        list(ris.read(Stream.of(text), Report()))
    assert ours == rispy.loads(text, enforce_list_tags=False)


def test_a_broken_bibtex_entry_does_not_take_others_with_it(tmp_path):
    text = "@article{a, title={One}}\n@book{b, title={never closed\n@article{c, title={Three}, year={n.d.}}\n"
    source, records = read(tmp_path, "a.bib", text)
    assert [r.title for r in records] == ["One", "Three"]
    assert [p.line for p in source.problems] == [2, 3]
    assert "never closed" in source.problems[0].message and "year" in source.problems[1].message


def test_bibtex_duplicate_keys_strings_and_latex(tmp_path):
    text = (
        '@string{jw = "Journal of Works"}\n@article{a, title={{T}ide \\"uber S{\\o}rlie}, journal=jw, author={M{\\"u}ller, '
        "Ann and others}}\n@article{a, title={Again}}\n"
    )
    source, records = read(tmp_path, "a.bib", text)
    assert [r.title for r in records] == ["Tide über Sørlie", "Again"]
    assert records[0].venue == "Journal of Works" and records[0].persons == ["Müller, Ann"]
    assert "used twice" in source.problems[0].message


def test_ragged_rows_and_years_in_a_table(tmp_path):
    text = 'Title;Authors;Year\n"One; two";"A, B; C, D";1999\nThree;X, Y\n\nFour;Z, Z;soon;extra\n'
    source, records = read(tmp_path, "a.csv", text)
    assert [(r.title, r.line) for r in records] == [("One; two", 2), ("Three", 3), ("Four", 5)]
    assert [p.line for p in source.problems] == [3, 5, 5]


def test_multiline_cells_keep_line_numbers(tmp_path):
    _, records = read(tmp_path, "a.csv", 'title,authors\n"a\nb","C, D"\nlast,"E, F"\n')
    assert [(r.title.split()[-1], r.line) for r in records] == [("b", 2), ("last", 4)]


@pytest.mark.parametrize(
    ("name", "data", "says"),
    [
        ("empty.ris", b"", "empty"),
        ("blank.ris", b" \n\n ", "empty"),
        ("picture.bib", b"\x89PNG\r\n\x1a\n" + b"\0" * 64, "PNG picture"),
        ("zip.csv", b"PK\x03\x04aaaa", "ZIP"),
        ("zeros.ris", b"TY  - \0\0\0", "not a text file"),
        ("prose.dat", b"Nothing here is a record.\nNor here.\n", "not recognised"),
        ("nohead.csv", b"1,2,3\n4,5,6\n7,8,9\n", "no column of this table"),
    ],
)
def test_files_that_cannot_be_read_say_why(tmp_path, name, data, says):
    path = tmp_path / name
    path.write_bytes(data)
    with pytest.raises(UserError, match=says) as error:
        read_whole(path)
    assert str(path) in str(error.value) and error.value.cure
    assert inspect(path)["problems"][0]["message"]


@pytest.mark.parametrize("name", ["long.ris", "long.bib", "long.csv"])
def test_a_line_too_long_is_refused_within_bounded_memory(tmp_path, name):
    import tracemalloc

    path = tmp_path / name
    with path.open("wb") as file:
        for _ in range(60):
            file.write(b"x" * 1_000_000)
    tracemalloc.start()
    with pytest.raises(UserError, match="characters"):
        read_whole(path)
    assert tracemalloc.get_traced_memory()[1] < 8 * LONGEST_LINE
    tracemalloc.stop()


def test_a_long_line_among_good_ones_costs_only_itself(tmp_path):
    text = b"TY  - JOUR\nTI  - One\nAB  - " + b"y" * (LONGEST_LINE + 5) + b"\nAU  - A, B\nER  - \n"
    source, records = read(tmp_path, "a.ris", text)
    assert records[0].persons == ["A, B"] and [p.line for p in source.problems] == [3]


@given(st.binary(max_size=400), st.sampled_from(["TY  - JOUR\nTI  - a\n", "@article{k,\n", "title,authors\n"]))
@settings(max_examples=150)
def test_readers_survive_anything(tmp_path_factory, noise, head):
    path = tmp_path_factory.mktemp("noise") / "file"
    path.write_bytes(head.encode() + noise)
    try:
        _, records = read_whole(path)
    except UserError:
        return
    assert all(r.line >= 1 for r in records)


def test_forms_are_folded_but_keep_case_and_marks():
    assert fold(" A\u030angstro\u0308m\n Unit ") == "Ångström Unit"
    assert fold("Tide Mill") != fold("tide mill")


def test_cut_utf8_at_the_sample_end_is_still_utf8():
    assert find_encoding("Tide ö".encode()[:-1]) == "utf-8"
