"""WCAG 2.2, 2.3.1: constructed sequences on each side of every limit."""

from __future__ import annotations

import numpy as np
import pytest

from sunglaze.core.colour.spaces import encoded
from sunglaze.core.review.flashing import FIELD, flashing

ROWS, COLUMNS, RATE = 96, 54, 30.0
SIDE = round(COLUMNS * FIELD)


def grey(luminance: float) -> int:
    """The byte whose relative luminance comes nearest."""
    return int(np.rint(255 * encoded(np.array(luminance))))


def alternating(
    one: tuple[int, int, int], other: tuple[int, int, int], flashes: int, seconds: float = 1.0, part: int = COLUMNS
) -> list[np.ndarray]:
    """A second in which the left `part` columns of ten degrees go to the other colour and back so often, and stand on."""
    frames = []
    count = round(seconds * RATE)
    for n in range(count):
        picture = np.full((ROWS, COLUMNS, 3), one, np.uint8)
        phase = int(n * 2 * flashes / count)
        if phase % 2:
            picture[:, :part] = other
        frames.append(picture)
    return [*frames, *[np.full((ROWS, COLUMNS, 3), one, np.uint8)] * 8]


def test_three_flashes_in_a_second_pass_and_four_do_not() -> None:
    black, white = (0, 0, 0), (255, 255, 255)
    for flashes, passes in ((3, True), (4, False), (10, False)):
        general, red = flashing(alternating(black, white, flashes), RATE)
        assert general.passes is passes, flashes
        assert general.flashes == flashes
        assert red.passes
    # The same number in twice the time is half as often.
    assert flashing(alternating(black, white, 6, 2.0), RATE)[0].passes


@pytest.mark.parametrize(("low", "high", "counts"), [
    (0.30, 0.395, False), (0.30, 0.415, True),  # a change of a tenth
    (0.785, 0.92, True), (0.815, 0.95, False),  # the darker side below 0.80
    (0.0, 0.09, False), (0.0, 0.11, True),
])  # fmt: skip
def test_changes_count_from_a_tenth_on_and_where_the_darker_is_below_080(low: float, high: float, counts: bool) -> None:
    one, other = (grey(low),) * 3, (grey(high),) * 3
    general, _ = flashing(alternating(one, other, 8), RATE)
    assert general.passes is not counts
    assert (general.flashes > 3) is counts


def test_a_slow_way_up_in_small_steps_is_one_change() -> None:
    ramp = [np.full((ROWS, COLUMNS, 3), grey(0.02 * n), np.uint8) for n in (*range(40), *range(40, 0, -1))]
    general, _ = flashing(ramp, RATE)
    assert general.flashes <= 1
    # Flicker below a tenth on top of it adds none.
    noisy = [np.clip(one.astype(int) + (6 if n % 2 else 0), 0, 255).astype(np.uint8) for n, one in enumerate(ramp)]
    assert flashing(noisy, RATE)[0].flashes <= 1


def test_a_quarter_of_ten_degrees_may_flash() -> None:
    black, white = (0, 0, 0), (255, 255, 255)
    for part, passes in ((int(SIDE * 0.24), True), (int(np.ceil(SIDE * 0.26)), False)):
        general, _ = flashing(alternating(black, white, 8, part=part), RATE)
        assert general.passes is passes
        assert general.share == pytest.approx(part / SIDE, abs=0.01)


@pytest.mark.parametrize(("green", "counts"), [(0.24, True), (0.27, False)])
def test_red_is_saturated_from_four_fifths_on(green: float, counts: bool) -> None:
    """R / (R + G + B) of 1 / (1 + green): 0.806 and 0.787. The other colour is a grey of the same luminance."""
    red = tuple(int(np.rint(255 * encoded(np.array(part)))) for part in (0.2, 0.2 * green, 0.0))
    luminance = 0.2 * (0.2126 + 0.7152 * green)
    general, reds = flashing(alternating(red, (grey(luminance),) * 3, 8), RATE)
    assert general.passes
    assert reds.passes is not counts


@pytest.mark.parametrize(("much", "counts"), [(0.058, False), (0.068, True)])
def test_a_change_of_red_counts_above_twenty(much: float, counts: bool) -> None:
    """(R - G - B) * 320 of pure reds on black: 18.6 and 21.8; their luminance changes by less than a tenth."""
    red = (int(np.rint(255 * encoded(np.array(much)))), 0, 0)
    general, reds = flashing(alternating((0, 0, 0), red, 8), RATE)
    assert general.passes
    assert reds.passes is not counts


def test_the_worst_second_is_named() -> None:
    still = [np.zeros((ROWS, COLUMNS, 3), np.uint8)] * 60
    general, _ = flashing([*still, *alternating((0, 0, 0), (255, 255, 255), 8)], RATE)
    assert 1.9 < general.start < 2.4
    assert flashing([], RATE)[0].passes
