"""`sunglaze realism`: whether the real trackers take the stand-in's cast for people, against the cast's exact truth.

The trackers are the application's own (web/src/camera), in headless Chromium. Wanted: the face found in at least 95 % of the
frames in which it is within 35 degrees of frontal, eye centres within 6 % of the distance of the eyes in the median, and an
intersection over union of the person masks of at least 0.90 in the median; nobody 5 points behind the others.
"""

from __future__ import annotations

import base64
import functools
import http.server
import math
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from sunglaze.complexion import complexions, photograph
from sunglaze.complexion import in_words as complexion_in_words
from sunglaze.core.camera.cameras import colours
from sunglaze.core.camera.cast import LENGTHS, Sitting, StandIn
from sunglaze.core.camera.lighting import LIGHTS
from sunglaze.core.camera.people import PEOPLE
from sunglaze.core.camera.truth import heads
from sunglaze.core.errors import GlazeError
from sunglaze.core.face.measure import measure as measure_face
from sunglaze.core.face.pose import angles
from sunglaze.core.face.steady import SteadyMask
from sunglaze.core.moment.moment import RATE
from sunglaze.outlining import in_words as outlines_in_words
from sunglaze.outlining import outlined
from sunglaze.parity.gpu import CHROMIUM, FLAGS
from sunglaze.shaking import in_words, pinned, runs, shaking

DIST = Path(__file__).parents[1] / "web" / "dist"
WIDTH, HEIGHT = 540, 960
FRONTAL, ASIDE = 35.0, 18.0
_SCRIPT = """async ([kind, address, worker]) => {
  const image = new Image()
  image.src = address
  await image.decode()
  const picture = await createImageBitmap(image)
  window.trackers ??= {}
  const tracker = (window.trackers[kind] ??= new Worker(worker))
  const answer = await new Promise((resolve, reject) => {
    tracker.onmessage = (event) => resolve(event.data)
    tracker.onerror = (event) => reject(new Error(event.message))
    tracker.postMessage({ kind, picture, seconds: null }, [picture])
  })
  if (answer.trouble) throw new Error(answer.trouble)
  if (!answer.mask) return { faces: answer.faces, hands: answer.hands, mask: null }
  const canvas = document.createElement('canvas')
  canvas.width = answer.mask.width
  canvas.height = answer.mask.height
  canvas.getContext('2d').drawImage(answer.mask, 0, 0)
  return { faces: [], mask: canvas.toDataURL('image/png') }
}"""


class Trackers:
    """The application's trackers in a page."""

    def __init__(self, page: Any, worker: str) -> None:
        self._page, self._worker = page, worker

    def faces(self, pixels: NDArray[np.uint8]) -> list[NDArray[np.float64]]:
        """Landmarks (478, 3) of every face found in a picture (height, width, 3), red first; parts of its width and height."""
        return [np.array(face) for face in self._ask("face", pixels)["faces"]]

    def hands(self, pixels: NDArray[np.uint8]) -> list[NDArray[np.float64]]:
        """The 21 points of every hand found (21, 3), as `faces` gives those of faces."""
        return [np.array(hand) for hand in self._ask("hand", pixels)["hands"]]

    def person(self, pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
        """The person mask of a picture, of its size."""
        data = base64.b64decode(self._ask("mask", pixels)["mask"].split(",")[1])
        mask = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_GRAYSCALE)
        assert mask is not None
        return np.asarray(cv2.resize(mask, (pixels.shape[1], pixels.shape[0])), np.uint8)

    def _ask(self, kind: str, pixels: NDArray[np.uint8]) -> dict[str, Any]:
        data = cv2.imencode(".jpg", np.ascontiguousarray(pixels[:, :, ::-1]), [cv2.IMWRITE_JPEG_QUALITY, 92])[1].tobytes()
        address = "data:image/jpeg;base64," + base64.b64encode(data).decode()
        answer: dict[str, Any] = self._page.evaluate(_SCRIPT, [kind, address, self._worker])
        return answer


class _Quiet(http.server.SimpleHTTPRequestHandler):
    def log_message(self, *_: Any) -> None:
        pass


@contextmanager
def trackers(browser: Any = None) -> Iterator[Trackers]:
    """The trackers, in a browser of their own where none is given. Raises GlazeError where something is not installed."""
    workers = sorted((DIST / "assets").glob("tracking-*.js"))
    if not workers or not (DIST / "trackers").is_dir():
        raise GlazeError("the front end is not built; run ./run setup")
    try:
        from playwright.sync_api import sync_playwright
    except ImportError:
        raise GlazeError("this needs the packages of requirements-dev.lock; run ./run test once") from None
    server = http.server.ThreadingHTTPServer(("127.0.0.1", 0), functools.partial(_Quiet, directory=str(DIST)))
    threading.Thread(target=server.serve_forever, daemon=True).start()
    address = f"http://127.0.0.1:{server.server_address[1]}/trackers/face_mesh/face_mesh.binarypb"

    def page_of(started: Any) -> Any:
        page = started.new_page()
        page.set_default_timeout(120_000)
        # An address of the same origin that is no page of the application's.
        page.route("**/face_mesh.binarypb", lambda route: route.fulfill(body="<title>trackers</title>", content_type="text/html"))
        page.goto(address)
        page.unroute_all()
        return page

    try:
        if browser is not None:
            page = page_of(browser)
            yield Trackers(page, f"/assets/{workers[0].name}")
            page.close()
        else:
            with sync_playwright() as playwright:
                started = playwright.chromium.launch(executable_path=CHROMIUM, args=list(FLAGS))
                yield Trackers(page_of(started), f"/assets/{workers[0].name}")
                started.close()
    finally:
        server.shutdown()


@dataclass(frozen=True)
class Seen:
    """What the trackers made of a frame. `eyes`: the error of the middles of the eyes, `points`: of the face's visible points in
    the mean, as parts of the distance of the eyes, none where no face was found; `overlap`: intersection over union of the
    person masks."""

    who: str
    light: str
    script: str
    number: int
    turned: float
    eyes: float | None
    points: float | None
    overlap: float


def look(trackers: Trackers, sitting: Sitting, number: int) -> Seen:
    """One frame of the cast as the trackers see it. Of several people, the nearest counts."""
    camera = StandIn(WIDTH, HEIGHT, sitting)
    words = camera.frame(number)
    pixels = colours(words, WIDTH)
    head = heads(camera, number)[-1]
    size = float(np.linalg.norm(head.eyes[1] - head.eyes[0]))
    eyes = points = None
    for face in trackers.faces(pixels):
        found = face[:, :2] * (WIDTH, HEIGHT)
        places = measure_face(found).places
        off = float(np.linalg.norm([places["left eye"], places["right eye"]] - head.eyes, axis=1).mean()) / size
        # A face that lies elsewhere was not found.
        if off < (eyes if eyes is not None else 0.5):
            eyes = off
            points = float(np.linalg.norm(found - head.points, axis=1)[head.visible].mean()) / size
    exact = words.view(np.uint8).reshape(HEIGHT, -1, 4)[:, :WIDTH, 3] > 127
    seen = trackers.person(pixels) > 127
    overlap = float((exact & seen).sum() / max(1, (exact | seen).sum()))
    to_right, down, _ = angles(head.turn)
    turned = math.degrees(math.acos(math.cos(math.radians(to_right)) * math.cos(math.radians(down))))
    return Seen(sitting.who, sitting.light, sitting.script, number, turned, eyes, points, overlap)


def sample(step: int = 1) -> list[tuple[Sitting, int]]:
    """Frames spread over performers, lights and scripts; every `step`th of them."""
    found = []
    for who in PEOPLE:
        for n, light in enumerate(LIGHTS):
            found += [(Sitting(who, "talk", light), 7 + 15 * k + 3 * n) for k in range(4)]
        found += [(Sitting(who, "open", "noon"), 15), (Sitting(who, "near", "shade"), 18), (Sitting(who, "near", "noon"), 80)]
    assert all(number < LENGTHS[sitting.script] for sitting, number in found)
    return found[::step]


def report(seen: list[Seen]) -> str:
    """The figures as a table in Markdown, over all, by performer, by light and by how far heads are turned."""
    lines = ["| | frames | face found | eyes, median | all points, median | person, median |", "|---|---|---|---|---|---|"]

    def line(name: str, part: list[Seen]) -> None:
        if not part:
            return
        front = [one for one in part if one.turned <= FRONTAL]
        eyes = [one.eyes for one in front if one.eyes is not None]
        found = f"{100 * len(eyes) / max(1, len(front)):.0f} %"
        points = [one.points for one in front if one.points is not None]
        errors = [f"{100 * float(np.median(all_of)):.1f} %" if all_of else "none" for all_of in (eyes, points)]
        lines.append(
            f"| {name} | {len(part)} | {found} | {' | '.join(errors)} | {float(np.median([one.overlap for one in part])):.3f} |"
        )

    line("all", seen)
    groups: list[tuple[Callable[[Seen], str], dict[str, str]]] = [
        (lambda one: one.who, {key: person.role for key, person in PEOPLE.items()}),
        (lambda one: one.light, {key: light.title for key, light in LIGHTS.items()}),
    ]
    for key_of, titles in groups:
        for key, title in titles.items():
            line(title, [one for one in seen if key_of(one) == key])
    line(f"Turned by up to {ASIDE:.0f} degrees", [one for one in seen if one.turned <= ASIDE])
    line("Farther", [one for one in seen if one.turned > ASIDE])
    return "\n".join(lines)


@dataclass(frozen=True)
class Steadiness:
    """Of the person's mask as the tracker gives it and as it is held steady: `flicker`, how much its error within EDGE pixels of
    the true edge changes from frame to frame in the mean, parts of full scale; `lag`, seconds by which a moving person's mask
    trails."""

    flicker: tuple[float, float]
    lag: tuple[float, float]


EDGE = 12
STEADY_FRAMES = 40


def steadiness(trackers: Trackers) -> Steadiness:
    """Both on frames that follow each other: somebody talking at dusk, and somebody going out of the picture and back."""
    talk = StandIn(WIDTH, HEIGHT, Sitting("lamp-tender", "talk", "dusk"))
    moving = StandIn(WIDTH, HEIGHT, Sitting("kite-flyer", "edges", "shade"))
    exact, seen = _masks(trackers, talk, range(STEADY_FRAMES))
    edge = np.asarray(np.abs(exact.mean(axis=0) - 0.5) < 0.5, np.uint8)
    near = cv2.dilate(edge, np.ones((2 * EDGE + 1, 2 * EDGE + 1), np.uint8)) > 0
    flicker = [float(np.abs(np.diff((mask - exact)[:, near], axis=0)).mean()) for mask in (seen, _steadied(seen))]
    # Across the middle of the picture, so that the person stays whole in it.
    exact, seen = _masks(trackers, moving, range(-10, 11))
    truly = _middles(exact)
    speed = np.gradient(truly) * RATE
    lag = [float(-np.polyfit(speed, _middles(mask) - truly, 1)[0]) for mask in (seen, _steadied(seen))]
    return Steadiness((flicker[0], flicker[1]), (lag[0], lag[1]))


def _masks(trackers: Trackers, camera: StandIn, numbers: range) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Exact masks and those that are seen, (frames, height, width), 0 to 1."""
    exact, seen = [], []
    for number in numbers:
        words = camera.frame(number % camera.length)
        exact.append(words.view(np.uint8).reshape(HEIGHT, -1, 4)[:, :WIDTH, 3])
        seen.append(trackers.person(colours(words, WIDTH)))
    return np.array(exact, np.float32) / np.float32(255), np.array(seen, np.float32) / np.float32(255)


def _steadied(masks: NDArray[np.float32]) -> NDArray[np.float32]:
    steady = SteadyMask()
    held = [steady.follow(np.asarray(np.rint(mask * 255), np.uint8), 1 / RATE) for mask in masks]
    return np.array(held, np.float32) / np.float32(255)


def _middles(masks: NDArray[np.float32]) -> NDArray[np.float64]:
    """The column of each mask's middle."""
    columns = np.arange(masks.shape[2]) + 0.5
    return np.asarray((masks.sum(axis=1) * columns).sum(axis=1) / masks.sum(axis=(1, 2)), np.float64)


def measure(step: int, told: Callable[[str], None]) -> str:
    """Look at the sample and report; `told` hears of every frame."""
    seen = []
    with trackers() as found:
        wanted = sample(step)
        for n, (sitting, number) in enumerate(wanted, 1):
            one = look(found, sitting, number)
            seen.append(one)
            eyes = "no face" if one.eyes is None else f"eyes {100 * one.eyes:.1f} %"
            what = f"{one.who}, {one.light}, {one.script} {number}, turned {one.turned:.0f}"
            told(f"{n} of {len(wanted)}: {what}: {eyes}, person {one.overlap:.3f}")
        told("whether masks are steady")
        steady = steadiness(found)
        told("whether points shake")
        followed = runs(found)
        regions = outlined(found, told)
    told("how much there is on skin")
    skin = complexion_in_words(complexions(), photograph())
    words = [f"{100 * value:.1f} %" for value in steady.flicker] + [f"{1000 * value:.0f} ms" for value in steady.lag]
    lines = ["| the person's mask | as tracked | held steady |", "|---|---|---|"]
    lines += [f"| flicker near its edge | {words[0]} | {words[1]} |", f"| lag behind who moves | {words[2]} | {words[3]} |"]
    return "\n\n".join(
        [report(seen), "\n".join(lines), in_words(shaking(followed), pinned(followed)), outlines_in_words(regions), skin]
    )
