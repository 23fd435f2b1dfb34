"""The command line: the same stages without a window."""

from __future__ import annotations

import argparse
import json
import os
import signal
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from umber_knot import __version__
from umber_knot.corpus.model import KINDS
from umber_knot.errors import UserError


def main(arguments: Sequence[str] | None = None) -> int:
    """Entry point; returns the exit status. Errors meant for the scholar are one line on standard error."""
    parser = _parser()
    given = list(sys.argv[1:] if arguments is None else arguments)
    commands = {"run", "inspect", "suggest", "measure", "demo", "open", "warm", "shots", "install", "catalogue"}
    if given and given[0] not in commands and not given[0].startswith("-"):
        given.insert(0, "open")
    options = parser.parse_args(given or ["open"])
    try:
        return int(options.run(options) or 0)
    except UserError as error:
        print(f"umber-knot: {error}", file=sys.stderr)
        return 2
    except BrokenPipeError:
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 1
    except KeyboardInterrupt:
        return 128 + signal.SIGINT


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="umber-knot", description="Science maps with live lineage.")
    parser.add_argument("--version", action="version", version=__version__)
    sub = parser.add_subparsers(required=True, metavar="COMMAND")

    def add(name: str, function: Any, text: str) -> argparse.ArgumentParser:
        one = sub.add_parser(name, help=text, description=text)
        one.set_defaults(run=function)
        return one

    one = add("open", _open, "Open the window, with a study or files when given.")
    one.add_argument("files", nargs="*", type=Path)
    one = add("run", _run, "Run every stage of a recipe and write tables, network, figure and method.")
    one.add_argument("recipe", type=Path)
    one.add_argument("--out", type=Path, required=True, metavar="DIR")
    one.add_argument("--quiet", action="store_true")
    one = add("inspect", _inspect, "Say what files hold, and what in them could not be read.")
    one.add_argument("files", nargs="+", type=Path)
    one.add_argument("--json", action="store_true")
    one = add(
        "suggest",
        _suggest,
        "List spellings that may stand for one person, word, venue …, and names that may stand for several people.",
    )
    one.add_argument("files", nargs="+", type=Path)
    one.add_argument("--kind", default="person", choices=KINDS)
    one.add_argument("--csv", type=Path, metavar="OUT")
    one = add("measure", _measure, "Measure the items of a network file, and the network as a whole.")
    one.add_argument("network", type=Path)
    one.add_argument("--out", type=Path, required=True, metavar="CSV")
    one.add_argument("--summary", type=Path, metavar="JSON", help="figures of the whole network")
    one.add_argument("--measures", default="", metavar="NAMES", help="parted by commas; left out: all that can be had")
    one.add_argument("--weighted", action="store_true", help="the weighted variants, too")
    one.add_argument("--distance", action="store_true", help="a weight is a distance, not closeness")
    way = one.add_mutually_exclusive_group()
    way.add_argument("--directed", action="store_true", default=None, help="ties run from source to target")
    way.add_argument("--undirected", dest="directed", action="store_false", help="ties have no direction")
    one = add("demo", _demo, "Open the demo study, or write its files.")
    one.add_argument("--write", type=Path, metavar="DIR")
    one = add("catalogue", _catalogue, "Run a made-up catalogue on this machine, to try SRU and OAI-PMH on.")
    one.add_argument("--port", type=int, default=8788)
    one = add("shots", _shots, "Draw the pictures of docs/screenshots from the demo.")
    one.add_argument("folder", nargs="?", type=Path, default=Path("docs/screenshots"))
    one = add("install", _install, "Put desktop entry, icon and file type in place.")
    one.add_argument("--user", action="store_true", required=True, help="for this user only")
    add("warm", _warm, "Compile the kernels and prepare the demo (set-up does this).")
    return parser


def _run(options: argparse.Namespace) -> int:
    from umber_knot.lineage.headless import run_recipe
    from umber_knot.lineage.recipe import read_recipe

    def say(text: str) -> None:
        if not options.quiet:
            print(text, file=sys.stderr)

    run_recipe(read_recipe(options.recipe), options.out, say)
    return 0


def _inspect(options: argparse.Namespace) -> int:
    from umber_knot.gather.read import expanded, inspect

    found = [inspect(path) for path in expanded(options.files)]
    if options.json:
        print(json.dumps(found, ensure_ascii=False, indent=1))
    else:
        for one in found:
            counts = ", ".join(
                f"{one[k]:,} {k}"
                for k in ("records", "persons", "keywords", "references", "letters", "passages")
                if one[k] or k == "records"
            )
            recognised = ", ".join(str(text) for text in (one["format"] or "not read", one["told"]) if text)
            print(f"{one['file']}: {recognised}; {counts}")
            for problem in one["problems"]:  # type: ignore[attr-defined]
                place = f"line {problem['line']:,}: " if problem["line"] else ""
                print(f"  {place}{problem['message']}" + (f"  [{problem['excerpt']}]" if problem["excerpt"] else ""))
    return 0 if any(one["records"] for one in found) else 2


def _suggest(options: argparse.Namespace) -> int:
    from umber_knot.gather.read import read_corpus
    from umber_knot.reconcile.decisions import resolve
    from umber_knot.reconcile.suggest import suggest
    from umber_knot.reconcile.suggestion import suggestion_rows
    from umber_knot.report.tables import csv_text
    from umber_knot.report.write import write_files

    corpus = read_corpus(options.files)
    mentions = corpus.of(options.kind)
    counts = mentions.counts()
    rows = [
        row
        for n, s in enumerate(suggest(corpus, options.kind, resolve(corpus, options.kind, [])), 1)
        for row in suggestion_rows(corpus, n, s, counts)
    ]
    text = csv_text(("set", "form", "records", "preferred", "confidence", "reasons", "suggests", "scope"), rows)
    if options.csv:
        write_files(options.csv.parent, {options.csv.name: text.encode()})
    else:
        sys.stdout.write(text)
    return 0


def _measure(options: argparse.Namespace) -> int:
    from umber_knot.report.measured import measure_file

    names = [name.strip() for name in options.measures.split(",") if name.strip()]
    for line in measure_file(
        options.network, options.out, options.summary, names, options.weighted, options.directed, options.distance
    ):
        print(line, file=sys.stderr)
    return 0


def _demo(options: argparse.Namespace) -> int:
    if options.write:
        from umber_knot.demo import write_demo

        try:
            for path in write_demo(options.write):
                print(path)
        except OSError as error:
            raise UserError(f"cannot be written ({error.strerror})", place=str(options.write)) from error
        return 0
    from umber_knot.demo import demo_study
    from umber_knot.desktop.app import run_window

    return run_window([demo_study()])


def _open(options: argparse.Namespace) -> int:
    from umber_knot.desktop.app import run_window

    return run_window(options.files)


def _catalogue(options: argparse.Namespace) -> int:
    from umber_knot.demo.catalogue import make_server

    try:
        server = make_server(options.port)
    except (OSError, OverflowError) as error:
        raise UserError(f"port {options.port} cannot be used ({error})", cure="Choose another with --port") from error
    base = f"http://127.0.0.1:{server.server_address[1]}"
    print(f"The Brackwater catalogue (made up): SRU {base}/sru, OAI-PMH {base}/oai; Ctrl+C ends it", flush=True)
    with server:
        server.serve_forever()
    return 0


def _shots(options: argparse.Namespace) -> int:
    from umber_knot.desktop.shots import take_shots

    return take_shots(options.folder)


def _install(options: argparse.Namespace) -> int:
    from umber_knot.install import install_user

    for path in install_user():
        print(path)
    return 0


def _warm(options: argparse.Namespace) -> int:
    from umber_knot.demo import demo_study
    from umber_knot.work.warm import warm

    warm()
    demo_study()
    return 0
