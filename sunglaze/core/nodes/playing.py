"""Which picture of a sequence or sheet shows when: orders of playing, written once for all targets."""

from __future__ import annotations

from sunglaze.core.errors import BadEffect
from sunglaze.core.language import functions as f
from sunglaze.core.language.expression import Value, constant, record
from sunglaze.core.language.moments import moment

ORDERS = ("loop", "backward", "back and forth", "once", "shuffled")


def round_to(number: Value, count: Value) -> Value:
    """A whole number held to 0 up to `count` by going round, from below as well."""
    rest = _rest(number, count)
    return record("iselect", record("ilt", rest, 0), f.iadd(rest, count), rest)


def frame_of(turn: Value, count: Value, order: str) -> Value:
    """Which of `count` pictures shows at a turn, both whole numbers. Raises BadEffect for an order that is not known."""
    last = record("isub", count, 1)
    if order == "loop":
        return round_to(turn, count)
    if order == "backward":
        return record("isub", last, round_to(turn, count))
    if order == "back and forth":
        there = record("imax", f.imul(last, 2), 1)
        at = round_to(turn, there)
        return record("imin", at, record("isub", there, at))
    if order == "once":
        return record("imin", record("imax", turn, 0), last)
    if order == "shuffled":
        return _shuffled(turn, count)
    raise BadEffect(f"'{order}' is no order of playing; there are {', '.join(ORDERS)}")


def _rest(a: Value, b: Value) -> Value:
    return record("isub", a, f.imul(record("idiv", a, b), b))


def _drawn(turn: Value, count: Value) -> Value:
    # A scrambled number has all signs; its upper bits have none.
    return _rest(f.shift_right(f.hashed(turn, moment("seed")), 8), record("imax", count, 1))


def _shuffled(turn: Value, count: Value) -> Value:
    """Every even turn is drawn by itself, every odd one among those that neither of its neighbours shows: no picture follows
    itself, and nothing need be remembered, so that any turn is known ahead. Two pictures take turns."""
    few = record("ilt", count, 3)
    drawn = [
        record("iselect", few, constant(0, "int"), _drawn(at, count)) for at in (turn, record("isub", turn, 1), f.iadd(turn, 1))
    ]
    itself, before, behind = drawn
    low, high = record("imin", before, behind), record("imax", before, behind)
    same = record("ieq", low, high)
    free = record("isub", count, record("iselect", same, constant(1, "int"), constant(2, "int")))
    number = _drawn(turn, free)
    number = f.iadd(number, record("iselect", record("ilt", number, low), constant(0, "int"), constant(1, "int")))
    beyond = record("iselect", record("ilt", number, high), constant(0, "int"), constant(1, "int"))
    number = record("iselect", same, number, f.iadd(number, beyond))
    odd = record("ieq", record("iand", turn, 1), 1)
    return record("iselect", odd, record("imin", number, record("isub", count, 1)), itself)
