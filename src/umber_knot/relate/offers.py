"""The suggestions of one kind together with what they were made on."""

from __future__ import annotations

from dataclasses import dataclass

from umber_knot.corpus.texts import Texts
from umber_knot.reconcile.suggestion import Suggestion
from umber_knot.relate.effect import Effect


@dataclass(frozen=True, slots=True)
class Offers:
    """Suggestions on the forms of a corpus (told by its key). ``effects`` has one for each, or is empty where the
    network is of another kind."""

    kind: str
    corpus_key: str
    forms: Texts
    suggestions: tuple[Suggestion, ...]
    effects: tuple[Effect, ...]
