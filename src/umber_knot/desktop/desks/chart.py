"""Chart: the map itself, the years below it, the legend that controls it, and the evidence beside it; two networks
side by
side where the scholar wants to compare them."""

from __future__ import annotations

from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout

from umber_knot.corpus.texts import holding
from umber_knot.desktop.brush import Brush
from umber_knot.desktop.canvas import Canvas
from umber_knot.desktop.desks.base import Desk
from umber_knot.desktop.evidence import Evidence
from umber_knot.desktop.legend import Legend
from umber_knot.desktop.parts import Link, Panel, Popup, Text
from umber_knot.desktop.plots import YearBrush
from umber_knot.desktop.relating import relate_words
from umber_knot.desktop.selection import Selection
from umber_knot.desktop.session import Session
from umber_knot.lineage.nodes import CHARTED


class Frame(Panel):
    """A canvas with, where two stand side by side, the name of its network above it."""

    def __init__(self, canvas: Canvas) -> None:
        super().__init__(margins=(1, 1, 1, 1))
        self.canvas = canvas
        self.name = Text("", 13, bold=True)
        self.name.setContentsMargins(12, 6, 0, 2)
        self.body.addWidget(self.name)
        self.body.addWidget(canvas, 1)


class ChartDesk(Desk):
    sets_aside = True
    shows = ("gather", "relate", "chart", "strand")
    needs = frozenset({"gather", "relate", *CHARTED})

    def __init__(self, session: Session, brush: Brush) -> None:
        super().__init__(session)
        self.pair: tuple[int, int] | None = None  # the strands that stand side by side
        self.canvas = Canvas(session, brush, lambda: self.pair[0] if self.pair else session.strand_id)
        self.other = Canvas(session, brush, lambda: self.pair[1] if self.pair else None)
        self.search = QLineEdit()
        self.search.setPlaceholderText("find on the chart")
        self.search.setFixedWidth(190)
        self.search.setAccessibleName("find on the chart")
        self.search.textChanged.connect(self._find)
        self.search.returnPressed.connect(self._next_found)
        self.count = Text("", 12, faint=True)
        self.beside = Link("beside another", self._choose_beside, 12)
        self.top.addWidget(self.beside)
        self.top.addWidget(self.count)
        self.top.addWidget(Text("/", 12, faint=True))
        self.top.addWidget(self.search)
        row = QHBoxLayout()
        row.setSpacing(8)
        left = QVBoxLayout()
        left.setSpacing(8)
        charts = QHBoxLayout()
        charts.setSpacing(8)
        self.frames = Frame(self.canvas), Frame(self.other)
        for frame in self.frames:
            charts.addWidget(frame, 1)
        left.addLayout(charts, 1)
        years = Panel(margins=(2, 4, 2, 2))
        self.years = YearBrush(lambda v: session.set_recipe("relate", years=v))
        years.body.addWidget(self.years)
        left.addWidget(years)
        self.legend = Legend(session, self.canvas)
        left.addWidget(self.legend)
        row.addLayout(left, 1)
        self.evidence = Evidence(session)
        self.evidence.setFixedWidth(300)
        row.addWidget(self.evidence)
        self.body.addLayout(row, 1)
        self._part()
        session.opened.connect(self.stand_alone)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.evidence.setFixedWidth(300 if self.width() > 1000 else 240)

    def focus_filter(self) -> None:
        self.search.setFocus()
        self.search.selectAll()

    def retheme(self) -> None:
        for frame in self.frames:
            frame.canvas.retheme()
        self.legend.bring_up_to_date()

    # -- two networks side by side

    def _choose_beside(self) -> None:
        """Put another network beside this one, or leave one alone again."""
        s = self.session
        if self.pair:
            self.stand_alone()
            return
        popup = Popup(self)
        ids, names = [x.id for x in s.recipe.strands], s.recipe.names()
        if len(ids) < 2:
            popup.body.addWidget(
                Text("There is one network yet. Relate's sentence ends with a second one (Ctrl+Shift+N).", 12)
            )
        for number, name in zip(ids, names):
            if number != s.strand_id:
                popup.body.addWidget(Link(name, lambda n=number: (popup.close(), self.stand_beside(n)), 14))
        popup.unfold(self.beside)

    def stand_beside(self, number: int) -> None:
        """Show another network beside the one looked at, with one selection and a view of each its own."""
        self.pair = self.session.strand_id, number
        self._part()

    def stand_alone(self) -> None:
        self.pair = None
        self._part()

    def _part(self) -> None:
        self._tell_pair()
        self.frames[1].setVisible(self.pair is not None)
        self.beside.setText("one alone" if self.pair else "beside another")
        self._name_frames()
        self.other.forget()
        for frame in self.frames if self.pair else self.frames[:1]:
            frame.canvas.follow()

    def _tell_pair(self) -> None:
        others = set(self.pair or ()) - {self.session.strand_id}
        self.session.beside = others.pop() if others else 0

    def _name_frames(self) -> None:
        ids = {x.id for x in self.session.recipe.strands}
        if self.pair and (not set(self.pair) <= ids or self.session.strand_id not in self.pair):
            self.pair = None  # one of them is gone, or another is looked at
            self._part()
            return
        self._tell_pair()  # either of the two may be the one looked at
        for frame, number in zip(self.frames, self.pair or (self.session.strand_id,) * 2):
            frame.name.setVisible(self.pair is not None)
            frame.name.setText(self.session.strand_name(number))
        looked = self.frames[1].canvas if self.pair and self.session.strand_id == self.pair[1] else self.canvas
        self.legend.follow(looked)

    # -- showing

    def bring_up_to_date(self) -> None:
        s = self.session
        self.sentence.say(*relate_words(s, brief=True))
        if s.corpus is not None:
            self.years.show_years(s.corpus.year, s.strand.relate.years)
        self._name_frames()
        self._find(self.search.text())

    def _find(self, text: str) -> None:
        """Ring the items that hold the words typed."""
        words, found = text.split(), 0
        for frame in self.frames:
            drawing = frame.canvas.drawing
            labels = drawing.network.label if drawing is not None else None
            if frame.canvas.searched[0] is not labels or frame.canvas.searched[1] != words:
                frame.canvas.searched = labels, words
                frame.canvas.found = set(holding(labels, words).tolist()) if words and labels is not None else set()
                frame.canvas.update()
            found += len(frame.canvas.found) if frame.isVisible() else 0
        self.count.setText(f"{found:,} found" if words else "")

    def _next_found(self) -> None:
        """Select what was found, one after the other, the most important first."""
        canvas, s = self.legend.canvas, self.session
        d = canvas.drawing
        if d is None or not canvas.found:
            return
        order = [i for i in d.priority.tolist() if i in canvas.found]
        now = canvas.chosen() if len(s.selection.items) == 1 else []
        at = order.index(now[0]) + 1 if now and now[0] in order else 0
        following = order[at % len(order)]
        s.select(Selection(items=(d.network.identity(following),)))
        x, y = canvas.view.px(d.x[following]), canvas.view.py(d.y[following])
        if not (20 < x < canvas.width() - 20 and 20 < y < canvas.height() - 20):
            canvas.centre(following)
