"""Colour spaces as rules on vectors of three: sRGB transfer, HSV, HSL, CIE Lab. No nodes; nodes use these."""

from __future__ import annotations

from sunglaze.core.colour.spaces import CUT, CUT_LINEAR, FACTOR, OFFSET, SLOPE
from sunglaze.core.language import functions as f
from sunglaze.core.language import vector as v
from sunglaze.core.language.expression import Value
from sunglaze.core.language.vector import Vec, maximum, minimum, select, sqrt


def linear(encoded: Value) -> Value:
    """sRGB decoding, IEC 61966-2-1; for values below 0 the line near 0 goes on."""
    x = minimum((encoded + OFFSET) * (1 / FACTOR), 1e10)
    # x^2.4 = (x * x^(-1/5))^3
    part = x * f.inverse_root(x, 5)
    return select(encoded <= CUT, encoded * (1 / SLOPE), part * part * part)


def encoded(light: Value) -> Value:
    """sRGB encoding, IEC 61966-2-1; for values below 0 the line near 0 goes on."""
    x = minimum(light, 1e10)
    # x^(1/2.4) = sqrt(x * x^(-1/6))
    return select(light <= CUT_LINEAR, light * SLOPE, sqrt(x * f.inverse_root(x, 6)) * FACTOR - OFFSET)


def _hue(rgb: Vec, high: Value, spread: Value) -> Value:
    """0 to below 1; 0 for greys."""
    r, g, b = rgb.parts()
    by_red, by_green, by_blue = v.divide(g - b, spread), v.divide(b - r, spread) + 2.0, v.divide(r - g, spread) + 4.0
    sixth = select(r >= high, by_red, select(g >= high, by_green, by_blue))
    return select(spread > 0.0, v.fract(sixth * (1 / 6)), 0.0)


def rgb_to_hsv(rgb: Vec) -> Vec:
    """Smith (1978)."""
    high, low = maximum(maximum(rgb.r, rgb.g), rgb.b), minimum(minimum(rgb.r, rgb.g), rgb.b)
    spread = high - low
    return Vec(_hue(rgb, high, spread), v.divide(spread, high), high)


def _round_the_hues(hue: Value) -> Vec:
    """The pure colour of a hue, each part 0 to 1."""
    turn = v.fract(hue) * 6.0

    def part(at: float) -> Value:
        away = v.absolute(turn - at)
        return v.clamp01(minimum(away, 6.0 - away) * -1.0 + 2.0)

    return Vec(part(0.0), part(2.0), part(4.0))


def hsv_to_rgb(hsv: Vec) -> Vec:
    """The inverse of `rgb_to_hsv`. Smith (1978)."""
    hue, saturation, brightness = hsv.parts()
    return _round_the_hues(hue).map(lambda c: brightness * v.mix(1.0, c, saturation))


def rgb_to_hsl(rgb: Vec) -> Vec:
    """Joblove and Greenberg (1978)."""
    high, low = maximum(maximum(rgb.r, rgb.g), rgb.b), minimum(minimum(rgb.r, rgb.g), rgb.b)
    spread, total = high - low, high + low
    saturation = v.divide(spread, 1.0 - v.absolute(total - 1.0))
    return Vec(_hue(rgb, high, spread), saturation, total * 0.5)


def hsl_to_rgb(hsl: Vec) -> Vec:
    """The inverse of `rgb_to_hsl`. W3C CSS Color Level 4, section 7."""
    hue, saturation, lightness = hsl.parts()
    reach = (1.0 - v.absolute(lightness * 2.0 - 1.0)) * saturation
    return _round_the_hues(hue).map(lambda c: lightness + (c - 0.5) * reach)


_TO_XYZ = (
    (0.4123907992659595, 0.357584339383878, 0.1804807884018343),
    (0.21263900587151036, 0.715168678767756, 0.07219231536073371),
    (0.01933081871559185, 0.11919477979462599, 0.9505321522496607),
)
_FROM_XYZ = (
    (3.240969941904521, -1.537383177570093, -0.498610760293),
    (-0.96924363628087, 1.87596750150772, 0.041555057407175),
    (0.055630079696993, -0.20397695888897, 1.056971514242878),
)
"""sRGB's primaries and D65 (x 0.3127, y 0.3290), computed from IEC 61966-2-1's chromaticities."""
_WHITE = (0.9504559270516717, 1.0, 1.0890577507598784)
_DELTA = 6 / 29


def _times(matrix: tuple[tuple[float, ...], ...], a: Vec) -> Vec:
    return Vec(*(a.x * row[0] + a.y * row[1] + a.z * row[2] for row in matrix))


def rgb_to_lab(rgb: Vec) -> Vec:
    """CIE 1976 L*a*b*, CIE 15:2004, under D65."""
    xyz = _times(_TO_XYZ, rgb.map(linear))

    def bent(t: Value) -> Value:
        return select(t > _DELTA**3, f.exp(f.log(t) * (1 / 3)), t * (1 / (3 * _DELTA**2)) + 4 / 29)

    x, y, z = (bent(part * (1 / white)) for part, white in zip(xyz.parts(), _WHITE, strict=True))
    return Vec(y * 116.0 - 16.0, (x - y) * 500.0, (y - z) * 200.0)


def lab_to_rgb(lab: Vec) -> Vec:
    """The inverse of `rgb_to_lab`. CIE 15."""
    y = (lab.x + 16.0) * (1 / 116)
    bent = y + lab.y * (1 / 500), y, y - lab.z * (1 / 200)
    xyz = Vec(*(
        select(t > _DELTA, t * t * t, (t - 4 / 29) * (3 * _DELTA**2)) * white for t, white in zip(bent, _WHITE, strict=True)
    ))  # fmt: skip
    return _times(_FROM_XYZ, xyz).map(encoded)
