"""How near terms stand in a text: in what they are together, or how many words apart."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from umber_knot.corpus.model import Floats, Ints
from umber_knot.reconcile.decisions import Resolution
from umber_knot.relate.things import Bools
from umber_knot.text.parameters import FIELDS
from umber_knot.text.result import HEADING, Terms


class Named(NamedTuple):
    """Mentions of terms that count: their places in the texts, and the entity of each; shape (mentions,)."""

    record: Ints
    paragraph: Ints
    sentence: Ints
    place: Ints
    length: Ints
    item: Ints


def named(terms: Terms, resolution: Resolution, keep: Bools, fields: Sequence[str] = FIELDS) -> Named:
    """The mentions in some records and fields, with what each stands for."""
    form = terms.form
    if resolution.moved:  # forms that splits gave to some records
        form = form.copy()
        for (record, old), new in resolution.moved.items():
            form[(terms.record == record) & (terms.form == old)] = new
    here = keep[terms.record] & np.isin(terms.field, [FIELDS.index(name) for name in fields])
    columns = (terms.record, terms.paragraph, terms.sentence, terms.place, terms.length, resolution.entity[form])
    return Named(*(column[here] for column in columns))


def together(mentions: Named, within: str) -> tuple[Ints, Ints, Ints]:
    """(hub, item, record) of every mention in a record, paragraph or sentence, each hub's number rising with its place;
    a heading counts in each of its paragraphs, and in no sentence."""
    record, paragraph, sentence, item = mentions.record, mentions.paragraph, mentions.sentence, mentions.item
    if within == "record":
        return record, item, record
    if within == "sentence":
        inside = sentence != HEADING
        record, paragraph, sentence, item = record[inside], paragraph[inside], sentence[inside], item[inside]
    new = np.r_[False, (np.diff(record) != 0) | (np.diff(paragraph) != 0)]
    if within == "sentence":
        new |= np.r_[False, np.diff(sentence) != 0]
    return np.cumsum(new[: len(item)]).astype(np.int32), item, record


def apart(mentions: Named, most: int) -> tuple[Ints, Ints, Ints, Floats]:
    """(one, other, record, 1/d) of each pair of different items at most so many words apart in a paragraph, ``one`` the
    lower number; d is 1 for what stands side by side."""
    inside = mentions.sentence != HEADING
    record, paragraph, place, length, item = (
        column[inside]
        for column in (mentions.record, mentions.paragraph, mentions.place, mentions.length, mentions.item)
    )
    found = []
    for step in range(1, min(most, max(len(item) - 1, 0)) + 1):
        near = (record[step:] == record[:-step]) & (paragraph[step:] == paragraph[:-step])
        distance = place[step:] - (place[:-step] + length[:-step] - 1)
        near &= (distance <= most) & (item[step:] != item[:-step])
        at = np.flatnonzero(near)
        pair = np.sort(np.stack([item[at], item[at + step]]), axis=0)
        found.append((*pair, record[at], 1.0 / distance[at]))
    if not found:
        none = np.zeros(0, np.int32)
        return none, none, none, np.zeros(0)
    one, other, where, weight = map(np.concatenate, zip(*found))
    return one, other, where, weight
