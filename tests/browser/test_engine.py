"""The engine as an artist meets it: layers from the palette, controls of every kind, the picture on this device's GPU."""

from __future__ import annotations

import numpy as np
from playwright.sync_api import Page, expect

from sunglaze.core.camera.cast import StandIn
from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.effect.shipped import shipped
from tests import engines
from tests.browser.workbench import FRAME, SIZE, bare, new_effect, pixels, settle, type_value, until
from tests.serving import Served


def rendered(*layers: Layer) -> np.ndarray:
    """What Python gives for these layers at the frame that tests look at."""
    compiled = compile_effect(Effect(name="t", layers=list(layers)), Material())
    return engines.shown(compiled, StandIn(*SIZE), FRAME).astype(int)


def add(page: Page, *typed: str) -> None:
    page.evaluate("document.activeElement?.blur()")
    page.keyboard.press("a")
    page.get_by_label("Find a layer").fill(" ".join(typed))
    page.keyboard.press("Enter")
    settle(page)


def test_a_layer_is_found_by_what_it_does_and_shows_at_once(page: Page, served: Served) -> None:
    new_effect(page, served.address)
    page.keyboard.press("a")
    expect(page.get_by_role("menuitem")).to_have_count(len(shipped()) + 1)  # and an empty recipe
    page.get_by_label("Find a layer").fill("corners")
    expect(page.get_by_role("menuitem")).to_have_text(["Vignette", "Pinned picture"])
    page.get_by_label("Find a layer").fill("sun dial")
    expect(page.get_by_text("No layer is called that")).to_be_visible()
    page.get_by_label("Find a layer").fill("corners")
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Enter")
    settle(page)
    want = rendered(Layer(id="v", name="v", kind="vignette", blend="multiply"))
    until(page, lambda: np.abs(pixels(page) - want).max() <= 1)
    until(page, lambda: np.abs(pixels(page) - bare()).max() > 40)


def test_controls_of_every_kind_move_the_picture(page: Page, served: Served) -> None:
    new_effect(page, served.address)
    add(page, "mirror")
    page.get_by_role("radiogroup", name="Down").get_by_role("radio", name="On").click()
    settle(page)
    until(page, lambda: np.abs(pixels(page) - rendered(Layer(id="m", name="m", kind="mirror", values={"down": True}))).max() <= 1)
    add(page, "posterize")
    type_value(page, "Tones", "3")
    settle(page)
    levels = {int(v) for v in np.unique(pixels(page))}
    assert levels == {0, 128, 255}
    add(page, "blur")
    page.get_by_role("radiogroup", name="Quality").get_by_role("radio", name="Exact").click()
    type_value(page, "Amount", "20")
    settle(page)
    layers = [
        Layer(id="m", name="m", kind="mirror", values={"down": True}),
        Layer(id="p", name="p", kind="posterize", values={"steps": 3}),
        Layer(id="b", name="b", kind="blur", values={"amount": 20, "quality": "exact"}),
    ]
    until(page, lambda: np.abs(pixels(page) - rendered(*layers)).max() <= 1)


def test_the_same_picture_on_the_gpu_and_by_python(page: Page, served: Served) -> None:
    layers = [
        {"kind": "cut-out", "id": "c", "name": "Cut-out", "values": {"soften": 4}},
        {"kind": "film-grain", "id": "g", "name": "Grain"},
        {"kind": "outline", "id": "o", "name": "Outline", "blend": "screen"},
    ]
    new_effect(page, served.address, layers, short=540)
    by_python = pixels(page)
    page.keyboard.press("g")
    expect(page.get_by_role("button", name="GPU")).to_be_visible()
    page.wait_for_selector(f'canvas.gpu[data-frame="{FRAME}"]')
    # The lossless frame and its mask come a little later.
    until(page, lambda: np.percentile(np.abs(pixels(page, "canvas.gpu") - by_python), 99.9) <= 2)
    on_gpu = pixels(page, "canvas.gpu")
    type_value(page, "Opacity", "0")
    until(page, lambda: np.abs(pixels(page, "canvas.gpu") - on_gpu).max() > 30)  # a uniform, without a new program
    page.keyboard.press("g")
    settle(page)
    until(page, lambda: np.abs(pixels(page) - by_python).max() > 30)


def test_a_layer_of_a_newer_version_is_named_and_kept(page: Page, served: Served) -> None:
    new_effect(page, served.address, [{"kind": "sunbeams", "id": "s", "name": "Beams", "values": {"rays": 3}}])
    expect(page.get_by_text("comes from a newer version")).to_be_visible()
    until(page, lambda: np.array_equal(pixels(page), bare()))
