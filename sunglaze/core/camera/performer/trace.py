"""Trace one frame of the performer before the harbour: colour and exact coverage. Offline only; see bake.py.

Shading is a key light with a soft shadow, a sky fill with occlusion, wrapped diffuse light for skin (a stand-in for
scattering under it) and a Blinn highlight. Colours below are linear light; the frame is written sRGB-encoded.
"""

import math

import numpy as np
from numba import njit, prange

from sunglaze.core.camera.performer.shapes import BROW, COAT, EYE, HAIR, LIPS, SKIN, body, head

LENS_Z = 8.6
FOCAL = 4.75  # in half widths of a 9:16 frame


@njit(cache=True, inline="always")
def _smooth(a, b, x):
    t = min(1.0, max(0.0, (x - a) / (b - a)))
    return t * t * (3.0 - 2.0 * t)


@njit(cache=True, inline="always")
def _hash(x, y):
    h = (int(x) * 374761393 + int(y) * 668265263) & 0xFFFFFFFF
    h = ((h ^ (h >> 13)) * 1274126177) & 0xFFFFFFFF
    return ((h ^ (h >> 16)) & 0xFFFF) / 65535.0


@njit(cache=True)
def _value_noise(x, y):
    ix, iy = math.floor(x), math.floor(y)
    fx, fy = x - ix, y - iy
    fx, fy = fx * fx * (3 - 2 * fx), fy * fy * (3 - 2 * fy)
    low = _hash(ix, iy) * (1 - fx) + _hash(ix + 1, iy) * fx
    high = _hash(ix, iy + 1) * (1 - fx) + _hash(ix + 1, iy + 1) * fx
    return low * (1 - fy) + high * fy


@njit(cache=True)
def scene(x, y, z, pose):
    """Distance and material. `pose`: rotation (9, row by row), shift (3), blink, mouth, lean, gaze (2)."""
    d, m = body(x - pose[14], y, z)
    hx, hy, hz = x - pose[9], y - pose[10], z - pose[11]
    # A ball around the head spares most of the field's evaluations.
    ball = math.sqrt(hx * hx + (hy - 0.1) ** 2 + (hz + 0.1) ** 2) - 1.75
    if ball > 0.3:
        return min(d, ball), m
    lx = pose[0] * hx + pose[3] * hy + pose[6] * hz
    ly = pose[1] * hx + pose[4] * hy + pose[7] * hz
    lz = pose[2] * hx + pose[5] * hy + pose[8] * hz
    dh, mh = head(lx, ly, lz, pose[12], pose[13])
    if m == SKIN and mh == SKIN and abs(d - dh) < 0.16:
        h = max(0.16 - abs(d - dh), 0.0) / 0.16
        return min(d, dh) - h * h * 0.04, SKIN
    if dh < d:
        return dh, mh
    return d, m


@njit(cache=True)
def backdrop(u, v, phase):
    """The harbour at dusk, out of focus: linear colour at picture coordinates (u right, v down, 0 to 1)."""
    sky = _smooth(0.0, 0.62, v)
    r = 0.16 + 0.62 * sky
    g = 0.27 + 0.33 * sky
    b = 0.46 + 0.06 * sky
    cloud = _value_noise(u * 3.0 + 5.0, v * 11.0) * 0.6 + _value_noise(u * 7.0, v * 26.0) * 0.4
    lift = 0.3 * _smooth(0.45, 0.8, cloud) * _smooth(0.6, 0.1, abs(v - 0.3))
    r, g, b = r + lift * 0.8, g + lift * 0.55, b + lift * 0.5
    sun = math.exp(-((u - 0.14) ** 2 * 14.0 + (v - 0.56) ** 2 * 40.0))
    r, g, b = r + 0.75 * sun, g + 0.4 * sun, b + 0.1 * sun
    ridge = 0.578 - 0.05 * _smooth(0.45, 1.0, u) - 0.012 * math.sin(u * 19.0) - 0.02 * _smooth(0.3, 0.0, u)
    hill = _smooth(ridge - 0.006, ridge + 0.006, v)
    r, g, b = r + (0.15 - r) * hill, g + (0.16 - g) * hill, b + (0.25 - b) * hill
    tower = _smooth(0.024, 0.017, abs(u - 0.855) + 0.02 * (v - 0.46)) * _smooth(0.405, 0.411, v)
    band = 1.0 if math.floor((v - 0.4) * 22.0) % 2 == 0 else 0.35
    r, g, b = r + (0.62 - r) * tower, g + (0.62 * band - g + 0.06) * tower, b + (0.6 * band - b + 0.06) * tower
    lamp = math.exp(-((u - 0.855) ** 2 * 2500.0 + (v - 0.398) ** 2 * 6000.0))
    glow = 0.7 + 0.3 * math.sin(phase)
    r, g, b = r + 1.6 * lamp * glow, g + 1.2 * lamp * glow, b + 0.55 * lamp * glow
    sea = _smooth(0.6, 0.609, v)
    depth = max(0.0, (v - 0.6) / 0.4)
    swell = math.sin(v * 260.0 / (0.6 + depth) + 3.0 * math.sin(u * 9.0 + phase)) * 0.5 + 0.5
    spark = swell**3 * _value_noise(u * 22.0, v * 90.0) * _smooth(0.55, 0.0, abs(u - 0.14))
    sr, sg, sb = 0.07 + 0.08 * (1 - depth) + 0.55 * spark, 0.13 + 0.07 * (1 - depth) + 0.33 * spark, 0.19 + 0.13 * spark
    r, g, b = r + (sr - r) * sea, g + (sg - g) * sea, b + (sb - b) * sea
    quay = _smooth(0.792, 0.8, v + 0.03 * u)
    plank = 0.8 + 0.2 * math.sin(u * 40.0 + v * 90.0)
    r, g, b = r + (0.17 * plank - r) * quay, g + (0.115 * plank - g) * quay, b + (0.085 * plank - b) * quay
    # Bunting of the festival, three flags in four.
    rope = 0.075 + 0.16 * (u - 0.5) ** 2
    cell = u * 7.0
    index = math.floor(cell)
    across = abs(cell - index - 0.5)
    drop = v - rope - 0.006 * math.sin(phase + index * 1.7)
    inside = _smooth(0.03, -0.03, across - 0.42 * (1.0 - drop / 0.075)) * _smooth(-0.003, 0.003, drop)
    line = _smooth(0.004, 0.0015, abs(v - rope))
    pick = int(index) % 4
    fr, fg, fb = 0.75, 0.68, 0.55
    if pick == 0:
        fr, fg, fb = 0.62, 0.09, 0.05
    elif pick == 1:
        fr, fg, fb = 0.78, 0.42, 0.04
    elif pick == 2:
        fr, fg, fb = 0.06, 0.28, 0.3
    fold = 0.85 + 0.15 * math.sin(across * 8.0 + phase)
    r, g, b = r + (fr * fold - r) * inside, g + (fg * fold - g) * inside, b + (fb * fold - b) * inside
    return r * (1 - 0.7 * line), g * (1 - 0.7 * line), b * (1 - 0.7 * line)


@njit(cache=True)
def _normal(x, y, z, pose):
    e = 0.0035
    a = scene(x + e, y - e, z - e, pose)[0]
    b = scene(x - e, y - e, z + e, pose)[0]
    c = scene(x - e, y + e, z - e, pose)[0]
    d = scene(x + e, y + e, z + e, pose)[0]
    nx, ny, nz = a - b - c + d, -a - b + c + d, -a + b - c + d
    n = max(1e-9, math.sqrt(nx * nx + ny * ny + nz * nz))
    return nx / n, ny / n, nz / n


@njit(cache=True)
def _shadow(x, y, z, lx, ly, lz, pose):
    """Share of the key light that arrives, 0 to 1, with a penumbra."""
    lit, t = 1.0, 0.06
    for _ in range(28):
        d = scene(x + lx * t, y + ly * t, z + lz * t, pose)[0]
        lit = min(lit, 0.5 + 0.5 * d * 9.0 / t)
        if lit < 0.0 or t > 4.0:
            break
        t += min(0.3, max(0.03, d))
    lit = max(0.0, lit)
    return lit * lit * (3.0 - 2.0 * lit)


@njit(cache=True)
def _albedo(x, y, z, material, pose):
    """Linear surface colour, gloss (0 to 1) and highlight exponent at a point."""
    hx, hy, hz = x - pose[9], y - pose[10], z - pose[11]
    lx = pose[0] * hx + pose[3] * hy + pose[6] * hz
    ly = pose[1] * hx + pose[4] * hy + pose[7] * hz
    lz = pose[2] * hx + pose[5] * hy + pose[8] * hz
    if material == SKIN:
        mottle = _value_noise(lx * 9.0 + 40.0, ly * 9.0 + lz * 5.0) - 0.5
        flush = math.exp(-((abs(lx) - 0.38) ** 2 + (ly + 0.24) ** 2) * 16.0) * (1.0 if lz > 0 else 0.0)
        nose = math.exp(-(lx * lx + (ly + 0.26) ** 2) * 50.0) * (1.0 if lz > 0.5 else 0.0)
        socket = math.exp(-((abs(lx) - 0.3) ** 2 * 22.0 + (ly - 0.03) ** 2 * 40.0)) * (1.0 if lz > 0.3 else 0.0)
        red = 0.5 + 0.03 * mottle + 0.05 * flush + 0.04 * nose - 0.1 * socket
        return (
            red,
            0.268 + 0.02 * mottle - 0.025 * flush - 0.02 * nose - 0.075 * socket,
            0.17 - 0.05 * socket - 0.02 * flush,
            0.2,
            26.0,
        )
    if material == LIPS:
        seam = _smooth(0.03, 0.0, abs(ly + 0.613 + pose[13] * 0.5))
        return 0.36 * (1 - 0.75 * seam), 0.11 * (1 - 0.8 * seam), 0.095 * (1 - 0.8 * seam), 0.35, 40.0
    if material == EYE:
        side = 1.0 if lx > 0 else -1.0
        ex, ey = lx - 0.305 * side - pose[15], ly - 0.035 - pose[16]
        r = math.sqrt(ex * ex + ey * ey)
        iris = _smooth(0.093, 0.083, r)
        pupil = _smooth(0.04, 0.034, r)
        ring = _smooth(0.06, 0.09, r)
        rays = 0.75 + 0.25 * math.sin(math.atan2(ey, ex) * 22.0)
        red = 0.72 + (0.13 * rays * (1 - 0.7 * ring) - 0.72) * iris
        green = 0.68 + (0.085 * rays * (1 - 0.7 * ring) - 0.68) * iris
        blue = 0.63 + (0.04 * rays * (1 - 0.7 * ring) - 0.63) * iris
        shade = 1.0 - 0.5 * _smooth(0.03, 0.1, ly - 0.035)
        return red * (1 - pupil) * shade, green * (1 - pupil) * shade, blue * (1 - pupil) * shade, 1.0, 240.0
    if material == HAIR or material == BROW:
        strand = 0.55 + 0.45 * math.sin(26.0 * lx + 7.0 * ly) * math.sin(71.0 * lx - 17.0 * lz + 9.0 * ly)
        return 0.075 * strand + 0.016, 0.036 * strand + 0.010, 0.018 * strand + 0.007, 0.3, 18.0
    if material == COAT:
        weave = 0.9 + 0.1 * math.sin(x * 90.0) * math.sin(y * 90.0)
        return 0.028 * weave, 0.10 * weave, 0.135 * weave, 0.16, 12.0
    stripe = 1.0 if math.floor(math.atan2(x, z + 0.3) * 2.2 + y * 1.2) % 3 == 0 else 0.0
    knit = 0.82 + 0.18 * math.sin(math.atan2(x, z + 0.3) * 70.0) * math.sin(y * 60.0)
    return (0.56 + 0.05 * stripe) * knit, (0.25 + 0.24 * stripe) * knit, (0.045 + 0.28 * stripe) * knit, 0.05, 8.0


@njit(cache=True)
def sample(px, py, width, height, pose, phase, out):
    """Linear colour of one ray through picture position (px, py) into `out`; returns the material, 0 for the backdrop."""
    half = width * 0.5
    dx, dy, dz = (px - half) / half / FOCAL, -(py - height * 0.425) / half / FOCAL, -1.0
    n = math.sqrt(dx * dx + dy * dy + 1.0)
    dx, dy, dz = dx / n, dy / n, dz / n
    t, material = LENS_Z - 2.6, 0
    for _ in range(90):
        d, m = scene(dx * t, dy * t, LENS_Z + dz * t, pose)
        if d < 0.0012 * t * 0.2:
            material = m
            break
        t += d
        if t > LENS_Z + 3.0:
            break
    u, v = px / width, py / height
    if material == 0:
        out[0], out[1], out[2] = backdrop(u, v, phase)
        return 0
    x, y, z = dx * t, dy * t, LENS_Z + dz * t
    nx, ny, nz = _normal(x, y, z, pose)
    r, g, b, gloss, power = _albedo(x, y, z, material, pose)

    kx, ky, kz = -0.60, 0.42, 0.68  # key: the low sun, from the left
    wrap = 0.32 if material == SKIN or material == LIPS else 0.0
    facing = nx * kx + ny * ky + nz * kz
    lit = _shadow(x + nx * 0.02, y + ny * 0.02, z + nz * 0.02, kx, ky, kz, pose)
    key = max(0.0, (facing + wrap) / (1 + wrap)) * (lit if facing > 0 else lit * 0.5 + 0.2)
    bleed = max(0.0, 0.35 - abs(facing - 0.05)) * wrap * 0.45  # red rim of the terminator on skin

    near = scene(x + nx * 0.1, y + ny * 0.1, z + nz * 0.1, pose)[0] / 0.1
    far = scene(x + nx * 0.35, y + ny * 0.35, z + nz * 0.35, pose)[0] / 0.35
    open_sky = min(1.0, max(0.15, 0.45 * near + 0.55 * far + 0.12))
    sky = (0.55 + 0.45 * ny) * open_sky
    front = max(0.0, nz) * open_sky
    ground = (0.5 - 0.5 * ny) * open_sky
    rim = max(0.0, nx * 0.86 + ny * 0.3 - nz * 0.42) ** 2 * open_sky

    hx, hy, hz = kx - dx, ky - dy, kz - dz
    hn = math.sqrt(hx * hx + hy * hy + hz * hz)
    shine = max(0.0, (nx * hx + ny * hy + nz * hz) / hn) ** power * gloss * lit * (power + 8.0) / 60.0
    graze = (1.0 - max(0.0, -(nx * dx + ny * dy + nz * dz))) ** 5 * gloss * open_sky

    lr = 1.75 * key + 0.34 * sky + 0.42 * front + 0.13 * ground + 0.5 * rim + 0.5 * bleed
    lg = 1.38 * key + 0.43 * sky + 0.42 * front + 0.10 * ground + 0.6 * rim + 0.08 * bleed
    lb = 1.02 * key + 0.58 * sky + 0.42 * front + 0.08 * ground + 0.8 * rim + 0.05 * bleed
    out[0] = r * lr + 0.55 * shine + 0.5 * graze * 0.55
    out[1] = g * lg + 0.48 * shine + 0.5 * graze * 0.6
    out[2] = b * lb + 0.40 * shine + 0.5 * graze * 0.7
    return material


@njit(cache=True, parallel=True)
def trace(width, height, pose, phase):
    """Frame (height, width, 3) linear float32, and coverage (height, width) of the person, 0 to 1.

    One ray a pixel, then a 4 by 4 grid of rays where the material changes within one pixel.
    """
    frame = np.zeros((height, width, 3), np.float32)
    coverage = np.zeros((height, width), np.float32)
    material = np.zeros((height, width), np.int32)
    for row in prange(height):
        colour = np.zeros(3)
        for column in range(width):
            material[row, column] = sample(column + 0.5, row + 0.5, width, height, pose, phase, colour)
            frame[row, column] = colour
            coverage[row, column] = 1.0 if material[row, column] else 0.0
    for row in prange(1, height - 1):
        colour = np.zeros(3)
        for column in range(1, width - 1):
            here = material[row, column]
            edge = False
            for j in range(-1, 2):
                for i in range(-1, 2):
                    edge = edge or material[row + j, column + i] != here
            if edge:
                total, hits = np.zeros(3), 0
                for j in range(4):
                    for i in range(4):
                        x, y = column + (i + 0.5) / 4, row + (j + 0.5) / 4
                        hits += 1 if sample(x, y, width, height, pose, phase, colour) else 0
                        for c in range(3):
                            total[c] += min(colour[c], 1.2)
                for c in range(3):
                    frame[row, column, c] = total[c] / 16
                coverage[row, column] = hits / 16
    return frame, coverage
