"""A scripted tour of every desk on the real window, with the longest time it stood still at each step.

``python bench/tour.py STUDY`` prints a line a step: milliseconds and what was done.
"""

from __future__ import annotations

import os
import sys
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

Step = tuple[str, Callable[[], object]]


def spin(app: Any, ready: Callable[[], bool], seconds: float = 240) -> None:
    """Turn the event loop until something is so."""
    end = time.perf_counter() + seconds
    while not ready():
        if time.perf_counter() > end:
            raise TimeoutError
        app.processEvents()
        time.sleep(0.001)


def opened(study: Path, state: Path) -> tuple[Any, Any]:
    """The application and its window with a study open and everything computed."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    os.environ["XDG_CONFIG_HOME"] = os.environ["XDG_CACHE_HOME"] = str(state)
    from PyQt6.QtWidgets import QApplication

    from umber_knot.desktop.brush import Brush
    from umber_knot.desktop.house import dress
    from umber_knot.desktop.session import Session
    from umber_knot.desktop.theme import load_fonts
    from umber_knot.desktop.tidying import tidy_unseen
    from umber_knot.desktop.window import Window

    app = QApplication.instance() or QApplication([])
    load_fonts()
    dress("light")
    window = Window(Session(), Brush())
    window.resize(1280, 800)
    window.show()
    tidy_unseen(app, window.session)
    window.open_path(study)
    window.show_desk("chart")
    canvas = window.desks["chart"].canvas
    spin(app, lambda: idle(window) and canvas.first_paint)
    return app, window


def idle(window: Any) -> bool:
    """Whether everything of the present state is there."""
    s = window.session
    return s.running is None and not s.loader.waiting() and {"stability", "chart"} <= s.current


def steps(window: Any) -> Iterator[Step]:
    """What a scholar does in a morning, a step at a time."""
    from umber_knot.desktop.selection import Selection

    s, desks = window.session, window.desks
    names = ("gather", "reconcile", "relate", "group", "chart", "report")
    for name in names:
        yield f"go to {name}", lambda n=name: window.show_desk(n)
    for name in names:
        window.show_desk(name)
        yield f"other theme at {name}", window.switch_theme
    if window.session.strand.chart.tint_by == "topic":
        yield "back to light", lambda: window.apply_theme("light")
    window.show_desk("gather")
    yield "filter records", lambda: desks["gather"].filter.setText("silt year:1990-2010")
    yield "clear the filter", lambda: desks["gather"].filter.clear()
    yield "sort records", lambda: desks["gather"].table._sort(0)
    yield "open a record", lambda: desks["gather"].open_record(3)
    window.show_desk("reconcile")
    for page in ("hand", "rules", "ledger", "settle"):
        yield f"reconcile, {page}", lambda p=page: desks["reconcile"].show_page(p)
    for kind in ("reference", "keyword", "person"):
        if len(s.corpus.of(kind).forms):
            yield f"reconcile {kind}", lambda k=kind: desks["reconcile"]._choose_kind(k)
    yield "settle a suggestion", lambda: desks["reconcile"].settle.keep_apart()
    window.show_desk("chart")
    one = s.related.network.identity(0)
    yield "select an item", lambda: s.select(Selection(items=(one,)))
    yield "find", lambda: desks["chart"].search.setText("e")
    yield "find anything", window.find
    yield "type into it", lambda: window.finder.edit.setText("a")
    yield "leave it", window.finder.hide
    yield "size by strength", lambda: s.set_recipe("chart", size_by="strength")
    yield "tint by year", lambda: s.set_recipe("chart", tint_by="year")
    yield "fewer ties drawn", lambda: s.set_recipe("chart", least_tie=1.5)
    yield "zoom", lambda: desks["chart"].canvas.zoom(1.8)
    yield "drag a mark", lambda: desks["chart"].canvas._drop(0, _middle(desks["chart"].canvas))
    yield "undo", s.undo
    window.show_desk("relate")
    yield "one record more", lambda: s.set_recipe("relate", min_records=s.strand.relate.min_records + 1)
    yield "a finer grain", lambda: s.set_recipe("group", grain=1.6)
    yield "a second network", lambda: s.add_strand(of="venue", tie="co-occurrence")
    yield "back to the first", lambda: s.look_at(1)
    window.show_desk("chart")
    yield "side by side", lambda: desks["chart"].stand_beside(2)
    yield "one alone", lambda: desks["chart"].stand_alone()
    yield "take it away", lambda: s.remove_strand(2)
    for _ in range(6):
        yield "undo", s.undo


def _middle(canvas: Any) -> Any:
    from PyQt6.QtCore import QPointF

    return QPointF(canvas.width() / 2, canvas.height() / 2)


def tour(app: Any, window: Any, rest: float = 0.25) -> list[tuple[float, str]]:
    """(longest gap in seconds, step) of every step, each carried to its end."""
    from umber_knot.desktop.probe import StallProbe

    probe, found = StallProbe(), []
    for said, deed in steps(window):
        end = time.perf_counter() + 0.05
        spin(app, lambda e=end: time.perf_counter() > e)
        probe.start()
        deed()
        app.processEvents()
        spin(app, lambda: idle(window))
        end = time.perf_counter() + rest
        spin(app, lambda e=end: time.perf_counter() > e)
        found.append((probe.stop(), said))
    return found


def main() -> None:
    import tempfile

    with tempfile.TemporaryDirectory() as state:
        app, window = opened(Path(sys.argv[1]), Path(state))
        try:
            for gap, said in tour(app, window):
                print(f"{1000 * gap:6.0f} ms  {said}", flush=True)
        finally:
            window.close()
    print("toured", flush=True)


if __name__ == "__main__":
    sys.path.insert(0, str(Path(__file__).parents[1] / "src"))
    main()
