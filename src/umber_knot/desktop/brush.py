"""The drawing process as the window knows it."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

from PyQt6.QtCore import QObject, pyqtSignal

from umber_knot.chart.drawing import Drawing
from umber_knot.desktop.ear import Ear
from umber_knot.desktop.session import Session
from umber_knot.lineage.nodes import CHARTED
from umber_knot.lineage.store import read
from umber_knot.work.client import Worker
from umber_knot.work.keeping import passing_folder
from umber_knot.work.state import Painted, Passed


@dataclass
class Easel:
    """What one canvas has on it: the serial of its drawing, the keys of the parts it was sent, and its newest wish."""

    number: int
    serial: int = 0
    sent: dict[str, str] = field(default_factory=dict)
    shown: tuple[dict[str, tuple[str, Passed]], str] | None = None
    asked: tuple[object, ...] = ()  # the view asked for last
    wish: tuple[object, ...] | None = None


class Brush(QObject):
    """Asks for views to be painted: one at a time, and of those that wait on an easel only the newest."""

    painted = pyqtSignal(object)

    def __init__(self, worker: Worker | None = None) -> None:
        super().__init__()
        self.worker = worker or Worker("brush")
        self._ear = Ear(self.worker, self._hear, self)
        self._easels: list[Easel] = []
        self._serial = self._faults = 0

    def easel(self) -> Easel:
        """An easel for one more canvas."""
        self._easels.append(Easel(len(self._easels)))
        return self._easels[-1]

    def show(self, easel: Easel, session: Session, strand: int, drawing: Drawing) -> None:
        """Put a drawing on an easel; the next view asked for is of it."""
        easel.shown = {stage: session.part_of_chart(strand, stage) for stage in CHARTED}, drawing.tint_by
        self._serial += 1
        easel.serial, easel.wish = self._serial, None

    def paint(self, easel: Easel, *arguments: object) -> None:
        """Ask for a view; while one is being painted only the latest wish of an easel is kept. Only the parts of its
        drawing that are new there are passed."""
        if easel.shown is None:
            return
        easel.asked = arguments
        if self.worker.busy is not None:
            easel.wish = arguments
            return
        parts, tint_by = easel.shown
        fresh = {
            stage: None if easel.sent.get(stage) == key else passed.there() for stage, (key, passed) in parts.items()
        }
        easel.sent = {stage: key for stage, (key, _) in parts.items()}
        self._ear.watch()
        self.worker.ask("paint", easel.number, fresh, tint_by, easel.serial, *arguments)

    def _hear(self) -> None:
        for _, what, value in self.worker.messages():
            if what in ("part", "done") and isinstance(value, Painted):
                self._faults = 0
                self._take(value)
            elif what == "error":  # a new process, or one that could not draw, is told again what to draw
                self._faults += 1
                for untold in passing_folder().glob("ties-*"):
                    untold.unlink(missing_ok=True)
                for easel in self._easels if self._faults < 3 else ():
                    easel.wish = easel.wish or easel.asked or None
                    easel.sent.clear()
        waiting = next((e for e in self._easels if e.wish is not None), None)
        if self.worker.busy is None and waiting is not None:
            arguments, waiting.wish = waiting.wish, None
            self.paint(waiting, *arguments)

    def _take(self, painted: Painted) -> None:
        """Tell of a view; where its ties are gone it is asked for again."""
        file = painted.ties.file if painted.ties is not None else None
        if file is not None:
            try:
                painted = replace(painted, ties=Passed(None, read(file)))
            except (OSError, ValueError):
                for easel in self._easels:
                    if easel.serial == painted.serial:
                        easel.wish = easel.wish or easel.asked
                return
            file.unlink(missing_ok=True)
        self.painted.emit(painted)

    def shut_down(self) -> None:
        self.worker.stop()
