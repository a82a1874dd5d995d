"""The reference: run a program with NumPy, one array operation a value. Slow and plain; tests trust it.

It follows the pictures as they were recorded and knows nothing of plans, so it checks these, too.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.shading.expression import Rate, Value, ordered
from sunglaze.core.shading.pictures import Picture
from sunglaze.core.shading.program import Floats, Inputs, Program, State

Array = NDArray[Any]


def _idiv(a: Array, b: Array) -> Array:
    a64, b64 = np.asarray(a, np.int64), np.asarray(b, np.int64)
    size = np.abs(a64) // np.where(b64 == 0, 1, np.abs(b64))
    signed = np.where((a64 < 0) == (b64 < 0), size, -size)
    return np.where(b64 == 0, 0, signed).astype(np.int32)


def _bits(rule: Callable[[Array, Array], Array]) -> Callable[[Any, Any], Array]:
    """A rule on unsigned words, for whole numbers; NumPy's signed shifts would fill with the sign."""

    def on_words(a: Any, b: Any) -> Array:
        words = rule(np.asarray(a, np.int32).view(np.uint32), np.asarray(b, np.int32).view(np.uint32))
        return np.asarray(words, np.uint32).view(np.int32)

    return on_words


_RULES: dict[str, Callable[..., Any]] = {
    "add": np.add, "sub": np.subtract, "mul": np.multiply, "div": np.divide, "abs": np.abs, "floor": np.floor,
    "sqrt": lambda a: np.sqrt(np.where(a > 0, a, np.float32(0))),
    "lt": np.less, "le": np.less_equal, "select": np.where,
    "iadd": np.add, "isub": np.subtract, "imul": np.multiply, "idiv": _idiv, "imin": np.minimum, "imax": np.maximum,
    "iand": np.bitwise_and, "ior": np.bitwise_or, "ixor": np.bitwise_xor,
    "shl": _bits(lambda a, b: a << (b & np.uint32(31))), "shr": _bits(lambda a, b: a >> (b & np.uint32(31))),
    "ilt": np.less, "ieq": np.equal, "iselect": np.where,
    "and": np.logical_and, "or": np.logical_or, "not": np.logical_not,
    "to_int": lambda a: np.where(a > -1e9, np.where(a < 1e9, a, np.float32(1e9)), np.float32(-1e9)).astype(np.int32),
    "to_float": lambda a: np.asarray(a).astype(np.float32),
    "bool_to_int": lambda a: np.asarray(a).astype(np.int32),
    "float_bits": lambda a: np.asarray(a, np.float32).view(np.int32),
    "bits_float": lambda a: np.asarray(a, np.int32).view(np.float32),
}  # fmt: skip
_TYPES = {"float": np.float32, "int": np.int32, "bool": np.bool_}


Patience = Callable[[], None]
"""Called before every operation; raises what shall end a run that has become too long."""


def run(
    program: Program,
    camera: Floats,
    inputs: Inputs,
    state: State | None = None,
    half: bool = False,
    either_way: np.random.Generator | None = None,
    patience: Patience | None = None,
) -> list[Floats]:
    """Pictures of shape (height, width, 3), one an output, from a camera picture (height, width, 3 or 4), all float32.

    `state` is read, and changed to what the next frame reads. `half`: pictures between passes are rounded to half precision, as
    GPUs keep all but the precise ones; `either_way`: by chance to the one or the other of the two numbers around a value, since
    no standard says to which.
    """
    height, width = camera.shape[:2]
    state = state if state is not None else State()
    given = {**inputs.uniforms, "frame.width": width, "frame.height": height}
    signals = program.plan.signals
    numbers = dict(zip(map(id, signals), program.signals.run(given, state.cells), strict=True))
    run = _Run(program, camera, inputs, state, _by_form(signals, numbers), half, either_way, patience)
    with np.errstate(all="ignore"):
        flat = run.values(program.flat, (height, width))
        kept = {k: run.picture(p) for k, p in program.plan.kept.items()}
    state.kept |= kept
    return [np.stack(flat[n : n + 3], axis=-1) for n in range(0, len(flat), 3)]


def _by_form(signals: Sequence[Value], numbers: dict[int, Any]) -> Callable[[Value], Any]:
    """Signals were joined when they were planned; a value recorded elsewhere is found by what it computes."""
    by_digest = {s.digest: numbers[id(s)] for s in signals}
    return lambda value: by_digest[value.digest]


def _halved(numbers: Array, either_way: np.random.Generator | None) -> Array:
    near = numbers.astype(np.float16)
    if either_way is not None:
        towards = np.where(near.astype(np.float32) < numbers, np.inf, -np.inf).astype(np.float16)
        near = np.where(either_way.random(near.shape) < 0.5, near, np.nextafter(near, towards))
    return near.astype(np.float32)


class _Run:
    def __init__(
        self,
        program: Program,
        camera: Floats,
        inputs: Inputs,
        state: State,
        signal: Callable[[Value], Any],
        half: bool,
        either_way: np.random.Generator | None,
        patience: Patience | None,
    ) -> None:
        self.patience, self.either_way = patience, either_way
        self.stages, self.half = program.stages, half
        self.camera, self.inputs, self.state, self.signal = camera, inputs, state, signal
        self.frame = camera.shape[:2]
        self.pictures: dict[str, Array] = {}
        self.staged: dict[tuple[str, tuple[int, int]], list[Floats]] = {}

    def picture(self, picture: Picture) -> Array:
        """(height, width, channels)."""
        if picture.name == "camera":
            return self.camera
        if picture.name not in self.pictures:
            if picture.values:
                shape = -(-self.frame[0] // picture.reduce), -(-self.frame[1] // picture.reduce)
                made: Array = np.stack(self.values(picture.values, shape), axis=-1)
                if self.half and not picture.precise:
                    made = _halved(made, self.either_way)
            elif picture.name.startswith("kept:"):
                empty = np.zeros((*self.frame, picture.channels), np.float32)
                made = self.state.kept.get(picture.name.removeprefix("kept:"), empty)
            else:
                given = self.inputs.pictures.get(picture.name, np.zeros((1, 1, picture.channels), np.float32))
                made = given.astype(np.float32) / np.float32(255) if given.dtype == np.uint8 else given
            self.pictures[picture.name] = made
        return self.pictures[picture.name]

    def values(self, values: Sequence[Value], shape: tuple[int, int]) -> list[Floats]:
        found = self.computed(values, shape, {})
        return [np.broadcast_to(np.asarray(v, np.float32), shape) for v in found]

    def computed(self, values: Sequence[Value], shape: tuple[int, int], leaves: dict[str, Any]) -> list[Any]:
        order, places = ordered(values)
        done: dict[int, Any] = {}
        needed = _needed([order[p] for p in places])
        for value in order:
            if id(value) in needed:
                if self.patience:
                    self.patience()
                done[id(value)] = self.value(value, [done.get(id(a)) for a in value.arguments], shape, leaves)
        return [done[id(order[place])] for place in places]

    def value(self, value: Value, arguments: list[Any], shape: tuple[int, int], leaves: dict[str, Any]) -> Any:
        if value.op == "const":
            return _TYPES[value.kind](value.attribute[0])
        if value.rate is Rate.FRAME:
            number = self.signal(value)
            return np.int32(number) if value.kind == "int" else _TYPES[value.kind](number)
        if value.op == "stage":
            return self.stage(str(value.attribute[0]), shape)[value.attribute[1]]
        if value.op in ("turn", "state", "outer"):
            return leaves[f"{value.op}{value.attribute}"]
        if value.op == "pixel":
            axis = int(value.attribute[0])
            return np.broadcast_to(np.indices(shape, np.int32)[1 - axis], shape)
        if value.op == "target":
            return np.int32(shape[1 - int(value.attribute[0])])
        if value.op == "picture_size":
            return np.int32(self.picture(value.attribute[0]).shape[1 - int(value.attribute[1])])
        if value.op in ("near", "fetch", "enlarged"):
            rows, columns = np.indices(shape, np.int32)
            held = self.picture(value.attribute[0])
            x, y = (columns + arguments[0], rows + arguments[1]) if value.op == "near" else arguments or (columns, rows)
            if value.op == "enlarged":
                by, right, down = value.attribute[0].reduce, value.attribute[2], value.attribute[3]
                x, y = (2 * x + 1 - by) // (2 * by) + right, (2 * y + 1 - by) // (2 * by) + down
            return held[np.clip(y, 0, held.shape[0] - 1), np.clip(x, 0, held.shape[1] - 1), int(value.attribute[1])]
        if value.op == "table_size":
            return np.int32(self.inputs.tables[str(value.attribute[0])].shape[0])
        if value.op in ("cube", "curve"):
            table = self.inputs.tables[str(value.attribute[0])]
            places = [np.clip(a, 0, table.shape[0] - 1) for a in reversed(arguments)]
            return table[(*places, int(value.attribute[1]))]
        if value.op == "loop":
            return self.loop(value, arguments, shape, leaves)
        if value.op == "after":
            return arguments[0][int(value.attribute[0])]
        result = _RULES[value.op](*arguments)
        if np.asarray(result).dtype == np.float64:
            raise TypeError(f"{value.op} left single precision")
        return result

    def stage(self, name: str, shape: tuple[int, int]) -> list[Floats]:
        if (name, shape) not in self.staged:
            self.staged[name, shape] = self.values(self.stages[name], shape)
        return self.staged[name, shape]

    def loop(self, value: Value, arguments: list[Any], shape: tuple[int, int], leaves: dict[str, Any]) -> list[Any]:
        most, count, body = value.attribute
        turns, states, outer = int(arguments[0]), list(arguments[1 : 1 + count]), arguments[1 + count :]
        given = dict(leaves)
        given |= {f"outer{(body.depth, k)}": v for k, v in enumerate(outer)}
        for turn in range(min(max(turns, 0), most)):
            given[f"turn{(body.depth,)}"] = np.int32(turn)
            given |= {f"state{(body.depth, k)}": v for k, v in enumerate(states)}
            states = self.computed(body.results, shape, given)
        return states


def _needed(roots: Sequence[Value]) -> set[int]:
    """Ids of what roots need at pass rate and above: below frame-rate values everything was computed by the signal program."""
    needed: set[int] = set()
    stack = list(roots)
    while stack:
        value = stack.pop()
        if id(value) in needed:
            continue
        needed.add(id(value))
        if value.rate is not Rate.FRAME:
            stack.extend(value.arguments)
    return needed
