"""Rehearsals: touch, cues and dials by frame, kept so that a run can be played again exactly, on any target.

{"format": "sun-glaze/rehearsal", "version": 1, "seed": 0, "steps": [{"frame": 12, "dials": {"1": 0.5}}]}
"""

from __future__ import annotations

import bisect
import json
from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Annotated, Any, Final, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator

from sunglaze.core.errors import BadFile, in_words
from sunglaze.core.moment.moment import Moment, Reads, Source, Touch

FORMAT: Final = "sun-glaze/rehearsal"
VERSION: Final = 2
MOST_STEPS = 100_000
_Part = Annotated[float, Field(ge=0.0, le=1.0, allow_inf_nan=False)]
_Name = Annotated[str, Field(pattern=r"^[A-Za-z0-9_-]{1,40}$")]


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class Finger(_Strict):
    """What a finger does: is it down, and where; how two fingers have turned (degrees) and spread (a factor) things so far."""

    down: bool
    u: _Part = 0.5
    v: _Part = 0.5
    turn: Annotated[float, Field(ge=-36_000, le=36_000, allow_inf_nan=False)] = 0.0
    scale: Annotated[float, Field(gt=0.0, le=1000.0, allow_inf_nan=False)] = 1.0


class Step(_Strict):
    """What changes at a frame. `touch` and `dials` hold from then on; `cues` are given in this frame alone."""

    frame: Annotated[int, Field(ge=0, le=10_000_000)]
    touch: Finger | None = None
    cues: Annotated[tuple[_Name, ...], Field(max_length=16)] = ()
    dials: Annotated[dict[_Name, _Part], Field(max_length=64)] = Field(default_factory=dict)


class Rehearsal(_Strict):
    """Steps in the order of their frames, one a frame at most. `seed`: of the run. `frames`: after so many it begins anew where
    it is played in a loop; 0 where nobody has said."""

    format: Literal["sun-glaze/rehearsal"] = FORMAT
    version: Literal[1, 2] = VERSION
    seed: Annotated[int, Field(ge=0, le=2**31 - 1)] = 0
    frames: Annotated[int, Field(ge=0, le=10_000_000)] = 0
    steps: Annotated[tuple[Step, ...], Field(max_length=MOST_STEPS)] = ()

    @model_validator(mode="after")
    def _in_order(self) -> Rehearsal:
        for one, following in zip(self.steps, self.steps[1:], strict=False):
            if following.frame <= one.frame:
                raise ValueError(f"the step of frame {following.frame} comes after that of frame {one.frame}")
        return self

    @cached_property
    def _states(self) -> tuple[list[int], list[tuple[Touch, dict[str, float]]]]:
        """Frames of the steps, and how touch and dials stand from each of them on."""
        touch, dials = Touch(), dict[str, float]()
        frames, states = [], []
        for step in self.steps:
            if step.touch is not None:
                taps = touch.taps + (step.touch.down and not touch.down)
                touch = Touch(step.touch.down, step.touch.u, step.touch.v, taps, step.touch.turn, step.touch.scale)
            dials = {**dials, **step.dials}
            frames.append(step.frame)
            states.append((touch, dials))
        return frames, states

    def at(self, moment: Moment) -> Moment:
        """The moment with touch, cues and dials as the rehearsal has them then. A tap counts when the finger comes down."""
        frames, states = self._states
        place = bisect.bisect_right(frames, moment.clock.frame) - 1
        touch, dials = states[place] if place >= 0 else (Touch(), dict[str, float]())
        given = place >= 0 and frames[place] == moment.clock.frame
        clock = replace(moment.clock, seed=self.seed)
        cues = self.steps[place].cues if given else ()
        return replace(moment, clock=clock, touch=touch, cues=cues, dials={**moment.dials, **dials})


@dataclass(frozen=True)
class Rehearsed:
    """A source of moments with a rehearsal before it."""

    source: Source
    rehearsal: Rehearsal

    def moment(self, frame: int, reads: Reads) -> Moment:
        """As Source has it."""
        return self.rehearsal.at(self.source.moment(frame, reads))


class Recorder:
    """What is done while someone plays, by frame, as the page's host keeps it (web/src/engine/rehearsal.ts)."""

    def __init__(self) -> None:
        self._steps: list[Step] = []
        self._made = Rehearsal()

    def record(
        self, frame: int, touch: Finger | None = None, cue: str | None = None, dials: Mapping[str, float] | None = None
    ) -> None:
        """Something is done at a frame; it counts from then on, or, where that frame has passed, from the last one. A finger that
        goes down and up within a frame is seen in the next one; one that only moves is where it came to."""
        last = self._steps[-1] if self._steps else None
        cues = (cue,) if cue else ()
        step = Step(frame=frame, touch=touch, cues=cues, dials=dict(dials or {}))
        if last is not None and frame <= last.frame:
            if touch is not None and last.touch is not None and touch.down != last.touch.down:
                step = step.model_copy(update={"frame": last.frame + 1})
            else:
                self._steps.pop()
                step = Step(
                    frame=last.frame, touch=touch or last.touch, cues=last.cues + cues, dials={**last.dials, **step.dials}
                )
        self._steps = [*self._steps[-(MOST_STEPS - 1) :], step]
        self._made = Rehearsal(steps=tuple(self._steps))

    def rewind(self, frame: int) -> None:
        """Forget what was done after a frame: the clock went back."""
        if self._steps and self._steps[-1].frame > frame:
            self._steps = [step for step in self._steps if step.frame <= frame]
            self._made = Rehearsal(steps=tuple(self._steps))

    def made(self, frames: int = 0) -> Rehearsal:
        """What was done so far, as a rehearsal of so many frames."""
        return self._made.model_copy(update={"frames": frames}) if frames else self._made


@dataclass(frozen=True)
class Dialled:
    """A source of moments whose dials stand somewhere from the start."""

    source: Source
    dials: Mapping[str, float]

    def moment(self, frame: int, reads: Reads) -> Moment:
        """As Source has it."""
        found = self.source.moment(frame, reads)
        return replace(found, dials={**self.dials, **found.dials})


def write_rehearsal(rehearsal: Rehearsal) -> str:
    """A rehearsal as JSON, as short as it can be said."""
    plain = rehearsal.model_dump(mode="json", exclude_defaults=True)
    return json.dumps({"format": FORMAT, "version": VERSION, **plain}, indent=1)


def read_rehearsal(data: bytes | str) -> Rehearsal:
    """A rehearsal from JSON. Raises BadFile with what is wrong and where."""
    try:
        plain: Any = json.loads(data)
    except (ValueError, RecursionError) as error:
        raise BadFile(f"this is not JSON: {error}") from None
    if not isinstance(plain, dict) or plain.get("format") != FORMAT:
        raise BadFile(f"this is JSON but no rehearsal: 'format' should be '{FORMAT}'")
    if isinstance(plain.get("version"), int) and plain["version"] > VERSION:
        raise BadFile(f"the rehearsal has version {plain['version']}, this program reads up to {VERSION}; update Sun Glaze")
    try:
        return Rehearsal.model_validate(plain)
    except ValidationError as error:
        raise BadFile(in_words(error, "the rehearsal")) from None
