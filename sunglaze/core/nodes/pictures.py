"""Pictures: the camera, what is below, the artist's own, and reading them at any place."""

from __future__ import annotations

from typing import Annotated

from sunglaze.core.errors import BadEffect
from sunglaze.core.language import functions as f
from sunglaze.core.language import pictures as p
from sunglaze.core.language import vector as v
from sunglaze.core.language.expression import Value, record
from sunglaze.core.language.moments import frame_size, moment
from sunglaze.core.language.vector import Vec
from sunglaze.core.nodes.node import node, scene
from sunglaze.core.nodes.playing import ORDERS, frame_of, round_to
from sunglaze.core.nodes.types import (
    Asset,
    Boolean,
    Colour,
    PerSecond,
    PictureIn,
    ReferencePixels,
    Span,
    Stage,
    Text,
    Vec2,
    Whole,
    one_of,
)

_EDGES = one_of("clamp", "repeat", "mirror", "clear")


@node("Camera", "picture")
def camera() -> PictureIn:
    """The bare picture of the camera, whatever lies below."""
    return scene().camera


@node("Below", "picture")
def below() -> Colour:
    """What the layers below give."""
    return scene().below


@node("After a layer", "picture")
def stage(layer: Stage = "camera") -> Colour:
    """The picture as it is after a layer further down the light path, or the bare camera's."""
    if layer == "camera":
        return p.colour_here(scene().camera)
    found = scene().stages.get(layer)
    if found is None:
        raise BadEffect("the layer that it looks at is not below this one (any more); choose another")
    return found


@node("Text", "picture")
def text(text: Text = None) -> PictureIn:
    """Words as a white picture on nothing, as wide and high as they need."""
    return text


@node("Picture from the shelf", "picture")
def asset_picture(asset: Asset = None) -> PictureIn:
    """A picture or a sequence of your own, or the wearer's photo."""
    return asset


@node("Frames of a sheet", "picture")
def asset_sequence(
    sheet: Asset = None,
    place: Vec2 = None,
    columns: Annotated[Whole, Span(1, 32)] = 4,
    rows: Annotated[Whole, Span(1, 32)] = 4,
    rate: PerSecond = 12.0,
    order: Annotated[str, one_of(*ORDERS)] = "loop",
) -> Colour:
    """Frames side by side on one sheet, played at so many a second, in order or shuffled."""
    count = record("imax", f.imul(columns, rows), 1)
    turn = v.to_int(v.floor(moment("time") * rate))
    return on_sheet(sheet, place, columns, rows, frame_of(turn, count, order))


@node("Cell of a sheet", "picture")
def sheet_cell(
    sheet: Asset = None,
    place: Vec2 = None,
    columns: Annotated[Whole, Span(1, 64)] = 18,
    rows: Annotated[Whole, Span(1, 64)] = 18,
    column: Whole = 0,
    row: Whole = 0,
) -> Colour:
    """One of the pictures that lie side by side on a sheet, by its column and row; these go round. Neighbours do not show."""
    across, down = record("imax", columns, 1), record("imax", rows, 1)
    index = f.iadd(f.imul(round_to(row, down), across), round_to(column, across))
    return on_sheet(sheet, place, across, down, index)


def on_sheet(sheet: p.Picture, place: Vec, columns: Value, rows: Value, index: Value) -> Vec:
    """One frame of a sheet; places outside it show nothing, and neighbours do not bleed in."""
    width, height = (v.to_float(n) for n in p.size(sheet))
    across, down = v.to_float(columns), v.to_float(rows)
    row = record("idiv", index, columns)
    column = record("isub", index, f.imul(row, columns))
    u, w = place.parts()
    inside = (u >= 0.0) & (u <= 1.0) & (w >= 0.0) & (w <= 1.0)
    half_u, half_w = v.divide(across * 0.5, width), v.divide(down * 0.5, height)
    held = Vec(v.clamp(u, half_u, 1.0 - half_u), v.clamp(w, half_w, 1.0 - half_w))
    corner = Vec(v.to_float(column), v.to_float(row))
    colour = p.sample(sheet, v.partwise(v.divide, held + corner, Vec(across, down)))
    return Vec(*colour.parts()[:3], colour.a * v.number(inside))


@node("Sample", "picture")
def sample(
    picture: PictureIn = None,
    place: Vec2 = None,
    outside: Annotated[str, _EDGES] = "clamp",
    smooth: Annotated[str, one_of("smooth", "hard pixels")] = "smooth",
) -> Colour:
    """A picture's colour at a place."""
    return p.sample(picture, place, outside, smooth == "smooth")  # type: ignore[arg-type]


@node("Sample with offset", "picture")
def sample_offset(
    picture: PictureIn = None,
    place: Vec2 = None,
    right: Annotated[ReferencePixels, Span(-100, 100)] = 0.0,
    down: Annotated[ReferencePixels, Span(-100, 100)] = 0.0,
    outside: Annotated[str, _EDGES] = "clamp",
) -> Colour:
    """A picture's colour so many reference pixels from a place."""
    columns, rows = (v.to_float(n) for n in frame_size())
    away = Vec(v.divide(p.pixels(right), columns), v.divide(p.pixels(down), rows))
    return p.sample(picture, place + away, outside)  # type: ignore[arg-type]


@node("Picture size", "picture")
def picture_size(picture: PictureIn = None) -> Vec2:
    """Columns and rows of a picture."""
    return Vec(*(v.to_float(n) for n in p.size(picture)))


@node("Opaque", "picture")
def opaque(colour: Colour = None, when: Boolean = True) -> Colour:
    """The colour without its transparency."""
    return Vec(*colour.parts()[:3], v.select(when, 1.0, colour.a))
