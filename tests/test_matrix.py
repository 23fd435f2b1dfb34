"""A network as a matrix and its ties as a table: the numbers, the orders, the file, and the view."""

import csv
import io
from dataclasses import replace

import networkx as nx
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtTest import QTest

from tests.building import network_of, subject_of
from tests.test_desktop import done, opened, window  # noqa: F401
from umber_knot.desktop.matrix import CELL, LEFT, TOP
from umber_knot.errors import UserError
from umber_knot.network.matrix import LARGEST, ORDERS, dense, order
from umber_knot.network.model import Attribute
from umber_knot.relate.offered import turned
from umber_knot.report.tables import matrix_csv
from umber_knot.report.write import contents

EDGES = st.lists(st.tuples(st.integers(0, 6), st.integers(0, 6), st.integers(1, 5)), max_size=20)


@given(EDGES, st.booleans())
@settings(max_examples=60)
def test_the_matrix_is_networkxs(edges, directed):
    network = network_of(7, [e[:2] for e in edges], weight=[e[2] for e in edges], directed=directed)
    graph = nx.DiGraph() if directed else nx.Graph()
    graph.add_nodes_from(range(7))
    for s, t, w in zip(network.source.tolist(), network.target.tolist(), network.weight.tolist()):
        graph.add_edge(s, t, weight=graph.get_edge_data(s, t, {"weight": 0})["weight"] + w)
    expected = nx.to_numpy_array(graph, nodelist=range(7))
    found = dense(network)
    if not directed:
        assert (np.diag(found) == network.records).all()
        np.fill_diagonal(found, np.diag(expected))
    assert np.allclose(found, expected)
    rows = list(csv.reader(io.StringIO(matrix_csv(network))))
    assert rows[0][1:] == [row[0] for row in rows[1:]] == list(network.told_apart())
    assert np.array_equal(np.array([row[1:] for row in rows[1:]], float), dense(network))
    for by in ORDERS:
        assert sorted(order(network, by, np.arange(7) % 3).tolist()) == list(range(7))
    strength = network.strength()[order(network, "strength")]
    assert (np.diff(strength) <= 0).all()
    topics = (np.arange(7) % 3)[order(network, "topic", np.arange(7) % 3)]
    assert (np.diff(topics) >= 0).all()


def test_a_matrix_too_large_is_refused_with_its_size():
    with pytest.raises(UserError, match=r"50,000 × 50,000 takes 20\.0 GB") as error:
        dense(network_of(50_000, [(0, 1)]))
    assert "table of ties" in error.value.cure and LARGEST < 50_000


def test_a_cell_and_a_row_of_ties_open_the_tie_and_the_table_is_copied(opened, qtbot):  # noqa: F811
    s = opened.session
    opened.show_desk("relate")
    desk = opened.desks["relate"]
    network = s.related.network
    desk.looks["matrix"].click()
    matrix = desk.matrix
    assert matrix.isVisible() and not desk.table.isVisible() and desk.copied.isVisible()
    topics = s.grouped.topic[matrix.order]
    assert (np.diff(topics) >= 0).all()
    QTest.mouseClick(matrix.viewport(), Qt.MouseButton.LeftButton, pos=QPoint(LEFT + CELL + 5, TOP + 5))
    pair = network.identity(int(matrix.order[0])), network.identity(int(matrix.order[1]))
    assert s.selection.tie == pair and matrix.at == (0, 1)
    QTest.mouseClick(matrix.viewport(), Qt.MouseButton.LeftButton, pos=QPoint(LEFT + 5, TOP + 5))
    assert s.selection.items == pair[:1]
    desk._order("strength")
    assert (np.diff(network.strength()[matrix.order]) <= 0).all() and desk.ordered.text() == "by strength"
    desk.copied.click()
    rows = [line.split("\t") for line in QGuiApplication.clipboard().text().splitlines()]
    assert len(rows) == len(network) + 1 and rows[1][0] == rows[0][1] == network.label[int(matrix.order[0])]
    desk.looks["ties"].click()
    assert desk.ties.rows.rowCount() == network.ties
    first = int(desk.ties.rows.order[0])
    assert network.weight[first] == network.weight.max()
    desk._tie_picked(first)
    assert s.selection.tie == (
        network.identity(int(network.source[first])),
        network.identity(int(network.target[first])),
    )
    done(opened, qtbot, lambda: s.set_recipe("relate", **turned(s.strand.relate, "citation", "record")))
    assert desk.ties.rows.rowCount() == s.related.network.ties > 5000
    desk.looks["matrix"].click()
    assert len(matrix.order) == 1200 and matrix.why == ""
    desk.looks["items"].click()
    assert desk.table.isVisible()


def test_a_report_writes_the_matrix_where_it_is_asked_for(corpus):
    subject = subject_of(
        corpus, relate={"of": "keyword", "tie": "co-occurrence", "min_records": 30}, report={"formats": ["matrix"]}
    )
    text = contents(subject)["matrix.csv"].decode()
    assert text == matrix_csv(subject.network) and text.count("\r\n") == len(subject.network) + 1


def test_rows_can_be_ordered_by_a_column():
    network = network_of(4, [(0, 1), (0, 2), (0, 3)], ["d", "c", "b", "a"])
    columns = {"ward": Attribute.of(["south", None, "north", "south"]), "acres": Attribute.of([10, 9, None, 2])}
    network = replace(network, item_columns=columns)
    assert [network.label[i] for i in order(network, "ward")] == ["b", "d", "a", "c"]
    assert [network.label[i] for i in order(network, "acres")] == ["a", "c", "d", "b"]
