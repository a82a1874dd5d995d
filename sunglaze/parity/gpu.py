"""Programs on a GPU: the real player (dist/player/player.js) in headless Chromium, its pixels read back."""

from __future__ import annotations

import base64
import json
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.errors import GlazeError
from sunglaze.core.language.pictures import asset_picture
from sunglaze.core.material.mesh import MeshData
from sunglaze.core.material.painting import SIDE, Painting
from sunglaze.core.moment.moment import Clock, Moment, write_moment
from sunglaze.core.package.archive import program_json
from sunglaze.core.passes.program import Floats, Inputs, Program, State
from sunglaze.core.targets.memory import seen_as_floats

PLAYER = Path(__file__).parents[2] / "web" / "dist" / "player" / "player.js"
CHROMIUM = "/usr/bin/chromium"
FLAGS = (
    "--no-sandbox", "--disable-quic", "--no-first-run", "--disable-background-networking", "--disable-component-update",
    "--disable-sync", "--enable-unsafe-swiftshader",
)  # fmt: skip
_ADDRESS = "http://localhost/parity"
_SCRIPT = """async ({ program, tables, pictures, sequences, meshes, moments, missed, timed, first, turned }) => {
  const { Loaded, Player, partsOf, readMoment, renewed } = await import('/player.js')
  const bytes = (text) => Uint8Array.from(atob(text), (c) => c.charCodeAt(0))
  const image = (p) => new ImageData(new Uint8ClampedArray(bytes(p.data).buffer), p.width, p.height)
  const given = new Map(pictures.map((p) => [p.name, image(p)]))
  const floats = tables.map((text) => new Float32Array(bytes(text).buffer))
  const film = (id, frames) => new Loaded(frames.map(image), program.sequences[id]?.holds)
  const shown = new Map(Object.entries(sequences).map(([id, frames]) => [id, film(id, frames)]))
  const drawable = new Map(Object.entries(meshes))
  window.canvas ??= document.createElement('canvas')
  const material = { tables: floats, pictures: given, sequences: shown, meshes: drawable, parts: await partsOf(program) }
  const player = new Player(window.canvas, renewed(program), material)
  const between = new Map(missed.map((plain) => [plain.clock.frame, readMoment(plain)]))
  try {
    const gl = window.canvas.getContext('webgl2')
    const drawn = moments.map((m) => {
      const masks = new Map(Object.entries(m.masks).map(([name, mask]) => [name, image(mask)]))
      return [readMoment(m.moment), { picture: image(m.picture), masks }]
    })
    if (timed) {
      player.draw(...drawn[0])
      const wait = () => gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, new Uint8Array(4))
      wait()
      const times = []
      for (let n = 0; n < timed; n++) {
        const began = performance.now()
        player.draw({ ...drawn[0][0], clock: { ...drawn[0][0].clock, frame: n + 1 } }, drawn[0][1])
        wait()
        times.push(performance.now() - began)
      }
      return times.sort((a, b) => a - b)[timed >> 1]
    }
    return drawn.map(([moment, seen], n) => {
      const { columns, rows } = moment.screen
      const out = new Uint8Array(columns * rows * 4)
      Object.assign(player.uniforms, turned[n])
      player.draw(moment, seen, (frame) => between.get(frame))
      if (n < first) return ''
      gl.readPixels(0, 0, columns, rows, gl.RGBA, gl.UNSIGNED_BYTE, out)
      let text = ''
      for (let at = 0; at < out.length; at += 32768) text += String.fromCharCode(...out.subarray(at, at + 32768))
      return btoa(text)
    })
  } finally {
    player.close()
  }
}"""
_SIGNALS = """async ({ data, moments, uniforms }) => {
  const { Signals, readMoment } = await import('/player.js')
  const signals = new Signals(data)
  return moments.map((moment, n) => signals.at(readMoment(moment), uniforms[n]))
}"""


_PAINTED = """async (painting) => {
  const { painted } = await import('/player.js')
  const { data } = painted(painting)
  let text = ''
  for (let at = 0; at < data.length; at += 32768) text += String.fromCharCode(...data.subarray(at, at + 32768))
  return btoa(text)
}"""


class Gpu:
    """A page in which programs run."""

    def __init__(self, page: Any) -> None:
        self._page = page

    def run(self, program: Program, moment: Moment, inputs: Inputs, state: State | None = None) -> list[Floats]:
        """An Engine, of the program's last output in steps of 1/255. The page keeps no state: `state` remembers the moments that
        were drawn, and all are drawn again."""
        before: list[Moment] = state.kept.get("moments", []) if state is not None else []
        moments = [*before, moment]
        if state is not None:
            state.kept["moments"] = moments
        seen = self.seen(self._order(program, inputs, moments, 0), moment)
        return [seen.astype(np.float32) / np.float32(255)]

    def play(
        self,
        program: Program,
        moments: Sequence[Moment],
        inputs: Inputs,
        settled: bool = False,
        turned: Sequence[Mapping[str, float]] = (),
    ) -> list[NDArray[np.uint8]]:
        """What the page shows of moments, one after the other from a first frame on: (rows, columns, 3) each. `settled`: as a
        package has it, without what comes to nothing. `turned`: what controls are set to before each moment, by name."""
        order = self._order(program, inputs, moments, 0, first=0, settled=settled)
        texts = self._page.evaluate(_SCRIPT, order | {"turned": [dict(one) for one in turned]})
        return [_shown(text, moment) for text, moment in zip(texts, moments, strict=True)]

    def seen(self, order: dict[str, Any], moment: Moment) -> NDArray[np.uint8]:
        """What the page shows after an order whose last moment this is: (rows, columns, 3)."""
        return _shown(self._page.evaluate(_SCRIPT, order)[-1], moment)

    def milliseconds(self, program: Program, inputs: Inputs, moment: Moment, count: int = 12) -> float:
        """How long a frame takes, upload included: the median of `count`."""
        return float(self._page.evaluate(_SCRIPT, self._order(program, inputs, [moment], count)))

    def signals(self, program: Program, moments: Sequence[Moment], uniforms: Sequence[Mapping[str, float]]) -> list[list[float]]:
        """What the player's interpreter gives for moments, each with all its uniforms."""
        order = {
            "data": program.signals.as_data(),
            "moments": [write_moment(replace(one, picture=None, regions={})) for one in moments],
            "uniforms": [dict(one) for one in uniforms],
        }
        found: list[list[float]] = self._page.evaluate(_SIGNALS, order)
        return found

    def evaluate(self, script: str, order: Any) -> Any:
        """What a function of the page's makes of something."""
        return self._page.evaluate(script, order)

    def painted(self, painting: Painting) -> NDArray[np.uint8]:
        """A painting as the player draws it, (2 * SIDE, SIDE, 4)."""
        text = self._page.evaluate(_PAINTED, painting.plain)
        return np.frombuffer(base64.b64decode(text), np.uint8).reshape(2 * SIDE, SIDE, 4)

    def _order(
        self,
        program: Program,
        inputs: Inputs,
        moments: Sequence[Moment],
        timed: int,
        first: int | None = None,
        settled: bool = False,
    ) -> dict[str, Any]:
        """`first`: of the moments whose picture is wanted; the last one's alone where nothing is said."""
        program = program.final
        plain = program_json(program, inputs, "parity", {n: n for n in program.tables}, {}, {}, settled=settled)
        last = moments[-1]
        missed = [replace(last, clock=Clock.at(n)) for n in range(last.clock.frame)]
        return {
            "program": json.loads(json.dumps(plain)),
            "tables": [_text(inputs.tables[n][..., :3].astype("<f4")) for n in program.tables],
            "pictures": [{"name": asset_picture(n).name, **_image(_rgba(p))} for n, p in _pictures(program, inputs)],
            "sequences": {n: [_image(_rgba(s.each.frame(k))) for k in range(s.frames)] for n, s in inputs.sequences.items()},
            "meshes": {n: _mesh(m) for n, m in inputs.meshes.items()},
            "moments": [_seen(one) for one in moments],
            "missed": [write_moment(replace(one, picture=None, regions={})) for one in missed],
            "timed": timed,
            "first": len(moments) - 1 if first is None else first,
            "turned": [],
        }


def _shown(text: str, moment: Moment) -> NDArray[np.uint8]:
    shown = np.frombuffer(base64.b64decode(text), np.uint8).reshape(moment.screen.rows, moment.screen.columns, 4)
    # The canvas counts rows from below.
    return shown[::-1, :, :3]


def _pictures(program: Program, inputs: Inputs) -> list[tuple[str, NDArray[Any]]]:
    found = {name: inputs.asset(name) for name in program.assets}
    return [(name, picture.frame()) for name, picture in found.items() if picture is not None]


def _seen(moment: Moment) -> dict[str, Any]:
    """A moment as the page takes it: what is seen of it apart."""
    assert moment.picture is not None
    pixels = np.rint(seen_as_floats(moment.picture, moment.screen.columns) * 255).astype(np.uint8)
    masks = {f"region:{name}": _image(_grey(mask[..., 0])) for name, mask in moment.regions.items()}
    if pixels.shape[2] == 4:
        masks["person"] = _image(_grey(pixels[..., 3]))
    plain = write_moment(replace(moment, picture=None, regions={}))
    return {"moment": plain, "picture": _image(_rgba(pixels[..., :3])), "masks": masks}


def _mesh(mesh: MeshData) -> dict[str, Any]:
    names = ("vertices", "places", "triangles", "normals", "colours", "parts")
    given = {name: part.ravel().tolist() for name in names if (part := getattr(mesh, name)) is not None}
    moves = [{"rate": m.rate, "parts": m.matrices.shape[1], "matrices": m.matrices.ravel().tolist()} for m in mesh.motions]
    return {**given, "motions": moves}


def _image(pixels: NDArray[np.uint8]) -> dict[str, Any]:
    return {"data": _text(pixels), "width": pixels.shape[1], "height": pixels.shape[0]}


def _text(array: NDArray[Any]) -> str:
    return base64.b64encode(np.ascontiguousarray(array).tobytes()).decode()


def _rgba(pixels: NDArray[Any]) -> NDArray[np.uint8]:
    if pixels.shape[2] == 4:
        return pixels.astype(np.uint8)
    return np.concatenate([pixels, np.full_like(pixels[..., :1], 255)], axis=2).astype(np.uint8)


def _grey(mask: NDArray[np.uint8]) -> NDArray[np.uint8]:
    return _rgba(np.repeat(mask[..., None], 3, axis=2))


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
