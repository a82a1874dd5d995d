"""Effects that arrive as files, and pictures of every kind in every node: on a running server."""

from __future__ import annotations

import base64
import io
import json

import cv2
import httpx
import numpy as np
import pytest
from PIL import Image

from sunglaze.core.colour.cube_file import write_cube
from sunglaze.core.effect.recording import ports
from sunglaze.core.effect.shipped import shipped
from sunglaze.core.nodes.catalogue import CATALOGUE
from tests.grades import random_cube
from tests.server.streaming import FILL
from tests.serving import previewed

RNG = np.random.default_rng(8)
PIXELS = RNG.integers(0, 255, (30, 40, 4), np.uint8)
DEEP = RNG.integers(0, 65535, (30, 40, 4), np.uint16)


def png(pixels: np.ndarray) -> bytes:
    return bytes(cv2.imencode(".png", pixels)[1])


def pillow(mode: str, form: str = "PNG") -> bytes:
    room = io.BytesIO()
    Image.fromarray(PIXELS).convert(mode).save(room, form)
    return room.getvalue()


PICTURES = {
    "RGB": png(PIXELS[..., :3]),
    "RGBA": png(PIXELS),
    "grey": png(PIXELS[..., 0]),
    "grey with alpha": pillow("LA"),
    "palette": pillow("P"),
    "16 bits": png(DEEP[..., :3]),
    "16 bits with alpha": png(DEEP),
    "16 bits grey": png(DEEP[..., 0]),
    "JPEG": pillow("RGB", "JPEG"),
    "GIF": pillow("P", "GIF"),
}


def kept(http: httpx.Client, data: bytes) -> str:
    return str(http.post("/api/pictures", files={"file": ("p", data)}).raise_for_status().json()["hash"])


@pytest.mark.parametrize("what", PICTURES)
def test_every_layer_with_a_picture_previews_with_every_kind_of_it(http: httpx.Client, what: str) -> None:
    """A PNG without alpha in Cut-out or Displace had answered 500, several times a second."""
    key = kept(http, PICTURES[what])
    takes = {kind: port.name for kind, recipe in shipped().items() for port in ports(recipe) if port.kind.name == "asset"}
    assert len(takes) > 4
    for kind, control in takes.items():
        layer = {"id": "l", "name": "L", "kind": kind, "values": {control: key}}
        effect = {"format": "sun-glaze/effect", "version": 5, "name": "t", "layers": [layer]}
        found = previewed(http, {"effect": effect, "layer": "l", "short": 45})
        assert found.status_code == 200, (kind, found.text)
        assert found.json()["faults"] == []


@pytest.mark.parametrize("what", ["RGB", "16 bits grey"])
def test_every_node_previews_with_a_picture_wired_to_it(http: httpx.Client, what: str) -> None:
    key = kept(http, PICTURES[what])
    for kind, entry in CATALOGUE.items():
        nodes = [{"id": "p", "kind": "asset-picture", "set": {"asset": key}}, {"id": "n", "kind": kind}]
        names = [port.name for port in entry.inputs if port.kind.name in ("picture", "colour", "any")]
        if "asset" in {port.kind.name for port in entry.inputs}:
            nodes[1]["set"] = {port.name: key for port in entry.inputs if port.kind.name == "asset"}  # type: ignore[assignment]
        wires = [{"from": "p.out", "to": f"n.{name}"} for name in names]
        recipe = {"nodes": nodes, "wires": wires, "result": "p.out"}
        effect = {"format": "sun-glaze/effect", "version": 5, "name": "t"}
        effect["layers"] = [{"id": "l", "name": "L", "kind": "own", "recipe": recipe}]  # type: ignore[assignment]
        found = previewed(http, {"effect": effect, "layer": "l", "short": 45, "only": ["n"]})
        assert found.status_code == 200, (kind, found.text)


def test_a_package_opens_again_as_an_effect_with_all_that_it_refers_to(http: httpx.Client) -> None:
    cube = http.post("/api/lookups", files={"file": ("c.cube", write_cube(random_cube(3, 4)))}).json()["hash"]
    picture = kept(http, PICTURES["RGBA"])
    state = http.post("/api/effects", json={"name": "Lantern"}).json()
    state["effect"]["layers"] = [
        {"id": "g", "name": "Grade", "kind": "lookup-grade", "values": {"lookup": {"asset": cube}}},
        {"id": "c", "name": "Cut", "kind": "cut-out", "values": {"picture": picture}},
        FILL | {"opacity": 0.4},
    ]
    change = {"base": state["revision"], "gesture": "set up", "effect": state["effect"]}
    http.post(f"/api/effects/{state['id']}/revisions", json=change).raise_for_status()
    code = http.post(f"/api/effects/{state['id']}/publish").raise_for_status().json()["code"]
    package = http.get(f"/api/packages/{code}/download").content
    opened = http.post("/api/effects/import", files={"file": ("lantern.glaze", package)}).raise_for_status().json()
    assert opened["effect"]["name"] == "Lantern"
    assert opened["id"] != state["id"]
    grade, cut, fill = opened["effect"]["layers"]
    assert fill["opacity"] == 0.4
    # The same lookup and picture, under keys of their own.
    assert http.get(f"/api/assets/{grade['values']['lookup']['asset']}").json()["lookup"]["size"] == 4
    again = cv2.imdecode(np.frombuffer(http.get(f"/api/assets/{cut['values']['picture']}/file").content, np.uint8), -1)
    assert np.array_equal(again, cv2.imdecode(np.frombuffer(PICTURES["RGBA"], np.uint8), -1))
    before, after = (http.post("/api/programs", json=one).json() for one in (state["effect"], opened["effect"]))
    old, new = (np.frombuffer(base64.b64decode(one["tables"][0]), "<f4") for one in (before, after))
    assert np.array_equal(old, new)


def test_an_effect_s_document_opens_as_a_new_one(http: httpx.Client) -> None:
    document = http.get("/api/effects/demo-storm-warning/document").content
    answer = http.post("/api/effects/import", files={"file": ("storm.json", document)})
    assert answer.status_code == 201
    opened = answer.json()
    assert opened["effect"] == json.loads(document) | {"version": 5} | opened["effect"]
    assert opened["undo"] is None


@pytest.mark.parametrize(
    ("name", "data", "words"),
    [
        ("map.json", b'{"format": "sun-glaze/recipe"}', "this is a recipe: drop it on the desk"),
        ("list.json", b"[1]", "no effect"),
        ("photo.png", PICTURES["RGB"], "neither an effect's document nor a package"),
        ("torn.glaze", b"PK\x03\x04" + b"0" * 40, "no package"),
        ("old.json", b'{"format": "sun-glaze/effect", "version": 99, "name": "x"}', "update Sun Glaze"),
    ],
)
def test_files_that_are_no_effect_say_what_they_are(http: httpx.Client, name: str, data: bytes, words: str) -> None:
    refused = http.post("/api/effects/import", files={"file": (name, data)})
    assert refused.status_code == 422
    assert refused.json()["message"].startswith(f"{name}: ")
    assert words in refused.json()["message"]
