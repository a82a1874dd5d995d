"""Hair, beards, brows and lashes: strands that grow from the skin by rules, laid before the lens as ribbons."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from bake.body import Body, Pose
from bake.headwear import Shell
from bake.noise import layered, values
from bake.paint import BROW, brows
from bake.people import Hair
from bake.picture import LENS
from bake.stage import CARRIED, COLOUR, EDGE, GLOSS, KEY, NORMAL, OPEN, RIM, SHOWN, SKY, Part, Stage
from bake.stage import HAIR as KIND
from bake.surface import normals, ribbons
from sunglaze.core.camera import labels

Floats = NDArray[np.float64]
Numbers = NDArray[np.int64]
_LINE = np.array([[-1.2, 6.5], [-0.6, 6.5], [-0.3, 6.62], [-0.05, 6.9], [0.12, 7.3], [0.3, 7.62], [0.5, 7.6], [0.62, 7.3], [0.7, 7.12],
                  [0.8, 7.25], [0.9, 7.52], [1.05, 7.74], [1.2, 7.85], [1.4, 7.92], [1.8, 7.95]])  # fmt: skip
"""The hairline: how high hair begins (second) by how far forward (first), in rest coordinates."""
_CHEEK = np.array([[0.6, 7.2], [0.74, 7.15], [0.85, 6.98], [1.0, 6.8], [1.2, 6.7], [1.35, 6.74], [1.8, 6.78]])
"""Where a beard ends above."""


def scalp(rest: Floats, back: float) -> Floats:
    """How densely hair grows (n), 0 to 1. `back`: how far the hairline has gone back at the temples and in front."""
    x, y, z = np.abs(rest[:, 0]), rest[:, 1], rest[:, 2]
    line = np.interp(z, _LINE[:, 0], _LINE[:, 1]) + back * np.clip((z - 0.7) * 2, 0, 1) * (0.5 + np.clip(x * 1.4, 0, 1))
    line = line + 0.05 * layered(rest, 0.16, 91)
    ear = (x > 0.735) & (y < 7.62) & (z > -0.15)
    return np.asarray(np.clip((y - line) / 0.07, 0, 1) * ~ear)


def beard(rest: Floats, lips: Floats) -> Floats:
    """How densely a full beard grows (n)."""
    x, y, z = np.abs(rest[:, 0]), rest[:, 1], rest[:, 2]
    top = np.interp(z, _CHEEK[:, 0], _CHEEK[:, 1]) + 0.06 * layered(rest, 0.18, 93)
    low = 6.02 + 0.12 * layered(rest, 0.3, 95) + 0.5 * np.clip(0.75 - z, 0, 1)
    inside = np.clip((top - y) / 0.09, 0, 1) * np.clip((y - low) / 0.18, 0, 1) * np.clip((z - 0.56) / 0.16, 0, 1)
    bare = np.exp(-((x / 0.1) ** 2) - ((y - 6.452) / 0.018) ** 2) * 0.8
    return np.asarray(inside * (1 - bare) * (lips < 0.1) * _off_lips(rest))


def moustache(rest: Floats, lips: Floats) -> Floats:
    """How densely a moustache grows (n)."""
    x, y, z = np.abs(rest[:, 0]), rest[:, 1], rest[:, 2]
    return np.asarray(
        np.clip((6.80 - 0.25 * x - y) / 0.03, 0, 1) * np.clip((y - 6.62) / 0.03, 0, 1) * (z > 1.33) * (x < 0.3) * (lips < 0.1)
    )


def _off_lips(rest: Floats) -> Floats:
    return np.asarray(1 - np.exp(-((np.abs(rest[:, 0]) / 0.28) ** 4) - ((rest[:, 1] - 6.6) / 0.05) ** 2))


class Strands:
    """Strands of one kind on a body. `points` (n, k, 3) in the head's place at rest, before the head turns."""

    def __init__(self, body: Body, hair: Hair, points: Floats, roots: tuple[Numbers, Floats], label: int, share: Floats) -> None:
        self.body, self.hair, self.points, self.roots, self.label = body, hair, points, roots, label
        self.share = share
        count, steps = points.shape[:2]
        chance = np.random.default_rng(body.performer.seed + label)
        self.carries = np.zeros((count * steps * 2, CARRIED), np.float32)
        bright = np.exp(chance.normal(0, 0.28, count))
        grey = chance.random(count) < hair.grey * 0.7
        colour = np.where(grey[:, None], np.array([0.42, 0.41, 0.395]), np.array(hair.colour)) * bright[:, None]
        along = np.linspace(0, 1, steps)
        colour = colour[:, None, :] * (0.75 + 0.45 * along)[None, :, None]
        self.carries[:, COLOUR : COLOUR + 3] = np.repeat(colour.reshape(-1, 3), 2, axis=0)
        shiny = 0.09 if label != labels.HAIR else (0.25 if hair.style in ("coils", "locks") else 1.0)
        self.carries[:, GLOSS] = np.repeat(shiny * np.exp(chance.normal(0, 0.3, count)), steps * 2)
        taper = np.interp(along, [0, 0.15, 0.6, 1], [0.8, 1, 0.9, 0.25])
        self.half = (hair.width / 100 / 2) * taper[None, :] * np.exp(chance.normal(0, 0.15, count))[:, None]

    def part(self, pose: Pose, late: Pose, skin: Floats, resting: Floats) -> Part:
        """As they stand before the lens. `late`: the pose that ends of long hair still follow. `skin`: the body's skin with face
        units, before the head turns; `resting`: without."""
        body, (triangle, shares) = self.body, self.roots
        corners = body.triangles[triangle]
        moves = ((skin - resting)[corners] * shares[:, :, None]).sum(axis=1)
        count, steps = self.points.shape[:2]
        places = (self.points + moves[:, None]).reshape(-1, 3)
        moved = body.moved(places, self.share, pose).reshape(count, steps, 3)
        if self.hair.style in ("long", "curls", "locks"):
            lag = body.moved(places, self.share, late).reshape(count, steps, 3) - moved
            moved = moved + lag * (0.8 * np.linspace(0, 1, steps) ** 2)[None, :, None]
        made, self.carries[:, NORMAL : NORMAL + 3], triangles = ribbons(moved, self.half, LENS)
        return Part(made, triangles, self.carries, self.label, KIND)

    def light(self, stage: Stage, part: int, pose: Pose) -> None:
        """Light four points of each strand by few rays, the others as between."""
        at, (count, steps) = stage.slices[part], self.points.shape[:2]
        own = stage.carries[at]
        chosen = sorted({0, (steps - 1) // 3, 2 * (steps - 1) // 3, steps - 1})
        places = stage.vertices[at].reshape(count, steps, 2, 3)
        middle = places.mean(axis=2)
        turned = _outward(middle.reshape(-1, 3) - np.asarray(pose.shift))[:, 2].reshape(count, steps)
        seen = (turned > -0.45) & (np.abs(middle[..., 0]) < 4)
        out = np.zeros((count, steps, 6), np.float32)
        for step in chosen:
            rows = np.flatnonzero(seen[:, step])
            numbers = (rows * steps + step) * 2
            way = own[numbers, NORMAL : NORMAL + 3]
            # Light about a strand: it faces the lens, the key and away from the head, all a little.
            facing = np.array([0, 0.25, 0.55]) + 0.8 * _outward(middle[rows, step] - np.asarray(pose.shift))
            facing -= way * (facing * way).sum(axis=1, keepdims=True)
            facing /= np.maximum(np.linalg.norm(facing, axis=1, keepdims=True), 1e-6)
            found = stage.light(numbers + at.start, facing.astype(np.float32), 0.012, 0.7, 3, 6)
            out[rows, step] = found
        along = np.arange(steps)
        low = np.searchsorted(chosen, along, side="right") - 1
        low = np.minimum(low, len(chosen) - 2)
        first, second = np.array(chosen)[low], np.array(chosen)[low + 1]
        t = ((along - first) / (second - first))[None, :, None]
        out = out[:, first] * (1 - t) + out[:, second] * t
        each = np.repeat(out.reshape(-1, 6), 2, axis=0)
        own[:, KEY] = own[:, KEY + 1] = own[:, KEY + 2] = each[:, 0]
        own[:, SKY], own[:, RIM], own[:, SHOWN], own[:, OPEN], own[:, EDGE] = each[:, 1:].T


def _outward(places: Floats) -> Floats:
    away = places - np.array([0, 0.35, -0.35])
    return np.asarray(away / np.maximum(np.linalg.norm(away, axis=1, keepdims=True), 1e-6))


def rooted(body: Body, density: Floats, count: int, seed: int) -> tuple[Numbers, Floats, Floats, Floats, Floats]:
    """Roots strewn by density (of vertices, n): triangles, shares of their corners (count, 3), places, normals and rest
    coordinates (count, 3)."""
    chance = np.random.default_rng(seed)
    shape = body.surface.at(body.cage)
    facing = normals(shape, body.triangles)
    corners = shape[body.triangles]
    area = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
    wanted = area * density[body.triangles].mean(axis=1)
    total = np.cumsum(wanted)
    # Evenly along the sum, so that they lie less by chance than throws of dice.
    triangle = np.searchsorted(total, (np.arange(count) + chance.random(count)) / count * total[-1] * 0.999999)
    u, v = chance.random(count), chance.random(count)
    over = u + v > 1
    u[over], v[over] = 1 - u[over], 1 - v[over]
    shares = np.stack([1 - u - v, u, v], axis=1)
    at = body.triangles[triangle]
    place, normal, rest = ((of[at] * shares[:, :, None]).sum(axis=1) for of in (shape, facing, body.rest))
    return triangle, shares, place, _unit(normal), rest


def _unit(ways: Floats) -> Floats:
    return np.asarray(ways / np.maximum(np.linalg.norm(ways, axis=-1, keepdims=True), 1e-9))


def grow(body: Body, hair: Hair, label: int, shells: list[Shell]) -> Strands | None:
    """Strands by the rule that `hair` names, none under `shells`; None for bald heads."""
    if hair.count == 0:
        return None
    seed = body.performer.seed
    masks = {"beard": lambda: beard(body.rest, body.lips), "stubble": lambda: beard(body.rest, body.lips),
             "moustache": lambda: moustache(body.rest, body.lips), "brows": lambda: brows(body.rest)}  # fmt: skip
    density = masks.get(hair.style, lambda: scalp(body.rest, hair.line))() * ~body.inner
    for shell in shells:
        density = density * ~shell.covers(body.surface.at(body.cage))
    triangle, shares, place, normal, rest = rooted(body, density, hair.count, seed + label)
    rule = {"coils": _coils, "long": _long, "curls": _long, "locks": _long, "brows": _brows}.get(hair.style, _short)
    dense = (density[body.triangles[triangle]] * shares).sum(axis=1)
    points = rule(body, hair, place, normal, rest, dense)
    low = points[..., 1] - body.neck[1]
    # What falls to the shoulders stays with them; beards go with the jaw.
    share = np.clip(0.25 + (low + 0.2) / 1.1, 0.25, 1) if label == labels.HAIR else np.ones_like(low)
    return Strands(body, hair, points, (triangle, shares), label, share.ravel())


def _short(body: Body, hair: Hair, place: Floats, normal: Floats, rest: Floats, dense: Floats) -> Floats:
    """Combed hair, beards and stubble: out of the skin, then bent the way it is combed."""
    chance = np.random.default_rng(body.performer.seed + 3)
    count, steps = len(place), 6
    on_face = hair.style != "short"
    if on_face:
        side = np.sign(place[:, :1])
        comb = np.concatenate([side * 0.25, np.full((count, 1), -1.0), np.full((count, 1), 0.25)], axis=1)
        if hair.style == "moustache":
            comb = np.concatenate(
                [side * np.clip(np.abs(place[:, :1]) * 6, 0.2, 1.4), np.full((count, 1), -0.8), np.full((count, 1), 0.2)], 1
            )
    else:
        # From a whirl at the back of the crown.
        away = place - np.array([0.12, 1.25, -0.75])
        comb = away * np.array([1.0, 0.8, 1.0])
        comb[:, 2] -= np.clip(place[:, 2] - 0.2, 0, 1) * 0.9
        comb[:, 0] += np.clip(place[:, 2], 0, 1) * 0.5
        if hair.length > 40:
            # Combed back from the forehead, down at the sides.
            comb = np.stack([0.9 * place[:, 0], -0.9 * np.abs(place[:, 0]) - 0.1, np.full(count, -0.9)], axis=1)
    comb = comb - normal * (comb * normal).sum(axis=1, keepdims=True)
    tufts = np.stack([layered(rest, 0.11, 31 + n) for n in range(3)], axis=1)
    comb = _unit(_unit(comb) + 0.55 * tufts + 0.22 * chance.normal(size=(count, 3)))
    length = hair.length / 100 * (0.45 + 0.55 * dense) * np.exp(chance.normal(0, 0.16, count))
    if not on_face:
        length *= np.clip(0.35 + (place[:, 1] + 0.1) * 0.75, 0.3, 1)
    if hair.style == "beard":
        length *= np.interp(place[:, 1], [-1.4, -0.9, -0.5, 0.1], [1.15, 1.0, 0.6, 0.3])
    t = np.linspace(0, 1, steps)[None, :, None]
    rise = 0.5 * min(1.0, 26 / hair.length) if hair.style == "short" else 0.55
    curl = chance.normal(size=(count, 1, 3)) * 0.12 * np.sin(t * 5 + chance.random((count, 1, 1)) * 6)
    bent = normal[:, None] * (t * (1 - 0.45 * t)) * rise + comb[:, None] * (0.35 * t + 0.65 * t * t)
    made = place[:, None] + length[:, None, None] * (bent + curl * t)
    if hair.style == "short":
        # Down onto the head's own curve, and by its weight.
        run = length[:, None, None] * t
        made = made - normal[:, None] * run**2 / 1.7 - np.array([0, 0.35, 0]) * t * run * min(1.0, hair.length / 60)
        made = _outside(body, made, 0.03)
    return made - normal[:, None] * 0.004


def _coils(body: Body, hair: Hair, place: Floats, normal: Floats, rest: Floats, dense: Floats) -> Floats:
    """Tight coils that stand off the head."""
    chance = np.random.default_rng(body.performer.seed + 5)
    count, steps = len(place), 15
    t = np.linspace(0, 1, steps)[None, :, None]
    length = hair.length / 100 * (0.3 + 0.7 * dense) * np.exp(chance.normal(0, 0.2, count))
    lean = _unit(
        normal + 0.3 * chance.normal(size=(count, 3)) + 0.5 * np.stack([values(rest, 0.14, 41 + n) for n in range(3)], 1)
    )
    across = _unit(np.cross(lean, chance.normal(size=(count, 3))))
    along = np.cross(lean, across)
    turns = chance.uniform(1.8, 3.2, (count, 1, 1)) * 2 * np.pi
    phase = chance.random((count, 1, 1)) * 6.3
    radius = (0.03 * np.exp(chance.normal(0, 0.25, count)))[:, None, None] * np.minimum(1, t * 3)
    circle = across[:, None] * np.cos(turns * t + phase) + along[:, None] * np.sin(turns * t + phase)
    return np.asarray(
        place[:, None] + lean[:, None] * t * 0.62 * length[:, None, None] + radius * circle - normal[:, None] * 0.01
    )


def _brows(body: Body, hair: Hair, place: Floats, normal: Floats, rest: Floats, dense: Floats) -> Floats:
    """Brows: upwards at their inner ends, then outwards, flat on the skin."""
    chance = np.random.default_rng(body.performer.seed + 6)
    count, steps = len(place), 4
    x = np.abs(rest[:, 0])
    up = np.interp(x, [0.1, 0.18, 0.35, 0.64], [0.8, 0.5, 0.16, -0.35])
    above = rest[:, 1] - np.interp(x, BROW[:, 0], BROW[:, 1])
    comb = np.stack([np.sign(place[:, 0]), up - 9 * above, np.zeros(count)], axis=1) + 0.22 * chance.normal(size=(count, 3))
    comb = _unit(comb - normal * (comb * normal).sum(axis=1, keepdims=True))
    length = (
        hair.length
        / 100
        * np.interp(x, [0.1, 0.25, 0.6], [0.75, 1, 0.7])
        * np.exp(chance.normal(0, 0.2, count))
        * (0.6 + 0.4 * dense)
    )
    t = np.linspace(0, 1, steps)[None, :, None]
    return np.asarray(place[:, None] + length[:, None, None] * (comb[:, None] * t + normal[:, None] * (0.24 * t - 0.12 * t * t)))


def _long(body: Body, hair: Hair, place: Floats, normal: Floats, rest: Floats, dense: Floats) -> Floats:
    """Hair that falls: each strand follows one of a few guides, which fall by their weight and slide over head and shoulders."""
    chance = np.random.default_rng(body.performer.seed + 7)
    locks = {"long": 420, "curls": 420, "locks": 150}[hair.style]
    steps = 16 if hair.style == "long" else 26
    heads = chance.choice(len(place), locks, replace=False)
    guides = _fallen(body, hair, place[heads], normal[heads], steps)
    # Strands follow guides of their own side of the parting.
    apart = np.column_stack([place, 4 * np.sign(place[:, 0] - 0.06)])
    far, near = cKDTree(apart[heads]).query(apart, k=3 if hair.style == "long" else 1)
    offset = place - place[heads][near if near.ndim == 1 else near[:, 0]]
    if near.ndim == 2:
        share = 1 / (far + 0.02) ** 2
        share /= share.sum(axis=1, keepdims=True)
        paths = ((guides - guides[:, :1])[near] * share[:, :, None, None]).sum(axis=1)
        made = place[:, None] + paths
    else:
        t = np.linspace(0, 1, steps)[None, :, None]
        pull = {"curls": 0.55, "locks": 0.75}[hair.style]
        made = guides[near] + offset[:, None] * (1 - pull * np.minimum(1, t * 4))
    t = np.linspace(0, 1, steps)[None, :, None]
    if hair.style == "long":
        wave = np.stack([values(rest, 0.3, 51 + n) for n in range(3)], axis=1)
        made = made + 0.1 * t * wave[:, None] + 0.035 * t * chance.normal(size=(len(place), 1, 3))
        made = made + 0.03 * t * np.sin(t * 9 + 5 * wave[:, :1, None]) * np.array([1.0, 0, 0.6])
    else:
        big = 0.085 if hair.style == "curls" else 0.035
        phase = near[:, None, None] * 2.4 + chance.normal(0, 0.35, (len(place), 1, 1))
        turns = (2.6 if hair.style == "curls" else 5.0) * 2 * np.pi
        way = _unit(np.gradient(made, axis=1))
        across = _unit(np.cross(way, np.array([0.3, 0.2, 1.0])))
        circle = across * np.cos(turns * t + phase) + np.cross(way, across) * np.sin(turns * t + phase)
        made = made + big * np.minimum(1, t * 2.5) * circle + 0.02 * t * chance.normal(size=(len(place), 1, 3))
    made = _outside(body, made, 0.02)
    for _ in range(2):
        made[:, 1:-1] = 0.5 * made[:, 1:-1] + 0.25 * (made[:, :-2] + made[:, 2:])
    return made


def _fallen(body: Body, hair: Hair, place: Floats, normal: Floats, steps: int) -> Floats:
    chance = np.random.default_rng(body.performer.seed + 8)
    count = len(place)
    length = hair.length / 100 * np.exp(chance.normal(0, 0.13, count))
    step = (length / (steps - 1))[:, None]
    side = np.where(place[:, :1] > 0.06, 1.0, -1.0)
    # Combed from a parting outwards and back, off the face.
    start = normal * 0.4 + np.concatenate([side * 0.5, np.zeros((count, 1)), np.full((count, 1), -0.35)], axis=1)
    start[:, 2] -= np.clip(place[:, 2] - 0.3, 0, 1) * 0.9
    way = _unit(start + 0.12 * chance.normal(size=(count, 3)))
    made = [place]
    for n in range(1, steps):
        fall = np.array([0, -1.0, 0]) + 0.05 * chance.normal(size=(count, 3))
        weight = min(1.0, 0.16 + 0.07 * n) if hair.style == "long" else min(1.0, 0.12 + 0.05 * n)
        way = _unit(way * (1 - weight) + fall * weight)
        to = made[-1] + way * step
        to = _outside(body, to[:, None], 0.035 + 0.05 * min(1, n / 4))[:, 0]
        # Off the face: what hangs before it is laid to the side.
        free = np.interp(to[:, 1], [-2.2, -1.3, -0.8, 0.4, 0.9], [0.35, 0.5, 0.72, 0.72, 0.3])
        front = (to[:, 2] > 0.1) & (np.abs(to[:, 0]) < free)
        to[front, 0] += np.sign(to[front, 0] - 0.06) * 0.4 * (free[front] - np.abs(to[front, 0]))
        to[front, 2] -= 0.08
        # Below the ears it comes together.
        loose = (to[:, 1] < -0.5) & (np.abs(to[:, 0]) > 0.95)
        to[loose, 0] *= 0.965
        way = _unit(to - made[-1])
        made.append(made[-1] + way * step)
    return np.stack(made, axis=1)


def _outside(body: Body, points: Floats, clear: float) -> Floats:
    """Points (n, k, 3) pushed out of the body to at least `clear` off it."""
    tree, shape, facing = body.hull
    flat = points.reshape(-1, 3)
    _, near = tree.query(flat)
    above = ((flat - shape[near]) * facing[near]).sum(axis=1)
    push = np.maximum(0, clear - above)
    return np.asarray((flat + facing[near] * push[:, None]).reshape(points.shape))
