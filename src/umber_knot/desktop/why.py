"""Why two items are tied, as a page: the sum that makes the weight, what each has alone, and the records behind it."""

from __future__ import annotations

from html import escape

import numpy as np

from umber_knot.corpus.by_hand import changes_of, told
from umber_knot.corpus.steps import Item
from umber_knot.desktop.changing import tie_links
from umber_knot.desktop.pages import SHOWN, Page, item_anchor, records_html
from umber_knot.desktop.session import Session
from umber_knot.desktop.theme import look
from umber_knot.relate.explaining import Material, Term, arithmetic, explain
from umber_knot.relate.parameters import SHARED, Relate
from umber_knot.relate.wording import counted_in
from umber_knot.text.quoting import marked, quoted

MOST_TERMS = 12  # of a sum that are written out
SHORT = 44  # letters of a label beside others
WORKS = 40  # of what both share that are listed


def tie_html(page: Page, s: Session, a: Item, b: Item) -> str:
    """Why two items are tied; of a network with directions both ways, where there are both."""
    network, sentence = s.related.network, s.shown_strand.relate
    i, j = s.item(a), s.item(b)
    if not network.directed:
        i, j = sorted((i, j))
    ways = [(i, j)] if not network.directed or i == j else [(i, j), (j, i)]
    drawn = {way: _tie(s, *way) for way in ways}
    ways = [way for way in ways if drawn[way] >= 0] or ways[:1]
    known = {kind: found for kind in sentence.reconciled if (found := s.resolution(kind)) is not None}
    if len(known) < len(sentence.reconciled):
        return '<p class="faint">Why are they tied?</p><p>The spellings are being read again …</p>'
    on = Material(s.corpus, known, s.matched, sentence, s.terms)
    return "".join(_way(page, s, on, *way, drawn[way], k) for k, way in enumerate(ways))


def _tie(s: Session, i: int, j: int) -> int:
    network = s.related.network
    found = np.flatnonzero((network.source == i) & (network.target == j))
    return int(found[0]) if len(found) else -1


def _way(page: Page, s: Session, on: Material, i: int, j: int, tie: int, k: int) -> str:
    """The tie from one item to another."""
    network, counted, sentence = s.related.network, s.related.counted, s.shown_strand.relate
    a, b = s.related.shown()[[i, j]].tolist()
    terms = explain(on, counted, a, b)
    weight = f"{network.weight[tie]:.4g}" if tie >= 0 else "no tie drawn"
    total = sum(t.share for t in terms)
    sums = ""
    if _shared_out(sentence, terms):
        said = " + ".join(t.gives for t in terms[:MOST_TERMS]) + (" + …" if len(terms) > MOST_TERMS else "")
        sums = f'<p class="faint" style="margin:2px 0">{said} = {total:.4g}</p>'
    if by_hand := _by_hand(s, i, j):
        sums = f'<p class="faint" style="margin:2px 0">{by_hand}</p>'
    elif tie >= 0 and (normal := arithmetic(counted, sentence.normalise, a, b, total)):
        sums += f'<p class="faint" style="margin:2px 0">{escape(normal)}</p>'
    between = "→" if network.directed else "—"
    head = '<p class="faint">Why are they tied?</p>' if not k else ""
    return (
        f'{head}<p class="title" style="margin:{14 if k else 4}px 0 4px 0">{item_anchor(network, i)} {between} '
        f'<span style="color:{look().umber}">{weight}</span> {between} {item_anchor(network, j)}</p>'
        f'<p style="margin:0">{len(terms):,} {counted_in(sentence, len(terms))}</p>{sums}'
        f'<p style="margin:6px 0 0 0">{tie_links(s, network.identity(i), network.identity(j), tie >= 0)}</p>'
        f"{_alone(s, i, j, a, b, len(terms))}{_listed(page, s, terms, f'tie{k}', (i, j))}"
    )


def _shared_out(sentence: Relate, terms: list[Term]) -> bool:
    """Whether the parts of a tie give it anything but 1 each."""
    return sentence.tie != "similarity" and (sentence.counting != "full" or any(t.gives != "1" for t in terms))


def _alone(s: Session, i: int, j: int, a: int, b: int, both: int) -> str:
    """What each has alone and what they have together, where they share something."""
    network, counted, sentence = s.related.network, s.related.counted, s.shown_strand.relate
    if network.directed or sentence.tie == "similarity":
        return ""
    own = counted.diagonal if sentence.tie not in ("two-mode",) or sentence.project else counted.records
    cells = (
        (int(own[a]) - both, f"only {_short(network.label[i])}"),
        (both, "together"),
        (int(own[b]) - both, f"only {_short(network.label[j])}"),
    )
    made = "".join(
        f'<td width="33%" style="padding:6px;{"background:" + look().wash if k == 1 else ""}"><b>{n:,}</b><br>'
        f'<span class="faint">{escape(text)}</span></td>'
        for k, (n, text) in enumerate(cells)
    )
    return f'<table width="100%" cellspacing="0" style="margin-top:6px"><tr>{made}</tr></table>'


def _quoted(s: Session, term: Term, items: tuple[int, int]) -> str:
    """The sentence or paragraph of a part, with both terms marked."""
    if term.spot[0] < 0:
        return ""
    text = quoted(s.text_of(term.record), *term.spot)
    shown = "".join(
        f'<b style="color:{look().verdigris}">{escape(piece)}</b>' if mark else escape(piece)
        for piece, mark in marked(text, [spelling for i in items for spelling in s.spellings_of(i)])
    )
    return f'<br><span class="serif">{shown}</span>' if shown else ""


def _by_hand(s: Session, i: int, j: int) -> str:
    """What was changed by hand between two items, in words."""
    network = s.related.network
    names = [{network.form[k], network.label[k]} for k in (i, j)]
    own = [
        told(d)
        for d in changes_of(s.shown.decisions, s.strand_id)
        if d.kind == "tie" and any(d.form in one and d.preferred in other for one, other in (names, names[::-1]))
    ]
    return escape("by hand: " + "; ".join(own)) if own else ""


def _short(text: str) -> str:
    return text if len(text) <= SHORT else f"{text[: SHORT - 1]}…"


def _listed(page: Page, s: Session, terms: list[Term], key: str, items: tuple[int, int]) -> str:
    """The records of the parts, each with what it gives; or what both share, by name."""
    sentence = s.shown_strand.relate
    gives = [f" · gives {t.gives}" if _shared_out(sentence, terms) else "" for t in terms]
    if sentence.tie in ("coupling", "similarity") or sentence.project:
        rows = "".join(
            f'<p style="margin:3px 0">{escape(t.form)}<span class="faint">{more}</span></p>'
            for t, more in zip(terms[:WORKS], gives)
        )
        rest = f'<p class="faint">and {len(terms) - WORKS:,} more</p>' if len(terms) > WORKS else ""
        said = "Both cite" if sentence.tie == "coupling" else "Both have"
        if sentence.tie == "similarity":
            said = f"{sentence.column.capitalize()} of both"
        return f'<p class="head" style="margin:12px 0 2px 0">{said}</p>{rows}{rest}' if terms else ""
    if sentence.tie == "concept":
        extra = [
            more + (_quoted(s, t, items) if k < page.more.get(key, SHOWN) else "")
            for k, (t, more) in enumerate(zip(terms, gives))
        ]
    elif sentence.tie == "citation":
        extra = [
            f" · cites <i>{escape(s.corpus.title[t.other])}</i> as “{escape(t.form)}”{more}"
            for t, more in zip(terms, gives)
        ]
    elif sentence.tie in SHARED or sentence.tie == "co-citation":
        size = np.bincount(s.related.counted.record, minlength=len(s.corpus)).tolist()
        words = ("work cited", "works cited") if sentence.tie == "co-citation" else (s.words(1), s.words(2))
        extra = [f" · {size[t.record]} {words[size[t.record] != 1]}{more}" for t, more in zip(terms, gives)]
    else:
        extra = [f" · {s.corpus.date[t.record]}{more}" for t, more in zip(terms, gives)]
    return records_html(page, s, [t.record for t in terms], key, extra) if terms else ""
