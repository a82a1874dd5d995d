"""The list of contents of a package, as packages are written today; older ones lack what has a default."""

from __future__ import annotations

from typing import Annotated, Final, Literal

from pydantic import BaseModel, ConfigDict, Field

from sunglaze.core.effect.listing import Listing

FORMAT: Final = "sun-glaze/package"
VERSION: Final = 2
"""Version 1 had no listing, dials, cues, cost and weights."""
Triple = tuple[float, float, float]


class _Part(BaseModel):
    model_config = ConfigDict(extra="forbid")


class TableEntry(_Part):
    """A lookup: `size` steps along an edge of a cube or along a curve, `file` little-endian float32, three an entry."""

    asset: str
    layout: str | None
    file: str
    kind: Literal["cube", "curve"]
    size: Annotated[int, Field(ge=2)]
    domain_min: Triple
    domain_max: Triple
    title: str


class SequenceEntry(_Part):
    """A sequence: its files in order, ticks a second, for how many ticks each is shown (none: one each)."""

    rate: Annotated[float, Field(gt=0)]
    holds: list[int]
    files: list[str]


class DialEntry(_Part):
    """What the wearer may turn."""

    id: str
    title: str
    kind: str


class CueEntry(_Part):
    """What the effect answers to."""

    id: str
    name: str
    kind: str


class Cost(_Part):
    """Passes a frame, and bytes of textures at 720 by 1280; estimates."""

    passes: Annotated[int, Field(ge=0)]
    texture_bytes: Annotated[int, Field(ge=0)]


class Manifest(_Part):
    """`pictures` and `meshes`: files by the hashes that the effect names; `weights`: bytes of each file, unpacked."""

    format: Literal["sun-glaze/package"] = FORMAT
    version: Literal[2] = VERSION
    name: str
    lookups: list[TableEntry]
    pictures: dict[str, str]
    sequences: dict[str, SequenceEntry]
    meshes: dict[str, str]
    listing: Listing | None = None
    dials: list[DialEntry] = Field(default_factory=list)
    cues: list[CueEntry] = Field(default_factory=list)
    cost: Cost
    weights: dict[str, int]
    files: list[str]
