"""Handles: what can be moved on the picture itself, and which controls move with it. Plain data that the interface draws.

Places are parts of the screen (u right, v down, 0 to 1), lengths fractions of its short side, turns degrees clockwise, as
shapes have them (core/nodes/shapes.py).
"""

from __future__ import annotations

from typing import Annotated, Any, Final, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

Kind = Literal["point", "box", "circle", "line", "ring", "quad", "path"]
Name = Annotated[str, Field(pattern=r"^[A-Za-z0-9_-]{1,40}$")]
Place = Annotated[float, Field(ge=-4, le=4, allow_inf_nan=False)]

MOVES: Final[dict[str, frozenset[str]]] = {
    "point": frozenset({"at"}),
    "box": frozenset({"at", "right", "up", "width", "height", "size", "count", "turn"}),
    "circle": frozenset({"at", "width", "height", "radius", "turn"}),
    "line": frozenset({"at", "turn", "length", "start", "end"}),
    "ring": frozenset({"at", "inner", "outer", "radius", "thickness"}),
    "quad": frozenset({"first", "second", "third", "fourth"}),
    "path": frozenset({"path"}),
}
"""What each kind may move. `at`, `start`, `end` and the four corners of a quad are places, `turn` is in degrees, `width`,
`height`, `length`, `thickness` and radii are lengths, `size` is a factor, `count` how many of its boxes go on the short side,
`path` a path. Of a box that is anchored, `right` and `up` are how far it is from its anchor and `size` how wide it is, in the
anchor's own unit."""


class Shape(BaseModel):
    """A box has the shape of a picture or text that a control holds, laid on the screen as `fit` or another control says; short:
    contained, and no wider than the short side."""

    model_config = ConfigDict(extra="forbid")
    of: Name
    fit: Literal["cover", "contain", "stretch", "tile", "short"] = "contain"
    fit_by: Name | None = None


class Handle(BaseModel):
    """One thing that is placed. `moves`: the control that each of its parts is (MOVES), by part. `origin`: what its place is
    measured from, as that of a shift is from the middle. `corner`: a box hangs from its place by the upper left corner. `half`:
    of a line, that it is the border of a half, of which the upper one is kept, or the one that the control `side` names. `when`:
    the controls and values with which it is there. `anchor`: of a box, the node of the recipe that says where it hangs, by its
    outputs `middle` (a place), `across` and `down` (by how much of the screen a unit goes to the right and down there)."""

    model_config = ConfigDict(extra="forbid")
    kind: Kind
    title: Annotated[str, Field(min_length=1, max_length=80)]
    moves: Annotated[dict[str, Name], Field(min_length=1, max_length=8)]
    origin: tuple[Place, Place] = (0.0, 0.0)
    corner: bool = False
    half: bool = False
    side: Name | None = None
    shape: Shape | None = None
    anchor: Name | None = None
    when: dict[Name, list[str | bool | float]] = Field(default_factory=dict)

    @model_validator(mode="after")
    def _moves_its_parts(self) -> Handle:
        if wrong := sorted(set(self.moves) - MOVES[self.kind]):
            known = ", ".join(sorted(MOVES[self.kind]))
            raise ValueError(f"a handle of the kind '{self.kind}' has no '{wrong[0]}'; it has {known}")
        return self

    def controls(self) -> set[str]:
        """All controls that it names."""
        named = {*self.moves.values(), *self.when, *([self.side] if self.side else [])}
        if self.shape is not None:
            named |= {self.shape.of, *([self.shape.fit_by] if self.shape.fit_by else [])}
        return named


def handle(
    kind: Kind, title: str, *, half: bool = False, side: str | None = None, when: dict[str, Any] | None = None, **moves: str
) -> Handle:
    """A handle of a node, by the names of its inputs."""
    return Handle(kind=kind, title=title, moves=moves, half=half, side=side, when=when or {})
