"""The order in which operations are printed for processors that begin several at once, and wait for what they need.

Values are recorded one after another: a colour's red to its end, then its green. So printed, most wait for the one before: a
processor looks some two hundred instructions ahead, which is less than one channel of a layer. Here they are dealt out like
cards: each in its turn, as soon as what it needs is done.
"""

from __future__ import annotations

from collections.abc import Sequence
from heapq import heappop, heappush

from sunglaze.core.language.expression import Rate, Value
from sunglaze.core.language.operations import OPERATIONS, USUAL_CYCLES

AHEAD = 200
"""So far behind the first value that is not done yet another may be begun: more need more registers than there are."""
_READS = {"near": 8, "enlarged": 12, "fetch": 20, "cube": 20, "curve": 20}
"""Cycles until what is read is there; what operations take stands in their records."""


def _times(op: str) -> tuple[int, int]:
    """Cycles until a result is there, and until the next operation can begin."""
    rule = OPERATIONS.get(op)
    return (rule.cycles, rule.busy) if rule is not None else (_READS.get(op, USUAL_CYCLES), 1)


def scheduled(order: Sequence[Value]) -> list[Value]:
    """The same values, arguments still first, so that few wait. `order`: arguments before what they are used in, each once."""
    place = {id(value): n for n, value in enumerate(order)}
    needs = [{place[id(a)] for a in value.arguments if id(a) in place} for value in order]
    users: list[list[int]] = [[] for _ in order]
    for n, wanted in enumerate(needs):
        for k in wanted:
            users[k].append(n)
    waits_for = [len(wanted) for wanted in needs]
    done = [0] * len(order)
    begun = [False] * len(order)
    coming: list[tuple[int, int]] = []
    """What only waits for results, with the cycle in which they are there."""
    ready: list[int] = []
    beyond: list[int] = []
    now = first = 0
    found: list[Value] = []

    def offer(n: int) -> None:
        if n < first + AHEAD:
            heappush(coming, (max([done[k] for k in needs[n]], default=0), n))
        else:
            heappush(beyond, n)

    for n in range(len(order)):
        if not waits_for[n]:
            offer(n)
    while len(found) < len(order):
        while coming and coming[0][0] <= now:
            heappush(ready, heappop(coming)[1])
        if ready:
            n = heappop(ready)
        else:
            now, n = heappop(coming)
        value = order[n]
        found.append(value)
        begun[n] = True
        if value.rate is Rate.PIXEL:
            cycles, busy = _times(value.op)
            done[n] = now + cycles
            now += busy
        for user in users[n]:
            waits_for[user] -= 1
            if not waits_for[user]:
                offer(user)
        while first < len(order) and begun[first]:
            first += 1
        while beyond and beyond[0] < first + AHEAD:
            offer(heappop(beyond))
    return found
