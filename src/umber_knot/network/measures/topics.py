"""Where an item stands among the topics of a grouping (Guimerà & Amaral 2005)."""

from __future__ import annotations

import numpy as np

from umber_knot.corpus.model import Floats, Ints
from umber_knot.network.measures._matrix import Sparse, undirected
from umber_knot.network.model import Network


def _into_topics(network: Network, topic: Ints, weighted: bool) -> tuple[Sparse, Floats]:
    """(what of each item's ties leads into which topic, what it has in all)."""
    from scipy.sparse import csr_array

    a = undirected(network, weighted)
    inside = np.flatnonzero(topic >= 0)
    shape = len(topic), int(topic.max(initial=0)) + 1
    member = csr_array((np.ones(len(inside)), (inside, topic[inside])), shape=shape)
    return (a @ member).tocsr(), np.asarray(a.sum(axis=1)).ravel()


def participation(network: Network, topic: Ints, weighted: bool = False) -> Floats:
    """1 − Σ_t (k_it/k_i)²: 0 where all ties stay in one topic; NaN without ties. ``topic``, shape (n,), is −1 for none."""
    into, all_ = _into_topics(network, topic, weighted)
    squares = np.asarray(into.multiply(into).sum(axis=1)).ravel()
    found = np.divide(squares, all_**2, out=np.full(len(all_), np.nan), where=all_ > 0)
    return np.asarray(1.0 - found)


def within_topic_z(network: Network, topic: Ints, weighted: bool = False) -> Floats:
    """Ties inside the own topic, as standard deviations from the mean of its members; 0 where all have the same, NaN
    without a topic."""
    into, _ = _into_topics(network, topic, weighted)
    own = np.flatnonzero(topic >= 0)
    found = np.full(len(topic), np.nan)
    if not len(own):
        return found
    k = np.asarray(into[own, topic[own]]).ravel()
    size = np.bincount(topic[own])
    mean = np.bincount(topic[own], k) / np.maximum(size, 1)
    spread = np.sqrt(np.maximum(np.bincount(topic[own], (k - mean[topic[own]]) ** 2) / np.maximum(size, 1), 0))
    off = k - mean[topic[own]]
    found[own] = np.divide(off, spread[topic[own]], out=np.zeros(len(own)), where=spread[topic[own]] > 1e-12)
    return found
