"""Stored effects that today's rules refuse: what can be read of them, held to today's ranges, and what was wrong, in words.

Nothing is lost by it: the stored document stays as it is, and what is read here is only shown and, once changed, saved as new.
"""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from pydantic import ValidationError

from sunglaze.core.effect.document import OWN, Effect, Layer, LayerMask, mask_controls, parse_effect
from sunglaze.core.effect.literals import parse
from sunglaze.core.effect.migrating import migrated
from sunglaze.core.effect.motions import Cue, Dial, Drive
from sunglaze.core.effect.recipe import Recipe
from sunglaze.core.effect.recording import ports
from sunglaze.core.effect.shipped import mask_recipes, shipped
from sunglaze.core.errors import BadEffect, in_words
from sunglaze.core.nodes.blend import MODES
from sunglaze.core.nodes.node import Port

NAMELESS = "Unreadable effect"


@dataclass(frozen=True)
class Mended:
    """`problems` is empty where the document was as it should be."""

    effect: Effect
    problems: tuple[str, ...] = ()


def read_stored(data: str) -> Mended:
    """An effect from a document that was stored once, whatever has become of the rules since. Raises nothing."""
    try:
        return Mended(parse_effect(data))
    except BadEffect as error:
        first = str(error)
    try:
        plain = json.loads(data)
    except (ValueError, RecursionError):
        plain = None
    if not isinstance(plain, dict):
        return Mended(Effect(name=NAMELESS), (first,))
    problems: list[str] = []
    name = plain.get("name")
    # A newer version is read as far as this one understands it, and not renamed to this one unsaid.
    if isinstance(plain.get("version"), int) and plain["version"] > Effect.model_fields["version"].default:
        problems.append(first)
    plain = {**migrated(plain), "name": name if isinstance(name, str) and 0 < len(name) <= 80 else NAMELESS}
    given = plain.get("layers")
    layers = [one for n, layer in enumerate(given if isinstance(given, list) else [], 1) if (one := _layer(layer, n, problems))]
    kept: dict[str, Any] = {"name": plain["name"], "layers": layers}
    for part in ("cues", "dials"):
        kept[part] = _each(plain.get(part), Cue if part == "cues" else Dial, part, problems)
    for part in ("groups", "still", "seed", "rehearsal"):
        try:
            Effect.model_validate({**kept, part: plain.get(part), "layers": _loose(layers)})
            kept[part] = plain[part]
        except (ValidationError, KeyError) as error:
            if part in plain:
                problems.append(in_words(error) if isinstance(error, ValidationError) else f"{part} is left out")
    for attempt in (kept, {**kept, "layers": _loose(layers), "groups": []}, {"name": kept["name"], "cues": [], "dials": []}):
        try:
            return Mended(Effect.model_validate(attempt), tuple(problems or [first]))
        except ValidationError as error:
            problems.append(in_words(error))
    return Mended(Effect(name=NAMELESS), (first,))


def _each(given: Any, model: type[Cue] | type[Dial], what: str, problems: list[str]) -> list[dict[str, Any]]:
    """Those of the effect's cues or dials that today's rules take, of one id the first."""
    kept: dict[str, dict[str, Any]] = {}
    for one in given if isinstance(given, list) else []:
        try:
            found = model.model_validate(one)
            kept.setdefault(found.id, found.model_dump())
        except ValidationError as error:
            problems.append(f"one of the {what} is left out: {in_words(error)}")
    return list(kept.values())


def _loose(layers: list[dict[str, Any]]) -> list[dict[str, Any]]:
    return [{**layer, "group": None} for layer in layers]


def _layer(plain: Any, place: int, problems: list[str]) -> dict[str, Any] | None:
    """A layer as today's rules take it; none where nothing can be made of it."""
    if not isinstance(plain, dict):
        problems.append(f"layer {place} is no layer; it is left out")
        return None
    title = f"layer {place} '{plain.get('name', '')}'"
    layer = {name: value for name, value in plain.items() if name in Layer.model_fields}
    for name in plain.keys() - layer.keys():
        problems.append(f"{title}: '{name}' is not known here; it is left out")
    if layer.get("blend", "normal") not in MODES:
        problems.append(f"{title}: '{layer['blend']}' is no blend mode; it is laid on as normal")
        layer["blend"] = "normal"
    opacity = layer.get("opacity", 1.0)
    if isinstance(opacity, int | float) and not 0 <= opacity <= 1:
        layer["opacity"] = 1.0 if opacity > 1 else 0.0
        problems.append(f"{title}: its opacity was {opacity}; it is held to {layer['opacity']:g}")
    known = _controls(layer)
    if known is not None:
        layer["values"] = _values(layer.get("values"), known, title, problems)
    mask = layer.get("mask")
    if isinstance(mask, dict) and mask.get("kind") in mask_recipes():
        values = _values(mask.get("values"), mask_controls(mask["kind"]), f"the mask of {title}", problems)
        layer["mask"] = {**mask, "values": values}
    _drop_unless(layer, "mask", lambda value: LayerMask.model_validate(value), title, problems)
    _mend_drives(layer, title, problems)
    try:
        Layer.model_validate(layer)
    except ValidationError as error:
        problems.append(f"{title} is left out: {in_words(error)}")
        return None
    return layer


def _controls(layer: dict[str, Any]) -> list[Port] | None:
    """The controls of a layer's recipe; none where the recipe is not known or cannot be read."""
    if layer.get("kind") in shipped():
        return ports(shipped()[layer["kind"]])
    if layer.get("kind") != OWN:
        return None
    try:
        return ports(Recipe.model_validate(layer.get("recipe")))
    except ValidationError:
        return None


def _values(plain: Any, known: list[Port], title: str, problems: list[str]) -> dict[str, Any]:
    named = {port.name: port for port in known}
    kept = {}
    for name, value in (plain if isinstance(plain, Mapping) else {}).items():
        port = named.get(name)
        if port is None:
            problems.append(f"{title}: it has no control '{name}' (any more), which stood at {_short(value)}; it is left out")
            continue
        try:
            parse(port.kind, value, ranged=True)
            kept[name] = value
        except BadEffect as error:
            held = _held(port, value)
            if held is not None:
                kept[name] = held
            stands = _short(port.default if held is None else held)
            problems.append(f"{title}: '{port.title}': {error}; it stands at {stands}")
    return kept


def _held(port: Port, value: Any) -> Any:
    """The value held to a control's range; none where it is not a matter of range."""
    low, high = port.kind.low, port.kind.high
    if isinstance(value, bool) or not isinstance(value, int | float) or low is None or high is None:
        return None
    held = min(max(value, low), high)
    return int(held) if port.kind.name == "whole" else held


def _mend_drives(layer: dict[str, Any], title: str, problems: list[str]) -> None:
    drives = layer.get("drives")
    if not isinstance(drives, dict):
        return
    kept = {}
    for control, drive in drives.items():
        try:
            kept[control] = Drive.model_validate(drive).model_dump()
            Layer.model_validate({**layer, "drives": {control: drive}})
        except ValidationError as error:
            kept.pop(control, None)
            problems.append(f"{title}: what drove '{control}' is left out: {in_words(error)}")
    layer["drives"] = kept


def _drop_unless(layer: dict[str, Any], part: str, read: Any, title: str, problems: list[str]) -> None:
    if layer.get(part) is None:
        return
    try:
        read(layer[part])
    except ValidationError as error:
        problems.append(f"{title}: its {part} is left out: {in_words(error)}")
        layer[part] = None


def _short(value: Any) -> str:
    text = json.dumps(value, default=str)
    return text if len(text) <= 40 else f"{text[:37]}..."
