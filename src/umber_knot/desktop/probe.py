"""Measures the longest gap between turns of the event loop: how long the window ever stood still."""

from __future__ import annotations

import time

from PyQt6.QtCore import QObject, QTimer


class StallProbe(QObject):
    """A timer that should fire every ``step`` milliseconds; ``longest`` is the worst delay beyond that, in seconds."""

    def __init__(self, step: int = 5) -> None:
        super().__init__()
        self._step = step / 1000
        self._timer = QTimer(self)
        self._timer.setInterval(step)
        self._timer.timeout.connect(self._turn)
        self.start()

    def start(self) -> None:
        self.longest = 0.0
        self._last = time.perf_counter()
        self._timer.start()

    def stop(self) -> float:
        """Stop measuring; the longest gap in seconds."""
        self._turn()
        self._timer.stop()
        return self.longest

    def _turn(self) -> None:
        now = time.perf_counter()
        self.longest = max(self.longest, now - self._last - self._step)
        self._last = now
