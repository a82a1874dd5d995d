"""The artist's own footage through the server's interface: kept, tracked bit by bit, shown by frame, refused where wrong."""

from __future__ import annotations

import base64
import io
from collections.abc import Iterator
from typing import Any

import cv2
import httpx
import numpy as np
import pytest

from sunglaze.core.camera.tracks import read_tracks
from sunglaze.core.material.files import encode_png
from sunglaze.core.moment.moment import read_moment
from tests.footage import clip
from tests.serving import Served

HEIGHT, WIDTH = 96, 72
FACE = [[0.25 + 0.5 * (n % 22) / 21, 0.25 + 0.5 * (n // 22) / 21, 0.0] for n in range(478)]


@pytest.fixture
def http(served: Served) -> Iterator[httpx.Client]:
    with httpx.Client(base_url=served.address, timeout=60) as client:
        yield client


def greys(count: int, first: int = 30) -> list[np.ndarray]:
    return [np.full((HEIGHT, WIDTH, 3), first + 17 * n, np.uint8) for n in range(count)]


def keep(http: httpx.Client, name: str, data: bytes) -> Any:
    return http.post("/api/footage", files={"file": (name, data)})


def left_half(value: int = 255) -> str:
    mask = np.zeros((HEIGHT, WIDTH, 1), np.uint8)
    mask[:, : WIDTH // 2] = value
    return base64.b64encode(encode_png(mask)).decode()


def picture(answer: httpx.Response, flags: int = cv2.IMREAD_COLOR) -> np.ndarray:
    assert answer.status_code == 200, answer.text
    return np.asarray(cv2.imdecode(np.frombuffer(answer.content, np.uint8), flags))


def test_a_clip_is_kept_and_told_what_it_is(http: httpx.Client) -> None:
    data = clip(greys(4, 31), [0.0, 0.2, 0.3, 0.9])
    asset = keep(http, "pier.mp4", data).json()
    facts = asset["footage"]
    assert (facts["width"], facts["height"], facts["pictures"], facts["format"]) == (WIDTH, HEIGHT, 4, "h264")
    assert 0.9 < facts["seconds"] < 1.1
    assert keep(http, "again.mp4", data).json()["hash"] == asset["hash"]
    tracking = http.get(f"/api/footage/{asset['hash']}/tracking").json()
    assert (tracking["tracked"], tracking["pictures"], tracking["next"]) == (0, 4, 0)
    assert tracking["times"] == pytest.approx([0.0, 0.2, 0.3, 0.9], abs=1e-3)
    for number in (3, 0, 2):
        shown = picture(http.get(f"/api/footage/{asset['hash']}/pictures/{number}.jpg"))
        assert shown.shape == (HEIGHT, WIDTH, 3)
        assert abs(int(np.median(shown)) - (31 + 17 * number)) <= 4


def test_what_is_shown_to_trackers_is_no_larger_than_they_need(http: httpx.Client) -> None:
    room = io.BytesIO(encode_png(np.full((1500, 3000, 3), 90, np.uint8)))
    key = keep(http, "wide.png", room.getvalue()).json()["hash"]
    assert picture(http.get(f"/api/footage/{key}/pictures/0.jpg")).shape == (480, 960, 3)


def test_tracks_come_bit_by_bit_and_are_seen_in_every_frame_that_has_them(http: httpx.Client) -> None:
    key = keep(http, "two.mp4", clip(greys(2, 33), [0.0, 1.0])).json()["hash"]
    track = {"mask": left_half(), "faces": [FACE]}
    assert http.put(f"/api/footage/{key}/tracks/1", json=track).status_code == 204
    tracking = http.get(f"/api/footage/{key}/tracking").json()
    assert (tracking["tracked"], tracking["next"]) == (1, 0)
    # The first picture is shown for a second of thirty frames, the second one after it.
    asked = {"own": key, "screen": "3:4"}
    assert http.get("/api/camera/facts", params=asked).json()["frames"] in (30, 31)
    before = picture(http.get("/api/camera/masks/person/10.png", params=asked), cv2.IMREAD_GRAYSCALE)
    after = picture(http.get("/api/camera/masks/person/30.png", params=asked), cv2.IMREAD_GRAYSCALE)
    assert before.shape == (720, 540)
    assert before.min() == 255  # not looked at yet: all is taken for the person
    assert (after[:, :260] == 255).all()
    assert (after[:, 280:] == 0).all()
    assert read_moment(http.get("/api/camera/moments/10", params=asked).json()).faces == ()
    face = read_moment(http.get("/api/camera/moments/30", params=asked).json()).faces[0]
    assert np.allclose(face.points[:, :2], np.array(FACE)[:, :2], atol=2e-3)
    assert not face.hidden.any()
    sky = picture(http.get("/api/camera/masks/sky/30.png", params=asked), cv2.IMREAD_GRAYSCALE)
    assert sky.max() == 0
    assert http.put(f"/api/footage/{key}/tracks/0", json={"mask": left_half(), "faces": []}).status_code == 204
    assert http.get(f"/api/footage/{key}/tracking").json()["next"] is None
    tracks = read_tracks(http.get(f"/api/footage/{key}/tracks.zip").content)
    assert [len(tracks[n].faces) for n in (0, 1)] == [0, 1]
    # Tracking again takes the place of what was.
    http.put(f"/api/footage/{key}/tracks/1", json={"mask": left_half(200), "faces": []})
    assert picture(http.get("/api/camera/masks/person/30.png", params=asked), cv2.IMREAD_GRAYSCALE).max() == 200


@pytest.mark.parametrize(
    ("track", "says"),
    [
        ({"mask": "%%%", "faces": []}, "no base64"),
        ({"mask": base64.b64encode(b"words").decode(), "faces": []}, "no PNG"),
        ({"mask": left_half(), "faces": [FACE[:10]]}, "478 points"),
        ({"mask": left_half(), "faces": [[[0.1, 0.2]] * 478]}, "three numbers"),
        ({"mask": left_half(), "faces": [FACE] * 9}, "faces"),
        ({"faces": []}, "mask"),
    ],
)
def test_wrong_tracks_are_refused_in_words(http: httpx.Client, track: dict[str, Any], says: str) -> None:
    key = keep(http, "one.png", encode_png(greys(1, 40)[0])).json()["hash"]
    answer = http.put(f"/api/footage/{key}/tracks/0", json=track)
    assert answer.status_code == 422
    assert says in answer.json()["message"]
    assert http.get(f"/api/footage/{key}/tracking").json()["tracked"] == 0


def test_places_beyond_the_end_and_unknown_files(http: httpx.Client) -> None:
    key = keep(http, "one.png", encode_png(greys(1, 41)[0])).json()["hash"]
    for answer in (
        http.get(f"/api/footage/{key}/pictures/1.jpg"),
        http.put(f"/api/footage/{key}/tracks/1", json={"mask": left_half(), "faces": []}),
    ):
        assert answer.status_code == 422
        assert "1 pictures" in answer.json()["message"]
    nothing = "0" * 64
    for path in (f"/api/footage/{nothing}/tracking", f"/api/footage/{nothing}/tracks.zip", f"/api/footage/{key}/tracks.zip"):
        assert http.get(path).status_code == 404
    assert http.get("/api/camera/facts", params={"own": nothing}).status_code == 404


@pytest.mark.parametrize("data", [b"", b"RIFF0000AVI ", b"\x00\x00\x00\x18ftypisom" + bytes(200), bytes(range(256)) * 40])
def test_what_cannot_be_played_is_refused_by_name(http: httpx.Client, data: bytes) -> None:
    answer = keep(http, "broken.mp4", data)
    assert answer.status_code == 422
    assert answer.json()["message"].startswith("broken.mp4: ")


def test_a_picture_that_was_given_for_a_layer_may_stand_before_the_camera(http: httpx.Client) -> None:
    """Effects of before clips were taken refer to such pictures."""
    file = encode_png(greys(1, 77)[0])
    key = http.post("/api/pictures", files={"file": ("old.png", file)}).json()["hash"]
    assert http.get(f"/api/footage/{key}/tracking").json()["pictures"] == 1
    shown = picture(http.get("/api/camera/frames/0.jpg", params={"own": key}))
    assert abs(int(np.median(shown)) - 77) <= 2


def test_hands_are_tracked_where_they_are_asked_for(http: httpx.Client) -> None:
    key = keep(http, "hands.png", encode_png(np.full((HEIGHT, WIDTH, 3), 77, np.uint8))).json()["hash"]
    hand = [[0.3, 0.5, 0.0]] * 21
    http.put(f"/api/footage/{key}/tracks/0", json={"mask": left_half(), "faces": []}).raise_for_status()
    assert http.get(f"/api/footage/{key}/tracking").json()["next"] is None
    assert http.get(f"/api/footage/{key}/tracking", params={"hands": True}).json()["next"] == 0
    http.put(f"/api/footage/{key}/tracks/0", json={"mask": left_half(), "faces": [], "hands": [hand]}).raise_for_status()
    assert http.get(f"/api/footage/{key}/tracking", params={"hands": True}).json()["next"] is None
    assert read_tracks(http.get(f"/api/footage/{key}/tracks.zip").content)[0].hands == [hand]
    wrong = http.put(f"/api/footage/{key}/tracks/0", json={"mask": left_half(), "faces": [], "hands": [hand[:5]]})
    assert wrong.status_code == 422
    assert "a hand of a track has 21 points" in wrong.text
