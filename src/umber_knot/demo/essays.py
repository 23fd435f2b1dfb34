"""Essays and field notes on Brackwater in four kinds of file, an outline, and a table of ties; all invented."""

from __future__ import annotations

import random

from umber_knot.demo.documents import docx, pdf
from umber_knot.demo.records import TOPICS
from umber_knot.markup import xml

COUNT = 30
_WRITERS = ("Tamsin Dray", "Orrin Vashley", "Ilse Maddern", "Anke Sørlie", "Jory van der Merle", "Ada Thorne")
_SENTENCES = (
    "We walked the {place} at low water and found {a} where the old plan shows {b}.",
    "{A} is the first thing a visitor sees at {place}.",
    "Nobody at {place} could say when {a} had begun.",
    "The keeper spoke of {a} and of {b} as of one thing.",
    "Where {b} ends, {a} begins; the line between them has moved twice.",
    "It rained, and the notes on {b} are short.",
    "What is written of {c} in the older accounts must be read with care.",
    "{A} and {c} were measured again in the autumn.",
    "I doubt that {b} has anything to do with {c}.",
    "The sluicekeeper remembered {a} before the sea bank was raised.",
)
_PLACES = ("Low Quay", "Ravenquay", "the Narrows", "Holt Creek", "Gull Sand", "Far Bank")


def essay_files(seed: int) -> dict[str, bytes]:
    """File name → bytes: thirty texts in turn as DOCX, PDF, Markdown and plain text, an outline, and a table of
    ties."""
    rng = random.Random(seed)
    files: dict[str, bytes] = {}
    for n in range(COUNT):
        topic = list(TOPICS)[n % len(TOPICS)]
        writer, place = _WRITERS[n % len(_WRITERS)], rng.choice(_PLACES)
        title = f"{'Field note' if n % 3 else 'Essay'}: {TOPICS[topic][n % 5]} at {place}"
        year = 1990 + n
        sections = [
            (TOPICS[topic][k].capitalize(), [_paragraph(rng, TOPICS[topic]) for _ in range(rng.randint(2, 4))])
            for k in rng.sample(range(8), 3)
        ]
        name = f"essays/{n + 1:02}-{TOPICS[topic][n % 5].replace(' ', '-')}"
        if n % 4 == 0:
            blocks = [b for heading, texts in sections for b in [(1, heading), *((0, t) for t in texts)]]
            files[f"{name}.docx"] = docx(title, writer, blocks)
        elif n % 4 == 1:
            files[f"{name}.pdf"] = pdf(
                title, writer, [t for _, texts in sections for t in texts] * 3, "Brackwater Papers"
            )
        elif n % 4 == 2:
            body = "\n\n".join(f"## {heading}\n\n" + "\n\n".join(texts) for heading, texts in sections)
            files[f"{name}.md"] = f"---\ntitle: {title}\nauthor: {writer}\ndate: {year}\n---\n\n{body}\n".encode()
        else:
            files[f"{name}.txt"] = (
                f"{title}\n\n" + "\n\n".join(t for _, texts in sections for t in texts) + "\n"
            ).encode()
    files["outline.opml"] = _outline()
    files["ties.csv"] = _ties(rng)
    return files


def _paragraph(rng: random.Random, words: tuple[str, ...]) -> str:
    a, b, c = rng.sample(words, 3)
    fill = {"a": a, "b": b, "c": c, "A": a.capitalize(), "place": rng.choice(_PLACES)}
    return " ".join(s.format(**fill) for s in rng.sample(_SENTENCES, 4))


def _outline() -> bytes:
    rows = []
    for topic, words in TOPICS.items():
        leaves = "\n".join(f'  <outline text="{xml(f"What is known of {word} at Brackwater")}"/>' for word in words[:6])
        rows.append(f' <outline text="{xml(topic)}">\n{leaves}\n </outline>')
    body = "\n".join(rows)
    return f'<?xml version="1.0" encoding="UTF-8"?>\n<opml version="2.0">\n<head><title>Brackwater: plan of the book</title></head>\n<body>\n{body}\n</body>\n</opml>\n'.encode()


def _ties(rng: random.Random) -> bytes:
    """Who dined with whom: a small network with a loop and a parallel tie, as real ones have."""
    people = [
        f"{a} {b}"
        for a in ("Josiah", "Hester", "Ambrose", "Lettice", "Jabez")
        for b in ("Holt", "Lund", "Pask", "Venner")
    ]
    rows = [(a, b, rng.randint(1, 6)) for k, a in enumerate(people) for b in people[k + 1 :] if rng.random() < 0.2]
    rows += [(people[0], people[0], 1), rows[0]]
    return ("source,target,weight\n" + "".join(f"{a},{b},{w}\n" for a, b, w in rows)).encode()
