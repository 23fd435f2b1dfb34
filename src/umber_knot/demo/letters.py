"""The Brackwater letters: an invented correspondence of 1788 to 1846, as a table, as TEI and as a mailbox."""

from __future__ import annotations

import csv
import io
import random
from dataclasses import dataclass

from umber_knot.markup import xml

COUNT = 600
_GIVEN = "Josiah Peregrine Hester Obadiah Tabitha Ambrose Lettice Barnaby Philippa Silvanus Dorcas Jabez Honor Erasmus Prudence Elias".split()
_FAMILY = "Holt Lund Quarrel Maddern Pask Venner Thrale Sedge Orrick Bane Colver Dimsel Farrow Gedling Hask Inskip Jessop Kell Lorimer".split()
_PLACES = ("Low Quay", "Ravenquay", "Eastmere", "Abbot's Sluice", "Far Bank", "Sandhaven", "Greyferry")
_MATTERS = (
    "the lease of the mill",
    "the sea bank",
    "the new chart",
    "the price of grain",
    "the sluice gate",
    "the drowned common",
    "the survey",
    "the miller's account",
    "the oak for the wheel",
)
_LINES = (
    "I have yours of the last tide concerning {a}, and am obliged to you for it.",
    "The wind has held in the east and {a} stands as it did.",
    "Mr {who} will have told you of {b}; I say nothing more of it here.",
    "Pray send word of {a} before the spring tides.",
    "We were all night at {place} with lanterns.",
    "As to {b}, the Commissioners will not hear of it.",
    "The account is enclosed.",
)


@dataclass(frozen=True)
class Letter:
    """One invented letter; names and date as some hand wrote them, with the truth beside."""

    number: int
    sender: str
    recipient: str
    date: str  # EDTF
    written: str  # the date as a catalogue gives it
    place: str
    text: str
    who: tuple[int, int]


def letters(seed: int) -> tuple[list[Letter], dict[int, str]]:
    """The letters in order of time, and everybody's full name by number."""
    rng = random.Random(seed)
    everyone: dict[int, str] = {}
    while len(everyone) < 120:
        everyone[len(everyone)] = (
            f"{_FAMILY[len(everyone) % len(_FAMILY)]}, {rng.choice(_GIVEN)} {rng.choice('ABCDEFGHJ')}."
        )
    weight = [rng.paretovariate(0.9) for _ in everyone]
    made = []
    for n in range(COUNT):
        a, b = rng.choices(list(everyone), weight, k=2)
        while a == b:
            b = rng.choice(list(everyone))
        year, month, day = 1788 + int(59 * rng.random() ** 0.9), rng.randint(1, 12), rng.randint(1, 28)
        fill = {
            "a": rng.choice(_MATTERS),
            "b": rng.choice(_MATTERS),
            "who": rng.choice(_FAMILY),
            "place": rng.choice(_PLACES),
        }
        text = "\n\n".join(line.format(**fill) for line in rng.sample(_LINES, rng.randint(2, 4)))
        date, written = _dates(rng, year, month, day)
        place = rng.choice(_PLACES) if rng.random() < 0.85 else ""
        made.append(Letter(n, _hand(rng, everyone[a]), _hand(rng, everyone[b]), date, written, place, text, (a, b)))
    return sorted(made, key=lambda one: one.date.strip("./~?")), everyone


def _hand(rng: random.Random, name: str) -> str:
    """A name as one hand or another writes it."""
    family, given = name.split(", ")
    roll = rng.random()
    if roll < 0.6:
        return name
    return f"{family}, {given[0]}." if roll < 0.8 else f"{given} {family}" if roll < 0.93 else f"Mr {family}"


def _dates(rng: random.Random, year: int, month: int, day: int) -> tuple[str, str]:
    roll = rng.random()
    if roll < 0.7:
        return f"{year}-{month:02}-{day:02}", f"{year}-{month:02}-{day:02}"
    if roll < 0.8:
        return f"{year}-{month:02}", f"{year}-{month:02}"
    if roll < 0.88:
        return f"{year}~", f"c. {year}"
    if roll < 0.93:
        return f"{year}?", f"{year}?"
    if roll < 0.97:
        return f"{year}/{year + 2}", f"{year}-{year + 2}"
    return f"{str(year)[:3]}X", f"{str(year)[:3]}0s"


def letter_files(seed: int) -> tuple[dict[str, bytes], dict[str, object]]:
    """File name → bytes, and the truth: who wrote each letter to whom."""
    found, everyone = letters(seed)
    files = {"letters.csv": _table(found), "letters.xml": _tei(found), "letters.mbox": _mailbox(found)}
    truth = {
        "people": {str(k): v for k, v in everyone.items()},
        "letters": {str(one.number + 1): list(one.who) for one in found},
    }
    return {name: text.encode() for name, text in files.items()}, truth


def _table(found: list[Letter]) -> str:
    file = io.StringIO()
    writer = csv.writer(file)
    writer.writerow(["shelfmark", "sender", "recipient", "date", "place", "text"])
    for one in found:
        writer.writerow([f"BL {one.number + 1}", one.sender, one.recipient, one.written, one.place, one.text])
    return file.getvalue()


def _tei(found: list[Letter]) -> str:
    rows = []
    for one in found:
        if "/" in one.date:
            start, end = one.date.split("/")
            when = f'notBefore="{start}" notAfter="{end}"'
        elif one.date[-1] in "~?X":
            when = f'when="{one.date.rstrip("~?X").ljust(4, "0")}" cert="low"'
        else:
            when = f'when="{one.date}"'
        place = f"<placeName>{xml(one.place)}</placeName>" if one.place else ""
        rows.append(
            f'<correspDesc key="BL-{one.number + 1}">\n'
            f' <correspAction type="sent"><persName>{xml(one.sender)}</persName>{place}<date {when}/></correspAction>\n'
            f' <correspAction type="received"><persName>{xml(one.recipient)}</persName></correspAction>\n</correspDesc>'
        )
    return (
        '<?xml version="1.0" encoding="UTF-8"?>\n<TEI xmlns="http://www.tei-c.org/ns/1.0">\n<teiHeader><fileDesc><titleStmt>'
        "<title>The Brackwater letters</title></titleStmt></fileDesc>\n<profileDesc>\n"
        + "\n".join(rows)
        + "\n</profileDesc></teiHeader>\n"
        "<text><body><p/></body></text>\n</TEI>\n"
    )


def _mailbox(found: list[Letter]) -> str:
    """The letters as a transcriber might mail them: one message a letter, some of them answers."""
    months = "Jan Feb Mar Apr May Jun Jul Aug Sep Oct Nov Dec".split()
    rows, before = [], ""
    for one in found:
        pieces = one.date.rstrip("~?").split("/")[0].replace("X", "0").split("-")
        month, day = int(pieces[1]) if len(pieces) > 1 else 1, int(pieces[2]) if len(pieces) > 2 else 1
        number = f"<letter-{one.number + 1}@brackwater.example>"
        answer = f"In-Reply-To: {before}\nReferences: {before}\n" if one.number % 5 == 0 and before else ""
        quoted = "\n\n> I have yours, and thank you for it.\n" if answer else "\n"
        rows.append(
            f"From letters@brackwater.example Thu Jan  1 00:00:00 1970\nMessage-ID: {number}\n{answer}"
            f"Date: {day} {months[month - 1]} {pieces[0]} 12:00:00 +0000\nFrom: {_address(one.sender)}\nTo: {_address(one.recipient)}\n"
            f"Subject: {'Re: ' if answer else ''}Letter {one.number + 1}\nMIME-Version: 1.0\nContent-Type: text/plain; charset=utf-8\n"
            f"Content-Transfer-Encoding: 8bit\n\n{one.text}\n{quoted}-- \nTranscribed for the Brackwater Record Society\n\n"
        )
        before = number
    return "".join(rows)


def _address(name: str) -> str:
    plain = "".join(ch for ch in name.lower() if ch.isalpha())
    return f'"{name}" <{plain}@brackwater.example>'
