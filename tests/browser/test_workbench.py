"""The workbench driven by hand: path, desk, picture, wrong files, two windows, a server that goes away."""

from __future__ import annotations

import base64
import contextlib
import io
import os
import signal
from pathlib import Path
from typing import Any

import cv2
import httpx
import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Browser, Page, expect

from sunglaze.core.nodes.blend import MODES
from tests import layers
from tests.browser.workbench import HEIGHT, WIDTH, bare, drop, frames_shown, new_effect, pixels, settle, type_value, until
from tests.conftest import VIEWPORT
from tests.grades import sample_picture
from tests.serving import Served, rendering_process, serve


def fill(name: str, **changes: Any) -> dict[str, Any]:
    values = {"colour": changes.pop("colour", "#336699")}
    return {"kind": "fill", "id": name.lower(), "name": name, "blend": "normal", "opacity": 1.0, "values": values, **changes}


THREE = [
    fill("Sand", colour="#d8b070", blend="multiply"),
    fill("Sea", colour="#2060a0", blend="screen", opacity=0.5),
    fill("Sky", colour="#ffffff", blend="difference", opacity=0.3),
]


def names(page: Page) -> list[str]:
    return page.locator(".tile .name").all_text_contents()


CANVAS = [mode for mode in MODES if mode not in ("subtract", "divide")]  # which the canvas does not have


def test_every_blend_mode_as_chromiums_canvas_has_it(page: Page, served: Served) -> None:
    """The outside reference is the browser's own globalCompositeOperation on the same picture; both round to 8 bits."""
    backdrop = sample_picture(48, 64, 3)
    room = io.BytesIO()
    Image.fromarray(backdrop).save(room, "PNG")
    address = "data:image/png;base64," + base64.b64encode(room.getvalue()).decode()
    page.goto("/")
    theirs = page.evaluate(
        """async ([address, modes, colours, alpha]) => {
            const image = new Image(); image.src = address; await image.decode()
            const out = {}
            for (const mode of modes) for (const colour of colours) {
                const canvas = new OffscreenCanvas(image.width, image.height)
                const c = canvas.getContext('2d', { willReadFrequently: true })
                c.drawImage(image, 0, 0)
                c.globalCompositeOperation = { normal: 'source-over', plus: 'lighter' }[mode] ?? mode
                c.globalAlpha = alpha
                c.fillStyle = colour
                c.fillRect(0, 0, image.width, image.height)
                out[mode + colour] = Array.from(c.getImageData(0, 0, image.width, image.height).data)
            }
            return out
        }""",
        [address, CANVAS, ["#a8420d", "#20c0f0", "#808080"], 0.6],
    )
    from sunglaze.core.effect.compiling import compile_effect
    from sunglaze.core.effect.document import Effect
    from sunglaze.core.effect.literals import Material
    from sunglaze.core.engine.running import draw
    from sunglaze.core.moment.moment import Moment
    from sunglaze.core.targets.memory import parts_of

    worst = {}
    for mode in CANVAS:
        for colour in ("#a8420d", "#20c0f0", "#808080"):
            effect = Effect(name="t", layers=[layers.fill("a", colour, blend=mode, opacity=0.6)])
            compiled = compile_effect(effect, Material())
            words = draw(compiled.program.final, Moment.of(backdrop), compiled.inputs)
            ours = parts_of(words, 64)[:, :, 2::-1].astype(int)
            reference = np.array(theirs[mode + colour]).reshape(48, 64, 4)[:, :, :3]
            worst[mode + colour] = int(np.abs(ours - reference).max())
    print("largest difference from the canvas:", max(worst.values()), "of 255")
    # The canvas works on premultiplied bytes, so it rounds twice more than we do.
    assert max(worst.values()) <= 2, worst


def test_reorder_by_dragging_and_undo(page: Page, served: Served) -> None:
    new_effect(page, served.address, THREE)
    before = pixels(page)
    tiles = page.locator(".tile-face")
    start, end = tiles.nth(0).bounding_box(), tiles.nth(2).bounding_box()
    assert start
    assert end
    page.mouse.move(start["x"] + 30, start["y"] + 50)
    page.mouse.down()
    page.mouse.move(start["x"] + 120, start["y"] + 50, steps=4)
    page.mouse.move(end["x"] + 60, end["y"] + 50, steps=6)
    expect(page.locator(".here")).to_be_visible()
    page.mouse.up()
    settle(page)
    assert names(page) == ["Sea", "Sky", "Sand"]
    until(page, lambda: np.abs(pixels(page) - before).mean() > 1)
    page.keyboard.press("Control+z")
    settle(page)
    assert names(page) == ["Sand", "Sea", "Sky"]
    until(page, lambda: np.array_equal(pixels(page), before))


def test_switching_off_renaming_and_removing(page: Page, served: Served) -> None:
    new_effect(page, served.address, THREE)
    whole = pixels(page)
    for name in ("Sand", "Sea", "Sky"):
        page.get_by_role("button", name=f"Switch off {name}").click()
    settle(page)
    until(page, lambda: np.array_equal(pixels(page), bare()))
    for name in ("Sand", "Sea", "Sky"):
        page.get_by_role("button", name=f"Switch on {name}").click()
    settle(page)
    until(page, lambda: np.array_equal(pixels(page), whole))

    page.locator(".tile-face").nth(1).click()
    page.keyboard.press("n")
    page.get_by_label("Name of the layer").fill("Ebb")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Ebb")).to_be_visible()
    page.locator(".tile-face").nth(1).focus()
    page.keyboard.press("Delete")
    settle(page)
    assert names(page) == ["Sand", "Sky"]
    page.get_by_role("button", name="Undo").last.click()
    settle(page)
    assert names(page) == ["Sand", "Ebb", "Sky"]
    until(page, lambda: np.array_equal(pixels(page), whole))


def test_a_drag_on_the_ruler_moves_the_picture_and_is_one_undo(page: Page, served: Served) -> None:
    new_effect(page, served.address, [fill("Sand", opacity=0.1)])
    before = pixels(page)
    box = page.locator('[data-control="Opacity"] .line').bounding_box()
    assert box
    page.mouse.move(box["x"] + 0.1 * box["width"], box["y"] + 1)
    page.mouse.down()
    for n in range(1, 9):
        page.mouse.move(box["x"] + (0.1 + 0.1 * n) * box["width"], box["y"] + 1)
        page.wait_for_timeout(40)
    page.mouse.up()
    settle(page)
    want = np.rint(bare() + (np.array([0x33, 0x66, 0x99]) - bare()) * 0.9)
    until(page, lambda: np.abs(pixels(page) - want).max() <= 3)
    page.keyboard.press("Control+z")
    settle(page)
    until(page, lambda: np.array_equal(pixels(page), before))
    rail = page.get_by_role("slider", name="Opacity")
    rail.focus()
    rail.press("End")
    settle(page)
    until(page, lambda: (pixels(page) == [0x33, 0x66, 0x99]).all())
    page.locator('[data-control="Opacity"] .name').dblclick()
    assert rail.get_attribute("aria-valuenow") == "100"


def test_hold_for_bare_wipe_and_steps(page: Page, served: Served) -> None:
    new_effect(page, served.address, [fill("Sand")])
    page.keyboard.down("b")
    settle(page)
    until(page, lambda: np.array_equal(pixels(page), bare()))
    page.keyboard.up("b")
    settle(page)
    until(page, lambda: (pixels(page) == [0x33, 0x66, 0x99]).all())
    page.keyboard.press("w")
    slider = page.get_by_role("slider", name="Wipe between bare and effect")
    box = page.locator(".frame").bounding_box()
    grip = slider.bounding_box()
    assert box
    assert grip
    page.mouse.move(grip["x"] + grip["width"] / 2, grip["y"] + 200)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + 200, steps=5)
    page.mouse.up()
    settle(page)
    seen = pixels(page)
    assert np.array_equal(seen[:, :132], bare()[:, :132])
    assert (seen[:, 138:] == [0x33, 0x66, 0x99]).all()
    page.keyboard.press("w")
    page.keyboard.press(".")
    page.keyboard.down("b")
    settle(page)
    until(page, lambda: np.array_equal(pixels(page), bare(41)))
    page.keyboard.up("b")


def test_playing_moves_and_pausing_holds(page: Page, served: Served) -> None:
    new_effect(page, served.address)
    page.keyboard.press(" ")
    until(page, lambda: frames_shown(page, 1000) > 3)  # thirty a second where the machine is not taken away; the bench measures
    page.keyboard.press(" ")
    settle(page)
    assert frames_shown(page, 600) == 0


def test_own_picture_in_the_cameras_place(page: Page, served: Served, files: Path) -> None:
    still = sample_picture(HEIGHT, WIDTH, 9)
    Image.fromarray(still).save(files / "lantern.png")
    new_effect(page, served.address)
    drop(page.locator("canvas.picture"), files / "lantern.png")
    expect(page.get_by_role("button", name="lantern.png")).to_be_visible()
    settle(page)
    until(page, lambda: np.array_equal(pixels(page), still))
    page.get_by_role("button", name="lantern.png").click()
    page.get_by_role("radio", name="Lamp tender").click()
    settle(page)
    until(page, lambda: np.array_equal(pixels(page), bare()))
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Undo").click()
    settle(page)
    until(page, lambda: np.array_equal(pixels(page), still))


def bad_files() -> dict[str, bytes]:
    """Ten kinds of files that are no lookup."""
    png = cv2.imencode(".png", np.zeros((300, 400, 3), np.uint8))[1].tobytes()
    square = cv2.imencode(".png", np.zeros((64, 64, 3), np.uint8))[1].tobytes()
    return {
        "empty.cube": b"",
        "words.cube": b"Dear lamp tender, the tide is out.\n",
        "cut-off.cube": b"LUT_3D_SIZE 2\n0 0 0\n1 0 0\n",
        "too-large.cube": b"LUT_3D_SIZE 200\n0 0 0\n",
        "letters.cube": b"LUT_3D_SIZE 2\n0 0 0\n1 x 0\n" + b"0 0 0\n" * 6,
        "backwards.cube": b"LUT_3D_SIZE 2\nDOMAIN_MIN 1 1 1\nDOMAIN_MAX 0 0 0\n" + b"0 0 0\n" * 8,
        "wrong-size.png": png,
        "half.png": square[: len(square) // 2],
        "renamed.png": b"\x89PNG but not really",
        "package.cube": b"PK\x03\x04" + bytes(200),
    }


def test_wrong_files_of_ten_kinds(page: Page, served: Served, files: Path) -> None:
    effect = new_effect(page, served.address, [fill("Sand", opacity=0.5)])
    before = pixels(page)
    said = set()
    for name, data in bad_files().items():
        (files / name).write_bytes(data)
        drop(page.locator(".desk"), files / name)
        message = page.locator(".message.trouble")
        expect(message).to_contain_text(name)
        said.add(message.inner_text())
        until(page, lambda: np.array_equal(pixels(page), before))
    assert len(said) == 10
    page.keyboard.press(" ")
    until(page, lambda: frames_shown(page, 1000) > 3)
    with httpx.Client(base_url=served.address) as http:
        assert len(http.get(f"/api/effects/{effect}").json()["effect"]["layers"]) == 1


def test_a_second_window_is_told_and_nothing_is_lost(page: Page, served: Served) -> None:
    effect = new_effect(page, served.address, [fill("Sand", opacity=0.5)])
    other = page.context.new_page()
    other.goto(f"/effects/{effect}")
    theirs = other.get_by_role("slider", name="Opacity")
    expect(theirs).to_be_visible()
    # One that rests takes over what was done.
    type_value(page, "Opacity", "70")
    settle(page)
    expect(theirs).to_have_attribute("aria-valuenow", "70")
    expect(other.locator(".message")).to_contain_text("here it is as it stands now")
    # One in the middle of a gesture does not; what it makes is kept beside what came first.
    box = theirs.bounding_box()
    assert box
    other.mouse.move(box["x"] + 0.5 * box["width"], box["y"] + box["height"] / 2)
    other.mouse.down()
    other.mouse.move(box["x"] + 0.3 * box["width"], box["y"] + box["height"] / 2, steps=4)
    held = theirs.get_attribute("aria-valuenow")
    type_value(page, "Opacity", "80")
    settle(page)
    other.wait_for_timeout(4500)
    assert theirs.get_attribute("aria-valuenow") == held != "80"
    other.mouse.up()
    expect(other.locator(".message")).to_contain_text("Your change is kept as revision")
    expect(theirs).to_have_attribute("aria-valuenow", "80")
    with httpx.Client(base_url=served.address) as http:
        assert http.get(f"/api/effects/{effect}").json()["effect"]["layers"][0]["opacity"] == 0.8


@pytest.mark.slow
def test_a_picture_that_was_given_up_is_tried_again_by_hand(browser: Browser, tmp_path: Path) -> None:
    """The process that draws is ended as soon as it is there, until this effect is stopped, or all; then the button goes on."""
    running = serve(tmp_path)
    context = browser.new_context(viewport=VIEWPORT, base_url=running.address)
    page = context.new_page()
    new_effect(page, running.address, [fill("Sand")])
    again = page.get_by_role("button", name="Try it again")

    def given_up() -> bool:
        with contextlib.suppress(AssertionError, ProcessLookupError):
            os.kill(rendering_process(running), signal.SIGKILL)
        return again.is_visible()

    try:
        until(page, given_up)
        expect(page.get_by_role("alert").filter(has_text="it is then tried again")).to_be_visible()
        again.click()
        expect(again).to_be_hidden()
        settle(page)
        until(page, lambda: (pixels(page) == [0x33, 0x66, 0x99]).all())
    finally:
        running.stop()
        context.close()


def test_the_stream_and_the_saves_survive_a_server_that_goes_away(browser: Browser, tmp_path: Path) -> None:
    running = serve(tmp_path)
    context = browser.new_context(viewport=VIEWPORT, base_url=running.address)
    page = context.new_page()
    new_effect(page, running.address, [fill("Sand", opacity=0.5)])
    port = running.address.rsplit(":", 1)[1]
    running.process.kill()
    running.process.wait()
    expect(page.locator(".lost")).to_be_visible()
    type_value(page, "Opacity", "100")
    expect(page.locator(".saved")).to_contain_text("not saved yet")
    again = serve(tmp_path, int(port))
    try:
        settle(page)
        until(page, lambda: (pixels(page) == [0x33, 0x66, 0x99]).all())
        page.reload()
        settle(page)
        until(page, lambda: (pixels(page) == [0x33, 0x66, 0x99]).all())
    finally:
        context.close()
        again.stop()


@pytest.mark.parametrize("width", [1024, 1920])
def test_nothing_is_cut_at_other_widths(page: Page, served: Served, width: int) -> None:
    page.set_viewport_size({"width": width, "height": 760 if width == 1024 else 1080})
    new_effect(page, served.address, THREE)
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
    picture, column = page.locator("canvas.picture").bounding_box(), page.locator(".surround").bounding_box()
    assert picture
    assert column
    assert column["width"] >= width / 3.05
    assert abs(picture["width"] / picture["height"] - 9 / 16) < 0.01
    for button in ("Undo", "Redo", "Publish"):
        box = page.get_by_role("button", name=button, exact=True).bounding_box()
        assert box
        assert box["x"] + box["width"] <= column["x"] + 1


def test_the_wheel_moves_a_long_list_of_controls_wherever_it_is_turned(page: Page, served: Served) -> None:
    """Above rulers, numbers, switches and the room beside them, at the width at which the list is longest."""
    page.set_viewport_size({"width": 1024, "height": 768})
    new_effect(page, served.address, [{"kind": "sparkle", "id": "glints", "name": "Glints", "blend": "screen", "opacity": 1.0}])
    paper = page.locator(".paper")
    box = paper.bounding_box()
    assert box
    for across in (0.05, 0.3, 0.45, 0.6, 0.75, 0.9, 0.97):
        for down in (0.2, 0.5, 0.8):
            paper.evaluate("sheet => { sheet.scrollTop = 0 }")
            page.mouse.move(box["x"] + across * box["width"], box["y"] + down * box["height"])
            page.mouse.wheel(0, 80)
            until(page, lambda: paper.evaluate("sheet => sheet.scrollTop") > 40)
