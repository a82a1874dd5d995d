"""Light and sensor of the stand-in camera, put on when a take is played: performers over a place, developed as a phone would.

Sums are in linear light; the codes of lights are square roots of their amounts (bake/films.py).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.camera.laying import OUTSIDE, Standing, compiled, covered_part, given, in_bands, seen_part, share_of
from sunglaze.core.camera.takes import COVERS, FULL, LIGHT_NAMES, SHINE_NAMES
from sunglaze.core.colour.spaces import encoded, linear
from sunglaze.core.targets.memory import Words, blank

BRIGHTEST = 4.0
"""Linear light at the end of the table that encodes it."""
CURVE_STEPS = 4096
Triple = tuple[float, float, float]


@dataclass(frozen=True)
class Light:
    """Colours of key, sky and rim on performers and of all light on the place, linear; then the sensor: exposure, noise (standard
    deviation in encoded codes of 255 at middle grey) and how far the corners darken."""

    title: str
    key: Triple
    sky: Triple
    rim: Triple
    place: Triple
    exposure: float = 1.0
    noise: float = 1.0
    corners: float = 0.08

    def numbers(self) -> NDArray[np.float32]:
        """Key, sky and rim, three numbers each, times the exposure (9), float32."""
        return np.array([*self.key, *self.sky, *self.rim], np.float32) * np.float32(self.exposure)


# At noon a high sun lights a face that looks at it eleven times as much as a clear sky, of which it sees half (110 against
# 10 thousand lux, from memory).
LIGHTS = {
    "noon": Light("Noon", (1.42, 1.38, 1.31), (0.125, 0.132, 0.142), (0.12, 0.12, 0.135), (0.95, 0.94, 0.92)),
    "shade": Light("Shade", (0.2, 0.21, 0.23), (0.76, 0.83, 0.94), (0.1, 0.11, 0.13), (0.8, 0.84, 0.9), noise=1.4),
    "lamp": Light("Lamp", (1.15, 0.7, 0.32), (0.16, 0.12, 0.12), (0.1, 0.1, 0.16), (0.16, 0.12, 0.12), noise=3.0, corners=0.2),
    "dusk": Light("Dusk", (0.1, 0.1, 0.14), (0.17, 0.2, 0.32), (0.1, 0.12, 0.2), (0.14, 0.17, 0.3), 1.3, 7.0, 0.22),
    "against": Light("Against the light", (0.03, 0.03, 0.03), (0.26, 0.27, 0.3), (1.5, 1.35, 1.1), (1.7, 1.62, 1.5), noise=2.2),
}


def _developed() -> NDArray[np.float32]:
    """Codes (0 to 255) of linear light by its square root: sRGB (IEC 61966-2-1), above 0.8 with a soft shoulder, as phones do."""
    light = (np.arange(CURVE_STEPS) / (CURVE_STEPS - 1)) ** 2 * BRIGHTEST
    held = np.where(light > 0.8, 0.8 + 0.2 * (1 - np.exp(-(light - 0.8) / 0.2)), light)
    return np.asarray(255 * encoded(held), np.float32)


def _grain() -> NDArray[np.int8]:
    """Noise of the sensor: a square of normal deviates in parts of GRAIN_ONE, mostly alike in all colours, none in a mask; frames
    shift it. A power of 2 wide. Small, for all of it is read for every frame."""
    chance = np.random.default_rng(GRAIN_SEED)
    common = chance.standard_normal((GRAIN_SIZE, GRAIN_SIZE, 1))
    made = np.zeros((GRAIN_SIZE, GRAIN_SIZE, 4))
    made[..., :3] = 0.9 * common + 0.44 * chance.standard_normal((GRAIN_SIZE, GRAIN_SIZE, 3))
    return np.asarray(np.rint(made.reshape(GRAIN_SIZE, -1) * GRAIN_ONE).clip(-127, 127), np.int8)


GRAIN_SEED, GRAIN_SIZE, GRAIN_ONE = 7, 512, 28
CODES = np.arange(256) / 255
TO_LINEAR = linear(CODES).astype(np.float32)
FULL_LIGHTS = np.array([FULL[name] / 255**2 for name in LIGHT_NAMES], np.float32)
FULL_SHINES = np.array([FULL[name] / 255**2 for name in SHINE_NAMES], np.float32)
"""What the square of a code of key, sky and rim, and of their shine, is to be taken times."""
DEVELOPED, GRAIN = _developed(), _grain()


def lit_place(colours: NDArray[np.float32], light: Light) -> NDArray[np.uint16]:
    """What stands behind performers, before noise (2, height, width, 4): roots of linear light, 65535 that of BRIGHTEST; then as
    the sensor gives it, in 256ths of a code. The last number, that of the mask, is 0. `colours`: linear light (height, width, 3).
    """
    made = np.zeros((2, *colours.shape[:2], 4), np.uint16)
    made[0, ..., :3] = np.rint(np.sqrt(np.minimum(colours / BRIGHTEST, 1)) * 65535)

    def band(first: int, end: int) -> None:
        _develop_place(made[1], made[0], light.corners, DEVELOPED, first, end)

    in_bands(len(colours), band)
    return made


def compose(place: NDArray[np.uint16], figures: Sequence[Standing], light: Light, frame: int, exposure: float = 1.0) -> Words:
    """Performers over a place, in a light, as the sensor gives them: darker corners, shoulder and sRGB, then noise, stronger in
    the dark. The noise is the frame's own, and the same whenever it is made. Alpha of the words (rows,
    padded columns) is the mask.

    `place`: of `lit_place`. `figures`: those behind first. `exposure`: of the figures, beside the light's own.
    """
    height, width = place.shape[1:3]
    lights = light.numbers().reshape(3, 3) * np.float32(exposure)
    amounts = np.concatenate([lights * full[:, None] for full in (FULL_LIGHTS, FULL_SHINES)]).ravel()
    told, out = given(figures, width, height), blank(height, width)
    # Rows are padded at their ends.
    lines = out.view(np.uint8)

    def band(first: int, end: int) -> None:
        sensor = frame, light.noise, light.corners, DEVELOPED, GRAIN
        _compose(place[0], place[1], lines, told, amounts, TO_LINEAR, first, end, *sensor)

    in_bands(height, band)
    return out


@compiled
def _develop(codes: Any, linear: Any, y: int, height: int, begin: int, width: int, corners: float, developed: Any) -> None:
    """Codes of a part of a row that begins at column `begin`; flat, four numbers a pixel, of which the last is a share."""
    one, half, two, top = np.float32(1), np.float32(0.5), np.float32(2), np.float32(developed.shape[0] - 1)
    scale, corner, wide = top / np.float32(math.sqrt(BRIGHTEST)), np.float32(2 * corners), np.float32(1 / width)
    fy = np.float32((y + 0.5) / height - 0.5)
    count = codes.size // 4
    dim, place = np.empty(count, np.float32), np.empty(4 * count, np.int32)
    for x in range(count):
        fx = (np.float32(begin + x) + half) * wide - half
        far = min(one, two * (fx * fx + fy * fy))
        dim[x] = math.sqrt(one - corner * far * math.sqrt(far)) * scale
    # By itself, so that it is done for several numbers at a time; reading tables is not.
    for x in range(count):
        for c in range(4):
            place[4 * x + c] = np.int32(min(math.sqrt(linear[4 * x + c]) * dim[x], top))
    for x in range(count):
        for c in range(3):
            codes[4 * x + c] = developed[np.uintp(place[4 * x + c])]
        codes[4 * x + 3] = linear[4 * x + 3] * np.float32(255)


@compiled
def _develop_place(out: Any, roots: Any, corners: float, developed: Any, first: int, end: int) -> None:
    height, width = out.shape[:2]
    linear, codes = np.empty(4 * width, np.float32), np.empty(4 * width, np.float32)
    for y in range(first, end):
        _squares(linear, roots[y].reshape(4 * width))
        _develop(codes, linear, y, height, 0, width, corners, developed)
        line = out[y].reshape(4 * width)
        for n in range(4 * width):
            line[n] = np.uint16(codes[n] * np.float32(256) + np.float32(0.5))


@compiled
def _squares(out: Any, roots: Any) -> None:
    full = np.float32(math.sqrt(BRIGHTEST) / 65535)
    for n in range(out.size):
        root = np.float32(roots[n]) * full
        out[n] = root * root


@compiled
def _doubled(out: Any, half: Any, row: int, room: Any) -> None:
    """A row of a plane (rows, columns) at twice its size: a pixel lies a quarter from the nearer of the two at its sides. `room`:
    of two more than the plane's columns, for what is between."""
    near, far, count = np.float32(0.75), np.float32(0.25), half.shape[1]
    at = row // 2
    beside = min(max(at + (1 if row & 1 else -1), 0), half.shape[0] - 1)
    one, other, middle = half[at], half[beside], room[1:]
    for n in range(count):
        middle[n] = np.float32(one[n]) * near + np.float32(other[n]) * far
    room[0], room[count + 1] = room[1], room[count]
    left, right = room, room[2:]
    for n in range(count):
        out[2 * n] = middle[n] * near + left[n] * far
        out[2 * n + 1] = middle[n] * near + right[n] * far


@compiled
def _light_row(out: Any, planes: Any, row: int, amounts: Any, to_linear: Any, room: Any) -> Any:
    """A performer's row in its light: linear, four numbers a pixel, times the last of them, the coverage; with a clear pixel at
    either end. Gives the first column that is not clear and the one after the last."""
    colour, label, key, sky, rim, shine, sheen, gleam = planes
    low, high = covered_part(label[row])
    out[:] = 0
    if low < high:
        by_sky, by_rim, between = room[0], room[1], room[2]
        _doubled(by_sky, sky, row, between[: sky.shape[1] + 2])
        _doubled(by_rim, rim, row, between[: rim.shape[1] + 2])
        full, lit = np.float32(1 / COVERS), out[4 * (low + 1) : 4 * (high + 1)]
        by_key, by_sky, by_rim, labels = key[row, low:high], by_sky[low:high], by_rim[low:high], label[row, low:high]
        for n in range(high - low):
            part = share_of(labels[n]) * full
            k, s, r = np.float32(by_key[n]), by_sky[n], by_rim[n]
            k, s, r = k * k * part, s * s * part, r * r * part
            lit[4 * n] = k * amounts[0] + s * amounts[3] + r * amounts[6]
            lit[4 * n + 1] = k * amounts[1] + s * amounts[4] + r * amounts[7]
            lit[4 * n + 2] = k * amounts[2] + s * amounts[5] + r * amounts[8]
            lit[4 * n + 3] = part
        surface = colour[row, low:high]
        for n in range(high - low):
            for c in range(3):
                lit[4 * n + c] *= to_linear[surface[n, c]]
        _doubled(room[0], sheen, row, room[2][: sheen.shape[1] + 2])
        _doubled(room[1], gleam, row, room[2][: gleam.shape[1] + 2])
        by_shine, by_sheen, by_gleam = shine[row, low:high], room[0][low:high], room[1][low:high]
        for n in range(high - low):
            part = lit[4 * n + 3]
            k, s, r = np.float32(by_shine[n]), by_sheen[n], by_gleam[n]
            k, s, r = k * k * part, s * s * part, r * r * part
            lit[4 * n] += k * amounts[9] + s * amounts[12] + r * amounts[15]
            lit[4 * n + 1] += k * amounts[10] + s * amounts[13] + r * amounts[16]
            lit[4 * n + 2] += k * amounts[11] + s * amounts[14] + r * amounts[17]
    return low, high


@compiled
def _mix(out: Any, above: Any, below: Any, share: float) -> None:
    t = np.float32(share)
    for n in range(out.size):
        out[n] = above[n] + (below[n] - above[n]) * t


@compiled
def _lay_row(linear: Any, lit: Any, at: Any, shares: Any) -> None:
    """A performer's row over linear light, four numbers a pixel, where columns stand `at`."""
    one, four = np.float32(1), np.uintp(4)
    for x in range(at.size):
        # All is read before any is written, so that the four are done at once.
        place, t, own = np.uintp(4 * (at[x] + 1)), shares[x], np.uintp(4 * x)
        left, right = lit[place : place + four], lit[place + four : place + four + four]
        r, g, b, a = left[0], left[1], left[2], left[3]
        r, g, b, a = r + (right[0] - r) * t, g + (right[1] - g) * t, b + (right[2] - b) * t, a + (right[3] - a) * t
        under, clear = linear[own : own + four], one - a
        under[0], under[1], under[2], under[3] = (
            under[0] * clear + r, under[1] * clear + g, under[2] * clear + b, under[3] * clear + a,
        )  # fmt: skip


@compiled
def _add_noise(out: Any, codes: Any, one: float, grain: Any, noise: float) -> None:
    """Bytes of a part of a row, flat. `one`: what a code counts."""
    full, strong, weaker = np.float32(1 / one), np.float32(1.45 * noise / GRAIN_ONE), np.float32(noise / 255 / GRAIN_ONE)
    for n in range(out.size):
        code = np.float32(codes[n]) * full
        code += (strong - weaker * code) * np.float32(grain[n]) + np.float32(0.5)
        # By way of whole numbers: to bytes at once it is done one at a time.
        out[n] = np.int32(min(np.float32(255), max(np.float32(0), code)))


@compiled
def _expose(out: Any, codes: Any, one: float, line: Any, start: int, noise: float) -> None:
    """As `_add_noise`, with a line of grain from `start` on that is laid out over and over."""
    done, start = 0, start % line.size
    while done < out.size:
        count = min(line.size - start, out.size - done)
        _add_noise(out[done : done + count], codes[done : done + count], one, line[start : start + count], noise)
        done, start = done + count, 0


@compiled
def _compose(
    behind: Any, behind_codes: Any, out: Any, figures: Any, amounts: Any, to_linear: Any, first: int, end: int, frame: int,
    noise: float, corners: float, developed: Any, grain: Any,
) -> None:  # fmt: skip
    """Rows from `first` to the one before `end`, each from the place to its bytes; the place itself was developed before."""
    height, width = behind.shape[:2]
    linear, codes = np.empty(4 * width, np.float32), np.empty(4 * width, np.float32)
    widest = 0
    for figure in figures:
        widest = max(widest, figure[1].shape[1])
    # The two rows of each figure that a row of the screen lies between, by the last bit of their number.
    lit = np.empty((len(figures), 2, 4 * (widest + 2)), np.float32)
    known, parts = np.full((len(figures), 2), -1), np.zeros((len(figures), 2, 2), np.int64)
    mixed, room = np.empty(4 * (widest + 2), np.float32), np.empty((3, widest + 2), np.float32)
    for y in range(first, end):
        begin = after = 0
        roots, given_codes = behind[y].reshape(4 * width), behind_codes[y].reshape(4 * width)
        f = -1
        for colour, label, key, sky, rim, shine, sheen, gleam, across, columns, rows in figures:
            f += 1
            if rows[0][y] != OUTSIDE:
                above, below = max(rows[0][y], 0), min(rows[0][y] + 1, label.shape[0] - 1)
                for row in (above, below):
                    if known[f, row & 1] != row:
                        known[f, row & 1] = row
                        planes = colour, label, key, sky, rim, shine, sheen, gleam
                        parts[f, row & 1] = _light_row(lit[f, row & 1], planes, row, amounts, to_linear, room)
                one, other = parts[f, above & 1], parts[f, below & 1]
                low, high = min(one[0], other[0]), max(one[1], other[1])
                if low >= high:
                    continue
                x0, x1 = seen_part(low, high, across, columns[0])
                if x0 < x1:
                    if begin == after:
                        begin = after = x0
                    # Linear light of the place only as far as it is wanted.
                    if x0 < begin:
                        _squares(linear[4 * x0 : 4 * begin], roots[4 * x0 : 4 * begin])
                        begin = x0
                    if x1 > after:
                        _squares(linear[4 * after : 4 * x1], roots[4 * after : 4 * x1])
                        after = x1
                    part = slice(4 * low, 4 * (high + 2))
                    _mix(mixed[part], lit[f, above & 1, part], lit[f, below & 1, part], rows[1][y])
                    _lay_row(linear[4 * x0 : 4 * x1], mixed, columns[0][x0:x1], columns[1][x0:x1])
        line, start = grain[(y + frame * 197) & (grain.shape[0] - 1)], 4 * frame * 311
        left, right = 4 * begin, 4 * after
        if left < right:
            _develop(codes[left:right], linear[left:right], y, height, begin, width, corners, developed)
            _expose(out[y, left:right], codes[left:right], 1, line, start + left, noise)
        _expose(out[y, :left], given_codes[:left], 256, line, start, noise)
        _expose(out[y, right : 4 * width], given_codes[right:], 256, line, start + right, noise)
