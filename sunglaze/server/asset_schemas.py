"""Files as routes give them, with what was found in each."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, Field

from sunglaze.store.tables import AssetRow


class LookupFacts(BaseModel):
    """What was found in a lookup file. `noise` and shifts in units of full scale; `sure` False: two layouts fit. `like`: whether
    a picture is rather a lookup or some other picture."""

    found: Literal["cube file", "clf file", "cdl file", "strip", "grid", "hald"]
    choices: list[Literal["strip", "grid", "hald"]]
    sure: bool
    like: Literal["lookup", "unsure", "picture"] = "lookup"
    bits: int | None
    kind: Literal["cube", "curves"]
    size: int
    lowest: float
    highest: float
    mean_shift: float
    largest_shift: float
    monotonic: bool
    noise: float | None
    damaged: bool
    stored_as: str


class PictureFacts(BaseModel):
    """A still picture. `columns` and `rows`: the cells where it is a sheet, `cut` those that are cut off at their borders."""

    width: int
    height: int
    format: str
    columns: int = 1
    rows: int = 1
    cut: list[tuple[int, int]] = Field(default_factory=list)


class SequenceFacts(BaseModel):
    """Pictures one after the other. `rate`: pictures a second, the mean where they are not `even`; `notes`: what was missing or
    left out when it was read."""

    width: int
    height: int
    frames: int
    rate: float
    seconds: float
    even: bool
    notes: list[str] = Field(default_factory=list)


class MeshMotion(BaseModel):
    """How parts of a mesh move, over and over."""

    name: str
    seconds: float


class MeshFacts(BaseModel):
    """A mesh. Sides of the box about it are centimetres, `size` is the longest; `texture`: its texels, across and down."""

    triangles: int
    size: float
    across: float
    up: float
    deep: float
    texture: tuple[int, int] | None = None
    motions: list[MeshMotion] = Field(default_factory=list)
    notes: list[str] = Field(default_factory=list)


class RecipeFacts(BaseModel):
    """A recipe, or nodes packed into a group."""

    title: str
    help: str
    nodes: int


class ProfileFacts(BaseModel):
    """Limits of where effects go."""

    title: str
    help: str


class FootageFacts(BaseModel):
    """A picture or clip for the camera's place; `seconds` is 0 for a picture."""

    width: int
    height: int
    format: str
    pictures: int
    seconds: float


class Saved(BaseModel):
    """What a file was made smaller of, and in which form."""

    of: str
    form: str


class Asset(BaseModel):
    hash: str
    name: str
    bytes: int
    lookup: LookupFacts | None
    picture: PictureFacts | None
    footage: FootageFacts | None = None
    sequence: SequenceFacts | None = None
    mesh: MeshFacts | None = None
    recipe: RecipeFacts | None = None
    profile: ProfileFacts | None = None
    saved: Saved | None = None

    @classmethod
    def of(cls, row: AssetRow) -> Asset:
        facts = row.facts
        recipe = facts.get("group") or facts.get("recipe")
        return cls(
            hash=row.hash,
            name=row.name,
            bytes=row.size,
            lookup=LookupFacts(**facts["lookup"]) if "lookup" in facts else None,
            picture=PictureFacts(**facts["picture"]) if "picture" in facts else None,
            footage=FootageFacts(**facts["footage"]) if "footage" in facts else None,
            sequence=SequenceFacts(**facts["sequence"]) if "sequence" in facts else None,
            mesh=MeshFacts(**facts["mesh"]) if "mesh" in facts else None,
            recipe=RecipeFacts(**recipe) if recipe else None,
            profile=ProfileFacts(**facts["profile"]) if "profile" in facts else None,
            saved=Saved(**facts["saved"]) if "saved" in facts else None,
        )
