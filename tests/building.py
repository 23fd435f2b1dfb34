"""Networks, results and studies for tests, made in a few words."""

from __future__ import annotations

import numpy as np

from umber_knot.corpus.model import RawRecord, Source
from umber_knot.corpus.steps import Item
from umber_knot.corpus.study import Study
from umber_knot.corpus.texts import Texts
from umber_knot.lineage.headless import subject
from umber_knot.lineage.nodes import Inputs
from umber_knot.lineage.recipe import Recipe
from umber_knot.lineage.update import Lineage, wanted
from umber_knot.network.model import Network
from umber_knot.work.state import State


def quiet(what, done, of):
    pass


def network_of(n, edges, labels=None, records=None, weight=None, **more):
    """A network of n items; undirected edges are put in order unless ``directed`` is given."""
    pairs = [(a, b) if more.get("directed") else (min(a, b), max(a, b)) for a, b in edges]
    if weight is None and not more:
        pairs = sorted({p for p in pairs if p[0] != p[1]})
    s, t = np.array(pairs, np.int32).reshape(-1, 2).T
    m, none = len(s), np.full(n, np.datetime64("NaT"), "datetime64[D]")
    records = np.arange(n, 0, -1, dtype=np.int32) if records is None else records
    texts = Texts.of(labels or [f"item number {k}" for k in range(n)])
    fields = {
        "kinds": ("keyword",),
        "label": texts,
        "form": texts,
        "entity": np.arange(n, dtype=np.int32),
        "records": records,
        "citations": np.zeros(n, np.int32),
        "first": none,
        "last": none,
        "mean_year": np.full(n, 2000.0),
        "source": s,
        "target": t,
        "weight": np.ones(m) if weight is None else np.array(weight, np.float64),
        "count": np.ones(m, np.int32),
        "tie_first": np.full(m, np.datetime64("NaT"), "datetime64[D]"),
        "tie_last": np.full(m, np.datetime64("NaT"), "datetime64[D]"),
    }
    return Network(**{**fields, **more})


def results_of(corpus, decisions=(), recipe=None, memory=None, lineage=None, **more):
    """Everything of a study: (inputs, node → result)."""
    inputs = Inputs(corpus, "k", tuple(decisions), recipe or Recipe().changed("group", runs=2), memory or {}, **more)
    found = (lineage or Lineage()).update(inputs, quiet, wanted(inputs))
    return inputs, {o.node: o.result for o in found}


def subject_of(corpus, strand=1, decisions=(), **sections):
    """What a report is written from, with some values of the recipe changed."""
    recipe = Recipe().changed("group", runs=2)
    for name, values in sections.items():
        recipe = recipe.changed(name, **values)
    return subject(*_first(corpus, decisions, recipe, strand))


def _first(corpus, decisions, recipe, strand):
    inputs, results = results_of(corpus, decisions, recipe)
    return inputs, strand, results


def state_of(path, strand=1, serial=1):
    """The state of a study as the window sends it."""
    from umber_knot.lineage.recipe import parse_recipe

    with Study.open(path) as study:
        live = tuple((s.id, s.sha256, s.reading, s.anchor) for s in study.sources() if s.active)
        return State(
            path,
            study.uuid,
            live,
            study.decisions(),
            parse_recipe(study.recipe()),
            study.pins(),
            study.afresh(),
            strand,
            serial,
        )


def source(name, records):
    return Source(name, name, "RIS", "utf-8", "", len(records))


def word(text: str) -> Item:
    return "keyword", text


def person(text: str) -> Item:
    return "person", text


def ris(path, *entries):
    """Write a bibliography: (title, people, keywords, year[, doi])."""
    lines = []
    for title, people, words, year, *doi in entries:
        lines += ["TY  - JOUR", f"TI  - {title}", *(f"AU  - {p}" for p in people), *(f"KW  - {w}" for w in words)]
        lines += [f"PY  - {year}", *(f"DO  - {d}" for d in doi), "ER  - ", ""]
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_text("\n".join(lines), encoding="utf-8")
    return path


def record(title, **fields):
    return RawRecord(1, title=title, **fields)
