"""Who cites what: the references of records as citations of records of the study, or of any work.

A reference that was matched to a record counts as that record, however it is written; spellings that were merged count once.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from umber_knot.corpus.model import Corpus, Ints
from umber_knot.gather.references import Matches
from umber_knot.reconcile.decisions import Resolution
from umber_knot.relate.things import Bools, distinct


class Citations(NamedTuple):
    """Citing and cited records of the study, each pair once, sorted by the citing one."""

    citing: Ints
    cited: Ints

    def among(self, keep: Bools) -> Citations:
        """Those whose citing record is marked, and is another than the cited one."""
        stays = keep[self.citing] & (self.citing != self.cited)
        return Citations(self.citing[stays], self.cited[stays])


def citations(corpus: Corpus, matches: Matches) -> Citations:
    """Citations among the records of a study, of themselves too."""
    mentions = corpus.of("reference")
    cited = matches.record[mentions.form]
    known = cited >= 0
    return Citations(*distinct(mentions.record[known], cited[known]))


def work_of(corpus: Corpus, matches: Matches, references: Resolution) -> Ints:
    """The work that each form of a reference names, shape (forms,), numbered as ``references`` does.

    Entities of references that mean one record of the study are one work, under the lowest number among them.
    """
    form = np.arange(len(references.entity))
    means = np.full(len(references.entity), -1, np.int64)
    means[: len(matches.record)] = matches.record
    lowest = np.full(len(corpus) + 1, len(references.label), np.int64)
    known = form[means >= 0]
    np.minimum.at(lowest, means[known], references.entity[known])
    work = np.arange(len(references.label), dtype=np.int64)
    work[references.entity[known]] = lowest[means[known]]
    return work[references.entity].astype(np.int32)


def works(corpus: Corpus, matches: Matches, references: Resolution) -> tuple[Ints, Ints]:
    """Which record cites which work, each pair once, sorted by record."""
    mentions = references.mentions(corpus)
    return distinct(mentions.record, work_of(corpus, matches, references)[mentions.form])
