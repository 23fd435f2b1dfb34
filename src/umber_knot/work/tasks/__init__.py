"""What workers can do, a file a task: ``stages`` brings a study up to date, ``brush`` draws the chart for a view.

Takes: a request by name. Gives: the task's function. The libraries of a first chart are loaded before the first
request, those of every other task with its first.
"""

from __future__ import annotations

from collections.abc import Callable
from importlib import import_module
from typing import Any

#: Where the tasks of ``stages`` are.
MODULES = {
    "update": "update",
    "suggest": "suggest",
    "bring_in": "bring_in",
    "report": "report",
    "spellings": "spellings",
    "gather": "gather",
    "preview": "take",
    "take": "take",
    "columns": "columns",
    "copy": "copying",
    "salvage": "copying",
    "migrate": "copying",
}


def by_role(role: str) -> dict[str, Callable[..., Any]]:
    """The tasks of a role."""
    if role == "brush":
        from umber_knot.work.tasks.paint import Brush
        from umber_knot.work.warm import warm

        warm(draw_only=True)
        brush = Brush()
        return {"paint": brush.paint}
    from umber_knot.work.tasks.keeper import Keeper

    keeper = Keeper()

    def task(name: str) -> Callable[..., Any]:
        def carried_out(*arguments: Any) -> Any:
            return getattr(import_module(f"{__name__}.{MODULES[name]}"), name)(keeper, *arguments)

        return carried_out

    import_module(f"{__name__}.update")
    return {name: task(name) for name in MODULES}
