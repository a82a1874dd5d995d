"""Moments and rehearsals: what an effect can know of a frame, written, read, and played again."""

from __future__ import annotations

import json
from dataclasses import replace

import numpy as np
import pytest

from sunglaze.core.camera.cast import Sitting, StandIn
from sunglaze.core.camera.truth import heads
from sunglaze.core.engine.playback import Playback, play_to
from sunglaze.core.errors import BadFile, GlazeError
from sunglaze.core.language.expression import advance, leaf
from sunglaze.core.language.moments import FACE, kind_of, moment
from sunglaze.core.language.vector import Vec, number, to_float
from sunglaze.core.moment.moment import Clock, Face, Moment, Reads, Screen, Touch, getter, read_moment, write_moment
from sunglaze.core.moment.rehearsal import Finger, Rehearsal, Rehearsed, Step, read_rehearsal, write_rehearsal
from sunglaze.core.passes.program import Inputs, Program
from sunglaze.core.passes.signals import SignalProgram


def a_face(seed: int) -> Face:
    rng = np.random.default_rng(seed)
    a, b, c, d = rng.random(4)
    return Face(
        rng.random((478, 3)), rng.random(478) < 0.2, (a, b), c, (d, a, -40.0), (3.0, -4.0, 5.5), 0.25, (0.0, b)
    )  # fmt: skip


def a_moment() -> Moment:
    rng = np.random.default_rng(1)
    return Moment(
        Clock(17, 17 / 30, 1 / 30, 4),
        Screen(9, 16, "back"),
        Touch(True, 0.25, 0.75, 3),
        ("drum",),
        {"brightness": 0.125},
        (a_face(2), a_face(3)),
        rng.integers(0, 256, (16, 9, 4), np.uint8),
        {"lips": rng.integers(0, 256, (16, 9, 1), np.uint8)},
    )


def test_a_moment_is_the_same_after_writing_and_reading() -> None:
    before = a_moment()
    after = read_moment(json.loads(json.dumps(write_moment(before))))
    assert (after.clock, after.screen, after.touch, after.cues) == (before.clock, before.screen, before.touch, before.cues)
    assert after.dials == before.dials
    np.testing.assert_array_equal(after.picture, before.picture)
    np.testing.assert_array_equal(after.regions["lips"], before.regions["lips"])
    for one, other in zip(after.faces, before.faces, strict=True):
        np.testing.assert_array_equal(one.points, other.points)
        np.testing.assert_array_equal(one.hidden, other.hidden)
        assert (one.place, one.size, one.centimetres, one.degrees) == (other.place, other.size, other.centimetres, other.degrees)
    floats = replace(before, picture=np.random.default_rng(5).normal(size=(16, 9, 3)).astype(np.float32))
    np.testing.assert_array_equal(read_moment(write_moment(floats)).picture, floats.picture)


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"screen": {"columns": 0}}, "screen.columns"),
        ({"faces": [{"points": {"kind": "float64", "shape": [2], "data": "AA=="}}]}, "faces.0.points"),
        ({"picture": {"kind": "object", "shape": [1], "data": ""}}, "picture"),
        ({"weather": "rain"}, "weather"),
    ],
)
def test_what_is_no_moment_is_refused_with_its_place(change: dict[str, object], words: str) -> None:
    with pytest.raises(GlazeError, match=words):
        read_moment({**write_moment(Moment()), **change})


def test_every_number_that_a_program_may_read_is_that_of_the_moment() -> None:
    seen = a_moment()
    face = seen.faces[1]
    wanted = {
        "time": 17 / 30, "frame": 17, "delta": 1 / 30, "seed": 4, "width": 9, "height": 16, "back": True,
        "touch.down": True, "touch.u": 0.25, "touch.v": 0.75, "touch.taps": 3, "cue:drum": True, "cue:bell": False,
        "dial:brightness": 0.125, "dial:none": 0.0, "face:1.seen": True, "face:1.u": face.place[0], "face:1.v": face.place[1],
        "face:1.size": face.size,
        "face:1.x": face.centimetres[0], "face:1.y": face.centimetres[1], "face:1.z": -40.0,
        "face:1.turn": 3.0, "face:1.nod": -4.0, "face:1.tilt": 5.5,
        "face:1.mouth": 0.25, "face:1.left blink": 0.0, "face:1.right blink": face.blinks[1],
        "face:1.point:477.z": face.points[477, 2], "face:0.point:0.u": seen.faces[0].points[0, 0],
    }  # fmt: skip
    assert {name: getter(name)(seen) for name in wanted} == wanted
    alone = replace(seen, faces=())
    assert not any(getter(f"face:0.{name}")(alone) for name in FACE)
    assert getter("face:1.point:5.v")(alone) == 0.0
    # What nobody has measured is a face at rest.
    assert (face.smile, face.brows) == (0.0, 0.0)
    for name in ("face:2.u", "face:0.point:478.u", "face:0.nose", "dial:", "luck"):
        with pytest.raises(KeyError):
            kind_of(name)


TAPPED = Rehearsal(
    seed=3,
    steps=(
        Step(frame=2, touch=Finger(down=True, u=0.1, v=0.2), dials={"size": 0.5}),
        Step(frame=4, touch=Finger(down=False, u=0.3, v=0.2), cues=("bell",)),
        Step(frame=5, touch=Finger(down=True)),
    ),
)


def test_a_rehearsal_holds_touch_and_dials_and_gives_cues_once() -> None:
    at = [TAPPED.at(Moment(Clock.at(n))) for n in range(7)]
    assert [m.touch.down for m in at] == [False, False, True, True, False, True, True]
    assert [m.touch.taps for m in at] == [0, 0, 1, 1, 1, 2, 2]
    assert at[3].touch == Touch(True, 0.1, 0.2, 1)
    assert [m.cues for m in at] == [(), (), (), (), ("bell",), (), ()]
    assert [m.dials for m in at] == [{}, {}, *[{"size": 0.5}] * 5]
    assert {m.clock.seed for m in at} == {3}
    assert read_rehearsal(write_rehearsal(TAPPED)) == TAPPED


@pytest.mark.parametrize(
    ("data", "words"),
    [
        ("{", "not JSON"),
        ("{}", "no rehearsal"),
        ('{"format": "sun-glaze/rehearsal", "version": 3}', "version 3"),
        ('{"format": "sun-glaze/rehearsal", "steps": [{"frame": 4}, {"frame": 4}]}', "frame 4"),
        ('{"format": "sun-glaze/rehearsal", "steps": [{"frame": 1, "touch": {"down": true, "u": 2}}]}', "steps.0.touch.u"),
    ],
)
def test_what_is_no_rehearsal_is_refused_with_its_place(data: str, words: str) -> None:
    with pytest.raises(BadFile, match=words):
        read_rehearsal(data)


def tapped_program() -> Program:
    """Counts the frames in which a finger is down, as red; where it is, as green; taps and the seed's parity, as blue."""
    down = advance("down", 0.0, leaf("cell", "down", 0.0) + number(moment("touch.down")))
    return Program((Vec(down * 0.1, moment("touch.u"), to_float(moment("touch.taps")) * 0.2 + to_float(moment("seed")) * 0.01),))


def test_frames_that_nobody_saw_have_the_moments_that_they_had() -> None:
    """The finger was down in frames 2, 3, 5 and 6: as many are counted when frame 6 alone is drawn."""
    source = Rehearsed(StandIn(90, 160), TAPPED)
    program = tapped_program()
    words = Playback().at(program, Inputs(seed=4), source, source.moment(6, Reads()))
    red, green, blue = (int(words[0, 0] >> shift) & 255 for shift in (16, 8, 0))
    assert (red, green, blue) == (round(0.4 * 255), round(0.5 * 255), round((0.4 + 0.07) * 255))


def test_a_run_is_played_again_exactly() -> None:
    program = tapped_program()
    camera = StandIn(90, 160)
    first = play_to(program, Inputs(), Rehearsed(camera, TAPPED), 6)
    again = play_to(program, Inputs(), Rehearsed(camera, read_rehearsal(write_rehearsal(TAPPED))), 6)
    np.testing.assert_array_equal(first, again)
    assert not np.array_equal(first, play_to(program, Inputs(), camera, 6))


def test_the_effects_seed_and_that_of_the_run_add_up_within_32_bits() -> None:
    program = SignalProgram([moment("seed")])
    assert program.run(Moment(Clock(seed=5)), {}, {}, 7) == [12]
    assert program.run(Moment(Clock(seed=2**31 - 1)), {}, {}, 1) == [-(2**31)]


def test_the_stand_ins_faces_are_the_truth_of_its_heads() -> None:
    camera = StandIn(540, 960, Sitting("beekeeper", "two"))
    seen = camera.moment(60, Reads(picture=False, faces=True))
    assert seen.picture is None
    far, near = heads(camera, 60)
    assert len(seen.faces) == 2
    for face, head in zip(seen.faces, (near, far), strict=True):
        np.testing.assert_allclose(face.points[:, :2] * (540, 960), head.points)
        np.testing.assert_array_equal(face.hidden, ~head.visible)
        assert face.centimetres == pytest.approx(tuple(head.place))
    # The nose is nearer than the cheeks; both are within some centimetres of the head's middle.
    assert seen.faces[0].points[4, 2] < seen.faces[0].points[234, 2]
    assert camera.moment(60, Reads()).faces == ()


def test_each_number_of_a_face_is_read_from_its_own_place() -> None:
    """By hand: every number of this face is another one, and what a tracker does not tell is 0."""
    points, hidden = np.zeros((478, 3)), np.zeros(478, bool)
    told = Face(points, hidden, (0.1, 0.2), 0.3, (4.0, 5.0, -6.0), (7.0, 8.0, 9.0), 0.4, (0.5, 0.6), 0.7, 0.8)
    names = ["u", "v", "size", "x", "y", "z", "turn", "nod", "tilt", "mouth", "left blink", "right blink", "smile", "brows"]
    numbers = [0.1, 0.2, 0.3, 4.0, 5.0, -6.0, 7.0, 8.0, 9.0, 0.4, 0.5, 0.6, 0.7, 0.8]
    seen = Moment(faces=(told,))
    assert [getter(f"face:0.{name}")(seen) for name in names] == numbers
    bare = Moment(faces=(Face(told.points, told.hidden, told.place, told.size, told.centimetres, told.degrees),))
    assert [getter(f"face:0.{name}")(bare) for name in names] == [*numbers[:9], 0.0, 0.0, 0.0, 0.0, 0.0]
