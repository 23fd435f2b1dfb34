"""Layout, labels, colours, plates: what must hold on any chart."""

import io
import itertools
import re
import struct
import xml.etree.ElementTree as ET

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.building import network_of
from umber_knot.chart.crowding import without_overlap
from umber_knot.chart.drawing import Drawing, Standing, land, lettering, sizes
from umber_knot.chart.layout import layout
from umber_knot.chart.lettering import SERIF, widths
from umber_knot.chart.palette import DARK, LIGHT, assign_slots, oklch, ramp, topic_colours
from umber_knot.chart.raster import draw_lines, tinted
from umber_knot.chart.scene import View, compose, fit
from umber_knot.group.leiden import partition
from umber_knot.group.result import Topic
from umber_knot.report.png import png
from umber_knot.report.svg import PlateText, plate, plate_scene


def draw(net, topic, topics, size_by="records", tint_by="topic", before=None, slots=None):
    """A drawing put together from its parts."""
    size = sizes(net, size_by)
    standing = Standing(*layout(net, size.radius, 1, before))
    return Drawing(
        net, lettering(net), size, standing, topic, land(standing, size.radius, topic, topics, slots), tint_by
    )


def clumps(n=120, k=6, seed=3, isolates=10):
    rng = np.random.default_rng(seed)
    home = rng.integers(0, k, n)
    edges = [(a, b) for a in range(n) for b in range(a) if rng.random() < (0.35 if home[a] == home[b] else 0.01)]
    return network_of(n + isolates, edges)


@pytest.fixture(scope="module")
def drawing():
    net = clumps()
    topic = partition(net).topic
    topics = tuple(Topic(k + 1, f"Topic {k}", int((topic == k).sum()), 1, ()) for k in range(topic.max() + 1))
    return draw(net, topic, topics)


def boxes_of(scene):
    boxes = [(b.left, b.top, b.left + b.width, b.top + b.height) for b in (*scene.names, *scene.labels)]
    return np.array(boxes).reshape(-1, 4)


def overlapping(boxes):
    left, top, right, bottom = boxes.T
    meets = (left[:, None] < right) & (left < right[:, None]) & (top[:, None] < bottom) & (top < bottom[:, None])
    np.fill_diagonal(meets, False)
    return int(meets.sum())


@given(
    zoom=st.floats(0.2, 30),
    dx=st.floats(-1, 1),
    dy=st.floats(-1, 1),
    wide=st.floats(200, 2000),
    high=st.floats(150, 1400),
)
@settings(max_examples=60)
def test_no_two_labels_overlap_and_none_is_cut_at_any_zoom(drawing, zoom, dx, dy, wide, high):
    whole = fit(drawing, wide, high)
    left, bottom, right, top = drawing.bounds
    view = View(whole.scale * zoom, whole.x + dx * (right - left) / 2, whole.y + dy * (top - bottom) / 2, wide, high)
    boxes = boxes_of(compose(drawing, view))
    assert overlapping(boxes) == 0
    if len(boxes):
        assert boxes[:, :2].min() >= 0 and boxes[:, 2].max() <= wide and boxes[:, 3].max() <= high


@pytest.mark.parametrize("width_mm", [60, 180, 420])
def test_plates_have_no_overlap_and_fit_their_frame(drawing, width_mm):
    scene = plate_scene(drawing, width_mm)
    boxes = boxes_of(scene)
    assert len(boxes) > 4 and overlapping(boxes) == 0
    assert boxes.min() >= 0 and boxes[:, 2].max() <= scene.view.width and boxes[:, 3].max() <= scene.view.height
    assert (scene.x - scene.radius).min() >= 0 and (scene.x + scene.radius).max() <= scene.view.width


@given(st.lists(st.tuples(st.floats(0, 90), st.floats(0, 90), st.floats(1, 40), st.floats(1, 40)), max_size=30))
def test_moving_labels_give_way_by_priority(raw):
    boxes = np.array([(x, y, x + w, y + h) for x, y, w, h in raw]).reshape(-1, 4)
    keep = without_overlap(boxes, (100.0, 100.0))
    assert overlapping(boxes[keep]) == 0
    for i in np.flatnonzero(~keep):  # whatever is dropped is cut by the frame, or meets a kept one before it
        x0, y0, x1, y1 = boxes[i]
        before = boxes[:i][keep[:i]]
        meets = (x0 < before[:, 2]) & (before[:, 0] < x1) & (y0 < before[:, 3]) & (before[:, 1] < y1)
        assert x1 > 100 or y1 > 100 or meets.any()


def test_layout_is_deterministic_finite_and_without_overlap():
    net = clumps()
    radius = np.linspace(11, 2, len(net))
    x, y = layout(net, radius, 1)
    again = layout(net, radius, 1)
    assert np.array_equal(x, again[0]) and np.array_equal(y, again[1])
    assert np.isfinite(x).all() and np.isfinite(y).all()
    distance = np.hypot(x[:, None] - x, y[:, None] - y) - radius[:, None] - radius
    np.fill_diagonal(distance, 1)
    assert distance.min() > -0.02 * radius.max()
    assert not np.array_equal(x, layout(net, radius, 2)[0])


def test_tied_items_stand_nearer_than_others():
    net = clumps(isolates=0)
    x, y = layout(net, np.full(len(net), 4.0), 1)
    tied = np.hypot(x[net.source] - x[net.target], y[net.source] - y[net.target]).mean()
    rng = np.random.default_rng(0)
    a, b = rng.integers(0, len(net), (2, 4000))
    assert tied < 0.6 * np.hypot(x[a] - x[b], y[a] - y[b]).mean()


def test_items_that_persist_stay_where_they_were():
    net = clumps()
    radius = np.full(len(net), 4.0)
    x, y = layout(net, radius, 1)
    before = np.column_stack([x, y])
    keep = np.ones(len(net), bool)
    keep[[3, 50]] = False
    fewer = net.kept(keep)
    x2, y2 = layout(fewer, radius[keep], 1, before[keep])
    moved = np.hypot(x2 - x[keep], y2 - y[keep])
    assert np.median(moved) < 0.05 * (x.max() - x.min())


@pytest.mark.parametrize(
    "edges", [[], [(0, 1)], [(0, 1), (1, 2), (2, 0)], [(k, k + 1) for k in range(29)], [(0, k) for k in range(30)]]
)
def test_odd_networks_are_laid_out(edges):
    net = network_of(30, edges)
    x, y = layout(net, np.full(30, 5.0), 1)
    assert np.isfinite(x).all() and np.isfinite(y).all()
    assert len({(round(a, 3), round(b, 3)) for a, b in zip(x, y)}) == 30


def test_separate_parts_are_packed_without_waste():
    net = network_of(400, [(k, k + 1) for k in range(0, 400, 2)])
    radius = np.full(400, 4.0)
    x, y = layout(net, radius, 1)
    wide, high = x.max() - x.min(), y.max() - y.min()
    assert 0.9 < wide / high < 2.2
    assert wide * high < 12 * (400 * np.pi * 16)


def test_colours_are_apart_and_readable():
    def luminance(hex_):
        rgb = [int(hex_[k : k + 2], 16) / 255 for k in (1, 3, 5)]
        linear = [v / 12.92 if v <= 0.04045 else ((v + 0.055) / 1.055) ** 2.4 for v in rgb]
        return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]

    def contrast(a, b):
        high, low = sorted((luminance(a), luminance(b)), reverse=True)
        return (high + 0.05) / (low + 0.05)

    from umber_knot.desktop.theme import LOOKS

    for look in LOOKS.values():
        for ink in (look.ink, look.faint, look.umber, look.madder):
            assert min(contrast(ink, look.panel), contrast(ink, look.chrome)) >= 4.5, (look.chart.name, ink)
        assert min(contrast(look.verdigris, look.panel), contrast(look.ochre, look.panel)) >= 4.5  # on panels only
    for theme in (LIGHT, DARK):
        marks = [topic_colours(k, theme).mark for k in range(16)]
        assert len(set(marks)) == 16
        assert min(contrast(m, theme.paper) for m in marks) >= 4.5
    greys = [luminance(ramp(v)) for v in np.linspace(0, 1, 30)]
    assert all(a > b for a, b in itertools.pairwise(greys)), "the ramp prints in grey"
    assert oklch(1.0, 0.0, 0.0) == "#FFFFFF" and oklch(0.0, 0.0, 0.0) == "#000000"


def test_neighbours_get_far_hues_and_topics_keep_theirs():
    centres = np.array([[k, 0.0] for k in range(8)])
    slots = assign_slots(centres, np.full(8, 5), {3: 11}, list(range(8)))
    assert slots[3] == 11 and len(set(slots.values())) == 8
    from umber_knot.chart.palette import HUES

    for k in range(7):
        difference = abs(HUES[slots[k]] - HUES[slots[k + 1]])
        assert min(difference, 360 - difference) >= 40


def test_lines_cover_what_a_fine_sampling_covers():
    rng = np.random.default_rng(5)
    for _ in range(20):
        x0, y0, x1, y1 = rng.uniform(4, 36, 4)
        image = np.zeros((40, 40), np.float32)
        one = np.array([1.0])
        draw_lines(image, np.array([x0]), np.array([y0]), np.array([x1]), np.array([y1]), one, one * 2.0, 0, 1)
        length = np.hypot(x1 - x0, y1 - y0)
        assert image.sum() == pytest.approx(2.0 * length, rel=0.25, abs=4)
        rows, cols = np.nonzero(image > 0.2)
        along = ((cols + 0.5 - x0) * (y1 - y0) - (rows + 0.5 - y0) * (x1 - x0)) / max(length, 1e-9)
        assert np.abs(along).max() < 2.0
    assert tinted(np.array([[0.0, 1.0]], np.float32), "#102030").tolist() == [[0, 0xFF102030]]
    draw_lines(image, one * -50, one * 5, one * 90, one * 7, one * 0.5, one, 0, 1)  # far outside: clipped


def test_label_widths_hold_any_script_and_add_up():
    narrow, wide, cjk, none = widths(["ill", "mmm", "漢字", ""], SERIF)
    assert none == 0 and narrow < wide and cjk >= 1.9


TEXT = PlateText("Words & <ideas>", "5 words.", "records shared", ((0, "A & B"),))


def test_a_plate_is_valid_svg_of_its_size_and_escapes_everything(drawing):
    hostile = network_of(4, [(0, 1), (1, 2), (2, 3)], ("<script>", 'a"b', "]]>&amp;", "fine"))
    d = draw(hostile, np.zeros(4, np.int32), ())
    root = ET.fromstring(plate(d, TEXT, 90, LIGHT))
    assert root.get("width") == "90mm" and "script" not in {e.tag.split("}")[1] for e in root.iter()}
    assert {"<script>", 'a"b', "]]>&amp;"} <= {e.text for e in root.iter() if e.tag.endswith("title")}
    svg = plate(drawing, TEXT, 180, DARK)
    assert svg == plate(drawing, TEXT, 180, DARK)
    assert len(re.findall("<circle", svg)) >= len(drawing)


def test_png_has_the_size_and_resolution_asked_for(drawing):
    data = png(plate(drawing, TEXT, 50.8, LIGHT), 150)
    assert data.startswith(b"\x89PNG")
    wide, _ = struct.unpack(">II", data[16:24])
    assert wide == 300
    at = data.index(b"pHYs")
    assert struct.unpack(">IIB", data[at + 4 : at + 13]) == (5906, 5906, 1)
    assert io.BytesIO(data)


def test_nothing_to_draw_is_no_fault():
    d = draw(network_of(0, []), np.zeros(0, np.int32), ())
    assert len(compose(d, fit(d, 400, 300)).labels) == 0
    ET.fromstring(plate(d, PlateText("", "", "", ()), 100, LIGHT))
