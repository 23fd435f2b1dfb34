"""Kinds and decisions in words, as the questions, the ledger and the status line say them."""

from __future__ import annotations

from umber_knot.corpus.by_hand import told
from umber_knot.corpus.model import ON_NETWORK, Decision

#: What one entity of a kind is asked about as.
ASKED = {
    "person": "person",
    "keyword": "word",
    "venue": "venue",
    "institution": "institution",
    "place": "place",
    "reference": "work",
    "term": "term",
}


def said(d: Decision) -> str:
    """A decision in a few words."""
    if d.scope == "rule":
        return f"rule: write “{d.preferred}” for “{d.form}”" if d.decision == "merge" else f"rule: set aside “{d.form}”"
    if d.kind in ON_NETWORK:
        return told(d)
    if d.kind == "record":
        return {"merge": f"join {d.form} with {d.preferred}", "apart": f"keep apart {d.form} and {d.preferred}"}.get(
            d.decision, f"leave out {d.form}"
        )
    if d.decision == "split" and d.scope:
        n = d.scope.count("|") + 1
        return f"split {n} record{'s' * (n != 1)} of {d.form} off as “{d.preferred}”"
    if d.decision == "apart" and d.form == d.preferred:
        return f"keep {d.form} whole"
    return {
        "merge": f"merge {d.form} → {d.preferred}",
        "apart": f"keep apart {d.form} and {d.preferred}",
        "aside": f"set aside “{d.form}”",
        "prefer": f"prefer “{d.preferred}” for {d.form}",
        "split": f"split off {d.form}",
    }[d.decision]
