"""Routes of proof sheets: cells by real worker processes, words, files, states to compare with, and photos of one's own."""

from __future__ import annotations

import base64
import io
import json
from typing import Any

import httpx
import numpy as np
import pytest
from PIL import Image

from sunglaze.core.material.files import encode_png

SHEET = {"down": "who", "across": "light", "who": ["lamp-tender", "oyster-cook"], "light": ["noon"]}


@pytest.fixture
def effect(http: httpx.Client) -> tuple[str, int]:
    state = http.post("/api/effects", json={"name": "Tide line"}).json()
    layer = {"id": "a", "name": "Fog", "kind": "fill", "values": {"colour": "#ffffff"}, "opacity": 0.5}
    state["effect"]["layers"] = [layer]
    change = {"base": state["revision"], "gesture": "Fog", "effect": state["effect"]}
    saved = http.post(f"/api/effects/{state['id']}/revisions", json=change).json()
    return state["id"], saved["kept_as"]


def cell(http: httpx.Client, effect: str, place: dict[str, str], **state: Any) -> dict[str, Any]:
    answer = http.post(f"/api/effects/{effect}/proof/cell", json={"place": place, "state": state})
    answer.raise_for_status()
    return answer.json()


def shown(made: dict[str, Any]) -> np.ndarray:
    data = base64.b64decode(made["print"].removeprefix("data:image/jpeg;base64,"))
    return np.asarray(Image.open(io.BytesIO(data)), float)


def test_cells_words_and_files(http: httpx.Client, effect: tuple[str, int]) -> None:
    key, revision = effect
    place = {"who": "oyster-cook", "light": "noon"}
    now, bare = cell(http, key, place), cell(http, key, place, bare=True)
    assert now["revision"] == revision
    assert now["figures"]["shift"] > 10
    assert bare["figures"]["shift"] < 0.5
    assert np.abs(shown(now) - (shown(bare) + 255) / 2).mean() < 3
    without = cell(http, key, place, without="a")
    assert np.abs(shown(without) - shown(bare)).max() == 0
    before = cell(http, key, place, revision=revision - 1)
    assert before["revision"] == revision - 1
    assert np.abs(shown(before) - shown(bare)).max() == 0
    words = http.post(f"/api/effects/{key}/proof/words", json={"sheet": SHEET}).json()
    skin = next(one["words"] for one in words["said"] if "skin" in one["words"])
    assert "oyster cook's" in skin
    plain = http.post(f"/api/effects/{key}/proof/file?form=json", json={"sheet": SHEET}).json()
    assert [one["who"] for one in plain["cells"]] == ["lamp-tender", "oyster-cook"]
    pdf = http.post(f"/api/effects/{key}/proof/file?form=pdf", json={"sheet": SHEET})
    assert pdf.content.startswith(b"%PDF-")
    png = http.post(f"/api/effects/{key}/proof/file?form=png", json={"sheet": SHEET})
    assert Image.open(io.BytesIO(png.content)).format == "PNG"


def test_a_photo_of_ones_own_is_a_row(http: httpx.Client, effect: tuple[str, int]) -> None:
    room = io.BytesIO()
    Image.new("RGB", (90, 160), (0, 100, 0)).save(room, "PNG")
    asset = http.post("/api/footage", files={"file": ("leaf.png", room.getvalue())}).json()
    made = cell(http, effect[0], {"who": f"own:{asset['hash']}"})
    assert np.abs(shown(made).mean(axis=(0, 1)) - (127, 177, 127)).max() < 4
    assert made["figures"]["shift"] is None
    # Once it was looked through for people, the cell is another.
    blank = base64.b64encode(encode_png(np.zeros((8, 8, 1), np.uint8))).decode()
    http.put(f"/api/footage/{asset['hash']}/tracks/0", json={"mask": blank, "faces": [], "hands": None}).raise_for_status()
    masked = http.get(f"/api/effects/{effect[0]}").json()
    masked["effect"]["layers"][0]["mask"] = {"kind": "region", "values": {"region": "person", "soft": 0.0}}
    change = {"base": masked["revision"], "gesture": "Mask", "effect": masked["effect"]}
    http.post(f"/api/effects/{effect[0]}/revisions", json=change).raise_for_status()
    nobody = cell(http, effect[0], {"who": f"own:{asset['hash']}"})
    assert np.abs(shown(nobody).mean(axis=(0, 1)) - (0, 100, 0)).max() < 4


def test_what_is_not_there_is_said(http: httpx.Client, effect: tuple[str, int]) -> None:
    key, _ = effect
    for place, state, status, words in (
        ({"who": "mermaid"}, {}, 422, "there is no who 'mermaid'; there are lamp-tender"),
        ({"who": "own:nothing"}, {}, 404, "nothing"),
        ({}, {"without": "z"}, 422, "no layer 'z'"),
        ({}, {"revision": 999_999}, 404, "no revision 999999"),
    ):
        answer = http.post(f"/api/effects/{key}/proof/cell", json={"place": place, "state": state})
        assert answer.status_code in (status, 400), json.dumps(answer.json())
        assert words in answer.json()["message"]
    known = http.get("/api/proof").json()
    assert {one["key"] for one in known["presets"]} >= {"everybody", "screens", "distance", "two", "open"}
