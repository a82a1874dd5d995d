"""The real camera, end to end: a film as Chromium's camera, permission, trackers in workers, a cut-out, its backdrop."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Browser, Page, expect

from sunglaze.core.camera.cameras import colours
from sunglaze.core.camera.cast import Sitting, StandIn
from sunglaze.core.camera.truth import heads
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.face.model import RINGS
from sunglaze.core.material.files import cover
from sunglaze.core.package.export import export_folder
from sunglaze.realism import DIST
from tests.browser.films import play
from tests.browser.workbench import FRAME, SIZE, new_effect, pixels, publish, settle, until
from tests.conftest import VIEWPORT
from tests.serving import Served, files_at

GREEN = [0, 255, 0]
CUT_OUT = {"id": "cut", "name": "Cut", "kind": "cut-out", "values": {"colour": "#00ff00", "second": "#00ff00"}}
WIDTH, HEIGHT = 640, 480
SAT = Sitting("lamp-tender", "still", "shade", back=True)


@pytest.fixture
def seen(browser: Browser, served: Served, film: Path) -> Iterator[Page]:
    """A page that may use the camera, before which someone of the cast stands still."""
    # Few pictures a second: each is looked at by trackers, and they are all the same.
    play(film, [colours(StandIn(WIDTH, HEIGHT, SAT).frame(0), WIDTH)] * 5, 5)
    context = browser.new_context(viewport=VIEWPORT, base_url=served.address, permissions=["camera"])
    yield context.new_page()
    context.close()


def on_a_screen(mask: np.ndarray, width: int, height: int) -> np.ndarray:
    """A mask of the film, 0 to 255, as it is on a tall screen: the middle of the picture, mirrored; true inside."""
    return np.asarray(cover(mask, width, height)[:, ::-1] > 127)


def before_the_camera() -> np.ndarray:
    return np.asarray(StandIn(WIDTH, HEIGHT, SAT).frame(0).view(np.uint8).reshape(HEIGHT, -1, 4)[:, :WIDTH, 3])


def stand_in() -> np.ndarray:
    return np.asarray(StandIn(*SIZE).frame(FRAME).view(np.uint8).reshape(SIZE[1], -1, 4)[:, : SIZE[0], 3])


def cut_out(page: Page, canvas: str, person: np.ndarray, mirrored: bool = True) -> bool:
    """The backdrop is green and the person (a mask, 0 to 255) is not, but for 8 % of them together, as trackers see edges."""
    shown = pixels(page, canvas)
    kept = np.abs(shown - GREEN).max(axis=2) > 60
    height, width = kept.shape
    there = on_a_screen(person, width, height) if mirrored else person > 127
    return bool((kept & there).sum() > 0.92 * (kept | there).sum())


def is_the_film(shown: np.ndarray) -> bool:
    """The camera's picture and no stand-in's, but for what 4:2:0 loses."""
    film = cover(colours(StandIn(WIDTH, HEIGHT, SAT).frame(0), WIDTH), shown.shape[1], shown.shape[0])[:, ::-1]
    return bool(np.abs(shown - film.astype(int)).mean() < 6)


def start_camera(page: Page) -> None:
    page.get_by_role("button", name=re.compile("Lamp tender")).click()
    page.get_by_role("button", name="My camera").click()
    expect(page.get_by_role("button", name="Stop my camera")).to_be_visible()


def eye_is_marked(page: Page) -> bool:
    """The ring of an eye within a tenth of the distance of the eyes of the exact truth of who is in the film."""
    rings = page.locator("svg.marks polygon")
    if rings.count() < len(RINGS):
        return False
    # The middle of the film covers a tall screen, mirrored; marks are drawn in its pixels.
    scale = SIZE[1] / HEIGHT
    truth = heads(StandIn(WIDTH, HEIGHT, SAT), 0)[0]
    eyes = (truth.eyes - (WIDTH / 2, HEIGHT / 2)) * (-scale, scale) + (SIZE[0] / 2, SIZE[1] / 2)
    points = rings.nth(list(RINGS).index("left eye")).get_attribute("points") or ""
    middle = np.array([[float(part) for part in pair.split(",")] for pair in points.split()]).mean(axis=0)
    return bool(np.linalg.norm(middle - eyes[1]) < 0.1 * np.linalg.norm(eyes[0] - eyes[1]))


def test_the_person_is_cut_out_and_the_face_is_marked_in_the_workbench(seen: Page, served: Served) -> None:
    new_effect(seen, served.address, [CUT_OUT])
    start_camera(seen)
    until(seen, lambda: cut_out(seen, "canvas.gpu", before_the_camera()))
    seen.keyboard.press("Escape")
    seen.keyboard.press("q")
    until(seen, lambda: eye_is_marked(seen))
    seen.get_by_role("button", name=re.compile("My camera")).click()
    seen.get_by_role("button", name="Stop my camera").click()
    seen.keyboard.press("Escape")
    settle(seen)
    assert cut_out(seen, "canvas.picture", stand_in(), mirrored=False)


@pytest.mark.slow
def test_regions_of_a_real_face_come_near_the_exact_ones(seen: Page, served: Served) -> None:
    """Drawn from the tracker's points and its person mask, against the exact masks of who is in the film; each in a channel."""
    # The lamp tender's long hair goes on below what points tell of a head.
    least = {"face skin": 0.7, "head": 0.65, "eyes": 0.4}
    channels = ["#ff0000", "#00ff00", "#0000ff"]
    layers = [{"id": "black", "name": "Black", "kind": "fill", "values": {"colour": "#000000"}}]
    for region, channel in zip(least, channels, strict=True):
        mask = {"kind": "region", "values": {"region": region, "soft": 0.0, "grow": 0.0}}
        values = {"colour": channel}
        layers.append({"id": region[:4], "name": region, "kind": "fill", "values": values, "mask": mask, "blend": "plus"})
    new_effect(seen, served.address, layers)
    start_camera(seen)
    exact = StandIn(WIDTH, HEIGHT, SAT).regions(0, least)

    def near() -> bool:
        shown = pixels(seen, "canvas.gpu") > 235
        true = [on_a_screen(exact[region][..., 0], *SIZE) for region in least]
        pairs = [(shown[..., n], mask) for n, mask in enumerate(true)]
        return all((a & b).sum() > share * (a | b).sum() for (a, b), share in zip(pairs, least.values(), strict=True))

    until(seen, near)


def test_a_phone_of_the_network_gets_its_camera_over_https(seen: Page, browser: Browser, served: Served) -> None:
    """Published, opened to phones by hand, and worn at this machine's address in the network, where only HTTPS gives a camera."""
    new_effect(seen, served.address)
    seen.get_by_role("button", name="Publish").click()
    seen.get_by_label("With a clip").uncheck()
    publish(seen)
    seen.get_by_role("button", name="Open to phones").click()
    expect(seen.get_by_alt_text("The address as a code to scan")).to_be_visible()
    address = seen.locator(".phones .figure").inner_text()
    context = browser.new_context(ignore_https_errors=True, permissions=["camera"])
    phone = context.new_page()
    phone.goto(f"{address}?beat=off")
    phone.wait_for_selector("canvas[data-frame]")
    assert phone.evaluate("isSecureContext && location.protocol === 'https:'")
    phone.get_by_role("button", name="My camera").click()
    until(phone, lambda: is_the_film(pixels(phone, "canvas")))
    context.close()
    seen.get_by_role("button", name="Close it to phones").click()
    expect(seen.get_by_role("button", name="Open to phones")).to_be_visible()


def test_an_exported_cut_out_finds_people_by_itself(seen: Page, tmp_path: Path) -> None:
    """On a plain file server in a folder of its own, with nothing of ours behind it; no other address is asked."""
    export_folder(Effect(name="Cut", layers=[Layer(**CUT_OUT)]), Material({}), tmp_path / "worn" / "cut", DIST)
    with files_at(tmp_path) as address:
        asked: list[str] = []
        seen.on("request", lambda request: asked.append(request.url))
        seen.set_viewport_size({"width": 270, "height": 480})
        seen.goto(f"{address}/worn/cut/")
        seen.wait_for_selector("canvas[data-frame]")

        until(seen, lambda: cut_out(seen, "canvas", before_the_camera()))
        assert all(url.startswith((address, f"blob:{address}", "data:")) for url in asked)


def test_a_refused_camera_is_said_and_the_stand_in_plays_on(page: Page, served: Served) -> None:
    """A page that has no permission: the words name it, and the picture is still there."""
    new_effect(page, served.address, [CUT_OUT])
    page.get_by_role("button", name=re.compile("Lamp tender")).click()
    page.get_by_role("button", name="My camera").click()
    expect(page.get_by_text(re.compile("no camera|not allowed"))).to_be_visible()
    page.keyboard.press("Escape")
    assert cut_out(page, "canvas.picture", stand_in(), mirrored=False)
