"""The performer's body as a signed distance field: one function that tells distance and material of any point.

Space: one unit is about a decimetre, x to the picture's right, y up, z towards the lens; the origin is the middle of the
head at rest. Distance operators after Quilez, "distance functions" (public article); the polynomial smooth minimum
is his quadratic one.
"""

# numba's decorators carry no types, so the compiled helpers are plain functions of floats.
import math

from numba import njit

SKIN, LIPS, EYE, BROW, HAIR, COAT, SCARF = 1, 2, 3, 4, 5, 6, 7
FAR = 1e9


@njit(cache=True, inline="always")
def ellipsoid(x, y, z, rx, ry, rz):
    """Bound of the distance to an ellipsoid at the origin with the given half axes."""
    k0 = math.sqrt((x / rx) ** 2 + (y / ry) ** 2 + (z / rz) ** 2)
    k1 = math.sqrt((x / (rx * rx)) ** 2 + (y / (ry * ry)) ** 2 + (z / (rz * rz)) ** 2)
    return k0 * (k0 - 1.0) / max(k1, 1e-6)


@njit(cache=True, inline="always")
def sphere(x, y, z, r):
    return math.sqrt(x * x + y * y + z * z) - r


@njit(cache=True, inline="always")
def capsule(x, y, z, ax, ay, az, bx, by, bz, ra, rb):
    """Distance to a segment a-b thickened by radii that blend from `ra` to `rb`."""
    px, py, pz = x - ax, y - ay, z - az
    dx, dy, dz = bx - ax, by - ay, bz - az
    h = (px * dx + py * dy + pz * dz) / (dx * dx + dy * dy + dz * dz)
    h = min(1.0, max(0.0, h))
    return sphere(px - dx * h, py - dy * h, pz - dz * h, ra + (rb - ra) * h)


@njit(cache=True, inline="always")
def smin(a, b, k):
    h = max(k - abs(a - b), 0.0) / k
    return min(a, b) - h * h * k * 0.25


@njit(cache=True, inline="always")
def smax(a, b, k):
    return -smin(-a, -b, k)


@njit(cache=True)
def body(x, y, z):
    """Distance and material of neck, coat and scarf, which stay while the head turns."""
    ax = abs(x)
    neck = capsule(x, y, z, 0.0, -0.7, -0.27, 0.0, -2.0, -0.4, 0.37, 0.44)
    shoulders = capsule(ax, y, z, 0.25, -2.22, -0.42, 1.42, -2.66, -0.5, 0.42, 0.52)
    chest = ellipsoid(x, y + 3.5, z + 0.4, 1.55, 1.5, 0.72)
    arm = capsule(ax, y, z, 1.5, -2.72, -0.5, 1.78, -4.6, -0.3, 0.5, 0.46)
    coat = smin(smin(shoulders, chest, 0.45), arm, 0.2)
    placket = abs(x + 0.08) - 0.015
    coat = smax(coat, -smax(placket, abs(coat) - 0.02, 0.01), 0.015)
    folds = 0.016 * math.sin(5.0 * y + 2.5 * ax) * math.sin(3.0 * x + 1.0)
    coat -= folds
    ring = math.sqrt(x * x + (z + 0.32) ** 2 * 1.15) - 0.56
    tilt = y + 1.72 - 0.16 * z - 0.05 * math.sin(3.0 * x)
    scarf = math.sqrt(ring * ring + tilt * tilt * 0.55) - 0.21
    angle = math.atan2(x, z + 0.3)
    scarf -= 0.022 * math.sin(angle * 9.0 + tilt * 9.0) + 0.008 * math.sin(angle * 46.0 + tilt * 20.0)
    d, m = neck, SKIN
    if coat < d:
        d, m = coat, COAT
    if scarf < d:
        d, m = scarf, SCARF
    return d * 0.85, m


@njit(cache=True)
def face(x, y, z, mouth):
    """Distance to the bare head without eyes, lids, lips and hair. `mouth` is how far it is open, in units."""
    ax = abs(x)
    jaw_drop = mouth * 0.7
    d = ellipsoid(x, y - 0.27, z + 0.18, 0.79, 0.88, 0.93)
    d = smin(d, ellipsoid(x, y + 0.33, z - 0.07, 0.62, 0.70, 0.66), 0.28)
    d = smin(d, ellipsoid(x, y + 0.86 + jaw_drop, z - 0.33, 0.30, 0.22, 0.24), 0.32)
    d = smin(d, sphere(ax - 0.37, y + 0.2, z - 0.39, 0.25), 0.28)
    d = smin(d, capsule(ax, y, z, 0.12, 0.2, 0.71, 0.5, 0.2, 0.5, 0.085, 0.07), 0.16)
    d = smax(d, -sphere(ax - 0.31, y - 0.02, z - 0.88, 0.2), 0.2)
    d = smin(d, ellipsoid(x, y + 0.6 + jaw_drop * 0.4, z - 0.58, 0.28, 0.24, 0.22), 0.2)
    d = smin(d, capsule(x, y, z, 0.0, 0.14, 0.72, 0.0, -0.22, 0.9, 0.075, 0.105), 0.11)
    d = smin(d, sphere(x, y + 0.25, z - 0.93, 0.105), 0.07)
    d = smin(d, ellipsoid(ax - 0.125, y + 0.28, z - 0.84, 0.075, 0.065, 0.1), 0.05)
    d = smax(d, -ellipsoid(ax - 0.07, y + 0.345, z - 0.91, 0.035, 0.03, 0.05), 0.03)
    d = smax(d, -ellipsoid(x, y + 0.44, z - 0.87, 0.035, 0.09, 0.05), 0.07)
    ear = ellipsoid(ax - 0.8, y + 0.03, z + 0.16, 0.075, 0.25, 0.155)
    ear = smax(ear, -ellipsoid(ax - 0.87, y + 0.02, z + 0.12, 0.05, 0.16, 0.09), 0.05)
    return smin(d, ear, 0.06)


@njit(cache=True)
def head(x, y, z, blink, mouth):
    """Distance and material of the head in its own space. `blink`: 0 open to 1 shut."""
    ax = abs(x)
    skin = face(x, y, z, mouth)

    opening = 0.088 * (1.0 - blink) + 0.002
    ex, ey, ez = ax - 0.305, y - 0.035, z - 0.575
    eye = sphere(ex, ey, ez, 0.178)
    lid = sphere(ex, ey, ez, 0.203)
    almond = abs(ey + 0.06 * ex + 0.012) - opening * math.sqrt(max(0.0, 1.0 - (ex / 0.17) ** 2))
    lid = smax(lid, -max(almond, 0.05 - ez), 0.02)
    skin = smin(skin, lid, 0.05)

    gap = mouth
    upper = ellipsoid(x, y + 0.565 - 0.018 * math.cos(x * 11.0), z - 0.77 + 0.35 * x * x, 0.22, 0.052, 0.085)
    lower = ellipsoid(x, y + 0.672 + gap, z - 0.765 + 0.3 * x * x, 0.185, 0.06, 0.09)
    lips = smin(upper, lower, 0.035)
    inside = ellipsoid(x, y + 0.613 + gap * 0.5, z - 0.86, 0.19, 0.006 + gap * 0.6, 0.12)
    lips = smax(lips, -inside, 0.02)
    skin = smax(skin, -ellipsoid(x, y + 0.613 + gap * 0.5, z - 0.8, 0.13, 0.004 + gap * 0.55, 0.14), 0.008)

    arch = 0.26 - 0.16 * (ax - 0.33) ** 2 - 0.05 * max(0.0, ax - 0.36)
    brow = capsule(ax, y, z, 0.15, arch, 0.765, 0.5, arch - 0.01, 0.60, 0.05, 0.03)
    brow -= 0.0025 * math.sin(ax * 120.0 + y * 70.0)

    strands = 0.012 * math.sin(26.0 * x + 7.0 * y) + 0.007 * math.sin(61.0 * x - 17.0 * z + 9.0 * y)
    cap = ellipsoid(x, y - 0.33, z + 0.2, 0.88, 0.97, 1.0)
    cap = smin(cap, ellipsoid(x - 0.15, y - 1.06, z - 0.42, 0.55, 0.2, 0.42), 0.25) - strands
    hairline = 0.62 + 0.1 * math.cos(3.4 * x + 0.5) - 0.9 * max(0.0, ax - 0.52)
    forward = 0.13 - 0.2 * ax
    front = min(hairline - y, z - forward)
    nape = -y - 0.42 + 0.25 * z
    hair = smax(smax(cap, front, 0.07), nape, 0.1)
    bun = sphere(x - 0.1, y - 1.05, z + 0.85, 0.36) - strands * 1.6
    hair = smin(hair, bun, 0.08)

    d, m = skin, SKIN
    if eye < d:
        d, m = eye, EYE
    if lips < d + 0.004:
        d, m = smin(lips, d, 0.03), LIPS
    if brow < d:
        d, m = brow, BROW
    if hair < d:
        d, m = hair, HAIR
    return d * 0.8, m
