"""Publishing as an artist does it, the reviewer's desk, the showcase, and what pre-flight mends at a press."""

from __future__ import annotations

import base64
import io
import json
import re
from typing import Any

import httpx
import numpy as np
from PIL import Image
from playwright.sync_api import Page, expect

from tests.browser.workbench import kept_still, new_effect, pick, publish, settle, type_value, until
from tests.serving import Served

RED = {"id": "red", "name": "Buoy red", "kind": "fill", "values": {"colour": "#c00000"}, "opacity": 0.8}
OFF = {"id": "off", "name": "Spare", "kind": "fill", "on": False}
WAIT = 180_000


def said(page: Page, effect: str) -> dict:  # type: ignore[type-arg]
    return page.request.get(f"/api/effects/{effect}/listing").json()["listing"]


def worn(page: Page) -> Any:
    """The mean colour of what the phone's canvas shows."""
    return kept_still(page).reshape(-1, 3).mean(axis=0)


def test_published_returned_mended_taken_and_found(page: Page, served: Served) -> None:
    effect = new_effect(page, served.address, [RED])
    page.get_by_role("button", name="Publish").click()
    sheet = page.get_by_role("dialog", name="Publish")
    sheet.get_by_label("One line").fill("Red as the buoy at the pier")
    sheet.get_by_label("Keywords").fill("buoy, red ,buoy")
    sheet.get_by_role("checkbox", name="For the night").click()
    sheet.get_by_label("For", exact=True).fill("0.5")
    sheet.get_by_label("Made by").fill("Ferry pilot")
    sheet.get_by_label("Licence").fill("CC0 1.0")
    sheet.get_by_label("Another language").select_option("de")
    sheet.get_by_label("One line").fill("Rot wie die Boje")
    sheet.get_by_label("One line").press("Tab")
    # Kept as it is typed.
    until(page, lambda: len(said(page, effect)["texts"]) == 2 and said(page, effect)["texts"][1]["line"] == "Rot wie die Boje")
    assert said(page, effect)["keywords"] == ["buoy", "red"]
    publish(page)
    expect(sheet.get_by_text("submitted for review")).to_be_visible()
    sheet.get_by_role("link", name="See it in review").click()

    # The reviewer takes it up, reads what is said and checked, and returns it with a reason.
    code = next(one["code"] for one in page.request.get("/api/packages").json() if one["effect"] == effect)
    page.locator(f'[data-code="{code}"]').click()
    page.get_by_role("button", name="Take it up and check it").click()
    expect(page.get_by_role("listitem").filter(has_text="Skin of everybody")).to_be_visible(timeout=WAIT)
    expect(page.get_by_text("Red as the buoy at the pier")).to_be_visible()
    expect(page.get_by_role("button", name="Return it")).to_be_disabled()
    page.get_by_label("If it is returned").fill("Too red: make it weaker.")
    page.get_by_role("button", name="Return it").click()
    expect(page.get_by_text("It was returned: Too red: make it weaker.")).to_be_visible()

    # The artist reads why, mends it, and publishes the next version under the same address.
    page.get_by_role("link", name="The artist's workbench").click()
    page.get_by_role("button", name="Buoy red, layer").click()
    type_value(page, "Opacity", "30")
    settle(page)
    page.get_by_role("button", name="Publish").click()
    expect(sheet.get_by_text("It was returned: Too red")).to_be_visible()
    publish(page, "Publish version 2")
    expect(sheet.get_by_text("Buoy red: opacity 0.3, was 0.8")).to_be_visible()
    address = sheet.get_by_role("link", name=re.compile("localhost")).get_attribute("href") or ""
    assert address.endswith(f"/p/{code}")
    # An older one can be put back, and the newer again.
    sheet.get_by_role("button", name="Put it back").click()
    expect(sheet.get_by_role("listitem").filter(has_text="The first").get_by_text("plays")).to_be_visible()
    assert page.request.get(f"/api/packages/{code}").json()["number"] == 1
    sheet.get_by_role("button", name="Put it back").click()
    expect(sheet.get_by_role("listitem").filter(has_text="opacity 0.3").get_by_text("plays")).to_be_visible()

    page.goto("/review")
    page.locator(f'[data-code="{code}"]').click()
    page.get_by_role("button", name="Take it up and check it").click()
    page.get_by_role("button", name="Take it", exact=True).click(timeout=WAIT)
    expect(page.locator(f'[data-code="{code}"]')).to_contain_text("taken")

    # A visitor finds it by a word, sees its clip, and tries it on; both are counted.
    page.goto("/showcase")
    page.get_by_label("Search").fill("nothing like this")
    expect(page.get_by_text("Nothing is found by these words")).to_be_visible()
    page.get_by_label("Search").fill("buoy")
    page.get_by_role("radio", name="For the night").click()
    page.locator(f'[data-code="{code}"]').get_by_role("link", name="Ferry crossing", exact=True).click()
    expect(page.get_by_text("Red as the buoy at the pier")).to_be_visible()
    page.wait_for_function("() => document.querySelector('video')?.currentTime > 0.1")
    red = page.evaluate(
        """() => {
            const v = document.querySelector('video')
            const c = Object.assign(document.createElement('canvas'), { width: 8, height: 8 })
            c.getContext('2d').drawImage(v, 0, 0, 8, 8); return [...c.getContext('2d').getImageData(4, 7, 1, 1).data] }"""
    )
    assert red[0] > red[2] + 30
    page.get_by_role("link", name="Try it on").click()
    page.wait_for_selector("canvas[data-frame]")
    until(page, lambda: page.request.get(f"/api/packages/{code}").json()["tries"] == 1)
    assert page.request.get(f"/api/packages/{code}").json()["opens"] == 1

    # A third version waits for the reviewer: visitors go on wearing the second, and the artist can try the third.
    page.goto(f"/effects/{effect}")
    page.get_by_role("button", name="Buoy red, layer").click()
    type_value(page, "Opacity", "100")
    settle(page)
    page.get_by_role("button", name="Publish").click()
    sheet.get_by_label("With a clip").uncheck()
    publish(page, "Publish version 3")
    expect(sheet.get_by_text("Visitors wear version 2 meanwhile.")).to_be_visible()
    tried = sheet.get_by_role("link", name="Try version 3").get_attribute("href") or ""
    assert page.request.get(f"/api/showcase/{code}").json()["number"] == 2
    assert [one["number"] for one in page.request.get("/api/showcase").json() if one["code"] == code] == [2]
    page.goto(f"/p/{code}")
    page.wait_for_selector("canvas[data-frame]")
    until(page, lambda: worn(page)[1] > 40)
    page.goto(tried)
    page.wait_for_selector("canvas[data-frame]")
    until(page, lambda: np.allclose(worn(page), (0xC0, 0, 0), atol=6))


def test_the_icon_is_moved_by_hand_and_keys(page: Page, served: Served) -> None:
    effect = new_effect(page, served.address, [RED])
    page.get_by_role("button", name="Publish").click()
    sheet = page.get_by_role("dialog", name="Publish")
    icon = sheet.get_by_role("img", name="The icon")
    expect(icon).to_have_attribute("src", re.compile("^data:image/png"), timeout=WAIT)
    sheet.get_by_label("Wide").fill("0.4")
    until(page, lambda: said(page, effect)["icon"]["side"] == 0.4)
    box = icon.bounding_box()
    assert box
    page.mouse.move(box["x"] + 48, box["y"] + 48)
    page.mouse.down()
    page.mouse.move(box["x"] + 48 - 24, box["y"] + 48, steps=4)
    page.mouse.up()
    icon.press("ArrowDown")
    # A quarter of the square to the left is a tenth of the picture to the right.
    until(page, lambda: np.allclose([said(page, effect)["icon"][way] for way in "uv"], (0.6, 0.42), atol=0.01))
    settled = page.request.post(f"/api/effects/{effect}/icon", data=said(page, effect)["icon"]).json()["icon"]
    until(page, lambda: icon.get_attribute("src") == settled)
    pixels = np.asarray(Image.open(io.BytesIO(base64.b64decode(settled.split(",")[1]))).convert("RGB"))
    assert pixels.shape == (256, 256, 3)


def test_the_icon_may_be_any_picture_of_the_shelf(page: Page, served: Served) -> None:
    """Also one that the effect does not use; and what is said travels with the package."""
    room = io.BytesIO()
    Image.new("RGB", (64, 64), (10, 200, 60)).save(room, "PNG")
    page.request.post(
        "/api/shelf", multipart={"file": {"name": "kelp.png", "mimeType": "image/png", "buffer": room.getvalue()}}, timeout=WAIT
    )
    effect = new_effect(page, served.address, [RED])
    page.get_by_role("button", name="Publish").click()
    sheet = page.get_by_role("dialog", name="Publish")
    sheet.get_by_label("What the icon shows").select_option(label="kelp.png")
    sheet.get_by_label("With a clip").uncheck()
    sheet.get_by_label("One line").fill("Green as kelp")
    publish(page)
    expect(sheet.get_by_role("heading", name="Ferry crossing is published")).to_be_visible()
    code = next(one["code"] for one in page.request.get("/api/packages").json() if one["effect"] == effect)
    icon = Image.open(io.BytesIO(page.request.get(f"/api/packages/{code}/files/icon.png").body())).convert("RGB")
    assert np.abs(np.asarray(icon).astype(int) - (10, 200, 60)).max() <= 1
    package = page.request.get(f"/api/packages/{code}/download").body()
    opened = page.request.post(
        "/api/effects/import", multipart={"file": {"name": "kelp.glaze", "mimeType": "application/zip", "buffer": package}}
    ).json()
    assert said(page, opened["id"])["texts"][0]["line"] == "Green as kelp"


def test_publishing_is_given_up(page: Page, served: Served) -> None:
    effect = new_effect(page, served.address, [RED])
    page.get_by_role("button", name="Publish").click()
    sheet = page.get_by_role("dialog", name="Publish")
    sheet.get_by_label("For", exact=True).fill("30")
    sheet.get_by_label("For", exact=True).press("Tab")
    sheet.get_by_role("button", name="Publish", exact=True).click()
    # The sheet is out of the way; how far it is stands on the button that opens it again.
    expect(sheet).to_be_hidden()
    bar = page.get_by_role("button", name=re.compile(r"Publishing [1-9]\d? %"))
    bar.click(timeout=WAIT)
    expect(sheet.get_by_text(re.compile(r"Filmed and packed: [1-9]\d? %"))).to_be_visible()
    expect(sheet.get_by_role("button", name="Publish", exact=True)).to_be_disabled()
    sheet.get_by_role("button", name="Cancel").click()
    expect(sheet.get_by_text("Filmed and packed")).to_be_hidden()
    expect(sheet.get_by_role("button", name="Publish", exact=True)).to_be_enabled()
    with httpx.Client(base_url=served.address) as http:
        until(page, lambda: http.get(f"/api/effects/{effect}/publishing").json() == {"share": None})
        assert all(one["effect"] != effect for one in http.get("/api/packages").json())


def test_publishing_goes_on_behind_another_page(page: Page, served: Served) -> None:
    effect = new_effect(page, served.address, [RED])
    page.get_by_role("button", name="Publish").click()
    sheet = page.get_by_role("dialog", name="Publish")
    sheet.get_by_label("For", exact=True).fill("20")
    sheet.get_by_role("button", name="Publish", exact=True).click()
    page.get_by_role("link", name="Effects", exact=True).click()
    print_of = page.locator(f'[data-effect="{effect}"]')
    expect(print_of.get_by_text(re.compile(r"Publishing \d+ %"))).to_be_visible()
    # What came of it is said there, and shown on its own page.
    page.get_by_role("button", name="What is published").click(timeout=WAIT)
    expect(sheet.get_by_role("heading", name="Ferry crossing is published")).to_be_visible()
    expect(page).to_have_url(re.compile(f"/effects/{effect}"))


def test_what_was_published_is_shown_on_a_sheet_that_is_open(page: Page, served: Served) -> None:
    new_effect(page, served.address, [RED])
    page.get_by_role("button", name="Publish").click()
    sheet = page.get_by_role("dialog", name="Publish")
    sheet.get_by_label("With a clip").uncheck()
    sheet.get_by_role("button", name="Publish", exact=True).click()
    told = page.locator(".message").get_by_role("button", name="What is published")
    # What is pointed at stays.
    told.hover(timeout=WAIT)
    page.get_by_role("button", name="Publish", exact=True).press("Enter")
    expect(sheet.get_by_role("button", name="Publish version 2")).to_be_visible()
    told.click()
    expect(sheet.get_by_role("heading", name="Ferry crossing is published")).to_be_visible()


def test_limits_of_ones_own_are_brought_in_and_kept(page: Page, served: Served) -> None:
    new_effect(page, served.address, [RED])
    page.get_by_role("button", name="Export").click()
    page.get_by_role("menuitem", name="Check it before it leaves").click()
    sheet = page.get_by_role("dialog", name="Before it leaves")
    expect(sheet.get_by_role("listitem").filter(has_text="of 4 MB")).to_be_visible(timeout=WAIT)
    sheet.get_by_role("button", name="More of these limits").click()
    with page.expect_download() as loading:
        pick(page, "Download them")
    limits = json.loads(loading.value.path().read_bytes())
    assert (loading.value.suggested_filename, limits["bytes"]) == ("a-camera-app.json", 4_000_000)
    own = json.dumps({**limits, "name": "pier", "title": "Screen at the pier", "bytes": 1000}).encode()
    sheet.get_by_role("button", name="More of these limits").click()
    with page.expect_file_chooser() as choosing:
        page.get_by_role("menuitem", name="Bring in limits of your own").click()
    choosing.value.set_files({"name": "pier.json", "mimeType": "application/json", "buffer": own})
    weight = sheet.get_by_role("listitem").filter(has_text="of 0.001 MB")
    expect(weight.get_by_text("stops it")).to_be_visible(timeout=WAIT)
    # Kept on the shelf: the next effect is checked against them, too, and clearing what no effect uses leaves them.
    page.request.post("/api/shelf/clear")
    assert "Screen at the pier" in [one["title"] for one in page.request.get("/api/profiles").json()]


def test_what_preflight_can_mend_it_mends(page: Page, served: Served) -> None:
    new_effect(page, served.address, [RED, OFF])
    page.get_by_role("button", name="Export").click()
    page.get_by_role("menuitem", name="Check it before it leaves").click()
    sheet = page.get_by_role("dialog", name="Before it leaves")
    expect(sheet.get_by_text("Spare: switched off")).to_be_visible(timeout=WAIT)
    sheet.get_by_role("button", name="Remove them").click()
    expect(sheet.get_by_text("Spare: switched off")).to_be_hidden(timeout=WAIT)
    sheet.get_by_role("button", name="Say it").click()
    expect(page.get_by_role("dialog", name="Publish").get_by_label("One line")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("button", name="Spare, layer")).to_have_count(0)
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("button", name="Spare, layer")).to_be_visible()
