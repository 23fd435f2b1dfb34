"""Names of topics: the words that set a topic's records apart from the rest (log-likelihood, Dunning 1993)."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from umber_knot.corpus.model import Corpus, Floats, Ints
from umber_knot.group.result import Topic
from umber_knot.network.model import Network
from umber_knot.reconcile.decisions import Resolution


def log_likelihood(inside: Floats, outside: Floats, records_in: float, records_out: float) -> Floats:
    """G² of each term against the rest, negative where it is rarer inside (Dunning 1993).

    ``inside`` and ``outside`` count the term's records within and outside the topic, shape (terms,), of so many records
    in all. G² = 2 Σ O ln(O/E) over the four cells: with the term or without, inside or outside.

    >>> log_likelihood(np.array([10.0]), np.array([0.0]), 10, 10).round(3).tolist()
    [27.726]
    """
    total = records_in + records_out
    table = np.array([inside, outside, records_in - inside, records_out - outside], np.float64)
    with_term, without = table[0] + table[1], table[2] + table[3]
    expected = np.array([with_term * records_in, with_term * records_out, without * records_in, without * records_out])
    expected = expected / max(total, 1)
    with np.errstate(divide="ignore", invalid="ignore"):
        parts = np.where(table > 0, table * np.log(table / expected), 0.0)
    score: Floats = 2 * np.maximum(parts.sum(0), 0.0)
    return np.where(inside * records_out >= outside * records_in, score, -score)


def name_topics(
    corpus: Corpus, network: Network, topic: Ints, thing: Ints, record: Ints, item: Ints, words: Resolution
) -> tuple[Topic, ...]:
    """Name every topic (numbers from 0 in ``topic``, −1 none).

    ``record`` and ``item`` are the counted incidences, ``thing`` what each item of the network is called there. A record counts for the topic that most of its
    items belong to. A network of words is named by its own items, any other by the keywords of its records, or by
    its items where the records have none.
    """
    numbers = np.unique(topic[topic >= 0])
    if not len(numbers):
        return ()
    n_topics = int(numbers[-1]) + 1
    of_thing = np.full(int(max(item.max(initial=0), thing.max(initial=0))) + 1, -1, np.int32)
    of_thing[thing] = topic
    belongs = of_thing[item]
    known = belongs >= 0
    votes = np.bincount(record[known].astype(np.int64) * n_topics + belongs[known], minlength=len(corpus) * n_topics)
    votes = votes[: len(corpus) * n_topics].reshape(len(corpus), n_topics)
    home = np.where(votes.any(1), votes.argmax(1), -1)
    per_topic = np.bincount(home[home >= 0], minlength=n_topics)
    mentions = words.mentions(corpus)
    own = network.kinds == ("keyword",) or not len(mentions.record)
    terms: Sequence[str]
    if own:
        shown = np.full(len(of_thing), -1, np.int32)
        shown[thing] = np.arange(len(network))
        term, where, terms = shown[item], record, network.label
    else:
        term, where, terms = words.entity[mentions.form], mentions.record, words.label
        term = np.where(words.aside[term], -1, term)
    usable = (term >= 0) & (home[where] >= 0)
    once = np.unique(term[usable].astype(np.int64) * len(corpus) + where[usable])  # two spellings in a record are one
    cell = once // len(corpus) * n_topics + home[once % len(corpus)]
    table = np.bincount(cell, minlength=len(terms) * n_topics).reshape(len(terms), n_topics).astype(np.float64)
    whole = table.sum(1)
    found = []
    used: set[str] = set()
    for number in sorted(numbers.tolist(), key=lambda k: -int((topic == k).sum())):
        rest = per_topic.sum() - per_topic[number]
        score = log_likelihood(table[:, number], whole - table[:, number], float(per_topic[number]), float(rest))
        if own:
            score = np.where(topic == number, score, -1.0)
        best = [terms[t] for t in np.lexsort((np.arange(len(terms)), -score))[:10] if score[t] > 0]
        if not best:
            members = np.flatnonzero(topic == number)
            best = [network.label[i] for i in members[np.argsort(-network.records[members], kind="stable")][:3]]
        name = _title(best, used)
        used.add(name)
        found.append(Topic(number + 1, name, int((topic == number).sum()), int(per_topic[number]), tuple(best)))
    return tuple(sorted(found, key=lambda t: t.number))


def _title(best: list[str], used: set[str]) -> str:
    """A name from the two strongest terms, or from one where two would be too long to set along a territory."""
    for words in ([f"{best[0]} and {best[1]}"] if len(best) > 1 else []) + best:
        name = words[0].upper() + words[1:]
        if len(name) <= 30 and name not in used:
            return name
    return best[0]
