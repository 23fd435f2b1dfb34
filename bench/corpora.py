"""Made-up bibliographies of any size for the benchmarks; nothing in them is real."""

from __future__ import annotations

import random
from collections import Counter
from pathlib import Path

SYLLABLES = "ba be bi bo da de di do ka ke ki ko la le li lo ma me mi mo na ne ni no ra re ri ro sa se si so ta te ti to".split()


def name(rng: random.Random, parts: int) -> str:
    return "".join(rng.choice(SYLLABLES) for _ in range(parts)).capitalize()


def write_ris(
    path: Path, records: int, people: int, groups: int = 40, seed: int = 7, abstract_words: int = 180
) -> None:
    """A RIS file: ``people`` authors in ``groups`` that mostly write among themselves, keywords and abstracts."""
    rng = random.Random(seed)
    everyone = list(
        dict.fromkeys(f"{name(rng, 4)}, {name(rng, 2)} {chr(65 + rng.randrange(26))}." for _ in range(people))
    )
    member = [everyone[k::groups] for k in range(groups)]
    vocabulary = [f"{name(rng, 2).lower()} {name(rng, 3).lower()}" for _ in range(groups * 30)]
    filler = [name(rng, rng.randint(1, 4)).lower() for _ in range(3000)]
    with path.open("w", encoding="utf-8") as out:
        for k in range(records):
            g = min(int(rng.paretovariate(0.9)) - 1, groups - 1) if rng.random() < 0.3 else rng.randrange(groups)
            team = {
                rng.choice(member[g] if rng.random() < 0.9 else everyone)
                for _ in range(rng.choice((1, 2, 2, 3, 3, 4, 5, 6)))
            }
            words = {vocabulary[g * 30 + min(int(rng.paretovariate(0.8)) - 1, 29)] for _ in range(6)}
            text = " ".join(rng.choices(filler, k=abstract_words))
            out.write(
                f"TY  - JOUR\nID  - r{k}\nTI  - {' '.join(rng.choices(filler, k=9)).capitalize()}\n"
                + "".join(f"AU  - {p}\n" for p in sorted(team))
                + f"PY  - {rng.randint(1980, 2025)}\nJO  - Journal {g}\n"
                + "".join(f"KW  - {w}\n" for w in sorted(words))
                + f"DO  - 10.99999/x.{k}\nAB  - {text}\nER  - \n\n"
            )


def large_study(folder: Path, people: int, records: int, items: int) -> Path:
    """A study whose network of people has about so many items."""
    from umber_knot.corpus.study import Study
    from umber_knot.gather.read import read_file, read_whole
    from umber_knot.lineage.recipe import Recipe

    path = folder / "large.ris"
    write_ris(path, records, people, abstract_words=10)
    _, found = read_whole(path)
    counts = Counter(p for r in found for p in r.persons)
    ordered = sorted(counts.values(), reverse=True)
    least = min(range(1, ordered[0] + 1), key=lambda m: abs(sum(c >= m for c in ordered) - items))
    study = folder / "large.umber"
    study.unlink(missing_ok=True)
    with Study.create(study) as open_:
        open_.set_recipe("bench", Recipe().changed("relate", min_records=least).changed("group", runs=3).toml())
        open_.add_sources([read_file(path)])
    return study
