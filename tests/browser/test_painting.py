"""Painting on the flat face in the driven browser: shapes by mouse and keys, on the live picture at once; drawn by the player."""

from __future__ import annotations

import httpx
import numpy as np
from playwright.sync_api import Browser, Page, expect

from sunglaze.core.camera.cast import StandIn
from sunglaze.core.face.model import face_mesh
from sunglaze.core.material.files import encode_png
from sunglaze.core.material.painting import TEMPLATE, painted, read_painting
from sunglaze.core.moment.moment import Reads
from sunglaze.parity.gpu import gpu
from tests.browser.workbench import FRAME, HEIGHT, SIZE, WIDTH, bare, new_effect, pixels, settle, until
from tests.serving import Served

TOP, TALL = 0.075, 0.915
"""Of the template, what the sheet shows (web/src/features/paint/FlatFace.vue)."""
CHEEKS = {"left": [50, 101, 36, 205], "right": [280, 330, 266, 425]}


def test_the_player_draws_paintings_as_python_does(browser: Browser) -> None:
    """Bytes by bytes: every shape's switch, over each other, beyond the edge, winding twice."""
    star = [[0.5 + 0.3 * np.sin(a), 0.5 - 0.3 * np.cos(a)] for a in np.arange(5) * 4 * np.pi / 5]
    painting = read_painting({"shapes": [
        {"points": star, "smooth": False, "fill": "#e8b04a", "mirrored": False, "soft": 9.0},
        {"points": [[0.5, 0.1], [0.2, 0.3], [0.55, 0.6]], "fill": "#24525c", "opacity": 0.7, "soft": 60.0, "grown": 20.0},
        {"points": [[-0.2, 0.4], [0.3, 0.9], [0.1, 1.2]], "fill": "picture", "mirrored": False, "soft": 0.0},
        {"points": [[0.5, 0.6], [0.4, 0.62], [0.3, 0.7], [0.5, 0.8]], "smooth": False, "fill": "#ffffff", "soft": 200.0},
    ]})  # fmt: skip
    with gpu(browser) as page:
        seen = page.painted(painting).astype(int)
    assert np.abs(seen - painted(painting)).max() <= 1
    assert (seen != painted(painting)).mean() < 1e-4


def cheek(side: str) -> tuple[int, int]:
    """Column and row of a cheek in the picture that tests look at."""
    face = StandIn(*SIZE).moment(FRAME, Reads(faces=True)).faces[0]
    assert face is not None
    u, v = face.points[CHEEKS[side], :2].mean(axis=0)
    return round(u * WIDTH), round(v * HEIGHT)


def test_a_shape_is_drawn_moved_and_taken_back_on_the_flat_face(page: Page, served: Served) -> None:
    new_effect(page, served.address, [{"id": "p", "name": "Face paint", "kind": "face-paint", "values": {"light": 0.0}}])
    page.get_by_role("tab", name="Paint").click()
    expect(page.get_by_text("Nothing painted yet")).to_be_visible()
    page.get_by_role("button", name="Add a shape").click()
    face = page.get_by_label("The flat face")
    box = face.bounding_box()
    assert box is not None

    def at(u: float, v: float) -> tuple[float, float]:
        return box["x"] + u * box["width"], box["y"] + (v - TOP) / TALL * box["height"]

    middle = face_mesh().places[CHEEKS["left"]].mean(axis=0)
    corners = [(-0.08, -0.06), (0.06, -0.06), (0.06, 0.06), (-0.08, 0.06)]
    for x, y in corners:
        page.mouse.click(*at(middle[0] + x, middle[1] + y))
    page.keyboard.press("Enter")
    expect(page.get_by_text("Shape 1 of 1")).to_be_visible()
    settle(page)
    column, row = cheek("left")
    teal = np.array([0x24, 0x52, 0x5C])
    until(page, lambda: np.abs(pixels(page)[row, column] - teal).max() <= 2)
    # The other half follows, and nothing else of the picture changes.
    other, level = cheek("right")
    assert np.abs(pixels(page)[level, other] - teal).max() <= 2
    assert np.array_equal(pixels(page)[:100], bare()[:100])

    page.get_by_role("radiogroup", name="Mirrored").get_by_role("radio", name="Off").click()
    settle(page)
    until(page, lambda: np.abs(pixels(page)[level, other] - bare()[level, other]).max() <= 2)

    # The whole shape is dragged away from the cheek.
    page.mouse.move(*at(*middle))
    page.mouse.down()
    page.mouse.move(*at(middle[0], middle[1] + 0.12), steps=4)
    page.mouse.move(*at(middle[0], middle[1] + 0.25), steps=4)
    page.mouse.up()
    settle(page)
    until(page, lambda: np.abs(pixels(page)[row, column] - bare()[row, column]).max() <= 2)
    page.keyboard.press("Control+z")
    settle(page)
    until(page, lambda: np.abs(pixels(page)[row, column] - teal).max() <= 2)

    # A press that moves nothing is no step of undo, and Escape puts back what is being dragged.
    steps = page.get_by_role("button", name="Undo").get_attribute("title")
    page.mouse.click(*at(*middle))
    page.mouse.move(*at(*middle))
    page.mouse.down()
    page.mouse.move(*at(middle[0], middle[1] + 0.2), steps=4)
    page.keyboard.press("Escape")
    page.mouse.up()
    settle(page)
    until(page, lambda: np.abs(pixels(page)[row, column] - teal).max() <= 2)
    assert page.get_by_role("button", name="Undo").get_attribute("title") == steps

    # A point is put on the line and taken away by a key.
    points = page.get_by_role("button", name="Arrow keys move it")
    expect(points).to_have_count(4)
    page.mouse.click(*at(middle[0] - 0.01, middle[1] - 0.06 - 0.012))
    expect(points).to_have_count(5)
    points.nth(1).focus()
    page.keyboard.press("Delete")
    expect(points).to_have_count(4)
    page.get_by_role("button", name="Take it away").click()
    expect(page.get_by_text("Nothing painted yet")).to_be_visible()
    settle(page)
    until(page, lambda: np.abs(pixels(page) - bare()).max() <= 1)


def test_a_drawing_is_given_up_by_escape_and_closed_at_its_first_point(page: Page, served: Served) -> None:
    new_effect(page, served.address, [{"id": "p", "name": "Face paint", "kind": "face-paint"}])
    page.get_by_role("tab", name="Paint").click()
    page.get_by_role("button", name="Add a shape").click()
    box = page.get_by_label("The flat face").bounding_box()
    assert box is not None
    places = [(box["x"] + box["width"] * x, box["y"] + box["height"] * y) for x, y in ((0.3, 0.3), (0.5, 0.31), (0.4, 0.5))]
    for place in places:
        page.mouse.click(*place)
    page.keyboard.press("Escape")
    expect(page.get_by_text("Nothing painted yet")).to_be_visible()
    page.get_by_role("button", name="Add a shape").click()
    for place in [*places, places[0]]:
        page.mouse.click(*place)
    expect(page.get_by_text("Shape 1 of 1")).to_be_visible()
    # Given up by the button, what was clicked does not go on with the next shape.
    page.get_by_role("button", name="Add a shape").click()
    page.mouse.click(*places[2])
    page.get_by_role("button", name="Cancel").click()
    page.get_by_role("button", name="Add a shape").click()
    expect(page.get_by_label("The flat face").locator("rect.grip")).to_have_count(0)
    page.keyboard.press("Escape")
    # What was clicked near the middle stands on it.
    first = page.get_by_role("button", name="Point 2").bounding_box()
    assert first is not None
    assert abs(first["x"] + first["width"] / 2 - (box["x"] + box["width"] / 2)) < 14 / TEMPLATE * box["width"]


def test_a_shape_reveals_the_layers_picture_and_colour_covers_it(page: Page, served: Served) -> None:
    """A green picture lies on the whole face; once a shape shows it, it is seen there alone."""
    green = np.zeros((64, 64, 4), np.uint8)
    green[:] = (0, 200, 0, 255)
    with httpx.Client(base_url=served.address) as http:
        come = http.post("/api/shelf", files={"file": ("green.png", encode_png(green))}).json()
    key = come["piece"]["asset"]["hash"]
    middle = face_mesh().places[CHEEKS["left"]].mean(axis=0)
    spot = [[float(middle[0] + x), float(middle[1] + y)] for x, y in ((-0.07, -0.06), (0.06, -0.06), (0.06, 0.06), (-0.07, 0.06))]
    # What is not said of it is as usual.
    shape = {"points": spot, "fill": "#24525c", "mirrored": False}
    values = {"light": 0.0, "picture": key, "painting": {"shapes": [shape]}}
    new_effect(page, served.address, [{"id": "p", "name": "Face paint", "kind": "face-paint", "values": values}])
    (column, row), (other, level) = cheek("left"), cheek("right")
    until(page, lambda: np.abs(pixels(page)[row, column] - (0x24, 0x52, 0x5C)).max() <= 2)
    assert np.abs(pixels(page)[level, other] - (0, 200, 0)).max() <= 2
    page.get_by_role("tab", name="Paint").click()
    expect(page.locator('[data-control="Opacity"] input.field')).to_have_value("100")
    page.get_by_role("radiogroup", name="Filled with").get_by_role("radio", name="Picture").click()
    settle(page)
    until(page, lambda: np.abs(pixels(page)[row, column] - (0, 200, 0)).max() <= 2)
    assert np.abs(pixels(page)[level, other] - bare()[level, other]).max() <= 2
