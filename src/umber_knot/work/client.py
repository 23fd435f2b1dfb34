"""The parent's side of a worker process: start it, ask, hear, cancel within half a second, start it again."""

from __future__ import annotations

import os
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator
from multiprocessing.connection import Connection, Pipe
from pathlib import Path
from queue import SimpleQueue
from typing import Any

from umber_knot.work.keeping import passing_folder

Message = tuple[int, str, Any]
STOP = object()


class Worker:
    """One worker process, asked one thing at a time; the latest request is the one that counts.

    ``fileno()`` can be watched by an event loop; ``messages()`` never waits. A worker that dies says so in an ``error``
    message for the request it was at, and a new one takes its place at the next request.
    """

    GRACE = 0.35  # seconds that a cancelled task has to stop by itself

    def __init__(self, role: str) -> None:
        self.role = role
        self.busy: int | None = None
        self.closing: Callable[[], object] = lambda: None  # called before ``fileno`` is closed
        self._number = 0
        self._deadline: float | None = None
        self._process: subprocess.Popen[bytes] | None = None
        self._connection: Connection[Any, Any] | None = None
        self._outbox: SimpleQueue[Any] = SimpleQueue()

    def start(self) -> None:
        """Start the process; it loads its libraries while the caller goes on."""
        if self._process is not None:
            return
        passing_folder()  # before the process starts, so that all of a window share one
        self._connection, theirs = Pipe()
        path = os.pathsep.join(filter(None, [str(Path(__file__).parents[2]), os.environ.get("PYTHONPATH", "")]))
        self._process = subprocess.Popen(
            [sys.executable, "-m", "umber_knot.work.worker", self.role, str(theirs.fileno())],
            env={**os.environ, "PYTHONPATH": path},
            stdin=subprocess.DEVNULL,
            pass_fds=[theirs.fileno()],
        )
        theirs.close()
        self._outbox = SimpleQueue()
        threading.Thread(target=_post, args=(self._connection, self._outbox), daemon=True).start()

    def _connected(self) -> Connection[Any, Any]:
        self.start()
        assert self._connection is not None
        return self._connection

    def fileno(self) -> int:
        return self._connected().fileno()

    def ask(self, task: str, *arguments: object) -> int:
        """Send a request and return its number; answers with other numbers are stale."""
        self._number += 1
        self.busy, self._deadline = self._number, None
        self._connected()
        self._outbox.put((self._number, task, arguments))
        return self._number

    def cancel(self) -> None:
        """Ask the running task to stop; ``messages`` ends the process when it does not in time."""
        if self.busy is not None and self._deadline is None:
            self._connected()
            self._outbox.put(None)
            self._deadline = time.monotonic() + self.GRACE

    def messages(self) -> Iterator[Message]:
        """What has arrived. A task that outlives its cancel is ended here and reported as cancelled."""
        connection = self._connected()
        while True:
            try:
                if not connection.poll():
                    break
                message: Message = connection.recv()
            except (EOFError, OSError):
                number, self.busy = self.busy, None
                self.stop()
                if number is not None:
                    yield number, "error", ("the worker process ended unexpectedly. Nothing is lost; try again", "")
                return
            if message[0] == self.busy and message[1] in ("done", "error", "cancelled"):
                self.busy, self._deadline = None, None
            yield message
        if self._deadline is not None and time.monotonic() > self._deadline and self.busy is not None:
            number, self.busy = self.busy, None
            self.stop()
            yield number, "cancelled", None

    def stop(self) -> None:
        """End the process at once."""
        self._deadline = None
        if self._process is not None:
            self._process.kill()
            self._process.wait()
        self._outbox.put(STOP)
        if self._connection is not None:
            self.closing()
            self._connection.close()
        self._process = self._connection = None


def _post(connection: Connection[Any, Any], outbox: SimpleQueue[Any]) -> None:
    """Send what is put into the box. A thread of its own, since a full pipe makes its sender wait."""
    while (message := outbox.get()) is not STOP:
        try:
            connection.send(message)
        except OSError:  # the process has ended; whoever reads from it is told
            return
