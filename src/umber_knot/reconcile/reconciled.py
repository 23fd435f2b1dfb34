"""What reconciling gives for one kind: what every form stands for, and the suggestions that the recipe took."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from umber_knot.corpus.model import Corpus, Decision
from umber_knot.reconcile.decisions import Resolution, resolve
from umber_knot.reconcile.suggestion import accepted


@dataclass(frozen=True, slots=True)
class Reconciled:
    """The resolution of one kind, and the decisions that the recipe added to the scholar's."""

    resolution: Resolution
    taken: tuple[Decision, ...] = ()


def reconcile(
    corpus: Corpus,
    kind: str,
    decisions: Sequence[Decision],
    accept: float | None = None,
    check: Callable[[], None] = lambda: None,
) -> Reconciled:
    """Carry out the decisions on one kind and, at a confidence of ``accept`` and above, the suggestions left."""
    own = [d for d in decisions if d.kind == kind]
    resolution = resolve(corpus, kind, own)
    if accept is None:
        return Reconciled(resolution)
    from umber_knot.reconcile.suggest import (
        suggest,  # here, because the window knows this module and must start at once
    )

    offered = suggest(corpus, kind, resolution, own, check)
    taken = accepted(resolution.mentions(corpus).forms, offered, accept)
    return Reconciled(resolve(corpus, kind, [*own, *taken]), tuple(taken))
