"""Hears when a worker has something to say."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QObject, QSocketNotifier

from umber_knot.work.client import Worker


class Ear(QObject):
    """Watches the pipe of a worker. It lets go before the pipe is closed: the number of a closed one is soon another's,
    and whoever then let go of it would make that other one unheard."""

    def __init__(self, worker: Worker, heard: Callable[[], object], parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.worker, self._heard = worker, heard
        self._notifier: QSocketNotifier | None = None
        worker.closing = self._let_go

    def watch(self) -> None:
        """Start the worker where it does not run, and listen."""
        self.worker.start()
        if self._notifier is None:
            self._notifier = QSocketNotifier(self.worker.fileno(), QSocketNotifier.Type.Read, self)
            self._notifier.activated.connect(self._heard)

    def _let_go(self) -> None:
        if self._notifier is not None:
            self._notifier.setEnabled(False)
            self._notifier.deleteLater()
            self._notifier = None
