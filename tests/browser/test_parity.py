"""The same picture on a GPU: the real player (SwiftShader) against the NumPy reference, within 2 of 255 (check-values.md).

All nodes and two hundred graphs are `sunglaze parity`; here is every node once, and some graphs.
"""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import replace

import numpy as np
import pytest
from playwright.sync_api import Browser, Page

from sunglaze.core.colour.lut import Lut, cube
from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.effect.references import LookupRef
from sunglaze.core.language.vector import Vec
from sunglaze.core.moment.moment import Clock, Moment, Screen, Touch
from sunglaze.core.nodes.blend import MODES
from sunglaze.core.nodes.catalogue import CATALOGUE, FAMILIES
from sunglaze.core.nodes.time import EASINGS, bezier
from sunglaze.core.passes.program import Floats, Program, State, uniform
from sunglaze.core.passes.signals import run_once
from sunglaze.core.targets.fitting import fitted
from sunglaze.parity.command import run as parity
from sunglaze.parity.comparing import compare
from sunglaze.parity.generating import graph_case, node_cases
from sunglaze.parity.gpu import Gpu, gpu
from tests.core.test_splitting import CASES
from tests.engines import readable
from tests.grades import random_cube, sample_picture, smooth_grade
from tests.layers import fill, grade
from tests.signals import random_signals

PICTURE = np.concatenate([sample_picture(96, 64, 5), np.full((96, 64, 1), 255, np.uint8)], axis=2)
CAMERA = PICTURE.astype(np.float32) / np.float32(255)


@pytest.fixture(scope="module")
def player(browser: Browser) -> Iterator[Gpu]:
    with gpu(browser) as page:
        yield page


def wanted(effect: Effect, material: Material, camera: Floats = CAMERA) -> np.ndarray:
    compiled = compile_effect(effect, material)
    return np.clip(readable(compiled.program.final, camera, compiled.inputs)[0], 0, 1) * 255


def shown(player: Gpu, effect: Effect, material: Material) -> np.ndarray:
    compiled = compile_effect(effect, material)
    return player.run(compiled.program, Moment.of(PICTURE), compiled.inputs)[0] * 255


@pytest.mark.parametrize("part", range(4))
def test_blend_modes(player: Gpu, part: int) -> None:
    """Every mode once, in four effects, so that one faulty mode cannot hide under the next."""
    rng = np.random.default_rng(3)
    layers = [fill(f"l{n}", "#" + rng.bytes(3).hex(), mode, blend=mode, opacity=0.35) for n, mode in enumerate(MODES)]
    effect = Effect(name="t", layers=layers[part::4])
    assert np.abs(shown(player, effect, Material()) - wanted(effect, Material())).max() <= 2


LUTS: dict[str, Lut] = {
    "random cube": random_cube(1, 9),
    "smooth cube of 65 steps with a domain": cube(smooth_grade(np.random.default_rng(4), 65).table, (-0.1, 0, 0), (1, 1.3, 1)),
    "long curves": cube(np.random.default_rng(5).random((5000, 3))),
}


@pytest.mark.parametrize("interpolation", ["tetrahedral", "trilinear"])
@pytest.mark.parametrize("kind", LUTS)
def test_lookups(player: Gpu, kind: str, interpolation: str) -> None:
    ref = LookupRef(asset="2" * 64)
    effect = Effect(name="t", layers=[grade("g", ref, strength=0.8, interpolation=interpolation)])
    material = Material({ref: LUTS[kind]})
    want = wanted(effect, material)
    # Curves of noise jump at every code; leave out pixels whose reference moves with the last place of the input.
    moved = np.abs(wanted(effect, material, CAMERA * np.float32(1 + 3e-7)) - want) > 0.5
    wrong = (np.abs(shown(player, effect, material) - want) > 2) & ~moved
    print(f"left out: {100 * moved.mean():.2f} %")
    assert moved.mean() < 0.02
    assert not wrong.any()


@pytest.mark.parametrize("family", FAMILIES)
def test_every_node_three_ways(player: Gpu, family: str) -> None:
    """The first case of each node: its first choices, inputs that differ from pixel to pixel where it takes them."""
    left_out = []
    for node in CATALOGUE.values():
        if node.family == family:
            outcome = compare(next(iter(node_cases(node, 3))), player)
            assert outcome.good, outcome
            left_out.append(outcome.left_out)
    print(f"{family}: left out {100 * np.mean(left_out):.3f} %")
    assert np.mean(left_out) < 0.001


@pytest.mark.parametrize("seed", [4, 12, 34, 3770])
def test_corners_that_span_nothing_are_the_same_on_both(player: Gpu, seed: int) -> None:
    """Quadrilaterals that cross themselves, or of which corners lie on each other: one way had seen what the other had not."""
    outcome = compare(next(iter(node_cases(CATALOGUE["pin-corners"], seed))), player)
    assert outcome.good, outcome
    assert outcome.left_out < 0.02


@pytest.mark.parametrize("name", CASES)
def test_passes_that_were_split_give_the_same_on_the_gpu(player: Gpu, name: str) -> None:
    effect, material = CASES[name]
    assert np.abs(shown(player, effect, material) - wanted(effect, material)).max() <= 2


@pytest.mark.parametrize("seed", range(8))
def test_random_graphs(player: Gpu, seed: int) -> None:
    outcome = compare(graph_case(seed), player)
    print(f"left out {100 * outcome.left_out:.2f} %")
    assert outcome.good, outcome


def test_signal_programs_agree_over_a_thousand_frames(player: Gpu) -> None:
    """Both interpreters on every kind of state cell, with random inputs: within 1e-6."""
    rng = np.random.default_rng(11)
    numbers = random_signals(uniform("x"), uniform("y"))
    padded = [*numbers, *numbers[: -len(numbers) % 3]]
    program = Program(tuple(Vec(*padded[n : n + 3]) for n in range(0, len(padded), 3)))
    moments = [Moment(Clock(n, n / 30, float(rng.uniform(0.01, 0.06)), 5), Screen(64, 96)) for n in range(1000)]
    given = [{"x": float(rng.normal()), "y": float(rng.random())} for _ in moments]
    state = State()
    ours = np.array([program.signals.run(m, g, state.cells) for m, g in zip(moments, given, strict=True)], float)
    theirs = np.array(player.signals(program, moments, given))
    assert ours.shape == theirs.shape
    assert ours.shape[1] >= len(numbers)
    assert np.abs(ours - theirs).max() < 1e-6
    assert (ours.std(axis=0) > 0).sum() >= len(numbers) - 1


COUNTED = """() => {
  const counted = WebGL2RenderingContext.prototype, plain = counted.drawArrays
  window.drawn = 0
  counted.drawArrays = function (...given) { window.drawn++; return plain.apply(this, given) }
}"""


def test_a_program_is_timed_with_its_masks(player: Gpu) -> None:
    """What `./run bench` measures SwiftShader by; speed itself is no matter for a test, but every pass of every frame must be
    drawn: of one frame before the clock runs, and of three."""
    layer = Layer(id="l", name="Cut-out", kind="cut-out")
    compiled = compile_effect(Effect(name="t", layers=[layer]), Material())
    program = compiled.program.final
    player.evaluate(COUNTED, None)
    player.milliseconds(program, compiled.inputs, Moment.of(PICTURE), 3)
    lasting = len(program.lasting)
    assert player.evaluate("() => window.drawn", None) == 4 * (len(program.plan.passes) - lasting) + lasting


REFUSED = """async ({ program }) => {
  const { Player, partsOf } = await import('/player.js')
  const counted = WebGL2RenderingContext.prototype, { createProgram, deleteProgram, createTexture, deleteTexture } = counted
  let held = 0
  counted.createProgram = function () { held++; return createProgram.call(this) }
  counted.createTexture = function () { held++; return createTexture.call(this) }
  counted.deleteProgram = function (one) { held--; deleteProgram.call(this, one) }
  counted.deleteTexture = function (one) { held--; deleteTexture.call(this, one) }
  program.passes.push({ ...program.passes[0], fragment: 'no shader' })
  const canvas = document.createElement('canvas')
  let listened = 0
  canvas.addEventListener = (kind, act, { signal }) => { listened++; signal.addEventListener('abort', () => listened--) }
  let said = ''
  try {
    const pictures = new Map([['asset:a', new ImageData(2, 2)]])
    new Player(canvas, program, { tables: [], pictures, parts: await partsOf(program) })
  } catch (error) {
    said = error.message
  }
  Object.assign(counted, { createProgram, deleteProgram, createTexture, deleteTexture })
  return { said, held, listened }
}"""


def test_a_program_that_a_device_refuses_leaves_nothing_behind(player: Gpu) -> None:
    """Its programs, textures and listeners had stayed."""
    compiled = compile_effect(Effect(name="t", layers=[fill("a"), fill("b", blend="multiply")]), Material())
    order = player._order(compiled.program.final, compiled.inputs, [Moment.of(PICTURE)], 0)
    found = player.evaluate(REFUSED, {"program": order["program"]})
    assert found["said"].startswith("This device cannot run the effect")
    assert (found["held"], found["listened"]) == (0, 0)


def test_a_trail_fades_by_the_time_that_passed(player: Gpu) -> None:
    """A phone has no picture of the frames that it left out: 0.9 a frame at 30 a second, whatever it draws."""
    compiled = compile_effect(
        Effect(name="t", layers=[Layer(id="l", name="T", kind="trails", values={"length": 0.9, "how": "lighten"})]), Material()
    )
    white, black = np.full((8, 8, 4), 255, np.uint8), np.array([[[0, 0, 0, 255]] * 8] * 8, np.uint8)
    for every in (1, 2, 3):
        moments = [Moment.of(black if n else white, n) for n in range(0, 13, every)]
        seen = player.play(compiled.program.final, moments, compiled.inputs)
        for moment, one in zip(moments, seen, strict=True):
            assert np.abs(one - 255 * 0.9**moment.clock.frame).max() <= 1, (every, moment.clock.frame)


@pytest.mark.parametrize("sizes", [((36, 64), (18, 32)), ((18, 32), (36, 64)), ((36, 64), (64, 36)), ((64, 36), (20, 20))])
def test_what_is_frozen_fills_a_screen_that_becomes_another(player: Gpu, sizes: tuple[tuple[int, int], tuple[int, int]]) -> None:
    """A phone that is turned, or draws smaller from now on: a ramp stays one, cut to the new shape around its middle."""
    compiled = compile_effect(Effect(name="t", layers=[Layer(id="l", name="F", kind="freeze")]), Material())
    moments, ramps = [], []
    for frame in range(6):
        columns, rows = sizes[frame > 3]
        down, across = np.mgrid[:rows, :columns].astype(np.float32)
        ramp = np.stack([across * (200 / columns), down * (200 / rows), np.full_like(down, 9), np.full_like(down, 255)], axis=-1)
        picture = np.rint(ramp if frame < 2 else ramp * 0.5).astype(np.uint8)
        moments.append(replace(Moment.of(picture, frame), touch=Touch(down=frame > 0, taps=int(frame > 0))))
        ramps.append(ramp[..., :3])
    seen = player.play(compiled.program.final, moments, compiled.inputs)
    assert np.abs(seen[3] - ramps[1]).max() <= 1
    wanted = fitted(ramps[1], *sizes[1])
    for one in seen[4:]:
        # Halves and doubles of pixels fall elsewhere by one library than by another: a step of the ramp at most.
        assert np.abs(one - wanted).max() <= 1 + 200 / min(sizes[0])


def test_the_command_says_the_worst_figures() -> None:
    words, good = parity("add,film-grain", 3, 2, 2, False, True)
    plain = json.loads(words)
    assert good
    assert plain["nodes"]["cases"] == 4
    assert plain["meshes"]["cases"] == 2
    assert 0 <= plain["graphs"]["worst_cpu"]["off"] <= 1e-4


def test_easings_against_chromiums_web_animations(page: Page) -> None:
    """The progress that the browser computes for CSS's named easings, at 21 places each."""
    theirs = page.evaluate(
        """(easings) => easings.map((easing) => Array.from({ length: 21 }, (_, n) => {
            const element = document.createElement('div')
            document.body.append(element)
            const animation = element.animate([{ opacity: 0 }, { opacity: 1 }], { duration: 1000, easing, fill: 'both' })
            animation.pause()
            animation.currentTime = n * 50
            return animation.effect.getComputedTiming().progress
        }))""",
        [name.replace(" ", "-").replace("ease-in-and-out", "ease-in-out") for name in EASINGS],
    )
    for (name, points), wanted in zip(EASINGS.items(), theirs, strict=True):
        ours = [run_once(bezier(uniform("t"), *points), {"t": n / 20}) for n in range(21)]
        assert np.abs(np.array(ours, float) - np.array(wanted)).max() < 1e-4, name
