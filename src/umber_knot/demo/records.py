"""The made-up literature of Brackwater, with the truth kept beside it.

Everything is drawn from one seeded generator. Planted: eight topics with their own people and words, ties
between neighbouring topics, research groups with leaders, name variants by export style, a few namesakes,
keyword variants (plural, hyphen, case), references among the records.
"""

from __future__ import annotations

import random
from dataclasses import dataclass
from typing import Any

from umber_knot.corpus.model import RawRecord

SEED = 1788
RECORDS = 1200
PEOPLE = 900

TOPICS: dict[str, tuple[str, ...]] = {
    "Mudflat waders": (
        "curlew",
        "redshank",
        "lugworm",
        "prey density",
        "high-tide roost",
        "mudflat foraging",
        "flyway",
        "winter count",
        "roosting site",
        "ringing recovery",
        "diet",
        "disturbance distance",
        "body condition",
        "dunlin",
        "night feeding",
        "brood survival",
        "stopover",
        "predation risk",
        "ragworm",
        "bill length",
    ),
    "Sediment and accretion": (
        "accretion rate",
        "grain size",
        "mud supply",
        "settling",
        "compaction",
        "bioturbation",
        "marsh elevation",
        "turbidity",
        "suspended load",
        "mud bank",
        "erosion pin",
        "creek levee",
        "flocculation",
        "bed level",
        "marker horizon",
        "silt trap",
        "shell bank",
        "sediment budget",
    ),
    "Salt plants": (
        "cordgrass",
        "samphire",
        "sea lavender",
        "zonation",
        "canopy height",
        "pioneer zone",
        "salt tolerance",
        "seed bank",
        "germination",
        "root mat",
        "sea aster",
        "grazing",
        "patch growth",
        "upper marsh",
        "clonal spread",
        "plant cover",
        "competition",
        "saltbush",
    ),
    "Carbon in the marsh": (
        "methane flux",
        "old carbon",
        "peat core",
        "lead dating",
        "bulk density",
        "burial efficiency",
        "soil organic matter",
        "blue carbon",
        "decomposition",
        "carbon stock",
        "pore water",
        "litter bag",
        "sulphate",
        "tidal export",
        "chamber measurement",
        "isotope ratio",
    ),
    "Water and waves": (
        "storm surge",
        "wave attenuation",
        "flow model",
        "spring tide",
        "inundation",
        "gauge record",
        "channel width",
        "bed shear",
        "roughness",
        "tidal prism",
        "ebb dominance",
        "salinity",
        "set-up",
        "current meter",
        "return period",
        "hydroperiod",
        "wind fetch",
        "freshwater flow",
    ),
    "Shore policy": (
        "managed realignment",
        "flood cost",
        "coastal plan",
        "set-back line",
        "land purchase",
        "public hearing",
        "sea wall",
        "cost and benefit",
        "stakeholder",
        "common right",
        "insurance",
        "adaptation",
        "amenity value",
        "planning law",
        "compensation site",
    ),
    "Tide mills": (
        "tide mill",
        "sluice gate",
        "mill pond",
        "millwright",
        "oak lintel",
        "dendrochronology",
        "estate ledger",
        "water wheel",
        "grain price",
        "mill race",
        "timber joint",
        "lease",
        "millstone",
        "repair account",
        "tenant",
        "quay",
    ),
    "Names and old charts": (
        "old chart",
        "hachure",
        "surveyor",
        "sounding line",
        "parish map",
        "marsh common",
        "field name",
        "place name",
        "reclamation",
        "sea bank",
        "engraver",
        "tithe survey",
        "shoreline change",
        "boundary dispute",
        "map error",
        "dialect word",
    ),
}
#: Topics whose work touches; a record borrows words and people from a neighbour now and then.
NEIGHBOURS = {
    "Mudflat waders": ("Sediment and accretion", "Shore policy"),
    "Sediment and accretion": ("Water and waves", "Salt plants", "Carbon in the marsh"),
    "Salt plants": ("Sediment and accretion", "Carbon in the marsh"),
    "Carbon in the marsh": ("Salt plants", "Sediment and accretion"),
    "Water and waves": ("Sediment and accretion", "Shore policy"),
    "Shore policy": ("Water and waves", "Names and old charts"),
    "Tide mills": ("Names and old charts",),
    "Names and old charts": ("Tide mills", "Shore policy"),
}
COMMON = ("estuary", "saltmarsh", "tide", "sea level", "monitoring", "Brackwater", "mudflat", "long-term change")

_START = (
    "Ab Ald Arn Bar Ben Bram Cald Cor Dal Dre Eld Esk Fen Gar Hal "
    "Hed Ing Kel Lan Mad Mer Nor Orm Pel Quil Ras Sel Thor Ul Vash Wen Yar"
).split()
_END = (
    "bek brey dane der dray fell gate ham holt ick ker lund mere ning oak rick sen ston thorpe ven wick worth"
).split()
_GIVEN = (
    "Ada Alba Anke Arlo Astrid Beatrix Bruno Cato Clara Cosmo Dag Delia Edda Einar Elke Emil Enid Ewan Fenna "
    "Flora Gideon Greta Hedda Hugo Ilse Imre Ines Ivo Jonas Jory Judith Kari Keziah Lars Lena Linus Livia Maren "
    "Marek Matilda Milo Nadia Nels Nora Olaf Orrin Otto Paula Peregrine Petra Quentin Rhea Rosa Rufus Saskia "
    "Selma Silas Sunniva Tamsin Tilda Tobias Una Ursula Viktor Wanda Wilf Yara Zeno"
).split()
_ACCENTED = {
    "Sorlie": "Sørlie",
    "Muller": "Müller",
    "Garcon": "Garçon",
    "Lukasz": "Łukasz",
    "Penarroya": "Peñarroya",
    "Novy": "Nový",
    "Askjaer": "Askjær",
    "Hallstrom": "Hallström",
}
_PARTICLES = ("van der", "de", "von", "van")
_INSTITUTIONS = tuple(
    f"{a}, {city}, {country}"
    for a, city, country in (
        ("Holm Institute", "Holm", "Norway"),
        ("Brackwater Field Station", "Low Quay", "United Kingdom"),
        ("University of Eastmere", "Eastmere", "United Kingdom"),
        ("Estuary Research Unit", "Sandhaven", "Netherlands"),
        ("College of Salt Studies", "Porto Baixo", "Portugal"),
        ("Marsh and Mill Trust", "Ravenquay", "Ireland"),
        ("Institute for Wave Science", "Kalhamn", "Sweden"),
        ("Shore Policy Centre", "Fairpoint", "United States"),
        ("University of Nordfeld", "Nordfeld", "Germany"),
        ("Coastal Archive", "Vieux-Quai", "France"),
        ("Delta Laboratory", "Hoshigata", "Japan"),
        ("School of Old Charts", "Greyferry", "Canada"),
    )
)
_VENUES = dict(
    zip(
        TOPICS,
        (
            ("Shorebird Notes", "Journal of Mudflat Ecology"),
            ("Mud and Silt", "Journal of Estuary Works"),
            ("Halophyte Letters", "Marsh Vegetation"),
            ("Marsh and Carbon", "Wetland Chemistry Reports"),
            ("Water Levels", "Journal of Estuary Works"),
            ("Shore and Law", "Coastal Affairs Quarterly"),
            ("Timber and Time", "Mills and Millers"),
            ("Brackwater Record Society", "The Chart Room"),
        ),
    )
)
_TITLES = (
    "{A} and {b} in the Brackwater estuary",
    "{A} at {place}",
    "The {a} of the upper estuary",
    "What {a} tells of {b}",
    "{A}, {b} and {c}: {n} years at {place}",
    "Measuring {a} on a changing shore",
    "{A} behind the sea bank",
    "On {a} and its limits",
    "A {n}-year record of {a}",
    "{A} revisited, with notes on {b}",
    "Does {a} follow {b}?",
)
_PLACES = ("Low Quay", "Ravenquay", "Eastmere", "the Narrows", "Holt Creek", "Gull Sand", "Abbot's Sluice", "Far Bank")
_SENTENCES = (
    "We followed {a} at {place} for {n} seasons.",
    "Earlier work on {b} left the question open.",
    "The results tie {a} to {c} more closely than was thought.",
    "Samples were taken along {n} transects.",
    "{A} differed between {place} and the outer marsh.",
    "We close with what this means for {b}.",
    "The record of {a} is longer than any other on this coast.",
    "No effect of {c} was found after {n} years.",
)


@dataclass(frozen=True)
class Person:
    """One invented person; ``names`` are the spellings that exports give, the full one first."""

    id: int
    family: str
    given: str
    middle: str
    topic: str
    institution: str
    first: int
    last: int
    weight: float

    def spelling(self, rng: random.Random, year: int) -> str:
        """A spelling as some export of that year would give it."""
        roll = rng.random()
        initials = f"{self.given[0]}. {self.middle[0]}." if self.middle else f"{self.given[0]}."
        if roll < 0.62 - (0.15 if year < 1995 else 0):
            return f"{self.family}, {self.given}" + (f" {self.middle[0]}." if self.middle else "")
        if roll < 0.82:
            return f"{self.family}, {initials}"
        if roll < 0.90:
            return f"{self.family}, {self.given[0]}."
        if roll < 0.95:
            return f"{self.family.upper()} {initials.replace('.', '').replace(' ', '')}"
        plain = "".join(
            {"ø": "o", "ü": "u", "ç": "c", "Ł": "L", "ñ": "n", "ý": "y", "æ": "ae", "ö": "o"}.get(ch, ch)
            for ch in self.family
        )
        return f"{plain}, {self.given}"


def people(rng: random.Random) -> list[Person]:
    """The invented people; five pairs are namesakes, of the same name in topics that never meet."""
    names = [a + b for a in _START for b in _END] + list(_ACCENTED.values()) * 2
    rng.shuffle(names)
    topics = list(TOPICS)
    found = []
    for i in range(PEOPLE):
        family = names[i % len(names)]
        if rng.random() < 0.05:
            family = f"{rng.choice(_PARTICLES)} {family}"
        elif rng.random() < 0.04:
            family = f"{family}-{names[(i * 7 + 3) % len(names)]}"
        first = rng.randint(1970, 2020)
        topic = topics[i % len(topics)]
        home = _INSTITUTIONS[(topics.index(topic) * 5 + rng.choice((0, 0, 0, 1, 1, 2))) % len(_INSTITUTIONS)]
        found.append(
            Person(
                i,
                family,
                rng.choice(_GIVEN),
                rng.choice(("", "", *_GIVEN[:20])),
                topic,
                home,
                first,
                first + rng.randint(4, 34),
                rng.paretovariate(1.15),
            )
        )
    for k in range(5):
        a, b = found[k * 40], found[k * 40 + 5]
        found[b.id] = Person(b.id, a.family, a.given, a.middle, b.topic, b.institution, b.first, b.last, b.weight)
    return found


def word_spelling(word: str, rng: random.Random) -> str:
    """A keyword as somebody typed it: now and then a plural, a hyphen or a capital."""
    roll = rng.random()
    if roll < 0.78:
        return word
    if roll < 0.86:
        return word[0].upper() + word[1:]
    if roll < 0.93 and " " in word:
        return word.replace(" ", "-")
    if word.endswith(("s", "y", "x", "ch", "sh", "ing", "tion", "matter")):
        return word
    return word + "s"


def records(seed: int = SEED) -> tuple[list[RawRecord], dict[str, object]]:
    """The records, and the truth: who each name is, which topic each record is of, which word each spelling is."""
    rng = random.Random(seed)
    everyone = people(rng)
    by_topic = {t: [p for p in everyone if p.topic == t] for t in TOPICS}
    size = dict(zip(TOPICS, (1.2, 1.1, 1.0, 1.3, 1.1, 0.9, 0.6, 0.6)))
    found: list[RawRecord] = []
    topic_of: list[str] = []
    who: list[list[int]] = []
    titles: set[str] = set()
    citing: dict[str, str] = {}
    words_truth: dict[str, str] = {}
    years = sorted(1975 + int(51 * rng.random() ** 0.62) for _ in range(RECORDS))
    for n, year in enumerate(years):
        drift = {t: w * (1.8 if t == "Carbon in the marsh" and year > 2005 else 1.0) for t, w in size.items()}
        topic = rng.choices(list(TOPICS), list(drift.values()))[0]
        team = _team(rng, by_topic, topic, year)
        words = _words(rng, topic)
        spelled = [word_spelling(w, rng) for w in words]
        words_truth |= dict(zip(spelled, words))
        fill = {
            "a": words[0],
            "b": words[1],
            "c": words[-1],
            "A": words[0][0].upper() + words[0][1:],
            "place": rng.choice(_PLACES),
            "n": str(rng.randint(3, 40)),
        }
        title = rng.choice(_TITLES).format(**fill)
        while title in titles:  # a title is one record's; what is found twice is planted
            title = f"{rng.choice(_TITLES).format(**fill)}, {rng.choice(_PLACES)} {year}"
        titles.add(title)
        cites, cited = _references(rng, found, topic_of, topic)
        citing |= {line: r.entry for line, r in zip(cites, cited)}
        found.append(
            RawRecord(
                line=0,
                entry=f"bw{n + 1:04d}",
                type="JOUR",
                title=title,
                year=year,
                doi=f"10.99999/brackwater.{n + 1:04d}" if rng.random() < 0.8 else "",
                abstract=" ".join(s.format(**fill) for s in rng.sample(_SENTENCES, 4)),
                citations=int(rng.paretovariate(1.1) * max(0.2, (2026 - year) / 12)),
                persons=[p.spelling(rng, year) for p in team],
                keywords=spelled,
                venue=rng.choice(_VENUES[topic]),
                volume=str(year - 1960),
                pages=f"{1 + 7 * (n % 60)}-{9 + 7 * (n % 60)}",
                language="en",
                **_affiliations(team),
                references=cites,
            )
        )
        topic_of.append(topic)
        who.append([p.id for p in team])
    truth = {
        "references": citing,
        "people": {str(p.id): f"{p.family}, {p.given} {p.middle}".strip() for p in everyone},
        "persons": {r.entry: [[name, i] for name, i in zip(r.persons, ids)] for r, ids in zip(found, who)},
        "topics": dict(zip((r.entry for r in found), topic_of)),
        "keywords": words_truth,
        "home": {word: topic for topic, words in TOPICS.items() for word in words},
    }
    return found, truth


def _affiliations(team: list[Person]) -> dict[str, Any]:
    """Institutions, places and countries of a team, one of each for every institution."""
    parts = [text.split(", ") for text in dict.fromkeys(p.institution for p in team)]
    return {name: [p[k] for p in parts] for k, name in enumerate(("institutions", "places", "countries"))}


def _team(rng: random.Random, by_topic: dict[str, list[Person]], topic: str, year: int) -> list[Person]:
    pool = [p for p in by_topic[topic] if p.first <= year <= p.last] or by_topic[topic]
    lead = rng.choices(pool, [p.weight for p in pool])[0]
    near = [p for p in pool if p.institution == lead.institution] or pool
    team = {lead.id: lead}
    for _ in range(rng.choices((0, 1, 2, 3, 4, 6, 9), (14, 26, 26, 17, 10, 5, 2))[0]):
        source = near if rng.random() < 0.72 else pool
        if rng.random() < 0.06:
            source = by_topic[rng.choice(NEIGHBOURS[topic])]
        one = rng.choices(source, [min(p.weight, 6.0) for p in source])[0]
        if all(one.family != p.family for p in team.values()):
            team[one.id] = one
    return list(team.values())


def _words(rng: random.Random, topic: str) -> list[str]:
    def pick(words: tuple[str, ...]) -> str:
        return words[min(int(rng.paretovariate(0.75)) - 1, rng.randrange(len(words)))]

    chosen = {pick(TOPICS[topic]) for _ in range(rng.randint(3, 6))}
    if rng.random() < 0.30:
        chosen.add(pick(TOPICS[rng.choice(NEIGHBOURS[topic])]))
    if rng.random() < 0.35:
        chosen.add(rng.choice(COMMON))
    while len(chosen) < 3:
        chosen.add(rng.choice(TOPICS[topic]))
    words = sorted(chosen)
    rng.shuffle(words)
    return words


def _references(
    rng: random.Random, earlier: list[RawRecord], topic_of: list[str], topic: str
) -> tuple[list[str], list[RawRecord]]:
    """Reference lines, those of the study's records first, and these records."""
    pool = [r for r, t in zip(earlier, topic_of) if t == topic or rng.random() < 0.05]
    chosen = rng.sample(pool, min(len(pool), rng.randint(2, 14)))
    old = [
        f"Elder {rng.choice(_START)}, {rng.randint(1890, 1974)}, Transactions of the Old Marsh"
        for _ in range(rng.randint(0, 4))
    ]
    return [_cited(r, rng) for r in chosen] + old, chosen


def _cited(r: RawRecord, rng: random.Random) -> str:
    """A record as a reference list gives it: with its identifier, by volume and page, or by its title."""
    if r.doi and rng.random() < 0.7:
        return f"{r.persons[0]}, {r.year}, {r.venue}, DOI {r.doi}"
    page = r.pages.split("-")[0]
    if rng.random() < 0.7:
        return f"{r.persons[0]}, {r.year}, {r.venue.upper()}, V{r.volume}, P{page}"
    return f"{r.persons[0]} ({r.year}). {r.title}. {r.venue}, {r.volume}, {r.pages}"
