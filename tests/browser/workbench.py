"""The workbench as tests use it: what a person would do, and the true pixels of the picture."""

from __future__ import annotations

import base64
import io
import json
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any
from urllib.parse import urljoin

import httpx
import numpy as np
from PIL import Image
from playwright.sync_api import Locator, Page, expect

from sunglaze.core.camera.cameras import colours
from sunglaze.core.camera.cast import StandIn

FRAME = 40
SHORT = 270
"""Pixels of the short side of the picture that most tests look at: a quarter of the work of the usual 540."""
SIZE = WIDTH, HEIGHT = SHORT, SHORT * 16 // 9
PHONE = StandIn(540, 960)


REMEMBER = "([key, view]) => location.host && (sessionStorage.getItem(key) ?? sessionStorage.setItem(key, view))"
"""As the tab would remember it from a visit before; what it comes to remember in the test stays. Blank pages have no storage."""


def new_effect(page: Page, address: str, layers: list[dict[str, Any]] | None = None, short: int = SHORT, **more: Any) -> str:
    """Make an effect through the server's interface and open it, paused at FRAME, with a short side of so many pixels; its id.
    `more`: of the document."""
    with httpx.Client(base_url=address) as http:
        state = http.post("/api/effects", json={"name": "Ferry crossing"}).json()
        if layers:
            state["effect"] |= {"layers": layers, **more}
            change = {"base": state["revision"], "gesture": "set up", "effect": state["effect"]}
            http.post(f"/api/effects/{state['id']}/revisions", json=change).raise_for_status()
    view = [f"view {state['id']}", json.dumps({"frame": FRAME, "short": short, "screen": "9:16"})]
    page.add_init_script(f"({REMEMBER})({json.dumps(view)})")
    page.goto(f"/effects/{state['id']}")
    settle(page)
    return str(state["id"])


def publish(page: Page, button: str = "Publish") -> None:
    """Press it on the open sheet, which closes meanwhile, and look at what was published."""
    sheet = page.get_by_role("dialog", name="Publish")
    sheet.get_by_role("button", name=button, exact=True).click()
    expect(sheet).to_be_hidden()
    page.get_by_role("button", name="What is published").click(timeout=180_000)
    expect(sheet).to_be_visible()


SHOWN = "new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))"
"""Two frames of the display: what was done before is drawn."""
SETTLED = """() => {
    const said = document.querySelector('.saved')?.textContent.trim() ?? ''
    const canvas = document.querySelector('canvas.picture[aria-busy="false"][data-lossless="true"]')
    return canvas !== null && /^saved \\d\\d:\\d\\d$/.test(said)
}"""
READ_ALIKE = f"""async (canvas) => {{
    let before = canvas.toDataURL()
    for (let alike = 0; alike < 3; ) {{
        await {SHOWN}
        const now = canvas.toDataURL()
        alike = now === before ? alike + 1 : 0
        before = now
    }}
}}"""


def settle(page: Page) -> None:
    """Wait until the paused picture has come losslessly and all is saved."""
    page.wait_for_selector("canvas.picture")
    page.evaluate(SHOWN)
    page.wait_for_function(SETTLED)
    # The canvas belongs to another thread: what the page reads of it follows the display a moment later, on a busy machine some.
    page.locator("canvas.picture").evaluate(READ_ALIKE)


def pixels(page: Page, canvas: str = "canvas.picture") -> np.ndarray:
    """What a canvas shows: (height, width, 3), int. What it should show is waited for by `until`."""
    data = page.locator(canvas).evaluate("c => c.toDataURL('image/png')")
    return np.asarray(Image.open(io.BytesIO(base64.b64decode(data.split(",")[1]))).convert("RGB")).astype(int)


def bare(number: int = FRAME, short: int = SHORT) -> np.ndarray:
    """The camera without an effect, on a tall screen with a short side of so many pixels."""
    return colours(StandIn(short, short * 16 // 9).frame(number), short).astype(int)


def sent_to_phones(page: Page, number: int) -> np.ndarray:
    """The stand-in's frame as phones get it, which is a JPEG."""
    data = page.request.get(urljoin(page.url, f"/api/camera/frames/{number % PHONE.length}.jpg")).body()
    return np.asarray(Image.open(io.BytesIO(data)).convert("RGB")).astype(int)


def drop(target: Locator, *paths: Path) -> None:
    """Drop files on an element, as from a file manager."""
    files = [{"name": p.name, "data": base64.b64encode(p.read_bytes()).decode()} for p in paths]
    target.evaluate(
        """(element, files) => {
            const transfer = new DataTransfer()
            for (const file of files)
                transfer.items.add(new File([Uint8Array.from(atob(file.data), c => c.charCodeAt(0))], file.name))
            for (const kind of ['dragenter', 'dragover', 'drop'])
                element.dispatchEvent(new DragEvent(kind, { dataTransfer: transfer, bubbles: true, cancelable: true }))
        }""",
        files,
    )


def type_value(page: Page, control: str, value: str) -> None:
    field = page.locator(f'[data-control="{control}"] input.field')
    field.fill(value)
    field.press("Enter")


def pick(page: Page, act: str, exact: bool = False) -> None:
    """Choose from the open menu, and wait until it would open again: Vuetify takes no press within 50 ms of its closing."""
    item = page.get_by_role("menuitem", name=act, exact=exact)
    item.click()
    expect(item).to_be_hidden()
    page.evaluate("() => new Promise((done) => setTimeout(done, 60))")


PATIENCE = 180.0
"""Seconds after which what is waited for will not come. Machines of tests are shared and at times many times slower."""
FIRST_LOOK_MS, LAST_LOOK_MS = 30.0, 200.0


def until(page: Page, holds: Callable[[], object], seconds: float = PATIENCE) -> None:
    """Wait for a condition, looked at again and again."""
    end, pause = time.monotonic() + seconds, FIRST_LOOK_MS
    # Asked once a turn: a picture that held may be sent again, lossy first, right after.
    while not came(holds):
        assert time.monotonic() < end, "what was waited for did not come"
        page.wait_for_timeout(pause)
        pause = min(LAST_LOOK_MS, pause * 1.5)


def came(holds: Callable[[], object]) -> bool:
    try:
        return bool(holds())
    except (IndexError, ValueError):
        return False  # a quick build's picture is smaller for a moment, and does not fit what it is compared with


def frames_shown(page: Page, milliseconds: int) -> int:
    """Frames drawn in a span of time: whether the stream is alive."""
    page.evaluate("performance.clearMarks('frame')")
    page.wait_for_timeout(milliseconds)
    return int(page.evaluate("performance.getEntriesByName('frame').length"))


def kept_still(page: Page) -> np.ndarray:
    """The pixels (rows, columns, 3) of a still as the wearer keeps it: of the one asked for here, not of one kept before."""
    before = page.locator(".kept img").get_attribute("src") if page.locator(".kept img").count() else None
    page.get_by_role("button", name="Picture").click()
    # A still before it is given back when the next one comes: its address is good for nothing then.
    address = page.wait_for_function(
        """(before) => {
            const kept = document.querySelector('.kept img')
            return kept && kept.getAttribute('src') !== before && kept.getAttribute('src')
        }""",
        arg=before,
    ).json_value()
    data = page.evaluate("async (a) => [...new Uint8Array(await (await fetch(a)).arrayBuffer())]", address)
    return np.asarray(Image.open(io.BytesIO(bytes(data))).convert("RGB"))
