"""Polygons filled by exact coverage: against scikit-image's polygons, forty-eight times as large and brought down by area."""

from __future__ import annotations

import math

import numpy as np
import pytest
from skimage.draw import polygon as filled_polygon

from sunglaze.core.face.filling import mask_of
from sunglaze.core.face.regions import hand_region

LARGER = 48
RNG = np.random.default_rng(5)


def by_skimage(corners: np.ndarray, rows: int, columns: int) -> np.ndarray:
    large = np.zeros((rows * LARGER, columns * LARGER), np.uint8)
    row, column = filled_polygon(corners[:, 1] * LARGER - 0.5, corners[:, 0] * LARGER - 0.5, large.shape)
    large[row, column] = 1
    return large.reshape(rows, LARGER, columns, LARGER).mean(axis=(1, 3)) * 255


def star(count: int, middle: float, least: float, most: float) -> np.ndarray:
    around = (np.arange(count) + RNG.uniform(0, 0.9, count)) * (2 * math.pi / count)
    return middle + RNG.uniform(least, most, count)[:, None] * np.stack([np.cos(around), np.sin(around)], axis=1)


@pytest.mark.parametrize("count", [3, 5, 12, 36])
def test_coverage_is_that_of_a_polygon_drawn_much_larger(count: int) -> None:
    for _ in range(8):
        corners = star(count, 20, 3, 18)
        off = np.abs(mask_of(40, 40, [(corners, 1.0)]) - by_skimage(corners, 40, 40))
        assert off.max() <= 12
        assert off.mean() < 0.2


def test_what_leaves_the_picture_is_cut_off_and_covers_the_rest() -> None:
    for _ in range(8):
        corners = star(9, 14.3, 6, 28)
        off = np.abs(mask_of(28, 30, [(corners, 1.0)]) - by_skimage(corners + 16, 60, 62)[16:44, 16:46])
        assert off.max() <= 12
        assert off.mean() < 0.3


def test_either_way_round_and_places_in_pixels_do_not_matter() -> None:
    square = np.array([[1.25, 2.0], [4.0, 2.0], [4.0, 5.5], [1.25, 5.5]])
    wanted = np.zeros((8, 8))
    wanted[2:5, 2:4], wanted[5, 2:4], wanted[2:5, 1], wanted[5, 1] = 255, 127.5, 191.25, 95.625
    for corners in (square, square[::-1]):
        assert np.abs(mask_of(8, 8, [(corners, 1.0)]) - wanted).max() <= 0.5


def test_a_ring_is_cut_out_of_what_was_filled_and_nothing_is_no_fault() -> None:
    outer = np.array([[1.0, 1.0], [9.0, 1.0], [9.0, 9.0], [1.0, 9.0]])
    mask = mask_of(10, 10, [(outer, 1.0), ((outer - 5) / 2 + 5, 0.0)])
    assert (mask == 255).sum() == 64 - 16
    assert not mask_of(10, 10, [(outer + 40, 1.0), (outer * 0, 1.0)]).any()
    assert not mask_of(10, 10, []).any()


def test_a_hand_is_its_palm_and_fingers_with_round_ends() -> None:
    hand = np.zeros((21, 2))
    hand[:] = 50, 60
    hand[[5, 17]] = [[40, 60], [60, 60]]
    hand[8] = 40, 20
    hand[[6, 7]] = [[40, 47], [40, 33]]
    mask = hand_region([hand], 80, 100)
    thick = 20 * 0.36
    assert (mask[30, :] > 127).sum() == pytest.approx(thick, abs=1)
    assert np.flatnonzero(mask[:, 40] > 127)[0] == pytest.approx(20 - thick / 2, abs=1)
