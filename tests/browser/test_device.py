"""Who draws the picture to begin with: the device where it has a graphics processor, told from its name and a timed frame.
The name is forced here, where there is none."""

from __future__ import annotations

import numpy as np
from playwright.sync_api import Page, expect

from tests.browser.workbench import new_effect, pixels, until

NAMED = """() => {
    const told = WebGL2RenderingContext.prototype.getParameter
    WebGL2RenderingContext.prototype.getParameter = function (name) {
        return [0x9246, 0x1f01].includes(name) ? 'Harbour Graphics 12' : told.call(this, name)
    }
}"""
SLOW = """() => {
    const read = WebGL2RenderingContext.prototype.readPixels
    WebGL2RenderingContext.prototype.readPixels = function (...given) {
        for (const end = performance.now() + 40; performance.now() < end; );
        return read.apply(this, given)
    }
}"""
GREEN = {"id": "green", "name": "Kelp", "kind": "fill", "values": {"colour": "#00c040"}}


def test_a_device_with_a_graphics_processor_draws_by_itself(page: Page, address: str) -> None:
    page.add_init_script(f"({NAMED})()")
    new_effect(page, address, [GREEN])
    expect(page.get_by_role("button", name="GPU", exact=True)).to_have_attribute("aria-pressed", "true")
    until(page, lambda: np.abs(pixels(page, "canvas.gpu").mean(axis=(0, 1)) - (0, 0xC0, 0x40)).max() < 2)
    # By hand it is Python's, here and in what is opened next.
    page.keyboard.press("g")
    expect(page.get_by_role("button", name="Python", exact=True)).to_have_attribute("aria-pressed", "true")
    page.reload()
    page.locator("canvas.picture[data-serial]").wait_for()
    page.wait_for_timeout(6000)
    expect(page.get_by_role("button", name="Python", exact=True)).to_have_attribute("aria-pressed", "true")


def test_one_that_is_too_slow_leaves_it_to_python(page: Page, address: str) -> None:
    page.add_init_script(f"({NAMED})();({SLOW})()")
    new_effect(page, address, [GREEN])
    expect(page.get_by_role("button", name="GPU", exact=True)).to_have_attribute("aria-pressed", "true")
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Python", exact=True)).to_have_attribute("aria-pressed", "true")
    until(page, lambda: np.abs(pixels(page, "canvas.picture").mean(axis=(0, 1)) - (0, 0xC0, 0x40)).max() < 3)


def test_software_is_no_graphics_processor(page: Page, address: str) -> None:
    new_effect(page, address, [GREEN])
    page.wait_for_timeout(6000)
    expect(page.get_by_role("button", name="Python", exact=True)).to_have_attribute("aria-pressed", "true")
