"""The cast's makers: surfaces, light, motion, skin, points and what is written. Rays are cast where Embree is installed."""

from __future__ import annotations

import json
import math
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
from scipy.interpolate import BSpline

from bake.landmarks import PLACES
from bake.motion import SHAPES, TAKES, pose
from bake.noise import values
from bake.paint import lips, skin_colour
from bake.people import CAST
from bake.shade import _ggx
from bake.surface import averaging, normals, smooth
from sunglaze.core.camera.takes import FARTHEST, NEAREST, depth_code, write_truth
from sunglaze.core.colour.difference import ciede2000
from sunglaze.core.colour.spaces import encoded, srgb_to_lab
from sunglaze.core.face.model import RINGS, middle_face, turned_over
from sunglaze.core.review.judging import MONK_TONES


def grid(n: int) -> tuple[np.ndarray, np.ndarray]:
    """Heights by chance over n by n places, and the quads between."""
    rng = np.random.default_rng(5)
    y, x = np.mgrid[0:n, 0:n].astype(float)
    a = np.arange(n * n).reshape(n, n)
    quads = np.stack([a[:-1, :-1], a[:-1, 1:], a[1:, 1:], a[1:, :-1]], axis=2).reshape(-1, 4)
    return np.stack([x, y, rng.uniform(-1, 1, (n, n))], axis=2).reshape(-1, 3), quads


def test_a_surface_over_a_regular_cage_is_the_bicubic_spline() -> None:
    """Catmull and Clark 1978: on a regular cage their rule is the uniform bicubic B-spline's, by SciPy."""
    cage, quads = grid(9)
    found = smooth(81, quads, 4).at(cage)
    heights = cage[:, 2].reshape(9, 9)
    knots = np.arange(-2, 11, dtype=float)
    inside = (found[:, :2] > 2).all(axis=1) & (found[:, :2] < 6).all(axis=1)
    for x, y, z in found[inside][::37]:
        across = [BSpline(knots, row, 3)(x) for row in heights]
        assert z == pytest.approx(float(BSpline(knots, np.array(across), 3)(y)), abs=0.01)
    assert inside.sum() > 2000


def test_a_surface_keeps_what_is_even() -> None:
    """Rows of the matrix sum to 1; a closed cage stays closed (Euler), its vertices face outwards."""
    corners = np.array([[x, y, z] for x in (-1, 1) for y in (-1, 1) for z in (-1, 1)], float)
    quads = np.array([[0, 1, 3, 2], [4, 6, 7, 5], [0, 4, 5, 1], [2, 3, 7, 6], [0, 2, 6, 4], [1, 5, 7, 3]])
    found = smooth(8, quads, 3)
    assert np.allclose(found.matrix.sum(axis=1), 1)
    places = found.at(corners)
    edges = np.unique(np.sort(np.concatenate([found.quads[:, [n, (n + 1) % 4]] for n in range(4)]), axis=1), axis=0)
    assert len(places) - len(edges) + len(found.quads) == 2
    facing = normals(places, found.triangles)
    assert np.abs((facing * places).sum(axis=1) / np.linalg.norm(places, axis=1)).min() > 0.9
    level = averaging(len(places), found.triangles) @ np.ones(len(places))
    assert np.allclose(level, 1)


@pytest.mark.parametrize(("rough", "least"), [(0.25, 0.85), (0.4, 0.75), (0.7, 0.55)])
def test_a_surface_throws_back_no_more_light_than_arrives(rough: float, least: float) -> None:
    """Energy: the shine over all directions of light, for a mirror's reflectance, is below 1 and, where
    smooth, near it; one bounce between rough facets loses the rest."""
    nv = 0.8
    view = np.array([math.sqrt(1 - nv * nv), 0, nv])
    total, count = 0.0, 400
    for theta in (np.arange(count) + 0.5) / count * math.pi / 2:
        for phi in (np.arange(90) + 0.5) / 90 * 2 * math.pi:
            light = np.array([math.sin(theta) * math.cos(phi), math.sin(theta) * math.sin(phi), math.cos(theta)])
            half = (light + view) / np.linalg.norm(light + view)
            share = _ggx(half[2], light[2], nv, half @ view, rough, 1.0)
            total += share * math.sin(theta) * (math.pi / 2 / count) * (2 * math.pi / 90)
    assert least < total <= 1.01


def test_noise_is_smooth_even_and_the_same_again() -> None:
    rng = np.random.default_rng(1)
    places = rng.uniform(-3, 3, (20_000, 3))
    found = values(places, 0.2, 4)
    assert np.array_equal(found, values(places, 0.2, 4))
    assert not np.array_equal(found, values(places, 0.2, 5))
    assert abs(found.mean()) < 0.03
    assert 0.2 < found.std() < 0.6
    assert np.abs(values(places + 1e-4, 0.2, 4) - found).max() < 0.01


@pytest.mark.parametrize("take", TAKES)
@pytest.mark.parametrize("performer", CAST, ids=lambda one: one.key)
def test_a_take_is_a_loop_without_a_jump(performer: object, take: str) -> None:
    poses = [pose(performer, take, n) for n in range(TAKES[take] + 1)]  # type: ignore[arg-type]
    first, last = poses[0], poses[-1]
    assert first == last
    for before, after in pairwise(poses):
        assert max(abs(before.yaw - after.yaw), abs(before.pitch - after.pitch), abs(before.roll - after.roll)) < 4.5
        names = {*before.units, *after.units} - {"eyeBlinkLeft", "eyeBlinkRight"}
        assert max(abs(before.units.get(n, 0) - after.units.get(n, 0)) for n in names) < 0.45
        assert all(-1e-9 <= amount <= 1.2 for amount in after.units.values())


def test_talking_goes_through_many_shapes_and_eyes_stay_on_the_lens() -> None:
    assert len(SHAPES) == 12
    for performer in CAST:
        poses = [pose(performer, "talk", n) for n in range(TAKES["talk"])]
        moving = {
            name for one in poses for name, amount in one.units.items() if amount > 0.08 and name.startswith(("jaw", "mouth"))
        }
        assert len(moving) >= 6
        assert max(one.units["eyeBlinkLeft"] for one in poses) > 0.9
        assert max(abs(one.yaw) for one in poses) > 23
        assert max(abs(one.gaze[0] + one.yaw) for one in poses if abs(one.yaw) < 29) < 1
    near = [pose(CAST[0], "near", n).shift[2] for n in range(TAKES["near"])]
    assert max(near) > 1.5
    assert min(near) < -12
    assert max(pose(CAST[0], "open", n).units.get("tongueOut", 0) for n in range(TAKES["open"])) > 0.7


def test_the_eight_are_eight_tones_of_the_monk_scale() -> None:
    """Their skin's colour is nearer to its own tone than to any two or more steps away (the scale's values, from memory)."""
    tones = [np.array([int(code[n : n + 2], 16) for n in (1, 3, 5)]) / 255 for code in MONK_TONES]
    assert len({one.tone for one in CAST}) == 8
    assert sum(one.tone >= 8 for one in CAST) >= 2
    for performer in CAST:
        skin = srgb_to_lab(encoded(skin_colour(performer.tone)))
        far = [float(ciede2000(skin, srgb_to_lab(tone))) for tone in tones]
        own = performer.tone - 1
        assert all(far[own] < far[other] for other in range(10) if abs(other - own) >= 2), (performer.key, far)


def test_the_points_of_the_face_lie_evenly_and_in_the_trackers_order() -> None:
    """Against the middle face that the tracker's package carries: a similarity leaves little; left and right mirror."""
    places = np.array(json.loads(PLACES.read_text()))
    assert places.shape == (468, 3)
    model = middle_face()
    a, b = model - model.mean(axis=0), places - places.mean(axis=0)
    size = np.sqrt((b**2).sum() / (a**2).sum())
    assert np.abs(b - size * a).mean() < 0.09
    other = turned_over()[:468]
    assert np.abs(places[other] * (-1, 1, 1) - places).mean() < 0.012
    # The border of the lips as the tracker has it runs where they are painted to end.
    ring = places[list(RINGS["lips"])]
    middle = ring.mean(axis=0)
    assert lips(middle + 0.6 * (ring - middle)).mean() > 0.9
    assert lips(middle + 1.5 * (ring - middle)).mean() < 0.1


def test_what_is_written_is_read_again(tmp_path: Path) -> None:
    rng = np.random.default_rng(2)
    labels = [rng.integers(0, 136, (96, 102), dtype=np.uint8) for _ in range(3)]
    depths = [rng.integers(0, 256, (48, 51), dtype=np.uint8) for _ in range(3)]
    points = [rng.integers(-3000, 3000, (478, 3)).astype(np.int32) for _ in range(3)]
    write_truth(tmp_path / "truth.npz", labels, depths, points)
    read = np.load(tmp_path / "truth.npz")
    for n in range(3):
        marks, counts = read[f"label-{n}"]
        assert np.array_equal(np.repeat(marks, counts).reshape(96, 102), labels[n])
        assert np.array_equal(np.cumsum(read[f"depth-{n}"], axis=0, dtype=np.uint8), depths[n])
        assert np.array_equal(np.cumsum(read["points"], axis=0)[n], points[n])


def test_depth_is_finest_where_it_is_near() -> None:
    """One over distance in 256 steps: half a step is below 4 mm at arm's length, 8 cm at the farthest."""
    for distance, most in ((1.8, 0.01), (4.6, 0.04), (18.0, 0.8)):
        code = int(depth_code(np.float32([distance]))[0])
        back = 1 / (1 / FARTHEST + code / 255 * (1 / NEAREST - 1 / FARTHEST))
        assert abs(back - distance) < most


def test_rays_tell_what_is_open_and_what_is_hidden() -> None:
    """A floor under the open sky sees all of it; below a lid it sees none; by construction."""
    pytest.importorskip("embreex")
    from bake.stage import CARRIED, SKIN, Part, Stage

    floor = np.array([[-5, 0, -5], [5, 0, -5], [5, 0, 5], [-5, 0, 5]], float)
    lid = floor * [1, 0, 1] + [0, 0.5, 0]
    faces = np.array([[0, 2, 1], [0, 3, 2]])

    def part(places: np.ndarray) -> Part:
        return Part(places, faces, np.zeros((4, CARRIED), np.float32), 1, SKIN)

    spots = np.array([[0.1, 0, 0.2], [1.0, 0, -1.0], [-0.7, 0, 0.4]])
    measured = Part(spots, np.array([[0, 1, 2]]), np.zeros((3, CARRIED), np.float32), 1, SKIN)
    up = np.tile(np.float32([0, 1, 0]), (3, 1))
    open_, shut = (
        Stage([measured, *parts]).light(np.arange(3), up, 0.01, 0.0) for parts in ([part(floor)], [part(floor), part(lid)])
    )
    assert (open_[:, 3:5] > 0.999).all()
    assert (open_[:, 0] > 0.4).all()
    assert (shut[:, [0, 2, 3]] == 0).all()
    assert (shut[:, 4] < 0.1).all()
