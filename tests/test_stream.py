"""Lines out of bytes: the blockwise reader against the plain way, for any content and any block size."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from umber_knot.gather import stream
from umber_knot.gather.encoding import find_encoding
from umber_knot.gather.fields import find_year, split_values
from umber_knot.gather.stream import Report, Stream

PIECES = st.lists(
    st.sampled_from(["a", "tide", "ø", "漢", "\n", "\r\n", "\n\n", " ", "\x0c", "\x85", "\u2028", "-" * 40]),
    min_size=1,
    max_size=60,
)


def plainly(data: bytes, encoding: str) -> list[str]:
    """What the reader should give: whole decode, any line end made one newline, the last line as it is."""
    text = data.decode(encoding).lstrip("\ufeff").replace("\r\n", "\n").replace("\r", "\n")
    parts = text.split("\n")
    return [p + "\n" for p in parts[:-1]] + ([parts[-1]] if parts[-1] else [])


def source_of(folder, data, report=None):
    path = folder / "file"
    path.write_bytes(data)
    return Stream(path, report or Report())


@given(PIECES, st.integers(3, 50))
@settings(max_examples=120)
def test_lines_are_the_same_for_any_block_size(tmp_path_factory, pieces, block):
    data = ("start " + "".join(pieces)).encode()
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(stream, "BLOCK", block)
        found = list(source_of(tmp_path_factory.mktemp("t"), data).lines())
    whole = plainly(data, "utf-8")
    # a carriage return at the end of a block and its newline at the start of the next are one line end
    assert "".join(found).replace("\n\n", "\n") == "".join(whole).replace("\n\n", "\n")
    if "\r\n" not in pieces:
        assert found == whole


@given(st.lists(st.binary(max_size=60).filter(lambda b: b"\0" not in b), min_size=1, max_size=10), st.integers(3, 40))
@settings(max_examples=120)
def test_no_bytes_break_it_and_every_line_is_counted(tmp_path_factory, lines, block):
    data = b"head\n" + b"\n".join(line.replace(b"\r", b"").replace(b"\n", b"") for line in lines) + b"\n"
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(stream, "BLOCK", block)
        report = Report()
        source = source_of(tmp_path_factory.mktemp("t"), data, report)
        found = list(source.lines())
    if not source.encoding.startswith("utf-16"):
        assert len(found) == data.count(b"\n")
        assert all(1 <= p.line <= len(found) for p in report.problems if p.line)


@pytest.mark.parametrize("at", [0, 5, 9])
def test_lines_too_long_are_left_out_wherever_they_stand(tmp_path, monkeypatch, at):
    monkeypatch.setattr(stream, "LONGEST_LINE", 100)
    monkeypatch.setattr(stream, "BLOCK", 32)
    lines = [f"line {k}" for k in range(10)]
    lines[at] = "x" * 1000
    report = Report()
    found = list(source_of(tmp_path, "\n".join(lines).encode() + b"\n", report).lines())
    assert found == [("\n" if k == at else f"line {k}\n") for k in range(10)]
    assert [p.line for p in report.problems] == [at + 1]


def test_the_hash_is_of_the_whole_file(tmp_path):
    import hashlib

    data = b"TY  - JOUR\n" * 100_000
    source = source_of(tmp_path, data)
    assert sum(1 for _ in source.lines()) == 100_000
    assert source.sha256 == hashlib.sha256(data).hexdigest()


def test_progress_reaches_the_end(tmp_path):
    path = tmp_path / "file"
    path.write_bytes(b"line\n" * 200_000)
    seen = []
    source = Stream(path, Report(), seen.append)
    assert sum(1 for _ in source.lines()) == 200_000
    assert seen == sorted(seen) and seen[-1] == source.size


def test_too_many_problems_are_counted_not_listed():
    report = Report()
    for line in range(Report.MOST + 5):
        report.problem(line, "wrong")
    listed = report.listed()
    assert len(listed) == Report.MOST + 1 and "5 more" in listed[-1].message


@pytest.mark.parametrize(
    ("text", "encoding", "found"),
    [
        ("Größe, Öl und Übermaß in der Flußmündung", "latin-1", "cp1252"),
        ("tide", "utf-16-le", "utf-16-le"),
        ("tide", "utf-16-be", "utf-16-be"),
        ("tide ø", "utf-8", "utf-8"),
        ("plain", "ascii", "utf-8"),
        ("Приливная мельница на берегу устья реки и старые карты", "cp1251", "cp1251"),
    ],
)
def test_encodings_are_found(text, encoding, found):
    assert find_encoding((text * 20).encode(encoding)) == found


@given(st.text(max_size=40))
def test_years_lie_in_range_or_are_none(text):
    assert find_year(text) == 0 or 1000 <= find_year(text) <= 2099


@pytest.mark.parametrize(
    ("text", "year"), [("1999/03/01//", 1999), ("c. 1843", 1843), ("[18]43", 0), ("20250", 0), ("", 0)]
)
def test_years_in_dates(text, year):
    assert find_year(text) == year


def test_values_and_institutions():
    assert (
        split_values(" a;; b ;") == ["a", "b"] and split_values("  ") == [] and split_values("a, b", ",") == ["a", "b"]
    )
