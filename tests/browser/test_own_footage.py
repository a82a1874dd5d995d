"""The artist's own photo and clip: people found, cut out by that, the same from the shell; points of faces; two performers."""

from __future__ import annotations

import json
import re
from pathlib import Path
from urllib.request import urlopen

import cv2
import numpy as np
from playwright.sync_api import Browser, Page, expect
from skimage import data

from sunglaze.core.camera.cameras import colours
from sunglaze.core.camera.cast import Sitting, StandIn
from sunglaze.core.camera.truth import heads
from sunglaze.core.face.measure import measure
from sunglaze.core.face.model import RINGS
from sunglaze.core.face.pose import head_pose
from sunglaze.realism import trackers
from tests.browser.workbench import FRAME, drop, new_effect, pixels, settle, until
from tests.footage import clip
from tests.serving import Served
from tests.shell import sunglaze

BESIDE = {
    "id": "around", "name": "Around", "kind": "fill", "values": {"colour": "#00ff00"},
    "mask": {"kind": "region", "values": {"region": "person", "over": True, "soft": 0.0, "grow": 0.0}},
}  # fmt: skip
SAT = Sitting("stilt-walker", "talk", "shade", back=True)
BEGINS = [0.0, 0.1, 0.4, 0.5, 0.9, 1.0]
"""Seconds at which the clip's pictures begin."""


def person(number: int) -> np.ndarray:
    return np.asarray(StandIn(540, 960, SAT).frame(number).view(np.uint8).reshape(960, -1, 4)[:, :540, 3] > 127)


def photo(number: int) -> np.ndarray:
    return np.ascontiguousarray(colours(StandIn(540, 960, SAT).frame(number), 540))


def kept_around(shown: np.ndarray, exact: np.ndarray) -> float:
    """Intersection over union of what is not the fill's green and where the person truly is."""
    kept = np.abs(shown - [0, 255, 0]).max(axis=2) > 60
    return float((kept & exact).sum() / (kept | exact).sum())


def document(address: str, effect: str) -> dict[str, object]:
    with urlopen(f"{address}/api/effects/{effect}") as answer:
        found: dict[str, object] = json.load(answer)["effect"]
    return found


def test_people_are_found_in_a_photo_and_python_cuts_them_out(page: Page, address: str, tmp_path: Path) -> None:
    path = tmp_path / "kite-hill.png"
    cv2.imwrite(str(path), photo(12)[:, :, ::-1])
    new_effect(page, address, [BESIDE], short=540)
    drop(page.get_by_label("Picture", exact=True), path)
    expect(page.get_by_role("button", name=re.compile("kite-hill.png"))).to_be_visible()
    until(page, lambda: kept_around(pixels(page), person(12)) > 0.95)
    settle(page)
    shown = pixels(page)
    inside = cv2.erode(person(12).astype(np.uint8), np.ones((25, 25), np.uint8)) > 0
    # Whoever is well inside the mask is the photo's, to the byte.
    assert (np.abs(shown - photo(12))[inside].max(axis=1) <= 1).mean() > 0.97
    page.keyboard.press("g")
    until(page, lambda: kept_around(pixels(page, "canvas.gpu"), person(12)) > 0.95)
    page.keyboard.press("g")
    page.get_by_role("button", name=re.compile("kite-hill.png")).click()
    page.get_by_role("button", name="Back to the cast").click()
    expect(page.get_by_role("button", name=re.compile("Lamp tender"))).to_be_visible()


def test_the_next_photo_is_looked_at_by_the_trackers_that_are_there(page: Page, address: str, tmp_path: Path) -> None:
    """Nothing of the photo before is left in what is seen of the next. They start while the first file is chosen."""
    new_effect(page, address, [BESIDE], short=540)
    page.get_by_role("button", name=re.compile("Lamp tender")).click()
    with page.expect_file_chooser() as choosing:
        page.get_by_role("button", name="Own picture or clip").click()
    for name, number in (("first.png", 23), ("next.png", 51)):
        path = tmp_path / name
        cv2.imwrite(str(path), photo(number)[..., ::-1])
        if name == "first.png":
            choosing.value.set_files(path)
        else:
            drop(page.get_by_label("Picture", exact=True), path)
        expect(page.get_by_role("button", name=re.compile(name))).to_be_visible()
        until(page, lambda number=number: kept_around(pixels(page), person(number)) > 0.95)


def test_a_layer_says_that_no_face_is_known_in_own_footage(page: Page, address: str, tmp_path: Path) -> None:
    path = tmp_path / "tide-flat.png"
    cv2.imwrite(str(path), np.full((320, 180, 3), (150, 170, 160), np.uint8))
    follow = {"kind": "face-measure", "values": {"low": 0.0, "high": 1.0}}
    around = {**BESIDE, "mask": None}
    lips = {"kind": "region", "values": {"region": "lips"}}
    new_effect(
        page,
        address,
        [
            around,
            {**around, "id": "mouth", "name": "Mouth", "drives": {"layer:opacity": follow}},
            {**around, "id": "lips", "name": "Lips", "mask": lips},
        ],
    )
    expect(page.get_by_text("No face was found")).to_have_count(0)
    drop(page.get_by_label("Picture", exact=True), path)
    # Two layers look for a face, one by a region that is drawn from it; the other, which is open, does not.
    expect(page.get_by_role("button", name=re.compile("tide-flat.png"))).to_be_visible()
    page.locator(".tile", has_text="Mouth").click()
    expect(page.get_by_text("No face was found in this footage")).to_be_visible(timeout=60_000)
    page.locator(".tile", has_text="Lips").click()
    expect(page.get_by_text("No face was found in this footage")).to_be_visible()
    page.locator(".tile", has_text="Around").click()
    expect(page.get_by_text("No face was found")).to_have_count(0)


def test_a_clip_is_tracked_stopped_gone_on_with_and_renders_the_same_from_the_shell(
    page: Page, served: Served, tmp_path: Path
) -> None:
    """A clip of uneven pace: paused anywhere, the workbench's picture is the one that `sunglaze render` writes."""
    path = tmp_path / "pier.mp4"
    path.write_bytes(clip([photo(4 * n) for n in range(len(BEGINS))], BEGINS))
    effect = new_effect(page, served.address, [BESIDE], short=540)
    drop(page.get_by_label("Picture", exact=True), path)
    name = page.get_by_role("button", name=re.compile("pier.mp4"))
    expect(name).to_contain_text(re.compile("finding people: [1-5] of 6"))
    name.click()
    page.get_by_role("button", name="Stop", exact=True).click()
    expect(name).to_contain_text(re.compile("people are known in [1-5] of 6"))
    page.get_by_role("button", name="Go on").click()
    expect(name).not_to_contain_text("of 6", timeout=180_000)
    page.keyboard.press("Escape")
    settle(page)
    # The picture on show at FRAME: the last that began before it, the clip beginning anew behind its end.
    until(page, lambda: max(kept_around(pixels(page), person(4 * n)) for n in range(len(BEGINS))) > 0.9)
    settle(page)
    key = document(served.address, effect)["still"]
    tracks, out = tmp_path / "pier.tracks.zip", tmp_path / "out.png"
    with urlopen(f"{served.address}/api/footage/{key}/tracks.zip") as answer:
        tracks.write_bytes(answer.read())
    (tmp_path / "effect.json").write_text(json.dumps(document(served.address, effect)))
    rendered = sunglaze(
        "render", "effect.json", "--image", path, "--tracks", tracks, "--time", FRAME / 30, "--size", "540x960", "--out", out,
        cwd=tmp_path,
    )  # fmt: skip
    assert rendered.returncode == 0, rendered.stderr
    written = cv2.imread(str(out))[:, :, ::-1].astype(int)
    until(page, lambda: np.abs(pixels(page) - written).max() <= 1)
    again = sunglaze("render", effect, "--data", served.folder, "--time", FRAME / 30, "--out", out, cwd=tmp_path)
    assert again.returncode == 0, again.stderr
    until(page, lambda: np.abs(pixels(page) - cv2.imread(str(out))[:, :, ::-1].astype(int)).max() <= 1)


def test_what_is_no_picture_says_so(page: Page, address: str, tmp_path: Path) -> None:
    path = tmp_path / "notes.mp4"
    path.write_bytes(b"these are words, no clip")
    new_effect(page, address)
    drop(page.get_by_label("Picture", exact=True), path)
    expect(page.get_by_text(re.compile("notes.mp4: .*nor is it a clip"))).to_be_visible()
    expect(page.get_by_role("button", name=re.compile("Lamp tender"))).to_be_visible()


def test_the_points_of_a_face_lie_where_the_face_is(page: Page, address: str) -> None:
    new_effect(page, address, short=540)
    page.keyboard.press("q")
    marks = page.get_by_role("img", name="Points of one face")
    expect(marks).to_be_visible()
    truth = heads(StandIn(540, 960), FRAME)[0]

    def there() -> bool:
        ring = page.locator("svg.marks polygon").nth(list(RINGS).index("left eye")).get_attribute("points") or ""
        drawn = np.array([[float(part) for part in pair.split(",")] for pair in ring.split()])
        return bool(np.abs(drawn - truth.points[list(RINGS["left eye"])]).max() < 0.2)

    until(page, there)
    page.keyboard.press("q")
    expect(marks).to_be_hidden()


def test_another_performer_stands_beside_with_the_same_effect(page: Page, address: str) -> None:
    fill = {"kind": "fill", "id": "f", "name": "Fill", "blend": "multiply", "values": {"colour": "#ff8040"}}
    new_effect(page, address, [fill], short=540)
    page.get_by_role("button", name=re.compile("Lamp tender")).click()
    page.get_by_role("radiogroup", name="Beside").get_by_role("radio", name="Oyster cook").click()
    page.keyboard.press("Escape")

    def product(sitting: Sitting, shade: tuple[int, int, int]) -> np.ndarray:
        camera = colours(StandIn(540, 960, sitting).frame(FRAME), 540) / 255
        return np.asarray(np.rint(camera * np.array(shade)))

    def beside_is(who: str, shade: tuple[int, int, int]) -> bool:
        return bool(np.abs(pixels(page, "canvas.beside") - product(Sitting(who), shade)).max() <= 1)

    until(page, lambda: beside_is("oyster-cook", (255, 128, 64)))
    until(page, lambda: np.abs(pixels(page) - product(Sitting(), (255, 128, 64))).max() <= 1)
    field = page.get_by_label("Colour, sRGB hex")
    field.fill("#40ff80")
    field.press("Enter")
    until(page, lambda: beside_is("oyster-cook", (64, 255, 128)))
    page.keyboard.press("Tab")
    page.keyboard.press("Tab")
    page.keyboard.press("Shift+U")
    until(page, lambda: beside_is("kite-flyer", (64, 255, 128)))
    page.get_by_role("button", name="Kite flyer: close").click()
    expect(page.locator("canvas.beside")).to_have_count(0)


def test_the_trackers_find_a_real_face(browser: Browser) -> None:
    """scikit-image's photo of an astronaut: her eyes lie in rows 95 to 130, columns 190 to 265 (by sight)."""
    picture = data.astronaut()
    size = len(picture)
    with trackers(browser) as found:
        faces = found.faces(picture)
        mask = found.person(picture)
    assert len(faces) == 1
    points = faces[0] * size
    seen = measure(points)
    assert 190 < seen.places["left eye"][0] < seen.places["right eye"][0] < 265
    assert 95 < seen.places["left eye"][1] < 130
    assert seen.places["chin"][1] > seen.places["lips"][1] > seen.places["nose tip"][1] > seen.places["left eye"][1]
    assert seen.mouth < 0.5
    assert max(seen.blinks) < 0.6
    assert abs(head_pose(points, size, size).angles[0]) < 40
    assert mask[300, 200] > 200
    assert mask[20, 480] < 60
