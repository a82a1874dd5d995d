"""The workbench by keyboard alone, fields that are typed into, and pages that are not there."""

from __future__ import annotations

import numpy as np
from playwright.sync_api import Page, expect

from tests.browser.workbench import bare, new_effect, pixels, settle, type_value, until
from tests.serving import Served


def test_two_fills_by_keyboard_alone(page: Page, served: Served) -> None:
    new_effect(page, served.address)
    for colour in ("#204060", "#c08040"):
        page.keyboard.press("a")
        item = page.get_by_role("menuitem", name="Fill")
        expect(item).to_be_visible()
        item.focus()
        page.keyboard.press("Enter")
        field = page.get_by_label("Colour, sRGB hex")
        expect(field).to_be_visible()
        field.focus()
        page.keyboard.press("Control+a")
        page.keyboard.type(colour)
        page.keyboard.press("Enter")
        settle(page)
        page.keyboard.press("Tab")  # out of the field and its socket's list, whose letters are their own
        page.keyboard.press("Tab")
    tiles = page.locator(".tile-face")
    expect(tiles).to_have_count(2)
    tiles.nth(1).focus()
    page.keyboard.press("ArrowLeft")
    assert tiles.nth(0).evaluate("tile => tile === document.activeElement")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Colour, sRGB hex")).to_have_value("#204060")
    page.keyboard.press("o")
    settle(page)
    page.get_by_label("Blend mode").focus()
    page.get_by_role("slider", name="Opacity").focus()
    page.keyboard.press("Home")
    settle(page)
    tiles.nth(1).focus()
    page.keyboard.press("Enter")
    page.get_by_role("slider", name="Opacity").focus()
    page.keyboard.press("Home")
    page.keyboard.press("Shift+ArrowRight")
    settle(page)
    alone = bare() / 255
    colour = np.array([0xC0, 0x80, 0x40]) / 255
    # Soft light at a tenth, by the formula of W3C Compositing and Blending Level 1.
    root = np.where(alone <= 0.25, ((16 * alone - 12) * alone + 4) * alone, np.sqrt(alone))
    soft = np.where(colour <= 0.5, alone - (1 - 2 * colour) * alone * (1 - alone), alone + (2 * colour - 1) * (root - alone))
    until(page, lambda: np.abs(pixels(page) - np.rint((alone + (soft - alone) * 0.1) * 255)).max() <= 1)


def test_numbers_and_small_sums(page: Page, served: Served) -> None:
    """Which there are, and which are none, is tried in web/tests/layers.test.ts."""
    new_effect(page, served.address, [{"kind": "fill", "id": "f", "name": "Fill", "opacity": 0.33}])
    for typed, shown in (("100/4+5", "30"), ("-5", "0")):
        type_value(page, "Opacity", typed)
        settle(page)
        expect(page.get_by_role("slider", name="Opacity")).to_have_attribute("aria-valuenow", shown)
        expect(page.locator('[data-control="Opacity"] input.field')).to_have_value(shown)


def test_what_is_no_number_is_said_and_changes_nothing(page: Page, served: Served) -> None:
    new_effect(page, served.address, [{"kind": "fill", "id": "f", "name": "Fill", "opacity": 0.33}])
    type_value(page, "Opacity", "2**3")
    expect(page.get_by_role("alert")).to_contain_text("A number, or a sum")
    expect(page.get_by_role("slider", name="Opacity")).to_have_attribute("aria-valuenow", "33")
    expect(page.get_by_role("button", name="Undo")).to_be_enabled()


def test_colours_short_long_and_wrong(page: Page, served: Served) -> None:
    new_effect(page, served.address, [{"kind": "fill", "id": "f", "name": "Fill", "blend": "normal"}])
    field = page.get_by_label("Colour, sRGB hex")
    field.fill("#0f8")
    field.press("Enter")
    settle(page)
    until(page, lambda: (pixels(page) == [0x00, 0xFF, 0x88]).all())
    field.fill("grass")
    field.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("Six hexadecimal digits")
    settle(page)
    until(page, lambda: (pixels(page) == [0x00, 0xFF, 0x88]).all())


def test_pages_that_are_not_there(page: Page) -> None:
    page.goto("/effects/no-such-effect")
    expect(page.get_by_role("heading", name="This effect cannot be opened")).to_be_visible()
    expect(page.get_by_text("there is no effect 'no-such-effect'")).to_be_visible()
    page.goto("/harbour/master")
    expect(page.get_by_role("heading", name="There is no such page")).to_be_visible()
    page.get_by_role("link", name="All effects").click()
    expect(page.get_by_role("button", name="New effect")).to_be_visible()


PRESS_AT_ONCE = """async (keys) => {
  for (const key of keys) {
    document.activeElement.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true }))
    await new Promise((resolve) => setTimeout(resolve))
  }
}"""


def test_a_key_pressed_at_once_after_the_palette_is_not_lost(page: Page, served: Served) -> None:
    """The palette's field keeps the focus until the browser next draws, though it is gone; a quick hand is faster than that."""
    new_effect(page, served.address)
    page.keyboard.press("a")
    page.get_by_label("Find a layer").fill("empty recipe")
    page.evaluate(PRESS_AT_ONCE, ["Enter", "3"])
    expect(page.get_by_role("application", name="Recipe")).to_be_visible()
