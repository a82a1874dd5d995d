"""Blend modes of W3C Compositing and Blending Level 1 (section 10), and `plus` (its compositing operator, section 9.1.13).

`subtract` and `divide` are common practice, with no published source.

`backdrop` and `layer` are colours in 0 to 1; every rule gives 0 to 1 back.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated

from sunglaze.core.language.expression import Value
from sunglaze.core.language.pictures import is_opaque, is_stage
from sunglaze.core.language.vector import Vec, clamp01, divide, maximum, minimum, mix, mix3, rgba, select, select3, sqrt, value
from sunglaze.core.nodes.colour_spaces import encoded, linear
from sunglaze.core.nodes.node import node
from sunglaze.core.nodes.types import Colour, Fraction, Mask, one_of

Separable = Callable[[Value, Value], Value]


def multiply(b: Value, s: Value) -> Value:
    """W3C Compositing and Blending Level 1, 10.1.2: B(b, s) = b s."""
    return b * s


def screen(b: Value, s: Value) -> Value:
    """W3C, 10.1.3: b + s - b s."""
    return b + s - b * s


def hard_light(b: Value, s: Value) -> Value:
    """W3C, 10.1.9: multiply below a half of the source, screen above."""
    return select(s <= 0.5, multiply(b, s * 2.0), screen(b, s * 2.0 - 1.0))


def overlay(b: Value, s: Value) -> Value:
    """W3C, 10.1.4: hard light with the layers changed over."""
    return hard_light(s, b)


def darken(b: Value, s: Value) -> Value:
    """W3C, 10.1.5: the smaller."""
    return minimum(b, s)


def lighten(b: Value, s: Value) -> Value:
    """W3C, 10.1.6: the larger."""
    return maximum(b, s)


def color_dodge(b: Value, s: Value) -> Value:
    """W3C, 10.1.7: min(1, b / (1 - s)); 0 where b is 0."""
    lit = select(s >= 1.0, 1.0, minimum(divide(b, 1.0 - s), 1.0))
    return select(b <= 0.0, 0.0, lit)


def color_burn(b: Value, s: Value) -> Value:
    """W3C, 10.1.8: 1 - min(1, (1 - b) / s); 1 where b is 1."""
    burnt = select(s <= 0.0, 0.0, 1.0 - minimum(divide(1.0 - b, s), 1.0))
    return select(b >= 1.0, 1.0, burnt)


def soft_light(b: Value, s: Value) -> Value:
    """W3C, 10.1.10."""
    root = select(b <= 0.25, ((b * 16.0 - 12.0) * b + 4.0) * b, sqrt(b))
    twice = s * 2.0 - 1.0
    return select(s <= 0.5, b + twice * b * (1.0 - b), b + twice * (root - b))


def difference(b: Value, s: Value) -> Value:
    """W3C, 10.1.11: |b - s|."""
    return maximum(b, s) - minimum(b, s)


def exclusion(b: Value, s: Value) -> Value:
    """W3C, 10.1.12: b + s - 2 b s."""
    return b + s - b * s * 2.0


def subtract(b: Value, s: Value) -> Value:
    """max(0, b - s); common practice, no source."""
    return maximum(b - s, 0.0)


def divided(b: Value, s: Value) -> Value:
    """White where the layer is black."""
    return select(s <= 0.0, 1.0, minimum(divide(b, s), 1.0))


def lum(c: Vec) -> Value:
    """The luminosity of the W3C's non-separable modes; their own weights, not BT.709."""
    return c.r * 0.3 + c.g * 0.59 + c.b * 0.11


def _least(c: Vec) -> Value:
    return minimum(minimum(c.r, c.g), c.b)


def _most(c: Vec) -> Value:
    return maximum(maximum(c.r, c.g), c.b)


def _clip_color(c: Vec) -> Vec:
    level, low, high = lum(c), _least(c), _most(c)
    lifted = c.map(lambda x: level + divide((x - level) * level, level - low))
    c = select3(low < 0.0, lifted, c)
    lowered = c.map(lambda x: level + divide((x - level) * (1.0 - level), high - level))
    c = select3(high > 1.0, lowered, c)
    # Rounding can leave a part some 1e-7 outside.
    return c.map(clamp01)


def _set_lum(c: Vec, level: Value) -> Vec:
    return _clip_color(c + (level - lum(c)))


def _sat(c: Vec) -> Value:
    return _most(c) - _least(c)


def _set_sat(c: Vec, saturation: Value) -> Vec:
    low, spread = _least(c), _sat(c)
    return c.map(lambda x: divide((x - low) * saturation, spread))


def hue(b: Vec, s: Vec) -> Vec:
    """W3C, 10.2.1: the source's hue, the saturation and luminosity of what is below."""
    return _set_lum(_set_sat(s, _sat(b)), lum(b))


def saturation(b: Vec, s: Vec) -> Vec:
    """W3C, 10.2.2: the source's saturation, the hue and luminosity of what is below."""
    return _set_lum(_set_sat(b, _sat(s)), lum(b))


def color(b: Vec, s: Vec) -> Vec:
    """W3C, 10.2.3: the source's hue and saturation, the luminosity of what is below."""
    return _set_lum(s, lum(b))


def luminosity(b: Vec, s: Vec) -> Vec:
    """W3C, 10.2.4: the source's luminosity, the hue and saturation of what is below."""
    return _set_lum(b, lum(s))


SEPARABLE: dict[str, Separable] = {
    "multiply": multiply,
    "screen": screen,
    "overlay": overlay,
    "darken": darken,
    "lighten": lighten,
    "color-dodge": color_dodge,
    "color-burn": color_burn,
    "hard-light": hard_light,
    "soft-light": soft_light,
    "difference": difference,
    "exclusion": exclusion,
    "subtract": subtract,
    "divide": divided,
}
NON_SEPARABLE: dict[str, Callable[[Vec, Vec], Vec]] = {
    "hue": hue,
    "saturation": saturation,
    "color": color,
    "luminosity": luminosity,
}
MODES: tuple[str, ...] = ("normal", *SEPARABLE, *NON_SEPARABLE, "plus")


def composite(mode: str, below: Vec, layer: Vec, alpha: Value) -> Vec:
    """What a layer of the given alpha (0 to 1) leaves over an opaque picture; alpha 0 leaves it exactly.

    The result is within 0 to 1, to the bit: so is a mix of what is, since rounding keeps order and 1 - a + a is rounded to 1.
    Raises KeyError for a mode that is not known.
    """
    if mode == "plus":
        return below.zip(layer, lambda b, s: minimum(b + s * alpha, 1.0))
    if mode in SEPARABLE:
        return mix3(below, below.zip(layer, SEPARABLE[mode]), alpha)
    if mode in NON_SEPARABLE:
        return mix3(below, NON_SEPARABLE[mode](below, layer), alpha)
    if mode == "normal":
        return mix3(below, layer, alpha)
    raise KeyError(mode)


@node("Blend", "blend")
def blend(
    below: Colour = None,
    layer: Colour = "#a8420d",
    mode: Annotated[str, one_of(*MODES)] = "normal",
    opacity: Fraction = 1.0,
    mask: Mask = 1.0,
    light: Annotated[str, one_of("display", "linear")] = "display",
) -> Colour:
    """Lays one colour over another, by a blend mode; in the display's encoding or in linear light."""
    return over(below, layer, mode, opacity * mask, light == "linear")


def over(below: Vec, layer: Vec, mode: str, amount: Value, in_linear_light: bool = False) -> Vec:
    """What a layer leaves on what is below. Both are held to 0 to 1; the result is as opaque as the two together, and is within
    0 to 1 where what is below is opaque."""
    ground, top = below.rgb if is_stage(below) else below.rgb.map(clamp01), layer.rgb.map(clamp01)
    if in_linear_light:
        ground, top = ground.map(linear), top.map(linear)
    alpha = clamp01(layer.a * amount)
    if is_opaque(below):
        made, covered = composite(mode, ground, top, alpha), below.a
    else:
        # W3C Compositing 1, section 5: the mode applies where there is something below, else the layer itself.
        shown = composite(mode, ground, top, value(1.0))
        mixed = top.zip(shown, lambda s, b: mix(s, b, below.a))
        covered = alpha + below.a * (1.0 - alpha)
        made = ground.zip(mixed, lambda g, m: divide(m * alpha + g * below.a * (1.0 - alpha), covered))
    return rgba(made.map(lambda part: clamp01(encoded(part))) if in_linear_light else made, covered)
