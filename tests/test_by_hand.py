"""Changes by hand: what they do to a network against a plain list of ties, what cannot be done, and the window's links."""

import csv
import re

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from PyQt6.QtCore import QUrl
from PyQt6.QtWidgets import QApplication, QLineEdit

from tests.building import network_of
from tests.test_desktop import done, opened, window  # noqa: F401
from umber_knot.cli import main
from umber_knot.corpus.assemble import corpus_of
from umber_knot.corpus.by_hand import changes_of, fault_of, scope_of, scope_words
from umber_knot.corpus.model import Decision, RawRecord, Source
from umber_knot.corpus.named import named_columns
from umber_knot.desktop.changing import add_item, follow
from umber_knot.desktop.parts import Popup
from umber_knot.desktop.selection import Selection, written
from umber_knot.reconcile.decisions import read_decisions, resolve
from umber_knot.relate.changes import ties_changed
from umber_knot.relate.counting import count
from umber_knot.relate.parameters import Relate
from umber_knot.relate.selecting import related

DEED = st.tuples(
    st.sampled_from(["add", "remove", "reverse", "weigh", "set"]),
    st.integers(0, 4),
    st.integers(0, 4),
    st.sampled_from([0.5, 2.0, 7.0]),
)
EDGES = st.lists(
    st.tuples(st.integers(0, 3), st.integers(0, 3)).filter(lambda e: e[0] != e[1]), max_size=6, unique=True
)
LABELS = ["a", "b", "c", "d"]


@given(EDGES, st.lists(DEED, max_size=8), st.booleans())
@settings(max_examples=150)
def test_ties_are_changed_as_a_list_of_them_would_be(edges, deeds, directed):
    network = network_of(4, edges, LABELS, directed=directed) if directed else network_of(4, edges, LABELS)
    plain = dict.fromkeys(zip(network.source.tolist(), network.target.tolist()), 1.0)
    labels, refused = {}, []
    decisions = []
    for what, i, j, w in deeds:
        d = Decision("tie", what, *("abcd?"[k] for k in (i, j)), scope_of(1, weight=w, column="label", value=str(w)))
        decisions.append(d)
        pair = (i, j) if directed or i <= j else (j, i)
        there = pair in plain
        if 4 in (i, j) or (there or i == j if what == "add" else not there) or (what == "reverse" and not directed):
            refused.append(d)
        elif what == "add":
            plain[pair] = w
        elif what == "remove":
            del plain[pair]
            labels.pop(pair, None)
        elif what == "weigh":
            plain[pair] = w
        elif what == "set":
            labels[pair] = str(w)
        elif (j, i) in plain:  # a second tie the other way
            return
        else:
            plain[j, i] = plain.pop(pair)
            if pair in labels:
                labels[j, i] = labels.pop(pair)
    after, _, unapplied = ties_changed(network, decisions)
    assert dict(zip(zip(after.source.tolist(), after.target.tolist()), after.weight.tolist())) == plain
    assert [d for d, _ in unapplied] == refused and all(why for _, why in unapplied)
    told = after.tie_columns["label"].listed() if "label" in after.tie_columns else [None] * after.ties
    pairs = list(zip(after.source.tolist(), after.target.tolist()))
    assert {p: v for p, v in zip(pairs, told) if v is not None} == labels
    assert len(after.tie_first) == len(after.count) == after.ties


def study(*groups):
    raw = [RawRecord(k + 1, title=f"On mud {k}", persons=list(people), year=1990) for k, people in enumerate(groups)]
    return corpus_of([(Source("s", "s", "RIS", "utf-8", "", len(raw)), raw)])


def network(corpus, changes, **sentence):
    sentence = Relate(**sentence)
    known = {kind: resolve(corpus, kind, []) for kind in sentence.reconciled}
    found = related(corpus, count(corpus, known, sentence), sentence, changes)
    n = found.network
    pairs = {frozenset((n.label[s], n.label[t])) for s, t in zip(n.source, n.target)}
    return found, set(n.label), pairs


def test_an_item_brought_in_comes_with_its_ties_and_one_left_out_takes_them():
    corpus = study("AB", "AB", "AC")
    hand = [Decision("item", "add", "C", "", "strand=1"), Decision("item", "remove", "B", "", "strand=1")]
    found, items, pairs = network(corpus, hand, min_records=2)
    assert items == {"A", "C"} and pairs == {frozenset("AC")}
    assert ("by hand", 2, 2, "items") in found.filtered.steps
    again = network(corpus, [*hand, hand[0]], min_records=2)[0].filtered.unapplied
    assert [why for _, why in again] == ["it is in the network anyway"]


def test_what_is_not_in_the_material_is_made_and_can_be_tied():
    corpus = study("AB")
    hand = [
        Decision("item", "add", "Z", "", "strand=1"),
        Decision("tie", "add", "Z", "A", "strand=1 weight=3"),
        Decision("item", "set", "Z", "", "strand=1 column=role value=host"),
        Decision("item", "add", "A", "", "strand=1"),
    ]
    found, items, pairs = network(corpus, hand, keep="connected")
    assert items == {"A", "B", "Z"} and frozenset("AZ") in pairs
    z = list(found.network.label).index("Z")
    assert found.network.records[z] == 0 and found.network.item_columns["role"].listed()[z] == "host"
    assert found.network.strength()[z] == 3
    assert found.shown()[z] == len(resolve(corpus, "person", []).label)
    assert len(found.filtered.unapplied) == 1  # A is there anyway


def test_an_item_made_among_records_is_no_record():
    raw = [RawRecord(k + 1, title=f"On mud {k}", persons=["A"], year=1990 + k) for k in range(2)]
    corpus = corpus_of([(Source("s", "s", "RIS", "utf-8", "", 2), raw)])
    corpus = corpus.knowing(named_columns(corpus, []).by_name())
    hand = [Decision("item", "add", "lost book", "", "strand=1")]
    found, items, _ = network(corpus, hand, tie="similarity", of="record", column="year")
    assert "lost book" in items and len(found.network) == 3 and np.isnat(found.network.first[2])


def test_names_that_mean_two_items_need_their_kind():
    raw = [RawRecord(1, title="On mud", persons=["Mud"], venue="Mud", year=1990)]
    corpus = corpus_of([(Source("s", "s", "RIS", "utf-8", "", 1), raw)])
    bare = [Decision("item", "remove", "Mud", "", "strand=1")]
    found, _, _ = network(corpus, bare, tie="two-mode", of="person", second="venue")
    assert len(found.network) == 2 and "2 items" in found.filtered.unapplied[0][1]
    said = [Decision("item", "remove", "Mud", "", scope_of(1, kind="venue"))]
    assert network(corpus, said, tie="two-mode", of="person", second="venue")[0].network.kind_of(0) == "person"


def test_scopes_are_read_or_refused_with_the_reason():
    assert scope_words(Decision("item", "set", "x", "", scope_of(3, column="home town", value="Old Quay"))) == (
        3,
        "",
        1.0,
        "home town",
        "Old Quay",
    )
    for d in (
        Decision("tie", "add", "a"),
        Decision("tie", "merge", "a", "b"),
        Decision("item", "reverse", "a"),
        Decision("tie", "add", "a", "b", "strand=x"),
        Decision("tie", "weigh", "a", "b", "weight=-1"),
        Decision("tie", "weigh", "a", "b", "weight=nan"),
        Decision("tie", "add", "a", "b", "'"),
        Decision("tie", "add", "a", "b", "loud"),
        Decision("item", "set", "a", "", "strand=1"),
    ):
        assert fault_of(d)
    mixed = [Decision("item", "add", "a", "", "strand=2"), Decision("person", "merge", "a", "b")]
    assert changes_of(mixed, 1) == () and changes_of(mixed, 2) == (mixed[0],)


def test_a_run_takes_changes_from_the_file_of_decisions_and_says_what_it_could_not_do(tmp_path, capsys):
    (tmp_path / "a.ris").write_text("TY  - JOUR\nTI  - Mud\nAU  - Dray, T\nAU  - Marl, J\nPY  - 1990\nER  -\n")
    (tmp_path / "d.csv").write_text(
        "kind,decision,form,preferred,scope,note\n"
        'item,add,"Sedge, W",,strand=1,a guest\n'
        'tie,add,"Sedge, W","Dray, T",strand=1 weight=2,\n'
        'tie,weigh,"Dray, T",Nobody,strand=1 weight=2,\n'
        'tie,stretch,"Dray, T","Marl, J",,\n'
        "item,add,Curlew,,strand=7,\n"
    )
    (tmp_path / "r.toml").write_text('[gather]\nsources = ["a.ris"]\n[reconcile]\ndecisions = ["d.csv"]\n')
    assert main(["run", str(tmp_path / "r.toml"), "--out", str(tmp_path / "out")]) == 0
    said = capsys.readouterr().err
    assert "no item is called 'Nobody' here" in said and "unknown decision 'stretch' on a tie" in said
    with (tmp_path / "out" / "ties.csv").open(newline="") as file:
        rows = {frozenset((r["source"], r["target"])): float(r["weight"]) for r in csv.DictReader(file)}
    assert rows[frozenset(("Sedge, W", "Dray, T"))] == 2
    assert "by hand: 2 → 3 items (1 added)" in (tmp_path / "out" / "methods.md").read_text()
    kept, problems = read_decisions(tmp_path / "out" / "decisions.csv")
    assert "there is no strand 7" in said
    assert len(kept) == 4 and not problems  # what was read is written, and reads back


def test_by_hand_in_the_window(opened, qtbot):  # noqa: F811
    opened.show_desk("relate")
    desk, s = opened.desks["relate"], opened.session
    network = s.related.network
    t = int(np.argmax(network.weight))
    pair = network.identity(int(network.source[t])), network.identity(int(network.target[t]))
    s.select(Selection(tie=pair))
    assert "untie" in desk.why.toPlainText()
    items, ties = len(network), network.ties
    done(opened, qtbot, lambda: desk.why.anchorClicked.emit(QUrl(hrefs(desk.why, "untie")[0])))
    assert s.related.network.ties == ties - 1
    assert all(t in desk.why.toPlainText() for t in ("tie them by hand", "no tie drawn", "by hand: untie"))
    done(opened, qtbot, lambda: add_item(s, "a guest word"))
    guest = ("keyword", "a guest word")
    assert len(s.related.network) == items + 1 and s.item(guest) >= 0
    done(opened, qtbot, lambda: follow(s, f"tie:{written(pair[0], guest)}", desk))
    assert s.related.network.ties == ties and "3 changes" in desk.recipe.text()
    s.select(Selection(tie=(pair[0], guest)))
    assert "by hand: tie " in desk.why.toPlainText()
    s.select(Selection(items=(guest,)))
    for name in ("chart", "group", "report", "reconcile", "relate"):  # an item without records troubles no desk
        opened.show_desk(name)
        qtbot.wait(30)
    for _ in range(3):
        done(opened, qtbot, s.undo)
    assert (len(s.related.network), s.related.network.ties) == (items, ties)
    assert not changes_of(s.decisions, 1)


def hrefs(page, text):
    return re.findall(r'href="([^"]+)"[^>]*>(?:<[^>]+>)*' + text, page.toHtml())


def test_what_the_sentence_leaves_out_is_brought_in_and_a_weight_asked_for(opened, qtbot):  # noqa: F811
    opened.show_desk("relate")
    desk, s = opened.desks["relate"], opened.session
    n = len(s.related.network)
    desk.table.picked.emit(n)  # the first below the line
    assert "Left out by the sentence" in desk.why.toPlainText()
    done(opened, qtbot, lambda: desk.why.anchorClicked.emit(QUrl(hrefs(desk.why, "bring it in")[0])))
    assert len(s.related.network) == n + 1
    network = s.related.network
    pair = network.identity(int(network.source[0])), network.identity(int(network.target[0]))
    follow(s, f"weigh:{written(*pair)}", desk.why)
    field = next(w for w in QApplication.topLevelWidgets() if isinstance(w, Popup) and w.isVisible()).findChild(
        QLineEdit
    )
    done(opened, qtbot, lambda: (field.setText("41,5"), field.returnPressed.emit()))
    assert s.related.network.weight[0] == 41.5
    said = []
    s.said.connect(lambda *what: said.append(what))
    follow(s, f"weigh:{written(*pair)}", desk.why)
    field = next(w for w in QApplication.topLevelWidgets() if isinstance(w, Popup) and w.isVisible()).findChild(
        QLineEdit
    )
    field.setText("-2"), field.returnPressed.emit()
    assert said and "a number above 0" in said[-1][1]
