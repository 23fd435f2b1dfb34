"""Chart: the map itself, the years below it, the legend that controls it, and the evidence beside it."""

from __future__ import annotations

from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout

from umber_knot.desktop.brush import Brush
from umber_knot.desktop.canvas import Canvas
from umber_knot.desktop.desks.base import Desk
from umber_knot.desktop.desks.relate import relate_words
from umber_knot.desktop.evidence import Evidence
from umber_knot.desktop.legend import Legend
from umber_knot.desktop.parts import Panel, Text
from umber_knot.desktop.plots import YearBrush
from umber_knot.desktop.selection import Selection
from umber_knot.desktop.session import Session
from umber_knot.lineage.nodes import CHARTED


class ChartDesk(Desk):
    sets_aside = True
    shows = ("gather", "relate", "chart", "strand")
    needs = frozenset({"gather", "relate", *CHARTED})

    def __init__(self, session: Session, brush: Brush) -> None:
        super().__init__(session)
        self.canvas = Canvas(session, brush)
        self.search = QLineEdit()
        self.search.setPlaceholderText("find on the chart")
        self.search.setFixedWidth(190)
        self.search.setAccessibleName("find on the chart")
        self.search.textChanged.connect(self._find)
        self.search.returnPressed.connect(self._next_found)
        self.count = Text("", 12, faint=True)
        self.top.addWidget(self.count)
        self.top.addWidget(Text("/", 12, faint=True))
        self.top.addWidget(self.search)
        row = QHBoxLayout()
        row.setSpacing(8)
        left = QVBoxLayout()
        left.setSpacing(8)
        frame = Panel(margins=(1, 1, 1, 1))
        frame.body.addWidget(self.canvas)
        left.addWidget(frame, 1)
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

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.evidence.setFixedWidth(300 if self.width() > 1000 else 240)

    def focus_filter(self) -> None:
        self.search.setFocus()
        self.search.selectAll()

    def bring_up_to_date(self) -> None:
        s = self.session
        self.sentence.say(*relate_words(s, brief=True))
        if s.corpus is not None:
            self.years.show_years(s.corpus.year, s.strand.relate.years)
        self._find(self.search.text())

    def _find(self, text: str) -> None:
        """Ring the items that hold the words typed."""
        words = text.casefold().split()
        labels = self.canvas.drawing.network.label if self.canvas.drawing is not None else ()
        self.canvas.found = (
            {i for i, t in enumerate(labels) if all(w in t.casefold() for w in words)} if words else set()
        )
        self.count.setText(f"{len(self.canvas.found):,} found" if words else "")
        self.canvas.update()

    def _next_found(self) -> None:
        """Select what was found, one after the other, the most important first."""
        d, s = self.canvas.drawing, self.session
        if d is None or not self.canvas.found:
            return
        order = [i for i in d.priority.tolist() if i in self.canvas.found]
        now = next(iter(self.canvas._chosen()), -1) if len(s.selection.items) == 1 else -1
        following = order[(order.index(now) + 1) % len(order)] if now in order else order[0]
        s.select(Selection(items=(d.network.identity(following),)))
        x, y = self.canvas.view.px(d.x[following]), self.canvas.view.py(d.y[following])
        if not (20 < x < self.canvas.width() - 20 and 20 < y < self.canvas.height() - 20):
            self.canvas.centre(following)
