"""Starting the application."""

from __future__ import annotations

import os
import sys
import traceback
from collections.abc import Callable, Sequence
from pathlib import Path
from types import TracebackType
from typing import TYPE_CHECKING

from umber_knot.work.client import Worker

if TYPE_CHECKING:
    from umber_knot.desktop.window import Window


def run_window(files: Sequence[Path]) -> int:
    """Open the window and stay until it is closed; the exit status."""
    if not os.environ.get("DISPLAY") and not os.environ.get("WAYLAND_DISPLAY") and "QT_QPA_PLATFORM" not in os.environ:
        print("umber-knot: there is no screen here. ./umber run works without one; see ./umber --help", file=sys.stderr)
        return 2
    stages, drawing = Worker("stages"), Worker("brush")
    if files:  # they load their libraries while the window is being built
        stages.start()
        drawing.start()
    from PyQt6.QtCore import QSettings, QTimer
    from PyQt6.QtGui import QIcon
    from PyQt6.QtWidgets import QApplication

    from umber_knot.desktop.brush import Brush
    from umber_knot.desktop.house import dress
    from umber_knot.desktop.session import Session
    from umber_knot.desktop.theme import load_fonts
    from umber_knot.desktop.tidying import tidy_unseen
    from umber_knot.desktop.window import Window
    from umber_knot.paths import RESOURCES, config_dir

    brush = Brush(drawing)
    app = QApplication(sys.argv[:1])
    app.setApplicationName("Umber Knot")
    app.setDesktopFileName("umber-knot")
    app.setWindowIcon(QIcon(str(RESOURCES / "umber-knot.svg")))
    load_fonts()
    settings = QSettings(str(config_dir() / "window.ini"), QSettings.Format.IniFormat)
    dress("dark" if settings.value("theme") == "dark" else "light")
    window = Window(Session(stages), brush)
    window.show()
    tidy_unseen(app, window.session)
    sys.excepthook = _reporter(window)
    if os.environ.get("UMBER_MILESTONES"):
        _tell_milestones(window)
    QTimer.singleShot(0, lambda: (stages.start(), drawing.start()))  # what is not there yet
    if files:
        QTimer.singleShot(0, lambda: window.open_files(list(files)))
    return app.exec()


def _tell_milestones(window: Window) -> None:
    """Print when the window was first shown and when a whole chart was first painted (for the benchmarks)."""
    import time

    from PyQt6.QtCore import QTimer

    QTimer.singleShot(0, lambda: print("shown", time.time(), flush=True))
    window.brush.painted.connect(lambda painted: painted.complete and print("painted", time.time(), flush=True))


def _reporter(window: Window) -> Callable[[type[BaseException], BaseException, TracebackType | None], None]:
    """A fault of ours is said in the status line, with its detail on standard error; the window stays."""

    def report(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        traceback.print_exception(kind, error, trace)
        text = f"something went wrong in the window ({kind.__name__}: {error}). The study is saved up to the last step"
        window.session.said.emit("A fault of ours", text, "fault")

    return report
