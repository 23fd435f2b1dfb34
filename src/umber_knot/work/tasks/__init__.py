"""What workers can do, a file a task: ``stages`` brings a study up to date, ``brush`` draws the chart for a view.

Takes: a request by name. Gives: the task's function; its libraries are loaded before the first request.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any


def by_role(role: str) -> dict[str, Callable[..., Any]]:
    """The tasks of a role."""
    if role == "brush":
        from umber_knot.work.tasks.paint import Brush
        from umber_knot.work.warm import warm

        warm(draw_only=True)
        brush = Brush()
        return {"paint": brush.paint}
    from umber_knot.work.tasks import bring_in, columns, copying, gather, report, spellings, suggest, take, update
    from umber_knot.work.tasks.keeper import Keeper

    keeper = Keeper()
    modules = (update, suggest, bring_in, report, spellings, gather, take, columns, copying)
    return {name: partial(task, keeper) for module in modules for name, task in module.TASKS.items()}
