"""Brackwater: the made-up study of an invented estuary, with the truth kept beside it.

Takes: a seed. Gives: records in four formats with overlaps, letters, essays, an outline, a table of ties, and a study.
"""

from __future__ import annotations

import json
import random
from pathlib import Path

from umber_knot.corpus.model import RawRecord
from umber_knot.demo.essays import essay_files
from umber_knot.demo.letters import letter_files
from umber_knot.demo.records import SEED, records
from umber_knot.gather.formats import bibtex, csl_json, ris, table

#: The files of the demo study; those after the bar are there, switched off.
SOURCES = ("mills.ris", "coast.bib", "box2.csv", "shore.json")
ASIDE = ("letters.csv",)
OVERLAPS = 42  # records that stand in two files, a third of them without their identifier
RECIPE = """\
# The words of the Brackwater literature that travel together, 1975 to 2025.
[gather]
sources = ["mills.ris", "coast.bib", "box2.csv", "shore.json"]
[reconcile]
accept = { keyword = 0.9 }
[relate]
tie = "co-occurrence"
of = "keyword"
normalise = "association"
min_records = 4
[group]
grain = 1.0
[chart]
size_by = "records"
tint_by = "topic"
[report]
formats = ["svg", "png"]
width_mm = 180
"""


def write_demo(folder: Path, seed: int = SEED) -> list[Path]:
    """Write the demo's files into a folder: every source, a recipe, and the truth."""
    found, truth = records(seed)
    parts, twice = shared_out(found, random.Random(seed + 1))
    letters, correspondence = letter_files(seed + 2)
    files: dict[str, bytes] = {
        "mills.ris": "".join(ris.write(iter(parts[0]))).encode(),
        "coast.bib": "".join(bibtex.write(iter(parts[1]))).encode(),
        "box2.csv": "".join(table.write(iter(parts[2]))).encode(),
        "shore.json": "".join(csl_json.write(iter(parts[3]))).encode(),
        **letters,
        **essay_files(seed + 3),
        "brackwater.toml": RECIPE.encode(),
        "truth.json": (
            json.dumps(
                truth | {"twice": twice, "letters": correspondence}, ensure_ascii=False, indent=1, sort_keys=True
            )
            + "\n"
        ).encode(),
    }
    for name, data in files.items():
        path = folder / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(data)
    return [folder / name for name in files]


def shared_out(found: list[RawRecord], rng: random.Random) -> tuple[list[list[RawRecord]], list[list[str]]]:
    """The records of each of the four files, and the pairs of entries that are one record in two of them."""
    home = [rng.choices(range(4), (46, 29, 16, 9))[0] for _ in found]
    parts = [[r for r, h in zip(found, home) if h == k] for k in range(4)]
    twice = []
    for n, at in enumerate(sorted(rng.sample(range(len(found)), OVERLAPS))):
        r = found[at]
        again = RawRecord(
            line=0,
            entry=f"{r.entry}b",
            type=r.type,
            title=r.title.upper() if n % 3 == 0 else r.title + ".",
            year=r.year,
            doi=r.doi if n % 3 else "",
            persons=r.persons[:1] + [_short(p) for p in r.persons[1:]],
            keywords=r.keywords[:2],
            venue=r.venue,
        )
        parts[(home[at] + 1 + n % 3) % 4].append(again)
        twice.append([r.entry, again.entry])
    return parts, twice


def _short(name: str) -> str:
    """A name with one initial, as a shorter export gives it."""
    family, comma, given = name.partition(", ")
    return f"{family}, {given[0]}." if comma else name


def demo_study() -> Path:
    """The demo's study file in the user's data folder, made on first use and kept as the user left it."""
    from umber_knot.corpus.study import Study
    from umber_knot.gather.read import read_file
    from umber_knot.lineage.recipe import parse_recipe
    from umber_knot.paths import data_dir

    folder = data_dir() / "demo"
    path = folder / "Brackwater.umber"
    if not path.exists():
        write_demo(folder)
        part = folder / "Brackwater.part.umber"
        part.unlink(missing_ok=True)
        with Study.create(part) as study:
            study.set_recipe("the demo's recipe", parse_recipe(RECIPE).toml())
            study.add_sources(read_file(folder / name) for name in (*SOURCES, *ASIDE))
            aside = [source.id for source in study.sources() if source.name in ASIDE]
            study.switch_sources(f"switch off {', '.join(ASIDE)}", aside, False)
        part.rename(path)
    return path
