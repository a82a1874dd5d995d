"""What an effect answers to, driven as an artist and a wearer do: sockets, sentences, taps, the score, rehearsals, dials; on the
phone by touch; on a real camera's mouth."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from pathlib import Path

import httpx
import numpy as np
import pytest
from playwright.sync_api import Browser, Locator, Page, expect

from sunglaze.core.camera.cameras import colours
from sunglaze.core.camera.cast import LENGTHS, Sitting, StandIn
from sunglaze.core.effect.compiling import inputs_of_effect
from sunglaze.core.effect.document import Effect, parse_effect
from sunglaze.core.effect.literals import Known, Material
from sunglaze.core.effect.motions import shipped_cue
from sunglaze.core.effect.score import score
from sunglaze.core.effect.shipped import cue_recipes
from sunglaze.core.moment.moment import Reads, write_moment
from sunglaze.core.moment.rehearsal import Finger, Rehearsal, Step
from sunglaze.parity.gpu import gpu
from tests.browser.films import play
from tests.browser.workbench import new_effect, pixels, settle, until
from tests.conftest import VIEWPORT
from tests.serving import Served, serve

WHITE = {"id": "w", "name": "White", "kind": "fill", "values": {"colour": "#ffffff"}}
BY_TAP = {"kind": "cued-switch", "values": {"cue": "tap", "low": 0.0, "high": 1.0, "how": "each time"}}


def document(page: Page, address: str, effect: str) -> Effect:
    with httpx.Client(base_url=address) as http:
        return parse_effect(http.get(f"/api/effects/{effect}").json()["effect"])


def is_white(page: Page, canvas: str = "canvas.picture") -> bool:
    return bool(pixels(page, canvas).min() > 250)


def tap(page: Page, target: Locator) -> None:
    box = target.bounding_box()
    assert box is not None
    page.mouse.click(box["x"] + box["width"] / 2, box["y"] + box["height"] / 3, delay=150)


def plays(page: Page) -> None:
    page.keyboard.press("Space")
    expect(page.locator(".below .word", has_text="Pause")).to_be_visible()


def test_a_layer_answers_to_a_tap(page: Page, address: str) -> None:
    effect = new_effect(page, address, [WHITE])
    page.get_by_label("What drives Shown").select_option("cued-switch")
    settle(page)
    drive = document(page, address, effect).layers[0].drives["layer:on"]
    assert (drive.kind, drive.values["low"], drive.values["high"], drive.values["cue"]) == ("cued-switch", 1.0, 0.0, "tap")
    # The sentence's words are its controls.
    sentence = page.locator(".driven .sentence")
    expect(sentence).to_contain_text("by the cue")
    sentence.get_by_label("How").select_option("while it holds")
    settle(page)
    assert document(page, address, effect).layers[0].drives["layer:on"].values["how"] == "while it holds"
    sentence.get_by_label("How").select_option("each time")
    settle(page)
    assert is_white(page)
    plays(page)
    # Without trying, a click on the picture is no tap.
    tap(page, page.locator(".frame"))
    page.wait_for_timeout(600)
    expect(page.locator(".cue", has_text="Tap")).to_have_text("Tap 0")
    page.keyboard.press("f")
    tap(page, page.locator(".frame"))
    expect(page.locator(".cue", has_text="Tap")).to_have_text("Tap 1")
    until(page, lambda: not is_white(page))
    # Given by hand, where it is said how often it fired.
    page.locator(".cue", has_text="Tap").click()
    until(page, lambda: is_white(page))
    expect(page.locator(".cue", has_text="Tap")).to_have_text("Tap 2")


def test_a_mask_and_a_group_have_switches_of_their_own(page: Page, address: str) -> None:
    mask = {"kind": "circle", "values": {"width": 0.1, "height": 0.1, "soft": 0.0}}
    effect = new_effect(page, address, [{**WHITE, "mask": mask, "group": "g"}], groups=[{"id": "g", "name": "Tide"}])
    page.get_by_role("tab", name=re.compile("Mask")).click()
    page.get_by_label("What drives Counts").select_option("cued-switch")
    settle(page)
    page.get_by_role("tab", name="Controls").click()
    page.get_by_label("What drives Tide").select_option("cued-ramp")
    settle(page)
    saved = document(page, address, effect)
    assert saved.layers[0].drives["layer:mask"].kind == "cued-switch"
    assert saved.groups[0].drives["layer:on"].kind == "cued-ramp"
    page.keyboard.press("Control+z")
    settle(page)
    until(page, lambda: not document(page, address, effect).groups[0].drives)


def test_what_switches_a_group_is_opened_and_rewired(page: Page, address: str) -> None:
    effect = new_effect(
        page, address, [{**WHITE, "group": "g"}],
        groups=[{"id": "g", "name": "Tide", "drives": {"layer:on": {"kind": "pulse", "values": {"low": 0.0, "high": 1.0}}}}],
    )  # fmt: skip
    page.locator(".driven", has_text="Tide").locator(".open").click()
    slip = page.locator(".vue-flow__node").filter(has_text="Pulse")
    # What the node gives is seen on its slip, as for a layer's recipe.
    expect(slip).to_contain_text(re.compile(r"0\.\d"))
    slip.click()
    page.keyboard.press("Shift+ArrowRight")
    until(page, lambda: document(page, address, effect).groups[0].drives["layer:on"].kind == "own")
    drive = document(page, address, effect).groups[0].drives["layer:on"]
    assert drive.recipe is not None
    assert (drive.recipe.name, drive.values) == ("Pulse", {"low": 0.0, "high": 1.0})
    page.get_by_role("tab", name="Controls").click()
    expect(page.locator(".driven", has_text="Tide").locator(".sentence")).to_be_visible()


def test_the_threshold_is_dragged_on_the_score(page: Page, address: str) -> None:
    cue = {
        "id": "mouth-opens",
        "name": "Mouth opens",
        "kind": "mouth-opens",
        "values": {"who": "any", "threshold": 0.3, "band": 0.1},
    }
    drive = {"kind": "cued-switch", "values": {"cue": "mouth-opens", "low": 0.0, "high": 1.0, "how": "while it holds"}}
    effect = new_effect(page, address, [{**WHITE, "drives": {"layer:on": drive}}], cues=[cue])
    plays(page)
    until(page, lambda: int(page.locator(".cue", has_text="Mouth opens").inner_text().split()[-1]) >= 1)
    rule = page.get_by_role("slider", name="Threshold of mouth open")
    box = rule.bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + 8)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] - 60, steps=4)
    page.mouse.up()
    # At the very top nothing passes it.
    until(page, lambda: document(page, address, effect).cues[0].values["threshold"] == 0.8)
    rule.press("ArrowDown")
    until(page, lambda: document(page, address, effect).cues[0].values["threshold"] == pytest.approx(0.792))
    page.keyboard.press("Control+z")
    page.keyboard.press("Control+z")
    until(page, lambda: document(page, address, effect).cues[0].values["threshold"] == 0.3)
    # The strip itself shows the measure: pale pixels on dark.
    until(page, lambda: (pixels(page, ".strip canvas").min(axis=2) > 120).sum() > 100)


def test_what_the_finger_did_is_kept_and_played_again(page: Page, address: str) -> None:
    effect = new_effect(page, address, [{**WHITE, "drives": {"layer:on": BY_TAP}}])
    page.get_by_role("button", name="Rehearse").click()
    expect(page.locator(".side").first).to_have_text("what you do is recorded")
    # As long before the tap as behind it: of a loop of which few pictures are drawn both are seen.
    page.wait_for_timeout(1200)
    tap(page, page.locator(".frame"))
    expect(page.locator(".cue", has_text="Tap")).to_have_text("Tap 1")
    page.wait_for_timeout(1200)
    page.get_by_role("button", name="Stop and keep").click()
    until(page, lambda: document(page, address, effect).rehearsal is not None)
    kept = document(page, address, effect).rehearsal
    assert kept is not None
    assert [step.touch.down for step in kept.steps if step.touch] == [True, False]
    assert 0 < kept.steps[0].frame < kept.steps[-1].frame < kept.frames
    expect(page.locator(".side").first).to_have_text("the rehearsal plays")
    # It is tapped again and again, with no hand.
    until(page, lambda: is_white(page))
    until(page, lambda: not is_white(page))
    until(page, lambda: is_white(page))
    page.keyboard.press("5")
    page.get_by_role("button", name="Forget it").click()
    until(page, lambda: document(page, address, effect).rehearsal is None)


def test_a_recording_that_is_lost_with_the_server_says_so(browser: Browser, tmp_path: Path) -> None:
    """It ends in the middle of it."""
    running = serve(tmp_path)
    context = browser.new_context(viewport=VIEWPORT, base_url=running.address)
    page = context.new_page()
    new_effect(page, running.address, [{**WHITE, "drives": {"layer:on": BY_TAP}}])
    page.get_by_role("button", name="Rehearse").click()
    expect(page.get_by_role("button", name="Stop and keep")).to_be_visible()
    running.stop()
    expect(page.get_by_text("What was recorded is lost")).to_be_visible()
    expect(page.get_by_role("button", name="Rehearse")).to_be_visible()
    context.close()


def test_a_dial_is_made_turned_ordered_and_tried_at_its_ends(page: Page, address: str) -> None:
    effect = new_effect(page, address, [{**WHITE, "opacity": 0.5}])
    page.get_by_label("What drives Opacity").select_option("dial")
    settle(page)
    made = document(page, address, effect)
    assert [(dial.title, dial.start) for dial in made.dials] == [("Opacity", 0.5)]
    assert made.layers[0].drives["layer:opacity"].values["dial"] == made.dials[0].id
    # One step of undo takes both back.
    page.keyboard.press("Control+z")
    until(page, lambda: not document(page, address, effect).dials)
    page.keyboard.press("Control+Shift+z")
    until(page, lambda: len(document(page, address, effect).dials) == 1)
    settle(page)
    assert not is_white(page)
    plays(page)
    page.keyboard.press("0")
    expect(page.locator(".told")).to_have_text("0: dials at zero")
    page.keyboard.press("0")
    until(page, lambda: is_white(page))
    page.keyboard.press("0")
    until(page, lambda: not is_white(page))
    page.keyboard.press("f")
    page.get_by_label("Opacity", exact=True).last.evaluate(
        "(field) => { field.value = 1; field.dispatchEvent(new Event('input')) }"
    )
    until(page, lambda: is_white(page))
    page.keyboard.press("5")
    page.get_by_role("button", name="Add a dial").click()
    page.locator("[data-dial]").nth(1).get_by_label("Title of the dial").fill("Look")
    page.locator("[data-dial]").nth(1).get_by_label("Title of the dial").press("Enter")
    page.locator("[data-dial]").nth(1).get_by_label("What it is").select_option("choice")
    until(page, lambda: [one.kind for one in document(page, address, effect).dials] == ["number", "choice"])
    page.locator("[data-dial]").nth(1).get_by_label("Title of the dial").press("Shift+ArrowUp")
    until(page, lambda: [one.title for one in document(page, address, effect).dials] == ["Look", "Opacity"])
    page.get_by_role("button", name="Remove").nth(1).click()
    until(page, lambda: not document(page, address, effect).layers[0].drives)


def test_on_this_devices_gpu_it_answers_and_is_scored_alike(page: Page, address: str) -> None:
    new_effect(page, address, [{**WHITE, "drives": {"layer:on": BY_TAP}}])
    page.keyboard.press("g")
    plays(page)
    page.keyboard.press("f")
    page.wait_for_selector("canvas.gpu[data-frame]")
    until(page, lambda: not is_white(page, "canvas.gpu"))
    tap(page, page.locator(".frame"))
    expect(page.locator(".cue", has_text="Tap")).to_have_text("Tap 1")
    until(page, lambda: is_white(page, "canvas.gpu"))


# ---- the phone ----
DIALS = [
    {"id": "much", "title": "How much", "start": 0.0, "low": 0, "high": 10, "unit": "x"},
    {"id": "look", "title": "Look", "kind": "choice", "start": 0, "choices": ["Dawn", "Noon"]},
    {"id": "hue", "title": "Hue", "kind": "colour", "start": "#ffffff"},
    {"id": "more", "title": "One too many"},
]
LAYERS = [
    {
        "id": "w", "name": "White", "kind": "fill", "values": {"colour": "#ffffff"},
        "drives": {
            "layer:opacity": {"kind": "dial", "values": {"dial": "much", "low": 0.0, "high": 1.0, "seconds": 0.0}},
            "layer:on": {"kind": "dial-steps", "values": {"dial": "look", "first": 1.0, "second": 0.0}},
            "colour": {"kind": "dial-colour", "values": {"dial": "hue"}},
        },
    },
    {"id": "t", "name": "Tapped", "kind": "fill", "values": {"colour": "#0000ff"}, "drives": {"layer:on": BY_TAP}},
]  # fmt: skip


@pytest.fixture
def phone(browser: Browser, served: Served) -> Iterator[Page]:
    context = browser.new_context(viewport={"width": 390, "height": 800}, has_touch=True, base_url=served.address)
    yield context.new_page()
    context.close()


def test_dials_and_taps_on_the_phone_page_by_touch(phone: Page, page: Page, address: str) -> None:
    effect = new_effect(page, address, LAYERS, dials=DIALS)
    code = page.request.post(f"/api/effects/{effect}/publish").json()["code"]
    phone.goto(f"/p/{code}")
    phone.wait_for_selector("canvas[data-frame]")
    # Three at once, thumb-sized.
    expect(phone.locator(".dial")).to_have_count(3)
    assert all((one.bounding_box() or {"height": 0})["height"] >= 48 for one in phone.locator(".dial").all())
    expect(phone.locator(".dial output")).to_have_text("0 x")
    box = phone.get_by_label("How much").bounding_box()
    assert box is not None
    phone.touchscreen.tap(box["x"] + box["width"] - 3, box["y"] + box["height"] / 2)
    until(phone, lambda: is_white(phone, "canvas.screen"))
    expect(phone.locator(".dial output")).to_have_text("10 x")
    phone.get_by_label("Hue").evaluate("(field) => { field.value = '#ff0000'; field.dispatchEvent(new Event('input')) }")
    until(phone, lambda: pixels(phone, "canvas.screen")[400, 200].tolist() == [255, 0, 0])
    phone.get_by_role("radio", name="Noon").tap()
    until(phone, lambda: pixels(phone, "canvas.screen")[400, 200].tolist() != [255, 0, 0])
    phone.touchscreen.tap(195, 200)
    until(phone, lambda: pixels(phone, "canvas.screen")[400, 200].tolist() == [0, 0, 255])
    # Left alone they fade; a touch brings them back.
    expect(phone.locator(".dials")).to_have_class(re.compile("faded"), timeout=15_000)
    phone.touchscreen.tap(195, 200)
    expect(phone.locator(".dials")).not_to_have_class(re.compile("faded"))


def test_a_freeze_on_the_phone_holds_to_the_bit(phone: Page, page: Page, address: str) -> None:
    effect = new_effect(page, address, [{"id": "f", "name": "Held", "kind": "freeze"}])
    code = page.request.post(f"/api/effects/{effect}/publish").json()["code"]
    phone.goto(f"/p/{code}")
    phone.wait_for_selector("canvas[data-frame]")

    def goes_on(since: int) -> bool:
        return int(phone.locator("canvas").get_attribute("data-frame") or "0") > since + 8

    first, at = pixels(phone, "canvas.screen"), int(phone.locator("canvas").get_attribute("data-frame") or "0")
    until(phone, lambda: goes_on(at))
    assert not np.array_equal(pixels(phone, "canvas.screen"), first)
    phone.touchscreen.tap(195, 200)
    phone.wait_for_timeout(1500)
    held, at = pixels(phone, "canvas.screen"), int(phone.locator("canvas").get_attribute("data-frame") or "0")
    until(phone, lambda: goes_on(at))
    assert np.array_equal(pixels(phone, "canvas.screen"), held)
    phone.touchscreen.tap(195, 200)
    until(phone, lambda: not np.array_equal(pixels(phone, "canvas.screen"), held))


@pytest.mark.slow
def test_a_real_cameras_mouth_opens_and_the_cue_fires(browser: Browser, served: Served, film: Path, page: Page) -> None:
    """The live path: a file as Chromium's camera, the tracker in a worker, measures in the page, the cue, the layer. Someone
    opens the mouth and shuts it, once in three seconds."""
    camera = StandIn(640, 480, Sitting("lamp-tender", "open", "shade", back=True))
    play(film, [picture for n in range(LENGTHS["open"]) for picture in [colours(camera.frame(n), 640)] * 3], 30)
    drive = {"kind": "cued-switch", "values": {"cue": "mouth-opens", "low": 0.0, "high": 1.0, "how": "while it holds"}}
    effect = new_effect(page, served.address, [{**WHITE, "drives": {"layer:on": drive}}])
    code = page.request.post(f"/api/effects/{effect}/publish").json()["code"]
    context = browser.new_context(viewport={"width": 390, "height": 800}, base_url=served.address, permissions=["camera"])
    phone = context.new_page()
    phone.goto(f"/p/{code}")
    phone.wait_for_selector("canvas[data-frame]")
    phone.get_by_role("button", name="My camera").click()
    expect(phone.get_by_role("button", name="Stand-in")).to_be_visible()
    for wanted in (True, False, True):
        until(phone, lambda wanted=wanted: is_white(phone, "canvas.screen") == wanted)
    context.close()


# ---- the player's signals ----
def test_rehearsals_are_equal_on_processor_and_player_over_600_frames(browser: Browser) -> None:
    """Every kind of cue, with a finger, faces that come and go, and cues by hand: to 1e-9 in each of 600 frames."""
    rng = np.random.default_rng(5)
    effect = Effect(name="t", cues=[shipped_cue(kind) for kind in cue_recipes()])
    made = score(effect, Known())
    uniforms = inputs_of_effect(effect, Material()).uniforms
    steps, frame = [], 3
    while frame < 590:
        steps.append(Step(frame=frame, touch=Finger(down=len(steps) % 2 == 0, u=float(rng.random()), v=float(rng.random()))))
        if rng.random() < 0.2:
            steps[-1] = steps[-1].model_copy(update={"cues": ("smile",)})
        frame += int(rng.integers(1, 25))
    rehearsal = Rehearsal(steps=tuple(steps), frames=600)
    cameras = [StandIn(90, 160, Sitting("lamp-tender", script)) for script in ("talk", "two", "edges")]
    moments = [rehearsal.at(cameras[n // 200].moment(n, Reads(False, (), True))) for n in range(600)]
    cells: dict[str, float] = {}
    ours = [[float(value) for value in made.program.run(moment, uniforms, cells)] for moment in moments]
    with gpu(browser) as player:
        script = """async ({ signals, moments, uniforms }) => {
          const { Signals, readMoment } = await import('/player.js')
          const running = new Signals(signals)
          return moments.map((moment) => running.at(readMoment(moment), uniforms))
        }"""
        theirs = player._page.evaluate(
            script,
            {
                "signals": made.program.as_data(), "uniforms": {name: float(value) for name, value in uniforms.items()},
                "moments": [json.loads(json.dumps(write_moment(moment))) for moment in moments],
            },
        )  # fmt: skip
    assert np.abs(np.array(ours) - np.array(theirs)).max() < 1e-9
    fired = np.array(ours)[-1, len(made.lines) + 1 :: 2]
    # All but the back camera's fire at one time or another.
    assert (fired > 0).sum() >= len(cue_recipes()) - 4


def test_what_drives_a_control_is_opened_and_rewired(page: Page, address: str) -> None:
    """The recipe that ships opens; the first change makes it the control's own, and the sentence and its controls stay."""
    pulse = {"kind": "pulse", "values": {"low": 0.0, "high": 1.0, "seconds": 2.0, "how": "smooth"}}
    effect = new_effect(page, address, [{**WHITE, "drives": {"layer:opacity": pulse}}])
    page.locator(".sentence .open").click()
    expect(page.get_by_text("What drives Opacity of White")).to_be_visible()
    slip = page.locator(".vue-flow__node").filter(has_text="Pulse")
    expect(slip).to_be_visible()
    expect(page.locator(".vue-flow__node").filter(has_text="The control")).to_contain_text("number")
    slip.click()
    page.keyboard.press("Shift+ArrowRight")
    settle(page)
    drive = document(page, address, effect).layers[0].drives["layer:opacity"]
    assert drive.kind == "own"
    assert drive.recipe is not None
    assert (drive.recipe.name, drive.values) == ("Pulse", pulse["values"])
    page.get_by_role("tab", name="Controls").click()
    page.locator(".sentence").get_by_label("Seconds, s").fill("4")
    page.locator(".sentence").get_by_label("Seconds, s").press("Enter")
    until(page, lambda: document(page, address, effect).layers[0].drives["layer:opacity"].values["seconds"] == 4)
    page.get_by_role("tab", name="Recipe").click()
    expect(page.locator(".vue-flow__node").filter(has_text="The layer")).to_be_visible()


def test_smoothing_tells_the_share_a_frame_that_people_know(page: Page, address: str) -> None:
    """1 - exp(-1 / (30 s)): the closed form of a first-order lag."""
    follow = {"kind": "face-measure", "values": {"low": 0.0, "high": 1.0, "seconds": 0.316}}
    new_effect(page, address, [{**WHITE, "drives": {"layer:opacity": follow}}])
    expect(page.locator(".sentence").get_by_label("Within, s")).to_have_attribute(
        "title", re.compile(r"as much as 0\.10 of", re.I)
    )


def test_the_workbench_downloads_a_clip(page: Page, address: str) -> None:
    new_effect(page, address, [WHITE])
    page.get_by_role("button", name="Export").click()
    page.get_by_role("menuitem", name="Download a clip").click()
    sheet = page.get_by_role("region", name="A clip of the effect")
    sheet.get_by_label("Seconds").fill("0.5")
    sheet.get_by_label("Short side").select_option("270")
    with page.expect_download() as coming:
        sheet.get_by_role("button", name="Film and download").click()
    assert coming.value.suggested_filename == "Ferry crossing.mp4"
    assert coming.value.path().stat().st_size > 500
    sheet.get_by_label("Seconds").fill("120")
    sheet.get_by_label("Short side").select_option("1080")
    sheet.get_by_role("button", name="Film and download").click()
    sheet.get_by_role("button", name="Cancel").click()
    expect(sheet.get_by_role("button", name="Film and download")).to_be_visible()
