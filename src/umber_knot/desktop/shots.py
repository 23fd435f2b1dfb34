"""The pictures of docs/screenshots, made from the demo by one command: every desk, both themes, no real data."""

from __future__ import annotations

import os
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

DESKS = ("gather", "reconcile", "relate", "group", "chart", "report")


def take_shots(folder: Path) -> int:
    """Write one PNG of each view at 1280 × 800 into a folder; uses a fresh demo study in a folder of its own."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    with tempfile.TemporaryDirectory(prefix="umber-shots-") as home:
        for name in ("XDG_DATA_HOME", "XDG_CONFIG_HOME", "XDG_CACHE_HOME"):
            os.environ[name] = str(Path(home) / name)
        return _take(folder)


def _gathering(window: Any, session: Any, until: Callable[..., None], shoot: Callable[[str], None]) -> None:
    """What unfolds on the Gather desk: a record, the columns of a table, a catalogue."""
    desk = window.desks["gather"]
    desk.open_record(int(session.corpus.also.record[0]))
    shoot("gather-record")
    desk.open_columns(next(s for s in session.sources if s.name == "box2.csv"))
    until(lambda: session.columns is not None)
    shoot("gather-columns")
    desk.open_catalogue()
    desk.catalogue.start_stand_in()
    until(lambda: bool(desk.catalogue.address.text()))
    desk.catalogue.query.setText('subject = "tide mill" and date > 1990')
    desk.catalogue.ask()
    until(lambda: desk.catalogue.hits.count() > 0)
    desk.catalogue.address.setText("http://127.0.0.1:8788/sru")  # the port is another every time
    shoot("gather-catalogue")
    desk.catalogue.shut_down()
    desk.close_page()


def _reconciling(window: Any, session: Any, until: Any, shoot: Callable[[str], None]) -> None:
    """The pages of Reconcile, once the network is of people."""
    desk = window.desks["reconcile"]
    desk._choose_kind("person")
    until(lambda: session.running is None and "person" in session.offers and bool(session.offers["person"].effects))
    desk.bring_up_to_date()
    shoot("reconcile-people")
    desk.settle._preview()
    shoot("reconcile-before-after")
    desk.show_page("hand")
    shoot("reconcile-spellings")
    desk._choose_kind("keyword")
    desk.show_page("rules")
    desk.rules.fields["endings"][0].setText("-s")
    desk.rules.fields["endings"][1].setText("-")
    shoot("reconcile-rules")
    desk.show_page("settle")


def _take(folder: Path) -> int:
    from PyQt6.QtWidgets import QApplication

    from umber_knot.demo import demo_study
    from umber_knot.desktop.brush import Brush
    from umber_knot.desktop.house import dress
    from umber_knot.desktop.selection import Selection
    from umber_knot.desktop.session import Session
    from umber_knot.desktop.theme import load_fonts
    from umber_knot.desktop.window import Window

    app = QApplication(sys.argv[:1])
    load_fonts()
    dress("light")
    session, brush = Session(), Brush()
    window = Window(session, brush)
    window.resize(1280, 800)
    window.show()
    folder.mkdir(parents=True, exist_ok=True)

    def until(ready: Callable[[], bool], seconds: float = 90.0) -> None:
        end = time.monotonic() + seconds
        while not ready():
            if time.monotonic() > end:
                raise TimeoutError("the window was not ready in time")
            app.processEvents()
            time.sleep(0.005)

    def settle(seconds: float = 0.5) -> None:
        end = time.monotonic() + seconds
        until(lambda: time.monotonic() > end)

    def shoot(name: str) -> None:
        settle()
        until(lambda: session.running is None)
        settle(0.3)
        window.saved.setText("saved 14:02")  # the same bytes at any hour
        picture, chart = window.grab(), window.desks["chart"]
        while not (chart.canvas.lettered and chart.other.lettered):  # type: ignore[attr-defined]
            settle(0.05)
            picture = window.grab()
        picture.save(str(folder / f"{name}.png"))
        print(folder / f"{name}.png")

    try:
        shoot("start")
        window.open_path(demo_study())
        until(lambda: session.running is None and {"stability", "chart"} <= session.current)
        for desk in DESKS:
            window.show_desk(desk)
            if desk == "chart":
                session.select(Selection(items=(("keyword", "tide mill"),)))
                until(lambda: window.desks["chart"].canvas.first_paint)  # type: ignore[attr-defined]
            if desk == "report":
                until(lambda: bool(session.files))
            shoot(desk)
            if desk == "gather":
                _gathering(window, session, until, shoot)
        session.set_recipe("relate", of="person", tie="co-authorship", min_records=3, normalise="none")
        until(lambda: session.running is None)
        window.show_desk("chart")
        shoot("chart-people")
        window.show_desk("standing")
        standing = window.desks["standing"]
        until(lambda: all(session.measured(c) is not None for c in standing.known()))  # type: ignore[attr-defined]
        network = session.related.network  # type: ignore[union-attr]
        session.select(Selection(items=(network.identity(5), network.identity(40))))
        shoot("standing")
        window.show_desk("chart")
        session.add_strand(of="keyword", tie="co-occurrence", min_records=5)
        until(lambda: session.running is None and "chart" in session.current)
        window.desks["chart"].stand_beside(1)  # type: ignore[attr-defined]
        session.select(Selection(items=(("keyword", "tide mill"),)))
        until(lambda: window.desks["chart"].other.first_paint)  # type: ignore[attr-defined]
        shoot("chart-strands")
        window.desks["chart"].stand_alone()  # type: ignore[attr-defined]
        session.undo()
        until(lambda: session.running is None and "chart" in session.current)
        window.show_desk("reconcile")
        _reconciling(window, session, until, shoot)
        window.show_desk("chart")
        window.apply_theme("dark")
        shoot("chart-dark")
        window.show_desk("relate")
        shoot("relate-dark")
    finally:
        window.close()
    return 0
