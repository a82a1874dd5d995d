"""Handles on the picture, dragged with the mouse, by touch and by keys. Where things are is read from the picture's pixels."""

from __future__ import annotations

import io
from typing import Any

import numpy as np
from PIL import Image
from playwright.sync_api import Browser, Locator, Page, expect

from tests.browser.test_access import expect_no_violations
from tests.browser.workbench import new_effect, pixels, settle, until
from tests.conftest import VIEWPORT

PINK = [0xFF, 0x00, 0xFF]
CIRCLE = {"kind": "circle", "values": {"soft": 0.0, "width": 0.4, "height": 0.4, "centre": [0.4, 0.45]}}
BOX = {"kind": "rounded-box", "values": {"soft": 0.0, "width": 0.5, "height": 0.25, "centre": [0.4, 0.45]}}


def spot(mask: dict[str, Any], **layer: Any) -> dict[str, Any]:
    """A flat pink spot where its mask is."""
    values = {"colour": "#ff00ff"}
    return {"id": "s", "name": "Spot", "kind": "fill", "blend": "normal", "opacity": 1.0, "values": values, "mask": mask, **layer}


def open_mask(page: Page, address: str, mask: dict[str, Any], **layer: Any) -> str:
    effect = new_effect(page, address, [spot(mask, **layer)], short=540)
    page.keyboard.press("2")
    expect(page.locator("[data-handle]")).to_be_visible()
    # They are there before the page has measured the picture that they lie on.
    until(page, lambda: near(on_picture(page, place(grip(page, "Mask, place"))), middle(page), 4))
    return effect


def extent(page: Page) -> tuple[float, float, float, float]:
    """Left, top, width and height of what is pink, in pixels of the picture."""
    rows, columns = np.nonzero(np.abs(pixels(page) - PINK).max(axis=2) < 40)
    left, top = columns.min(), rows.min()
    return float(left), float(top), float(columns.max() - left + 1), float(rows.max() - top + 1)


def middle(page: Page) -> tuple[float, float]:
    left, top, width, height = extent(page)
    return left + width / 2, top + height / 2


def scale(page: Page) -> float:
    """Pixels of the picture in one of the page, unzoomed."""
    box = page.locator(".frame").bounding_box()
    assert box
    return 540 / box["width"]


def on_picture(page: Page, at: tuple[float, float]) -> tuple[float, float]:
    """A place of the page in pixels of the picture, unzoomed."""
    box = page.locator(".frame").bounding_box()
    assert box
    return (at[0] - box["x"]) * scale(page), (at[1] - box["y"]) * scale(page)


def grip(page: Page, name: str) -> Locator:
    return page.get_by_role("group", name="Handles").get_by_role("button", name=name).first


def place(found: Locator) -> tuple[float, float]:
    box = found.locator(".room").bounding_box()
    assert box
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def drag(page: Page, found: Locator, by: tuple[float, float], hold: str = "Alt") -> None:
    """By so many pixels of the page. Alt: without being drawn to thirds and edges."""
    x, y = place(found)
    if hold:
        page.keyboard.down(hold)
    page.mouse.move(x, y)
    page.mouse.down()
    for part in (0.3, 0.7, 1.0):
        page.mouse.move(x + by[0] * part, y + by[1] * part)
    page.mouse.up()
    if hold:
        page.keyboard.up(hold)


def steps(page: Page, effect: str) -> int:
    return len(page.request.get(f"/api/effects/{effect}/history").json())


def near(found: tuple[float, ...], wanted: tuple[float, ...], by: float = 2.0) -> bool:
    return all(abs(a - b) <= by for a, b in zip(found, wanted, strict=True))


def test_a_place_is_dragged_and_taken_back_in_one_step(page: Page, address: str) -> None:
    effect = open_mask(page, address, CIRCLE)
    before, kept = middle(page), steps(page, effect)
    assert near(before, (0.4 * 540, 0.45 * 960))
    drag(page, grip(page, "Mask, place"), (53, -41))
    settle(page)
    wanted = before[0] + 53 * scale(page), before[1] - 41 * scale(page)
    until(page, lambda: near(middle(page), wanted))
    assert steps(page, effect) == kept + 1
    page.keyboard.press("Control+z")
    until(page, lambda: near(middle(page), before))
    settle(page)
    # Shift keeps it on the longer way.
    drag(page, grip(page, "Mask, place"), (60, 22), hold="Shift")
    settle(page)
    until(page, lambda: near((middle(page)[1],), (before[1],)))
    until(page, lambda: middle(page)[0] > before[0] + 40)


def test_it_is_dragged_where_it_is_seen_zoomed_and_by_the_other_camera(page: Page, address: str) -> None:
    open_mask(page, address, CIRCLE)
    before = middle(page)
    page.keyboard.press("u")
    page.keyboard.press("z")
    settle(page)
    page.mouse.move(5, 5)
    drag(page, grip(page, "Mask, place"), (80, 60))
    settle(page)
    wanted = before[0] + 80 * scale(page) / 2, before[1] + 60 * scale(page) / 2
    until(page, lambda: near(middle(page), wanted))


def test_by_touch(browser: Browser, address: str) -> None:
    context = browser.new_context(viewport=VIEWPORT, base_url=address, has_touch=True)
    page = context.new_page()
    open_mask(page, address, CIRCLE)
    before = middle(page)
    x, y = place(grip(page, "Mask, place"))
    finger = page.context.new_cdp_session(page)
    finger.send("Input.dispatchTouchEvent", {"type": "touchStart", "touchPoints": [{"x": x, "y": y}]})
    for part in (0.5, 1.0):
        finger.send("Input.dispatchTouchEvent", {"type": "touchMove", "touchPoints": [{"x": x - 37 * part, "y": y + 71 * part}]})
    finger.send("Input.dispatchTouchEvent", {"type": "touchEnd", "touchPoints": []})
    settle(page)
    wanted = before[0] - 37 * scale(page), before[1] + 71 * scale(page)
    until(page, lambda: near(middle(page), wanted))
    context.close()


def test_it_is_drawn_to_thirds_and_the_middle_with_a_guide(page: Page, address: str) -> None:
    open_mask(page, address, CIRCLE)
    x, y = place(grip(page, "Mask, place"))
    box = page.locator(".frame").bounding_box()
    assert box
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 20, y)
    page.mouse.move(box["x"] + box["width"] / 2 + 4, box["y"] + box["height"] / 3 - 4)
    expect(page.locator(".guide")).to_have_count(2)
    page.mouse.up()
    expect(page.locator(".guide")).to_have_count(0)
    settle(page)
    until(page, lambda: near(middle(page), (270, 320), 1.0))


def test_escape_while_dragging_takes_it_back(page: Page, address: str) -> None:
    effect = open_mask(page, address, CIRCLE)
    before, kept = middle(page), steps(page, effect)
    x, y = place(grip(page, "Mask, place"))
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 30, y + 60)
    page.mouse.move(x + 40, y + 90)
    until(page, lambda: middle(page)[1] > before[1] + 60)
    page.keyboard.press("Escape")
    until(page, lambda: near(middle(page), before))
    page.mouse.up()
    settle(page)
    until(page, lambda: near(middle(page), before))
    assert steps(page, effect) == kept


def test_a_driven_place_is_shown_where_it_is_and_its_range_goes_with_it(page: Page, address: str) -> None:
    drive = {"kind": "pulse", "values": {"low": 0.2, "high": 0.3, "seconds": 2, "how": "smooth"}}
    effect = open_mask(page, address, CIRCLE, drives={"mask:centre.0": drive})
    until(page, lambda: 0.19 * 540 < middle(page)[0] < 0.31 * 540)
    seen = middle(page)[0]
    box = page.locator(".frame").bounding_box()
    assert box
    until(page, lambda: abs((place(grip(page, "Mask, place"))[0] - box["x"]) * scale(page) - seen) < 3)
    drag(page, grip(page, "Mask, place"), (100, 0))
    settle(page)
    moved = 100 * scale(page)
    until(page, lambda: near((middle(page)[0],), (seen + moved,)))
    stored = page.request.get(f"/api/effects/{effect}").json()["effect"]["layers"][0]
    values = stored["drives"]["mask:centre.0"]["values"]
    assert near((values["low"], values["high"]), (0.2 + moved / 540, 0.3 + moved / 540), 0.004)
    assert near(tuple(stored["mask"]["values"]["centre"]), (0.4, 0.45), 0.004)


def test_text_stands_where_its_handle_was_put_and_a_click_on_it_opens_it(page: Page, address: str) -> None:
    words = {"id": "t", "name": "Words", "kind": "text", "values": {"colour": "#ff00ff", "shade": 0.0, "at": [0.5, 0.3]}}
    new_effect(page, address, [words, {"id": "g", "name": "Grain", "kind": "film-grain", "opacity": 0.02}], short=540)
    expect(page.get_by_role("heading", name="Words")).to_be_visible()
    expect(page.locator('[data-handle="Text"]')).to_be_visible()
    before = middle(page)
    drag(page, grip(page, "Text, place"), (11, 140))
    settle(page)
    until(page, lambda: near(middle(page), (before[0] + 11 * scale(page), before[1] + 140 * scale(page)), 3.0))
    _, _, width, _ = extent(page)
    box = page.locator('[data-handle="Text"] .body').bounding_box()
    assert box
    drag(page, page.locator('[data-handle="Text"] [data-grip="scale1,10"]'), (-40, -8))
    settle(page)
    # The box has a margin round the letters, which shrinks with them.
    until(page, lambda: near((extent(page)[2],), (width * (box["width"] - 80) / box["width"],), 3.0))
    at = place(grip(page, "Text, place"))
    page.locator('[data-layer="g"]').click()
    expect(page.get_by_role("heading", name="Grain")).to_be_visible()
    # Also where the layer was never open before.
    page.reload()
    settle(page)
    expect(page.get_by_role("heading", name="Grain")).to_be_visible()
    page.mouse.click(*at)
    expect(page.get_by_role("heading", name="Words")).to_be_visible()


def test_a_line_is_drawn_point_by_point(page: Page, address: str) -> None:
    square = {"points": [[-0.2, -0.2], [0.2, -0.2], [0.2, 0.2], [-0.2, 0.2]], "smooth": False}
    effect = open_mask(page, address, {"kind": "drawn", "values": {"soft": 0.0, "path": square}})
    left, top, width, height = extent(page)
    assert near((left, top, width, height), (270 - 108, 480 - 108, 216, 216))

    def points() -> list[list[float]]:
        state = page.request.get(f"/api/effects/{effect}").json()
        found: list[list[float]] = state["effect"]["layers"][0]["mask"]["values"]["path"]["points"]
        return found

    # One on the upper side, pulled up.
    (x, y), (right, _) = place(grip(page, "Mask, point 1")), place(grip(page, "Mask, point 2"))
    page.mouse.move((x + right) / 2, y)
    page.mouse.down()
    page.mouse.move((x + right) / 2, y - 30)
    page.mouse.move((x + right) / 2, y - 60)
    page.mouse.up()
    settle(page)
    assert len(points()) == 5
    until(page, lambda: near((extent(page)[1], extent(page)[3]), (top - 60 * scale(page), height + 60 * scale(page)), 3.0))
    grip(page, "Mask, point 2").focus()
    page.keyboard.press("Delete")
    settle(page)
    assert len(points()) == 4
    until(page, lambda: near(extent(page), (left, top, width, height)))
    page.get_by_role("radio", name="Smooth").click()
    settle(page)
    until(page, lambda: extent(page)[2] > width + 10)


def test_the_corners_of_a_picture_are_put_one_by_one(page: Page, address: str) -> None:
    """A pink picture by the shell's own upload; its corner is where the mouse left it, and a held key is one step of undo."""
    pink = io.BytesIO()
    Image.new("RGB", (32, 32), (255, 0, 255)).save(pink, "PNG")
    given = {"name": "sail.png", "mimeType": "image/png", "buffer": pink.getvalue()}
    key = page.request.post(f"{address}/api/pictures", multipart={"file": given}).json()["hash"]
    values = {"picture": key, "first": [0.3, 0.3], "second": [0.7, 0.3], "third": [0.7, 0.6], "fourth": [0.3, 0.6]}
    effect = new_effect(page, address, [{"id": "p", "name": "Sail", "kind": "pinned-picture", "values": values}], short=540)
    expect(page.locator('[data-handle="Picture"]')).to_be_visible()
    left, top, width, height = extent(page)
    assert near((left, top, width, height), (162, 288, 216, 288))
    drag(page, grip(page, "Picture, point 3"), (60, 50))
    settle(page)
    until(page, lambda: near(extent(page)[2:], (width + 60 * scale(page), height + 50 * scale(page)), 3.0))
    kept = steps(page, effect)
    grip(page, "Picture, place").focus()
    for _ in range(5):
        page.keyboard.down("ArrowLeft")
    page.keyboard.up("ArrowLeft")
    settle(page)
    until(page, lambda: near((extent(page)[0],), (left - 5,), 1.5))
    assert steps(page, effect) == kept + 1


def test_a_node_of_an_own_recipe_is_placed_too(page: Page, address: str) -> None:
    recipe = {
        "nodes": [
            {"id": "dot", "kind": "circle", "set": {"radius": 0.15, "centre": [0.5, 0.5]}, "at": [40, 40]},
            {"id": "ink", "kind": "colour", "set": {"value": "#ff00ff"}, "at": [40, 240]},
            {"id": "shown", "kind": "with-opacity", "at": [300, 40]},
        ],
        "wires": [{"from": "ink.out", "to": "shown.colour"}, {"from": "dot.out", "to": "shown.opacity"}],
        "result": "shown.out",
    }
    new_effect(page, address, [{"id": "o", "name": "Own", "kind": "own", "recipe": recipe}], short=540)
    page.keyboard.press("3")
    page.locator(".vue-flow__node", has_text="Circle").first.click()
    expect(page.locator('[data-handle="Circle"]')).to_be_visible()
    before = middle(page)
    drag(page, grip(page, "Circle, place"), (-47, 35))
    settle(page)
    until(page, lambda: near(middle(page), (before[0] - 47 * scale(page), before[1] + 35 * scale(page))))


def test_they_are_gone_when_asked_and_while_the_bare_camera_is_held(page: Page, address: str) -> None:
    open_mask(page, address, CIRCLE)
    with_handles = pixels(page)
    page.keyboard.press("Shift+H")
    expect(page.locator("[data-handle]")).to_have_count(0)
    assert (pixels(page) == with_handles).all()
    page.keyboard.press("Shift+H")
    expect(page.locator("[data-handle]")).to_be_visible()
    page.keyboard.down("b")
    expect(page.locator("[data-handle]")).to_have_count(0)
    page.keyboard.up("b")
    expect(page.locator("[data-handle]")).to_be_visible()
    expect_no_violations(page)


def test_what_is_pinned_to_a_face_is_dragged_where_it_hangs(page: Page, address: str) -> None:
    """A pink picture on the bridge of the nose: by its middle to elsewhere, by a corner to another width; in centimetres of the
    head, so it stays there when the head moves on."""
    pink = io.BytesIO()
    Image.new("RGB", (40, 20), (255, 0, 255)).save(pink, "PNG")
    given = page.request.post(
        f"{address}/api/pictures", multipart={"file": {"name": "pink.png", "mimeType": "image/png", "buffer": pink.getvalue()}}
    ).json()
    values = {"picture": given["hash"], "wide": 5.0, "turned": "flat to the screen", "hides": False}
    effect = new_effect(page, address, [{"id": "p", "name": "Pin", "kind": "pin", "values": values}], short=540)
    expect(grip(page, "Picture, place")).to_be_visible()
    before = extent(page)
    on_page = place(grip(page, "Picture, place"))
    box = page.locator(".frame").bounding_box()
    assert box
    # The handle lies on the middle of what it moves.
    assert abs((on_page[0] - box["x"]) * scale(page) - middle(page)[0]) < 3
    assert abs((on_page[1] - box["y"]) * scale(page) - middle(page)[1]) < 3
    drag(page, grip(page, "Picture, place"), (30, -40))
    settle(page)
    until(page, lambda: near(extent(page)[:2], (before[0] + 30 * scale(page), before[1] - 40 * scale(page)), 3.0))
    after = extent(page)
    drag(page, grip(page, "Picture, size"), (20, 10))
    settle(page)
    until(page, lambda: extent(page)[2] > after[2] + 20)
    kept = page.request.get(f"{address}/api/effects/{effect}").json()["effect"]["layers"][0]["values"]
    assert kept["wide"] > 5.5
    assert kept["right"] > 0.5
    assert kept["up"] > 0.5
    page.keyboard.press("Control+z")
    page.keyboard.press("Control+z")
    until(page, lambda: abs(extent(page)[0] - before[0]) < 2)
    # On this device's GPU it hangs there as well.
    page.keyboard.press("g")
    page.wait_for_selector("canvas.gpu[data-frame]")
    page.keyboard.press(".")
    until(page, lambda: abs(place(grip(page, "Picture, place"))[0] - on_page[0]) < 12)
