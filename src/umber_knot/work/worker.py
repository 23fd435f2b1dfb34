"""The worker's side: wait for a request, carry it out, answer in messages; a cancel is looked for at every progress.

Started as ``python -m umber_knot.work.worker ROLE CHANNEL`` with one end of a pipe that only its parent holds.
Messages to the
parent are tuples (request number, what, …): ``progress`` (text, done, of, seconds left or None), ``part`` (value),
``done`` (value), ``error`` (text for the scholar, detail for a report, perhaps whether the study is damaged),
``cancelled``.
"""

from __future__ import annotations

import os
import signal
import sys
import time
import traceback
from collections.abc import Callable
from multiprocessing.connection import Connection
from typing import Any

from umber_knot.corpus.file import DamagedStudy
from umber_knot.errors import UserError


class Cancelled(Exception):
    """The parent no longer wants the result."""


class Job:
    """What a task gets: ``progress`` (which raises Cancelled when the parent says so) and ``part``."""

    def __init__(self, connection: Connection[Any, Any], number: int) -> None:
        self._connection, self._number = connection, number
        self._shown = 0.0
        self._what, self._since = "", 0.0

    def part(self, value: object) -> None:
        """Send a result that is ready before the rest."""
        self._connection.send((self._number, "part", value))

    def progress(self, what: str, done: int = 0, of: int = 0) -> None:
        """Say how far the work is (at most 20 times a second) and stop when it is no longer wanted."""
        now = time.monotonic()
        if what != self._what:
            self._what, self._since = what, now
        if now - self._shown < 0.05:
            return
        self._shown = now
        if self._connection.poll():
            raise Cancelled
        left = (now - self._since) * (of - done) / done if done and of else None
        self._connection.send((self._number, "progress", (what, done, of, left)))


def serve(connection: Connection[Any, Any], tasks: dict[str, Callable[..., Any]]) -> None:
    """Answer requests until the parent goes away. A request is (number, task, arguments); None cancels."""
    try:
        while True:
            request = connection.recv()
            if request is not None:
                number, name, arguments = request
                connection.send((number, *_carried_out(Job(connection, number), tasks[name], arguments)))
    except (EOFError, OSError):  # the parent has gone: nobody is left to tell
        return


def _carried_out(job: Job, task: Callable[..., Any], arguments: tuple[Any, ...]) -> tuple[str, Any]:
    """How a task ended: (``done``, value), (``cancelled``, None) or (``error``, (text, detail))."""
    try:
        return "done", task(job, *arguments)
    except Cancelled:
        return "cancelled", None
    except UserError as error:
        return "error", (str(error), "", isinstance(error, DamagedStudy))
    except MemoryError:
        return "error", ("not enough memory for this step. Keep fewer items", "")
    except (BrokenPipeError, ConnectionResetError):
        raise
    except Exception as error:  # a fault of ours: said, and the process goes on
        text = f"this step failed ({type(error).__name__}: {error}). The study is unchanged; try again"
        return "error", (text, traceback.format_exc())


def main() -> None:
    role, channel = sys.argv[1], int(sys.argv[2])
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    with Connection(channel) as connection:
        from umber_knot.work import tasks

        known = tasks.by_role(role)
        if role == "stages":  # the window and what it draws come first where cores are few
            os.nice(10)
        serve(connection, known)


if __name__ == "__main__":
    main()
