"""Pre-flight in the workbench: it is asked for before an effect leaves, says what it finds, and leads there."""

from __future__ import annotations

from playwright.sync_api import Page, expect

from tests.browser.workbench import new_effect, settle
from tests.serving import Served

BLINKS = {
    "id": "white", "name": "Lightning", "kind": "fill", "values": {"colour": "#ffffff"},
    "drives": {"layer:opacity": {"kind": "pulse", "values": {"low": 0.0, "high": 1.0, "seconds": 0.12}}},
}  # fmt: skip
HAT = {"id": "hat", "name": "A hat", "kind": "mesh"}


def test_an_effect_is_checked_and_mended_from_the_list(page: Page, served: Served) -> None:
    new_effect(page, served.address, [HAT, BLINKS])
    page.get_by_role("button", name="Export").click()
    page.get_by_role("menuitem", name="Check it before it leaves").click()
    sheet = page.get_by_role("dialog", name="Before it leaves")
    expect(sheet.get_by_role("status")).to_have_text("1 stop it", timeout=180_000)
    first = sheet.get_by_role("listitem").first
    expect(first).to_contain_text("Flashing")
    expect(first).to_contain_text("stops it")
    material = sheet.get_by_role("listitem").filter(has_text="A hat: nothing is chosen for it")
    material.get_by_role("button", name="Go there").click()
    expect(sheet).to_be_hidden()
    expect(page.get_by_role("heading", name="A hat", level=2)).to_be_visible()

    # Taken away, and the blinking made slow: nothing stops it any more.
    page.get_by_role("button", name="A hat, layer").focus()
    page.keyboard.press("Delete")
    page.get_by_role("button", name="Lightning, layer").focus()
    page.keyboard.press("Delete")
    settle(page)
    page.get_by_role("button", name="Export").click()
    page.get_by_role("menuitem", name="Check it before it leaves").click()
    expect(sheet.get_by_role("status")).to_have_text("Nothing stops it; 1 to look at", timeout=180_000)
    sheet.get_by_label("Against").select_option("web")
    expect(sheet.get_by_text("of 12 MB")).to_be_visible(timeout=180_000)
