"""The list of effects: prints that move when pointed at, found, sorted, chosen, brought back, given away and taken in again."""

from __future__ import annotations

import base64
import io
import json
import secrets
import zipfile
from pathlib import Path

import httpx
import numpy as np
from PIL import Image
from playwright.sync_api import Browser, Locator, Page, expect

from sunglaze.core.material.files import encode_png
from tests.browser.workbench import drop, pick, pixels, until
from tests.conftest import VIEWPORT
from tests.grades import sample_picture
from tests.serving import Served, halted, serve


def made(address: str, name: str, layers: list[dict[str, object]] | None = None) -> str:
    with httpx.Client(base_url=address) as http:
        state = http.post("/api/effects", json={"name": name}).json()
        if layers:
            state["effect"]["layers"] = layers
            change = {"base": state["revision"], "gesture": "set up", "effect": state["effect"]}
            http.post(f"/api/effects/{state['id']}/revisions", json=change).raise_for_status()
        return str(state["id"])


def print_of(page: Page, effect: str) -> Locator:
    return page.locator(f'[data-effect="{effect}"]')


def more(page: Page, print_: Locator, act: str) -> None:
    print_.hover()
    print_.get_by_role("button", name="More for").click()
    pick(page, act)


SEEN = """image => {
    if (!image.complete || !image.naturalWidth) return ''
    const canvas = Object.assign(document.createElement('canvas'), { width: image.naturalWidth, height: image.naturalHeight })
    canvas.getContext('2d').drawImage(image, 0, 0)
    return canvas.toDataURL('image/png')
}"""


def printed(page: Page, effect: str) -> np.ndarray:
    """What the still print of an effect shows: (height, width, 3), int; one pixel where there is none yet."""
    data = page.locator(f'[data-effect="{effect}"] img').evaluate(SEEN)
    if not data:
        return np.zeros((1, 1, 3), int)
    return np.asarray(Image.open(io.BytesIO(base64.b64decode(data.split(",")[1]))).convert("RGB")).astype(int)


def test_a_print_stands_still_until_it_is_pointed_at(page: Page, address: str) -> None:
    effect = made(address, "Sea smoke")
    page.goto("/")
    mine = print_of(page, effect)
    until(page, lambda: printed(page, effect).std() > 20)
    expect(mine.locator("canvas")).to_have_count(0)
    mine.hover()
    mine.locator("canvas").wait_for()
    canvas = f'[data-effect="{effect}"] canvas'
    first = pixels(page, canvas)
    until(page, lambda: not np.array_equal(pixels(page, canvas), first))


def test_a_print_shows_what_was_drawn_last_until_the_next_is_there(page: Page, address: str, served: Served) -> None:
    fog = {"kind": "fill", "id": "f", "name": "Fog", "values": {"colour": "#2040c0"}}
    effect = made(address, "Blue smoke", [fog])
    page.goto("/")
    until(page, lambda: np.abs(printed(page, effect).mean(axis=(0, 1)) - (0x20, 0x40, 0xC0)).max() < 3)
    with httpx.Client(base_url=address) as http:
        state = http.get(f"/api/effects/{effect}").json()
        # A name that no earlier run gave it: pictures of what was drawn before are kept.
        state["effect"]["layers"][0] |= {"name": secrets.token_hex(8), "values": {"colour": "#c04020"}}
        change = {"base": state["revision"], "gesture": "red", "effect": state["effect"]}
        http.post(f"/api/effects/{effect}/revisions", json=change).raise_for_status()
    with halted(served, "glaze-draw"):
        page.goto("/")
        until(page, lambda: printed(page, effect).mean(axis=(0, 1))[2] > 180)
    until(page, lambda: np.abs(printed(page, effect).mean(axis=(0, 1)) - (0xC0, 0x40, 0x20)).max() < 3)


def test_one_effect_whose_file_is_lost_keeps_no_other_from_moving_and_says_why_it_cannot_leave(page: Page, address: str) -> None:
    with httpx.Client(base_url=address) as http:
        lost = made(address, "Lost net", [{"kind": "picture", "id": "p", "name": "Net", "values": {"picture": "0" * 64}}])
        whole = made(address, "Whole net")
        page.goto("/")
        canvas = f'[data-effect="{whole}"] canvas'
        print_of(page, whole).hover()
        print_of(page, whole).locator("canvas").wait_for()
        before = pixels(page, canvas)
        until(page, lambda: not np.array_equal(pixels(page, canvas), before))
        expect(print_of(page, lost)).to_contain_text("It cannot be drawn: ")
        more(page, print_of(page, lost), "Export as a package")
        expect(page.get_by_text("Not exported")).to_contain_text("choose it again")
        http.delete(f"/api/effects/{lost}")


def test_new_renamed_duplicated_deleted_and_brought_back(page: Page, address: str) -> None:
    page.goto("/")
    page.get_by_role("button", name="New effect").click()
    expect(page.get_by_role("heading", name="The camera passes as it is")).to_be_visible()
    effect = page.url.rsplit("/", 1)[1]
    page.goto("/")
    mine = print_of(page, effect)
    more(page, mine, "Rename")
    mine.get_by_label("Name of the effect").fill("Oyster bar")
    page.keyboard.press("Enter")
    expect(mine.get_by_role("link", name="Oyster bar", exact=True)).to_be_visible()
    more(page, mine, "Duplicate")
    copy = page.locator(".print", has_text="Oyster bar copy")
    expect(copy).to_be_visible()
    more(page, copy, "Delete")
    expect(copy).to_have_count(0)
    page.get_by_role("button", name="Bring it back").click()
    expect(copy).to_be_visible()
    # Long after the message has gone, too.
    more(page, copy, "Delete")
    expect(copy).to_have_count(0)
    page.reload()
    page.get_by_role("button", name="Deleted (").click()
    gone = page.get_by_role("listitem").filter(has_text="Oyster bar copy")
    gone.get_by_role("button", name="Bring it back").click()
    expect(gone).to_have_count(0)
    page.goto("/")
    expect(copy).to_be_visible()


def test_twelve_prints_are_on_a_page_and_are_found_and_sorted(browser: Browser, tmp_path: Path) -> None:
    running = serve(tmp_path)
    context = browser.new_context(viewport=VIEWPORT, base_url=running.address)
    page = context.new_page()
    try:
        names = [f"Pier {n:02}" for n in range(12)]
        rim = {"kind": "vignette", "id": "v", "name": "Été rim", "blend": "multiply"}
        for name in names:
            made(running.address, name, [rim] if name == "Pier 07" else None)
        page.goto("/")
        prints = page.locator(".print")
        expect(prints).to_have_count(12)
        boxes = [one.bounding_box() for one in prints.all()]
        assert all(box and box["y"] + box["height"] <= 800 and box["x"] + box["width"] <= 1280 for box in boxes)
        titles = page.locator(".print .title")
        assert titles.all_inner_texts() == names[::-1]
        page.get_by_label("Order of the effects").select_option("weight")
        assert titles.first.inner_text() == "Pier 07"  # the only one with a layer
        page.locator("body").press("f")
        page.keyboard.type("ete")
        expect(titles).to_have_text(["Pier 07"])
        page.keyboard.type(" nobody")
        expect(prints).to_have_count(0)
        expect(page.get_by_text("No effect is called so")).to_be_visible()
        page.keyboard.press("Escape")
        expect(prints).to_have_count(12)

        # Several chosen at once.
        for name in ("Pier 02", "Pier 05"):
            page.get_by_label(f"Choose {name}").check(force=True)
        expect(page.get_by_role("status").filter(has_text="2 effects chosen")).to_be_visible()
        page.get_by_role("button", name="Delete", exact=True).click()
        expect(prints).to_have_count(10)
        page.get_by_role("button", name="Bring them back").click()
        expect(prints).to_have_count(12)
    finally:
        context.close()
        running.stop()


def test_what_is_exported_opens_as_the_same_effect(page: Page, address: str, files: Path) -> None:
    """A package given away and dropped on the list again: the same layers, and the same picture to the bit; the page as a zip
    holds all that it needs."""
    with httpx.Client(base_url=address, timeout=60) as http:
        data = encode_png(sample_picture(40, 40))
        kept = http.post("/api/pictures", files={"file": ("drift.png", data)}).json()["hash"]
        layer = {"kind": "picture", "id": "p", "name": "Drift", "blend": "screen", "values": {"picture": kept}}
        effect = made(address, "Drift wood", [layer])
        assert http.get(f"/api/effects/{effect}").json()["weight"] > len(data)
        page.goto("/")
        with page.expect_download() as came:
            more(page, print_of(page, effect), "Export as a package")
        assert came.value.suggested_filename == "drift-wood.glaze"
        package = files / "drift-wood.glaze"
        came.value.save_as(package)
        drop(page.locator(".wall-page"), package)
        page.wait_for_url(lambda at: "/effects/" in at and effect not in at)
        again = page.url.rsplit("/", 1)[1]
        assert [one["name"] for one in http.get(f"/api/effects/{again}").json()["effect"]["layers"]] == ["Drift"]

        def packed(of: str, kind: str, file: str) -> bytes:
            with zipfile.ZipFile(io.BytesIO(http.get(f"/api/effects/{of}/{kind}").content)) as archive:
                return archive.read(file)

        assert packed(again, "package", "icon.png") == packed(effect, "package", "icon.png")
        assert json.loads(packed(effect, "page", "program.json"))["format"] == "sun-glaze/program"
        assert b"page.js" in packed(effect, "page", "index.html")


def test_an_effect_leaves_from_the_workbench_too(page: Page, address: str) -> None:
    effect = made(address, "Net loft", [{"kind": "glow", "id": "g", "name": "Glow", "blend": "screen"}])
    page.goto(f"/effects/{effect}")
    page.get_by_role("button", name="Export", exact=True).click()
    with page.expect_download() as came:
        page.get_by_role("menuitem", name="web page").click()
    assert came.value.suggested_filename == "net-loft.zip"
    with zipfile.ZipFile(came.value.path()) as archive:
        assert {"index.html", "page.js", "program.json"} <= set(archive.namelist())
