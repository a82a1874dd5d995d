"""The demo's own material, made by code: a worn reel, drifting fog, a broken signal, kites, a shoal, and somebody's photo."""

from __future__ import annotations

import io
from typing import Any

import av
import cv2
import numpy as np
from numpy.typing import NDArray

from sunglaze.core.material.cutting import Cut, cut_clip
from sunglaze.core.material.files import encode_webp
from sunglaze.core.material.footage import Footage
from sunglaze.core.material.reels import made
from sunglaze.core.material.sequence import Sequence

Bytes = NDArray[np.uint8]
Floats = NDArray[np.float64]


def film(pictures: list[Bytes], rate: int) -> bytes:
    """An MP4 (H.264) of pictures (height, width, 3)."""
    room = io.BytesIO()
    with av.open(room, "w", format="mp4") as container:
        stream: Any = container.add_stream("libx264", rate=rate, options={"crf": "22", "preset": "veryfast"})
        stream.height, stream.width, stream.pix_fmt = *pictures[0].shape[:2], "yuv420p"
        for one in pictures:
            container.mux(stream.encode(av.VideoFrame.from_ndarray(np.ascontiguousarray(one), format="rgb24")))
        container.mux(stream.encode())
    return room.getvalue()


def soft_noise(rng: np.random.Generator, height: int, width: int, cells: int) -> Floats:
    """Noise of so many cells across that tiles in both directions, (height, width), 0 to 1."""
    down = max(2, round(cells * height / width))
    small = rng.random((down, cells))
    wide = np.pad(small, ((2, 2), (2, 2)), mode="wrap")
    scale = (width / cells, height / down)
    large = cv2.resize(wide, (round((cells + 4) * scale[0]), round((down + 4) * scale[1])), interpolation=cv2.INTER_CUBIC)
    top, left = round(2 * scale[1]), round(2 * scale[0])
    return np.clip(large[top : top + height, left : left + width], 0, 1)


def worn_reel() -> bytes:
    """Light through a worn print, as a clip of 1280 by 720: specks that jump, scratches that waver, on black."""
    rng = np.random.default_rng(12)
    height, width = 720, 1280
    lines = [(rng.uniform(0, width), rng.uniform(0.2, 0.7), rng.uniform(0, 6.3)) for _ in range(9)]
    pictures = []
    for n in range(60):
        light = np.zeros((height, width), np.float32)
        for column, much, turn in lines:
            if np.sin(turn + n * 0.21) < 0.1:
                continue
            place = column + 5 * np.sin(turn + n * 0.35)
            points = np.array([[place + 3 * np.sin(y / 190 + turn + n * 0.1), y] for y in range(-20, height + 40, 40)])
            cv2.polylines(light, [np.round(points * 16).astype(np.int32)], False, much, 1, cv2.LINE_AA, 4)
        for _ in range(int(rng.poisson(26))):
            middle = rng.uniform(0, width), rng.uniform(0, height)
            size = rng.gamma(1.6, 1.6) + 0.8
            axes = int(size * 16), int(size * rng.uniform(0.5, 1) * 16)
            spot = int(middle[0] * 16), int(middle[1] * 16)
            cv2.ellipse(light, spot, axes, rng.uniform(0, 180), 0, 360, rng.uniform(0.4, 1), -1, cv2.LINE_AA, 4)
        if rng.random() < 0.16:
            hair = np.cumsum(rng.normal(0, 14, (9, 2)), axis=0) + np.array([rng.uniform(0, width), rng.uniform(0, height)])
            cv2.polylines(light, [np.round(hair * 16).astype(np.int32)], False, 0.8, 2, cv2.LINE_AA, 4)
        grain = 0.02 * rng.random((height, width))
        tone = np.array([1.0, 0.95, 0.84])
        pictures.append(np.rint(255 * np.clip((light + grain)[..., None] * tone, 0, 1)).astype(np.uint8))
    return film(pictures, 25)


def dust_loop(reel: bytes) -> Sequence:
    """The reel as the artist cuts it: upright, 12 a second, black to clear, its ends meeting softly."""
    cut = Cut(size=(540, 960), span=(0.1, 2.3), rate=12, black=True, soften=0.3, quality=62)
    return cut_clip(Footage(reel), cut).sequence


def fog() -> Sequence:
    """Banks of fog that drift to the right and come round: bright where it is thick, of a cold colour."""
    rng = np.random.default_rng(5)
    height, width, count = 480, 270, 36
    layers = [
        (soft_noise(rng, height, width * 2, cells), speed, much)
        for cells, speed, much in ((6, 1, 1.0), (11, 2, 0.55), (23, 3, 0.28))
    ]
    pictures = []
    for n in range(count):
        thick = (
            sum(np.roll(noise, round(n / count * 2 * width * speed), axis=1)[:, :width] * much for noise, speed, much in layers)
            / 1.83
        )
        lit = np.clip((thick - 0.36) * 3.2, 0, 1)
        tone = np.array([0.90, 0.97, 1.0]) * (1 - 0.25 * (1 - lit[..., None]))
        pictures.append(np.rint(255 * lit[..., None] * tone).astype(np.uint8))
    return made([encode_webp(one, 70) for one in pictures], 12.0)


def lost_signal() -> Sequence:
    """What displaces a picture as a bad signal does: bands that jump aside, grey where nothing moves."""
    rng = np.random.default_rng(8)
    height, width = 320, 180
    pictures = []
    for n in range(20):
        field = np.full((height, width, 3), 128, np.uint8)
        if n % 5 not in (1, 2):
            for _ in range(int(rng.integers(2, 8))):
                top, high = int(rng.integers(0, height)), int(rng.integers(3, 40))
                field[top : top + high, :, 0] = np.clip(128 + rng.normal(0, 60), 0, 255)
            for _ in range(int(rng.integers(0, 5))):
                top, left = int(rng.integers(0, height)), int(rng.integers(0, width))
                field[top : top + 16, left : left + 40, 1] = np.clip(128 + rng.normal(0, 70), 0, 255)
        pictures.append(field)
    return made([encode_webp(one, None) for one in pictures], 15.0)


def sky() -> Bytes:
    """Late light over the water, painted in bands, (1280, 720, 3)."""
    rng = np.random.default_rng(3)
    y = np.linspace(0, 1, 1280)[:, None]
    stops = np.array([[64, 116, 170], [139, 182, 205], [238, 208, 170], [233, 160, 110], [60, 92, 110]], float)
    places = np.array([0, 0.35, 0.58, 0.66, 1.0])
    tone = np.stack([np.interp(y[:, 0], places, stops[:, c]) for c in range(3)], axis=-1)[:, None]
    clouds = soft_noise(rng, 1280, 720, 5) * 0.7 + soft_noise(rng, 1280, 720, 13) * 0.3
    cloud = np.clip((clouds - 0.55) * 3, 0, 1)[..., None] * np.clip(1 - y[..., None] * 1.5, 0, 1)
    return np.rint(tone * (1 - cloud * 0.8) + np.array([255, 244, 230]) * cloud * 0.8).astype(np.uint8)


def kites() -> Bytes:
    """Five kites with their tails on clear, (1280, 720, 4)."""
    rng = np.random.default_rng(9)
    scale = 4
    large = np.zeros((1280, 720, 4), np.uint8)
    colours = [(206, 74, 52), (244, 190, 72), (64, 132, 138), (232, 226, 208), (116, 74, 122)]
    for n, (x, y, size) in enumerate([(150, 170, 74), (560, 110, 92), (610, 420, 56), (90, 520, 60), (370, 250, 40)]):
        turn = rng.uniform(-0.5, 0.5)
        way = np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]])
        shape = np.array([[0, -1.1], [0.72, -0.1], [0, 1.3], [-0.72, -0.1]]) * size @ way.T + (x, y)
        tail = np.array(
            [[np.sin(t * 5 + n) * size * 0.22, 1.3 * size + t * size * 1.6] for t in np.linspace(0, 1, 24)]
        ) @ way.T + (x, y)
        whole = [np.round(points * 2**scale).astype(np.int32) for points in (shape, tail)]
        cv2.polylines(large, [whole[1]], False, (*colours[n], 255), 3, cv2.LINE_AA, scale)
        cv2.fillPoly(large, [whole[0]], (*colours[n], 255), cv2.LINE_AA, scale)
        half = np.round(np.array([shape[0], shape[1], shape[2]]) * 2**scale).astype(np.int32)
        cv2.fillPoly(large, [half], (*(int(c * 0.82) for c in colours[n]), 255), cv2.LINE_AA, scale)
    return large


def shoal() -> Bytes:
    """A sheet of 12 by 12 cells on clear: a fish that turns in the light, a little further in each."""
    cell, many = 40, 4
    out = np.zeros((12 * cell, 12 * cell, 4), np.uint8)
    for n in range(144):
        turn = 2 * np.pi * n / 144
        seen = abs(np.cos(turn))
        room = np.zeros((cell * many, cell * many), np.float32)
        middle = cell * many // 2
        wide, high = 0.34 * cell * many * (0.25 + 0.75 * seen), 0.13 * cell * many
        body = (int(middle * 16), int(middle * 16))
        cv2.ellipse(room, body, (int(wide * 16), int(high * 16)), 0, 0, 360, 1, -1, cv2.LINE_AA, 4)
        side = -1 if np.cos(turn) < 0 else 1
        root = middle - side * wide * 0.86
        fin = np.array([[root, middle], [root - side * wide * 0.42, middle - high], [root - side * wide * 0.42, middle + high]])
        cv2.fillPoly(room, [np.round(fin * 16).astype(np.int32)], 1, cv2.LINE_AA, 4)
        alpha = cv2.resize(room, (cell, cell), interpolation=cv2.INTER_AREA)
        light = 0.45 + 0.55 * seen**3
        tone = np.array([225, 238, 248]) * light + np.array([40, 90, 110]) * (1 - light)
        row, column = divmod(n, 12)
        place = slice(row * cell, row * cell + cell), slice(column * cell, column * cell + cell)
        out[place] = np.dstack([*(np.full((cell, cell), round(float(part))) for part in tone), np.rint(alpha * 255)]).astype(
            np.uint8
        )
    return out


def lighthouse() -> Bytes:
    """Somebody's photo, which stands in for the wearer's: a lighthouse before a low sun, (960, 720, 3)."""
    rng = np.random.default_rng(21)
    y, x = np.mgrid[0:960, 0:720] / 960
    glow = np.exp(-(((x - 0.5) / 0.32) ** 2 + ((y - 0.60) / 0.22) ** 2))
    picture = np.array([70, 92, 120]) + glow[..., None] * np.array([180, 120, 40]) + soft_noise(rng, 960, 720, 9)[..., None] * 24
    sea = y > 0.66
    picture[sea] = picture[sea] * 0.55
    waves = cv2.resize(rng.random((150, 40)), (720, 960), interpolation=cv2.INTER_LINEAR)
    way = np.exp(-(((x - 0.5) / (0.03 + (y - 0.62) * 0.45)) ** 2)) * sea
    picture += (np.clip(waves - 0.55, 0, 1) * 2.2 * way)[..., None] * np.array([235, 180, 105])
    picture = np.clip(picture, 0, 255).astype(np.uint8)
    tower = np.array([[325, 660], [345, 250], [375, 250], [395, 660]])
    cv2.fillPoly(picture, [tower], (34, 36, 46), cv2.LINE_AA)
    for top in (330, 440, 550):
        cv2.fillPoly(picture, [np.array([[341, top], [379, top], [384, top + 45], [336, top + 45]])], (120, 50, 44), cv2.LINE_AA)
    cv2.rectangle(picture, (340, 215), (380, 250), (30, 30, 40), -1)
    cv2.circle(picture, (360, 232), 13, (255, 244, 200), -1, cv2.LINE_AA)
    cv2.ellipse(picture, (360, 690), (240, 60), 0, 180, 360, (26, 30, 38), -1, cv2.LINE_AA)
    return picture
