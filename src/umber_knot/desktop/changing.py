"""Changing the network by hand: links where an item or a tie is shown, and the end of the sentence that counts them."""

from __future__ import annotations

from collections.abc import Callable
from urllib.parse import quote

from PyQt6.QtWidgets import QLineEdit, QWidget

from umber_knot.corpus.by_hand import changes_of, scope_of
from umber_knot.corpus.model import Decision
from umber_knot.corpus.steps import Item
from umber_knot.desktop.parts import Popup, Text
from umber_knot.desktop.reconciling.words import said
from umber_knot.desktop.selection import understood, written
from umber_knot.desktop.sentence import Choice, Word
from umber_knot.desktop.session import Session
from umber_knot.desktop.theme import look
from umber_knot.desktop.wording import several

NOTE = "by hand"


def link(deed: str, items: tuple[Item, ...], text: str) -> str:
    """A link that changes the network."""
    return f'<a href="hand:{quote(f"{deed}:{written(*items)}", safe="")}" style="color:{look().umber}">{text}</a>'


def item_links(items: tuple[Item, ...]) -> str:
    """What can be done with items by hand."""
    return link("leave", items, "leave out of this network")


def tie_links(s: Session, one: Item, other: Item, tied: bool) -> str:
    """What can be done by hand with a pair: of the tie there is, or to make one."""
    pair = (one, other)
    if not tied:
        return link("tie", pair, "tie them by hand")
    ways = [link("untie", pair, "untie"), link("weigh", pair, "weigh as …"), link("label", pair, "label …")]
    if s.related is not None and s.related.network.directed:
        ways.insert(1, link("turn", pair, "turn round"))
    return " &nbsp; ".join(ways)


def follow(session: Session, key: str, beside: QWidget) -> None:
    """Carry out what a link says; what needs a word more asks for it beside a widget."""
    deed, _, rest = key.partition(":")
    items = understood(rest)
    if deed == "leave":
        _decide(session, [("item", "remove", one, None, {}) for one in items])
    elif deed == "bring":
        _decide(session, [("item", "add", one, None, {}) for one in items])
    elif deed in ("untie", "turn", "tie"):
        what = {"untie": "remove", "turn": "reverse", "tie": "add"}[deed]
        _decide(session, [("tie", what, items[0], items[1], {})])
    elif deed == "weigh":
        ask(beside, "weight of the tie", lambda text: _weigh(session, items, text))
    else:
        ask(beside, "label of the tie", lambda text: _label(session, items, text))


def _weigh(session: Session, items: tuple[Item, ...], text: str) -> None:
    try:
        weight = float(text.replace(",", "."))
    except ValueError:
        weight = 0.0
    if not 0 < weight < 1e18:
        session.said.emit("Not changed", f"a weight is a number above 0, not “{text}”", "fault")
        return
    _decide(session, [("tie", "weigh", items[0], items[1], {"weight": f"{weight:g}"})])


def _label(session: Session, items: tuple[Item, ...], text: str) -> None:
    _decide(session, [("tie", "set", items[0], items[1], {"column": "label", "value": text})])


def add_item(session: Session, name: str) -> None:
    """Add an item by name: one of the material that the sentence leaves out, or one that is not in it."""
    text = " ".join(name.split())
    if text:
        kind = session.strand.relate.kinds[-1]
        _decide(session, [("item", "add", (kind, text), None, {})])


def _decide(session: Session, changes: list[tuple[str, str, Item, Item | None, dict[str, str]]]) -> None:
    several_kinds = len(session.strand.relate.kinds) > 1
    session.decide(
        [
            Decision(
                kind,
                what,
                one[1],
                other[1] if other is not None else "",
                scope_of(session.strand_id, **({"kind": one[0]} if several_kinds and kind == "item" else {}), **words),
                NOTE,
            )
            for kind, what, one, other, words in changes
        ],
        basis=session.shown.corpus_key,
    )


def ask(beside: QWidget, what: str, then: Callable[[str], None]) -> None:
    """Ask for a word or number on a sheet below a widget."""
    popup = Popup(beside)
    popup.body.addWidget(Text(what, 12, faint=True))
    field = QLineEdit()
    field.setAccessibleName(what)
    field.setMinimumWidth(200)

    def taken() -> None:
        text = field.text().strip()
        popup.close()
        if text:
            then(text)

    field.returnPressed.connect(taken)
    popup.body.addWidget(field)
    popup.unfold(beside)
    field.setFocus()


def hand_words(session: Session) -> list[Word]:
    """``and 3 changes by hand``: each can be taken back."""
    changes = changes_of(session.decisions, session.strand_id)
    if not changes:
        return []
    told = several(len(changes), "change")
    options = [(None, told, "made by hand on this network")]
    options += [(d, said(d), "take it back") for d in reversed(changes)]
    chosen = Choice(None, options, lambda d: d is not None and session.withdraw(d), "changes by hand", scrolls=False)
    return [", and", chosen, "by hand"]
