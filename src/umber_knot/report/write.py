"""Writing a report: every file of the headless contract from one set of results."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import Any

from umber_knot.chart.drawing import Drawing
from umber_knot.chart.palette import LIGHT, Theme
from umber_knot.corpus.model import KIND_WORDS, Corpus
from umber_knot.errors import UserError
from umber_knot.lineage.recipe import Recipe
from umber_knot.lineage.stages import Grouped, Reconciled, Related, Stable
from umber_knot.network.gml import gml
from umber_knot.network.graphml import graphml
from umber_knot.network.node_link import node_link
from umber_knot.reconcile.decisions import decisions_csv
from umber_knot.report.flow import flow_svg
from umber_knot.report.methods import counting_sentence, methods
from umber_knot.report.png import png
from umber_knot.report.svg import PlateText, plate
from umber_knot.report.tables import item_columns, records_csv, table, ties_csv, topics_csv


def plate_text(corpus: Corpus, related: Related, grouped: Grouped, recipe: Recipe) -> PlateText:
    """The words on a plate."""
    network = related.filtered.network
    many = KIND_WORDS[network.kind][1]
    dated = corpus.year[corpus.year > 0]
    years = recipe.relate.years or ((int(dated.min()), int(dated.max())) if len(dated) else ())
    span = f", {years[0]}–{years[1]}" if years else ""
    least = recipe.relate.min_records
    passed = f" in at least {least} records" if least > 1 else ""
    caption = (
        f"{len(network):,} {many}{passed} and {network.ties:,} ties from {len(corpus):,} records{span}. "
        f"{counting_sentence(recipe)} {len(grouped.topics)} topics, grain {recipe.group.grain:g}, "
        f"seed {recipe.group.seed}."
    )
    weight = "records shared" if recipe.relate.normalise == "none" else f"records shared, {recipe.relate.normalise}"
    topics = tuple((t.number - 1, t.name) for t in grouped.topics if t.items > 1)[:24]
    return PlateText(recipe.report.title, caption, weight, topics)


def contents(corpus: Corpus, results: Mapping[str, Any], recipe: Recipe, theme: Theme = LIGHT) -> dict[str, bytes]:
    """File name → bytes of everything a run writes (but ``run.json``), from the results of all stages by name."""
    reconciled: Reconciled = results["reconcile"]
    related: Related = results["relate"]
    grouped: Grouped = results["group"]
    drawing: Drawing = results["chart"]
    stable: Stable = results["stability"]
    network = related.filtered.network
    columns = item_columns(network, grouped, stable, drawing)
    texts = {
        "items.csv": table(columns),
        "ties.csv": ties_csv(network),
        "topics.csv": topics_csv(grouped),
        "records.csv": records_csv(corpus, related),
        "decisions.csv": decisions_csv(reconciled.ledger),
        "network.graphml": "".join(graphml(network, columns)),
        "flow.svg": flow_svg(corpus),
        "methods.md": methods(corpus, reconciled, related, grouped, stable, recipe),
    }
    for name, writer in (("gml", gml), ("json", node_link)):
        if name in recipe.report.formats:
            texts[f"network.{name}"] = "".join(writer(network, columns))
    files = {name: text.encode("utf-8", "replace") for name, text in texts.items()}
    if {"svg", "png"} & set(recipe.report.formats):
        svg = plate(drawing, plate_text(corpus, related, grouped, recipe), recipe.report.width_mm, theme)
        if "svg" in recipe.report.formats:
            files["chart.svg"] = svg.encode("utf-8", "replace")
        if "png" in recipe.report.formats:
            files["chart.png"] = png(svg, recipe.report.dpi)
    return files


def write_files(folder: Path, files: dict[str, bytes]) -> None:
    """Write files, each whole or not at all."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
        for name, data in files.items():
            part = folder / f".{name}.part"
            part.write_bytes(data)
            part.replace(folder / name)
    except OSError as error:
        raise UserError(
            f"cannot be written ({error.strerror})", place=str(folder), cure="Check the folder and the free space"
        ) from error
