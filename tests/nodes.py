"""One node on pictures of floats, as tests run it."""

from __future__ import annotations

from typing import Any

import numpy as np

from sunglaze.core.language import pictures as p
from sunglaze.core.language.expression import Value, constant
from sunglaze.core.language.vector import Vec
from sunglaze.core.nodes.catalogue import CATALOGUE
from sunglaze.core.nodes.node import Scene, in_scene
from sunglaze.core.nodes.types import convert
from sunglaze.core.passes.program import Inputs, Program
from tests.engines import drawn

SHORT = 720


def camera(height: int = 40, width: int = 32, seed: int = 0) -> np.ndarray:
    """Smooth ramps below, noise above; (height, width, 4), a soft disc as the mask."""
    rng = np.random.default_rng(seed)
    y, x = np.mgrid[0:height, 0:width]
    away = np.hypot(x - width / 2, y - height / 2)
    picture = np.stack([x / width, y / height, 1 - x / width, np.clip(9.3 - away, 0, 1)], axis=-1)
    picture[: height // 2, :, :3] = rng.random((height // 2, width, 3))
    return picture.astype(np.float32)


def symbol(kind: Any, given: Any) -> Any:
    """A plain value for an input: numbers and tuples become constants, strings that name a channel read the camera."""
    if isinstance(given, Value | Vec | p.Picture) or given is None:
        return given
    if kind.name == "choice":
        return given
    if kind.name == "boolean":
        return constant(bool(given), "bool")
    if kind.name == "whole":
        return constant(int(given), "int")
    return Vec(*given) if isinstance(given, tuple | list) else constant(float(given))


def render(kind: str, frame: np.ndarray, output: str = "out", /, frame_seed: int = 0, **given: Any) -> np.ndarray:
    """What a node's output is at every pixel, (height, width, parts); inputs that are not given stand at their defaults."""
    entry = CATALOGUE[kind]
    scene = Scene(p.colour_here(p.CAMERA), path="test")
    arguments = {}
    for port in entry.inputs:
        plain = given.get(port.name, port.default)
        if plain is None and port.kind.name in ("colour", "picture", "vec2"):
            arguments[port.name] = {"colour": scene.below, "picture": p.CAMERA, "vec2": p.here()}[port.kind.name]
        elif isinstance(plain, str) and plain.startswith("#"):
            arguments[port.name] = Vec(*(int(plain[n : n + 2], 16) / 255 for n in (1, 3, 5)), 1.0)
        else:
            arguments[port.name] = symbol(port.kind, plain)
    with in_scene(scene):
        made = entry.record(arguments)[output]
    port = entry.output(output)
    assert port is not None
    return values(made, port.kind.name, frame, frame_seed)


def values(made: Any, kind: str, picture: np.ndarray, seed: int = 0) -> np.ndarray:
    """A symbol's numbers at every pixel."""
    if kind == "picture":
        made = convert(made, "picture", "colour")
    parts = list(made.parts()) if isinstance(made, Vec) else [made]
    parts = [_float(part) for part in parts]
    padded = parts + [constant(0.0)] * (-len(parts) % 3)
    program = Program(tuple(Vec(*padded[n : n + 3]) for n in range(0, len(padded), 3)))
    seen = np.concatenate(drawn(program, picture, Inputs(seed=seed)), axis=2)
    return seen[..., : len(parts)]


def _float(value: Value) -> Value:
    if value.kind == "bool":
        return convert(value, "boolean", "number")  # type: ignore[no-any-return]
    return convert(value, "whole", "number") if value.kind == "int" else value  # type: ignore[no-any-return]


def pixels(reference_pixels: float, picture: np.ndarray) -> float:
    """A length in reference pixels as pixels of a picture."""
    return reference_pixels * min(picture.shape[:2]) / SHORT


def in_reference(pixels_: float, picture: np.ndarray) -> float:
    """A length in pixels of a picture as reference pixels."""
    return pixels_ * SHORT / min(picture.shape[:2])


def channel(number: int) -> Value:
    return p.near(p.CAMERA, number)
