"""What the server's routes take and give, beyond the effect document itself. The browser's types are made from these."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BaseModel, Field

from sunglaze.core.camera.cast import Sitting
from sunglaze.core.effect.document import UNNAMED, Effect
from sunglaze.core.effect.recipe import PRINTABLE, Fault, Name, Plain, Recipe, Started
from sunglaze.core.nodes.handles import Handle
from sunglaze.core.nodes.types import TypeName, Wire
from sunglaze.store.effects import Gone, Kept, Step

Moment = Annotated[datetime, AfterValidator(lambda moment: moment.replace(tzinfo=moment.tzinfo or UTC))]
"""A moment with its zone; the database keeps UTC without saying so."""
Row = Annotated[int, Field(ge=0, le=2**63 - 1)]


class EffectState(BaseModel):
    """An effect at its head. `undo` and `redo` name what they would take back or repeat. `problems`: what today's rules refuse in
    what is stored; `effect` is what can be read of it, and /document gives it as it is. `weight`: bytes, files that it uses
    included."""

    id: str
    revision: int
    effect: Effect
    undo: str | None
    redo: str | None
    changed: Moment
    weight: int
    problems: list[str] = Field(default_factory=list)

    @classmethod
    def of(cls, kept: Kept) -> EffectState:
        return cls(**{**vars(kept), "problems": list(kept.problems)})


class ListedEffect(EffectState):
    """An effect as the list has it. `printed`: a print of this state is there already."""

    printed: bool


class DeletedEffect(BaseModel):
    """An effect that was deleted, and can be brought back."""

    id: str
    name: str
    deleted: Moment

    @classmethod
    def of(cls, gone: Gone) -> DeletedEffect:
        return cls(**vars(gone))


class NewEffect(BaseModel):
    name: Name = UNNAMED


class NewName(BaseModel):
    name: Name


class SaveRequest(BaseModel):
    """A change made from revision `base`; `gesture` is its name in the undo list."""

    base: Row
    gesture: Annotated[str, Field(min_length=1, max_length=200, pattern=PRINTABLE)]
    effect: Effect


class SaveAnswer(BaseModel):
    """`stale`: another window had saved; this change is kept as revision `kept_as` beside it, the head is `state`."""

    state: EffectState
    stale: bool
    kept_as: int


class HistoryStep(BaseModel):
    """One revision in the history; a take where it has a name."""

    revision: int
    gesture: str
    take: str | None
    created: Moment
    is_head: bool

    @classmethod
    def of(cls, step: Step) -> HistoryStep:
        return cls(**vars(step))


class TakeName(BaseModel):
    """A take's name; none makes it a plain revision again."""

    name: Name | None


class TextSize(BaseModel):
    """Pixels of a text as it is drawn."""

    width: int
    height: int


class LeftOut(BaseModel):
    """A layer that a baked grade does not hold, and why."""

    layer: str
    name: str
    why: str


class GradeLoss(BaseModel):
    """What baking loses, as CIEDE2000: over the whole cube and over shades of skin."""

    mean: float
    largest: float
    skin_mean: float
    skin_largest: float


class Grade(BaseModel):
    """What of an effect a lookup holds. `is_decision`: whether an ASC CDL holds it, too."""

    layers: list[str]
    left: list[LeftOut]
    loss: GradeLoss
    is_decision: bool


class PortKind(BaseModel):
    """An input, output or control: its type and what its control needs. A `default` of null is what lies below, or nothing.
    `also`: what other controls are set to when this one is chosen; `facts`: which take the columns and rows of a sheet that is.
    `driven`: of a drive, an end between which it moves a control, whose unit and range it has. `template`: what is handed out to
    paint its picture on."""

    name: str
    title: str
    type: TypeName
    unit: str
    low: float | None
    high: float | None
    step: float | None
    choices: list[str]
    default: Plain
    also: dict[str, Plain] = Field(default_factory=dict)
    facts: dict[str, Literal["columns", "rows", "size"]] = Field(default_factory=dict)
    driven: bool = False
    template: Literal["face"] | None = None


class NodeKind(BaseModel):
    kind: str
    title: str
    family: str
    help: str
    inputs: list[PortKind]
    outputs: list[PortKind]
    handles: list[Handle]


class LayerLook(BaseModel):
    """A node of a ready-made layer that is worth seeing beside its controls."""

    node: str
    title: str


class Setting(BaseModel):
    """A named way to start: what a layer's controls are set to, and what drives them."""

    name: str
    values: dict[str, Plain]
    drives: dict[str, Started]


class MaskKind(BaseModel):
    """A kind of mask that a layer may have."""

    kind: str
    name: str
    help: str
    controls: list[PortKind]
    looks: list[LayerLook]
    handles: list[Handle]


class DriveKind(BaseModel):
    """What may move a control by itself, or a cue; `start`: what a new one is set to; `sentence`: what it does in words, its
    controls among them as {ID}; `family`: colour, of what gives one."""

    kind: str
    name: str
    help: str
    family: str
    sentence: str
    controls: list[PortKind]
    start: dict[str, Plain]


class TypeKind(BaseModel):
    """A type of wires and controls, as core/nodes/types.py has it."""

    words: str
    parts: int
    wire: Wire
    any: bool
    driven: bool
    material: bool
    large: bool


class Cost(BaseModel):
    """What a ready-made layer costs alone: passes over the picture, operations a pixel, and that in words."""

    passes: int
    operations: int
    words: str


class NodePreview(BaseModel):
    """What a node gives now: its type, and numbers in words or a place on the sheet."""

    type: str
    words: str | None
    tile: int | None


class PreviewRequest(BaseModel):
    """Look at the nodes of a layer's recipe, or of a group in it (`path`: ids of group nodes), with who sits before the camera.

    `mask`: at those of the layer's mask instead; `drive`: at those of what drives this control. `only`: at these alone.
    `short`: pixels of the tiles' shorter side.
    """

    effect: Effect
    layer: str
    path: Annotated[list[str], Field(max_length=16)] = Field(default_factory=list)
    frame: Annotated[int, Field(ge=0, le=1_000_000_000)] = 0
    mask: bool = False
    drive: Annotated[str, Field(max_length=200)] = ""
    only: Annotated[list[str], Field(max_length=8)] = Field(default_factory=list)
    sitting: Sitting = Sitting()
    screen: Literal["9:16", "3:4", "1:1", "16:9"] = "9:16"
    short: Annotated[int, Field(ge=45, le=270)] = 90


class RecipePreviews(BaseModel):
    """`sheet`: a PNG as base64, tiles under each other, `width` by `height` each; empty where no node gives a picture."""

    nodes: dict[str, NodePreview]
    faults: list[Fault]
    sheet: str
    width: int
    height: int


class RecipeFile(BaseModel):
    """A recipe read from a file or written to one; `notes` say what was left out."""

    recipe: Recipe | None = None
    text: str = ""
    notes: list[str] = Field(default_factory=list)


class LayerKind(BaseModel):
    """A ready-made layer; `also` is what else people call it, `blend` and `opacity` how a new one lies on what is below."""

    kind: str
    name: str
    help: str
    family: str
    also: list[str]
    controls: list[PortKind]
    blend: str
    opacity: float
    settings: list[Setting]
    looks: list[LayerLook]
    handles: list[Handle]


class Conversion(BaseModel):
    given: str
    wanted: str
    does: str


class Catalogue(BaseModel):
    """All that there is to work with. `opacity`, `on`, `masked`: what these of every layer look like as controls."""

    layers: list[LayerKind]
    masks: list[MaskKind]
    drives: list[DriveKind]
    cues: list[DriveKind]
    opacity: PortKind
    on: PortKind
    masked: PortKind
    families: list[str]
    types: dict[str, TypeKind]
    conversions: list[Conversion]
    nodes: list[NodeKind]


class GpuProgram(BaseModel):
    """A program for the player. `key` is equal where program and tables are, so that only uniforms differ; `tables` are base64
    of 32-bit floats, `pictures` addresses by name. `score`: lines and cues, and the signals that give their numbers."""

    key: str
    program: dict[str, Any]
    tables: list[str]
    pictures: dict[str, str]
    score: dict[str, Any]


class ColourReading(BaseModel):
    """A layer as judging aids need it: curves along grey, colours of the cube, tones before and after, all sRGB 0 to 1."""

    grey: list[tuple[float, float, float]]
    cloud: list[str]
    tones: list[ToneShift]


class WornBy(BaseModel):
    """A layer on one performer's face: pictures before and after (data addresses), and the shift of the skin (CIEDE2000)."""

    who: str
    name: str
    before: str
    after: str
    shift: float


class ToneShift(BaseModel):
    """One tone of the Monk Skin Tone scale before and after, and how far it moved (CIEDE2000)."""

    before: str
    after: str
    difference: float


class Trouble(BaseModel):
    """Every refusal: what is wrong, where, and what to do, in plain words."""

    message: str
