"""Addresses: which number of which layer; documents write them as text, which no two share."""

from __future__ import annotations

import itertools

import pytest

from sunglaze.core.effect.address import Address, address
from sunglaze.core.effect.compiling import inputs_of_effect
from sunglaze.core.effect.document import Effect, Layer, LayerMask
from sunglaze.core.effect.literals import Material
from sunglaze.core.effect.motions import Dial
from sunglaze.core.errors import BadEffect

EVERY = [
    Address(layer="l", part="layer", name="opacity"),
    Address(layer="l", part="control", name="opacity"),
    Address(layer="l", part="mask", name="opacity"),
    Address(layer="l", part="drive", of="opacity", name="low"),
    Address(layer="l", part="drive", of="layer:opacity", name="low"),
    Address(layer="l", part="drive", of="mask:opacity", name="low"),
    Address(layer="l", part="node", of="opacity", name="low"),
]


@pytest.mark.parametrize("at", EVERY, ids=lambda at: at.text)
def test_text_is_read_as_what_was_written(at: Address) -> None:
    assert address("l", at.text) == at


def test_no_two_parts_share_a_uniform() -> None:
    """A control called opacity once made a layer that was off paint."""
    for one, other in itertools.combinations(EVERY, 2):
        assert one.uniform != other.uniform


def test_a_drive_without_a_name_is_refused() -> None:
    with pytest.raises(BadEffect, match="drive:CONTROL:NAME"):
        address("l", "drive:amount")


def test_all_that_an_effect_sets_lies_at_addresses() -> None:
    """Every uniform and table of an effect is one that an address names."""
    drives = {"layer:opacity": {"kind": "pulse"}, "mask:soft": {"kind": "wander"}, "amount": {"kind": "time-ramp"}}
    layer = Layer(id="l", name="L", kind="blur", mask=LayerMask(kind="half"), drives=drives)  # type: ignore[arg-type]
    named = {one.name for one in Effect(name="t", layers=[layer]).layers[0].everything_set()}
    assert "l.drive:layer:opacity:seconds" in named
    assert {address("l", name.removeprefix("l.")).uniform for name in named} == named


def test_a_dials_start_is_the_uniform_of_its_program() -> None:
    dial = Dial(id="much", title="How much", start=0.25)
    uniforms = inputs_of_effect(Effect(name="t", dials=[dial]), Material()).uniforms
    assert uniforms[address("l", "dial:much:start").uniform] == 0.25
