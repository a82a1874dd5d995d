"""Skin as colour and relief on the base mesh's own rest coordinates, so that it has no seams and suits every performer.

Rest coordinates are those of the unshaped base mesh, decimetres: eyes at (0.308, 7.284, 1.245), mouth at y 6.61.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bake.noise import layered, values
from bake.people import Performer
from sunglaze.core.colour.spaces import linear
from sunglaze.core.review.judging import MONK_TONES

Floats = NDArray[np.float64]
BLOOD, MELANIN = np.array([0.12, 0.95, 0.80]), np.array([0.50, 0.78, 1.05])
"""What adds them to a colour, in logarithms of its linear light."""
_FOUND = np.log([[0.074, 0.036, 0.0215], [0.30, 0.18, 0.114], [0.45, 0.295, 0.222]])
_LUMA = np.array([0.2126, 0.7152, 0.0722])
UPPER = np.array([[0, 6.676], [0.05, 6.684], [0.092, 6.690], [0.15, 6.678], [0.21, 6.652], [0.27, 6.616]])
LOWER = np.array([[0, 6.486], [0.1, 6.497], [0.17, 6.527], [0.22, 6.566], [0.27, 6.606]])
"""Borders of the lips by how far from the middle."""
BROW = np.array([[0.10, 7.476], [0.2, 7.496], [0.32, 7.518], [0.44, 7.53], [0.54, 7.506], [0.64, 7.452]])
"""The middle of a brow (second) by how far from the face's middle."""


def skin_colour(tone: int) -> Floats:
    """Linear light of skin of a Monk tone (3): as light as the tone, its hue between the tone's and that of skins found good."""
    code = MONK_TONES[tone - 1]
    own = linear(np.array([int(code[n : n + 2], 16) / 255 for n in (1, 3, 5)]))
    # The deepest tones are drawn a little lighter than their swatches, which are of ink.
    light = float(own @ _LUMA) * float(np.interp(tone, [8, 9, 10], [1.0, 1.15, 1.4]))
    at = np.log(np.exp(_FOUND) @ _LUMA)
    like = np.exp([np.interp(np.log(light), at, _FOUND[:, n]) for n in range(3)])
    like *= light / float(like @ _LUMA)
    share = np.interp(tone, [1, 5, 8, 10], [0.5, 0.6, 0.85, 0.8])
    mixed = np.exp((1 - share) * np.log(own) + share * np.log(like))
    return np.asarray(mixed * light / float(mixed @ _LUMA))


def bump(rest: Floats, x: float, y: float, z: float, size: tuple[float, float, float], both: bool = True) -> Floats:
    """1 at a place, falling to nothing about `size` away (n); `both`: at either side."""
    across = np.abs(rest[:, 0]) if both else rest[:, 0]
    far = ((across - x) / size[0]) ** 2 + ((rest[:, 1] - y) / size[1]) ** 2 + ((rest[:, 2] - z) / size[2]) ** 2
    return np.asarray(np.exp(-far))


def lips(rest: Floats) -> Floats:
    """How much each place is red of the lips (n), 0 to 1."""
    across, y = np.abs(rest[:, 0]), rest[:, 1]
    top, low = (np.interp(across, line[:, 0], line[:, 1]) for line in (UPPER, LOWER))
    inside = np.minimum(top - y, y - low)
    front = (rest[:, 2] > 1.30) & (across < 0.275)
    return np.asarray(np.clip(inside / 0.02 + 0.5, 0, 1) * front)


def brows(rest: Floats) -> Floats:
    """How densely brows grow (n)."""
    x, y, z = np.abs(rest[:, 0]), rest[:, 1], rest[:, 2]
    middle = np.interp(x, BROW[:, 0], BROW[:, 1])
    half = np.interp(x, [0.08, 0.14, 0.3, 0.48, 0.66], [0.012, 0.03, 0.029, 0.02, 0.008])
    inside = np.clip(1.25 - np.abs(y - middle) / half, 0, 1)
    ends = np.clip((x - 0.09) / 0.06, 0, 1) * np.clip((0.66 - x) / 0.05, 0, 1)
    return np.asarray(inside * ends * (z > 1.0))


def within_mouth(rest: Floats) -> NDArray[np.bool_]:
    """The lining of the mouth, which lies behind the lips."""
    return (rest[:, 2] < 1.66) & (rest[:, 2] > 0.3) & (np.abs(rest[:, 0]) < 0.42) & (rest[:, 1] > 6.2) & (rest[:, 1] < 7.05)


def paint(rest: Floats, performer: Performer, inner: NDArray[np.bool_]) -> tuple[Floats, Floats, Floats, Floats]:
    """Colour (n, 3), gloss, roughness and relief (n) of skin at rest coordinates. `inner`: the lining of mouth and nose."""
    seed = performer.seed
    base = np.log(skin_colour(performer.tone))
    pale = np.interp(performer.tone, [1, 5, 10], [1.0, 0.8, 0.55])
    blood = np.zeros(len(rest))
    blood += 0.26 * bump(rest, 0.0, 6.95, 1.66, (0.16, 0.17, 0.3))
    blood += 0.2 * bump(rest, 0.42, 6.93, 1.32, (0.24, 0.22, 0.4))
    blood += 0.3 * bump(rest, 0.72, 7.0, 0.35, (0.16, 0.35, 0.3))
    blood += 0.16 * bump(rest, 0.31, 7.24, 1.36, (0.2, 0.09, 0.3))
    blood += 0.08 * bump(rest, 0.0, 6.3, 1.45, (0.25, 0.14, 0.4))
    melanin = 0.2 * bump(rest, 0.3, 7.19, 1.36, (0.2, 0.08, 0.3)) + 0.13 * bump(rest, 0.3, 7.37, 1.4, (0.24, 0.08, 0.3))
    melanin += 0.1 * bump(rest, 0.0, 6.75, 1.58, (0.25, 0.06, 0.3)) - 0.05 * bump(rest, 0.0, 7.9, 1.4, (0.6, 0.3, 0.6))
    melanin += 0.12 * bump(rest, 0.0, 5.9, 0.8, (0.8, 0.4, 0.8))
    blood += 0.05 * layered(rest, 0.22, seed) * (1 + performer.wrinkles)
    melanin += 0.05 * layered(rest, 0.3, seed + 40)
    if performer.male > 0.5:
        shaven = np.maximum(bump(rest, 0.25, 6.4, 1.4, (0.42, 0.26, 0.5)), bump(rest, 0, 6.75, 1.6, (0.28, 0.07, 0.3)))
        melanin += 0.16 * shaven
    melanin += 0.45 * brows(rest) * (performer.hair.grey < 0.5)
    red = lips(rest)
    blood += red * (0.62 + 0.1 * values(rest, 0.08, seed + 5))
    melanin += red * (0.18 if performer.tone < 8 else 0.02)
    if performer.birthmark:
        x, y, z, radius = performer.birthmark
        far = np.linalg.norm(rest - [x, y, z], axis=1) / radius + 0.45 * values(rest, 0.07, seed + 9)
        mark = np.clip((1 - far) * 4, 0, 1)
        melanin += 0.55 * mark
        blood += 0.35 * mark
    colour = base - pale * blood[:, None] * BLOOD - melanin[:, None] * MELANIN
    # Lips and lining are seen through thin skin: less brown on deep skin.
    thin = np.clip(red * (0.25 if performer.tone >= 8 else 0.1), 0, 1)[:, None]
    colour = colour * (1 - thin) + thin * np.log([0.34, 0.11, 0.1])
    lining = inner[:, None] * 0.85
    colour = colour * (1 - lining) + lining * np.log([0.16, 0.03, 0.027])
    oil = 0.5 * bump(rest, 0.0, 7.75, 1.5, (0.45, 0.22, 0.5)) + 0.6 * bump(rest, 0.0, 7.05, 1.62, (0.12, 0.28, 0.3))
    oil += 0.3 * bump(rest, 0.42, 7.03, 1.36, (0.18, 0.14, 0.3)) + 0.25 * bump(rest, 0, 6.32, 1.5, (0.16, 0.1, 0.3))
    rough = 0.43 - 0.11 * np.clip(oil, 0, 1) + 0.03 * values(rest, 0.1, seed + 8)
    gloss = 0.7 + 0.5 * np.clip(oil, 0, 1)
    rough = np.where(red > 0.5, 0.33, rough)
    gloss = np.where(inner, 1.3, gloss + 0.3 * red)
    rough = np.where(inner, 0.28, rough)
    relief = np.where(inner, 0.0, 1 - 0.75 * red) * np.clip((rest[:, 1] - 5.2) * 1.5, 0.25, 1)
    relief *= 1 - 0.7 * bump(rest, 0.31, 7.28, 1.4, (0.17, 0.09, 0.3))
    return np.exp(colour), gloss, rough, relief
