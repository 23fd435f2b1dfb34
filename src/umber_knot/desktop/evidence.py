"""The evidence panel: why is this here? Numbers, ties, spellings and records, each a link."""

from __future__ import annotations

from html import escape

import numpy as np
from PyQt6.QtGui import QImage, QPainter, QShowEvent
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from umber_knot.chart.palette import topic_colours
from umber_knot.corpus.steps import Item
from umber_knot.desktop.changing import item_links
from umber_knot.desktop.pages import Page, item_anchor, record_page_html, records_html
from umber_knot.desktop.parts import Panel, anchor
from umber_knot.desktop.selection import written
from umber_knot.desktop.session import Session
from umber_knot.desktop.theme import colour, look
from umber_knot.desktop.why import tie_html
from umber_knot.relate.explaining import records_of
from umber_knot.relate.wording import counted_in


def years_picture(years: np.ndarray, low: int, high: int, tint: str, ratio: float, wide: int) -> QImage:
    """Records a year as small bars."""
    tall = 30
    image = QImage(round(wide * ratio), round(tall * ratio), QImage.Format.Format_ARGB32_Premultiplied)
    image.setDevicePixelRatio(ratio)
    image.fill(0)
    painter = QPainter(image)
    n = max(high - low + 1, 1)
    counts = np.bincount(years[years > 0] - low, minlength=n)
    most = max(int(counts.max(initial=1)), 1)
    for k, count in enumerate(counts.tolist()):
        if count:
            h = max(2.0, (tall - 2) * count / most)
            painter.fillRect(round(k * wide / n), round(tall - h), max(1, round(wide / n) - 1), round(h), colour(tint))
    painter.end()
    return image


class Evidence(QWidget):
    """Shows what is selected in the session."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        panel = Panel(margins=(16, 12, 8, 8))
        layout.addWidget(panel)
        self.page = Page(session)
        panel.body.addWidget(self.page)
        session.selected.connect(self.show_selection)
        session.arrived.connect(
            lambda stages: stages.isdisjoint({"relate", "group", "stability", "chart"}) or self.show_selection()
        )
        session.opened.connect(self.show_selection)

    def show_selection(self) -> None:
        if not self.isVisible():
            return
        s = self.session
        sel = s.selection
        if s.corpus is None or s.related is None or s.grouped is None:
            return
        pictures: dict[str, QImage] = {}
        if s.row(sel) >= 0:
            html = record_page_html(s, s.row(sel))
        elif sel.tie and min(map(s.item, sel.tie)) >= 0:
            html = tie_html(self.page, s, *sel.tie)
        elif sel.topic is not None:
            html = self._topic(sel.topic)
        elif len(sel.items) == 1 and s.item(sel.items[0]) >= 0:
            html = self._item(sel.items[0], pictures)
        elif sel.items:
            html = self._several(sel.items)
        else:
            html = self._nothing()
        self.page.fill(html, pictures)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.show_selection()

    def _nothing(self) -> str:
        s = self.session
        network = s.related.network
        n = len(network)
        one_each = n > 0 and int(network.records.max()) == 1
        most = network.degree() if one_each else network.records
        top = np.lexsort((np.arange(n), -most))[:10]
        rows = "".join(
            f'<tr><td width="100%">{item_anchor(network, i)}</td><td align="right" class="faint">{most[i]}</td></tr>'
            for i in top
        )
        return (
            '<p class="faint">Evidence</p><p class="title" style="margin:4px 0">Nothing is selected</p>'
            '<p class="faint">Choose an item, a tie, a topic or a record anywhere, and read here why it is there: '
            "its records with file and line, its ties, its spellings.</p>"
            + (
                f'<p class="head" style="margin-bottom:2px">Most {"ties" if one_each else "records"}</p><table width="100%">{rows}</table>'
                if rows
                else ""
            )
        )

    def _item(self, identity: Item, pictures: dict[str, QImage]) -> str:
        s = self.session
        network = s.related.network
        i = s.item(identity)
        entity = int(network.entity[i])
        records = records_of(s.related.counted, int(s.related.shown()[i]))
        tint, topic_line = look().bar, ""
        topic = int(s.grouped.topic[i])
        if topic >= 0:
            tint = self._tint(topic)
            sure = ""
            if (
                s.stable is not None
                and len(s.stable.confidence) == len(network)
                and s.stable.confidence[i] == s.stable.confidence[i]
            ):
                sure = f" (sure {s.stable.confidence[i]:.2f})"
            topic_line = f' · <a href="topic:{topic}" style="color:{tint}">{escape(self._topic_name(topic))}</a>{sure}'
        years = s.corpus.year[records]
        dated = years[years > 0]
        all_dated = s.corpus.year[s.corpus.year > 0]
        span = ""
        picture = ""
        if len(dated):
            span = f", {dated.min()}–{dated.max()}" if dated.min() < dated.max() else f", {dated.min()}"
            low, high = int(all_dated.min()), int(all_dated.max())
            wide = max(160, min(250, self.page.viewport().width() - 8))
            pictures["years"] = years_picture(years, low, high, tint, self.devicePixelRatioF(), wide)
            picture = (
                f'<p style="margin:8px 0 0 0"><img src="years"></p><table width="{wide}"><tr><td class="faint">{low}</td>'
                f'<td class="faint" align="right">{high}</td></tr></table>'
            )
        ties = np.flatnonzero((network.source == i) | (network.target == i))
        ties = ties[np.lexsort((-network.count[ties], -network.weight[ties]))][:8]
        rows, weighed = "", s.shown_strand.relate.normalise != "none" or s.shown_strand.relate.counting != "full"
        counts = counted_in(s.shown_strand.relate)
        head = f"weight, {counts}" if weighed else counts
        for t in ties.tolist():
            other = int(network.target[t] if network.source[t] == i else network.source[t])
            away = ' <span class="faint">another topic</span>' if s.grouped.topic[other] != topic else ""
            key = written(identity, network.identity(other))
            weight = f'<td align="right" class="faint">{network.weight[t]:.3g}</td>' if weighed else ""
            rows += (
                f'<tr><td width="100%">{item_anchor(network, other)}{away}</td>{weight}<td align="right" width="40">'
                f"{anchor('tie', key, f'{network.count[t]}')}</td></tr>"
            )
        strongest = (
            f'<p class="head" style="margin:12px 0 2px 0">Strongest ties <span class="faint">{head}</span></p>'
            f'<table width="100%">{rows}</table>'
            if rows
            else '<p class="faint">No ties.</p>'
        )
        n = len(records)
        found = "cited by" if s.shown_strand.relate.tie == "co-citation" else "in"
        return (
            f'<p class="faint">Evidence</p><p class="title" style="margin:4px 0">{escape(network.label[i])}</p>{self._title(identity, entity)}'
            f'<p style="margin:0">{found} {n:,} record{"s" * (n != 1)}{span}{topic_line}</p>{picture}{strongest}'
            f"{self._spellings(network.kind_of(i), entity)}{self._settle()}{records_html(self.page, s, records, 'item' + written(identity))}"
        )

    def _title(self, identity: Item, entity: int) -> str:
        """The title of a record that is an item, as a link to it."""
        s = self.session
        if identity[0] != "record" or entity >= len(s.corpus):
            return ""
        title = s.corpus.title[entity] or "(no title)"
        return f'<p class="serif" style="margin:0 0 4px 0">{anchor("record", int(s.corpus.id[entity]), title)}</p>'

    def _spellings(self, kind: str, entity: int) -> str:
        s = self.session
        resolution = s.resolution(kind)
        if resolution is None:
            return ""
        forms = resolution.members(entity)
        mentions = resolution.mentions(s.corpus)
        if len(forms) < 2:
            return ""
        counts = mentions.counts()
        said = " · ".join(f"{escape(mentions.forms[f])} {counts[f]}" for f in sorted(forms, key=lambda f: -counts[f]))
        own = sum(1 for d in s.decisions if d.form in {mentions.forms[f] for f in forms})
        by = (
            "merged by your decisions"
            if own >= len(forms) - 1
            else "merged by the recipe or your decisions; split in Reconcile"
        )
        return (
            f'<p class="head" style="margin:12px 0 2px 0">{len(forms)} spellings, merged</p>'
            f'<p style="margin:0">{said}<br><span class="faint">{by}</span></p>'
        )

    def _settle(self) -> str:
        """What can be decided on what is selected, from here."""
        return (
            f'<p style="margin:10px 0 0 0"><a href="aside:selected" style="color:{look().umber}">set aside</a> '
            f'<span class="faint">X</span> &nbsp; <a href="around:selected" style="color:{look().umber}">'
            f'only its surroundings</a> &nbsp; <a href="part:selected" style="color:{look().umber}">only its part</a>'
            f" &nbsp; {item_links(self.session.selection.items)}</p>"
        )

    def _topic(self, topic: int) -> str:
        s = self.session
        network = s.related.network
        members = np.flatnonzero(s.grouped.topic == topic)
        members = members[np.lexsort((members, -network.records[members]))]
        found = next((t for t in s.grouped.topics if t.number == topic + 1), None)
        if found is None:
            return self._nothing()
        rows = "".join(
            f'<tr><td width="100%">{item_anchor(network, i)}</td>'
            f'<td align="right" class="faint">{network.records[i]}</td></tr>'
            for i in members[:40].tolist()
        )
        rest = f'<p class="faint">and {len(members) - 40:,} more, in Group</p>' if len(members) > 40 else ""
        return (
            f'<p class="faint">Topic {found.number}</p><p class="title" style="margin:4px 0;color:{self._tint(topic)}">'
            f"{escape(found.name)}</p><p>{found.items:,} items, {found.records:,} records are mostly about it</p>"
            f'<p class="head" style="margin:10px 0 2px 0">What sets it apart</p><p style="margin:0">{escape(", ".join(found.terms))}</p>'
            f'<p class="head" style="margin:12px 0 2px 0">Members <span class="faint">records</span></p>'
            f'<table width="100%">{rows}</table>{rest}'
        )

    def _several(self, items: tuple[Item, ...]) -> str:
        s = self.session
        network, counted = s.related.network, s.related.counted
        there = [i for i in map(s.item, items) if i >= 0]
        records = np.unique(counted.record[np.isin(counted.item, s.related.shown()[there])])
        names = ", ".join(item_anchor(network, i) for i in there[:30])
        more = f" and {len(there) - 30} more" if len(there) > 30 else ""
        return (
            f'<p class="faint">Selection</p><p class="title" style="margin:4px 0">{len(there):,} items</p><p>{names}{more}</p>{self._settle()}'
            f"{records_html(self.page, s, records, 'several')}"
        )

    def _tint(self, topic: int) -> str:
        s = self.session
        slot = s.drawing.slots.get(topic, 0) if s.drawing is not None else 0
        return topic_colours(slot, look().chart).mark

    def _topic_name(self, topic: int) -> str:
        return next((t.name for t in self.session.grouped.topics if t.number == topic + 1), f"topic {topic + 1}")
