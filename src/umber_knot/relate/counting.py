"""Counting ties of every kind (METHODS, "Ties"): each way gives incidences of records and items, and summed pairs.

Full counting adds 1 for a pair; fractional counting shares a record out: 1/(n − 1) among n items that share it (Newman
2001), 1/(n·m) between n items on one side and m on the other.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from umber_knot.corpus.model import Corpus, Floats, Ints
from umber_knot.corpus.picking import pick
from umber_knot.gather.references import Matches
from umber_knot.reconcile.decisions import Resolution
from umber_knot.relate.citing import citations, works
from umber_knot.relate.multiple import Relations, gathered, loops, merged, proper, relations
from umber_knot.relate.nearness import apart, named, together
from umber_knot.relate.pairs import UNDATED, Summed, across, dated, late, summed, within
from umber_knot.relate.parameters import SHARED, Relate
from umber_knot.relate.result import Counted, Step
from umber_knot.relate.roles import of_kind, sides
from umber_knot.relate.things import Bools, Things, distinct, mentioned, things
from umber_knot.relate.valued import apart as differing
from umber_knot.relate.valued import near, numeric, same, values_of
from umber_knot.text.result import Terms

#: The ties of a counted network, as ``Summed`` has them.
TIES = ("source", "target", "count", "weight", "tie_first", "tie_last")


@dataclass
class _Count:
    """What is counted on: ``keep`` marks the records that pass, ``steps`` say what was left out."""

    corpus: Corpus
    known: Mapping[str, Resolution]
    matches: Matches | None
    terms: Terms | None
    sentence: Relate
    things: Things
    keep: Bools
    steps: list[Step]
    relations: Relations

    def __post_init__(self) -> None:
        self.weight = self.corpus.weight * self.relations.shares()

    # -- incidences

    def mentioned(self, kind: str, *roles: str) -> tuple[Ints, Ints]:
        """Records that pass and the entities of a kind in them."""
        record, item = mentioned(self.corpus, kind, self.known, *roles)
        inside = self.keep[record]
        return record[inside], item[inside]

    def not_too_many(self, record: Ints) -> Bools:
        """Leave out records with more than the most incidences; whether each incidence stays."""
        most, before = self.sentence.max_per_record, int(self.keep.sum())
        if not most:
            return np.ones(len(record), np.bool_)
        small = np.bincount(record, minlength=len(self.corpus)) <= most
        self.keep &= small
        self.steps.append((f"more than {most}", before, int(self.keep.sum()), "records"))
        return small[record]

    def days(self, record: Ints) -> tuple[Ints, Ints]:
        return self.corpus.begin[record], self.corpus.end[record]

    @property
    def full(self) -> bool:
        return self.sentence.counting == "full"

    # -- ways

    def shared(self, record: Ints, item: Ints) -> Counted:
        """Items tied by the records that hold both."""
        stays = self.not_too_many(record)
        record, item = record[stays], item[stays]
        if self.sentence.apart:
            i, j = across(record, record)
            ahead = item[i] < item[j]
            i, j = i[ahead], j[ahead]
            where, alone = loops(self.corpus, record, item, self.sentence)
            size = np.bincount(record, minlength=len(self.corpus))
            every = np.r_[record[i], where]
            share = self.weight[every] / (1.0 if self.full else np.maximum(size[every] - 1, 1))
            return self._directed(record, item, np.r_[item[i], alone], np.r_[item[j], alone], share, every)
        counted = self._by_hubs(record, item, record, item, self.weight[record], *self.days(record))
        where, alone = loops(self.corpus, record, item, self.sentence)
        if not len(alone):
            return counted
        own = summed(alone, alone, self.weight[where], *self.days(where), len(self.things))
        tied = Summed(*(getattr(counted, name) for name in TIES))
        ties: dict[str, Any] = dict(zip(TIES, merged(tied, own)))
        strength = counted.strength + 2 * np.bincount(own.source, own.weight, len(self.things))
        return replace(counted, **ties, strength=strength)

    def cited_together(self) -> Counted:
        """Items tied by the records that cite both; an item's records are those that cite it."""
        kind = self.sentence.of
        if kind == "reference":
            return self.shared(*self._works())
        citing, cited = citations(self.corpus, self._matches()).among(self.keep)
        if kind == "record":
            return self.shared(citing, cited)
        record, item = mentioned(self.corpus, kind, self.known, *of_kind(kind, self.sentence))
        link, of = across(cited, record)
        return self.shared(*distinct(citing[link], item[of]))

    def coupled(self) -> Counted:
        """Items tied by the works that both cite; the references of an item's records are pooled."""
        record, item = self._own()
        citing, work = self._works()
        one, at = across(record, citing)
        hub, coupled = distinct(work[at], item[one])
        undated = np.full(len(hub), UNDATED)
        return self._by_hubs(record, item, hub, coupled, np.ones(len(hub)), undated, undated)

    def citing(self) -> Counted:
        """Items tied to those that their records cite."""
        record, item = self._own()
        found = citations(self.corpus, self._matches())
        itself = int((self.keep[found.citing] & (found.citing == found.cited)).sum())
        citing, cited = found.among(self.keep)
        citing, cited = citing[self.keep[cited]], cited[self.keep[cited]]
        if itself:
            self.steps.append(("cites itself", len(citing) + itself, len(citing), "citations"))
        year = self.corpus.year
        if later := int(((year[citing] > 0) & (year[cited] > year[citing])).sum()):
            self.steps.append((f"{later:,} cite a later year, and stay", len(citing), len(citing), "citations"))
        size = np.bincount(record, minlength=len(self.corpus))
        link, i = across(citing, record)
        second, j = across(cited[link], record)
        link, i = link[second], i[second]
        share = np.ones(len(link)) if self.full else 1.0 / (size[citing[link]] * size[cited[link]])
        return self._directed(record, item, item[i], item[j], share, citing[link])

    def written(self) -> Counted:
        """Senders tied to recipients, a tie a letter."""
        kind = self.sentence.of
        sending, receiving = sides(self.sentence)
        record, item = self.mentioned(kind, *sending, *receiving)
        stays = self.not_too_many(record)
        record, item = record[stays], item[stays]
        return self._sides(record, item, self.mentioned(kind, *sending), self.mentioned(kind, *receiving))

    def concept(self) -> Counted:
        """Terms tied where they stand together, or by how near they stand."""
        assert self.terms is not None
        s = self.sentence
        mentions = named(self.terms, self.known["term"], self.keep, s.terms)
        record, item = distinct(mentions.record, mentions.item)
        stays = self.not_too_many(record)
        record, item = record[stays], item[stays]
        inside = self.keep[mentions.record]
        mentions = type(mentions)(*(column[inside] for column in mentions))
        if s.window:
            one, other, where, weight = apart(mentions, s.window)
            ties = summed(one, other, weight * self.weight[where], *self.days(where), len(self.things))
            diagonal = np.bincount(mentions.item, minlength=len(self.things))
            return self._counted(record, item, ties, self._strength(ties), diagonal)
        hub, of, where = together(mentions, s.within)
        home = np.zeros(int(hub.max(initial=-1)) + 1, np.int32)
        home[hub] = where
        hub, of = distinct(hub, of)
        return self._by_hubs(record, item, hub, of, self.weight[home[hub]], *self.days(home[hub]))

    def alike(self) -> Counted:
        """Items tied by how alike they are in a column."""
        s, n = self.sentence, len(self.things)
        own = of_kind(s.of, s)
        record, item = self.mentioned(s.of, *own)
        of, value, _ = values_of(self.corpus, s.of, self.known, s.column, self.keep)
        if s.compared == "same":
            ties = same(of, value, n)
        else:
            items, number, words, many = numeric(of, value, self.corpus.of(s.column).forms)
            if words:
                values = len(np.unique(value))
                self.steps.append((f"values of {s.column} that are no numbers", values, values - words, "values"))
            if many:
                said = f"{many:,} have several numbers in {s.column}, and count by their mean"
                self.steps.append((said, len(items), len(items), "items"))
            if s.compared == "within":
                ties = near(items, number, s.tolerance)
            else:
                ties, without = differing(items, number, s.compared)
                if without:
                    every = without + len(ties.weight)
                    self.steps.append(("pairs of no weight", every, len(ties.weight), "ties"))
        return self._counted(record, item, ties, self._strength(ties), np.bincount(item, minlength=n))

    def two_mode(self) -> Counted:
        """Items of two kinds tied by the records that name both; or those of one by what they share of the other."""
        s = self.sentence
        one, other = (self.mentioned(kind, *of_kind(kind, s)) for kind in (s.of, s.second))
        stays = self.not_too_many(np.concatenate([one[0], other[0]]))
        first, second = stays[: len(one[0])], stays[len(one[0]) :]
        one, other = (one[0][first], one[1][first]), (other[0][second], other[1][second])
        if s.project:
            own, hubs = (one, other) if s.project == s.of else (other, one)
            i, j = across(own[0], hubs[0])
            hub, item = distinct(hubs[1][j], own[1][i])
            undated = np.full(len(hub), UNDATED)
            return self._by_hubs(*own, hub, item, np.ones(len(hub)), undated, undated)
        right = other[0], other[1] + np.int32(self.things.start[1])
        record, item = distinct(np.concatenate([one[0], right[0]]), np.concatenate([one[1], right[1]]))
        return self._sides(record, item, one, right)

    # -- parts of them

    def _own(self) -> tuple[Ints, Ints]:
        """The items of the records that pass."""
        kind = self.sentence.of
        record, item = self.mentioned(kind, *of_kind(kind, self.sentence))
        stays = self.not_too_many(record)
        return record[stays], item[stays]

    def _matches(self) -> Matches:
        assert self.matches is not None
        return self.matches

    def _works(self) -> tuple[Ints, Ints]:
        record, work = works(self.corpus, self._matches(), self.known["reference"])
        inside = self.keep[record]
        return record[inside], work[inside]

    def _by_hubs(
        self, record: Ints, item: Ints, hub: Ints, shared: Ints, weight: Floats, begin: Ints, end: Ints
    ) -> Counted:
        """Items tied by the hubs that hold both; ``hub`` and ``shared`` are sorted, ``weight`` is each hub's own."""
        size = np.bincount(hub)[hub] if len(hub) else hub
        share = weight if self.full else weight / np.maximum(size - 1, 1)
        n, tied = len(self.things), size >= 2
        own = (size[tied] - 1.0) * weight[tied] if self.full else weight[tied]
        return self._counted(
            record,
            item,
            within(hub, shared, share, begin, end, n),
            np.bincount(shared[tied], own, n).astype(np.float64),
            np.bincount(shared, minlength=n),
        )

    def _sides(self, record: Ints, item: Ints, one: tuple[Ints, Ints], other: tuple[Ints, Ints]) -> Counted:
        """The items on one side of a record tied to those on the other."""
        i, j = across(one[0], other[0])
        where = one[0][i]
        sizes = [np.bincount(side[0], minlength=len(self.corpus))[where] for side in (one, other)]
        share = self.weight[where] / (1.0 if self.full else sizes[0] * sizes[1])
        return self._directed(record, item, one[1][i], other[1][j], share, where)

    def _directed(self, record: Ints, item: Ints, source: Ints, target: Ints, share: Floats, where: Ints) -> Counted:
        """Ties of pairs that records make, each with its share."""
        stays = proper(source, target, self.sentence)
        source, target, where, share = source[stays], target[stays], where[stays], share[stays]
        if not stays.all():
            self.steps.append(("of an item to itself", len(stays), int(stays.sum()), "ties"))
        diagonal = np.bincount(item, minlength=len(self.things))
        if not self.sentence.apart:
            ties = summed(source, target, share, *self.days(where), len(self.things))
            return self._counted(record, item, ties, self._strength(ties), diagonal)
        found = self.relations
        ties, relation = gathered(source, target, where, share, self.corpus, found.of[where], self.sentence.parallel)
        counted = self._counted(record, item, ties, self._strength(ties), diagonal)
        if not self.sentence.relation:
            return counted
        return replace(counted, relations=found.names, relation=relation)

    def _strength(self, ties: Summed) -> Floats:
        n = len(self.things)
        ends = np.bincount(ties.source, ties.weight, n), np.bincount(ties.target, ties.weight, n)
        return (ends[0] + ends[1]).astype(np.float64)

    def _counted(self, record: Ints, item: Ints, ties: Summed, strength: Floats, diagonal: Ints) -> Counted:
        n = len(self.things)
        size = np.bincount(record, minlength=len(self.corpus))[record] if len(record) else record
        return Counted(
            self.things,
            self.sentence.directed,
            record,
            item,
            size.astype(np.int32),
            np.bincount(item, minlength=n).astype(np.int32),
            diagonal.astype(np.int32),
            *ties,
            strength,
            tuple(self.steps),
        )


def count(
    corpus: Corpus,
    resolutions: Mapping[str, Resolution],
    sentence: Relate,
    matches: Matches | None = None,
    terms: Terms | None = None,
) -> Counted:
    """The counted network of a sentence, before items are left out.

    ``resolutions`` by kind must hold ``sentence.reconciled``; ``matches`` is needed where ties come from references,
    ``terms`` where items are terms.
    """
    keep, steps = np.ones(len(corpus), bool), list[Step]()
    if sentence.years:
        first, last = sentence.years
        keep = (corpus.year >= first) & (corpus.year <= last)
        steps.append((f"not from {first} to {last}, or undated", len(corpus), int(keep.sum()), "records"))
    if sentence.where:
        before = int(keep.sum())
        fits = np.zeros(len(corpus), bool)
        fits[pick(corpus, sentence.where)] = True
        keep &= fits
        steps.append((f"not {sentence.where}", before, int(keep.sum()), "records"))
    items = things(corpus, sentence.kinds, resolutions, terms)
    found = relations(corpus, sentence)
    for name, weight in zip(found.names, found.weight.tolist()):
        if not weight:
            before, keep = int(keep.sum()), keep & (found.of != found.names.index(name))
            steps.append((f"of the relation {name}", before, int(keep.sum()), "records"))
    on = _Count(corpus, resolutions, matches, terms, sentence, items, keep, steps, found)
    if sentence.tie in SHARED:
        return on.shared(*on.mentioned(sentence.of, *of_kind(sentence.of, sentence)))
    ways = {
        "citation": on.citing,
        "co-citation": on.cited_together,
        "coupling": on.coupled,
        "correspondence": on.written,
        "concept": on.concept,
        "similarity": on.alike,
        "two-mode": on.two_mode,
    }
    counted = ways[sentence.tie]()
    return counted if sentence.direction == "kept" else turned(counted, sentence)


def turned(counted: Counted, sentence: Relate) -> Counted:
    """The counted network with its ties the other way round, or without a direction: both ways become one tie."""
    own = replace(sentence, direction="kept").directed
    if not own:
        return counted
    ends = counted.target, counted.source
    if sentence.direction == "ignored":
        ends = np.minimum(*ends), np.maximum(*ends)
    n = len(counted.things)
    order, key = np.lexsort(ends[::-1]), ends[0].astype(np.int64) * n + ends[1]
    new = np.r_[True, np.diff(key[order]) != 0][: len(order)]
    starts = np.flatnonzero(new | sentence.apart)  # ties that stand beside each other go on doing so
    first = late(counted.tie_first)[order]
    return replace(
        counted,
        directed=sentence.directed,
        relation=counted.relation[order] if len(counted.relation) else counted.relation,
        source=ends[0][order][starts],
        target=ends[1][order][starts],
        count=np.add.reduceat(counted.count[order], starts) if len(starts) else counted.count,
        weight=np.add.reduceat(counted.weight[order], starts) if len(starts) else counted.weight,
        tie_first=dated(np.minimum.reduceat(first, starts)) if len(starts) else counted.tie_first,
        tie_last=np.maximum.reduceat(counted.tie_last[order], starts) if len(starts) else counted.tie_last,
    )
