"""Layers that cling to faces, on a GPU: the real player (SwiftShader) against NumPy, over moments in a row."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np
import pytest
from playwright.sync_api import Browser

from demo import adornments
from demo.wearing import HERON
from sunglaze.core.camera.cast import Sitting, StandIn
from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.effect.shipped import shipped
from sunglaze.core.material.models import read_model
from sunglaze.core.material.still import Still
from sunglaze.core.moment.moment import Moment, Reads
from sunglaze.core.passes.program import State
from sunglaze.core.targets import numpy as reference
from sunglaze.core.targets.memory import seen_as_floats
from sunglaze.parity.gpu import Gpu, gpu
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


@pytest.fixture(scope="module")
def player(browser: Browser) -> Iterator[Gpu]:
    with gpu(browser) as page:
        yield page


@pytest.fixture(scope="module")
def pictures() -> dict[str, np.ndarray]:
    room = adornments.boathouse()
    return {
        PAINT: adornments.tide_mask(),
        GLASSES: adornments.glasses(),
        ROOM: np.dstack([room, np.full(room.shape[:2], 255, np.uint8)]),
    }


def as_floats(seen: Moment) -> Moment:
    """The same with a picture of floats."""
    assert seen.picture is not None
    return Moment(seen.clock, seen.screen, faces=seen.faces, picture=seen_as_floats(seen.picture, SIZE[0]), regions=seen.regions)


@pytest.mark.parametrize(("kind", "values"), LAYERS)
def test_every_layer_of_faces_is_the_same_on_both(
    player: Gpu, pictures: dict[str, np.ndarray], kind: str, values: dict[str, Any]
) -> None:
    """Four frames in a row, of two people and as a tracker sees them: within 2 of 255 on 99.9 % of the pixels of each."""
    start = shipped()[kind].start
    layer = Layer(id="l", name=kind, kind=kind, blend=start.blend, opacity=start.opacity, values=values)
    compiled = compile_effect(
        Effect(name="t", layers=[layer]),
        Material(
            pictures={key: Still.of(one) for key, one in pictures.items()}, meshes={SOLID: read_model("bob.glb", moving()).mesh}
        ),
    )
    program = compiled.program.final
    for sitting, first in ((Sitting("beekeeper", "talk", "shade", tracked=True), 30), (Sitting("ferry-pilot", "two"), 60)):
        camera = StandIn(*SIZE, sitting)
        ours, theirs = State(), State()
        changed = False
        for frame in range(first, first + 4):
            seen = as_floats(camera.moment(frame, Reads(True, program.regions, True)))
            # Both begin with the first of them.
            seen = Moment(
                type(seen.clock).at(frame - first), seen.screen, faces=seen.faces, picture=seen.picture, regions=seen.regions
            )
            wanted = np.clip(reference.run(program, seen, compiled.inputs, ours, half=True)[0], 0, 1) * 255
            shown = player.run(program, seen, compiled.inputs, theirs)[0] * 255
            assert seen.picture is not None
            changed |= bool(np.abs(wanted - seen.picture[..., :3] * 255).max() > 20)
            off = np.abs(wanted - shown).max(axis=2) > 2
            assert off.mean() <= 1e-3, f"{sitting.who} {frame}: {off.sum()} pixels"
        assert changed, sitting
