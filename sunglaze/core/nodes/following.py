"""Following a face: which part of the picture keeps it in one place and at one size, and never shows the picture's border.

It works on the face's place and size in the picture, not on how far a head is, so it holds at any distance. A part of the picture
is told by its zoom (1 is all of it) and by where on the screen the face lies in it; its middle follows from both and from where
the face is in the picture.
"""

from __future__ import annotations

from typing import Annotated, NamedTuple

from sunglaze.core.language import functions as f
from sunglaze.core.language import pictures as p
from sunglaze.core.language import vector as v
from sunglaze.core.language.expression import Value, together
from sunglaze.core.language.moments import moment
from sunglaze.core.language.vector import Num, Vec
from sunglaze.core.nodes.coordinates import sides
from sunglaze.core.nodes.face import is_second, is_there, of_face
from sunglaze.core.nodes.handles import handle
from sunglaze.core.nodes.node import node
from sunglaze.core.nodes.time import cell, keep
from sunglaze.core.nodes.types import Boolean, Colour, Fraction, Number, PictureIn, Seconds, Span, Vec2, one_of

MOST_ZOOM = 12.0
LEASH = 0.018
"""Of the screen's height: farther than this smoothing never takes the face from its place."""
SIZE_LEASH = 0.038
"""In natural logarithms: farther than this smoothing never takes it from its size."""
JUMP = 4.0
"""Widths of the picture a second, at which a face does not go from one place to another: somebody else is followed."""
LEAP = 6.0
"""Likewise of its size, in natural logarithms a second."""
PATIENCE = 0.4
"""Seconds for which a face may be lost before the whole picture comes back."""
ELSEWHERE = 0.03
"""Of the screen: a face that was lost for a moment and is found farther away than this is eased to."""
FASTEST = 1.1
"""Screen widths a second: easing moves nothing on the screen faster. 4 % of the width a frame at 30 a second are 1.2."""
SWING = 1.5
"""The smooth step is so many times as fast in its middle as a straight way."""
KNEE = 0.1
APART = 0.5
"""Of the screen, that two faces which are framed together are apart at most."""


class Framed(NamedTuple):
    """What *Frame of a face* gives."""

    middle: Vec2
    zoom: Annotated[Number, Span(1, MOST_ZOOM)]
    held: Boolean
    settled: Fraction


def _soft_max(a: Num, b: Num, knee: float) -> Value:
    """The larger of two, with a round corner as wide as the knee to either side (polynomial; Quilez 2013, from memory)."""
    near = v.maximum(knee - v.absolute(v.value(a) - b), 0.0)
    return v.maximum(a, b) + near * near * (0.25 / knee)


def _leashed(away: Value, most: Num) -> Value:
    """A distance, held below `most` softly: all but itself while it is shorter, so that what shakes is smoothed as if there were
    no leash."""
    part = v.divide(away, most)
    square = part * part
    return v.divide(away, v.sqrt(v.sqrt(1.0 + square * square)))


def _lagged(name: str, target: Value, seconds: Num, anew: Value) -> Value:
    """A first-order lag behind what goes in straight lines from frame to frame: exact for these, so that the motion is the same
    at any frame rate. `anew`: it begins at the target."""
    before, was = cell(name), cell(f"{name} target")
    tau = v.maximum(v.value(seconds), 1e-3)
    dt = v.maximum(moment("delta"), 1e-6)
    behind = v.divide(target - was, dt) * tau
    following = target - behind + (before - was + behind) * f.exp(-dt / tau)
    following = v.select(anew, target, following)
    return together(keep(name, following), keep(f"{name} target", target))


def _of_whom(who: str) -> tuple[Value, Vec, Value, Value]:
    """Whether there is somebody, where in the picture, at what size, and who it is (0, 1, or 2 for both)."""
    if who != "both":
        second = is_second(who)
        index = v.value(float(second)) if isinstance(second, bool) else v.number(second)
        return is_there(who), Vec(of_face(who, "u"), of_face(who, "v")), of_face(who, "size"), index
    there = [is_there(one) for one in ("first", "second")]
    places = [Vec(of_face(one, "u"), of_face(one, "v")) for one in ("first", "second")]
    sizes = [of_face(one, "size") for one in ("first", "second")]
    both, alone = there[0] & there[1], v.select(there[0], 0.0, 1.0)
    middle = [(a + b) * 0.5 for a, b in zip(*(place.parts() for place in places), strict=True)]
    lone = [v.select(there[0], a, b) for a, b in zip(*(place.parts() for place in places), strict=True)]
    place = Vec(*(v.select(both, m, one) for m, one in zip(middle, lone, strict=True)))
    size = v.select(both, v.maximum(*sizes), v.select(there[0], *sizes))
    return there[0] | there[1], place, size, v.select(both, 2.0, alone)


def _apart(who: str) -> Value:
    """Of the picture, how far two faces that are framed together are apart, across or down; 0 where it is one."""
    if who != "both":
        return v.value(0.0)
    both = is_there("first") & is_there("second")
    far = [v.absolute(of_face("first", axis) - of_face("second", axis)) for axis in "uv"]
    return v.select(both, v.maximum(*far), 0.0)


@node("Frame of a face", "face", handle("point", "Place of the face", at="place"))
def face_frame(
    who: Annotated[str, one_of("first", "nearest", "any", "both")] = "first",
    by: Annotated[str, one_of("size of the face", "fixed zoom")] = "size of the face",
    size: Annotated[Fraction, Span(0.05, 0.6)] = 0.3,
    zoom: Annotated[Number, Span(1, 8, 0.05)] = 2.0,
    place: Vec2 = (0.5, 0.42),
    seconds: Annotated[Seconds, Span(0, 3)] = 0.15,
    size_seconds: Annotated[Seconds, Span(0, 5)] = 0.4,
    ease: Annotated[Seconds, Span(0, 5)] = 1.0,
    margin: Annotated[Fraction, Span(0, 0.2)] = 0.0,
    gives: Annotated[Fraction, Span(0, 1)] = 0.25,
    gone: Annotated[str, one_of("whole picture", "stays")] = "whole picture",
) -> Framed:
    """The part of the picture that keeps a face in its place on the screen and at its size (between the eyes, of the screen's
    width), or at a fixed zoom. It never reaches beyond the picture, less a margin: near the border it zooms in a little more,
    by the share that it gives way, and then the face leaves its place. Comes in when a face does; when it has left, the whole
    picture comes back, or all stays."""
    there, at, seen, index = _of_whom(who)
    lost = cell("lost", 600.0)
    was, at_u, at_v = cell("who", -1.0), cell("face u"), cell("face v")
    dt = moment("delta")
    away = v.select(there, 0.0, v.minimum(lost + dt, 600.0))
    here = away <= (PATIENCE if gone == "whole picture" else 599.0)
    # While it is lost, and after it has gone, it counts as where it was.
    face = Vec(v.select(there, at.x, at_u), v.select(there, at.y, at_v))
    size_here = v.maximum(v.select(there, seen, cell("size", 0.15)), 1e-3)
    closeness, was_close = f.log(size_here), f.log(v.maximum(cell("size", 0.15), 1e-3))
    far = v.maximum(v.absolute(face.x - at_u), v.absolute(face.y - at_v))
    grown = v.absolute(closeness - was_close)
    jumped = there & ((far > dt * JUMP) | (grown > dt * LEAP) | (v.absolute(index - was) > 0.5))
    comes, goes = here & (cell("here") < 0.5), ~here & (cell("here") > 0.5)
    found = there & (lost > 0.0) & (far * f.exp(cell("zoom")) > ELSEWHERE)
    turns = comes | goes | jumped | found
    smooth = Vec(*(_lagged(f"smooth {n}", part, seconds, turns) for n, part in zip("uv", face.parts(), strict=True)))
    size_smooth = closeness + _leashed(_lagged("smooth size", closeness, size_seconds, turns) - closeness, SIZE_LEASH)

    # What is wanted: of a face its place and zoom, else the whole picture.
    wanted = f.log(v.value(zoom)) if by == "fixed zoom" else f.log(v.maximum(size, 1e-3)) - size_smooth
    apart = _apart(who)
    wanted = v.minimum(wanted, v.select(apart > 1e-3, f.log(v.divide(APART, v.maximum(apart, 1e-3))), 9.0))
    room = 1.0 - v.value(margin) * 2.0
    least = -f.log(room)
    wanted = v.maximum(wanted, least)
    # The zoom at which the part of the picture ends at the border while the face is in its place: from the left, right, upper and
    # lower one.
    needed = v.value(0.0)
    for spot, part in zip(place.parts(), smooth.parts(), strict=True):
        before = v.maximum(part - margin, 1e-3)
        behind = v.maximum(1.0 - margin - part, 1e-3)
        needed = v.maximum(needed, v.maximum(v.divide(spot, before), v.divide(1.0 - spot, behind)))
    most = f.log(1.0 + v.value(gives))
    more = v.minimum(_soft_max(0.0, f.log(v.maximum(needed, 1e-3)) - wanted, KNEE), most)
    # It gives way, and comes back, as slowly as the zoom goes after the face; the border is kept out below in any case.
    more = _lagged("more", more, size_seconds, turns)
    wanted = v.clamp(wanted + more, 0.0, f.log(v.value(MOST_ZOOM)))

    # Where it is now, told by the face: what it eases from where it turns to something else.
    old_zoom, old = cell("zoom"), Vec(cell("middle u", 0.5), cell("middle v", 0.5))
    now_at = (face - old) * f.exp(old_zoom) + 0.5
    from_u, from_v, from_zoom = (v.select(turns, a, b) for a, b in zip(
        (*now_at.parts(), old_zoom), (cell("from u", 0.5), cell("from v", 0.5), cell("from zoom")), strict=True
    ))  # fmt: skip
    target = Vec(*(v.select(here, a, b) for a, b in zip(place.parts(), face.parts(), strict=True)))
    target_zoom = v.select(here, wanted, 0.0)
    # As slow as it takes for nothing on the screen to move too fast.
    tall = v.divide(sides().y, sides().x)
    across = v.maximum(v.absolute(target.x - from_u), v.absolute(target.y - from_v) * tall)
    corner = v.maximum(0.5 + v.absolute(target.x - 0.5), (0.5 + v.absolute(target.y - 0.5)) * tall)
    way = (across + v.absolute(target_zoom - from_zoom) * corner) * (SWING / FASTEST)
    lasts = v.select(turns, v.maximum(v.value(ease), v.select(v.value(ease) > 1e-3, way, 0.0)), cell("lasts"))
    passed = v.select(turns, 0.0, cell("passed", 600.0) + dt)
    t = v.select(lasts > 1e-3, v.clamp01(v.divide(passed, lasts)), 1.0)
    eased = t * t * (3.0 - t * 2.0)
    zoomed = v.mix(from_zoom, target_zoom, eased)
    scale = f.exp(zoomed)
    spot = Vec(v.mix(from_u, target.x, eased), v.mix(from_v, target.y, eased))
    leashes = v.divide(LEASH * v.minimum(tall, 1.0), scale), v.divide(LEASH, scale)
    followed = Vec(*(
        part + _leashed(s - part, most) for part, s, most in zip(face.parts(), smooth.parts(), leashes, strict=True)
    ))  # fmt: skip
    centre = followed - Vec(*(v.divide(part - 0.5, scale) for part in spot.parts()))
    # Held inside last of all, after whatever was smoothed.
    reach = v.maximum(0.5 - v.divide(0.5, scale) - v.select(here, v.value(margin), 0.0) * eased, 0.0)
    middle = Vec(*(v.clamp(part, 0.5 - reach, 0.5 + reach) for part in centre.parts()))
    held = (v.maximum(v.absolute(middle.x - centre.x), v.absolute(middle.y - centre.y)) > 1e-4) | (more > 0.01)
    kept = [
        keep("lost", away, 600.0), keep("who", v.select(there, index, was), -1.0),
        keep("face u", face.x), keep("face v", face.y), keep("size", size_here, 0.15), keep("here", v.number(here)),
        keep("from u", from_u, 0.5), keep("from v", from_v, 0.5), keep("from zoom", from_zoom), keep("lasts", lasts),
        keep("passed", passed, 600.0), keep("zoom", zoomed), keep("middle u", middle.x, 0.5), keep("middle v", middle.y, 0.5),
    ]  # fmt: skip
    return Framed(
        Vec(together(middle.x, *kept), middle.y), scale, v.number(held & here & (t > 0.999)) > 0.5, v.select(here, eased, 0.0)
    )


@node("Part that is shown", "coordinates")
def part_shown(picture: PictureIn = None, middle: Vec2 = (0.5, 0.5), zoom: Annotated[Number, Span(1, MOST_ZOOM)] = 1.0) -> Colour:
    """The whole picture, with a frame round the part that *Part of the picture* would show, and the rest darker."""
    shown, half = p.colour_here(picture), v.divide(0.5, v.value(zoom))
    away = (p.here() - middle).map(v.absolute) * sides()
    edge = Vec(half * sides().x, half * sides().y)
    beyond = v.maximum(away.x - edge.x, away.y - edge.y)
    wide = p.pixels(v.value(5.0)) * v.divide(1.0, v.to_float(moment("width"))) * sides().x
    line = v.number(v.absolute(beyond) < wide)
    dim = v.select(beyond > 0.0, 0.4, 1.0)
    return Vec(*(v.mix(part * dim, 1.0, line) for part in shown.parts()[:3]), 1.0)


@node("Part of the picture", "coordinates", handle("point", "Middle", at="middle"))
def part_of(place: Vec2 = None, middle: Vec2 = (0.5, 0.5), zoom: Annotated[Number, Span(1, MOST_ZOOM)] = 1.0) -> Vec2:
    """Where to sample a picture so that a part of it fills the screen: about a middle, so many times as large."""
    return middle + (place - 0.5) * v.divide(1.0, v.value(zoom))
