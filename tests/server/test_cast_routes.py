"""The stand-in camera's files for browsers, against the camera itself."""

from __future__ import annotations

import io

import httpx
import numpy as np
import pytest
from PIL import Image

from sunglaze.core.camera.cameras import colours
from sunglaze.core.camera.cast import LENGTHS, SCRIPTS, Sitting, StandIn
from sunglaze.core.camera.lighting import LIGHTS
from sunglaze.core.camera.people import PEOPLE
from tests.serving import Served

DUSK = {"who": "beekeeper", "script": "open", "light": "shade", "back": "true"}


def get(served: Served, path: str, **query: str) -> httpx.Response:
    return httpx.get(f"{served.address}/api/{path}", params=query, timeout=90)


def picture(answer: httpx.Response) -> np.ndarray:
    assert answer.status_code == 200, answer.text
    return np.asarray(Image.open(io.BytesIO(answer.content))).astype(int)


def test_the_cast_is_listed(served: Served) -> None:
    found = get(served, "cast").json()
    assert [one["key"] for one in found["people"]] == list(PEOPLE)
    assert [one["key"] for one in found["scripts"]] == list(SCRIPTS)
    assert [one["title"] for one in found["lights"]] == [light.title for light in LIGHTS.values()]


@pytest.mark.parametrize(("screen", "size"), [("9:16", (540, 960)), ("16:9", (960, 540))])
def test_frames_and_masks_are_the_cameras(served: Served, screen: str, size: tuple[int, int]) -> None:
    """Masks to the bit; frames but for what a JPEG of whole chroma loses."""
    camera = StandIn(*size, Sitting("beekeeper", "open", "shade", True))
    facts = get(served, "camera/facts", screen=screen, **DUSK).json()
    assert facts == {"width": size[0], "height": size[1], "rate": 30, "frames": LENGTHS["open"]}
    frame = picture(get(served, "camera/frames/12.jpg", screen=screen, **DUSK))
    assert np.abs(frame - colours(camera.frame(12), size[0])).mean() < 2
    hair = picture(get(served, "camera/masks/hair/12.png", screen=screen, **DUSK))
    assert np.array_equal(hair, camera.regions(12, ["hair"])["hair"][..., 0])
    person = picture(get(served, "camera/masks/person/12.png", screen=screen, **DUSK))
    assert np.array_equal(person, camera.frame(12).view(np.uint8).reshape(size[1], -1, 4)[:, : size[0], 3])


def test_faces_differ_and_strangers_are_refused_in_words(served: Served) -> None:
    faces = [picture(get(served, f"cast/faces/{who}.jpg")) for who in PEOPLE]
    assert all(face.shape == (128, 128, 3) for face in faces)
    assert min(np.abs(a - b).mean() for n, a in enumerate(faces) for b in faces[:n]) > 8
    assert "nobody of the cast" in get(served, "cast/faces/lifeguard.jpg").json()["message"]
    assert "no region 'shoes'" in get(served, "camera/masks/shoes/3.png").json()["message"]
    assert get(served, "camera/frames/3.jpg", screen="5:4").status_code == 422
