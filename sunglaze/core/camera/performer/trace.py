"""Trace one frame of a performer alone: colour of the surface, and what of each light arrives. Offline only; see bake.py.

Three lights are kept apart, so that the light is chosen when a take is played: a key with soft shadows and its highlight, the
sky with occlusion, and a rim from behind. Skin is lit by wrapped diffuse light, a stand-in for scattering under it.
"""

import math

import numpy as np
from numba import njit, prange

from sunglaze.core.camera.performer.fields import BODY_STEP, HEAD_STEP, body_distance, exact_here, head_distance, material_of
from sunglaze.core.camera.performer.labels import CLOTH, HAND, LIPS, NECK, NOTHING, SKIN
from sunglaze.core.camera.performer.shapes import SLEEVE, hand, step01
from sunglaze.core.camera.performer.surface import albedo, relief
from sunglaze.core.camera.takes import FOCAL, LENS_Z, MIDDLE_ROW

KEY = (-0.5, 0.52, 0.69)
(
    M_SHIFT, M_BLINK, M_MOUTH, M_LEAN, M_GAZE, M_NEAR, M_HANDS, M_RIGHT, M_LEFT,
) = (9, 12, 13, 14, 15, 17, 18, 19, 23)  # fmt: skip
"""Places in a pose: rotation (9, row by row), shift (3), blink, mouth, lean, gaze (2), nearer, hands seen, right and left hand
(x, y, z, roll in radians)."""
POSE_LENGTH = 27
RAYS = 2
"""Rays each way in a pixel where the material changes."""
ALBEDO, LIT, SKY, RIM, DEPTH = 0, 3, 4, 5, 6


@njit(cache=True, inline="always", error_model="numpy", fastmath=True)
def _to_head(x, y, z, pose):
    hx, hy, hz = x - pose[M_SHIFT], y - pose[M_SHIFT + 1], z - pose[M_SHIFT + 2]
    return (
        pose[0] * hx + pose[3] * hy + pose[6] * hz,
        pose[1] * hx + pose[4] * hy + pose[7] * hz,
        pose[2] * hx + pose[5] * hy + pose[8] * hz,
    )


@njit(cache=True, inline="always", error_model="numpy", fastmath=True)
def _from_head(x, y, z, pose):
    """A direction of head space in the scene's."""
    return (
        pose[0] * x + pose[1] * y + pose[2] * z,
        pose[3] * x + pose[4] * y + pose[5] * z,
        pose[6] * x + pose[7] * y + pose[8] * z,
    )


@njit(cache=True, inline="always", error_model="numpy", fastmath=True)
def _to_hand(x, y, z, pose, at, side):
    hx, hy = x - pose[at], y - pose[at + 1]
    c, s = math.cos(pose[at + 3]), math.sin(pose[at + 3])
    return side * (c * hx + s * hy), -s * hx + c * hy, z - pose[at + 2]


@njit(cache=True, error_model="numpy", fastmath=True)
def _with_hands(x, y, z, d, part, pose):
    for n in range(2):
        at = M_RIGHT if n == 0 else M_LEFT
        hx, hy, hz = _to_hand(x, y, z, pose, at, 1.0 if n == 0 else -1.0)
        along = hy - min(1.2, max(-5.0, hy))
        near = math.sqrt(hx * hx + along * along + hz * hz) - 1.0
        if near < d:
            near = near + 0.1 if near > 0.1 else hand(hx, hy, hz)
            if near < d:
                d, part = near, 2 + n
    return d, part


@njit(cache=True, error_model="numpy", fastmath=True)
def scene(x, y, z, pose, w, heads, trunk, fine):
    """Distance, and what is nearest: 0 the body, 1 the head, 2 and 3 the hands."""
    d = body_distance(x - pose[M_LEAN], y, z - pose[M_NEAR], trunk)
    part = 0
    # A ball around head and hair spares most of the head's evaluations.
    hx, hy, hz = x - pose[M_SHIFT], y - pose[M_SHIFT + 1] + 0.35, z - pose[M_SHIFT + 2]
    ball = math.sqrt(hx * hx + hy * hy + hz * hz) - 2.15
    if ball > 0.8:
        if ball < d:
            d, part = ball, 1
        return (d, part) if pose[M_HANDS] < 0.5 else _with_hands(x, y, z, d, part, pose)
    lx, ly, lz = _to_head(x, y, z, pose)
    dh = head_distance(lx, ly, lz, pose[M_BLINK], pose[M_MOUTH], w, heads, fine)
    if pose[M_MOUTH] > 0.1 and lx * lx / 0.05 + (ly + 0.72) ** 2 / 0.16 + (lz - 0.5) ** 2 / 0.16 < 1.0:
        d = dh + 1.0  # nothing of the clothes within the mouth
    merge = step01(-0.42, -0.62, ly) * step01(0.55, 0.3, lz) * 0.16
    if abs(d - dh) < merge:
        h = (merge - abs(d - dh)) / merge
        part = 1 if dh < d else 0
        d = min(d, dh) - h * h * merge * 0.25
    elif dh < d:
        d, part = dh, 1
    return (d, part) if pose[M_HANDS] < 0.5 else _with_hands(x, y, z, d, part, pose)


@njit(cache=True, inline="always", error_model="numpy", fastmath=True)
def _unit(x, y, z):
    n = max(1e-9, math.sqrt(x * x + y * y + z * z))
    return x / n, y / n, z / n


@njit(cache=True, error_model="numpy", fastmath=True)
def _head_normal(x, y, z, pose, w, heads):
    """In head space, so that the four places lie alike in the grid's cells: else its linear steps would show as terraces."""
    fine = exact_here(x, y, z, pose[M_MOUTH], w)
    e = 0.004 if fine else HEAD_STEP
    blink, mouth = pose[M_BLINK], pose[M_MOUTH]
    a = head_distance(x + e, y - e, z - e, blink, mouth, w, heads, fine)
    b = head_distance(x - e, y - e, z + e, blink, mouth, w, heads, fine)
    c = head_distance(x - e, y + e, z - e, blink, mouth, w, heads, fine)
    d = head_distance(x + e, y + e, z + e, blink, mouth, w, heads, fine)
    return _unit(a - b - c + d, -a - b + c + d, -a + b - c + d)


@njit(cache=True, error_model="numpy", fastmath=True)
def _body_normal(x, y, z, trunk):
    e = BODY_STEP
    a = body_distance(x + e, y - e, z - e, trunk)
    b = body_distance(x - e, y - e, z + e, trunk)
    c = body_distance(x - e, y + e, z - e, trunk)
    d = body_distance(x + e, y + e, z + e, trunk)
    return _unit(a - b - c + d, -a - b + c + d, -a + b - c + d)


@njit(cache=True, error_model="numpy", fastmath=True)
def _normal(x, y, z, pose, w, heads, trunk):
    """Of the whole scene: for hands, and where neck and head run into each other."""
    e = 0.012
    a = scene(x + e, y - e, z - e, pose, w, heads, trunk, False)[0]
    b = scene(x - e, y - e, z + e, pose, w, heads, trunk, False)[0]
    c = scene(x - e, y + e, z - e, pose, w, heads, trunk, False)[0]
    d = scene(x + e, y + e, z + e, pose, w, heads, trunk, False)[0]
    return _unit(a - b - c + d, -a - b + c + d, -a + b - c + d)


@njit(cache=True, error_model="numpy", fastmath=True)
def _shadow(x, y, z, pose, w, heads, trunk):
    """Share of the key light that arrives, 0 to 1, with a penumbra."""
    lit, t = 1.0, 0.05
    for _ in range(18):
        d = scene(x + KEY[0] * t, y + KEY[1] * t, z + KEY[2] * t, pose, w, heads, trunk, False)[0]
        lit = min(lit, 0.5 + 0.5 * d * 7.0 / t)
        if lit < 0.0 or t > 3.0:
            break
        t += min(0.4, max(0.05, d))
    lit = max(0.0, lit)
    return lit * lit * (3.0 - 2.0 * lit)


@njit(cache=True, error_model="numpy", fastmath=True)
def sample(px, py, width, pose, w, heads, trunk, out):
    """One ray through pixel (px, py): colour and lights into `out` (7); returns the material."""
    dx, dy, dz = (px - width * 0.5) / FOCAL, -(py - MIDDLE_ROW) / FOCAL, -1.0
    n = math.sqrt(dx * dx + dy * dy + 1.0)
    dx, dy, dz = dx / n, dy / n, dz / n
    t, part, hit = 3.2, 0, False
    fine = False
    for _ in range(110):
        d, part = scene(dx * t, dy * t, LENS_Z + dz * t, pose, w, heads, trunk, fine)
        fine = d < 0.06
        if d < 0.0004 * t:
            hit = True
            break
        t += d * 0.95
        if t > LENS_Z + 2.4:
            break
    if not hit:
        return NOTHING
    # Onto the surface itself: what is left of the distance would show as terraces in the shadows.
    for _ in range(3):
        t += scene(dx * t, dy * t, LENS_Z + dz * t, pose, w, heads, trunk, True)[0]
    x, y, z = dx * t, dy * t, LENS_Z + dz * t
    lx, ly, lz = x - pose[M_LEAN], y, z - pose[M_NEAR]
    if part == 1:
        lx, ly, lz = _to_head(x, y, z, pose)
    if part > 1:
        lx, ly, lz = _to_hand(x, y, z, pose, M_RIGHT if part == 2 else M_LEFT, 1.0)
        material = HAND if ly > SLEEVE + 0.3 else CLOTH
        ly -= 3.0  # where a body's clothes are plain
    else:
        material = material_of(lx, ly, lz, pose[M_BLINK], pose[M_MOUTH], w, part == 1)
    if part == 1 and ly > -0.6:
        sx, sy, sz = _head_normal(lx, ly, lz, pose, w, heads)
        nx, ny, nz = _from_head(sx, sy, sz, pose)
    elif part == 0 and ly < -1.3:
        nx, ny, nz = _body_normal(lx, ly, lz, trunk)
    else:
        nx, ny, nz = _normal(x, y, z, pose, w, heads, trunk)
    skin = material in (SKIN, NECK, HAND)
    if material == SKIN:
        e = 0.006
        here = relief(lx, ly, lz, w)
        gx = (relief(lx + e, ly, lz, w) - here) / e
        gy = (relief(lx, ly + e, lz, w) - here) / e
        bx, by, bz = _from_head(gx, gy, 0.0, pose)
        nx, ny, nz = _unit(nx - 0.6 * bx, ny - 0.6 * by, nz - 0.6 * bz)
    r, g, b, gloss, power = albedo(lx, ly, lz, material, pose[M_GAZE], pose[M_GAZE + 1], w)

    wrap = 0.3 if skin or material == LIPS else 0.0
    facing = nx * KEY[0] + ny * KEY[1] + nz * KEY[2]
    lit = 0.0 if facing < -wrap else _shadow(x + nx * 0.03, y + ny * 0.03, z + nz * 0.03, pose, w, heads, trunk)
    key = max(0.0, (facing + wrap) / (1 + wrap)) * (lit if facing > 0 else lit * 0.5 + 0.15)
    near = scene(x + nx * 0.08, y + ny * 0.08, z + nz * 0.08, pose, w, heads, trunk, False)[0] / 0.08
    mid = scene(x + nx * 0.25, y + ny * 0.25, z + nz * 0.25, pose, w, heads, trunk, False)[0] / 0.25
    far = scene(x + nx * 0.6, y + ny * 0.6, z + nz * 0.6, pose, w, heads, trunk, False)[0] / 0.6
    open_sky = min(1.0, max(0.1, 0.3 * near + 0.35 * mid + 0.35 * far + 0.1))
    sky = (0.62 + 0.26 * ny + 0.16 * max(0.0, nz)) * open_sky
    left = max(0.0, -nx * 0.82 + ny * 0.25 - nz * 0.48)
    right = max(0.0, nx * 0.82 + ny * 0.25 - nz * 0.48)
    rim = (left**1.5 + right**1.5) * open_sky

    hx, hy, hz = KEY[0] - dx, KEY[1] - dy, KEY[2] - dz
    hn = math.sqrt(hx * hx + hy * hy + hz * hz)
    shine = max(0.0, (nx * hx + ny * hy + nz * hz) / hn) ** power * gloss * lit * (power + 8.0) / 60.0
    graze = (1.0 - max(0.0, -(nx * dx + ny * dy + nz * dz))) ** 5 * gloss
    # A highlight is the light's own colour; over a grey of the surface's brightness it is that many times more light.
    bright = max(0.015, 0.2126 * r + 0.7152 * g + 0.0722 * b)
    if skin:
        bleed = max(0.0, 0.32 - abs(facing - 0.05)) * lit
        r, g, b = r * (1 + 0.3 * bleed), g * (1 - 0.1 * bleed), b * (1 - 0.16 * bleed)
    out[ALBEDO], out[ALBEDO + 1], out[ALBEDO + 2] = r, g, b
    out[LIT] = key + 0.42 * shine / bright
    out[SKY] = sky + 0.12 * graze * open_sky / bright
    out[RIM] = rim
    out[DEPTH] = -dz * t
    return material


@njit(cache=True, parallel=True, error_model="numpy", fastmath=True)
def trace(width, height, pose, w, heads, trunk):
    """A frame: (height, width, 7) float32 of colour, lights and depth in units, coverage (height, width) 0 to 1, and materials.

    One ray a pixel, then a grid of rays where the material changes within one pixel.
    """
    frame = np.zeros((height, width, 7), np.float32)
    coverage = np.zeros((height, width), np.float32)
    material = np.zeros((height, width), np.uint8)
    for row in prange(height):
        out = np.zeros(7)
        for column in range(width):
            out[:] = 0.0
            material[row, column] = sample(column + 0.5, row + 0.5, width, pose, w, heads, trunk, out)
            frame[row, column] = out
            coverage[row, column] = 1.0 if material[row, column] else 0.0
    for row in prange(1, height - 1):
        out = np.zeros(7)
        total = np.zeros(7)
        for column in range(1, width - 1):
            here = material[row, column]
            edge = False
            for j in range(-1, 2):
                for i in range(-1, 2):
                    edge = edge or material[row + j, column + i] != here
            if edge:
                total[:] = 0.0
                hits = 0
                for j in range(RAYS):
                    for i in range(RAYS):
                        out[:] = 0.0
                        if sample(column + (i + 0.5) / RAYS, row + (j + 0.5) / RAYS, width, pose, w, heads, trunk, out):
                            hits += 1
                            for c in range(7):
                                total[c] += min(out[c], 1.0) if c < 3 else out[c]
                for c in range(7):
                    frame[row, column, c] = total[c] / max(1, hits)
                coverage[row, column] = hits / RAYS**2
    return frame, coverage, material
