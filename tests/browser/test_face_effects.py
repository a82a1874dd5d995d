"""Layers that cling to faces, on a GPU: the real player (SwiftShader) against NumPy, over moments in a row."""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Iterator
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from playwright.sync_api import Browser

from demo import made
from demo.wearing import HERON
from sunglaze.core.camera.cast import Sitting, StandIn
from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.effect.shipped import shipped
from sunglaze.core.engine.room import Room
from sunglaze.core.engine.running import draw
from sunglaze.core.language import vector as v
from sunglaze.core.language.expression import leaf
from sunglaze.core.language.pictures import CAMERA, computed, near
from sunglaze.core.language.vector import Vec
from sunglaze.core.material.files import material_pixels
from sunglaze.core.material.models import read_model
from sunglaze.core.material.still import Still
from sunglaze.core.moment.moment import Clock, Moment, Reads
from sunglaze.core.package.archive import write_package
from sunglaze.core.passes.program import Inputs, Program, State, uniform
from sunglaze.core.targets import numpy as reference
from sunglaze.core.targets.memory import seen_as_floats
from sunglaze.parity.gpu import Gpu, gpu
from tests.often import often
from tests.solids import moving

PAINT, GLASSES, ROOM, SOLID = "1" * 64, "2" * 64, "3" * 64, "4" * 64
SIZE = (180, 320)
LAYERS: list[tuple[str, dict[str, Any]]] = [
    ("face-paint", {"picture": PAINT, "mouth": True}),
    ("face-paint", {"picture": PAINT, "mirrored": True, "eyes": True, "light": 1.0, "who": "nearest", "left_eye": [0.3, 0.4]}),
    ("make-up", {"lips": 0.8, "gloss": 0.8, "blush": 0.6, "shadow": 0.7, "liner": 0.9}),
    ("even-skin", {"strength": 1.0, "spots": 0.6, "under": 0.8}),
    ("eyes-and-teeth", {"bright": 1.0, "teeth": 1.0, "iris": 1.0}),
    ("face-shape", {"eyes": 0.8, "nose": -0.6, "lips": 0.5, "jaw": -0.7, "brows": 0.6}),
    ("pin", {"picture": GLASSES, "wide": 14.0, "out": 1.0}),
    (
        "pin-with-pendant",
        {"picture": GLASSES, "pendant": GLASSES, "wide": 14.0, "turn": 8.0, "both": True, "hook_right": 6.0, "swing": 12.0},
    ),
    ("pin", {"picture": GLASSES, "place": "left cheek", "both": True, "wide": 4.0, "turned": "with its tilt", "turn": 20.0}),
    ("ring-in-depth", {"picture": GLASSES, "out": 14.0, "behind": True}),
    ("deep-backdrop", {"picture": ROOM, "wrap": 0.6}),
    ("mesh", {"mesh": {"asset": SOLID, "motion": "bob"}, "up": 9.0, "wide": 16.0, "from_right": 60.0}),
    ("mesh", {"mesh": {"asset": SOLID}, "place": "left ear", "wide": 6.0, "both": True, "up": -2.0}),
    ("mesh", {"mesh": {"asset": SOLID}, "wide": 30.0, "up": 4.0, "nod": 70.0, "turned": "with its tilt", "unlit": 0.4}),
    ("face-paint", {"painting": {"shapes": HERON}, "picture": PAINT}),
    ("cut-out", {"edge": "clean", "wrap": 0.4, "colour": "#203040"}),
]

SITTINGS = [(Sitting("beekeeper", "talk", "shade", tracked=True), 30), (Sitting("ferry-pilot", "two"), 60)]


@pytest.fixture(scope="module")
def player(browser: Browser) -> Iterator[Gpu]:
    with gpu(browser) as page:
        yield page


@pytest.fixture(scope="module")
def pictures() -> dict[str, np.ndarray]:
    return {
        PAINT: material_pixels(made.file("tide-mask.png")),
        GLASSES: material_pixels(made.file("sunday-glasses.png")),
        ROOM: material_pixels(made.file("boathouse.png")),
    }


def as_floats(seen: Moment) -> Moment:
    """The same with a picture of floats."""
    assert seen.picture is not None
    return Moment(seen.clock, seen.screen, faces=seen.faces, picture=seen_as_floats(seen.picture, SIZE[0]), regions=seen.regions)


@pytest.mark.parametrize(("kind", "values"), LAYERS)
@pytest.mark.parametrize("frames", often(2, 4))
def test_every_layer_of_faces_is_the_same_on_both(
    player: Gpu, pictures: dict[str, np.ndarray], kind: str, values: dict[str, Any], frames: int
) -> None:
    """Frames in a row, of one in turn, or of two people and as a tracker sees them: within 2 of 255 on 99.9 % of the pixels."""
    start = shipped()[kind].start
    layer = Layer(id="l", name=kind, kind=kind, blend=start.blend, opacity=start.opacity, values=values)
    compiled = compile_effect(
        Effect(name="t", layers=[layer]),
        Material(
            pictures={key: Still.of(one) for key, one in pictures.items()}, meshes={SOLID: read_model("bob.glb", moving()).mesh}
        ),
    )
    program = compiled.program.final
    for sitting, first in SITTINGS if frames > 2 else SITTINGS[LAYERS.index((kind, values)) % 2 :][:1]:
        camera = StandIn(*SIZE, sitting)
        ours, moments = State(), []
        for frame in range(first, first + frames):
            seen = as_floats(camera.moment(frame, Reads(True, program.regions, True)))
            # Both begin with the first of them.
            clock = type(seen.clock).at(frame - first)
            moments.append(Moment(clock, seen.screen, faces=seen.faces, picture=seen.picture, regions=seen.regions))
        changed = False
        for seen, shown in zip(moments, player.play(program, moments, compiled.inputs), strict=True):
            wanted = np.clip(reference.run(program, seen, compiled.inputs, ours, half=True)[0], 0, 1) * 255
            assert seen.picture is not None
            changed |= bool(np.abs(wanted - seen.picture[..., :3] * 255).max() > 20)
            off = np.abs(wanted - shown).max(axis=2) > 2
            assert off.mean() <= 1e-3, f"{sitting.who} {seen.clock.frame}: {off.sum()} pixels"
        assert changed, sitting


def test_a_package_leaves_out_what_comes_to_nothing_and_looks_the_same(player: Gpu) -> None:
    """Retouch without spots, shadows under the eyes and all skin: no median, and no hair is looked for."""
    layer = Layer(id="l", name="l", kind="even-skin", values={"strength": 1.0})
    compiled = compile_effect(Effect(name="t", layers=[layer]), Material())
    program = compiled.program.final
    packed = json.loads(
        zipfile.ZipFile(io.BytesIO(write_package(Effect(name="t", layers=[layer]), Material()))).read("program.json")
    )
    read = {name for one in packed["passes"] for name in one["pictures"]}
    assert len(packed["passes"]) < len(program.plan.passes) - 4
    assert "region:face skin" in read
    assert not {"region:hair", "region:clothes"} & read
    moments = [as_floats(StandIn(*SIZE, Sitting("beekeeper", "talk", "shade")).moment(30, Reads(True, program.regions, True)))]
    moments = [replace(moments[0], clock=Clock.at(0))]
    wanted = np.clip(reference.run(program, moments[0], compiled.inputs, State(), half=True)[0], 0, 1) * 255
    for settled in (False, True):
        shown = player.play(program, moments, compiled.inputs, settled)[0]
        assert (np.abs(wanted - shown).max(axis=2) > 2).mean() <= 1e-3
    assert np.abs(wanted - moments[0].picture[..., :3] * 255).max() > 10


def test_what_hangs_on_controls_alone_is_drawn_anew_when_one_is_turned(player: Gpu) -> None:
    """The colours of make-up on the flat face: kept from frame to frame until lips are turned up, and back."""
    compiled = compile_effect(Effect(name="t", layers=[Layer(id="l", name="l", kind="make-up")]), Material())
    program = compiled.program.final
    assert program.lasting
    uniforms = compiled.inputs.uniforms
    (lips,) = (name for name in uniforms if name.endswith(".lips") and isinstance(uniforms[name], float))
    turned = [{lips: uniforms[lips]}] * 2 + [{lips: 1.0}] * 2 + [{lips: uniforms[lips]}]
    moments = []
    for n in range(len(turned)):
        seen = as_floats(StandIn(*SIZE, Sitting("lamp-tender", "still", "noon")).moment(0, Reads(True, program.regions, True)))
        moments.append(replace(seen, clock=Clock.at(n)))
    ours, pictures = State(), []
    for seen, given, shown in zip(moments, turned, player.play(program, moments, compiled.inputs, False, turned), strict=True):
        inputs = replace(compiled.inputs, uniforms=dict(uniforms) | given)
        wanted = np.clip(reference.run(program, seen, inputs, ours, half=True)[0], 0, 1) * 255
        assert (np.abs(wanted - shown).max(axis=2) > 2).mean() <= 1e-3
        pictures.append(shown.astype(int))
    assert np.abs(pictures[2] - pictures[1]).max() > 20


def test_what_was_left_out_meanwhile_is_drawn_of_what_is_there_now(player: Gpu) -> None:
    """A lasting pass that reads another: that one changes while the first is left out, and then it is needed again, its own
    numbers as they were."""
    much, gate = uniform("much"), uniform("gate")
    first = computed([v.to_float(leaf("pixel", 0)) * much * 0.01])
    second = computed([near(first, 0, 2, 0) * 0.5])
    program = Program((Vec(near(second, 0, 1, 0) * gate, near(first, 0, 3, 0), near(CAMERA, 2)),))
    assert len(program.lasting) == 2
    turned = [{"much": a, "gate": b} for a, b in ((1.0, 1.0), (0.5, 0.0), (0.5, 1.0), (0.5, 1.0), (1.0, 1.0))]
    camera = np.full((20, 64, 4), 0.5, np.float32)
    moments = [replace(Moment.of(camera), clock=Clock.at(n)) for n in range(len(turned))]
    state, room = State(), Room()
    for seen, given, shown in zip(moments, turned, player.play(program, moments, Inputs(turned[0]), False, turned), strict=True):
        wanted = np.clip(reference.run(program, seen, Inputs(given))[0], 0, 1)
        assert np.abs(wanted * 255 - shown).max() <= 2, given
        ours = np.moveaxis(draw(program, seen, Inputs(given), state, room)[:, :, :64], 0, 2)
        np.testing.assert_array_equal(np.clip(ours, 0, 1), wanted)
