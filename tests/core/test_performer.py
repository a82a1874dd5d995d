"""The baked figure's own rules, on single rays and small frames; its motion."""

from __future__ import annotations

import numpy as np
import pytest

from sunglaze.core.camera.performer.bake import FRAMES, develop, pose, rotation
from sunglaze.core.camera.performer.shapes import EYE, HAIR, SKIN, body, head


def test_rotation_is_one() -> None:
    for angles in ((20, 5, -3), (0, 0, 0), (-40, 10, 15)):
        turn = rotation(*angles)
        assert np.abs(turn @ turn.T - np.eye(3)).max() < 1e-12
        assert np.linalg.det(turn) == pytest.approx(1)
    # A turn to the left of the picture moves the nose, which points at the lens (+z), towards -x.
    assert (rotation(-30, 0, 0) @ [0, 0, 1])[0] == pytest.approx(-0.5)


def test_the_motion_is_a_loop_and_smooth() -> None:
    poses = np.array([pose(n) for n in range(FRAMES + 1)])
    assert np.abs(poses[0] - poses[FRAMES])[:12].max() < 1e-9
    steps = np.abs(np.diff(poses[:, :12], axis=0)).max()
    assert steps < 0.03


def test_the_field_tells_inside_outside_and_material() -> None:
    inside, outside = head(0.0, 0.0, 0.0, 0.0, 0.0)[0], head(3.0, 3.0, 3.0, 0.0, 0.0)[0]
    assert inside < 0 < outside
    assert head(0.305, 0.035, 0.80, 0.0, 0.0)[1] == EYE
    assert head(0.305, 0.035, 0.82, 1.0, 0.0)[1] == SKIN  # shut
    assert head(0.0, 1.35, -0.2, 0.0, 0.0)[1] == HAIR
    assert body(0.0, -1.2, -0.3)[1] == SKIN
    assert body(0.0, -1.2, -0.3)[0] < 0 < body(0.0, -1.2, 2.0)[0]


def test_the_field_never_overestimates_by_much() -> None:
    """A marched ray must not step through: moving by the told distance never lands deep inside."""
    rng = np.random.default_rng(0)
    points = rng.uniform(-1.6, 1.6, (400, 3))
    directions = rng.normal(size=(400, 3))
    directions /= np.linalg.norm(directions, axis=1)[:, None]
    for point, direction in zip(points, directions, strict=True):
        distance = head(*point, 0.0, 0.0)[0]
        if distance > 0:
            assert head(*(point + direction * distance), 0.0, 0.0)[0] > -0.12


def test_developing_is_srgb_below_the_shoulder() -> None:
    """IEC 61966-2-1: linear 0.21586 is 128 of 255, encoded."""
    shown = develop(np.array([[[0.0, 0.21586, 0.0031308]]], np.float32))[0, 0]
    assert shown.tolist() == [0, 128, 10]
    assert develop(np.full((1, 1, 3), 50.0, np.float32)).max() == 255
