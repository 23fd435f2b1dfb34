"""The drawing process as the window knows it."""

from __future__ import annotations

from PyQt6.QtCore import QObject, QSocketNotifier, pyqtSignal

from umber_knot.chart.drawing import Drawing
from umber_knot.work.client import Worker
from umber_knot.work.tasks import Painted


class Brush(QObject):
    """Asks for views to be painted: one at a time, and of those that wait only the newest."""

    painted = pyqtSignal(object)

    def __init__(self, worker: Worker | None = None) -> None:
        super().__init__()
        self.worker = worker or Worker("brush")
        self._notifier: QSocketNotifier | None = None
        self._watched = 0
        self._next: tuple[object, ...] | None = None
        self._drawing: Drawing | None = None
        self.serial = 0

    def show(self, drawing: Drawing) -> None:
        """Take a new drawing; pictures of it carry its ``serial``."""
        self._drawing = drawing
        self.serial += 1
        self._next = None
        self._watch()
        self.worker.ask("show", drawing, self.serial)

    def paint(self, *arguments: object) -> None:
        """Ask for a view; while one is being painted only the latest wish is kept."""
        if self._drawing is None:
            return
        if self.worker.busy is not None:
            self._next = arguments
            return
        self._watch()
        self.worker.ask("paint", *arguments)

    def _watch(self) -> None:
        self.worker.start()
        if self.worker.generation != self._watched:
            if self._notifier is not None:
                self._notifier.setEnabled(False)
            self._watched = self.worker.generation
            self._notifier = QSocketNotifier(self.worker.fileno(), QSocketNotifier.Type.Read, self)
            self._notifier.activated.connect(self._hear)

    def _hear(self) -> None:
        died = False
        for _, what, value in self.worker.messages():
            if what in ("part", "done") and isinstance(value, Painted):
                self.painted.emit(value)
            died = died or (what == "error" and "ended unexpectedly" in value[0])
        if died and self._drawing is not None:  # a new process has to be told what to draw
            self.show(self._drawing)
        if self.worker.busy is None and self._next is not None:
            arguments, self._next = self._next, None
            self.paint(*arguments)

    def shut_down(self) -> None:
        if self._notifier is not None:
            self._notifier.setEnabled(False)
        self.worker.stop()
