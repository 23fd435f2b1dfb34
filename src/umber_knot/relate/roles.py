"""In which roles mentions count: who made a record, who sent a letter and who received it; or as the scholar chose."""

from __future__ import annotations

from umber_knot.relate.parameters import AS_WRITTEN, Relate

#: Roles in which people made a record together; not who edited it, or was written to.
MAKING = ("", "from", "to")
#: Who or where a letter, or a directed tie of a network file, comes from, and goes to.
SENDING, RECEIVING = ("sender", "from"), ("recipient", "to")


def chosen(sentence: Relate) -> tuple[str, ...]:
    """The roles that the sentence names, as mentions have them; empty where it leaves them to the tie."""
    return tuple(AS_WRITTEN.get(role, role) for role in sentence.roles)


def of_kind(kind: str, sentence: Relate) -> tuple[str, ...]:
    """The roles in which mentions of a kind count in a record; empty for all."""
    if kind not in ("person", "place"):
        return ()
    if sentence.roles:
        return chosen(sentence)
    if sentence.tie == "co-authorship":
        return MAKING
    if kind == "place" or sentence.tie == "co-occurrence":
        return ()
    return (*MAKING, "sender", "recipient")


def sides(sentence: Relate) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """The roles on either side of a letter; those chosen are on the receiving side, but for the sender's."""
    if not sentence.roles:
        return SENDING, RECEIVING
    return SENDING, tuple(role for role in chosen(sentence) if role not in SENDING)
