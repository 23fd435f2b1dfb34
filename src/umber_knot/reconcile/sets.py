"""Sets that stay consistent: pairs joined from the surest down, as long as no set holds a pair that must not merge."""

from __future__ import annotations

import heapq
from collections import defaultdict
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

from umber_knot.corpus.model import Floats, Ints

#: Whether two sets of forms must stay apart.
Never = Callable[[Sequence[int], Sequence[int]], bool]
INFINITE = float("inf")  # log-odds of what nothing was joined to


@dataclass(slots=True)
class Joined:
    """A set of forms with the log-odds of its weakest joining."""

    forms: list[int]
    odds: float


def consistent_sets(
    pairs: Sequence[tuple[float, int, int]],
    settled: Iterable[Sequence[int]],
    never: Never,
    least: float,
    check: Callable[[], None] = lambda: None,
) -> list[Joined]:
    """Join by average linkage over the pairs that were compared, from the highest mean log-odds down to ``least``.

    ``settled`` are sets that are one already: they join as wholes, and cost nothing. Two sets that ``never`` merge
    stay apart. Equal odds are taken in the order of the forms, so the result depends on nothing else.
    """
    home: dict[int, int] = {}
    members: dict[int, list[int]] = {}
    odds: dict[int, float] = {}
    for forms in settled:
        ordered = sorted(forms)
        members[ordered[0]], odds[ordered[0]] = ordered, INFINITE
        home |= dict.fromkeys(ordered, ordered[0])
    links: dict[int, dict[int, tuple[float, int]]] = defaultdict(dict)
    for value, a, b in pairs:
        for form in (a, b):
            if form not in home:
                home[form], members[form], odds[form] = form, [form], INFINITE
        x, y = home[a], home[b]
        if x != y:
            total, count = links[x].get(y, (0.0, 0))
            links[x][y] = links[y][x] = total + value, count + 1
    first = sorted(
        (-total / count, x, y)
        for x, near in links.items()
        for y, (total, count) in near.items()
        if x < y and total / count >= least
    )
    first.reverse()  # taken from the end; links that change later go to a heap, which stays small
    heap: list[tuple[float, int, int]] = []
    stamp = 0
    while first or heap:
        value, x, y = heapq.heappop(heap) if heap and (not first or heap[0] < first[-1]) else first.pop()
        now = links.get(x, {}).get(y)
        if now is None or -now[0] / now[1] != value:  # one of the two has grown since
            continue
        stamp += 1
        if not stamp & 1023:
            check()
        if never(members[x], members[y]):
            del links[x][y], links[y][x]
            continue
        if len(links[y]) > len(links[x]):  # the one with more links stays, so that few of them change
            x, y = y, x
        members[x] = sorted(members[x] + members.pop(y))
        odds[x] = min(odds[x], odds.pop(y), -value)
        for other, (total, count) in links.pop(y).items():
            if other == x:
                continue
            del links[other][y]
            before = links[x].get(other, (0.0, 0))
            total, count = total + before[0], count + before[1]
            links[x][other] = links[other][x] = total, count
            if total / count >= least:
                heapq.heappush(heap, (-total / count, min(x, other), max(x, other)))
        links[x].pop(y, None)
    found = [Joined(forms, odds[x]) for x, forms in members.items() if odds[x] != INFINITE]
    return sorted(found, key=lambda one: one.forms[0])


JOIN = 0.0  # log-odds down to which forms join
WEAK = -0.9  # log-odds down to which a further joining is offered by itself


def joined_sets(
    pairs: tuple[Ints, Ints],
    odds: Floats,
    records: Ints,
    settled: Sequence[Sequence[int]],
    never: Never,
    check: Callable[[], None] = lambda: None,
) -> list[Joined]:
    """Sets of forms that may be one, given pairs: the sure ones whole; and for every weaker link between such sets the
    most used form of each."""
    links = list(zip(odds.tolist(), pairs[0].tolist(), pairs[1].tolist()))
    sure = consistent_sets(links, settled, never, JOIN, check)
    taken = {f for one in sure for f in one.forms}
    held = [one.forms for one in sure] + [forms for forms in settled if forms[0] not in taken]
    weaker = consistent_sets([link for link in links if link[0] < JOIN + 2], held, never, WEAK, check)
    return sure + [Joined(heads(one.forms, held, records), one.odds) for one in weaker]


def heads(forms: Sequence[int], held: Iterable[Sequence[int]], records: Ints) -> list[int]:
    """The most used form of every held set among some forms; forms in no such set as they are."""
    inside = set(forms)
    found = []
    for part in held:
        if part[0] in inside:
            found.append(max(part, key=lambda f: (records[f], -f)))
            inside.difference_update(part)
    return sorted([*found, *inside])


def pairwise(contradict: Callable[[int, int], object]) -> Never:
    """Sets stay apart where any form of one contradicts any of the other."""
    return lambda x, y: any(contradict(a, b) for a in x for b in y)
