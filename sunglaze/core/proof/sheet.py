"""What stands on a proof sheet: who down, lights across, or any other two, and presets of what is looked at most."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationInfo, field_validator, model_validator

from sunglaze.core.camera.cameras import SCREENS
from sunglaze.core.camera.cast import SCRIPTS
from sunglaze.core.camera.lighting import LIGHTS
from sunglaze.core.camera.people import PEOPLE

Axis = Literal["who", "light", "screen", "moment"]
OWN = re.compile(r"own:[A-Za-z0-9_-]{1,64}")
"""A photo or clip of the artist's own in a performer's place."""
LATEST = 120.0
MOST_CELLS = 400


@dataclass(frozen=True)
class Instant:
    """A moment of a script that is looked at often."""

    title: str
    script: str
    seconds: float


MOMENTS: Mapping[str, Instant] = MappingProxyType({
    "talks": Instant("Talks", "talk", 1.5),
    "turns": Instant("Turns away", "talk", 0.5),
    "smiles": Instant("Smiles", "smile", 0.5),
    "open": Instant("Mouth open", "open", 0.5),
    "near": Instant("Near", "near", 1.0),
    "far": Instant("Far", "near", 4.0),
    "edge": Instant("At the edge", "edges", 0.7),
    "gone": Instant("Gone", "edges", 2.5),
    "back": Instant("Back again", "edges", 4.9),
    "two": Instant("Two", "two", 1.5),
    "behind": Instant("One passes behind", "two", 2.1),
    "hands": Instant("Hands before it", "hands", 0.2),
})  # fmt: skip
_OF_SCRIPT = re.compile(r"([a-z]+)@(\d+(?:\.\d+)?)")


def instant(name: str) -> Instant:
    """A moment by its name, or SCRIPT@SECONDS. Raises ValueError."""
    if name in MOMENTS:
        return MOMENTS[name]
    found = _OF_SCRIPT.fullmatch(name)
    if found is None or found[1] not in SCRIPTS or float(found[2]) > LATEST:
        known = ", ".join(MOMENTS)
        raise ValueError(f"there is no moment '{name}'; there are {known}, and SCRIPT@SECONDS as in talk@1.5")
    return Instant(f"{SCRIPTS[found[1]]}, {float(found[2]):g} s", found[1], float(found[2]))


_KNOWN: Mapping[str, tuple[str, ...]] = MappingProxyType({
    "who": tuple(PEOPLE), "light": tuple(LIGHTS), "screen": tuple(SCREENS)
})  # fmt: skip


class Place(BaseModel):
    """What one cell shows. `who`: a performer, or `own:NAME`."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    who: str = "lamp-tender"
    light: str = "noon"
    screen: str = "9:16"
    moment: str = "talks"

    @field_validator("who", "light", "screen", "moment")
    @classmethod
    def _known(cls, value: str, info: ValidationInfo) -> str:
        return known(str(info.field_name), value)

    @property
    def key(self) -> str:
        """The place in one word."""
        return "/".join((self.who, self.light, self.screen, self.moment))


def known(axis: str, value: str) -> str:
    """A value of an axis as it was given. Raises ValueError for one that is not known."""
    if axis == "moment":
        instant(value)
        return value
    names = _KNOWN[axis]
    if value not in names and not (axis == "who" and OWN.fullmatch(value)):
        raise ValueError(f"there is no {axis} '{value}'; there are {', '.join(names)}")
    return value


_Names = Annotated[tuple[str, ...], Field(min_length=1, max_length=40)]


class Sheet(BaseModel):
    """Two axes and what stands on each; of the other two the first value holds for all cells."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    down: Axis = "light"
    across: Axis = "who"
    who: _Names = tuple(PEOPLE)
    light: _Names = ("noon", "dusk")
    screen: _Names = ("9:16",)
    moment: _Names = ("talks",)

    @model_validator(mode="after")
    def _sound(self) -> Sheet:
        if self.down == self.across:
            raise ValueError(f"'{self.down}' stands down and across; choose two different things")
        for axis in ("who", "light", "screen", "moment"):
            values = getattr(self, axis)
            for value in values:
                known(axis, value)
            if len(set(values)) < len(values):
                raise ValueError(f"'{axis}' names something twice")
        if len(self.rows) * len(self.columns) > MOST_CELLS:
            raise ValueError(f"the sheet has more than {MOST_CELLS} cells; leave something out")
        return self

    @property
    def rows(self) -> tuple[str, ...]:
        """What stands down."""
        return tuple(getattr(self, self.down))

    @property
    def columns(self) -> tuple[str, ...]:
        """What stands across."""
        return tuple(getattr(self, self.across))

    def place(self, row: str, column: str) -> Place:
        """The cell at which two values meet."""
        first = {"who": self.who[0], "light": self.light[0], "screen": self.screen[0], "moment": self.moment[0]}
        return Place(**{**first, self.down: row, self.across: column})

    @property
    def places(self) -> list[Place]:
        """All cells, row by row."""
        return [self.place(row, column) for row in self.rows for column in self.columns]


@dataclass(frozen=True)
class Preset:
    """A sheet that ships."""

    title: str
    sheet: Sheet


_FEW = ("lamp-tender", "beekeeper", "oyster-cook", "kite-flyer")
PRESETS: Mapping[str, Preset] = MappingProxyType({
    "everybody": Preset("Everybody at noon and dusk", Sheet()),
    "lights": Preset("Everybody in every light", Sheet(light=tuple(LIGHTS))),
    "screens": Preset("All screens", Sheet(down="who", across="screen", who=_FEW, light=("noon",), screen=tuple(SCREENS))),
    "distance": Preset(
        "Near, far, edge, gone",
        Sheet(down="who", across="moment", who=_FEW, light=("noon",), moment=("near", "far", "edge", "gone", "back")),
    ),
    "two": Preset("Two people", Sheet(down="who", across="moment", who=_FEW, light=("noon",), moment=("two", "behind"))),
    "open": Preset("Mouth open", Sheet(down="moment", light=("noon",), moment=("open", "smiles", "hands"))),
})  # fmt: skip


def title(axis: Axis, value: str, own: Mapping[str, str] = MappingProxyType({})) -> str:
    """What is written beside a row or over a column; `own`: names of own photos and clips, by `own:NAME`."""
    if axis == "moment":
        return instant(value).title
    if axis == "who":
        return PEOPLE[value].role if value in PEOPLE else own.get(value, value.removeprefix("own:"))
    return LIGHTS[value].title if axis == "light" else value
