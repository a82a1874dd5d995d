"""Masks: regions as the camera gives them, and shaping them. A mask is 0 outside, 1 inside, soft between."""

from __future__ import annotations

from typing import Annotated

from sunglaze.core.language import functions as f
from sunglaze.core.language import pictures as p
from sunglaze.core.language import vector as v
from sunglaze.core.language.expression import Value, record
from sunglaze.core.language.loops import LONGEST, repeat
from sunglaze.core.language.pictures import Picture, computed, near
from sunglaze.core.nodes.filters import gaussian
from sunglaze.core.nodes.node import node, scene
from sunglaze.core.nodes.types import Boolean, Fraction, Mask, Number, ReferencePixels, Span, one_of

REGIONS = (
    "person", "nearer person", "farther person", "hair", "head", "face skin", "eyes", "lips", "teeth", "hands", "clothes", "sky",
    "ground", "building",
)  # fmt: skip
FARTHEST = 64.0


@node("Region", "masks")
def region(region: Annotated[str, one_of(*REGIONS)] = "person") -> Mask:
    """A part of the picture as the camera marks it; empty where the camera does not know it."""
    if region == "person":
        return near(scene().camera, 3)
    # A picture of the screen's size, so that it is brought to that once, whoever reads it.
    return near(p.computed([p.colour_here(p.region_picture(region)).r]), 0)


@node("Turn over", "masks")
def turn_over(mask: Mask = 1.0) -> Mask:
    """Inside becomes outside."""
    return 1.0 - mask


@node("Threshold mask", "masks")
def threshold_mask(mask: Mask = 1.0, edge: Fraction = 0.5, softness: Fraction = 0.0) -> Mask:
    """A harder edge, elsewhere if wanted."""
    return v.smoothstep(edge - softness * 0.5, edge + softness * 0.5, mask)


COMBINATIONS = ("both", "either", "first only", "one of them", "average")


@node("Combine masks", "masks")
def combine_masks(first: Mask = 1.0, second: Mask = 1.0, how: Annotated[str, one_of(*COMBINATIONS)] = "both") -> Mask:
    """What lies in both, in either, in the first but not the second, in just one, or halfway."""
    both = first * second
    return {
        "both": both,
        "either": first + second - both,
        "first only": first - both,
        "one of them": first + second - both * 2.0,
        "average": (first + second) * 0.5,
    }[how]


@node("Soften", "masks")
def soften(
    mask: Mask = 1.0,
    amount: Annotated[ReferencePixels, Span(0, 64)] = 6.0,
    quality: Annotated[str, one_of("exact", "wide")] = "exact",
) -> Mask:
    """A softer edge, by a Gaussian of this deviation. Wide is far quicker and meant for 8 pixels and more."""
    pixels = p.pixels(v.clamp(amount, 0.0, FARTHEST))
    soft = p.colour_here(gaussian(computed([mask]), pixels, quality)).r
    return v.select(pixels <= 0.05, mask, soft)


def distance_to(inside: Picture, reach: Value) -> Value:
    """How far, in pixels, the nearest pixel above 0.5 is, up to `reach` (pixels of the frame).

    Exact: first along columns, then the least of dx^2 + dy^2 along rows (Felzenszwalb and Huttenlocher 2012, with a bound).
    """
    far = v.value(1e6)
    turns = v.to_int(v.floor(reach) + 1.0)

    def marked(right: int | Value, down: int | Value) -> Value:
        return near(inside, 0, right, down) > 0.5

    def column(n: Value, states: tuple[Value, ...]) -> list[Value]:
        step = f.iadd(n, 1)
        found = marked(0, step) | marked(0, record("isub", 0, step))
        return [v.select(found, v.minimum(states[0], v.to_float(step)), states[0])]

    start = v.select(marked(0, 0), 0.0, far)
    down = computed(list(repeat(turns, LONGEST, [start], column)), precise=True)

    def row(n: Value, states: tuple[Value, ...]) -> list[Value]:
        step = f.iadd(n, 1)
        dx = v.to_float(step)
        nearer = v.minimum(near(down, 0, step), near(down, 0, record("isub", 0, step)))
        return [v.minimum(states[0], nearer * nearer + dx * dx)]

    here = near(down, 0)
    return v.minimum(v.sqrt(repeat(turns, LONGEST, [here * here], row)[0]), reach)


@node("Distance from a mask", "masks")
def mask_distance(
    mask: Mask = 1.0, reach: Annotated[ReferencePixels, Span(1, FARTHEST)] = 32.0, outwards: Boolean = True
) -> Annotated[Number, Span(0, FARTHEST)]:
    """How far a pixel is from the mask in reference pixels, up to a reach; or, inside it, from what is outside."""
    held = computed([v.select(outwards, mask, 1.0 - mask)])
    return v.divide(distance_to(held, p.pixels(v.clamp(reach, 0.0, FARTHEST))), p.reference_pixel())


@node("Grow", "masks")
def grow(mask: Mask = 1.0, amount: Annotated[ReferencePixels, Span(-FARTHEST, FARTHEST)] = 4.0) -> Mask:
    """A larger mask, or a smaller one below 0, with round corners."""
    pixels = p.pixels(v.clamp(amount, -FARTHEST, FARTHEST))
    shrink = pixels < 0.0
    far = v.absolute(pixels)
    held = computed([v.select(shrink, 1.0 - mask, mask)])
    # The mask's border lies half a pixel beyond its last pixel's middle, and a pixel is covered over half a pixel about that.
    reached = v.clamp01(far + 1.0 - distance_to(held, far + 1.0))
    return v.select(far < 0.05, mask, v.select(shrink, 1.0 - reached, reached))
