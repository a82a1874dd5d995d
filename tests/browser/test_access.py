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
    page.add_script_tag(path=AXE)
    found = page.evaluate("tags => axe.run(document, { runOnly: tags }).then(r => r.violations)", TAGS)
    return [f"{v['id']}: {n['target']} {n['failureSummary']}" for v in found for n in v["nodes"]]


@pytest.mark.parametrize("view", ["/", "/showcase", "/nowhere"])
def test_pages_around_the_workbench(page: Page, address: str, view: str) -> None:
    new_effect(page, address, LAYERS)
    page.goto(view)
    page.wait_for_timeout(800)
    assert violations(page) == []


@pytest.mark.parametrize("sheet", ["1", "2", "3"])
@pytest.mark.parametrize("layer", [0, 2, 3])
def test_the_sheets_of_the_desk(page: Page, address: str, sheet: str, layer: int) -> None:
    new_effect(page, address, LAYERS)
    page.locator(".tile-face").nth(layer).click()
    page.keyboard.press(sheet)
    page.wait_for_timeout(1500)
    assert violations(page) == []


@pytest.mark.parametrize(
    "keys", [["a"], ["?"], ["y"], ["h", "i", "w"], ["3", "f"], ["s", "s", "s"]], ids=["palette", "keys", "takes", "looking", "find", "wide"]
)
def test_what_opens_over_the_workbench(page: Page, address: str, keys: list[str]) -> None:
    new_effect(page, address, LAYERS)
    for key in keys:
        page.keyboard.press(key)
        page.wait_for_timeout(700)
    assert violations(page) == []


@pytest.mark.parametrize("size", [(1024, 768), (1280, 800), (1920, 1080)])
def test_nothing_is_cut_off_at_any_size(page: Page, address: str, size: tuple[int, int]) -> None:
    """What can be pressed lies inside the window and is not covered at its middle; the picture takes a third of the width or more."""
    page.set_viewport_size({"width": size[0], "height": size[1]})
    new_effect(page, address, LAYERS)
    hidden = page.evaluate(
        """([width, height]) => [...document.querySelectorAll('.bar button, .bar a, .surround button, .surround select, .head button')]
            .filter(e => { const b = e.getBoundingClientRect(); const on = document.elementFromPoint(b.x + b.width / 2, b.y + b.height / 2)
                return b.width && (b.right > width + 1 || b.bottom > height + 1 || !on || !(e.contains(on) || on.contains(e))) })
            .map(e => e.textContent.trim())""",
        list(size),
    )
    assert hidden == []
    box = page.locator(".surround").bounding_box()
    assert box
    assert box["width"] >= size[0] / 3 - 1
