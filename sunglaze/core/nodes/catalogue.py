"""The catalogue: all nodes by kind, family by family."""

from __future__ import annotations

from types import ModuleType

from sunglaze.core.nodes import (
    blend,
    colour,
    coordinates,
    cues,
    depth,
    face,
    features,
    filters,
    following,
    keeping,
    masks,
    maths,
    noise,
    pictures,
    pins,
    shapes,
    skin,
    smaller,
    solids,
    time,
    values,
)
from sunglaze.core.nodes.node import FAMILIES, Node

_MODULES: tuple[ModuleType, ...] = (
    values, maths, coordinates, pictures, smaller, colour, blend, noise, shapes, masks, filters, time, keeping, face, cues,
    following, skin, features, pins, solids, depth,
)  # fmt: skip

CATALOGUE: dict[str, Node] = {
    found.kind: found for module in _MODULES for found in vars(module).values() if isinstance(found, Node)
}


__all__ = ["CATALOGUE", "FAMILIES"]
