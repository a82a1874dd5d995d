"""Animated pictures, made at random, and what is seen of them, put together by the words of their specifications and by nothing
of ours: GIF89a (CompuServe, 1990), PNG (W3C, third edition, 2023), WebP's container (RFC 9649)."""

from __future__ import annotations

import io
import struct
import zlib
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from PIL import Image


@dataclass(frozen=True)
class Moving:
    """`seen`: (height, width, 4) of each picture. `times`: milliseconds as the file gives them."""

    data: bytes
    seen: list[np.ndarray]
    times: list[int]


@dataclass(frozen=True)
class Part:
    left: int
    top: int
    width: int
    height: int

    @property
    def area(self) -> tuple[slice, slice]:
        return slice(self.top, self.top + self.height), slice(self.left, self.left + self.width)


def part_of(rng: np.random.Generator, width: int, height: int, even: bool = False) -> Part:
    left, top = int(rng.integers(0, width)), int(rng.integers(0, height))
    if even:
        left, top = left // 2 * 2, top // 2 * 2
    return Part(left, top, int(rng.integers(1, width - left + 1)), int(rng.integers(1, height - top + 1)))


# ---- GIF ----
def blocks(data: bytes) -> bytes:
    return b"".join(bytes([len(data[n : n + 255])]) + data[n : n + 255] for n in range(0, len(data), 255)) + b"\0"


def packed(indices: np.ndarray, bits: int) -> bytes:
    """LZW without its dictionary: a clear code comes before codes would grow longer (appendix F)."""
    clear, width = 1 << bits, bits + 1
    codes: list[int] = []
    for n, index in enumerate(indices.ravel().tolist()):
        if n % (clear - 2) == 0:
            codes.append(clear)
        codes.append(index)
    codes.append(clear + 1)
    whole = sum(code << (n * width) for n, code in enumerate(codes))
    return whole.to_bytes(-(-len(codes) * width // 8), "little")


def in_passes(indices: np.ndarray) -> np.ndarray:
    """Rows in the order of an interlaced picture (appendix E): every eighth from 0, from 4, every fourth from 2, the odd ones."""
    return np.concatenate([indices[0::8], indices[4::8], indices[2::4], indices[1::2]])


def gif(rng: np.random.Generator) -> Moving:
    """One to six pictures on at most 20 by 20 pixels: any disposal, place, table, clear colour, interlaced or not."""
    width, height = int(rng.integers(1, 21)), int(rng.integers(1, 21))
    tables = {bits: rng.integers(0, 256, (2 << (bits - 1), 3), np.uint8) for bits in (2, 3, 4)}
    shared = int(rng.integers(2, 5))
    out = [
        b"GIF89a",
        struct.pack("<HHBBB", width, height, 0x80 | (shared - 1), int(rng.integers(0, 4)), 0),
        tables[shared].tobytes(),
    ]
    canvas = np.zeros((height, width, 4), np.uint8)
    seen, times = [], []
    for _ in range(int(rng.integers(1, 7))):
        part, own = part_of(rng, width, height), bool(rng.random() < 0.4)
        bits = int(rng.integers(2, 5)) if own else shared
        table = rng.integers(0, 256, tables[bits].shape, np.uint8) if own else tables[bits]
        indices = rng.integers(0, len(table), (part.height, part.width))
        clear = int(rng.integers(0, len(table))) if rng.random() < 0.6 else None
        disposal, ticks, laced = int(rng.integers(0, 4)), int(rng.choice([0, 1, 2, 5, 30])), bool(rng.random() < 0.4)
        if clear is not None or disposal or ticks:
            packing = disposal << 2 | (clear is not None)
            out.append(b"!\xf9\x04" + struct.pack("<BHBB", packing, ticks, clear or 0, 0))
        if rng.random() < 0.2:
            out.append(b"!\xfe" + blocks(b"between ferries"))
        flags = (0x80 | (bits - 1) if own else 0) | (0x40 if laced else 0)
        out.append(b"," + struct.pack("<HHHHB", part.left, part.top, part.width, part.height, flags))
        out += [table.tobytes()] if own else []
        out += [bytes([bits]), blocks(packed(in_passes(indices) if laced else indices, bits))]
        before = canvas.copy()
        for row in range(part.height):
            for column in range(part.width):
                if indices[row, column] != clear:
                    canvas[part.top + row, part.left + column] = (*table[indices[row, column]], 255)
        seen.append(canvas.copy())
        times.append(10 * ticks)
        if disposal == 2:
            canvas[part.area] = 0
        elif disposal == 3:
            canvas = before
    return Moving(b"".join([*out, b";"]), seen, times)


# ---- PNG ----
def chunk(name: bytes, data: bytes) -> bytes:
    return struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data))


def pixels_of(rng: np.random.Generator, part: Part) -> np.ndarray:
    """Alpha is nothing or all, so that laying over needs no rounding."""
    found = rng.integers(0, 256, (part.height, part.width, 4), np.uint8)
    found[..., 3] = 255 * rng.integers(0, 2, (part.height, part.width))
    return found


def apng(rng: np.random.Generator) -> Moving:
    """One to five pictures, the first as large as the canvas: any disposal (5.5.4: none, background, previous) and blending."""
    width, height = int(rng.integers(2, 21)), int(rng.integers(2, 21))
    count, number = int(rng.integers(2, 6)), 0
    out = [b"\x89PNG\r\n\x1a\n", chunk(b"IHDR", struct.pack(">IIBBBBB", width, height, 8, 6, 0, 0, 0))]
    out.append(chunk(b"acTL", struct.pack(">II", count, 0)))
    canvas = np.zeros((height, width, 4), np.uint8)
    seen, times = [], []
    for n in range(count):
        part = Part(0, 0, width, height) if n == 0 else part_of(rng, width, height)
        pixels = pixels_of(rng, part)
        disposal, over, milliseconds = int(rng.integers(0, 3)), bool(rng.integers(0, 2)), int(rng.choice([0, 20, 40, 250]))
        control = (part.width, part.height, part.left, part.top, milliseconds, 1000, disposal, int(over))
        out.append(chunk(b"fcTL", struct.pack(">IIIIIHHBB", number, *control)))
        rows = zlib.compress(b"".join(b"\0" + one.tobytes() for one in pixels))
        out.append(chunk(b"IDAT", rows) if n == 0 else chunk(b"fdAT", struct.pack(">I", number + 1) + rows))
        number += 1 if n == 0 else 2
        before = canvas.copy()
        laid(canvas[part.area], pixels, over)
        seen.append(canvas.copy())
        times.append(milliseconds)
        # "If the first fcTL chunk uses APNG_DISPOSE_OP_PREVIOUS it should be treated as APNG_DISPOSE_OP_BACKGROUND."
        if disposal == 1 or (disposal == 2 and n == 0):
            canvas[part.area] = 0
        elif disposal == 2:
            canvas = before
    return Moving(b"".join([*out, chunk(b"IEND", b"")]), seen, times)


def laid(under: np.ndarray, pixels: np.ndarray, over: bool) -> None:
    """Put pixels in the place of others, or over them."""
    shown = pixels[..., 3] > 0 if over else np.ones(pixels.shape[:2], bool)
    under[shown] = pixels[shown]


# ---- WebP ----
def riff(name: bytes, data: bytes) -> bytes:
    return name + struct.pack("<I", len(data)) + data + b"\0" * (len(data) % 2)


def three(number: int) -> bytes:
    return struct.pack("<I", number)[:3]


def webp(rng: np.random.Generator) -> Moving:
    """Two to five pictures at even places, lossless: laid over or put in place, left or cleared (section 2.7.1.1)."""
    width, height = int(rng.integers(2, 21)), int(rng.integers(2, 21))
    frames, seen, times = [], [], []
    canvas = np.zeros((height, width, 4), np.uint8)
    for _ in range(int(rng.integers(2, 6))):
        part = part_of(rng, width, height, even=True)
        pixels = pixels_of(rng, part)
        clears, over, milliseconds = bool(rng.integers(0, 2)), bool(rng.integers(0, 2)), int(rng.choice([0, 20, 40, 250]))
        room = io.BytesIO()
        Image.fromarray(pixels).save(room, "WEBP", lossless=True, exact=True)
        still = room.getvalue()
        lossless = still[still.index(b"VP8L") :]
        place = three(part.left // 2) + three(part.top // 2) + three(part.width - 1) + three(part.height - 1)
        frames.append(riff(b"ANMF", place + three(milliseconds) + bytes([(not over) << 1 | clears]) + lossless))
        laid(canvas[part.area], pixels, over)
        seen.append(canvas.copy())
        times.append(milliseconds)
        if clears:
            canvas[part.area] = 0
    head = riff(b"VP8X", bytes([0x12, 0, 0, 0]) + three(width - 1) + three(height - 1))
    body = b"WEBP" + head + riff(b"ANIM", bytes(4) + struct.pack("<H", 0)) + b"".join(frames)
    return Moving(riff(b"RIFF", body), seen, times)


MAKERS: dict[str, Callable[[np.random.Generator], Moving]] = {"GIF": gif, "APNG": apng, "WebP": webp}
