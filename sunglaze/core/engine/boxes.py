"""In which part of a frame each pass has to be run: where what reads it is drawn, and there in its clear form where the pictures
that it works on are nothing (core/passes/clearing.py)."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from sunglaze.core.language.operations import Plain
from sunglaze.core.language.pictures import Picture
from sunglaze.core.passes.clearing import Clearing
from sunglaze.core.passes.reach import NOTHING, Box, Reach
from sunglaze.core.targets.llvm_reads import LANES
from sunglaze.core.targets.memory import Surface

Size = tuple[int, int]


@dataclass(frozen=True)
class Part:
    """What of a pass is drawn: `box` of it as it is, and `around` that its clear form."""

    box: Box
    around: tuple[Box, ...] = ()

    @property
    def empty(self) -> bool:
        """Whether nothing is drawn."""
        return self.box.empty and not self.around


def filled(surface: Surface, columns: int) -> Box:
    """The smallest box that holds all that is not 0 in the first plane of a picture (planes, rows, padded)."""
    # By their bits, whose largest NumPy finds many at a time.
    plane = surface[0, :, :columns].view(np.uint32)
    rows = np.flatnonzero(plane.max(axis=1))
    if not len(rows):
        return NOTHING
    top, bottom = int(rows[0]), int(rows[-1]) + 1
    across = np.flatnonzero(plane[top:bottom].max(axis=0))
    return Box(int(across[0]), top, int(across[-1]) + 1, bottom)


def size_of(target: Picture | None, frame: Size) -> Size:
    """Columns and rows of what a pass fills."""
    by = 1 if target is None else target.reduce
    return -(-frame[0] // by), -(-frame[1] // by)


def parts(passes: Sequence[Clearing], numbers: Sequence[Plain], frame: Size, seen: Mapping[str, Box]) -> list[Part]:
    """What of each pass is drawn in a frame. `numbers`: the frame's signals. `seen`: where pictures are not 0, by name, of
    those of which that is known."""
    within = _within(passes, numbers, frame, dict(seen))
    wanted: dict[str, Box] = {}
    found: list[Part] = []
    # Readers stand behind what they read.
    for one, limit in zip(reversed(passes), reversed(within), strict=True):
        sweep, size = one.sweep, size_of(one.sweep.target, frame)
        whole = Box(0, 0, *size)
        if limit is None:
            found.append(Part(NOTHING))
            continue
        name = "" if sweep.target is None or sweep.target.keeps else sweep.target.name
        asked = _in_lanes(wanted.get(name, NOTHING), whole) if name else whole
        box = _in_lanes(limit.within(asked), whole)
        around = () if one.clear is None else tuple(asked.beside(box))
        found.append(Part(box, around))
        _ask(wanted, sweep.pictures, one.reading.at(_of(sweep.slots, numbers)), box, frame)
        if one.clear is not None and around:
            _ask(wanted, sweep.pictures, one.reading_clear.at(_of(sweep.slots, numbers)), asked, frame)
    return found[::-1]


def _in_lanes(box: Box, whole: Box) -> Box:
    """A box grown to whole groups of lanes, in which pixels are drawn."""
    if box.empty:
        return NOTHING
    return Box(box.left // LANES * LANES, box.top, min(whole.right, -(-box.right // LANES) * LANES), box.bottom)


def _of(slots: Iterable[int], numbers: Sequence[Plain]) -> list[Plain]:
    return [numbers[slot] for slot in slots]


def _within(passes: Sequence[Clearing], numbers: Sequence[Plain], frame: Size, seen: dict[str, Box]) -> list[Box | None]:
    """The part of each pass that is not its clear form, none where it is not run at all. `seen` is added to."""
    found: list[Box | None] = []
    for one in passes:
        sweep, size = one.sweep, size_of(one.sweep.target, frame)
        if sweep.enabled is not None and not numbers[sweep.enabled]:
            found.append(None)
            # What reads it all the same does nothing with it.
            if (one.masks or one.vanishes) and sweep.target is not None:
                seen[sweep.target.name] = NOTHING
            continue
        box = Box(0, 0, *size)
        if one.places and all(bool(numbers[sweep.slots[slot]]) is side for slot, side in one.if_so.items()):
            reaches = one.reading.at(_of(sweep.slots, numbers))
            drawn = NOTHING
            for place in one.places:
                picture = sweep.pictures[place]
                drawn = drawn.around(_readers(reaches.get(place), seen.get(picture.name), size_of(picture, frame), size))
            box = drawn.within(box)
        if one.vanishes and sweep.target is not None:
            seen[sweep.target.name] = box
        found.append(box)
    return found


def _readers(reach: Reach | None, box: Box | None, size: Size, own: Size) -> Box:
    """Where a pass of size `own` reads a picture of `size` that is 0 but in a box."""
    if box is None or (reach is None and not box.empty):
        return Box(0, 0, *own)
    return NOTHING if reach is None else reach.readers(box, size, own)


def _ask(wanted: dict[str, Box], pictures: Sequence[Picture], reaches: Mapping[int, Reach | None], box: Box, frame: Size) -> None:
    """Add to what is wanted of each picture what is read of it where `box` is drawn."""
    if box.empty:
        return
    for place, reach in reaches.items():
        picture = pictures[place]
        size = size_of(picture, frame)
        read = Box(0, 0, *size) if reach is None else reach.read(box, size)
        wanted[picture.name] = wanted.get(picture.name, NOTHING).around(read)
