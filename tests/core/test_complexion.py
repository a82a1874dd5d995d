"""How much there is on skin to smooth: the band that is measured, and that faces are brought to one size."""

from __future__ import annotations

import numpy as np
import pytest

from sunglaze.complexion import EYES, band, complexions, energy, in_words, photograph
from sunglaze.core.camera.people import PEOPLE

SIDE = 192


def wave(cycles: float, height: float = 10.0) -> np.ndarray:
    """A sinusoid across of so many cycles a pixel about a middle grey."""
    x = np.arange(SIDE) + 0.5
    return np.broadcast_to(128 + height * np.sin(2 * np.pi * cycles * x), (SIDE, SIDE)).astype(np.float32)


@pytest.mark.parametrize(
    ("cycles", "least", "most"), [(1 / 8, 0.3, 0.7), (1 / 16, 0.05, 0.35), (1 / 80, 0.0, 0.01), (0.45, 0.0, 0.3)]
)
def test_of_a_wave_that_is_kept_which_lies_in_the_band(cycles: float, least: float, most: float) -> None:
    """Parts of its power, half the square of its height."""
    seen = band(wave(cycles), np.ones((SIDE, SIDE), np.bool_))[32:-32, 32:-32]
    assert least <= (seen**2).mean() / 50 <= most


def test_what_is_no_skin_counts_for_nothing() -> None:
    """A black bar across grey skin, which would be the most of all."""
    grey, skin = np.full((SIDE, SIDE), 128, np.float32), np.ones((SIDE, SIDE), np.bool_)
    grey[:, 90:100] = 0
    skin[:, 90:100] = False
    assert np.abs(band(grey, skin)[skin]).max() < 1e-3
    assert np.abs(band(grey, np.ones_like(skin))[skin]).max() > 20


@pytest.mark.parametrize("size", [1.0, 2.0, 3.0])
def test_a_larger_face_has_what_it_has_at_one_size(size: float) -> None:
    """The same pattern on a face that is so much nearer."""
    eyes = np.array(EYES) * size
    side = round(400 * size)
    x = (np.arange(side) + 0.5) / size
    grey = np.broadcast_to(128 + 20 * np.sin(2 * np.pi * x / 9), (side, side))
    pixels = np.repeat(np.rint(grey).astype(np.uint8)[..., None], 3, axis=2)
    found = energy(pixels, eyes, np.full((side, side), 255, np.uint8))
    assert found.levels == pytest.approx(0.46 * 200, rel=0.25)
    assert found.share == pytest.approx(found.levels / 128**2, rel=0.05)


def test_a_photograph_has_some_and_a_bare_wall_none() -> None:
    hers = photograph()
    assert hers.levels > 10
    wall = np.full((512, 512, 3), 128, np.uint8)
    assert energy(wall, np.array(EYES), np.full((512, 512), 255, np.uint8)).levels < hers.levels / 1000
    with pytest.raises(ValueError, match="no skin"):
        energy(wall, np.array(EYES), np.zeros((512, 512), np.uint8))


def test_nobodys_skin_is_wax() -> None:
    """As `sunglaze realism` tells it: half to twice what the photograph has."""
    found, hers = complexions(), photograph()
    assert found.keys() == PEOPLE.keys()
    for who, one in found.items():
        assert 1 / 2 < one.share / hers.share < 2, who
    assert all(f"| {person.role} | " in in_words(found, hers) for person in PEOPLE.values())
