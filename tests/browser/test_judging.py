"""What stands beside controls and picture to judge by: edges, masks, tones; tiles in the screen's shape; a second picture."""

from __future__ import annotations

import re
from urllib.parse import urljoin

import numpy as np
from playwright.sync_api import Locator, Page, expect

from sunglaze.core.camera.cast import Sitting, StandIn
from sunglaze.core.review.judging import MONK_TONES
from tests.browser.workbench import FRAME, new_effect, pixels, settle, type_value, until

SPLIT = {
    "id": "split",
    "name": "Split",
    "kind": "fill",
    "values": {"colour": "#ffffff"},
    "mask": {"kind": "half", "values": {"soft": 0.0}},
}
OUTLINE = {"id": "line", "name": "Outline", "kind": "outline", "values": {}}
GREY = {"id": "grey", "name": "Grey", "kind": "black-and-white", "values": {"strength": 1.0}}
CIRCLE = {"kind": "circle", "values": {"width": 0.5, "height": 0.5, "soft": 0.0}}


def drawn(look: Locator) -> np.ndarray:
    """Red of what a canvas beside the controls shows: (height, width)."""
    size, data = look.evaluate(
        """c => {
            const data = c.getContext('2d').getImageData(0, 0, c.width, c.height).data
            return [[c.height, c.width], Array.from(data).filter((_, n) => n % 4 === 0)]
        }"""
    )
    return np.array(data).reshape(size)


def test_the_edges_that_an_outline_finds_lie_beside_its_controls(page: Page, address: str) -> None:
    """Two fills that meet in the middle of the screen give one edge there, and it follows what the thickness is set to."""
    black = {"id": "black", "name": "Black", "kind": "fill", "values": {"colour": "#000000"}}
    new_effect(page, address, [black, SPLIT, OUTLINE])
    page.locator(".tile-face").nth(2).click()
    look = page.get_by_role("img", name="Lines drawn")
    type_value(page, "Thickness", "2")

    until(page, lambda: drawn(look).shape == (267, 150) and 0.5 < (drawn(look) > 127).sum() / 150 < 4)
    thin = (drawn(look) > 127).mean()
    type_value(page, "Thickness", "8")
    until(page, lambda: (drawn(look) > 127).mean() > 1.5 * thin)


def test_a_masks_own_picture_follows_its_controls(page: Page, address: str) -> None:
    new_effect(page, address, [{**GREY, "mask": CIRCLE}])
    page.keyboard.press("2")
    look = page.get_by_role("img", name="White is where the layer shows")
    until(page, lambda: drawn(look).shape == (267, 150) and drawn(look)[133, 75] == 255 and drawn(look)[10, 10] == 0)
    page.locator('[data-control="Inverted"]').get_by_text("On").click()
    until(page, lambda: drawn(look)[133, 75] == 0 and drawn(look)[10, 10] == 255)


def test_previews_are_of_who_sits_before_the_camera(page: Page, address: str) -> None:
    """The same mask of hair, of one who has long hair and of one who has none."""
    region = {"kind": "region", "values": {"region": "hair", "soft": 0.0, "grow": 0.0}}
    new_effect(page, address, [{**GREY, "mask": region}])
    page.keyboard.press("2")
    look = page.get_by_role("img", name="White is where the layer shows")

    def share(who: str) -> float:
        return float((StandIn(270, 480, Sitting(who)).regions(FRAME, ["hair"])["hair"] > 127).mean())

    for who, times in (("stilt-walker", 3), ("oyster-cook", 1)):
        for _ in range(times):
            page.keyboard.press("e")
        until(page, lambda who=who: abs((drawn(look) > 127).mean() - share(who)) < 0.01)
    assert share("stilt-walker") > 0.05 > share("oyster-cook")


def test_tones_are_judged_beside_every_grade(page: Page, address: str) -> None:
    """Black and white at full strength leaves no colour in any of the ten tones; at none, every tone is as it was."""
    new_effect(page, address, [GREY])
    tones = page.locator(".tone")
    expect(tones).to_have_count(10)

    def after() -> list[list[int]]:
        styles = tones.locator("i:nth-child(2)").evaluate_all("all => all.map(one => one.style.background)")
        return [[int(part) for part in re.findall(r"\d+", one)] for one in styles]

    until(page, lambda: all(max(tone) - min(tone) <= 1 for tone in after()))
    type_value(page, "Strength", "0")
    before = [[int(one[n : n + 2], 16) for n in (1, 3, 5)] for one in MONK_TONES]
    until(page, lambda: after() == before)


def test_a_lookups_small_correction_shows(page: Page, address: str) -> None:
    """No lookup yet: what is on top of it has no line; a setting keeps the lookup that was chosen."""
    new_effect(page, address, [{"id": "g", "name": "Grade", "kind": "lookup-grade", "values": {}}])
    expect(page.locator('[data-control="Brightness"]')).to_have_count(0)
    page.locator('.lookup input[type="file"]').set_input_files(
        [
            {
                "name": "neutral.cube",
                "mimeType": "text/plain",
                "buffer": page.request.get(f"{address}/api/neutral?size=2&layout=cube").body(),
            }
        ]
    )
    type_value(page, "Contrast", "1.2")
    settle(page)
    high = pixels(page)
    expect(page.get_by_text("neutral.cube")).to_be_visible()
    page.get_by_role("button", name="As graded").click()
    settle(page)
    bare = pixels(page)
    expected = np.clip((bare / 255 - 0.5) * 1.2 + 0.5, 0, 1) * 255
    assert np.abs(high - expected).max() <= 1.01
    expect(page.get_by_text("neutral.cube")).to_be_visible()


def test_tiles_have_the_shape_of_the_screen_and_a_wide_picture_its_height(page: Page, address: str) -> None:
    new_effect(page, address, [SPLIT])
    for screen, shape in (("16:9", 16 / 9), ("1:1", 1.0), ("3:4", 0.75), ("9:16", 66 / 114)):
        page.get_by_label("Screen", exact=True).select_option(screen)
        settle(page)
        face = page.locator(".tile .face").bounding_box()
        assert face
        assert abs(face["width"] / face["height"] - shape) < 0.03
        if screen == "16:9":
            picture, column = page.locator("canvas.picture").bounding_box(), page.locator(".surround").bounding_box()
            assert picture
            assert column
            assert picture["height"] > 0.9 * column["height"]
            for name in ("Wipe", "Bare", "Zoom"):
                box = page.get_by_role("button", name=name).bounding_box()
                assert box
                assert box["x"] + box["width"] < picture["x"]


def test_two_pictures_side_by_side_get_nearly_half_of_the_page(page: Page, address: str) -> None:
    """And on a narrow page what the bar of the effect leaves."""
    new_effect(page, address, [SPLIT])
    page.keyboard.press("Shift+U")
    beside = page.locator("canvas.beside")
    expect(beside).to_be_visible()
    one, other = page.locator("canvas.picture").bounding_box(), beside.bounding_box()
    assert one
    assert other
    assert abs(one["width"] - other["width"]) < 3
    assert one["width"] + other["width"] > 0.4 * 1280
    page.set_viewport_size({"width": 1024, "height": 760})
    publish, column = page.get_by_role("button", name="Publish").bounding_box(), page.locator(".surround").bounding_box()
    assert publish
    assert column
    assert publish["x"] + publish["width"] <= column["x"]


def test_every_picture_of_the_palette_is_there_when_it_opens(page: Page, address: str) -> None:
    new_effect(page, address)
    page.keyboard.press("a")
    page.get_by_label("Find a layer").wait_for()
    icons = page.locator('img[src^="/api/layers/"]')
    until(
        page,
        lambda: icons.count() > 30 and icons.evaluate_all("all => all.every(one => one.complete && one.naturalWidth === 90)"),
    )


def test_settings_to_start_from_show_whoever_sits_there(page: Page, address: str) -> None:
    """After the next of the cast and the next light the small pictures are others, and still tell the settings apart."""
    new_effect(page, address, [{"kind": "outline", "id": "o", "name": "Outline"}])
    images = page.locator(".settings img")
    images.first.wait_for()

    def shown() -> list[bytes]:
        sources = [urljoin(page.url, str(one.get_attribute("src"))) for one in images.all()]
        return [page.request.get(source).body() for source in sources]

    before = shown()
    page.keyboard.press("e")
    until(page, lambda: "who=ferry-pilot" in str(images.first.get_attribute("src")))
    pilot = shown()
    page.keyboard.press("l")
    until(page, lambda: "light=noon" not in str(images.first.get_attribute("src")))
    other = shown()
    assert len({*before, *pilot, *other}) == 3 * len(before)


def test_a_layer_of_faces_is_shown_on_everybody(page: Page, address: str) -> None:
    """Eight faces before and after; they change with the control, and are darker in dusk."""

    def mean(part: str) -> float:
        script = """async (part) => {
          const all = [...document.querySelectorAll(`.everybody img:nth-of-type(${part})`)]
          const canvas = new OffscreenCanvas(8, 8), context = canvas.getContext('2d')
          let sum = 0
          for (const one of all) {
            context.drawImage(one, 0, 0, 8, 8)
            sum += [...context.getImageData(0, 0, 8, 8).data].reduce((a, b) => a + b, 0)
          }
          return all.length === 8 ? sum / 8 / 256 : 0
        }"""
        return float(page.evaluate(script, part))

    new_effect(page, address, [{"id": "m", "name": "Made up", "kind": "make-up", "values": {"contour": 1.0, "lips": 1.0}}])
    until(page, lambda: mean("1") > 0 and abs(mean("1") - mean("2")) > 0.3)
    noon = mean("1")
    page.get_by_role("button", name="In dusk").click()
    until(page, lambda: 0 < mean("1") < noon - 3)
