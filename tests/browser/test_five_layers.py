"""The same effect of five layers built by mouse, and again by keys alone: the same document but for ids, the same picture."""

from __future__ import annotations

import re
from typing import Any

import numpy as np
from playwright.sync_api import Page, expect

from tests.browser.workbench import bare, new_effect, pick, pixels, settle, until

NAMES = ["Tone and colour", "Sharpen", "Outline", "Film grain", "Vignette"]


def document(page: Page, address: str, effect: str) -> list[dict[str, Any]]:
    settle(page)
    layers = page.request.get(f"{address}/api/effects/{effect}").json()["effect"]["layers"]
    return [{key: value for key, value in layer.items() if key != "id"} for layer in layers]


def by_mouse(page: Page) -> None:
    for name in NAMES:
        page.get_by_role("button", name="Add a layer").click()
        pick(page, name, exact=True)
        expect(page.get_by_role("heading", name=name)).to_be_visible()
    # The vignette before the grain, the sharpening off, the outline in screen within a circle, at half.
    tile, place = page.locator(".tile").nth(4), page.locator(".tile").nth(3)
    start, end = tile.bounding_box(), place.bounding_box()
    assert start
    assert end
    page.mouse.move(start["x"] + 30, start["y"] + 60)
    page.mouse.down()
    page.mouse.move(end["x"] + 5, end["y"] + 60, steps=8)
    page.mouse.up()
    page.get_by_role("button", name="Switch off Sharpen").click()
    page.locator(".tile-face").nth(2).click()
    page.get_by_label("Blend mode").select_option("overlay")
    page.get_by_role("tab", name=re.compile("Mask")).click()
    page.get_by_role("radio", name="Circle").click()
    page.get_by_role("tab", name="Controls").click()
    rail = page.locator('[data-control="Opacity"] .line').bounding_box()
    assert rail
    page.mouse.click(rail["x"] + rail["width"] * 0.5, rail["y"] + 1)
    page.get_by_role("button", name="Chalk").click()


def press(page: Page, *keys: str) -> None:
    for key in keys:
        page.keyboard.press(key)


def tab_to(page: Page, label: str) -> None:
    """By the tabulator alone, to what is called so."""
    for _ in range(80):
        page.keyboard.press("Tab")
        words = page.evaluate("(document.activeElement.getAttribute('aria-label') ?? document.activeElement.textContent).trim()")
        if re.fullmatch(label, words):
            return
    raise AssertionError(f"no tabulator reaches {label}")


def by_keys(page: Page) -> None:
    page.keyboard.press("Tab")
    for name in NAMES:
        page.evaluate("document.activeElement?.blur()")
        page.keyboard.press("a")
        # What is typed goes where the focus is, which comes a moment after the palette.
        expect(page.get_by_label("Find a layer")).to_be_focused()
        page.keyboard.type(name)
        page.keyboard.press("Enter")
        expect(page.get_by_role("heading", name=name)).to_be_visible()
    tab_to(page, "Vignette, layer 5")
    press(page, "Shift+ArrowLeft")
    expect(page.locator(".tile .name").nth(3)).to_have_text("Vignette")
    press(page, "ArrowLeft", "ArrowLeft", "o", "ArrowRight", "Enter")
    expect(page.get_by_role("heading", name="Outline")).to_be_visible()
    tab_to(page, "Blend mode")
    page.keyboard.type("Overl")
    press(page, "Enter")
    page.evaluate("document.activeElement?.blur()")
    press(page, "2")
    tab_to(page, "Circle")
    press(page, "Enter")
    page.evaluate("document.activeElement?.blur()")
    press(page, "1")
    tab_to(page, "Opacity")
    press(page, *["Shift+ArrowLeft"] * 5)
    tab_to(page, "Chalk")
    press(page, "Enter")


def test_five_layers_by_mouse_and_by_keys(page: Page, address: str) -> None:
    one = new_effect(page, address)
    by_mouse(page)
    first, seen = document(page, address, one), pixels(page)
    two = new_effect(page, address)
    by_keys(page)
    second = document(page, address, two)
    assert [layer["name"] for layer in first] == ["Tone and colour", "Sharpen", "Outline", "Vignette", "Film grain"]
    first[2]["opacity"] = round(first[2]["opacity"], 1)
    assert second == first
    until(page, lambda: np.abs(pixels(page) - seen).max() <= 2)
    assert np.abs(seen - bare()).max() > 40
