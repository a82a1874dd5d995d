"""A program: what is computed for every pixel of a frame, with named inputs. Compiled effects and lookups are programs.

Uniforms change once a frame without a new build; tables are lookups, cubes or curves; pictures come from outside. These
uniforms every run is given: `frame.width`, `frame.height` (whole numbers), `time` (seconds), `frame` (a whole number, 30 a
second), `delta` (seconds since the last frame) and `seed` (a whole number).
"""

from __future__ import annotations

import hashlib
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.shading.expression import Kind, Value, leaf
from sunglaze.core.shading.pictures import CAMERA, Picture, colour_here
from sunglaze.core.shading.planning import Plan, plan
from sunglaze.core.shading.signals import SignalProgram
from sunglaze.core.shading.vector import Vec

Floats = NDArray[np.float32]


@dataclass(frozen=True)
class Program:
    """Outputs: one colour a picture. The last one is the effect's; those before it are stages to look at.

    `keep`: pictures that are kept for the next frame though nothing in this one reads them. `stages`: what leaves of this name
    stand for, red, green and blue.
    """

    outputs: tuple[Vec, ...]
    keep: tuple[Picture, ...] = ()
    stages: Mapping[str, tuple[Value, ...]] = field(default_factory=dict)

    @cached_property
    def flat(self) -> tuple[Value, ...]:
        return tuple(part for output in self.outputs for part in output.parts()[:3])

    @cached_property
    def plan(self) -> Plan:
        return plan(self.flat, self.keep, self.stages)

    @cached_property
    def signals(self) -> SignalProgram:
        return SignalProgram(self.plan.signals)

    @cached_property
    def uniforms(self) -> tuple[str, ...]:
        """Names of the inputs that change once a frame."""
        return tuple(sorted(self.signals.uniforms))

    @cached_property
    def tables(self) -> tuple[str, ...]:
        return tuple(sorted({name for p in self.plan.passes for name in p.tables}))

    @cached_property
    def curves(self) -> frozenset[str]:
        """Those of the tables that are read as curves, (N, 4); the others are cubes, (N, N, N, 4)."""
        return frozenset(name for p in self.plan.passes for name in p.curves)

    @cached_property
    def pictures(self) -> tuple[str, ...]:
        """Names of the pictures that a run is given, the camera apart."""
        names = {q.name for p in self.plan.passes for q in p.pictures}
        return tuple(sorted(n for n in names if n.startswith(("asset:", "region:"))))

    @cached_property
    def key(self) -> str:
        """Equal for programs that compute the same from the same inputs."""
        signals = [signal.digest for signal in self.plan.signals]
        text = "\n".join([repr(signals), *(f"{p.key} {p.slots} {p.tables} {p.pictures}" for p in self.plan.passes)])
        return hashlib.sha256(text.encode()).hexdigest()

    @cached_property
    def final(self) -> Program:
        """The same with its last output only."""
        return self if len(self.outputs) == 1 else Program(self.outputs[-1:], self.keep, self.stages)


@dataclass(frozen=True)
class Inputs:
    """What a program runs on.

    `tables`: cubes (blue, green, red, 4) and curves (N, 4), float32. `pictures`: by name, (height, width, channels), float32
    or bytes; a picture that is not given is one black and clear pixel.
    """

    uniforms: Mapping[str, float] = field(default_factory=dict)
    tables: Mapping[str, Floats] = field(default_factory=dict)
    pictures: Mapping[str, NDArray[Any]] = field(default_factory=dict)


@dataclass
class State:
    """What one frame hands to the next: state cells by id, and kept pictures in the form of whoever runs the program."""

    cells: dict[str, float] = field(default_factory=dict)
    kept: dict[str, Any] = field(default_factory=dict)


RATE = 30
"""Frames a second of every clock in the program: frame = floor(30 t), whatever the display's rate."""


def clock(frame: int, seed: int = 0) -> dict[str, float]:
    """The uniforms that a frame's number decides."""
    return {"time": frame / RATE, "frame": frame, "delta": 1 / RATE, "seed": seed}


def source() -> Vec:
    """The camera's red, green and blue at this pixel."""
    return colour_here(CAMERA).rgb


def uniform(name: str, kind: Kind = "float") -> Value:
    return leaf("uniform", name, kind=kind)
