"""Scopes against counting by other means; the skin line against the Monk Skin Tone scale."""

from __future__ import annotations

import math

import cv2
import numpy as np
import pytest

from sunglaze.core.camera.cameras import colours
from sunglaze.core.camera.cast import StandIn
from sunglaze.core.review.judging import MONK_TONES
from sunglaze.core.review.scopes import HEIGHT, SCOPES, SKIN_ANGLE, WIDTH, counts, differences, scope, traces, vectorscope

FRAME = colours(StandIn(270, 480).frame(12), 270)


def test_counts_are_opencvs_histogram() -> None:
    found = counts(FRAME)
    for channel in range(3):
        assert np.array_equal(
            found[channel], cv2.calcHist([np.ascontiguousarray(FRAME)], [channel], None, [256], [0, 256]).ravel()
        )


def test_traces_stand_over_their_columns() -> None:
    ramp = np.repeat(np.arange(256, dtype=np.uint8)[None, :], 7, axis=0)
    assert np.array_equal(traces(ramp, 256), np.eye(256) * 7)


def test_colour_differences_are_those_of_bt_709() -> None:
    """ITU-R BT.709-6, item 3.3: Cb = (B - Y) / 1.8556, Cr = (R - Y) / 1.5748; pure blue is 0.5, pure red is 0.5."""
    cb, cr = differences(np.array([[[255, 0, 0], [0, 0, 255], [128, 128, 128]]], np.uint8))
    assert cr[0] == pytest.approx(0.5, abs=1e-4)
    assert cb[1] == pytest.approx(0.5, abs=1e-4)
    assert abs(cb[2]) < 1e-6
    assert abs(cr[2]) < 1e-6


def test_skin_lies_along_the_skin_line() -> None:
    """Those of the Monk tones that have enough colour to have a direction: all within 30 degrees, the middle ones within 20."""
    tones = np.array([[[int(tone[n : n + 2], 16) for n in (1, 3, 5)] for tone in MONK_TONES]], np.uint8)
    cb, cr = differences(tones)
    angles = np.degrees(np.arctan2(cr, cb))[np.hypot(cb, cr) > 0.03]
    assert len(angles) >= 6
    assert np.abs(angles - SKIN_ANGLE).max() < 30
    assert np.abs(angles[-3:] - SKIN_ANGLE).max() < 20


@pytest.mark.parametrize("kind", SCOPES)
def test_scopes_are_pictures_of_one_size_whatever_they_look_at(kind: str) -> None:
    for pixels in (FRAME, FRAME[:1, :1], np.zeros((3, 500, 3), np.uint8), np.full((40, 2, 3), 255, np.uint8)):
        drawn = scope(kind, pixels)  # type: ignore[arg-type]
        assert drawn.shape == ((WIDTH if kind == "vectorscope" else HEIGHT), WIDTH, 3)
        assert drawn.dtype == np.uint8


def test_the_vectorscope_draws_a_colour_where_it_lies() -> None:
    orange = np.full((20, 20, 3), (220, 120, 60), np.uint8)
    cb, cr = (float(d[0]) for d in differences(orange[:1, :1]))
    drawn = vectorscope(orange).astype(int)
    row, column = round((0.5 - cr) * 255), round((cb + 0.5) * 255)
    assert drawn[row, column, 0] > drawn[row, column, 2] + 60
    assert math.dist((row, column), (127.5, 127.5)) > 30
