"""Any tie said on the desk: what is offered, what is refused and why, and what the pages of evidence say of it."""

import re

import numpy as np
import pytest
from PyQt6.QtCore import QUrl
from PyQt6.QtWidgets import QApplication

from tests.test_desktop import done, opened, window  # noqa: F401
from umber_knot.chart.palette import LIGHT
from umber_knot.corpus.assemble import corpus_of
from umber_knot.corpus.model import RawRecord, Source
from umber_knot.desktop.parts import Link, Popup
from umber_knot.desktop.selection import Selection
from umber_knot.relate.offered import Offered, offered, turned
from umber_knot.relate.parameters import Relate
from umber_knot.report.svg import PlateText, plate


def control(opened, name):  # noqa: F811
    return next(w for w in opened.desks["relate"].recipe.controls() if w.control.name == name).control


@pytest.fixture
def relate(opened):  # noqa: F811
    opened.show_desk("relate")
    return opened.desks["relate"]


def choose(opened, qtbot, name, word):  # noqa: F811
    """Choose a word of the sentence by what it says."""
    c = control(opened, name)
    value = next(value for value, said, _ in c.options if said == word)
    done(opened, qtbot, lambda: c.chosen(value))


def test_the_sentence_ties_records_that_cite_and_says_the_arithmetic(opened, relate, qtbot):  # noqa: F811
    s = opened.session
    choose(opened, qtbot, "kind of item", "records")
    choose(opened, qtbot, "what ties them", "that cite one another")
    network = s.related.network
    assert network.directed and network.kinds == ("record",) and network.ties > 5000
    sentence = relate.recipe.text()
    assert "weighed" not in sentence and "counted" not in sentence and "in at least" not in sentence
    t = int(np.argmax(network.weight))
    s.select(Selection(tie=(network.identity(int(network.source[t])), network.identity(int(network.target[t])))))
    why = relate.why.toPlainText()
    assert "→" in why and "1 citation" in why and "cites" in why
    title = s.corpus.title[int(network.entity[network.target[t]])]
    assert title[:30] in " ".join(why.split())
    choose(opened, qtbot, "kind of item", "people")
    assert s.recipe.relate.tie == "citation" and s.recipe.relate.of == "person"
    choose(opened, qtbot, "counting", "fractionally")
    network = s.related.network
    t = int(np.argmax(network.count))
    pair = network.identity(int(network.source[t])), network.identity(int(network.target[t]))
    s.select(Selection(tie=pair))
    assert f"= {network.weight[t]:.4g}" in relate.why.toPlainText()


def test_two_kinds_are_kept_or_projected_and_undo_goes_back(opened, relate, qtbot):  # noqa: F811
    s = opened.session
    choose(opened, qtbot, "kind of item", "people")
    choose(opened, qtbot, "what ties them", "to the venues in their records")
    assert s.related.network.kinds == ("person", "venue") and s.recipe.relate.normalise == "none"
    assert relate.items.heading.text() == "People and venues"
    venue = next(one for one in s.related.network.identities() if one[0] == "venue")
    opened.show_desk("chart")
    s.select(Selection(items=(venue,)))
    assert s.called(venue) in opened.desks["chart"].evidence.page.toPlainText()
    opened.show_desk("relate")
    choose(opened, qtbot, "kept as", "as venues that share them")
    assert s.related.network.kinds == ("venue",)
    assert "people shared" in relate.why.toPlainText()
    done(opened, qtbot, s.undo)
    done(opened, qtbot, s.undo)
    assert s.related.network.kinds == ("person",) and s.recipe.relate.tie == "co-authorship"


def test_what_cannot_be_tied_says_why(opened, relate, qtbot):  # noqa: F811
    s, said = opened.session, []
    s.said.connect(lambda *words: said.append(words))
    choose(opened, qtbot, "kind of item", "people")
    c = control(opened, "what ties them")
    value, _, meaning = next(one for one in c.options if one[1] == "who write to one another")
    assert meaning == "not here: no letter says from and to"
    before = s.recipe
    c.chosen(value)
    assert s.recipe == before and said[-1][:2] == ("They cannot be tied so", "no letter says from and to")


def test_one_click_on_gather_makes_a_network_and_the_next_goes_to_it(opened, qtbot):  # noqa: F811
    s = opened.session
    opened.show_desk("gather")

    def ask(row, network):
        opened.show_desk("gather")
        allows = opened.desks["gather"].allows
        next(one for one in allows.findChildren(Link) if one.text() == row).click()
        popup = next(w for w in QApplication.topLevelWidgets() if isinstance(w, Popup) and w.isVisible())
        done(opened, qtbot, next(one for one in popup.findChildren(Link) if one.text() == network).click)

    ask("Citations among records", "References cited together")
    assert len(s.recipe.strands) == 2 and s.strand.relate.tie == "co-citation" and opened.desks["relate"].isVisible()
    ask("People who share a record", "People and venues")
    assert len(s.recipe.strands) == 3
    ask("Citations among records", "References cited together")
    assert len(s.recipe.strands) == 3 and s.strand.relate.tie == "co-citation"


def test_fewer_ties_are_asked_for_and_taken_back(opened, relate, qtbot):  # noqa: F811
    s = opened.session
    every = s.related.network.ties
    choose(opened, qtbot, "fewer ties", "an item's strongest")
    assert s.recipe.relate.top_k == 5 and s.related.network.ties < every
    choose(opened, qtbot, "fewer ties", "the backbone")
    assert s.recipe.relate.backbone == 0.05 and "less likely by chance than 0.050" in relate.recipe.text()
    done(opened, qtbot, lambda: control(opened, "strongest ties").chosen(0))
    done(opened, qtbot, lambda: control(opened, "backbone").chosen(0))
    assert s.related.network.ties == every
    done(opened, qtbot, lambda: control(opened, "records").chosen("source:mills.ris"))
    assert "not source:mills.ris" in [what for what, *_ in s.related.filtered.steps]


def of(*records):
    return corpus_of([(Source("a", "", "", "", "", len(records)), list(records))])


def test_what_is_offered_follows_from_the_material():
    bare = {(o.tie, o.of): o.why for o in offered(of(RawRecord(1, title="x")), None) if o.tie != "two-mode"}
    assert set(bare.values()) == {
        f"no record names {words}"
        for words in ("people", "words", "venues", "institutions", "places", "countries", "references")
    } | {"no record lists its references", ""}
    assert {pair for pair, why in bare.items() if not why} == {
        ("concept", "term"),
        ("similarity", "record"),
        ("similarity", "term"),
    }
    letter = RawRecord(1, others=[("person", "sender", "A"), ("person", "recipient", "B")], references=["X, 1900"])
    some = {(o.tie, o.of): o.why for o in offered(of(letter), None) if o.tie != "two-mode"}
    assert some["correspondence", "person"] == some["coupling", "record"] == some["co-citation", "reference"] == ""
    assert some["citation", "record"] == "references are still being matched"
    assert all(
        not Relate(tie=o.tie, of=o.of, second=o.second, column="year").contradiction()[0]
        for o in offered(of(letter), None)
    )


def test_what_does_not_go_with_a_new_tie_goes_back_to_its_first_value():
    words = Relate(tie="co-occurrence", of="keyword", normalise="association", min_records=4, counting="fractional")
    assert turned(words, "citation", "record") == {
        "tie": "citation",
        "of": "record",
        "normalise": "none",
        "counting": "full",
        "min_records": 1,
    }
    assert turned(words, "co-citation", "keyword") == {"tie": "co-citation"}
    assert turned(words, "two-mode", "keyword", "venue") == {"tie": "two-mode", "second": "venue", "normalise": "none"}
    assert Offered("two-mode", "keyword", "venue").why == ""


def test_two_kinds_have_two_shapes_on_chart_and_plate(opened, qtbot):  # noqa: F811
    s = opened.session
    done(opened, qtbot, lambda: s.set_recipe("relate", **turned(s.strand.relate, "two-mode", "person", "venue")))
    desk = opened.desks["chart"]
    assert desk.legend.shapes.text() == "round: people, square: venues"
    drawing = desk.canvas.drawing
    inks, ratio = desk.canvas._inks, desk.canvas.devicePixelRatioF()
    round_, square = (inks.mark("#123456", 40, ratio, one).toImage() for one in (False, True))
    half = round_.width() // 2
    assert square.pixelColor(half + 8, half + 8).alpha() == 255 and round_.pixelColor(half + 8, half + 8).alpha() < 255
    text = plate(drawing, PlateText("", "", "records shared", ()), 180.0, LIGHT)
    marks = re.findall(r"<(circle|rect) [^>]*stroke-width=[^>]*><title>", text)
    assert marks.count("rect") == int((drawing.network.kind_code == 1).sum()) > 0
    assert marks.count("circle") == int((drawing.network.kind_code == 0).sum())


def test_the_surroundings_of_what_is_selected_are_asked_for_where_it_is_explained(opened, qtbot):  # noqa: F811
    s = opened.session
    whole = s.related.network
    item = whole.identity(int(np.argmin(whole.degree() + 1000 * (whole.degree() == 0))))
    near = int(whole.degree()[s.item(item)]) + 1
    s.select(Selection(items=(item,)))
    page = opened.desks["chart"].evidence.page
    assert "only its surroundings" in page.toPlainText()
    done(opened, qtbot, lambda: page.anchorClicked.emit(QUrl("around:selected")))
    assert len(s.related.network) == near and s.item(item) >= 0
    sentence = opened.desks["chart"].sentence
    assert f"within 1 step of {item[1]}" in sentence.text()
    done(opened, qtbot, lambda: next(w for w in sentence.controls() if w.control.name == "steps").control.chosen(2))
    assert near < len(s.related.network) < len(whole)
    whose = next(w for w in sentence.controls() if w.control.name == "surroundings of").control
    done(opened, qtbot, lambda: whose.chosen(False))
    assert len(s.related.network) == len(whole)
