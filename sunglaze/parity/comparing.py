"""Four ways to one picture: NumPy, steps, machine code, and the GPU player. Bounds are those of shared/check-values.md.

A pixel whose reference itself moves by more than the bound when its inputs move by a few units in the last place (the edge of
a step) is left out, and the share of those is told. For the GPU, so is one whose reference moves when pictures between passes
are rounded to half precision, as they are there; of a random graph also one whose reference moves when they are rounded either
way by chance, the camera's, too: graphs turn angles into colours and cut ramps into hard steps.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import partial
from typing import Any

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.disk_cache import CODE, unnamed
from sunglaze.core.engine import running
from sunglaze.core.engine.engine import Engine
from sunglaze.core.moment.moment import Moment
from sunglaze.core.passes.program import Floats, Inputs, Program, State
from sunglaze.core.targets import numpy as reference
from sunglaze.parity.generating import Case
from sunglaze.parity.gpu import Gpu

CPU_BOUND = 1e-4
GPU_BOUND = 2.0
HALF_PLACE, TRIES, MORE_TRIES = 2.0**-11, 8, 64
NUDGE = 2.4e-7
"""Parts of a number by which inputs are moved: two units in the last place."""
WAYS: tuple[float | int, ...] = (1 + NUDGE, 1 - NUDGE, 1, 2, 3, 4)
"""All by one factor, then by chance, with these seeds: one factor for all corners leaves a quadrilateral's shape as it is."""
SIZE = (40, 28)
LATE = 41


@dataclass(frozen=True)
class Outcome:
    """`cpu`: NumPy against steps and machine code, relative above 1. `gpu`: NumPy against the player, of 255; none where not run.

    `left_out`: share of the values that stand at an edge. `finite`: whether no output was NaN.
    """

    name: str
    cpu: float
    gpu: float | None
    left_out: float
    finite: bool

    @property
    def good(self) -> bool:
        return self.finite and self.cpu <= CPU_BOUND and (self.gpu is None or self.gpu <= GPU_BOUND)


def camera_picture(seed: int = 5) -> NDArray[np.uint8]:
    """A small frame with all that matters: ramps, flat parts, edges and noise; a person in the middle."""
    rng = np.random.default_rng(seed)
    height, width = SIZE
    y, x = np.mgrid[0:height, 0:width]
    smooth = np.stack([x / width, y / height, 1 - x / width, ((x - width / 2) ** 2 + (y - height / 2) ** 2 < 90) * 1.0], axis=-1)
    picture = np.rint(smooth * 215 + 20)
    picture[: height // 3] = rng.integers(0, 256, (height // 3, width, 4))
    picture[-4:, : width // 2] = 0
    picture[-4:, width // 2 :] = 255
    return np.asarray(picture, np.uint8)


def compare(case: Case, gpu: Gpu | None, frame: NDArray[np.uint8] | None = None) -> Outcome:
    """One case, in its first frame."""
    pixels = camera_picture() if frame is None else frame
    camera = pixels.astype(np.float32) / np.float32(255)
    want = _stack(played(reference.run, case.exact, camera, case.inputs))
    moved = [_stack(played(reference.run, case.exact, *_nudged(camera, case.inputs, way))) for way in WAYS]
    with np.errstate(all="ignore"):
        scale = np.maximum(1.0, np.abs(want))
        steady = np.all([np.abs(m - want) / scale <= CPU_BOUND for m in moved], axis=0)
        with unnamed(CODE):
            # By steps, which are all that is there yet, then by machine code.
            seen = [_stack(played(running.run, case.exact, camera, case.inputs))]
            running.prepare(case.exact.final, "floats")
        seen.append(_stack(played(running.run, case.exact, camera, case.inputs)))
        off = np.max([np.abs(picture - want) / scale for picture in seen], axis=0)
    finite = bool(np.isfinite(want).all())
    cpu = float(off[steady].max(initial=0.0))
    far = None
    left_out = 1 - float(steady.mean())
    if gpu is not None:
        far, missing = _on_gpu(case, gpu, pixels, camera)
        left_out = max(left_out, missing)
    return Outcome(case.name, cpu, far, left_out, finite)


def _on_gpu(case: Case, gpu: Gpu, pixels: NDArray[np.uint8], camera: Floats) -> tuple[float, float]:
    worst, missing = 0.0, 0.0
    for output in case.program.outputs:
        program = Program((output,))
        want = _bytes(program, camera, case.inputs)
        edges = [np.abs(_bytes(program, *_nudged(camera, case.inputs, way)) - want) > 0.5 for way in WAYS]
        half = partial(reference.run, half=True)
        edges.append(np.abs(_bytes(program, camera, case.inputs, half) - want) > 0.5)
        is_graph = case.name.startswith("graph ")
        edges += [_rounded(program, camera, case.inputs, want, seed) for seed in range(TRIES) if is_graph]
        seen = played(gpu.run, program, pixels, case.inputs)[0] * 255
        steady = ~np.any(edges, axis=0)
        if is_graph and np.abs(seen - want)[steady].max(initial=0.0) > GPU_BOUND:
            # A few roundings by chance do not find every edge.
            edges += [_rounded(program, camera, case.inputs, want, seed) for seed in range(TRIES, TRIES + MORE_TRIES)]
            steady = ~np.any(edges, axis=0)
        worst = max(worst, float(np.abs(seen - want)[steady].max(initial=0.0)))
        missing = max(missing, 1 - float(steady.mean()))
    return worst, missing


def _rounded(program: Program, camera: Floats, inputs: Inputs, want: Floats, seed: int) -> NDArray[np.bool_]:
    """Where a picture moves when the pictures in it are rounded to half precision either way by chance, the camera's, too."""
    rng = np.random.default_rng(seed)
    moved = camera * (1 + rng.choice(np.array([-HALF_PLACE, 0, HALF_PLACE], np.float32), camera.shape))
    engine = partial(reference.run, half=True, either_way=rng)
    return np.asarray(np.abs(_bytes(program, moved, inputs, engine) - want) > 0.5)


def _frames(program: Program) -> list[int]:
    """The frames that are drawn: one late one, or the first few where pictures are kept from frame to frame."""
    return [0, 1, 2, 3] if program.plan.kept else [LATE]


def played(engine: Engine, program: Program, picture: NDArray[Any], inputs: Inputs) -> list[Floats]:
    """The last of the frames that are drawn, with the state that it has by then."""
    state, drawn = State(), _frames(program)
    for frame in range(drawn[-1] + 1):
        moment = Moment.of(picture, frame)
        if frame in drawn:
            pictures = engine(program, moment, inputs, state)
        else:
            program.advance(moment, inputs, state, drawn=False)
    return pictures


def _bytes(program: Program, camera: Floats, inputs: Inputs, engine: Engine = reference.run) -> Floats:
    held = np.clip(np.nan_to_num(played(engine, program, camera, inputs)[0]), 0, 1)
    return np.asarray(held * 255, np.float32)


def _nudged(camera: Floats, inputs: Inputs, way: float | int) -> tuple[Floats, Inputs]:
    """The camera's picture and uniforms that are no whole numbers moved a little: all by one factor, or with a seed each
    uniform by chance. What is equal in the camera stays so: it comes as bytes."""
    numbers = {name: number for name, number in inputs.uniforms.items() if isinstance(number, float)}
    if isinstance(way, int):
        by = np.random.default_rng(way).choice([1 + NUDGE, 1 - NUDGE], len(numbers))
        over = 1 + NUDGE if way % 2 else 1 - NUDGE
    else:
        by, over = np.full(len(numbers), way), way
    moved = {name: number * float(one) for (name, number), one in zip(numbers.items(), by, strict=True)}
    return camera * np.float32(over), replace(inputs, uniforms={**inputs.uniforms, **moved})


def _stack(pictures: list[Floats]) -> Floats:
    return np.concatenate(pictures, axis=2)
