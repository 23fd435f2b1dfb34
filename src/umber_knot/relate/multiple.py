"""Several ties between the same two items: summed, the first alone, or each kept; by relation where a column tells them
apart; and ties of an item to itself."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from umber_knot.corpus.model import Corpus, Floats, Ints
from umber_knot.relate.pairs import Summed, dated, late
from umber_knot.relate.parameters import Relate
from umber_knot.relate.things import Bools
from umber_knot.relate.valued import no_column


class Relations(NamedTuple):
    """Which relation each record's ties are of, an index into ``names`` ("" where it says none), and how much a tie of it
    weighs."""

    names: tuple[str, ...]
    of: Ints
    weight: Floats

    def shares(self) -> Floats:
        """What each record's ties weigh by their relation, shape (records,)."""
        return self.weight[self.of] if len(self.of) else np.ones(0)


def relations(corpus: Corpus, sentence: Relate) -> Relations:
    """The relations of a sentence; one without a name where it tells none apart."""
    if not sentence.relation:
        return Relations(("",), np.zeros(len(corpus), np.int8), np.ones(1))
    if sentence.relation not in corpus.mentions:
        raise no_column(sentence.relation, corpus)
    m = corpus.of(sentence.relation)
    first = np.full(len(corpus), -1)
    first[m.record[::-1]] = m.form[::-1]
    used = np.unique(first)
    names = tuple(m.forms[f] if f >= 0 else "" for f in used.tolist())
    factor = sentence.relation_weights()
    return Relations(
        names, np.searchsorted(used, first).astype(np.int16), np.array([factor.get(name, 1.0) for name in names])
    )


def loops(corpus: Corpus, record: Ints, item: Ints, sentence: Relate) -> tuple[Ints, Ints]:
    """(record, item) of the ties of network files whose two ends are one item, however they are spelt."""
    if sentence.loops != "kept":
        return record[:0], item[:0]
    ties = np.zeros(len(corpus), np.bool_)
    ties[corpus.type.containing("tie")] = True
    ties &= corpus.type.lengths() == len("tie")
    alone = np.bincount(record, minlength=len(corpus)) == 1
    here = (ties & alone)[record]
    return record[here], item[here]


def gathered(
    source: Ints, target: Ints, record: Ints, share: Floats, corpus: Corpus, relation: Ints, how: str
) -> tuple[Summed, Ints]:
    """Ties of the pairs that records make, sorted, those of one pair and relation as ``how`` says (``summed``, ``first``,
    ``kept``); and the relation of each."""
    order = np.lexsort((record, relation, target, source))
    keys = [column[order] for column in (source, target, relation)] + ([record[order]] if how == "kept" else [])
    new = np.zeros(len(order), np.bool_)
    new[:1] = True
    for key in keys:
        new[1:] |= key[1:] != key[:-1]
    starts = np.flatnonzero(new)
    if not len(starts):
        none = np.zeros(0, np.int32)
        return Summed(none, none, none, np.zeros(0), none, none), none
    own, where = share[order], record[order]
    ties = Summed(
        source[order][starts].astype(np.int32),
        target[order][starts].astype(np.int32),
        np.diff(np.r_[starts, len(order)]).astype(np.int32),
        own[starts] if how == "first" else np.add.reduceat(own, starts),
        dated(np.minimum.reduceat(late(corpus.begin)[where], starts)),
        np.maximum.reduceat(corpus.end[where], starts).astype(np.int32),
    )
    return ties, relation[order][starts].astype(np.int16)


def merged(one: Summed, other: Summed) -> Summed:
    """Two lists of ties that share no pair, as one in order."""
    columns = [np.concatenate(pair) for pair in zip(one, other)]
    order = np.lexsort((columns[1], columns[0]))
    return Summed(*(column[order] for column in columns))


def proper(source: Ints, target: Ints, sentence: Relate) -> Bools:
    """Which pairs stay where ties of an item to itself are left out."""
    return (source != target) | (sentence.loops == "kept")
