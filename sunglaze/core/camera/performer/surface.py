"""What the performers are made of: colour, gloss and fine relief of each material. Colours are linear light."""

import math

from numba import njit

from sunglaze.core.camera.performer.labels import BEARD, BROW, CLOTH, EYE, GLASSES, HAIR, HEADWEAR, LIPS, MOUTH, TEETH
from sunglaze.core.camera.performer.people import (
    C_CLOTH,
    C_HAIR,
    C_IRIS,
    C_LIPS,
    C_SECOND,
    C_SKIN,
    P_AGE,
    P_COAT,
    P_FRECKLES,
    P_HAIR,
    P_WIDTH,
)  # fmt: skip
from sunglaze.core.camera.performer.shapes import step01


@njit(cache=True, inline="always", error_model="numpy", fastmath=True)
def _hash(x, y):
    h = (int(x) * 374761393 + int(y) * 668265263) & 0xFFFFFFFF
    h = ((h ^ (h >> 13)) * 1274126177) & 0xFFFFFFFF
    return ((h ^ (h >> 16)) & 0xFFFF) / 65535.0


@njit(cache=True, error_model="numpy", fastmath=True)
def noise(x, y):
    """Value noise, 0 to 1."""
    ix, iy = math.floor(x), math.floor(y)
    fx, fy = x - ix, y - iy
    fx, fy = fx * fx * (3 - 2 * fx), fy * fy * (3 - 2 * fy)
    low = _hash(ix, iy) * (1 - fx) + _hash(ix + 1, iy) * fx
    high = _hash(ix, iy + 1) * (1 - fx) + _hash(ix + 1, iy + 1) * fx
    return low * (1 - fy) + high * fy


@njit(cache=True, error_model="numpy", fastmath=True)
def _freckle(x, y):
    """Round spots of several sizes and strengths, one at most in a cell of a unit, 0 to 1."""
    made = 0.0
    for j in range(-1, 2):
        for i in range(-1, 2):
            cx, cy = math.floor(x) + i, math.floor(y) + j
            if _hash(cx, cy) < 0.45:
                continue
            dx = x - cx - 0.15 - 0.7 * _hash(cx + 91, cy)
            dy = y - cy - 0.15 - 0.7 * _hash(cx, cy + 57)
            size = 0.16 + 0.2 * _hash(cx + 13, cy + 29)
            made = max(made, step01(size, 0.35 * size, math.sqrt(dx * dx + dy * dy)) * (0.35 + 0.65 * _hash(cx + 5, cy + 71)))
    return made


@njit(cache=True, error_model="numpy", fastmath=True)
def _skin(x, y, z, w):
    """Skin is its tone, reddened at cheeks, nose and ears, darker in the sockets, mottled, freckled, spotted with age."""
    ax = abs(x)
    along = math.atan2(x, z + 0.2)
    blood = 0.35 + 0.65 * w[C_SKIN]
    mottle = noise(along * 8.0 + 40.0, y * 9.0) - 0.5 + 0.5 * (noise(along * 31.0, y * 33.0 + 7.0) - 0.5)
    flush = math.exp(-((ax - 0.4) ** 2 + (y + 0.24) ** 2) * 13.0) * step01(0.0, 0.4, z)
    nose = math.exp(-(x * x + (y + 0.26) ** 2) * 45.0) * step01(0.5, 0.8, z)
    ear = step01(0.68, 0.8, ax) * step01(0.2, 0.0, z)
    socket = math.exp(-((ax - 0.3) ** 2 * 20.0 + (y - 0.0) ** 2 * 34.0)) * step01(0.3, 0.6, z)
    under = math.exp(-((ax - 0.28) ** 2 * 40.0 + (y + 0.13) ** 2 * 160.0)) * step01(0.3, 0.6, z) * (0.4 + w[P_AGE])
    pores = 0.04 * (noise(along * 95.0, y * 90.0) - 0.5)
    spot = _freckle(along * 24.0 + 40.0, y * 27.0 + 40.0) * w[P_FRECKLES] * step01(0.5, 0.1, abs(y + 0.1)) * step01(0.2, 0.6, z)
    stain = step01(0.8, 0.95, noise(along * 11.0 + 9.0, y * 12.0)) * w[P_AGE] * 0.3
    dark = (1.0 + 0.07 * mottle + pores) * (1 - 0.17 * socket) * (1 - 0.09 * under) * (1 - 0.16 * stain)
    red = (0.22 * flush + 0.18 * nose + 0.16 * ear + 0.04) * blood
    r = w[C_SKIN] * dark * (1 + 0.25 * red) * (1 - 0.14 * spot)
    g = w[C_SKIN + 1] * dark * (1 - 0.75 * red) * (1 - 0.3 * spot)
    b = w[C_SKIN + 2] * dark * (1 - 0.8 * red) * (1 - 0.4 * spot)
    return r, g, b


@njit(cache=True, error_model="numpy", fastmath=True)
def relief(x, y, z, w):
    """Height of pores and wrinkles at a place of the head, in units; wrinkles deepen with age."""
    ax = abs(x)
    along = math.atan2(x, z + 0.2)
    made = 0.0016 * noise(along * 70.0, y * 72.0) + 0.0012 * noise(along * 150.0 + 5.0, y * 150.0)
    age = w[P_AGE]
    fore = step01(0.3, 0.4, y) * step01(0.75, 0.6, y) * step01(0.55, 0.35, ax)
    made -= 0.007 * age * fore * max(0.0, math.sin(46.0 * y + 1.5 * math.sin(4.0 * x) + 2.0 * noise(x * 5.0, 1.0))) ** 4
    crow = math.exp(-(((ax - 0.57) / 0.1) ** 2 + ((y - 0.02) / 0.14) ** 2)) * step01(0.0, 0.3, z)
    made -= 0.006 * age * crow * max(0.0, math.sin(62.0 * (y - 0.02) + 30.0 * (y - 0.02) * (ax - 0.5))) ** 3
    fold = abs((ax - 0.2) - (-0.28 - y) * 0.42)
    made -= (
        0.016
        * (0.25 + age)
        * math.exp(-(fold * fold) * 1600.0)
        * step01(-0.24, -0.32, y)
        * step01(-0.6, -0.5, y)
        * step01(0.3, 0.5, z)
    )
    return made


@njit(cache=True, error_model="numpy", fastmath=True)
def _eye(x, y, gaze_x, gaze_y, w):
    side = 1.0 if x > 0 else -1.0
    ex, ey = x - 0.305 * w[P_WIDTH] * side - gaze_x, y - 0.035 - gaze_y
    r = math.sqrt(ex * ex + ey * ey)
    iris, pupil, ring = step01(0.088, 0.08, r), step01(0.038, 0.033, r), step01(0.055, 0.086, r)
    rays = (0.7 + 0.3 * noise(math.atan2(ey, ex) * 9.0 + 30.0, r * 30.0)) * (1 - 0.75 * ring) * (1 - pupil)
    shade = 1.0 - 0.45 * step01(0.02, 0.1, y - 0.035)
    vein = 0.05 * step01(0.6, 0.8, noise(ex * 40.0, ey * 60.0 + 3.0)) * step01(0.09, 0.15, r)
    red = (0.68 + (w[C_IRIS] * 1.3 * rays - 0.68) * iris) * shade
    green = (0.62 - vein + (w[C_IRIS + 1] * 1.3 * rays - 0.62 + vein) * iris) * shade
    blue = (0.58 - vein + (w[C_IRIS + 2] * 1.3 * rays - 0.58 + vein) * iris) * shade
    return red, green, blue


@njit(cache=True, error_model="numpy", fastmath=True)
def _cloth(x, y, z, w):
    """Body clothes by kind: plain, striped, with an apron, or oilskin; colour and gloss."""
    kind = int(w[P_COAT])
    weave = 0.9 + 0.1 * math.sin(x * 95.0) * math.sin(y * 95.0) + 0.06 * (noise(x * 14.0, y * 14.0 + z * 9.0) - 0.5)
    second = False
    gloss = 0.1
    if kind == 1:
        second = math.sin(y * 19.0 + 0.8 * math.sin(2.0 * x)) > 0.25
    elif kind == 2:
        bib = abs(x) < 0.78 and y < -2.42 + 0.05 * math.sin(3.0 * x) and z > -0.2
        strap = abs(abs(x) - 0.62) < 0.1 and z > -0.5
        second = bib or strap
    elif kind == 3:
        second = abs(x + 0.08) < 0.05 or y > -2.02
        weave, gloss = 1.0, 0.6
    c = C_SECOND if second else C_CLOTH
    return w[c] * weave, w[c + 1] * weave, w[c + 2] * weave, gloss


@njit(cache=True, error_model="numpy", fastmath=True)
def albedo(x, y, z, material, gaze_x, gaze_y, w):
    """Linear surface colour, gloss (0 to 1) and highlight exponent. The place is in head space, for clothes in the body's."""
    if material == LIPS:
        crease = 0.9 + 0.1 * noise(x * 75.0, y * 6.0)
        return w[C_LIPS] * crease, w[C_LIPS + 1] * crease, w[C_LIPS + 2] * crease, 0.4, 42.0
    if material == EYE:
        r, g, b = _eye(x, y, gaze_x, gaze_y, w)
        return r, g, b, 1.0, 260.0
    if material == TEETH:
        gap = 1.0 - 0.4 * step01(0.93, 1.0, abs(math.cos(x * 38.0)))
        return 0.78 * gap, 0.72 * gap, 0.6 * gap, 0.7, 90.0
    if material == MOUTH:
        deep = step01(0.3, 0.62, z)
        return 0.06 + 0.26 * deep, 0.014 + 0.06 * deep, 0.012 + 0.055 * deep, 0.5, 50.0
    if material == HAIR or material == BROW or material == BEARD:
        curly = int(w[P_HAIR]) == 3 or material == BEARD
        flow = (
            noise(x * 60.0 + 9.0, y * 60.0 + z * 40.0) if curly else noise(x * 55.0 + z * 34.0 + 2.0 * math.sin(4.0 * y), y * 5.0)
        )
        strand = 0.5 + 0.9 * flow * flow + 0.25 * (noise(x * 9.0 + 4.0, z * 9.0 + y * 2.0) - 0.5)
        return w[C_HAIR] * strand, w[C_HAIR + 1] * strand, w[C_HAIR + 2] * strand, 0.3, 16.0
    if material == CLOTH:
        r, g, b, gloss = _cloth(x, y, z, w)
        if y > -1.38 and int(w[P_COAT]) == 0:
            stripe = 1.0 if math.floor(math.atan2(x, z + 0.3) * 2.2 + y * 1.2) % 3 == 0 else 0.0
            knit = 0.82 + 0.18 * math.sin(math.atan2(x, z + 0.3) * 70.0) * math.sin(y * 60.0)
            r, g, b = w[C_SECOND] * knit, (w[C_SECOND + 1] + 0.22 * stripe) * knit, (w[C_SECOND + 2] + 0.3 * stripe) * knit
        return r, g, b, gloss, 14.0
    if material == HEADWEAR:
        weave = (
            0.9 + 0.1 * math.sin(x * 110.0 + z * 60.0) * math.sin(y * 110.0) + 0.12 * (noise(x * 7.0, y * 7.0 + z * 5.0) - 0.5)
        )
        return w[C_SECOND] * weave, w[C_SECOND + 1] * weave, w[C_SECOND + 2] * weave, 0.08, 9.0
    if material == GLASSES:
        return 0.03, 0.022, 0.018, 0.8, 120.0
    r, g, b = _skin(x, y, z, w)
    return r, g, b, 0.2, 22.0
