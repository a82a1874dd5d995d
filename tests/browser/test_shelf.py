"""The shelf as artists use it: a clip becomes dust over the face; what moves plays as it should, here and on exported pages."""

from __future__ import annotations

import io
import json
import re
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import httpx
import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Browser, Locator, Page, expect

from sunglaze.core.camera.cast import StandIn
from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.language.expression import constant
from sunglaze.core.language.moments import moment
from sunglaze.core.language.vector import floor, to_int
from sunglaze.core.material.files import encode_png
from sunglaze.core.material.reels import read_animated, read_zip
from sunglaze.core.moment.moment import Clock, Moment, Screen
from sunglaze.core.nodes.playing import frame_of
from sunglaze.core.passes.signals import SignalProgram
from sunglaze.parity.gpu import Gpu, gpu
from tests.browser.test_phone import phone
from tests.browser.test_saving import HOLD
from tests.browser.workbench import FRAME, SIZE, drop, new_effect, pixels, settle, until
from tests.core.test_lut_picture import pictures
from tests.core.test_sequences import animated, dots, plain, sheet
from tests.engines import shown
from tests.footage import clip
from tests.serving import Served, files_at
from tests.solids import moving

__all__ = ["phone"]


def specks() -> bytes:
    """A clip as a dusty reel gives it: bright dots on black that jump from picture to picture."""
    rng = np.random.default_rng(6)
    pictures = []
    for _ in range(24):
        one = np.zeros((180, 320, 3), np.uint8)
        for _ in range(14):
            x, y = rng.integers(4, 316), rng.integers(4, 176)
            one[y - 3 : y + 3, x - 3 : x + 3] = 250
        pictures.append(one)
    return clip(pictures)


def put(served: Served, name: str, data: bytes) -> dict[str, Any]:
    with httpx.Client(base_url=served.address, timeout=60) as http:
        answer = http.post("/api/shelf", files={"file": (name, data)})
        answer.raise_for_status()
        return dict(answer.json()["piece"]["asset"])


def layers_of(page: Page, effect: str) -> list[dict[str, Any]]:
    layers: list[dict[str, Any]] = page.request.get(f"/api/effects/{effect}").json()["effect"]["layers"]
    return layers


def layer_of(page: Page, effect: str) -> dict[str, Any]:
    return layers_of(page, effect)[-1]


def test_a_clip_takes_the_size_at_which_it_is_used(page: Page, served: Served, tmp_path: Path) -> None:
    """The screen's that is looked at, for what covers it; some pixels a centimetre of a face, in its own shape, for a pin."""
    path = tmp_path / "reel.mp4"
    path.write_bytes(specks())
    view = page.get_by_role("region", name="Make a sequence of reel.mp4")
    used = view.get_by_role("button", name="as it is used")

    def size() -> tuple[float, float]:
        return float(view.get_by_label("Width").input_value()), float(view.get_by_label("Height").input_value())

    new_effect(page, served.address, [{"id": "p", "name": "Pin", "kind": "pin", "values": {"wide": 10.0}}])
    drop(page.locator('[data-control="Picture"]'), path)
    view.get_by_role("button", name="own", exact=True).click()
    wide, tall = size()
    used.click()
    assert size() == (320, round(320 * tall / wide))
    # What hangs on it has a width of its own.
    new_effect(page, served.address, [{"id": "p", "name": "Pin", "kind": "pin-with-pendant", "values": {"small": 5.0}}])
    drop(page.locator('[data-control="Pendant"]'), path)
    used.click()
    assert size()[0] == 160
    new_effect(page, served.address, [{"id": "d", "name": "Dust", "kind": "dust"}])
    drop(page.locator('[data-control="Own dust"]'), path)
    page.get_by_label("Screen", exact=True).select_option("16:9")
    used.click()
    assert size() == (1280, 720)


def test_a_clip_becomes_dust_at_twelve_a_second(page: Page, served: Served, tmp_path: Path) -> None:
    """In one view, by mouse: dropped on the dust's own picture, shaped, used; below 4 MB; seen before it is kept and after."""
    path = tmp_path / "reel.mp4"
    path.write_bytes(specks())
    values = {"specks": 0.0, "scratches": 0.0, "amount": 1.0, "colour": "#ffffff"}
    effect = new_effect(page, served.address, [{"id": "d", "name": "Dust", "kind": "dust", "blend": "screen", "values": values}])
    before = pixels(page)
    drop(page.locator('[data-control="Own dust"]'), path)
    view = page.get_by_role("region", name="Make a sequence of reel.mp4")
    expect(view).to_be_visible()
    # A draft lies over the face before anything is kept.
    until(page, lambda: (pixels(page) - before).max() > 120)
    assert layer_of(page, effect)["values"].get("loop") is None
    view.get_by_role("radio", name="90°").click()
    view.get_by_role("radio", name="clear").click()
    end = view.get_by_role("slider", name="Ends", exact=True)
    box = end.bounding_box()
    assert box
    page.mouse.move(box["x"] + 4, box["y"] + 20)
    page.mouse.down()
    page.mouse.move(box["x"] - 180, box["y"] + 20, steps=4)
    page.mouse.up()
    seconds = float(end.get_attribute("aria-valuenow") or 0)
    assert 0.3 < seconds < 0.75
    expect(view.locator(".form")).to_have_count(5)
    view.get_by_role("button", name="Use it").click()
    expect(view).to_have_count(0)
    settle(page)
    value = layer_of(page, effect)["values"]
    assert value["use"] is True
    assert value["loop"]["rate"] == 12
    facts = page.request.get(f"/api/assets/{value['loop']['asset']}").json()
    assert facts["sequence"]["frames"] == int(seconds * 12 + 1e-6)
    assert (facts["sequence"]["width"], facts["sequence"]["height"]) == (720, 1280)
    assert facts["bytes"] < 4_000_000
    reel = read_zip(page.request.get(f"/api/assets/{value['loop']['asset']}/file").body())
    wanted = Effect(name="d", layers=[Layer.model_validate(layer_of(page, effect))])
    compiled = compile_effect(wanted, Material(sequences={value["loop"]["asset"]: reel.sequence}))
    until(page, lambda: np.abs(pixels(page) - shown(compiled, StandIn(*SIZE), FRAME)).max() <= 1)


def test_a_gif_of_parts_plays_right(page: Page, served: Served, tmp_path: Path) -> None:
    """Dropped on the path, used as a picture: what is seen at a frame is what its times say."""
    path = tmp_path / "walk.gif"
    path.write_bytes(animated("GIF", dots(4), [100, 300, 100, 500], disposal=2))
    effect = new_effect(page, served.address)
    drop(page.locator(".path"), path)
    page.get_by_role("dialog").get_by_role("button", name="Picture", exact=False).filter(has_text="over the whole screen").click()
    settle(page)
    value = layer_of(page, effect)["values"]["picture"]
    assert value["order"] == "loop"
    sequence = read_animated(path.read_bytes()).sequence
    compiled = compile_effect(
        Effect(name="g", layers=[Layer.model_validate(layer_of(page, effect))]), Material(sequences={value["asset"]: sequence})
    )
    until(page, lambda: np.abs(pixels(page) - shown(compiled, StandIn(*SIZE), FRAME)).max() <= 1)
    # Another order, chosen by hand, shows another picture of it.
    page.locator('[data-control="Plays"] select').select_option("backward")
    settle(page)
    assert layer_of(page, effect)["values"]["picture"]["order"] == "backward"
    other = compile_effect(
        Effect(name="g", layers=[Layer.model_validate(layer_of(page, effect))]), Material(sequences={value["asset"]: sequence})
    )
    until(page, lambda: np.abs(pixels(page) - shown(other, StandIn(*SIZE), FRAME)).max() <= 1)


def test_three_hundred_files_dropped_at_once(page: Page, served: Served, tmp_path: Path) -> None:
    paths = []
    for n in range(300):
        paths.append(tmp_path / f"rain_{n:03}.png")
        paths[-1].write_bytes(encode_png(plain(n % 200, (24, 24))))
    paths.append(tmp_path / "page.pdf")
    paths[-1].write_bytes(b"%PDF-1.7")
    new_effect(page, served.address, [{"id": "f", "name": "F", "kind": "fill", "values": {"colour": "#335566"}}])
    drop(page.get_by_role("region", name="Shelf", exact=True), *paths)
    page.get_by_role("searchbox", name="Find a file").fill("rain")
    piece = page.locator("[data-piece]").filter(has_text="rain.zip")
    expect(piece).to_contain_text("300 at 12/s, 24 × 24")
    expect(page.get_by_role("alert")).to_contain_text("page.pdf")
    # Taken off and brought back by the word that stands there.
    piece.hover()
    piece.get_by_role("button", name="More for rain.zip").click()
    page.get_by_role("menuitem", name="Take it off the shelf").click()
    expect(piece).to_have_count(0)
    page.get_by_role("button", name="Bring it back").click()
    expect(piece).to_be_visible()


def test_a_piece_is_dragged_onto_a_control_and_renamed(page: Page, served: Served) -> None:
    asset = put(served, "tassel.png", encode_png(plain(240, (64, 64))))
    effect = new_effect(page, served.address, [{"id": "s", "name": "S", "kind": "sparkle", "blend": "screen"}])
    cells = put(served, "glimmer.png", encode_png(sheet(6, 3, 0)))
    page.reload()
    settle(page)
    page.locator('[data-control="Picture of glints"]').get_by_role("button", name="Choose a picture").click()
    page.get_by_role("menuitem", name="glimmer.png").click()
    settle(page)
    values = layer_of(page, effect)["values"]
    # Its cells are counted, and what follows from them is set along with it.
    assert (values["sheet"], values["glints"], values["down"], values["use"]) == (cells["hash"], 6, 3, True)
    page.keyboard.press("Escape")
    page.keyboard.press("4")
    piece = page.locator("[data-piece]").filter(has_text="tassel.png")
    piece.locator(".title").dblclick()
    page.get_by_label("Name of the file").fill("tassel/gold.png")
    page.get_by_label("Name of the file").press("Enter")
    expect(page.locator(f'[data-piece="{asset["hash"]}"]')).to_contain_text("gold.png")


def striped() -> bytes:
    """Stripes over 512 by 512 pixels, the size of a lookup picture of 64 steps."""
    down = np.arange(512) // 16 % 2
    picture = np.full((512, 512, 3), (210, 200, 180), np.uint8)
    picture[down == 1] = (40, 80, 120)
    return encode_png(picture)


DRAGGED = """(path, hash) => {
    const transfer = new DataTransfer()
    transfer.setData('application/x-sun-glaze-piece', hash)
    for (const kind of ['dragover', 'drop'])
        path.dispatchEvent(new DragEvent(kind, { dataTransfer: transfer, bubbles: true, cancelable: true }))
}"""


def test_what_a_picture_is_taken_for_is_the_artists_choice(page: Page, served: Served, tmp_path: Path) -> None:
    """Stripes had been taken for a lookup, and could be nothing else."""
    stripes, graded = tmp_path / "awning.png", tmp_path / "evening.png"
    stripes.write_bytes(striped())
    graded.write_bytes(encode_png(pictures("strip", 16, np.random.default_rng(8))))
    effect = new_effect(page, served.address)
    drop(page.locator(".path"), stripes)
    offered = page.get_by_role("dialog")
    offered.get_by_role("button", name="Picture").filter(has_text="over the whole screen").click()
    until(page, lambda: [one["kind"] for one in layers_of(page, effect)] == ["picture"])
    # Read as a lookup all the same, and a lookup shown as a picture, from the shelf.
    drop(page.locator(".path"), graded)
    until(page, lambda: [one["kind"] for one in layers_of(page, effect)] == ["picture", "lookup-grade"])
    for name, use, kind in (("awning.png", "a lookup grade", "lookup-grade"), ("evening.png", "picture", "picture")):
        page.keyboard.press("Escape")
        page.keyboard.press("4")
        piece = page.locator("[data-piece]").filter(has_text=name)
        piece.hover()
        piece.get_by_role("button", name="More").click()
        page.get_by_role("menuitem", name=re.compile(f"^Use it: {use}$", re.IGNORECASE)).click()
        until(page, lambda kind=kind: layers_of(page, effect)[-1]["kind"] == kind)
    # Dragged from the shelf, a lookup is a grade first of all.
    hash_ = next(one["values"]["lookup"]["asset"] for one in layers_of(page, effect) if one["kind"] == "lookup-grade")
    page.keyboard.press("Escape")
    page.locator(".path").evaluate(DRAGGED, hash_)
    until(page, lambda: [one["kind"] for one in layers_of(page, effect)].count("lookup-grade") == 3)


def test_a_warning_goes_with_what_it_warns_of(page: Page, served: Served, tmp_path: Path) -> None:
    lossy = tmp_path / "evening.jpg"
    Image.fromarray(pictures("strip", 16, np.random.default_rng(8))).save(lossy, quality=70)
    new_effect(page, served.address)
    drop(page.locator(".path"), lossy)
    warned = page.get_by_text("evening.jpg shows damage")
    expect(warned).to_be_visible()
    # As long as it is used, whatever else is done; the clock of the message stands still while it is pointed at.
    warned.hover()
    settle(page)
    expect(warned).to_be_visible()
    page.keyboard.press("Control+z")
    expect(warned).to_be_hidden()


def test_a_file_that_is_read_while_another_tab_is_open_is_used(page: Page, served: Served, tmp_path: Path) -> None:
    """It had ended on the shelf, unused, without a word."""
    effect = new_effect(page, served.address, [{"id": "p", "name": "Sign", "kind": "picture"}])
    path = tmp_path / "sign.png"
    path.write_bytes(encode_png(plain(90, (64, 64))))
    page.evaluate(HOLD, "/api/shelf")
    drop(page.locator('[data-control="Picture"]'), path)
    page.wait_for_function("() => window.letGo")
    page.get_by_role("tab", name="Mask").click()
    page.evaluate("() => window.letGo()")
    until(page, lambda: layer_of(page, effect)["values"].get("picture"))
    expect(page.locator('[data-control="Picture"]')).to_be_hidden()


@pytest.fixture
def player(browser: Browser) -> Iterator[Gpu]:
    with gpu(browser) as opened:
        yield opened


def test_shuffled_is_the_same_on_phones_over_a_thousand_ticks(player: Gpu) -> None:
    turn = to_int(floor(moment("time") * constant(30.0)))
    program = SignalProgram(tuple(frame_of(turn, constant(n, "int"), "shuffled") for n in (2, 3, 7, 40)))
    moments = [Moment(Clock.at(n), Screen(9, 16)) for n in range(1000)]
    ours = [program.run(one, {}, {}, 0) for one in moments]
    theirs = player._page.evaluate(
        """async ({ data, count }) => {
            const { Signals } = await import('/player.js')
            const signals = new Signals(data, 0)
            const quiet = (n) => ({ clock: { frame: n, seconds: n / 30, delta: 1 / 30, seed: 0 }, dials: {}, faces: [], cues: [],
                screen: { columns: 9, rows: 16, side: 'front' }, touch: { down: false, u: 0.5, v: 0.5, taps: 0 } })
            return Array.from({ length: count }, (_, n) => [...signals.at(quiet(n), {}, quiet)])
        }""",
        {"data": program.as_data(), "count": len(moments)},
    )
    assert [[int(value) for value in row] for row in ours] == [[int(value) for value in row] for row in theirs]


def test_a_loop_moves_and_a_photo_is_chosen_on_the_exported_page(phone: Page, served: Served, tmp_path: Path) -> None:
    """The loop covers the camera, so what is seen is its picture; two pictures of it are decoded at a time. It is slow, so that a
    busy machine that draws twice a second sees all of it."""
    frames = put(served, "loop.gif", animated("GIF", [plain(60 * n, (36, 64)) for n in range(4)], [200] * 4))
    photo = put(served, "stand-in.png", encode_png(np.full((40, 40, 3), (10, 200, 30), np.uint8)))
    wearers = {"wearer": True, "asset": photo["hash"]}
    layers = [
        {"id": "l", "name": "L", "kind": "picture", "values": {"picture": {"asset": frames["hash"], "rate": 2}}},
        {
            "id": "p",
            "name": "P",
            "kind": "picture",
            "opacity": 0.5,
            "values": {"picture": wearers},
        },
    ]
    with httpx.Client(base_url=served.address, timeout=60) as http:
        state = http.post("/api/effects", json={"name": "Loop"}).json()
        state["effect"]["layers"] = layers
        http.post(
            f"/api/effects/{state['id']}/revisions", json={"base": state["revision"], "gesture": "g", "effect": state["effect"]}
        ).raise_for_status()
        page_zip = http.get(f"/api/effects/{state['id']}/page").content
    zipfile.ZipFile(io.BytesIO(page_zip)).extractall(tmp_path / "out")
    assert json.loads((tmp_path / "out" / "program.json").read_text())["sequences"]
    own = tmp_path / "own.png"
    own.write_bytes(encode_png(np.full((50, 30, 3), (250, 0, 250), np.uint8)))
    page = phone
    page.context.grant_permissions(["camera"])
    with files_at(tmp_path / "out") as address:
        page.goto(f"{address}/")
        page.evaluate(SEEN)
        # Half the loop's picture, half the photo: red 0, 60, 120 and 180 of it all come by, at two a second.
        page.wait_for_function(
            """() => {
                const reds = new Set(window.seen.map(([red]) => red * 2 - 10))
                return [0, 60, 120, 180].every((code) => [...reds].some((red) => Math.abs(red - code) <= 3))
            }""",
            timeout=60000,
        )
        page.get_by_role("button", name="Your photo").click()
        page.locator("input[type=file]").set_input_files(own)
        page.evaluate("window.seen = []")
        page.wait_for_function("() => window.seen.some(([r, g, b]) => b > 118)", timeout=60000)


SEEN = """() => {
  window.seen = []
  const canvas = document.querySelector('canvas')
  const spot = Object.assign(document.createElement('canvas'), { width: 1, height: 1 })
  const small = spot.getContext('2d', { willReadFrequently: true })
  const look = () => {
    if (canvas.dataset.frame) {
      small.drawImage(canvas, canvas.width / 2, canvas.height / 2, 1, 1, 0, 0, 1, 1)
      window.seen.push([...small.getImageData(0, 0, 1, 1).data.slice(0, 3)])
    }
    requestAnimationFrame(look)
  }
  look()
}"""


def test_a_group_that_is_kept_is_found_in_another_effect(page: Page, served: Served) -> None:
    group = {
        "format": "sun-glaze/recipe", "version": 1, "name": "Lantern dim",
        "nodes": [{"id": "m", "kind": "multiply", "set": {"b": 0.25}}],
        "inputs": [{"id": "a", "to": ["m.a"]}], "outputs": [{"id": "out", "from": "m.out"}],
    }  # fmt: skip
    recipe = {
        "nodes": [{"id": "b", "kind": "below", "at": [0, 0]}, {"id": "g", "kind": "group:dim", "at": [260, 0]}],
        "wires": [{"from": "b.out", "to": "g.a"}], "result": "g.out", "groups": {"dim": group},
    }  # fmt: skip
    new_effect(page, served.address, [{"id": "o", "name": "Own", "kind": "own", "recipe": recipe}])
    page.keyboard.press("3")
    page.locator('[data-id="g"]').click()
    page.get_by_role("button", name="Keep it").click()
    expect(page.get_by_text("Lantern dim is kept")).to_be_visible()
    other = new_effect(
        page,
        served.address,
        [{"id": "o", "name": "Own", "kind": "own", "recipe": {"nodes": [{"id": "b", "kind": "below"}], "result": "b.out"}}],
    )
    page.keyboard.press("3")
    page.locator('[data-id="b"]').wait_for()
    page.get_by_role("button", name="Find a node").click()
    page.get_by_role("combobox", name="Find a node").fill("lantern dim")
    page.get_by_role("option", name="lantern dim").first.wait_for()
    page.keyboard.press("Enter")
    page.locator('[data-id="lantern-dim"]').wait_for()
    settle(page)
    made = layer_of(page, other)["recipe"]
    assert [node["kind"] for node in made["nodes"]] == ["below", "group:lantern-dim"]
    assert made["groups"]["lantern-dim"]["nodes"][0]["set"]["b"] == 0.25


def test_prints_of_the_showcase_play_when_pointed_at(page: Page, served: Served) -> None:
    with httpx.Client(base_url=served.address, timeout=90) as http:
        package = http.post("/api/effects/demo-low-tide/publish").json()
        for state in ("in review", "taken"):
            http.post(f"/api/packages/{package['code']}/review", json={"state": state}).raise_for_status()
    page.goto("/showcase")
    entry = page.locator(f'[data-code="{package["code"]}"]')
    canvas = f'[data-code="{package["code"]}"] canvas'
    expect(page.locator(canvas)).not_to_be_visible()
    entry.locator(".print").hover()
    expect(page.locator(canvas)).to_be_visible()
    first = pixels(page, canvas)
    assert first.std() > 20
    until(page, lambda: np.abs(pixels(page, canvas) - first).mean() > 0.5)
    page.mouse.move(5, 5)
    expect(page.locator(canvas)).not_to_be_visible()


def test_a_saving_is_taken_and_taken_back(page: Page, served: Served) -> None:
    """One press makes a picture lighter, seen at once; one takes it back; what does not fit is made to."""
    rng = np.random.default_rng(11)
    noise = rng.integers(0, 255, (640, 360, 3)).astype(np.uint8)
    asset = put(served, "grit.png", encode_png(noise))
    effect = new_effect(page, served.address, [{"id": "p", "name": "P", "kind": "picture", "values": {"picture": asset["hash"]}}])
    before = pixels(page)
    page.get_by_role("button", name="in use").click()
    piece = page.locator(f'[data-weighs="{asset["hash"]}"]')
    piece.get_by_role("button", name="What would it weigh?").click()
    expect(piece.locator(".form")).to_have_count(4)
    # What it costs to the eye is laid beside what it was, over the face, before it is taken.
    piece.get_by_role("button", name="See it: half the size").click()
    was, saved = (piece.get_by_role("img", name=name, exact=True) for name in ("as it was", "half the size"))
    expect(saved).to_be_visible()

    def grain(seen: Locator) -> float:
        return float(np.std(np.diff(np.asarray(Image.open(io.BytesIO(seen.screenshot())).convert("L"), float), axis=1)))

    until(page, lambda: grain(was) > 1.4 * grain(saved) > 0)
    piece.get_by_role("button", name="See it: half the size").click()
    expect(saved).not_to_be_visible()
    piece.locator(".form").filter(has_text="half the size").click()
    until(page, lambda: layer_of(page, effect)["values"]["picture"] != asset["hash"])
    settle(page)
    until(page, lambda: np.abs(pixels(page) - before).mean() > 4)
    facts = page.request.get(f"/api/assets/{layer_of(page, effect)['values']['picture']}").json()
    assert facts["saved"]["of"] == asset["hash"]
    assert facts["bytes"] < asset["bytes"] / 4
    page.get_by_role("button", name="Take the saving back").click()
    settle(page)
    until(page, lambda: np.abs(pixels(page) - before).max() == 0)
    page.get_by_role("button", name="Make it fit").click()
    expect(page.get_by_text("It fits as it is.")).to_be_visible()


def test_a_mesh_is_dropped_worn_and_leaves_with_the_page(page: Page, served: Served, tmp_path: Path) -> None:
    """A .glb on the desk becomes a layer at its own size; its handle moves it; one of its motions moves it."""
    file = tmp_path / "bob.glb"
    file.write_bytes(moving())
    identity = new_effect(page, served.address)
    drop(page.locator(".paper"), file)
    page.get_by_role("button", name="Mesh on the head").click()
    settle(page)
    expect(page.locator('[data-control="Longest side"] input.field')).to_have_value("15.5")
    page.get_by_role("button", name="As it is drawn").click()
    settle(page)

    def green() -> np.ndarray:
        seen = pixels(page)
        return np.argwhere((seen[..., 1] > 150) & (seen[..., 0] < 60) & (seen[..., 2] < 60))

    until(page, lambda: len(green()) > 125)
    before = green().mean(axis=0)
    page.locator('[data-control="To the right"] input.field').fill("6")
    page.keyboard.press("Enter")
    settle(page)
    until(page, lambda: green()[:, 1].mean() > before[1] + 20)
    at_bob = green().mean(axis=0)
    page.get_by_role("radiogroup", name="Moves").get_by_role("radio", name="At rest").click()
    settle(page)
    until(page, lambda: np.abs(green().mean(axis=0) - at_bob).max() > 4)
    with zipfile.ZipFile(io.BytesIO(page.request.get(f"{served.address}/api/effects/{identity}/page").body())) as archive:
        assert [name for name in archive.namelist() if name.endswith(".glb")]
