"""Smaller copies of pictures: their pixels against OpenCV's area means, which one is taken against OpenGL ES 3.0's rule, and what
far faces wear against the same drawn eight times as large."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Any

import cv2
import numpy as np
import pytest

from sunglaze.core.effect.compiling import Compiled, compile_effect
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.engine import running
from sunglaze.core.face.model import middle_face
from sunglaze.core.face.pose import rotation, usual_focal
from sunglaze.core.language.expression import constant
from sunglaze.core.language.pictures import asset_picture, colour_here, sample, shown_sequence, smaller
from sunglaze.core.language.vector import Vec
from sunglaze.core.material.files import encode_png
from sunglaze.core.material.mesh import MeshData
from sunglaze.core.material.sequence import Sequence
from sunglaze.core.material.smaller import halved, halvings
from sunglaze.core.material.still import Still
from sunglaze.core.moment.moment import Moment
from sunglaze.core.passes.program import Inputs, Program, State, uniform
from tests.core.test_pins_and_depth import turned_head
from tests.engines import drawn, readable

KEY = "5" * 64
COLUMNS, ROWS = 270, 480
TIMES = 8
RNG = np.random.default_rng(5)


def opaque(rows: int, columns: int) -> np.ndarray:
    pixels = RNG.integers(0, 256, (rows, columns, 4), dtype=np.uint8)
    pixels[..., 3] = 255
    return pixels


@pytest.mark.parametrize("shape", [(8, 6), (7, 9), (1, 5), (2, 1), (301, 517)])
@pytest.mark.parametrize("clear", [False, True])
def test_a_copys_pixel_is_the_mean_of_what_it_covers(shape: tuple[int, int], clear: bool) -> None:
    """OpenCV's means of areas, of premultiplied colours; sides that are odd by 128ths, so within 3 of 255."""
    pixels = opaque(*shape)
    if clear:
        pixels[..., 3] = RNG.integers(0, 2, shape) * RNG.integers(0, 256, shape)
    alpha = pixels[..., 3:].astype(float)
    size = max(1, shape[1] // 2), max(1, shape[0] // 2)
    means = cv2.resize(np.dstack([pixels[..., :3] * alpha / 255, alpha]), size, interpolation=cv2.INTER_AREA)
    made = halved(pixels).astype(float)
    ours = np.dstack([made[..., :3] * made[..., 3:] / 255, made[..., 3:]])
    even = all(side % 2 == 0 or side == 1 for side in shape)
    # A colour of which little is there is rounded by as little of what is seen.
    assert np.abs(ours - means.reshape(ours.shape)).max() <= (1.01 if even else 3.0)


def test_the_copy_that_is_taken_is_the_nearest_mipmap() -> None:
    """OpenGL ES 3.0, section 3.8.10: of a level of detail (the logarithm of texels a pixel), the one after rounding, half
    down, and within what there is."""
    for columns in (1, 2, 5, 640, 2048):
        most = int(math.log2(columns))
        for wide in RNG.uniform(0.3, 3000, 200):
            detail = math.log2(columns / wide)
            wanted = 0 if detail <= 0.5 else math.ceil(detail + 0.5) - 1
            assert halvings(columns, wide) == min(wanted, most), (columns, wide)
    assert halvings(640, 0.0) == 0, "it is not seen"


def test_both_engines_read_the_same_copy_of_stills_and_sequences() -> None:
    """61 by 44 pixels over 13: a quarter of the size."""
    pixels = opaque(44, 61)
    films = Sequence("film", tuple(encode_png(opaque(44, 61)[..., :3]) for _ in range(2)))
    here = colour_here(asset_picture("frame"))
    for picture in (asset_picture("paint"), shown_sequence("film", constant(1, "int"))):
        copy = smaller(picture, uniform("wide"))
        program = Program((sample(copy, Vec(here.r, here.g)).rgb,))
        inputs = Inputs({"wide": 13.0}, pictures={"paint": Still.of(pixels)}, sequences={"film": films})
        v, u = np.mgrid[0:30, 0:40] / 40
        inputs.pictures["frame"] = Still.of(np.dstack([u, v, u, np.ones_like(u)]).astype(np.float32))  # type: ignore[index]
        one, other = (way(program, np.zeros((30, 40, 3), np.float32), inputs)[0] for way in (drawn, readable))
        assert np.array_equal(one, other)
        quarter = Still.of(pixels if picture.source == "asset" else films.frame(1)).smaller(2)
        assert quarter.frame().shape == (11, 15, 4)
        as_it_is = Program((sample(asset_picture("quarter"), Vec(here.r, here.g)).rgb,))
        given = Inputs(pictures={"quarter": quarter, "frame": inputs.pictures["frame"]})
        assert np.array_equal(one, readable(as_it_is, np.zeros((30, 40, 3), np.float32), given)[0])


def squares(side: int, cell: int) -> np.ndarray:
    y, x = np.mgrid[0:side, 0:side] // cell
    on = ((x + y) % 2 * 200 + 30).astype(np.uint8)
    return np.dstack([on, on // 2 + 60, 255 - on, np.full_like(on, 255)])


def plane(texture: np.ndarray) -> MeshData:
    corners = np.array([[-1.0, -1, 0], [1, -1, 0], [1, 1, 0], [-1, 1, 0]])
    places = np.array([[0.0, 1], [1, 1], [1, 0], [0, 0]])
    return MeshData(corners, places, np.array([[0, 1, 2], [0, 2, 3]]), texture=texture)


FINE = squares(1024, 6)
WORN: dict[str, tuple[dict[str, Any], Material]] = {
    "face-paint": ({"picture": KEY, "light": 0.0}, Material(pictures={KEY: Still.of(FINE)})),
    "pin": ({"picture": KEY, "wide": 8.0, "hides": False}, Material(pictures={KEY: Still.of(FINE)})),
    "mesh": (
        {"mesh": {"asset": KEY}, "wide": 10.0, "unlit": 1.0, "hides": False, "place": "nose tip", "out": 4.0},
        Material(meshes={KEY: plane(FINE)}),
    ),
}


def worn(kind: str) -> Compiled:
    values, material = WORN[kind]
    return compile_effect(Effect(name="t", layers=[Layer(id="l", name="l", kind=kind, values=values)]), material)


def before(away: float, times: int = 1) -> Moment:
    """The middle face so many centimetres before a black wall, on a screen so many times as large."""
    black = np.zeros((ROWS * times, COLUMNS * times, 4), np.float32)
    return replace(Moment.of(black), faces=turned_head(15.0, 4.0, 6.0, (1.0, -2.0, -away)).faces)


@pytest.mark.parametrize("kind", WORN)
def test_what_a_far_face_wears_is_what_a_large_screen_shows_made_smaller(kind: str) -> None:
    """1.1 m away, squares of six texels: some twenty texels a pixel. Read without copies, they are off by 76 of 255 in the root
    of the mean square; the truth is eight times as large a picture, by OpenCV's means of areas."""
    compiled = worn(kind)
    large, small = (
        running.run(compiled.program.final, before(110.0, times), compiled.inputs, State())[0] for times in (TIMES, 1)
    )
    truth = cv2.resize(large, (COLUMNS, ROWS), interpolation=cv2.INTER_AREA)
    inside = cv2.erode((truth.max(axis=2) > 0.2).astype(np.uint8), np.ones((3, 3))) > 0
    assert inside.sum() > 500
    assert np.sqrt(((small - truth)[inside] ** 2).mean()) * 255 < 7.0


def test_a_face_that_breathes_at_the_border_of_two_copies_keeps_one() -> None:
    """There and back by a twentieth changes nothing; by a third, it does; and when the face is lost, the copy stays."""
    compiled = worn("pin")
    program, place = compiled.program.final, compiled.program.final.plan.copies[0].wide
    state = State()

    def wide(seen: Moment) -> float:
        return float(program.advance(seen, compiled.inputs, state)[place])

    first = wide(before(60.0))
    nearer = 60.0 - (rotation(15.0, 4.0, 6.0) @ middle_face()[6])[2]
    assert first == pytest.approx(8.0 / nearer * usual_focal(COLUMNS, ROWS), rel=0.03), "8 cm, by the lens"
    assert [wide(before(away)) for away in (57.0, 60.0, 63.0, 58.0)] == [first] * 4
    later = [wide(before(80.0)) for _ in range(60)]
    assert later[-1] < 0.87 * first
    assert wide(replace(before(60.0), faces=())) == later[-1]
