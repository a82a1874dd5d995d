"""Pictures: what can be sampled anywhere. A colour lives at one pixel; where a picture is wanted of it, its pass ends here.

Pictures come from outside (camera, files), from earlier frames, or are computed by a pass of their own. Computed pictures hold
colours of three parts (opaque), of four (alpha last, premultiplied), or plain numbers.
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

from sunglaze.core.errors import Unfit
from sunglaze.core.language.expression import Rate, Value, leaf, made, record
from sunglaze.core.language.functions import iadd, imul
from sunglaze.core.language.loops import whole
from sunglaze.core.language.moments import frame_size
from sunglaze.core.language.vector import Num, Vec, absolute, divide, floor, mix, number, select, to_float, to_int, value

Edge = Literal["clamp", "repeat", "mirror", "clear"]
From = Literal["camera", "region", "asset", "sequence", "copy", "kept", "pass"]
"""Where a picture comes from: the camera; a mask of it by its region; the artist: a still, a sequence, a smaller copy of one; an
earlier frame; a pass of the program."""
_enabled: ContextVar[Value | None] = ContextVar("enabled", default=None)


WHO = ("first", "second", "any", "nearest", "everybody")
"""Whose face: `any` is the first, or the second where the first is not there; `nearest` the larger one."""


@dataclass(frozen=True, eq=False)
class Vertices:
    """Where a mesh's vertices come from. `kind` face: the points of those whom `id` names (WHO), held steady; four `numbers`:
    the lag of what is at rest (seconds), whether the mouth is covered, and the eyes (above 0.5), and the number of the face or
    EVERYBODY. mesh: material of this id, as
    often as it is drawn; SOLID `numbers` (which of its motions moves it, seconds into that, where light comes from (x, y, z, of
    length 1), how much of it comes from all of the sky, and how much of the colour needs none), then EACH a time (three rows of
    four that take it to centimetres from the lens, x right, y up, z towards it; the same of a head that hides it, all 0 for none;
    how much of it is there). An id that ends on LIT draws its colours in light in place of its places. grid: COLUMNSxROWS of
    cells over the screen, every corner moved by two numbers (parts of the screen to the right and down), row by row."""

    kind: Literal["face", "mesh", "grid"]
    id: str
    numbers: tuple[Value, ...] = ()

    @property
    def material(self) -> str:
        """The id of the mesh on the shelf."""
        return self.id.removesuffix(LIT)


EVERYBODY = -1.0
SOLID, EACH, LIT = 7, 25, ":lit"
"""Of meshes of material: numbers of all together and of each drawing, and what ends the id of one that draws its light."""


@dataclass(frozen=True, eq=False)
class Picture:
    """`source` and `id` say what it is: equal ones are equal pictures.

    `values`: what a pass computes for it, none for pictures from outside. `reduce`: its size is the frame's divided by this and
    rounded up. `precise`: needs single precision on the GPU (coordinates, distances). `keeps`: the id under which the next
    frame finds it. `enabled`: a frame-rate condition; where it fails, the pass is left out and the content is stale.
    `straight`: four parts with an alpha that is not premultiplied. `vertices`: triangles drawn into it in place of values.
    `shows`: the number of the picture that a sequence shows, a frame-rate value; `soon`: of the one that it shows next.
    `of`: whose copy it is; `wide`: over how many pixels that is seen in a frame, which says how often it is halved.
    """

    source: From
    id: str
    channels: int
    values: tuple[Value, ...] = ()
    reduce: int = 1
    precise: bool = False
    keeps: str | None = None
    enabled: Value | None = None
    straight: bool = False
    opaque: bool = True
    vertices: Vertices | None = None
    shows: Value | None = None
    soon: Value | None = None
    of: Picture | None = None
    wide: Value | None = None

    @cached_property
    def name(self) -> str:
        """Source and id as one word, for players and dictionaries."""
        return f"{self.source}:{self.id}" if self.id else self.source

    def __repr__(self) -> str:
        return self.name


CAMERA = Picture("camera", "", 4)
"""The camera's frame: red, green, blue (0 to 1, sRGB-encoded), and the person mask as the fourth channel."""


def asset_picture(name: str) -> Picture:
    """A picture that the artist gave, of any size; runs are given it under this name."""
    return Picture("asset", name, 4, straight=True, opaque=False)


def chart_picture(name: str) -> Picture:
    """A chart of the face (core/face/charts.py), which ships."""
    return Picture("asset", f"chart:{name}", 3)


def region_picture(region: str) -> Picture:
    """A region's mask as the camera gives it; empty where the camera does not."""
    return Picture("region", region, 1)


@contextmanager
def passes_only_if(condition: Value | None) -> Iterator[None]:
    """Pictures recorded inside are computed in those frames only in which the frame-rate condition holds, and those around it."""
    outer = _enabled.get()
    both = condition if outer is None else outer if condition is None else outer & condition
    token = _enabled.set(both)
    try:
        yield
    finally:
        _enabled.reset(token)


@contextmanager
def _without_condition() -> Iterator[None]:
    token = _enabled.set(None)
    try:
        yield
    finally:
        _enabled.reset(token)


def is_here(value: Value) -> bool:
    """Whether a value is what a picture holds at the drawn pixel."""
    return value.op == "near" and all(a.op == "const" and a.attribute[0] == 0 for a in value.arguments)


def computed(
    values: Sequence[Value], *, reduce: int = 1, precise: bool = False, keeps: str | None = None, opaque: bool = True
) -> Picture:
    """A pass of its own that gives these values, one to four, at every pixel."""
    enabled = None if keeps else _enabled.get()
    form = [value.digest for value in (*values, *([enabled] if enabled is not None else []))]
    text = f"{form}|{len(values)}|{reduce}|{precise}|{keeps}|{opaque}"
    identity = hashlib.sha256(text.encode()).hexdigest()[:20]
    return Picture("pass", identity, len(values), tuple(values), reduce, precise, keeps, enabled, opaque=opaque)


def drawn_mesh(vertices: Vertices) -> Picture:
    """A mesh drawn on the screen: a picture whose four channels are, where a triangle is, its place in its texture (u, v), how
    far it is (centimetres from the lens; of faces as their points have it), and how much of it is there (1, or less where a face
    is coming, going, ends or turns away); elsewhere 0. Of one that draws its light: red, green and blue of that, and the same.
    Read it by `near` or `fetch`.

    Raises Unfit where a number changes from pixel to pixel, TypeError where there are too few or too many.
    """
    if any(one.rate > Rate.FRAME or one.kind != "float" for one in vertices.numbers):
        raise Unfit("a mesh is placed by numbers that change once a frame")
    wanted = 4
    if vertices.kind == "mesh":
        wanted = SOLID + EACH * max(1, (len(vertices.numbers) - SOLID) // EACH)
    elif vertices.kind == "grid":
        across, down = (int(part) for part in vertices.id.split("x"))
        wanted = 2 * (across + 1) * (down + 1)
    if len(vertices.numbers) != wanted:
        raise TypeError(f"a {vertices.kind} takes {wanted} numbers, these are {len(vertices.numbers)}")
    text = f"mesh|{vertices.kind}|{vertices.id}|{[one.digest for one in vertices.numbers]}"
    identity = hashlib.sha256(text.encode()).hexdigest()[:20]
    return Picture("pass", identity, 4, precise=True, opaque=False, vertices=vertices)


def shown_sequence(identity: str, shows: Value, soon: Value | None = None) -> Picture:
    """The picture of a sequence whose number is `shows`, a whole number that changes once a frame at most. `soon`: the number
    that it will show next, so that its picture can be made ready; the same where nothing is said. Raises Unfit."""
    next_one = shows if soon is None else soon
    if any(one.rate > Rate.FRAME or one.kind != "int" for one in (shows, next_one)):
        raise Unfit("which picture of a sequence is shown is a whole number that changes once a frame")
    digest = hashlib.sha256(shows.digest).hexdigest()[:12]
    return Picture("sequence", f"{identity}@{digest}", 4, straight=True, opaque=False, shows=shows, soon=next_one)


def smaller(picture: Picture, wide: Value) -> Picture:
    """A still or a sequence halved as often as suits it (core/material/smaller.py) where all of it is seen over so many pixels,
    which change once a frame: so what is far off neither shimmers nor costs a second sample. Any other picture, or one whose
    width changes from pixel to pixel, is itself."""
    if picture.source not in ("asset", "sequence") or not picture.straight or wide.rate > Rate.FRAME:
        return picture
    digest = hashlib.sha256(wide.digest).hexdigest()[:12]
    return Picture("copy", f"{picture.name}@{digest}", 4, straight=True, opaque=False, of=picture, wide=wide)


def earlier(identity: str, channels: int, opaque: bool = True) -> Picture:
    """The picture that was `computed(..., keeps=identity)` a frame ago; black and clear in the first frame."""
    return Picture("kept", identity, channels, opaque=opaque)


def near(picture: Picture, channel: int, right: int | Value = 0, down: int | Value = 0) -> Value:
    """A channel some pixels from here, of a picture of the drawn one's size; held at its borders.

    Raises Unfit where the distances are not alike at all pixels.
    """
    offsets = whole(right), whole(down)
    if any(o.rate is Rate.PIXEL for o in offsets):
        raise Unfit("its distance changes from pixel to pixel; neighbours are read at one distance in the whole picture")
    return made("near", offsets, (picture, channel), "float", Rate.PIXEL)


def fetch(picture: Picture, channel: int, column: Value, row: Value) -> Value:
    """A channel at a pixel of any picture; column and row are held at its borders."""
    return made("fetch", (column, row), (picture, channel), "float", Rate.PIXEL)


ENLARGED = (2, 4, 8, 16)
"""How much smaller a picture may be for `enlarged`."""


def enlarged(picture: Picture) -> list[Value]:
    """What a smaller picture holds at the drawn pixel, channel by channel, by straight lines between its four nearest.

    For passes of the frame's size. It is sampling, but read in rows: neighbours share what they read.
    """
    by = picture.reduce

    def share(axis: int) -> Value:
        far = record("iand", iadd(imul(leaf("pixel", axis), 2), 1 + by), 2 * by - 1)
        return to_float(far) * (0.5 / by)

    def row(down: int, channel: int) -> Value:
        one, other = (made("enlarged", (), (picture, channel, right, down), "float", Rate.PIXEL) for right in (0, 1))
        return mix(one, other, across)

    across, along = share(0), share(1)
    return [mix(row(0, c), row(1, c), along) for c in range(channels_of_colour(picture))]


def size(picture: Picture) -> tuple[Value, Value]:
    """Columns and rows of a picture, whole numbers."""
    if picture.reduce == 1 and (picture.values or picture.vertices or picture is CAMERA or picture.source == "kept"):
        return frame_size()
    return leaf("picture_size", picture, 0), leaf("picture_size", picture, 1)


def here() -> Vec:
    """The place of the drawn pixel's centre: u to the right, v down, 0 to 1."""
    return Vec(*((to_float(leaf("pixel", axis)) + 0.5) / to_float(leaf("target", axis)) for axis in (0, 1)))


def as_colour(picture: Picture, parts: Sequence[Value]) -> Vec:
    """A straight colour from what a picture holds, premultiplied where it is not opaque."""
    if picture.channels == 1:
        return Vec(parts[0], parts[0], parts[0], 1.0)
    if picture.opaque:
        return Vec(*parts[:3], 1.0)
    return Vec(*(divide(p, parts[3]) for p in parts[:3]), parts[3])


def channels_of_colour(picture: Picture) -> int:
    """How many channels of a picture make its colour."""
    return min(3, picture.channels) if picture.opaque else 4


def colour_here(picture: Picture) -> Vec:
    """A picture's colour at the drawn pixel; pictures of another size are sampled."""
    if picture.values and picture.reduce in ENLARGED:
        return as_colour(picture, enlarged(picture))
    if size(picture)[0].op != "moment":
        return sample(picture, here())
    return as_colour(picture, [near(picture, c) for c in range(channels_of_colour(picture))])


def stage(name: str, colour: Vec) -> Vec:
    """An opaque colour by a name, which a program has the colour for: what is recorded on it hangs on the name alone.

    Its parts must be within 0 to 1.
    Raises TypeError for a colour that is not opaque.
    """
    if not is_opaque(colour):
        raise TypeError("the picture after a layer is opaque")
    return Vec(*(leaf("stage", name, channel) for channel in range(3)), 1.0)


def is_stage(colour: Vec) -> bool:
    """Whether a colour is the picture after a layer, which is within 0 to 1."""
    return all(part.op == "stage" for part in colour.parts()[:3])


def premultiplied(colour: Vec) -> Vec:
    """A straight colour times its alpha, the alpha with it."""
    return Vec(*(p * colour.a for p in colour.parts()[:3]), colour.a)


def is_opaque(colour: Vec) -> bool:
    """Whether a colour's alpha is 1 whatever happens."""
    return colour.a.op == "const" and colour.a.attribute[0] == 1.0


def picture_of(colour: Vec, always: bool = False) -> Picture:
    """A colour as a picture: the one that it was read from where it is just that, else a pass that computes it.

    `always`: also in frames in which nothing else here is computed, so that later passes may read it in place of the colour.
    """
    if always:
        with _without_condition():
            return picture_of(colour)
    first = colour.r
    if first.op == "near" and is_opaque(colour):
        picture = first.attribute[0]
        if picture.opaque and all(is_here(p) and p.attribute == (picture, c) for c, p in enumerate(colour.parts()[:3])):
            return picture  # type: ignore[no-any-return]
    if is_opaque(colour):
        return computed(colour.parts()[:3])
    return computed(premultiplied(colour).parts(), opaque=False)


def texel(picture: Picture, column: Value, row: Value) -> list[Value]:
    """What a picture holds at a pixel: its colour's channels, premultiplied where it is not opaque."""
    held = [fetch(picture, c, column, row) for c in range(channels_of_colour(picture))]
    return [*(p * held[3] for p in held[:3]), held[3]] if picture.straight else held


def _wrapped(place: Value, edge: Edge) -> Value:
    """A coordinate brought back to 0 to 1 as the edge says; clamping is left to reading."""
    if edge == "repeat":
        return place - floor(place)
    if edge == "mirror":
        return 1.0 - absolute(place - floor(place * 0.5) * 2.0 - 1.0)
    return place


def sampled(picture: Picture, place: Vec, edge: Edge = "clamp", smooth: bool = True) -> list[Value]:
    """What a picture holds at a place (u, v), channel by channel, from its four nearest pixels, or from the nearest one; colours
    premultiplied where they are not opaque. What lies outside is the border's, the picture again, or its mirror image."""
    columns, rows = size(picture)
    u, v = (_wrapped(p, edge) for p in place.parts())
    x, y = u * to_float(columns), v * to_float(rows)
    if smooth:
        x, y = _settled(x - 0.5), _settled(y - 0.5)
    low_x, low_y = floor(x), floor(y)
    i, j = to_int(low_x), to_int(low_y)
    if not smooth:
        return texel(picture, i, j)
    right, below = iadd(i, 1), iadd(j, 1)
    if edge == "repeat":
        i, right, j, below = (_around(n, count) for n, count in ((i, columns), (right, columns), (j, rows), (below, rows)))
    upper = _between(texel(picture, i, j), texel(picture, right, j), x - low_x)
    lower = _between(texel(picture, i, below), texel(picture, right, below), x - low_x)
    return _between(upper, lower, y - low_y)


def sample(picture: Picture, place: Vec, edge: Edge = "clamp", smooth: bool = True) -> Vec:
    """A picture's colour at a place, as `sampled` reads it; or nothing outside."""
    colour = as_colour(picture, sampled(picture, place, edge, smooth))
    if edge == "clear":
        u, v = place.parts()
        inside = (u >= 0.0) & (u <= 1.0) & (v >= 0.0) & (v <= 1.0)
        return Vec(*colour.parts()[:3], colour.a * number(inside))
    return colour


SETTLED = 1 / 1024
"""So near to a pixel's middle, parts of a pixel, a place is that pixel's: what is not moved stays what it is, to the bit, though
coordinates are rounded, and neighbours read neighbours."""


def _settled(place: Value) -> Value:
    middle = floor(place + 0.5)
    return select(absolute(place - middle) < SETTLED, middle, place)


def _around(index: Value, count: Value) -> Value:
    """An index one outside 0 to count - 1 brought to the other end."""
    low = to_float(index)
    end = to_float(count)
    return to_int(select(low < 0.0, low + end, select(low >= end, low - end, low)))


def _between(a: Sequence[Value], b: Sequence[Value], t: Value) -> list[Value]:
    return [mix(p, q, t) for p, q in zip(a, b, strict=True)]


def reference_pixel() -> Value:
    """One reference pixel, 1/720 of the frame's short side, in pixels of the frame."""
    columns, rows = (to_float(n) for n in frame_size())
    return select(columns < rows, columns, rows) * (1 / 720)


def pixels(lengths: Num) -> Value:
    """A length in reference pixels as pixels of the frame."""
    return value(lengths) * reference_pixel()


def scaled_index(axis: int, by: int, offset: int) -> Value:
    """The drawn pixel's column or row, `by` times, plus an offset: where a reduced picture reads a larger one."""
    return iadd(imul(leaf("pixel", axis), by), offset)
