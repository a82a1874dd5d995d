"""A program: what is computed for every pixel of a frame, with named inputs. Compiled effects and lookups are programs.

A run is given a moment (core/moment) and inputs: uniforms, which is what controls stand at and may change from frame to frame
without a new build; tables, which are lookups, cubes or curves; pictures.
"""

from __future__ import annotations

import hashlib
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.face.charts import chart
from sunglaze.core.face.held import LAG, HeldFaces, hold
from sunglaze.core.language.expression import Value, leaf
from sunglaze.core.language.moments import STILL, is_of_faces
from sunglaze.core.language.operations import Kind, Plain
from sunglaze.core.language.pictures import CAMERA, Picture, colour_here
from sunglaze.core.language.vector import Vec
from sunglaze.core.material.mesh import MeshData
from sunglaze.core.material.sequence import Sequence
from sunglaze.core.material.still import Still
from sunglaze.core.moment.moment import Moment, Reads
from sunglaze.core.passes.clearing import Clearing, clearings
from sunglaze.core.passes.gating import never
from sunglaze.core.passes.needs import looks_at_faces
from sunglaze.core.passes.planning import Plan, Sweep, plan
from sunglaze.core.passes.signals import SignalProgram

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
        """Red, green and blue of every output, in order."""
        return tuple(part for output in self.outputs for part in output.parts()[:3])

    @cached_property
    def plan(self) -> Plan:
        """Its passes and signals."""
        return plan(self.flat, self.keep, self.stages)

    @cached_property
    def signals(self) -> SignalProgram:
        """What it computes once a frame."""
        return SignalProgram(self.plan.signals)

    @cached_property
    def keeps(self) -> bool:
        """Whether state cells or faces go from frame to frame."""
        return self.signals.keeps or any(mesh.vertices.kind == "face" for mesh in self.plan.meshes)

    def advance(self, moment: Moment, inputs: Inputs, state: State, drawn: bool = True) -> list[Plain]:
        """What its signals are in a frame; `state` is taken on by that frame, all of it where that is drawn."""
        if self.signals.holds:
            state.faces[""] = hold(state.faces.get(""), moment, LAG)
        numbers = self.signals.run(moment, inputs.uniforms, state.cells, inputs.seed, state.faces.get("", ()), drawn)
        for mesh in self.plan.meshes:
            if mesh.vertices.kind == "face":
                name = mesh.target.name
                state.faces[name] = hold(state.faces.get(name), moment, float(numbers[mesh.numbers[0]]))
        return numbers

    @cached_property
    def uniforms(self) -> tuple[str, ...]:
        """Names of the inputs that change once a frame."""
        return tuple(sorted(self.signals.uniforms))

    @cached_property
    def tables(self) -> tuple[str, ...]:
        """Names of the tables that it reads."""
        return tuple(sorted({name for p in self.plan.passes for name in p.tables}))

    @cached_property
    def curves(self) -> frozenset[str]:
        """Those of the tables that are read as curves, (N, 4); the others are cubes, (N, N, N, 4)."""
        return frozenset(name for p in self.plan.passes for name in p.curves)

    def settled(self, uniforms: Mapping[str, float]) -> tuple[Sweep, ...]:
        """Its sweeps without those that come to nothing in every moment as long as controls stand so."""
        conditions = self.plan.signals
        return tuple(one for one in self.plan.passes if one.enabled is None or not never(conditions[one.enabled], uniforms))

    @cached_property
    def clearings(self) -> tuple[Clearing, ...]:
        """What its sweeps come to where meshes and masks are nothing, one a sweep, or none where there is neither."""
        return clearings(self.plan)

    @cached_property
    def lasting(self) -> dict[str, int]:
        """Names of the pictures of sweeps that read nothing but the artist's pictures and one another, with the sweeps' places:
        as long as no number of theirs changes they stay what they are."""
        found: dict[str, int] = {}
        for place, one in enumerate(self.plan.passes):
            given = all(picture.source == "asset" or picture.name in found for picture in one.pictures)
            if given and one.target is not None and not one.target.keeps:
                found[one.target.name] = place
        return found

    @cached_property
    def slots(self) -> tuple[NDArray[np.intp], ...]:
        """For each sweep the places of its slots among the signals; one behind the last where it has none."""
        return tuple(np.array(one.slots or [-1], np.intp) for one in self.plan.passes)

    @cached_property
    def sweeps(self) -> tuple[Sweep, ...]:
        """All sweeps that a run may need, clear forms with them."""
        return (*self.plan.passes, *(one.clear for one in self.clearings if one.clear is not None))

    @cached_property
    def pictures(self) -> dict[str, Picture]:
        """All pictures that its sweeps read, by name."""
        return {picture.name: picture for one in self.plan.passes for picture in one.pictures}

    @cached_property
    def given(self) -> tuple[Picture, ...]:
        """The pictures that a run is given, the camera apart: assets and regions, by name."""
        read = self.pictures | {one.of.name: one.of for one in self.plan.copies}
        found = {name: one for name, one in read.items() if one.source in ("asset", "region")}
        return tuple(found[name] for name in sorted(found))

    @cached_property
    def assets(self) -> tuple[str, ...]:
        """Ids of the artist's pictures that it reads."""
        return tuple(picture.id for picture in self.given if picture.source == "asset")

    @cached_property
    def sequences(self) -> tuple[str, ...]:
        """Ids of the sequences that it shows."""
        return tuple(sorted({sequence_of(one.target) for one in self.plan.uploads}))

    @cached_property
    def meshes(self) -> tuple[str, ...]:
        """Ids of the meshes of material that it draws."""
        return tuple(sorted({one.vertices.material for one in self.plan.meshes if one.vertices.kind == "mesh"}))

    @cached_property
    def regions(self) -> tuple[str, ...]:
        """Names of the camera's regions that it reads."""
        return tuple(picture.id for picture in self.given if picture.source == "region")

    @cached_property
    def reads(self) -> Reads:
        """What it needs to know of moments."""
        of_faces = any(is_of_faces(name) for name in self.signals.moments)
        return Reads(True, self.regions, of_faces or any(one.vertices.kind == "face" for one in self.plan.meshes))

    @cached_property
    def is_still(self) -> bool:
        """Whether its answer hangs on nothing but the camera's present picture: it has no time and no memory, and looks for no
        face."""
        return not (set(self.signals.moments) - STILL or self.plan.kept or self.plan.uploads or self.reads.faces)

    @cached_property
    def of_faces(self) -> tuple[str, ...]:
        """Names of the stages that are made by looking at faces, be it through regions that are drawn from them."""
        return tuple(name for name, values in self.stages.items() if looks_at_faces(values))

    @cached_property
    def key(self) -> str:
        """Equal for programs that compute the same from the same inputs."""
        signals = [signal.digest for signal in self.plan.signals]
        others = [f"{one.target} {one.shows} {one.soon}" for one in self.plan.uploads]
        others += [f"{one.target} {one.numbers}" for one in self.plan.meshes]
        others += [f"{one.target} {one.wide}" for one in self.plan.copies]
        text = "\n".join([repr(signals), *others, *(f"{p.key} {p.slots} {p.tables} {p.pictures}" for p in self.plan.passes)])
        return hashlib.sha256(text.encode()).hexdigest()

    @cached_property
    def final(self) -> Program:
        """The same with its last output only."""
        return self if len(self.outputs) == 1 else Program(self.outputs[-1:], self.keep, self.stages)


@dataclass(frozen=True)
class Inputs:
    """What a program runs on beside the moment: the same from frame to frame unless a control moves.

    `tables`: cubes (blue, green, red, 4) and curves (N, 4), float32. `pictures`: assets by id; one that is not given is one black
    and clear pixel. `seed`: of the effect. `sequences` and `meshes`: by id; one that is not given shows nothing.
    """

    uniforms: Mapping[str, float] = field(default_factory=dict)
    tables: Mapping[str, Floats] = field(default_factory=dict)
    pictures: Mapping[str, Still] = field(default_factory=dict)
    seed: int = 0
    sequences: Mapping[str, Sequence] = field(default_factory=dict)
    meshes: Mapping[str, MeshData] = field(default_factory=dict)

    def picture(self, picture: Picture, moment: Moment) -> Still | None:
        """What a picture that comes from outside shows, a region of the moment or an asset; none where it is not given."""
        if picture.source != "region":
            return self.asset(picture.id)
        mask = moment.regions.get(picture.id)
        return None if mask is None else Still.of(mask)

    def asset(self, identity: str) -> Still | None:
        """A picture by its id: one of the artist's, or a chart of the face, which ships."""
        kind, _, name = identity.partition(":")
        return Still.of(chart(name)) if kind == "chart" else self.pictures.get(identity)


def sequence_of(picture: Picture) -> str:
    """The id of the sequence that a picture shows."""
    return picture.id.rpartition("@")[0]


@dataclass
class State:
    """What one frame hands to the next: state cells by id, kept pictures in the form of whoever runs the program, and faces that
    meshes are drawn on, by the name of the mesh's picture, or "" where signals read them."""

    cells: dict[str, float] = field(default_factory=dict)
    kept: dict[str, Any] = field(default_factory=dict)
    faces: dict[str, HeldFaces] = field(default_factory=dict)

    def copy(self) -> State:
        """The same, untouched by what is done to this one."""
        return State(dict(self.cells), {name: surface.copy() for name, surface in self.kept.items()}, dict(self.faces))


def source() -> Vec:
    """The camera's red, green and blue at this pixel."""
    return colour_here(CAMERA).rgb


def uniform(name: str, kind: Kind = "float") -> Value:
    """What a control stands at, by its address's uniform."""
    return leaf("uniform", name, kind=kind)
