"""Speed, as ratios against a baseline in the same run. ``./umber bench [NAME …]`` prints one line a figure."""

from __future__ import annotations

import itertools
import json
import os
import subprocess
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from typing import Any

import frame
import measures
import relate
import sources
from corpora import large_study, write_ris
from sources import say
from tour import idle, opened, spin

ROOT = Path(__file__).parents[1]


def timed(function: Callable[[], object], repeat: int = 3) -> float:
    """The best of a few runs, in seconds."""
    best = float("inf")
    for _ in range(repeat):
        began = time.perf_counter()
        function()
        best = min(best, time.perf_counter() - began)
    return best


IMPORT = """
import sys, time; from pathlib import Path
from umber_knot.corpus.study import Study; from umber_knot.gather.read import read_file
began = time.perf_counter()
with Study.create(Path(sys.argv[2])) as study: study.add_sources([read_file(Path(sys.argv[1]))])
print(time.perf_counter() - began)
"""
BARE = """
import sys, time; from pathlib import Path; import rispy
began = time.perf_counter()
rispy.loads(Path(sys.argv[1]).read_text(encoding="utf-8"))
print(time.perf_counter() - began)
"""


def bench_import(folder: Path) -> None:
    """20,000 RIS records with abstracts into a study, against rispy alone: fresh processes, by turns, medians of 7."""
    path, study = folder / "twenty.ris", folder / "twenty.umber"
    write_ris(path, 20_000, 15_000)
    ours, bare = [], []
    for _ in range(7):
        for code, times in ((BARE, bare), (IMPORT, ours)):
            study.unlink(missing_ok=True)
            command = [sys.executable, "-c", code, str(path), str(study)]
            times.append(float(subprocess.run(command, check=True, capture_output=True, text=True).stdout))
    took, alone = sorted(ours)[3], sorted(bare)[3]
    say("import", f"{took:.2f} s against rispy's {alone:.2f} s: {took / alone:.2f}×", "at most 2×", took <= 2 * alone)


def plainly(path: Path) -> str:
    """The same steps written plainly: rispy, combinations, Louvain, spring layout, SVG."""
    import networkx as nx
    import rispy

    graph = nx.Graph()
    counts: Counter[tuple[str, str]] = Counter()
    for record in rispy.loads(path.read_text(encoding="utf-8")):
        authors = sorted(set(record.get("authors", [])))
        graph.add_nodes_from(authors)
        counts.update(itertools.combinations(authors, 2))
    graph.add_weighted_edges_from((a, b, n) for (a, b), n in counts.items())
    topics = nx.community.louvain_communities(graph, seed=1)
    place = nx.spring_layout(graph, iterations=50, seed=1)
    of = {n: k for k, t in enumerate(topics) for n in t}
    lines = [
        f'<line x1="{place[a][0]}" y1="{place[a][1]}" x2="{place[b][0]}" y2="{place[b][1]}"/>' for a, b in graph.edges
    ]
    marks = [
        f'<circle cx="{x}" cy="{y}" r="0.01" fill="hsl({of[n] * 47 % 360},50%,50%)"/>' for n, (x, y) in place.items()
    ]
    return "<svg>" + "".join(lines + marks) + "</svg>"


def bench_headless(folder: Path) -> None:
    """10,000 records to a laid-out SVG, the whole process, against the plain way (also a whole process)."""
    path = folder / "ten.ris"
    write_ris(path, 10_000, 8_000)
    recipe = folder / "ten.toml"
    recipe.write_text('[gather]\nsources = ["ten.ris"]\n[group]\nruns = 0\n[report]\nformats = ["svg"]\n')
    command = [sys.executable, "-m", "umber_knot", "run", str(recipe), "--out", str(folder / "out"), "--quiet"]
    took = timed(lambda: subprocess.run(command, check=True), 2)
    plain = timed(lambda: (folder / "plain.svg").write_text(plainly(path)), 1)
    summary = json.loads((folder / "out" / "run.json").read_text())["stages"]
    size = f"{summary['relate']['items']:,} items, {summary['relate']['ties']:,} ties"
    say(
        "headless",
        f"{took:.2f} s against {plain:.1f} s: {plain / took:.0f}× faster; {size}",
        "at least 20×",
        plain >= 20 * took,
    )


def bench_window(folder: Path) -> None:
    """One merge among 20,000 forms; pan and zoom; the longest stall of the window meanwhile."""
    from umber_knot.corpus.model import Decision
    from umber_knot.desktop.probe import StallProbe

    app, window = opened(large_study(folder, 24_000, 26_000, 2000), folder / "state")
    session, canvas = window.session, window.desks["chart"].canvas
    network = session.related.filtered.network
    forms = int((session.corpus.of("person").counts() > 0).sum())
    size = f"{len(network):,} items, {network.ties:,} ties"
    probe, times, labels = StallProbe(), [], network.label
    spin(app, lambda: idle(window))
    probe.start()
    for k in range(4):
        merge = Decision("person", "merge", labels[10 + 2 * k], labels[11 + 2 * k])
        times.append(frame.watched(app, window, lambda merge=merge: session.decide([merge])))
    merging = probe.stop()
    say("merge", f"{max(times):.2f} s (worst of 4) at {size}, {forms:,} forms", "1 s", max(times) <= 1.0)
    say("stall", f"longest gap {1000 * merging:.0f} ms merging", "100 ms", merging <= 0.1)
    bench_frames(app, canvas, size)
    window.close()


def bench_frames(app: Any, canvas: Any, size: str) -> None:
    """Frames of a pan and a zoom, painted in software, while the drawing process refines."""
    frames: list[float] = []

    def framed(change: Callable[[], None]) -> None:
        began = time.perf_counter()
        change()
        canvas.repaint()
        frames.append(time.perf_counter() - began)
        end = time.perf_counter() + 0.012
        while time.perf_counter() < end:
            app.processEvents()

    for k in range(60):
        framed(lambda k=k: canvas.pan(9 if k < 30 else -9, 4))
    for k in range(60):
        framed(lambda k=k: canvas.zoom(1.06 if k < 30 else 1 / 1.06))
    frames.sort()
    median, worst = frames[len(frames) // 2], frames[-1]
    text = f"median {1000 * median:.1f} ms, worst {1000 * worst:.1f} ms at {size}"
    say("frames", text, "33 ms, 100 ms", median <= 0.033 and worst <= 0.1)


def bench_start(folder: Path) -> None:
    """From the command to the start screen, and to the demo's painted chart, in a real window under Xvfb."""
    import shutil

    if not shutil.which("Xvfb"):
        print("skip start            there is no Xvfb here")
        return
    display = ":97"
    server = subprocess.Popen(["Xvfb", display, "-screen", "0", "1280x800x24"], stderr=subprocess.DEVNULL)
    env = {**os.environ, "DISPLAY": display, "UMBER_MILESTONES": "1"}
    env.pop("QT_QPA_PLATFORM", None)
    time.sleep(1)
    try:
        for name, command, mark, limit in (("start screen", [], "shown", 1.0), ("demo", ["demo"], "painted", 2.5)):
            took = []
            for _ in range(4):
                began = time.time()
                run = subprocess.Popen([ROOT / "umber", *command], env=env, stdout=subprocess.PIPE, text=True)
                assert run.stdout is not None
                for line in run.stdout:
                    word, at = line.split()
                    if word == mark:
                        took.append(float(at) - began)
                        break
                run.terminate()
                run.wait()
            best = sorted(took)[len(took) // 2]
            say(name, f"{best:.2f} s (median of {len(took)}, first {took[0]:.2f} s)", f"{limit} s", best <= limit)
    finally:
        server.kill()


def late(name: str) -> Callable[[Path], None]:
    """A benchmark of reconcile.py, which needs the package on the path."""

    def run(folder: Path) -> None:
        import reconcile

        reconcile.BENCHES[name](folder)

    return run


BENCHES = {
    "import": bench_import,
    "headless": bench_headless,
    "window": bench_window,
    "start": bench_start,
    **frame.BENCHES,
    **sources.BENCHES,
    **measures.BENCHES,
    **relate.BENCHES,
    "reconcile": late("reconcile"),
    "calibrate": late("calibrate"),
}


def main() -> None:
    sys.path.insert(0, str(ROOT / "src"))
    names = sys.argv[1:] or [name for name in BENCHES if name != "calibrate"]
    with tempfile.TemporaryDirectory(prefix="umber-bench-") as folder:
        os.environ.pop("PYTHONDONTWRITEBYTECODE", None)  # modules compiled once, as on any user's machine
        os.environ["PYTHONPYCACHEPREFIX"] = f"{folder}/compiled"
        for name in names:
            BENCHES[name](Path(folder))


if __name__ == "__main__":
    main()
