"""Every control of everything that ships can be turned, saved, read again and driven; no name hides another."""

from __future__ import annotations

import gc
import json
import weakref

import numpy as np
import pytest

from sunglaze.core import cache as kept
from sunglaze.core.cache import ByteCache
from sunglaze.core.effect.address import LAYER, MASK, address
from sunglaze.core.effect.compiling import compile_effect, has_same_form, inputs_of_effect
from sunglaze.core.effect.document import OPACITY, PARTS, Effect, Layer, LayerMask, moved, parse_effect, set_control
from sunglaze.core.effect.literals import Material
from sunglaze.core.effect.motions import Cue, Dial, Drive
from sunglaze.core.effect.recipe import read_recipe
from sunglaze.core.effect.recording import check_recipe
from sunglaze.core.effect.shipped import cue_recipes, drive_recipes, mask_recipes, shipped
from sunglaze.core.errors import BadEffect
from sunglaze.core.face.model import face_mesh
from sunglaze.core.material.still import Still
from sunglaze.core.nodes.catalogue import CATALOGUE
from sunglaze.core.nodes.node import Port
from tests.engines import drawn

PICTURE = np.random.default_rng(2).random((24, 16, 4), np.float32)
HASH = "a" * 64
MATERIAL = Material(pictures={HASH: Still.of(np.full((5, 4, 4), 200, np.uint8))}, meshes={HASH: face_mesh()})


def another(port: Port) -> object:
    """A value that the control does not stand at, in its range."""
    kind, now = port.kind, port.default
    low = kind.low if kind.low is not None else 0.0
    high = kind.high if kind.high is not None else 1.0
    near, far = low + (high - low) * 0.25, low + (high - low) * 0.75
    by_type: dict[str, object] = {
        "boolean": not now,
        "whole": int(far) if now != int(far) else int(near),
        "colour": "#336699",
        "text": {"text": "Other words"},
        "asset": HASH,
        "stage": "camera",
        "curves": {"red": [[0, 0], [0.5, 0.7], [1, 1]]},
        "hues": {"turn": [[40, 20]], "over": [[0.2, 0.5], [0.7, -0.5]]},
        "path": {"points": [[0, 0], [0.3, 0], [0, 0.3]], "smooth": False},
        "painting": {"shapes": [{"points": [[0.1, 0.1], [0.9, 0.1], [0.5, 0.9]], "smooth": False, "fill": "#203040"}]},
        "mesh": {"asset": HASH, "motion": None, "speed": 1.0},
        "lookup": None,
        "cue": "press",
        "dial": None,
    }
    if kind.name == "choice":
        return next(one for one in kind.choices if one != now)
    if kind.name in by_type:
        return by_type[kind.name]
    if kind.name.startswith("vec") or isinstance(now, tuple | list):
        return [near] * (int(kind.name[3]) if kind.name.startswith("vec") else len(now))  # type: ignore[arg-type]
    return far if now != far else near


def with_layer(layer: Layer) -> Effect:
    return Effect(name="t", layers=[layer])


def turned_saved_and_drawn(effect: Effect, control: str, value: object) -> Effect:
    """The effect with a control turned, written and read again as the store does it, and drawn."""
    again = parse_effect(moved(effect, address("l", control), value).model_dump_json(by_alias=True))
    compiled = compile_effect(again, MATERIAL)
    assert np.isfinite(drawn(compiled.program.final, PICTURE, compiled.inputs, frame=3)[0]).all()
    return again


@pytest.mark.parametrize("kind", shipped())
def test_every_control_of_a_ready_made_layer(kind: str) -> None:
    before = with_layer(Layer(id="l", name="L", kind=kind))
    for port in before.layers[0].controls():
        value = another(port)
        if value is not None:
            assert turned_saved_and_drawn(before, port.name, value).layers[0].values[port.name] == value
    for name, port in before.layers[0].driveable().items():
        drive = Drive(kind="pulse", values={"low": port.kind.low or 0.0, "high": port.kind.high or 1.0})
        if port.kind.name == "colour":
            drive = Drive(kind="dial-colour", values={"dial": "hue"})
        driven = with_layer(before.layers[0].model_copy(update={"drives": {name: drive}}))
        driven = driven.model_copy(update={"dials": [Dial(id="hue", title="Hue", kind="colour", start="#336699")]})
        if port.kind.name != "colour":
            turned_saved_and_drawn(driven, f"drive:{name}:seconds", 0.5)
        else:
            turned_saved_and_drawn(driven, "dial:hue:start", "#996633")


@pytest.mark.parametrize("kind", mask_recipes())
def test_every_control_of_a_mask(kind: str) -> None:
    before = with_layer(Layer(id="l", name="L", kind="fill", mask=LayerMask(kind=kind)))
    for port, _ in before.layers[0].mask_set():
        value = another(port)
        if value is not None:
            again = turned_saved_and_drawn(before, f"{MASK}{port.name}", value)
            assert again.layers[0].mask is not None
            assert again.layers[0].mask.values[port.name] == value


@pytest.mark.parametrize("kind", drive_recipes())
def test_every_value_of_a_drive(kind: str) -> None:
    control = "colour" if drive_recipes()[kind].family == "colour" else OPACITY.name
    drives = {control: Drive(kind=kind)}
    before = with_layer(Layer(id="l", name="L", kind="fill", drives=drives))
    before = before.model_copy(update={"dials": [Dial(id="strength", title="Strength")]})
    for port in Drive(kind=kind).controls():
        value = {"cue": "press", "dial": "strength"}.get(port.kind.name, another(port))
        if value is not None:
            again = turned_saved_and_drawn(before, f"drive:{control}:{port.name}", value)
            assert again.layers[0].drives[control].values[port.name] == value


@pytest.mark.parametrize("kind", cue_recipes())
def test_every_value_of_a_cue(kind: str) -> None:
    drive = Drive(kind="cued-switch", values={"cue": "c", "low": 0.0, "high": 1.0})
    before = with_layer(Layer(id="l", name="L", kind="fill", drives={OPACITY.name: drive}))
    before = before.model_copy(update={"cues": [Cue(id="c", name="C", kind=kind)]})
    for port in before.cues[0].controls():
        value = another(port)
        if value is not None:
            again = turned_saved_and_drawn(before, f"cue:c:{port.name}", value)
            assert again.cues[0].values[port.name] == value


def own_with(control: str) -> Layer:
    """A layer of one's own whose control has the name of something that every layer has."""
    nodes = [{"id": "n", "kind": "number", "set": {"value": 1.0}}, {"id": "g", "kind": "colour"}, {"id": "m", "kind": "multiply"}]
    wires = [{"from": "g.out", "to": "m.a"}, {"from": "n.out", "to": "m.b"}]
    inputs = [{"id": control, "to": ["n.value"], "low": 0, "high": 1}]
    plain = {"format": "sun-glaze/recipe", "nodes": nodes, "wires": wires, "inputs": inputs, "result": "m.out"}
    return Layer(id="l", name="L", kind="own", recipe=read_recipe(plain))


@pytest.mark.parametrize("name", PARTS)
def test_a_control_named_as_a_part_of_every_layer_is_another_thing(name: str) -> None:
    """*Colour map* could not turn its *Light*; a control called opacity let a layer that is off paint."""
    effect = with_layer(own_with(name))
    turned = turned_saved_and_drawn(effect, name, 0.25)
    assert turned.layers[0].values == {name: 0.25}
    assert {part: getattr(turned.layers[0], part) for part in PARTS} == {part: getattr(effect.layers[0], part) for part in PARTS}
    off = moved(turned, address("l", f"{LAYER}on"), False)
    compiled = compile_effect(off, Material())
    assert np.array_equal(drawn(compiled.program.final, PICTURE, compiled.inputs)[0], PICTURE[..., :3])
    # From a shell the short name means the control; the long one what every layer has.
    assert set_control(effect, f"L.{name}=0.5").layers[0].values == {name: 0.5}
    assert set_control(effect, "L.layer:opacity=0.5").layers[0].opacity == 0.5


def test_a_drive_of_the_opacity_of_an_older_version_is_read() -> None:
    old = {"format": "sun-glaze/effect", "version": 4, "name": "t"}
    old["layers"] = [{"id": "l", "name": "L", "kind": "fill", "drives": {"opacity": {"node": "pulse"}}}]  # type: ignore[assignment]
    assert list(parse_effect(json.dumps(old)).layers[0].drives) == [OPACITY.name]


def test_what_every_layer_has_is_a_short_list() -> None:
    with pytest.raises(BadEffect, match="a layer has no 'layer:kind'"):
        moved(with_layer(Layer(id="l", name="L", kind="fill")), address("l", "layer:kind"), "own")


def test_recordings_that_are_kept_hold_no_pictures() -> None:
    """Sixty edits had kept sixty decoded pictures alive."""
    alive = []
    for n in range(12):
        key = f"{n:064x}"
        pixels = np.full((9, 9, 4), n, np.uint8)
        alive.append(weakref.ref(pixels))
        material = Material(pictures={key: Still.of(pixels)})
        compile_effect(with_layer(Layer(id="l", name="L", kind="cut-out", values={"picture": key})), material)
        del pixels, material
    gc.collect()
    assert [one() for one in alive] == [None] * 12


def test_a_number_goes_with_a_vector_on_either_side() -> None:
    """A rule's own failure had been told as the artist's fault: 1 minus a colour was refused. Against NumPy."""
    for kind, rule in (("subtract", np.subtract), ("add", np.add), ("multiply", np.multiply), ("divide", np.divide)):
        nodes = [{"id": "n", "kind": "number", "set": {"value": 0.75}}, {"id": "b", "kind": "below"}, {"id": "m", "kind": kind}]
        wires = [{"from": "n.out", "to": "m.a"}, {"from": "b.out", "to": "m.b"}]
        recipe = read_recipe({"format": "sun-glaze/recipe", "nodes": nodes, "wires": wires, "result": "m.out"})
        assert check_recipe(recipe) == []
        compiled = compile_effect(with_layer(Layer(id="l", name="L", kind="own", recipe=recipe)), Material())
        seen = drawn(compiled.program.final, PICTURE, compiled.inputs)[0]
        assert np.abs(seen - np.clip(rule(0.75, PICTURE[..., :3].astype(np.float64)), 0, 1)).max() < 1e-5


def test_a_failure_of_a_rule_is_no_fault_of_a_recipe(monkeypatch: pytest.MonkeyPatch) -> None:
    def failing(**_given: object) -> None:
        raise TypeError("a defect")

    monkeypatch.setattr(CATALOGUE["add"].__class__, "record", lambda self, given: failing())
    recipe = read_recipe({"format": "sun-glaze/recipe", "nodes": [{"id": "n", "kind": "add"}], "result": "n.out"})
    with pytest.raises(TypeError, match="a defect"):
        check_recipe(recipe)


def test_opacity_moves_without_a_new_program() -> None:
    before = with_layer(Layer(id="l", name="L", kind="fill"))
    after = moved(before, address("l", OPACITY.name), 0.5)
    assert has_same_form(before, after)
    assert inputs_of_effect(after, Material()).uniforms[f"l.{OPACITY.name}"] == 0.5


def test_a_cache_holds_so_many_bytes_and_lets_the_least_used_go() -> None:
    made: list[str] = []
    cache = ByteCache(100)

    def ask(key: str, size: int = 40) -> bytes:
        return cache.get(key, lambda: (made.append(key), b"0" * size)[1], len)

    for key in ("a", "b", "a", "c", "a", "b"):
        ask(key)
    # c took the place of b, which had not been asked for as lately as a.
    assert made == ["a", "b", "c", "b"]
    assert (cache.bytes, len(cache), cache.hits, cache.misses, cache.evicted) == (80, 2, 2, 4, 2)
    assert len(ask("large", 101)) == 101
    assert cache.bytes == 80


def test_masks_are_kept_packed_and_come_back_as_they_were(monkeypatch: pytest.MonkeyPatch) -> None:
    """The outside is what was made: 40 masks of half a megabyte in a cache of two, each the same when it is asked for again, and
    the latest the same array, by which a paused picture sees that nothing has changed."""
    small = ByteCache(2_000_000)
    monkeypatch.setattr(kept, "CACHE", small)
    rows, columns = np.mgrid[0:960, 0:540]
    masks = [
        np.where((rows - 480) ** 2 + (columns - 270) ** 2 < (100 + n) ** 2, 255, 0).astype(np.uint8)[..., None] for n in range(40)
    ]
    made: list[int] = []

    def ask(n: int) -> np.ndarray:
        return kept.kept_mask(("test of masks", n), lambda: (made.append(n), masks[n])[1], "loop")

    for _ in range(2):
        assert all(np.array_equal(ask(n), masks[n]) for n in range(40))
    assert made == list(range(40))
    assert ask(39) is ask(39)
    assert small.bytes < 40 * masks[0].nbytes / 20
