"""Effects of older versions in the words of today's. Plain data in and out; what is no effect is left for others to refuse.

Version 2 brought values of their own, 3 masks, 4 groups and controls of several numbers, 5 layer:opacity, 6 drives by their
recipe's kind, 7 hue curves in place of eight hues, and controls of which more is more, 8 cues, dials, rehearsals and what
switches layers.
"""

from __future__ import annotations

from typing import Any, Final

from sunglaze.core.colour.hues import of_eight
from sunglaze.core.effect.address import LAYER

VERSION: Final = 8
PARTS = ("on", "opacity", "blend", "light", "name")
"""What every layer has, under these names."""
TURNED = {"dust": {"few": "specks", "rare": "scratches"}, "glitch": {"drops": "dropouts"}}
"""Controls that said how few, and what says since version 7 how many: 1 less the old."""
BEFORE: dict[str, dict[str, Any]] = {
    "hue-by-hue": {"hues": [[3, 0.08, 0.04], [-3, 0.12, 0.05], [-4, 0.05, 0.0], [6, -0.18, -0.05], [4, 0.1, -0.05],
                            [-5, 0.18, -0.1], [0, 0, 0], [0, 0, 0]]},
    "sparkle": {"amount": 6.0, "bright": 0.35, "thick": 0.03},
}  # fmt: skip
"""What controls stood at by themselves before version 7, where that is another now."""
ENDS = {"pulse": ("low", "high"), "random-per-frame": ("low", "high"), "wander": ("low", "high"), "time-ramp": ("start", "end")}


def migrated(plain: dict[str, Any]) -> dict[str, Any]:
    """A document of an older version in the words of this one."""
    version = plain.get("version")
    if not isinstance(version, int) or not 1 <= version < VERSION or not isinstance(plain.get("layers") or [], list):
        return plain
    renewed = [_renewed(layer, version) if isinstance(layer, dict) else layer for layer in plain.get("layers") or []]
    return {**plain, "version": VERSION, "layers": renewed}


def _renamed(drive: Any) -> Any:
    """A drive of before version 6, which was named by its node."""
    if not isinstance(drive, dict) or "node" not in drive:
        return drive
    renamed = {"kind": drive["node"], **{name: value for name, value in drive.items() if name != "node"}}
    if isinstance(renamed.get("values"), dict):
        # Of a ramp, when it begins was wired in recipes; set on a drive it meant nothing that an artist could see.
        renamed["values"] = {name: value for name, value in renamed["values"].items() if name != "since"}
    return renamed


def _renewed(layer: dict[str, Any], version: int) -> dict[str, Any]:
    """A layer of a version, step by step."""
    return layer if version >= 7 else _of_version_7(_of_version_6(layer, version))


def _of_version_6(layer: dict[str, Any], version: int) -> dict[str, Any]:
    if version == 1:
        common = {k: v for k, v in layer.items() if k in (*PARTS, "id", "kind")}
        layer = {**common, "values": {k: v for k, v in layer.items() if k not in common and v is not None}}
    drives = layer.get("drives")
    if isinstance(drives, dict):
        renamed = {f"{LAYER}opacity" if name == "opacity" and version < 5 else name: drive for name, drive in drives.items()}
        layer = {**layer, "drives": {name: _renamed(drive) for name, drive in renamed.items()}}
    values = layer.get("values")
    if not isinstance(values, dict) or version > 3:
        return layer
    values = dict(values)
    if layer.get("kind") == "decision-list":
        for name in ("slope", "offset", "power"):
            if isinstance(values.get(name), int | float):
                values[name] = [values[name]] * 3
    if layer.get("kind") == "colour-fringes":
        for part, across in (("red", 0.006), ("blue", -0.006)):
            old = (values.pop(f"{part}_right", None), values.pop(f"{part}_down", None))
            if old != (None, None):
                values[f"{part}_shift"] = [across if old[0] is None else old[0], old[1] or 0.0]
    return {**layer, "values": values}


def _of_version_7(layer: dict[str, Any]) -> dict[str, Any]:
    kind, values = layer.get("kind"), layer.get("values", {})
    if isinstance(values, dict):
        layer = {**layer, "values": {**BEFORE.get(str(kind), {}), **values}}
    if kind == "hue-by-hue":
        layer = {**layer, "kind": "hue-curves"}
    values = layer.get("values")
    if kind == "sparkle" and isinstance(values, dict) and "glints" in values:
        # One number stood for both ways.
        values.setdefault("down", values["glints"])
    if isinstance(values, dict):
        layer = {**layer, "values": {name: of_eight(value) for name, value in values.items()}}
    for old, new in TURNED.get(str(layer.get("kind")), {}).items():
        values, drives = layer.get("values"), layer.get("drives")
        if isinstance(values, dict) and isinstance(values.get(old), int | float):
            rest = {name: value for name, value in values.items() if name != old}
            layer = {**layer, "values": {**rest, new: round(1.0 - values[old], 6)}}
        if isinstance(drives, dict) and isinstance(drives.get(old), dict):
            rest = {name: drive for name, drive in drives.items() if name != old}
            layer = {**layer, "drives": {**rest, new: _turned(drives[old])}}
    return layer


def _turned(drive: dict[str, Any]) -> dict[str, Any]:
    """A drive that goes between 1 less each of its ends."""
    values = drive.get("values")
    given: dict[str, Any] = values if isinstance(values, dict) else {}
    ends = ENDS.get(str(drive.get("kind")), ())
    turned = {end: 1.0 - given.get(end, float(n)) for n, end in enumerate(ends) if isinstance(given.get(end, 0.0), int | float)}
    return {**drive, "values": {**given, **turned}}
