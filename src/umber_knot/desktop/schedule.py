"""One worker as the window uses it: one task at a time, heard without waiting, stopped when asked."""

from __future__ import annotations

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from umber_knot.desktop.ear import Ear
from umber_knot.work.client import Worker

Running = tuple[str, int, int, float | None]


class Schedule(QObject):
    """``task`` is what runs, "" nothing; ``running`` says how far it is: words, done, of how many, seconds left."""

    progressed = pyqtSignal()
    part = pyqtSignal(object)  # a result of the running task that is ready before the rest
    ended = pyqtSignal(str, str, object)  # task; done, error or cancelled; value

    def __init__(self, worker: Worker, parent: QObject) -> None:
        super().__init__(parent)
        self.worker = worker
        self.task = ""
        self.running: Running | None = None
        self._ear = Ear(worker, self._hear, self)
        self._poll = QTimer(self)  # while a stop is pending, its deadline is watched
        self._poll.setInterval(60)
        self._poll.timeout.connect(self._hear)

    @property
    def busy(self) -> bool:
        return self.worker.busy is not None

    def send(self, task: str, *arguments: object) -> None:
        """Ask for a task; nothing else may be running."""
        self.task = task
        self.worker.ask(task, *arguments)
        self._ear.watch()
        self.running = ("starting", 0, 0, None)
        self.progressed.emit()

    def cancel(self) -> None:
        """Stop the running task; what it finished stays."""
        self.worker.cancel()
        if self.busy:
            self._poll.start()

    def rest(self) -> None:
        """Nothing runs and nothing waits."""
        self.running, self.task = None, ""
        self.progressed.emit()

    def shut_down(self) -> None:
        self._poll.stop()
        self.worker.stop()

    def _hear(self) -> None:
        # one message a turn: what it sets off is painted before the next is read (the notifier calls again)
        _, what, value = next(self.worker.messages(), (0, "", None))
        if not self.busy:
            self._poll.stop()
        if what == "progress":
            self.running = value
            self.progressed.emit()
        elif what == "part":
            self.part.emit(value)
        elif what:
            task, self.task = self.task, ""
            self.ended.emit(task, what, value)
