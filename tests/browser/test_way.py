"""The whole way: a graded lookup dropped in, judged, saved, published, and worn on the phone."""

from __future__ import annotations

import io
import re
from pathlib import Path

import httpx
import numpy as np
from PIL import Image
from playwright.sync_api import Page, expect

from sunglaze.core.colour.cube_file import write_cube
from sunglaze.core.colour.lut_picture import write_lut_picture
from sunglaze.core.engine.grade import apply_lut
from tests.browser.workbench import FRAME, bare, drop, new_effect, pixels, publish, sent_to_phones, settle, type_value, until
from tests.grades import smooth_grade, through_jpeg
from tests.serving import Served

GRADE = smooth_grade(np.random.default_rng(21), 17)


def graded(strength: float = 1.0, number: int = FRAME) -> np.ndarray:
    return np.rint(np.clip(apply_lut(GRADE, bare(number) / np.float32(255), strength), 0, 1) * 255)


def test_from_a_lookup_to_the_phone(page: Page, served: Served, files: Path) -> None:
    cube = files / "tide-line.cube"
    cube.write_bytes(write_cube(GRADE))
    new_effect(page, served.address)
    until(page, lambda: np.array_equal(pixels(page), bare()))

    # Dropped: the picture changes as the reference says.
    drop(page.locator(".blank"), cube)
    expect(page.get_by_role("heading", name="Tide line")).to_be_visible()
    expect(page.locator(".facts")).to_contain_text("17 steps")
    settle(page)
    until(page, lambda: np.abs(pixels(page) - graded()).max() <= 1)
    until(page, lambda: np.abs(pixels(page) - bare()).mean() > 3)

    # Strength to zero: as before. A small sum is taken, too.
    type_value(page, "Strength", "0")
    settle(page)
    until(page, lambda: np.array_equal(pixels(page), bare()))
    type_value(page, "Strength", "20+2*15")
    settle(page)
    until(page, lambda: np.abs(pixels(page) - graded(0.5)).max() <= 1)

    # A second layer, then the other way round: order shows.
    page.locator("button.add").click()
    page.get_by_role("menuitem", name="Fill").click()
    page.get_by_label("Blend mode").select_option("Multiply")
    type_value(page, "Opacity", "80")
    settle(page)
    after = pixels(page)
    tile = page.locator(".tile-face").nth(1)
    tile.focus()
    tile.press("Shift+ArrowLeft")
    settle(page)
    moved = pixels(page)
    assert np.abs(moved - after).mean() > 0.5

    # Undo to the start, redo to the end: the same pictures, also over a reload.
    page.keyboard.press("Control+z")
    until(page, lambda: np.array_equal(pixels(page), after))
    page.keyboard.press("Control+Shift+z")
    until(page, lambda: np.array_equal(pixels(page), moved))
    page.reload()
    settle(page)
    until(page, lambda: np.array_equal(pixels(page), moved))
    for _ in range(20):
        if page.get_by_role("button", name="Undo").is_disabled():
            break
        page.get_by_role("button", name="Undo").click()
        settle(page)
    until(page, lambda: np.array_equal(pixels(page), bare()))
    for _ in range(20):
        if page.get_by_role("button", name="Redo").is_disabled():
            break
        page.get_by_role("button", name="Redo").click()
        settle(page)
    until(page, lambda: np.array_equal(pixels(page), moved))

    # Published, and worn.
    page.get_by_role("button", name="Publish").click()
    sheet = page.get_by_role("dialog", name="Publish")
    expect(sheet.get_by_label("Name")).to_have_value("Ferry crossing")
    sheet.get_by_label("For", exact=True).fill("1")
    publish(page)
    expect(sheet.get_by_role("heading", name="Ferry crossing is published")).to_be_visible()
    picture = page.locator("canvas.picture").bounding_box()
    lies = sheet.bounding_box()
    assert picture
    assert lies
    assert lies["x"] + lies["width"] <= picture["x"], "the sheet lies over the picture"
    expect(sheet).to_contain_text("of the 4 MB")
    expect(sheet).to_contain_text("lookup table")
    phone = sheet.get_by_role("link", name=re.compile("localhost"))
    address = phone.get_attribute("href")
    assert address
    with page.context.expect_page() as opened:
        phone.click()
    worn = opened.value
    expect(worn.get_by_role("heading", name="Ferry crossing")).to_be_visible()
    worn.wait_for_selector("canvas[data-frame]")
    worn.get_by_role("button", name="Freeze").click()
    expect(worn.get_by_role("button", name="Go on")).to_be_visible()
    number = int(worn.locator("canvas").get_attribute("data-frame") or "")
    seen = pixels(worn, "canvas.screen")
    fill = np.array([0xA8, 0x42, 0x0D]) / 255
    camera = sent_to_phones(worn, number)
    below = camera / 255
    multiplied = below + (below * fill - below) * 0.8
    want = np.rint(apply_lut(GRADE, multiplied, 0.5) * 255)
    assert np.abs(seen - want).max() <= 2
    worn.get_by_role("button", name="Hold for bare").dispatch_event("pointerdown")
    until(worn, lambda: np.array_equal(pixels(worn, "canvas.screen"), camera))
    worn.close()

    code = address.rsplit("/", 1)[1]
    with httpx.Client(base_url=served.address) as http:
        assert http.get(f"/api/packages/{code}/download").content.startswith(b"PK")
        for state in ("in review", "taken"):
            http.post(f"/api/packages/{code}/review", json={"state": state}).raise_for_status()
    page.goto("/showcase")
    expect(page.get_by_role("link", name="Ferry crossing").first).to_be_visible()


def test_a_damaged_lookup_is_used_after_a_clear_warning(page: Page, served: Served, files: Path) -> None:
    written = write_lut_picture(smooth_grade(np.random.default_rng(2), 16), "strip", 8)
    clean = np.asarray(Image.open(io.BytesIO(written)).convert("RGB"))
    Image.fromarray(through_jpeg(clean, 80, True)).save(files / "again.png")
    new_effect(page, served.address)
    drop(page.locator(".blank"), files / "again.png")
    expect(page.locator(".damaged")).to_contain_text(re.compile(r"Damaged, noise 0\.0\d+"))
    expect(page.locator(".message")).to_contain_text("shows damage")
    settle(page)
    until(page, lambda: np.abs(pixels(page) - bare()).mean() > 1)


def test_a_layout_that_fits_two_can_be_read_the_other_way(page: Page, served: Served, files: Path) -> None:
    grade = smooth_grade(np.random.default_rng(5), 16)
    (files / "quay.png").write_bytes(write_lut_picture(grade, "hald", 16))
    new_effect(page, served.address)
    drop(page.locator(".path"), files / "quay.png")
    expect(page.locator(".facts")).to_contain_text("Hald, 16 bits")
    settle(page)
    right = pixels(page)
    page.get_by_role("button", name="Read it as a grid of slices").click()
    expect(page.locator(".facts")).to_contain_text("a grid of slices")
    settle(page)
    until(page, lambda: np.abs(pixels(page) - right).mean() > 5)
    page.get_by_role("button", name="Read it as Hald").click()
    settle(page)
    until(page, lambda: np.array_equal(pixels(page), right))


def test_a_neutral_lookup_downloaded_here_changes_nothing(page: Page, served: Served, files: Path) -> None:
    new_effect(page, served.address)
    page.get_by_role("button", name="Add a lookup grade").click()
    page.get_by_label("Steps", exact=True).select_option("25")
    page.get_by_label("Layout").select_option("hald")
    with page.expect_download() as got:
        page.get_by_role("link", name="Download neutral").click()
    neutral = files / "neutral.png"
    got.value.save_as(neutral)
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Choose a file").click()
    chooser.value.set_files(neutral)
    expect(page.locator(".facts")).to_contain_text("Hald")
    settle(page)
    until(page, lambda: np.abs(pixels(page) - bare()).max() <= 1)
