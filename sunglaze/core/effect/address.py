"""Addresses: which number of which layer, as data. Documents and shells write them as short text, which is parsed here alone.

opacity of the layer      layer:opacity           a control of its mask     mask:width
a control of its recipe   amount                  of what drives a control  drive:amount:seconds
an input of an own node   NODE.INPUT
Of the effect itself: a control of a cue (cue:ID:NAME), where a dial starts (dial:ID:start).
"""

from __future__ import annotations

from typing import Annotated, Final, Literal

from pydantic import BaseModel, ConfigDict, Field

from sunglaze.core.errors import BadEffect

Part = Literal["layer", "control", "mask", "drive", "node", "cue", "dial"]
LAYER: Final = "layer:"
MASK: Final = "mask:"
DRIVE: Final = "drive:"
CUE: Final = "cue:"
DIAL: Final = "dial:"
Name = Annotated[str, Field(max_length=200)]
_OF_ANOTHER: Final[tuple[tuple[Part, str], ...]] = (("drive", DRIVE), ("cue", CUE), ("dial", DIAL))


class Address(BaseModel):
    """`part`: where `name` is looked for. layer: what every layer has (on, opacity, blend, light, name). control: of its recipe.
    mask: of its mask. drive: of what drives `of`, which is an address's text. node: an input of the own node `of`. cue, dial: of
    the effect's own `of`, `layer` being empty. Groups have drives as layers do."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    layer: Annotated[str, Field(max_length=40)]
    part: Part
    name: Name
    of: Name = ""

    @property
    def text(self) -> str:
        """As documents write it within the layer. No two addresses of a layer have the same."""
        if self.part in ("drive", "cue", "dial"):
            return f"{self.part}:{self.of}:{self.name}"
        return {"layer": LAYER, "control": "", "mask": MASK, "node": f"{self.of}."}[self.part] + self.name

    @property
    def uniform(self) -> str:
        """The name under which a program is given it; of colours and vectors, what stands before the parts. A dial has one
        number, where it starts."""
        if self.part == "dial":
            return f"{DIAL}{self.of}"
        return f"{self.layer}.{self.text}" if self.layer else self.text


def address(layer: str, text: str) -> Address:
    """The address that a layer's text says. Raises BadEffect for a drive without a name."""
    if text.startswith(LAYER):
        return Address(layer=layer, part="layer", name=text.removeprefix(LAYER))
    if text.startswith(MASK):
        return Address(layer=layer, part="mask", name=text.removeprefix(MASK))
    for part, before in _OF_ANOTHER:
        if text.startswith(before):
            of, colon, name = text.removeprefix(before).rpartition(":")
            if not colon:
                raise BadEffect(f"'{text}' should read {before}{'CONTROL' if part == 'drive' else 'ID'}:NAME")
            return Address(layer=layer if part == "drive" else "", part=part, name=name, of=of)
    node, point, name = text.partition(".")
    return Address(layer=layer, part="node", name=name, of=node) if point else Address(layer=layer, part="control", name=text)
