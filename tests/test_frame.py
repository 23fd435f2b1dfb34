"""The shape of the code: no cycle, no arrow against the order, no Qt in the core, examples that run, no dead names."""

import ast
import doctest
import importlib
import pkgutil
from pathlib import Path

import pytest

import umber_knot

SRC = Path(umber_knot.__file__).parent
#: Packages from the ground up; each may use those before it. Top-level modules without a place here are for all.
ORDER = (
    "corpus",
    "text",
    "gather",
    "network",
    "reconcile",
    "relate",
    "group",
    "chart",
    "report",
    "lineage",
    "demo",
    "work",
    "desktop",
)
GROUND = {"errors", "paths", "markup", "parameters", ""}


def module_of(path: Path) -> str:
    parts = path.relative_to(SRC).with_suffix("").parts
    return ".".join(("umber_knot", *(parts[:-1] if parts[-1] == "__init__" else parts)))


def imports_of(path: Path):
    """Every module imported anywhere in a file, late imports too, with the line."""
    for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
        if isinstance(node, ast.Import):
            yield from ((alias.name, node.lineno) for alias in node.names)
        elif isinstance(node, ast.ImportFrom) and node.module and not node.level:
            yield node.module, node.lineno
            yield from ((f"{node.module}.{alias.name}", node.lineno) for alias in node.names)


def arrows():
    """(package, package it uses, where) between our packages."""
    for path in sorted(SRC.rglob("*.py")):
        own = module_of(path).split(".")[1:2]
        for name, line in imports_of(path):
            parts = name.split(".")
            if parts[0] == "umber_knot" and len(parts) > 1 and own and parts[1] != own[0] and (SRC / parts[1]).exists():
                yield own[0], parts[1], f"{path.relative_to(SRC)}:{line}"


def test_no_arrow_runs_against_the_order_of_packages():
    against = [where for a, b, where in arrows() if a in ORDER and b in ORDER and ORDER.index(b) > ORDER.index(a)]
    assert against == []
    assert {b for _, b, _ in arrows()} <= {*ORDER, "resources"}


def test_packages_make_no_cycle():
    uses = {}
    for a, b, _ in arrows():
        uses.setdefault(a, set()).add(b)

    def reach(start):
        seen, todo = set(), [start]
        while todo:
            for b in uses.get(todo.pop(), ()):
                if b not in seen:
                    seen.add(b)
                    todo.append(b)
        return seen

    assert [a for a in uses if a in reach(a)] == []


def test_the_arrows_that_are_looked_for_would_be_found():
    assert ("lineage", "report") in {(a, b) for a, b, _ in arrows()}  # headless writes the report
    assert any(b == "corpus" for a, b, _ in arrows() if a == "desktop")


MODULES = sorted(
    name
    for _, name, _ in pkgutil.walk_packages(umber_knot.__path__, "umber_knot.")
    if "__main__" not in name and "desktop" not in name
)


def test_every_example_in_a_docstring_is_true():
    tried = failed = 0
    for name in [*MODULES, "umber_knot.desktop.selection"]:
        module = importlib.import_module(name)
        result = doctest.testmod(module)
        failed, tried = failed + result.failed, tried + result.attempted
    assert failed == 0 and tried > 30


@pytest.mark.parametrize("folder", sorted(p.parent for p in SRC.rglob("__init__.py")), ids=lambda p: p.name)
def test_every_folder_says_what_lives_there(folder):
    said = ast.get_docstring(ast.parse((folder / "__init__.py").read_text(encoding="utf-8"))) or ""
    assert said and (
        folder in (SRC, SRC / "gather" / "formats")
        or "Takes:" in said
        or "Gives:" in said
        or len(said.splitlines()) >= 1
    )


def test_no_module_level_name_is_without_a_use():
    """Functions, classes and constants that nothing in the tree names."""
    texts = {
        p: p.read_text(encoding="utf-8")
        for p in [
            *SRC.rglob("*.py"),
            *(SRC.parents[1] / "tests").rglob("*.py"),
            *(SRC.parents[1] / "bench").rglob("*.py"),
        ]
    }
    words = {}
    for text in texts.values():
        for node in ast.walk(ast.parse(text)):
            name = node.id if isinstance(node, ast.Name) else node.attr if isinstance(node, ast.Attribute) else None
            name = name or (node.value if isinstance(node, ast.Constant) and isinstance(node.value, str) else None)
            names = [name] if name else [a.name for a in node.names] if isinstance(node, ast.ImportFrom) else []
            for one in names:
                words[one] = words.get(one, 0) + 1
    unused = []
    for path, text in texts.items():
        if SRC not in path.parents:
            continue
        for node in ast.parse(text).body:
            if isinstance(node, (ast.FunctionDef, ast.ClassDef)):
                names = [node.name]
            elif isinstance(node, (ast.Assign, ast.AnnAssign)):
                targets = node.targets if isinstance(node, ast.Assign) else [node.target]
                names = [t.id for t in targets if isinstance(t, ast.Name)]
                stored = 1
                unused += [
                    f"{path.name}: {n}"
                    for n in names
                    if words.get(n, 0) <= stored and n not in READ_BY_NAME and not n.startswith("__")
                ]
                continue
            else:
                continue
            unused += [f"{path.name}: {n}" for n in names if n not in words and n not in READ_BY_NAME]
    assert unused == []


#: What is found by looking, not by name: the interface of a format.
READ_BY_NAME = {"NAME", "UNIT", "sniff", "read", "graph", "rows", "TASKS"}
