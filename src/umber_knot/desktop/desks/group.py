"""Group: the topics, how steady they are, and who belongs to them."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QGridLayout, QVBoxLayout, QWidget

from umber_knot.chart.palette import topic_colours
from umber_knot.desktop.desks.base import Desk
from umber_knot.desktop.evidence import Evidence
from umber_knot.desktop.parts import Link, Panel, Share, Text, clear
from umber_knot.desktop.selection import Selection
from umber_knot.desktop.sentence import Choice, Number
from umber_knot.desktop.session import Session
from umber_knot.desktop.strands import strand_words
from umber_knot.desktop.tables import Column, Table
from umber_knot.desktop.theme import colour, look, sans
from umber_knot.group.inside import share_inside, unsure
from umber_knot.relate.wording import many

QUALITY = (
    ("modularity", "modularity", "more ties inside than expected; Reichardt & Bornholdt 2006"),
    ("cpm", "constant Potts", "ties inside denser than the grain; Traag, Van Dooren & Nesterov 2011"),
)
QUALITIES = {value: word for value, word, _ in QUALITY}
WEIGHTED = ((True, "weighted", "heavy ties hold more"), (False, "unweighted", "every tie holds alike"))


class Proportions(QWidget):
    """Topics side by side, as wide as they have items; a click selects one."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setFixedHeight(40)
        self.setAccessibleName("sizes of topics")

    def _parts(self) -> list[tuple[int, str, float, float]]:
        s = self.session
        if s.grouped is None or s.drawing is None:
            return []
        total = max(sum(t.items for t in s.grouped.topics), 1)
        found, at = [], 0.0
        for t in s.grouped.topics:
            wide = self.width() * t.items / total
            found.append((t.number - 1, t.name, at, wide))
            at += wide
        return found

    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setFont(sans(11))
        for topic, name, at, wide in self._parts():
            colours = topic_colours(self.session.drawing.slots.get(topic, 0), look().chart)
            p.fillRect(QRectF(at, 0, max(wide - 2, 1), 40), colour(colours.land))
            p.fillRect(QRectF(at, 36, max(wide - 2, 1), 4), colour(colours.mark))
            if wide > 54:
                p.setPen(colour(look().ink))
                text = p.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, int(wide) - 12)
                p.drawText(QRectF(at + 6, 0, wide - 10, 36), Qt.AlignmentFlag.AlignVCenter, text)

    def mousePressEvent(self, event: object) -> None:
        x = event.position().x()  # type: ignore[attr-defined]
        for topic, _, at, wide in self._parts():
            if at <= x < at + wide:
                self.session.select(Selection(topic=topic))


def _told(values: np.ndarray, form: str) -> Callable[[int], str]:
    """How a column says its numbers; a dash where there is none."""
    return lambda row: "–" if np.isnan(values[row]) else format(values[row], form)


class GroupDesk(Desk):
    sets_aside = True
    shows = ("gather", "group", "chart", "stability", "strand")
    needs = frozenset({"gather", "relate", "topics", "land"})

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        strip = Panel(margins=(12, 10, 12, 10))
        self.proportions = Proportions(session)
        strip.body.addWidget(self.proportions)
        self.body.addWidget(strip)
        grid = QGridLayout()
        grid.setSpacing(8)
        topics = Panel("Topics")
        self.topics = Table(row_height=26)
        self.topics.picked.connect(lambda t: session.select(Selection(topic=int(t))))
        topics.body.addWidget(self.topics, 1)
        steady = Panel("How steady is it?")
        self.steady = QVBoxLayout()
        steady.body.addLayout(self.steady)
        steady.body.addStretch(1)
        self.members = Panel("Members")
        self.table = Table()
        self.table.picked.connect(self._picked)
        self.members.body.addWidget(self.table, 1)
        self.evidence = Evidence(session)
        self.evidence.setFixedWidth(300)
        grid.addWidget(topics, 0, 0, 1, 2)
        grid.addWidget(self.members, 1, 0)
        grid.addWidget(steady, 1, 1)
        grid.addWidget(self.evidence, 0, 2, 2, 1)
        grid.setRowStretch(0, 46)
        grid.setRowStretch(1, 54)
        grid.setColumnStretch(0, 60)
        grid.setColumnStretch(1, 40)
        self.body.addLayout(grid, 1)
        session.selected.connect(lambda: self.isVisible() and self._show_members())

    def bring_up_to_date(self) -> None:
        s = self.session
        g = s.strand.group

        def set_(**values: object) -> None:
            s.set_recipe("group", **values)

        grain = Number(g.grain, 0.01, 100, lambda v: set_(grain=v), 0.1, "grain", "higher is finer", 2)
        least = Number(
            g.min_size,
            1,
            1_000_000,
            lambda v: set_(min_size=int(v)),
            name="least items",
            hint="smaller groups are no topic",
        )
        runs = Number(g.runs, 0, 1000, lambda v: set_(runs=int(v)), 5, "runs", "other seeds, to see how steady it is")
        seed = Number(
            g.seed, 0, 2**31 - 1, lambda v: set_(seed=int(v)), name="seed", hint="the same seed gives the same topics"
        )
        self.sentence.say(
            *strand_words(s),
            "Group",
            f"{many(s.strand.relate)} as",
            self._grouping(),
            ", by",
            Choice(g.quality, QUALITY, lambda v: set_(quality=v), "quality"),
            "at grain",
            grain,
            ", ties",
            Choice(g.weighted, WEIGHTED, lambda v: set_(weighted=v), "weights"),
            ", topics of at least",
            least,
            f"{many(s.strand.relate)}",
            ", seed",
            seed,
            ", compared with",
            runs,
            "other runs",
        )
        if s.grouped is None or s.drawing is None:
            return
        self.proportions.update()
        self._show_topics()
        self._show_steady()
        self._show_members()

    def _grouping(self) -> Choice:
        """The grouping in use, those kept beside it, and one more."""
        s = self.session
        own = s.strand
        kept = [(g.name, g.name, f"{QUALITIES[g.quality]} at grain {g.grain:g}") for g in (own.group, *own.groupings)]
        number = next(n for n in range(2, 1000) if f"Topics {n}" not in {name for name, _, _ in kept})
        more = (f"Topics {number}", "another …", "keeps this one as it is, and begins with a copy")

        def choose(name: object) -> None:
            known = {g.name for g in own.groupings}
            s.use_grouping(str(name)) if name in known else s.keep_grouping(str(name))

        return Choice(own.group.name, [*kept, more], choose, "grouping", scrolls=False)

    def _show_topics(self) -> None:
        s = self.session
        topics = {t.number - 1: t for t in s.grouped.topics}
        if not topics:
            self.topics.show_rows([], np.zeros(0, np.int64))
            return
        top, slots = max(topics) + 1, s.drawing.slots
        items, records = np.zeros(top), np.zeros(top)
        sure = np.full(top, np.nan)
        for k, t in topics.items():
            items[k], records[k] = t.items, t.records
            if s.stable is not None and len(s.stable.confidence) == len(s.grouped.topic):
                inside = s.stable.confidence[s.grouped.topic == k]
                sure[k] = float(np.mean(inside)) if len(inside) else np.nan
        self.topics.show_rows(
            [
                Column(
                    "topic",
                    lambda k: topics[k].name,
                    None,
                    220,
                    serif=True,
                    tint=lambda k: topic_colours(slots.get(k, 0), look().chart).mark,
                ),
                Column("items", lambda k: f"{items[k]:,.0f}", items, 64),
                Column("records", lambda k: f"{records[k]:,.0f}", records, 70),
                Column("sure", _told(sure, ".2f"), sure, 58, hint="mean share of other runs that keep a member here"),
                Column("what sets it apart", lambda k: ", ".join(topics[k].terms), None, 300, faint=True),
            ],
            np.array(sorted(topics), np.int64),
        )
        self.topics.select_row(s.selection.topic if s.selection.topic is not None else -1)

    def _show_steady(self) -> None:
        clear(self.steady)
        s, c = self.session, look()
        self.steady.addWidget(Share(f"{s.grouped.modularity:.3f}", "modularity", s.grouped.modularity, c.umber))
        group = s.shown_strand.group
        if group.quality != "modularity" or group.grain != 1:
            said = f"{QUALITIES[group.quality]} at grain {group.grain:g}, which was optimised"
            self.steady.addWidget(Share(f"{s.grouped.quality:.3f}", said, s.grouped.quality, c.umber))
        if "stability" not in s.current or s.stable is None:
            self.steady.addWidget(
                Text(
                    "grouping again under other seeds …" if s.shown_strand.group.runs else "not measured",
                    12,
                    faint=True,
                )
            )
            return
        if s.stable.index == s.stable.index:
            text = f"agreement with {s.shown_strand.group.runs} other runs"
            self.steady.addWidget(Share(f"{s.stable.index:.3f}", text, s.stable.index, c.verdigris))
            shaky = unsure(s.stable.confidence)
            n = len(s.grouped.topic)
            self.steady.addWidget(
                Share(
                    f"{len(shaky):,}",
                    f"of {n:,} change topic in a fifth of runs or more",
                    len(shaky) / max(n, 1),
                    c.ochre,
                )
            )
            labels = s.related.network.label
            for i in shaky[:3].tolist():
                self.steady.addWidget(
                    Link(
                        f"{labels[i]}  {s.stable.confidence[i]:.2f}",
                        lambda one=s.related.network.identity(i): s.select(Selection(items=(one,))),
                        12,
                    )
                )

    def _show_members(self) -> None:
        s = self.session
        if s.grouped is None or s.related is None:
            return
        network = s.related.network
        topic = s.selection.topic
        if topic is None and len(s.selection.items) == 1 and s.item(s.selection.items[0]) >= 0:
            topic = int(s.grouped.topic[s.item(s.selection.items[0])])
        if topic is None or topic < 0 or not (s.grouped.topic == topic).any():
            topic = s.grouped.topics[0].number - 1 if s.grouped.topics else -1
        members = np.flatnonzero(s.grouped.topic == topic)
        if len(s.grouped.topic) != len(network):
            return
        name = next((t.name for t in s.grouped.topics if t.number == topic + 1), "no topic")
        self.members.heading.setText(f"Members of {name}")
        share = share_inside(network, s.grouped.topic)
        sure = (
            s.stable.confidence
            if s.stable is not None and len(s.stable.confidence) == len(network)
            else np.full(len(network), np.nan)
        )
        self.table.show_rows(
            [
                Column("name", lambda i: network.label[i], None, 180),
                Column("records", lambda i: f"{network.records[i]:,}", network.records, 70),
                Column(
                    "inside", _told(share, ".0%"), share, 66, hint="share of its tie weight that stays in the topic"
                ),
                Column("sure", _told(sure, ".2f"), sure, 60, hint="share of other runs that keep it in this topic"),
            ],
            members[np.lexsort((members, -network.records[members]))],
        )
        if len(s.selection.items) == 1:
            self.table.select_row(s.item(s.selection.items[0]))

    def _picked(self, row: int) -> None:
        self.session.select(Selection(items=(self.session.related.network.identity(row),)))
