"""Passes that ask for more than WebGL 2 promises (16 samplers, 224 vectors of uniforms: OpenGL ES 3.0, tables 6.31 and 6.34) are
split, and give the same picture to the bit."""

from __future__ import annotations

import numpy as np
import pytest

from sunglaze.core.colour.lut import cube, neutral
from sunglaze.core.effect.compiling import Compiled, compile_effect
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.effect.recipe import read_recipe
from sunglaze.core.effect.references import LookupRef
from sunglaze.core.material.still import Still
from sunglaze.core.passes.planning import Sweep
from sunglaze.core.targets.glsl import reads_person, slot_kinds
from tests.engines import drawn, readable

PROMISED_SAMPLERS, PROMISED_VECTORS = 16, 224
RNG = np.random.default_rng(3)
PICTURE = RNG.random((40, 24, 4), np.float32)
KEYS = [f"{n:064x}" for n in range(30)]


def graded(count: int) -> tuple[Effect, Material]:
    refs = [LookupRef(key) for key in KEYS[:count]]
    layers = [
        Layer(id=f"g{n}", name="g", kind="lookup-grade", opacity=0.7, values={"lookup": {"asset": ref.asset}})
        for n, ref in enumerate(refs)
    ]
    return Effect(name="t", layers=layers), Material(
        {ref: cube(neutral(5).table ** (0.9 + 0.01 * n)) for n, ref in enumerate(refs)}
    )


def summed(count: int) -> tuple[Effect, Material]:
    """One layer that adds up many pictures."""
    nodes = [{"id": f"a{n}", "kind": "asset-picture", "set": {"asset": KEYS[n]}} for n in range(count)]
    nodes += [{"id": f"c{n}", "kind": "sample"} for n in range(count)]
    nodes += [{"id": f"h{n}", "kind": "mix", "set": {"amount": 0.4}} for n in range(1, count)]
    wires = [{"from": f"a{n}.out", "to": f"c{n}.picture"} for n in range(count)]
    wires += [{"from": f"c{n}.out", "to": f"h{n}.b"} for n in range(1, count)]
    wires += [{"from": "c0.out" if n == 1 else f"h{n - 1}.out", "to": f"h{n}.a"} for n in range(1, count)]
    recipe = {"format": "sun-glaze/recipe", "nodes": nodes, "wires": wires, "result": f"h{count - 1}.out"}
    pixels = {key: RNG.integers(0, 255, (9, 7, 4), np.uint8) for key in KEYS[:count]}
    for one in pixels.values():
        one[..., 3] = 255
    effect = Effect(name="t", layers=[Layer(id="l", name="l", kind="own", recipe=read_recipe(recipe))])
    return effect, Material(pictures={key: Still.of(one) for key, one in pixels.items()})


def turned(count: int) -> tuple[Effect, Material]:
    """So many numbers that an artist may turn, four a fill, all in what would be one pass."""
    layers = []
    for at in range(0, count, 400):
        nodes = [{"id": f"n{n}", "kind": "add", "set": {"b": (n % 7 - 3) / 1000}} for n in range(min(400, count - at))]
        wires = [{"from": f"n{n}.out", "to": f"n{n + 1}.a"} for n in range(len(nodes) - 1)]
        nodes.append({"id": "below", "kind": "below"})
        wires.append({"from": "below.out", "to": "n0.a"})
        recipe = {"format": "sun-glaze/recipe", "nodes": nodes, "wires": wires, "result": f"n{len(nodes) - 2}.out"}
        layers.append(Layer(id=f"l{at}", name="l", kind="own", recipe=read_recipe(recipe)))
    return Effect(name="t", layers=layers), Material()


def asks(one: Sweep) -> tuple[int, int]:
    """Samplers, and vectors of uniforms at least, as the shader declares them."""
    kinds = slot_kinds(one)
    floats = sum(kind == "float" for kind in kinds)
    vectors = -(-floats // 4) + -(-(len(kinds) - floats) // 4) + len(one.tables) + 1
    return len(one.pictures) + len(one.tables) + reads_person(one), vectors


CASES = {"20 lookups": graded(20), "30 pictures in a layer": summed(30), "1,600 numbers": turned(1600)}


@pytest.mark.parametrize("name", CASES)
def test_no_pass_asks_for_more_than_devices_promise(name: str) -> None:
    effect, material = CASES[name]
    compiled = compile_effect(effect, material)
    plan = compiled.program.final.plan
    assert len(plan.passes) > 1
    for one in plan.passes:
        samplers, vectors = asks(one)
        assert samplers <= PROMISED_SAMPLERS
        assert vectors <= PROMISED_VECTORS
    assert np.array_equal(machine(compiled), truth(compiled))


def machine(compiled: Compiled) -> np.ndarray:
    return drawn(compiled.program.final, PICTURE, compiled.inputs, frame=0)[0]


def truth(compiled: Compiled) -> np.ndarray:
    """NumPy's way, which knows nothing of passes."""
    return readable(compiled.program.final, PICTURE, compiled.inputs, frame=0)[0]


def test_few_are_one_pass_as_ever() -> None:
    for effect, material in (graded(9), turned(300)):
        assert len(compile_effect(effect, material).program.final.plan.passes) == 1
