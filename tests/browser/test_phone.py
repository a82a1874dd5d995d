"""The phone with a real camera: Chromium plays a made-up file as its camera, or has none, or may not use it."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import httpx
import numpy as np
import pytest
from playwright.sync_api import Browser, Page, Route, expect

from sunglaze.core.effect.document import Effect, Layer
from tests.browser.films import play_grey
from tests.browser.workbench import SHOWN, pixels, sent_to_phones, until
from tests.layers import fill
from tests.serving import Served, files_at
from tests.shell import sunglaze

SHADE = 200


@pytest.fixture
def package(served: Served) -> str:
    """The address of a published fill that multiplies by half red."""
    with httpx.Client(base_url=served.address) as http:
        state = http.post("/api/effects", json={"name": "Half red"}).json()
        fill = {"kind": "fill", "id": "f", "name": "Fill", "blend": "multiply", "values": {"colour": "#800000"}}
        state["effect"]["layers"] = [fill]
        change = {"base": state["revision"], "gesture": "g", "effect": state["effect"]}
        http.post(f"/api/effects/{state['id']}/revisions", json=change)
        return str(served.address + http.post(f"/api/effects/{state['id']}/publish").json()["phone"])


@pytest.fixture
def phone(browser: Browser, film: Path) -> Iterator[Page]:
    """A page of a phone's size, whose camera is grey."""
    play_grey(film, SHADE)
    context = browser.new_context(viewport={"width": 390, "height": 800})
    yield context.new_page()
    context.close()


def frozen_in_half_red(phone: Page) -> bool:
    """Whether the stand-in's frame stands there as the effect makes it."""
    number = int(phone.locator("canvas").get_attribute("data-frame") or "")
    seen = pixels(phone, "canvas.screen")
    frame = sent_to_phones(phone, number)
    return seen.shape[:2] == (960, 540) and bool(np.abs(seen[:, :, 0] - frame[:, :, 0] * 128 / 255).max() <= 2)


def test_the_effect_on_a_real_camera(phone: Page, package: str) -> None:
    phone.context.grant_permissions(["camera"])
    phone.goto(package)
    phone.wait_for_selector("canvas[data-frame]")
    phone.get_by_role("button", name="My camera").click()
    expect(phone.get_by_role("button", name="Stand-in")).to_be_visible()
    # Video levels: luma 16 to 235 is black to white (ITU-R BT.709), so 200 is 214 of 255; half of it in red, none elsewhere.
    until(phone, lambda: np.abs(np.median(pixels(phone, "canvas.screen")[:, :, 0]) - 214 * 128 / 255) <= 3)
    assert np.median(pixels(phone, "canvas.screen")[:, :, 1:]) == 0
    phone.get_by_role("button", name="Stand-in").click()
    phone.get_by_role("button", name="Freeze").click()
    until(phone, lambda: frozen_in_half_red(phone))


def test_a_camera_that_may_not_be_used_is_said_plainly(phone: Page, package: str) -> None:
    phone.context.clear_permissions()
    phone.goto(package)
    phone.wait_for_selector("canvas[data-frame]")
    phone.get_by_role("button", name="My camera").click()
    expect(phone.get_by_role("status")).to_contain_text("not allowed to use the camera")
    before = phone.locator("canvas").get_attribute("data-frame")
    until(phone, lambda: phone.locator("canvas").get_attribute("data-frame") != before)


def test_what_is_frozen_stays_though_a_frame_was_on_its_way(phone: Page, package: str) -> None:
    """The frame that the clock stood at is still being fetched when the picture is frozen, and comes afterwards."""
    held: list[Route] = []
    holding = False

    def answer(route: Route) -> None:
        if holding:
            held.append(route)
        else:
            route.continue_()

    phone.route("**/api/camera/frames/*.jpg", answer)
    phone.goto(package)
    phone.wait_for_selector("canvas[data-frame]")
    holding = True
    until(phone, lambda: len(held) > 3)
    phone.get_by_role("button", name="Freeze").click()
    number = phone.locator("canvas").get_attribute("data-frame")
    before = pixels(phone, "canvas.screen")
    holding = False
    come: list[str] = []
    for end in ("requestfinished", "requestfailed"):
        phone.on(end, lambda request: come.append(request.url))
    for route in held:
        route.continue_()
    until(phone, lambda: {route.request.url for route in held} <= set(come))
    phone.evaluate(SHOWN)
    assert phone.locator("canvas").get_attribute("data-frame") == number
    assert np.array_equal(pixels(phone, "canvas.screen"), before)
    phone.get_by_role("button", name="Go on").click()
    until(phone, lambda: phone.locator("canvas").get_attribute("data-frame") != number)


def test_a_lost_graphics_context_comes_back(phone: Page, package: str) -> None:
    phone.goto(package)
    phone.wait_for_selector("canvas[data-frame]")
    phone.evaluate(
        """() => { const gl = document.querySelector('canvas').getContext('webgl2')
            window.lose = gl.getExtension('WEBGL_lose_context'); window.lose.loseContext() }"""
    )
    lost = "document.querySelector('canvas').getContext('webgl2').isContextLost()"
    until(phone, lambda: phone.evaluate(lost))
    phone.evaluate("window.lose.restoreContext()")
    until(phone, lambda: not phone.evaluate(lost))
    phone.get_by_role("button", name="Freeze").click()
    until(phone, lambda: frozen_in_half_red(phone))


def test_an_address_that_is_no_package(phone: Page, served: Served) -> None:
    phone.goto(f"{served.address}/p/nope2")
    expect(phone.get_by_role("alert")).to_contain_text("there is no package 'nope2'")


def test_an_exported_page_runs_with_nothing_of_ours_behind_it(phone: Page, tmp_path: Path) -> None:
    """The folder on a plain file server of the standard library, on a real camera; no other address is asked."""
    layers = [fill("f", "#800000", blend="multiply"), Layer(id="b", name="b", kind="blur", values={"amount": 10})]
    (tmp_path / "effect.json").write_text(Effect(name="Half <red>", layers=layers).model_dump_json(by_alias=True))
    done = sunglaze("export", "effect.json", "--out", "page", cwd=tmp_path)
    assert done.returncode == 0, done.stderr
    with files_at(tmp_path / "page") as address:
        asked: list[str] = []
        phone.on("request", lambda request: asked.append(request.url))
        phone.context.grant_permissions(["camera"], origin=address)
        phone.goto(address)
        phone.wait_for_selector("canvas[data-frame]")
        until(phone, lambda: np.median(pixels(phone, "canvas")[:, :, 0]) > 50)
        seen = pixels(phone, "canvas")
        # As on the phone page: luma 200 of 16 to 235 is 214, half of it in red, none elsewhere; grey stays grey when blurred.
        assert np.abs(np.median(seen[:, :, 0]) - 214 * 128 / 255) <= 3
        assert np.median(seen[:, :, 1:]) == 0
        expect(phone.get_by_role("heading")).to_have_text("Half <red>")
        phone.get_by_role("button", name="Hold: bare").dispatch_event("pointerdown")
        until(phone, lambda: np.median(pixels(phone, "canvas")[:, :, 1]) > 200)
        assert all(url.startswith(address) for url in asked)
    again = sunglaze("export", "effect.json", "--out", "page", cwd=tmp_path)
    assert again.returncode == 2
    assert "holds files already" in again.stderr
