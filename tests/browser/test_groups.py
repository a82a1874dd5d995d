"""Layers in groups, by mouse and keys; recipes dropped as layers; opacity that moves by itself; the GPU giving way."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
from playwright.sync_api import Page, expect

from sunglaze.core.effect.shipped import shipped
from tests.browser.workbench import bare, drop, new_effect, pixels, settle, until

RED = {"id": "red", "name": "Red", "kind": "fill", "values": {"colour": "#ff0000"}}
GREEN = {"id": "green", "name": "Green", "kind": "fill", "values": {"colour": "#00ff00"}}
BLUE = {"id": "blue", "name": "Blue", "kind": "fill", "values": {"colour": "#0000ff"}}


def middle(page: Page, canvas: str = "canvas.picture") -> list[int]:
    shown = pixels(page, canvas)
    return list(shown[shown.shape[0] // 2, shown.shape[1] // 2])


def names(page: Page) -> list[str]:
    return page.locator(".tile .name").all_inner_texts()


def test_layers_are_grouped_switched_folded_moved_and_dissolved(page: Page, address: str) -> None:
    new_effect(page, address, [RED, GREEN, BLUE])
    tiles = page.locator(".tile-face")
    tiles.nth(1).click(modifiers=["Shift"])
    tiles.nth(2).focus()
    page.keyboard.press("p")
    settle(page)
    expect(page.locator(".bracket .title")).to_have_text("Group 1")
    page.get_by_role("button", name="Switch off Group 1").click()
    settle(page)
    assert middle(page) == [255, 0, 0]
    page.get_by_role("button", name="Switch on Group 1").click()
    settle(page)
    assert middle(page) == [0, 0, 255]
    page.locator(".bracket .title").click()
    expect(page.locator(".tile")).to_have_count(2)
    page.locator(".bracket .title").click()
    expect(page.locator(".tile")).to_have_count(3)
    page.locator(".bracket .title").focus()
    page.keyboard.press("Shift+ArrowLeft")
    settle(page)
    assert names(page) == ["Green", "Blue", "Red"]
    assert middle(page) == [255, 0, 0]
    page.locator(".bracket .title").focus()
    page.keyboard.press("n")
    page.get_by_label("Name of the group").fill("Tide")
    page.keyboard.press("Enter")
    expect(page.locator(".bracket .title")).to_have_text("Tide")
    settle(page)
    page.reload()
    settle(page)
    page.locator(".bracket .title").focus()
    page.keyboard.press("Delete")
    settle(page)
    expect(page.locator(".bracket")).to_have_count(0)
    page.keyboard.press("Control+z")
    settle(page)
    expect(page.locator(".bracket .title")).to_have_text("Tide")


def test_a_dropped_recipe_is_a_layer(page: Page, address: str, tmp_path: Path) -> None:
    new_effect(page, address, [RED])
    file = tmp_path / "low-sun.json"
    recipe = shipped()["fill"].model_dump(by_alias=True, exclude_defaults=True)
    file.write_text(json.dumps({"format": "sun-glaze/recipe", "version": 1, **recipe, "name": "Low sun"}))
    drop(page.locator(".paper"), file)
    expect(page.get_by_role("heading", name="Low sun")).to_be_visible()
    settle(page)
    assert middle(page) != [255, 0, 0]
    file.write_text('{"format": "sun-glaze/recipe", "version": 1, "nodes": 3}')
    drop(page.locator(".paper"), file)
    expect(page.get_by_text("low-sun.json: nodes")).to_be_visible()
    assert names(page) == ["Red", "Low sun"]


def test_opacity_is_driven_and_its_mask_too(page: Page, address: str) -> None:
    new_effect(page, address, [RED])
    page.get_by_label("What drives Opacity").select_option("Pulse")
    # An eighth of the range below where it stood: between 0.875 and 1.
    expect(page.locator(".sentence", has_text="goes from")).to_be_visible()
    until(page, lambda: 0 < pixels(page)[..., 1].max() <= bare()[..., 1].max() * 0.13)
    page.get_by_role("tab", name="Mask").click()
    page.get_by_role("radio", name="Circle").click()
    page.get_by_label("What drives Width").select_option("Pulse")
    settle(page)
    expect(page.locator(".sentence", has_text="goes from")).to_be_visible()
    until(page, lambda: np.abs(pixels(page) - bare())[:50, :50].max() == 0)


def test_the_gpu_gives_way_while_values_are_read(page: Page, address: str) -> None:
    new_effect(page, address, [RED])
    page.keyboard.press("g")
    until(page, lambda: middle(page, "canvas.gpu") == [255, 0, 0])
    page.keyboard.press("h")
    expect(page.locator("canvas.gpu")).to_be_hidden()
    until(page, lambda: middle(page) == [255, 0, 0])
    page.get_by_role("button", name="Scope", exact=True).click()
    expect(page.locator("canvas.gpu")).to_be_visible()
    until(page, lambda: np.abs(pixels(page) - bare()).max() == 0)
