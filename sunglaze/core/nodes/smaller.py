"""Smaller copies: pictures on faces that are far off are read from a copy that suits the pixels over which they are seen."""

from __future__ import annotations

from sunglaze.core.language import pictures as p
from sunglaze.core.language import vector as v
from sunglaze.core.language.expression import Rate, Value
from sunglaze.core.language.moments import frame_size
from sunglaze.core.nodes.node import node
from sunglaze.core.nodes.time import cell, keep
from sunglaze.core.nodes.types import Number, PictureIn

BAND = 1.15
"""By what factor the pixels over which a picture is seen must change before another copy is thought of: a face that breathes at
the border between two would make the picture flicker. By eye, no source."""


def people(who: str) -> tuple[str, ...]:
    """Those whom one of WHO means, one by one."""
    return ("first", "second") if who == "everybody" else (who,)


def largest(*wide: Value) -> Value:
    """Of numbers of pixels, the largest."""
    found = wide[0]
    for one in wide[1:]:
        found = v.maximum(found, one)
    return found


def across(part: Value) -> Value:
    """A part of the picture's width in pixels."""
    return part * v.to_float(frame_size()[0])


@node("Copy as it is seen", "picture")
def copy_as_seen(picture: PictureIn = None, wide: Number = 0.0) -> PictureIn:
    """A picture or sequence of your own, or a copy of it, halved as often as suits the screen where all of it is seen over so
    many pixels, as *Pin* and *Skin of a face* tell: it does not shimmer when it is far off. It stays the same copy until that
    number has changed by a seventh. 0 pixels: the last one that suited."""
    seen = v.value(wide)
    if seen.rate > Rate.FRAME or (seen.op == "const" and seen.attribute[0] <= 0.0):
        return picture
    was = cell("wide")
    changed = (seen > was * BAND) | (seen * BAND < was)
    return p.smaller(picture, keep("wide", v.select((seen > 0.0) & changed, seen, was)))
