"""Tables, network files, methods, and what a plate says."""

import csv
import io
import re
import xml.etree.ElementTree as ET

import networkx as nx
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.building import subject_of
from tests.conftest import Gathered
from umber_knot.corpus.assemble import corpus_of
from umber_knot.corpus.model import Decision, RawRecord, Source
from umber_knot.corpus.study import Study
from umber_knot.network.graphml import graphml
from umber_knot.network.model import years
from umber_knot.report.flow import flow_svg
from umber_knot.report.methods import flow_lines
from umber_knot.report.svg import size_samples, wrapped
from umber_knot.report.tables import csv_text, for_spreadsheet, item_columns, number, table
from umber_knot.report.write import contents, plate_text, write_files


def columns_of(one):
    return item_columns(one.network, one.grouped, one.stable, one.drawing)


HOSTILE = [
    "<script>alert(1)</script>",
    'say "tide", twice',
    "new\nline",
    "bell\x07 and null\x01",
    "=1+1",
    "ünï ço∂é 漢字",
    "&amp; | `x`",
]


def hostile_corpus():
    records = [
        RawRecord(line=k + 1, title=HOSTILE[k % 7], keywords=HOSTILE, persons=["A, B"], year=1990 + k) for k in range(8)
    ]
    return corpus_of([(Source("s|<b>.ris", "s", "RIS", "utf-8", "", len(records)), records)])


@pytest.fixture(scope="module")
def hostile():
    return subject_of(hostile_corpus(), relate={"tie": "co-occurrence", "of": "keyword"})


def test_hostile_texts_survive_every_table(hostile):
    files = contents(hostile)
    labels = {" ".join(t.split()) for t in HOSTILE}
    for name in ("items.csv", "ties.csv", "topics.csv", "records.csv", "decisions.csv"):
        rows = list(csv.reader(io.StringIO(files[name].decode(), newline="")))
        assert len({len(r) for r in rows}) == 1, name
    items = list(csv.DictReader(io.StringIO(files["items.csv"].decode(), newline="")))
    assert {i["label"] for i in items} == labels
    ET.fromstring(files["chart.svg"])
    assert b"<script>" not in files["chart.svg"] and b"<script>" not in files["network.graphml"]


def test_graphml_of_hostile_labels_reads_in_networkx(hostile, tmp_path):
    network = hostile.network
    path = tmp_path / "n.graphml"
    path.write_text("".join(graphml(network)), encoding="utf-8")
    graph = nx.read_graphml(path)
    assert len(graph) == len(network) and graph.number_of_edges() == network.ties
    printable = {re.sub(r"[\x00-\x08\x0b\x0c\x0e-\x1f]", "", t) for t in network.label}
    assert {d["label"] for _, d in graph.nodes(data=True)} == printable
    for a, b, d in graph.edges(data=True):
        i, j = sorted((int(a[1:]) - 1, int(b[1:]) - 1))
        at = np.flatnonzero((network.source == i) & (network.target == j))
        assert d["weight"] == network.weight[at[0]] and d["count"] == network.count[at[0]]


def test_items_agree_with_networkx_measures(corpus):
    one = subject_of(corpus, relate={"min_records": 4})
    network = one.network
    graph = nx.Graph()
    graph.add_nodes_from(range(len(network)))
    graph.add_weighted_edges_from(zip(network.source.tolist(), network.target.tolist(), network.weight.tolist()))
    columns = columns_of(one)
    for i in range(len(network)):
        assert columns["degree"][i] == graph.degree(i)
        assert columns["strength"][i] == pytest.approx(graph.degree(i, weight="weight"))
    assert list(columns)[:14] == (
        "id label kind records first_year last_year mean_year citations degree strength topic confidence x y".split()
    )


def test_items_count_records_and_citations_of_the_filtered_records(corpus):
    network = subject_of(corpus, relate={"years": (2000, 2010), "min_records": 2}).network
    mentions = corpus.of("person")
    for i in range(0, len(network), 17):
        form = mentions.forms.index(network.label[i])
        records = mentions.record[mentions.form == form]
        inside = records[(corpus.year[records] >= 2000) & (corpus.year[records] <= 2010)]
        assert network.records[i] == len(inside) and network.citations[i] == corpus.citations[inside].sum()
        assert network.mean_year[i] == pytest.approx(corpus.year[inside].mean())
        first, last = years(network.first)[i], years(network.last)[i]
        assert (first, last) == (corpus.year[inside].min(), corpus.year[inside].max())


def test_undated_records_leave_years_blank():
    records = [RawRecord(line=1, persons=["A, B", "C, D"]), RawRecord(line=2, persons=["A, B", "C, D"])]
    corpus = corpus_of([(Source("s", "s", "RIS", "utf-8", "", 2), records)])
    row = contents(subject_of(corpus))["items.csv"].decode().splitlines()[1].split(",")
    assert row[5:8] == ["", "", ""]  # the name holds a comma, so columns shift by one


@given(st.floats(allow_nan=False, allow_infinity=False, min_value=-1e9, max_value=1e9))
def test_numbers_are_short_and_true(value):
    assert float(number(value)) == value
    assert number(float("nan")) == ""


@given(st.lists(st.lists(st.text(max_size=12), min_size=2, max_size=2), max_size=6))
def test_csv_reads_back(rows):
    text = csv_text(("a", "b"), rows)
    assert list(csv.reader(io.StringIO(text, newline="")))[1:] == rows
    assert list(csv.reader(io.StringIO(table({"x": [None, 1.5, 3], "y": ["a", "b", "c"]})))) == [
        ["x", "y"],
        ["", "a"],
        ["1.5", "b"],
        ["3", "c"],
    ]


def test_method_names_every_choice(corpus):
    one = subject_of(
        corpus,
        relate={
            "of": "keyword",
            "tie": "co-occurrence",
            "counting": "fractional",
            "normalise": "cosine",
            "years": (1990, 2020),
            "max_per_record": 6,
            "min_records": 3,
            "min_weight": 0.01,
            "keep": "connected",
        },
        group={"quality": "cpm", "grain": 0.05, "weighted": False, "seed": 7},
    )
    text = contents(one)["methods.md"].decode()
    for said in (
        "fractionally",
        "Newman",
        "geometric mean",
        "1990 to 2020",
        "more than 6",
        "fewer than 3 records",
        "largest connected part",
        "constant Potts",
        "unweighted",
        "seed 7",
        "Dunning",
        "adjusted Rand",
    ):
        assert said in text, said
    counts = re.findall(r"([\d,]+) → ([\d,]+) \w+ \(([\d,]+) left out\)", text)
    assert len(counts) >= 4
    for before, after, out in counts:
        assert int(before.replace(",", "")) - int(after.replace(",", "")) == int(out.replace(",", ""))


def test_cpm_and_least_size(corpus):
    one = subject_of(corpus, group={"quality": "cpm", "grain": 0.2, "min_size": 4})
    topic = one.grouped.topic
    sizes = np.bincount(topic[topic >= 0])
    assert sizes[sizes > 0].min() >= 4 and (topic == -1).any()
    assert np.isnan(one.stable.confidence[topic == -1]).all()
    blank = [c for c, t in zip(columns_of(one)["topic"], topic) if t == -1]
    assert set(blank) == {None}


def test_a_finer_grain_gives_more_topics(corpus):
    found = [len(subject_of(corpus, group={"grain": g}).grouped.topics) for g in (0.3, 1.0, 4.0)]
    assert found == sorted(found) and found[0] < found[-1]


def test_the_plate_says_what_it_shows(corpus):
    one = subject_of(corpus, relate={"min_records": 4}, report={"title": "Co-authors of the estuary"})
    words, network = plate_text(one), one.network
    assert f"{len(network)} people in at least 4 records" in words.caption and "1975–2025" in words.caption
    svg = contents(one)["chart.svg"].decode()
    assert "Co-authors of the estuary" in svg
    samples = size_samples(one.drawing)
    assert samples == sorted(samples, reverse=True) and samples[0] <= network.records.max()
    assert all(f">{value:g}<" in svg for value in samples)


@given(st.text(alphabet="abcdefgh ", max_size=200), st.floats(5, 40))
def test_wrapped_text_keeps_every_word(text, ems):
    assert " ".join(wrapped(text, ems)).split() == text.split()


def test_files_are_written_whole_or_not_at_all(tmp_path):
    from umber_knot.errors import UserError

    write_files(tmp_path / "a" / "b", {"x.csv": b"1"})
    assert (tmp_path / "a" / "b" / "x.csv").read_bytes() == b"1"
    (tmp_path / "file").write_text("in the way")
    with pytest.raises(UserError, match="cannot be written"):
        write_files(tmp_path / "file", {"x.csv": b"1"})
    assert [p.name for p in (tmp_path / "a" / "b").iterdir()] == ["x.csv"]


RECORD = st.builds(
    RawRecord,
    line=st.integers(1, 9),
    raw=st.text(max_size=30),
    title=st.text(max_size=9),
    abstract=st.text(max_size=9),
    year=st.sampled_from([0, 1999]),
    persons=st.lists(st.text(max_size=6), max_size=3),
    extra=st.dictionaries(st.text(max_size=4), st.text(max_size=4), max_size=2),
)


@given(st.lists(RECORD, max_size=6), st.booleans())
@settings(max_examples=60)
def test_any_record_reads_back_from_a_study(tmp_path_factory, records, inside):
    if inside:  # an abstract that stands in the raw text is stored by its place
        for r in records:
            r.raw = f"AB - {r.abstract} end"
    path = tmp_path_factory.mktemp("s") / "s.umber"
    with Study.create(path) as study:
        study.add_sources([Gathered(Source("n", "p", "RIS", "utf-8", "", len(records)), records)])
        corpus = study.corpus()
        assert corpus.title == tuple(r.title.replace("\n", " ") for r in records)
        for number_, r in zip(corpus.id.tolist(), records):
            d = study.record(number_)
            assert (d.abstract, d.raw, d.line) == (r.abstract, r.raw, r.line)
        plain = corpus_of([(Source("n", "p", "RIS", "utf-8", "", len(records)), records)])
        assert corpus.of("person").forms == plain.of("person").forms
        assert np.array_equal(corpus.of("person").record, plain.of("person").record)


def test_install_puts_entry_icon_and_type_in_place(capsys):
    from umber_knot.cli import main
    from umber_knot.paths import data_dir

    assert main(["install", "--user"]) == 0
    share = data_dir().parent
    entry = (share / "applications" / "umber-knot.desktop").read_text()
    assert "MimeType=application/x-umber-knot;" in entry and "@COMMAND@" not in entry
    assert b"*.umber" in (share / "mime" / "packages" / "umber-knot.xml").read_bytes()
    ET.parse(share / "icons" / "hicolor" / "scalable" / "apps" / "umber-knot.svg")
    assert capsys.readouterr().out.count("\n") == 3


def test_the_flow_adds_up_and_is_well_formed():
    from xml.etree import ElementTree

    records = [
        RawRecord(
            k,
            title=f"A long enough title {k // 2}",
            year=1998,
            persons=["Dray, T."],
            doi="10.99999/1.1" if k < 2 else "",
        )
        for k in range(1, 7)
    ]
    decisions = [
        Decision("record", "aside", "s<b>.ris:6", note="<script> & more"),
        Decision("record", "aside", "s<b>.ris:99", note="gone"),
    ]
    corpus = corpus_of([(Source("s<b>.ris", "s", "RIS", "utf-8", "", len(records)), records)], decisions)
    svg = flow_svg(corpus)
    root = ElementTree.fromstring(svg)
    texts = [t.text for t in root.iter("{http://www.w3.org/2000/svg}text")]
    assert (
        texts[0] == "6 records read"
        and texts[-1] == f"{len(corpus):,} records in the study"
        and "<script> & more" in texts
    )
    assert corpus.flow.unapplied == (("s<b>.ris:99", "no record is called 's<b>.ris:99'"),)
    lines = "\n".join(flow_lines(corpus))
    assert "no record is called 's<b>.ris:99'" in lines and "left out (<script> & more): 1" in lines
    alone = corpus_of([(Source("s.ris", "s", "RIS", "utf-8", "", 1), records[:1])])
    assert flow_lines(alone) == [] and "1 records read" in flow_svg(alone)


def test_sums_of_written_weights_are_the_sums(corpus):
    """Weights that are cut drift when they are added up: 13138.507 for 13138.500."""
    one = subject_of(
        corpus, relate={"of": "keyword", "tie": "co-occurrence", "normalise": "association", "counting": "fractional"}
    )
    files = contents(one)
    ties = list(csv.DictReader(io.StringIO(files["ties.csv"].decode(), newline="")))
    assert [float(t["weight"]) for t in ties] == one.network.weight.tolist()
    items = list(csv.DictReader(io.StringIO(files["items.csv"].decode(), newline="")))
    assert [float(i["strength"]) for i in items] == one.network.strength().tolist()
    assert [float(i["x"]) for i in items] == one.drawing.x.tolist()


def test_the_format_csv_is_the_network_in_two_tables(corpus):
    files = contents(subject_of(corpus, relate={"min_records": 4}, report={"formats": ("csv",)}))
    assert {"network-items.csv", "network-ties.csv"} <= set(files) and "chart.svg" not in files
    ties = list(csv.DictReader(io.StringIO(files["network-ties.csv"].decode(), newline="")))
    items = {i["id"] for i in csv.DictReader(io.StringIO(files["network-items.csv"].decode(), newline=""))}
    assert {t["source"] for t in ties} <= items and all(re.fullmatch(r"\d{4}-\d\d-\d\d", t["first_date"]) for t in ties)


@given(
    st.lists(
        st.lists(
            st.text(st.characters(exclude_categories=("Cs",), exclude_characters="\r\n\0"), max_size=8),
            min_size=2,
            max_size=2,
        ),
        max_size=6,
    )
)
def test_a_table_for_a_spreadsheet_holds_no_formula_and_every_number(rows):
    safe = list(csv.reader(io.StringIO(for_spreadsheet(csv_text(("a", "b"), rows)), newline="")))
    assert len(safe) == len(rows) + 1
    for row, plain in zip(safe[1:], rows):
        for cell, text in zip(row, plain):
            assert cell in (text, "'" + text)
            assert cell[:1] not in "=@\t" or not cell
            if cell[:1] in ("+", "-"):
                float(cell)


def test_a_picture_too_large_to_draw_is_refused_with_its_size(corpus):
    from umber_knot.errors import UserError

    with pytest.raises(UserError, match=r"94,\d\d\d × .* pixels") as error:
        contents(subject_of(corpus, report={"width_mm": 2000.0, "dpi": 1200.0, "formats": ("png",)}))
    assert "at most" in error.value.cure


def test_the_plate_leaves_out_what_the_chart_does(corpus):
    one = subject_of(corpus, relate={"min_records": 4}, chart={"layers": ("items",), "least_tie": 2.0})
    svg = contents(one)["chart.svg"].decode()
    assert 'class="ties"' not in svg and 'class="territories"' not in svg and "under 2 not drawn" in svg
