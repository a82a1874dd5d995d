"""The effect as a document: what is stored, sent and put into packages. JSON with a schema and a version."""

from __future__ import annotations

import json
from dataclasses import dataclass, field, replace
from functools import cache
from itertools import groupby
from typing import Annotated, Any, Final, Literal

from pydantic import Field, PrivateAttr, ValidationError, field_validator, model_validator

from sunglaze.core.effect.address import DRIVE, LAYER, MASK, Address, address
from sunglaze.core.effect.literals import Setting, setting
from sunglaze.core.effect.migrating import PARTS, VERSION, migrated
from sunglaze.core.effect.motions import DRIVEABLE, Cue, Dial, Drive, Strict, check_values, standing
from sunglaze.core.effect.recipe import MOST_EXPANDED as RECIPE_MOST
from sunglaze.core.effect.recipe import Name, Plain, Recipe
from sunglaze.core.effect.recording import ports, settings
from sunglaze.core.effect.references import LookupRef, MeshRef, Played, Wearers
from sunglaze.core.effect.shipped import mask_recipes, shipped
from sunglaze.core.errors import BadEffect, in_words
from sunglaze.core.material.painting import Painting
from sunglaze.core.moment.rehearsal import Rehearsal
from sunglaze.core.nodes.blend import MODES
from sunglaze.core.nodes.node import Port
from sunglaze.core.nodes.types import Type

FORMAT: Final = "sun-glaze/effect"
UNNAMED = "Untitled effect"
"""What an effect is called as long as nobody has named it; the page has the same."""
MOST_LAYERS = 64
MOST_EXPANDED = 2 * RECIPE_MOST
"""Nodes of an effect's own recipes together, groups taken apart: building so many takes seconds."""
OWN: Final = "own"
Fraction = Annotated[float, Field(ge=0.0, le=1.0, allow_inf_nan=False)]
Hash = Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
LayerId = Annotated[str, Field(pattern=r"^[A-Za-z0-9_-]{1,40}$")]
OPACITY: Final = Port(f"{LAYER}opacity", Type("number", low=0.0, high=1.0), 1.0)
ON: Final = Port(f"{LAYER}on", Type("number", low=0.0, high=1.0), 1.0)
MASKED: Final = Port(f"{LAYER}mask", Type("number", low=0.0, high=1.0), 1.0)
MOST_CUES, MOST_DIALS = 24, 12
MOST_WORN = 3
"""Dials that a phone shows at once."""


class LayerMask(Strict):
    """Where a layer shows: a shipped recipe that gives a mask, and what its controls are set to."""

    kind: Annotated[str, Field(pattern=r"^[a-z0-9-]{1,60}$")]
    values: dict[str, Plain] = Field(default_factory=dict)

    @model_validator(mode="after")
    def _values_fit(self) -> LayerMask:
        if self.kind in mask_recipes():
            check_values("the mask", ports(mask_recipes()[self.kind]), self.values)
        return self


@cache
def shipped_controls(kind: str) -> list[Port]:
    """The controls of a ready-made layer; every effect asks for them at every turn."""
    return ports(shipped()[kind])


@cache
def mask_controls(kind: str) -> list[Port]:
    """The controls of a kind of mask."""
    return ports(mask_recipes()[kind])


@dataclass(eq=False)
class _Parsed:
    """What a layer's settings were parsed to, and from which of its parts. All are equal: layers that hold the same are."""

    parts: tuple[Any, ...] = ()
    settings: list[Setting] = field(default_factory=list)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Parsed)

    __hash__ = None  # type: ignore[assignment]


class Layer(Strict):
    """A recipe and how it lies on what is below.

    `kind` names a ready-made recipe, or is `own` where `recipe` holds the layer's. `values`: what its controls are set to, the
    others standing at their defaults. A kind of a newer version is kept, and leaves the picture as it is. `drives`: what moves
    a control, a part of one (NAME.0), the opacity (layer:opacity), whether it is on (layer:on, 0 to 1), how much its mask counts
    (layer:mask, 0 to 1), or a control of the mask (mask:NAME) by itself. `group`: the id of the group that it stands in.
    """

    id: LayerId
    name: Name
    kind: Annotated[str, Field(pattern=r"^[a-z0-9-]{1,60}$")]
    on: bool = True
    blend: str = "normal"
    opacity: Fraction = 1.0
    light: Literal["display", "linear"] = "display"
    values: dict[str, Plain] = Field(default_factory=dict)
    recipe: Recipe | None = None
    mask: LayerMask | None = None
    drives: dict[str, Drive] = Field(default_factory=dict)
    group: LayerId | None = None
    _parsed: _Parsed = PrivateAttr(default_factory=lambda: _Parsed())

    @field_validator("blend")
    @classmethod
    def _known_mode(cls, mode: str) -> str:
        if mode not in MODES:
            raise ValueError(f"'{mode}' is no blend mode; the modes are {', '.join(MODES)}")
        return mode

    @model_validator(mode="after")
    def _values_fit(self) -> Layer:
        if self.kind == OWN and self.recipe is None:
            raise ValueError("a layer of your own needs a recipe")
        if self.kind not in (OWN, *shipped()):
            return self
        check_values(f"'{self.name}'", self.controls(), self.values)
        numbers = self.driveable() if self.drives else {}
        for control, drive in self.drives.items():
            if control not in numbers:
                raise ValueError(f"'{control}' of '{self.name}' cannot be driven; these can: {', '.join(numbers) or 'none'}")
            if drive.graph and (drive.graph.family == "colour") != (numbers[control].kind.name == "colour"):
                raise ValueError(f"'{control}' of '{self.name}' cannot be driven by a {drive.graph.name.lower()}")
        return self

    @property
    def graph(self) -> Recipe | None:
        """The layer's recipe; none where its kind is not known here."""
        return self.recipe if self.kind == OWN else shipped().get(self.kind)

    def controls(self) -> list[Port]:
        """The layer's controls; none where its kind is not known here."""
        if self.kind in shipped():
            return shipped_controls(self.kind)
        return ports(self.recipe) if self.kind == OWN and self.recipe is not None else []

    def controls_set(self) -> list[tuple[Port, Any]]:
        """The layer's controls and what they stand at."""
        return standing(self.controls(), self.values)

    def driveable(self) -> dict[str, Port]:
        """What can be driven: the layer's numbers and colours, its opacity, whether it is on, how much its mask counts, the
        mask's numbers by mask:NAME, and each part of vectors by NAME.0, NAME.1 and so on."""
        found = {port.name: port for port in [*self.controls(), OPACITY, ON, *([MASKED] if self.mask else [])]}
        found |= {f"{MASK}{port.name}": port for port, _ in self.mask_set()}
        vectors = {f"{name}.{n}": part for name, port in found.items() for n, part in enumerate(parts_of(port))}
        return {name: port for name, port in found.items() if port.kind.name in DRIVEABLE or _is_number(port)} | vectors

    @property
    def mask_graph(self) -> Recipe | None:
        """The recipe of its mask; none where it has none, or one of a kind that is not known here."""
        return mask_recipes().get(self.mask.kind) if self.mask else None

    def mask_set(self) -> list[tuple[Port, Any]]:
        """The mask's controls and what they stand at."""
        return standing(mask_controls(self.mask.kind), self.mask.values) if self.mask and self.mask_graph else []

    def everything_set(self) -> list[Setting]:
        """All that is set, on controls, on the mask, on drives and on nodes; parsed when it is asked for first."""
        parts = (self.id, self.kind, self.values, self.mask, self.drives, self.recipe)
        held = self._parsed
        if len(held.parts) != len(parts) or any(one is not other for one, other in zip(parts, held.parts, strict=True)):
            held = self._parsed = _Parsed(parts, self._settings())
        return held.settings

    def _settings(self) -> list[Setting]:
        found = [setting(f"{self.id}.{port.name}", port, plain) for port, plain in self.controls_set()]
        found += [setting(f"{self.id}.{MASK}{port.name}", port, plain) for port, plain in self.mask_set()]
        for control, drive in self.drives.items():
            found += drive.settings(f"{self.id}.{DRIVE}{control}")
        if self.mask_graph is not None:
            found += settings(self.mask_graph, f"{self.id}.{MASK}", False)
        if self.graph is not None:
            found += settings(self.graph, self.id, self.kind == OWN)
        return found


class LayerGroup(Strict):
    """Layers that stand next to each other under one name and one switch. `drives`: what switches them by itself, as layer:on."""

    id: LayerId
    name: Name
    on: bool = True
    drives: dict[str, Drive] = Field(default_factory=dict)

    @model_validator(mode="after")
    def _only_its_switch(self) -> LayerGroup:
        if other := next((control for control in self.drives if control != ON.name), None):
            raise ValueError(f"'{other}' of the group '{self.name}' cannot be driven; {ON.name} can")
        return self

    def everything_set(self) -> list[Setting]:
        """All that is set on its drives."""
        return [one for control, drive in self.drives.items() for one in drive.settings(f"{self.id}.{DRIVE}{control}")]


class Effect(Strict):
    """A light path: layers from the camera to the screen. `still` is a picture or clip (an asset) in the camera's place. `cues`
    are what drives and nodes answer to, by their ids; a kind of cue is one by itself, too, with its settings to start from.
    `dials`: what the wearer may turn, in the order in which the phone shows them. `rehearsal`: touch and cues that were kept."""

    format: Literal["sun-glaze/effect"] = FORMAT
    version: Literal[8] = VERSION
    name: Name
    layers: list[Layer] = Field(default_factory=list, max_length=MOST_LAYERS)
    groups: list[LayerGroup] = Field(default_factory=list, max_length=MOST_LAYERS)
    still: Hash | None = None
    seed: Annotated[int, Field(ge=0, le=2**31 - 1)] = 0
    cues: list[Cue] = Field(default_factory=list, max_length=MOST_CUES)
    dials: list[Dial] = Field(default_factory=list, max_length=MOST_DIALS)
    rehearsal: Rehearsal | None = None

    @model_validator(mode="before")
    @classmethod
    def _of_today(cls, plain: Any) -> Any:
        return migrated(plain) if isinstance(plain, dict) else plain

    @field_validator("layers")
    @classmethod
    def _separate_ids(cls, layers: list[Layer]) -> list[Layer]:
        seen: set[str] = set()
        for layer in layers:
            if layer.id in seen:
                raise ValueError(f"two layers have the id '{layer.id}'")
            seen.add(layer.id)
        return layers

    @model_validator(mode="after")
    def _names_apart(self) -> Effect:
        for what, ids in (("cues", [one.id for one in self.cues]), ("dials", [one.id for one in self.dials])):
            if len(set(ids)) < len(ids):
                raise ValueError(f"two {what} have one id")
        if clash := {one.id for one in self.layers} & {one.id for one in self.groups}:
            raise ValueError(f"a layer and a group have one id, '{clash.pop()}'")
        return self

    @model_validator(mode="after")
    def _is_not_endless(self) -> Effect:
        expanded = sum(layer.recipe.expanded for layer in self.layers if layer.recipe is not None)
        if expanded > MOST_EXPANDED:
            most = f"{MOST_EXPANDED:,} are the most"
            raise ValueError(f"the layers' own recipes have {expanded:,} nodes, groups taken apart; {most}")
        return self

    @model_validator(mode="after")
    def _groups_hold_together(self) -> Effect:
        known = [group.id for group in self.groups]
        runs = [identity for identity, _ in groupby(layer.group for layer in self.layers) if identity is not None]
        for identity in runs:
            if identity not in known:
                raise ValueError(f"a layer stands in the group '{identity}', which is not among 'groups'")
            if runs.count(identity) > 1:
                raise ValueError(f"the layers of the group '{identity}' do not stand next to each other")
        if len(set(known)) < len(known):
            raise ValueError("two groups have one id")
        return self

    def shows(self, layer: Layer) -> bool:
        """Whether a layer is on, and its group, too."""
        return layer.on and all(group.on for group in self.groups if group.id == layer.group)

    def holders(self) -> list[Layer | LayerGroup]:
        """Everything that has drives: its layers, then its groups."""
        return [*self.layers, *self.groups]

    def lookups(self) -> set[LookupRef]:
        """The lookups that layers refer to."""
        return {typed for typed in self._set_to("lookup") if isinstance(typed, LookupRef)}

    def pictures(self) -> set[str]:
        """The picture assets that layers refer to; the still is not among them."""
        some = [typed.asset if isinstance(typed, Wearers) else typed for typed in self._set_to("asset")]
        return {one for one in some if isinstance(one, str)}

    def paintings(self) -> dict[str, Painting]:
        """What is painted, by the names that programs have for it."""
        everything = (one for holder in self.holders() for one in holder.everything_set())
        return {one.name: one.typed for one in everything if isinstance(one.typed, Painting)}

    def sequences(self) -> set[str]:
        """The sequence assets that layers refer to."""
        return {typed.asset for typed in self._set_to("asset") if isinstance(typed, Played)}

    def meshes(self) -> set[str]:
        """The mesh assets that layers refer to."""
        return {typed.asset for typed in self._set_to("mesh") if isinstance(typed, MeshRef)}

    def assets(self) -> set[str]:
        """Every asset that it uses: lookups, pictures, sequences, meshes, and what it is looked at on."""
        everything = [one.typed for holder in self.holders() for one in holder.everything_set()]
        used = {typed.asset for typed in everything if isinstance(typed, LookupRef | Wearers | Played | MeshRef)}
        used |= self.pictures()
        return {one for one in (*used, self.still) if one}

    def _set_to(self, kind: str) -> list[Any]:
        everything = [one for holder in self.holders() for one in holder.everything_set()]
        return [one.typed for one in everything if one.port.kind.name == kind and one.typed is not None]


def parts_of(port: Port) -> list[Port]:
    """The numbers of a vector that is set, as ports of their own; none of what is no vector."""
    if port.kind.name not in ("vec2", "vec3", "vec4") or not isinstance(port.default, list | tuple):
        return []
    return [Port(f"{port.name}.{n}", replace(port.kind, name="number"), part) for n, part in enumerate(port.default)]


def _is_number(port: Port) -> bool:
    """Whether an input that takes numbers and vectors stands at a number."""
    return port.kind.name == "any" and isinstance(port.default, int | float)


def parse_effect(data: bytes | str | dict[str, Any]) -> Effect:
    """An effect from JSON. Raises BadEffect with what is wrong and where in the document."""
    try:
        plain = json.loads(data) if isinstance(data, bytes | str) else data
    except (ValueError, RecursionError) as error:
        raise BadEffect(f"this is not JSON: {error}") from None
    if not isinstance(plain, dict) or plain.get("format") != FORMAT:
        raise BadEffect(f"this is JSON but no effect: 'format' should be '{FORMAT}'")
    if isinstance(plain.get("version"), int) and plain["version"] > VERSION:
        raise BadEffect(f"the effect has version {plain['version']}, this program reads up to {VERSION}; update Sun Glaze")
    try:
        return Effect.model_validate(plain)
    except ValidationError as error:
        raise BadEffect(in_words(error)) from None
    except RecursionError:
        raise BadEffect("the effect is nested too deeply") from None


def moved(effect: Effect, at: Address, plain: Any) -> Effect:
    """The effect with what lies at an address at a value. Raises BadEffect; what is not there (any more) is left."""
    dumped = effect.model_dump(by_alias=True)
    if at.part in ("cue", "dial"):
        for one in dumped[f"{at.part}s"]:
            if one["id"] == at.of:
                (one["values"] if at.part == "cue" else one)[at.name] = plain
        return parse_effect(dumped)
    layer = next((one for one in [*dumped["layers"], *dumped["groups"]] if one["id"] == at.layer), None)
    if layer is None:
        return effect
    if at.part == "layer":
        if at.name not in PARTS:
            raise BadEffect(f"a layer has no '{at.text}'; it has {', '.join(LAYER + part for part in PARTS)}")
        layer[at.name] = plain
    elif at.part == "drive":
        if at.of in layer["drives"]:
            layer["drives"][at.of]["values"][at.name] = plain
    elif at.part == "mask":
        if layer["mask"]:
            layer["mask"]["values"][at.name] = plain
    elif at.part == "node":
        for node in (layer["recipe"] or {}).get("nodes", []):
            if node["id"] == at.of:
                node["set"][at.name] = plain
    else:
        layer["values"][at.name] = plain
    return parse_effect(dumped)


def set_control(effect: Effect, assignment: str) -> Effect:
    """The effect with one control set by `LAYER.CONTROL=VALUE`; LAYER is an id, a name or a place counted from 1. Raises
    BadEffect."""
    target, equals, text = assignment.partition("=")
    # A node's input is written LAYER.NODE.INPUT; names of layers may hold points, too.
    for cut in [n for n, letter in enumerate(target) if letter == "."][::-1]:
        who, control = target[:cut], target[cut + 1 :]
        found = next((layer for n, layer in enumerate(effect.layers, 1) if who in (layer.id, layer.name, str(n))), None)
        if found is not None:
            break
    else:
        if not equals or "." not in target:
            raise BadEffect(f"'{assignment}' should read LAYER.CONTROL=VALUE")
        names = ", ".join(f"'{layer.name}'" for layer in effect.layers) or "none"
        raise BadEffect(f"no layer is called '{target.rpartition('.')[0]}'; the layers are: {names}")
    if not equals:
        raise BadEffect(f"'{assignment}' should read LAYER.CONTROL=VALUE")
    ports_of = {port.name: port for port in found.controls()}
    ports_of |= {f"{MASK}{port.name}": port for port, _ in found.mask_set()}
    if control in PARTS and control not in ports_of:
        control = LAYER + control
    if control not in ports_of and not control.startswith(LAYER) and "." not in control:
        raise BadEffect(f"'{who}' has no control '{control}'; it has {', '.join([*PARTS, *ports_of])}")
    is_text = control in (f"{LAYER}blend", f"{LAYER}light", f"{LAYER}name") or (
        control in ports_of and ports_of[control].kind.name in ("colour", "choice")
    )
    return moved(effect, address(found.id, control), text if is_text else _plain(text))


def _plain(text: str) -> Any:
    try:
        return json.loads(text)
    except ValueError:
        return {"on": True, "off": False}.get(text, text)
