"""Renew docs/screenshots from the demo's data: `python -m demo.screenshots`. Needs the packages of requirements-dev.lock."""

from __future__ import annotations

import io
import tempfile
from pathlib import Path

import numpy as np
from PIL import Image, ImageChops, ImageStat
from playwright.sync_api import Page, sync_playwright

from demo.seed import seed
from demo.showing import publish
from sunglaze.core.camera.cameras import colours
from sunglaze.core.camera.cast import LIGHTS, PEOPLE, Sitting, StandIn
from tests.conftest import CHROMIUM, FLAGS
from tests.serving import serve

OUT = Path("docs/screenshots")
FRAME = 112
MOST_BYTES = 200_000
ALIKE = 4.0
"""Root mean square of the difference, of 255, below which a view counts as unchanged."""


def paused(page: Page, address: str, effect: str) -> None:
    page.goto(f"{address}/")
    page.evaluate("([key, value]) => sessionStorage.setItem(key, value)", [f"view {effect}", f'{{"frame": {FRAME}}}'])
    page.goto(f"{address}/effects/{effect}")
    page.wait_for_selector('canvas.picture[aria-busy="false"][data-lossless="true"]')
    page.wait_for_timeout(800)


def quantised(shot: Image.Image) -> bytes:
    """A PNG of at most MOST_BYTES: of as many colours as that allows."""
    for count in (256, 192, 128, 96, 64, 48, 32):
        room = io.BytesIO()
        shot.quantize(count, Image.Quantize.MAXCOVERAGE, kmeans=4, dither=Image.Dither.NONE).save(room, "PNG", optimize=True)
        if room.tell() <= MOST_BYTES:
            break
    return room.getvalue()


LOADED = """() => [...document.images].every((one) => {
    const { top, bottom, width } = one.getBoundingClientRect()
    return !width || bottom < 0 || top > innerHeight || (one.complete && one.naturalWidth > 0)
})"""


def seat(page: Page, address: str) -> None:
    """The beekeeper before the camera of every effect."""
    page.goto(f"{address}/")
    for one in page.request.get(f"{address}/api/effects").json():
        memory = [f"sitting {one['id']}", '{"who": "beekeeper"}']
        page.evaluate("([key, value]) => localStorage.setItem(key, value)", memory)


def shoot(page: Page, name: str) -> None:
    """Keep a picture of the page; one that hardly differs from the one that is there stays, since history keeps every one."""
    page.wait_for_function(LOADED)
    shot = Image.open(io.BytesIO(page.screenshot())).convert("RGB")
    path = OUT / f"{name}.png"
    data = quantised(shot)
    if path.is_file() and path.stat().st_size <= MOST_BYTES:
        before = Image.open(path).convert("RGB")
        now = Image.open(io.BytesIO(data)).convert("RGB")
        if before.size == now.size and max(ImageStat.Stat(ImageChops.difference(before, now)).rms) < ALIKE:
            print(f"{path} is as it was")
            return
    path.write_bytes(data)
    print(path)


def cast_sheet() -> None:
    """Faces of all eight of the cast in all five lights, talking: people.png."""
    cell = 112, 146
    sheet = Image.new("RGB", (cell[0] * len(PEOPLE), cell[1] * len(LIGHTS)))
    for column, who in enumerate(PEOPLE):
        for row, light in enumerate(LIGHTS):
            frame = StandIn(540, 960, Sitting(who, "talk", light)).frame(12 + 5 * column)
            face = Image.fromarray(np.ascontiguousarray(colours(frame, 540)[..., :3])).crop((40, 110, 500, 710))
            sheet.paste(face.resize(cell, Image.Resampling.BOX), (column * cell[0], row * cell[1]))
    (OUT / "people.png").write_bytes(quantised(sheet))
    print(OUT / "people.png")


def publishing(page: Page, address: str) -> None:
    """What an effect is proofed, said and reviewed by: proof-sheet.png, publish.png, review.png, showcase.png."""
    page.goto(f"{address}/effects/demo-tide-mask/proof")
    page.get_by_text("16 of 16 cells").wait_for(timeout=180_000)
    page.wait_for_timeout(1500)
    shoot(page, "proof-sheet")
    paused(page, address, "demo-heron")
    page.get_by_role("button", name="Publish").click()
    page.locator(".looks:not(.drawing) .square[src^=data]").wait_for(timeout=60_000)
    shoot(page, "publish")
    page.goto(f"{address}/review")
    page.locator(".entry", has_text="Kite day").click()
    page.get_by_role("button", name="Check again").click()
    page.get_by_text("Skin of everybody").wait_for(timeout=120_000)
    page.locator(".print").hover()
    page.locator(".print canvas.playing").wait_for()
    page.wait_for_timeout(1500)
    shoot(page, "review")
    page.goto(f"{address}/showcase")
    page.wait_for_timeout(1200)
    shoot(page, "showcase")


def answering(page: Page, address: str) -> None:
    """What moves by a face and a finger, seen playing: answering.png, motions.png."""
    page.goto(f"{address}/effects/demo-two-shores?layer=horn")
    page.locator(".cue", has_text="Mouth opens").wait_for()
    page.get_by_label("What drives Opacity").select_option("face-measure")
    page.get_by_role("button", name="Loop").click()
    page.locator(".clock").click()
    page.wait_for_timeout(12_000)
    page.keyboard.press("Space")
    page.wait_for_timeout(2500)
    shoot(page, "answering")
    page.keyboard.press("Space")
    page.goto(f"{address}/effects/demo-old-reel")
    page.wait_for_timeout(2500)
    page.keyboard.press("5")
    for kind in ("smile", "timer"):
        page.get_by_label("Add a cue").select_option(kind)
        page.wait_for_timeout(800)
    page.keyboard.press("f")
    page.wait_for_timeout(9000)
    shoot(page, "motions")
    page.keyboard.press("Escape")
    page.keyboard.press("Control+z")
    page.keyboard.press("Control+z")
    page.wait_for_timeout(1500)


def main() -> None:
    cast_sheet()
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        seed(Path(folder))
        list(publish(Path(folder)))
        running = serve(Path(folder))
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800}, bypass_csp=True)
        page.set_default_timeout(120_000)
        try:
            seat(page, running.address)
            paused(page, running.address, "demo-low-tide")
            shoot(page, "workbench")
            answering(page, running.address)
            paused(page, running.address, "demo-faded-bill")
            page.locator(".tile-face").nth(2).click()
            page.wait_for_timeout(500)
            page.keyboard.press("a")
            page.get_by_label("Find a layer").wait_for()
            page.wait_for_timeout(4000)
            shoot(page, "palette")
            page.keyboard.press("Escape")
            page.get_by_role("button", name="Beekeeper").click()
            page.get_by_role("radiogroup", name="Cast").get_by_role("radio", name="Beekeeper").click()
            page.get_by_role("radio", name="Lamp", exact=True).click()
            page.wait_for_timeout(4000)
            shoot(page, "cast")
            page.keyboard.press("Escape")
            page.evaluate("sessionStorage.clear()")
            paused(page, running.address, "demo-heron")
            page.locator(".tile-face").nth(0).click()
            page.get_by_role("tab", name="Paint").click()
            page.get_by_role("radio", name="Shape 2").click()
            page.locator(".everybody figure").nth(7).wait_for()
            page.wait_for_timeout(2500)
            shoot(page, "face-paint")
            paused(page, running.address, "demo-keeper-of-the-light")
            page.locator(".tile-face").nth(2).click()
            page.get_by_role("button", name="Export").click()
            page.get_by_role("menuitem", name="Check it before it leaves").click()
            page.locator(".check li").nth(8).wait_for()
            page.wait_for_timeout(1500)
            shoot(page, "check")
            paused(page, running.address, "demo-old-reel")
            page.keyboard.press("4")
            page.get_by_text("five-kites.png").wait_for()
            page.wait_for_timeout(1500)
            shoot(page, "shelf")
            reel = page.locator("[data-piece]").filter(has_text="old-reel.mp4")
            reel.hover()
            reel.get_by_role("button", name="More for old-reel.mp4").click()
            page.get_by_role("menuitem", name="Make a sequence of it").click()
            page.get_by_role("radio", name="clear").click()
            page.locator(".form").nth(4).wait_for()
            page.wait_for_timeout(2500)
            shoot(page, "clip")
            page.keyboard.press("h")
            page.evaluate("sessionStorage.clear()")
            paused(page, running.address, "demo-lantern-walk")
            page.locator(".tile-face").nth(1).click()
            page.keyboard.press("2")
            page.get_by_label("Lay the mask over the picture").check()
            page.wait_for_timeout(2500)
            shoot(page, "mask")
            page.get_by_label("Lay the mask over the picture").uncheck()
            page.evaluate("sessionStorage.clear()")
            paused(page, running.address, "demo-sunday-glasses")
            page.locator(".tile-face").nth(1).click()
            page.get_by_role("group", name="Handles").get_by_role("button", name="Picture, place").first.wait_for()
            page.wait_for_timeout(2500)
            shoot(page, "handles")
            paused(page, running.address, "demo-storm-warning")
            page.locator(".tile-face").nth(1).click()
            page.keyboard.press("3")
            page.locator(".slip header", has_text="Blur").click()
            page.wait_for_timeout(4000)
            page.locator(".surround .clock").hover()
            page.wait_for_timeout(1500)
            shoot(page, "recipe")
            page.keyboard.press("Escape")
            page.evaluate("sessionStorage.clear()")
            paused(page, running.address, "demo-faded-bill")
            publishing(page, running.address)
            page.goto(f"{running.address}/")
            page.wait_for_function("[...document.querySelectorAll('.print img')].filter((one) => one.naturalWidth).length >= 14")
            shoot(page, "effects")
            page.set_viewport_size({"width": 390, "height": 800})
            worn = next(
                one for one in page.request.get(f"{running.address}/api/packages").json() if one["effect"] == "demo-old-reel"
            )
            page.goto(f"{running.address}{worn['phone']}")
            page.wait_for_selector("canvas[data-frame]")
            page.wait_for_timeout(1500)
            shoot(page, "phone")
        finally:
            browser.close()
            running.stop()


if __name__ == "__main__":
    main()
