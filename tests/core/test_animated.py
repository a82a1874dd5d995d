"""Animated pictures at random against their specifications (tests/moving.py), to the bit."""

from __future__ import annotations

import contextlib
import struct

import numpy as np
import pytest

from sunglaze.core.errors import BadFile
from sunglaze.core.material.files import material_pixels
from sunglaze.core.material.reels import SHORTEST_MS, SLOW_MS, is_animated, read_animated
from tests.moving import MAKERS, gif
from tests.often import often


def alike(ours: np.ndarray, theirs: np.ndarray) -> bool:
    """Equal, whatever colour it is that nobody sees."""
    return ours.shape == theirs.shape and bool(np.array_equal(ours * (ours[..., 3:] > 0), theirs * (theirs[..., 3:] > 0)))


@pytest.mark.parametrize("form", MAKERS)
@pytest.mark.parametrize("count", often(150, 1000))
def test_what_is_seen_of_each_picture_is_what_the_specification_says(form: str, count: int) -> None:
    rng = np.random.default_rng(89)
    for number in range(count):
        one = MAKERS[form](rng)
        reel = read_animated(one.data)
        assert is_animated(one.data) == (len(one.seen) > 1)
        for ours, theirs in zip(reel.sequence.files, one.seen, strict=True):
            assert alike(material_pixels(ours), theirs), f"{form} {number}"
        # What is not to be seen is shown for a tenth of a second, as browsers do.
        wanted = [SLOW_MS if time < SHORTEST_MS else time for time in one.times]
        holds = reel.sequence.holds or (1,) * len(wanted)
        assert [round(hold * 1000 / reel.sequence.rate) for hold in holds] == wanted


def test_a_still_of_a_gif_is_its_first_picture() -> None:
    rng = np.random.default_rng(1)
    for _ in range(100):
        one = gif(rng)
        assert alike(material_pixels(one.data), one.seen[0])


def test_a_gif_that_ends_too_early_says_so_or_is_read() -> None:
    """Cut anywhere: words, or the pictures that are whole, and never another error."""
    rng = np.random.default_rng(2)
    read = 0
    for _ in range(40):
        one = gif(rng)
        for end in rng.integers(0, len(one.data), 10):
            with contextlib.suppress(BadFile):
                shown = read_animated(one.data[:end]).sequence.files
                assert all(alike(material_pixels(ours), theirs) for ours, theirs in zip(shown, one.seen, strict=False))
                read += 1
    assert read < 200


def test_a_first_picture_larger_than_the_screen_has_room() -> None:
    """As browsers do (common practice, no source)."""
    one = gif(np.random.default_rng(5))
    height, width = one.seen[0].shape[:2]
    small = one.data[:6] + b"\x01\x00\x01\x00" + one.data[10:]
    shown = material_pixels(read_animated(small).sequence.files[0])
    assert shown.shape[0] <= height
    assert shown.shape[1] <= width
    assert shown[..., 3].any()


@pytest.mark.parametrize("after", [b"", b"\0", b"\0\0;;", b"made between two ferries"])
def test_what_stands_behind_the_last_picture_is_nothing(after: bytes) -> None:
    """As browsers have it: the byte that ends the file is missing, or there are more."""
    one = gif(np.random.default_rng(9))
    shown = read_animated(one.data[:-1] + after).sequence.files
    assert all(alike(material_pixels(ours), theirs) for ours, theirs in zip(shown, one.seen, strict=True))


def test_a_picture_larger_than_the_gif_is_refused_before_it_is_decoded() -> None:
    """60,000 by 60,000 pixels that a kilobyte names are 3.6 GB."""
    one = gif(np.random.default_rng(9))
    large = b"," + struct.pack("<HHHHB", 0, 0, 60_000, 60_000, 0) + b"\x02\x02\x4c\x01\x00"
    with pytest.raises(BadFile, match="larger than the GIF"):
        read_animated(one.data[:-1] + large + b";")
