"""From the columns of several sources to the corpus: the same record found twice is joined, excluded ones left out.

Two records are the same when they share an identifier, or agree in what they say (see ``joining``); a joined record takes each field from the finding that gives most. Decisions on records (kind ``record``,
forms are anchors) keep apart, join by hand, or set aside with a reason.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from umber_knot.corpus.anchors import own_name
from umber_knot.corpus.columns import NUMBERS, TEXTS, Columning, Columns
from umber_knot.corpus.joining import Judged, judge
from umber_knot.corpus.model import (
    KINDS,
    Corpus,
    Decision,
    Doubtful,
    Findings,
    Flow,
    FormTable,
    Ints,
    Known,
    Mentions,
    Places,
    RawRecord,
    Source,
)
from umber_knot.corpus.picking import pick
from umber_knot.corpus.texts import Texts


def corpus_of(harvests: Iterable[tuple[Source, Sequence[RawRecord]]], decisions: Sequence[Decision] = ()) -> Corpus:
    """A corpus straight from records, without a study file."""
    forms = {kind: FormTable() for kind in KINDS}
    sources: list[Source] = []
    columns = []
    for source, records in harvests:
        taking = Columning(forms)
        taking.take(records)
        sources.append(replace(source, anchor=own_name(source.name, [s.anchor for s in sources])))
        columns.append(taking.done())
    starts = np.cumsum([1, *map(len, columns)])[:-1]
    return assemble(sources, columns, starts.tolist(), {k: Texts.of(t.forms) for k, t in forms.items()}, decisions)


def assemble(
    sources: Sequence[Source],
    columns: Sequence[Columns],
    first: Sequence[int],
    forms: Mapping[str, Texts],
    decisions: Sequence[Decision] = (),
) -> Corpus:
    """The corpus of some sources, in their order; ``first`` is the number of each source's first record."""
    sizes = [len(c) for c in columns]
    offset = np.cumsum([0, *sizes])
    total = int(offset[-1])
    fields: dict[str, Any] = {name: _stack([c.numbers[name] for c in columns], kind) for name, kind in NUMBERS.items()}
    fields.pop("likeness")
    fields |= {name: Texts.joined([c.texts[name] for c in columns]) if columns else Texts.of(()) for name in TEXTS}
    shift = np.repeat(np.array([f - o for f, o in zip(first, offset)], np.int32), sizes)
    whole = Corpus(
        id=np.arange(total, dtype=np.int32) + shift,
        source=np.repeat(np.arange(len(columns), dtype=np.int32), sizes),
        **fields,
        mentions={kind: _mentions(columns, offset, kind, forms.get(kind, Texts.of(()))) for kind in KINDS},
        sources=tuple(sources),
        also=Findings.none(),
        known=_known(columns, offset),
        flow=Flow(total),
        doubtful=Doubtful.none(),
    )
    identity = [
        np.concatenate([np.zeros(0, np.int64), *parts])
        for parts in ([c.identity[0] + o for c, o in zip(columns, offset.tolist())], [c.identity[1] for c in columns])
    ]
    on_records = [d for d in decisions if d.kind == "record"]
    named = whole.rows_of(t for d in on_records if d.scope != "rule" for t in (d.form, d.preferred) if t)
    judged = judge(whole)
    group, by_identifier = _same(total, (identity[0], identity[1]), whole, judged.same, on_records, named.row)
    kept = _kept(whole, group, by_identifier, on_records, named)
    return replace(kept, doubtful=_doubtful(judged, whole, kept, group, on_records, named.row))


def _known(columns: Sequence[Columns], offset: NDArray[Any]) -> Known:
    parts: list[Any] = [
        (c.known.record + np.int32(o), c.known.form, c.known.text) for c, o in zip(columns, offset.tolist())
    ]
    if not parts:
        return Known.of([])
    record, form = (np.concatenate([known[k] for known in parts]).astype(np.int32) for k in (0, 1))
    return Known(record, form, Texts.joined([known[2] for known in parts]))


def _stack(parts: Sequence[NDArray[Any]], kind: str) -> NDArray[Any]:
    return np.concatenate([np.zeros(0, kind), *parts]).astype(np.dtype(kind).newbyteorder("="))


def _mentions(columns: Sequence[Columns], offset: NDArray[Any], kind: str, forms: Texts) -> Mentions:
    parts = [c.mentions[kind] for c in columns]
    record = _stack([p[0] + np.int32(o) for p, o in zip(parts, offset)], "i4")
    role = np.zeros(0, np.int8)
    if any(len(p[2]) for p in parts):
        role = _stack([p[2] if len(p[2]) else np.zeros(len(p[0]), np.int8) for p in parts], "i1")
    return Mentions(forms, record, _stack([p[1] for p in parts], "i4"), role)


# -- which records are one


def _same(
    n: int,
    identity: tuple[NDArray[Any], NDArray[np.int64]],
    corpus: Corpus,
    alike: NDArray[np.int64],
    decisions: Sequence[Decision],
    place: Mapping[str, int],
) -> tuple[Ints, NDArray[np.bool_]]:
    """Each record's group, named by its first record; and whether an identifier alone joined it there."""
    pairs = [_runs(*identity)]
    if decisions:
        by_hand = [
            (place[d.form], place[d.preferred])
            for d in decisions
            if d.decision == "merge" and d.form in place and d.preferred in place
        ]
        pairs.append(np.array(by_hand, np.int64).reshape(-1, 2))
    group = _components(n, np.concatenate(pairs))
    sure = group.copy()
    named = corpus.doi.lengths() > 0
    if len(alike):
        merged = _components(n, np.concatenate([np.stack([np.arange(n), sure], 1), alike]))
        crowd = np.zeros(n, np.int64)  # groups with a DOI of their own that came together through a third
        heads = np.unique(sure[named])
        np.add.at(crowd, merged[heads], 1)
        group = np.where(crowd[merged] > 1, sure, merged)
    if decisions:
        group = _parted(group, place, decisions)
        sure = np.where(sure == group, sure, np.arange(n))
    return group.astype(np.int32), (sure == group) & (group != np.arange(n))


def _runs(record: NDArray[Any], value: NDArray[np.int64]) -> NDArray[np.int64]:
    """Pairs of neighbouring records among those of equal value."""
    order = np.lexsort((record, value))
    record, value = record[order].astype(np.int64), value[order]
    same = np.flatnonzero(value[1:] == value[:-1])
    return np.stack([record[same], record[same + 1]], 1)


def _components(n: int, pairs: NDArray[np.int64]) -> NDArray[np.int64]:
    """Each record's group under some pairs, named by the lowest record in it."""
    if not len(pairs):
        return np.arange(n)
    from scipy.sparse import coo_array  # here, because the window opens studies too and must start at once
    from scipy.sparse.csgraph import connected_components

    graph = coo_array((np.ones(len(pairs), np.int8), (pairs[:, 0], pairs[:, 1])), shape=(n, n))
    label = connected_components(graph, directed=False)[1]
    lowest = np.full(label.max() + 1, n, np.int64)
    np.minimum.at(lowest, label, np.arange(n))
    return lowest[label]


def _parted(group: NDArray[np.int64], place: Mapping[str, int], decisions: Sequence[Decision]) -> NDArray[np.int64]:
    """Take records that were decided to be apart out of the group they share."""
    for d in decisions:
        a, b = place.get(d.form), place.get(d.preferred)
        if d.decision == "apart" and a is not None and b is not None and group[a] == group[b]:
            head = group[a]
            out = max(a, b)
            members = np.flatnonzero(group == head)
            group[out] = out
            left = members[members != out]
            group[left] = left.min()
    return group


def _doubtful(
    judged: Judged, whole: Corpus, kept: Corpus, group: Ints, decisions: Sequence[Decision], place: Mapping[str, int]
) -> Doubtful:
    """The doubtful pairs among the records that stay, without those that were decided, each pair of records once."""
    if not len(judged.doubtful):
        return Doubtful.none()
    apart = {
        (min(a, b), max(a, b))
        for d in decisions
        if d.decision == "apart" and d.form in place and d.preferred in place
        for a, b in [(int(group[place[d.form]]), int(group[place[d.preferred]]))]
    }
    heads = np.sort(group[judged.doubtful], axis=1)
    row = np.searchsorted(kept.id, whole.id[heads])  # numbers rise with the order of records
    stays: NDArray[np.bool_] = np.all(row < len(kept), axis=1)
    stays[stays] = np.all(kept.id[row[stays]] == whole.id[heads[stays]], axis=1) & (row[stays, 0] != row[stays, 1])
    stays &= np.array([(a, b) not in apart for a, b in heads.tolist()], np.bool_)
    order = np.flatnonzero(stays)
    order = order[np.lexsort((row[order, 1], row[order, 0], -judged.likeness[order]))]
    order = order[np.sort(np.unique(row[order], axis=0, return_index=True)[1])]
    one, other = row[order].astype(np.int32).T
    return Doubtful(one, other, judged.doubt[order], judged.likeness[order])


# -- what stays, and what it takes from where


#: Fields of which a joined record takes the fullest finding's: the longest text, the greatest number.
_FULLEST = ("title", "date", "type", "language", "doi", "volume", "pages", "year", "citations")


def _kept(
    whole: Corpus, group: Ints, by_identifier: NDArray[np.bool_], decisions: Sequence[Decision], named: Places
) -> Corpus:
    """The records that stay, each with the best of its findings, and how it went."""
    n = len(whole)
    head = group == np.arange(n)
    excluded = _excluded(whole, group, decisions, named.row)
    stays = head.copy()
    stays[list(excluded)] = False
    reasons = Counter(excluded.values())
    flow = Flow(
        n,
        int((~head & by_identifier).sum()),
        int((~head & ~by_identifier).sum()),
        tuple(sorted(reasons.items(), key=lambda one: (-one[1], one[0]))),
        tuple(named.why.items()),
    )
    if stays.all():
        return replace(whole, flow=flow)
    rows = np.flatnonzero(stays)
    to = np.full(n, -1, np.int32)
    to[rows] = np.arange(len(rows), dtype=np.int32)
    to = to[group]  # the place of each finding's record among those that stay, −1 where it was excluded
    several = np.flatnonzero(np.bincount(group, minlength=n)[group] > 1)  # findings of records found more than once
    fields: dict[str, Any] = {}
    for name in ("id", "source", "line", "print", "weight", "passages", "entry"):
        fields[name] = _taken(getattr(whole, name), rows)
    for name in _FULLEST:
        column = getattr(whole, name)
        size = column.lengths() if isinstance(column, Texts) else column
        fields[name] = _taken(column, _best(several, group, size)[rows])
    of_date = _best(several, group, whole.date.lengths())[rows]
    fields |= {"begin": whole.begin[of_date], "end": whole.end[of_date]}
    known = to[whole.known.record] >= 0
    return replace(
        whole,
        **fields,
        mentions={kind: _moved(m, several, group, to, n) for kind, m in whole.mentions.items()},
        also=_findings(whole, several[(several != group[several]) & (to[several] >= 0)], to),
        known=Known(
            to[whole.known.record[known]], whole.known.form[known], whole.known.text.take(np.flatnonzero(known))
        ),
        flow=flow,
    )


def _findings(whole: Corpus, others: NDArray[np.int64], to: Ints) -> Findings:
    others = others[np.argsort(to[others], kind="stable")]
    return Findings(to[others], whole.source[others], whole.line[others], whole.id[others], whole.print[others])


def _excluded(whole: Corpus, group: Ints, decisions: Sequence[Decision], place: Mapping[str, int]) -> dict[int, str]:
    """Head row → reason, of the records that were set aside by hand or by a rule (scope ``rule``)."""
    found: dict[int, str] = {}
    for d in (d for d in decisions if d.decision == "aside"):
        if d.scope == "rule":
            rows = pick(whole, d.form)
        else:
            rows = np.array([place[d.form]] if d.form in place else [], np.int64)
        for row in np.unique(group[rows]).tolist():
            found.setdefault(row, d.note or (d.form if d.scope == "rule" else "no reason given"))
    return found


def _best(many: NDArray[np.int64], group: Ints, size: NDArray[Any]) -> NDArray[np.int64]:
    """Head → the finding that gives most of a field, the first among equals; shape (records,)."""
    best = np.arange(len(group))
    order = many[np.lexsort((many, -size[many].astype(np.int64), group[many]))]
    if len(order):
        firsts = np.r_[True, group[order][1:] != group[order][:-1]]
        best[group[order][firsts]] = order[firsts]
    return best


def _taken(column: Any, order: NDArray[np.int64]) -> Any:
    return column.take(order) if isinstance(column, Texts) else column[order]


def _moved(m: Mentions, many: NDArray[np.int64], group: Ints, to: Ints, n: int) -> Mentions:
    """Mentions of what stays, each record's from its best finding, under the new numbers."""
    if not len(m.record):
        return m
    if not len(many):
        size: NDArray[Any] = np.zeros(n)
    else:  # the longer spellings say more than initials do
        letters = np.fromiter(map(len, m.forms), np.int64, len(m.forms))
        size = np.bincount(m.record, letters[m.form], n)
    best = _best(many, group, size)
    kept = (best[group[m.record]] == m.record) & (to[m.record] >= 0)
    record = to[m.record[kept]]
    order = np.argsort(record, kind="stable")
    role = m.role[kept][order] if len(m.role) else m.role
    return Mentions(m.forms, record[order], m.form[kept][order], role)
