"""WCAG 2.2 AA by axe-core (Deque, MPL 2.0; in tests only) on every main view; sizes that the workbench must bear."""

from __future__ import annotations

import time
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.browser.workbench import SHOWN, new_effect, until

AXE = Path(__file__).parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"
TAGS = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]
LAYERS = [
    {"id": "tone", "name": "Cold light", "kind": "tone-and-colour"},
    {"id": "hues", "name": "Hues", "kind": "hue-curves"},
    {"id": "words", "name": "Words", "kind": "text", "mask": {"kind": "region", "values": {}}},
    {"id": "edges", "name": "Lines", "kind": "outline", "blend": "screen"},
]


def still(page: Page) -> None:
    """Wait until nothing moves any more."""
    until(page, lambda: page.evaluate("document.getAnimations().every((one) => one.playState !== 'running')"))
    page.evaluate(SHOWN)


def violations(page: Page) -> list[str]:
    page.evaluate(AXE.read_text())  # as a debugger does: the page itself takes no script from elsewhere
    found = page.evaluate("tags => axe.run(document, { runOnly: tags }).then(r => r.violations)", TAGS)
    return [f"{v['id']}: {n['target']} {n['failureSummary']}" for v in found for n in v["nodes"]]


def expect_no_violations(page: Page) -> None:
    """What moves or is still being loaded may break a rule for a moment: what a person would meet is what stays."""
    end = time.monotonic() + 30
    while (found := violations(page)) and time.monotonic() < end:
        page.wait_for_timeout(100)
    assert found == []


def test_pages_around_the_workbench(page: Page, address: str) -> None:
    effect = new_effect(page, address, LAYERS)
    for view in ("/", "/showcase", "/review", f"/effects/{effect}/proof", "/nowhere"):
        page.goto(view)
        expect(page.locator("main h1")).to_be_visible()
        expect_no_violations(page)


def test_what_is_published_and_how(page: Page, address: str) -> None:
    effect = new_effect(page, address, LAYERS)
    code = page.request.post(f"/api/effects/{effect}/publish", timeout=180_000).json()["code"]
    page.get_by_role("button", name="Publish").click()
    page.get_by_label("One line").wait_for()
    expect_no_violations(page)
    page.goto(f"/showcase/{code}")
    page.get_by_role("link", name="Try it on").wait_for()
    expect_no_violations(page)
    page.goto("/review")
    page.locator(f'[data-code="{code}"]').click()
    page.get_by_role("button", name="Take it up and check it").wait_for()
    expect_no_violations(page)
    page.goto(f"/p/{code}")
    page.wait_for_selector("canvas[data-frame]")
    page.get_by_role("button", name="Picture").click()
    page.get_by_role("link", name="Save").wait_for()
    expect_no_violations(page)


def test_the_sheets_of_the_desk(page: Page, address: str) -> None:
    new_effect(page, address, LAYERS)
    for layer, sheets in ((0, "1"), (1, "1"), (2, "12"), (3, "3")):
        page.locator(".tile-face").nth(layer).click()
        for sheet in sheets:
            page.keyboard.press(sheet)
            expect(page.get_by_role("tab").nth(int(sheet) - 1)).to_have_attribute("aria-selected", "true")
            expect_no_violations(page)


def test_what_opens_over_the_workbench(page: Page, address: str) -> None:
    new_effect(page, address, LAYERS)
    for keys, close in (("a", "Escape"), ("?", "Escape"), ("ky", "y"), ("hiw", "i"), ("3f", "Escape"), ("1sss", "s")):
        for key in keys:
            page.keyboard.press(key)
            still(page)
        expect_no_violations(page)
        page.keyboard.press(close)
        still(page)


@pytest.mark.parametrize("size", [(1024, 768), (1280, 800), (1920, 1080)])
def test_nothing_is_cut_off_at_any_size(page: Page, address: str, size: tuple[int, int]) -> None:
    """What can be pressed lies inside the window, uncovered at its middle; the picture takes a third of the width or more."""
    page.set_viewport_size({"width": size[0], "height": size[1]})
    new_effect(page, address, LAYERS)
    hidden = page.evaluate(
        """([width, height]) => {
            const inside = (e, b) => {
                const on = document.elementFromPoint(b.x + b.width / 2, b.y + b.height / 2)
                return b.right <= width + 1 && b.bottom <= height + 1 && on && (e.contains(on) || on.contains(e))
            }
            const all = document.querySelectorAll('.bar button, .bar a, .surround button, .surround select, .head button')
            return [...all].filter(e => e.offsetWidth && !inside(e, e.getBoundingClientRect())).map(e => e.textContent.trim())
        }""",
        list(size),
    )
    assert hidden == []
    box = page.locator(".surround").bounding_box()
    assert box
    assert box["width"] >= size[0] / 3 - 1
