"""What the shelf's routes take and give."""

from __future__ import annotations

from typing import Annotated, Literal, cast

from pydantic import BaseModel, Field

from sunglaze.core.camera.cast import Sitting
from sunglaze.core.effect.document import Effect
from sunglaze.core.material.weighing import Form
from sunglaze.server.asset_schemas import Asset
from sunglaze.server.schemas import Moment
from sunglaze.store.shelf import Piece

Kind = Literal["lookup", "picture", "sequence", "footage", "mesh", "recipe", "group", "profile"]


class Use(BaseModel):
    """An effect that uses a file."""

    id: str
    name: str


class ShelfPiece(BaseModel):
    """A file on the shelf, what it is shown as, and the effects that use it."""

    asset: Asset
    kind: Kind
    used: list[Use]
    created: Moment

    @classmethod
    def of(cls, piece: Piece) -> ShelfPiece:
        used = [Use(id=identity, name=name) for identity, name in piece.used]
        return cls(asset=Asset.of(piece.row), kind=cast(Kind, piece.kind), used=used, created=piece.row.created)


class Came(BaseModel):
    """A file that came onto the shelf; `notes`: what is to be said of it."""

    piece: ShelfPiece
    notes: list[str]


class Replace(BaseModel):
    """Let every effect use another file of the same kind."""

    by: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]


class CutRequest(BaseModel):
    """What of a clip becomes a sequence, as core/material/cutting.Cut has it. `draft`: only to be looked at."""

    turn: Literal[0, 90, 180, 270] = 0
    flip: Literal["none", "across", "down"] = "none"
    crop: tuple[float, float, float, float] = (0.0, 0.0, 1.0, 1.0)
    size: tuple[Annotated[int, Field(ge=1, le=8192)], Annotated[int, Field(ge=1, le=8192)]] | None = None
    fit: Literal["cover", "contain", "stretch"] = "cover"
    span: tuple[float, float] | None = None
    rate: Annotated[float, Field(ge=0.1, le=60)] | None = None
    black: bool = False
    soften: Annotated[float, Field(ge=0, le=10)] = 0.0
    quality: Annotated[int, Field(ge=1, le=100)] | None = 78
    draft: bool = False
    name: Annotated[str, Field(max_length=200)] = ""


class FormWeight(BaseModel):
    """What a sequence weighs in a form, and how alike it is to what it was made of (SSIM of the worst picture); `worst`: that
    picture's number."""

    form: Form
    bytes: int
    alike: float
    worst: Annotated[int, Field(ge=0)] = 0


class CutJob(BaseModel):
    """A clip that becomes a sequence: how far it is, and what came of it. `weight`: bytes so far. `weights`: of a draft, what the
    whole would weigh in each form."""

    id: str
    done: int
    of: int
    weight: int
    state: Literal["running", "done", "failed", "cancelled"]
    asset: str | None
    words: str
    weights: list[FormWeight] = Field(default_factory=list)


class CompareRequest(BaseModel):
    """Look at an effect with one picture of a file, the one of this number, as it was and in a form. `used`: the file that the
    effect has in its place; the rest as in a PreviewRequest."""

    effect: Effect
    used: Annotated[str, Field(max_length=64)]
    form: Form
    quality: Annotated[int, Field(ge=1, le=100)] = 78
    number: Annotated[int, Field(ge=0, le=100_000)] = 0
    frame: Annotated[int, Field(ge=0, le=1_000_000_000)] = 0
    sitting: Sitting = Sitting()
    screen: Literal["9:16", "3:4", "1:1", "16:9"] = "9:16"


class SavingShown(BaseModel):
    """Data addresses of an effect with a picture as it was, and saved."""

    was: str
    saved: str


class SaveForm(BaseModel):
    """Make a file smaller: in a form, at a quality of WebP."""

    form: Form
    quality: Annotated[int, Field(ge=1, le=100)] = 78


class FitPiece(BaseModel):
    """A piece, what it weighs as it stands, and the forms that it may take."""

    asset: Annotated[str, Field(max_length=64)]
    bytes: Annotated[int, Field(ge=0, le=2**40)]
    forms: Annotated[list[FormWeight], Field(max_length=8)]


class FitRequest(BaseModel):
    """Pieces, and how many bytes there are for all of them together."""

    pieces: Annotated[list[FitPiece], Field(max_length=64)]
    room: Annotated[int, Field(ge=0, le=2**40)]


class Fitted(BaseModel):
    """Which form each piece takes, none as it stands; `fits` False: nothing does."""

    fits: bool
    forms: dict[str, Form | None]
