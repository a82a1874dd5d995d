"""Rehearsals: touch, cues and dials by frame, kept so that a run can be played again exactly, on any target.

{"format": "sun-glaze/rehearsal", "version": 1, "seed": 0, "steps": [{"frame": 12, "dials": {"1": 0.5}}]}
"""

from __future__ import annotations

import bisect
import json
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Annotated, Any, Final, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator

from sunglaze.core.errors import BadFile, in_words
from sunglaze.core.moment.moment import Moment, Reads, Source, Touch

FORMAT: Final = "sun-glaze/rehearsal"
VERSION: Final = 1
MOST_STEPS = 100_000
_Part = Annotated[float, Field(ge=0.0, le=1.0, allow_inf_nan=False)]
_Name = Annotated[str, Field(pattern=r"^[A-Za-z0-9_-]{1,40}$")]


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class Finger(_Strict):
    """What a finger does: is it down, and where."""

    down: bool
    u: _Part = 0.5
    v: _Part = 0.5


class Step(_Strict):
    """What changes at a frame. `touch` and `dials` hold from then on; `cues` are given in this frame alone."""

    frame: Annotated[int, Field(ge=0, le=10_000_000)]
    touch: Finger | None = None
    cues: Annotated[tuple[_Name, ...], Field(max_length=16)] = ()
    dials: Annotated[dict[_Name, _Part], Field(max_length=64)] = Field(default_factory=dict)


class Rehearsal(_Strict):
    """Steps in the order of their frames, one a frame at most. `seed`: of the run."""

    format: Literal["sun-glaze/rehearsal"] = FORMAT
    version: Literal[1] = VERSION
    seed: Annotated[int, Field(ge=0, le=2**31 - 1)] = 0
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
                touch = Touch(step.touch.down, step.touch.u, step.touch.v, taps)
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
