"""Groups of layers on the light path, and what moves the opacity and the mask of a layer."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from sunglaze.core.effect.address import DRIVE, MASK, address
from sunglaze.core.effect.compiling import compile_effect, has_same_form, inputs_of_effect
from sunglaze.core.effect.document import Effect, LayerGroup, moved, parse_effect
from sunglaze.core.effect.literals import Material
from sunglaze.core.errors import BadEffect
from tests.engines import drawn

GREY = np.full((32, 32, 4), 0.5, np.float32)
GREY[..., 3] = 1.0


def layer(identity: str, colour: str, **more: Any) -> dict[str, Any]:
    return {"id": identity, "name": identity, "kind": "fill", "values": {"colour": colour}, **more}


def effect(*layers: dict[str, Any], groups: list[dict[str, Any]] | None = None, version: int = 4) -> Effect:
    plain = {"format": "sun-glaze/effect", "version": version, "name": "t", "layers": list(layers)}
    return parse_effect(plain | ({"groups": groups} if groups else {}))


def shown(one: Effect, frame: int = 0) -> np.ndarray:
    compiled = compile_effect(one, Material())
    return drawn(compiled.program.final, GREY, compiled.inputs, frame=frame)[0]


def test_a_group_switched_off_takes_its_layers_along() -> None:
    red, green, blue = layer("a", "#ff0000"), layer("b", "#00ff00", group="g"), layer("c", "#0000ff", group="g")
    on = effect(red, green, blue, groups=[{"id": "g", "name": "Both"}])
    off = on.model_copy(update={"groups": [LayerGroup(id="g", name="Both", on=False)]})
    assert shown(on)[0, 0].tolist() == [0, 0, 1]
    assert shown(off)[0, 0].tolist() == [1, 0, 0]
    assert has_same_form(on, off)
    assert inputs_of_effect(off, Material()).uniforms["c.layer:opacity"] == 0.0


@pytest.mark.parametrize(
    ("groups", "members", "words"),
    [
        (["g"], ["g", None, "g"], "do not stand next to each other"),
        (["g"], ["h", None, None], "not among 'groups'"),
        (["g", "g"], [None, "g", "g"], "two groups have one id"),
    ],
)
def test_groups_that_do_not_hold_together_are_refused(groups: list[str], members: list[str | None], words: str) -> None:
    layers = [layer(name, "#000000", group=group) for name, group in zip("abc", members, strict=True)]
    with pytest.raises(BadEffect, match=words):
        effect(*layers, groups=[{"id": one, "name": one} for one in groups])


def test_opacity_is_driven() -> None:
    """From 0.2 to 1 in 2 s, at once back: a saw tooth, from its formula. What stands at opacity is then without meaning."""
    drive = {"kind": "pulse", "values": {"low": 0.2, "high": 1.0, "seconds": 2.0, "how": "loop"}}
    one = effect(layer("a", "#ffffff", opacity=0.1, drives={"layer:opacity": drive}))
    for frame in (0, 15, 30, 54):
        expected = 0.5 + 0.5 * (0.2 + 0.8 * (frame / 60))
        assert np.abs(shown(one, frame)[..., :3] - expected).max() < 1e-5
    off = effect(layer("a", "#ffffff", on=False, drives={"layer:opacity": drive}))
    assert np.abs(shown(off, 15) - 0.5).max() == 0
    assert shown(moved(one, address("a", f"{DRIVE}layer:opacity:low"), 1.0), 15)[..., :3].min() == 1.0


def test_a_mask_is_driven() -> None:
    """A circle that grows from a diameter of 0.2 to 0.8 of the short side in 1 s: its area is that of a circle, pi/4 d²."""
    drive = {"kind": "time-ramp", "values": {"start": 0.2, "end": 0.8, "seconds": 1.0, "easing": "linear"}}
    drives = {f"{MASK}width": drive, f"{MASK}height": drive}
    mask = {"kind": "circle", "values": {"soft": 0.0}}
    one = effect(layer("a", "#ffffff", mask=mask, drives=drives))
    picture = np.zeros((240, 240, 4), np.float32)
    picture[..., 3] = 1.0
    compiled = compile_effect(one, Material())
    for frame in (0, 15, 30):
        got = drawn(compiled.program.final, picture, compiled.inputs, frame=frame)[0]
        wide = 0.2 + 0.6 * frame / 30
        assert abs(got[..., 0].mean() - np.pi / 4 * wide**2) < 0.01
    without = {**layer("a", "#ffffff", drives=drives)}
    with pytest.raises(BadEffect, match="cannot be driven"):
        effect(without)


def test_effects_of_version_3_keep_their_numbers() -> None:
    """Single numbers of the decision list and the shifts of fringes became several numbers in one."""
    old = effect(
        {"id": "d", "name": "d", "kind": "decision-list", "values": {"slope": 1.2, "saturation": 0.5}},
        {"id": "f", "name": "f", "kind": "colour-fringes", "values": {"red_down": 0.01, "blue_right": 0.02, "red_turn": 2.0}},
        version=3,
    )
    assert old.layers[0].values == {"slope": [1.2, 1.2, 1.2], "saturation": 0.5}
    assert old.layers[1].values == {"red_shift": [0.006, 0.01], "blue_shift": [0.02, 0.0], "red_turn": 2.0}
