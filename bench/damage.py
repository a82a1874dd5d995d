"""How often lossy damage of lookup pictures is seen, by JPEG quality, and how often it is seen where there is none."""

from __future__ import annotations

import numpy as np

from sunglaze.core.colour.inspection import DAMAGE, noise
from sunglaze.core.colour.layouts import Layout
from sunglaze.core.colour.lut_picture import read_lut_picture, write_lut_picture
from sunglaze.core.material.files import encode_png, read_picture
from tests.grades import smooth_grade, through_jpeg

KINDS: list[tuple[Layout, int]] = [("strip", 16), ("strip", 33), ("grid", 16), ("hald", 25), ("grid", 36), ("hald", 16)]
QUALITIES = (60, 70, 80, 90, 95)


def measure() -> list[str]:
    rng = np.random.default_rng(7)
    found: dict[str, list[float]] = {"clean, 8 bits": [], **{f"JPEG {q}": [] for q in QUALITIES}}
    for n in range(200):
        layout, size = ("grid", 64) if n % 40 == 0 else KINDS[n % len(KINDS)]
        written = write_lut_picture(smooth_grade(rng, size), layout, 8)
        pixels = read_picture(written).pixels
        found["clean, 8 bits"].append(noise(read_lut_picture(written, layout).lut) or 0.0)
        quality = QUALITIES[n % len(QUALITIES)]
        lossy = encode_png(through_jpeg(pixels, quality, full_chroma=n % 2 == 0), 1)
        found[f"JPEG {quality}"].append(noise(read_lut_picture(lossy, layout).lut) or 0.0)
    head = ["| of 200 grades | named | noise, least to most |", "| --- | --- | --- |"]
    lines = [f"Named from a noise of {DAMAGE:.5f} on.", "", *head]
    for name, values in found.items():
        named = sum(value > DAMAGE for value in values)
        lines.append(f"| {name} | {named} of {len(values)} | {min(values):.5f} to {max(values):.5f} |")
    return lines
