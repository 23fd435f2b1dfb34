"""Writing a report: every file of the headless contract from one set of results."""

from __future__ import annotations

from pathlib import Path

from umber_knot.chart.palette import LIGHT, Theme
from umber_knot.chart.scene import Layers
from umber_knot.errors import UserError
from umber_knot.network.csv_tables import items_table, ties_table
from umber_knot.network.gml import gml
from umber_knot.network.graphml import graphml
from umber_knot.network.node_link import node_link
from umber_knot.reconcile.decisions import decisions_csv
from umber_knot.relate.wording import counted_in, many, shapes, told
from umber_knot.report.flow import flow_svg
from umber_knot.report.measures import measure_columns, measure_files
from umber_knot.report.methods import methods
from umber_knot.report.png import png
from umber_knot.report.subject import Subject
from umber_knot.report.svg import PlateText, plate
from umber_knot.report.tables import item_columns, matrix_csv, records_csv, table, ties_csv, topics_csv

#: Columns of ``items.csv`` that a network has of its own.
_OWN = ("id", "label", "kind", "records", "mean_year", "citations")


def plate_text(subject: Subject) -> PlateText:
    """The words on a plate."""
    network, relate, corpus, grouped = subject.network, subject.relate, subject.corpus, subject.grouped
    dated = corpus.year[corpus.year > 0]
    years = relate.years or ((int(dated.min()), int(dated.max())) if len(dated) else ())
    span = f", {years[0]}–{years[1]}" if years else ""
    passed = f" in at least {relate.min_records} records" if relate.min_records > 1 else ""
    caption = (
        f"{len(network):,} {many(relate)}{passed} and {network.ties:,} ties from {len(corpus):,} records{span}. "
        f"{told(relate)} {len(grouped.topics)} topics, grain {subject.group.grain:g}, "
        f"seed {subject.group.seed}." + (f" Marks are {marks}." if (marks := shapes(network.kinds)) else "")
    )
    weight = counted_in(relate) + ("" if relate.normalise == "none" else f", {relate.normalise}")
    lighter = int((network.weight < subject.chart.least_tie).sum())
    if lighter:
        weight += f"; {lighter:,} under {subject.chart.least_tie:.3g} not drawn"
    topics = tuple((t.number - 1, t.name) for t in grouped.topics if t.items > 1)[:24]
    return PlateText(subject.report.title, caption, weight, topics)


def contents(subject: Subject, theme: Theme = LIGHT) -> dict[str, bytes]:
    """File name → bytes of everything a run writes of a strand (but ``run.json``)."""
    network, formats = subject.network, subject.report.formats
    columns = item_columns(network, subject.grouped, subject.stable, subject.drawing)
    columns |= {name: values for name, values in measure_columns(subject).items() if name not in columns}
    more = {name: values for name, values in columns.items() if name not in (*_OWN, *network.item_columns)}
    texts = {
        "items.csv": table(columns),
        "ties.csv": ties_csv(network),
        "topics.csv": topics_csv(subject.grouped),
        "records.csv": records_csv(subject.corpus, subject.related),
        "decisions.csv": decisions_csv(subject.ledger),
        "network.graphml": "".join(graphml(network, more)),
        "flow.svg": flow_svg(subject.corpus),
        "methods.md": methods(subject),
        **measure_files(subject),
    }
    if "csv" in formats:
        texts |= {"network-items.csv": items_table(network, more), "network-ties.csv": ties_table(network)}
    if "matrix" in formats:
        texts["matrix.csv"] = matrix_csv(network)
    for name, writer in (("gml", gml), ("json", node_link)):
        if name in formats:
            texts[f"network.{name}"] = "".join(writer(network, more))
    files = {name: text.encode("utf-8", "replace") for name, text in texts.items()}
    if {"svg", "png"} & set(formats):
        svg = plate(subject.drawing, plate_text(subject), subject.report.width_mm, theme, Layers.of(subject.chart))
        if "svg" in formats:
            files["chart.svg"] = svg.encode("utf-8", "replace")
        if "png" in formats:
            files["chart.png"] = png(svg, subject.report.dpi)
    return files


def write_files(folder: Path, files: dict[str, bytes]) -> None:
    """Write files, each whole or not at all."""
    try:
        for name, data in files.items():
            path = folder / name
            path.parent.mkdir(parents=True, exist_ok=True)
            part = path.with_name(f".{path.name}.part")
            part.write_bytes(data)
            part.replace(path)
    except OSError as error:
        raise UserError(
            f"cannot be written ({error.strerror})", place=str(folder), cure="Check the folder and the free space"
        ) from error
