"""Stills as handles: what an effect refers to is decoded when it is shown, held by the one cache, and let go by it.

The pixels are Pillow's, as the second opinion of the decoder."""

from __future__ import annotations

import io

import numpy as np
import pytest
from PIL import Image

from sunglaze.core import cache
from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.engine.room import Room
from sunglaze.core.engine.running import draw
from sunglaze.core.errors import BadFile
from sunglaze.core.material import still
from sunglaze.core.material.files import encode_png
from sunglaze.core.material.still import Still
from sunglaze.core.moment.moment import Moment
from sunglaze.core.passes.program import State

KEY = "5" * 64
RNG = np.random.default_rng(11)


def png(columns: int = 60, rows: int = 40) -> bytes:
    return encode_png(np.dstack([RNG.integers(0, 256, (rows, columns, 3), np.uint8), np.full((rows, columns), 255, np.uint8)]))


def by_pillow(file: bytes) -> np.ndarray:
    return np.asarray(Image.open(io.BytesIO(file)).convert("RGBA"))


@pytest.fixture
def small_cache(monkeypatch: pytest.MonkeyPatch) -> cache.ByteCache:
    """Room for one picture of 60 by 40 pixels, and not for two."""
    small = cache.ByteCache(15_000)
    monkeypatch.setattr(still, "CACHE", small)
    return small


def test_facts_are_those_of_the_file_and_pixels_those_that_pillow_reads() -> None:
    file = png()
    one = Still.read(file)
    assert (one.weight, one.frames, one.rate) == (len(file), 1, 0.0)
    assert np.array_equal(one.frame(), by_pillow(file))
    assert np.array_equal(one.frame(40), one.frame())


def test_a_handle_is_much_lighter_than_its_picture_which_goes_when_others_come(small_cache: cache.ByteCache) -> None:
    first, second = png(), png()
    one, two = Still.read(first), Still.read(second)
    assert small_cache.evicted == 1
    assert small_cache.bytes == 60 * 40 * 4
    assert np.array_equal(one.frame(), by_pillow(first))
    assert np.array_equal(two.frame(), by_pillow(second))
    assert small_cache.evicted == 3


def test_an_effect_shows_its_picture_after_the_cache_let_it_go(small_cache: cache.ByteCache) -> None:
    file, other = png(), png()
    layer = Layer(id="l", name="l", kind="picture", values={"picture": KEY})
    compiled = compile_effect(Effect(name="t", layers=[layer]), Material(pictures={KEY: Still.read(file)}))
    moment = Moment.of(np.zeros((40, 60, 3), np.float32))
    before = draw(compiled.program, moment, compiled.inputs, State())
    Still.read(other)
    assert ("picture", Still.read(other).key) in small_cache
    after = draw(compiled.program, moment, compiled.inputs, State())
    assert before.any()
    assert np.array_equal(before, after)


def test_planes_are_made_once_for_equal_files_and_anew_for_another() -> None:
    file = png()
    layer = Layer(id="l", name="l", kind="picture", values={"picture": KEY})
    program = compile_effect(Effect(name="t", layers=[layer]), Material(pictures={KEY: Still.read(file)})).program
    room = Room()
    picture = program.given[0]
    surface, columns = room.planes_of(picture, Still.read(file))
    assert columns == 60
    assert room.planes_of(picture, Still.read(file))[0] is surface
    other = png()
    anew, _ = room.planes_of(picture, Still.read(other))
    assert anew is surface, "one of the same size takes its memory"
    assert np.array_equal(np.rint(np.moveaxis(anew[:, :, :60], 0, 2) * 255), by_pillow(other))
    drawn = np.zeros((4, 5, 4), np.uint8)
    made, _ = room.planes_of(picture, Still.of(drawn))
    made[:] = 0.5
    assert room.planes_of(picture, Still.of(drawn))[0][0, 0, 0] == 0.5, "it is not made again"
    assert room.planes_of(picture, Still.of(drawn.copy()))[0][0, 0, 0] == 0.0


def test_a_damaged_file_is_told_when_it_is_read() -> None:
    with pytest.raises(BadFile, match="read"):
        Still.read(png()[:80])
