"""The language: folding, joining, rates, and the three printers on random computations and hostile inputs."""

from __future__ import annotations

import subprocess
import sys

import numpy as np
import pytest

from sunglaze.core.engine.kernel import kernel
from sunglaze.core.engine.machine import Run
from sunglaze.core.engine.running import is_quick, prepare
from sunglaze.core.language import functions as f
from sunglaze.core.language import vector as v
from sunglaze.core.language.expression import Rate, Value, constant, cube_entry, leaf, listing, ordered, record
from sunglaze.core.language.loops import repeat
from sunglaze.core.language.pictures import CAMERA, colour_here, fetch, here, near, passes_only_if, picture_of, sample
from sunglaze.core.language.vector import Vec
from sunglaze.core.nodes.filters import gaussian
from sunglaze.core.passes.program import Inputs, Program, source, uniform
from sunglaze.core.targets.glsl import fragment_shader
from sunglaze.core.targets.llvm import assembly
from sunglaze.core.targets.memory import blank, padded
from tests.engines import drawn, readable, words_drawn
from tests.often import often

HOSTILE = np.array([np.nan, np.inf, -np.inf, 0, -0.0, 3e38, -3e38, 1e-40, 1, 0.5], np.float32)


def test_constants_fold_and_equal_values_join() -> None:
    x = near(CAMERA, 0)
    assert (constant(2) * 3 + 1).attribute == (7.0,)
    assert x * 1.0 is x
    assert x + 0.0 is x
    order, places = ordered([(x + 1.0) * (x + 1.0)])
    assert sorted(value.op for value in order) == ["add", "const", "const", "mul", "near"]
    assert places == [4]


def test_rates_are_inferred() -> None:
    turned = uniform("turn") * 2.0
    assert constant(1).rate is Rate.CONSTANT
    assert turned.rate is Rate.FRAME
    assert (turned + near(CAMERA, 1)).rate is Rate.PIXEL


def test_text_form_is_stable_and_tells_signs_of_zero() -> None:
    out = [v.clamp01(near(CAMERA, 0) * uniform("gain"))]
    assert listing(out) == listing(out)
    assert any(" = mul %" in line and line.endswith(" : float pixel") for line in listing(out).splitlines())
    zeros = [constant(0.0), constant(-0.0)]
    assert len(ordered(zeros)[0]) == 2


def test_kinds_do_not_mix_in_silence() -> None:
    with pytest.raises(TypeError, match="takes int"):
        record("iadd", near(CAMERA, 0), 1)
    with pytest.raises(TypeError, match="no truth"):
        bool(near(CAMERA, 0) < 1.0)


def random_value(rng: np.random.Generator, depth: int) -> Value:
    """A random expression over the camera, the pixel's place, a uniform and a table."""
    if depth == 0:
        pick = rng.integers(0, 8)
        if pick < 3:
            return near(CAMERA, int(pick))
        if pick < 5:
            return v.to_float(leaf("pixel", int(pick) - 3)) * 0.05
        return uniform("u") if pick == 5 else constant(float(rng.normal()))
    a, b, c = (random_value(rng, depth - 1 - int(rng.integers(0, 2)) * (depth > 1)) for _ in range(3))
    match int(rng.integers(0, 18)):
        case 0:
            return a + b
        case 1:
            return a - b * c
        case 2:
            return a * b
        case 3:
            return v.divide(a, b)
        case 4:
            return v.mix(a, b, c)
        case 5:
            return v.clamp01(a)
        case 6:
            return v.floor(a * 3.0)
        case 7:
            return v.sqrt(a)
        case 8:
            return v.select((a < b) & ~(b < c), a, c)
        case 9:
            return record("abs", a)
        case 10:
            return v.maximum(a, v.minimum(b, c))
        case 11:
            return a / b
        case 12:
            return f.sin(a * 5.0) + f.cos(b)
        case 13:
            return f.exp(a) + f.log(b)
        case 14:
            return f.power(a, b) + f.atan2(b, c)
        case 15:
            return f.unit(f.hashed(v.to_int(a * 9.0), v.to_int(b * 9.0), 5))
        case 16:
            return fetch(CAMERA, int(rng.integers(0, 3)), v.to_int(a * 30.0), v.to_int(b * 30.0))
        case _:
            index = [v.to_int(x * 9.0) for x in (a, b, c)]
            return cube_entry("t", index[0], index[1], index[2], int(rng.integers(0, 3)))


def run_all(seed: int, camera: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """By the reference, by steps and by machine code."""
    rng = np.random.default_rng(seed)
    program = Program((Vec(*(random_value(rng, 4) for _ in range(3))),))
    table = np.zeros((5, 5, 5, 4), np.float32)
    table[..., :3] = rng.random((5, 5, 5, 3))
    inputs = Inputs({"u": float(rng.normal())}, {"t": table})
    wanted, steps = readable(program, camera, inputs)[0], drawn(program, camera, inputs)[0]
    prepare(program, "floats")
    return wanted, steps, drawn(program, camera, inputs)[0]


@pytest.mark.parametrize("count", often(12, 40))
def test_steps_and_machine_code_agree_with_numpy_on_random_graphs(count: int) -> None:
    """Within 1e-4 of the value's size. Left out: pixels whose reference itself moves when inputs move by a few units in the
    last place (check-values.md); the share is printed."""
    camera = np.random.default_rng(1).random((24, 40, 3)).astype(np.float32)
    nudged = camera * np.float32(1 + 4e-7)
    left_out = total = 0
    for seed in range(count):
        readable, *compiled = run_all(seed, camera)
        moved = run_all(seed, nudged)[0]
        with np.errstate(all="ignore"):
            scale = np.maximum(1, np.abs(readable))
            steady = np.abs(moved - readable) / scale < 2e-5
            wrong = [steady & (np.abs(picture - readable) / scale > 1e-4) for picture in compiled]
        left_out, total = left_out + int((~steady).sum()), total + steady.size
        assert not np.any(wrong), f"seed {seed}"
    print(f"left out: {100 * left_out / total:.2f} % of {total}")
    assert left_out < 0.2 * total


@pytest.mark.parametrize("count", often(15, 60))
def test_hostile_inputs_in_a_child_process(count: int) -> None:
    """NaN, infinities, huge numbers and huge table indices must neither trap nor read outside: a crash would end the child."""
    code = (
        "import numpy as np\n"
        "from tests.core.test_language import HOSTILE, run_all\n"
        "rng = np.random.default_rng(0)\n"
        f"for seed in range(100, {100 + count}):\n"
        "    run_all(seed, rng.choice(HOSTILE, (8, 16, 3)))\n"
        "print('alive')\n"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, timeout=300)
    assert done.stdout.strip() == "alive", done.stderr[-2000:]


def test_an_index_from_not_a_number_reads_inside() -> None:
    table = np.arange(2 * 2 * 2 * 4, dtype=np.float32).reshape(2, 2, 2, 4)
    wild = v.to_int(near(CAMERA, 0) * 1e30)
    camera = np.broadcast_to(HOSTILE[:8, None], (1, 8, 3)).copy()
    program = Program((Vec(*(cube_entry("t", wild, wild, wild, c) for c in range(3))),))
    assert set(drawn(program, camera, Inputs({}, {"t": table}))[0][..., 0].ravel().tolist()) <= {0.0, 28.0}
    ends = Program((Vec(*[fetch(CAMERA, 1, wild, wild)] * 3),))
    seen = drawn(ends, np.arange(24, dtype=np.float32).reshape(1, 8, 3), Inputs())[0]
    assert set(seen.ravel().tolist()) <= {1.0, 22.0}


def test_tables_and_pictures_of_another_shape_are_refused() -> None:
    program = Program((Vec(*[cube_entry("t", v.to_int(source().r), constant(0, "int"), constant(0, "int"), 0)] * 3),))
    small = Inputs({}, {"t": np.zeros((4, 4), np.float32)})
    with pytest.raises(ValueError, match="shape"):
        words_drawn(program, blank(2, 8), 8, small)
    one = Program((source(),)).plan.passes[0]
    made, room, slots = kernel(one, "bytes"), blank(2, 8), np.zeros(1, np.int32)
    for camera in (np.zeros((2, 8), np.float32), blank(2, 16)[:, ::2], np.zeros((0, 8), np.uint32)):
        with pytest.raises(ValueError, match="layout"):
            made.operands([(camera, 8)], [], 8)
    with pytest.raises(ValueError, match="layout"):
        made.run(Run(made.operands([(room, 8)], [], 8), blank(3, 8), slots, (8, 2)))


def test_bytes_pass_unchanged_and_bands_do_not_show() -> None:
    words = np.random.default_rng(3).integers(0, 2**32, (270, 32), dtype=np.uint32)
    shifted = Vec(*(near(CAMERA, c, 3, -2) for c in range(3)))
    for colour in (source(), shifted):
        out, alone = (words_drawn(Program((colour,)), words, 21, Inputs(), threads=n) for n in (3, 1))
        assert np.array_equal(out, alone)
    seen = words_drawn(Program((source(),)), words, 32, Inputs()).view(np.uint8).reshape(270, 32, 4)
    assert np.array_equal(seen[:, :, 2::-1], words.view(np.uint8).reshape(270, 32, 4)[:, :, :3])


def test_neighbours_and_borders_in_both_layouts() -> None:
    """Against NumPy's edge padding."""
    words = np.random.default_rng(4).integers(0, 2**32, (20, 32), dtype=np.uint32)
    pixels = words.view(np.uint8).reshape(20, 32, 4)[:, :21]
    padded = np.pad(pixels, ((30, 30), (30, 30), (0, 0)), mode="edge")
    for dx, dy in ((0, 0), (1, 0), (-9, 3), (30, -30), (20, 19)):
        program = Program((Vec(*(near(CAMERA, c, dx, dy) for c in range(3))),))
        want = padded[30 + dy : 50 + dy, 30 + dx : 51 + dx, :3]
        seen = words_drawn(program, words, 21, Inputs()).view(np.uint8).reshape(20, 32, 4)[:, :21, 2::-1]
        assert np.array_equal(seen, want)
        assert np.array_equal(np.rint(drawn(program, pixels / np.float32(255), Inputs())[0] * 255), want)


def test_equal_passes_share_a_kernel_whatever_their_uniforms_are_called() -> None:
    made = [kernel(Program((source() * uniform(name),)).plan.passes[0], "bytes") for name in ("same", "other")]
    assert made[0] is made[1]


def test_steps_give_what_machine_code_gives_and_are_replaced() -> None:
    program = Program((source().map(lambda c: f.sin(c * 7.0) * 0.5 + 0.5),))
    words = np.random.default_rng(6).integers(0, 2**32, (9, padded(16)), dtype=np.uint32)
    prepare(program, "bytes", quick=True)
    assert is_quick(program, "bytes")
    soon = words_drawn(program, words, 16, Inputs())
    prepare(program, "bytes")
    assert not is_quick(program, "bytes")
    late = words_drawn(program, words, 16, Inputs())
    assert np.array_equal(soon[:, :16], late[:, :16])


def test_constants_too_large_or_infinite_are_printed() -> None:
    for number in (1e300, float("inf"), -1e39):
        program = Program((source() * constant(number),))
        assert "uintBitsToFloat(" in fragment_shader(program.plan.passes[0])
        assert np.isinf(drawn(program, np.ones((1, 8, 3), np.float32), Inputs())[0]).all()


def test_the_shader_names_what_it_takes() -> None:
    text = fragment_shader(Program((source() * uniform("gain"),)).plan.passes[0])
    assert "uniform vec4 u[1];" in text
    assert "v" in text.split("result = ")[1]


def test_whole_numbers_are_total_on_all_ways() -> None:
    """32 bits, wrapping; division goes towards zero and by 0 gives 0. Against NumPy's wide integers."""
    numbers = np.array([0, 1, -1, 7, -7, 2**31 - 1, -(2**31), 12345, -98765], np.int64)
    a, b = (x.ravel() for x in np.meshgrid(numbers, numbers))
    safe = np.where(b == 0, 1, b)
    exact = {
        "iadd": a + b, "isub": a - b, "imul": a * b, "iand": a & b, "ior": a | b, "ixor": a ^ b,
        "idiv": np.where(b == 0, 0, np.sign(a) * np.sign(safe) * (np.abs(a) // np.abs(safe))),
        "shl": a << (b & 31), "shr": (a & 0xFFFFFFFF) >> (b & 31),
    }  # fmt: skip
    camera = np.zeros((1, len(a), 3), np.float32)
    column = leaf("pixel", 0)
    pick = [constant(0, "int")] * 2
    for n, pair in enumerate(zip(a, b, strict=True)):
        here = record("ieq", column, n)
        pick = [record("iselect", here, int(x), old) for x, old in zip(pair, pick, strict=True)]
    for op, want in exact.items():
        bits = record(op, *pick)
        halves = [v.to_float(record("iand", record("shr", bits, 16 * n), 0xFFFF)) for n in (0, 1)]
        program = Program((Vec(*halves, 0.0),))
        words = (want & 0xFFFFFFFF).astype(np.uint64)
        for seen in (drawn(program, camera, Inputs())[0], readable(program, camera, Inputs())[0]):
            low, high = seen[0, :, :2].astype(np.float64).T
            assert np.array_equal(low + high * 65536.0, words.astype(np.float64)), op
        folded = [record(op, constant(int(x), "int"), constant(int(y), "int")).attribute[0] for x, y in zip(a, b, strict=True)]
        assert np.array_equal(np.array(folded) & 0xFFFFFFFF, words.astype(np.int64)), op


@pytest.mark.parametrize(
    ("ours", "theirs", "low", "high", "bound"),
    [
        (f.sin, np.sin, -400.0, 400.0, 3e-6), (f.cos, np.cos, -400.0, 400.0, 3e-6), (f.exp, np.exp, -20.0, 5.0, 3e-5),
        (f.log, np.log, 1e-6, 900.0, 2e-6), (f.tan, np.tan, -1.4, 1.4, 1e-5), (v.sqrt, np.sqrt, 0.0, 90.0, 2e-6),
    ],
)  # fmt: skip
def test_functions_against_numpy(ours, theirs, low, high, bound) -> None:  # type: ignore[no-untyped-def]
    x = np.linspace(low, high, 3000, dtype=np.float32)
    camera = np.repeat(x[None, :, None], 3, axis=2)
    seen = drawn(Program((source().map(ours),)), camera, Inputs())[0][0, :, 0]
    assert np.abs(seen - theirs(x.astype(np.float64))).max() <= bound


def test_angles_and_powers_against_numpy() -> None:
    rng = np.random.default_rng(2)
    camera = np.concatenate([rng.uniform(-3, 3, (1, 4000, 2)), rng.uniform(0, 3, (1, 4000, 1))], axis=2).astype(np.float32)
    c = source()
    seen = drawn(Program((Vec(f.atan2(c.r, c.g), f.power(c.b, c.r), f.power(c.b, 0.0)),)), camera, Inputs())[0]
    y, x, base = np.moveaxis(camera.astype(np.float64), 2, 0)
    assert np.abs(seen[..., 0] - np.arctan2(y, x)).max() < 1e-6
    want = np.where(base > 0, np.maximum(base, 1e-30) ** y, 0)
    assert (np.abs(seen[..., 1] - want) / np.maximum(1, want)).max() < 2e-5
    assert (seen[..., 2] == 1).all()


def test_loops_are_sums() -> None:
    """A loop with a count from a uniform, one inside it, and values from outside; against NumPy."""
    rng = np.random.default_rng(3)
    camera = rng.random((6, 19, 3)).astype(np.float32)
    count = v.to_int(uniform("count"))
    gain = near(CAMERA, 1)

    def outer(n: Value, states: tuple[Value, ...]) -> list[Value]:
        inner = repeat(record("iadd", n, 1), 9, [v.value(0.0)], lambda m, s: [s[0] + gain * v.to_float(m)])
        return [states[0] + near(CAMERA, 0, n) + inner[0], states[1] * 0.5]

    total, half = repeat(count, 5, [v.value(0.0), v.value(1.0)], outer)
    program = Program((Vec(total, half, 0.0),))
    padded = np.pad(camera[..., 0], ((0, 0), (0, 9)), mode="edge")
    for turns in (-3, 0, 3, 5, 900):
        n = min(max(turns, 0), 5)
        want = sum((padded[:, k : k + 19] + camera[..., 1] * sum(range(k + 1)) for k in range(n)), np.zeros((6, 19)))
        inputs = Inputs({"count": float(turns)})
        for seen in (drawn(program, camera, inputs)[0], readable(program, camera, inputs)[0]):
            assert np.abs(seen[..., 0] - want).max() < 1e-5
            assert (seen[..., 1] == 0.5**n).all()


def test_what_is_alike_along_a_row_is_computed_once_a_row() -> None:
    """As numbers, conditions, whole numbers, rows that are read, and inside a loop; to the bit what the reference gives."""
    camera = np.random.default_rng(3).random((23, 70, 3)).astype(np.float32)
    row = leaf("pixel", 1)
    wave = f.sin(v.to_float(row) * uniform("u"))
    low = wave < 0.0

    def turn(n: Value, states: tuple[Value, ...]) -> list[Value]:
        return [states[0] * 0.5 + v.sqrt(v.absolute(wave)) * v.to_float(n), states[1] + v.select(low, near(CAMERA, 0, n), wave)]

    summed, mixed = repeat(constant(4, "int"), 9, [wave, near(CAMERA, 1)], turn)
    bits = f.hashed(7, row, leaf("pixel", 0))
    far = fetch(CAMERA, 2, leaf("pixel", 0), f.iadd(row, v.to_int(wave * 40.0)))
    program = Program((Vec(v.select(low, summed, near(CAMERA, 0)), mixed, far + f.unit(bits)),))
    inputs = Inputs({"u": 0.7})
    prepare(program, "floats")
    assert np.array_equal(drawn(program, camera, inputs)[0], readable(program, camera, inputs)[0])
    text = assembly(program.plan.passes[0], "floats")
    once = text[text.index("\nrow:") : text.index("\ncolumns:")]
    assert "@llvm.sqrt.f32" in once
    assert "@llvm.sqrt.v" not in text


def test_a_pass_ends_where_a_picture_is_needed_and_is_read_again() -> None:
    graded = source().map(lambda c: f.sin(c * 3.0))
    picture = picture_of(v.rgba(graded, 1.0))
    moved = sample(picture, here() + 0.01)
    program = Program((v.mix3(graded, moved.rgb, uniform("t")),))
    assert [p.target is None for p in program.plan.passes] == [False, True]
    # What the first pass stored is not computed again in the second.
    assert "bits" not in program.plan.passes[1].text
    assert " floor " in program.plan.passes[1].text
    assert picture_of(source_colour()) is CAMERA
    camera = np.random.default_rng(8).random((12, 30, 3)).astype(np.float32)
    inputs = Inputs({"t": 0.4})
    assert np.abs(drawn(program, camera, inputs)[0] - readable(program, camera, inputs)[0]).max() < 1e-5


def test_passes_of_layers_that_are_off_are_left_out() -> None:
    amount = uniform("amount")
    with passes_only_if(amount > 0.0):
        soft = colour_here(gaussian(CAMERA, v.value(3.0)))
    program = Program((v.mix3(source(), soft.rgb, amount),))
    # The blur's last pass is joined with the frame's.
    assert [p.enabled is not None for p in program.plan.passes] == [True, True, False]
    camera = np.random.default_rng(8).random((12, 30, 3)).astype(np.float32)
    assert np.array_equal(drawn(program, camera, Inputs({"amount": 0.0}))[0], camera)


def source_colour() -> Vec:
    return v.rgba(source(), 1.0)
