"""Results on their way into the window: read by a thread of its own, so that the interface never waits for them."""

from __future__ import annotations

import contextlib
import threading
from collections.abc import Callable
from queue import SimpleQueue
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

from umber_knot.lineage.store import read
from umber_knot.work.state import Passed


class Loader(QObject):
    """Reads one result after another; ``loaded`` gives each with what it was asked under, None where it is gone."""

    loaded = pyqtSignal(object, object)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._asked = self._given = 0
        self.loaded.connect(self._given_one)
        self._queue: SimpleQueue[tuple[object, Passed | Callable[[], object]] | None] = SimpleQueue()
        self._thread = threading.Thread(target=self._run, name="loader", daemon=True)
        self._thread.start()

    def load(self, what: object, passed: Passed | Callable[[], object]) -> None:
        """Have a result read, or something made that would take the interface too long."""
        self._asked += 1
        self._queue.put((what, passed))

    def _given_one(self) -> None:
        self._given += 1

    def waiting(self) -> bool:
        """Whether results are still on their way."""
        return self._asked > self._given

    def stop(self) -> None:
        self._queue.put(None)

    def _run(self) -> None:
        while (asked := self._queue.get()) is not None:
            what, passed = asked
            value: Any = None
            if not isinstance(passed, Passed):
                value = passed()
            elif passed.file is None:
                value = passed.value
            else:
                with contextlib.suppress(OSError, ValueError):
                    value = read(passed.file)
            try:
                self.loaded.emit(what, value)
            except RuntimeError:  # the window is gone
                return
