"""When an edit is saved: behind its picture, and without one all the same."""

from __future__ import annotations

from typing import Any

import httpx
import pytest
from playwright.sync_api import Dialog, Error, Page, expect

from tests.browser.workbench import new_effect, settle, type_value, until

FILLS: list[dict[str, Any]] = [
    {"kind": "fill", "id": "sand", "name": "Sand", "blend": "normal", "opacity": 0.5, "values": {"colour": "#d8b070"}},
    {"kind": "fill", "id": "sea", "name": "Sea", "blend": "multiply", "opacity": 0.5, "values": {"colour": "#2060a0"}},
]
TIMES = """() => ({
  edits: performance.getEntriesByName('edit to picture').map((one) => [one.startTime, one.startTime + one.duration]),
  saved: performance.getEntriesByType('resource').filter((one) => one.name.endsWith('/revisions')).map((one) => one.startTime),
})"""
HOLD = """(what) => {
  const real = window.fetch
  window.fetch = async (...asked) => {
    if (String(asked[0]).endsWith(what)) {
      window.fetch = real
      await new Promise((done) => { window.letGo = done })
    }
    return real(...asked)
  }
}"""
"""The next request whose address ends so waits on its way until `letGo` is called."""


def head(address: str, identity: str) -> dict[str, Any]:
    with httpx.Client(base_url=address) as http:
        effect: dict[str, Any] = http.get(f"/api/effects/{identity}").json()["effect"]
    return effect


def edited_unseen(page: Page, address: str) -> str:
    """An effect whose second layer was just set to screen, without the thread that streams, so that no picture comes; its id. No
    request passes through the test then: what outlives a page does not where its requests are held up on their way."""
    identity = new_effect(page, address, FILLS)
    page.route("**/thread-*.js", lambda route: route.abort())
    page.reload()
    page.locator(".tile-face").nth(1).click()
    page.unroute_all()
    assert not page.evaluate("performance.getEntriesByName('frame').length")
    page.get_by_label("Blend mode").select_option("screen")
    return identity


def test_an_edit_is_saved_when_its_picture_has_come(page: Page, address: str) -> None:
    """Both want the same processor; who edits waits for the picture."""
    identity = new_effect(page, address, FILLS)
    page.locator(".tile-face").nth(1).click()
    for mode in ("screen", "overlay", "darken"):
        page.evaluate("performance.clearMeasures(); performance.clearResourceTimings()")
        page.get_by_label("Blend mode").select_option(mode)
        settle(page)
        times = page.evaluate(TIMES)
        [[made, seen]], [saved] = times["edits"], times["saved"]
        # A picture that takes longer than 0.4 s is not waited for.
        assert saved >= min(seen, made + 400) - 5
        assert head(address, identity)["layers"][1]["blend"] == mode


def test_an_edit_whose_picture_does_not_come_is_saved_all_the_same(page: Page, address: str) -> None:
    """The stream is cut off; saving goes by another way."""
    identity = edited_unseen(page, address)
    expect(page.locator(".saved")).to_contain_text("saved")
    page.wait_for_function("performance.getEntriesByType('resource').some((one) => one.name.endsWith('/revisions'))")
    expect(page.locator(".saved")).to_contain_text("saved")
    assert head(address, identity)["layers"][1]["blend"] == "screen"


def test_an_edit_just_before_the_page_goes_away_is_saved(page: Page, address: str) -> None:
    """Its picture, for which saving waits, has not come yet."""
    identity = edited_unseen(page, address)
    page.goto("about:blank")
    until(page, lambda: head(address, identity)["layers"][1]["blend"] == "screen")


def test_the_browser_asks_before_a_page_goes_that_could_not_save(page: Page, address: str) -> None:
    identity = new_effect(page, address, FILLS)
    asked: list[str] = []

    def stay(dialog: Dialog) -> None:
        asked.append(dialog.type)
        dialog.dismiss()

    page.on("dialog", stay)
    page.route("**/revisions", lambda route: route.abort())
    page.locator(".tile-face").nth(1).click()
    page.get_by_label("Blend mode").select_option("screen")
    expect(page.locator(".saved")).to_contain_text("not saved yet")
    with pytest.raises(Error, match="ERR_ABORTED"):
        page.goto("about:blank")
    assert asked == ["beforeunload"]
    # Who stays loses nothing.
    page.unroute("**/revisions")
    settle(page)
    assert head(address, identity)["layers"][1]["blend"] == "screen"
    page.goto("about:blank")
    assert asked == ["beforeunload"]


def test_what_waits_behind_an_overtaken_change_is_kept_beside_it(page: Page, address: str) -> None:
    """Two edits of one window are on their way while another saves: what the other did stands, and both are in the history."""
    identity = new_effect(page, address, FILLS)
    other = page.context.new_page()
    other.goto(f"/effects/{identity}")
    expect(other.get_by_role("slider", name="Opacity")).to_be_visible()
    # Pages that are behind others draw nothing, and settle by drawing.
    page.bring_to_front()
    page.evaluate(HOLD, "/revisions")
    page.locator(".tile-face").nth(1).click()
    for mode in ("screen", "overlay"):
        page.get_by_label("Blend mode").select_option(mode)
    page.wait_for_function("() => window.letGo")
    other.bring_to_front()
    type_value(other, "Opacity", "80")
    until(other, lambda: 0.8 in [one["opacity"] for one in head(address, identity)["layers"]])
    page.bring_to_front()
    page.evaluate("window.letGo()")
    settle(page)
    expect(page.get_by_label("Blend mode")).to_have_value("multiply")
    theirs = head(address, identity)
    assert [one["blend"] for one in theirs["layers"]] == ["normal", "multiply"]
    assert 0.8 in [one["opacity"] for one in theirs["layers"]]
    with httpx.Client(base_url=address) as http:
        kept = [
            http.get(f"/api/effects/{identity}/revisions/{number}")
            for number in range(http.get(f"/api/effects/{identity}/head").json() + 3)
        ]
    blends = [one.json()["layers"][1]["blend"] for one in kept if one.is_success and len(one.json()["layers"]) == 2]
    assert {"screen", "overlay"} <= set(blends)


def test_what_keys_turned_is_saved_when_the_focus_leaves(page: Page, address: str) -> None:
    """The key is held while something else takes the focus; at its end a ruler gives no further steps."""
    identity = new_effect(page, address, FILLS[:1])
    opacity = page.get_by_role("slider", name="Opacity")
    opacity.focus()
    page.keyboard.down("ArrowRight")
    page.get_by_role("button", name="Play").focus()
    page.keyboard.up("ArrowRight")
    until(page, lambda: head(address, identity)["layers"][0]["opacity"] == 0.51)
    opacity.focus()
    page.keyboard.press("End")
    until(page, lambda: head(address, identity)["layers"][0]["opacity"] == 1.0)
    with httpx.Client(base_url=address) as http:
        before = http.get(f"/api/effects/{identity}/head").json()
        for _ in range(3):
            page.keyboard.press("ArrowRight")
        page.keyboard.press("ArrowLeft")
        until(page, lambda: head(address, identity)["layers"][0]["opacity"] == 0.99)
        settle(page)
        assert len(http.get(f"/api/effects/{identity}/history").json()) == 5
        assert http.get(f"/api/effects/{identity}/head").json() > before
