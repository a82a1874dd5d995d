"""One chain of full-frame work four ways: split, saturation, contrast, vignette, soft light, grain at 720 by 1280.

Ours; NumPy with OpenCV as an engineer would write it; FFmpeg's filters through PyAV for the parts that it has; and the same
program as GLSL in SwiftShader.
"""

from __future__ import annotations

import itertools
from fractions import Fraction

import av
import cv2
import numpy as np

from bench.timing import in_turns
from sunglaze.core.camera.cameras import colours
from sunglaze.core.camera.cast import StandIn
from sunglaze.core.engine.room import Room
from sunglaze.core.engine.running import draw, prepare
from sunglaze.core.language import pictures as p
from sunglaze.core.language import vector as v
from sunglaze.core.language.expression import constant
from sunglaze.core.language.moments import moment as moment_of
from sunglaze.core.language.vector import Vec, rgba
from sunglaze.core.moment.moment import Reads
from sunglaze.core.nodes.blend import blend
from sunglaze.core.nodes.colour import contrast, saturate
from sunglaze.core.nodes.coordinates import sides
from sunglaze.core.nodes.noise import hash_noise
from sunglaze.core.passes.program import Inputs, Program, uniform
from sunglaze.parity.gpu import gpu

WIDTH, HEIGHT = 720, 1280
TINT = (0.9, 0.55, 0.25)


def program() -> Program:
    """The chain in nodes and in the words of rules; all amounts are uniforms, as in the workbench."""
    red, blue = p.near(p.CAMERA, 0, 4), p.near(p.CAMERA, 2, -4)
    colour = rgba(Vec(red, p.near(p.CAMERA, 1), blue), 1.0)
    colour = contrast(saturate(colour, uniform("saturation")), uniform("contrast"), constant(0.5))
    away = v.length((p.here() - 0.5) * sides())
    colour = rgba(colour.rgb * (1.0 - v.smoothstep(0.35, 1.0, away) * uniform("vignette")), 1.0)
    colour = blend(colour, rgba(Vec(*TINT), 1.0), "soft-light", uniform("soft"), constant(1.0), "display")
    grain = (hash_noise(p.here(), constant(float(WIDTH)), moment_of("frame")) - 0.5) * uniform("grain")
    return Program((colour.rgb + grain,))


AMOUNTS = {"saturation": 1.2, "contrast": 1.15, "vignette": 0.6, "soft": 0.4, "grain": 0.12}


def with_numpy(pixels: np.ndarray, falloff: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """Float32 arrays, OpenCV where it has the operation."""
    picture = pixels.astype(np.float32) * np.float32(1 / 255)
    picture[:, :-4, 0] = picture[:, 4:, 0].copy()
    picture[:, 4:, 2] = picture[:, :-4, 2].copy()
    grey = cv2.transform(picture, np.array([[0.2126, 0.7152, 0.0722]], np.float32))[..., None]
    picture = cv2.addWeighted(picture, 1.2, np.repeat(grey, 3, axis=2), -0.2, 0)
    picture = (picture - 0.5) * np.float32(1.15) + np.float32(0.5)
    picture *= falloff
    np.clip(picture, 0, 1, out=picture)
    tint = np.array(TINT, np.float32)
    root = np.where(picture <= 0.25, ((16 * picture - 12) * picture + 4) * picture, np.sqrt(picture))
    lit = np.where(tint <= 0.5, picture - (1 - 2 * tint) * picture * (1 - picture), picture + (2 * tint - 1) * (root - picture))
    picture += (lit - picture) * np.float32(0.4)
    picture += (rng.random((HEIGHT, WIDTH, 1), np.float32) - np.float32(0.5)) * np.float32(0.12)
    return np.clip(picture * 255 + 0.5, 0, 255).astype(np.uint8)


def ffmpeg_graph() -> av.filter.Graph:
    """Split, saturation, contrast, vignette, grain: FFmpeg has no soft light with one colour but by a second picture."""
    graph = av.filter.Graph()
    size = f"video_size={WIDTH}x{HEIGHT}:pix_fmt=rgb24:time_base=1/30:pixel_aspect=1/1"
    chain = [
        graph.add("buffer", size),
        graph.add("format", "gbrp"),
        graph.add("rgbashift", "rh=-4:bh=4"),
        graph.add("huesaturation", "saturation=0.2"),
        graph.add("lutrgb", "r=clipval*1.15-19:g=clipval*1.15-19:b=clipval*1.15-19"),
        graph.add("vignette", "angle=0.6"),
        graph.add("noise", "alls=12:allf=t"),
        graph.add("format", "rgb24"),
        graph.add("buffersink"),
    ]
    for a, b in itertools.pairwise(chain):
        a.link_to(b)
    graph.configure()
    return graph


def measure() -> list[str]:
    camera = StandIn(WIDTH, HEIGHT)
    moment = camera.moment(7, Reads())
    pixels = np.ascontiguousarray(colours(camera.frame(7), WIDTH))
    inputs, room = Inputs(AMOUNTS), Room()
    made = program()
    prepare(made, "bytes")
    rows, columns = np.mgrid[0:HEIGHT, 0:WIDTH].astype(np.float32)
    y, x = (rows + 0.5 - HEIGHT / 2) / WIDTH, (columns + 0.5 - WIDTH / 2) / WIDTH
    t = np.clip((np.hypot(x, y) - 0.35) / 0.65, 0, 1)
    falloff = (1 - t * t * (3 - 2 * t) * np.float32(0.6)).astype(np.float32)[..., None]
    rng = np.random.default_rng(1)
    graph, frames = ffmpeg_graph(), iter(range(10_000))

    def through_ffmpeg() -> None:
        frame = av.VideoFrame.from_ndarray(pixels, "rgb24")
        frame.pts, frame.time_base = next(frames), Fraction(1, 30)
        graph.push(frame)
        graph.pull()

    ways = {
        "two threads": lambda: draw(made, moment, inputs, room=room, threads=2),
        "one thread": lambda: draw(made, moment, inputs, room=room, threads=1),
        "numpy": lambda: with_numpy(pixels, falloff, rng),
        "ffmpeg": through_ffmpeg,
    }
    times = in_turns(ways, 15)
    with gpu() as page:
        times["swiftshader"] = page.milliseconds(made, inputs, moment, 16)
    best = times["two threads"]
    names = {
        "two threads": "Sun Glaze, 2 threads",
        "one thread": "Sun Glaze, 1 thread",
        "numpy": "NumPy with OpenCV",
        "ffmpeg": "FFmpeg's filters (without soft light)",
        "swiftshader": "the same program in SwiftShader, its upload included",
    }
    lines = ["| | a frame | against ours on 2 threads |", "| --- | --- | --- |"]
    return [*lines, *(f"| {names[way]} | {ms:.1f} ms | {ms / best:.1f} |" for way, ms in times.items())]
