"""Linked text of the study: a page in the house style, and records and items on it."""

from __future__ import annotations

from collections.abc import Sequence
from html import escape
from urllib.parse import quote, unquote

import numpy as np
from PyQt6.QtCore import QUrl
from PyQt6.QtGui import QImage, QTextDocument
from PyQt6.QtWidgets import QTextBrowser

from umber_knot.corpus.model import KINDS
from umber_knot.desktop.changing import follow
from umber_knot.desktop.parts import anchor
from umber_knot.desktop.selection import Selection, understood, written
from umber_knot.desktop.session import Session
from umber_knot.desktop.theme import SANS, SERIF, look
from umber_knot.network.model import Network
from umber_knot.relate.giving import NEUTRAL

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
        elif kind == "around":
            s.set_recipe("relate", around=tuple(form for _, form in s.selection.items), steps=1)
        elif kind == "give":
            s.set_recipe("relate", **{key: NEUTRAL[key]})
        elif kind == "part":
            s.set_recipe("relate", around=tuple(form for _, form in s.selection.items), steps=100)
        elif kind == "hand":
            follow(s, key, self)
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
