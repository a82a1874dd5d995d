"""Choosing who is before the camera: by faces, by keys, kept for the effect, on the GPU with its own masks."""

from __future__ import annotations

import re

import numpy as np
from playwright.sync_api import Page, expect

from sunglaze.core.camera.cameras import colours
from sunglaze.core.camera.cast import Sitting, StandIn
from tests.browser.workbench import FRAME, SIZE, WIDTH, new_effect, pixels, settle, until

HAIR = {
    "id": "hair", "name": "Hair", "kind": "fill", "values": {"colour": "#00ff00"},
    "mask": {"kind": "region", "values": {"region": "hair", "soft": 0.0, "grow": 0.0}},
}  # fmt: skip


def sees(page: Page, sitting: Sitting) -> bool:
    return bool(np.array_equal(pixels(page), colours(StandIn(*SIZE, sitting).frame(FRAME), WIDTH)))


def test_a_face_a_light_and_a_script_are_chosen_and_kept(page: Page, address: str) -> None:
    new_effect(page, address)
    page.get_by_role("button", name=re.compile("Lamp tender")).click()
    page.get_by_role("radiogroup", name="Cast").get_by_role("radio", name="Beekeeper").click()
    page.get_by_role("radio", name="Dusk").click()
    page.get_by_role("radio", name="Opens the mouth").click()
    until(page, lambda: sees(page, Sitting("beekeeper", "open", "dusk")))
    page.keyboard.press("Escape")
    page.reload()
    settle(page)
    until(page, lambda: sees(page, Sitting("beekeeper", "open", "dusk")))
    page.locator("body").click(position={"x": 600, "y": 700})
    page.keyboard.press("e")
    page.keyboard.press("l")
    page.keyboard.press("r")
    page.keyboard.press("u")
    until(page, lambda: sees(page, Sitting("stilt-walker", "near", "against", True)))
    expect(page.get_by_role("button", name=re.compile("Stilt walker"))).to_contain_text("back camera")


def test_on_the_gpu_the_masks_are_those_of_who_sits_there(page: Page, address: str) -> None:
    new_effect(page, address, [HAIR], short=540)
    page.keyboard.press("e")
    page.keyboard.press("g")
    hair = StandIn(540, 960, Sitting("ferry-pilot")).regions(FRAME, ["hair"])["hair"][..., 0]

    def is_green() -> bool:
        shown = pixels(page, "canvas.gpu")
        return bool((np.abs(shown[hair == 255] - [0, 255, 0]).max(axis=1) <= 1).all()) and bool(
            (shown[hair == 0][:, 1] < 250).mean() > 0.99
        )

    until(page, is_green)
