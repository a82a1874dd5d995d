"""Looking: masks laid over, scopes, probe, takes, screens, what is cut off, solo, as of a stage, zoom."""

from __future__ import annotations

import colorsys
import re
import time

import numpy as np
from playwright.sync_api import Page, Route, expect

from sunglaze.core.camera.cameras import colours
from sunglaze.core.camera.cast import StandIn
from sunglaze.core.colour.curves import curve_at
from tests.browser.workbench import FRAME, HEIGHT, SHORT, SHOWN, WIDTH, bare, new_effect, pixels, settle, type_value, until

RED = {"id": "red", "name": "Red", "kind": "fill", "values": {"colour": "#ff0000"}}
GREEN = {"id": "green", "name": "Green", "kind": "fill", "values": {"colour": "#00ff00"}}
CIRCLE = {"kind": "circle", "values": {"width": 0.6, "height": 0.6, "soft": 0.0}}


def inside_circle(margin: float) -> np.ndarray:
    """Pixels at least `margin` inside the circle of CIRCLE, those outside by it for a negative one."""
    rows, columns = np.mgrid[0:HEIGHT, 0:WIDTH] + 0.5
    far = np.hypot(columns - WIDTH / 2, rows - HEIGHT / 2)
    return far < 0.3 * WIDTH - margin if margin > 0 else far > 0.3 * WIDTH - margin


def test_a_mask_made_on_the_desk_spares_every_pixel_outside(page: Page, address: str) -> None:
    new_effect(page, address, [RED])
    page.keyboard.press("2")
    page.get_by_role("radio", name="Circle").click()
    type_value(page, "Width", "60")
    type_value(page, "Height", "60")
    type_value(page, "Soft edge", "0")
    settle(page)
    picture = pixels(page)
    assert (picture[inside_circle(2)] == [255, 0, 0]).all()
    assert np.abs(picture - bare())[inside_circle(-2)].max() == 0
    page.locator('[data-control="Inverted"]').get_by_text("On").click()
    settle(page)
    picture = pixels(page)
    assert np.abs(picture - bare())[inside_circle(2)].max() == 0
    assert (picture[inside_circle(-2)] == [255, 0, 0]).all()
    expect(page.get_by_role("tab", name="Mask: outside circle")).to_be_visible()


def test_the_mask_is_laid_over_the_picture_and_not_saved(page: Page, address: str) -> None:
    clear = {**GREEN, "opacity": 0.0, "mask": CIRCLE}
    effect = new_effect(page, address, [clear])
    page.keyboard.press("2")
    page.get_by_label("Lay the mask over the picture").check()
    settle(page)
    until(page, lambda: np.abs(pixels(page) - bare())[inside_circle(2)].mean() > 30)
    until(page, lambda: np.abs(pixels(page) - bare())[inside_circle(-2)].max() == 0)
    layers = page.request.get(f"{address}/api/effects/{effect}").json()["effect"]["layers"]
    assert [layer["id"] for layer in layers] == ["green"]
    page.keyboard.press("1")
    until(page, lambda: np.abs(pixels(page) - bare()).max() == 0)


def test_the_probe_reads_true_values_before_and_after(page: Page, address: str) -> None:
    new_effect(page, address, [RED])
    page.keyboard.press("i")
    box = page.locator("canvas.picture").bounding_box()
    assert box
    page.mouse.move(box["x"] + box["width"] * 0.25, box["y"] + box["height"] * 0.75)
    row, column = int(0.75 * HEIGHT), int(0.25 * WIDTH)
    words = page.locator(".probe")
    near = bare()[row - 3 : row + 4, column - 3 : column + 4].reshape(-1, 3).tolist()

    def reads_both() -> bool:
        numbers = [int(n) for n in re.findall(r"\d+", words.inner_text())]
        return numbers[:3] in near and numbers[3:] == [255, 0, 0]

    until(page, reads_both)


def test_scopes_follow_the_picture(page: Page, address: str) -> None:
    new_effect(page, address, [{**RED, "on": False}])
    page.keyboard.press("h")
    scope = page.locator('canvas[data-scope="histogram"]')
    scope.wait_for()
    page.keyboard.press("Space")
    page.evaluate("performance.clearMarks('scope')")
    until(page, lambda: page.evaluate("performance.getEntriesByName('scope').length") >= 5)
    for kind in ("waveform", "parade", "vectorscope"):
        page.keyboard.press("h")
        page.locator(f'canvas[data-scope="{kind}"]').wait_for()
    lit = """c => {
        const data = c.getContext('2d').getImageData(0, 0, c.width, c.height).data
        return data.filter((part, n) => n % 4 < 3 && part > 120).length
    }"""
    many = page.locator("canvas[data-scope]").evaluate(lit)
    page.get_by_role("button", name="Switch on Red").click()
    until(page, lambda: page.locator("canvas[data-scope]").evaluate(lit) < many)


def test_a_name_stays_while_it_is_typed_though_the_list_comes_anew(page: Page, address: str) -> None:
    new_effect(page, address, [RED])
    page.keyboard.press("k")
    expect(page.get_by_role("button", name="Takes 1")).to_be_visible()
    held: list[Route] = []
    page.route("**/history", lambda route: held.append(route))
    page.keyboard.press("y")
    takes = page.get_by_label("Takes and history")
    takes.get_by_label("Name of Take 1").fill("All red")
    with page.expect_response("**/history"):
        held[0].continue_()
    page.unroute("**/history")
    page.evaluate(SHOWN)
    expect(takes.get_by_label("Name of Take 1")).to_have_value("All red")
    takes.get_by_label("Name of Take 1").press("Enter")
    takes.get_by_label("Name of All red").wait_for()


def test_a_take_is_kept_flipped_to_and_gone_back_to(page: Page, address: str) -> None:
    new_effect(page, address, [RED])
    page.keyboard.press("k")
    expect(page.get_by_role("button", name="Takes 1")).to_be_visible()
    page.get_by_role("button", name="Switch off Red").click()
    settle(page)
    until(page, lambda: np.abs(pixels(page) - bare()).max() == 0)
    page.keyboard.down("j")
    until(page, lambda: (pixels(page) == [255, 0, 0]).all())
    page.keyboard.up("j")
    until(page, lambda: np.abs(pixels(page) - bare()).max() == 0)
    page.keyboard.press("y")
    takes = page.get_by_label("Takes and history")
    takes.get_by_label("Name of Take 1").fill("All red")
    takes.get_by_label("Name of Take 1").press("Enter")
    takes.get_by_label("Name of All red").wait_for()
    takes.get_by_role("button", name="Beside").click()
    page.get_by_label("Beside it: All red").wait_for()
    page.reload()
    settle(page)
    page.keyboard.press("y")
    takes.get_by_label("Name of All red").wait_for()
    takes.get_by_role("button", name="Go back to it").click()
    settle(page)
    until(page, lambda: (pixels(page) == [255, 0, 0]).all())
    page.get_by_role("button", name="Undo").first.click()
    settle(page)
    until(page, lambda: np.abs(pixels(page) - bare()).max() == 0)


def test_screens_cut_the_camera_and_never_stretch_it(page: Page, address: str) -> None:
    new_effect(page, address)
    for screen, size in (("3:4", (SHORT, SHORT * 4 // 3)), ("1:1", (SHORT, SHORT)), ("16:9", (HEIGHT, WIDTH))):
        page.get_by_label("Screen", exact=True).select_option(screen)
        settle(page)
        expected = colours(StandIn(*size).frame(FRAME), size[0]).astype(int)
        until(page, lambda expected=expected: np.abs(pixels(page) - expected).max() == 0)
        box = page.locator("canvas.picture").bounding_box()
        assert box
        assert abs(box["width"] / box["height"] - size[0] / size[1]) < 0.01
    page.get_by_label("Screen", exact=True).select_option("9:16")
    page.get_by_label("Pixels of the short side").select_option("720")
    settle(page)
    until(page, lambda: pixels(page).shape == (1280, 720, 3))


def test_what_is_cut_off_is_marked(page: Page, address: str) -> None:
    new_effect(page, address, [{**RED, "mask": CIRCLE, "values": {"colour": "#ff8080"}}])
    page.keyboard.press("c")
    settle(page)
    until(page, lambda: (pixels(page)[inside_circle(2)] == [255, 0, 110]).all())
    page.keyboard.press("c")
    settle(page)
    until(page, lambda: (pixels(page)[inside_circle(2)] == [255, 128, 128]).all())


def test_solo_and_the_picture_as_of_a_stage(page: Page, address: str) -> None:
    new_effect(page, address, [RED, {**GREEN, "mask": CIRCLE}])
    settle(page)
    both = pixels(page)
    page.locator(".tile-face").nth(1).click()
    page.locator(".surround .clock").hover()
    page.keyboard.press("x")
    until(page, lambda: np.abs(pixels(page) - bare())[inside_circle(-2)].max() == 0)
    until(page, lambda: (pixels(page)[inside_circle(2)] == [0, 255, 0]).all())
    page.keyboard.press("x")
    until(page, lambda: np.abs(pixels(page) - both).max() == 0)
    page.locator(".tile-face").nth(0).hover()
    until(page, lambda: (pixels(page) == [255, 0, 0]).all())
    page.locator(".stage").first.hover()
    until(page, lambda: np.abs(pixels(page) - bare()).max() == 0)
    page.locator(".surround .clock").hover()
    until(page, lambda: np.abs(pixels(page) - both).max() == 0)


def test_solo_and_switches_on_the_gpu(page: Page, address: str) -> None:
    new_effect(page, address, [RED, {**GREEN, "mask": CIRCLE}])
    page.keyboard.press("g")

    def middle_and_corner() -> list[list[int]]:
        shown = pixels(page, "canvas.gpu")
        return [shown[HEIGHT // 2, WIDTH // 2].tolist(), shown[10, 10].tolist()]

    red, green = [255, 0, 0], [0, 255, 0]
    until(page, lambda: middle_and_corner() == [green, red])
    page.locator(".tile-face").nth(0).focus()
    page.keyboard.press("x")
    until(page, lambda: middle_and_corner() == [red, red])
    page.keyboard.press("x")
    page.get_by_role("button", name="Switch off Green").click()
    until(page, lambda: middle_and_corner() == [red, red])
    page.locator(".tile-face").nth(1).click()
    type_value(page, "Opacity", "40")
    settle(page)
    assert middle_and_corner() == [red, red]  # off stays off, whatever its opacity
    page.get_by_role("button", name="Switch on Green").click()
    until(page, lambda: middle_and_corner() == [[153, 102, 0], red])


def test_zoom_shows_pixels_and_slow_is_slow(page: Page, address: str) -> None:
    new_effect(page, address)
    wide = page.locator("canvas.picture").bounding_box()
    for _ in range(3):
        page.keyboard.press("z")
    box = page.locator("canvas.picture").bounding_box()
    assert wide
    assert box
    assert abs(box["width"] / wide["width"] - 8) < 0.01
    assert page.locator("canvas.picture").evaluate("c => getComputedStyle(c).imageRendering") == "pixelated"
    page.keyboard.press("v")
    page.keyboard.press("v")
    page.keyboard.press("v")
    expect(page.get_by_label("Speed")).to_have_value("0.1")
    began = time.monotonic()
    page.keyboard.press("Space")
    page.wait_for_timeout(1500)
    page.keyboard.press("Space")
    settle(page)
    passed = time.monotonic() - began
    seconds = float(page.locator(".clock").inner_text().split(":")[1])
    # A tenth of what passed, and less than a third of that at any pace of the machine.
    assert FRAME / 30 <= seconds < FRAME / 30 + passed / 3


def test_a_drawn_curve_is_the_cores(page: Page, address: str) -> None:
    """The line on the desk against core/colour/curves.py, which is SciPy's PchipInterpolator; moving a point shows."""
    points = [[0.0, 0.1], [0.3, 0.2], [0.6, 0.85], [1.0, 0.9]]
    still = {"exposure": 0.0, "contrast": 1.0, "saturation": 1.0, "warmth": 0.0, "tint": 0.0}
    new_effect(
        page, address, [{"id": "tone", "name": "Tone", "kind": "tone-and-colour", "values": {**still, "curves": {"all": points}}}]
    )
    drawn = page.locator(".curves polyline").get_attribute("points")
    assert drawn
    line = np.array([[float(n) for n in pair.split(",")] for pair in drawn.split()])
    expected = curve_at([(x, y) for x, y in points], line[:, 0] / 200)
    assert np.abs(1 - line[:, 1] / 200 - expected).max() < 1e-3
    before = pixels(page)
    point = page.get_by_label("Point 2 of the curve for all")
    point.focus()
    for _ in range(3):
        page.keyboard.press("Shift+ArrowUp")
    settle(page)
    until(page, lambda: pixels(page).mean() > before.mean() + 5)
    page.keyboard.press("Delete")
    expect(page.locator(".curves circle")).to_have_count(3)


def test_the_first_point_of_a_curve_shows_at_once(page: Page, address: str) -> None:
    """A layer without curves: a point is clicked onto the sheet; the picture is lighter, and one undo takes it back."""
    new_effect(page, address, [{"id": "tone", "name": "Tone", "kind": "tone-and-colour"}])
    before = pixels(page)
    sheet = page.locator(".curves svg").bounding_box()
    assert sheet
    page.mouse.click(sheet["x"] + sheet["width"] * 0.4, sheet["y"] + sheet["height"] * 0.3)
    until(page, lambda: pixels(page).mean() > before.mean() + 15)
    settle(page)
    page.get_by_role("button", name="Undo").click()
    settle(page)
    until(page, lambda: np.abs(pixels(page) - before).max() <= 1)


def test_a_layer_removed_while_pointed_at_or_alone_leaves_nothing_out(page: Page, address: str) -> None:
    new_effect(page, address, [RED, {**GREEN, "mask": CIRCLE}])
    page.locator(".tile-face").nth(0).hover()
    page.locator(".tile-face").nth(0).focus()
    page.keyboard.press("x")
    until(page, lambda: (pixels(page) == [255, 0, 0]).all())
    page.keyboard.press("Delete")
    settle(page)  # the quick build's picture is smaller for a moment
    until(page, lambda: (pixels(page)[inside_circle(2)] == [0, 255, 0]).all())
    until(page, lambda: np.abs(pixels(page) - bare())[inside_circle(-2)].max() == 0)


def test_hues_are_drawn_picked_and_a_colour_is_taken_from_the_picture(page: Page, address: str) -> None:
    effect = new_effect(
        page, address, [{"id": "hues", "name": "Hues", "kind": "hue-curves", "values": {"hues": {}}}, {**RED, "mask": CIRCLE}]
    )

    def curves() -> dict[str, list[list[float]]]:
        state = page.request.get(f"/api/effects/{effect}").json()
        found: dict[str, list[list[float]]] = state["effect"]["layers"][0]["values"]["hues"]
        return found

    # A colour of the picture finds its place on the curve: that of its hue, by the standard library.
    box = page.locator("canvas.picture").bounding_box()
    assert box
    page.get_by_role("button", name="Pick in the picture").click()
    page.mouse.click(box["x"] + box["width"] * 0.5, box["y"] + box["height"] * 0.95)
    settle(page)
    r, g, b = (int(part) / 255 for part in pixels(page)[int(0.95 * HEIGHT), WIDTH // 2])
    hue = colorsys.rgb_to_hls(r, g, b)[0] * 360
    (point,) = curves()["saturation"]
    assert abs(point[0] - hue) < 4
    assert point[1] == 0
    # All of one point: what goes down there goes down everywhere.
    dot = page.get_by_role("slider", name="Saturation at")
    dot.focus()
    for _ in range(6):
        page.keyboard.press("Shift+ArrowDown")
    settle(page)
    # What is nearly grey has no hue to go by, and keeps what little it has.
    until(page, lambda: np.ptp(pixels(page), axis=2)[inside_circle(-2)].max() <= 14, seconds=20)
    page.get_by_role("button", name="Level").click()
    settle(page)
    until(page, lambda: np.abs(pixels(page) - bare())[inside_circle(-2)].max() <= 1)
    # With Shift only a narrow part moves: two points beside it hold the rest.
    sheet = page.locator(".hue-curves .sheet").bounding_box()
    assert sheet
    page.keyboard.down("Shift")
    page.mouse.move(sheet["x"] + sheet["width"] * 0.5, sheet["y"] + sheet["height"] * 0.5)
    page.mouse.down()
    page.mouse.move(sheet["x"] + sheet["width"] * 0.5, sheet["y"] + sheet["height"] * 0.8)
    page.mouse.move(sheet["x"] + sheet["width"] * 0.5, sheet["y"] + sheet["height"] * 0.95)
    page.mouse.up()
    page.keyboard.up("Shift")
    settle(page)
    assert [round(x) for x, _ in curves()["saturation"]] == [162, 180, 198]
    assert [y for _, y in curves()["saturation"]][::2] == [0, 0]
    assert curves()["saturation"][1][1] < -0.8
    page.get_by_role("radio", name="Saturation by lightness").click()
    page.get_by_role("button", name="Add a point").click()
    settle(page)
    assert len(curves()["over"]) == 1
    page.locator(".tile-face").nth(1).click()
    page.get_by_label("Colour: #ff0000").click()
    page.get_by_role("button", name="From the picture").click()
    box = page.locator("canvas.picture").bounding_box()
    assert box
    shown = pixels(page)
    page.mouse.click(box["x"] + box["width"] * 0.5, box["y"] + box["height"] * 0.95)
    settle(page)
    taken = page.locator('[data-control="Colour"] input').input_value()
    rgb = [int(taken[n : n + 2], 16) for n in (1, 3, 5)]
    place = shown[int(0.95 * HEIGHT) - 3 : int(0.95 * HEIGHT) + 4, WIDTH // 2 - 3 : WIDTH // 2 + 4].reshape(-1, 3)
    assert rgb in place.tolist()


def test_a_name_held_down_shows_the_default(page: Page, address: str) -> None:
    new_effect(page, address, [{**RED, "opacity": 0.5}])
    before = pixels(page)
    name = page.locator('[data-control="Opacity"] .name')
    box = name.bounding_box()
    assert box
    page.mouse.move(box["x"] + 10, box["y"] + 8)
    page.mouse.down()
    until(page, lambda: (pixels(page) == [255, 0, 0]).all())
    page.mouse.up()
    until(page, lambda: np.abs(pixels(page) - before).max() <= 1)
    expect(page.get_by_role("button", name="Undo")).to_be_enabled()
