"""Colour: adjustments on sRGB-encoded colours, 0 to 1; alpha passes unchanged. Nothing here clamps unless it says so."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Annotated

from sunglaze.core.language import functions as f
from sunglaze.core.language import vector as v
from sunglaze.core.language.expression import Value
from sunglaze.core.language.vector import Vec, partwise, rgba
from sunglaze.core.nodes import colour_spaces as spaces
from sunglaze.core.nodes.lookup import graded, piecewise
from sunglaze.core.nodes.node import node
from sunglaze.core.nodes.types import (
    Colour,
    Curves,
    Degrees,
    Fraction,
    Hues,
    Lookup,
    Mask,
    Number,
    Signed,
    Span,
    Stops,
    Vec3,
    Whole,
    one_of,
)  # fmt: skip

_LIGHT = one_of("display", "linear")
LUMA = (0.2126, 0.7152, 0.0722)
"""ITU-R BT.709."""


def luma(colour: Vec) -> Value:
    """The brightness of an encoded colour, by BT.709."""
    return colour.r * LUMA[0] + colour.g * LUMA[1] + colour.b * LUMA[2]


def _on_rgb(colour: Vec, rule: Callable[[Value], Value]) -> Vec:
    return rgba(colour.rgb.map(rule), colour.a)


@node("Lookup table", "colour")
def lookup_table(
    colour: Colour = None,
    lookup: Lookup = None,
    strength: Fraction = 1.0,
    interpolation: Annotated[str, one_of("tetrahedral", "trilinear")] = "tetrahedral",
) -> Colour:
    """The colours of a graded lookup. Strength 0 leaves the picture, 1 is the lookup."""
    if lookup is None:
        return colour
    made = graded(lookup.name, colour.rgb, strength, interpolation, lookup.is_cube, lookup.domain)
    return rgba(made, colour.a)


@node("Exposure", "colour")
def exposure(colour: Colour = None, stops: Stops = 0.0, given: Annotated[str, _LIGHT] = "display") -> Colour:
    """Brighter or darker as by the lens: a stop up doubles the light. Given linear light, it gives linear light."""
    gain = f.exp(stops * math.log(2))
    if given == "linear":
        return _on_rgb(colour, lambda c: c * gain)
    return _on_rgb(colour, lambda c: spaces.encoded(spaces.linear(c) * gain))


@node("Contrast", "colour")
def contrast(colour: Colour = None, amount: Annotated[Number, Span(0, 3)] = 1.0, pivot: Fraction = 0.5) -> Colour:
    """Draws colours apart from the pivot, or together below 1."""
    return _on_rgb(colour, lambda c: (c - pivot) * amount + pivot)


@node("Saturation", "colour")
def saturate(colour: Colour = None, amount: Annotated[Number, Span(0, 2)] = 1.0) -> Colour:
    """Colours more or less colourful; 0 is exactly grey, by BT.709 luma."""
    grey = luma(colour)
    return _on_rgb(colour, lambda c: v.mix(grey, c, amount))


@node("Temperature and tint", "colour")
def temperature(
    colour: Colour = None, warmth: Signed = 0.0, tint: Signed = 0.0, given: Annotated[str, _LIGHT] = "display"
) -> Colour:
    """Warmer or colder, greener (below 0) or pinker, by gains in linear light that leave the luma of white as it is. The
    scale is ours: warmth 1 is half a stop more red and half a stop less blue."""
    red = f.exp(warmth * (math.log(2) / 2) + tint * (math.log(2) / 6))
    blue = f.exp(warmth * (-math.log(2) / 2) + tint * (math.log(2) / 6))
    green = f.exp(tint * (-math.log(2) / 3))
    whole = red * LUMA[0] + green * LUMA[1] + blue * LUMA[2]
    gains = Vec(red, green, blue) / whole
    if given == "linear":
        return rgba(colour.rgb * gains, colour.a)
    light = colour.rgb.map(spaces.linear) * gains
    return rgba(light.map(spaces.encoded), colour.a)


@node("Slope, offset, power", "colour")
def decision_list(
    colour: Colour = None,
    slope: Vec3 = (1.0, 1.0, 1.0),
    offset: Vec3 = (0.0, 0.0, 0.0),
    power: Vec3 = (1.0, 1.0, 1.0),
    saturation: Annotated[Number, Span(0, 4)] = 1.0,
) -> Colour:
    """The colour decision list of the ASC (CDL 1.2): out = clamp(in * slope + offset) ^ power, then saturation; clamped."""
    lifted = (colour.rgb * slope + offset).map(v.clamp01)
    made = partwise(f.power, lifted, power)
    grey = made.r * LUMA[0] + made.g * LUMA[1] + made.b * LUMA[2]
    return rgba(made.map(lambda c: v.clamp01(v.mix(grey, c, saturation))), colour.a)


@node("Curves", "colour")
def curves(colour: Colour = None, curves: Curves = None, strength: Fraction = 1.0) -> Colour:
    """Tones along drawn curves: one for all three colours, then one for each."""
    if curves is None:
        return colour
    bent = piecewise(curves.name, colour.rgb)
    return rgba(v.mix3(colour.rgb, bent, strength), colour.a)


OVER = ".over"
"""After the name of hue curves' table: that of saturation over lightness."""


@node("Hue curves", "colour")
def hue_curves(colour: Colour = None, hues: Hues = None, strength: Fraction = 1.0) -> Colour:
    """Turns, saturates and lightens each hue by curves round the circle, and saturates by lightness; greys stay."""
    if hues is None:
        return colour
    hue, saturation, lightness = spaces.rgb_to_hsl(colour.rgb).parts()
    change = piecewise(hues.name, Vec(hue, hue, hue))
    # What is nearly grey has no hue to go by.
    much = v.smoothstep(0.0, 0.1, saturation) * strength
    turned = hue + change.r * much
    over = piecewise(f"{hues.name}{OVER}", Vec(lightness)).r
    fuller = v.clamp01(saturation * (1.0 + change.g * much) * (1.0 + over * much))
    room = v.minimum(lightness, 1.0 - lightness)
    lighter = v.clamp01(lightness + change.b * much * room * saturation)
    made = spaces.hsl_to_rgb(Vec(turned, fuller, lighter))
    return rgba(v.select3(much > 0.0, made, colour.rgb), colour.a)


@node("Black and white mixer", "colour")
def black_and_white(
    colour: Colour = None, red: Annotated[Number, Span(-2, 3)] = 0.2126, green: Annotated[Number, Span(-2, 3)] = 0.7152,
    blue: Annotated[Number, Span(-2, 3)] = 0.0722, strength: Fraction = 1.0,
) -> Colour:  # fmt: skip
    """Greys from so much of each colour; at full strength exactly grey."""
    grey = colour.r * red + colour.g * green + colour.b * blue
    return _on_rgb(colour, lambda c: v.select(strength >= 1.0, grey, v.mix(c, grey, strength)))


@node("Gradient map", "colour")
def gradient_map(
    colour: Colour = None, dark: Colour = "#23211d", middle: Colour = "#a8420d", light: Colour = "#efece4",
    steps: Annotated[Whole, Span(0, 16)] = 0,
) -> Colour:  # fmt: skip
    """Brightness as a way through three colours, smooth or in hard steps."""
    t = v.clamp01(luma(colour))
    many = v.maximum(v.to_float(steps) - 1.0, 1.0)
    hard = v.minimum(v.floor(t * (many + 1.0)), many) / many
    t = v.select(v.to_float(steps) > 1.5, hard, t)
    lower, upper = v.clamp01(t * 2.0), v.clamp01(t * 2.0 - 1.0)
    low = dark.rgb.zip(middle.rgb, lambda a, b: v.mix(a, b, lower))
    return rgba(low.zip(light.rgb, lambda a, b: v.mix(a, b, upper)), colour.a)


@node("Posterize", "colour")
def posterize(colour: Colour = None, steps: Annotated[Whole, Span(2, 32)] = 5) -> Colour:
    """So many tones in each colour."""
    last = v.maximum(v.to_float(steps) - 1.0, 1.0)
    return _on_rgb(colour, lambda c: v.clamp(v.floor(v.clamp01(c) * (last + 1.0)), 0.0, last) / last)


@node("Threshold", "colour")
def threshold(colour: Colour = None, edge: Fraction = 0.5, softness: Fraction = 0.0) -> Mask:
    """Where the brightness reaches the edge, with a soft way there."""
    return v.smoothstep(edge - softness * 0.5, edge + softness * 0.5, luma(colour))


@node("Invert", "colour")
def invert(colour: Colour = None) -> Colour:
    """The opposite of each colour."""
    return _on_rgb(colour, lambda c: 1.0 - c)


@node("Luminance", "colour")
def luminance(colour: Colour = None) -> Number:
    """The brightness of an encoded colour: BT.709 luma."""
    return luma(colour)


@node("Hue turn", "colour")
def hue_turn(colour: Colour = None, turn: Degrees = 0.0) -> Colour:
    """Turns all hues. HSV after Smith (1978)."""
    hue, saturation, lightness = spaces.rgb_to_hsv(colour.rgb).parts()
    return rgba(spaces.hsv_to_rgb(Vec(hue + turn * (1 / 360), saturation, lightness)), colour.a)


@node("RGB to HSV", "colour")
def rgb_to_hsv(colour: Colour = None) -> Vec3:
    """Hue, saturation and value, each 0 to 1."""
    return spaces.rgb_to_hsv(colour.rgb)


@node("HSV to RGB", "colour")
def hsv_to_rgb(hsv: Vec3 = (0.0, 1.0, 1.0)) -> Colour:
    """A colour from hue, saturation and value; hue goes round."""
    return rgba(spaces.hsv_to_rgb(hsv), 1.0)


@node("RGB to HSL", "colour")
def rgb_to_hsl(colour: Colour = None) -> Vec3:
    """Hue, saturation and lightness, each 0 to 1."""
    return spaces.rgb_to_hsl(colour.rgb)


@node("HSL to RGB", "colour")
def hsl_to_rgb(hsl: Vec3 = (0.0, 1.0, 0.5)) -> Colour:
    """A colour from hue, saturation and lightness; hue goes round."""
    return rgba(spaces.hsl_to_rgb(hsl), 1.0)


@node("RGB to Lab", "colour")
def rgb_to_lab(colour: Colour = None) -> Vec3:
    """CIE L*a*b* under D65: lightness 0 to 100, a and b about -100 to 100."""
    return spaces.rgb_to_lab(colour.rgb)


@node("Lab to RGB", "colour")
def lab_to_rgb(lab: Vec3 = (50.0, 0.0, 0.0)) -> Colour:
    """A colour from CIE L*a*b* under D65."""
    return rgba(spaces.lab_to_rgb(lab), 1.0)


@node("To linear light", "colour")
def to_linear(colour: Colour = None) -> Colour:
    """From sRGB encoding to linear light (IEC 61966-2-1)."""
    return _on_rgb(colour, spaces.linear)


@node("From linear light", "colour")
def from_linear(colour: Colour = None) -> Colour:
    """From linear light to sRGB encoding (IEC 61966-2-1)."""
    return _on_rgb(colour, spaces.encoded)


@node("Premultiply", "colour")
def premultiply(colour: Colour = None) -> Colour:
    """Colour times opacity."""
    return rgba(colour.rgb * colour.a, colour.a)


@node("Unpremultiply", "colour")
def unpremultiply(colour: Colour = None) -> Colour:
    """Colour divided by opacity; black where that is 0."""
    return rgba(colour.rgb.map(lambda c: v.divide(c, colour.a)), colour.a)


@node("With opacity", "colour")
def with_opacity(colour: Colour = None, opacity: Fraction = 1.0) -> Colour:
    """The colour at another opacity."""
    return rgba(colour, opacity)


@node("Channel", "colour")
def channel(colour: Colour = None, which: Annotated[str, one_of("red", "green", "blue", "alpha", "luma")] = "luma") -> Number:
    """One part of a colour, or its luma (ITU-R BT.709)."""
    if which == "luma":
        return luma(colour)
    return colour.parts()[("red", "green", "blue", "alpha").index(which)]


@node("Hue to colour", "colour")
def hue_to_colour(turn: Degrees = 0.0, saturation: Fraction = 1.0, brightness: Fraction = 1.0) -> Colour:
    """The pure colour of a hue, which goes round once in 360 degrees."""
    return rgba(spaces.hsv_to_rgb(Vec(turn * (1 / 360), saturation, brightness)), 1.0)
