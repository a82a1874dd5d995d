"""The real camera, end to end: a film as Chromium's camera, permission, trackers in workers, a cut-out, its backdrop."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

import cv2
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
from tests.browser.workbench import FRAME, new_effect, pixels, settle, until
from tests.conftest import VIEWPORT
from tests.serving import Served, files_at

GREEN = [0, 255, 0]
CUT_OUT = {"id": "cut", "name": "Cut", "kind": "cut-out", "values": {"colour": "#00ff00", "second": "#00ff00"}}
WIDTH, HEIGHT = 640, 480
SAT = Sitting("lamp-tender", "still", "shade", back=True)


@pytest.fixture
def seen(browser: Browser, served: Served, film: Path) -> Iterator[Page]:
    """A page that may use the camera, before which someone of the cast stands still."""
    play(film, [colours(StandIn(WIDTH, HEIGHT, SAT).frame(0), WIDTH)] * 15, 15)
    context = browser.new_context(viewport=VIEWPORT, base_url=served.address, permissions=["camera"])
    yield context.new_page()
    context.close()


def before_the_camera() -> np.ndarray:
    """Where the person of the film is on a tall screen, exactly: the middle of the picture, mirrored; true inside."""
    mask = StandIn(WIDTH, HEIGHT, SAT).frame(0).view(np.uint8).reshape(HEIGHT, -1, 4)[:, :WIDTH, 3]
    return np.asarray(cover(mask, 540, 960)[:, ::-1] > 127)


def stand_in() -> np.ndarray:
    return np.asarray(StandIn(540, 960).frame(FRAME).view(np.uint8).reshape(960, -1, 4)[:, :540, 3] > 127)


def cut_out(page: Page, canvas: str, person: np.ndarray) -> bool:
    """The backdrop is green and the person is not, but for 8 % of them together, as trackers see edges."""
    kept = np.abs(pixels(page, canvas) - GREEN).max(axis=2) > 60
    return bool((kept & person).sum() > 0.92 * (kept | person).sum())


def test_the_person_is_cut_out_of_the_real_camera_in_the_workbench(seen: Page, served: Served) -> None:
    new_effect(seen, served.address, [CUT_OUT], short=540)
    seen.get_by_role("button", name=re.compile("Lamp tender")).click()
    seen.get_by_role("button", name="My camera").click()
    expect(seen.get_by_role("button", name="Stop my camera")).to_be_visible()
    until(seen, lambda: cut_out(seen, "canvas.gpu", before_the_camera()))
    seen.get_by_role("button", name="Stop my camera").click()
    seen.keyboard.press("Escape")
    settle(seen)
    assert cut_out(seen, "canvas.picture", stand_in())


def test_the_person_is_cut_out_of_the_real_camera_on_the_phone(seen: Page, served: Served) -> None:
    effect = new_effect(seen, served.address, [CUT_OUT], short=540)
    code = seen.request.post(f"/api/effects/{effect}/publish").json()["code"]
    # In software the picture would become smaller, to keep its beat.
    seen.goto(f"/p/{code}?beat=off")
    seen.wait_for_selector("canvas[data-frame]")
    seen.get_by_role("button", name="My camera").click()
    until(seen, lambda: cut_out(seen, "canvas", before_the_camera()))


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
    new_effect(seen, served.address, layers, short=540)
    seen.get_by_role("button", name=re.compile("Lamp tender")).click()
    seen.get_by_role("button", name="My camera").click()
    exact = StandIn(WIDTH, HEIGHT, SAT).regions(0, least)

    def near() -> bool:
        shown = pixels(seen, "canvas.gpu") > 235
        true = [cover(exact[region][..., 0], 540, 960)[:, ::-1] > 127 for region in least]
        pairs = [(shown[..., n], mask) for n, mask in enumerate(true)]
        return all((a & b).sum() > share * (a | b).sum() for (a, b), share in zip(pairs, least.values(), strict=True))

    until(seen, near)


def test_the_points_of_a_real_face_are_shown_where_it_is(seen: Page, served: Served) -> None:
    """The ring of an eye within a tenth of the distance of the eyes of the exact truth of who is in the film."""
    new_effect(seen, served.address, [CUT_OUT], short=540)
    seen.get_by_role("button", name=re.compile("Lamp tender")).click()
    seen.get_by_role("button", name="My camera").click()
    expect(seen.get_by_role("button", name="Stop my camera")).to_be_visible()
    seen.keyboard.press("Escape")
    seen.keyboard.press("q")
    truth = heads(StandIn(WIDTH, HEIGHT, SAT), 0)[0]
    # The middle of the film covers a tall screen, mirrored.
    scale = 960 / HEIGHT
    eyes = (truth.eyes - (WIDTH / 2, HEIGHT / 2)) * (-scale, scale) + (270, 480)

    def there() -> bool:
        rings = seen.locator("svg.marks polygon")
        if rings.count() < len(RINGS):
            return False
        points = rings.nth(list(RINGS).index("left eye")).get_attribute("points") or ""
        middle = np.array([[float(part) for part in pair.split(",")] for pair in points.split()]).mean(axis=0)
        return bool(np.linalg.norm(middle - eyes[1]) < 0.1 * np.linalg.norm(eyes[0] - eyes[1]))

    until(seen, there)


def test_a_phone_of_the_network_gets_its_camera_over_https(seen: Page, browser: Browser, served: Served) -> None:
    """Published, opened to phones by hand, and worn at this machine's address in the network, where only HTTPS gives a camera."""
    new_effect(seen, served.address, [CUT_OUT], short=540)
    seen.get_by_role("button", name="Publish").click()
    seen.get_by_label("With a clip").uncheck()
    seen.get_by_role("dialog", name="Publish").get_by_role("button", name="Publish", exact=True).click()
    seen.get_by_role("button", name="Open to phones").click()
    expect(seen.get_by_alt_text("The address as a code to scan")).to_be_visible()
    address = seen.locator(".phones .figure").inner_text()
    context = browser.new_context(ignore_https_errors=True, permissions=["camera"])
    phone = context.new_page()
    phone.goto(f"{address}?beat=off")
    phone.wait_for_selector("canvas[data-frame]")
    assert phone.evaluate("isSecureContext && location.protocol === 'https:'")
    phone.get_by_role("button", name="My camera").click()
    until(phone, lambda: cut_out(phone, "canvas", before_the_camera()))
    context.close()
    seen.get_by_role("button", name="Close it to phones").click()
    expect(seen.get_by_role("button", name="Open to phones")).to_be_visible()


def test_an_exported_cut_out_finds_people_by_itself(seen: Page, tmp_path: Path) -> None:
    """On a plain file server in a folder of its own, with nothing of ours behind it; no other address is asked."""
    export_folder(Effect(name="Cut", layers=[Layer(**CUT_OUT)]), Material({}), tmp_path / "worn" / "cut", DIST)
    with files_at(tmp_path) as address:
        asked: list[str] = []
        seen.on("request", lambda request: asked.append(request.url))
        seen.set_viewport_size({"width": 540, "height": 960})
        seen.goto(f"{address}/worn/cut/")
        seen.wait_for_selector("canvas[data-frame]")

        def is_cut_out() -> bool:
            shown = cv2.resize(pixels(seen, "canvas").astype(np.uint8), (540, 960)).astype(int)
            kept, person = np.abs(shown - GREEN).max(axis=2) > 60, before_the_camera()
            return bool((kept & person).sum() > 0.92 * (kept | person).sum())

        until(seen, is_cut_out)
        assert all(url.startswith((address, f"blob:{address}", "data:")) for url in asked)


def test_a_refused_camera_is_said_and_the_stand_in_plays_on(page: Page, served: Served) -> None:
    """A page that has no permission: the words name it, and the picture is still there."""
    new_effect(page, served.address, [CUT_OUT], short=540)
    page.get_by_role("button", name=re.compile("Lamp tender")).click()
    page.get_by_role("button", name="My camera").click()
    expect(page.get_by_text(re.compile("no camera|not allowed"))).to_be_visible()
    page.keyboard.press("Escape")
    assert cut_out(page, "canvas.picture", stand_in())
