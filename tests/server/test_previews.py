"""Live previews by their route: of whom they are, how large, and of which nodes; against the camera's own frames and masks."""

from __future__ import annotations

import base64
import io
from typing import Any

import httpx
import numpy as np
import pytest
from PIL import Image

from sunglaze.core.camera.cameras import colours, shrunk
from sunglaze.core.camera.cast import Sitting, StandIn
from tests.serving import previewed

OWN = {
    "id": "own",
    "name": "Own",
    "kind": "own",
    "recipe": {
        "nodes": [
            {"id": "below", "kind": "below"},
            {"id": "hair", "kind": "region", "set": {"region": "hair"}},
            {"id": "half", "kind": "number", "set": {"value": 0.5}},
        ],
        "result": "below.out",
    },
    "mask": {"kind": "circle", "values": {"width": 0.5, "height": 0.5, "soft": 0.0}},
}


def seen(http: httpx.Client, **asked: Any) -> tuple[dict[str, Any], np.ndarray]:
    """What nodes give, and the sheet of their tiles: (tiles, height, width, 3)."""
    effect = {"name": "t", "layers": [OWN], **asked.pop("effect", {})}
    answer = previewed(http, {"effect": effect, "layer": "own", "frame": 20, **asked})
    found = answer.raise_for_status().json()
    sheet = np.asarray(Image.open(io.BytesIO(base64.b64decode(found["sheet"]))).convert("RGB"))
    return found, sheet.reshape(-1, found["height"], found["width"], 3)


def frame_of(sitting: Sitting, size: tuple[int, int], large: tuple[int, int]) -> np.ndarray:
    return colours(shrunk(StandIn(*large, sitting).frame(20), large[0], size), size[0]).astype(int)


@pytest.mark.parametrize(("who", "light"), [("lamp-tender", "noon"), ("oyster-cook", "dusk")])
def test_nodes_show_who_sits_before_the_camera_and_his_regions(http: httpx.Client, who: str, light: str) -> None:
    found, tiles = seen(http, sitting={"who": who, "light": light})
    assert (found["width"], found["height"]) == (90, 160)
    assert found["nodes"]["half"]["words"] == "0.5"
    sitting = Sitting(who, "talk", light)
    below = tiles[found["nodes"]["below"]["tile"]].astype(int)
    assert np.abs(below - frame_of(sitting, (90, 160), (270, 480))).max() <= 1
    mask = StandIn(270, 480, sitting).regions(20, ["hair"])["hair"][..., 0]
    share = (tiles[found["nodes"]["hair"]["tile"]][..., 0] > 127).mean()
    assert share == pytest.approx((mask > 127).mean(), abs=0.01)
    assert bool(share > 0.03) is (who == "lamp-tender")


def test_only_what_is_asked_for_comes_at_the_size_and_shape_that_is_asked_for(http: httpx.Client) -> None:
    found, tiles = seen(http, only=["below"], screen="16:9", short=150)
    assert set(found["nodes"]) == {"below"}
    assert tiles.shape[1:3] == (150, 267)
    assert np.abs(tiles[0].astype(int) - frame_of(Sitting(), (267, 150), (480, 270))).max() <= 1


def test_a_mask_is_seen_white_where_the_layer_shows(http: httpx.Client) -> None:
    found, tiles = seen(http, mask=True, only=["shape"], short=180)
    assert set(found["nodes"]) == {"shape"}
    rows, columns = np.mgrid[0:320, 0:180] + 0.5
    far = np.hypot(columns - 90, rows - 160)
    assert (tiles[0][far < 43] == 255).all()
    assert (tiles[0][far > 47] == 0).all()
    bare = {key: value for key, value in OWN.items() if key != "mask"}
    asked = {"effect": {"name": "t", "layers": [bare]}, "layer": "own", "mask": True}
    assert "has no mask" in http.post("/api/recipes/preview", json=asked).json()["message"]
