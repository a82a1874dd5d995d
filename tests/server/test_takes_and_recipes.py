"""Routes of takes and history, and of recipes: previews, files, costs, settings."""

from __future__ import annotations

import base64
from typing import Any

import cv2
import httpx
import numpy as np
import pytest

from sunglaze.core.colour.open_lut import open_lut
from sunglaze.core.effect.references import colour_parts
from sunglaze.core.effect.shipped import mask_recipes, shipped
from tests.serving import Served, previewed


@pytest.fixture
def http(served: Served) -> Any:
    with httpx.Client(base_url=served.address, timeout=60) as client:
        yield client


def saved(http: httpx.Client, state: dict[str, Any], gesture: str, **change: Any) -> dict[str, Any]:
    asked = {"base": state["revision"], "gesture": gesture, "effect": state["effect"] | change}
    found: dict[str, Any] = http.post(f"/api/effects/{state['id']}/revisions", json=asked).raise_for_status().json()["state"]
    return found


def test_takes_are_named_kept_and_gone_back_to(http: httpx.Client) -> None:
    first = http.post("/api/effects", json={"name": "Tide table"}).json()
    second = saved(http, first, "Seed 5", seed=5)
    at = f"/api/effects/{first['id']}"
    assert http.post(f"{at}/revisions/{first['revision']}/take", json={"name": "Low water"}).status_code == 204
    steps = http.get(f"{at}/history").json()
    assert [(s["gesture"], s["take"], s["is_head"]) for s in steps] == [
        ("Seed 5", None, True),
        ("New effect", "Low water", False),
    ]
    assert http.get(f"{at}/revisions/{first['revision']}").json()["seed"] == 0
    back = http.post(f"{at}/revisions/{first['revision']}/restore").json()
    assert (back["effect"]["seed"], back["undo"]) == (0, "Back to take 'Low water'")
    undone = http.post(f"{at}/undo").json()
    assert (undone["effect"]["seed"], undone["revision"]) == (5, second["revision"])
    assert http.post(f"{at}/revisions/{first['revision']}/take", json={"name": None}).status_code == 204
    assert not any(s["take"] for s in http.get(f"{at}/history").json())
    other = http.post("/api/effects", json={"name": "Other"}).json()
    refused = http.get(f"{at}/revisions/{other['revision']}")
    assert refused.status_code == 404
    assert "has no revision" in refused.json()["message"]


def test_previews_say_what_every_node_gives(http: httpx.Client) -> None:
    layer = {"id": "l", "name": "Ink", "kind": "ink"}
    effect = {"format": "sun-glaze/effect", "version": 4, "name": "t", "layers": [layer]}
    found = previewed(http, {"effect": effect, "layer": "l", "frame": 12}).raise_for_status().json()
    assert set(found["nodes"]) == {node.id for node in shipped()["ink"].nodes}
    assert found["faults"] == []
    sheet = cv2.imdecode(np.frombuffer(base64.b64decode(found["sheet"]), np.uint8), cv2.IMREAD_COLOR)
    tiles = [view["tile"] for view in found["nodes"].values() if view["tile"] is not None]
    assert sheet.shape == (found["height"] * len(tiles), found["width"], 3)
    assert found["nodes"]["paper"]["words"].startswith("0.965")
    gone = http.post("/api/recipes/preview", json={"effect": effect, "layer": "gone"})
    assert (gone.status_code, gone.json()["message"]) == (422, "the layer is not in the effect (any more)")


def test_recipes_come_and_go_as_files(http: httpx.Client) -> None:
    recipe = http.get("/api/layers/vignette/recipe").raise_for_status().json()
    written = http.post("/api/recipes/materialx", json=recipe).raise_for_status().json()
    assert written["text"].startswith("<?xml")
    again = http.post("/api/recipes/import", files={"file": ("map.mtlx", written["text"])}).raise_for_status().json()
    # The nodes, wires and settings that MaterialX knows come back as they went; what it does not know was named on the way.
    left_out = {words.split(" (")[0] for words in written["notes"]}
    kept = {node["id"]: node for node in recipe["nodes"] if node["kind"] not in left_out}
    came = {node["id"]: node for node in again["recipe"]["nodes"]}
    assert came.keys() <= kept.keys()
    assert len(came) >= 3
    for identity, node in came.items():
        assert node["kind"] == kept[identity]["kind"]
        for name, value in node["set"].items():
            before = kept[identity]["set"][name]
            # Colours go as digits and come back as numbers.
            assert np.allclose(value, colour_parts(before) if isinstance(before, str) else before, atol=1e-5), (identity, name)
    wires = {(wire["from"], wire["to"]) for wire in recipe["wires"]}
    assert {(wire["from"], wire["to"]) for wire in again["recipe"]["wires"]} <= wires
    for name, data in (("torn.json", b"{"), ("torn.mtlx", b"<materialx"), ("table.cube", b"LUT_3D_SIZE 2")):
        refused = http.post("/api/recipes/import", files={"file": (name, data)})
        assert refused.status_code == 422
        assert refused.json()["message"].startswith(f"{name}: ")


def test_the_catalogue_brings_settings_masks_and_costs(http: httpx.Client) -> None:
    found = http.get("/api/catalogue").json()
    assert {mask["kind"] for mask in found["masks"]} == set(mask_recipes())
    glow = next(one for one in found["layers"] if one["kind"] == "glow")
    assert [one["name"] for one in glow["settings"]] == [one.name for one in shipped()["glow"].settings]
    plain = http.get("/api/layers/glow/icon").content
    assert http.get("/api/layers/glow/icon?setting=1").content != plain
    assert http.get("/api/layers/glow/icon?setting=9").status_code == 404
    light, heavy = (http.get(f"/api/layers/{kind}/cost").json() for kind in ("fill", "glow"))
    assert light["passes"] == 1
    assert light["words"].startswith("light")
    assert heavy["passes"] > 3
    assert http.get("/api/layers/sunbeam/cost").status_code == 404


def test_the_grade_of_an_effect_leaves_as_a_lookup(http: httpx.Client) -> None:
    state = http.post("/api/effects", json={"name": "Amber shore"}).json()
    layers = [
        {"id": "a", "name": "Ash", "kind": "black-and-white"},
        {"id": "b", "name": "Mist", "kind": "blur"},
        {"id": "c", "name": "List", "kind": "decision-list", "on": False},
    ]
    change = {"base": state["revision"], "gesture": "set up", "effect": {**state["effect"], "layers": layers}}
    http.post(f"/api/effects/{state['id']}/revisions", json=change).raise_for_status()
    grade = http.get(f"/api/effects/{state['id']}/grade", params={"size": 17}).json()
    assert grade["layers"] == ["Ash"]
    assert grade["left"] == [{"layer": "b", "name": "Mist", "why": "looks at places or neighbours"}]
    assert not grade["is_decision"]
    given = http.get(f"/api/effects/{state['id']}/grade/file", params={"size": 17, "form": "cube", "to": "a"})
    assert given.headers["content-disposition"] == 'attachment; filename="amber-shore.cube"'
    assert open_lut(given.content).lut.size == 17
    refused = http.get(f"/api/effects/{state['id']}/grade/file", params={"form": "cdl"})
    assert refused.status_code == 422
    assert "no colour decision list" in refused.json()["message"]
    as_list = http.get(f"/api/effects/{state['id']}/grade/file", params={"form": "clf"}).content
    brought = http.post("/api/lookups", files={"file": ("shore.clf", as_list)})
    assert brought.json()["lookup"]["found"] == "clf file"
