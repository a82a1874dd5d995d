"""Passes drawn in a part of the frame: where what they read lies, what they come to where a mask is nothing, and that the picture
is to the last bit what the reference gives, which knows nothing of plans and computes everything everywhere."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace

import numpy as np
import pytest

from sunglaze.core.camera.cameras import colours
from sunglaze.core.camera.cast import Sitting, StandIn
from sunglaze.core.effect.compiling import Compiled, compile_effect
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.engine.boxes import filled, parts, size_of
from sunglaze.core.engine.kernel import Kernel, kernel
from sunglaze.core.engine.machine import Run
from sunglaze.core.engine.room import Room
from sunglaze.core.engine.running import draw, prepare
from sunglaze.core.language import vector as v
from sunglaze.core.language.expression import Value, leaf
from sunglaze.core.language.pictures import CAMERA, Picture, colour_here, computed, enlarged, fetch, near, region_picture
from sunglaze.core.language.vector import Vec
from sunglaze.core.moment.moment import Moment
from sunglaze.core.nodes.filters import blurred, halved
from sunglaze.core.passes.clearing import clearings
from sunglaze.core.passes.planning import Sweep
from sunglaze.core.passes.program import Inputs, Program, State, uniform
from sunglaze.core.passes.reach import NOTHING, Box, Reach, reading
from sunglaze.core.targets import numpy as reference
from tests.engines import readable
from tests.ways import picture

ROWS, COLUMNS = 40, 96
A = uniform("a")


def red(source: Picture) -> Value:
    """Of a picture at the drawn pixel, whatever its size."""
    return colour_here(source).r


READERS: dict[str, Callable[[Picture], Value]] = {
    "here": lambda one: near(one, 0),
    "to a side": lambda one: near(one, 0, 5, -3) + near(one, 0, 1, 0),
    "blurred": lambda one: blurred(one, v.value(A * 3.0), "exact").r,
    "halved": lambda one: red(halved(one)),
    "quartered": lambda one: red(halved(halved(one))),
    "enlarged": lambda one: enlarged(computed([near(one, 0)], reduce=4))[0],
}


def reaches(program: Program, inputs: Inputs) -> Iterator[tuple[Sweep, Picture, Reach, tuple[int, int]]]:
    """Passes in order, each with what it reads and how, and its size."""
    numbers = program.advance(Moment.of(picture(ROWS, COLUMNS)), inputs, State())
    for one in program.plan.passes:
        for place, reach in reading(one).at([numbers[slot] for slot in one.slots]).items():
            assert reach is not None
            yield one, one.pictures[place], reach, size_of(one.target, (COLUMNS, ROWS))


def name_of(one: Sweep) -> str:
    return one.target.name if one.target else ""


@pytest.mark.parametrize("name", READERS)
@pytest.mark.parametrize(("column", "row"), [(0, 0), (33, 20), (95, 39), (64, 7)])
def test_what_reads_a_pixel_lies_where_it_is_said_to(name: str, column: int, row: int) -> None:
    """A pixel of the camera is changed, and what changes in the frame lies in the box that is told of it, pass by pass."""
    program, inputs = Program((Vec(READERS[name](computed([near(CAMERA, 0) * 0.5])), 0.0, 0.0),)), Inputs({"a": 1.0})
    camera = picture(ROWS, COLUMNS)
    other = camera.copy()
    other[row, column, 0] += 100
    rows, columns = np.nonzero((readable(program, camera, inputs)[0] != readable(program, other, inputs)[0]).any(axis=2))
    boxes = {"camera": Box(column, row, column + 1, row + 1)}
    for one, source, reach, size in reaches(program, inputs):
        found = reach.readers(boxes[source.name], size_of(source, (COLUMNS, ROWS)), size)
        boxes[name_of(one)] = boxes.get(name_of(one), NOTHING).around(found)
    told = boxes[""]
    changed = Box(columns.min(), rows.min(), columns.max() + 1, rows.max() + 1) if len(rows) else NOTHING
    assert changed.empty or told.around(changed) == told
    # A little too large at most: what is smaller is read by whole pixels of it.
    assert told.area <= 60 + 9 * max(changed.area, 1)


@pytest.mark.parametrize("name", READERS)
@pytest.mark.parametrize("drawn", [Box(0, 0, 1, 1), Box(32, 20, 64, 24), Box(95, 39, 96, 40)])
def test_what_is_read_for_a_box_is_all_that_it_hangs_on(name: str, drawn: Box) -> None:
    program, inputs = Program((Vec(READERS[name](computed([near(CAMERA, 0) * 0.5])), 0.0, 0.0),)), Inputs({"a": 1.0})
    wanted = {"": drawn}
    for one, source, reach, _ in reversed(list(reaches(program, inputs))):
        read = reach.read(wanted.get(name_of(one), NOTHING), size_of(source, (COLUMNS, ROWS)))
        wanted[source.name] = wanted.get(source.name, NOTHING).around(read)
    camera, hole = picture(ROWS, COLUMNS), wanted["camera"]
    assert hole.area < ROWS * COLUMNS / 2
    other = camera + 100
    other[hole.top : hole.bottom, hole.left : hole.right] = camera[hole.top : hole.bottom, hole.left : hole.right]
    one, two = (
        readable(program, seen, inputs)[0][drawn.top : drawn.bottom, drawn.left : drawn.right] for seen in (camera, other)
    )
    np.testing.assert_array_equal(one, two)


def test_what_is_read_anywhere_is_told_so() -> None:
    where = v.to_int(near(CAMERA, 1) * 20.0)
    one = Program((Vec(fetch(computed([near(CAMERA, 0)]), 0, where, where), 0.0, 0.0),)).plan.passes[-1]
    assert None in reading(one).at([]).values()


SKIN = computed([red(region_picture("face skin"))])
MASK = near(SKIN, 0, 1, 0)
SOFT = blurred(SKIN, v.value(3.0), "exact").r
BUSY = blurred(computed([near(CAMERA, c) * near(CAMERA, c) for c in range(3)]), v.value(4.0), "exact").rgb
CASES: dict[str, Vec] = {
    "mixed by a mask": v.mix3(colour_here(CAMERA).rgb, BUSY, MASK),
    "mixed by a soft mask": v.mix3(colour_here(CAMERA).rgb, BUSY, SOFT),
    "mixed by a mask, chosen": v.mix3(colour_here(CAMERA).rgb, BUSY, v.select(A > 0.5, MASK, near(CAMERA, 1))),
    "mixed by a mask or by all": v.mix3(colour_here(CAMERA).rgb, BUSY, v.select(A > 0.5, near(CAMERA, 1), MASK)),
    "moved": v.mix3(colour_here(CAMERA).rgb, BUSY, near(computed([SOFT * 2.0]), 0, 17, -6)),
    "where it is not": v.mix3(BUSY, colour_here(CAMERA).rgb, MASK),
    "small and enlarged": v.mix3(colour_here(CAMERA).rgb, BUSY, enlarged(halved(computed([SOFT])))[0]),
}
PLACES = {
    "amid": (slice(12, 20), slice(40, 50)), "at a corner": (slice(0, 5), slice(0, 9)), "nowhere": (slice(0, 0), slice(0, 0)),
    "at the other": (slice(33, 40), slice(90, 96)), "everywhere": (slice(None), slice(None)),
    "a row": (slice(20, 21), slice(None)),
}  # fmt: skip


@pytest.mark.parametrize("name", CASES)
def test_a_frame_in_parts_is_the_frame(name: str) -> None:
    """Masks that move from frame to frame, by one room as a display has it: by steps and by machine code."""
    program = Program((CASES[name].rgb,))
    assert program.clearings
    for optimised in (False, True):
        room, state = Room(), State()
        for n, place in enumerate([*PLACES, *list(PLACES)[::-1], "amid"]):
            mask = np.zeros((ROWS, COLUMNS, 1), np.uint8)
            mask[PLACES[place]] = 200
            inputs = Inputs({"a": float(n % 3 != 0)})
            moment = Moment.of(picture(ROWS, COLUMNS, n), n, {"face skin": mask})
            if optimised:
                prepare(program, "floats")
            out = draw(program, moment, inputs, state, room)
            seen = np.moveaxis(out[:, :, :COLUMNS], 0, 2)
            want = readable(program, np.asarray(moment.picture), inputs, regions=moment.regions)[0]
            np.testing.assert_array_equal(seen, want, f"{place}, {optimised}")


def drawn_share(program: Program, moment: Moment, inputs: Inputs) -> float:
    """How much of all pixels of all passes is drawn as it is, those of masks apart."""
    numbers, frame = program.advance(moment, inputs, State()), (moment.screen.columns, moment.screen.rows)
    masks = {}
    for one in program.clearings:
        if one.masks and one.sweep.target is not None:
            mask = moment.regions["face skin"][:, :, 0].astype(np.float32)[None]
            masks[one.sweep.target.name] = filled(mask, frame[0])
    found = parts(program.clearings, numbers, frame, masks)
    shares = [
        (part.box.area, np.prod(size_of(one.sweep.target, frame))) for part, one in zip(found, program.clearings, strict=True)
    ]
    kept = [pair for pair, one in zip(shares, program.clearings, strict=True) if not one.masks]
    return float(sum(area for area, _ in kept) / sum(size for _, size in kept))


def test_away_from_a_mask_nothing_is_done() -> None:
    """A blur of four pixels that a mask of a twelfth of the frame lets through."""
    program = Program((CASES["mixed by a mask"].rgb,))
    mask = np.zeros((400, 960, 1), np.uint8)
    mask[100:200, 320:640] = 255
    moment = Moment.of(picture(400, 960), 0, {"face skin": mask})
    assert 0.08 < drawn_share(program, moment, Inputs({"a": 1.0})) < 0.13
    nobody = replace(moment, regions={"face skin": np.zeros_like(mask)})
    assert drawn_share(program, nobody, Inputs({"a": 1.0})) == 0


def test_a_choice_that_is_not_as_supposed_draws_everything() -> None:
    program = Program((CASES["mixed by a mask, chosen"].rgb,))
    moment = Moment.of(picture(400, 960), 0, {"face skin": np.zeros((400, 960, 1), np.uint8)})
    assert drawn_share(program, moment, Inputs({"a": 1.0})) == 0
    assert drawn_share(program, moment, Inputs({"a": 0.0})) == 1


def test_a_loop_whose_states_change_less_often_without_a_mask_is_drawn_as_it_was() -> None:
    """Sums of a mask alone: each is 0 where the mask is, and the picture of them vanishes."""
    program = Program((Vec(SOFT * near(CAMERA, 0), 0.0, 0.0),))
    made = clearings(program.plan)
    assert [one.vanishes for one in made if one.sweep.target is not None and not one.masks] == [True]


def stack(*kinds: str) -> Compiled:
    layers = [Layer(id=f"l{n}", name=kind, kind=kind) for n, kind in enumerate(kinds)]
    return compile_effect(Effect(name="t", layers=layers), Material())


def moments(sitting: Sitting, program: Program, frames: list[int], size: tuple[int, int]) -> list[Moment]:
    """Of a performer, with pictures of floats."""
    camera = StandIn(*size, sitting)
    found = []
    for frame in frames:
        seen = camera.moment(frame, program.reads)
        words = camera.frame(frame)
        alpha = words.view(np.uint8).reshape(size[1], -1, 4)[:, : size[0], 3:]
        whole = np.concatenate([colours(words, size[0]), alpha], axis=2)
        found.append(replace(seen, picture=(whole / np.float32(255)).astype(np.float32)))
    return found


@pytest.mark.parametrize("kinds", [("make-up",), ("even-skin",), ("even-skin", "make-up", "tone-and-colour", "film-grain")])
@pytest.mark.parametrize("sitting", [Sitting("beekeeper", "talk"), Sitting("ferry-pilot", "two")], ids=["one", "two"])
def test_faces_in_parts_are_the_reference_s(kinds: tuple[str, ...], sitting: Sitting) -> None:
    """Some frames in a row, those of two with one who leaves, and one frame without anybody known."""
    compiled = stack(*kinds)
    program = compiled.program.final
    state, other, room = State(), State(), Room()
    prepare(program, "floats")
    seen = moments(sitting, program, [0, 1, 40], (160, 288))
    for moment in [*seen, replace(seen[-1], faces=(), regions={}), seen[0]]:
        out = draw(program, moment, compiled.inputs, state, room)
        want = reference.run(program, moment, compiled.inputs, other)[0]
        np.testing.assert_array_equal(np.moveaxis(out[:, :, :160], 0, 2), want)


def test_most_of_a_frame_with_a_face_is_left_alone() -> None:
    """A retouched and made up face, which is some eighth of the frame: of the passes' pixels, clear forms apart, below two fifths
    with what blurs reach round it."""
    compiled = stack("even-skin", "make-up")
    program, frame = compiled.program.final, (360, 640)
    (moment,) = moments(Sitting("beekeeper", "talk"), program, [0], frame)
    numbers = program.advance(moment, compiled.inputs, State())
    whole = sum(np.prod(size_of(one.target, frame)) for one in program.plan.passes if one.enabled is None or numbers[one.enabled])
    areas: list[int] = []
    run_whole = Kernel.run

    def counted(self: Kernel, given: Run, threads: int | None, boxes: Sequence[tuple[Kernel, Box]] | None) -> None:
        # The pass itself comes first, behind it its clear forms.
        areas.append(boxes[0][1].area if boxes is not None else given.size[0] * given.size[1])
        run_whole(self, given, threads, boxes)

    state, room = State(), Room()
    draw(program, moment, compiled.inputs, state, room)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(Kernel, "run", counted)
        draw(program, moment, compiled.inputs, state, room)
    assert len(areas) > 10
    assert sum(areas) < whole * 0.4


def test_a_pass_that_hangs_on_nothing_but_controls_is_drawn_once() -> None:
    """The colours of make-up on the flat face: again only when one of them is another."""
    compiled = stack("make-up")
    program = compiled.program.final
    (name, place), *_ = program.lasting.items()
    (moment,) = moments(Sitting("beekeeper", "talk"), program, [0], (160, 288))
    room, state = Room(), State()
    draw(program, moment, compiled.inputs, state, room)
    before = room.drawn[place, f"{name} 80 144"]
    draw(program, moment, compiled.inputs, state, room)
    assert room.drawn[place, f"{name} 80 144"] is before
    lips = next(one for one in program.uniforms if "lip" in one and isinstance(compiled.inputs.uniforms[one], float))
    moved = replace(compiled.inputs, uniforms=dict(compiled.inputs.uniforms) | {lips: 1.0})
    out = draw(program, moment, moved, state, room)
    assert room.drawn[place, f"{name} 80 144"] is not before
    want = reference.run(program, moment, moved)[0]
    np.testing.assert_array_equal(np.moveaxis(out[:, :, :160], 0, 2), want)


def test_a_mask_that_stands_still_stays_and_goes_when_it_moves() -> None:
    """A disc that hangs on controls alone, and its soft copy, which is nothing beside it: both are drawn once for as long as
    nothing moves, and are still there in the frames that follow."""
    x, y = (v.to_float(leaf("pixel", axis)) for axis in (0, 1))
    disc = computed([v.number((x - A) * (x - A) + (y - 20.0) * (y - 20.0) < 50.0)])
    soft = blurred(disc, v.value(2.0), "exact").r
    program = Program((v.mix3(colour_here(CAMERA).rgb, BUSY, near(computed([soft * 2.0]), 0, 3, 0)).rgb,))
    assert any(one.vanishes and one.sweep.target and one.sweep.target.name in program.lasting for one in program.clearings)
    room, state = Room(), State()
    for n, place in enumerate([30.0, 30.0, 30.0, 70.0, 70.0, -40.0, -40.0, 30.0, 30.0]):
        camera, inputs = picture(ROWS, COLUMNS, n), Inputs({"a": place})
        out = draw(program, Moment.of(camera, n), inputs, state, room)
        np.testing.assert_array_equal(np.moveaxis(out[:, :, :COLUMNS], 0, 2), readable(program, camera, inputs)[0], str(n))


@pytest.mark.parametrize("hole", [Box(3, 4, 9, 7), Box(0, 0, 20, 10), Box(0, 3, 20, 4), NOTHING])
def test_what_lies_beside_a_box_and_the_box_are_the_whole(hole: Box) -> None:
    whole = Box(0, 0, 20, 10)
    count = np.zeros((10, 20), int)
    for box in [hole, *whole.beside(hole)]:
        count[box.top : box.bottom, box.left : box.right] += 1
    assert (count == 1).all()


def test_a_box_without_columns_or_without_rows_holds_nothing() -> None:
    for box in (Box(3, 4, 3, 9), Box(3, 4, 9, 4), Box(5, 4, 3, 9), Box(3, 9, 9, 4)):
        assert box.empty
        assert box.area == 0
        assert box.around(Box(0, 0, 2, 2)) == Box(0, 0, 2, 2)
    assert not Box(3, 4, 4, 5).empty
    assert Box(3, 4, 5, 9).area == 10
    assert NOTHING.empty
    assert NOTHING.around(Box(1, 2, 3, 4)) == Box(1, 2, 3, 4)


def test_kernels_fill_boxes_and_nothing_else() -> None:
    """Machine code and steps: two boxes of a pass, and what was there before beside them."""
    one = Program((Vec(near(CAMERA, 0) * 2.0, near(CAMERA, 1), near(CAMERA, 2)),)).plan.passes[-1]
    camera = np.ones((4, ROWS, COLUMNS), np.float32)
    for quick in (True, False):
        made = kernel(one, "floats", quick)
        out = np.zeros((3, ROWS, COLUMNS), np.float32)
        boxes = [(made, Box(32, 5, 64, 9)), (made, Box(64, 30, 96, 40))]
        operands = made.operands([(camera, COLUMNS)], [], out.shape[-1])
        made.run(Run(operands, out, np.zeros(1, np.int32), (COLUMNS, ROWS)), None, boxes)
        want = np.zeros((ROWS, COLUMNS), np.float32)
        want[5:9, 32:64] = want[30:40, 64:96] = 2
        np.testing.assert_array_equal(out[0], want)


@pytest.mark.parametrize("quick", [True, False])
def test_a_pass_that_computes_what_another_s_clear_form_does_is_drawn_after_it(quick: bool) -> None:
    """The clear form is given the mask as well; kernels are kept by what they compute, and it had been taken for the other."""
    dark = colour_here(CAMERA).rgb * (0.8125 if quick else 0.6875)
    masked, bare = Program(((dark * dark * dark) * MASK + dark,)), Program((dark,))
    moment = Moment.of(picture(ROWS, COLUMNS), 0, {"face skin": np.zeros((ROWS, COLUMNS, 1), np.uint8)})
    for program in (masked, bare):
        if not quick:
            prepare(program, "floats")
        np.testing.assert_array_equal(
            np.moveaxis(draw(program, moment, Inputs())[:, :, :COLUMNS], 0, 2),
            readable(program, moment.picture, Inputs(), regions=moment.regions)[0],
        )
