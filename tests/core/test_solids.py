"""Meshes on the head: where they stand against OpenCV's projection and against pins, what the head hides, light, two people."""

from __future__ import annotations

import io
import json
import math
import zipfile
from dataclasses import replace
from typing import Any

import cv2
import numpy as np
import pytest
import trimesh

from sunglaze.core.camera.cast import PEOPLE, Sitting, StandIn
from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.errors import BadEffect
from sunglaze.core.face.head import axes, head_mesh
from sunglaze.core.face.model import middle_face
from sunglaze.core.face.pose import head_pose, rotation, usual_focal
from sunglaze.core.material.mesh import MeshData
from sunglaze.core.material.models import read_model
from sunglaze.core.material.still import Still
from sunglaze.core.moment.moment import Moment, Reads
from sunglaze.core.package.archive import read_package, write_package
from sunglaze.core.passes.program import State
from sunglaze.core.review.everybody import everybody
from sunglaze.core.targets import numpy as reference
from tests import engines
from tests.core.test_pins_and_depth import projected, turned_head
from tests.solids import moving

KEY = "a" * 64
SIZE = (540, 960)


def turns(matrix: np.ndarray) -> tuple[float, float, float]:
    """How far a small turn (3, 3) nods, turns and tilts, degrees."""
    nod, turn, tilt = matrix[1, 2] - matrix[2, 1], matrix[2, 0] - matrix[0, 2], matrix[0, 1] - matrix[1, 0]
    return math.degrees(nod / 2), math.degrees(turn / 2), math.degrees(tilt / 2)


def ball(radius: float = 1.0) -> MeshData:
    made = trimesh.creation.icosphere(subdivisions=3, radius=radius)
    vertices = np.array(made.vertices)
    green = np.tile((0.0, 1.0, 0.0), (len(vertices), 1))
    return MeshData(vertices, np.zeros((len(vertices), 2)), np.array(made.faces, np.int64), vertices / radius, green)


def ring(radius: float, thick: float) -> MeshData:
    made = trimesh.creation.torus(radius, thick, major_sections=64, minor_sections=12)
    vertices = np.array(made.vertices)[:, [0, 2, 1]]
    green = np.tile((0.0, 1.0, 0.0), (len(vertices), 1))
    return MeshData(vertices, np.zeros((len(vertices), 2)), np.array(made.faces[:, ::-1], np.int64), None, green)


def seen(mesh: MeshData, sitting: Sitting, frame: int, **values: Any) -> np.ndarray:
    """What a mesh shows, without light, (rows, columns) of where it is green."""
    layer = Layer(id="l", name="l", kind="mesh", values={"mesh": {"asset": KEY}, "unlit": 1.0, **values})
    compiled = compile_effect(Effect(name="t", layers=[layer]), Material(meshes={KEY: mesh}))
    shown = engines.shown(compiled, StandIn(*SIZE, sitting), frame).astype(int)
    return (shown[..., 1] > 200) & (shown[..., 0] < 60) & (shown[..., 2] < 60)


@pytest.mark.parametrize("angles", [(0.0, 0.0, 0.0), (28.0, 6.0, 0.0), (-35.0, -8.0, 12.0), (10.0, 15.0, -25.0)])
def test_a_ball_stands_where_opencv_projects_it(angles: tuple[float, float, float]) -> None:
    """A ball before, beside and above the head, of a middle face that is turned so, near the edge of the picture, too: within a
    pixel and a half of 270."""
    for place in ((1.0, -2.0, -45.0), (-9.0, 14.0, -52.0)):
        moment = turned_head(*angles, place)
        for right, up, out in ((0.0, 0.0, 12.0), (9.0, 2.0, 0.0), (-4.0, 11.0, 3.0)):
            layer = Layer(id="l", name="l", kind="mesh", values={
                "mesh": {"asset": KEY}, "unlit": 1.0, "wide": 1.6, "right": right, "up": up, "out": out, "hides": False,
            })  # fmt: skip
            compiled = compile_effect(Effect(name="t", layers=[layer]), Material(meshes={KEY: ball()}))
            shown = reference.run(compiled.program.final, moment, compiled.inputs, State())[0]
            between = (middle_face()[234] + middle_face()[454]) / 2
            at = rotation(*angles) @ np.add(between, (right, up, out)) + place
            want = projected(at)
            rows, columns = np.nonzero(shown[..., 1] > 0.8)
            assert np.hypot(columns.mean() + 0.5 - want[0], rows.mean() + 0.5 - want[1]) < 1.5, (place, right, up, out)


@pytest.mark.parametrize("who", PEOPLE)
def test_the_head_of_everybody_is_turned_as_pnp_says(who: str) -> None:
    """OpenCV's PnP on the steady points. Nodding is told by how a forehead slopes, which differs from person to person."""
    camera = StandIn(*SIZE, Sitting(who))
    off = []
    for frame in range(0, 200, 40):
        face = camera.moment(frame, Reads(faces=True)).faces[0]
        assert face is not None
        points = face.points * (*SIZE, SIZE[0])
        spread = 1 + points[:, 2:] / usual_focal(*SIZE)
        lifted = np.concatenate([(points[:, :2] - np.array(SIZE) / 2) * spread, points[:, 2:]], axis=1) * (1, -1, -1)
        pose = head_pose(points[:, :2], *SIZE)
        off.append(turns(axes(lifted) @ pose.turn))
    nod, turn, tilt = np.abs(np.mean(off, axis=0))
    assert nod < 7.0
    assert turn < 2.0
    assert tilt < 2.0


def test_the_other_side_has_the_same_in_a_looking_glass() -> None:
    """A straight face, and a corner that points to one side: with both sides the picture is its own mirror image, as numpy.flip
    makes it; the right half is what it is alone."""
    moment = turned_head(0.0, 0.0, 0.0, (0.0, 0.0, -45.0))
    corner = trimesh.Trimesh(
        [[0, 0, 0], [3, 0, 0], [0, 1, 0], [0, 0, 0.5]], [[0, 1, 2], [0, 3, 1], [0, 2, 3], [1, 3, 2]], process=False
    )
    mesh = read_model("corner.glb", corner.export(file_type="glb")).mesh

    def drawn(**values: Any) -> np.ndarray:
        turned = {"turn": 35.0, "nod": 12.0, "tilt": -20.0, "right": 2.0, "up": -1.0, "middle": False}
        set_to = {"mesh": {"asset": KEY}, "place": "right cheek", "wide": 6.0, "hides": False, "unlit": 1.0, **turned, **values}
        layer = Layer(id="l", name="l", kind="mesh", values=set_to)
        compiled = compile_effect(Effect(name="t", layers=[layer]), Material(meshes={KEY: mesh}))
        return reference.run(compiled.program.final, moment, compiled.inputs, State())[0]

    one, both = drawn(), drawn(both=True)
    middle = one.shape[1] // 2
    assert (one[:, middle:] > 0.5).sum() > 200
    assert not (one[:, :middle] > 0.5).any()
    np.testing.assert_array_equal(both[:, middle:], one[:, middle:])
    assert (np.abs(both - np.flip(both, axis=1)).max(axis=2) > 0.02).mean() < 0.001


def test_it_stands_where_a_pin_of_the_same_place_stands() -> None:
    sitting = Sitting("ferry-pilot")
    green = np.zeros((64, 64, 4), np.uint8)
    cv2.circle(green, (32, 32), 31, (0, 255, 0, 255), -1)
    values = {"place": "left cheek", "right": 1.0, "up": -1.5, "out": 2.0, "wide": 2.0}
    pin = Layer(id="l", name="l", kind="pin", values={"picture": KEY, "turned": "flat to the screen", **values})
    compiled = compile_effect(Effect(name="t", layers=[pin]), Material(pictures={KEY: Still.of(green)}))
    shown = engines.shown(compiled, StandIn(*SIZE, sitting), 40).astype(int)
    wanted = np.argwhere((shown[..., 1] > 200) & (shown[..., 0] < 60)).mean(axis=0)
    found = np.argwhere(seen(ball(), sitting, 40, turned="flat to the screen", **values))
    assert np.abs(found.mean(axis=0) - wanted).max() < 0.6
    assert len(found) == pytest.approx(((shown[..., 1] > 200) & (shown[..., 0] < 60)).sum(), rel=0.08)


def test_the_head_hides_what_is_behind_it() -> None:
    """Of a level ring about the head the far half goes where the head's mask is, and nothing of the near half does."""
    sitting = Sitting("oyster-cook")
    values = {"wide": 30.0, "up": 3.0, "nod": 18.0}
    whole, hidden = (seen(ring(10.0, 0.8), sitting, 30, hides=hides, **values) for hides in (False, True))
    gone = whole & ~hidden
    assert not (hidden & ~whole).any()
    camera = StandIn(*SIZE, sitting)
    head = camera.moment(30, Reads(True, ("head",), True)).regions["head"][..., 0] > 0.5
    assert gone.sum() > 400
    assert (gone & head).sum() > 0.8 * gone.sum(), "what is hidden lies on the head"
    near = whole & ~gone & head
    assert near.sum() > 400, "the half before the face is seen"
    # The near half lies lower: the ring is nodded towards the lens.
    assert np.argwhere(near)[:, 0].mean() != pytest.approx(np.argwhere(gone)[:, 0].mean(), abs=10)


def test_light_comes_from_its_side_and_the_sky_from_above() -> None:
    def shaded(**values: Any) -> np.ndarray:
        layer = Layer(id="l", name="l", kind="mesh", values={"mesh": {"asset": KEY}, "wide": 12.0, "out": 14.0, **values})
        compiled = compile_effect(Effect(name="t", layers=[layer]), Material(meshes={KEY: ball()}))
        return engines.shown(compiled, StandIn(*SIZE, Sitting("lamp-tender")), 0).astype(float)[..., 1]

    inside = seen(ball(), Sitting("lamp-tender"), 0, wide=12.0, out=14.0)
    rows, columns = np.nonzero(inside)
    middle, level = columns.mean(), rows.mean()
    side = shaded(from_right=90.0, from_above=0.0, sky=0.2)
    assert side[rows[columns > middle + 20], columns[columns > middle + 20]].mean() > 1.5 * (
        side[rows[columns < middle - 20], columns[columns < middle - 20]].mean()
    )
    above = shaded(sky=1.0)
    assert above[rows[rows < level - 20], columns[rows < level - 20]].mean() > (
        1.05 * above[rows[rows > level + 20], columns[rows > level + 20]].mean()
    )
    flat = shaded(unlit=1.0)
    assert np.median(flat[inside]) == 255


def test_everybody_wears_one_and_nobody_where_there_is_no_face() -> None:
    two = Sitting("ferry-pilot", "two")
    count = cv2.connectedComponents(seen(ball(), two, 60, wide=4.0, up=13.0).astype(np.uint8))[0] - 1
    assert count == 2
    only = cv2.connectedComponents(seen(ball(), two, 60, wide=4.0, up=13.0, who="second").astype(np.uint8))[0] - 1
    assert only == 1
    empty = replace(turned_head(0.0, 0.0, 0.0), faces=())
    layer = Layer(id="l", name="l", kind="mesh", values={"mesh": {"asset": KEY}, "wide": 4.0})
    compiled = compile_effect(Effect(name="t", layers=[layer]), Material(meshes={KEY: ball()}))
    assert not reference.run(compiled.program.final, empty, compiled.inputs, State())[0].any()


def test_a_motion_moves_it_by_its_name_and_speed() -> None:
    mesh = read_model("bob.glb", moving()).mesh
    shown = {}
    for name, how in (("still", {"motion": None}), ("bob", {"motion": "bob"}), ("twice", {"motion": "bob", "speed": 2.0})):
        layer = Layer(id="l", name="l", kind="mesh", values={"mesh": {"asset": KEY, **how}, "up": 12.0, "wide": 15.0})
        compiled = compile_effect(Effect(name="t", layers=[layer]), Material(meshes={KEY: mesh}))
        shown[name] = [engines.shown(compiled, StandIn(180, 320), n).astype(int) for n in (10, 20)]
    assert np.abs(shown["still"][0] - shown["bob"][0]).max() > 60
    # What twice the speed shows at a time, once the speed shows at twice the time, on another turn of the head.
    assert np.abs(shown["twice"][0] - shown["bob"][0]).max() > 60


def test_a_package_carries_its_mesh_and_opens_again() -> None:
    mesh = read_model("bob.glb", moving()).mesh
    layer = Layer(id="l", name="l", kind="mesh", values={"mesh": {"asset": KEY, "motion": "bob", "speed": 1.0}})
    effect = Effect(name="Bob", layers=[layer])
    assert effect.assets() == {KEY}
    data = write_package(effect, Material(meshes={KEY: mesh}))
    assert data == write_package(effect, Material(meshes={KEY: mesh}))
    archive = zipfile.ZipFile(io.BytesIO(data))
    program = json.loads(archive.read("program.json"))
    assert program["models"] == {KEY: f"meshes/{KEY[:16]}.glb"}
    assert f"meshes/{KEY[:16]}.glb" in archive.namelist()
    opened, material = read_package(data)
    assert opened.layers[0].values["mesh"] == {"asset": KEY, "motion": "bob", "speed": 1.0}
    np.testing.assert_allclose(material.meshes[KEY].vertices, mesh.vertices, atol=1e-5)


@pytest.mark.parametrize(("plain", "words"), [
    ({"asset": "no"}, "64 hexadecimal digits"),
    ("a" * 64, "a mesh is set as"),
    ({"asset": KEY, "motion": 3}, "its motion's name"),
    ({"asset": KEY, "speed": 99}, "-20 to 20 times its speed"),
])  # fmt: skip
def test_what_is_no_mesh_is_refused(plain: Any, words: str) -> None:
    effect = Effect(name="t", layers=[Layer(id="l", name="l", kind="mesh")])
    effect.layers[0].values["mesh"] = plain
    with pytest.raises((BadEffect, ValueError), match=words):
        compile_effect(Effect.model_validate(effect.model_dump()), Material())


def test_the_head_is_one_closed_solid_in_front_of_which_the_face_lies() -> None:
    solid = head_mesh()
    assert np.ptp(solid.vertices[:, 0]) == pytest.approx(15.3, abs=0.6)
    face = solid.vertices[:468]
    assert face[4, 2] > 9, "the nose tip is before the ears"
    turned = axes(middle_face() @ rotation(30.0, -10.0, 5.0).T)
    np.testing.assert_allclose(turned @ turned.T, np.eye(3), atol=1e-9)


def test_everybody_is_shown_with_what_is_above_the_head() -> None:
    """A layer of the face itself is shown close, one that is worn above it with what lies about the face."""
    worn = {"mesh": {"asset": KEY}, "unlit": 1.0, "wide": 7.0, "up": 15.0}
    hats = everybody(Layer(id="l", name="l", kind="mesh", values=worn), Material(meshes={KEY: ball()}), "noon")
    lips = everybody(Layer(id="l", name="l", kind="make-up", values={"lips": 1.0}), Material(), "noon")
    assert [one.who for one in hats] == list(PEOPLE)
    for hat, close in zip(hats, lips, strict=True):
        green = (hat.after[..., 1] > 200) & (hat.after[..., 0] < 90) & (hat.after[..., 2] < 90)
        assert green.sum() > 150
        assert np.argwhere(green)[:, 0].mean() < 60, "above the middle"
        assert not np.array_equal(hat.before, close.before)


def test_one_head_hides_what_another_wears() -> None:
    """A big ball on somebody far, of which the head of somebody near covers a part; whose own ball is small and elsewhere."""
    near, far = turned_head(0.0, 0.0, 0.0, (0.0, 4.0, -45.0)), turned_head(0.0, 0.0, 0.0, (9.0, 2.0, -75.0))
    both = replace(near, faces=(near.faces[0], far.faces[0]))

    def green(moment: Moment, who: str, hides: bool) -> np.ndarray:
        values = {"mesh": {"asset": KEY}, "unlit": 1.0, "wide": 9.0, "up": 17.0, "hides": hides, "who": who}
        compiled = compile_effect(
            Effect(name="t", layers=[Layer(id="l", name="l", kind="mesh", values=values)]), Material(meshes={KEY: ball()})
        )
        return np.asarray(reference.run(compiled.program.final, moment, compiled.inputs, State())[0][..., 1] > 0.8)

    alone = green(replace(far, faces=(far.faces[0],)), "first", True)
    shown, through = green(both, "everybody", True), green(both, "everybody", False)
    assert (through & alone).sum() == alone.sum()
    gone = alone & ~shown
    assert 0.2 * alone.sum() < gone.sum() < alone.sum()
