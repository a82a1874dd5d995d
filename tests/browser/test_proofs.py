"""The proof sheet as an artist uses it: cells arrive, what stands out is said, compared, sorted, written,
and renewed by an edit."""

from __future__ import annotations

import base64
import io
import json
import re
from pathlib import Path

import httpx
import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from tests.browser.workbench import until
from tests.serving import Served

BAR = {
    "id": "bar", "name": "Bar", "kind": "fill", "values": {"colour": "#202020"},
    "mask": {"kind": "region", "values": {"region": "eyes", "soft": 0.0, "grow": 10.0}},
}  # fmt: skip
FOG = {"id": "fog", "name": "Fog", "kind": "fill", "values": {"colour": "#0000ff"}, "opacity": 0.5}
WAIT = 120_000


def saved(served: Served, layers: list[dict[str, object]], effect: str | None = None) -> str:
    with httpx.Client(base_url=served.address, timeout=60) as http:
        state = http.get(f"/api/effects/{effect}").json() if effect else http.post("/api/effects", json={"name": "Fogs"}).json()
        state["effect"]["layers"] = layers
        change = {"base": state["revision"], "gesture": "Set up", "effect": state["effect"]}
        http.post(f"/api/effects/{state['id']}/revisions", json=change).raise_for_status()
        return str(state["id"])


@pytest.fixture
def few(page: Page, served: Served) -> str:
    """An effect whose sheet has two people in two lights."""
    effect = saved(served, [FOG])
    sheet = {"who": ["lamp-tender", "oyster-cook"], "light": ["noon", "dusk"], "screen": ["9:16"], "moment": ["talks"]}
    kept = json.dumps({"sheet": {"down": "light", "across": "who", **sheet}})
    page.goto("/showcase")
    page.evaluate("([k, v]) => localStorage.setItem(k, v)", [f"proof {effect}", kept])
    page.goto(f"/effects/{effect}/proof")
    expect(page.get_by_text("4 of 4 cells")).to_be_visible(timeout=WAIT)
    return effect


def mean(page: Page, cell: str, which: int = 0) -> np.ndarray:
    address = page.locator(f'[data-cell="{cell}"] img').nth(which).get_attribute("src") or ""
    return np.asarray(Image.open(io.BytesIO(base64.b64decode(address.split(",")[1]))), float).mean(axis=(0, 1))


def test_cells_come_and_an_edit_renews_them(page: Page, served: Served, few: str) -> None:
    noon = "lamp-tender/noon/9:16/talks"
    blue = mean(page, noon)
    assert blue[2] > blue[0] + 60
    expect(page.get_by_text("No border shows.")).to_be_visible()
    saved(served, [BAR], few)
    # Cells of before stay in sight until the new ones are there.
    expect(page.get_by_text(re.compile("hides everybody's eyes"))).to_be_visible(timeout=WAIT)
    expect(page.get_by_text("4 of 4 cells")).to_be_visible(timeout=WAIT)
    again = mean(page, noon)
    assert again[2] < again[0] + 40
    expect(page.locator(f'[data-cell="{noon}"]')).to_have_class(re.compile("marked"))


def test_compared_sorted_and_written(page: Page, few: str) -> None:
    cook = "oyster-cook/dusk/9:16/talks"
    page.get_by_label("Compare with").select_option("without:fog")
    expect(page.locator(f'[data-cell="{cook}"] img')).to_have_count(2, timeout=WAIT)
    assert mean(page, cook, 0)[2] > mean(page, cook, 1)[2] + 40
    page.get_by_role("button", name="Show the figures as a table").click()
    rows = page.locator("tbody tr")
    expect(rows).to_have_count(4)
    page.get_by_role("button", name="Shift of skin").click()
    shifts = [float(text) for text in page.locator("tbody tr td:nth-child(5)").all_inner_texts()]
    assert shifts == sorted(shifts, reverse=True)
    assert len(set(shifts)) > 1
    page.get_by_role("button", name="Shift of skin").click()
    expect(page.locator("th[aria-sort=ascending]")).to_have_count(1)
    assert [float(text) for text in page.locator("tbody tr td:nth-child(5)").all_inner_texts()] == sorted(shifts)
    with page.expect_download() as loading:
        page.get_by_role("button", name="PDF").click()
    assert loading.value.suggested_filename == "Fogs proof.pdf"
    assert Path(loading.value.path()).read_bytes().startswith(b"%PDF-")


def test_b_is_held_for_the_bare_camera_and_rows_lead_to_the_workbench(page: Page, few: str) -> None:
    noon = "lamp-tender/noon/9:16/talks"
    fogged = mean(page, noon)
    page.keyboard.down("b")
    until(page, lambda: mean(page, noon)[2] < fogged[2] - 30)
    page.keyboard.up("b")
    until(page, lambda: bool(np.allclose(mean(page, noon), fogged)))
    page.get_by_role("button", name="Show the figures as a table").click()
    page.locator("tbody tr").filter(has_text="Oyster cook").filter(has_text="Dusk").get_by_role("button").press("Enter")
    expect(page).to_have_url(re.compile(f"/effects/{few}$"))
    expect(page.locator(".cast .words")).to_have_text(re.compile("Oyster cook.*Dusk"))


def test_a_cell_opens_the_workbench_there(page: Page, few: str) -> None:
    page.get_by_role("button", name="People 2").click()
    page.get_by_label("Beekeeper").check()
    page.keyboard.press("Escape")
    expect(page.get_by_text("6 of 6 cells")).to_be_visible(timeout=WAIT)
    page.locator('[data-cell="beekeeper/dusk/9:16/talks"]').click()
    expect(page).to_have_url(re.compile(f"/effects/{few}$"))
    expect(page.locator(".cast .words")).to_have_text(re.compile("Beekeeper.*Dusk"))
    page.wait_for_selector('canvas.picture[data-lossless="true"]')
    assert json.loads(page.evaluate("id => sessionStorage.getItem(`view ${id}`)", few))["frame"] == 45
    page.get_by_role("link", name="Proof sheet").click()
    # What was chosen is chosen still.
    expect(page.get_by_text("6 of 6 cells")).to_be_visible(timeout=WAIT)
