"""Pictures that are kept from frame to frame: held, frozen, echoed."""

from __future__ import annotations

from typing import Annotated

from sunglaze.core.language import functions as f
from sunglaze.core.language import pictures as p
from sunglaze.core.language import vector as v
from sunglaze.core.language.expression import Value, advance, leaf, together
from sunglaze.core.language.moments import DRAWN, moment
from sunglaze.core.language.vector import Vec
from sunglaze.core.nodes.coordinates import sides, turned
from sunglaze.core.nodes.cues import EARLY
from sunglaze.core.nodes.node import node, scene
from sunglaze.core.nodes.time import cell, count, keep, since
from sunglaze.core.nodes.types import (
    Boolean,
    Colour,
    Fraction,
    Number,
    PictureIn,
    Seconds,
    Signed,
    Span,
    Whole,
    one_of,
)

FLASH_SECONDS, FLASH_REST = 0.25, 0.4
"""How long a flash lasts, and how far flashes are apart at least: 2.5 a second, where WCAG 2.2, 2.3.1 allows three."""


@node("Hold picture", "time")
def hold_picture(picture: PictureIn = None, when: Boolean = False) -> Colour:
    """Lets a picture through, and keeps it as it is while a condition holds: freezes it."""
    identity = f"{scene().path}.picture"
    shown = p.colour_here(picture)
    before = p.colour_here(p.earlier(identity, 3))
    # The frame in which it begins to hold is the one to keep.
    held = when & (_drawn("held", v.number(when)) > 0.5)
    parts = [v.select(held, b, s) for b, s in zip(before.parts()[:3], shown.parts()[:3], strict=True)]
    return p.colour_here(p.computed(parts, keeps=identity))


@node("Freeze", "time")
def freeze(
    picture: PictureIn = None, event: Boolean = False,
    how: Annotated[str, one_of("until the next", "while it holds", "for a time")] = "until the next",
    seconds: Annotated[Seconds, Span(0.1, 30)] = 2.0, parts: Annotated[Whole, Span(1, 8)] = 1,
    direction: Annotated[str, one_of("side by side", "one above another")] = "side by side", flash: Fraction = 0.0,
) -> Colour:  # fmt: skip
    """Holds a picture when a condition begins: until it begins again, while it holds, or for a time. In parts, each time holds
    the next of them, and the one after the last lets all go. A white flash, if wanted, never more often than 2.5 times a
    second."""
    identity = f"{scene().path}.picture"
    shown, before = p.colour_here(picture), p.colour_here(p.earlier(identity, 3))
    many = v.maximum(v.to_float(parts), 1.0) if how == "until the next" else v.value(1.0)
    times = v.to_float(count.rule(event, 0))
    if how == "until the next":
        held = v.modulo(times, many + 1.0)
    elif how == "while it holds":
        held = v.number(event)
    else:
        held = v.number((times > 0.5) & (since.rule(event) < seconds - EARLY * moment("delta")))
    along = p.here().x if direction == "side by side" else p.here().y
    strip = v.minimum(v.floor(along * many), many - 1.0)
    # The first frame has nothing to keep; one that begins to be held is the one to keep.
    was = _drawn("held", held)
    frozen = (strip < held) & (strip < was)
    kept = [v.select(frozen, b, s) for b, s in zip(before.parts()[:3], shown.parts()[:3], strict=True)]
    picture_now = p.colour_here(p.computed(kept, keeps=identity))
    newest = (strip > held - 1.5) & (strip < held)
    light = v.select(newest, _flash(held > was) * flash, 0.0)
    return Vec(*(v.mix(part, 1.0, light) for part in picture_now.parts()[:3]), 1.0)


def _flash(fires: Value) -> Value:
    """A flash when something fires, 1 falling to 0; not while the one before was less than its rest ago."""
    passed = cell("flashed", 600.0) + moment("delta")
    here = v.select(fires & (passed >= FLASH_REST), 0.0, v.minimum(passed, 600.0))
    away = v.clamp01(1.0 - keep("flashed", here, 600.0) * (1 / FLASH_SECONDS))
    return away * away


def _drawn(name: str, following: Value, start: float = 0.0) -> Value:
    """What a number was in the frame in which the kept picture was drawn."""
    name = f"{DRAWN}{scene().path}.{name}"
    return together(leaf("cell", name, start), advance(name, start, following))


@node("Trails", "time")
def trails(
    picture: PictureIn = None, length: Fraction = 0.8, grow: Annotated[Number, Span(0.9, 1.1)] = 1.0,
    turn: Annotated[Number, Span(-10, 10)] = 0.0, how: Annotated[str, one_of("mix", "lighten", "darken")] = "mix",
    right: Signed = 0.0, down: Signed = 0.0,
) -> Colour:  # fmt: skip
    """Echoes of earlier frames, each fainter, drawn a little larger, turned and shifted (parts of the screen a second)."""
    identity = f"{scene().path}.picture"
    shown = p.colour_here(picture)
    # All is given a frame at 30 a second, and the same in time at other rates.
    frame = v.to_float(moment("frame"))
    before = _drawn("frame", frame, -1.0)
    seconds = (frame - before) * moment("delta")
    frames = seconds * 30.0
    away = turned((p.here() - 0.5 - Vec(right, down) * seconds) * sides(), -(turn * frames))
    place = v.partwise(v.divide, away, f.power(v.value(grow), frames)) / sides() + 0.5
    faded = p.sample(p.earlier(identity, 3), place)
    share = v.select(before >= 0.0, f.power(v.clamp(length, 0.0, 0.995), frames), 0.0)

    def echo(new: Value, old: Value) -> Value:
        if how == "mix":
            return v.mix(new, old, share)
        if how == "lighten":
            return v.maximum(new, old * share)
        return 1.0 - v.maximum(1.0 - new, (1.0 - old) * share)

    parts = [echo(s, b) for s, b in zip(shown.parts()[:3], faded.parts()[:3], strict=True)]
    return p.colour_here(p.computed(parts, keeps=identity))
