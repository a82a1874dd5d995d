"""A clip of an effect: its frames one after another, with all state, as quick as they can be made."""

from __future__ import annotations

import queue
from collections import deque
from collections.abc import Callable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from fractions import Fraction
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.engine.playback import Playback
from sunglaze.core.engine.running import prepare
from sunglaze.core.errors import BadFile
from sunglaze.core.material.filming import Film, shown_at
from sunglaze.core.moment.moment import RATE, Moment, Source
from sunglaze.core.passes.program import Inputs, Program
from sunglaze.core.targets.memory import parts_of

LONGEST = 600.0
"""Seconds of a clip."""
AHEAD = 3
Progress = Callable[[int, int], None]


def frames(program: Program, inputs: Inputs, source: Source, numbers: Iterator[int]) -> Iterator[NDArray[np.uint8]]:
    """Pictures (height, width, 3), red first, of a program's frames in growing order. State runs from frame 0 on: pictures that
    are kept from frame to frame need every frame drawn, other state only its numbers. Moments are made ahead on a thread."""
    program = program.final
    prepare(program, "bytes")
    playback, wanted = Playback(), list(dict.fromkeys(numbers))
    drawn = range(wanted[-1] + 1) if program.plan.kept and wanted else wanted
    shown = set(wanted)
    with ThreadPoolExecutor(1, thread_name_prefix="camera") as ahead:
        waiting: queue.SimpleQueue[Future[Moment]] = queue.SimpleQueue()
        coming = iter(drawn)

        def ask() -> None:
            number = next(coming, None)
            if number is not None:
                waiting.put(ahead.submit(source.moment, number, program.reads))

        for _ in range(AHEAD):
            ask()
        # A clip that starts late starts with the state that it would have.
        _step_to(playback, program, inputs, source, drawn[0] if drawn else 0)
        for number in drawn:
            moment = waiting.get().result()
            ask()
            picture = playback.at(program, inputs, source, moment)
            if number in shown:
                yield parts_of(picture, moment.screen.columns)[:, :, 2::-1]


def _step_to(playback: Playback, program: Program, inputs: Inputs, source: Source, frame: int) -> None:
    """State cells as they are before a frame, run from frame 0."""
    for number in range(frame):
        program.advance(source.moment(number, program.reads.numbers), inputs, playback.state, drawn=False)
    playback.frame = frame - 1


def write_clip(
    program: Program, inputs: Inputs, source: Source, out: Path, size: tuple[int, int], seconds: float,
    begin: float = 0.0, fps: float = float(RATE), progress: Progress = lambda done, of: None,
) -> int:  # fmt: skip
    """Write a clip of so many seconds from `begin` on; how many pictures it has. `size`: columns and rows of the source's screen.
    `out`: as Film takes it. Raises BadFile for a clip without pictures, or one that is too long."""
    if not 0 < seconds <= LONGEST or not 0 <= begin <= LONGEST:
        raise BadFile(f"a clip is up to {LONGEST:g} seconds long, and begins within the first {LONGEST:g}")
    if not 1 <= fps <= 60:
        raise BadFile(f"a clip shows 1 to 60 pictures a second; this is {fps:g}")
    rate = Fraction(fps).limit_denominator(1001)
    count = max(1, round(seconds * rate))
    numbers = list(shown_at(rate, RATE, int(begin * RATE + 1e-9), count))
    # No queue with a lock of Python's own: Ctrl+C in the middle of waking who waits for it would have it wait for ever.
    with Film(out, size, rate) as film, ThreadPoolExecutor(1, thread_name_prefix="encode") as encoding:
        added: deque[Future[None]] = deque()
        done = 0
        for number, picture in zip(dict.fromkeys(numbers), frames(program, inputs, source, iter(numbers)), strict=True):
            for _ in range(numbers.count(number) if rate > RATE else 1):
                added.append(encoding.submit(film.add, picture.copy()))
                done += 1
            while len(added) > AHEAD:
                added.popleft().result()
            progress(done, count)
        for one in added:
            one.result()
    return count
