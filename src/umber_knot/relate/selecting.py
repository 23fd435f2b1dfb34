"""From the counted network to the one that is shown: items and ties left out in the fixed order, weights normalised."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from umber_knot.corpus.model import Corpus, Decision, Floats, Ints, named
from umber_knot.network.model import Attribute, Network, components, days
from umber_knot.network.picking import items_fitting, ties_fitting
from umber_knot.reconcile.decisions import Resolution
from umber_knot.relate.backbone import disparity, strongest
from umber_knot.relate.changes import items_changed, ties_changed, with_made
from umber_knot.relate.pairs import UNDATED, dated, late
from umber_knot.relate.parameters import Relate
from umber_knot.relate.result import Counted, Filtered, Related
from umber_knot.relate.things import Bools
from umber_knot.relate.valued import attribute, no_column

THRESHOLDS = 400  # weights that a curve is told at


def related(
    corpus: Corpus,
    counted: Counted,
    sentence: Relate,
    changes: Sequence[Decision] = (),
    known: Mapping[str, Resolution] | None = None,
) -> Related:
    """The network of a sentence with its changes by hand and the columns joined to it, and how it came about; for those
    ``known`` are the resolutions of its kinds."""
    whole = with_made(counted, changes)
    things, joined, unmatched = whole.things, {}, list[str]()
    for name in sentence.attributes:
        if name not in corpus.mentions:
            raise no_column(name, corpus)
        column, left = attribute(corpus, things.kinds, things.start, len(things), known or {}, name)
        joined[name] = column
        unmatched += left
    filtered = select(corpus, whole, sentence, changes, joined)
    return Related(whole, replace(filtered, unmatched=tuple(dict.fromkeys(unmatched))))


def select(
    corpus: Corpus,
    counted: Counted,
    sentence: Relate,
    changes: Sequence[Decision] = (),
    columns: Mapping[str, Attribute] | None = None,
) -> Filtered:
    """Leave out items and ties in the fixed order: min_records, set aside, best, a filter of items, items by hand,
    normalise, min_weight, a filter of ties, top_k, backbone, ties by hand, keep, around."""
    words = named(counted.things.kinds)
    steps = list(counted.steps)
    seen = counted.records > 0
    kept = counted.records >= max(1, sentence.min_records)
    if sentence.min_records > 1:
        steps.append((f"fewer than {sentence.min_records} records", int(seen.sum()), int(kept.sum()), words))
    present = kept & ~counted.things.aside
    if present.sum() < kept.sum():
        steps.append(("set aside", int(kept.sum()), int(present.sum()), words))
    merit = counted.things.merit
    if sentence.best and (terms := present & ~np.isnan(merit) if len(merit) else present[:0]).sum() > sentence.best:
        ranked = np.flatnonzero(terms)
        worse = ranked[np.argsort(-merit[ranked], kind="stable")][sentence.best :]
        steps.append((f"not among the {sentence.best} best terms", int(terms.sum()), sentence.best, "terms"))
        present[worse] = False
    whole = replace(_network(corpus, counted), item_columns=dict(columns or {}))
    if sentence.items:
        fits = items_fitting(whole, sentence.items) & present
        steps.append((f"not {sentence.items}", int(present.sum()), int(fits.sum()), words))
        present = fits
    done, unapplied = items_changed(counted, present, changes)
    steps += done
    network = whole.kept(present)
    if sentence.normalise != "none":
        ties = present[counted.source] & present[counted.target]
        network = replace(network, weight=normalised(counted, sentence.normalise, ties))
    by_weight = _by_weight(network)
    if sentence.min_weight > 0:
        heavy = network.weight >= sentence.min_weight
        steps.append((f"ties lighter than {sentence.min_weight:g}", network.ties, int(heavy.sum()), "ties"))
        network = network.thinned(heavy)
    if sentence.ties:
        fits = ties_fitting(network, sentence.ties)
        steps.append((f"not {sentence.ties}", network.ties, int(fits.sum()), "ties"))
        network = network.thinned(fits)
    if sentence.top_k:
        strong = strongest(network, sentence.top_k)
        steps.append((f"not among the {sentence.top_k} strongest of an item", network.ties, int(strong.sum()), "ties"))
        network = network.thinned(strong)
    if sentence.backbone > 0:
        unlikely = disparity(network) < sentence.backbone
        steps.append((f"as likely by chance as {sentence.backbone:g}", network.ties, int(unlikely.sum()), "ties"))
        network = network.thinned(unlikely)
    network, done, rest = ties_changed(network, changes)
    steps += done
    part = components(len(network), network.source, network.target)
    if sentence.keep == "connected" and len(network):
        steps.append(("not in the largest part", len(network), int((part == 0).sum()), words))
        network, part = network.kept(part == 0), part[part == 0]
    if sentence.around:
        near = surroundings(network, sentence.around, sentence.steps)
        these = " or ".join(sentence.around[:3]) + (" …" if len(sentence.around) > 3 else "")
        said = f"not within {sentence.steps} step{'s' * (sentence.steps != 1)} of {these}"
        steps.append((said, len(network), int(near.sum()), words))
        network = network.kept(near)
        part = components(len(network), network.source, network.target)
    allowed = ~counted.things.aside
    top = int(counted.records[allowed].max(initial=1))
    thresholds = np.arange(1, top + 1)
    both = np.minimum(counted.records[counted.source], counted.records[counted.target])
    both = both[allowed[counted.source] & allowed[counted.target]]
    return Filtered(
        network,
        part,
        tuple(steps),
        _at_least(counted.records[allowed], thresholds),
        _at_least(both, thresholds),
        *by_weight,
        int((corpus.year == 0).sum()),
        (*unapplied, *rest),
    )


def surroundings(network: Network, names: Sequence[str], steps: int) -> Bools:
    """Which items are named so, by form or label, or reached from one of them in so many steps, either way along ties;
    shape (items,)."""
    wanted = set(names)
    near = np.array([f in wanted or t in wanted for f, t in zip(network.form, network.label)], np.bool_)
    for _ in range(steps):
        reached = near.copy()
        reached[network.target[near[network.source]]] = True
        reached[network.source[near[network.target]]] = True
        if (reached == near).all():
            break
        near = reached
    return near


def _by_weight(network: Network) -> tuple[Floats, Ints, Ints]:
    """For up to ``THRESHOLDS`` weights, how many items would be tied and how many ties remain at least so heavy."""
    if not network.ties:
        return np.zeros(0), np.zeros(0, np.int32), np.zeros(0, np.int32)
    ordered = np.sort(network.weight)
    new = np.flatnonzero(np.r_[True, ordered[1:] != ordered[:-1]])
    if len(new) > THRESHOLDS:
        new = new[np.linspace(0, len(new) - 1, THRESHOLDS).astype(int)]
    at = ordered[new]
    heaviest = np.full(len(network), -np.inf)
    np.maximum.at(heaviest, network.source, network.weight)
    np.maximum.at(heaviest, network.target, network.weight)
    return at, _at_least(heaviest, at), (len(ordered) - new).astype(np.int32)


def _at_least(values: NDArray[Any], thresholds: NDArray[Any]) -> Ints:
    """How many values reach each threshold."""
    ordered = np.sort(values)
    return (len(ordered) - np.searchsorted(ordered, thresholds)).astype(np.int32)


def normalised(counted: Counted, how: str, ties: Bools) -> Floats:
    """Weights of some of the counted ties; s is the diagonal, k the counted strength of an item, T the sum of all strengths.

    association c·T/(k_i·k_j) (Zitt, Bassecoulard & Okubo 2000), cosine c/√(s_i·s_j) (Salton & McGill 1983), Jaccard
    c/(s_i + s_j − c), inclusion c/min(s_i, s_j), equivalence c²/(s_i·s_j) (Callon et al. 1991).
    """
    c, source, target = counted.weight[ties], counted.source[ties], counted.target[ties]
    if how == "association":
        k = counted.strength
        return c * k.sum() / (k[source] * k[target])
    s = counted.diagonal.astype(np.float64)
    s_i, s_j = s[source], s[target]
    if how == "cosine":
        return c / np.sqrt(s_i * s_j)
    if how == "jaccard":
        return c / (s_i + s_j - c)
    if how == "inclusion":
        return c / np.minimum(s_i, s_j)
    if how == "equivalence":
        return c * c / (s_i * s_j)
    raise ValueError(f"no normalisation is called {how!r}")


def _network(corpus: Corpus, counted: Counted) -> Network:
    """Every thing as an item; a record dates itself, anything else is dated by its records."""
    whole, n = counted.things, len(counted.things)
    item, record = counted.item, counted.record
    if whole.kinds == ("record",):
        item = record = np.arange(min(n, len(corpus)))  # what was made by hand is no record
    first, last = np.full(n, np.iinfo(np.int32).max, np.int32), np.full(n, UNDATED, np.int32)
    np.minimum.at(first, item, late(corpus.begin[record]))
    np.maximum.at(last, item, corpus.end[record])
    year = corpus.year[record]
    known = year > 0
    with np.errstate(invalid="ignore", divide="ignore"):
        mean = np.bincount(item[known], year[known], n) / np.bincount(item[known], minlength=n)
    return Network(
        kinds=whole.kinds,
        kind_code=whole.code(),
        label=whole.label,
        form=whole.form,
        entity=whole.entity(),
        records=counted.records,
        citations=np.bincount(item, corpus.citations[record], n).astype(np.int32),
        first=days(dated(first)),
        last=days(last),
        mean_year=mean,
        source=counted.source,
        target=counted.target,
        weight=counted.weight,
        count=counted.count,
        tie_first=days(counted.tie_first),
        tie_last=days(counted.tie_last),
        directed=counted.directed,
        relations=counted.relations,
        relation_code=counted.relation,
    )
