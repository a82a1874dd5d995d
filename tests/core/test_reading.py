"""Reads of neighbours and of any place, where a block of pixels lies inside a row, across its ends and behind them."""

from __future__ import annotations

import numpy as np
import pytest

from sunglaze.core.engine.running import prepare
from sunglaze.core.language import vector as v
from sunglaze.core.language.expression import leaf, record
from sunglaze.core.language.loops import whole
from sunglaze.core.language.pictures import CAMERA, computed, fetch, near, scaled_index
from sunglaze.core.language.vector import Vec
from sunglaze.core.passes.program import Inputs, Program
from sunglaze.core.targets.llvm import assembly
from sunglaze.core.targets.memory import padded
from tests.engines import drawn, words_drawn
from tests.ways import assert_same, picture

COLUMNS = (1, 31, 33, 64, 95, 200)
FAR = (-(2**31) + 400, -300, -33, -5, -1, 1, 2, 31, 32, 40, 300, 2**31 - 220)


@pytest.mark.parametrize("columns", COLUMNS)
@pytest.mark.parametrize("right", FAR)
def test_neighbours_are_numpys(columns: int, right: int) -> None:
    """NumPy's take with clipped places; three channels of two rows at one distance are read together."""
    camera = picture(6, columns)
    program = Program((Vec(near(CAMERA, 0, right), near(CAMERA, 1, right, 1), near(CAMERA, 2, right, -3)),))
    prepare(program, "floats")
    seen = drawn(program, camera, Inputs())[0]
    at = np.clip(np.arange(columns) + right, 0, columns - 1)
    for channel, down in enumerate((0, 1, -3)):
        rows = np.clip(np.arange(6) + down, 0, 5)
        assert np.array_equal(seen[..., channel], camera[rows][:, at, channel])


@pytest.mark.parametrize("right", FAR)
def test_neighbours_of_the_camera_as_words(right: int) -> None:
    words = np.random.default_rng(3).integers(0, 2**32, (5, padded(90)), dtype=np.uint32)
    program = Program((Vec(*(near(CAMERA, c, right, 1) for c in range(3))),))
    prepare(program, "bytes")
    seen = words_drawn(program, words, 90, Inputs())[:, :90]
    rows, at = np.clip(np.arange(5) + 1, 0, 4), np.clip(np.arange(90) + right, 0, 89)
    want = words[rows][:, at]
    # Red comes first in the camera's words, blue in the frame's.
    assert np.array_equal((seen >> 16) & 255, want & 255)
    assert np.array_equal(seen & 255, (want >> 16) & 255)


@pytest.mark.parametrize("columns", [1, 2, 63, 64, 65, 129, 250])
@pytest.mark.parametrize("offset", [-1, 0, 1])
def test_every_second_pixel_is_numpys(columns: int, offset: int) -> None:
    """As a picture is made half as large; odd sizes, and places beyond the end."""
    camera = picture(7, columns)
    half = computed([fetch(CAMERA, c, scaled_index(0, 2, offset), scaled_index(1, 2, 0)) for c in range(3)], reduce=2)
    program = Program((Vec(*(fetch(half, c, leaf("pixel", 0), leaf("pixel", 1)) for c in range(3))),))
    prepare(program, "floats")
    small = -(-columns // 2)
    seen = drawn(program, camera, Inputs())[0][:4, :small]
    at = np.clip(2 * np.arange(small) + offset, 0, columns - 1)
    assert np.array_equal(seen, camera[::2][:, at])


def test_places_that_follow_each_other_only_nearly() -> None:
    """The middle of a block may lie elsewhere than its ends say."""
    column = leaf("pixel", 0)
    odd = record("iselect", record("ieq", column, 17), whole(3), column)
    twice = record("iselect", record("ieq", column, 9), whole(60), record("imul", column, 2))
    value = fetch(CAMERA, 0, odd, whole(1)) + fetch(CAMERA, 1, twice, whole(2))
    assert_same(Program((Vec(value, fetch(CAMERA, 2, odd, whole(1)), v.to_float(odd)),)), picture(4, 100))


def test_reads_at_one_distance_share_a_branch() -> None:
    """Nine neighbours of three channels: two columns that need one, and the one straight above and below that needs none."""
    reads = [near(CAMERA, c, dx, dy) for c in range(3) for dx in (-1, 0, 1) for dy in (-1, 0, 1)]
    total = reads[0]
    for one in reads[1:]:
        total = total + one
    text = assembly(Program((Vec(total, 0.0, 0.0),)).plan.passes[0], "floats")
    assert text.count("call { ") == 2
    assert_same(Program((Vec(total, 0.0, 0.0),)), picture(9, 70))
