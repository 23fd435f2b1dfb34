"""Standing: ranks and profiles against plain sorting, and the desk, the figures and the removal trials in the window."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from scipy.stats import kendalltau

from tests.test_desktop import done, opened, settled, window  # noqa: F401
from umber_knot.desktop.parts import Link, Popup
from umber_knot.desktop.selection import Selection
from umber_knot.lineage.nodes import Node
from umber_knot.network.measures.registry import MEASURES, columns_in, family
from umber_knot.network.standing import agreement, contrasts, ranks, share_below

VALUES = st.lists(st.sampled_from([0.0, 1.0, 2.5, 7.0, math.nan]), min_size=1, max_size=9)


@given(VALUES)
def test_ranks_and_shares_are_those_of_counting(values):
    v = np.array(values)
    known = [x for x in values if x == x]
    for x, rank, below in zip(values, ranks(v), share_below(v)):
        if x != x:
            assert math.isnan(rank) and math.isnan(below)
        else:
            assert rank == 1 + sum(y > x for y in known)
            assert below == pytest.approx(sum(y < x for y in known) / max(len(known) - 1, 1))


@given(VALUES, VALUES)
def test_agreement_and_contrasts(one, other):
    n = min(len(one), len(other))
    a, b = np.array(one[:n]), np.array(other[:n])
    both = ~(np.isnan(a) | np.isnan(b))
    want = kendalltau(a[both], b[both]).statistic if both.sum() > 1 else math.nan
    assert agreement(a, b) == pytest.approx(want, nan_ok=True)
    gap = np.nan_to_num(share_below(a) - share_below(b))
    high, low = contrasts(a, b, 2)
    assert all(gap[i] > 0 for i in high) and all(gap[i] < 0 for i in low)
    assert len(high) == min(2, (gap > 0).sum()) and (not len(high) or gap[high[0]] == gap.max())


def test_every_column_has_its_family():
    for m in MEASURES:
        for column in (m.name, *((m.name + "_weighted",) if m.weighs else ())):
            assert column in columns_in(family(column))
    assert family("closeness") == family("stress") == "paths" and family("hub_weighted") == "hubs_weighted"


@pytest.fixture
def standing(opened, qtbot):  # noqa: F811
    opened.show_desk("standing")
    desk, s = opened.desks["standing"], opened.session
    qtbot.waitUntil(lambda: settled(opened) and all(s.measured(c) is not None for c in desk.known()), timeout=60_000)
    return desk


def test_one_item_over_all_measures_and_two_overlaid(opened, standing, qtbot):  # noqa: F811
    s = opened.session
    network = s.related.network
    assert f"Where {len(network):,} words stand in" in standing.sentence.text()
    assert [c.heading for c in standing.table.rows.columns][:3] == ["name", "degree", "strength"]
    standing.search.setText("tide mill")
    assert 0 < standing.table.rows.rowCount() < len(network)
    one, other = ("keyword", "tide mill"), network.identity(3)
    s.select(Selection(items=(one, other)))
    row = next(r for r in standing.profile.rows if r.name == "betweenness")
    v = s.measured("betweenness")
    assert row.places[0].value == v[s.item(one)] and row.places[0].rank == 1 + (v > v[s.item(one)]).sum()
    assert len(row.places) == 2 and network.label[3] in standing.who.text()
    standing.grab()  # painted without a fault
    QTest.mouseClick(standing.profile, Qt.MouseButton.LeftButton, pos=QPoint(30, 20 + 34 * 2 + 10))
    assert standing.axes[0] == "betweenness" and "τ" in standing.agree.text()
    assert "high in betweenness" in standing.unlike.text().lower() or "high in degree" in standing.unlike.text().lower()


def test_measures_are_chosen_and_those_that_cannot_be_say_why(opened, standing, qtbot):  # noqa: F811
    standing._choose()
    popup = next(w for w in QApplication.topLevelWidgets() if isinstance(w, Popup) and w.isVisible())
    assert any("ties have no direction" in label.text() for label in popup.findChildren(type(standing.agree)))
    katz = next(link for link in popup.findChildren(Link) if link.text() == "+ Katz")
    done(opened, qtbot, katz.clicked.emit)
    qtbot.waitUntil(lambda: opened.session.measured("katz") is not None, timeout=60_000)
    assert "Katz" in [c.heading for c in standing.table.rows.columns]
    standing._switch("katz")
    assert "katz" not in standing.known()


def test_measures_follow_a_new_network_and_marks_can_be_sized_by_any(opened, standing, qtbot):  # noqa: F811
    s = opened.session
    before = len(s.measured("closeness"))
    done(opened, qtbot, lambda: s.set_recipe("relate", min_records=9))
    qtbot.waitUntil(lambda: s.measured("closeness") is not None, timeout=60_000)
    assert len(s.measured("closeness")) == len(s.related.network) < before
    done(opened, qtbot, lambda: s.set_recipe("chart", size_by="closeness"))
    assert np.array_equal(s.drawing.value, s.measured("closeness"))
    opened.show_desk("chart")
    opened.desks["chart"].grab()
    said = []
    s.said.connect(lambda *what: said.append(what))
    s.set_recipe("chart", size_by="closenes")
    assert "Did you mean 'closeness'" in said[-1][1]


def test_figures_beside_random_networks_and_removal_trials(opened, qtbot):  # noqa: F811
    opened.show_desk("relate")
    desk, s = opened.desks["relate"], opened.session
    desk.look_at("figures")
    qtbot.waitUntil(lambda: desk.figures.table.rows.rowCount() > 10, timeout=60_000)

    def control(view, name):
        return next(w for w in view.sentence.controls() if w.control.name == name).control

    control(desk.figures, "yardstick").chosen("gnm")
    control(desk.figures, "random networks").chosen(4)
    qtbot.waitUntil(lambda: "±" in desk.figures.table.rows.columns[2].text(0), timeout=60_000)
    values = s.shown.results[Node("yardstick", 1, "gnm:4:1")]["transitivity"]
    assert len(values) == 4
    desk.look_at("removal")
    qtbot.waitUntil(lambda: len(desk.removal.curves.curves) == 2, timeout=60_000)
    control(desk.removal, "orders").chosen("degree_recomputed")
    control(desk.removal, "watched").chosen("components")
    qtbot.waitUntil(lambda: len(desk.removal.curves.curves) == 3, timeout=60_000)
    assert desk.removal.curves.curves[0][1][-1] == 0
    desk.removal.grab()
    control(desk.removal, "orders").chosen("random")
    assert len(desk.removal.orders) == 2
    done(opened, qtbot, lambda: s.set_recipe("relate", min_records=900))  # without items
    for view in ("figures", "removal", "items"):
        desk.look_at(view)
        qtbot.wait(100)
        desk.grab()
    opened.show_desk("standing")
    qtbot.wait(200)
    opened.desks["standing"].grab()


def test_what_would_take_over_a_minute_is_estimated_until_it_is_asked_for(opened, standing, qtbot, monkeypatch):  # noqa: F811
    from umber_knot.desktop.desks import standing as module

    monkeypatch.setattr(module, "seconds", lambda network: 240.0)
    standing.bring_up_to_date()
    assert "betweenness" not in standing.known() and "betweenness_estimate" in standing.known()
    qtbot.waitUntil(lambda: opened.session.measured("betweenness_error") is not None, timeout=60_000)
    assert "betweenness, estimated" in [c.heading for c in standing.table.rows.columns]
    standing._choose()
    popup = next(w for w in QApplication.topLevelWidgets() if isinstance(w, Popup) and w.isVisible())
    link = next(one for one in popup.findChildren(Link) if one.text() == "+ betweenness (about 4 min)")
    done(opened, qtbot, link.clicked.emit)
    assert "betweenness" in standing.known()


def test_the_distribution_of_any_measure_and_items_chosen_from_it(opened, qtbot):  # noqa: F811
    opened.show_desk("relate")
    desk, s = opened.desks["relate"], opened.session
    plot, values = desk.degrees, s.related.network.degree()
    assert np.array_equal(plot.values, values)
    frame = plot._frame()
    a, b = (QPoint(round(frame.left() + plot._share(v) * frame.width()), 60) for v in (5, 20))
    QTest.mousePress(plot, Qt.MouseButton.LeftButton, pos=a)
    QTest.mouseMove(plot, b)
    QTest.mouseRelease(plot, Qt.MouseButton.LeftButton, pos=b)
    chosen = [s.item(one) for one in s.selection.items]
    assert {4, 21}.isdisjoint(values[chosen].tolist()) and set(values[(values > 5) & (values < 20)]) <= set(
        values[chosen]
    )
    for way in ("log", "cumulative", "counts"):
        desk._switch_scale()
        assert plot.way == way
        plot.grab()
        for v in (9.0, 20.0):
            assert plot._value(plot._share(v)) == pytest.approx(v)
    desk._choose_measure()
    popup = next(w for w in QApplication.topLevelWidgets() if isinstance(w, Popup) and w.isVisible())
    link = next(one for one in popup.findChildren(Link) if one.text() == "clustering")
    done(opened, qtbot, link.clicked.emit)
    qtbot.waitUntil(lambda: len(plot.values) == len(s.related.network), timeout=60_000)
    assert plot.caption == "clustering" and plot.values.max() <= 1
    plot.grab()
    done(opened, qtbot, lambda: s.set_recipe("relate", min_records=900))
    plot.grab()
