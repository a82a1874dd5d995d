"""What happens, and what the wearer turns: an effect's cues and dials, and the conditions that cues are made of.

A cue is a condition. It holds while the condition does, and fires when that begins. What a finger, a face, the clock or a number
must do for it is wired in recipes (core/effect/cues).
"""

from __future__ import annotations

from typing import Annotated, NamedTuple

from sunglaze.core.errors import Unfit
from sunglaze.core.language import vector as v
from sunglaze.core.language.expression import Value, constant, leaf, record, together
from sunglaze.core.language.moments import moment
from sunglaze.core.language.vector import Vec
from sunglaze.core.nodes.node import in_scene, node, scene
from sunglaze.core.nodes.playing import frame_of
from sunglaze.core.nodes.time import EASINGS, begins, bezier, cell, count, keep, now, since, toggle
from sunglaze.core.nodes.types import Boolean, Colour, CueName, DialName, Fraction, Number, Seconds, Span, Whole, one_of

LONG_AGO = 600.0
"""Seconds: what *Since* gives of what never was."""
EARLY = 0.25
"""Of a frame: times end and begin so much earlier, since those that are whole frames are not exact as numbers."""
NEVER: Value = constant(False, "bool")


class CueSeen(NamedTuple):
    """What *Cue* gives."""

    holds: Boolean
    fires: Boolean
    since: Annotated[Seconds, Span(0, LONG_AGO)]
    times: Annotated[Whole, Span(0, 10_000)]


def cue_holds(which: str | None) -> Value:
    """Whether one of the effect's cues holds. Raises Unfit for one that is not there."""
    cues = scene().cues
    if not which or cues is None:
        return NEVER
    if which not in cues:
        raise Unfit(f"the cue '{which}' is not there any more; choose another")
    return cues[which]


@node("Cue", "touch")
def cue(which: CueName = "tap") -> CueSeen:
    """One of the effect's cues: whether it holds, whether it fires in this frame, for how long it has since, how often it has."""
    holds = cue_holds(which)
    # Counted once for all that ask for it.
    with in_scene(scene().at(f"cue:{which}.fired")):
        return CueSeen(holds, begins(holds), since.rule(holds), count.rule(holds, 0))


class DialSeen(NamedTuple):
    """What *Dial* gives."""

    share: Fraction
    choice: Annotated[Whole, Span(0, 12)]
    on: Boolean
    colour: Colour


def dialled(name: str) -> Value:
    """Where a dial stands, 0 to 1: as the wearer has turned it, or as it starts."""
    return v.select(moment(f"dialled:{name}"), moment(f"dial:{name}"), leaf("uniform", f"dial:{name}"))


@node("Dial", "touch")
def dial(which: DialName = None) -> DialSeen:
    """What the wearer turns: where it stands from 0 to 1, which of its choices, whether it is on, which colour."""
    dials = scene().dials
    choices = dials.get(which) if which else None
    if which and choices is None and scene().cues is not None:
        raise Unfit(f"the dial '{which}' is not there any more; choose another")
    if choices is None:
        return DialSeen(v.value(0.0), constant(0, "int"), NEVER, Vec(0.0, 0.0, 0.0, 1.0))
    if choices < 0:  # a colour
        parts = [v.clamp01(dialled(f"{which}-{part}")) for part in "rgb"]
        return DialSeen(parts[0], constant(0, "int"), NEVER, Vec(*parts, 1.0))
    share = v.clamp01(dialled(str(which)))
    at = v.to_int(v.floor(share * (max(choices, 2) - 1) + 0.5))
    return DialSeen(share, at, share > 0.5, Vec(share, share, share, 1.0))


GESTURES = ("tap", "short tap", "double tap", "press and hold")


@node("Gesture", "touch")
def gesture(what: Annotated[str, one_of(*GESTURES)] = "tap", seconds: Annotated[Seconds, Span(0.1, 3)] = 0.35) -> Boolean:
    """What a finger does: it is down; it was down for no longer than so many seconds; it comes down twice within them; it stays
    down for longer."""
    down = moment("touch.down")
    if what == "tap":
        return down
    was, held = cell("was"), cell("held")
    is_down = v.number(down)
    comes, goes = down & (was < 0.5), ~down & (was > 0.5)
    here = v.select(down, v.select(comes, 0.0, held + moment("delta")), held)
    kept = [keep("was", is_down), keep("held", here)]
    if what == "press and hold":
        return together(v.number(down & (here >= seconds - EARLY * moment("delta"))), *kept) > 0.5
    if what == "short tap":
        return together(v.number(goes & (held + (1.0 - EARLY) * moment("delta") <= seconds)), *kept) > 0.5
    # Twice: since the first of the two came down; after the second one it begins anew.
    first, twice = cell("first", LONG_AGO), cell("twice")
    second = comes & (first + (1.0 - EARLY) * moment("delta") <= seconds)
    passed = v.select(comes, v.select(second, LONG_AGO, 0.0), v.minimum(first + moment("delta"), LONG_AGO))
    holds = v.select(second, 1.0, v.select(down, twice, 0.0))
    return together(keep("twice", holds), keep("first", passed, LONG_AGO), *kept) > 0.5


@node("Past a threshold", "time")
def past(
    value: Number = 0.0, threshold: Number = 0.5, band: Annotated[Number, Span(0, 1)] = 0.1,
    side: Annotated[str, one_of("above", "below", "either side")] = "above",
) -> Boolean:  # fmt: skip
    """Whether a number is past a threshold: it begins to be at the threshold, and ends only when it has come back by the whole
    band. So a shaking number does not flutter."""
    value, threshold, band = v.value(value), v.value(threshold), v.absolute(v.value(band))
    if side == "either side":
        value = v.absolute(value)
    elif side == "below":
        value, threshold = -value, -threshold
    edge = v.select(cell("past") > 0.5, threshold - band, threshold)
    return keep("past", v.number(value > edge)) > 0.5


@node("Timer", "time")
def timer(
    every: Annotated[Seconds, Span(0.2, 60)] = 4.0, first: Annotated[Seconds, Span(0, 60)] = 4.0,
    lasts: Annotated[Seconds, Span(0.05, 30)] = 0.2,
) -> Boolean:  # fmt: skip
    """Holds for a while again and again: for the first time after so many seconds, then every so many."""
    passed = now() - first
    turn = v.fract(v.divide(passed, every)) * every
    early = moment("delta") * EARLY
    begun = (passed + early) >= 0.0
    return begun & ((turn < lasts) | (turn > every - early))


@node("The start", "time")
def start(seconds: Annotated[Seconds, Span(0, 60)] = 0.0) -> Boolean:
    """Holds from so many seconds after the effect began."""
    return (now() + moment("delta") * EARLY) >= seconds


@node("Ramp when cued", "time")
def cued_ramp(
    event: Boolean = False, low: Number = 0.0, high: Number = 1.0, seconds: Annotated[Seconds, Span(0, 30)] = 1.0,
    back: Annotated[Seconds, Span(0, 30)] = 1.0,
    how: Annotated[str, one_of("there", "there and back", "there, and back by the next", "while it holds")] = "there and back",
    easing: Annotated[str, one_of(*EASINGS)] = "ease in and out",
) -> Number:  # fmt: skip
    """Begins at a cue and goes from one number to another: there once, there and back, there and by the next cue back, or there
    while it holds and back when it does not; by one of CSS's easings."""
    times, passed = count.rule(event, 0), since.rule(event)
    ever = v.to_float(times) > 0.5

    def part(passed: Value, of: Value) -> Value:
        return v.select(v.value(of) > 1e-6, v.clamp01(v.divide(passed, of)), 1.0)

    if how == "there":
        at = v.select(ever, part(passed, seconds), 0.0)
    elif how == "there and back":
        at = v.select(ever, v.select(passed < seconds, part(passed, seconds), 1.0 - part(passed - seconds, back)), 0.0)
    else:
        there = event if how == "while it holds" else toggle.rule(event, NEVER)
        before, step = cell("at"), moment("delta")
        ahead = v.select(v.value(seconds) > 1e-6, v.divide(step, seconds), 1.0)
        behind = v.select(v.value(back) > 1e-6, v.divide(step, back), 1.0)
        at = keep("at", v.clamp01(v.select(there, before + ahead, before - behind)))
    return v.mix(low, high, bezier(at, *EASINGS[easing]))


@node("Switch when cued", "time")
def cued_switch(
    event: Boolean = False, low: Number = 0.0, high: Number = 1.0,
    how: Annotated[str, one_of("each time", "while it holds", "for a time")] = "each time",
    seconds: Annotated[Seconds, Span(0, 60)] = 1.0,
) -> Number:  # fmt: skip
    """One number or another: changes at each cue, is the other while the cue holds, or for so many seconds after it fires."""
    if how == "each time":
        other = toggle.rule(event, NEVER)
    elif how == "while it holds":
        other = event
    else:
        other = (v.to_float(count.rule(event, 0)) > 0.5) & (since.rule(event) < seconds - EARLY * moment("delta"))
    return v.select(other, high, low)


STEPPING = {"round": "loop", "back and forth": "back and forth", "to the last": "once", "by chance": "shuffled"}
"""Ways to step, and the orders of playing that they are."""


@node("Step through", "time")
def steps(
    index: Annotated[Whole, Span(0, 1000)] = 0, count: Annotated[Whole, Span(2, 6)] = 3, first: Number = 0.0,
    second: Number = 0.5, third: Number = 1.0, fourth: Number = 0.0, fifth: Number = 0.5, sixth: Number = 1.0,
    how: Annotated[str, one_of(*STEPPING)] = "round",
) -> Number:  # fmt: skip
    """One of two to six numbers, by a whole number that goes on: round and round, back and forth, up to the last, or by chance
    and never the same twice in a row."""
    numbers = [v.value(one) for one in (first, second, third, fourth, fifth, sixth)]
    many = record("imax", record("imin", count, len(numbers)), 2)
    at = v.to_float(frame_of(index, many, STEPPING[how]))
    found = numbers[0]
    for n, one in enumerate(numbers[1:], 1):
        found = v.select(at > n - 0.5, one, found)
    return found
