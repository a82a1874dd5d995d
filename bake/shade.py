"""What the lens sees at one hit: colour of the surface, light that it sends on, and its shine. Compiled, one hit after another."""

import math

import numpy as np
from numba import njit

from bake.noise import _chance
from bake.stage import (
    CARRIED,
    CLOTH,
    COLOUR,
    EDGE,
    EYE,
    GLOSS,
    HAIR,
    KEY,
    NORMAL,
    OPEN,
    RELIEF,
    REST,
    RIM,
    ROUGH,
    SHOWN,
    SKIN,
    SKY,
)

C_COLOUR, C_KEY, C_SKY, C_RIM, C_SHINE, C_SHEEN, C_GLEAM, C_DEPTH = 0, 3, 4, 5, 6, 7, 8, 9
"""Of a hit: colour 3 (with the hue that light takes under skin), key, sky, rim; shine of key, sky and rim; distance."""
FOUND = 10
HEM, TROUSERS = 0.5, (0.03, 0.034, 0.045)
"""Decimetres of ribs above the hem, and the colour below it."""
KX, KY, KZ = -0.5009, 0.5209, 0.6912


@njit(cache=True, inline="always")
def _smooth_noise(x, y, z, seed):
    i, j, k = math.floor(x), math.floor(y), math.floor(z)
    u, v, w = x - i, y - j, z - k
    u, v, w = u * u * (3 - 2 * u), v * v * (3 - 2 * v), w * w * (3 - 2 * w)
    i, j, k = int(i) + 4096, int(j) + 4096, int(k) + 4096
    a = _chance(i, j, k, seed) * (1 - u) + _chance(i + 1, j, k, seed) * u
    b = _chance(i, j + 1, k, seed) * (1 - u) + _chance(i + 1, j + 1, k, seed) * u
    c = _chance(i, j, k + 1, seed) * (1 - u) + _chance(i + 1, j, k + 1, seed) * u
    d = _chance(i, j + 1, k + 1, seed) * (1 - u) + _chance(i + 1, j + 1, k + 1, seed) * u
    return ((a * (1 - v) + b * v) * (1 - w) + (c * (1 - v) + d * v) * w) * 2 - 1


@njit(cache=True)
def _skin_height(x, y, z, fine, age):
    """Height of the skin's own relief, decimetres, at rest coordinates: pores, and lines that come with age."""
    high = 0.0
    if fine > 0.05:
        high += 0.00035 * fine * _smooth_noise(x * 130, y * 130, z * 130, 3)
        high += 0.0007 * fine * _smooth_noise(x * 62, y * 62, z * 62, 5)
    high += 0.0013 * _smooth_noise(x * 26, y * 26, z * 26, 9)
    if age > 0:
        wave = 0.06 * _smooth_noise(x * 2.2, y * 2.2, 3.3, 21) + 0.012 * _smooth_noise(x * 9, y * 9, 1.7, 23)
        if y > 7.5:
            lines = abs(math.sin((y + wave - 0.14 * x * x) * 21.0))
            high -= age * 0.009 * max(0.0, 1 - 3.2 * lines) * min(1.0, (y - 7.5) * 6) * max(0.0, 1 - abs(x) * 1.25)
        ax, ay = abs(x) - 0.52, y - 7.27
        if ax > 0:
            angle = math.atan2(ay, ax + 0.02)
            lines = abs(math.sin((angle + 2 * wave) * 7.0))
            far = math.sqrt(ax * ax + ay * ay)
            high -= age * 0.006 * max(0.0, 1 - 3 * lines) * min(1.0, far * 14) * max(0.0, 1 - far * 4.2)
        under = (abs(x) - 0.31) ** 2 / 0.05 + (y - 7.12) ** 2 / 0.012
        if under < 1:
            lines = abs(math.sin((y + 0.25 * abs(abs(x) - 0.31) + wave) * 60.0))
            high -= age * 0.0035 * max(0.0, 1 - 2.5 * lines) * (1 - under)
        high += age * 0.0012 * _smooth_noise(x * 44, y * 30, z * 44, 31)
    return high


@njit(cache=True)
def _freckle(x, y, z, seed):
    """How dark the nearest freckle is here: round, 1 to 2 mm, each of a strength of its own."""
    x, y, z = x / 0.045, y / 0.045, z / 0.045
    i, j, k = math.floor(x), math.floor(y), math.floor(z)
    dark = 0.0
    for a in range(-1, 2):
        for b in range(-1, 2):
            for c in range(-1, 2):
                p, q, r = i + a + 4096, j + b + 4096, k + c + 4096
                own = _chance(p, q, r, seed + 3)
                if own > 0.45:
                    dx, dy = i + a + _chance(p, q, r, seed) - x, j + b + _chance(p, q, r, seed + 1) - y
                    dz = k + c + _chance(p, q, r, seed + 2) - z
                    far = math.sqrt(dx * dx + dy * dy + dz * dz) / (0.14 + 0.3 * (own - 0.45))
                    dark = max(dark, (0.35 + own) * min(1.0, max(0.0, 1.4 - far)))
    return 0.75 * dark


@njit(cache=True)
def _ggx(nh, nl, nv, vh, rough, f0):
    """Reflected share of light per light that meets the surface square on: GGX with Smith's shadowing (Walter 2007) and Schlick's
    Fresnel term."""
    if nl <= 0 or nv <= 0:
        return 0.0
    a = rough * rough
    d = a * a / (math.pi * ((nh * nh) * (a * a - 1) + 1) ** 2)
    k = a / 2
    g = 1 / ((nl * (1 - k) + k) * (nv * (1 - k) + k))
    return d * g * (f0 + (1 - f0) * (1 - vh) ** 5) * nl / 4


@njit(cache=True)
def _shine(out, nx, ny, nz, dx, dy, dz, seen, edge, sky, rough, gloss, broad):
    """Adds the shine of all lights. `broad`: share of a second, rougher lobe."""
    nv = max(0.02, -(nx * dx + ny * dy + nz * dz))
    for n in range(3):
        lx, ly, lz, at, part = KX, KY, KZ, C_SHINE, seen * 2.2
        if n > 0:
            lx, ly, lz, at, part = (-0.828 if n == 1 else 0.828), 0.252, -0.485, C_GLEAM, edge * 1.2
        hx, hy, hz = lx - dx, ly - dy, lz - dz
        h = math.sqrt(hx * hx + hy * hy + hz * hz)
        nl, nh, vh = nx * lx + ny * ly + nz * lz, (nx * hx + ny * hy + nz * hz) / h, (lx * hx + ly * hy + lz * hz) / h
        one = _ggx(nh, nl, nv, vh, rough, 0.028) * (1 - broad)
        two = _ggx(nh, nl, nv, vh, min(0.8, rough + 0.27), 0.028) * broad if broad > 0 else 0.0
        out[at] += (one + two) * gloss * part
    ry, rz = dy + 2 * nv * ny, dz + 2 * nv * nz
    fresnel = 0.028 + (1 - 0.028) * (1 - nv) ** 5 * (1 - rough) ** 2
    out[C_SHEEN] += 0.55 * fresnel * sky * gloss * max(0.1, 0.6 + 0.4 * ry + 0.2 * rz)


@njit(cache=True)
def shade(triangles, kinds, carries, hit, us, vs, ways, far, age, pore, seed, freckles, weave, out):
    """All hits (n): number of the triangle (-1 for none), places in it, way of the ray (n, 3), distance. `pore`: decimetres that a
    pixel covers at distance 1. Writes (n, FOUND); hits of eyes are left to eyes.py."""
    c = np.empty(CARRIED)
    for n in range(len(hit)):
        if hit[n] < 0:
            continue
        t = hit[n]
        a, b, d = triangles[t, 0], triangles[t, 1], triangles[t, 2]
        u, v = us[n], vs[n]
        w = 1 - u - v
        for k in range(CARRIED):
            c[k] = carries[a, k] * w + carries[b, k] * u + carries[d, k] * v
        dx, dy, dz = ways[n, 0], ways[n, 1], ways[n, 2]
        nx, ny, nz = c[NORMAL], c[NORMAL + 1], c[NORMAL + 2]
        long = max(1e-9, math.sqrt(nx * nx + ny * ny + nz * nz))
        nx, ny, nz = nx / long, ny / long, nz / long
        o = out[n]
        r, g, bl = c[COLOUR], c[COLOUR + 1], c[COLOUR + 2]
        kr, kg, kb = c[KEY], c[KEY + 1], c[KEY + 2]
        o[C_DEPTH] = -dz * far[n]
        kind = kinds[t]
        x, y, z = c[REST], c[REST + 1], c[REST + 2]
        if kind == HAIR:
            # Light along strands (Kajiya and Kay 1989), with a second, coloured gleam farther along.
            tl = nx * KX + ny * KY + nz * KZ
            tv = nx * dx + ny * dy + nz * dz
            sl, sv = math.sqrt(max(0.0, 1 - tl * tl)), math.sqrt(max(0.0, 1 - tv * tv))
            shine = max(0.0, sl * sv - tl * tv)
            first, second = max(0.0, sl * sv - (tl * 0.985 + 0.17 * sl) * tv) ** 60, max(0.0, shine) ** 14
            key = (kr + kg + kb) / 3
            o[C_COLOUR], o[C_COLOUR + 1], o[C_COLOUR + 2] = r, g, bl
            o[C_KEY] = key * (0.25 + 0.75 * sl) + 0.35 * second * c[SHOWN] * c[GLOSS]
            o[C_SKY], o[C_RIM] = c[SKY], c[RIM]
            o[C_SHINE] = min(0.12, 0.008 * first * c[SHOWN] * c[GLOSS])
            o[C_SHEEN] = 0.004 * c[OPEN] * c[GLOSS]
            o[C_GLEAM] = 0.03 * c[EDGE] * c[GLOSS] * (1 - abs(tv)) ** 2
            continue
        if kind == EYE:
            continue
        detail = c[RELIEF]
        if kind == SKIN and detail > 0:
            e = 0.004
            pixel = pore * far[n]
            fine = detail * min(1.0, max(0.0, 1.7 - pixel / 0.006))
            here = _skin_height(x, y, z, fine, age * detail)
            gx = (_skin_height(x + e, y, z, fine, age * detail) - here) / e
            gy = (_skin_height(x, y + e, z, fine, age * detail) - here) / e
            gz = (_skin_height(x, y, z + e, fine, age * detail) - here) / e
            across = gx * nx + gy * ny + gz * nz
            before = max(0.06, nx * KX + ny * KY + nz * KZ + 0.25)
            nx, ny, nz = nx - gx + across * nx, ny - gy + across * ny, nz - gz + across * nz
            long = math.sqrt(nx * nx + ny * ny + nz * nz)
            nx, ny, nz = nx / long, ny / long, nz / long
            change = min(1.5, max(0.5, (nx * KX + ny * KY + nz * KZ + 0.25) / before))
            kr, kg, kb = kr * (0.45 + 0.55 * change), kg * (0.3 + 0.7 * change), kb * (0.2 + 0.8 * change)
            mottle = 0.03 * _smooth_noise(x * 7, y * 7, z * 7, seed) + 0.05 * _smooth_noise(x * 19, y * 19, z * 19, seed + 1)
            speck = 0.07 * fine * _smooth_noise(x * 75, y * 75, z * 75, seed + 2)
            brown = (
                0.04 * _smooth_noise(x * 12, y * 12, z * 12, seed + 3)
                + 0.06 * _smooth_noise(x * 31, y * 31, z * 31, seed + 8)
                + speck
            )
            spots = freckles * max(0.0, 0.2 + _smooth_noise(x * 3, y * 3, z * 3, seed + 4))
            if spots > 0:
                brown += spots * _freckle(x, y, z, seed + 5)
            old = max(0.0, _smooth_noise(x * 11, y * 11, z * 11, seed + 7) + 0.3 * speck - 0.5)
            old = age * min(0.3, 1.3 * old)
            brown += detail * old
            r *= math.exp(-0.12 * mottle - 0.5 * brown)
            g *= math.exp(-0.95 * mottle - 0.78 * brown)
            bl *= math.exp(-0.8 * mottle - 1.05 * brown)
        if kind == CLOTH:
            # Of cloth, how far below its hem: there hang trousers, above it lie ribs.
            if detail > 0:
                part = min(1.0, detail / max(1e-6, pore * far[n]))
                r, g, bl = r + (TROUSERS[0] - r) * part, g + (TROUSERS[1] - g) * part, bl + (TROUSERS[2] - bl) * part
            elif -HEM < detail < 0:
                rib = 1 - 0.35 * (0.5 + 0.5 * math.cos(2 * math.pi * x / 0.14))
                r, g, bl = r * rib, g * rib, bl * rib
            r, g, bl, nx, ny, nz, dark = _woven(r, g, bl, nx, ny, nz, x, y, z, weave, pore * far[n])
            kr, kg, kb = kr * dark, kg * dark, kb * dark
            c[SKY] *= 0.5 + 0.5 * dark
        # Light takes on a hue under the skin: it goes with the colour, its amount with the light.
        amount = 0.25 * kr + 0.6 * kg + 0.15 * kb
        hold = 0.06
        o[C_COLOUR] = r * (kr + hold) / (amount + hold)
        o[C_COLOUR + 1] = g * (kg + hold) / (amount + hold)
        o[C_COLOUR + 2] = bl * (kb + hold) / (amount + hold)
        o[C_KEY], o[C_SKY], o[C_RIM] = amount, c[SKY], c[RIM]
        broad = 0.45 if kind == SKIN else 0.0
        _shine(o, nx, ny, nz, dx, dy, dz, c[SHOWN], c[EDGE], c[OPEN], c[ROUGH], c[GLOSS], broad)


@njit(cache=True)
def _woven(r, g, b, nx, ny, nz, x, y, z, weave, pixel):
    """Coarse (1) or fine (2) knit at places of the cloth, decimetres along and up: colour, normal and how much light its hollows hold."""
    if weave == 0:
        return r, g, b, nx, ny, nz, 1.0
    size = 0.048 if weave == 1 else 0.027
    seen = min(1.0, max(0.0, 1.4 - 2.2 * pixel / size)) * (1.0 if weave == 1 else 0.7)
    u, v = x / size, y / size
    # Columns of stitches that lean to either side by turns.
    side = 1.0 if (math.floor(u) % 2) == 0 else -1.0
    inside = u - math.floor(u) - 0.5
    rise = v * 1.25 + side * inside * 0.9
    high = (1 - (2 * inside) ** 2) * (0.6 + 0.4 * math.cos(2 * math.pi * rise))
    sx = -2.2 * inside
    sy = 0.5 * math.sin(2 * math.pi * rise)
    dark = 1 - seen * 0.42 * (1 - high)
    flat = _smooth_noise(x * 60, y * 60, z * 60, 77)
    tint = 1 + 0.1 * flat * seen + 0.06 * _smooth_noise(x * 8, y * 8, z * 8, 78)
    # Sideways on the surface, roughly: cloth hangs upright.
    bend = 0.32 * seen
    nx, ny = nx + bend * sx, ny - bend * sy
    long = math.sqrt(nx * nx + ny * ny + nz * nz)
    return r * tint, g * tint, b * tint, nx / long, ny / long, nz / long, dark
