"""The evidence panel: why is this here? Numbers, ties, spellings and records, each a link."""

from __future__ import annotations

from collections.abc import Sequence
from html import escape
from urllib.parse import quote, unquote

import numpy as np
from PyQt6.QtCore import QUrl
from PyQt6.QtGui import QImage, QPainter, QShowEvent, QTextDocument
from PyQt6.QtWidgets import QTextBrowser, QVBoxLayout, QWidget

from umber_knot.chart.palette import topic_colours
from umber_knot.corpus.model import KINDS
from umber_knot.corpus.steps import Item
from umber_knot.desktop.parts import Panel, anchor
from umber_knot.desktop.selection import Selection, understood, written
from umber_knot.desktop.session import Session
from umber_knot.desktop.theme import SANS, SERIF, colour, look
from umber_knot.network.model import Network
from umber_knot.relate.relating import evidence, records_of

SHOWN = 12  # records listed at once


class Page(QTextBrowser):
    """Linked text in the house style; ``fill`` takes HTML whose texts are escaped."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setOpenLinks(False)
        self.setOpenExternalLinks(False)
        self.document().setDocumentMargin(0)
        self.anchorClicked.connect(self._follow)
        self.more: dict[str, int] = {}
        self._filled: object = None  # what is shown, and in which look

    def fill(self, html: str, pictures: dict[str, QImage] | None = None) -> None:
        c = look()
        if self._filled == (html, pictures, c.ink):
            return  # as it stands, scrolled as it is
        self._filled = html, pictures, c.ink
        self.document().setDefaultStyleSheet(
            f"body {{ font-family: '{SANS}'; font-size: 13px; color: {c.ink}; }} a {{ color: {c.ink}; text-decoration: none; }}"
            f" .title {{ font-family: '{SERIF}'; font-size: 20px; }} .serif {{ font-family: '{SERIF}'; font-size: 15px; }}"
            f" .faint {{ color: {c.faint}; font-size: 12px; }} .head {{ font-weight: bold; }} .ochre {{ color: {c.ochre}; }}"
            f" .link {{ color: {c.umber}; text-decoration: underline; }} td {{ padding: 2px 0; white-space: nowrap; }} pre {{ font-size: 12px; }}"
        )
        for name, image in (pictures or {}).items():
            self.document().addResource(QTextDocument.ResourceType.ImageResource.value, QUrl(name), image)
        self.setHtml(f"<body>{html}</body>")

    def _follow(self, url: QUrl) -> None:
        kind, _, quoted = bytes(url.toEncoded()).decode().partition(":")
        key = unquote(quoted)
        s = self.session
        if kind == "item":
            s.select(Selection(items=understood(key)))
        elif kind == "tie":
            a, b = understood(key)
            s.select(Selection(tie=(a, b)))
        elif kind == "topic":
            s.select(Selection(topic=int(key)))
        elif kind == "record":
            s.select(Selection(record=int(key)))
        elif kind == "aside":
            self.session.set_aside_selected()
        elif kind == "more":
            self.more[key] = self.more.get(key, SHOWN) * 4
            s.selected.emit()


def record_html(s: Session, record: int, extra: str = "") -> str:
    """Two lines for a record: its title, and people, year and place in the source."""
    assert s.corpus is not None
    people = s.corpus.of("person")
    lo, hi = np.searchsorted(people.record, [record, record + 1])
    names = [people.forms[f] for f in people.form[lo:hi][:3]]
    who = "; ".join(names) + (" and others" if hi - lo > 3 else "")
    year = int(s.corpus.year[record])
    line = ", ".join(filter(None, [who, str(year) if year else "no year"]))
    title = s.corpus.title[record] or "(no title)"
    return (
        f'<p style="margin:0 0 9px 0"><span class="serif">{anchor("record", int(s.corpus.id[record]), title)}</span><br>'
        f'<span class="faint">{escape(line)}{extra} · {escape(_places(s, record))}</span></p>'
    )


def _places(s: Session, record: int) -> str:
    """Where a record was found, every place."""
    assert s.corpus is not None
    return "; also ".join([s.corpus.place(record), *(s.corpus.spot(a, b) for a, b, *_ in s.corpus.findings(record))])


def records_html(page: Page, s: Session, records: Sequence[int], key: str, extra: Sequence[str] = ()) -> str:
    """A list of records with a link to more."""
    shown = page.more.get(key, SHOWN)
    parts = [record_html(s, int(r), extra[k] if extra else "") for k, r in enumerate(records[:shown])]
    if len(records) > shown:
        parts.append(f'<p><a class="link" href="more:{quote(key, safe="")}">{len(records) - shown:,} more</a></p>')
    head = f"1–{min(shown, len(records))} of {len(records):,}"
    return (
        f'<p style="margin:12px 0 6px 0"><span class="head">Records</span> <span class="faint">{head}</span></p>'
        + "".join(parts)
    )


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
        top = np.lexsort((np.arange(n), -network.records))[:10]
        rows = "".join(
            f'<tr><td width="100%">{item_anchor(network, i)}</td>'
            f'<td align="right" class="faint">{network.records[i]}</td></tr>'
            for i in top
        )
        return (
            '<p class="faint">Evidence</p><p class="title" style="margin:4px 0">Nothing is selected</p>'
            '<p class="faint">Choose an item, a tie, a topic or a record anywhere, and read here why it is there: '
            "its records with file and line, its ties, its spellings.</p>"
            + (
                f'<p class="head" style="margin-bottom:2px">Most records</p><table width="100%">{rows}</table>'
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
        head = "weight, records shared" if weighed else "records shared"
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
        return (
            f'<p class="faint">Evidence</p><p class="title" style="margin:4px 0">{escape(network.label[i])}</p>'
            f'<p style="margin:0">in {n:,} record{"s" * (n != 1)}{span}{topic_line}</p>{picture}{strongest}'
            f"{self._spellings(entity)}{self._settle()}{records_html(self.page, s, records, 'item' + written(identity))}"
        )

    def _spellings(self, entity: int) -> str:
        s = self.session
        resolution = s.resolution(s.shown_strand.relate.of)
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
            f'<span class="faint">X</span></p>'
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


def tie_html(page: Page, s: Session, a: Item, b: Item) -> str:
    """Why two items are tied: the sum that makes the weight, what each has alone, and the records."""
    network, counted = s.related.network, s.related.counted
    i, j = sorted((s.item(a), s.item(b)))
    ea, eb = s.related.shown()[[i, j]].tolist()
    found = np.flatnonzero((network.source == i) & (network.target == j))
    shared = evidence(counted, ea, eb)
    n_a, n_b = int(counted.records[ea]), int(counted.records[eb])
    weight = f"{network.weight[found[0]]:.3g}" if len(found) else "no tie drawn"
    size = np.bincount(counted.record, minlength=len(s.corpus))
    extra: list[str] = [f" · {size[r]} {s.words(int(size[r]))}" for r in shared.tolist()]
    sums = ""
    if s.shown_strand.relate.counting == "fractional" and len(shared):
        terms = [f"1/{size[r] - 1}" for r in shared.tolist()]
        extra = [f"{e} · gives {t}" for e, t in zip(extra, terms)]
        total = sum(1 / (size[r] - 1) for r in shared.tolist())
        said = " + ".join(terms[:12]) + (" + …" if len(terms) > 12 else "")
        sums = f'<p class="faint" style="margin:2px 0">{said} = {total:.3f}</p>'
    if s.shown_strand.relate.normalise != "none" and len(found):
        sums += f'<p class="faint" style="margin:2px 0">normalised by {s.shown_strand.relate.normalise}: {weight}</p>'
    wash = look().wash
    cells = "".join(
        f'<td width="33%" style="padding:6px;{"background:" + wash if k == 1 else ""}"><b>{n:,}</b><br>'
        f'<span class="faint">{escape(text)}</span></td>'
        for k, (n, text) in enumerate(
            (
                (n_a - len(shared), f"only {network.label[i]}"),
                (len(shared), "together"),
                (n_b - len(shared), f"only {network.label[j]}"),
            )
        )
    )
    return (
        f'<p class="faint">Why are they tied?</p><p class="title" style="margin:4px 0">'
        f'{item_anchor(network, i)} — <span style="color:{look().umber}">{weight}</span> — '
        f"{item_anchor(network, j)}</p>"
        f'<p style="margin:0">{len(shared):,} record{"s" * (len(shared) != 1)} together</p>{sums}'
        f'<table width="100%" cellspacing="0" style="margin-top:6px"><tr>{cells}</tr></table>'
        f"{records_html(page, s, shared.tolist(), 'tie', extra)}"
    )


def item_anchor(network: Network, i: int) -> str:
    """An item's label as a link to it."""
    return anchor("item", written(network.identity(i)), network.label[i])


def record_page_html(s: Session, record: int) -> str:
    """One record in full: what it says, what each of its mentions stands for, and its raw text."""
    d = s.detail(record)
    faint = escape(", ".join(filter(None, [d.type, d.date, d.doi])))
    parts = [
        f'<p class="faint">Record · {escape(_places(s, record))}</p>',
        f'<p class="title" style="margin:4px 0">{escape(d.title or "(no title)")}</p>',
        f'<p class="faint" style="margin:0">{faint}</p>',
    ]
    for kind in KINDS:
        said = _mentioned(s, kind, record)
        if said:
            head = s.words(2, kind).capitalize()
            parts.append(f'<p style="margin:10px 0 0 0"><span class="head">{head}</span><br>{", ".join(said)}</p>')
    if d.abstract:
        parts.append(f'<p style="margin:10px 0 0 0" class="serif">{escape(d.abstract)}</p>')
    raw = escape(d.raw[:4000])
    parts.append('<p style="margin:12px 0 0 0"><span class="head">As it stands in the file</span></p>')
    parts.append(f'<pre style="white-space:pre-wrap">{raw}</pre>')
    return "".join(parts)


def _mentioned(s: Session, kind: str, record: int) -> list[str]:
    """The mentions of a kind in a record, each with what it stands for and as a link where that is in the network."""
    mentions, resolution = s.mentions(kind), s.resolution(kind)
    lo, hi = np.searchsorted(mentions.record, [record, record + 1])
    said = []
    for f in mentions.form[lo:hi].tolist():
        form = mentions.forms[f]
        if resolution is None:
            said.append(escape(form))
            continue
        entity = int(resolution.entity[f])
        stands, head = resolution.label[entity], mentions.forms[int(resolution.head[entity])]
        text = anchor("item", written((kind, head)), form) if s.item((kind, head)) >= 0 else escape(form)
        said.append(text + (f' <span class="faint">for {escape(stands)}</span>' if stands != form else ""))
    return said
