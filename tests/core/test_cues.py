"""Cues: when each fires, that it does not flutter, what answers to it; motions by cues against closed forms; dials."""

from __future__ import annotations

import itertools
from dataclasses import replace
from typing import Any

import numpy as np
import pytest

from sunglaze.core.camera.cast import Sitting, StandIn
from sunglaze.core.effect.address import address
from sunglaze.core.effect.compiling import compile_effect, has_same_form, inputs_of_effect
from sunglaze.core.effect.cueing import Cues, cues_used
from sunglaze.core.effect.document import Effect, Layer, LayerGroup, LayerMask, moved, parse_effect
from sunglaze.core.effect.literals import Known, Material
from sunglaze.core.effect.motions import Cue, Dial, Drive, shipped_cue
from sunglaze.core.effect.score import score
from sunglaze.core.effect.shipped import cue_recipes, drive_recipes
from sunglaze.core.engine.playback import play_to
from sunglaze.core.errors import BadEffect
from sunglaze.core.language.pictures import CAMERA, colour_here
from sunglaze.core.language.vector import number
from sunglaze.core.moment.moment import Clock, Moment, Reads, Screen, Touch
from sunglaze.core.moment.rehearsal import Finger, Rehearsal, Rehearsed, Step
from sunglaze.core.nodes import cues as nodes
from sunglaze.core.nodes.node import Scene, in_scene
from sunglaze.core.passes.program import uniform
from sunglaze.core.passes.signals import SignalProgram
from sunglaze.core.targets.memory import parts_of
from tests.core.test_time_nodes import play

FRAMES = 300
STILL = StandIn(540, 960, Sitting("lamp-tender", "still")).moment(0, Reads(False, (), True)).faces[0]


def fired(cue: Cue, moments: list[Moment]) -> list[int]:
    """The frames in which it fires."""
    effect = Effect(name="t", cues=[cue])
    made, inputs, cells = score(effect, Known()), inputs_of_effect(effect, Material()).uniforms, {}
    times = [int(made.program.run(moment, inputs, cells)[-1]) for moment in moments]
    return [n for n, (now, before) in enumerate(zip(times, [0, *times], strict=False)) if now > before]


def quiet(count: int = FRAMES, **more: Any) -> list[Moment]:
    return [Moment(Clock.at(n), Screen(540, 960), **more) for n in range(count)]


def touched(downs: list[tuple[int, int]], count: int = FRAMES) -> list[Moment]:
    """A finger that is down from the first frame of each pair up to the second."""
    steps = [Step(frame=at, touch=Finger(down=down)) for pair in downs for at, down in zip(pair, (True, False), strict=True)]
    rehearsal = Rehearsal(steps=tuple(steps))
    return [rehearsal.at(moment) for moment in quiet(count)]


def faced(change: dict[str, Any], first: int, last: int, faces: int = 1, count: int = FRAMES) -> list[Moment]:
    """A face that is otherwise from one frame up to another."""
    other = replace(STILL, **change)
    return [replace(moment, faces=(other if first <= n < last else STILL,) * faces) for n, moment in enumerate(quiet(count))]


def there(*spans: tuple[int, int], faces: int = 1) -> list[Moment]:
    inside = [any(first <= n < last for first, last in spans) for n in range(FRAMES)]
    return [replace(moment, faces=(STILL,) * faces if yes else ()) for moment, yes in zip(quiet(), inside, strict=True)]


def values(kind: str, **more: Any) -> Cue:
    return shipped_cue(kind).model_copy(update={"values": {**shipped_cue(kind).values, **more}})


SMILING = {"smile": 0.9}
WHEN: list[tuple[str, dict[str, Any], list[Moment], list[int]]] = [
    ("start", {}, quiet(), [0]),
    ("start", {"seconds": 2.0}, quiet(), [60]),
    ("tap", {}, touched([(10, 13), (50, 90)]), [10, 50]),
    ("short-tap", {"seconds": 0.3}, touched([(10, 13), (50, 90)]), [13]),
    ("double-tap", {"seconds": 0.4}, touched([(10, 13), (20, 23), (60, 63), (90, 93), (100, 103), (108, 110)]), [20, 100]),
    ("press", {"seconds": 0.5}, touched([(10, 13), (50, 90)]), [65]),
    ("face-appears", {}, there((30, 90), (95, 120), (160, 200)), [30, 160]),
    ("face-leaves", {"patience": 0.3}, there((30, 90), (95, 120), (160, 200)), [129, 209]),
    ("second-face", {}, [*there((0, 300))[:80], *there((0, 300), faces=2)[80:]], [80]),
    ("mouth-opens", {}, faced({"mouth": 0.5}, 40, 60), [40]),
    ("smile", {}, faced(SMILING, 40, 60), [40]),
    ("brows-lift", {}, faced({"brows": 0.9}, 40, 60), [40]),
    ("eyes-shut", {}, faced({"blinks": (1.0, 0.1)}, 40, 60), []),
    ("eyes-shut", {}, faced({"blinks": (1.0, 0.9)}, 40, 60), [40]),
    ("head-turns", {}, faced({"degrees": (-25.0, 0.0, 0.0)}, 40, 60), [40]),
    ("head-turns", {"side": "above"}, faced({"degrees": (-25.0, 0.0, 0.0)}, 40, 60), []),
    ("head-turns", {"which": "tilt", "threshold": 15.0}, faced({"degrees": (0.0, 0.0, 18.0)}, 40, 60), [40]),
    ("measure", {"which": "distance", "side": "below", "threshold": 30.0},
     faced({"centimetres": (0.0, 0.0, -25.0)}, 40, 60), [40]),
    ("timer", {"every": 2.0, "first": 1.0}, quiet(), [30, 90, 150, 210, 270]),
    ("timer", {"every": 0.7, "first": 0.0, "lasts": 0.5}, quiet(100), [0, 21, 42, 63, 84]),
    ("back-camera", {},
     [replace(m, screen=Screen(540, 960, "back" if n >= 25 else "front")) for n, m in enumerate(quiet())], [25]),
]  # fmt: skip


def test_every_kind_is_tried() -> None:
    assert {kind for kind, *_ in WHEN} == set(cue_recipes())


@pytest.mark.parametrize(("kind", "set_to", "moments", "when"), WHEN, ids=[f"{one[0]} {n}" for n, one in enumerate(WHEN)])
def test_a_cue_fires_when_it_should(kind: str, set_to: dict[str, Any], moments: list[Moment], when: list[int]) -> None:
    cue = values(kind, **set_to)
    assert fired(cue, moments) == when
    # A rehearsal, or a hand at the workbench, gives it by its name.
    by_hand = [replace(m, cues=("now",)) if n == 5 else m for n, m in enumerate(moments)]
    given = fired(cue.model_copy(update={"id": "now"}), by_hand)
    assert given == sorted({*when, 6 if any(n <= 5 for n in when) else 5})


def test_a_threshold_with_a_band_does_not_flutter() -> None:
    """A measure that rises and falls once, with noise of 0.02 (the band is more than seven deviations): one crossing in each
    of 1,000 runs; without a band, many of them cross more often."""
    rng = np.random.default_rng(7)
    truth = np.concatenate([np.linspace(0, 1, 60), np.linspace(1, 0, 60)])
    noisy = truth + rng.normal(0, 0.02, (1000, len(truth)))

    def crossings(band: float) -> np.ndarray:
        with in_scene(Scene(colour_here(CAMERA), path="t")):
            program = SignalProgram([number(nodes.past(uniform("x"), 0.5, band, "above"))])
        found = []
        for run in noisy:
            cells: dict[str, float] = {}
            held = [float(program.run(Moment(), {"x": x}, cells)[0]) for x in run]
            found.append(int((np.diff([0.0, *held]) > 0).sum()))
        return np.array(found)

    assert (crossings(0.15) == 1).all()
    assert (crossings(0.0) > 1).mean() > 0.3


def test_ramps_by_cues_are_their_closed_forms() -> None:
    """Linear, from 2 to 6: there in 0.5 s and back in 1 s after frame 10; each value by hand from the time since then."""
    event = [10.0 <= n < 13 for n in range(90)]
    t = (np.arange(90) - 10) / 30

    def ramp(how: str) -> np.ndarray:
        return play(lambda x: nodes.cued_ramp(x > 0.5, 2.0, 6.0, 0.5, 1.0, how, "linear"), [float(one) for one in event])

    up = np.clip(t / 0.5, 0, 1)
    assert np.abs(ramp("there") - (2 + 4 * np.where(t < 0, 0, up))).max() < 1e-5
    back = np.where(t < 0.5, up, 1 - np.clip((t - 0.5) / 1.0, 0, 1))
    assert np.abs(ramp("there and back") - (2 + 4 * np.where(t < 0, 0, back))).max() < 1e-5
    # While it holds: three frames up, then down by half as much each.
    held = ramp("while it holds")
    assert held[9:14] == pytest.approx([2, 2 + 4 / 15, 2 + 8 / 15, 2 + 12 / 15, 2 + 12 / 15 - 4 / 30], abs=1e-5)
    twice = play(
        lambda x: nodes.cued_ramp(x > 0.5, 0.0, 1.0, 0.2, 0.2, "there, and back by the next", "linear"),
        [float(n in (10, 40)) for n in range(60)],
    )
    assert twice[39] == pytest.approx(1.0)
    assert twice[[9, 59]] == pytest.approx([0.0, 0.0], abs=1e-6)
    assert twice[12] == pytest.approx(0.5, abs=1e-5)


def test_switches_and_steps() -> None:
    event = [float(n in (5, 15, 25, 35)) for n in range(40)]
    each = play(lambda x: nodes.cued_switch(x > 0.5, 1.0, 3.0, "each time"), event)
    assert (each[[4, 5, 14, 15, 24, 25, 34, 35]] == [1, 3, 3, 1, 1, 3, 3, 1]).all()
    held = play(lambda x: nodes.cued_switch(x > 0.5, 1.0, 3.0, "while it holds"), event)
    assert np.flatnonzero(held == 3).tolist() == [5, 15, 25, 35]
    timed = play(lambda x: nodes.cued_switch(x > 0.5, 1.0, 3.0, "for a time", 0.2), event)
    assert np.flatnonzero(timed == 3).tolist() == [n for first in (5, 15, 25, 35) for n in range(first, min(first + 6, 40))]

    def stepped(how: str, count: int) -> list[float]:
        with in_scene(Scene(colour_here(CAMERA), path="t")):
            made = nodes.steps(uniform("n", "int"), uniform("count", "int"), 1.0, 2.0, 3.0, 4.0, 5.0, 6.0, how)
        program = SignalProgram([made])
        return [float(program.run(Moment(), {"n": n, "count": count}, {})[0]) for n in range(24)]

    assert stepped("round", 3)[:7] == [1, 2, 3, 1, 2, 3, 1]
    assert stepped("back and forth", 4)[:8] == [1, 2, 3, 4, 3, 2, 1, 2]
    assert stepped("to the last", 2)[:4] == [1, 2, 2, 2]
    for count in (2, 3, 6):
        chance = stepped("by chance", count)
        assert all(a != b for a, b in itertools.pairwise(chance))
        assert set(chance) == set(range(1, count + 1))


# ---- what answers to cues, in the picture ----
WHITE = np.full((24, 16, 4), 255, np.uint8)


class Grey:
    """A camera of one grey, half of it a person, with a rehearsal's taps."""

    def __init__(self, *taps: int) -> None:
        self.rehearsal = Rehearsal(steps=tuple(Step(frame=n + k, touch=Finger(down=not k)) for n in taps for k in (0, 1)))

    def moment(self, frame: int, _: Reads) -> Moment:
        picture = np.full((8, 8, 4), 128, np.uint8)
        picture[..., 3] = np.where(np.arange(8) < 4, 0, 255)
        return self.rehearsal.at(replace(Moment.of(picture, frame), screen=Screen(8, 8)))


def seen(effect: Effect, frame: int, *taps: int) -> np.ndarray:
    compiled = compile_effect(effect, Material())
    shown = play_to(compiled.program.final, compiled.inputs, Grey(*taps), frame)
    planes = np.asarray(shown)
    return (
        np.moveaxis(planes.reshape(3, 8, -1)[:, :, :8], 0, 2)
        if planes.dtype != np.uint32
        else parts_of(shown, 8)[:, :, 2::-1] / 255
    )


def white(**more: Any) -> Layer:
    return Layer(id="w", name="White", kind="fill", values={"colour": "#ffffff"}, **more)


def switch(low: float, high: float, how: str = "each time", cue: str = "tap") -> Drive:
    return Drive(kind="cued-switch", values={"cue": cue, "low": low, "high": high, "how": how})


def test_a_tap_switches_a_layer_a_mask_and_a_group() -> None:
    layer = Effect(name="t", layers=[white(drives={"layer:on": switch(0.0, 1.0)})])
    assert seen(layer, 9, 10).max() < 0.6
    assert seen(layer, 12, 10).min() > 0.99
    assert seen(layer, 22, 10, 20).max() < 0.6
    masked = white(
        mask=LayerMask(kind="region", values={"region": "person", "soft": 0.0}), drives={"layer:mask": switch(1.0, 0.0)}
    )
    mask = Effect(name="t", layers=[masked])
    before, after = seen(mask, 9, 10), seen(mask, 12, 10)
    assert before[:, :3].max() < 0.6
    assert before[:, 5:].min() > 0.99
    assert after.min() > 0.99
    group = Effect(
        name="t", layers=[white(group="g")], groups=[LayerGroup(id="g", name="G", drives={"layer:on": switch(1.0, 0.0)})]
    )
    assert seen(group, 9, 10).min() > 0.99
    assert seen(group, 12, 10).max() < 0.6
    off = group.model_copy(update={"groups": [group.groups[0].model_copy(update={"on": False})]})
    assert seen(off, 9, 10).max() < 0.6


def test_several_answer_to_one_cue_and_it_is_counted_once() -> None:
    effect = Effect(
        name="t",
        layers=[white(drives={"layer:on": switch(0.0, 1.0, cue="mine"), "layer:opacity": switch(1.0, 0.5, cue="mine")})],
        cues=[Cue(id="mine", name="Mine", kind="short-tap", values={"seconds": 0.5})],
    )
    signals = compile_effect(effect, Material()).program.final.signals
    counted = {name for step in signals.as_data()["steps"] if step[0] == "advance" and "fired" in (name := str(step[1]))}
    assert counted == {"cue:mine.fired.count", "cue:mine.fired.was"} or len(counted) <= 4
    assert [one.id for one in cues_used(effect)] == ["mine"]
    by_kind = Effect(name="t", layers=[white(drives={"layer:on": switch(0.0, 1.0)})])
    assert [one.id for one in cues_used(by_kind)] == ["tap"]
    assert set(Cues([])) == set(cue_recipes())


def test_a_cue_that_is_gone_is_said_and_a_threshold_is_turned_without_building() -> None:
    drive = {"layer:on": switch(0.0, 1.0, cue="gone")}
    with pytest.raises(BadEffect, match="'gone' is not there any more"):
        compile_effect(Effect(name="t", layers=[white(drives=drive)]), Material())
    effect = Effect(
        name="t", layers=[white(drives={"layer:on": switch(0.0, 1.0, cue="m")})],
        cues=[Cue(id="m", name="M", kind="mouth-opens", values={"threshold": 0.3})],
    )  # fmt: skip
    turned = moved(effect, address("", "cue:m:threshold"), 0.5)
    assert turned.cues[0].values["threshold"] == 0.5
    assert has_same_form(effect, turned)
    assert inputs_of_effect(turned, Material()).uniforms["cue:m:threshold"] == 0.5
    assert not has_same_form(effect, moved(effect, address("", "cue:m:who"), "second"))
    with pytest.raises(BadEffect, match="no control 'loud'"):
        moved(effect, address("", "cue:m:loud"), 1.0)


def test_the_score_tells_lines_thresholds_and_counts() -> None:
    follow = Drive(kind="face-measure", values={"which": "turn", "low": 0.0, "high": 1.0})
    effect = Effect(
        name="t", layers=[white(drives={"layer:opacity": follow, "layer:on": switch(0.0, 1.0)})],
        cues=[Cue(id="m", name="M", kind="mouth-opens", values={"threshold": 0.3, "band": 0.1})],
    )  # fmt: skip
    made = score(effect, Known())
    assert [(one.title, one.low, one.high, one.cue) for one in made.lines] == [
        ("mouth open", 0.0, 0.8, "m"),
        ("turn", -45.0, 45.0, None),
    ]
    assert [(one.id, one.kept) for one in made.cues] == [("m", True), ("tap", False)]
    uniforms, cells = inputs_of_effect(effect, Material()).uniforms, {}
    moments = faced({"mouth": 0.5, "degrees": (12.0, 0.0, 0.0)}, 3, 5, count=8)
    rows = [made.program.run(moment, uniforms, cells) for moment in moments]
    assert [round(float(row[0]), 3) for row in rows[2:6]] == [round(STILL.mouth, 3), 0.5, 0.5, round(STILL.mouth, 3)]
    assert float(rows[3][1]) == pytest.approx(12.0)
    assert [int(row[3]) for row in rows] == [0, 0, 0, 1, 1, 1, 1, 1]


# ---- dials ----
def dialled(dials: list[Dial], drives: dict[str, Drive], moment: Moment) -> dict[str, float]:
    from sunglaze.core.effect.compiling import driven_numbers, scene_of

    effect = Effect(name="t", layers=[white(drives=drives)], dials=dials)
    found = driven_numbers(effect.layers[0], Known(), scene_of(effect))
    program = SignalProgram(list(found.values()))
    numbers = program.run(moment, inputs_of_effect(effect, Material()).uniforms, {})
    return dict(zip(found, map(float, numbers), strict=True))


def test_a_dial_turns_several_controls_each_in_its_own_range() -> None:
    drives = {
        "layer:opacity": Drive(kind="dial", values={"dial": "d", "low": 0.2, "high": 0.8, "seconds": 0.0}),
        "layer:on": Drive(kind="dial", values={"dial": "d", "low": 1.0, "high": 0.0, "seconds": 0.0}),
    }
    dials = [Dial(id="d", title="Strength", start=0.25)]
    assert dialled(dials, drives, Moment()) == pytest.approx({"layer:opacity": 0.35, "layer:on": 0.75}, abs=1e-6)
    assert dialled(dials, drives, Moment(dials={"d": 1.0})) == pytest.approx({"layer:opacity": 0.8, "layer:on": 0.0}, abs=1e-6)
    # Zero is where it is turned to, not where it starts.
    assert dialled(dials, drives, Moment(dials={"d": 0.0}))["layer:opacity"] == pytest.approx(0.2)


def test_one_of_three_looks_a_switch_and_a_colour() -> None:
    three = Dial(id="look", title="Look", kind="choice", start=1, choices=["Dawn", "Noon", "Dusk"])
    steps = {"layer:on": Drive(kind="dial-steps", values={"dial": "look", "first": 0.0, "second": 1.0, "third": 0.5})}
    assert dialled([three], steps, Moment())["layer:on"] == 1.0
    for place, want in ((0, 0.0), (1, 1.0), (2, 0.5)):
        assert dialled([three], steps, Moment(dials=three.numbers(place)))["layer:on"] == want
    colour = Dial(id="hue", title="Hue", kind="colour", start="#ff8000")
    effect = Effect(
        name="t", layers=[white(drives={"colour": Drive(kind="dial-colour", values={"dial": "hue"})})], dials=[colour]
    )
    assert seen(effect, 0)[4, 4] == pytest.approx([1.0, 128 / 255, 0.0], abs=0.01)
    assert colour.numbers("#0000ff") == {"hue-r": 0.0, "hue-g": 0.0, "hue-b": 1.0}


@pytest.mark.parametrize(
    ("dial", "words"),
    [
        ({"kind": "choice", "choices": ["one"]}, "fewer than two choices"),
        ({"kind": "choice", "choices": ["one", "two"], "start": 2}, "from 0 to 1"),
        ({"kind": "number", "start": 1.5}, "from 0 to 1"),
        ({"kind": "colour", "start": "red"}, "no colour"),
    ],
)
def test_dials_that_do_not_fit_are_refused(dial: dict[str, Any], words: str) -> None:
    with pytest.raises(BadEffect, match=words):
        parse_effect(
            {"format": "sun-glaze/effect", "version": 8, "name": "t", "layers": [], "dials": [{"id": "d", "title": "D", **dial}]}
        )


def test_drives_of_ones_own_are_recipes_and_colours_take_colours_alone() -> None:
    own = drive_recipes()["pulse"].model_copy(update={"name": "Mine"})
    drive = Drive(kind="own", recipe=own, values={"low": 0.0, "high": 1.0, "seconds": 2.0})
    effect = Effect(name="t", layers=[white(drives={"layer:opacity": drive})])
    assert seen(effect, 15).mean() != pytest.approx(seen(effect, 0).mean(), abs=0.05)
    assert parse_effect(effect.model_dump_json(by_alias=True)) == effect
    with pytest.raises(ValueError, match="cannot be driven by a pulse"):
        white(drives={"colour": Drive(kind="pulse")})


def test_touch_and_faces_as_measures() -> None:
    """Two fingers, and a face that goes: it rests, or stays at what it was."""
    from sunglaze.core.nodes.face import face_measure, is_there, touch_measure

    moment = Moment(touch=Touch(down=True, u=0.25, v=0.75, turn=90.0, scale=2.0))
    with in_scene(Scene(colour_here(CAMERA), path="t")):
        shares = [
            touch_measure(which).share for which in ("across", "down", "two fingers' turn", "two fingers' spread", "pressed")
        ]
    got = [float(value) for value in SignalProgram(shares).run(moment, {}, {})]
    assert got == pytest.approx([0.25, 0.75, 0.75, 0.75, 1.0], abs=1e-6)
    with in_scene(Scene(colour_here(CAMERA), path="rests")):
        rests = face_measure("distance", "first", "rests").value
    with in_scene(Scene(colour_here(CAMERA), path="stays")):
        stays = face_measure("distance", "first", "stays").value
    program, cells = SignalProgram([rests, stays, number(is_there("second"))]), {}
    rows = [program.run(moment, {}, cells) for moment in there((0, 3))[:6]]
    here = -STILL.centimetres[2]
    assert [float(row[0]) for row in rows] == pytest.approx([here] * 3 + [60.0] * 3)
    assert [float(row[1]) for row in rows] == pytest.approx([here] * 6)


def test_any_and_nearest_choose_between_two() -> None:
    from sunglaze.core.nodes.face import of_face

    far = replace(STILL, size=STILL.size / 2, mouth=0.7)
    program = SignalProgram([of_face(who, "mouth") for who in ("first", "second", "any", "nearest")])
    both = [float(one) for one in program.run(Moment(faces=(far, STILL)), {}, {})]
    assert both == pytest.approx([0.7, STILL.mouth, 0.7, STILL.mouth])
    assert [float(one) for one in program.run(Moment(faces=(far,)), {}, {})] == pytest.approx([0.7, 0.0, 0.7, 0.7])


def test_smiles_and_brows_are_told_on_the_whole_cast() -> None:
    """Set on the cast: smiling they pass the cue's threshold, talking none does; the tracker's own points stand for others."""
    for who in ("lamp-tender", "ferry-pilot", "oyster-cook", "tide-reader"):
        smiles = [
            StandIn(540, 960, Sitting(who, "smile")).moment(n, Reads(False, (), True)).faces[0].smile for n in range(0, 32, 4)
        ]
        talk = [StandIn(540, 960, Sitting(who, "talk")).moment(n, Reads(False, (), True)).faces for n in range(0, 75, 5)]
        assert max(smiles) > 0.6 > max(face.smile for faces in talk for face in faces)
        assert max(face.brows for faces in talk for face in faces) > 0.6
        still = StandIn(540, 960, Sitting(who, "still")).moment(0, Reads(False, (), True)).faces[0]
        assert (still.smile, still.brows) == pytest.approx((0.0, 0.0), abs=0.15)


def test_the_source_is_rehearsed() -> None:
    """A rehearsal that is kept with the effect is a source of moments like any other."""
    effect = Effect(name="t", layers=[white(drives={"layer:on": switch(0.0, 1.0)})], rehearsal=Grey(10).rehearsal)
    again = parse_effect(effect.model_dump_json(by_alias=True))
    assert again.rehearsal == effect.rehearsal
    assert again.rehearsal is not None
    compiled = compile_effect(again, Material())
    pictures = [play_to(compiled.program.final, compiled.inputs, Rehearsed(Grey(), again.rehearsal), n) for n in (9, 12)]
    assert (pictures[0] != pictures[1]).any()


def test_a_sequence_starts_and_starts_again_by_a_cue() -> None:
    """Four pictures of one colour each at 10 a second, once: the first until the tap, then each for three frames."""
    from sunglaze.core.material.files import encode_png
    from sunglaze.core.material.reels import made

    colours = [10, 60, 110, 160]
    files = [encode_png(np.full((8, 8, 3), colour, np.uint8)) for colour in colours]
    key = "b" * 64
    played = {"asset": key, "rate": 10.0, "order": "once", "cue": "tap"}
    layer = Layer(id="p", name="P", kind="picture", values={"picture": played, "fit": "stretch"})
    effect = Effect(name="t", layers=[layer])
    compiled = compile_effect(effect, Material(sequences={key: made(files, 10.0)}))

    def at(frame: int) -> int:
        shown = play_to(compiled.program.final, compiled.inputs, Grey(10, 40), frame)
        return int(parts_of(shown, 8)[4, 4, 0])

    assert [at(n) for n in (0, 9, 10, 12, 13, 16, 19, 39)] == [10, 10, 10, 10, 60, 110, 160, 160]
    assert [at(n) for n in (40, 43)] == [10, 60]
    assert [one.id for one in cues_used(effect)] == ["tap"]
    with pytest.raises(BadEffect, match="a cue's id"):
        parse_effect(effect.model_dump_json().replace('"cue":"tap"', '"cue":5'))
