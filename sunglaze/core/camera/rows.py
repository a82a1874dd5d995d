"""What lays performers on a screen, lights and develops them, row by row (laying.py, lighting.py); imported for the first frame.

Compiled by Numba, which does several numbers at a time only where an index cannot be below 0: so slices begin at 0, and single
indices are unsigned.
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from numba import njit

from sunglaze.core.camera.laying import OUTSIDE
from sunglaze.core.camera.lighting import BRIGHTEST, GRAIN_ONE
from sunglaze.core.camera.takes import COVERS

compiled = njit(cache=True, error_model="numpy", fastmath=True, nogil=True)


@compiled
def covered_part(labels: Any) -> Any:
    """The first pixel of a row of labels (takes.py) that is not clear, and the one after the last, which is 0 if all are."""
    low, high = 0, labels.size
    while low < high and labels[low] == 0:
        low += 1
    while high > 0 and labels[high - 1] == 0:
        high -= 1
    return low, high


@compiled
def share_of(label: Any) -> Any:
    """The coverage that a label tells, in steps of COVERS; in single precision, as whole numbers would be of 64 bits here."""
    code = np.float32(label)
    steps = code - np.floor(code * np.float32(1 / COVERS)) * np.float32(COVERS) + np.float32(1)
    return min(code, np.float32(1)) * steps


@compiled
def seen_part(low: int, high: int, across: Any, at: Any) -> Any:
    """The columns of the screen in which those of the take from `low` to the one before `high` are seen, the first and the one
    after the last. `at`: the column of the take before each."""
    one, other = (low - 0.5) * across[0] + across[1], (high + 0.5) * across[0] + across[1]
    first, end = max(int(min(one, other)) - 1, 0), min(int(max(one, other)) + 2, at.size)
    while first < end and not low - 1 <= at[first] < high:
        first += 1
    while first < end and not low - 1 <= at[end - 1] < high:
        end -= 1
    return first, end


@compiled
def lay_materials(out: Any, figures: Any, first: int, end: int) -> None:
    """Rows of `materials`. Coverage lies between four pixels; the material is the nearest one's."""
    half, middle = np.float32(0.5), np.float32(COVERS / 2)
    for y in range(first, end):
        for _, label, _, _, _, _, _, _, across, columns, rows in figures:
            if rows[0][y] != OUTSIDE:
                t = rows[1][y]
                one, other = label[max(rows[0][y], 0)], label[min(rows[0][y] + 1, label.shape[0] - 1)]
                (low, high), (start, stop) = covered_part(one), covered_part(other)
                low, high = min(low, start), max(high, stop)
                if low >= high:
                    continue
                x0, x1 = seen_part(low, high, across, columns[0])
                covered = np.zeros(high - low + 2, np.float32)
                between, above, below = covered[1:], one[low:high], other[low:high]
                for n in range(above.size):
                    upper, lower = share_of(above[n]), share_of(below[n])
                    between[n] = upper + (lower - upper) * t
                line = other if t >= half else one
                seen, ats, shares, nearest = out[y, x0:x1], columns[0][x0:x1], columns[1][x0:x1], columns[2][x0:x1]
                for x in range(seen.size):
                    at = np.uintp(ats[x] + 1 - low)
                    share = covered[at] + (covered[at + np.uintp(1)] - covered[at]) * shares[x]
                    found = line[nearest[x]]
                    seen[x] = found // np.uint8(COVERS) if (share >= middle) & (found > np.uint8(0)) else seen[x]


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
def develop_place(out: Any, roots: Any, corners: float, developed: Any, first: int, end: int) -> None:
    """Rows of `lit_place`."""
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
def compose_rows(
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
