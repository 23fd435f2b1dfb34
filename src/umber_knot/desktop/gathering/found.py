"""What was found and kept, as a flow from what was read; and which ties the material allows."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout

from umber_knot.corpus.model import Decision, Source
from umber_knot.desktop.parts import Elided, Link, Panel, Popup, Share, Text, clear, scrolling
from umber_knot.desktop.session import Session
from umber_knot.desktop.theme import look
from umber_knot.desktop.wording import several
from umber_knot.relate.offered import turned
from umber_knot.relate.parameters import Relate
from umber_knot.relate.possible import Possible
from umber_knot.relate.wording import called, told


class Found(Panel):
    """The flow: read, joined, left out, kept. ``show_twice`` filters the records; ``open_problems`` unfolds a source,
    ``open_doubtful`` the pairs that may be one record, ``open_fields`` how full a source's fields are."""

    def __init__(
        self,
        session: Session,
        show_twice: Callable[[], object],
        open_problems: Callable[[Source], object],
        open_doubtful: Callable[[], object],
        open_fields: Callable[[Source], object],
    ) -> None:
        super().__init__("What was found and kept")
        self.session, self.show_twice, self.open_problems = session, show_twice, open_problems
        self.open_doubtful, self.open_fields = open_doubtful, open_fields
        self.rows = QVBoxLayout()
        self.rows.setSpacing(0)
        self.rows.setContentsMargins(0, 0, 4, 0)
        self.body.addWidget(scrolling(self.rows))

    def bring_up_to_date(self) -> None:
        clear(self.rows)
        s, c = self.session, look()
        flow, off = s.corpus.flow, [x for x in s.sources if not x.active]
        read = flow.read + sum(x.records for x in off)
        total = max(read, 1)
        n = len(s.sources)
        self._share(f"{read:,}", f"read from {n} source{'s' * (n != 1)}", read, total, c.bar)
        if off:
            out = sum(x.records for x in off)
            self._share(f"− {out:,}", f"switched off: {', '.join(x.name for x in off)}", out, total, c.ochre)
        twice = flow.by_identifier + flow.by_title
        if twice:
            ways = [(flow.by_identifier, "by identifier"), (flow.by_title, "by title")]
            said = ", ".join(f"{k:,} {way}" for k, way in ways if k)
            self._share(f"− {twice:,}", f"the same record twice: {said}", twice, total, c.ochre)
        for reason, k in flow.excluded:
            self._share(f"− {k:,}", f"left out by you: {reason}", k, total, c.ochre)
        self._share(f"{len(s.corpus):,}", "records in the study", len(s.corpus), total, c.umber)
        links = QHBoxLayout()
        links.setSpacing(10)
        if twice:
            links.addWidget(Link("found twice", self.show_twice, 12))
        doubtful = len(s.corpus.doubtful)
        if doubtful:
            links.addWidget(Link(f"{several(doubtful, 'pair')} may be one record", self.open_doubtful, 12))
        if any(d.kind == "record" for d in s.decisions):
            self.decided = Link("your decisions", None, 12)
            self.decided.clicked.connect(self._decisions)
            links.addWidget(self.decided)
        undated = int((s.corpus.year == 0).sum())
        if undated:
            links.addWidget(Text(f"{undated:,} without a year", 12, faint=True))
        links.addStretch(1)
        self.rows.addLayout(links)
        self._problems()
        self.rows.addStretch(1)

    def _share(self, number: str, text: str, part: int, total: int, tint: str) -> None:
        self.rows.addWidget(Share(number, text, part / total, tint))

    def _problems(self) -> None:
        for name, why in self.session.unread[:3]:
            said = Elided(f"{name} was not read: {why.partition(': ')[2] or why}", 12)
            said.tint(look().madder)
            said.setToolTip(why)
            self.rows.addWidget(said)
        if len(self.session.unread) > 3:
            rest = self.session.unread[3:]
            more = Text(f"{len(rest):,} more files were not read", 12)
            more.tint(look().madder).setToolTip("\n".join(f"{name}: {why}" for name, why in rest[:40]))
            self.rows.addWidget(more)
        odd = [(x, c.odd) for x in self.session.sources if (c := self.session.checked(x.id)) is not None and c.odd]
        for source, oddities in odd[:2]:
            line = QHBoxLayout()
            line.setSpacing(5)
            line.addWidget(Link(f"{source.name} looks odd:", lambda source=source: self.open_fields(source), 12))
            line.addWidget(Elided(oddities[0].said(), 12, faint=True), 1)
            self.rows.addLayout(line)
        troubled = [x for x in self.session.sources if x.active and x.problems]
        if not troubled:
            if self.session.sources and not self.session.unread and not odd:
                self.rows.addWidget(Text("No problems: every entry was read.", 12, faint=True))
            return
        source, first = troubled[0], troubled[0].problems[0]
        n = sum(len(x.problems) for x in troubled)
        place = f"{source.name}, {source.unit} {first.line:,}" if first.line else source.name
        line = QHBoxLayout()
        line.setSpacing(5)
        line.addWidget(Text(f"{n:,} problem{'s' * (n != 1)}:", 12, faint=True))
        line.addWidget(Link(place, lambda: self.open_problems(source), 12))
        line.addStretch(1)
        self.rows.addLayout(line)
        self.rows.addWidget(Text(first.message, 12, faint=True, wrap=True))

    def _decisions(self) -> None:
        """Decisions on records, each with its undo."""
        popup = Popup(self)
        popup.body.setSpacing(4)
        decisions = [d for d in self.session.decisions if d.kind == "record"]
        reasons: dict[tuple[str, str], list[Decision]] = {}
        for d in decisions:
            reasons.setdefault((d.decision, d.form if d.scope == "rule" else d.note), []).append(d)
        words = {"aside": "left out", "apart": "kept apart", "merge": "joined by hand"}
        for (what, note), same in list(reasons.items())[:20]:
            label = f"{words.get(what, what)}: {f'all that “{note}” picks' if same[0].scope == 'rule' else note or same[0].form}"
            row = QHBoxLayout()
            row.addWidget(Text(f"{label} ({len(same):,})", 12))
            row.addStretch(1)
            row.addWidget(
                Link(
                    "undo",
                    lambda same=same, label=label: (popup.close(), self.session.withdraw_all(same, f"undo: {label}")),
                    12,
                )
            )
            popup.body.addLayout(row)
        popup.unfold(self.decided)


class Allows(Panel):
    """Which ties can be made, which not, and why. ``relate`` shows the network that was asked for."""

    def __init__(self, session: Session, relate: Callable[[], object]) -> None:
        super().__init__("What can be tied")
        self.session, self.relate = session, relate
        self.rows = QVBoxLayout()
        self.rows.setSpacing(0)
        self.body.addLayout(self.rows)
        self.body.addStretch(1)

    def bring_up_to_date(self) -> None:
        clear(self.rows)
        corpus = self.session.corpus
        for one in self.session.possible:
            tint = look().verdigris if one.records else look().line
            name = "" if one.networks else one.ties
            share = Share(name, one.said, one.records / max(len(corpus), 1), tint, strong=False)
            if one.networks:
                link = Link(one.ties, None, 13)
                link.clicked.connect(lambda _, link=link, one=one: self._unfold(link, one))
                link.setParent(share)
                link.move(0, 3)
            if one.ties.startswith("Institutions"):
                share.setToolTip("read from affiliations: where the institution is, not where the person is from")
            self.rows.addWidget(share)

    def _unfold(self, below: Link, one: Possible) -> None:
        """The networks that a kind of tie makes; one click makes it, or goes to it where it is there."""
        popup = Popup(self)
        popup.body.setSpacing(1)
        for network in one.networks[:12]:
            popup.body.addWidget(Link(called(network), lambda n=network: (popup.close(), self._make(n)), 13))
            popup.body.addWidget(Text(told(network), 11, faint=True))
            popup.body.addSpacing(7)
        popup.unfold(below)

    def _make(self, network: Relate) -> None:
        s = self.session
        own = (network.tie, network.of, network.second)
        there = next((x for x in s.recipe.strands if (x.relate.tie, x.relate.of, x.relate.second) == own), None)
        if there is not None:
            s.look_at(there.id)
        else:
            s.add_strand(**turned(s.strand.relate, *own))
        self.relate()
