"""WCAG 2.2 AA by axe-core (Deque, MPL 2.0; in tests only) on every main view; sizes that the workbench must bear."""

from __future__ import annotations

from pathlib import Path

import pytest
from playwright.sync_api import Page

from tests.browser.workbench import new_effect

AXE = Path(__file__).parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"
TAGS = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]
LAYERS = [
    {"id": "tone", "name": "Cold light", "kind": "tone-and-colour"},
    {"id": "hues", "name": "Hues", "kind": "hue-by-hue"},
    {"id": "words", "name": "Words", "kind": "text", "mask": {"kind": "region", "values": {}}},
    {"id": "edges", "name": "Lines", "kind": "outline", "blend": "screen"},
]


def violations(page: Page) -> list[str]:
    page.evaluate(AXE.read_text())  # as a debugger does: the page itself takes no script from elsewhere
    found = page.evaluate("tags => axe.run(document, { runOnly: tags }).then(r => r.violations)", TAGS)
    return [f"{v['id']}: {n['target']} {n['failureSummary']}" for v in found for n in v["nodes"]]


def test_pages_around_the_workbench(page: Page, address: str) -> None:
    new_effect(page, address, LAYERS)
    for view in ("/", "/showcase", "/nowhere"):
        page.goto(view)
        page.wait_for_timeout(800)
        assert violations(page) == []


def test_the_sheets_of_the_desk(page: Page, address: str) -> None:
    new_effect(page, address, LAYERS)
    for layer, sheets in ((0, "1"), (1, "1"), (2, "12"), (3, "3")):
        page.locator(".tile-face").nth(layer).click()
        for sheet in sheets:
            page.keyboard.press(sheet)
            page.wait_for_timeout(1200)
            assert violations(page) == []


def test_what_opens_over_the_workbench(page: Page, address: str) -> None:
    new_effect(page, address, LAYERS)
    for keys, close in (("a", "Escape"), ("?", "Escape"), ("ky", "y"), ("hiw", "i"), ("3f", "Escape"), ("1sss", "s")):
        for key in keys:
            page.keyboard.press(key)
            page.wait_for_timeout(600)
        assert violations(page) == [], keys
        page.keyboard.press(close)
        page.wait_for_timeout(400)


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
