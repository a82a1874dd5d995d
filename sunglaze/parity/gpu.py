"""Programs on a GPU: the real player (dist/player/player.js) in headless Chromium, its pixels read back."""

from __future__ import annotations

import base64
import json
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.errors import GlazeError
from sunglaze.core.package.archive import program_json
from sunglaze.core.shading.program import Inputs, Program

PLAYER = Path(__file__).parents[2] / "web" / "dist" / "player" / "player.js"
CHROMIUM = "/usr/bin/chromium"
FLAGS = (
    "--no-sandbox", "--disable-quic", "--no-first-run", "--disable-background-networking", "--disable-component-update",
    "--disable-sync", "--enable-unsafe-swiftshader",
)  # fmt: skip
_ADDRESS = "http://localhost/parity"
_SCRIPT = """async ({ program, tables, pictures, frames, width, height, timed }) => {
  const { Player } = await import('/player.js')
  const bytes = (text) => Uint8Array.from(atob(text), (c) => c.charCodeAt(0))
  const image = (text, w, h) => new ImageData(new Uint8ClampedArray(bytes(text).buffer), w, h)
  const given = new Map(pictures.map((p) => [p.name, image(p.data, p.width, p.height)]))
  const floats = tables.map((text) => new Float32Array(bytes(text).buffer))
  window.canvas ??= document.createElement('canvas')
  const player = new Player(window.canvas, program, { tables: floats, pictures: given })
  try {
    const gl = window.canvas.getContext('webgl2')
    const drawn = frames.map((f) => [image(f.colour, width, height), f.number, image(f.mask, width, height)])
    const masks = (mask) => (mask ? new Map([["person", mask]]) : undefined)
    for (const [colour, number, mask] of drawn) player.draw(colour, width, height, number, masks(mask))
    if (timed) {
      const wait = () => gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, new Uint8Array(4))
      wait()
      const times = []
      for (let n = 0; n < timed; n++) {
        const began = performance.now()
        player.draw(drawn[0][0], width, height, n + 1, masks(drawn[0][2]))
        wait()
        times.push(performance.now() - began)
      }
      return times.sort((a, b) => a - b)[timed >> 1]
    }
    const out = new Uint8Array(width * height * 4)
    gl.readPixels(0, 0, width, height, gl.RGBA, gl.UNSIGNED_BYTE, out)
    let text = ''
    for (let at = 0; at < out.length; at += 32768) text += String.fromCharCode(...out.subarray(at, at + 32768))
    return btoa(text)
  } finally {
    player.close()
  }
}"""


@dataclass(frozen=True)
class Frame:
    """A camera frame: (height, width, 4) bytes, the person mask last; and its number."""

    pixels: NDArray[np.uint8]
    number: int = 0


class Gpu:
    """A page in which programs run."""

    def __init__(self, page: Any) -> None:
        self._page = page

    def picture(self, program: Program, inputs: Inputs, frames: Sequence[Frame]) -> NDArray[np.int64]:
        """The last frame's picture, (height, width, 3), 0 to 255."""
        height, width = frames[0].pixels.shape[:2]
        text = self._page.evaluate(_SCRIPT, self._order(program, inputs, frames, 0))
        seen = np.frombuffer(base64.b64decode(text), np.uint8).reshape(height, width, 4)
        # The canvas counts rows from below.
        return seen[::-1, :, :3].astype(np.int64)

    def milliseconds(self, program: Program, inputs: Inputs, frame: Frame, count: int = 12) -> float:
        """How long a frame takes, upload included: the median of `count`."""
        return float(self._page.evaluate(_SCRIPT, self._order(program, inputs, [frame], count)))

    def signals(self, program: Program, frames: Sequence[dict[str, float]]) -> list[list[float]]:
        """What the player's interpreter gives for a list of frames, each with all its uniforms."""
        script = """async ({ data, frames }) => {
          const { Signals } = await import('/player.js')
          const signals = new Signals(data)
          return frames.map((uniforms, n) => signals.at(n, () => uniforms))
        }"""
        found: list[list[float]] = self._page.evaluate(script, {"data": program.signals.as_data(), "frames": list(frames)})
        return found

    def _order(self, program: Program, inputs: Inputs, frames: Sequence[Frame], timed: int) -> dict[str, Any]:
        program = program.final
        height, width = frames[0].pixels.shape[:2]
        plain = program_json(program, inputs, "parity", {n: n for n in program.tables}, {})
        return {
            "program": json.loads(json.dumps(plain)),
            "tables": [_text(inputs.tables[n][..., :3].astype("<f4")) for n in program.tables],
            "pictures": [
                {"name": n, "data": _text(_rgba(p)), "width": p.shape[1], "height": p.shape[0]}
                for n, p in inputs.pictures.items()
            ],
            "frames": [{"number": f.number, "colour": _text(_opaque(f.pixels)), "mask": _text(_mask(f.pixels))} for f in frames],
            "width": width,
            "height": height,
            "timed": timed,
        }


def _text(array: NDArray[Any]) -> str:
    return base64.b64encode(np.ascontiguousarray(array).tobytes()).decode()


def _rgba(pixels: NDArray[Any]) -> NDArray[np.uint8]:
    if pixels.shape[2] == 4:
        return pixels.astype(np.uint8)
    return np.concatenate([pixels, np.full_like(pixels[..., :1], 255)], axis=2).astype(np.uint8)


def _opaque(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    return _rgba(pixels[..., :3])


def _mask(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    return _rgba(np.repeat(pixels[..., 3:4], 3, axis=2))


@contextmanager
def gpu(browser: Any = None) -> Iterator[Gpu]:
    """A GPU page, in a browser of its own where none is given. Raises GlazeError where something is not installed."""
    if not PLAYER.is_file():
        raise GlazeError("the player is not built; run ./run setup")
    try:
        from playwright.sync_api import sync_playwright
    except ImportError:
        raise GlazeError("this needs the packages of requirements-dev.lock; run ./run test once") from None
    if browser is not None:
        yield from _page(browser)
        return
    with sync_playwright() as playwright:
        started = playwright.chromium.launch(executable_path=CHROMIUM, args=list(FLAGS))
        try:
            yield from _page(started)
        finally:
            started.close()


def _page(browser: Any) -> Iterator[Gpu]:
    page = browser.new_page()

    def answer(route: Any) -> None:
        if route.request.url.endswith("/player.js"):
            route.fulfill(body=PLAYER.read_text(), content_type="text/javascript")
        else:
            route.fulfill(body="<title>parity</title>", content_type="text/html")

    page.route("**/*", answer)
    page.goto(_ADDRESS)
    try:
        yield Gpu(page)
    finally:
        page.close()
