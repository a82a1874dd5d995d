"""What effects know of faces and fingers: nodes against the moment itself, a drive against the closed form of its lag."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest

from sunglaze.core.camera.cast import Sitting, StandIn
from sunglaze.core.effect.compiling import driven_numbers
from sunglaze.core.effect.document import Layer
from sunglaze.core.effect.literals import Known
from sunglaze.core.effect.motions import Drive
from sunglaze.core.face.model import SKIN_POINTS, middle_face, turned_over
from sunglaze.core.face.pose import STEADY
from sunglaze.core.language.pictures import CAMERA, colour_here
from sunglaze.core.language.vector import Vec
from sunglaze.core.moment.moment import Clock, Face, Moment, Reads, Screen, Touch
from sunglaze.core.nodes.face import MEASURES, PLACES, face, face_measure, face_point, touch
from sunglaze.core.nodes.node import Scene, in_scene
from sunglaze.core.passes.signals import SignalProgram


def seen(who: str = "lamp-tender", script: str = "talk", frame: int = 20) -> Moment:
    return StandIn(540, 960, Sitting(who, script)).moment(frame, Reads(False, (), True))


def numbers(symbols: list[object], moments: list[Moment]) -> list[list[float]]:
    flat = [part for one in symbols for part in (one.parts() if isinstance(one, Vec) else [one])]
    program, cells, found = SignalProgram(flat), {}, []
    for one in moments:
        found.append([float(value) for value in program.run(one, {}, cells, 0)])
    return found


def test_the_face_is_what_the_moment_says() -> None:
    here = seen()
    first = here.faces[0]
    with in_scene(Scene(colour_here(CAMERA), path="t")):
        [got] = numbers(list(face("first")), [here])
        [none] = numbers(list(face("second")), [here])
    want = [
        1,
        *first.place,
        first.size,
        *first.degrees,
        -first.centimetres[2],
        first.mouth,
        *first.blinks,
        first.smile,
        first.brows,
    ]
    # It came in this frame, and never went.
    np.testing.assert_allclose(got, [*want, 0.0, 600.0], atol=1e-9)
    assert first.centimetres[2] < 0
    assert none == [0.0] * len(want) + [600.0, 0.0]


@pytest.mark.parametrize("which", MEASURES)
def test_every_measure_is_one_number_of_it(which: str) -> None:
    moments = [seen("oyster-cook", "mouth", frame) for frame in (0, 12, 24)]
    rows = numbers(list(face_measure(which, "first")), moments)
    values = [row[0] for row in rows]
    assert all(0 <= row[1] <= 1 for row in rows)
    assert all(math.isfinite(value) for value in values)
    if which == "mouth open":
        assert max(values) - min(values) > 0.05
    if which == "distance":
        assert all(20 < value < 120 for value in values)
    if which == "there":
        assert values == [1.0] * 3


def test_named_points_lie_where_their_names_say() -> None:
    here = seen("beekeeper", "still", 0)
    at = {name: np.array(numbers([face_point(name, "first").place], [here])[0]) for name in PLACES}
    assert at["chin"][1] > at["lower lip"][1] > at["upper lip"][1] > at["nose tip"][1] > at["nose bridge"][1]
    assert at["top of the forehead"][1] < at["between the brows"][1] < at["nose bridge"][1]
    for name in PLACES:
        if name.startswith("left "):
            assert at[name][0] < at["nose bridge"][0] < at[name.replace("left ", "right ")][0], name
    # What stands for the left is what the tracker has there when the picture is turned over.
    over = turned_over()
    pairs = [name for name in PLACES if name.startswith("left ")]
    same = [name for name in pairs if over[PLACES[name]] == PLACES[name.replace("left ", "right ")]]
    assert len(same) == len(pairs), set(pairs) - set(same)


def test_a_control_follows_the_mouth_within_its_seconds() -> None:
    """A step of the mouth: the share that is left falls by e in so many seconds (first-order lag)."""
    drive = Drive(
        kind="face-measure",
        values={"low": 10.0, "high": 30.0, "which": "mouth open", "who": "first", "least": 0.125, "most": 0.625, "seconds": 0.4},
    )
    layer = Layer(id="b", name="b", kind="blur", drives={"amount": drive})
    symbols = list(driven_numbers(layer, Known()).values())
    still = seen().faces[0]

    def at(frame: int, mouth: float) -> Moment:
        faces: tuple[Face, ...] = (replace(still, mouth=mouth),)
        return Moment(Clock.at(frame), Screen(), faces=faces)

    uniforms = {f"b.drive:amount:{name}": float(value) for name, value in drive.values.items() if isinstance(value, float)}
    uniforms["b.drive:amount:clamped"] = 1.0
    program, cells = SignalProgram(symbols), {}
    got = [float(program.run(at(n, 0.1 if n == 0 else 0.5), uniforms, cells, 0)[0]) for n in range(40)]
    assert got[0] == pytest.approx(10.0)
    for n in (1, 6, 12, 24, 39):
        assert got[n] == pytest.approx(30.0 - 20.0 * math.exp(-n / 30 / 0.4), abs=0.02)
    # Beyond its range it is held there.
    assert float(program.run(at(500, 4.0), uniforms, {}, 0)[0]) == pytest.approx(30.0)


def test_a_finger_is_known() -> None:
    moments = [Moment(Clock.at(n), touch=Touch(down=5 <= n < 8, u=0.25, v=0.75, taps=int(n >= 5))) for n in range(12)]
    with in_scene(Scene(colour_here(CAMERA), path="t")):
        rows = numbers(list(touch()), moments)
    assert [row[0] for row in rows] == [0.0] * 5 + [1.0] * 3 + [0.0] * 4
    assert rows[3][1:3] == [0.25, 0.75]
    assert [round(row[3] * 30) for row in rows[5:10]] == [0, 1, 2, 3, 4]
    assert rows[-1][4] == 1


def test_the_pages_steady_points_are_the_middle_faces() -> None:
    """What pages find a head's pose by (shapes.json) are points of the model that Python uses."""
    import json
    from pathlib import Path

    steady = json.loads(Path("sunglaze/core/face/shapes.json").read_text())["steady"]
    assert set(steady["points"]) <= set(STEADY) & set(range(SKIN_POINTS))
    np.testing.assert_allclose(steady["places"], middle_face()[steady["points"]], atol=1e-3)
