"""What the wearer keeps on the phone: a still and a clip, of what the effect shows; and an exported page without a network."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import av
import httpx
import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Browser, BrowserContext, Page, expect

from tests.browser.films import play_grey
from tests.browser.workbench import kept_still, until
from tests.serving import Served, files_at

GREEN = {"id": "g", "name": "Kelp", "kind": "fill", "values": {"colour": "#208040"}}
WAIT = 60_000


@pytest.fixture
def effect(served: Served) -> str:
    with httpx.Client(base_url=served.address, timeout=60) as http:
        state = http.post("/api/effects", json={"name": "Kelp forest"}).json()
        state["effect"]["layers"] = [GREEN]
        change = {"base": state["revision"], "gesture": "g", "effect": state["effect"]}
        http.post(f"/api/effects/{state['id']}/revisions", json=change).raise_for_status()
        return str(state["id"])


@pytest.fixture
def touched(browser: Browser, served: Served) -> Iterator[Page]:
    """A page that is used by touch, as a phone is."""
    context = browser.new_context(
        viewport={"width": 390, "height": 800}, has_touch=True, is_mobile=True, base_url=served.address, accept_downloads=True
    )
    yield context.new_page()
    context.close()


def is_kelp(pixels: Any) -> bool:
    return bool(np.abs(np.asarray(pixels).reshape(-1, 3).mean(axis=0) - (0x20, 0x80, 0x40)).max() < 10)


def test_a_still_and_a_clip_are_kept_by_touch(touched: Page, served: Served, effect: str) -> None:
    code = httpx.post(f"{served.address}/api/effects/{effect}/publish", timeout=60).json()["code"]
    touched.goto(f"/p/{code}")
    touched.wait_for_selector("canvas[data-frame]")
    touched.get_by_role("button", name="Picture").tap()
    with touched.expect_download() as loading:
        touched.get_by_role("link", name="Save").tap()
    assert loading.value.suggested_filename == "kelp-forest.jpg"
    with Image.open(loading.value.path()) as still:
        assert still.size == (540, 960)
        assert is_kelp(still)
    touched.get_by_role("button", name="Throw away").tap()
    expect(touched.get_by_role("group", name="What was kept")).to_be_hidden()

    # Stopped by the page itself: a test that is slow to look would find the clip ended after half a minute.
    touched.evaluate(
        """() => {
            let drawn = 0
            const counted = new MutationObserver(() => {
                const stop = [...document.querySelectorAll('button')].find((one) => /^Stop \\d+ s$/.test(one.textContent))
                if (!stop || ++drawn < 6) return
                counted.disconnect()
                window.stopped = stop.textContent
                stop.click()
            })
            counted.observe(document.querySelector('canvas'), { attributes: true, attributeFilter: ['data-frame'] })
        }"""
    )
    touched.get_by_role("button", name="Clip").tap()
    touched.wait_for_function("() => window.stopped", timeout=WAIT)
    with touched.expect_download() as loading:
        touched.get_by_role("link", name="Save").tap()
    with av.open(io.BytesIO(Path(loading.value.path()).read_bytes())) as clip:
        pictures = [frame.to_ndarray(format="rgb24") for frame in clip.decode(video=0)]
    assert len(pictures) > 2
    assert is_kelp(pictures[-1])


def test_on_its_side_the_picture_lies_and_nothing_covers_anything(touched: Page, served: Served, effect: str) -> None:
    code = httpx.post(f"{served.address}/api/effects/{effect}/publish", timeout=60).json()["code"]
    touched.goto(f"/p/{code}")
    touched.wait_for_selector("canvas[data-frame]")
    shape = "() => { const c = document.querySelector('canvas'); return [c.width, c.height] }"
    assert touched.evaluate(shape) == [540, 960]
    touched.set_viewport_size({"width": 844, "height": 390})
    until(touched, lambda: touched.evaluate(shape) == [960, 540])
    boxes = [box for one in touched.get_by_role("button").all() if (box := one.bounding_box())]
    assert len(boxes) >= 6
    for n, one in enumerate(boxes):
        assert one["x"] >= 0, one
        assert one["y"] >= 0, one
        assert one["x"] + one["width"] <= 844, one
        assert one["y"] + one["height"] <= 390, one
        for other in boxes[n + 1 :]:
            beside = one["x"] + one["width"] <= other["x"] or other["x"] + other["width"] <= one["x"]
            assert beside or one["y"] + one["height"] <= other["y"] or other["y"] + other["height"] <= one["y"], (one, other)
    # What is kept lies, too, and fills the screen.
    touched.get_by_role("button", name="Picture").tap()
    with touched.expect_download() as loading:
        touched.get_by_role("link", name="Save").tap()
    with Image.open(loading.value.path()) as still:
        assert still.size == (960, 540)
        assert is_kelp(still)


def test_what_the_browser_lacks_is_said(touched: Page, served: Served, effect: str) -> None:
    code = httpx.post(f"{served.address}/api/effects/{effect}/publish", timeout=60).json()["code"]
    touched.add_init_script("delete window.MediaRecorder")
    touched.goto(f"/p/{code}")
    touched.wait_for_selector("canvas[data-frame]")
    touched.get_by_role("button", name="Clip").tap()
    expect(touched.get_by_text("This browser cannot record clips")).to_be_visible()


def exported(served: Served, effect: str, folder: Path) -> None:
    data = httpx.get(f"{served.address}/api/effects/{effect}/page", timeout=60).content
    zipfile.ZipFile(io.BytesIO(data)).extractall(folder)


@pytest.fixture
def wearer(browser: Browser, film: Path) -> Iterator[BrowserContext]:
    """Phones with a grey camera that pages may use."""
    play_grey(film, 200)
    context = browser.new_context(viewport={"width": 390, "height": 800}, permissions=["camera"])
    yield context
    context.close()


@pytest.mark.parametrize("under", ["", "festival/kelp/"])
def test_an_exported_page_opens_without_a_network(
    wearer: BrowserContext, served: Served, effect: str, tmp_path: Path, under: str
) -> None:
    """At the root of a file server, and under a path of it; after the first visit with nothing behind it at all."""
    exported(served, effect, tmp_path / "site" / under)
    page = wearer.new_page()
    with files_at(tmp_path / "site") as site:
        address = f"{site}/{under}"
        page.goto(address)
        page.wait_for_selector("canvas[data-frame]")
        page.evaluate("navigator.serviceWorker.ready.then(() => true)")
        page.wait_for_function(
            "async () => (await caches.keys()).length > 0 && navigator.serviceWorker.controller !== null", timeout=WAIT
        )
    page.goto("about:blank")
    page.goto(address)
    expect(page.get_by_role("heading", name="Kelp forest")).to_be_visible()
    page.wait_for_selector("canvas[data-frame]", timeout=WAIT)
    until(page, lambda: is_kelp(kept_still(page)))


def test_an_effect_without_faces_runs_less_than_30_kilobytes_of_script(
    wearer: BrowserContext, served: Served, effect: str, tmp_path: Path
) -> None:
    """What the page itself fetches and runs; parts for faces, meshes, loops, dials stay where they are."""
    exported(served, effect, tmp_path / "site")
    page = wearer.new_page()
    with files_at(tmp_path / "site") as address:
        page.goto(address)
        expect(page.get_by_role("button", name="Clip")).to_be_visible(timeout=WAIT)
        until(page, lambda: is_kelp(kept_still(page)))
        ran = page.evaluate(
            """() => performance.getEntriesByType('resource').filter((one) => /[.]js$/.test(one.name))
                .map((one) => [new URL(one.name).pathname, one.decodedBodySize])"""
        )
    scripts = dict(ran)
    assert set(scripts) == {"/page.js", next(name for name in scripts if name.startswith("/assets/keeping"))}
    assert 20_000 < sum(scripts.values()) < 30_000


def test_trackers_are_kept_at_the_first_visit(wearer: BrowserContext, served: Served, tmp_path: Path) -> None:
    """A cut-out on white before a camera that shows nobody: white, also when there is no network from the second visit on."""
    with httpx.Client(base_url=served.address, timeout=60) as http:
        state = http.post("/api/effects", json={"name": "Cut"}).json()
        mask = {"kind": "region", "values": {"region": "person", "over": True, "soft": 0.0}}
        state["effect"]["layers"] = [{**GREEN, "mask": mask}]
        change = {"base": state["revision"], "gesture": "g", "effect": state["effect"]}
        http.post(f"/api/effects/{state['id']}/revisions", json=change).raise_for_status()
    exported(served, state["id"], tmp_path / "site")
    page = wearer.new_page()
    with files_at(tmp_path / "site") as address:
        page.goto(address)
        page.evaluate("navigator.serviceWorker.ready.then(() => true)")
        page.wait_for_function("() => navigator.serviceWorker.controller !== null", timeout=WAIT)
    page.goto(address)
    page.wait_for_selector("canvas[data-frame]", timeout=WAIT)
    until(page, lambda: is_kelp(kept_still(page)))


def test_the_beat_is_kept_by_a_smaller_picture(wearer: BrowserContext, served: Served, effect: str, tmp_path: Path) -> None:
    """In software the picture comes far less than 24 times a second: it gets smaller, step by step, and that is said."""
    exported(served, effect, tmp_path / "site")
    with files_at(tmp_path / "site") as address:
        page = wearer.new_page()
        # A display that shows ten pictures a second.
        page.add_init_script("window.requestAnimationFrame = (draw) => setTimeout(() => draw(performance.now()), 100)")
        page.goto(f"{address}/")
        page.wait_for_selector("canvas[data-frame]")
        first = page.evaluate("document.querySelector('canvas').width")
        expect(page.get_by_text("A smaller picture, to keep the beat.")).to_be_visible(timeout=WAIT)
        until(page, lambda: page.evaluate("document.querySelector('canvas').width") <= first // 2)
        page.goto(f"{address}/?beat=off")
        page.wait_for_selector("canvas[data-frame]")
        page.wait_for_timeout(5000)
        assert page.evaluate("document.querySelector('canvas').width") == first
