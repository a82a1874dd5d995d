"""Pins against OpenCV's projection; the inside of a box against rays cast by trimesh; clean edges against true composites."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
import pytest
import trimesh
from pymatting import estimate_foreground_ml

from sunglaze.core.camera.cameras import colours
from sunglaze.core.camera.cast import Sitting, StandIn
from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.engine.running import run
from sunglaze.core.face.model import POINTS, middle_face
from sunglaze.core.face.pose import rotation, usual_focal
from sunglaze.core.face.seen import seen_face
from sunglaze.core.language.expression import Value
from sunglaze.core.language.pictures import CAMERA, asset_picture, colour_here, computed, here, near, picture_of, sample
from sunglaze.core.language.vector import Vec
from sunglaze.core.material.still import Still
from sunglaze.core.moment.moment import Moment
from sunglaze.core.nodes.depth import behind, box_inside
from sunglaze.core.nodes.pins import TURNS, pin
from sunglaze.core.passes.program import Inputs, Program, State
from sunglaze.core.targets import numpy as reference
from tests.core.test_face_layers import laid

COLUMNS, ROWS = 270, 480
Place = tuple[float, float]
SHEET = {"sheet": Still.of(np.full((20, 40, 4), 255, np.uint8))}


def turned_head(turn: float, nod: float, tilt: float, place: tuple[float, float, float] = (1.0, -2.0, -45.0)) -> Moment:
    """A moment with the middle face so turned, its points as OpenCV projects them, z as trackers tell it."""
    focal = usual_focal(COLUMNS, ROWS)
    seen = middle_face() @ rotation(turn, nod, tilt).T + np.array(place)
    flat = np.diag([1.0, -1.0, -1.0])
    lens = np.array([[focal, 0, COLUMNS / 2], [0, focal, ROWS / 2], [0, 0, 1]])
    points, _ = cv2.projectPoints(seen @ flat, np.zeros(3), np.zeros(3), lens, None)
    scale = focal / -place[2]
    all_points = np.zeros((POINTS, 3))
    all_points[:468, :2] = points[:, 0]
    all_points[:468, 2] = -(seen[:, 2] - place[2]) * scale
    all_points[468:] = all_points[[468 - 435 + n for n in range(10)]]
    picture = np.zeros((ROWS, COLUMNS, 4), np.float32)
    return replace(Moment.of(picture), faces=(seen_face(all_points, COLUMNS, ROWS),))


def places(seen: Moment, **how: object) -> tuple[np.ndarray, np.ndarray]:
    """Where in a pinned picture each pixel is (rows, columns, 2), and how much of it is shown."""
    found = pin(asset_picture("sheet"), **how)
    program = Program((Vec(found.place.x, found.place.y, found.shown),))
    out = reference.run(program, seen, Inputs(pictures=SHEET), State())[0]
    return out[..., :2], out[..., 2]


def projected(seen_at: np.ndarray) -> np.ndarray:
    """Pixels of a place before the lens (x right, y up, z towards it), by the same lens."""
    focal = usual_focal(COLUMNS, ROWS)
    return np.array([COLUMNS / 2 + focal * seen_at[0] / -seen_at[2], ROWS / 2 - focal * seen_at[1] / -seen_at[2]])


@pytest.mark.parametrize("angles", [(0.0, 0.0, 0.0), (25.0, 0.0, 0.0), (-35.0, 8.0, 12.0), (10.0, -15.0, -25.0)])
def test_a_pinned_picture_lies_where_a_lens_sees_it(angles: tuple[float, float, float]) -> None:
    """Its corners and middle, 6 cm wide, 2 cm before the nose's bridge and 1 cm above, within 5 % of the distance of the eyes."""
    place = (1.0, -2.0, -45.0)
    seen = turned_head(*angles, place)
    at, shown = places(seen, which="nose bridge", wide=6.0, up=1.0, out=2.0, hides=False)
    turn = rotation(*angles)
    apart = seen.faces[0].size * COLUMNS
    for u, v in ((0.5, 0.5), (0.06, 0.1), (0.94, 0.1), (0.94, 0.9), (0.06, 0.9)):
        on_head = middle_face()[6] + np.array([6.0 * (u - 0.5), 1.0 - 3.0 * (v - 0.5), 2.0])
        column, row = projected(turn @ on_head + np.array(place))
        off = np.abs(at[int(row), int(column)] - (u, v)) * (6.0, 3.0)
        # 6.3 cm lie between the eyes.
        assert off.max() < 0.05 * 6.3 + 6.3 / apart, (angles, u, v)
        assert shown[int(row), int(column)] == 1.0


@pytest.mark.parametrize("angles", [(0.0, 0.0, 0.0), (25.0, 6.0, 0.0), (-30.0, 0.0, 14.0)])
@pytest.mark.parametrize(("turn", "swing"), [(0.0, 0.0), (30.0, -20.0)])
def test_what_hangs_on_a_pin_goes_where_the_hook_on_it_goes(
    angles: tuple[float, float, float], turn: float, swing: float
) -> None:
    """The pendant's middle, by the head's rotation and the lens: the pin's own place, its hook turned with it, and from there
    down on the screen, as it swings."""
    place = (1.0, -2.0, -45.0)
    seen = turned_head(*angles, place)
    how = {
        "which": "nose bridge", "wide": 3.0, "turned": TURNS[2], "turn": swing, "hides": False, "on_right": 1.0, "on_up": 2.0,
        "on_out": 1.5, "on_turn": turn, "hook_right": 4.0, "hook_up": -1.0, "hangs": 2.5,
    }  # fmt: skip
    at, _ = places(seen, **how)
    cos, sin = np.cos(np.radians(turn)), np.sin(np.radians(turn))
    hook = middle_face()[6] + np.array([1.0 + 4.0 * cos - sin, 2.0 - cos - 4.0 * sin, 1.5])
    below = 2.5 * np.array([-np.sin(np.radians(swing)), -np.cos(np.radians(swing)), 0.0])
    column, row = projected(rotation(*angles) @ hook + below + np.array(place))
    apart = seen.faces[0].size * COLUMNS
    off = np.abs(at[int(row), int(column)] - 0.5) * (3.0, 1.5)
    assert off.max() < 0.05 * 6.3 + 6.3 / apart
    # Its handle stands there, too: from where it hangs, 4 cm along the pin's own side and 1 cm down it, without perspective.
    found = pin(asset_picture("sheet"), **how)
    hung = found.middle + found.across * 4.0 + found.down * 1.0
    shown = reference.run(Program((Vec(hung.x, hung.y, 0.0),)), seen, Inputs(pictures=SHEET), State())[0][0, 0, :2]
    assert np.abs(shown * (COLUMNS, ROWS) - (column, row)).max() < 0.1 * apart


def test_a_pin_with_a_pendant_shows_both_on_both_sides() -> None:
    red, green = (np.zeros((20, 20, 4), np.uint8) for _ in range(2))
    red[..., 0], green[..., 1], red[..., 3], green[..., 3] = 255, 255, 255, 255
    values = {
        "picture": "1" * 64, "pendant": "2" * 64, "place": "left cheek", "both": True, "wide": 2.0, "small": 1.0, "hook_up": -1.0,
        "hangs": 1.5, "hides": False,
    }  # fmt: skip
    layer = Layer(id="l", name="l", kind="pin-with-pendant", values=values)
    compiled = compile_effect(
        Effect(name="t", layers=[layer]), Material(pictures={"1" * 64: Still.of(red), "2" * 64: Still.of(green)})
    )
    shown = reference.run(compiled.program.final, turned_head(0.0, 0.0, 0.0), compiled.inputs, State())[0]
    for half in (shown[:, : COLUMNS // 2], shown[:, COLUMNS // 2 :]):
        above, below = (np.argwhere(half[..., n] > 0.8).mean(axis=0) for n in (0, 1))
        assert below[0] > above[0] + 5
        assert abs(below[1] - above[1]) < 3
    assert not (shown.min(axis=2) > 0.1).any()


def test_what_is_flat_stays_upright_and_what_tilts_tilts() -> None:
    """From the directions in which the picture's places grow."""
    seen = turned_head(20.0, 0.0, 30.0)
    for turned, degrees in ((TURNS[2], 0.0), (TURNS[1], 30.0)):
        at, shown = places(seen, which="nose bridge", wide=8.0, turned=turned, hides=False)
        rows, columns = np.nonzero(shown)
        row, column = int(rows.mean()), int(columns.mean())
        right = at[row, column + 3] - at[row, column]
        found = np.degrees(np.arctan2(right[1] * 0.5, right[0]))
        assert found == pytest.approx(degrees, abs=2.5)


def test_a_place_that_turns_away_hides_what_is_pinned_there_and_both_sides_are_mirrored() -> None:
    front, away = turned_head(0.0, 0.0, 0.0), turned_head(80.0, 0.0, 0.0)
    _, seen = places(front, which="left cheek", wide=3.0)
    assert seen.max() > 0.5
    hidden = [places(away, which=which, wide=3.0)[1].max() for which in ("left cheek", "right cheek")]
    assert min(hidden) < 0.05
    at, both = places(front, which="left cheek", wide=3.0, both=True, hides=False)
    left, right = both[:, : COLUMNS // 2], both[:, COLUMNS // 2 :]
    assert (left > 0.5).sum() > 20
    assert (right > 0.5).sum() == pytest.approx((left > 0.5).sum(), rel=0.25)
    # Inwards is the same side of the picture on both.
    for part, inner in ((np.s_[:, : COLUMNS // 2], 1), (np.s_[:, COLUMNS // 2 :], -1)):
        rows, columns = np.nonzero(both[part] > 0.5)
        row, column = int(rows.mean()), int(columns.mean())
        grows = at[part][row, column + 2, 0] - at[part][row, column, 0]
        assert np.sign(grows) == inner


def test_a_ring_before_the_face_shifts_against_it() -> None:
    """Turned by 20 degrees, what is 12 cm before the head's middle moves by 12 cm times the sine, as a lens sees it."""
    middles = []
    for turn in (0.0, 20.0):
        _, shown = places(turned_head(turn, 0.0, 0.0, (0.0, 0.0, -45.0)), which="the head", wide=6.0, out=12.0, hides=False)
        middles.append(np.nonzero(shown)[1].mean())
    between = (middle_face()[234] + middle_face()[454]) / 2
    want = []
    for turn in (0.0, 20.0):
        placed = rotation(turn, 0.0, 0.0) @ np.add(between, (0.0, 0.0, 12.0)) + (0.0, 0.0, -45.0)
        want.append(projected(placed)[0])
    assert middles[1] - middles[0] == pytest.approx(want[1] - want[0], rel=0.12)


# ---- the inside of a box ----


ROOM = Still.of(np.zeros((8, 8, 4), np.float32))


def in_box(where: np.ndarray, eye: Place, vanishing: Place, wall: float, depth: float) -> np.ndarray:
    """Where a square picture is read at places (n, 2) of a square screen."""
    picture = np.zeros((len(where), len(where), 4), np.float32)
    picture[..., :2] = where[:, None]
    at = Vec(near(CAMERA, 0), near(CAMERA, 1))
    read = box_inside(at, asset_picture("room"), Vec(*vanishing), wall, depth, Vec(*eye), 1.0)
    program = Program((Vec(read.x, read.y, 0.0),))
    return reference.run(program, Moment.of(picture), Inputs(pictures={"room": ROOM}), State())[0][:, 0, :2]


def test_rays_of_the_box_are_those_that_trimesh_casts() -> None:
    """Through the frame onto the walls of a box, then as the first camera saw that place."""
    where = np.random.default_rng(3).uniform(0.02, 0.98, (25, 2))
    for eye, vanishing, wall, depth in (
        ((0.7, 0.4), (0.5, 0.45), 0.4, 1.0),
        ((0.3, 0.65), (0.4, 0.55), 0.6, 0.5),
        ((0.5, 0.2), (0.5, 0.5), 0.25, 3.0),
    ):
        lens = depth * wall / (1 - wall)
        box = trimesh.creation.box(bounds=[[0, 0, -1e-6], [1, 1, depth]])
        start = np.array([vanishing[0] + eye[0] - 0.5, vanishing[1] + eye[1] - 0.5, -lens])
        frame = np.column_stack([where, np.full(len(where), 1e-4)])
        ways = frame - start
        hits, ray, _ = box.ray.intersects_location(frame, ways, multiple_hits=False)
        want = np.zeros((len(where), 2))
        point = np.array(vanishing)
        for hit, n in zip(hits, ray, strict=True):
            want[n] = point + (hit[:2] - point) * lens / (lens + hit[2])
        np.testing.assert_allclose(in_box(where, eye, vanishing, wall, depth), want, atol=2e-3)


def test_whatever_is_set_nothing_outside_of_the_picture_is_read() -> None:
    """10,000 settings, many of them beyond every range, each at a place of its own. Straight on, the picture is itself."""
    rng = np.random.default_rng(6)
    side = 100
    ranges = {"eye": (-2, 3), "point": (-1, 2), "room's": (-1, 6)}
    given = {name: rng.uniform(*span, (side, side, 4)).astype(np.float32) for name, span in ranges.items()}
    for one in given.values():
        one[..., 3] = 1.0

    def parts(name: str) -> tuple[Value, ...]:
        return sample(asset_picture(name), here(), smooth=False).parts()

    (eye_x, eye_y, wall, _), (point_x, point_y, far, _), (depth, scale, _, _) = (parts(name) for name in given)
    place = here()
    wild = box_inside(place, asset_picture("room"), Vec(point_x, point_y), wall, depth + far, Vec(eye_x, eye_y), scale)
    still = box_inside(place, asset_picture("room"), Vec(point_x, point_y), wall, depth, Vec(0.5, 0.5), 1.0)
    program = Program((Vec(wild.x, wild.y, 0.0), Vec(still.x, still.y, 0.0)))
    inputs = Inputs(pictures={**{name: Still.of(one) for name, one in given.items()}, "room": ROOM})
    seen = Moment.of(np.zeros((side, side, 4), np.float32))
    read, itself = (picture[..., :2] for picture in reference.run(program, seen, inputs, State()))
    assert read.min() >= 0
    assert read.max() <= 1
    down, across = (np.indices((side, side)) + 0.5) / side
    np.testing.assert_allclose(itself, np.stack([across, down], axis=2), atol=1e-4)


# ---- clean edges ----


@pytest.mark.parametrize("who", ["lamp-tender", "beekeeper", "stilt-walker"])
def test_an_old_light_wall_is_taken_out_of_the_edge(who: str) -> None:
    """A person with true colours before a white wall, then before a dark one. In the soft edge the colour is at most half as
    wrong as by plain mixing."""
    camera = StandIn(COLUMNS, ROWS, Sitting(who, "still", "noon"))
    words = camera.frame(0)
    bare = colours(words, COLUMNS).astype(np.float32) / 255
    person = (words.view(np.uint8).reshape(ROWS, -1, 4)[:, :COLUMNS, 3] > 200).astype(np.uint8)
    inner = cv2.erode(person, np.ones((5, 5), np.uint8))
    # The person's own colours, also beyond its edge.
    own = cv2.inpaint(np.rint(bare * 255).astype(np.uint8), 1 - inner, 3, cv2.INPAINT_TELEA).astype(np.float32) / 255
    alpha = cv2.GaussianBlur(inner.astype(np.float32), (0, 0), 2.0)[..., None]
    before = own * alpha + 0.95 * (1 - alpha)
    truth = own * alpha + 0.08 * (1 - alpha)
    plain = before * alpha + 0.08 * (1 - alpha)
    seen = replace(Moment.of(np.dstack([before, alpha]).astype(np.float32)))
    layer = behind(Vec(0.08, 0.08, 0.08, 1.0), CAMERA, near(CAMERA, 3), "clean", 1.0, 9.0, 0.0, 14.0)
    below = colour_here(CAMERA)
    program = Program((Vec(*(b + (c - b) * layer.a for b, c in zip(below.parts()[:3], layer.parts()[:3], strict=True))),))
    clean = reference.run(program, seen, Inputs(), State())[0]
    band = ((alpha > 0.05) & (alpha < 0.95))[..., 0]
    # The multi-level estimate of Germer et al. (2020), which looks at the whole picture over and over.
    reference_own = estimate_foreground_ml(before.astype(np.float64), alpha[..., 0].astype(np.float64))
    germer = reference_own * alpha + 0.08 * (1 - alpha)
    wrong = [np.abs(one - truth)[band].mean() for one in (plain, clean, germer)]
    assert wrong[1] < 0.5 * wrong[0]
    assert wrong[0] - wrong[1] > 0.8 * (wrong[0] - wrong[2])
    sure = alpha[..., 0] == 1.0
    np.testing.assert_allclose(clean[sure], before[sure], atol=1e-5)
    outside = alpha[..., 0] == 0.0
    np.testing.assert_allclose(clean[outside], 0.08, atol=1e-5)


@pytest.mark.parametrize("how", ["grey", "see-through"])
def test_any_kind_of_picture_may_be_behind_and_its_light_goes_round(how: str) -> None:
    """One of a single channel, and one that is see-through: light of the backdrop's own colour, the same by machine code."""
    half = near(CAMERA, 0) * 0.1 + 0.5
    behind_it = computed([half]) if how == "grey" else picture_of(Vec(half, half, half, 0.25))
    layer = behind(colour_here(behind_it), CAMERA, near(CAMERA, 3), "clean", 0.0, 9.0, 1.0, 14.0)
    program = Program((Vec(*layer.parts()[:3]), Vec(layer.a, 0.0, 0.0)))
    alpha = np.zeros((ROWS, COLUMNS), np.float32)
    alpha[:, COLUMNS // 2 :] = 1.0
    seen = Moment.of(np.dstack([np.zeros((ROWS, COLUMNS, 3), np.float32), alpha]))
    colour, opacity = (reference.run(program, seen, Inputs(), State())[n] for n in (0, 1))
    # Black that the light lies on, just inside of the edge.
    beside = (slice(None), COLUMNS // 2 + 2)
    assert opacity[beside][:, 0].min() > 0.9
    np.testing.assert_allclose(colour[beside], np.broadcast_to(colour[beside][:1], colour[beside].shape), atol=1e-3)
    assert 0.1 < colour[beside].mean() < 0.35
    by_code = run(program, seen, Inputs())
    np.testing.assert_allclose(by_code[0], colour, atol=2e-3)


def test_depth_of_field_leaves_the_person_sharp_and_takes_nothing_of_it_into_the_backdrop() -> None:
    """Before a wall of one colour, the wall stays that colour however wide the blur; the person stays to the bit. A checkered
    wall evens out, more where it is far."""
    down, across = np.indices((240, 160))
    alpha = np.clip(60.5 - np.hypot(across - 80, down - 120), 0, 1).astype(np.float32)
    noise = np.random.default_rng(4).random((240, 160, 3), np.float32)
    inside, outside = alpha == 1, alpha == 0
    for wall in (np.full((240, 160, 3), (0.2, 0.5, 0.8), np.float32), ((across // 4 + down // 4) % 2)[..., None].repeat(3, 2)):
        picture = np.where(alpha[..., None] > 0.5, noise, wall).astype(np.float32)
        shown = laid("depth-of-field", Moment.of(np.dstack([picture, alpha])), far=60.0, near=4.0)
        np.testing.assert_allclose(shown[inside], picture[inside], atol=1e-6)
        if wall.std() < 0.3:
            np.testing.assert_allclose(shown[outside], wall[outside], atol=2e-3)
        else:
            spread = [shown[part][outside[part]].std() for part in (np.s_[:40], np.s_[-40:])]
            assert spread[0] < 0.5 * spread[1] < 0.5
