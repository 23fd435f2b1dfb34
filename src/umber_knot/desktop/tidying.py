"""When the interpreter looks for rubbish: a whole look takes it 150 ms with a study open, so not while one is looked at."""

from __future__ import annotations

import gc

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication

from umber_knot.desktop.session import Session

NEVER = 1_000_000


def tidy_unseen(app: QApplication, session: Session) -> None:
    """Look through what is young as ever, and through everything when the window is left or another study opens."""
    young, middle, _ = gc.get_threshold()
    gc.set_threshold(young, middle, NEVER)
    gc.freeze()  # what the program itself consists of stays to its end
    app.applicationStateChanged.connect(lambda state: state != Qt.ApplicationState.ApplicationActive and gc.collect())
    session.opened.connect(lambda: gc.collect())
