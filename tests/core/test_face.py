"""Faces by their points: pose against OpenCV's projection and the cast's exact truth, mouth and lids, who is who, steadying."""

from __future__ import annotations

import itertools
import math

import cv2
import numpy as np
import pytest

from sunglaze.core.camera.cast import LENGTHS, Sitting, StandIn
from sunglaze.core.camera.labels import EYE, LIPS
from sunglaze.core.camera.people import PEOPLE
from sunglaze.core.camera.truth import Head, focal, heads
from sunglaze.core.face.follow import Follower
from sunglaze.core.face.measure import NAMES, eye_aspect_ratio, measure
from sunglaze.core.face.model import IRISES, RINGS, middle_face, turned_over
from sunglaze.core.face.pose import angles, head_pose, rotation, usual_focal
from sunglaze.core.face.steady import FirstOrder, OneEuro, SteadyMask

WIDTH, HEIGHT = 540, 960


def seen(who: str, script: str, number: int, back: bool = True) -> tuple[StandIn, Head]:
    camera = StandIn(WIDTH, HEIGHT, Sitting(who, script, back=back))
    return camera, heads(camera, number)[-1]


def test_the_middle_face_is_its_own_mirror_image() -> None:
    points, over = middle_face(), turned_over()
    assert points.shape == (468, 3)
    assert (over[over] == np.arange(478)).all()
    assert np.abs(points[over[:468]] * (-1, 1, 1) - points).max() < 1e-6
    assert set(over[list(RINGS["left eye"])]) == set(RINGS["right eye"])
    assert set(over[list(RINGS["lips"])]) == set(RINGS["lips"])


@pytest.mark.parametrize("yaw", [-40, 0, 25])
@pytest.mark.parametrize("pitch", [-20, 10])
@pytest.mark.parametrize("roll", [-30, 0, 15])
def test_pose_undoes_opencvs_projection(yaw: float, pitch: float, roll: float) -> None:
    """`cv2.projectPoints` of the model at a known pose; its axes are x right, y down, z away."""
    turn, place = rotation(yaw, pitch, roll), np.array([4.0, -3.0, -55.0])
    flip = np.diag([1.0, -1.0, -1.0])
    lens = np.array([[700.0, 0, 270], [0, 700.0, 480], [0, 0, 1]])
    points = cv2.projectPoints(middle_face(), cv2.Rodrigues(flip @ turn)[0], flip @ place, lens, None)[0].reshape(-1, 2)
    pose = head_pose(points, WIDTH, HEIGHT, 700.0)
    assert pose.angles == pytest.approx((yaw, pitch, roll), abs=0.01)
    assert pose.place == pytest.approx(place, abs=0.01)
    assert angles(turn) == pytest.approx((yaw, pitch, roll), abs=1e-9)


def test_a_usual_camera_sees_its_field_of_view() -> None:
    half = math.degrees(math.atan(480 / usual_focal(WIDTH, HEIGHT)))
    assert 2 * half == pytest.approx(63)


@pytest.mark.parametrize("who", PEOPLE)
def test_pose_of_the_cast_is_near_the_exact_truth(who: str) -> None:
    """Their heads are not the middle head, which is all that the pose goes by: a few degrees, a sixth of the distance."""
    for script, number in (("talk", 0), ("talk", 19), ("talk", 56), ("near", 18), ("near", 100)):
        for back in (True, False):
            camera, head = seen(who, script, number, back)
            pose = head_pose(head.points, WIDTH, HEIGHT, focal(camera))
            assert np.abs(np.subtract(pose.angles, angles(head.turn))).max() < 5
            assert pose.distance == pytest.approx(-head.place[2], rel=0.17)
            assert np.linalg.norm(pose.place[:2] - head.place[:2]) < 0.05 * pose.distance


def test_a_mirrored_picture_turns_the_truth_over() -> None:
    _, plain = seen("beekeeper", "talk", 19)
    _, mirrored = seen("beekeeper", "talk", 19, back=False)
    assert angles(plain.turn)[0] > 15
    # Nearly: the front camera stands nearer, so the line of sight is another, and so is what is seen of the turn.
    assert angles(mirrored.turn)[0] == pytest.approx(-angles(plain.turn)[0], abs=2)
    # On the mirrored picture, too, the left eye is the left one.
    assert mirrored.eyes[0, 0] < mirrored.eyes[1, 0]
    assert mirrored.place[2] > plain.place[2]


@pytest.mark.parametrize("who", PEOPLE)
@pytest.mark.parametrize(("script", "number"), [("talk", 0), ("talk", 40), ("open", 15)])
def test_points_lie_on_what_they_are_points_of(who: str, script: str, number: int) -> None:
    """Against the labels of every pixel: irises on eyes, the ring of the lips around the lips' pixels."""
    camera, head = seen(who, script, number)
    material, _ = camera.labels(number)
    for iris in IRISES.values():
        column, row = head.points[iris[0]].astype(int)
        # Lids and lashes hang over the irises, those of the ferry pilot and the oyster cook farthest.
        assert (material[row - 5 : row + 6, column - 5 : column + 6] == EYE).sum() > 12
    ring = np.zeros((HEIGHT, WIDTH), np.uint8)
    cv2.fillPoly(ring, [np.rint(head.points[list(RINGS["lips"])]).astype(np.int32)], 1)
    lips = material == LIPS
    around = cv2.dilate(ring, np.ones((13, 13), np.uint8)) > 0
    assert (lips & around).sum() / lips.sum() > 0.85


def test_a_point_behind_a_hand_or_the_other_side_of_the_head_is_hidden() -> None:
    _, front = seen("stilt-walker", "still", 0)
    assert front.visible[[4, 152, 13]].all()
    _, behind = seen("stilt-walker", "hands", 7)
    assert 0.03 < behind.visible.mean() < 0.9
    _, turned = seen("oyster-cook", "talk", 15)
    assert angles(turned.turn)[0] > 15
    # Turned to the picture's right, the ear's side at the right lies behind the cheek's edge.
    assert turned.visible[list(RINGS["left eye"])].mean() > 0.9
    camera = StandIn(WIDTH, HEIGHT, Sitting("lamp-tender", "two"))
    both = [heads(camera, number) for number in range(0, LENGTHS["two"], 15)]
    assert min(pair[0].visible.mean() for pair in both) < 0.2


@pytest.mark.parametrize("who", PEOPLE)
def test_mouth_and_lids_as_the_truth_has_them(who: str) -> None:
    camera = StandIn(WIDTH, HEIGHT, Sitting(who, "open", back=True))
    frames = [heads(camera, number)[0] for number in range(0, 30, 3)]
    opening = [measure(head.points).mouth for head in frames]
    truly = [head.mouth for head in frames]
    assert np.corrcoef(opening, truly)[0, 1] > 0.98
    assert measure(frames[0].points).mouth < 0.12
    assert max(opening) > 0.7
    talk = StandIn(WIDTH, HEIGHT, Sitting(who, "talk", back=True))
    for number in range(10, 24):
        head = heads(talk, number)[0]
        if head.blink > 0.95:
            assert min(measure(head.points).blinks) > 0.9
        elif head.blink < 0.02:
            assert max(measure(head.points).blinks) < 0.45


def test_measures_by_hand() -> None:
    points = np.zeros((478, 2))
    points[13], points[14], points[78], points[308] = (0, 10), (0, 4), (-6, 7), (6, 7)
    six = (1, 2, 3, 4, 5, 6)
    points[[1, 4]] = (-5, 0), (5, 0)
    points[[2, 6]] = (-2, 1.5), (-2, -1.5)
    points[[3, 5]] = (2, 1.5), (2, -1.5)
    assert measure(points).mouth == pytest.approx(0.5)
    assert eye_aspect_ratio(points, six) == pytest.approx(0.3)
    assert set(measure(points).places) == set(NAMES)


@pytest.mark.parametrize("rate", [10, 30])
def test_the_first_face_stays_the_first_when_another_passes_behind_it(rate: int) -> None:
    """The exact points of the script, given in an order that says nothing; a face mostly hidden is not given."""
    camera = StandIn(WIDTH, HEIGHT, Sitting("beekeeper", "two", back=True))
    follower, order = Follower(), np.random.default_rng(5)
    places: dict[str, set[int]] = {"beekeeper": set(), "stilt-walker": set()}
    crossed = False
    for number in range(0, LENGTHS["two"], 30 // rate):
        given = [head for head in heads(camera, number) if head.visible.mean() > 0.35]
        crossed |= len(given) == 1
        given = [given[n] for n in order.permutation(len(given))]
        for place, n in enumerate(follower.update([head.points for head in given], 1 / rate)):
            if n is not None:
                places[given[n].who].add(place)
    assert crossed
    assert [len(found) for found in places.values()] == [1, 1]


def test_a_face_that_goes_for_long_makes_room() -> None:
    face = middle_face()[:, :2] * 10
    follower = Follower()
    assert follower.update([face], 0.03) == [0, None]
    assert follower.update([face, face + 400], 0.03) == [0, 1]
    assert follower.update([face + 402], 0.03) == [None, 0]
    for _ in range(60):
        follower.update([face + 402], 0.03)
    assert follower.update([face + 402, face - 300], 0.03) == [1, 0]


def path(seconds: float) -> float:
    return 40 * math.sin(2.2 * seconds) + 12 * math.sin(5 * seconds + 1)


@pytest.mark.parametrize("kind", ["first-order", "one-euro"])
def test_the_same_motion_at_every_rate(kind: str) -> None:
    """A smooth path given at 15, 24, 30 and 60 a second: within 3 % of its range of each other, at the seconds that all share."""
    results = {}
    for rate in (15, 24, 30, 60):
        smoother = FirstOrder(0.12) if kind == "first-order" else OneEuro(1.2, 0.02)
        values = [smoother.follow(np.array([path(n / rate)]), 1 / rate)[0] for n in range(rate * 6 + 1)]
        results[rate] = np.array(values[:: rate // 3])
    spread = 104.0
    for one, other in itertools.combinations(results.values(), 2):
        assert np.abs(one[3:] - other[3:]).max() / spread < (0.03 if kind == "one-euro" else 0.14)


def test_a_first_order_lag_by_its_formula() -> None:
    """A step: 1 - exp(-t / lag), exactly, whatever the rate."""
    for rate in (15, 24, 30, 60):
        smoother = FirstOrder(0.25)
        smoother.follow(np.zeros(1), 0)
        for _ in range(rate):
            value = smoother.follow(np.ones(1), 1 / rate)
        assert value[0] == pytest.approx(1 - math.exp(-1 / 0.25))


def test_one_euro_steadies_what_is_still_and_keeps_up_with_what_moves() -> None:
    noise = np.random.default_rng(2).normal(0, 1.5, 240)
    smoother, still = OneEuro(1.0, 0.02), []
    for value in noise:
        still.append(smoother.follow(np.array([value]), 1 / 30)[0])
    assert np.std(still[60:]) < np.std(noise) / 2
    moving, ramp = OneEuro(1.0, 0.02), [300.0 * n / 30 for n in range(60)]
    followed = [moving.follow(np.array([value]), 1 / 30)[0] for value in ramp]
    # A plain lag of 1 Hz would trail by 300 / 2 pi, 48.
    assert 0 < ramp[-1] - followed[-1] < 10


def edge(at: float) -> np.ndarray:
    """A soft upright edge, four pixels wide."""
    return np.tile(np.clip((np.arange(64) - at) / 4 + 0.5, 0, 1) * 255, (8, 1)).astype(np.uint8)


def test_a_steady_mask_flickers_less_and_does_not_trail() -> None:
    generator = np.random.default_rng(4)
    shaking = [edge(32 + generator.normal(0, 0.35)) for _ in range(120)]
    steady = SteadyMask()
    held = [steady.follow(mask, 1 / 30) for mask in shaking]
    flicker = [np.std([mask.sum() / 255 / 8 for mask in masks[20:]]) for masks in (shaking, held)]
    assert flicker[1] < 0.7 * flicker[0]
    moving = SteadyMask()
    for n in range(20):
        last = moving.follow(edge(12 + 2 * n), 1 / 30)
    assert abs(last.sum() - edge(50).astype(float).sum()) / 255 / 8 < 1.0
