"""Hands and hair as a real camera's regions: the shipped tracker of hands on the cast; the page's drawing against Python's."""

from __future__ import annotations

import base64
from typing import Any

import cv2
import numpy as np
import pytest
from playwright.sync_api import Browser

from sunglaze.core.camera.cameras import colours
from sunglaze.core.camera.cast import Sitting, StandIn
from sunglaze.core.effect.document import Effect, Layer, LayerMask
from sunglaze.core.effect.literals import Material
from sunglaze.core.face.hair import hair
from sunglaze.core.face.regions import HAIRY, hand_region, region
from sunglaze.core.material.files import encode_png
from sunglaze.core.moment.moment import Reads
from sunglaze.core.package.export import page_files
from sunglaze.parity.gpu import gpu
from sunglaze.realism import DIST, trackers

SIZE = (540, 960)
_DRAW = """async ({ hands, region, faces, picture, person, width, height }) => {
  const { drawHands, drawHair, drawRegions } = await import('/player.js')
  const image = async (text) => createImageBitmap(await (await fetch(`data:image/png;base64,${text}`)).blob())
  const hairy = async () => drawHair(await image(picture), faces, width, height, await image(person))
  const regions = async () => {
    const made = drawRegions([`region:${region}`], faces, width, height, await image(person), await image(picture))
    return made.values().next().value
  }
  const canvas = hands ? drawHands(hands, width, height) : region ? await regions() : await hairy()
  const { data } = canvas.getContext('2d').getImageData(0, 0, width, height)
  let text = ''
  for (let n = 0; n < data.length; n += 4) text += String.fromCharCode(data[n])
  return btoa(text)
}"""


def drawn(browser: Browser, **order: Any) -> np.ndarray:
    """A mask as the page draws it, bytes."""
    width, height = SIZE
    with gpu(browser) as page:
        text = page.evaluate(_DRAW, {"hands": None, "region": None, "width": width, "height": height, **order})
    return np.frombuffer(base64.b64decode(text), np.uint8).reshape(height, width)


def alike(one: np.ndarray, other: np.ndarray) -> float:
    return float((one & other).sum() / (one | other).sum())


def off(one: np.ndarray, other: np.ndarray) -> np.ndarray:
    return np.abs(one.astype(int) - other.astype(int))


def test_hands_are_found_and_drawn_alike_by_both(browser: Browser) -> None:
    camera = StandIn(*SIZE, Sitting("beekeeper", "hands"))
    pixels = np.ascontiguousarray(colours(camera.frame(6), SIZE[0]))
    with trackers(browser) as found:
        hands = found.hands(pixels)
        empty = found.hands(np.full_like(pixels, 90))
    assert len(hands) == 2
    assert empty == []
    ours = hand_region([hand * (*SIZE, SIZE[0]) for hand in hands], SIZE[1], SIZE[0])
    exact = camera.regions(6, ["hands"])["hands"][..., 0] > 127
    assert alike(ours > 127, exact) > 0.7
    assert off(drawn(browser, hands=[hand.tolist() for hand in hands]), ours).max() <= 1


def posed(sitting: Sitting, number: int) -> tuple[np.ndarray, np.ndarray, list[np.ndarray], dict[str, Any]]:
    """Colours, the person, points of faces in pixels, and the same for the page."""
    moment = StandIn(*SIZE, sitting).moment(number, Reads(True, (), True))
    assert moment.picture is not None
    pixels = np.ascontiguousarray(colours(moment.picture, SIZE[0]))
    person = np.ascontiguousarray(moment.picture.view(np.uint8).reshape(SIZE[1], -1, 4)[:, : SIZE[0], 3])
    order = {
        "faces": [face.points.tolist() for face in moment.faces],
        "picture": base64.b64encode(cv2.imencode(".png", pixels[..., ::-1])[1].tobytes()).decode(),
        "person": base64.b64encode(encode_png(np.repeat(person[..., None], 3, axis=2))).decode(),
    }
    return pixels, person, [face.points * (*SIZE, SIZE[0]) for face in moment.faces], order


@pytest.mark.parametrize("name", ["face skin", "eyes", "lips", "teeth", "clothes", "head"])
def test_a_region_is_the_same_in_the_page_as_in_python(browser: Browser, name: str) -> None:
    for sitting, number in ((Sitting("stilt-walker"), 20), (Sitting("ferry-pilot", "two"), 60)):
        pixels, person, faces, order = posed(sitting, number)
        away = off(drawn(browser, region=name, **order), region(name, faces, person, pixels))
        if name in HAIRY:
            # Hair is told on pictures that each makes smaller in its own way.
            assert (away > 40).mean() < 0.01
        else:
            assert away.max() <= 1


def test_hair_is_the_same_in_the_page_as_in_python(browser: Browser) -> None:
    for who in ("stilt-walker", "oyster-cook"):
        pixels, person, faces, order = posed(Sitting(who), 20)
        ours = hair(pixels, faces, person) > 127
        seen = drawn(browser, **order) > 127
        if who == "oyster-cook":
            assert seen.mean() < 0.002
        else:
            assert alike(seen, ours) > 0.95


def test_a_page_carries_the_trackers_that_its_effect_needs_and_no_others() -> None:
    def folders(**mask: Any) -> set[str]:
        layer = Layer(id="f", name="Fill", kind="fill", mask=LayerMask(kind="region", values=mask) if mask else None)
        files = page_files(Effect(name="t", layers=[layer]), Material(), DIST)
        return {name.split("/")[1] for name in files if name.startswith("trackers/")}

    assert folders() == set()
    assert folders(region="hands") == {"hands"}
    assert folders(region="person") == {"selfie_segmentation"}
    assert folders(region="hair") == {"face_mesh", "selfie_segmentation"}
