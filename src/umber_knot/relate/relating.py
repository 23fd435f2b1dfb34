"""The network that a sentence makes, and the records behind its items."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from umber_knot.corpus.model import Corpus, Ints
from umber_knot.gather.references import Matches
from umber_knot.reconcile.decisions import Resolution
from umber_knot.relate.counting import count
from umber_knot.relate.parameters import Relate
from umber_knot.relate.result import Counted, Related
from umber_knot.relate.selecting import select


def relate(
    corpus: Corpus, resolutions: Mapping[str, Resolution], sentence: Relate, matches: Matches | None = None
) -> Related:
    """The network that a sentence makes."""
    counted = count(corpus, resolutions, sentence, matches)
    return Related(counted, select(corpus, counted, sentence))


def records_of(counted: Counted, thing: int) -> Ints:
    """Records (numbers in the corpus) in which a thing is counted, in order."""
    return counted.record[counted.item == thing]


def evidence(counted: Counted, a: int, b: int) -> Ints:
    """Records that two things share: the evidence of a tie by shared record."""
    return np.intersect1d(records_of(counted, a), records_of(counted, b), assume_unique=True)
