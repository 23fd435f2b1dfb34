"""The frame's figures: how long the window stands still, what crosses to it, and what it holds in memory."""

from __future__ import annotations

import subprocess
import sys
import time
from collections.abc import Callable
from multiprocessing.connection import Pipe
from multiprocessing.reduction import ForkingPickler
from pathlib import Path
from typing import Any

from corpora import large_study
from sources import say
from tour import idle, opened, spin

BENCH = Path(__file__).parent


def apart(code: str, *arguments: object) -> str:
    """What code prints in a process of its own, so that one figure does not weigh on the next."""
    command = [sys.executable, "-c", code, *map(str, arguments)]
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    if done.returncode:
        raise RuntimeError(done.stderr)
    return done.stdout


TOUR = f"""
import sys; sys.path.insert(0, {str(BENCH)!r})
from pathlib import Path; from tour import opened, tour
app, window = opened(Path(sys.argv[1]), Path(sys.argv[2]))
for gap, said in sorted(tour(app, window), reverse=True)[:6]: print(round(1000 * gap), said)
window.close()
"""


def bench_tour(folder: Path) -> None:
    """The longest gap of a tour of all desks at 2,000 items, three times."""
    study = large_study(folder, 24_000, 26_000, 2000)
    for k in range(3):
        rows = [line.split(" ", 1) for line in apart(TOUR, study, folder / f"tour{k}").splitlines()]
        worst = "; ".join(f"{gap} ms {step}" for gap, step in rows)
        say(f"tour {k + 1}", worst, "100 ms", int(rows[0][0]) <= 100)


class Counted:
    """A worker's connection that counts what goes through it, with all others."""

    bytes = 0

    def __init__(self, connection: Any) -> None:
        self.connection = connection

    def recv(self) -> object:
        data = self.connection.recv_bytes()
        Counted.bytes += len(data)
        return ForkingPickler.loads(data)

    def send(self, message: object) -> None:
        data = ForkingPickler.dumps(message)
        Counted.bytes += len(data)
        self.connection.send_bytes(data)

    def __getattr__(self, name: str) -> Any:
        return getattr(self.connection, name)


def watched(app: Any, window: Any, deed: Callable[[], object]) -> float:
    """Seconds until the canvas shows what a deed leads to."""
    canvas = window.desks["chart"].canvas
    before, began = canvas.drawing, time.perf_counter()
    deed()
    spin(
        app, lambda: canvas.drawing is not before and canvas.painted is not None and canvas.painted.view == canvas.view
    )
    took = time.perf_counter() - began
    spin(app, lambda: idle(window))
    return took


def pipe(study: Path, state: Path) -> None:
    """Bytes that cross for a change of tint and of size, and seconds to switch strands."""
    from umber_knot.work import client

    client.Pipe = lambda: (lambda ours, theirs: (Counted(ours), theirs))(*Pipe())
    app, window = opened(study, state)
    s = window.session
    s.set_recipe("chart", size_by="degree")
    spin(app, lambda: idle(window))
    for said, change in (("tint", {"tint_by": "year"}), ("size", {"size_by": "records"})):
        before = Counted.bytes
        watched(app, window, lambda change=change: s.set_recipe("chart", **change))
        print(said, Counted.bytes - before)
    print("items", len(s.related.filtered.network))
    s.add_strand(of="venue", tie="co-occurrence")
    spin(app, lambda: idle(window))
    second = s.strand_id
    for number in (1, second, 1, second):
        print("switch", watched(app, window, lambda n=number: s.look_at(n)))
    window.close()


PIPE = f"""
import sys; sys.path.insert(0, {str(BENCH)!r})
from pathlib import Path; from frame import pipe; pipe(Path(sys.argv[1]), Path(sys.argv[2]))
"""


def bench_pipe(folder: Path) -> None:
    """What a change of tint or size sends at 20,000 items, and how long two computed strands take to switch at 2,000."""
    for items, people, records in ((20_000, 60_000, 60_000), (2000, 24_000, 26_000)):
        study = large_study(folder, people, records, items)
        rows = [line.split(" ", 1) for line in apart(PIPE, study, folder / f"pipe{items}").splitlines()]
        size = f"{int(next(n for said, n in rows if said == 'items')):,} items"
        most = max(int(n) for said, n in rows if said in ("tint", "size"))
        slow = max(float(n) for said, n in rows if said == "switch")
        text = f"{most / 1000:.1f} kB to and from both workers for a change of tint or size at {size}, with its picture"
        say("pipe", text, "100 kB", most < 100_000)
        say("switch", f"{1000 * slow:.0f} ms from strand to strand at {size}, the worst of 4", "100 ms", slow <= 0.1)


MEMORY = f"""
import sys; sys.path.insert(0, {str(BENCH)!r})
from pathlib import Path; from tour import opened, spin, idle
app, window = opened(Path(sys.argv[1]), Path(sys.argv[2]))
for name in ("gather", "reconcile", "relate", "group", "chart", "report"):
    window.show_desk(name); spin(app, lambda: idle(window))
status = dict(line.split(":", 1) for line in open("/proc/self/status"))
print(*(int(status[name].split()[0]) / 1024 for name in ("VmHWM", "VmRSS", "RssAnon")))
window.close()
"""


def bench_memory(folder: Path) -> None:
    """Memory of the window at 100,000 records, all desks looked at; what is mapped from result files is counted apart."""
    study = large_study(folder, 80_000, 100_000, 2000)
    peak, now, own = map(float, apart(MEMORY, study, folder / "memory").split())
    text = f"{peak:.0f} MB at most, {now:.0f} MB at the end, {own:.0f} MB of it its own (the rest is mapped from files)"
    say("memory", text, "600 MB", peak <= 600)


BENCHES = {"tour": bench_tour, "pipe": bench_pipe, "memory": bench_memory}
