"""Random clicks, keys and drags on the real window, seeded: nothing may raise, stand still, or harm the study.

``python bench/wander.py STUDY SECONDS SEED`` prints ``wandered N`` at the end, and a line for whatever went wrong.
"""

from __future__ import annotations

import random
import sys
import time
import traceback
from pathlib import Path
from typing import Any

from tour import idle, opened, spin

STALL = 0.1  # seconds the window may stand still
KEYS = "MKSXPRU123 n/+-0"


class Wanderer:
    """One seeded walk through the window."""

    def __init__(self, app: Any, window: Any, seed: int) -> None:
        self.app, self.window, self.rng = app, window, random.Random(seed)
        self.done: list[str] = []
        self.count = 0

    def step(self) -> None:
        """One action."""
        deed = self.rng.choices(
            (self.click, self.key, self.drag, self.desk, self.wheel, self.type, self.undo, self.resize),
            (40, 15, 10, 12, 8, 6, 6, 1),
        )[0]
        self.count += 1
        deed()

    def _widget(self) -> Any:
        from PyQt6.QtWidgets import QApplication, QWidget

        root = QApplication.activePopupWidget() or self.window
        shown = [w for w in root.findChildren(QWidget) if w.isVisible() and w.isEnabled() and w.width() > 4]
        return self.rng.choice(shown or [root])

    def _spot(self, widget: Any) -> Any:
        from PyQt6.QtCore import QPoint

        return QPoint(self.rng.randrange(max(widget.width(), 1)), self.rng.randrange(max(widget.height(), 1)))

    def click(self) -> None:
        from PyQt6.QtCore import Qt
        from PyQt6.QtTest import QTest

        w = self._widget()
        held = self.rng.choice((Qt.KeyboardModifier.NoModifier,) * 4 + (Qt.KeyboardModifier.ControlModifier,))
        self.done.append(f"click {type(w).__name__} {w.accessibleName()[:40]}")
        QTest.mouseClick(w, Qt.MouseButton.LeftButton, held, self._spot(w))

    def key(self) -> None:
        from PyQt6.QtCore import Qt
        from PyQt6.QtTest import QTest
        from PyQt6.QtWidgets import QApplication

        w = QApplication.focusWidget() or self.window
        key = self.rng.choice(
            (Qt.Key.Key_Tab, Qt.Key.Key_Return, Qt.Key.Key_Escape, Qt.Key.Key_Up, Qt.Key.Key_Down, None)
        )
        letter = self.rng.choice(KEYS)
        self.done.append(f"key {key or letter} on {type(w).__name__}")
        QTest.keyClick(w, key) if key is not None else QTest.keyClicks(w, letter)

    def drag(self) -> None:
        from PyQt6.QtCore import Qt
        from PyQt6.QtTest import QTest

        w = self._widget() if self.rng.random() < 0.4 else self.window.desks["chart"].canvas
        self.done.append(f"drag {type(w).__name__}")
        held = self.rng.choice((Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier))
        QTest.mousePress(w, Qt.MouseButton.LeftButton, held, self._spot(w))
        for _ in range(3):
            QTest.mouseMove(w, self._spot(w))
            self.app.processEvents()
        QTest.mouseRelease(w, Qt.MouseButton.LeftButton, held, self._spot(w))

    def desk(self) -> None:
        name = self.rng.choice(list(self.window.desks))
        self.done.append(f"go to {name}")
        self.window.show_desk(name)

    def wheel(self) -> None:
        from PyQt6.QtCore import QPoint, QPointF, Qt
        from PyQt6.QtGui import QWheelEvent
        from PyQt6.QtWidgets import QApplication

        w, turn = self._widget(), self.rng.choice((120, -120))
        at = QPointF(self._spot(w))
        self.done.append(f"wheel {type(w).__name__}")
        event = QWheelEvent(
            at,
            QPointF(w.mapToGlobal(at.toPoint())),
            QPoint(),
            QPoint(0, turn),
            Qt.MouseButton.NoButton,
            Qt.KeyboardModifier.NoModifier,
            Qt.ScrollPhase.NoScrollPhase,
            False,
        )
        QApplication.sendEvent(w, event)

    def type(self) -> None:
        from PyQt6.QtWidgets import QLineEdit

        fields = [w for w in self.window.findChildren(QLineEdit) if w.isVisible()]
        if fields:
            self.done.append("type")
            self.rng.choice(fields).setText(self.rng.choice(("", "ti", "mill", "year:1990-2000", "zzz", "<b>")))

    def undo(self) -> None:
        back = self.rng.random() < 0.7
        self.done.append("undo" if back else "redo")
        (self.window.session.undo if back else self.window.session.redo)()

    def resize(self) -> None:
        self.done.append("resize")
        self.window.resize(self.rng.randrange(900, 1500), self.rng.randrange(620, 1000))


def wander(app: Any, window: Any, seconds: float, seed: int) -> tuple[int, list[str]]:
    """How many actions were done, and what went wrong, each with the actions before it."""
    from PyQt6.QtCore import QTimer
    from PyQt6.QtWidgets import QDialog, QFileDialog

    from umber_knot.desktop.probe import StallProbe

    for name in ("getOpenFileName", "getSaveFileName", "getOpenFileNames", "getExistingDirectory"):
        answer = "" if name == "getExistingDirectory" else ([], "") if name.endswith("s") else ("", "")
        setattr(QFileDialog, name, staticmethod(lambda *a, answer=answer, **k: answer))
    QDialog.exec = lambda self: 0  # nothing waits for an answer
    window.close_study = lambda: None  # the walk goes on in the study
    wrong: list[str] = []
    walker = Wanderer(app, window, seed)
    sys.excepthook = lambda kind, error, trace: wrong.append(
        f"{kind.__name__}: {error} after {walker.done[-4:]}\n{''.join(traceback.format_exception(kind, error, trace)[-3:])}"
    )
    QTimer.singleShot(0, lambda: None)
    probe, end, study = StallProbe(), time.monotonic() + seconds, window.session.study.path
    while time.monotonic() < end:
        if not window.isVisible():
            wrong.append(f"the window closed after {walker.done[-4:]}")
            break
        probe.start()
        walker.step()
        rest = time.perf_counter() + walker.rng.choice((0.0, 0.02, 0.1, 0.4))
        spin(app, lambda r=rest: time.perf_counter() >= r)
        gap = probe.stop()
        if gap > STALL:
            wrong.append(f"stood still for {1000 * gap:.0f} ms after {walker.done[-3:]}")
        if len(walker.done) > 50:
            del walker.done[:40]
    from PyQt6.QtWidgets import QApplication

    while (popup := QApplication.activePopupWidget()) is not None:
        popup.close()
    spin(app, lambda: window.session.running is None)
    assert idle(window) or window.session.failed is None or wrong
    wrong += _harm(window, study)
    return walker.count, wrong


def _harm(window: Any, study: Path) -> list[str]:
    """What is wrong with the study, and which processes are left, once the window is closed."""
    from umber_knot.corpus.sound import check
    from umber_knot.corpus.study import Study

    workers = [w for w in (window.session.worker._process, window.brush.worker._process) if w is not None]
    window.close()
    wrong = [f"process {w.pid} outlived its window" for w in workers if w.poll() is None]
    with Study.open(study) as open_:
        why = check(open_)
    return wrong + ([f"the study is damaged: {why}"] if why else [])


def main() -> None:
    import tempfile

    study, seconds, seed = Path(sys.argv[1]), float(sys.argv[2]), int(sys.argv[3])
    with tempfile.TemporaryDirectory() as state:
        app, window = opened(study, Path(state))
        count, wrong = wander(app, window, seconds, seed)
    for text in wrong:
        print(text, flush=True)
    print("wandered", count, flush=True)


if __name__ == "__main__":
    sys.path.insert(0, str(Path(__file__).parents[1] / "src"))
    main()
