"""The performers as signed distance fields: functions that tell distance and material of any point, by a Person's numbers.

Space: one unit is a decimetre, x to the picture's right, y up, z towards the lens; the origin is the middle of the
head at rest. Distance operators after Quilez, "distance functions" (public article); the polynomial smooth minimum
is his quadratic one.
"""

# numba's decorators carry no types, so the compiled helpers are plain functions of floats.
import math

from numba import njit

from sunglaze.core.camera.performer.labels import BEARD, BROW, CLOTH, EYE, GLASSES, HAIR, HEADWEAR, LIPS, MOUTH, NECK, SKIN, TEETH
from sunglaze.core.camera.performer.people import (
    P_BEARD,
    P_BROW,
    P_CHEEK,
    P_CHIN,
    P_COLLAR,
    P_EYE,
    P_GLASSES,
    P_HAIR,
    P_HEADWEAR,
    P_JAW,
    P_LIPS,
    P_MOUTH_WIDTH,
    P_NOSE_LENGTH,
    P_NOSE_WIDTH,
    P_SHOULDERS,
    P_WIDTH,
)  # fmt: skip

JAW_DROP = 0.42
"""Units that the chin falls when the mouth is wide open."""
SLEEVE = -1.05
"""Where the sleeve begins below a hand."""
FAR = 1e9


@njit(cache=True, inline="always", error_model="numpy", fastmath=True)
def ellipsoid(x, y, z, rx, ry, rz):
    """Bound of the distance to an ellipsoid at the origin with the given half axes."""
    k0 = math.sqrt((x / rx) ** 2 + (y / ry) ** 2 + (z / rz) ** 2)
    k1 = math.sqrt((x / (rx * rx)) ** 2 + (y / (ry * ry)) ** 2 + (z / (rz * rz)) ** 2)
    return k0 * (k0 - 1.0) / max(k1, 1e-6)


@njit(cache=True, inline="always", error_model="numpy", fastmath=True)
def sphere(x, y, z, r):
    return math.sqrt(x * x + y * y + z * z) - r


@njit(cache=True, inline="always", error_model="numpy", fastmath=True)
def capsule(x, y, z, ax, ay, az, bx, by, bz, ra, rb):
    """Distance to a segment a-b thickened by radii that blend from `ra` to `rb`."""
    px, py, pz = x - ax, y - ay, z - az
    dx, dy, dz = bx - ax, by - ay, bz - az
    h = (px * dx + py * dy + pz * dz) / (dx * dx + dy * dy + dz * dz)
    h = min(1.0, max(0.0, h))
    return sphere(px - dx * h, py - dy * h, pz - dz * h, ra + (rb - ra) * h)


@njit(cache=True, inline="always", error_model="numpy", fastmath=True)
def smin(a, b, k):
    h = max(k - abs(a - b), 0.0) / k
    return min(a, b) - h * h * k * 0.25


@njit(cache=True, inline="always", error_model="numpy", fastmath=True)
def smax(a, b, k):
    return -smin(-a, -b, k)


@njit(cache=True, inline="always", error_model="numpy", fastmath=True)
def step01(a, b, x):
    t = min(1.0, max(0.0, (x - a) / (b - a)))
    return t * t * (3.0 - 2.0 * t)


@njit(cache=True, error_model="numpy", fastmath=True)
def body(x, y, z, w):
    """Distance and material of neck, clothes and collar, which stay while the head turns."""
    wide = w[P_SHOULDERS]
    ax, y = abs(x), y - 0.64
    neck = capsule(x, y, z, 0.0, -0.7, -0.27, 0.0, -2.0, -0.4, 0.37 * wide, 0.45 * wide)
    shoulders = capsule(ax, y, z, 0.25, -2.2, -0.42, 1.42 * wide, -2.66, -0.5, 0.4, 0.5)
    chest = ellipsoid(x, y + 3.5, z + 0.4, 1.55 * wide, 1.5, 0.74)
    arm = capsule(ax, y, z, 1.5 * wide, -2.72, -0.5, 1.8 * wide, -4.6, -0.3, 0.5, 0.46)
    coat = smin(smin(shoulders, chest, 0.45), arm, 0.2)
    # A neckline, and a seam where the front closes.
    coat = smax(coat, -ellipsoid(x, y + 1.72, z - 0.25, 0.5, 0.42, 0.62), 0.06)
    coat = smax(coat, -smax(abs(x + 0.08) - 0.012, abs(coat) - 0.02, 0.01), 0.012)
    coat -= 0.014 * math.sin(5.0 * y + 2.5 * ax) * math.sin(3.0 * x + 1.0) + 0.01 * math.sin(2.1 * y - 4.0 * x)
    # Below a scarf the coat is closed over the skin.
    bare = 0.26 if w[P_COLLAR] > 0.5 else 0.5
    d, m = smin(neck, ellipsoid(x, y + 2.35, z + 0.28, 0.75, 0.5, bare), 0.2), NECK
    if coat < d:
        d, m = coat, CLOTH
    if w[P_COLLAR] > 0.5:
        ring = math.sqrt(x * x + (z + 0.32) ** 2 * 1.15) - 0.56
        tilt = y + 1.72 - 0.16 * z - 0.05 * math.sin(3.0 * x)
        scarf = math.sqrt(ring * ring + tilt * tilt * 0.55) - 0.21
        angle = math.atan2(x, z + 0.3)
        scarf -= 0.02 * math.sin(angle * 7.0 + tilt * 9.0) + 0.012 * math.sin(angle * 3.0 - tilt * 14.0)
        if scarf < d:
            d, m = scarf, CLOTH
    return d * 0.85, m


@njit(cache=True, error_model="numpy", fastmath=True)
def face(x, y, z, mouth, w):
    """Distance to the bare head without lids, lips and hair. `mouth`: 0 shut to 1 wide open."""
    x = x / w[P_WIDTH]
    ax = abs(x)
    drop = mouth * JAW_DROP
    jaw, chin, cheek = w[P_JAW], w[P_CHIN], w[P_CHEEK]
    nose, length = w[P_NOSE_WIDTH], w[P_NOSE_LENGTH]
    d = ellipsoid(x, y - 0.27, z + 0.18, 0.79, 0.88, 0.93)
    d = smin(d, ellipsoid(x, y + 0.27 + drop * 0.35, z - 0.07, 0.64 * jaw, 0.64 + drop * 0.3, 0.66), 0.28)
    d = smin(d, ellipsoid(x, y + 0.72 + drop, z - 0.36 + drop * 0.18, 0.3 * chin * jaw, 0.2 * chin, 0.24), 0.32)
    d = smin(d, sphere(ax - 0.37, y + 0.2, z - 0.39, 0.25 * cheek), 0.28)
    d = smin(d, capsule(ax, y, z, 0.12, 0.2, 0.71, 0.5, 0.2, 0.5, 0.085, 0.07), 0.16)
    d = smax(d, -sphere(ax - 0.31, y - 0.02, z - 0.88, 0.2), 0.2)
    d = smin(d, ellipsoid(x, y + 0.52 + drop * 0.4, z - 0.58, 0.28, 0.22 + drop * 0.3, 0.22), 0.2)
    tip = -0.24 * length
    d = smin(d, capsule(x, y, z, 0.0, 0.14, 0.72, 0.0, tip + 0.02, 0.9, 0.072, 0.1 * math.sqrt(nose)), 0.11)
    d = smin(d, ellipsoid(x, y - tip, z - 0.92, 0.1 * nose, 0.095, 0.105), 0.07)
    d = smin(d, ellipsoid(ax - 0.122 * nose, y - tip + 0.035, z - 0.83, 0.072 * nose, 0.065, 0.1), 0.05)
    d = smax(d, -ellipsoid(ax - 0.066 * nose, y - tip + 0.1, z - 0.91, 0.034 * nose, 0.028, 0.05), 0.03)
    d = smax(d, -ellipsoid(x, y + 0.4, z - 0.87, 0.035, 0.07, 0.05), 0.07)
    ear = ellipsoid(ax - 0.8, y + 0.03, z + 0.16, 0.075, 0.25, 0.155)
    ear = smax(ear, -ellipsoid(ax - 0.87, y + 0.02, z + 0.12, 0.05, 0.16, 0.09), 0.05)
    return smin(d, ear, 0.06) * min(1.0, w[P_WIDTH])


@njit(cache=True, error_model="numpy", fastmath=True)
def eyes(x, y, z, blink, w):
    """Distance to the eyeballs, and to the lids that are blended into the skin. `blink`: 0 open to 1 shut."""
    ax = abs(x)
    opening = 0.068 * w[P_EYE] * (1.0 - blink) + 0.002
    ex, ey, ez = ax - 0.305 * w[P_WIDTH], y - 0.035, z - 0.575
    eye = sphere(ex, ey, ez, 0.178)
    lid = sphere(ex, ey, ez, 0.2)
    almond = abs(ey + 0.06 * ex + 0.012) - opening * math.sqrt(max(0.0, 1.0 - (ex / 0.172) ** 2))
    return eye, smax(lid, -max(almond, 0.05 - ez), 0.02)


@njit(cache=True, error_model="numpy", fastmath=True)
def _cap(x, y, z, w):
    """The crown that hair and headwear follow."""
    return ellipsoid(x / w[P_WIDTH], y - 0.33, z + 0.2, 0.88, 0.95, 1.0)


@njit(cache=True, error_model="numpy", fastmath=True)
def hair(x, y, z, w):
    """Distance to the hair; far away where there is none."""
    kind = int(w[P_HAIR])
    ax = abs(x)
    if kind == 0:
        return FAR
    strands = 0.008 * math.sin(34.0 * x + 7.0 * y + 3.0 * math.sin(4.0 * z)) + 0.005 * math.sin(67.0 * x - 17.0 * z + 9.0 * y)
    hairline = 0.62 + 0.1 * math.cos(3.4 * x + 0.5) - 0.9 * max(0.0, ax - 0.52)
    front = min(hairline - y, z - 0.13 + 0.2 * ax)
    nape = -y - 0.42 + 0.25 * z
    cap = _cap(x, y, z, w)
    if kind == 1:
        fine = 0.006 * math.sin(90.0 * x + 20.0 * y) * math.sin(80.0 * z)
        return smax(smax(cap + 0.055 - fine, front - 0.02, 0.05), nape, 0.08)
    if kind == 2:
        wave = 0.02 * math.sin(9.0 * y + 3.0 * ax) + strands
        parting = 0.05 * math.exp(-((x + 0.12) ** 2) * 120.0) * step01(0.3, 1.0, y)
        top = smax(cap - 0.04 - strands + parting, min(front, hairline - y + 0.05), 0.07)
        side = ellipsoid(ax - 0.83 * w[P_WIDTH], y + 0.62, z + 0.12, 0.22, 1.5, 0.42) - wave
        back = ellipsoid(x, y + 0.55, z + 0.78, 0.86, 1.55, 0.4) - wave
        fall = smax(smin(side, back, 0.3), y - 0.7, 0.2)
        opening = ellipsoid(x, y + 0.2, z - 0.7, 0.69 * w[P_WIDTH], 1.0, 0.75)
        return smin(top, smax(fall, -opening, 0.1), 0.2)
    if kind == 3:
        bumps = math.sin(11.0 * x + 1.3) * math.sin(12.0 * y + 0.4) * math.sin(11.5 * z + 2.0)
        curls = math.sin(31.0 * x + 2.0 * bumps) * math.sin(29.0 * y - bumps) * math.sin(33.0 * z)
        cloud = ellipsoid(x, y - 0.42, z + 0.3, 1.16, 1.12, 1.08) - 0.075 * bumps - 0.035 * curls
        low = -y - 0.55 + 0.1 * z
        return smax(smax(cloud, min(hairline + 0.04 - y, z - 0.3 + 0.3 * ax), 0.12), low, 0.15)
    cap = smin(cap, ellipsoid(x - 0.15, y - 1.06, z - 0.42, 0.55, 0.2, 0.42), 0.25) - strands
    made = smax(smax(cap, front, 0.07), nape, 0.1)
    bun = sphere(x - 0.1, y - 1.05, z + 0.85, 0.36) - strands * 1.6
    return smin(made, bun, 0.08)


@njit(cache=True, error_model="numpy", fastmath=True)
def headwear(x, y, z, mouth, w):
    """Distance to what is worn on the head. A scarf gives way to the chin as the mouth opens."""
    kind = int(w[P_HEADWEAR])
    if kind == 0:
        return FAR
    cap = _cap(x, y, z, w)
    if kind == 1:
        # A flat cap with a peak.
        crown = ellipsoid(x, y - 0.72, z + 0.16, 1.0, 0.52, 1.12)
        crown = smax(crown, 0.62 - 0.06 * z - y, 0.05)
        band = smax(cap - 0.04, abs(y - 0.66 + 0.06 * z) - 0.12, 0.03)
        peak = ellipsoid(x, y - 0.6 - 0.1 * (z - 0.9), z - 0.82, 0.6, 0.045, 0.42)
        return smin(smin(crown, band, 0.08), peak, 0.05) - 0.004 * math.sin(40.0 * x) * math.sin(40.0 * z)
    folds = 0.016 * math.sin(7.0 * y + 9.0 * x + 4.0 * z) + 0.01 * math.sin(17.0 * (y - 0.5 * abs(x)))
    hood = ellipsoid(x / w[P_WIDTH], y - 0.18, z + 0.22, 0.98, 1.14, 1.08)
    drop = mouth * JAW_DROP
    under = ellipsoid(x, y + 0.98 + 0.25 * drop, z - 0.02 - 0.04 * drop, 0.7, 0.42 + 0.3 * drop, 0.62 + 0.02 * drop)
    drape = ellipsoid(x, y + 1.75, z + 0.2, 0.95, 0.55, 0.75)
    cloth = smin(smin(hood, under, 0.35), drape, 0.3) - folds
    opening = ellipsoid(x / w[P_WIDTH], y + 0.12, z - 0.95, 0.66, 0.84, 0.85)
    return smax(cloth, -opening, 0.06)


@njit(cache=True, error_model="numpy", fastmath=True)
def head(x, y, z, blink, mouth, w):
    """Distance and material of the head in its own space. `blink`: 0 open to 1 shut; `mouth`: 0 shut to 1 wide open."""
    ax = abs(x)
    bare = face(x, y, z, mouth, w)
    eye, lid = eyes(x, y, z, blink, w)
    skin = smin(bare, lid, 0.05)

    gap = mouth * JAW_DROP
    thick, wide = w[P_LIPS], w[P_MOUTH_WIDTH]
    curve = 1.0 - 0.12 * mouth
    upper = ellipsoid(
        x,
        y + 0.497 - 0.014 * math.cos(x * 12.0) - 0.7 * x * x,
        z - 0.785 + 0.35 * x * x,
        0.215 * wide * curve,
        0.037 * thick,
        0.078,
    )
    lower = ellipsoid(
        x, y + 0.567 - 0.8 * x * x + gap * 0.92, z - 0.775 + 0.3 * x * x + gap * 0.16, 0.18 * wide * curve, 0.046 * thick, 0.082
    )
    corner = capsule(
        ax, y, z, 0.19 * wide * curve, -0.485 - gap * 0.16, 0.72, 0.175 * wide * curve, -0.53 - gap * 0.76, 0.72, 0.032, 0.032
    )
    lips = smin(upper, lower, 0.035)
    lips = smin(lips, corner, 0.04) if mouth > 0.02 else lips
    middle = y + 0.525 + gap * 0.46
    hole = cavity = FAR
    if mouth > 0.02:
        hole = ellipsoid(x, middle, z - 0.84, 0.185 * wide * curve, 0.01 + gap * 0.46, 0.2)
        lips = smax(lips, -hole, 0.02)
        cavity = ellipsoid(x, middle, z - 0.6, 0.2 * wide, 0.01 + gap * 0.54, 0.34)
        skin = smax(skin, -hole, 0.012)
        skin = smax(skin, -cavity, 0.01)

    d, m = skin, SKIN
    if abs(cavity) < 0.03 and z < 0.66 and mouth > 0.02 and skin > cavity - 0.03:
        m = MOUTH
    if eye < d:
        d, m = eye, EYE
    if mouth > 0.02:
        arch = 0.66 - 1.1 * x * x
        teeth = max(abs(y + 0.535) - 0.055, abs(z - arch) - 0.025)
        teeth = smax(teeth, ax - 0.165 * wide, 0.03)
        below = max(abs(y + 0.575 + gap * 0.9) - 0.045, abs(z - arch + 0.05) - 0.025)
        below = smax(below, ax - 0.14 * wide, 0.03)
        teeth = min(teeth, below) - 0.004 - 0.006 * abs(math.sin(x * 38.0))
        if teeth < d:
            d, m = teeth, TEETH
        tongue = ellipsoid(x, y + 0.64 + gap * 0.8, z - 0.46, 0.13, 0.1, 0.22)
        if tongue < d:
            d, m = tongue, MOUTH
    if lips < d + 0.004:
        d, m = smin(lips, d, 0.03), LIPS
    heavy = w[P_BROW]
    arch = 0.2 + 0.07 * min(ax - 0.15, 0.22) - 0.12 * max(0.0, ax - 0.4)
    brow = capsule(ax / w[P_WIDTH], y, z, 0.15, arch, 0.765, 0.5, arch - 0.01, 0.60, 0.046 * heavy, 0.026 * heavy)
    brow -= 0.004 * math.sin(ax * 120.0 + y * 90.0)
    if brow < d:
        d, m = brow, BROW
    kind = int(w[P_BEARD])
    if kind > 0:
        curl = (
            0.006
            * math.sin(61.0 * x + 23.0 * y + 3.0 * math.sin(19.0 * y))
            * math.sin(53.0 * y - 19.0 * z + 4.0 * math.sin(23.0 * x))
        )
        away = -min(upper, lower) + 0.028
        if kind == 1:
            line = y + 0.36 + 0.55 * max(0.0, 0.5 - ax) * step01(0.1, 0.7, z) - 0.75 * max(0.0, ax - 0.5)
            beard = smax(smax(bare - 0.06 - curl, line, 0.08), away, 0.03)
            beard = smax(beard, -hole, 0.02)
        else:
            beard = smax(smax(bare - 0.035 - curl * 0.6, abs(y + 0.408 + 0.25 * ax * ax) - 0.05, 0.03), ax - 0.27, 0.04)
            beard = smax(smax(beard, 0.5 - z, 0.02), away, 0.02)
        if beard < d:
            d, m = beard, BEARD
    tress = hair(x, y, z, w)
    if tress < d:
        d, m = tress, HAIR
    worn = headwear(x, y, z, mouth, w)
    if mouth > 0.02:
        worn = max(worn, 0.04 - cavity)
    if worn < d:
        d, m = worn, HEADWEAR
    if w[P_GLASSES] > 0.5:
        ex, ey = ax - 0.31, y - 0.0
        ring = math.sqrt(ex * ex * 0.86 + ey * ey * 1.1) - 0.225
        frame = math.sqrt(ring * ring + (z - 0.86 + 0.3 * ex * ex) ** 2) - 0.02
        frame = min(frame, capsule(ax, y, z, 0.0, 0.06, 0.93, 0.1, 0.05, 0.89, 0.018, 0.018))
        frame = min(frame, capsule(ax, y, z, 0.55, 0.05, 0.82, 0.82 * w[P_WIDTH], 0.05, -0.1, 0.018, 0.018))
        if frame < d:
            d, m = frame, GLASSES
    return d * 0.8, m


@njit(cache=True, error_model="numpy", fastmath=True)
def hand(x, y, z):
    """Distance to an open right hand, palm towards +z, fingers up; the wrist is at the origin."""
    palm = ellipsoid(x, y - 0.46, z, 0.4, 0.5, 0.14)
    d = palm
    for n in range(4):
        at = -0.29 + 0.195 * n
        long = 0.62 - 0.07 * abs(n - 1.4) ** 1.5
        lean = 0.16 * (n - 1.5) / 1.5
        d = smin(d, capsule(x, y, z, at, 0.8, 0.0, at + lean, 0.86 + long, 0.05, 0.095, 0.07), 0.06)
    d = smin(d, capsule(x, y, z, 0.3, 0.3, 0.03, 0.62, 0.78, 0.12, 0.12, 0.085), 0.1)
    d = smin(d, capsule(x, y, z, 0.0, 0.2, 0.0, 0.0, -0.9, -0.1, 0.23, 0.26), 0.12)
    return min(d, capsule(x, y, z, 0.0, SLEEVE, -0.08, 0.0, -5.0, -0.6, 0.33, 0.44)) * 0.9
