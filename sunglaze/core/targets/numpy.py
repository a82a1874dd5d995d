"""The reference: run a program with NumPy, one array operation a value. Slow and plain; tests trust it.

It follows the pictures as they were recorded and knows nothing of plans, so it checks these, too.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.language.expression import Rate, Value, ordered
from sunglaze.core.language.operations import OPERATIONS, Plain
from sunglaze.core.language.pictures import Picture, Vertices
from sunglaze.core.material.still import Still
from sunglaze.core.moment.moment import Moment
from sunglaze.core.passes.program import Floats, Inputs, Program, State, sequence_of
from sunglaze.core.passes.triangles import triangles
from sunglaze.core.targets.fitting import fitted
from sunglaze.core.targets.memory import seen_as_floats

Array = NDArray[Any]


LARGEST_HALF = np.float32(65504)
"""Beyond which half precision is infinite; pictures on a GPU are held to it."""
_TYPES = {"float": np.float32, "int": np.int32, "bool": np.bool_}


Patience = Callable[[], None]
"""Called before every operation; raises what shall end a run that has become too long."""


def run(
    program: Program,
    moment: Moment,
    inputs: Inputs,
    state: State | None = None,
    half: bool = False,
    either_way: np.random.Generator | None = None,
    patience: Patience | None = None,
) -> list[Floats]:
    """An Engine: pictures of shape (height, width, 3), one an output, float32.

    `state` is read, and changed to what the next frame reads. `half`: pictures between passes are rounded to half precision, as
    GPUs keep all but the precise ones; `either_way`: by chance to the one or the other of the two numbers around a value, since
    no standard says to which.
    Raises ValueError for a moment without a picture.
    """
    if moment.picture is None:
        raise ValueError("a moment that is drawn has a picture")
    height, width = moment.screen.rows, moment.screen.columns
    state = state if state is not None else State()
    signals = program.plan.signals
    found = program.advance(moment, inputs, state)
    numbers = dict(zip(map(id, signals), found, strict=True))
    run = _Run(program, moment, inputs, state, _by_form(signals, numbers), half, either_way, patience)
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
    numbers = np.clip(numbers, -LARGEST_HALF, LARGEST_HALF)
    near = numbers.astype(np.float16)
    if either_way is not None:
        towards = np.where(near.astype(np.float32) < numbers, np.inf, -np.inf).astype(np.float16)
        near = np.where(either_way.random(near.shape) < 0.5, near, np.nextafter(near, towards))
    return near.astype(np.float32)


class _Run:
    def __init__(
        self,
        program: Program,
        moment: Moment,
        inputs: Inputs,
        state: State,
        signal: Callable[[Value], Any],
        half: bool,
        either_way: np.random.Generator | None,
        patience: Patience | None,
    ) -> None:
        self.patience, self.either_way = patience, either_way
        self.stages, self.half = program.stages, half
        assert moment.picture is not None
        self.moment, self.inputs, self.state, self.signal = moment, inputs, state, signal
        self.frame = moment.screen.rows, moment.screen.columns
        self.camera = seen_as_floats(moment.picture, moment.screen.columns)
        self.pictures: dict[str, Array] = {}
        self.staged: dict[tuple[str, tuple[int, int]], list[Floats]] = {}

    def picture(self, picture: Picture) -> Array:
        """(height, width, channels)."""
        if picture.source == "camera":
            return self.camera
        if picture.name not in self.pictures:
            if picture.values:
                shape = -(-self.frame[0] // picture.reduce), -(-self.frame[1] // picture.reduce)
                made: Array = np.stack(self.values(picture.values, shape), axis=-1)
                if self.half and not picture.precise:
                    made = _halved(made, self.either_way)
            elif picture.vertices is not None:
                made = self.mesh(picture.name, picture.vertices)
            elif picture.source == "kept":
                held = self.state.kept.get(picture.id)
                rows, columns = self.frame
                made = np.zeros((*self.frame, picture.channels), np.float32) if held is None else fitted(held, columns, rows)
            else:
                still = self.still(picture)
                given = still.frame() if still is not None else np.zeros((1, 1, picture.channels), np.float32)
                made = given.astype(np.float32) / np.float32(255) if given.dtype == np.uint8 else given
            self.pictures[picture.name] = made
        return self.pictures[picture.name]

    def still(self, picture: Picture) -> Still | None:
        """What a picture shows that comes from outside; none where it is not given."""
        if picture.of is not None and picture.wide is not None:
            larger = self.still(picture.of)
            return None if larger is None else larger.fitting(float(self.number(picture.wide)))
        if picture.shows is None:
            return self.inputs.picture(picture, self.moment)
        sequence = self.inputs.sequences.get(sequence_of(picture))
        return sequence.still(int(self.number(picture.shows))) if sequence else None

    def number(self, value: Value) -> Plain:
        """A number that changes once a frame at most."""
        number: Plain = value.attribute[0] if value.op == "const" else self.signal(value)
        return number

    def mesh(self, name: str, vertices: Vertices) -> Array:
        """What a mesh draws into its picture: (rows, columns, 4)."""
        from sunglaze.core.targets.raster import rasterised

        data, held = self.inputs.meshes.get(vertices.material), self.state.faces.get(name, ())
        found = triangles(vertices, [self.number(one) for one in vertices.numbers], self.moment, data, held)
        return rasterised(found.corners, found.depths, found.w, found.attributes, self.frame)

    def values(self, values: Sequence[Value], shape: tuple[int, int]) -> list[Floats]:
        """Values as floats of a shape (rows, columns) each."""
        found = self.computed(values, shape, {})
        return [np.broadcast_to(np.asarray(v, np.float32), shape) for v in found]

    def computed(self, values: Sequence[Value], shape: tuple[int, int], leaves: dict[str, Any]) -> list[Any]:
        """Values as they come, arrays or single numbers. `leaves`: turn, states and outer values of loops about them, by name."""
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
        """One value of its arguments."""
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
        result = OPERATIONS[value.op].numpy(*arguments)
        if np.asarray(result).dtype == np.float64:
            raise TypeError(f"{value.op} left single precision")
        return result

    def stage(self, name: str, shape: tuple[int, int]) -> list[Floats]:
        """The channels of the picture after a layer, for pictures of this shape (rows, columns)."""
        if (name, shape) not in self.staged:
            self.staged[name, shape] = self.values(self.stages[name], shape)
        return self.staged[name, shape]

    def loop(self, value: Value, arguments: list[Any], shape: tuple[int, int], leaves: dict[str, Any]) -> list[Any]:
        """A loop's states after its last turn."""
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
