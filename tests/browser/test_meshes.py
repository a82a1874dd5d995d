"""Meshes, uploads, moments and rehearsals on a GPU: the real player (SwiftShader) against NumPy, within 2 of 255."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import replace

import numpy as np
import pytest
from playwright.sync_api import Browser

from sunglaze.core.camera.cast import Sitting, StandIn
from sunglaze.core.face.seen import seen_face
from sunglaze.core.language.expression import constant, record
from sunglaze.core.language.moments import moment
from sunglaze.core.language.pictures import EVERYBODY, Vertices, asset_picture, colour_here, shown_sequence, smaller
from sunglaze.core.language.vector import Vec, to_float
from sunglaze.core.material.mesh import MeshData
from sunglaze.core.material.still import Still
from sunglaze.core.moment.moment import Clock, Moment, Reads, Screen
from sunglaze.core.moment.rehearsal import Finger, Rehearsal, Step, write_rehearsal
from sunglaze.core.passes.program import Inputs, Program, State, uniform
from sunglaze.core.targets import numpy as reference
from sunglaze.parity.generating import posed
from sunglaze.parity.gpu import Gpu, gpu
from tests.core.test_meshes import a_ball, paint, textured, three_frames
from tests.core.test_moments import TAPPED, tapped_program

SIZE = (160, 120)
FACE = (constant(0.3), constant(0.0), constant(0.0), constant(0.0))
"""How a face is held steady; mouth and eyes left out."""
GREY = np.full((*SIZE, 4), 128, np.uint8)


@pytest.fixture(scope="module")
def player(browser: Browser) -> Iterator[Gpu]:
    with gpu(browser) as page:
        yield page


def both(player: Gpu, program: Program, seen: Moment, inputs: Inputs) -> tuple[np.ndarray, np.ndarray]:
    """The player's picture and NumPy's, 0 to 255."""
    return player.run(program, seen, inputs)[0] * 255, np.clip(reference.run(program, seen, inputs)[0], 0, 1) * 255


POSES = [
    (0.0, 0.0, -35.0, 30.0, 20.0, 10.0, 1.0),
    (4.0, -6.0, -60.0, -70.0, 5.0, 170.0, 1.5),
    (0.0, 0.0, -9.0, 45.0, 45.0, 0.0, 1.0),  # the near plane and the frame cut it
    (12.0, 9.0, -30.0, 0.0, 0.0, 0.0, 1.3),  # it leaves the frame
]


@pytest.mark.parametrize("pose", POSES)
def test_a_textured_mesh_is_the_same_on_both(player: Gpu, pose: tuple[float, ...]) -> None:
    """Squares of colours, so that a texture place that is off shows; where the reference's own neighbours differ, it may."""
    program = textured(Vertices("mesh", "ball", tuple(constant(n) for n in posed(*pose))))
    inputs = Inputs(pictures={"paint": Still.of(paint())}, meshes={"ball": a_ball()})
    ours, wanted = both(player, program, Moment.of(GREY), inputs)
    off = np.abs(ours - wanted).max(axis=2)
    assert (np.abs(wanted - 128).max(axis=2) > 10).mean() > 0.05, "it is seen"
    assert (off > 2).mean() < 2e-4, f"{(off > 2).sum()} pixels, the largest by {off.max()}"


def test_a_face_and_a_grid_are_the_same_on_both(player: Gpu) -> None:
    camera = StandIn(180, 320, Sitting("beekeeper"))
    seen = camera.moment(20, Reads(True, (), True))
    inputs = Inputs(pictures={"paint": Still.of(paint())})
    warp = [constant(0.03 * ((n * 7) % 5 - 2)) for n in range(2 * 5 * 4)]
    for vertices in (
        Vertices("face", "first", FACE),
        Vertices("face", "everybody", (*FACE[:1], constant(1.0), constant(1.0), constant(EVERYBODY))),
        Vertices("grid", "4x3", tuple(warp)),
    ):
        ours, wanted = both(player, textured(vertices), seen, inputs)
        off = np.abs(ours - wanted).max(axis=2)
        assert (off > 2).mean() < 5e-4, f"{vertices.kind}: {(off > 2).sum()} pixels"


def test_random_triangles_cover_the_same_pixels(player: Gpu) -> None:
    """Many small and large ones over each other, with corners on sixteenths of a pixel: ties, too."""
    rng = np.random.default_rng(5)
    mesh = MeshData(rng.normal(scale=8, size=(200, 3)), rng.random((200, 2)), rng.integers(0, 200, (150, 3)))
    program = textured(Vertices("mesh", "m", tuple(constant(n) for n in posed(0.0, 0.0, -30.0, 10.0, 5.0, 0.0, 1.0))))
    ours, wanted = both(player, program, Moment.of(GREY), Inputs(pictures={"paint": Still.of(paint())}, meshes={"m": mesh}))
    off = np.abs(ours - wanted).max(axis=2)
    assert (off > 2).sum() <= 8, f"{(off > 2).sum()} pixels"


def test_a_sequence_shows_the_same_picture_on_both(player: Gpu) -> None:
    program = Program((colour_here(shown_sequence("three", record("idiv", moment("frame"), 3))).rgb,))
    inputs = Inputs(sequences={"three": three_frames()})
    state = State()
    for frame, want in ((0, 0), (4, 1), (7, 2), (90, 2)):
        picture = player.run(program, Moment.of(GREY, frame), inputs, state)[0]
        assert (picture.argmax(axis=2) == want).all()


@pytest.mark.parametrize("shape", [(64, 64), (61, 44)])
def test_a_smaller_copy_is_the_same_on_both(player: Gpu, shape: tuple[int, int]) -> None:
    """A pixel of the copy is one of the screen, so that each is compared: of all sizes, also of a picture with holes, and of one
    that is given anew."""
    rng = np.random.default_rng(3)
    inputs = Inputs({"wide": 1.0})
    program = Program((colour_here(smaller(asset_picture("paint"), uniform("wide"))).rgb,))
    for halvings in (1, 2, 3):
        pixels = rng.integers(0, 256, (*shape, 4), dtype=np.uint8)
        pixels[..., 3] *= rng.integers(0, 2, shape, dtype=np.uint8)
        still = Still.of(pixels)
        rows, columns = still.smaller(halvings).frame().shape[:2]
        given = replace(inputs, uniforms={"wide": shape[1] / 2**halvings}, pictures={"paint": still})
        ours, wanted = both(player, program, Moment.of(np.zeros((rows, columns, 4), np.uint8)), given)
        assert np.abs(ours - wanted).max() < 1.0, halvings
        assert wanted.std() > 5.0


def test_a_rehearsal_is_the_same_in_the_browser(player: Gpu) -> None:
    """What was touched when, in frames that were drawn and in those that were not; written by one, read by the other."""
    script = """async ({ data, frames }) => {
      const { Rehearsal } = await import('/player.js')
      const quiet = (frame) => ({ clock: { frame, seconds: frame / 30, delta: 1 / 30, seed: 0 }, dials: {}, faces: [],
        screen: { columns: 9, rows: 16, side: 'front' }, touch: { down: false, u: 0.5, v: 0.5, taps: 0 }, cues: [] })
      const read = Rehearsal.read(data)
      return frames.map((n) => read.at(quiet(n)))
    }"""
    rng = np.random.default_rng(2)
    steps = []
    for frame in sorted(rng.choice(60, 25, replace=False).tolist()):
        touch = (
            Finger(down=bool(rng.random() < 0.5), u=float(rng.random()), v=float(rng.random())) if rng.random() < 0.7 else None
        )
        cues = ("bell",) if rng.random() < 0.3 else ()
        steps.append(Step(frame=frame, touch=touch, cues=cues, dials={"size": float(rng.random())} if rng.random() < 0.4 else {}))
    for rehearsal in (TAPPED, Rehearsal(seed=9, steps=tuple(steps))):
        theirs = player._page.evaluate(script, {"data": json.loads(write_rehearsal(rehearsal)), "frames": list(range(64))})
        for frame, seen in enumerate(theirs):
            want = rehearsal.at(Moment(Clock.at(frame)))
            assert seen["touch"] == vars(want.touch)
            assert (tuple(seen["cues"]), seen["dials"], seen["clock"]["seed"]) == (want.cues, want.dials, want.clock.seed)


def test_what_is_recorded_in_a_page_counts_once_for_each_tap(player: Gpu) -> None:
    """A finger that goes down and up between two frames is a tap all the same; a frame that was drawn is not changed."""
    recorded = player._page.evaluate("""async () => {
      const { Rehearsal } = await import('/player.js')
      const made = new Rehearsal()
      made.record(5, { touch: { down: true, u: 0.1, v: 0.2 } })
      made.record(5, { touch: { down: false, u: 0.1, v: 0.2 } })
      made.record(5, { cues: ['bell'] })
      made.record(9, { dials: { size: 0.5 } })
      made.record(20, { touch: { down: true, u: 0.1, v: 0.2 } })
      for (const u of [0.2, 0.3, 0.4]) made.record(20, { touch: { down: true, u, v: 0.2 } })
      return made.write()
    }""")
    read = Rehearsal.model_validate(recorded)
    at = [read.at(Moment(Clock.at(n))) for n in range(21)]
    assert [m.touch.down for m in at[:11]] == [False] * 5 + [True] + [False] * 5
    assert at[10].touch.taps == 1
    assert [n for n, m in enumerate(at) if m.cues] == [6]
    assert (at[8].dials, at[9].dials) == ({}, {"size": 0.5})
    # Fingers move oftener than frames come: the picture does not trail behind them.
    assert (at[20].touch.u, at[20].touch.taps) == (0.4, 2)


def test_missed_frames_have_their_own_moments_in_the_browser(player: Gpu) -> None:
    program = tapped_program()
    moments = [replace(TAPPED.at(Moment(Clock.at(n), Screen(4, 4)))) for n in range(7)]
    state = State()
    ours = [program.signals.run(m, {}, state.cells) for m in moments]
    theirs = player.signals(program, moments, [{}] * 7)
    assert np.abs(np.array(ours, float) - np.array(theirs)).max() < 1e-9
    seven = Program((Vec(to_float(moment("touch.taps")) * 0.2, moment("face:0.u"), moment("dial:size")),))
    face = StandIn(90, 160).moment(3, Reads(False, (), True)).faces
    told = [replace(m, faces=face) for m in moments]
    theirs = player.signals(seven, told, [{}] * 7)
    ours = [seven.signals.run(m, {}, {}) for m in told]
    assert np.abs(np.array(ours, float) - np.array(theirs)).max() < 1e-9
    assert ours[6][1] > 0.2


def test_a_program_of_before_moments_plays_as_it_did(player: Gpu) -> None:
    """Packages of version 3 had the clock and the screen among their uniforms."""
    seconds, columns = moment("time"), to_float(moment("width"))
    program = Program((Vec(seconds * uniform("gain"), columns * 0.002, to_float(moment("seed")) * 0.05),))
    inputs = Inputs({"gain": 0.25}, seed=9)
    now = Moment.of(GREY, 45)
    wanted = player.run(program, now, inputs)[0]
    order = player._order(program, inputs, [now], 0)
    once = {"time": "time", "width": "frame.width", "seed": "seed"}
    plain = order["program"]
    plain["signals"]["steps"] = [["uniform", once[s[1]]] if s[0] == "moment" else s for s in plain["signals"]["steps"]]
    plain["uniforms"] |= {"time": 0.0, "frame.width": 0.0, "seed": 9}
    del plain["seed"], plain["uploads"], plain["meshes"]
    plain["version"] = 3
    assert player.seen(order, now).tolist() == (wanted * 255).round().tolist()
    assert wanted[0, 0].tolist() == pytest.approx([0.375, 0.24, 0.45], abs=1 / 255)


def test_what_a_page_measures_of_points_is_what_python_does(player: Gpu) -> None:
    """Place, size, mouth, lids and pose of the cast's faces from their points alone; ours is OpenCV's perspective-n-point over
    all steady points, the page's its own over a third of them."""
    width, height = 540, 960
    for who, script in (("lamp-tender", "talk"), ("oyster-cook", "mouth"), ("stilt-walker", "near"), ("tide-reader", "edges")):
        camera = StandIn(width, height, Sitting(who, script))
        for frame in (3, 31, 64):
            for face in camera.moment(frame, Reads(False, (), True)).faces:
                want = seen_face(face.points * (width, height, width), width, height)
                got = player._page.evaluate(
                    """async ({ points, width, height }) => {
                        const { faceOf } = await import('/player.js')
                        const { place, size, centimetres, degrees, mouth, blinks } = faceOf(points, width, height)
                        return { place, size, centimetres, degrees, mouth, blinks }
                    }""",
                    {"points": face.points.tolist(), "width": width, "height": height},
                )
                np.testing.assert_allclose(got["place"], want.place, atol=1e-6)
                np.testing.assert_allclose(
                    [got["size"], got["mouth"], *got["blinks"]], [want.size, want.mouth, *want.blinks], atol=1e-6
                )
                np.testing.assert_allclose(got["degrees"], want.degrees, atol=3.0)
                np.testing.assert_allclose(got["centimetres"], want.centimetres, atol=1.5 + 0.03 * abs(want.centimetres[2]))
