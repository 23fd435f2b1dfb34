"""Spreadsheets (XLSX, ODS, and XLS): the sheet that holds most, read as a table."""

from __future__ import annotations

import datetime
import io
from collections.abc import Iterator

from umber_knot.corpus.model import RawRecord
from umber_knot.errors import UserError
from umber_knot.gather.formats._rows import Row, read_rows
from umber_knot.gather.stream import Head, Report, Stream

NAME = "spreadsheet"
UNIT = "row"
LARGEST = 300_000_000
_SHEET = b"application/vnd.oasis.opendocument.spreadsheet"


def sniff(head: Head) -> float:
    """How surely this is a spreadsheet, 0 to 1."""
    name = head.name.lower()
    if head.data.startswith(b"\xd0\xcf\x11\xe0"):
        return 0.6 if name.endswith(".xls") else 0.0
    if not head.data.startswith(b"PK\x03\x04"):
        return 0.0
    return (
        0.97 if _SHEET in head.data[:200] or b"xl/" in head.data else 0.7 if name.endswith((".xlsx", ".ods")) else 0.0
    )


def rows(stream: Stream, report: Report) -> Iterator[Row]:
    """The rows of the sheet chosen (option ``sheet``), else of the one with most cells; numbers as the sheet shows
    them."""
    from python_calamine import CalamineError, CalamineWorkbook

    from umber_knot.gather.formats._zip import parts

    data = stream.contents(LARGEST, "a spreadsheet")
    if data.startswith(b"PK"):
        parts(stream)  # refuses what unpacks to more than a document can hold, before anything else reads it
    try:
        book = CalamineWorkbook.from_filelike(io.BytesIO(data))
        sheets = {name: book.get_sheet_by_name(name) for name in book.sheet_names}
    except (CalamineError, ValueError, OSError, RuntimeError, OverflowError) as error:
        raise UserError(f"the spreadsheet is damaged ({error})", cure="Save it again, or export it as CSV") from error
    if not sheets:
        raise UserError("the spreadsheet has no sheet", cure="Save it again")
    chosen = str(stream.options.get("sheet", ""))
    name = chosen if chosen in sheets else max(sheets, key=lambda n: sheets[n].height * sheets[n].width)
    others = [n for n in sheets if n != name and sheets[n].height]
    report.told = f"sheet {name}" + (f" of {len(sheets)}; not read: {', '.join(others)}" if others else "")
    start = sheets[name].start
    first = (start[0] if start else 0) + 1
    for number, row in enumerate(sheets[name].iter_rows(), first):
        cells = [shown(value) for value in row]
        yield number, cells, "\t".join(cells) + "\n"


def shown(value: object) -> str:
    """A cell as text: whole numbers without a point, dates as ISO dates."""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float) and value.is_integer() and abs(value) < 1e15:
        return str(int(value))
    if isinstance(value, datetime.datetime):
        return value.date().isoformat() if value.time() == datetime.time() else value.isoformat(" ")
    return str(value).strip()


def read(stream: Stream, report: Report) -> Iterator[RawRecord]:
    """Rows one by one as records."""
    yield from read_rows(rows(stream, report), stream.options, report)
