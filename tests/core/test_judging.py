"""Judging aids: what a layer does to tones, greys and colours, against the layer's picture and outside references."""

from __future__ import annotations

import warnings

import numpy as np
import pytest

from sunglaze.core.colour.lut import Lut, neutral
from sunglaze.core.effect.document import Layer, LayerMask
from sunglaze.core.effect.literals import Material
from sunglaze.core.effect.motions import Drive
from sunglaze.core.effect.references import LookupRef
from sunglaze.core.effect.shipped import shipped
from sunglaze.core.engine.grade import apply_lut
from sunglaze.core.review.judging import CLOUD_STEPS, GREY_STEPS, Judged, judge
from tests.grades import smooth_grade
from tests.layers import fill, grade

with warnings.catch_warnings():
    warnings.simplefilter("ignore")
    import colour

REF = LookupRef(asset="0" * 64)
GRADE = smooth_grade(np.random.default_rng(9), 25)


def judged(layer: Layer, lut: Lut = GRADE) -> Judged:
    found = judge(layer, Material({REF: lut}))
    assert found is not None
    return found


def rgb(hexes: list[str]) -> np.ndarray:
    return np.array([[int(one[n : n + 2], 16) for n in (1, 3, 5)] for one in hexes]) / 255


def test_a_neutral_lookup_moves_no_tone() -> None:
    found = judged(grade("g", REF), neutral(33))
    assert max(tone.difference for tone in found.tones) < 0.01
    assert [tone.before for tone in found.tones] == [tone.after for tone in found.tones]
    assert len(found.tones) == 10


def test_tones_greys_and_colours_are_those_of_the_lookup() -> None:
    """Against apply_lut, which test_lookup.py holds against OpenColorIO; the shift against colour-science's CIEDE2000."""
    found = judged(grade("g", REF, strength=0.5))
    before = rgb([tone.before for tone in found.tones])
    after = np.clip(apply_lut(GRADE, before[None], 0.5)[0], 0, 1)
    assert np.abs(rgb([tone.after for tone in found.tones]) - after).max() < 0.51 / 255
    d65 = colour.CCS_ILLUMINANTS["CIE 1931 2 Degree Standard Observer"]["D65"]
    labs = [colour.XYZ_to_Lab(colour.sRGB_to_XYZ(side), d65) for side in (before, after)]
    theirs = colour.difference.delta_E_CIE2000(*labs)
    assert np.abs([tone.difference for tone in found.tones] - theirs).max() < 0.02
    ramp = np.repeat(np.linspace(0, 1, GREY_STEPS)[None, :, None], 3, axis=2)
    assert np.abs(np.array(found.grey) - np.clip(apply_lut(GRADE, ramp, 0.5)[0], 0, 1)).max() < 1e-5
    # Red runs fastest: the second colour of the cloud is the first step of red.
    steps = np.linspace(0, 1, CLOUD_STEPS)
    corner = np.array([[[steps[1], 0.0, 0.0], [0.0, steps[2], 0.0], [0.0, 0.0, steps[3]]]])
    expected = np.clip(apply_lut(GRADE, corner, 0.5)[0], 0, 1)
    picked = rgb([found.cloud[1], found.cloud[2 * CLOUD_STEPS], found.cloud[3 * CLOUD_STEPS**2]])
    assert np.abs(picked - expected).max() < 0.51 / 255


def test_opacity_and_blend_count_and_mask_switch_and_drives_do_not() -> None:
    half = judged(fill("f", "#ffffff", opacity=0.5))
    assert np.abs(np.array(half.grey)[:, 0] - (0.5 + 0.5 * np.linspace(0, 1, GREY_STEPS))).max() < 1e-6
    masked = fill("f", "#ffffff", opacity=0.5, on=False, mask=LayerMask(kind="circle"))
    assert judged(masked) == half
    driven = fill("f", "#ffffff", opacity=0.5, drives={"layer:opacity": Drive(kind="pulse")})
    assert judged(driven) == half


@pytest.mark.parametrize(
    ("kind", "local"),
    [
        *((kind, True) for kind in ("tone-and-colour", "hue-curves", "decision-list", "black-and-white", "posterize")),
        *((kind, False) for kind in ("blur", "vignette", "film-grain", "outline", "trails", "ripple")),
    ],
)
def test_only_layers_about_colours_alone_are_judged(kind: str, local: bool) -> None:
    assert (judge(Layer(id="l", name=kind, kind=kind), Material()) is not None) is local


def test_a_grades_small_correction_is_a_gain_contrast_and_saturation_on_top() -> None:
    """By its own formula: brightness in stops is a gain of the encoded colour by the power 1/2.2; BT.709 luma."""
    found = judged(grade("g", REF, brightness=0.5, contrast=1.2, saturation=0.7), neutral(25))
    before = rgb([tone.before for tone in found.tones])
    lit = (before * 2 ** (0.5 / 2.2) - 0.5) * 1.2 + 0.5
    grey = lit @ [0.2126, 0.7152, 0.0722]
    expected = np.clip(grey[:, None] + (lit - grey[:, None]) * 0.7, 0, 1)
    assert np.abs(rgb([tone.after for tone in found.tones]) - expected).max() < 0.51 / 255
    assert {one.name for one in shipped()["lookup-grade"].settings} >= {"As graded", "Half"}
