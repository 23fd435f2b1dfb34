"""The strands of a study in words: which network a desk speaks of, and the controls that make, name, order and part
them."""

from __future__ import annotations

from PyQt6.QtWidgets import QHBoxLayout, QWidget

from umber_knot.desktop.parts import Link, Text, clear
from umber_knot.desktop.sentence import Choice, Free, Sentence, Word
from umber_knot.desktop.session import Session
from umber_knot.desktop.tying import another, kind_options
from umber_knot.relate.wording import told


def strand_words(session: Session) -> list[Word]:
    """The beginning of a sentence: the network that it speaks of, where there are several."""
    recipe = session.recipe
    if len(recipe.strands) < 2:
        return []
    options = [(s.id, name, told(s.relate)) for s, name in zip(recipe.strands, recipe.names())]
    return [Choice(session.strand_id, options, lambda number: session.look_at(int(str(number))), "network"), ":"]


def further_words(session: Session) -> list[Word]:
    """The end of a sentence: one more network."""
    several = len(session.recipe.strands) > 1
    return [
        "And a further network of" if several else "And a second network of",
        Choice(
            "",
            [("", "…", "a copy of this one, with another kind of item; Ctrl+Shift+N"), *kind_options(session)],
            lambda kind: session.add_strand(**another(session, str(kind))),
            "further network",
            scrolls=False,
        ),
    ]


class StrandRow(QWidget):
    """Name, order and end of the network looked at, where there are several."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(14)
        self.name = Sentence(14)
        row.addWidget(self.name, 1)
        self.links = QHBoxLayout()
        self.links.setSpacing(14)
        row.addLayout(self.links)

    def bring_up_to_date(self) -> None:
        s = self.session
        ids = [x.id for x in s.recipe.strands]
        self.setVisible(len(ids) > 1)
        if len(ids) < 2:
            return
        at = ids.index(s.strand_id)
        name = s.strand_name()
        self.name.say(
            "This network is called",
            Free(
                name,
                lambda text: s.rename_strand(s.strand_id, "" if text == s.strand.proposed() else text),
                "name of the network",
            ),
        )
        clear(self.links)
        self.links.addWidget(Text(f"{at + 1} of {len(ids)}", 12, faint=True))
        if at:
            self.links.addWidget(Link("earlier", lambda: s.move_strand(s.strand_id, at - 1), 12))
        if at < len(ids) - 1:
            self.links.addWidget(Link("later", lambda: s.move_strand(s.strand_id, at + 1), 12))
        self.links.addWidget(Link("take it away", lambda: s.remove_strand(s.strand_id), 12))
