"""What is fetched when a page opens, and when."""

from __future__ import annotations

from typing import Any

import pytest
from playwright.sync_api import Page, expect

from tests.browser.workbench import frames_shown, new_effect, until

FETCHED = """() => performance.getEntriesByType('resource')
  .filter((one) => one.name.includes('/assets/'))
  .map((one) => [one.name.split('/').pop().split('-')[0], one.startTime, one.responseEnd])"""


def fetched(page: Page) -> dict[str, tuple[float, float]]:
    found: list[Any] = page.evaluate(FETCHED)
    return {name: (start, end) for name, start, end in found}


def test_the_workbenchs_script_comes_along_with_the_pages_own(page: Page, address: str) -> None:
    """Scripts are executed when the page's text has been read; by then it is asked for."""
    new_effect(page, address)
    found = fetched(page)
    read = page.evaluate("performance.getEntriesByType('navigation')[0].domInteractive")
    assert found["WorkBench"][0] <= read
    assert "RecipeSheet" not in found, "what only recipes need is fetched with the first recipe"


@pytest.mark.parametrize("path", ["/", "/showcase", "/p/ABCDEF"])
def test_other_pages_do_not_fetch_the_workbench(page: Page, address: str, path: str) -> None:
    page.goto(address + path)
    expect(page.locator("#app")).not_to_be_empty()
    page.wait_for_load_state("networkidle")
    assert "WorkBench" not in fetched(page)


def test_the_picture_moves_on_while_the_page_is_busy(page: Page, address: str) -> None:
    """Frames are decoded and drawn on a thread of their own."""
    new_effect(page, address)
    page.keyboard.press("Space")
    expect(page.locator(".rates")).to_contain_text("fps")
    # A busy machine draws few pictures a second, whoever waits for them: the page is busy for longer, then.
    assert any(drawn_meanwhile(page, seconds) >= 5 for seconds in (1.5, 3, 6, 12, 24, 48))


def drawn_meanwhile(page: Page, seconds: float) -> int:
    """How many pictures were drawn while the page did nothing but count."""
    script = (
        "(ms) => { const began = performance.now(); while (performance.now() < began + ms); return [began, performance.now()] }"
    )
    began, ended = page.evaluate(script, seconds * 1000)
    page.wait_for_function("after => performance.getEntriesByName('frame').some((one) => one.startTime > after)", arg=ended)
    times = page.evaluate("performance.getEntriesByName('frame').map((one) => one.startTime)")
    return sum(began + 100 < time < ended - 100 for time in times)


def test_a_page_that_nobody_sees_does_not_wait_for_the_display(page: Page, address: str) -> None:
    """A browser displays nothing of a hidden page, and asks for no frames. Headless Chromium hides none: its part is played."""
    new_effect(page, address)
    page.workers[0].evaluate("() => { self.requestAnimationFrame = () => 0 }")
    page.keyboard.press(" ")
    until(page, lambda: frames_shown(page, 500) == 0)  # a display that is slow is waited for
    page.evaluate(
        "Object.defineProperty(document, 'hidden', { value: true }), document.dispatchEvent(new Event('visibilitychange'))"
    )
    until(page, lambda: frames_shown(page, 500) > 0)
