"""The performers' own rules, on single places and small frames; their motion."""

from __future__ import annotations

import numpy as np
import pytest

from sunglaze.core.camera.performer.bake import encode
from sunglaze.core.camera.performer.labels import EYE, HAIR, NECK, SKIN
from sunglaze.core.camera.performer.motion import TAKES, pose, rotation
from sunglaze.core.camera.performer.people import CAST, MONK_TONES
from sunglaze.core.camera.performer.shapes import body, head
from sunglaze.core.camera.truth import projected

TENDER = CAST[0].numbers()


def test_rotation_is_one() -> None:
    for angles in ((20, 5, -3), (0, 0, 0), (-40, 10, 15)):
        turn = rotation(*angles)
        assert np.abs(turn @ turn.T - np.eye(3)).max() < 1e-12
        assert np.linalg.det(turn) == pytest.approx(1)
    # A turn to the left of the picture moves the nose, which points at the lens (+z), towards -x.
    assert (rotation(-30, 0, 0) @ [0, 0, 1])[0] == pytest.approx(-0.5)


@pytest.mark.parametrize("take", TAKES)
def test_the_motion_is_a_loop_and_smooth(take: str) -> None:
    poses = np.array([pose(take, n)[:12] for n in range(TAKES[take] + 1)])
    assert np.abs(poses[0] - poses[-1]).max() < 1e-9
    assert np.abs(np.diff(poses, axis=0)).max() < 0.6


def test_the_field_tells_inside_outside_and_material() -> None:
    assert head(0.0, 0.0, 0.0, 0.0, 0.0, TENDER)[0] < 0 < head(3.0, 3.0, 3.0, 0.0, 0.0, TENDER)[0]
    assert head(0.305, 0.035, 0.80, 0.0, 0.0, TENDER)[1] == EYE
    assert head(0.305, 0.035, 0.82, 1.0, 0.0, TENDER)[1] == SKIN  # shut
    assert head(0.0, 1.35, -0.2, 0.0, 0.0, TENDER)[1] == HAIR
    assert body(0.0, -0.5, -0.3, TENDER)[1] == NECK
    assert body(0.0, -0.5, -0.3, TENDER)[0] < 0 < body(0.0, -0.5, 2.0, TENDER)[0]


@pytest.mark.parametrize("person", CAST, ids=lambda person: person.key)
def test_the_field_never_overestimates_by_much(person: object) -> None:
    """A marched ray must not step through: moving by the told distance never lands deep inside."""
    numbers = person.numbers()  # type: ignore[attr-defined]
    rng = np.random.default_rng(0)
    points = rng.uniform(-1.6, 1.6, (200, 3))
    directions = rng.normal(size=(200, 3))
    directions /= np.linalg.norm(directions, axis=1)[:, None]
    for point, direction in zip(points, directions, strict=True):
        distance = head(*point, 0.0, 0.0, numbers)[0]
        if distance > 0:
            assert head(*(point + direction * distance), 0.0, 0.0, numbers)[0] > -0.2


def test_colours_are_srgb() -> None:
    """IEC 61966-2-1: linear 0.21586 is 128 of 255, encoded."""
    assert encode(np.array([[[0.0, 0.21586, 0.0031308]]], np.float32))[0, 0].tolist() == [0, 128, 10]
    assert CAST[0].skin == pytest.approx(
        tuple(((int(MONK_TONES[3][n : n + 2], 16) / 255 + 0.055) / 1.055) ** 2.4 for n in (1, 3, 5))
    )
    assert len(MONK_TONES) == 10


def test_nearer_is_larger() -> None:
    """A pinhole: at half the distance, twice as far from the middle."""
    far, near = projected(np.array([[1.0, 0.0, 0.0], [1.0, 0.0, 4.3]]))[:, 0] - 360
    assert near == pytest.approx(2 * far)
